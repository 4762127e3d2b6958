"""Knurls: their designation on a leader (ISO 13444)."""

from __future__ import annotations

from collections.abc import Callable

from ...drawing.annotations.knurl import Knurl
from ...ink import Sketch
from ..drawn_signs import Placed, placer_of
from ..solving import Solved, Stage


def solve(sign: Knurl, stage: Stage) -> Solved:
    """Where a knurl is told."""
    return placer(sign, stage)(sign)


def placer(sign: Knurl, stage: Stage) -> Callable[[Knurl], Solved]:
    """What solves a sign for one place after another."""
    return placer_of(sign, stage, _build)


def _build(sign: Knurl, sketch: Sketch, placed: Placed) -> None:
    placed.write(sketch, f"ISO 13444 – {sign.name} {sign.pitch:g}")
