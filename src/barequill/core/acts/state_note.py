"""A note written on geometry, on a size, on a view, or on the sheet; and leaders added to it."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import Ref
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.hung import Foot
from ..drawing.annotations.text_note import TextNote
from ..drawing.base import Point
from ..drawing.operations import ChangeAnnotation, need_sheet
from ..errors import BadOperation
from ..kinds.common.hanging import spot_of
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging, need_hung, need_sign


class StateNote(AnyHanging):
    """A note at the pointer; without geometry on a view, or on the ``sheet`` where no view is named."""

    act: Literal["state_note"] = "state_note"
    text: str = Field(min_length=1, max_length=2000)
    sheet: Ref = ""

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        own = drawing.fresh()[0]
        if self.on or self.ref or self.dot:
            sheet, _, fields, _ = self.on_sheet(drawing, acting)
            return sheet, TextNote(id=own, text=self.text, **fields), ""
        if self.view:
            found = drawing.sheet_of(self.view)
            if found is None:
                raise BadOperation("The view is gone", "Choose another view.")
            context, (x, y) = acting.context(drawing, found, self.view)
            middle = context.view.transform.to_sheet(np.zeros((1, 2)))[0]
            at = (round(self.pointer[0] - x - float(middle[0]), 3), round(self.pointer[1] - y - float(middle[1]), 3))
            return found, TextNote(id=own, on=self.view, text=self.text, at=at), ""
        found = need_sheet(drawing, self.sheet)
        return found, TextNote(id=own, on=found.id, text=self.text, at=self.pointer), ""


class ChangeNote(AnyAct):
    """What a note says, written anew."""

    act: Literal["change_note"] = "change_note"
    id: Ref
    text: str = Field(min_length=1, max_length=2000)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        need_sign(drawing, self.id, TextNote)
        return ChangeAnnotation(id=self.id, changes={"text": self.text})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, own = need_sign(drawing, self.id, TextNote)
        return annotation_shown(drawing, acting, sheet, own.model_copy(update={"text": self.text}))


class AddLeader(AnyAct):
    """One more leader from a note to geometry, touched ``at`` a place of the sheet; or where it is there, that taken off."""

    act: Literal["add_leader"] = "add_leader"
    id: Ref
    ref: Ref
    at: Point
    dot: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        return ChangeAnnotation(id=self.id, changes=self._changes(drawing, acting)[2])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, own, changes = self._changes(drawing, acting)
        more = [Foot.model_validate(f) for f in changes["more"]]
        return annotation_shown(drawing, acting, sheet, own.model_copy(update={"more": more}))

    def _changes(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, TextNote, dict[str, Any]]:
        sheet, own = need_hung(drawing, self.id)
        if not isinstance(own, TextNote) or own.foot is None:
            raise BadOperation("It has no leader", "Only a note that is led to geometry gets more of them.")
        context, (x, y) = acting.context(drawing, sheet, own.id)
        spot = spot_of(context.view, self.ref, np.array([self.at[0] - x, self.at[1] - y]))
        kept = [f for f in own.more if f.ref != self.ref]
        new = kept if len(kept) < len(own.more) else [*kept, Foot(ref=self.ref, spot=spot, dot=self.dot)]
        return sheet, own, {"more": [f.model_dump() for f in new]}
