"""Signs that are drawn once, mark by mark, on a leader to geometry or under what they hang on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

import numpy as np

from ..drawing.annotations.typed import AnyTyped
from ..errors import Unmeasurable
from ..ink import Mark, Sketch, box_of
from ..values import value
from .hanging import Hold, carried, draw_leader, hold_of
from .kinds.dimension import Loose
from .solving import Array, Solved, Stage, Under
from .style import Style

T = TypeVar("T", bound=AnyTyped)
Build = Callable[[T, Sketch, Style, Array, float], None]
"""Draws a sign from a place on, to the right (+1) or to the left (-1)."""


@value
class SolvedMarks(Solved):
    """What was drawn of a sign."""

    words: str
    stands_on: tuple[str, ...]
    marks: tuple[Mark, ...]

    def occupies(self) -> Array:
        box = box_of(self.marks)
        assert box is not None
        return np.array([[box.x0, box.y0], [box.x1, box.y1]])

    def under(self) -> Under:
        low, high = self.occupies()
        return Under(np.array([low[0], low[1] - 1.0]), np.array([1.0, 0.0]), float(high[0] - low[0]), gap=1.0)

    def draw(self, sketch: Sketch) -> None:
        sketch.marks.extend(self.marks)


def placer_of(sign: T, stage: Stage, build: Build[T], arrow: bool = True) -> Callable[[T], Solved]:
    """What solves a sign for one place after another; with an ``arrow`` its leader ends in one."""
    style = stage.style
    try:
        hold = hold_of(stage.view, sign.foot) if sign.foot is not None else None
        below = carried(stage, sign) if sign.foot is None else None
    except Unmeasurable as error:
        box = stage.view.box
        lost = (sign.foot.ref,) if sign.foot else ()
        words = f"? {sign.noun.capitalize()} {sign.typed}: {error.title}"
        loose = Loose(words, lost, np.array([box.x0, box.y1 + 3]), style.lettering)
        return lambda _: loose

    def put(own: T) -> Solved:
        sketch = Sketch(style.lines)
        if hold is not None:
            a = np.radians(own.angle)
            way = np.array([np.cos(a), np.sin(a)])
            to = hold.tip + max(own.offset, 2 * style.arrow) * way
            if arrow:
                draw_leader(sketch, style, np.array([hold.tip, to]), hold.dot)
            build(own, sketch, style, to, 1.0 if way[0] >= -1e-9 else -1.0)
            return SolvedMarks(own.typed, hold.stands_on, tuple(sketch.marks))
        assert below is not None
        under, _, _, refs = below
        n = np.array([-under.along[1], under.along[0]])
        at = under.corner + own.shift[0] * under.along + (own.shift[1] - 2 * style.lettering) * n
        build(own, sketch, style, at, 1.0)
        return SolvedMarks(own.typed, refs, tuple(sketch.marks))

    return put


def held(sign: AnyTyped, stage: Stage) -> Hold | None:
    """Where a sign stands on geometry; None where it has no foot there, or has lost it."""
    try:
        return hold_of(stage.view, sign.foot) if sign.foot is not None else None
    except Unmeasurable:
        return None
