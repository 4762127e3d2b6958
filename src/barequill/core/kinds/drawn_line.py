"""Lines midway between two edges, of symmetry, or from place to place: long-dashed dotted."""

from __future__ import annotations

import numpy as np

from ..display import Sketch
from ..drawing import Tie
from ..drawing.annotations.drawn_line import DrawnLine
from ..errors import Unmeasurable
from ..measuring.anchor_geometry import cylinder_reach, resolve
from ..measuring.context import LayoutContext
from ..values import value
from ..views.cutting_lines import tie_point
from ..views.placed_view import PlacedView
from .common.solving import Array, Solved, draw_line

PARALLEL = 1e-6
"""Sine of the angle up to which two edges are parallel."""
WORDS = {"midway": "line midway", "to": "line from place to place", "symmetry": "line of symmetry"}


@value
class SolvedLine(Solved):
    """``ends`` (2, 2) without what it goes on, ``pieces`` (k, 2, 2) as drawn; none where it is loose."""

    words: str
    stands_on: tuple[str, ...]
    ends: Array
    pieces: Array

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return not len(self.ends)

    def occupies(self) -> Array:
        return self.pieces.reshape(-1, 2) if len(self.pieces) else np.zeros((1, 2))

    def draw(self, sketch: Sketch) -> None:
        for p, q in self.pieces:
            draw_line(sketch, p, q, "centre", self.stands_on[0] if self.stands_on else "")


def solve(line: DrawnLine, context: LayoutContext) -> SolvedLine:
    """Where a line stands."""
    placed_view = context.view
    refs = tuple(t.ref for t in line.ties if t.ref) + tuple(p.anchor.ref for p in line.places if p.anchor is not None)
    ends = _ends(line, placed_view)
    if ends is None or float(np.linalg.norm(ends[1] - ends[0])) < 1e-6:
        return SolvedLine(f"loose {WORDS[line.form]}", refs, np.zeros((0, 2)), np.zeros((0, 2, 2)))
    u = (ends[1] - ends[0]) / float(np.linalg.norm(ends[1] - ends[0]))
    drawn = np.array([ends[0] - line.beyond[0] * u, ends[1] + line.beyond[1] * u])
    return SolvedLine(WORDS[line.form], refs, ends, placed_view.kept(drawn[None]))


def _ends(line: DrawnLine, placed_view: PlacedView) -> Array | None:
    """Both ends (2, 2) of a line on the sheet, without what it goes on."""
    if line.form == "symmetry":
        hull = placed_view.hull
        transform = placed_view.transform
        middle = transform.to_sheet(np.zeros((1, 2)))[0]
        u = transform.direction(np.eye(2)[0 if line.axis == "x" else 1])
        along = (hull - middle) @ u
        return np.array([middle + along.min() * u, middle + along.max() * u])
    if line.places:
        return _from_place_to_place(line, placed_view)
    if len(line.ties) != 2:
        return None
    if line.form == "to":
        spots = [tie_point(placed_view.projected.whole, t) for t in line.ties]
        return None if any(s is None for s in spots) else placed_view.on_sheet_each(np.array(spots))
    one, other = (_run_of(t, placed_view) for t in line.ties)
    if one is None or other is None:
        return None
    u = (one[1] - one[0]) / max(float(np.linalg.norm(one[1] - one[0])), 1e-12)
    v = (other[1] - other[0]) / max(float(np.linalg.norm(other[1] - other[0])), 1e-12)
    if abs(float(u[0] * v[1] - u[1] * v[0])) > PARALLEL:
        return _bisector(one, other, u, v)
    n = np.array([-u[1], u[0]])
    level = (one[0] @ n + other[0] @ n) / 2
    along = np.concatenate([one, other]) @ u
    return np.array([along.min() * u + level * n, along.max() * u + level * n])


def _from_place_to_place(line: DrawnLine, placed_view: PlacedView) -> Array | None:
    spots = []
    for place in line.places:
        if place.anchor is None:
            spots.append(np.array(place.at, float))
            continue
        try:
            spots.append(resolve(placed_view.projected, place.anchor).points.mean(axis=0))
        except Unmeasurable:
            return None
    return np.asarray(placed_view.transform.to_sheet(np.array(spots))) if len(spots) == 2 else None


def _bisector(one: Array, other: Array, u: Array, v: Array) -> Array | None:
    """The line that halves the angle between two edges that are not parallel, as far as they reach."""
    t = np.linalg.solve(np.array([u, -v]).T, other[0] - one[0])
    apex = one[0] + t[0] * u
    ways = []
    for run in (one, other):
        far = run[int(np.argmax(np.linalg.norm(run - apex, axis=1)))] - apex
        ways.append(far / max(float(np.linalg.norm(far)), 1e-12))
    half = ways[0] + ways[1]
    length = float(np.linalg.norm(half))
    if length < 1e-9:
        return None
    half = half / length
    along = (np.concatenate([one, other]) - apex) @ half
    return np.array([apex + max(0.0, float(along.min())) * half, apex + float(along.max()) * half])


def _run_of(tie: Tie, placed_view: PlacedView) -> Array | None:
    """Both ends (2, 2) on the sheet of a straight edge, or of the axis or a plane face seen edge-on."""
    part = placed_view.projected.part
    kind, row = part.find(tie.ref) or ("", 0)
    if kind == "edge" and part.edges[row].curve.kind == "line":
        return placed_view.on_sheet_each(part.edges[row].points[[0, -1]])
    if kind != "face":
        return None
    face = part.faces[row]
    if face.surface.kind in ("cylinder", "cone"):
        return placed_view.on_sheet_each(cylinder_reach(placed_view.projected, row)[0])
    if face.surface.kind == "plane" and abs(float(face.surface.axes[2] @ placed_view.projected.view.toward)) < 1e-6:
        flat = placed_view.on_sheet_each(part.mesh.nodes[face.nodes])
        spans = np.linalg.norm(flat - flat[0], axis=1)
        return np.array([flat[0], flat[int(spans.argmax())]])
    return None
