"""Signs that are drawn once, mark by mark, on a leader to geometry or under what they hang on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

import numpy as np

from ...display import Mark, Sketch, box_of
from ...display.lettering import text_width
from ...drawing.annotations.typed import AnyTyped
from ...errors import Unmeasurable
from ...measuring.context import LayoutContext
from ...measuring.style import Style
from ...values import value
from .hanging import Hold, carried, draw_leader, hold_of, lost
from .solving import Array, Solved, Under, draw_line, way_at

T = TypeVar("T", bound=AnyTyped)


@value
class Placed:
    """Where a sign is drawn: from a place ``at`` on, to the right (``sense`` +1) or to the left (-1), on a leader from what it
    ``hold``s."""

    style: Style
    at: Array
    sense: float
    hold: Hold | None = None

    def write(self, sketch: Sketch, words: str) -> None:
        """Words on a line of their own width."""
        h, side = self.style.lettering, self.sense
        wide = text_width(words, h)
        draw_line(sketch, self.at, self.at + [side * (wide + 1.0), 0.0])
        sketch.text(words, self.at[0] + (0.5 if side > 0 else -wide - 0.5), self.at[1] + self.style.text_gap, h)


Build = Callable[[T, Sketch, Placed], None]
"""Draws a sign in its place."""


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


def placer_of(sign: T, context: LayoutContext, build: Build[T], arrow: bool = True) -> Callable[[T], Solved]:
    """What solves a sign for one place after another; with an ``arrow`` its leader ends in one."""
    style = context.style
    try:
        hold = hold_of(context.view, sign.foot) if sign.foot is not None else None
        below = carried(context, sign) if sign.foot is None else None
    except Unmeasurable as error:
        return lost(context, sign, f"{sign.noun.capitalize()} {sign.typed}", error)

    def put(own: T) -> Solved:
        sketch = Sketch(style.lines)
        if hold is not None:
            way = way_at(own.angle)
            to = hold.tip + max(own.offset, 2 * style.arrow) * way
            if arrow:
                draw_leader(sketch, style, np.array([hold.tip, to]), hold.dot)
            build(own, sketch, Placed(style, to, 1.0 if way[0] >= -1e-9 else -1.0, hold))
            return SolvedMarks(own.typed, hold.stands_on, tuple(sketch.marks))
        assert below is not None
        under, _, _, refs = below
        build(own, sketch, Placed(style, under.at((own.shift[0], own.shift[1] - 2 * style.lettering)), 1.0))
        return SolvedMarks(own.typed, refs, tuple(sketch.marks))

    return put
