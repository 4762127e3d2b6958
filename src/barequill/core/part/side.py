"""One revision of a part as matching looks at it: its faces, edges and corners by what tells them."""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np

from .box import exact_boxes
from .identity import steps, way
from .model import Array, Part
from .motions import LEVEL, NEAR


class Side:
    """One revision: its faces by what tells them, and which of them are known so far by a common name."""

    def __init__(self, part: Part) -> None:
        self.part = part
        self.name: dict[int, int] = {}
        self.free = set(range(len(part.faces)))
        self.beside: list[set[int]] = [set() for _ in part.faces]
        for edge in part.edges:
            for f in edge.faces:
                self.beside[f] |= set(edge.faces) - {f}
        self.looks: dict[int, Hashable] = {}
        self.low, self.high = exact_boxes([e.curve for e in part.edges])
        self.meeting: list[set[int]] = [set() for _ in part.vertices]
        for edge in part.edges:
            for v in edge.ends:
                if v >= 0:
                    self.meeting[v] |= set(edge.faces)

    def look(self, face: int) -> Hashable:
        """What a face looks like wherever it stands, with what it meets: kinds, radii, lengths of edges."""
        if face not in self.looks:
            own = [self._face_look(face), *sorted(self._face_look(f) for f in self.beside[face])]
            self.looks[face] = tuple(own)
        return self.looks[face]

    def _face_look(self, face: int) -> tuple[Hashable, ...]:
        f = self.part.faces[face]
        s = f.surface
        edges = sorted(self._edge_look(e) for e in f.boundary if self.part.edges[e].joint != "same")
        sense = f.sense * s.hand
        return (
            s.kind,
            sense if s.kind != "plane" else 0.0,
            *_rounded(np.array([s.radius, s.minor_radius]), NEAR),
            *edges,
        )

    def _edge_look(self, edge: int) -> tuple[Hashable, ...]:
        c = self.part.edges[edge].curve
        points = self.part.edges[edge].points
        length = float(np.linalg.norm(points[-1] - points[0])) if not c.full_turn else 2 * c.radius
        return (c.kind, c.full_turn, *_rounded(np.array([length, c.radius if c.kind == "conic" else 0.0]), NEAR))

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

    def member(self, face: int) -> Hashable:
        """What a round face looks like by itself, which way its axis runs, and the known faces beside it: the same for the members of a
        pattern."""
        around = self._around(face)
        if not around or self.part.faces[face].surface.kind not in ("cylinder", "cone", "torus"):
            return None
        return (self._face_look(face), self._kind(face), around)

    def edge_between(self, edge: int) -> Hashable:
        """The known faces on both sides of an edge, and its kind."""
        e = self.part.edges[edge]
        if not e.faces or any(f not in self.name for f in e.faces):
            return None
        return (e.curve.kind, e.curve.full_turn, tuple(sorted(self.name[f] for f in e.faces)))

    def edge_at(self, edge: int) -> Hashable:
        """What :meth:`edge_between` tells, and the known faces that meet at its ends: these tell several such edges apart."""
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
