"""Annotations that cannot be measured, or have lost what they hung on: these stand where they last stood."""

from __future__ import annotations

import numpy as np

from ...display import Sketch
from ...display.lettering import text_width
from ...drawing.annotations import AnyAnnotation
from ...values import value
from .solving import Array, Solved


@value
class Loose(Solved):
    """What cannot be measured or hung: it says why, or what it said last (``said``)."""

    loose = True

    words: str
    stands_on: tuple[str, ...]
    foot: Array
    height: float
    said: str = ""

    def occupies(self) -> Array:
        return self.foot + np.array([[0, 0], [text_width(self.said or self.words, self.height), self.height]])

    def draw(self, sketch: Sketch) -> None:
        sketch.text(self.said or self.words, self.foot[0], self.foot[1], self.height)


def as_it_remains(annotation: AnyAnnotation, found: Solved, height: float) -> Solved:
    """An annotation as it was solved; one that is loose, where it last stood, with what it said there."""
    was = annotation.was
    if was is None or not found.loose:
        return found
    said = was.words if annotation.lettered else ""
    words, there = f"loose {said or annotation.noun}", np.array(was.at, float)
    return Loose(words=words, stands_on=found.stands_on, foot=there, height=height, said=f"? {said}".strip())
