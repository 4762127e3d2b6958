"""What a checker would mark about lists: items without a number, holes of a table without their letter."""

from __future__ import annotations

from collections.abc import Mapping

from ..drawing import Drawing, Sheet
from ..drawing.annotations.hole_letter import HoleLetter
from ..drawing.annotations.item_number import ItemNumber
from ..drawing.annotations.table import Table
from ..kinds.common.table_rows import without_letter
from ..views.placed_view import PlacedView
from .remarks import Remark


def list_remarks(drawing: Drawing, sheet: Sheet, placed_views: Mapping[str, PlacedView]) -> list[Remark]:
    """Of each parts list the items that no view has a number of, where some are numbered; of each table of holes those that have no letter."""
    numbered = {i for s in drawing.sheets for a in s.annotations if isinstance(a, ItemNumber) for i in a.items}
    found: list[Remark] = []
    for table in (a for a in sheet.annotations if isinstance(a, Table)):
        if table.follows == "parts" and numbered:
            bare = [i for i in drawing.items if i.id not in numbered and i.part]
            found += [Remark(table.id, f"Item {i.number}, {i.name}, has no number on any view") for i in bare]
        placed_view = placed_views.get(table.view)
        if table.follows == "holes" and placed_view is not None:
            refs = [a.hole for a in sheet.annotations if isinstance(a, HoleLetter) and a.on == table.view]
            bare_holes = [n.name for n in without_letter(placed_view, refs)]
            found += [Remark(table.id, f"Hole {name} of the table has no letter beside it") for name in bare_holes]
    return found
