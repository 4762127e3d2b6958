"""Knurls: their designation on a leader (ISO 13444)."""

from __future__ import annotations

from collections.abc import Callable

from ..display import Sketch
from ..drawing.annotations.knurl import Knurl
from ..measuring.context import LayoutContext
from .common.drawn_signs import Placed, placer_of
from .common.solving import Solved


def solve(sign: Knurl, context: LayoutContext) -> Solved:
    """Where a knurl is told."""
    return placer(sign, context)(sign)


def placer(sign: Knurl, context: LayoutContext) -> Callable[[Knurl], Solved]:
    """What solves a sign for one place after another."""
    return placer_of(sign, context, _build)


def _build(sign: Knurl, sketch: Sketch, placed: Placed) -> None:
    placed.write(sketch, f"ISO 13444 – {sign.name} {sign.pitch:g}")
