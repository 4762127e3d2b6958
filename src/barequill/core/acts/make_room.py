"""What lies on something put where there is room for it."""

from __future__ import annotations

from typing import Literal

from ..arranging.spreading import spread
from ..arranging.standing import astray_on
from ..bounds import Ref
from ..display import DisplayList, box_of
from ..drawing import Drawing, Operation, Sheet
from ..drawing.operations import ChangeAnnotation, Group, MoveView, apply, need_sheet
from ..drawing.views import way_of
from ..errors import UserError
from ..measuring.context import root_view
from ..sheet.elements import blank
from ..sheet.stages import draw_sheet
from .base import ActContext, AnyAct, Preview
from .state_notes import room_for


class MakeRoom(AnyAct):
    """Views of a sheet that lie on each other, on the title block or across the frame moved apart, and then blocks of notes and
    tables that lie on something put where there is room."""

    act: Literal["make_room"] = "make_room"
    sheet: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        operations = self._moves(drawing, acting)
        return Group(label="Make room", operations=operations)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        operations = self._moves(drawing, acting)
        after = drawing
        for o in operations:
            after = apply(after, o)
        sheet = need_sheet(after, self.sheet)
        ink = draw_sheet(after, sheet, acting.projections, acting.display_cache)
        elements = tuple(e for e in ink.elements if e.kind != "sheet")
        return Preview(blank(drawing, sheet), elements, f"{len(operations)} moved")

    def _moves(self, drawing: Drawing, acting: ActContext) -> list[Operation]:
        sheet = need_sheet(drawing, self.sheet)
        _, lying = _astray(drawing, acting, sheet)
        if not lying:
            raise UserError("Nothing lies on anything", "All that is on the sheet has its own place.")
        operations: list[Operation] = []
        after = drawing

        def do(operation: Operation) -> None:
            nonlocal after
            operations.append(operation)
            after = apply(after, operation)

        # what hangs on nothing and carries nothing goes where there is room; what is left is moved apart in rows and columns
        for view in sheet.views:
            alone = way_of(view) is None and not drawing.descendants(view.id, tied_only=True)
            if view.id in lying and alone and (place := _elsewhere(after, acting, view.id)) is not None:
                do(MoveView(view=view.id, to=place))
        now = need_sheet(after, self.sheet)
        ink, left = _astray(after, acting, now)
        if any(v.id in left for v in now.views):
            places = spread(drawing, now, ink)
            for view in now.views:
                if view.id in places:
                    do(MoveView(view=view.id, to=places[view.id]))
        for own in [a.id for a in sheet.annotations if a.on == sheet.id]:
            move = _put(after, acting, need_sheet(after, sheet.id), own)
            if move is not None:
                do(move)
        if not operations:
            raise UserError(
                "There is no room", "Take a larger sheet or a smaller scale, or move what is in the way by hand."
            )
        return operations


def _astray(drawing: Drawing, acting: ActContext, sheet: Sheet) -> tuple[DisplayList, set[str]]:
    """A sheet as it is drawn, and the ids of what lies on something there."""
    ink = draw_sheet(drawing, sheet, acting.projections, acting.display_cache)
    return ink, {a.own for a in astray_on(drawing, sheet, ink, acting.projections.placed_views(drawing, sheet))}


def _elsewhere(drawing: Drawing, acting: ActContext, own: str) -> tuple[float, float] | None:
    """The place of a view at which it lies on nothing, with all that is written beside it, as near as may be; None where it lies on nothing, or
    there is no room."""
    sheet = drawing.sheet_of(own)
    view = drawing.view(own)
    assert sheet is not None and view is not None
    ink, lying = _astray(drawing, acting, sheet)
    if own not in lying:
        return None
    box = box_of([m for e in ink.elements if e.group == own for m in e.on_sheet()])
    if box is None:
        return None
    hung = {a.id for a in sheet.annotations if root_view(sheet, a) == own}
    without = sheet.model_copy(
        update={
            "views": [v for v in sheet.views if v.id != own],
            "annotations": [a for a in sheet.annotations if a.id not in hung],
        }
    )
    size = (box.x1 - box.x0, box.y1 - box.y0)
    found = room_for(drawing.with_sheet(without), acting, without, [size], near=(box.x0, box.y0))
    if found is None:
        return None
    _, x, y = found
    return round(view.place[0] + x - box.x0, 2), round(view.place[1] + y - box.y0, 2)


def _put(drawing: Drawing, acting: ActContext, sheet: Sheet, own: str) -> Operation | None:
    """What moves something that stands on the sheet to where there is room, if it lies on something; None where it may stay."""
    ink, lying = _astray(drawing, acting, sheet)
    annotation, element = sheet.annotation(own), ink.of(own)
    at = getattr(annotation, "at", None)
    box = box_of(element.on_sheet()) if element is not None else None
    if own not in lying or at is None or box is None:
        return None
    without = sheet.model_copy(update={"annotations": [a for a in sheet.annotations if a.id != own]})
    found = room_for(drawing.with_sheet(without), acting, without, [(box.x1 - box.x0, box.y1 - box.y0)])
    if found is None:
        raise UserError("There is no room", "Take a larger sheet or a smaller scale, or set it down on another sheet.")
    _, x, y = found
    return ChangeAnnotation(id=own, changes={"at": (round(at[0] + x - box.x0, 2), round(at[1] + y - box.y0, 2))})
