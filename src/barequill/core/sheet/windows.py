"""What tells at a view that pieces of it are enlarged elsewhere, or from where it is looked at: rings and arrows with
letters."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing import AuxiliaryView, DetailView, ProjectedView, View
from ..geometry import curves2
from ..kinds.common.solving import draw_letter, draw_sight_arrow
from ..measuring.style import Style
from ..views.cutting_lines import left_of
from ..views.placed_view import PlacedView
from ..views.view_transform import Array
from ..views.windows import middle_of, shape_of

ROUND = [45, 135, -45, -135, 20, 160, 70, 110, -20, -160, -70, -110, 0, 180, 90, -90]
"""Degrees about a ring at which its letter is tried, in this order."""
ON_LINE = 0.5
"""mm on the sheet up to which a view counts as in line with its parent."""
ARROW_OFF, SHAFT = 5.0, 12.0
"""mm from the part to the tip of an arrow of sight, and of its length."""


def ring_of(view: DetailView, parent: PlacedView) -> tuple[Array, Array]:
    """The centre (2,) and corners (n, 2) of a detail's outline on its parent, sheet mm from the parent's zero."""
    part, transform = parent.projected.whole, parent.still().transform
    middle = middle_of(view.outline, parent.projected.frame, part)
    centre = transform.to_sheet(middle[None])[0]
    corners = (np.array(shape_of(view.outline)) * transform.scale) @ transform.matrix
    return centre, corners + centre


def draw_ring(
    sketch: Sketch,
    style: Style,
    view: DetailView,
    parent: PlacedView,
    taken: Sequence[Array],
    own: PlacedView | None,
    beyond: str = "",
) -> None:
    """The outline of a detail on its parent with its letter, clear of lines and of what is ``taken`` (boxes of lettering);
    and the line to the detail where it has one. ``beyond``: what is written behind the letter."""
    centre, corners = ring_of(view, parent)
    scale = parent.scale
    if view.outline.form == "round" and abs(view.outline.half[0] - view.outline.half[1]) < 1e-9:
        sketch.stroke(curves2.circle(centre, view.outline.half[0] * scale), "limit")
    else:
        sketch.stroke(curves2.polyline(np.concatenate([corners, corners[:1]])), "limit")
    if view.letter:
        _letter_beside(
            sketch=sketch,
            style=style,
            letter=view.letter + beyond,
            centre=centre,
            corners=corners,
            parent=parent,
            taken=taken,
        )
    if view.leader and own is not None:
        there = own.hull - parent.transform.place
        way = there.mean(axis=0) - centre
        way = way / max(float(np.linalg.norm(way)), 1e-9)
        start = centre + way * _reach(corners - centre, way)
        end = there.mean(axis=0) - way * _reach(there - there.mean(axis=0), -way)
        if float((end - start) @ way) > 1.0:
            sketch.stroke(curves2.line(start, end), "limit")


def _reach(corners: Array, way: Array) -> float:
    """How far from zero the outline through corners (n, 2) goes along a unit direction."""
    ray = shapely.LineString([(0.0, 0.0), tuple(way * 1e5)])
    met = shapely.get_coordinates(ray.intersection(shapely.LinearRing(corners)))
    return float((met @ way).max()) if len(met) else 0.0


def _letter_beside(
    sketch: Sketch, style: Style, letter: str, centre: Array, corners: Array, parent: PlacedView, taken: Sequence[Array]
) -> None:
    """A letter just outside an outline, where no line and no lettering is."""
    height = style.lines.caption
    half = np.array([text_width(letter, height) / 2, height / 2])
    transform, lines = parent.still().transform, parent.projected.strings.lines
    boxes = shapely.polygons(list(taken)) if len(taken) else np.zeros(0, object)
    best, least = None, np.inf
    for degrees in ROUND:
        way = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])
        at = centre + way * (_reach(corners - centre, way) + 1.2) + np.sign(np.round(way, 6)) * half
        box = at + (half + 0.6) * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
        met = float(shapely.intersects(shapely.Polygon(transform.from_sheet(box)), lines).sum())
        met += 5.0 * float(shapely.intersects(shapely.Polygon(box), boxes).sum())
        if met < least:
            best, least = at, met
        if met == 0:
            break
    assert best is not None
    draw_letter(sketch, letter, best, height)


def sight_of(view: View, own: PlacedView, parent: PlacedView, apart: bool = False) -> Array | None:
    """The way (2,) from which a view is looked at on its parent, on the sheet; None where it needs no arrow: in its line,
    without a letter, or not square to its parent. ``apart``: it stands on another sheet."""
    if not isinstance(view, AuxiliaryView | ProjectedView) or not view.letter:
        return None
    marked = view.marked if isinstance(view, AuxiliaryView) else "auto"
    if marked == "off":
        return None
    seen, toward = parent.projected.view, own.projected.view.toward
    d = np.array([toward @ seen.right, toward @ seen.up])
    length = float(np.linalg.norm(d))
    if length < 1e-6:
        return None
    d = parent.transform.direction(d / length)
    off = np.array(own.transform.place) - parent.transform.place
    if (
        marked == "auto"
        and view.tied
        and not apart
        and not own.transform.turn
        and abs(float(off @ left_of(d))) < ON_LINE
    ):
        return None
    return d


def draw_sight(sketch: Sketch, style: Style, view: View, parent: PlacedView, way: Array, beyond: str = "") -> None:
    """The arrow that says from where a view is looked at, with its letter; it points at the part."""
    transform, part = parent.still().transform, parent.projected.part
    spot = transform.to_sheet(np.zeros((1, 2)))[0]
    if isinstance(view, AuxiliaryView):
        kind, row = part.find(view.onto) or ("", 0)
        if kind == "edge":
            curve = part.edges[row].curve
            spot = parent.still().on_sheet(curve.point((curve.t0 + curve.t1) / 2)[None])[0]
        elif kind == "face":
            spot = parent.still().on_sheet_each(part.mesh.nodes[part.faces[row].nodes]).mean(axis=0)
    out = parent.reach(way) - float((spot + parent.transform.place) @ way) if isinstance(view, ProjectedView) else 0.0
    tip = spot + way * (max(out, 0.0) + ARROW_OFF)
    tail = tip + way * SHAFT
    draw_sight_arrow(sketch, style, tail, tip, -way)
    height = style.lines.caption
    reach = (text_width(view.letter + beyond, height) - text_width(view.letter, height)) / 2 * abs(float(way[0]))
    draw_letter(sketch, view.letter + beyond, tail + way * (height * 0.9 + reach), height)


def draw_turn(sketch: Sketch, at: tuple[float, float], radius: float, left: bool) -> None:
    """The sign of a view that is turned, to the left or right: a half circle that ends in an arrowhead (ISO 128-3)."""
    x, y = at
    y -= radius * 0.5
    sketch.stroke(curves2.circle((x, y), radius, 0.0, np.pi), "text")
    tip = np.array([x - radius if left else x + radius, y - radius * 0.15])
    sketch.fill([tip, tip + [-0.3 * radius, 0.85 * radius], tip + [0.3 * radius, 0.85 * radius]])
