"""Marks of a revision: a triangle with its letter, and a cloud about what changed."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.revision_mark import RevisionMark
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..values import value
from .common.solving import Array, Solved

SIDE = 2.9
"""Lettering heights of a side of the triangle."""
BUMP = 1.6
"""Lettering heights that a bump of the cloud is wide, about."""


@value
class SolvedMark(Solved):
    """The corners of its triangle, and the middle and half the sides of its cloud where it has one."""

    words: str
    stands_on: tuple[str, ...]
    letter: str
    h: float
    at: Array
    cloud: tuple[Array, Array] | None

    @property
    def corners(self) -> Array:
        side = SIDE * self.h * (1.0 + 0.25 * (len(self.letter) - 1))
        high = side * np.sqrt(3) / 2
        return np.asarray(self.at + np.array([[-side / 2, -high / 3], [side / 2, -high / 3], [0.0, 2 * high / 3]]))

    def occupies(self) -> Array:
        if self.cloud is None:
            return self.corners
        middle, half = self.cloud
        grown = half + BUMP * self.h / 2
        return np.concatenate([self.corners, [middle - grown, middle + grown]])

    def draw(self, sketch: Sketch) -> None:
        corners = self.corners
        sketch.stroke(curves2.polyline(np.vstack([corners, corners[:1]])), "sign")
        sketch.text(self.letter, self.at[0], corners[0][1] + 0.35 * self.h, self.h, "middle")
        if self.cloud is not None:
            for bow in bumps(*self.cloud, BUMP * self.h):
                sketch.stroke(curves2.polyline(bow), "sign")


def bumps(middle: Array, half: Array, width: float) -> list[Array]:
    """Half circles one after another about a rectangle (its middle, half its sides), each about so wide; corners of each (n, 2), going
    round counter-clockwise and bulging outward."""
    x, y = half
    ends = [np.array(c) for c in ((-x, -y), (x, -y), (x, y), (-x, y), (-x, -y))]
    found = []
    turn = np.linspace(0.0, np.pi, 13)
    for p, q in zip(ends, ends[1:], strict=False):
        length = float(np.linalg.norm(q - p))
        count = max(round(length / width), 1)
        if length < 1e-9:
            continue
        way = (q - p) / length
        out = np.array([way[1], -way[0]])
        radius = length / count / 2
        for k in range(count):
            centre = p + (2 * k + 1) * radius * way
            bow = centre - radius * np.cos(turn)[:, None] * way + radius * np.sin(turn)[:, None] * out
            found.append(np.asarray(middle + bow))
    return found


def solve(mark: RevisionMark, context: LayoutContext) -> Solved:
    """Where it stands."""
    return placer(mark, context)(mark)


def placer(mark: RevisionMark, context: LayoutContext) -> Callable[[RevisionMark], Solved]:
    """What solves it for one place after another."""
    h = context.style.lettering

    def put(m: RevisionMark) -> Solved:
        at = np.array(m.at, float)
        half = np.maximum(np.array([m.wide, m.high]) / 2, h)
        cloud = (at + np.array(m.about), half) if m.form == "cloud" else None
        return SolvedMark(words=f"revision {m.letter}", stands_on=(), letter=m.letter, h=h, at=at, cloud=cloud)

    return put
