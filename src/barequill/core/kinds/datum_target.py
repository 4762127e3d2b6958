"""Datum targets: a cross or an area on the part, and a circle 4 h across with what it is (ISO 5459)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.datum_target import DatumTarget
from ..geometry import curves2
from ..measuring.context import LayoutContext
from .common.drawn_signs import Placed, placer_of
from .common.hanging import flat_of
from .common.solving import Array, Solved, draw_line

ACROSS = 4.0
"""Lettering heights of the circle."""
CROSS = 0.6
"""Lettering heights of half a cross."""


def solve(sign: DatumTarget, context: LayoutContext) -> Solved:
    """Where a target stands."""
    return placer(sign, context)(sign)


def placer(sign: DatumTarget, context: LayoutContext) -> Callable[[DatumTarget], Solved]:
    """What solves a sign for one place after another."""
    transform = context.view.transform
    scale = transform.scale

    def build(own: DatumTarget, sketch: Sketch, placed: Placed) -> None:
        h, at, sense, hold = placed.style.lettering, placed.at, placed.sense, placed.hold
        radius = ACROSS / 2 * h
        middle = at + [sense * radius, 0.0]
        sketch.stroke(curves2.circle(middle, radius), "sign")
        draw_line(sketch, middle - [radius, 0.0], middle + [radius, 0.0], "sign")
        sketch.text(
            own.size_text,
            middle[0],
            middle[1] + 0.35 * h,
            min(h, 2.6 * h / max(1, len(own.size_text) * 0.75)),
            "middle",
        )
        sketch.text(f"{own.letter}{own.number}", middle[0], middle[1] - 1.35 * h, h, "middle")
        if own.movable:
            # a smaller circle touches it, with the way in which it goes
            small = middle + [sense * (radius + 0.6 * h), 0.0]
            sketch.stroke(curves2.circle(small, 0.6 * h), "sign")
        if hold is None or own.foot is None:
            return
        draw_line(sketch, hold.tip, at)
        if own.line:
            ends = transform.to_sheet(flat_of(context.view.projected, own.foot.ref)[[0, -1]])
            sketch.stroke(curves2.line(ends[0], ends[1]), "adjacent")
            for end in ends:
                _cross(sketch, end, h)
            return
        if not own.area:
            _cross(sketch, hold.tip, h)
            return
        if len(own.area) == 1:
            r = own.area[0] / 2 * scale
            turn = np.linspace(0, 2 * np.pi, 65)
            ring = hold.tip + r * np.c_[np.cos(turn), np.sin(turn)]
            sketch.stroke(curves2.circle(hold.tip, r), "adjacent")
        else:
            a, b = (s / 2 * scale for s in own.area)
            ring = hold.tip + np.array([[-a, -b], [a, -b], [a, b], [-a, b], [-a, -b]])
            sketch.stroke(curves2.polyline(ring), "adjacent")
        sketch.hatch([ring], 45.0, 2.0)

    return placer_of(sign, context, build, arrow=False)


def _cross(sketch: Sketch, at: Array, h: float) -> None:
    for way in (np.array([1.0, 1.0]), np.array([1.0, -1.0])):
        draw_line(sketch, at - CROSS * h * way, at + CROSS * h * way, "sign")
