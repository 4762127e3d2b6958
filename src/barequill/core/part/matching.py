"""Two revisions of a part: which entity of the old one is which of the new.

What kept its reference is the same. From there on certainty spreads: a face that lies on the same surface, that was
moved or resized between neighbours that are known, an edge between two known faces, a corner where known faces meet.
Every step takes only what is the one possibility in both directions; all else is left unmatched, to be told as loose.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from .box import exact_boxes
from .identity import steps, way
from .model import Array, Part

How = Literal["unchanged", "same surface", "moved", "resized", "between the same faces", "where the same faces meet"]
LEVEL = 1e-6
"""Sine of the angle within which directions are the same."""
NEAR = 1e-3
"""mm within which places and radii are the same."""


@dataclass(frozen=True)
class Match:
    """The reference in the new revision, and how it was found."""

    ref: str
    how: How


def matched(old: Part, new: Part) -> dict[str, Match]:
    """The references of the old revision for which one in the new is certain.

    Parameters
    ----------
    old, new : two prepared revisions of a part, in the same frame
    """
    found = {ref: Match(ref, "unchanged") for ref in old.index if ref in new.index}
    one, two = _Side(old), _Side(new)
    for row, face in enumerate(old.faces):
        if face.ref in found:
            _join(one, two, row, new.index[face.ref][1])
    ways: list[tuple[Callable[[_Side, int], Hashable], How]] = [
        (_Side.on_surface, "same surface"),
        (_Side.resized, "resized"),
        (_Side.moved, "moved"),
    ]
    grown = True
    while grown:
        grown = False
        for tell, how in ways:
            for a, b in _only_ones(one, two, tell):
                if how == "moved" and not _really_moved(one, two, a, b):
                    continue
                _join(one, two, a, b)
                found[old.faces[a].ref] = Match(new.faces[b].ref, how)
                grown = True
            if grown:
                break
    for tell_edge in (_Side.edge_between, _Side.edge_at):
        taken = {m.ref for m in found.values()}
        names = _unique(
            {e.ref: tell_edge(one, k) for k, e in enumerate(old.edges) if e.ref not in found},
            {e.ref: tell_edge(two, k) for k, e in enumerate(new.edges) if e.ref not in taken},
        )
        found |= {a: Match(b, "between the same faces") for a, b in names}
    taken = {m.ref for m in found.values()}
    corners = _unique(
        {r: one.corner(k) for k, r in enumerate(old.vertex_refs) if r not in found},
        {r: two.corner(k) for k, r in enumerate(new.vertex_refs) if r not in taken},
    )
    return found | {a: Match(b, "where the same faces meet") for a, b in corners}


def _unique(old: dict[str, Hashable], new: dict[str, Hashable]) -> list[tuple[str, str]]:
    """Pairs of names that alone on both sides are told in the same way (None tells nothing)."""
    sides = []
    for named in (old, new):
        by: dict[Hashable, list[str]] = defaultdict(list)
        for name, told in named.items():
            if told is not None:
                by[told].append(name)
        sides.append(by)
    return [(a[0], b[0]) for told, a in sides[0].items() if len(a) == 1 and len(b := sides[1].get(told, [])) == 1]


def _only_ones(one: _Side, two: _Side, tell: Callable[[_Side, int], Hashable]) -> list[tuple[int, int]]:
    """Unmatched faces, by row, that alone on both sides are told in the same way."""
    old, new = ({str(k): tell(side, k) for k in side.free} for side in (one, two))
    return [(int(a), int(b)) for a, b in _unique(old, new)]


def _join(one: _Side, two: _Side, a: int, b: int) -> None:
    name = len(one.name)
    one.name[a], two.name[b] = name, name
    one.free.discard(a)
    two.free.discard(b)


def _really_moved(one: _Side, two: _Side, a: int, b: int) -> bool:
    """Whether a face that stands elsewhere, between the same neighbours, was moved there, and is not another.

    A plane that closes the part further in may be what a cut left: it was moved only where something else that is
    known of it went along. One further out cannot be.
    """
    f, g = one.part.faces[a], two.part.faces[b]
    if f.surface.kind != "plane":
        return True
    outward = f.sense * f.surface.hand * f.surface.axes[2]
    further = float((one.middle(a) - two.middle(b)) @ outward) < -NEAR
    if further and (abs(one.reach(a) - two.reach(b)) < NEAR or one.shape(a) == two.shape(b)):
        return True
    # loops within the face of the same shape went along with it
    return bool(one.holes(a)) and one.holes(a) == two.holes(b) and f.ref != g.ref


class _Side:
    """One revision: its faces by what tells them, and which of them are known so far by a common name."""

    def __init__(self, part: Part) -> None:
        self.part = part
        self.name: dict[int, int] = {}
        self.free = set(range(len(part.faces)))
        self.beside: list[set[int]] = [set() for _ in part.faces]
        for edge in part.edges:
            for f in edge.faces:
                self.beside[f] |= set(edge.faces) - {f}
        self.low, self.high = exact_boxes([e.curve for e in part.edges])
        self.meeting: list[set[int]] = [set() for _ in part.vertices]
        for edge in part.edges:
            for v in edge.ends:
                if v >= 0:
                    self.meeting[v] |= set(edge.faces)

    def middle(self, face: int) -> Array:
        """Middle (3,) of the box about a face's edges."""
        own = list(self.part.faces[face].boundary)
        if not own:
            return self.part.faces[face].centre
        middle: Array = (self.low[own].min(axis=0) + self.high[own].max(axis=0)) / 2
        return middle

    def reach(self, face: int) -> float:
        """Diagonal of the box about a face's edges."""
        own = list(self.part.faces[face].boundary)
        return float(np.linalg.norm(self.high[own].max(axis=0) - self.low[own].min(axis=0))) if own else 0.0

    def shape(self, face: int) -> tuple[Hashable, ...]:
        """The kinds of the edges about a face, and which way the straight ones run."""
        found = []
        for e in self.part.faces[face].boundary:
            curve = self.part.edges[e].curve
            run = way(self.part.edges[e].points[-1] - self.part.edges[e].points[0], LEVEL * 10).tolist()
            found.append((curve.kind, curve.full_turn, *(run if curve.kind == "line" else ())))
        return tuple(sorted(found))

    def holes(self, face: int) -> tuple[Hashable, ...]:
        """Whole circles on a face: radius and place from the middle of the face."""
        found = []
        for e in self.part.faces[face].boundary:
            curve = self.part.edges[e].curve
            if curve.full_turn and curve.is_circle and curve.origin is not None:
                place = np.round((curve.origin - self.middle(face)) / NEAR).astype(int)
                found.append((round(curve.radius / NEAR), *place.tolist()))
        return tuple(sorted(found))

    def _kind(self, face: int) -> tuple[Hashable, ...]:
        f = self.part.faces[face]
        sense = f.sense * f.surface.hand
        if f.surface.kind == "plane":
            return ("plane", *_rounded(sense * f.surface.axes[2], LEVEL * 10))
        if f.surface.kind in ("cylinder", "cone", "torus"):
            return (f.surface.kind, sense, *way(f.surface.axes[2], LEVEL * 10).tolist())
        return (f.surface.kind, sense)

    def _around(self, face: int) -> frozenset[int]:
        """The known faces beside a face."""
        return frozenset(self.name[f] for f in self.beside[face] if f in self.name)

    def on_surface(self, face: int) -> Hashable:
        """The unbounded surface on which a face lies, and on which side of it the material."""
        s = self.part.faces[face].surface
        if s.kind == "plane":
            return (*self._kind(face), *_rounded(np.array([s.origin @ s.axes[2] * np.sign(_first(s.axes[2]))]), NEAR))
        if s.kind in ("cylinder", "torus"):
            foot = s.origin - (s.origin @ s.axes[2]) * s.axes[2] if s.kind == "cylinder" else s.origin
            return (*self._kind(face), *_rounded(np.array([*foot, s.radius, s.minor_radius]), NEAR))
        if s.kind == "cone":
            tip = s.origin - s.axes[2] * s.radius / np.tan(s.half_angle)
            return (*self._kind(face), *_rounded(np.array([*tip, abs(s.half_angle) * 100]), NEAR))
        if s.kind == "sphere":
            return (*self._kind(face), *_rounded(np.array([*s.origin, s.radius]), NEAR))
        return None

    def resized(self, face: int) -> Hashable:
        """The axis of a round face, of whatever radius, and the known faces beside it."""
        s, around = self.part.faces[face].surface, self._around(face)
        if s.kind not in ("cylinder", "cone") or not around:
            return None
        foot = s.origin - (s.origin @ s.axes[2]) * s.axes[2]
        return (*self._kind(face), *_rounded(foot, NEAR), around)

    def moved(self, face: int) -> Hashable:
        """What a face is apart from its place, and the known faces beside it: at least two, or all it has."""
        s, around = self.part.faces[face].surface, self._around(face)
        if not around or (len(around) < 2 and len(around) < len(self.beside[face])):
            return None
        sizes = _rounded(np.array([s.radius, s.minor_radius, 100 * s.half_angle]), NEAR)
        return (*self._kind(face), *sizes, around) if s.elementary else None

    def edge_between(self, edge: int) -> Hashable:
        """The known faces on both sides of an edge, and its kind."""
        e = self.part.edges[edge]
        if not e.faces or any(f not in self.name for f in e.faces):
            return None
        return (e.curve.kind, e.curve.full_turn, tuple(sorted(self.name[f] for f in e.faces)))

    def edge_at(self, edge: int) -> Hashable:
        """The same, with the known faces that meet at its ends: which of several such edges it is."""
        between = self.edge_between(edge)
        ends = [self.corner(v) for v in self.part.edges[edge].ends]
        if between is None or None in ends:
            return None
        return between, frozenset(ends)

    def corner(self, vertex: int) -> Hashable:
        """The faces that meet at a vertex, where all are known and at least three."""
        if vertex < 0 or len(self.meeting[vertex]) < 3 or any(f not in self.name for f in self.meeting[vertex]):
            return None
        return frozenset(self.name[f] for f in self.meeting[vertex])


def _rounded(figures: Array, step: float) -> tuple[int, ...]:
    return tuple(steps(figures, step).tolist())


def _first(v: Array) -> float:
    return float(v[int(np.argmax(np.abs(v) > 1e-3))])
