"""Tables of values, as a grid."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.text_note import TextNote
from ..drawing.annotations.value_table import ValueTable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..values import value
from .common.note_words import said
from .common.solving import Array, Solved, draw_line

ROW = 2.0
"""Lettering heights of a row."""
PAD = 0.6


@value
class SolvedTable(Solved):
    """Its rows of words from ``top``, the upper left corner; ``widths`` of both columns."""

    words: str
    stands_on: tuple[str, ...]
    lost: bool
    heading: str
    rows: tuple[tuple[str, str], ...]
    widths: tuple[float, float]
    top: Array
    h: float

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.lost

    @property
    def _size(self) -> Array:
        return np.array([sum(self.widths), (len(self.rows) + bool(self.heading)) * ROW * self.h])

    def occupies(self) -> Array:
        wide, high = self._size
        return np.array([self.top, self.top + [wide, -high]])

    def draw(self, sketch: Sketch) -> None:
        h, (wide, high), (x, y) = self.h, self._size, self.top
        corners = np.array([[x, y], [x + wide, y], [x + wide, y - high], [x, y - high], [x, y]])
        sketch.stroke(curves2.polyline(corners), "visible")
        first = 0
        if self.heading:
            sketch.text(self.heading, x + wide / 2, y - (ROW + 1) / 2 * h, h, "middle", bold=True)
            first = 1
        split = x + self.widths[0]
        draw_line(sketch, np.array([split, y - first * ROW * h]), np.array([split, y - high]))
        for k, (name, own) in enumerate(self.rows):
            level = y - (k + first) * ROW * h
            if k + first:
                draw_line(sketch, np.array([x, level]), np.array([x + wide, level]))
            foot = level - (ROW + 1) / 2 * h
            sketch.text(name, x + PAD * h, foot, h)
            sketch.text(own, split + PAD * h, foot, h)


def solve(table: ValueTable, context: LayoutContext) -> Solved:
    """What a table says, row by row."""
    return placer(table, context)(table)


def placer(table: ValueTable, context: LayoutContext) -> Callable[[ValueTable], Solved]:
    """What solves a table for one place after another."""
    h, lost = context.style.lettering, False
    rows: list[tuple[str, str]] = []
    for row in table.rows:
        told = [said(context, TextNote(id="t", on=table.on, text=t or " ")) for t in (row.name, row.value)]
        lost |= any(t.lost for t in told)
        rows.append((told[0].text.strip(), told[1].text.strip()))
    widths = [max(text_width(r[k], h) for r in rows) + 2 * PAD * h for k in (0, 1)]
    over = text_width(table.heading, h) + 2 * PAD * h - sum(widths)
    first, second = widths[0], widths[1] + max(over, 0.0)
    words = table.heading or f"{len(rows)} values: {rows[0][0]}"

    def put(t: ValueTable) -> Solved:
        return SolvedTable(
            words=words,
            stands_on=(),
            lost=lost,
            heading=table.heading,
            rows=tuple(rows),
            widths=(first, second),
            top=np.array(t.at, float),
            h=h,
        )

    return put
