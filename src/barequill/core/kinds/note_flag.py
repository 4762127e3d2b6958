"""Flags with the number of a general note: on a leader to what it holds for, or beside what they hang on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.note_flag import NoteFlag
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..values import value
from .common.hanging import Hold, carried, draw_leader, hold_of, lost
from .common.solving import Array, Solved, draw_line, way_at

HIGH = 1.8
"""Lettering heights of a flag."""
SHELF = 2.0


@value
class SolvedFlag(Solved):
    """The middle of its left side, and its leader from the tip on."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    number: str
    left: Array
    path: Array
    dot: bool

    @property
    def _outline(self) -> Array:
        h = self.style.lettering
        wide, half = text_width(self.number, h) + 0.9 * h, HIGH * h / 2
        corners = [(0, half), (wide, half), (wide + half, 0), (wide, -half), (0, -half), (0, half)]
        return np.asarray(self.left + np.array(corners))

    def occupies(self) -> Array:
        return np.concatenate([self._outline, self.path])

    def draw(self, sketch: Sketch) -> None:
        h = self.style.lettering
        sketch.stroke(curves2.polyline(self._outline), "sign")
        wide = text_width(self.number, h) + 0.9 * h
        sketch.text(self.number, self.left[0] + wide / 2 + 0.15 * h, self.left[1] - h / 2, h, "middle")
        if len(self.path) > 1:
            draw_leader(sketch, self.style, self.path[:2], self.dot)
            draw_line(sketch, self.path[1], self.path[2])


def solve(flag: NoteFlag, context: LayoutContext) -> Solved:
    """Where a flag stands."""
    return placer(flag, context)(flag)


def placer(flag: NoteFlag, context: LayoutContext) -> Callable[[NoteFlag], Solved]:
    """What solves a flag for one place after another."""
    style, number = context.style, context.number_of(flag.block, flag.line)
    try:
        if number is None:
            raise Unmeasurable("Its note is gone", "Remove the flag, or write the note again.")
        hold = hold_of(context.view, flag.foot) if flag.foot is not None else None
        below = carried(context, flag) if flag.foot is None else None
    except Unmeasurable as error:
        return lost(context, flag, "Flag", error)
    said = f"{number}{context.elsewhere(flag.block)}"
    words = f"flag {said}"

    if hold is not None:
        return lambda f: _led(f, hold, words, said, style)
    assert below is not None
    under, _, _, refs = below

    def stacked(f: NoteFlag) -> Solved:
        left = under.at((f.shift[0], f.shift[1] - HIGH * style.lettering / 2))
        return _made(words, refs, style, said, left)

    return stacked


def _led(flag: NoteFlag, hold: Hold, words: str, number: str, style: Style) -> SolvedFlag:
    """A flag on a leader."""
    way = way_at(flag.angle)
    to = hold.tip + max(flag.offset, 2 * style.arrow) * way
    sense = 1.0 if way[0] >= -1e-9 else -1.0
    shelf = to + np.array([sense * SHELF, 0.0])
    made = _made(words, hold.stands_on, style, number, shelf)
    wide = float(np.ptp(made.occupies()[:, 0]))
    left = shelf if sense > 0 else shelf - np.array([wide, 0.0])
    return replace(made, left=left, path=np.array([hold.tip, to, shelf]), dot=hold.dot)


def _made(words: str, refs: tuple[str, ...], style: Style, number: str, left: Array) -> SolvedFlag:
    return SolvedFlag(
        words=words, stands_on=refs, style=style, number=number, left=left, path=np.zeros((0, 2)), dot=False
    )
