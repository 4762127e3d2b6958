"""Slots and keyways of a part: two half rounds that face each other, joined by two plane faces."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..geometry.vectors import cross
from ..part.model import Array, Part
from ..values import value
from .faces import faces_beside, halves_of
from .rings import facing_in


@value
class Slot:
    """A slot: its round ``ends`` and flat ``sides`` by row, the middles of its ends (2, 3), its axis and radius, mm."""

    ends: tuple[int, int]
    sides: tuple[int, int]
    middles: Array
    axis: Array
    radius: float

    @property
    def length(self) -> float:
        """Between the middles of its ends, mm."""
        return float(np.linalg.norm(self.middles[1] - self.middles[0]))


@lru_cache(maxsize=16)
def slots_of(part: Part) -> tuple[Slot, ...]:
    """All slots of a part, in the order of their faces."""
    rounds = [k for k, f in enumerate(part.faces) if f.surface.kind == "cylinder" and facing_in(part, k)]
    rounds = [k for k in rounds if halves_of(part, k) == [k]]
    found, taken = [], set()
    for k in rounds:
        if k in taken:
            continue
        a = part.faces[k].surface
        beside = {
            f for e in part.faces[k].boundary for f in part.edges[e].faces if part.faces[f].surface.kind == "plane"
        }
        for other in rounds:
            b = part.faces[other].surface
            if other <= k or other in taken or abs(a.radius - b.radius) > 1e-6 * part.size:
                continue
            if abs(float(a.axes[2] @ b.axes[2])) < 1 - 1e-9:
                continue
            near = {f for e in part.faces[other].boundary for f in part.edges[e].faces}
            gap = b.origin - a.origin
            gap = gap - (gap @ a.axes[2]) * a.axes[2]
            if np.linalg.norm(gap) < 1e-6 * part.size:
                continue
            way = gap / np.linalg.norm(gap)
            sides = [f for f in beside & near if _is_side(part, f, a.axes[2], way)]
            if len(sides) == 2:
                taken |= {k, other}
                found.append(
                    Slot((k, other), (sides[0], sides[1]), np.array([a.origin, a.origin + gap]), a.axes[2], a.radius)
                )
                break
    return tuple(found)


def _is_side(part: Part, row: int, axis: Array, way: Array) -> bool:
    """True for a plane along a slot and its axis."""
    return abs(float(part.faces[row].surface.axes[2] @ cross(axis, way))) > 1 - 1e-9


def slot_at(part: Part, ref: str) -> Slot | None:
    """The slot that a face, or an edge beside it, belongs to."""
    rows = set(faces_beside(part, ref))
    return next((s for s in slots_of(part) if rows & {*s.ends, *s.sides}), None)
