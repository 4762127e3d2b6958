"""Dimensions: measured, worded, and put where they stand; what cannot be measured is said to be loose."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...drawing import Dimension
from ...errors import Unmeasurable
from ...ink import Sketch
from ...ink.lettering import text_width
from ..angular import solve_angular
from ..linear import solve_linear
from ..measuring import Angular, Linear, measure
from ..rounds import solve_round
from ..solving import Array, Solved, Stage
from ..wording import letter


@dataclass(frozen=True, eq=False)
class Loose(Solved):
    """A dimension whose geometry is gone: it says so beside its view."""

    loose = True

    words: str
    stands_on: tuple[str, ...]
    foot: Array
    height: float

    def occupies(self) -> Array:
        return self.foot + np.array([[0, 0], [text_width(self.words, self.height), self.height]])

    def draw(self, sketch: Sketch) -> None:
        sketch.text(self.words, self.foot[0], self.foot[1], self.height)


def solve(dimension: Dimension, stage: Stage) -> Solved:
    """Measure a dimension and find its place."""
    picture = stage.view
    try:
        found = measure(picture.shot, dimension)
        symbol = "" if isinstance(found, Angular) else found.symbol
        text = letter(dimension, symbol, found.value, stage.drawing, stage.style.lettering)
        if isinstance(found, Linear):
            return solve_linear(stage, dimension, found, text)
        if isinstance(found, Angular):
            return solve_angular(stage, dimension, found, text)
        return solve_round(stage, dimension, found, text)
    except Unmeasurable as error:
        refs = tuple(a.ref for a in dimension.anchors)
        foot = np.array([picture.box.x0, picture.box.y1 + 3])
        return Loose(f"? {error.title}", refs, foot, stage.style.lettering)
