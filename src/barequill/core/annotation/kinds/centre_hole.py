"""Centre holes: a wedge of 60° at the end face, and the designation on a leader (ISO 6411)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...drawing.annotations.centre_hole import CentreHole
from ...geometry import curves2
from ...ink import Sketch
from ...ink.lettering import text_width
from ..drawn_signs import held, placer_of
from ..solving import Array, Solved, Stage, draw_line
from ..style import Style

ARM = 2.0
"""Lettering heights of an arm of the wedge."""


def solve(sign: CentreHole, stage: Stage) -> Solved:
    """Where a centre hole is told."""
    return placer(sign, stage)(sign)


def placer(sign: CentreHole, stage: Stage) -> Callable[[CentreHole], Solved]:
    """What solves a sign for one place after another."""
    hold = held(sign, stage)

    def build(own: CentreHole, sketch: Sketch, style: Style, at: Array, sense: float) -> None:
        h = style.lettering
        words = f"ISO 6411 – {own.type} {own.pilot:g}/{own.outer:g}"
        wide = text_width(words, h)
        draw_line(sketch, at, at + [sense * (wide + 1.0), 0.0])
        sketch.text(words, at[0] + (0.5 if sense > 0 else -wide - 0.5), at[1] + style.text_gap, h)
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

    return placer_of(sign, stage, build, arrow=False)
