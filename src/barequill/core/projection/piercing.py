"""Where lines of one body run through the faces of another: there they come into sight, or go out of it."""

from __future__ import annotations

from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.vectors import cross
from ..geometry.wires import Array, Ints, Wires
from ..part.model import Mesh, Part
from ..values import value
from .rays import RayStructure

Flags = NDArray[np.bool_]

LAPS = 64
"""Faces that one piece of a wire may run through."""
GRAZING = 0.06
"""Sine of the angle to a face below which a wire runs along it, and not through it."""
CLEAR = 0.15
"""The same for the sides of a mesh, which are coarser."""


@value
class _Solid:
    """A body's own mesh, the normals (m, 3, 3) at the corners of its triangles, and its box; the box of the part."""

    mesh: Mesh
    normals: Array
    low: Array
    high: Array
    around: tuple[Array, Array]

    @cached_property
    def rays(self) -> RayStructure:
        """The body's own ray structure, made when it is first asked for: many bodies of a part meet no other."""
        return RayStructure(self.mesh, *self.around)

    def through(self, hit: Ints, weights: Array, way: Array, least: float) -> Flags:
        """True (m,) where rays along ``way`` (m, 3) that hit triangles do not merely run along the face."""
        normal = (weights[:, :, None] * self.normals[hit]).sum(axis=1)
        found: Flags = np.abs((normal * way).sum(axis=1)) > least
        return found

    def near(self, low: Array, high: Array, margin: float) -> Ints:
        """Rows of boxes (k, 3) that meet the body's own."""
        meets = np.ones(len(low), bool)
        for k in range(3):
            meets &= (high[:, k] > self.low[k] - margin) & (low[:, k] < self.high[k] + margin)
        return np.nonzero(meets)[0]


@lru_cache(maxsize=8)
def _solids(part: Part) -> dict[int, _Solid]:
    """The bodies of a part that have a mesh."""
    mesh, found = part.mesh, {}
    body_of = np.array([f.body for f in part.faces], np.int64)[mesh.face_of]
    order = np.argsort(body_of, kind="stable")
    ends = np.searchsorted(body_of[order], np.arange(len(part.bodies) + 1))
    for body in range(len(part.bodies)):
        own = order[ends[body] : ends[body + 1]]
        if not len(own):
            continue
        triangles = mesh.triangles[own]
        # the nodes of a body follow each other
        first, last = int(triangles.min()), int(triangles.max()) + 1
        nodes, normals = mesh.nodes[first:last], mesh.normals[first:last]
        triangles = triangles - first
        alone = Mesh(
            nodes=nodes,
            uv=mesh.uv[first:last],
            normals=normals,
            triangles=triangles,
            face_of=mesh.face_of[own],
            deflection=mesh.deflection,
            strays=mesh.strays,
        )
        around = part.low, part.high
        found[body] = _Solid(alone, normals[triangles], nodes.min(axis=0), nodes.max(axis=0), around)
    return found


@lru_cache(maxsize=8)
def runs_into(part: Part) -> dict[int, list[int]]:
    """For each body the others that it runs into, where they do not merely touch: found from the sides of the mesh."""
    if part.meeting is not None:
        known: dict[int, list[int]] = {body: [] for body in range(len(part.bodies))}
        for a, b in part.meeting:
            known[a].append(b)
            known[b].append(a)
        return {body: sorted(others) for body, others in known.items()}
    solids, margin = _solids(part), 1e-6 * part.size
    found: dict[int, set[int]] = {body: set() for body in solids}
    sides: dict[int, tuple[Array, Array]] = {}
    for body, other in _boxes_meeting(solids, margin):
        if other in found[body]:
            continue
        if body not in sides:
            mesh = solids[body].mesh
            rows = mesh.triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)
            p, q = mesh.nodes[rows].transpose(1, 0, 2)
            sides[body] = p, q
        if _runs_through(*sides[body], solids[other], margin, part.mesh.deflection):
            found[body].add(other)
            found[other].add(body)
    return {body: sorted(others) for body, others in found.items()}


def meeting(part: Part) -> tuple[tuple[int, int], ...]:
    """The bodies that run into each other, by their rows, the lower one first."""
    return tuple((a, b) for a, others in runs_into(part).items() for b in others if a < b)


def _boxes_meeting(solids: dict[int, _Solid], margin: float) -> list[tuple[int, int]]:
    """Pairs of bodies, both ways round, whose boxes have some room in common: found along the axis on which they lie
    farthest apart."""
    if len(solids) < 2:
        return []
    names = np.array(list(solids), np.int64)
    low = np.array([s.low for s in solids.values()]) + margin
    high = np.array([s.high for s in solids.values()]) - margin
    axis = int(np.ptp((low + high) / 2, axis=0).argmax())
    order = np.argsort(low[:, axis], kind="stable")
    names, low, high = names[order], low[order], high[order]
    ends = np.searchsorted(low[:, axis], high[:, axis])
    pairs: list[tuple[int, int]] = []
    for k in range(len(names)):
        near = np.arange(k + 1, ends[k])
        near = near[((low[near] < high[k]) & (high[near] > low[k])).all(axis=1)]
        pairs += [(int(names[k]), int(n)) for n in names[near]]
    # as they were taken before: a body's own sides first
    return sorted([*pairs, *((b, a) for a, b in pairs)])


def _runs_through(p: Array, q: Array, them: _Solid, margin: float, deflection: float) -> bool:
    """True where sides of a mesh, from ``p`` to ``q`` (m, 3), run through another body, where they do not merely touch it."""
    rows = them.near(np.minimum(p, q), np.maximum(p, q), -margin)
    if not len(rows):
        return False
    step = q[rows] - p[rows]
    length = np.linalg.norm(step, axis=1)
    way = step / np.maximum(length, 1e-300)[:, None]
    hit, far, weights = them.rays.hits(p[rows], way)
    inside = np.nonzero((hit >= 0) & (far > 10 * margin) & (far < length - 10 * margin))[0]
    inside = inside[them.through(hit[inside], weights[inside], way[inside], CLEAR)]
    # what only touches is missed from a little aside: a bolt in its hole meets the rim, and not the plate
    aside = cross(way[inside], np.eye(3)[np.abs(way[inside]).argmin(axis=1)])
    firm = np.ones(len(inside), bool)
    for off in (aside, -aside, cross(way[inside], aside), -cross(way[inside], aside)):
        hit, beside, _ = them.rays.hits(p[rows[inside]] + 3 * deflection * off, way[inside])
        firm &= (hit >= 0) & (np.abs(beside - far[inside]) < 25 * deflection)
    return bool(firm.any())


class _Grouped:
    """Boxes (n, 3) by the bodies that they are ``on`` (n,): those near a body are looked for first by the boxes around all of
    a body's, so that many bodies far from each other cost no more than they are."""

    def __init__(self, on: Ints, low: Array, high: Array) -> None:
        self._low, self._high = low, high
        self._order = np.argsort(on, kind="stable")
        starts = np.nonzero(np.diff(on[self._order], prepend=-1))[0]
        self._ends = np.append(starts, len(on))
        self._around = np.minimum.reduceat(low[self._order], starts), np.maximum.reduceat(high[self._order], starts)

    def rows(self, solid: _Solid, margin: float) -> Ints:
        """The rows (k,) of the boxes that come within ``margin`` (mm) of a body's own box, in their order."""
        groups = solid.near(*self._around, margin)
        if not len(groups):
            return np.zeros(0, np.int64)
        rows = np.sort(np.concatenate([self._order[self._ends[g] : self._ends[g + 1]] for g in groups]))
        found: Ints = rows[solid.near(self._low[rows], self._high[rows], margin)]
        return found


def pierced(part: Part, wires: Wires, body: Ints, touching: bool) -> tuple[Ints, Array]:
    """Where wires, each on a ``body`` (n,), run through faces of other bodies: wires (k,) and parameters (k,).

    With ``touching`` all other bodies count, else only those that the wire's own body runs into.
    """
    none: tuple[Ints, Array] = np.zeros(0, np.int64), np.zeros(0)
    if len(part.bodies) < 2 or not wires.count:
        return none
    solids, pairs = _solids(part), {} if touching else runs_into(part)
    if not touching and not any(pairs.values()):
        return none
    margin = 1e-6 * part.size
    found, at = [], []
    left = wires.left
    owner = wires.owner[left]
    on = body[owner]
    starts, ends = wires.points[left], wires.points[left + 1]
    lows, highs = np.minimum(starts, ends), np.maximum(starts, ends)
    near = _Grouped(on, lows, highs)
    for other, solid in solids.items():
        others = None if touching else pairs.get(other, [])
        if others == []:
            continue
        rows = near.rows(solid, margin)
        rows = rows[on[rows] != other if others is None else np.isin(on[rows], others)]
        p, q = starts[rows], ends[rows]
        length = np.linalg.norm(q - p, axis=1)
        way = (q - p) / np.maximum(length, 1e-300)[:, None]
        gone, stride = np.zeros(len(rows)), np.full(len(rows), margin)
        for _ in range(LAPS):
            live = np.nonzero(length - gone > margin)[0]
            if not len(live):
                break
            hit, far, weights = solid.rays.hits(p[live] + gone[live][:, None] * way[live], way[live])
            met = (hit >= 0) & (far <= length[live] - gone[live])
            gone[live] = np.where(met, gone[live] + far + stride[live], length[live])
            live = live[met]
            through = solid.through(hit[met], weights[met], way[live], GRAZING)
            some = live[through]
            row = left[rows[some]]
            share = np.clip((gone[some] - stride[some]) / length[some], 0, 1)
            found.append(owner[rows[some]])
            at.append(wires.t[row] + share * (wires.t[row + 1] - wires.t[row]))
            # along a face it is met again and again: the steps grow
            stride[live[~through]] *= 4
    return (np.concatenate(found), np.concatenate(at)) if found else none
