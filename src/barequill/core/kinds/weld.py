"""Welds: an arrow, a reference line, the signs of both sides (ISO 2553)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.weld import Weld, WeldSide
from ..geometry import curves2
from ..measuring.context import LayoutContext
from .common.drawn_signs import Placed, placer_of
from .common.solving import Array, Solved, draw_line

WIDE = 1.6
"""Lettering heights of a sign."""
APART = 0.5
"""Lettering heights between the reference line and the dashed one."""
GAP = 0.4


def solve(weld: Weld, context: LayoutContext) -> Solved:
    """Where a weld is told."""
    return placer(weld, context)(weld)


def placer(weld: Weld, context: LayoutContext) -> Callable[[Weld], Solved]:
    """What solves a weld for one place after another."""
    return placer_of(weld, context, _build)


def _build(weld: Weld, sketch: Sketch, placed: Placed) -> None:
    at, sense = placed.at, placed.sense
    h = placed.style.lettering
    sides = [s for s in (weld.near, weld.other) if s is not None]
    # one without a form on either side is an empty sign, as one may be left for the works to fill in
    before = max((text_width(s.before, h) for s in sides), default=0.0)
    behind = max((text_width(s.behind, h) for s in sides), default=0.0)
    wide = (1.4 + WIDE + 3 * GAP) * h + before + behind
    left = at[0] if sense > 0 else at[0] - wide
    start, end = np.array([left, at[1]]), np.array([left + wide, at[1]])
    draw_line(sketch, start, end)
    # in system A a dashed line tells the other side; in B the arrow's side is below the line
    dashed = weld.system == "A" and weld.near != weld.other
    if dashed:
        down = np.array([0.0, -APART * h])
        sketch.stroke(curves2.line(start + down, end + down), "hidden")
    x = left + 1.2 * h + before + GAP * h
    for side, up in _sides(weld):
        level = at[1] - (APART * h if dashed and not up else 0.0)
        aside = 0.6 * h if weld.staggered and not up else 0.0
        _sign(sketch, side, np.array([x + aside, level]), h, 1.0 if up else -1.0)
        foot = level + (0.3 * h if up else -1.3 * h)
        sketch.text(side.before, x - GAP * h, foot, h, "end")
        sketch.text(side.behind, x + aside + (WIDE + GAP) * h, foot, h)
    if weld.staggered:
        draw_line(sketch, np.array([x + WIDE * h, at[1] + h]), np.array([x + WIDE * h + 0.6 * h, at[1] - h]), "sign")
    if weld.all_round:
        sketch.stroke(curves2.circle(at, 0.5 * h), "sign")
    if weld.on_site:
        top = at + [0.0, 2.4 * h]
        draw_line(sketch, at, top, "sign")
        sketch.fill(np.array([top, top - [0.0, 0.9 * h], top + [sense * 1.1 * h, -0.45 * h]]))
    if weld.tail:
        far, out = (end, 1.0) if sense > 0 else (start, -1.0)
        fork = [far + [out * 0.8 * h, 0.8 * h], far, far + [out * 0.8 * h, -0.8 * h]]
        sketch.stroke(curves2.polyline(np.array(fork)), "sign")
        sketch.text(weld.tail, far[0] + out * 1.1 * h, far[1] - h / 2, h, "start" if out > 0 else "end")


def _sides(weld: Weld) -> list[tuple[WeldSide, bool]]:
    """Both sides, and whether each stands above the reference line."""
    near_up = weld.system == "A"
    found = []
    if weld.near is not None:
        found.append((weld.near, near_up))
    if weld.other is not None:
        found.append((weld.other, not near_up))
    return found


def _sign(sketch: Sketch, side: WeldSide, foot: Array, h: float, up: float) -> None:
    """The basic sign on a line (``foot``: its left end there), above (+1) or below it (-1), and how its face is to be."""
    w = WIDE * h

    def p(x: float, y: float) -> Array:
        return np.asarray(foot + [x * w, up * y * w])

    def stroke(*points: tuple[float, float]) -> None:
        sketch.stroke(curves2.polyline(np.array([p(*q) for q in points])), "sign")

    def arc(x: float, y: float, radius: float, low: float, high: float) -> None:
        a = np.radians(np.linspace(low, high, 25))
        stroke(*((x + radius * np.cos(t), y + radius * np.sin(t)) for t in a))

    match side.form:
        case "fillet":
            stroke((0.1, 0.0), (0.1, 0.9), (0.95, 0.0), (0.1, 0.0))
        case "square":
            stroke((0.35, 0.0), (0.35, 0.8))
            stroke((0.65, 0.0), (0.65, 0.8))
        case "V":
            stroke((0.05, 0.8), (0.5, 0.0), (0.95, 0.8))
        case "bevel":
            stroke((0.3, 0.8), (0.3, 0.0), (0.9, 0.8))
        case "Y":
            stroke((0.05, 0.9), (0.5, 0.35), (0.95, 0.9))
            stroke((0.5, 0.35), (0.5, 0.0))
        case "half Y":
            stroke((0.3, 0.9), (0.3, 0.0))
            stroke((0.3, 0.35), (0.9, 0.9))
        case "U":
            arc(0.5, 0.75, 0.4, 180, 360)
            stroke((0.5, 0.35), (0.5, 0.0))
        case "J":
            stroke((0.3, 0.85), (0.3, 0.0))
            arc(0.3, 0.75, 0.45, 270, 360)
        case "plug":
            stroke((0.05, 0.0), (0.05, 0.6), (0.95, 0.6), (0.95, 0.0))
        case "spot":
            arc(0.5, 0.0, 0.4, 0, 360)
        case "seam":
            arc(0.5, 0.0, 0.4, 0, 360)
            for y in (-0.15, 0.15):
                stroke((-0.05, y), (1.05, y))
        case "edge":
            for x in (0.2, 0.5, 0.8):
                stroke((x, 0.0), (x, 0.8))
        case "flange":
            arc(0.05, 0.4, 0.4, -90, 0)
            arc(0.95, 0.4, 0.4, 180, 270)
        case "surfacing":
            arc(0.25, 0.0, 0.25, 0, 180)
            arc(0.75, 0.0, 0.25, 0, 180)
    top = 1.05
    if side.shape == "flat":
        stroke((0.1, top), (0.9, top))
    elif side.shape:
        heights = [
            top + 0.15 * (1 - (2 * t - 1) ** 2) * (1 if side.shape == "convex" else -1) for t in np.linspace(0, 1, 13)
        ]
        stroke(*zip(np.linspace(0.1, 0.9, 13).tolist(), heights, strict=True))
