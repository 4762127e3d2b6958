"""What stands on the sheet by itself: a table of values, the general texture."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations.general_texture import GeneralTexture
from ..drawing.annotations.value_table import ValueRow, ValueTable
from ..drawing.operations import Annotate, ChangeAnnotation, need_sheet
from ..errors import BadOperation, UserError
from ..kinds import solve
from ..views.occupancy import occupancy
from .base import ActContext, AnyAct, Preview, annotation_shown
from .state_notes import room_for


class StateTable(AnyAct):
    """A table of values where there is room, a line of ``text`` for each row (``name: value``); one without a value, at the top, is its
    heading. With an ``id`` the lines of that table written anew."""

    act: Literal["state_table"] = "state_table"
    sheet: Ref
    text: str = Field(max_length=20000)
    id: Ref = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, table = self._made(drawing, acting)
        if self.id:
            rows = [r.model_dump() for r in table.rows]
            return ChangeAnnotation(id=self.id, changes={"rows": rows, "heading": table.heading})
        return Annotate(sheet=self.sheet, annotations=[table])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return annotation_shown(drawing, acting, *self._made(drawing, acting))

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, ValueTable]:
        sheet = need_sheet(drawing, self.sheet)
        heading, rows = rows_of_text(self.text)
        if self.id:
            own = sheet.annotation(self.id)
            if not isinstance(own, ValueTable):
                raise BadOperation("The table is gone", "It was removed.")
            return sheet, own.model_copy(update={"heading": heading, "rows": rows})
        table = ValueTable(id=drawing.fresh()[0], on=sheet.id, heading=heading, rows=rows)
        box = solve(table, acting.sheet_stage(drawing, sheet)).box
        found = room_for(drawing, acting, sheet, [(box.x1 - box.x0, box.y1 - box.y0)])
        if found is None:
            return sheet, table
        _, x, y = found
        return sheet, table.model_copy(update={"at": (round(x, 2), round(y + box.y1 - box.y0, 2))})


class StateGeneralTexture(AnyAct):
    """The general texture above the title block; it says what the title block's field says."""

    act: Literal["state_general_texture"] = "state_general_texture"
    sheet: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        if any(isinstance(a, GeneralTexture) for a in sheet.annotations):
            raise UserError("It is there already", "It follows the title block and what is stated on the sheets.")
        title = occupancy(sheet.size, sheet.landscape).title
        own = GeneralTexture(id=drawing.fresh()[0], on=sheet.id, at=(round(title.x0 + 4, 2), round(title.y1 + 6, 2)))
        solved = solve(own, acting.sheet_stage(drawing, sheet))
        if solved.loose:
            raise UserError("The title block says no texture", "Fill in its field first, such as Ra 6.3.")
        box = solved.box
        found = room_for(drawing, acting, sheet, [(box.x1 - box.x0, box.y1 - box.y0)])
        if found is not None:
            _, x, y = found
            at = (round(own.at[0] + x - box.x0, 2), round(own.at[1] + y - box.y0, 2))
            own = own.model_copy(update={"at": at})
        return Annotate(sheet=sheet.id, annotations=[own])


def rows_of_text(text: str) -> tuple[str, list[ValueRow]]:
    """Heading and rows of a table by the lines of a text."""
    lines = [w for t in text.split("\n") if (w := t.strip())]
    heading = ""
    if lines and ":" not in lines[0] and "=" not in lines[0] and len(lines) > 1:
        heading, *lines = lines
    if not lines:
        raise UserError("A table without rows", "Write a line for each: Module: 2.")
    if len(lines) > 60:
        raise UserError("Too many rows", "A table has at most 60.")
    if len(heading) > 60 or any(len(t) > 300 for t in lines):
        raise UserError("Too long a line", "Write at most 300 signs in a row, and 60 in the heading.")
    rows = []
    for t in lines:
        sign = ":" if ":" in t else "="
        name, _, value = t.partition(sign)
        rows.append(ValueRow(name=name.strip(), value=value.strip()))
    return heading, rows
