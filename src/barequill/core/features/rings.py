"""Round faces about one axis that hang together: the profile of a bore or of what was turned.

Lengths are mm, angles radians; heights are along the axis of the first face, from its origin.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.recognition import frame_about
from ..geometry.vectors import cross
from ..part.model import Array, Part
from ..values import value
from .faces import TURNED, coaxial

Ints = NDArray[np.int64]
NEAR = 1e-5
"""In part sizes: how near axes and ends lie that are one."""


@value
class Ring:
    """A stretch of a profile: the faces (rows) that make it, from ``low`` to ``high`` along the axis, with the radius at
    both; ``turn`` is the angle through which they go round."""

    rows: tuple[int, ...]
    kind: str
    low: float
    high: float
    at_low: float
    at_high: float
    turn: float

    @property
    def widest(self) -> float:
        return max(self.at_low, self.at_high)


@value
class Flat:
    """A plane face square to the axis: its height, whether its outside looks up the axis, whether the axis pierces it."""

    row: int
    height: float
    up: bool
    pierced: bool


@value
class Profile:
    """What hangs together about an axis: rings from the lowest on, and the flats between and at their ends."""

    origin: Array
    axis: Array
    rings: tuple[Ring, ...]
    flats: tuple[Flat, ...]

    @property
    def faces(self) -> tuple[int, ...]:
        return (*(r for g in self.rings for r in g.rows), *(f.row for f in self.flats))

    @property
    def low(self) -> float:
        return min(g.low for g in self.rings)

    @property
    def high(self) -> float:
        return max(g.high for g in self.rings)

    def ends_flat(self, up: bool, near: float) -> bool:
        """True where it ends by itself at its upper (else lower) end: at a flat that its axis pierces or that looks
        outward there, at a point, or at a dome."""
        end = self.high if up else self.low
        if any(abs(f.height - end) < near for f in self.flats):
            return True
        return any(
            (g.at_high if up else g.at_low) < near for g in self.rings if abs((g.high if up else g.low) - end) < near
        )


def looks_inward(part: Part) -> list[bool | None]:
    """For each face whether its outside is toward its axis, as that of a bore; None where it is not round."""
    return [facing_in(part, k) if f.surface.kind in TURNED else None for k, f in enumerate(part.faces)]


def facing_in(part: Part, row: int) -> bool:
    """True for a round face whose outside is toward its axis: that of a bore."""
    face = part.faces[row]
    nodes = part.mesh.nodes[face.nodes]
    if not len(nodes):
        return False
    s = face.surface
    off = nodes - s.origin
    off = off - np.outer(off @ s.axes[2], s.axes[2])
    return float(np.einsum("ij,ij->i", part.mesh.normals[face.nodes], off).mean()) < 0


def pierced(part: Part, row: int, origin: Array, axis: Array) -> list[tuple[float, bool]]:
    """Where a line passes through the mesh of a face: how high, and whether the outside looks up the line there."""
    met, heights, looks = _pierced(part, part.mesh.triangles[part.faces[row].triangles], origin, axis)
    del met
    return [(float(h), bool(n > 0)) for h, n in zip(heights, looks, strict=True)]


def all_pierced(part: Part, body: int, origin: Array, axis: Array) -> list[tuple[int, float]]:
    """Where a line passes through the mesh of a body: which face, and how high."""
    rows = _of_body(part, body)
    met, heights, _ = _pierced(part, part.mesh.triangles[rows], origin, axis)
    return [(int(f), float(h)) for f, h in zip(part.mesh.face_of[rows[met]], heights, strict=True)]


@lru_cache(maxsize=64)
def _of_body(part: Part, body: int) -> NDArray[np.int64]:
    """The rows of the mesh's triangles on a body."""
    own = np.array([f.body == body for f in part.faces])
    found: NDArray[np.int64] = np.nonzero(own[part.mesh.face_of])[0]
    return found


def _pierced(
    part: Part, triangles: NDArray[np.int64], origin: Array, axis: Array
) -> tuple[NDArray[np.int64], Array, Array]:
    """Which triangles (m, 3) a line passes through, how high, and whether their outside looks up the line (above 0)."""
    frame = frame_about(np.array(axis))[:2]
    nodes = (part.mesh.nodes - origin) @ frame.T if len(triangles) > 1000 else None
    flat = nodes[triangles] if nodes is not None else (part.mesh.nodes[triangles] - origin) @ frame.T
    # most lie to one side
    near = np.nonzero(((flat.min(axis=1) <= 0) & (flat.max(axis=1) >= 0)).all(axis=1))[0]
    a, b = flat[near], np.roll(flat[near], -1, axis=1)
    sides = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    slack = 1e-9 * part.size**2
    met = near[(sides >= -slack).all(axis=1) | (sides <= slack).all(axis=1)]
    corners = part.mesh.nodes[triangles[met]] - origin
    looks: Array = part.mesh.normals[triangles[met]].mean(axis=1) @ axis
    heights: Array = (corners @ axis).mean(axis=1)
    return met, heights, looks


def profile(part: Part, row: int, inward: list[bool | None]) -> Profile:
    """What hangs together with the cylinder of that row: round faces about its axis to the same side, and flats square to
    it whose outer boundary belongs to them."""
    base = part.faces[row].surface
    axis, origin, near = base.axes[2], base.origin, NEAR * part.size
    side = inward[row]
    found, flats, waiting = [row], list[int](), [row]

    def member(k: int) -> bool:
        return inward[k] == side and coaxial(base, part.faces[k].surface, near)

    while waiting:
        for edge in part.faces[waiting.pop()].boundary:
            for other in part.edges[edge].faces:
                if other in found or other in flats:
                    continue
                if member(other):
                    found.append(other)
                    waiting.append(other)
                elif _bounded_by(part, other, axis, origin, member, near):
                    flats.append(other)
                    waiting.append(other)
    levels = []
    for k in flats:
        face = part.faces[k]
        height = float((part.mesh.nodes[face.nodes][0] - origin) @ axis)
        up = float(part.mesh.normals[face.nodes][0] @ axis) > 0
        levels.append(Flat(k, height, up, bool(pierced(part, k, origin, axis))))
    rings = _rings(part, found, origin, axis, near)
    return Profile(origin, axis, tuple(rings), tuple(levels))


@lru_cache(maxsize=16)
def profiles(part: Part) -> tuple[tuple[bool, Profile], ...]:
    """All profiles of a part, with whether they look inward, in the order of their faces."""
    inward = looks_inward(part)
    taken: set[int] = set()
    found = []
    for row, face in enumerate(part.faces):
        if row in taken or face.surface.kind != "cylinder":
            continue
        own = profile(part, row, inward)
        taken.update(own.faces)
        found.append((bool(inward[row]), own))
    return tuple(found)


def _bounded_by(part: Part, row: int, axis: Array, origin: Array, member, near: float) -> bool:  # type: ignore[no-untyped-def]
    """True for a plane face square to an axis whose outer boundary lies on faces of the profile."""
    face = part.faces[row]
    if face.surface.kind != "plane" or abs(float(face.surface.axes[2] @ axis)) < 1 - 1e-9 or not face.boundary:
        return False
    if not len(part.mesh.nodes[face.nodes]):
        return False
    points, starts = _rim(part, row)
    off = points - origin
    reach = np.maximum.reduceat(np.linalg.norm(off - np.outer(off @ axis, axis), axis=1), starts)
    outer = [face.boundary[k] for k in np.nonzero(reach > reach.max() - near)[0].tolist()]
    return all(part.edges[e].curve.is_circle and any(member(f) for f in part.edges[e].faces if f != row) for e in outer)


@lru_cache(maxsize=1000)
def _rim(part: Part, row: int) -> tuple[Array, Ints]:
    """The points (n, 3) of all edges that bound a face, and where those of each begin: many bores ask it of one face."""
    own = [part.edges[e].points for e in part.faces[row].boundary]
    return np.concatenate(own), np.cumsum([0, *(len(p) for p in own[:-1])])


def _rings(part: Part, rows: list[int], origin: Array, axis: Array, near: float) -> list[Ring]:
    found: list[list[tuple[str, int, float, float, float, float]]] = []
    single = []
    for row in rows:
        face, s = part.faces[row], part.faces[row].surface
        nodes = np.concatenate([part.mesh.nodes[face.nodes], *(part.edges[e].points for e in face.boundary)])
        z = (nodes - origin) @ axis
        r = np.linalg.norm(nodes - origin - np.outer(z, axis), axis=1)
        low, high = float(z.min()), float(z.max())
        least, most = float(r[int(np.argmin(z))]), float(r[int(np.argmax(z))])
        if s.kind == "cylinder":
            least = most = s.radius
        elif s.kind == "sphere":
            low, high, least, most = _dome(part, row, origin, axis, near, (low, high, least, most))
        single.append((s.kind, row, low, high, least, most))
    for ring in sorted(single, key=lambda g: (g[2], g[3])):
        last = found[-1] if found else None
        alike = last is not None and last[0][0] == ring[0] and abs(last[0][4] - ring[4]) < near
        if last is not None and alike and ring[2] < max(g[3] for g in last) + near:
            last.append(ring)
        else:
            found.append([ring])
    rings = []
    for g in found:
        own = tuple(x[1] for x in g)
        highest = max(g, key=lambda x: x[3])
        rings.append(
            Ring(
                rows=own,
                kind=g[0][0],
                low=g[0][2],
                high=highest[3],
                at_low=g[0][4],
                at_high=highest[5],
                turn=turn(part, own, axis),
            )
        )
    return rings


def _dome(
    part: Part, row: int, origin: Array, axis: Array, near: float, given: tuple[float, float, float, float]
) -> tuple[float, float, float, float]:
    """Ends and radii of a sphere's face; one that is bounded to one side only goes on to its pole."""
    face, s = part.faces[row], part.faces[row].surface
    edges = [e for e in face.boundary if part.edges[e].joint != "same"]
    heights = [float(h) for e in edges for h in (part.edges[e].points - origin) @ axis]
    middle = float((s.origin - origin) @ axis)
    if heights and max(heights) - min(heights) < near:
        low, high, least, most = given
        nodes = (part.mesh.nodes[face.nodes] - origin) @ axis
        if float(nodes.mean()) > heights[0]:
            return low, middle + s.radius, least, 0.0
        return middle - s.radius, high, 0.0, most
    return given


def turn(part: Part, rows: tuple[int, ...], axis: Array) -> float:
    """The angle through which faces go round an axis together."""
    x, y, _ = frame_about(np.array(axis))
    normals = np.concatenate([part.mesh.normals[part.faces[k].nodes] for k in rows])
    if not len(normals):
        return 0.0
    angles = np.sort(np.arctan2(normals @ y, normals @ x))
    widest = float(np.diff(np.concatenate([angles, [angles[0] + 2 * np.pi]])).max())
    return 2 * np.pi if widest < 0.7 else 2 * np.pi - widest


@lru_cache(maxsize=8)
def round_faces(part: Part) -> tuple[Ints, Array, Array, Array, Array]:
    """The cylinders and cones of a part: their rows, points and unit directions of their axes (n, 3), radii, and the angles
    through which they go round."""
    rows = [k for k, f in enumerate(part.faces) if f.surface.kind in ("cylinder", "cone")]
    own = [part.faces[k].surface for k in rows]
    return (
        np.array(rows, np.int64),
        np.array([s.origin for s in own]).reshape(-1, 3),
        np.array([s.axes[2] for s in own]).reshape(-1, 3),
        np.array([s.radius for s in own]),
        np.array([turn(part, (k,), s.axes[2]) for k, s in zip(rows, own, strict=True)]),
    )


@lru_cache(maxsize=8)
def circles(part: Part) -> tuple[Ints, Array, Array, Array, Array]:
    """The circles and arcs among a part's edges: their rows, centres and unit axes (n, 3), radii, and sweeps."""
    rows = [k for k, e in enumerate(part.edges) if e.curve.is_circle]
    own = [part.edges[k].curve for k in rows]
    x, y = np.array([c.x for c in own]).reshape(-1, 3), np.array([c.y for c in own]).reshape(-1, 3)
    axes = cross(x, y)
    return (
        np.array(rows, np.int64),
        np.array([c.origin for c in own]).reshape(-1, 3),
        axes / np.maximum(np.linalg.norm(axes, axis=1), 1e-300)[:, None],
        np.array([c.radius for c in own]),
        np.array([c.t1 - c.t0 for c in own]),
    )
