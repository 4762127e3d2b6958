"""Tables: written ones, and such as are filled by the holes of a view, the parts list, the revisions, or the general tolerances."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..bounds import Ref
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet, View
from ..drawing.annotations.hole_letter import HoleLetter
from ..drawing.annotations.hung import Foot
from ..drawing.annotations.table import COLUMNS, ROWS, Column, Table
from ..drawing.annotations.text_note import TextNote
from ..drawing.operations import Annotate, ChangeAnnotation, need_sheet, need_view
from ..errors import BadOperation, UserError
from ..kinds import solve
from ..kinds.common.hanging import bends_shown, spot_of
from ..kinds.common.table_rows import HEADINGS, holes_shown, usual_columns, without_letter
from ..measuring.picking import Pick, anchor_for
from .base import ActContext, AnyAct, Preview, annotation_shown
from .pull_dimension import PickJson
from .state_notes import room_for

Follows = Literal["holes", "parts", "revisions", "tolerances", "bends"]


class StateTable(AnyAct):
    """A table where there is room. ``text``: a line for each row, its cells parted by tabs or ``|``, or as ``name: value``; a line without
    either at the top is the heading. Of more than two columns the first row are the titles. With an ``id`` that table written anew."""

    act: Literal["state_table"] = "state_table"
    sheet: Ref
    text: str = Field(max_length=200_000)
    id: Ref = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, table = self._made(drawing, acting)
        if self.id:
            changes = table.model_dump(mode="json", include={"rows", "heading", "columns", "joined"})
            return ChangeAnnotation(id=self.id, changes=changes)
        return Annotate(sheet=self.sheet, annotations=[table])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return annotation_shown(drawing, acting, *self._made(drawing, acting))

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, Table]:
        sheet = need_sheet(drawing, self.sheet)
        heading, columns, rows = cells_of_text(self.text)
        if self.id:
            own = sheet.annotation(self.id)
            if not isinstance(own, Table) or own.follows:
                raise BadOperation("The table is gone", "It was removed, or fills itself.")
            kept = own.columns if len(own.columns) == len(columns) else []
            columns = [
                c.model_copy(update={"title": new.title}) for c, new in zip(kept, columns, strict=False)
            ] or columns
            joined = [j for j in own.joined if j.row < len(rows) and j.column + j.across <= len(columns)]
            return sheet, own.model_copy(
                update={"heading": heading, "rows": rows, "columns": columns, "joined": joined}
            )
        table = Table(id=drawing.fresh()[0], on=sheet.id, heading=heading, columns=columns, rows=rows)
        return sheet, put_where_free(drawing, acting, sheet, table)


class StateListTable(AnyAct):
    """A table that fills itself: with the holes that a ``view`` shows from above, counted from its lower left corner or from what is
    picked (``origin``), each with its letter beside it; with the bends of a flat pattern, each with its number; with the items of the parts list, the revisions, or the general tolerances."""

    act: Literal["state_list_table"] = "state_list_table"
    sheet: Ref
    follows: Follows
    view: Ref = ""
    origin: PickJson | None = None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        own, *ids = drawing.fresh(ROWS + 1)
        table = Table(
            id=own,
            on=sheet.id,
            follows=self.follows,
            heading=HEADINGS[self.follows],
            columns=usual_columns(self.follows),
        )
        letters: list[AnyAnnotation] = []
        if self.follows == "holes":
            table, letters = self._of_holes(drawing, acting, sheet, table, ids)
        elif self.follows == "bends":
            table = table.model_copy(update={"view": self.view})
            letters = self._of_bends(drawing, acting, sheet, ids)
        elif self.follows == "parts":
            if not drawing.items:
                raise UserError("There are no items", "List the parts first.")
            table = table.model_copy(update={"tied": "title block", "corner": "bottom right", "titles": "bottom"})
        elif self.follows == "revisions":
            if not drawing.revisions:
                raise UserError("There are no revisions", "Issue the drawing first: each issue adds one.")
            table = table.model_copy(update={"tied": "frame", "corner": "top right"})
        if any(isinstance(a, Table) and a.follows == self.follows and a.view == table.view for a in sheet.annotations):
            raise UserError("It is there already", "It follows by itself; remove it to state it anew.")
        if not table.tied:
            table = put_where_free(drawing, acting, sheet, table)
        solved = solve(table, acting.sheet_stage(drawing, sheet))
        if solved.loose:
            raise UserError(solved.words.removeprefix("? "), "It would be empty.")
        return Annotate(sheet=sheet.id, annotations=[table, *letters])

    def _view_on(self, drawing: Drawing, sheet: Sheet) -> View:
        """The view that the table is about; raises BadOperation where it is not on the table's own sheet."""
        home, view = need_view(drawing, self.view)
        if home.id != sheet.id:
            raise BadOperation("The view is on another sheet", "State the table on the sheet of its view.")
        return view

    def _of_holes(
        self, drawing: Drawing, acting: ActContext, sheet: Sheet, table: Table, ids: list[str]
    ) -> tuple[Table, list[AnyAnnotation]]:
        view = self._view_on(drawing, sheet)
        context, (x, y) = acting.context(drawing, sheet, view.id)
        named = holes_shown(context.view)
        if not named:
            raise UserError("This view shows no holes from above", "Choose the view that looks into them.")
        origin = None
        if self.origin is not None:
            pick = self.origin
            origin = anchor_for(context.view, Pick(pick.ref, pick.x - x, pick.y - y, pick.at))
        part = context.view.projected.whole
        have = [a.hole for a in sheet.annotations if isinstance(a, HoleLetter) and a.on == view.id]
        letters: list[AnyAnnotation] = []
        for own, n in zip(ids, without_letter(context.view, have), strict=False):
            ref = part.faces[n.hole.faces[0]].ref
            letters.append(HoleLetter(id=own, on=view.id, hole=ref, foot=Foot(ref=ref), angle=45.0, offset=1.5))
        return table.model_copy(update={"view": view.id, "origin": origin}), letters

    def _of_bends(self, drawing: Drawing, acting: ActContext, sheet: Sheet, ids: list[str]) -> list[AnyAnnotation]:
        """The number of each bend beside its line, at its lower end, or at the left one of a level line."""
        view = self._view_on(drawing, sheet)
        placed_view = acting.context(drawing, sheet, view.id)[0].view
        bends = bends_shown(placed_view.projected)
        if not bends:
            raise UserError("This view shows no bends", "Choose the flat pattern of a bent sheet.")
        said = [a for a in sheet.annotations if isinstance(a, TextNote) and a.on == view.id and a.foot is not None]
        numbered = {a.foot.ref for a in said if a.foot is not None and "{bend_number}" in a.text}
        hull, made = placed_view.hull, list[AnyAnnotation]()
        for own, shown in zip(ids, bends, strict=False):
            bend = shown.bend
            if bend.ref in numbered:
                continue
            # as it lies on the sheet, on which the view may be turned
            flat = placed_view.transform.to_sheet(shown.line)
            across = np.ptp(flat, axis=0)
            axis = 0 if across[0] > across[1] else 1
            tip = flat[int(np.argmin(flat[:, axis]))]
            foot = Foot(ref=bend.ref, spot=spot_of(placed_view, bend.ref, tip))
            beyond = float(tip[axis] - hull[:, axis].min()) + 6.0
            angle = 270.0 if axis else 180.0
            made.append(
                TextNote(id=own, on=view.id, text="{bend_number}", foot=foot, angle=angle, offset=round(beyond, 2))
            )
        return made


def put_where_free(drawing: Drawing, acting: ActContext, sheet: Sheet, table: Table) -> Table:
    """A table where there is room for it; where there is none, at its place."""
    box = solve(table, acting.sheet_stage(drawing, sheet)).box
    found = room_for(drawing, acting, sheet, [(box.x1 - box.x0, box.y1 - box.y0)])
    if found is None:
        return table
    _, x, y = found
    return table.model_copy(update={"at": (round(x, 2), round(y + box.y1 - box.y0, 2)), "corner": "top left"})


def cells_of_text(text: str) -> tuple[str, list[Column], list[list[str]]]:
    """Heading, columns and rows of a table by the lines of a text."""
    lines = [w for t in text.replace("\r", "").split("\n") if (w := t.strip(" "))]
    sign = "\t" if any("\t" in t for t in lines) else "|" if any("|" in t for t in lines) else ""

    def cells(line: str) -> list[str]:
        if sign:
            return [c.strip() for c in line.strip(sign if sign == "|" else "").split(sign)]
        own = ":" if ":" in line else "="
        name, _, value = line.partition(own)
        return [name.strip(), value.strip()]

    heading = ""
    if len(lines) > 1 and not any(s in lines[0] for s in ([sign] if sign else [":", "="])):
        heading, *lines = lines
    if not lines:
        raise UserError("A table without rows", "Write a line for each: Module: 2.")
    rows = [cells(t) for t in lines]
    count = max(len(r) for r in rows)
    if count > COLUMNS:
        raise UserError("Too many columns", f"A table has at most {COLUMNS}.")
    columns = [Column() for _ in range(count)]
    if count > 2 and len(rows) > 1:
        titles, *rows = rows
        columns = [Column(title=t[:60]) for t in titles] + columns[len(titles) :]
    if len(rows) > ROWS:
        raise UserError("Too many rows", f"A table has at most {ROWS}.")
    if len(heading) > 60 or any(len(c) > 300 for r in rows for c in r):
        raise UserError("Too long a line", "Write at most 300 signs in a cell, and 60 in the heading.")
    return heading, columns, rows
