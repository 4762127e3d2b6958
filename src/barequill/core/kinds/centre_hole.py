"""Centre holes: a wedge of 60° at the end face, and the designation on a leader (ISO 6411)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.centre_hole import CentreHole
from ..geometry import curves2
from ..measuring.context import LayoutContext
from .common.drawn_signs import Placed, placer_of
from .common.solving import Solved, draw_line

ARM = 2.0
"""Lettering heights of an arm of the wedge."""


def solve(sign: CentreHole, context: LayoutContext) -> Solved:
    """Where a centre hole is told."""
    return placer(sign, context)(sign)


def placer(sign: CentreHole, context: LayoutContext) -> Callable[[CentreHole], Solved]:
    """What solves a sign for one place after another."""
    return placer_of(sign, context, _build, arrow=False)


def _build(own: CentreHole, sketch: Sketch, placed: Placed) -> None:
    h, at, hold = placed.style.lettering, placed.at, placed.hold
    placed.write(sketch, f"ISO 6411 – {own.type} {own.pilot:g}/{own.outer:g}")
    if hold is None:
        return
    draw_line(sketch, hold.tip, at)
    out = hold.out if hold.out is not None else (at - hold.tip) / max(float(np.linalg.norm(at - hold.tip)), 1e-9)
    across = np.array([-out[1], out[0]])
    if own.stays != "may stay":
        arms = [hold.tip + ARM * h * (np.cos(np.radians(30)) * out + s * 0.5 * across) for s in (1, -1)]
        sketch.stroke(curves2.polyline(np.array([arms[0], hold.tip, arms[1]])), "dimension")
    if own.stays == "must not stay":
        draw_line(sketch, hold.tip + h * across, hold.tip - h * across)
