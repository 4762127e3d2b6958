"""Signs of edges: a corner with legs of 1.5 h, what may be there beside it (ISO 13715)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.edge_sign import EdgeSign
from ..geometry import curves2
from ..measuring.context import LayoutContext
from .common.drawn_signs import Placed, placer_of
from .common.solving import Solved, draw_line

LEG = 1.5
"""Lettering heights of a leg."""


def solve(sign: EdgeSign, context: LayoutContext) -> Solved:
    """Where a sign of an edge stands."""
    return placer(sign, context)(sign)


def placer(sign: EdgeSign, context: LayoutContext) -> Callable[[EdgeSign], Solved]:
    """What solves a sign for one place after another."""
    return placer_of(sign, context, _build)


def _build(sign: EdgeSign, sketch: Sketch, placed: Placed) -> None:
    at, sense = placed.at, placed.sense
    h = placed.style.lettering
    lines = [t for t in (sign.upper, sign.lower) if t]
    wide = max(text_width(t, h) for t in lines) + 0.6 * h
    high = max(LEG, 1.4 * len(lines) + 0.4) * h
    corner = at if sense > 0 else at - np.array([max(LEG * h, wide), 0.0])
    if sense < 0:
        draw_line(sketch, at, corner, "sign")
    draw_line(sketch, corner, corner + [0.0, high], "sign")
    draw_line(sketch, corner, corner + [max(LEG * h, wide), 0.0], "sign")
    if sign.all_round:
        sketch.stroke(curves2.circle(corner, 0.4 * h), "sign")
    for k, text in enumerate(lines):
        sketch.text(text, corner[0] + 0.4 * h, corner[1] + high - (1.2 + 1.4 * k) * h, h)
