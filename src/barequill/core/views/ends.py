"""Where pieces of views end: break lines, the edges of details and crops, and the mark of symmetry of half views."""

from __future__ import annotations

import numpy as np
import shapely

from ..display import Sketch
from ..drawing import DetailView
from ..geometry.curves2 import Curve2, circle, conic, line, polyline
from .covering import covered, runs_across
from .placed_view import PlacedView
from .projected_scene import ProjectedScene
from .view_transform import Array, Gap, swapped
from .windows import middle_of, shape_of

OVER = 2.5
"""mm on the sheet by which a zigzag line reaches beyond the part."""
ZIG = 2.2
"""mm of half its zigzag."""
BORDER = 2.0
"""mm between the edge of a detail and a border around it."""


def draw_ends(sketch: Sketch, placed_view: PlacedView) -> None:
    """Draw the ends of what is drawn of a view."""
    for gap in placed_view.transform.gaps:
        for first in (True, False):
            for curve in _break_lines(placed_view, gap, first):
                sketch.stroke(curve, "limit")
    view = placed_view.view
    if isinstance(view, DetailView):
        _draw_edge(sketch, placed_view, view.edge)
        if view.border:
            sketch.stroke(_outline(placed_view, BORDER / placed_view.scale), "limit")
    elif view.crop is not None and view.crop.outline is not None:
        _draw_edge(sketch, placed_view, view.crop.edge)
    elif view.crop is not None:
        _symmetry(sketch, placed_view, view.crop.halves)


def _break_lines(placed_view: PlacedView, gap: Gap, first: bool) -> list[Curve2]:
    """The lines at one end of a gap, one for each stretch of the part that is met there."""
    projected, transform = placed_view.projected, placed_view.transform
    at = gap.start if first else gap.end
    hair = 1e-6 * projected.part.size * (-1 if first else 1)
    axis = gap.axis
    scale = transform.scale
    found: list[Curve2] = []
    for low, high in runs_across(projected, at + hair, axis):
        if gap.form == "freehand":
            found.append(polyline(transform.at_end(transform.end_line(at, gap.form, axis, low, high), gap, first)))
        elif gap.form == "zigzag":
            over, zig, middle = OVER / scale, ZIG / scale, (low + high) / 2
            v = np.array([low - over, middle - 0.7 * zig, middle - 0.35 * zig, middle + 0.35 * zig, middle + 0.7 * zig])
            u = at + np.array([0.0, 0.0, zig, -zig, 0.0])
            path = np.c_[np.append(u, at), np.append(v, high + over)]
            found.append(polyline(transform.at_end(swapped(path, axis), gap, first)))
        else:
            t = np.linspace(0, 1, 65)
            bulge = min(0.16 * (high - low), 0.42 * gap.width / scale)
            v, s = low + (high - low) * t, bulge * np.sin(2 * np.pi * t)
            half = slice(32, 65) if first else slice(0, 33)
            paths = [np.c_[at + s, v], np.c_[at - s[half], v[half]]]
            if gap.form == "tube":
                middle, inner = (v[half][0] + v[half][-1]) / 2, 0.5
                for side in (1, -1):
                    paths.append(np.c_[at + side * inner * s[half], middle + inner * (v[half] - middle)])
            found += [polyline(transform.at_end(swapped(p, axis), gap, first)) for p in paths]
    return found


def _outline(placed_view: PlacedView, wider: float = 0.0) -> Curve2:
    """The outline of a detail or crop on the sheet, as it was drawn, or ``wider`` by so much (view mm)."""
    view, transform, projected = placed_view.view, placed_view.transform, placed_view.projected
    outline = view.outline if isinstance(view, DetailView) else view.crop and view.crop.outline
    assert outline
    middle = middle_of(outline, projected.frame, projected.whole)
    if outline.form == "round":
        a, b = outline.half[0] + wider, outline.half[1] + wider
        own = (
            circle(middle, a)
            if abs(a - b) < 1e-9
            else conic(middle, np.array([a, 0.0]), np.array([0.0, b]), 0, 2 * np.pi)
        )
        return transform.curve(own)
    points = np.array(shape_of(outline)) + middle
    if wider:
        points = shapely.get_coordinates(shapely.Polygon(points).buffer(wider, join_style="mitre").exterior)[:-1]
    placed = transform.laid_down(points)
    return polyline(np.concatenate([placed, placed[:1]]))


def _draw_edge(sketch: Sketch, placed_view: PlacedView, edge: str) -> None:
    """The edge of a detail or crop: its outline, or an irregular line where it runs over the part."""
    if edge == "none":
        return
    if edge == "plain":
        sketch.stroke(_outline(placed_view), "limit")
        return
    corners = np.array(placed_view.transform.window)
    closed = np.concatenate([corners, corners[:1]])
    over = covered(placed_view.projected, closed) & ~placed_view.in_gap(closed)
    if not over.any():
        return
    if over.all():
        sketch.stroke(polyline(placed_view.transform.to_sheet(closed)), "limit")
        return
    # begun where nothing is, so that no run is parted
    begin = int(np.nonzero(~over[:-1])[0][0])
    order = np.r_[begin : len(corners), 0 : begin + 1]
    p, on = corners[order], over[:-1][order]
    bounds = np.nonzero(np.diff(on))[0] + 1
    for a, b in zip(bounds[::2], bounds[1::2], strict=False):
        if b - a > 1:
            run = p[max(a - 1, 0) : b + 1].copy()
            run[0], run[-1] = (
                _meeting(placed_view.projected, p[a - 1], p[a]),
                _meeting(placed_view.projected, p[b], p[b - 1]),
            )
            sketch.stroke(polyline(placed_view.transform.to_sheet(run)), "limit")


def _meeting(projected: ProjectedScene, outside: Array, inside: Array) -> Array:
    """Where between two places (2,) the part begins."""
    a, b = outside, inside
    for _ in range(14):
        middle = (a + b) / 2
        if covered(projected, middle[None])[0]:
            b = middle
        else:
            a = middle
    found: Array = (a + b) / 2
    return found


def _symmetry(sketch: Sketch, placed_view: PlacedView, halves: tuple[int, int]) -> None:
    """Centre lines where a half or quarter of a view ends, with two short strokes at each free end (ISO 128-3)."""
    transform, hull = placed_view.transform, placed_view.projected.hull
    beyond = 4.0 / transform.scale
    for axis in (0, 1):
        if halves[axis] == 0:
            continue
        other = 1 - axis
        low, high = float(hull[:, other].min()) - beyond, float(hull[:, other].max()) + beyond
        ends = [(low, halves[other] <= 0), (high, halves[other] >= 0)]
        path = np.zeros((2, 2))
        path[:, other] = [low if ends[0][1] else -beyond / 2, high if ends[1][1] else beyond / 2]
        p = transform.to_sheet(path)
        sketch.stroke(line(p[0], p[1]), "centre")
        way = (p[1] - p[0]) / max(float(np.linalg.norm(p[1] - p[0])), 1e-9)
        side = np.array([-way[1], way[0]])
        for tip, inward, free in ((p[0], way, ends[0][1]), (p[1], -way, ends[1][1])):
            for k in (0.8, 1.8) if free else ():
                sketch.stroke(line(tip + k * inward - 1.8 * side, tip + k * inward + 1.8 * side), "dimension")
