"""The note of a hole: stated by one gesture, and dragged."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.base import Point
from ..drawing.operations import Annotate, ChangeAnnotation
from ..errors import BadOperation, UserError
from ..features.holes import hole_at
from ..kinds.hole_note import tip_of
from .base import ActContext, AnyAct, Preview, annotation_shown, need_kind


class StateHole(AnyAct):
    """The whole note of the hole that an edge or face of it names, at the pointer."""

    act: Literal["state_hole"] = "state_hole"
    view: Ref
    ref: Ref
    pointer: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, note = self._made(drawing, acting)
        return Annotate(sheet=sheet.id, annotations=[note])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return annotation_shown(drawing, acting, *self._made(drawing, acting))

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, HoleNote]:
        sheet = drawing.sheet_of(self.view)
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        context, _ = acting.context(drawing, sheet, self.view)
        part = context.view.projected.whole
        hole = hole_at(part, self.ref)
        if hole is None:
            raise UserError("That is no hole", "Point at the circle or the sides of a bore.")
        note = HoleNote(id=drawing.fresh()[0], on=self.view, ref=part.faces[hole.faces[0]].ref)
        return sheet, _at(drawing, acting, sheet, note, self.pointer)


class MoveHoleNote(AnyAct):
    """A hole's note dragged to the pointer."""

    act: Literal["move_hole_note"] = "move_hole_note"
    id: Ref
    pointer: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, note = self._made(drawing, acting)
        return ChangeAnnotation(id=self.id, changes={"angle": note.angle, "offset": note.offset})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return annotation_shown(drawing, acting, *self._made(drawing, acting))

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, HoleNote]:
        sheet, note = need_kind(drawing, self.id, HoleNote, "The note is gone")
        return sheet, _at(drawing, acting, sheet, note, self.pointer)


def _at(drawing: Drawing, acting: ActContext, sheet: Sheet, note: HoleNote, pointer: Point) -> HoleNote:
    """A note with the end of its leader at the pointer."""
    context, (x, y) = acting.context(drawing, sheet, note.on)
    hole = hole_at(context.view.projected.whole, note.ref)
    if hole is None:
        raise UserError("The hole is gone", "The part has none there any more.")
    transform = context.view.transform
    centre = transform.to_sheet(context.view.projected.flat(hole.mouth[None]))[0]
    gap = np.array([pointer[0] - x, pointer[1] - y]) - centre
    angle = float(np.degrees(np.arctan2(gap[1], gap[0])))
    tip = tip_of(context, hole, angle)
    offset = float(np.linalg.norm(gap)) - float(np.linalg.norm(tip - centre))
    return note.model_copy(update={"angle": round(angle, 3), "offset": round(max(offset, 2.0), 2)})
