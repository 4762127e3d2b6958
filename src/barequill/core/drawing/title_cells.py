"""Changing the cells of a title block: each gives the template with the change, and the cells still fill the block without gaps."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from ..errors import BadOperation
from .templates import LOWEST, MOST_CELLS, NARROWEST, TOUCH, Template, TitleCell, called

Edge = Literal["left", "right", "top", "bottom"]
STEP = 0.5
"""mm to which borders are set."""
NEW_ROW, NEW_COLUMN = 10.0, 40.0
"""mm of a row or column that is added."""


def need_cell(template: Template, cell_id: str) -> TitleCell:
    """The cell of that id.

    Raises
    ------
    BadOperation
        Where it is gone.
    """
    cell = template.cell(cell_id)
    if cell is None:
        raise BadOperation("That cell is gone", f"The title block has no cell {cell_id} any more.")
    return cell


def with_cells(template: Template, cells: Iterable[TitleCell]) -> Template:
    """A template with other cells, moved so that they begin at the lower left corner of the block."""
    cells = list(cells)
    x, y = min(c.x for c in cells), min(c.y for c in cells)
    if x or y:
        cells = [c.model_copy(update={"x": round(c.x - x, 3), "y": round(c.y - y, 3)}) for c in cells]
    return template.model_copy(update={"cells": cells})


def changed(template: Template, cell_id: str, **changes: object) -> Template:
    """A template of which a cell is otherwise."""
    need_cell(template, cell_id)
    return template.model_copy(
        update={"cells": [c.model_copy(update=changes) if c.id == cell_id else c for c in template.cells]}
    )


def _free(template: Template) -> str:
    if len(template.cells) >= MOST_CELLS:
        raise BadOperation("That is too much", f"A title block has {MOST_CELLS} cells at most.")
    taken = {c.id for c in template.cells}
    return next(n for k in range(1, MOST_CELLS + 2) if (n := f"cell-{k}") not in taken)


def split(template: Template, cell_id: str, across: bool, at: float | None = None) -> Template:
    """A cell in two, beside each other where it is cut ``across`` its width, else above each other; ``at`` mm from its left or its
    bottom, in the middle where nothing is said. The left or the upper one stays what it was."""
    cell = need_cell(template, cell_id)
    length, least = (cell.width, NARROWEST) if across else (cell.height, LOWEST)
    if length < 2 * least:
        raise BadOperation(
            "The cell is too small to be split", f"Each half has {least:g} mm at least; make it larger first."
        )
    wanted = length / 2 if at is None else at
    first = min(max(round(wanted / STEP) * STEP, least), length - least)
    new = TitleCell(id=_free(template), x=cell.x, y=cell.y, width=cell.width, height=cell.height)
    if across:
        kept = cell.model_copy(update={"width": first})
        new = new.model_copy(update={"x": cell.x + first, "width": length - first})
    else:
        kept = cell.model_copy(update={"y": cell.y + first, "height": length - first})
        new = new.model_copy(update={"height": first})
    return template.model_copy(update={"cells": [*(kept if c.id == cell_id else c for c in template.cells), new]})


def joined(template: Template, cell_ids: list[str]) -> Template:
    """Cells as one, which shows what the first of them did.

    Raises
    ------
    BadOperation
        Where together they are no rectangle.
    """
    cells = [need_cell(template, c) for c in dict.fromkeys(cell_ids)]
    if len(cells) < 2:
        raise BadOperation("One cell cannot be joined", "Choose two or more beside each other: Shift and click.")
    x0, y0 = min(c.x for c in cells), min(c.y for c in cells)
    x1, y1 = max(c.x + c.width for c in cells), max(c.y + c.height for c in cells)
    if abs(sum(c.width * c.height for c in cells) - (x1 - x0) * (y1 - y0)) > TOUCH * (x1 - x0 + y1 - y0):
        raise BadOperation(
            "Those cells do not make a rectangle", "Choose also what lies between them, or move borders first."
        )
    one = cells[0].model_copy(update={"x": x0, "y": y0, "width": round(x1 - x0, 3), "height": round(y1 - y0, 3)})
    gone = {c.id for c in cells[1:]}
    return template.model_copy(
        update={"cells": [one if c.id == one.id else c for c in template.cells if c.id not in gone]}
    )


def added(template: Template, side: Literal["top", "left"]) -> Template:
    """One more cell over the whole width at the top, or over the whole height at the left."""
    own = _free(template)
    if side == "top":
        new = TitleCell(id=own, x=0, y=template.height, width=template.width, height=NEW_ROW)
        return with_cells(template, [*template.cells, new])
    new = TitleCell(id=own, x=0, y=0, width=NEW_COLUMN, height=template.height)
    moved = [c.model_copy(update={"x": c.x + NEW_COLUMN}) for c in template.cells]
    return with_cells(template, [*moved, new])


def removed(template: Template, cell_id: str) -> Template:
    """Without a cell: its neighbours on one side grow into its place; at the edge of the block that gets smaller.

    Raises
    ------
    BadOperation
        Where on no side there are neighbours that end where it does.
    """
    cell = need_cell(template, cell_id)
    others = [c for c in template.cells if c.id != cell_id]
    if not others:
        raise BadOperation("A title block has one cell at least", "Change what it shows instead.")
    whole = TOUCH + cell.width > template.width or TOUCH + cell.height > template.height
    outer = cell.y + cell.height > template.height - TOUCH if cell.width > template.width - TOUCH else cell.x < TOUCH
    if whole and outer:
        return with_cells(template, others)
    for axis in (0, 1):
        low, high = _span(cell, 1 - axis)
        for grows in (1, -1):
            border = _span(cell, axis)[0 if grows > 0 else 1]
            beside = [
                c
                for c in others
                if abs(_span(c, axis)[1 if grows > 0 else 0] - border) < TOUCH
                and _span(c, 1 - axis)[0] > low - TOUCH
                and _span(c, 1 - axis)[1] < high + TOUCH
            ]
            if abs(sum(b - a for a, b in (_span(c, 1 - axis) for c in beside)) - (high - low)) < TOUCH:
                grown = {c.id: _stretched(c, axis, grows, _span(cell, axis)) for c in beside}
                return template.model_copy(update={"cells": [grown.get(c.id, c) for c in others]})
    raise BadOperation(
        f"Nothing ends where {called(cell)} does",
        "Join it with what is beside it, or move a border so that a neighbour is as long as it.",
    )


def _span(cell: TitleCell, axis: int) -> tuple[float, float]:
    """From where to where it reaches, across (0) or up (1)."""
    return (cell.x, cell.x + cell.width) if axis == 0 else (cell.y, cell.y + cell.height)


def _between(cell: TitleCell, axis: int, low: float, high: float) -> TitleCell:
    low, high = round(low, 3), round(high, 3)
    names = ("x", "width") if axis == 0 else ("y", "height")
    return cell.model_copy(update={names[0]: low, names[1]: round(high - low, 3)})


def _stretched(cell: TitleCell, axis: int, grows: int, over: tuple[float, float]) -> TitleCell:
    low, high = _span(cell, axis)
    return _between(cell, axis, low, over[1]) if grows > 0 else _between(cell, axis, over[0], high)


def moved(template: Template, cell_id: str, side: Edge, to: float) -> Template:
    """With a border of a cell elsewhere, and all that ends or begins at the same stretch of it: ``to`` mm from the left or the bottom
    of the block, as far as all keep their least size. At the left and the top the block itself gets larger or smaller.

    Raises
    ------
    BadOperation
        For the border at the right or the bottom of the block, which stands in the corner of the frame.
    """
    cell = need_cell(template, cell_id)
    axis = 0 if side in ("left", "right") else 1
    upper = side in ("right", "top")
    at = _span(cell, axis)[1 if upper else 0]
    before, after = _along(template, cell, axis, at)
    if not before and axis == 1:
        raise BadOperation("The block stands on the frame", "Move its upper border, or one within it.")
    if not after and axis == 0:
        raise BadOperation("The block stands at the right of the frame", "Move its left border, or one within it.")
    least = NARROWEST if axis == 0 else LOWEST
    low = max((_span(c, axis)[0] for c in before), default=-1200.0) + least
    high = min((_span(c, axis)[1] for c in after), default=1200.0) - least
    where = min(max(round(to / STEP) * STEP, low), high)
    ends, begins = {c.id for c in before}, {c.id for c in after}
    # where the left of the block is moved all go along, so that it begins at 0 again
    zero = 0.0 if before else where
    cells = []
    for c in template.cells:
        start, end = _span(c, axis)
        start, end = where if c.id in begins else start, where if c.id in ends else end
        cells.append(_between(c, axis, start - zero, end - zero))
    return template.model_copy(update={"cells": cells})


def _along(template: Template, cell: TitleCell, axis: int, at: float) -> tuple[list[TitleCell], list[TitleCell]]:
    """The cells that end and those that begin at a border, as far as it goes on without a gap from one cell's."""
    ends = [c for c in template.cells if abs(_span(c, axis)[1] - at) < TOUCH]
    begins = [c for c in template.cells if abs(_span(c, axis)[0] - at) < TOUCH]
    if not ends or not begins:
        return ends, begins
    found = {cell.id: cell}
    while True:
        more = {
            c.id: c
            for own, others in ((ends, begins), (begins, ends))
            for c in own
            if c.id not in found and any(o.id in found and _beside(c, o, 1 - axis) for o in others)
        }
        if not more:
            break
        found |= more
    return [c for c in ends if c.id in found], [c for c in begins if c.id in found]


def _beside(a: TitleCell, b: TitleCell, axis: int) -> bool:
    (a0, a1), (b0, b1) = _span(a, axis), _span(b, axis)
    return min(a1, b1) - max(a0, b0) > TOUCH
