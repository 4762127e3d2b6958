"""What can be pointed at on a sheet, in words: lines, and the points that the pointer catches."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..drawing import Anchor, CuttingLine, Drawing, Tie
from ..features.sweeps import ball_share, sweep_beside, sweep_of_face
from ..geometry.curves3 import Curve3
from ..geometry.vectors import cross
from ..part.model import Part
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from .anchor_geometry import bore_of, crossings, pierced_at, resolve
from .picking import shows_as_side
from .wording import figure

Array = NDArray[np.float64]
Shape = Literal["straight", "circle", "arc", "outline", "curve"]


@dataclass(frozen=True)
class Line:
    """A line that can be pointed at: its shape, and a few words for it."""

    shape: Shape
    words: str


def lines_of(placed_view: PlacedView, drawing: Drawing) -> dict[str, Line]:
    """What each line of a view is, by the entity that it shows."""
    part, standard = placed_view.projected.part, drawing.standard
    edges = _edge_lines(part, drawing.unit, standard)
    found: dict[str, Line] = {}

    def size(value: float) -> str:
        return figure(value, None, drawing.unit, False, standard)

    for curve in placed_view.projected.curves:
        for ref in (curve.source, *curve.also):
            if ref in found or ref not in part.index:
                continue
            kind, row = part.index[ref]
            if kind == "edge":
                line = edges[row]
                bore = bore_of(placed_view.projected, row) if line.shape not in ("circle", "arc") else None
                if bore is not None:
                    line = Line("circle", f"rim of bore Ø{size(2 * part.faces[bore].surface.radius)}")
                if line.shape == "arc" and shows_as_side(placed_view.projected, row):
                    line = Line("straight", f"side, {line.words}")
                found[ref] = line
            else:
                s = part.faces[row].surface
                if s.kind == "cylinder" and not sweep_of_face(part, row).beyond_half:
                    found[ref] = Line("straight", f"side, rounded R{size(s.radius)}")
                elif s.kind == "sphere" and ball_share(part, row) <= 0.51:
                    found[ref] = Line("outline", f"outline of sphere R{size(s.radius)}")
                elif s.kind in ("cylinder", "sphere"):
                    found[ref] = Line("outline", f"outline of {s.kind} Ø{size(2 * s.radius)}")
                else:
                    found[ref] = Line("curve", "outline of a " + ("cone" if s.kind == "cone" else "curved face"))
    return found


@lru_cache(maxsize=8)
def _edge_lines(part: Part, unit: str, standard: str) -> list[Line]:
    """What each edge of a part is."""

    def size(value: float) -> str:
        return figure(value, None, unit, False, standard)

    return [_edge_line(e.curve, size, _whole(part, k)) for k, e in enumerate(part.edges)]


def _whole(part: Part, row: int) -> bool:
    """True for an arc that is one of several that make a circle, or that goes beyond half a turn with them."""
    curve = part.edges[row].curve
    return curve.is_circle and (curve.full_turn or sweep_beside(part, row).beyond_half)


@lru_cache(maxsize=8)
def _spots(part: Part) -> tuple[list[bool], Array]:
    """Which edges of a part are closed; and (n, 3, 3) the start, end and middle of each."""
    found = np.zeros((len(part.edges), 3, 3))
    for k, edge in enumerate(part.edges):
        found[k, :2] = edge.points[[0, -1]]
    found[:, 2] = (found[:, 0] + found[:, 1]) / 2
    for k, edge in enumerate(part.edges):
        if edge.curve.kind != "line":
            curve = edge.curve
            found[k] = curve.points(np.array([curve.t0, curve.t1, (curve.t0 + curve.t1) / 2]))
    return [e.curve.closed for e in part.edges], found


def _edge_line(curve: Curve3, size: Callable[[float], str], whole: bool) -> Line:
    if curve.kind == "line":
        return Line("straight", f"edge, {size(curve.length())} long")
    if curve.is_circle:
        if curve.full_turn:
            return Line("circle", f"circle Ø{size(2 * curve.radius)}")
        return Line("arc", f"arc Ø{size(2 * curve.radius)}" if whole else f"arc R{size(curve.radius)}")
    return Line("curve", "elliptic edge" if curve.kind == "conic" else "curved edge")


@dataclass(frozen=True)
class Snap:
    """A point that the pointer catches, sheet mm from the view's zero: of which entity, which of its points, in words; and whether it is
    the centre of a ``full`` circle, be it in several arcs."""

    ref: str
    at: str
    x: float
    y: float
    word: str
    full: bool = False


def snaps_of(placed_view: PlacedView, drawing: Drawing) -> list[Snap]:
    """Points that the pointer catches in a view: ends, middles and centres of edges; mm from the view's zero."""
    part = placed_view.projected.part
    closed, spots = _spots(part)
    refs, ats, spaces, words, whole = [], [], [], [], []
    circles: set[int] = set()
    seen: set[str] = set()
    for curve in placed_view.projected.curves:
        if not curve.visible and not placed_view.view.hidden_lines:
            continue
        for ref in (curve.source, *curve.also):
            kind, row = part.index.get(ref, ("", 0))
            if ref in seen or kind != "edge":
                continue
            seen.add(ref)
            edge = part.edges[row].curve
            if not closed[row]:
                refs += [ref] * 3
                ats += ["start", "end", "middle"]
                spaces += [*spots[row]]
                words += ["end point", "end point", "midpoint"]
                whole += [True] * 3
            middle: tuple[Any, float] | None = None
            if edge.is_circle:
                middle = (edge.origin, edge.radius)
            else:
                bore = bore_of(placed_view.projected, row)
                if bore is not None:
                    middle = (part.faces[bore].surface.origin, part.faces[bore].surface.radius)
            if middle is not None:
                refs.append(ref)
                ats.append("centre")
                spaces.append(middle[0])
                full = not edge.is_circle or _whole(part, row)
                if full:
                    circles.add(len(refs) - 1)
                size = figure((2 if full else 1) * middle[1], None, drawing.unit, False, drawing.standard)
                words.append(f"centre of {'Ø' if full else 'R'}{size}")
                whole.append(closed[row])
    for anchor, spot, word in _more_spots(placed_view, drawing):
        refs.append(anchor.ref)
        ats.append(_caught(anchor))
        spaces.append(spot)
        words.append(word)
        whole.append(False)
    if not refs:
        return []
    points, there = placed_view.on_sheet_each(np.array(spaces)), placed_view.shown(np.array(spaces))
    found: dict[tuple[float, float], tuple[tuple[int, bool], Snap]] = {}
    rank = {"corner of the cut": -1, "end point": 0, "midpoint": 2, "corner of two edges, extended": 3}
    for k, (ref, at, (x, y), word, all_round, drawn) in enumerate(
        zip(refs, ats, points.tolist(), words, whole, there.tolist(), strict=True)
    ):
        if not drawn:
            continue
        key = (round(x, 2), round(y, 2))
        # of centres in one place that of a whole circle, a hole's as a rule, goes before that of an arc
        own = 3 if at.startswith("rim") else rank.get(word, 1), not all_round
        if key not in found or own < found[key][0]:
            found[key] = own, Snap(ref, at, *key, word, k in circles)
    return [snap for _, snap in found.values()]


def _caught(anchor: Anchor) -> str:
    """What a pick says of a place that is none of an edge's own points."""
    if anchor.at == "rim":
        return f"rim:{anchor.angle:g}"
    if anchor.at == "cross":
        return f"cross:{anchor.other}"
    return f"{anchor.at}:{anchor.share:.9g}:{anchor.other}"


QUADRANTS = {0: "right side", 90: "top", 180: "left side", 270: "bottom"}
FURTHER = 3.0
"""How many times as long as an arc or chamfer is away the corner may be that its neighbours make."""


def _more_spots(placed_view: PlacedView, drawing: Drawing) -> Iterator[tuple[Anchor, Array, str]]:
    """Places of a view besides those of its edges: sides of circles, and corners that were rounded or chamfered away."""
    projected = placed_view.projected
    part = projected.part
    corners = _Corners(projected)
    closed, _ = _spots(part)
    rows = list(
        dict.fromkeys(
            r for c in projected.curves if c.visible for k, r in [part.index.get(c.source, ("", 0))] if k == "edge"
        )
    )
    right, up = projected.view.right, projected.view.up
    sides = {angle: np.cos(np.radians(angle)) * right + np.sin(np.radians(angle)) * up for angle in QUADRANTS}
    for row in rows:
        edge, curve = part.edges[row], part.edges[row].curve
        face_on = False
        if curve.is_circle and curve.x is not None and curve.y is not None:
            axis = cross(curve.x, curve.y)
            face_on = abs(float(axis @ projected.view.toward)) > (1 - 1e-9) * float(np.linalg.norm(axis))
        if face_on:
            anchor_geometry = resolve(projected, Anchor(ref=edge.ref, at="round"))
            for angle, name in QUADRANTS.items():
                turn = (np.radians(angle) - anchor_geometry.span[0]) % (2 * np.pi)
                if turn <= anchor_geometry.span[1] - anchor_geometry.span[0] + 1e-9:
                    anchor = Anchor.model_construct(ref=edge.ref, at="rim", angle=float(angle))
                    size = figure(2 * curve.radius, None, drawing.unit, False, drawing.standard)
                    yield anchor, anchor_geometry.space[0] + anchor_geometry.radius * sides[angle], f"{name} of Ø{size}"
        if closed[row] or not (face_on or curve.kind == "line"):
            continue
        found = corners.beside(row)
        if found is not None:
            yield found[0], found[1], "corner of two edges, extended"
    yield from _of_the_cut(projected)
    yield from _crossings(projected)


MOST = 400
"""Crossings of a view up to which they can be caught."""


def _of_the_cut(projected: ProjectedScene) -> Iterator[tuple[Anchor, Array, str]]:
    """Where edges of the part pass through the cut of a view, at the corners of what is laid open."""
    if not projected.scene.is_cut:
        return
    corners = [
        c.curve.points(projected.whole.size)[[0, -1]] - projected.centre
        for c in projected.curves
        if c.cls == "cut" and c.visible
    ]
    if not corners:
        return
    tree, near = cKDTree(np.concatenate(corners)), 1e-5 * projected.whole.size
    for row, edge in enumerate(projected.part.edges):
        if edge.joint == "same":
            continue
        for share, place in pierced_at(projected, row):
            if tree.query(projected.flat(place[None])[0])[0] < near:
                yield Anchor(ref=edge.ref, at="pierced", share=round(share, 9)), place, "corner of the cut"


def _crossings(projected: ProjectedScene) -> Iterator[tuple[Anchor, Array, str]]:
    """Where an edge passes behind another and is seen no further."""
    part, near = projected.part, 1e-5 * projected.whole.size
    drawn = [
        (part.index[c.source][1], c)
        for c in projected.curves
        if c.visible and part.index.get(c.source, ("", 0))[0] == "edge" and c.cls != "cut"
    ]
    lines = [c.curve.points(1e-4 * projected.whole.size) for _, c in drawn]
    if not lines or len(lines) > MOST * 10:
        return
    boxes = np.array([[*p.min(axis=0), *p.max(axis=0)] for p in lines])
    count = 0
    for (row, own), points in zip(drawn, lines, strict=True):
        curve = part.edges[row].curve
        for k, t in ((0, own.span[0]), (-1, own.span[1])):
            share = (t - curve.t0) / (curve.t1 - curve.t0)
            if curve.closed or not 1e-6 < share < 1 - 1e-6:
                continue
            spot = points[k]
            for j in np.nonzero((boxes[:, :2] < spot + near).all(axis=1) & (boxes[:, 2:] > spot - near).all(axis=1))[0]:
                other = drawn[j][0]
                if other == row:
                    continue
                met = [
                    x
                    for x in crossings(projected, curve, part.edges[other].curve)
                    if abs((x - curve.t0) / (curve.t1 - curve.t0) - share) < 1e-4
                ]
                if met:
                    count += 1
                    anchor = Anchor(
                        ref=part.edges[row].ref, at="meet", other=part.edges[other].ref, share=round(share, 9)
                    )
                    yield anchor, curve.points(np.array(met[:1]))[0], "crossing of two edges"
                    break
        if count > MOST:
            return


class _Corners:
    """The corners that were rounded or chamfered away, as a view shows them."""

    def __init__(self, projected: ProjectedScene) -> None:
        part = projected.part
        self.part, self.ends = part, _at_vertices(part)
        _, spots = _spots(part)
        self.space = spots[:, :2]
        self.flat = projected.flat_each(self.space.reshape(-1, 3)).reshape(-1, 2, 2)
        ways = self.space[:, 1] - self.space[:, 0]
        length = np.linalg.norm(ways, axis=1)
        straight = np.array([e.curve.kind == "line" for e in part.edges], bool)
        # those that lie square to the sight show in true length
        self.level = straight & (np.abs(ways @ projected.view.toward) < 1e-6 * length)

    def beside(self, row: int) -> tuple[Anchor, Array] | None:
        """The corner that the straight edges at both ends of an arc or chamfer would make."""
        points, flat = self.space[row], self.flat[row]
        beside = [[k for k in self.ends.get(tuple(np.round(p, 4)), []) if k != row and self.level[k]] for p in points]
        if not all(beside):
            return None
        reach = math.dist(*flat.tolist())
        for a in beside[0]:
            for b in beside[1]:
                (p, q), (r, t) = self.flat[a].tolist(), self.flat[b].tolist()
                u, v = (q[0] - p[0], q[1] - p[1]), (t[0] - r[0], t[1] - r[1])
                turn = u[0] * v[1] - u[1] * v[0]
                if abs(turn) < 1e-9 * math.hypot(*u) * math.hypot(*v):
                    continue
                share = ((r[0] - p[0]) * v[1] - (r[1] - p[1]) * v[0]) / turn
                at = p[0] + share * u[0], p[1] + share * u[1]
                away = [math.dist(at, end) for end in flat.tolist()]
                if 1e-6 * self.part.size < min(away) and max(away) < FURTHER * reach:
                    own = self.part.edges[a].ref, self.part.edges[b].ref
                    place = self.space[a, 0] + share * (self.space[a, 1] - self.space[a, 0])
                    return Anchor(ref=own[0], at="cross", other=own[1]), place
        return None


@lru_cache(maxsize=8)
def _at_vertices(part: Part) -> dict[tuple[float, ...], list[int]]:
    """The edges that end at each place of a part."""
    found: dict[tuple[float, ...], list[int]] = {}
    for k, edge in enumerate(part.edges):
        for p in edge.points[[0, -1]]:
            found.setdefault(tuple(np.round(p, 4)), []).append(k)
    return found


def words_of_tie(part: Part, tie: Tie, drawing: Drawing) -> str:
    """What something is tied to, in words."""
    if tie.at == "box":
        return "middle of the part"
    kind, row = part.find(tie.ref) or ("", 0)
    if not kind:
        return "place that is gone"
    if kind == "vertex":
        return "corner"

    def size(value: float) -> str:
        return figure(value, None, drawing.unit, False, drawing.standard)

    if kind == "face":
        s = part.faces[row].surface
        if s.kind == "cylinder":
            return f"axis of Ø{size(2 * s.radius)}"
        return "axis of a round face" if s.kind in ("cone", "torus", "revolution") else "middle of a face"
    curve = part.edges[row].curve
    if tie.at in ("centre", "round") and curve.is_circle:
        return f"centre of Ø{size(2 * curve.radius)}"
    return {"start": "end point", "end": "end point"}.get(
        tie.at, f"middle of the {_edge_line(curve, size, _whole(part, row)).words}"
    )


def words_of_line(part: Part, line: CuttingLine, drawing: Drawing) -> str:
    """A cutting line in words: how it runs, and through what."""
    through = [words_of_tie(part, c.tie, drawing) for c in line.corners if c.tie is not None]
    how = {"level": "level", "upright": "upright", "lean": "leaning"}[line.courses[0]]
    if len(set(line.courses)) > 1:
        how = "with a leg that leans" if "lean" in line.courses else "in steps"
    elif len(line.courses) > 1 and how == "leaning":
        how = "with legs that lean"
    return f"cut {how}" + (f" through the {' and the '.join(dict.fromkeys(through))}" if through else "")
