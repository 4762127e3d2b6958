"""Notes: lines of text on leaders, on a view, or on the sheet."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.text_note import TextNote
from ..errors import Unmeasurable
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..values import value
from .common.hanging import Hold, carried, draw_leader, hold_of, lost
from .common.note_words import said, wrapped
from .common.solving import Array, Solved, Under, way_at

STEP = 1.6
"""Lettering heights from one line to the next."""
SHELF = 3.0
"""mm of the level piece at the end of a leader."""
APART = 1.0
LARGER = float(np.sqrt(2))
"""Heights of lettering go up by this (ISO 3098)."""


@value
class SolvedTextNote(Solved):
    """Lines of text from ``top``, the upper left corner of their block, along ``u``; ``paths``: of each leader its corners from
    the tip on, and whether it ends in a dot."""

    words: str
    stands_on: tuple[str, ...]
    lost: bool
    style: Style
    lines: tuple[str, ...]
    note: TextNote
    height: float
    top: Array
    u: Array
    paths: tuple[tuple[Array, bool], ...]

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.lost

    @property
    def wide(self) -> float:
        """Width of the block of text."""
        return _width(self.lines, self.height, self.note.heading)

    @property
    def _n(self) -> Array:
        return np.array([-self.u[1], self.u[0]])

    @property
    def _deep(self) -> float:
        return self.height * (1 + STEP * (len(self.lines) - 1))

    def occupies(self) -> Array:
        u, n = self.u, self._n
        over = (1 - LARGER) * self.height if self.note.heading else 0.0
        box = [
            self.top + x * u - y * n
            for x, y in ((0, over), (self.wide, over), (self.wide, self._deep), (0, self._deep))
        ]
        return np.concatenate([np.array(box), *(path for path, _ in self.paths)])

    def under(self) -> Under:
        return Under(self.top - (self._deep + 1.5) * self._n, self.u, self.wide)

    def draw(self, sketch: Sketch) -> None:
        h, u, n = self.height, self.u, self._n
        angle = float(np.degrees(np.arctan2(u[1], u[0])))
        share = {"left": 0.0, "middle": 0.5, "right": 1.0}[self.note.align]
        anchor = {"left": "start", "middle": "middle", "right": "end"}[self.note.align]
        for k, line in enumerate(self.lines):
            at = self.top + share * self.wide * u - (1 + STEP * k) * h * n
            head = k == 0 and self.note.heading
            high = LARGER * h if head else h
            sketch.text(line, at[0], at[1], high, anchor, angle, bold=head)  # type: ignore[arg-type]
        for path, dot in self.paths:
            draw_leader(sketch, self.style, path, dot)


def _width(lines: Sequence[str], height: float, heading: bool) -> float:
    """mm that lines of text are wide, the first larger where it is a heading."""
    return max(text_width(t, height * (LARGER if heading and k == 0 else 1.0)) for k, t in enumerate(lines))


def solve(note: TextNote, context: LayoutContext) -> Solved:
    """What a note says, and where it stands."""
    return placer(note, context)(note)


def placer(note: TextNote, context: LayoutContext) -> Callable[[TextNote], Solved]:
    """What solves a note for one place after another: it is worded once."""
    style = context.style
    height = note.height or style.lettering
    told = said(context, note)
    lines = tuple(wrapped(told.text, height, note.width))
    holds: list[Hold] = []
    under: Under | None = None
    try:
        if note.foot is not None:
            holds = [hold_of(context.view, f) for f in (note.foot, *note.more)]
        elif context.carrier(note) is not None:
            under = carried(context, note)[0]
    except Unmeasurable as error:
        return lost(context, note, lines[0][:40], error)
    refs = tuple(r for h in holds for r in h.stands_on)
    loose_now = bool(told.lost)

    def put(n: TextNote) -> Solved:
        u = way_at(n.turn)
        wide = _width(lines, height, note.heading)
        paths: list[tuple[Array, bool]] = []
        if holds:
            u = np.array([1.0, 0.0])
            top, paths = _led(n, holds, height, wide, style)
        elif under is not None:
            top, u = under.at(n.shift), under.along
        elif context.placed_view is not None:
            top = context.view.transform.to_sheet(np.zeros((1, 2)))[0] + np.array(n.at)
        else:
            top = np.array(n.at)
        return SolvedTextNote(
            words=" ".join(lines)[:300],
            stands_on=refs,
            lost=loose_now,
            style=style,
            lines=lines,
            note=n,
            height=height,
            top=top,
            u=u,
            paths=tuple(paths),
        )

    return put


def _led(
    note: TextNote, holds: list[Hold], height: float, wide: float, style: Style
) -> tuple[Array, list[tuple[Array, bool]]]:
    """The upper left corner of a note's text, and its leaders: all from one shelf at the middle of its first line."""
    way = way_at(note.angle)
    elbow = holds[0].tip + max(note.offset, style.arrow) * way
    sense = 1.0 if way[0] >= -1e-9 else -1.0
    shelf = elbow + np.array([sense * SHELF if note.jogged else 0.0, 0.0])
    left = shelf[0] + APART if sense > 0 else shelf[0] - APART - wide
    bent = [elbow, shelf] if note.jogged else [elbow]
    paths = [(np.array([h.tip, *(bent if k == 0 else [elbow])]), h.dot) for k, h in enumerate(holds)]
    return np.array([left, shelf[1] + height / 2]), paths
