"""Names of the holes that a view shows, as a table of holes calls them: a letter for what is made alike, a number for each."""

from __future__ import annotations

import numpy as np

from ..part.model import Array, Part
from ..values import value
from .holes import Hole, holes_of

LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"
"""Without I, O and Q, which are taken for figures."""
ALONG = 1 - 1e-6
"""Cosine of the angle to the sight up to which a hole shows as a circle."""


@value
class NamedHole:
    """A hole with its name, and its mouth in view mm (2,) about the middle of the part."""

    name: str
    hole: Hole
    at: Array

    @property
    def letter(self) -> str:
        """What it shares with those that are made alike."""
        return self.name.rstrip("0123456789")


def named_holes(part: Part, toward: Array, right: Array, up: Array) -> list[NamedHole]:
    """The holes that are seen along their axis from ``toward``: those with their mouth to the viewer, and those that go through. Alike
    ones share a letter, the widest first; in each group they are numbered from the left, those above each other from below."""
    middle = (part.low + part.high) / 2
    groups: dict[tuple[object, ...], list[tuple[Hole, Array]]] = {}
    for hole in holes_of(part):
        facing = float(hole.out @ toward)
        if (facing < -ALONG and not hole.through) or abs(facing) < ALONG:
            continue
        off = hole.mouth - middle
        groups.setdefault((hole.alike(), part.faces[hole.faces[0]].body), []).append(
            (hole, np.array([off @ right, off @ up]))
        )
    near = 1e-5 * part.size
    found = []
    order = sorted(groups.values(), key=lambda g: (-g[0][0].bore.diameter, -len(g), tuple(np.round(g[0][1] / near))))
    for k, group in enumerate(order):
        letter = LETTERS[k % len(LETTERS)] * (1 + k // len(LETTERS))
        placed = sorted(group, key=lambda h: (round(float(h[1][0]) / near), round(float(h[1][1]) / near)))
        found += [NamedHole(f"{letter}{n}", hole, at) for n, (hole, at) in enumerate(placed, 1)]
    return found
