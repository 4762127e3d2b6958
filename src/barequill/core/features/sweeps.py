"""How far round edges and faces go about their axes, with all of their body that completes them.

Lengths are mm, angles radians.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..geometry.recognition import frame_about
from ..geometry.vectors import cross
from ..part.model import Array, Part
from ..values import value
from .rings import circles

NEAR = 1e-6
"""In part sizes: how near axes and radii lie that are one."""
HALF = np.pi * 1.01
"""Beyond half a turn."""


@value
class Sweep:
    """The directions about an axis that something round goes through: ``spans`` (k, 2) in the order of their starts, from
    the first axis of ``frame`` (3, 3) on, whose third is the axis; ``rows`` are all edges or faces that make it."""

    frame: Array
    spans: Array
    rows: tuple[int, ...]

    @property
    def turn(self) -> float:
        """The angle through which it goes."""
        return float((self.spans[:, 1] - self.spans[:, 0]).sum())

    @property
    def beyond_half(self) -> bool:
        return self.turn > HALF

    def reach(self, way: Array) -> float:
        """How far it reaches in a direction (3,) square to its axis, in radii: 1 where it goes through it."""
        if not len(self.spans):
            return -1.0
        angle = float(np.arctan2(way @ self.frame[1], way @ self.frame[0]))
        ahead = (angle - self.spans[:, 0]) % (2 * np.pi)
        past = ahead - (self.spans[:, 1] - self.spans[:, 0])
        away = np.where(past <= 0, 0.0, np.minimum(past, 2 * np.pi - ahead))
        return float(np.cos(min(float(away.min()), np.pi)))


def sweep_of_edge(part: Part, row: int) -> Sweep:
    """Of a circle or an arc, with the others of its body on the same circle."""
    return _rounds(part).of_edge(row)


def sweep_beside(part: Part, row: int) -> Sweep:
    """Of a circle or an arc as ``sweep_of_edge``, or of the cylinder of the same radius beside it where that goes further."""
    found = sweep_of_edge(part, row)
    axis, radius = found.frame[2], part.edges[row].curve.radius
    for face in part.edges[row].faces:
        s = part.faces[face].surface
        if (
            s.kind == "cylinder"
            and abs(s.radius - radius) < NEAR * part.size
            and abs(float(s.axes[2] @ axis)) > 1 - 1e-9
        ):
            further = sweep_of_face(part, face)
            if further.turn > found.turn + 1e-6:
                found = further
    return found


def sweep_of_face(part: Part, row: int) -> Sweep:
    """Of a cylinder, with the others of its body about the same axis and of the same radius."""
    return _rounds(part).of_face(row)


@lru_cache(maxsize=4096)
def ball_share(part: Part, row: int) -> float:
    """Of a spherical face with the others of its body about the same centre: how much of the whole sphere they are."""
    own, faces = part.faces[row], part.faces
    rows = [
        k
        for k, f in enumerate(faces)
        if f.surface.kind == "sphere"
        and f.body == own.body
        and abs(f.surface.radius - own.surface.radius) < NEAR * part.size
        and float(np.linalg.norm(f.surface.origin - own.surface.origin)) < NEAR * part.size
    ]
    area = 0.0
    for k in rows:
        a, b, c = np.moveaxis(part.mesh.nodes[part.mesh.triangles[faces[k].triangles]], 1, 0)
        area += float(np.linalg.norm(cross(b - a, c - a), axis=1).sum()) / 2
    return area / (4 * np.pi * own.surface.radius**2)


class _Rounds:
    """What goes round with what, in one part."""

    def __init__(self, part: Part) -> None:
        self.part = part
        rows, centres, axes, radii, _ = circles(part)
        bodies = np.array([part.edges[k].body for k in rows])
        self.edges = _together(part, rows, centres, axes, radii, bodies)
        faces = np.array([k for k, f in enumerate(part.faces) if f.surface.kind == "cylinder"], np.int64)
        own = [part.faces[k].surface for k in faces]
        axes = np.array([s.axes[2] for s in own]).reshape(-1, 3)
        origins = np.array([s.origin for s in own]).reshape(-1, 3)
        feet = origins - np.einsum("ij,ij->i", origins, axes)[:, None] * axes
        bodies = np.array([part.faces[k].body for k in faces])
        self.faces = _together(part, faces, feet, axes, np.array([s.radius for s in own]), bodies)
        self.known: dict[tuple[str, int], Sweep] = {}

    def of_edge(self, row: int) -> Sweep:
        rows = self.edges[row]
        key = ("edge", rows[0])
        if key not in self.known:
            curves = [self.part.edges[k].curve for k in rows]
            x, y = curves[0].x, curves[0].y
            assert x is not None and y is not None
            frame = np.array([x, y, cross(x, y)])
            frame /= np.linalg.norm(frame, axis=1)[:, None]
            spans = []
            for c in curves:
                assert c.x is not None and c.y is not None
                start = float(np.arctan2(c.x @ frame[1], c.x @ frame[0]))
                if float(cross(c.x, c.y) @ frame[2]) > 0:
                    spans.append((start + c.t0, start + c.t1))
                else:
                    spans.append((start - c.t1, start - c.t0))
            self.known[key] = Sweep(frame, merged(np.array(spans)), rows)
        return self.known[key]

    def of_face(self, row: int) -> Sweep:
        rows, part = self.faces[row], self.part
        key = ("face", rows[0])
        if key not in self.known:
            s = part.faces[rows[0]].surface
            frame = np.array(frame_about(s.axes[2]))
            spans = [np.zeros((0, 2))]
            for k in rows:
                corners = part.mesh.nodes[part.mesh.triangles[part.faces[k].triangles]] - s.origin
                angles = np.arctan2(corners @ frame[1], corners @ frame[0])
                off = (angles - angles[:, :1] + np.pi) % (2 * np.pi) - np.pi
                spans.append(angles[:, :1] + np.column_stack([off.min(axis=1), off.max(axis=1)]))
            self.known[key] = Sweep(frame, merged(np.concatenate(spans)), rows)
        return self.known[key]


@lru_cache(maxsize=8)
def _rounds(part: Part) -> _Rounds:
    return _Rounds(part)


def _together(
    part: Part, rows: NDArray[np.int64], places: Array, axes: Array, radii: Array, bodies: NDArray[np.int64]
) -> dict[int, tuple[int, ...]]:
    """For each row those of the same body with the same place, radius, and line of axis; itself among them."""
    if not len(rows):
        return {}
    # an axis and its opposite are one
    lines = axes[:, [0, 1, 2, 0, 0, 1]] * axes[:, [0, 1, 2, 1, 2, 2]]
    keys = np.column_stack([places / part.size, lines, radii / part.size, bodies])
    pairs = cKDTree(keys).query_pairs(NEAR, output_type="ndarray")
    links = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(rows), len(rows)))
    label = connected_components(links, directed=False)[1]
    groups: dict[int, list[int]] = {}
    for row, group in zip(rows.tolist(), label.tolist(), strict=True):
        groups.setdefault(group, []).append(row)
    return {row: tuple(own) for own in groups.values() for row in own}


def merged(spans: Array) -> Array:
    """Spans of angles (n, 2) as those apart from each other (k, 2), by their starts from 0 on; a whole turn as one."""
    if not len(spans):
        return spans
    near, whole = 1e-7, 2 * np.pi
    start = spans[:, 0] % whole
    found = np.column_stack([start, start + spans[:, 1] - spans[:, 0]])
    found = found[np.argsort(found[:, 0])]
    furthest = np.maximum.accumulate(found[:, 1])
    first = np.nonzero(np.concatenate([[True], found[1:, 0] > furthest[:-1] + near]))[0]
    own = np.column_stack([found[first, 0], np.append(furthest[first[1:] - 1], furthest[-1])]).tolist()
    # the last may go over the start, and meet those that lie there
    while len(own) > 1 and own[-1][1] - whole > own[0][0] - near:
        own[-1][1] = max(own[-1][1], own[0][1] + whole)
        del own[0]
    if own[-1][1] - own[-1][0] >= whole - near:
        return np.array([[0.0, whole]])
    return np.array(own)


@lru_cache(maxsize=4096)
def pieces_along(part: Part, row: int, across: tuple[float, float, float]) -> tuple[tuple[float, float], ...]:
    """The straight lines of a cylinder or cone, with what continues it, that lie to one side of its axis: from which height
    to which, mm along the axis of the face from its origin; those that belong to the face, none where it is not there."""
    s, near = part.faces[row].surface, NEAR * part.size
    way = np.array(across)
    rows = sweep_of_face(part, row).rows if s.kind == "cylinder" else (row,)
    own = _pieces(part, row, way, s.origin, s.axes[2])
    others = [p for k in rows if k != row for p in _pieces(part, k, way, s.origin, s.axes[2])]
    found = []
    for low, high in own:
        grown = True
        while grown:
            grown = False
            for a, b in others:
                if a < high + near and b > low - near and (a < low - near or b > high + near):
                    low, high, grown = min(a, low), max(b, high), True
        if (low, high) not in found:
            found.append((low, high))
    return tuple(found)


def _pieces(part: Part, row: int, across: Array, origin: Array, axis: Array) -> list[tuple[float, float]]:
    """Of one face alone, with heights along an axis that is in line with its own."""
    face = part.faces[row]
    square, near = cross(axis, across), 1e-7 * part.size
    heights = []
    for e in face.boundary:
        edge = part.edges[e]
        off = edge.points - origin
        side, there = off @ square, off @ across > 0
        for k in np.nonzero(there & (np.abs(side) <= near))[0]:
            heights.append(float(off[k] @ axis))
        for k in np.nonzero(there[:-1] & there[1:] & (side[:-1] * side[1:] < 0))[0]:
            low, high = float(edge.t[k]), float(edge.t[k + 1])
            t = low + float(side[k] / (side[k] - side[k + 1])) * (high - low)
            for _ in range(6):
                p, dp = edge.curve.derivatives(np.array([t]))
                slope = float(dp[0] @ square)
                if abs(slope) < 1e-12:
                    break
                t = min(max(t - float((p[0] - origin) @ square) / slope, low), high)
            heights.append(float((edge.curve.point(t) - origin) @ axis))
    heights.sort()
    ends = [h for k, h in enumerate(heights) if k == 0 or h > heights[k - 1] + near]
    corners = part.mesh.triangles[face.triangles]
    if len(ends) < 2 or not len(corners):
        return []
    off = part.mesh.nodes[corners] - origin
    turn, up = np.arctan2(off @ square, off @ across), off @ axis
    about = np.abs(turn).max(axis=1) < 3 * np.pi / 4
    turn, up = turn[about], up[about]
    pieces: list[tuple[float, float]] = []
    for low, high in zip(ends, ends[1:], strict=False):
        if not _holds(turn, up, (low + high) / 2):
            continue
        if pieces and pieces[-1][1] > low - near:
            pieces[-1] = pieces[-1][0], high
        else:
            pieces.append((low, high))
    return pieces


def _holds(x: Array, y: Array, height: float) -> bool:
    """True where one of triangles (m, 3) holds the place (0, height)."""
    v = y - height
    w, z = np.roll(x, -1, axis=1), np.roll(v, -1, axis=1)
    sides = x * z - w * v
    slack = 1e-9 * np.abs(sides).max(axis=1, initial=1e-300)[:, None]
    return bool(((sides >= -slack).all(axis=1) | (sides <= slack).all(axis=1)).any())
