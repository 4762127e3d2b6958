"""Treated stretches: a wide chain line beside the outline, what is done there on a leader."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.treated_stretch import TreatedStretch
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from .common.drawn_signs import Placed, placer_of
from .common.hanging import hold_of
from .common.solving import Array, Solved, draw_arrow, draw_line

OFF = 1.2
"""mm between the outline and the chain line."""


def solve(stretch: TreatedStretch, context: LayoutContext) -> Solved:
    """Where a stretch is, and what is said of it."""
    return placer(stretch, context)(stretch)


def placer(stretch: TreatedStretch, context: LayoutContext) -> Callable[[TreatedStretch], Solved]:
    """What solves a stretch for one place after another."""
    ends: Array | None = None
    if stretch.foot is not None:
        try:
            first = hold_of(context.view, stretch.foot)
            second = hold_of(context.view, stretch.foot.model_copy(update={"spot": stretch.to}))
            out = first.out if first.out is not None else np.array([0.0, 1.0])
            ends = np.array([first.tip, second.tip]) + OFF * out
        except Unmeasurable:
            ends = None

    def build(own: TreatedStretch, sketch: Sketch, placed: Placed) -> None:
        at = placed.at
        placed.write(sketch, own.text)
        if ends is None or np.linalg.norm(ends[1] - ends[0]) < 1e-6:
            return
        sketch.stroke(curves2.line(ends[0], ends[1]), "treated")
        tip = ends.mean(axis=0)
        way = (tip - at) / max(float(np.linalg.norm(tip - at)), 1e-9)
        draw_arrow(sketch, placed.style, tip, way)
        draw_line(sketch, at, tip)

    return placer_of(stretch, context, build, arrow=False)
