"""Tables: a heading, titles and rows of cells, as wide as what is in them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.table import Table
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..values import value
from ..views.occupancy import occupancy
from .common.loose import Loose
from .common.solving import Array, Solved, draw_line
from .common.table_rows import rows_of

ROW = 2.0
"""Lettering heights of a row."""
PAD = 0.6
"""Lettering heights between a cell's edge and what is in it."""
APART = 3.0
"""mm between the pieces of a table that goes on beside itself."""
MARK = 0.45
"""Lettering heights of the arrow at a marked row."""


@value
class Cell:
    """A cell: its column, across how many it goes, its words, and how they are set."""

    column: int
    across: int
    text: str
    align: str
    bold: bool = False


@value
class SolvedTable(Solved):
    """Rows of cells in pieces beside each other: the upper left corners (k, 2) of the ``pieces``, the ``rows`` of each from above on,
    the ``edges`` (columns + 1,) of the columns from the left of a piece."""

    words: str
    stands_on: tuple[str, ...]
    lost: bool
    pieces: Array
    rows: tuple[tuple[tuple[Cell, ...], ...], ...]
    edges: Array
    h: float
    marked: tuple[int, int] | None = None
    """Piece and row of that which is drawn."""

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.lost

    def occupies(self) -> Array:
        wide = self.edges[-1]
        deep = [ROW * self.h * len(rows) for rows in self.rows]
        lower = self.pieces + np.array([[wide, -d] for d in deep])
        return np.concatenate([self.pieces, lower])

    def draw(self, sketch: Sketch) -> None:
        step = ROW * self.h
        for (x, y), rows in zip(self.pieces, self.rows, strict=True):
            wide, high = self.edges[-1], step * len(rows)
            corners = np.array([[x, y], [x + wide, y], [x + wide, y - high], [x, y - high], [x, y]])
            sketch.stroke(curves2.polyline(corners), "visible")
            for k, row in enumerate(rows):
                top = y - k * step
                if k:
                    draw_line(sketch, np.array([x, top]), np.array([x + wide, top]))
                for cell in row:
                    self._cell(sketch, cell, x, top)
        if self.marked is not None:
            piece, line = self.marked
            x, y = self.pieces[piece] - [0.0, (line + 0.5) * step]
            half = MARK * self.h
            sketch.fill(np.array([[x - 0.5, y], [x - 0.5 - 2 * half, y + half], [x - 0.5 - 2 * half, y - half]]))

    def _cell(self, sketch: Sketch, cell: Cell, x: float, top: float) -> None:
        h = self.h
        left, right = x + self.edges[cell.column], x + self.edges[cell.column + cell.across]
        foot = top - (ROW + 1) / 2 * h
        if cell.column:
            draw_line(sketch, np.array([left, top]), np.array([left, top - ROW * h]))
        if not cell.text:
            return
        if cell.align == "right":
            sketch.text(cell.text, right - PAD * h, foot, h, "end", bold=cell.bold)
        elif cell.align == "middle":
            sketch.text(cell.text, (left + right) / 2, foot, h, "middle", bold=cell.bold)
        else:
            sketch.text(cell.text, left + PAD * h, foot, h, bold=cell.bold)


def solve(table: Table, context: LayoutContext) -> Solved:
    """What a table says, cell by cell, and where."""
    return placer(table, context)(table)


def placer(table: Table, context: LayoutContext) -> Callable[[Table], Solved]:
    """What solves a table for one place after another."""
    h = table.lettering or context.style.lettering
    try:
        texts, lost = rows_of(table, context)
    except Unmeasurable as error:
        loose = f"? {table.heading or 'Table'}: {error.title}"
        return lambda t: Loose(loose, (), np.array(t.at, float), h)
    heads = _heads(table)
    body = [_joined(table, row, k) for k, row in enumerate(texts)]
    ground = occupancy(context.drawing, context.sheet)
    title = ground.title
    edges = _edges(table, [*heads, *body], h, title.x1 - title.x0 if table.tied == "title block" else 0.0)
    most = table.most or max(len(body), 1)
    parts = [body[k : k + most] for k in range(0, len(body), most)] or [[]]
    upward = table.titles == "bottom"
    pieces = tuple(tuple([*reversed(p), *reversed(heads)]) if upward else (*heads, *p) for p in parts)
    marked = None
    if table.marked is not None and table.marked < len(body):
        piece, row = divmod(table.marked, most)
        marked = piece, (len(parts[piece]) - 1 - row if upward else row + len(heads))
    name = table.heading or "table"
    words = f"{name}, {len(body)} row{'' if len(body) == 1 else 's'}"

    def put(t: Table) -> Solved:
        wide, step = float(edges[-1]), ROW * h
        right, lower = t.corner.endswith("right"), t.corner.startswith("bottom")
        x, y = t.at
        if t.tied == "frame":
            space = ground.space
            x, y = (space.x1 if right else space.x0), (space.y0 if lower else space.y1)
        elif t.tied == "title block":
            x, y, right, lower = ground.title.x1, ground.title.y1, True, True
        corners = []
        for k, rows in enumerate(pieces):
            beside = k * (wide + APART)
            left = x - wide - beside if right else x + beside
            corners.append([left, y + step * len(rows) if lower else y])
        return SolvedTable(
            words=words,
            stands_on=(),
            lost=lost,
            pieces=np.array(corners),
            rows=pieces,
            edges=edges,
            h=h,
            marked=marked,
        )

    return put


def _heads(table: Table) -> list[tuple[Cell, ...]]:
    """The heading and the titles, as rows."""
    count = len(table.columns)
    found: list[tuple[Cell, ...]] = []
    if table.heading:
        found.append((Cell(0, count, table.heading, "middle", True),))
    if any(c.title for c in table.columns):
        found.append(tuple(Cell(k, 1, c.title, c.align, True) for k, c in enumerate(table.columns)))
    return found


def _joined(table: Table, row: list[str], number: int) -> tuple[Cell, ...]:
    """The cells of a row, those that are one as one."""
    across = {j.column: j.across for j in table.joined if j.row == number and not table.follows}
    found, k = [], 0
    while k < len(row):
        wide = across.get(k, 1)
        found.append(Cell(k, wide, row[k], table.columns[k].align))
        k += wide
    return tuple(found)


def _edges(table: Table, rows: list[tuple[Cell, ...]], h: float, least: float) -> Array:
    """Where columns begin and end: as wide as is asked for, never less than what is in them, and together ``least`` wide (mm): what that
    is more goes to columns of words."""
    widths = np.array([c.width or 0.0 for c in table.columns])
    room = 2 * PAD * h

    def need(cell: Cell) -> float:
        return text_width(cell.text, h) * (1.06 if cell.bold else 1.0) + room if cell.text else 2 * h

    for row in rows:
        for cell in row:
            if cell.across == 1:
                widths[cell.column] = max(widths[cell.column], need(cell))
    for row in rows:
        for cell in row:
            own = slice(cell.column, cell.column + cell.across)
            if cell.across > 1 and (short := need(cell) - widths[own].sum()) > 0:
                widths[own] += short / cell.across
    if (more := least - float(widths.sum())) > 0:
        wordy = np.array([c.align == "left" and c.width is None for c in table.columns])
        wordy = wordy if wordy.any() else np.ones(len(widths), bool)
        widths[wordy] += more / wordy.sum()
    return np.concatenate([[0.0], np.cumsum(widths)])
