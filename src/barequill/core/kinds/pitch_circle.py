"""Pitch circles: long-dashed dotted, through the centres of their features."""

from __future__ import annotations

import numpy as np

from ..display import Sketch
from ..drawing.annotations.pitch_circle import PitchCircle
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.anchor_geometry import pitch_circle_of
from ..measuring.context import LayoutContext
from ..measuring.wording import figure
from ..values import value
from .common.solving import Array, Solved


@value
class SolvedCircle(Solved):
    """``radius`` 0 where there is no circle through its features any more; from angle to angle (``span``, radians)."""

    words: str
    stands_on: tuple[str, ...]
    centre: Array
    radius: float
    span: tuple[float, float] = (0.0, 2 * np.pi)

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.radius == 0.0

    def occupies(self) -> Array:
        t = np.linspace(*self.span, 73)
        return self.centre + self.radius * np.c_[np.cos(t), np.sin(t)]

    def draw(self, sketch: Sketch) -> None:
        if self.radius:
            sketch.stroke(curves2.circle(self.centre, self.radius, *self.span), "centre", self.stands_on[0])


def solve(circle: PitchCircle, context: LayoutContext) -> SolvedCircle:
    """Where a pitch circle stands."""
    placed_view, refs = context.view, tuple(circle.refs)
    loose = SolvedCircle("loose pitch circle", refs, np.zeros(2), 0.0)
    try:
        own = pitch_circle_of(placed_view.projected, refs)
    except Unmeasurable:
        return loose
    size = figure(2 * own.radius, None, context.drawing.unit, False, context.drawing.standard)
    at = placed_view.transform.to_sheet(own.points)[0]
    turn = placed_view.transform.turn
    span = (0.0, 2 * np.pi)
    if circle.ends is not None:
        start, end = (np.radians(a + turn) for a in circle.ends)
        span = (float(start), float(start + ((end - start) % (2 * np.pi) or 2 * np.pi)))
    return SolvedCircle(f"pitch circle Ø{size}", refs, at, own.radius * placed_view.scale, span)
