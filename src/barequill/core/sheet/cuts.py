"""Cuts as display lists: hatched cut faces, cutting lines with arrows and letters, and what sections are called."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..display import Mark, Region, Sketch, Text
from ..display.lettering import text_width
from ..drawing import Drawing, HatchChoice, SectionView, View
from ..geometry import curves2
from ..geometry.planar import polygons_of, rings_of
from ..kinds.common.solving import draw_letter, draw_sight_arrow
from ..measuring.style import Style
from ..part.chosen import body_names, body_nodes
from ..part.model import Part
from ..standards.hatching import ANGLES, SPACINGS, THIN, pattern_of, spacing_for
from ..values import value
from ..views.conventions import NONE, Conventions
from ..views.cutting_lines import left_of, run_of, stretches_of
from ..views.placed_view import PlacedView

Array = NDArray[np.float64]
BEYOND = 7.0
"""mm that a cutting line reaches beyond its view."""
WIDE, TURN = 8.0, 4.0
"""mm of its wide strokes at its ends, and to either side of a corner."""
SHAFT = 9.0
"""mm of an arrow's shaft."""
SPECK = 1e-4
"""mm² on the sheet up to which a region is none."""
GAP = 0.7
"""mm of white between the filled cuts of two bodies."""
CLEAR = 0.8
"""mm that hatch keeps from lettering and arrows."""


# ---- hatch


@dataclass(frozen=True)
class HatchLook:
    """How a body's cut faces are hatched."""

    angle: float
    spacing: float
    pattern: str
    off: bool


@lru_cache(maxsize=8)
def _looks(part: Part) -> dict[str, tuple[float, float, float]]:
    """For each body, by name, an angle that none of its neighbours has, a factor of its spacing, and how thick it is in
    the mean (mm)."""
    names = body_names(part)
    boxes = []
    for body in range(len(part.bodies)):
        nodes = body_nodes(part, body)
        points = nodes if len(nodes) else np.zeros((1, 3))
        boxes.append((points.min(axis=0), points.max(axis=0)))
    near = 1e-3 * part.size
    found: list[tuple[float, float]] = []
    for k, (low, high) in enumerate(boxes):
        taken = {found[j] for j, (a, b) in enumerate(boxes[:k]) if (low <= b + near).all() and (high >= a - near).all()}
        choices = [(angle, factor) for factor in SPACINGS for angle in ANGLES]
        found.append(next((c for c in choices if c not in taken), choices[0]))
    sizes = [2 * b.volume / max(b.area, 1e-9) for b in part.bodies]
    return {n: (a, f, s) for n, (a, f), s in zip(names, found, sizes, strict=True)}


def hatch_look(drawing: Drawing, view: View, part: Part, body: str) -> HatchLook:
    """How a body is hatched in a view: as chosen there, else for the drawing, else so that neighbours differ."""
    angle, factor, size = _looks(part).get(body, (45.0, 1.0, 0.0))
    chosen: dict[str, Any] = {}
    for choice in (_choice(drawing.hatches, body), _choice(view.hatches, body)):
        if choice is not None:
            chosen |= {k: v for k, v in choice.model_dump(exclude={"body"}).items() if v is not None}
    spacing = factor * spacing_for(size * drawing.main_scale(view.id))
    pattern = str(chosen.get("pattern", "general"))
    if pattern == "material":
        use, names = drawing.part(view.part), body_names(part)
        own = part.bodies[names.index(body)].material if body in names else None
        pattern = pattern_of((use.material if use is not None else "") or own or "")
    return HatchLook(
        float(chosen.get("angle", angle)),
        float(chosen.get("spacing", spacing)),
        pattern,
        bool(chosen.get("off", False)),
    )


def _choice(choices: Iterable[HatchChoice], body: str) -> HatchChoice | None:
    return next((c for c in choices if c.body == body), None)


def keeping_clear(marks: Iterable[Mark]) -> list[Array]:
    """Outlines (n, 2) of lettering and arrows."""
    found = []
    for mark in marks:
        if isinstance(mark, Text):
            found.append(mark.corners())
        elif isinstance(mark, Region) and len(mark.rings[0]) == 3:
            found.append(mark.rings[0])
    return found


def draw_hatch(
    sketch: Sketch, drawing: Drawing, placed_view: PlacedView, clear: list[Array], instead: Conventions = NONE
) -> None:
    """Hatch the cut faces of a view (with its zero at the sheet's), but for where something is to be read; threads that are
    shown by lines ``instead`` as if they had no grooves."""
    projected = placed_view.projected
    masks = [shapely.Polygon(c).buffer(CLEAR, join_style="mitre") for c in clear]
    filled: list[tuple[str, Any]] = []
    for region in projected.taken.regions:
        look = hatch_look(drawing, placed_view.view, projected.whole, region.body)
        if look.off:
            continue
        whole = instead.filled(region.body, [r - projected.centre for r in region.rings])
        for area in (a for rings in whole for a in placed_view.transform.areas(rings)):
            shape = area.simplify(2e-3)
            if not shape.is_valid:
                shape = shape.buffer(0)
            if 2 * shape.area < THIN * shape.length:
                filled.append((region.body, shape))
                continue
            near = [m for m in masks if m.intersects(shape)]
            if near:
                shape = shape.difference(shapely.union_all(near))
            for g in polygons_of(shape, SPECK):
                sketch.hatch(rings_of(g), look.angle, look.spacing, look.pattern)
    for shape in _told_apart(filled):
        for g in polygons_of(shape, SPECK):
            sketch.fill(*rings_of(g))


def _told_apart(filled: list[tuple[str, Any]]) -> list[Any]:
    """Thin cuts that are filled, with a white gap between those of two bodies (ISO 128-3)."""
    found = []
    for body, shape in filled:
        # of one that is thinner than the gap something is left
        give = min(GAP / 2, 0.3 * 2 * shape.area / max(shape.length, 1e-9))
        beside = [s for b, s in filled if b != body and s.distance(shape) < GAP / 2]
        found.append(shape.difference(shapely.union_all(beside).buffer(give)) if beside else shape)
    return found


# ---- cutting lines


@value
class Marking:
    """A cutting line on its view, in sheet mm from the view's zero: its corners, the directions outward at both ends, and
    the way of looking there (2, 2); how it is ``marked``; the place of each corner's handle (n, 2)."""

    points: Array
    handles: Array
    looks: Array
    marked: str
    loose: tuple[int, ...]


def marking_of(view: SectionView, parent: PlacedView) -> Marking:
    """Where the line of a section runs on its view."""
    place = np.array(view.place) - parent.transform.place
    part = parent.projected.whole
    run = run_of(view.line, parent.projected.frame, part)
    transform = parent.still().transform
    handles = transform.stands(run.points)
    stretches = stretches_of(run.points)
    legs = [transform.direction(s.along) for s in stretches]
    looks = np.array([view.side * left_of(legs[0]), view.side * left_of(legs[-1])])
    points = handles.copy()
    hull = parent.still().hull
    begin, end = view.line.ends
    marked = view.marked
    if marked == "auto":
        beside = abs(float((place - handles[0]) @ looks[0])) < 1.0
        marked = "line" if view.within or (view.bare and beside) else "full"
    reach = BEYOND if marked == "full" else 3.0
    for k, (leg, how) in enumerate(((-legs[0], begin), (legs[-1], end))):
        row = 0 if k == 0 else -1
        if how == "through":
            far = float((hull @ leg).max()) + reach
            if marked == "line" and view.bare:
                # as far as the section that stands beside
                far = max(far, float(place @ leg))
            inner = float(points[1 if k == 0 else -2] @ leg)
            points[row] = points[row] + (max(far, inner + 1.0) - float(points[row] @ leg)) * leg
    if marked == "full" and "half" in (begin, end) and len(stretches) == 1:
        # from the centre the line turns toward the viewer, out of the view
        at = handles[0] if begin == "half" else handles[-1]
        out = -looks[0]
        corner = at + max(float((hull @ out).max()) + reach - float(at @ out), reach) * out
        points = np.concatenate([[corner], points]) if begin == "half" else np.concatenate([points, [corner]])
    return Marking(points, handles, looks, marked, run.loose)


def draw_cutting_line(
    sketch: Sketch, style: Style, marking: Marking, view: SectionView, taken: Sequence[Array] = (), beyond: str = ""
) -> None:
    """The line of a section with its wide ends and corners, arrows and letters; these go outward until they are clear of
    what is ``taken`` (boxes of lettering), but for those that a hand has put somewhere. ``beyond``: what is written behind them."""
    p = marking.points
    if marking.marked == "off":
        return
    if marking.marked == "line":
        for a, b in zip(p, p[1:], strict=False):
            sketch.stroke(curves2.line(a, b), "cutting")
        return
    steps = np.diff(p, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    for k, (a, step, length) in enumerate(zip(p, steps, lengths, strict=False)):
        if length < 1e-6:
            continue
        way = step / length
        if style.cutting_line == "wide":
            sketch.stroke(curves2.line(a, a + step), "cutting-end")
            continue
        head, tail = (WIDE if k == 0 else TURN), (WIDE if k == len(steps) - 1 else TURN)
        if head + tail >= length:
            sketch.stroke(curves2.line(a, a + step), "cutting-end")
            continue
        sketch.stroke(curves2.line(a, a + head * way), "cutting-end")
        if style.cutting_line == "chain":
            sketch.stroke(curves2.line(a + head * way, a + (length - tail) * way), "cutting")
        sketch.stroke(curves2.line(a + (length - tail) * way, a + step), "cutting-end")
    places = letter_places(style, marking, view)
    for k, (place, look) in enumerate(zip(places, marking.looks, strict=True)):
        away = look if style.level else -look
        _letter(
            sketch=sketch,
            style=style,
            view=view,
            end=k,
            place=place,
            away=away,
            beyond_line=place - places[1 - k],
            taken=taken,
            beyond=beyond,
        )
        if view.line.ends[k] == "half":
            continue
        tip = p[0] if k == 0 else p[-1]
        tail = tip + away * SHAFT
        ends = (tip, tail) if style.level else (tail, tip)
        draw_sight_arrow(sketch, style, *ends, look)


def letter_places(style: Style, marking: Marking, view: SectionView) -> Array:
    """Where the middles of both letters stand (2, 2) by themselves, sheet mm from the view's zero."""
    found, height = [], style.lines.caption
    for k, look in enumerate(marking.looks):
        tip = marking.points[0] if k == 0 else marking.points[-1]
        away = look if style.level else -look
        at_corner = view.line.ends[k] == "half"
        found.append(tip - look * (height * 0.9) if at_corner else tip + away * (SHAFT + height * 0.9))
    return np.array(found)


def _letter(
    sketch: Sketch,
    style: Style,
    view: SectionView,
    end: int,
    place: Array,
    away: Array,
    beyond_line: Array,
    taken: Sequence[Array],
    beyond: str,
) -> None:
    """The letter at an end of a line with its middle at a place, read from below."""
    height, off, letter = style.lines.caption, view.letters_off[end], view.letter + beyond
    # what is longer than a letter begins where that would
    place = place + away * abs(float(away[0])) * (text_width(letter, height) - text_width(view.letter, height)) / 2
    at = place if off is None else place + off
    if off is None and len(taken):
        boxes = shapely.polygons(list(taken))
        half = np.array([text_width(letter, height) / 2, height / 2]) + 0.6
        # what is longer than a letter goes aside as well, rather beyond the end of the line than over the view
        across = np.array([-away[1], away[0]]) * height * 1.6
        across *= 1.0 if float(across @ beyond_line) >= 0 else -1.0
        asides = (0, 1, 2, 3, -1) if beyond else (0,)
        ways = [(step, k) for step in np.arange(0.0, 30.0, 1.0) for k in asides]
        for step, k in sorted(ways, key=lambda w: w[0] + (8.0 * w[1] if w[1] >= 0 else 40.0)) if beyond else ways:
            at = place + step * away + k * across
            if not shapely.intersects(shapely.box(*(at - half), *(at + half)), boxes).any():
                break
    draw_letter(sketch, letter, at, height)


def marked_now(view: SectionView, placed_views: dict[str, PlacedView]) -> str:
    """How the place of a section's cut is marked where it stands now."""
    parent = placed_views.get(view.parent)
    if parent is None:
        return "full" if view.marked == "auto" else view.marked
    return marking_of(view, parent).marked


def section_caption(view: SectionView, standard: str) -> str:
    """What stands above a section."""
    pair = f"{view.letter}–{view.letter}" if view.letter else ""
    return f"SECTION {pair}" if standard == "ASME" and pair else pair


__all__ = [
    "HatchLook",
    "Marking",
    "draw_cutting_line",
    "draw_hatch",
    "hatch_look",
    "keeping_clear",
    "letter_places",
    "marked_now",
    "marking_of",
    "section_caption",
]
