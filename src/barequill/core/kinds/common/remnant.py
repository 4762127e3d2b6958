"""Annotations that have lost what they hung on, in the place where they last stood."""

from __future__ import annotations

import numpy as np

from ...display import Sketch
from ...display.lettering import text_width
from ...drawing.annotations import AnyAnnotation
from ...values import value
from .solving import Array, Solved


@value
class Remnant(Solved):
    """What is left of an annotation: a question mark, and what it said last, if it said anything."""

    loose = True

    words: str
    stands_on: tuple[str, ...]
    said: str
    foot: Array
    height: float

    def occupies(self) -> Array:
        return self.foot + np.array([[0, 0], [text_width(self.said, self.height), self.height]])

    def draw(self, sketch: Sketch) -> None:
        sketch.text(self.said, self.foot[0], self.foot[1], self.height)


def as_it_remains(annotation: AnyAnnotation, found: Solved, height: float) -> Solved:
    """An annotation as it was solved; one that is loose, where it last stood, with what it said there."""
    was = annotation.was
    if was is None or not found.loose:
        return found
    said = was.words if annotation.lettered else ""
    return Remnant(
        f"loose {said or annotation.noun}", found.stands_on, f"? {said}".strip(), np.array(was.at, float), height
    )
