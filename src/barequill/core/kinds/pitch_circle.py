"""Pitch circles: long-dashed dotted, through the centres of their features."""

from __future__ import annotations

import numpy as np

from ..display import Sketch
from ..drawing import Anchor
from ..drawing.annotations.pitch_circle import PitchCircle
from ..errors import Unmeasurable
from ..geometry import curves2
from ..geometry.circles import circle_through
from ..measuring.anchor_geometry import resolve
from ..measuring.context import LayoutContext
from ..measuring.wording import figure
from ..values import value
from .common.solving import Array, Solved

NEAR = 1e-4
"""In part sizes: how far off the circle a centre may lie."""


@value
class SolvedCircle(Solved):
    """``radius`` 0 where there is no circle through its features any more."""

    words: str
    stands_on: tuple[str, ...]
    centre: Array
    radius: float

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.radius == 0.0

    def occupies(self) -> Array:
        return self.centre + self.radius * np.array([[-1.0, -1.0], [1.0, 1.0]]) if self.radius else np.zeros((1, 2))

    def draw(self, sketch: Sketch) -> None:
        if self.radius:
            sketch.stroke(curves2.circle(self.centre, self.radius), "centre", self.stands_on[0])


def solve(circle: PitchCircle, context: LayoutContext) -> SolvedCircle:
    """Where a pitch circle stands."""
    placed_view, refs = context.view, tuple(circle.refs)
    loose = SolvedCircle("loose pitch circle", refs, np.zeros(2), 0.0)
    try:
        geometries = [resolve(placed_view.projected, Anchor(ref=ref, at="round")) for ref in refs]
    except Unmeasurable:
        return loose
    if not all(anchor_geometry.face_on for anchor_geometry in geometries):
        return loose
    found = circle_through(np.array([anchor_geometry.points[0] for anchor_geometry in geometries]))
    if found is None or found[2] > NEAR * placed_view.projected.whole.size:
        return loose
    centre, radius, _ = found
    size = figure(2 * radius, None, context.drawing.unit, False, context.drawing.standard)
    at = placed_view.transform.to_sheet(centre[None])[0]
    return SolvedCircle(f"pitch circle Ø{size}", refs, at, radius * placed_view.scale)
