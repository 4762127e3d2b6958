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

from ...geometry.recognition import frame_about
from ...geometry.vectors import cross
from ...values import value
from ..model import Array, Part
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
