"""Knurls: their designation on a leader (ISO 13444)."""

from __future__ import annotations

from collections.abc import Callable

from ...drawing.annotations.knurl import Knurl
from ...ink import Sketch
from ...ink.lettering import text_width
from ..drawn_signs import placer_of
from ..solving import Array, Solved, Stage, draw_line
from ..style import Style


def solve(sign: Knurl, stage: Stage) -> Solved:
    """Where a knurl is told."""
    return placer(sign, stage)(sign)


def placer(sign: Knurl, stage: Stage) -> Callable[[Knurl], Solved]:
    """What solves a sign for one place after another."""
    return placer_of(sign, stage, _build)


def _build(sign: Knurl, sketch: Sketch, style: Style, at: Array, sense: float) -> None:
    h, words = style.lettering, f"ISO 13444 – {sign.name} {sign.pitch:g}"
    wide = text_width(words, h)
    draw_line(sketch, at, at + [sense * (wide + 1.0), 0.0])
    sketch.text(words, at[0] + (0.5 if sense > 0 else -wide - 0.5), at[1] + style.text_gap, h)
