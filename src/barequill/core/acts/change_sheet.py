"""Another sheet, scale or projection, and views moved to where they stand best."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import Group, SetSheet, SetView, SheetChanges, apply, need_sheet
from ..errors import BadOperation, UserError
from ..views.proposal import rearranged
from .base import ActContext, AnyAct


class ChangeSheet(SheetChanges, AnyAct):
    """Another size, direction, scale, angle or standard; the views are rearranged."""

    act: Literal["change_sheet"] = "change_sheet"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        change = SetSheet(**self.model_dump(exclude={"act"}))
        trial = apply(drawing, change)
        sheet = need_sheet(trial, self.sheet)
        if not sheet.views:
            return change
        resized = self.size is not None or self.landscape is not None
        before = need_sheet(drawing, self.sheet).scale
        scale = self.scale if self.scale is not None else None if resized else sheet.scale
        try:
            found = rearranged(acting.projections, trial, sheet, scale, before)
        except UserError:
            found = rearranged(acting.projections, trial, sheet, sheet.scale, before)
        operations: list[Operation] = [
            change.model_copy(update={"scale": found.scale, "places": found.places}),
            *(
                SetView(view=v.id, changes={"scale": found.scales.get(v.id)})
                for v in sheet.views
                if v.pictorial and scale is None and v.scale != found.scales.get(v.id)
            ),
        ]
        return operations[0] if len(operations) == 1 else Group(label="Set the sheet", operations=operations)


class Spread(AnyAct):
    """Views moved to where they stand best."""

    act: Literal["spread"] = "spread"
    sheet: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        if not sheet.views:
            raise BadOperation("There is nothing to spread", "Place a view first.")
        found = rearranged(acting.projections, drawing, sheet, sheet.scale)
        return SetSheet(sheet=sheet.id, places=found.places)
