"""Holes of a part as they were made: bores, counterbores, countersinks, points of drills, through or to a depth.

A hole is what hangs together of round faces about one axis that face it. All figures are mm and degrees.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..geometry.vectors import cross
from .features import TURNED, coaxial, faces_beside
from .model import Array, Part

NEAR = 1e-6
"""In part sizes: how near axes and ends lie that are one."""


@dataclass(frozen=True)
class Step:
    """A stretch of a hole from its mouth on: a ``bore`` of one diameter, or a ``cone`` from one to another of so many degrees
    over all; from ``start`` to ``end`` below the mouth."""

    kind: str
    diameter: float
    start: float
    end: float
    to: float = 0.0
    angle: float = 0.0


@dataclass(frozen=True, eq=False)
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
    def counterbore(self) -> Step | None:
        """A wider bore at the mouth with a flat end."""
        first = next((s for s in self.steps if s.kind == "bore"), None)
        return first if first is not None and first.diameter > self.bore.diameter * 1.0001 else None

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


@dataclass(frozen=True, eq=False)
class _Ring:
    """A round face that faces its axis: from ``low`` to ``high`` along it, with its radius at both."""

    row: int
    kind: str
    low: float
    high: float
    at_low: float
    at_high: float


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


def _coaxial(part: Part, one: int, other: int) -> bool:
    a, b = part.faces[one].surface, part.faces[other].surface
    if a.kind not in TURNED or b.kind not in TURNED or b.kind == "sphere":
        return False
    return coaxial(a, b, NEAR * part.size * 10)


def _flat_step(part: Part, row: int, axis: Array) -> bool:
    """True for a plane face square to an axis that is bounded by circles alone."""
    face = part.faces[row]
    if face.surface.kind != "plane" or abs(float(face.surface.axes[2] @ axis)) < 1 - 1e-9:
        return False
    return all(part.edges[e].curve.is_circle for e in face.boundary)


def _group(part: Part, row: int, inward: list[bool]) -> tuple[list[int], list[int]]:
    """Round faces of one hole from one of them, and the flat ends and steps within it."""
    axis = part.faces[row].surface.axes[2]
    found, flats, waiting = [row], [], [row]
    while waiting:
        for edge in part.faces[waiting.pop()].boundary:
            for other in part.edges[edge].faces:
                if other in found or other in flats:
                    continue
                if inward[other] and _coaxial(part, row, other):
                    found.append(other)
                    waiting.append(other)
                elif _flat_step(part, other, axis):
                    beside = {f for e in part.faces[other].boundary for f in part.edges[e].faces} - {other}
                    if all(inward[f] and _coaxial(part, row, f) for f in beside):
                        flats.append(other)
                        waiting.append(other)
    return found, flats


def _turn(part: Part, rows: list[int], axis: Array) -> float:
    """The angle (rad) through which faces go round an axis together."""
    helper = np.eye(3)[int(np.argmin(np.abs(axis)))]
    x = cross(helper, axis)
    x /= np.linalg.norm(x)
    y = cross(axis, x)
    normals = np.concatenate([part.mesh.normals[part.faces[k].nodes] for k in rows])
    angles = np.sort(np.arctan2(normals @ y, normals @ x))
    widest = float(np.diff(np.concatenate([angles, [angles[0] + 2 * np.pi]])).max())
    return 2 * np.pi if widest < 0.7 else 2 * np.pi - widest


@lru_cache(maxsize=16)
def holes_of(part: Part) -> tuple[Hole, ...]:
    """All holes of a part, in the order of their faces."""
    inward = [f.surface.kind in TURNED and facing_in(part, k) for k, f in enumerate(part.faces)]
    taken: set[int] = set()
    found = []
    for row, face in enumerate(part.faces):
        if row in taken or not inward[row] or face.surface.kind != "cylinder":
            continue
        rows, flats = _group(part, row, inward)
        taken.update(rows)
        hole = _hole(part, rows, flats)
        if hole is not None:
            found.append(hole)
    return tuple(found)


def _hole(part: Part, rows: list[int], flats: list[int]) -> Hole | None:
    """The hole that round faces about one axis make; None where they do not go all round."""
    base = part.faces[rows[0]].surface
    axis, origin = base.axes[2], base.origin
    rings = []
    for row in rows:
        face, s = part.faces[row], part.faces[row].surface
        if s.kind not in ("cylinder", "cone"):
            continue
        nodes = np.concatenate([part.mesh.nodes[face.nodes], *(part.edges[e].points for e in face.boundary)])
        z = (nodes - origin) @ axis
        r = np.linalg.norm(nodes - origin - np.outer(z, axis), axis=1)
        least, most = int(np.argmin(z)), int(np.argmax(z))
        radii = (s.radius, s.radius) if s.kind == "cylinder" else (float(r[least]), float(r[most]))
        rings.append(_Ring(row, s.kind, float(z.min()), float(z.max()), *radii))
    near = NEAR * part.size * 10
    merged: list[list[_Ring]] = []
    for ring in sorted(rings, key=lambda g: (g.low, g.high)):
        last = merged[-1] if merged else None
        if (
            last is not None
            and last[0].kind == ring.kind
            and abs(last[0].at_low - ring.at_low) < near
            and ring.low < max(g.high for g in last) + near
        ):
            last.append(ring)
        else:
            merged.append([ring])
    bores = [g for g in merged if g[0].kind == "cylinder"]
    if not bores or any(_turn(part, [r.row for r in g], axis) < 2 * np.pi - 0.8 for g in bores):
        return None
    low, high = min(g.low for g in rings), max(g.high for g in rings)
    closed = [
        any(
            abs(_height(part, f, origin, axis) - end) < near and len(part.faces[f].boundary) <= 2 and _disc(part, f)
            for f in flats
        )
        or any(abs(e - end) < near and r < near for g in rings for e, r in ((g.low, g.at_low), (g.high, g.at_high)))
        for end in (low, high)
    ]
    if all(closed):
        return None
    # the mouth is the open end, of two the wider one
    ends = [
        max((r for g in rings for e, r in ((g.low, g.at_low), (g.high, g.at_high)) if abs(e - end) < near), default=0.0)
        for end in (low, high)
    ]
    up = closed[0] or (not closed[1] and ends[1] >= ends[0])
    mouth, way = (high, 1.0) if up else (low, -1.0)
    steps = []
    for group in merged if way < 0 else merged[::-1]:
        bottom, top = min(g.low for g in group), max(g.high for g in group)
        ring = group[0]
        start, stop = sorted((abs(mouth - bottom), abs(mouth - top)))
        wide, narrow = (ring.at_high, ring.at_low) if way > 0 else (ring.at_low, ring.at_high)
        if ring.kind == "cylinder":
            steps.append(Step("bore", 2 * wide, start, stop))
        else:
            half = abs(part.faces[ring.row].surface.half_angle)
            steps.append(Step("cone", 2 * wide, start, stop, 2 * narrow, float(np.degrees(2 * half))))
    return Hole(tuple([*rows, *flats]), origin + mouth * axis, way * axis, tuple(steps), not any(closed))


def _height(part: Part, row: int, origin: Array, axis: Array) -> float:
    return float((part.faces[row].surface.origin - origin) @ axis)


def _disc(part: Part, row: int) -> bool:
    """True for a flat face with one outline: a bottom, not a step."""
    radii = {round(part.edges[e].curve.radius, 6) for e in part.faces[row].boundary}
    return len(radii) == 1


def hole_at(part: Part, ref: str) -> Hole | None:
    """The hole that a face, or an edge beside it, belongs to."""
    rows = set(faces_beside(part, ref))
    return next((h for h in holes_of(part) if rows & set(h.faces)), None)


def like(part: Part, hole: Hole) -> list[Hole]:
    """All holes that are made as one is, with parallel axes, it among them."""
    return [
        h
        for h in holes_of(part)
        if h.alike() == hole.alike()
        and abs(float(h.out @ hole.out)) > 1 - 1e-9
        and (hole.through or h.out @ hole.out > 0)
    ]
