"""Signs that are typed (welds, edges, centre holes, knurls, datum targets): stated on geometry, and typed anew."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref, Text
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations import BY_NAME
from ..drawing.annotations.typed import AnyTyped
from ..drawing.operations import ChangeAnnotation
from ..errors import UserError
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging, need_sign

Kind = Literal["edge_sign", "weld", "centre_hole", "knurl", "datum_target", "treated_stretch"]


class StateSign(AnyHanging):
    """A sign of a kind at the pointer that says what is typed."""

    act: Literal["state_sign"] = "state_sign"
    sign: Kind
    text: Text

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        kind = BY_NAME[self.sign]
        assert issubclass(kind, AnyTyped)
        if not self.text.strip():
            raise UserError(f"Nothing is said of the {kind.noun}", f"Write it like this: {kind.form}.")
        kind.read(self.text)
        sheet, _, fields, _ = self.on_sheet(drawing, acting)
        return sheet, kind.said(self.text, id=drawing.fresh()[0], **fields), ""


class ChangeSign(AnyAct):
    """What such a sign says, typed anew."""

    act: Literal["change_sign"] = "change_sign"
    id: Ref
    text: Text

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, own = need_sign(drawing, self.id, AnyTyped)
        own.said(self.text, id=own.id, on=own.on)
        return ChangeAnnotation(id=self.id, changes=own.read(self.text))

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, own = need_sign(drawing, self.id, AnyTyped)
        return annotation_shown(
            drawing, acting, sheet, own.said(self.text, **own.model_dump(exclude=set(own.read(self.text))))
        )
