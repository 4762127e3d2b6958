"""Holes of a part as they were made: bores, counterbores, countersinks, points of drills, through or to a depth.

A hole is what hangs together of round faces about one axis that face it. All figures are mm and degrees.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..part.model import Array, Part
from ..values import value
from .faces import faces_beside
from .rings import NEAR, Profile, Ring, pierced, profiles


@dataclass(frozen=True)
class Step:
    """A stretch of a hole from its mouth on: a ``bore`` of one diameter, a ``cone`` from one to another of so many degrees over
    all, or what is ``round``, a rounded corner or bottom; from ``start`` to ``end`` below the mouth."""

    kind: str
    diameter: float
    start: float
    end: float
    to: float = 0.0
    angle: float = 0.0


@value
class Hole:
    """A hole: its ``faces`` by row, its axis (a point at the mouth, and the way out of it), its steps from the mouth on."""

    faces: tuple[int, ...]
    mouth: Array
    out: Array
    steps: tuple[Step, ...]
    through: bool

    @property
    def bore(self) -> Step:
        """Its main stretch: the narrowest bore."""
        return min((s for s in self.steps if s.kind == "bore"), key=lambda s: s.diameter)

    @property
    def counterbores(self) -> tuple[Step, ...]:
        """Wider bores before the narrowest, from the mouth on, each with a flat end."""
        bores = [s for s in self.steps if s.kind == "bore"]
        before = bores[: bores.index(self.bore)]
        return tuple(s for s in before if s.diameter > self.bore.diameter * 1.0001)

    @property
    def counterbore(self) -> Step | None:
        """The wider bore at the mouth."""
        return next(iter(self.counterbores), None)

    @property
    def countersink(self) -> Step | None:
        """A cone at the mouth that narrows to the bore."""
        first = self.steps[0]
        return first if first.kind == "cone" and first.diameter > first.to else None

    @property
    def depth(self) -> float | None:
        """How deep the bore goes at its full diameter, from where it is begun; None through."""
        return None if self.through else self.bore.end

    @property
    def point(self) -> Step | None:
        """The cone at the bottom, that the point of a drill leaves."""
        last = self.steps[-1]
        return last if not self.through and last.kind == "cone" and last.to < 1e-6 * last.diameter else None

    def alike(self) -> tuple[object, ...]:
        """The same for holes that are made alike."""
        figures = [(s.kind, *(round(x, 4) for x in (s.diameter, s.start, s.end, s.to, s.angle))) for s in self.steps]
        if self.through:
            # how thick the part is there is no matter of the hole
            figures[-1] = (*figures[-1][:3], 0.0, *figures[-1][4:])
        return (self.through, *figures)


@lru_cache(maxsize=16)
def holes_of(part: Part) -> tuple[Hole, ...]:
    """All holes of a part, in the order of their faces."""
    made = (_hole(part, own) for inward, own in profiles(part) if inward)
    return tuple(hole for hole in made if hole is not None)


def _hole(part: Part, own: Profile) -> Hole | None:
    """The hole that round faces about one axis make; None where they do not go all round, or are closed at both ends."""
    near = NEAR * part.size
    bores = [g for g in own.rings if g.kind == "cylinder"]
    if any(g.turn < 2 * np.pi - 0.8 for g in bores):
        return None
    if any(
        g.kind == "sphere" and part.faces[g.rows[0]].surface.radius > 0 and _bulges(part, own, g, near)
        for g in own.rings
    ):
        # a hollow, into which bores lead
        own = Profile(own.origin, own.axis, tuple(g for g in own.rings if g.kind != "sphere"), own.flats)
    ends = {False: min(own.low, *(f.height for f in own.flats)) if own.flats else own.low}
    ends[True] = max(own.high, *(f.height for f in own.flats)) if own.flats else own.high
    closed = {up: _closed(own, up, ends[up], near) or _covered(part, own, up) for up in (False, True)}
    if all(closed.values()):
        return None
    # the mouth is the open end, of two the wider one
    widths = {
        up: max(
            (g.at_high if up else g.at_low for g in own.rings if abs((g.high if up else g.low) - ends[up]) < near),
            default=0.0,
        )
        for up in (False, True)
    }
    up = closed[False] or (not closed[True] and widths[True] >= widths[False])
    mouth, way = ends[up], 1.0 if up else -1.0
    steps = []
    for ring in own.rings[::-1] if up else own.rings:
        start, stop = sorted((abs(mouth - ring.low), abs(mouth - ring.high)))
        wide, narrow = (ring.at_high, ring.at_low) if up else (ring.at_low, ring.at_high)
        if ring.kind == "cylinder":
            steps.append(Step("bore", 2 * wide, start, stop))
        elif ring.kind == "cone":
            half = abs(part.faces[ring.rows[0]].surface.half_angle)
            steps.append(Step("cone", 2 * wide, start, stop, 2 * narrow, float(np.degrees(2 * half))))
        else:
            steps.append(Step("round", 2 * wide, start, stop, 2 * narrow))
    return Hole(own.faces, own.origin + mouth * own.axis, way * own.axis, tuple(steps), not any(closed.values()))


def _closed(own: Profile, up: bool, end: float, near: float) -> bool:
    """True where a bore has a bottom at its upper (else lower) end: a flat that its axis pierces and that looks into it, a
    point, or a dome."""
    if any(f.pierced and f.up != up and abs(f.height - end) < near for f in own.flats):
        return True
    return any(
        (g.at_high if up else g.at_low) < near and abs((g.high if up else g.low) - end) < near for g in own.rings
    )


def _covered(part: Part, own: Profile, up: bool) -> bool:
    """True where a face that is met inward at the upper (else lower) end lies across the axis and looks into the bore."""
    edges = [part.edges[e] for r in own.faces for e in part.faces[r].boundary]
    beside = {f for e in edges if e.joint == "smooth" or not e.convex.any() for f in e.faces} - set(own.faces)
    half = (own.low + own.high) / 2
    places = [p for f in beside for p in pierced(part, f, own.origin, own.axis)]
    return any(looks_up != up and (height > half) == up for height, looks_up in places)


def _bulges(part: Part, own: Profile, ring: Ring, near: float) -> bool:
    """True for a sphere that is wider than all bores that lead into it."""
    nodes = np.concatenate([part.mesh.nodes[part.faces[k].nodes] for k in ring.rows]) - own.origin
    off = np.linalg.norm(nodes - np.outer(nodes @ own.axis, own.axis), axis=1)
    return float(off.max()) > max(g.widest for g in own.rings if g.kind == "cylinder") * 1.001 + near


def hole_at(part: Part, ref: str) -> Hole | None:
    """The hole that a face, or an edge beside it, belongs to."""
    rows = set(faces_beside(part, ref))
    return next((h for h in holes_of(part) if rows & set(h.faces)), None)


def like(part: Part, hole: Hole) -> list[Hole]:
    """All holes of its body that are made as one is, with parallel axes, it among them."""
    body = part.faces[hole.faces[0]].body
    return [
        h
        for h in holes_of(part)
        if part.faces[h.faces[0]].body == body
        and h.alike() == hole.alike()
        and abs(float(h.out @ hole.out)) > 1 - 1e-9
        and (hole.through or h.out @ hole.out > 0)
    ]
