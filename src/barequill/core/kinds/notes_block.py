"""General notes: a heading, and numbered lines under it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.notes_block import NotesBlock
from ..drawing.annotations.text_note import TextNote
from ..measuring.context import LayoutContext
from ..values import value
from .common.note_words import said, wrapped
from .common.solving import Array, Solved

STEP = 1.6
"""Lettering heights from one line to the next."""
INDENT = 2.2
"""Lettering heights from a number to its note."""


@value
class SolvedNotes(Solved):
    """``lines``: number (or nothing), words, and how many lines down from ``top``, the upper left corner."""

    words: str
    stands_on: tuple[str, ...]
    lost: bool
    heading: str
    lines: tuple[tuple[str, str, int], ...]
    top: Array
    h: float

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.lost

    def occupies(self) -> Array:
        wide = max(INDENT * self.h + text_width(t, self.h) for _, t, _ in self.lines)
        deep = (1 + STEP * self.lines[-1][2]) * self.h
        return np.array([self.top, self.top + [wide, -deep]])

    def draw(self, sketch: Sketch) -> None:
        def foot(k: int) -> float:
            return float(self.top[1] - (1 + STEP * k) * self.h)

        if self.heading:
            sketch.text(self.heading, self.top[0], foot(0), self.h, bold=True)
        for number, words, k in self.lines:
            sketch.text(number, self.top[0], foot(k), self.h)
            sketch.text(words, self.top[0] + INDENT * self.h, foot(k), self.h)


def solve(block: NotesBlock, context: LayoutContext) -> Solved:
    """What a block says, line by line."""
    return placer(block, context)(block)


def placer(block: NotesBlock, context: LayoutContext) -> Callable[[NotesBlock], Solved]:
    """What solves a block for one place after another."""
    h = context.style.lettering
    found: list[tuple[str, str, int]] = []
    row, lost = 1 if block.heading else 0, False
    for k, note in enumerate(block.notes, 1):
        told = said(context, TextNote(id=note.id, on=block.on, text=note.text))
        lost |= bool(told.lost)
        for i, words in enumerate(wrapped(told.text, h, block.width - INDENT * h)):
            found.append((f"{k}." if i == 0 else "", words, row))
            row += 1
    words = f"{len(block.notes)} notes: {found[0][1]}"[:200]

    def put(b: NotesBlock) -> Solved:
        return SolvedNotes(
            words=words,
            stands_on=(),
            lost=lost,
            heading=block.heading,
            lines=tuple(found),
            top=np.array(b.at, float),
            h=h,
        )

    return put
