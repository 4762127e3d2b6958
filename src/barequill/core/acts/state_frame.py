"""A tolerance frame stated as it is typed, on geometry or on a size, and typed anew."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from ..bounds import Ref
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.annotations.tolerance_frame import ToleranceFrame
from ..drawing.geometrical import Frame, check, explained, frame_of, remarks, sentence, text_of
from ..drawing.geometrical.choices import Setting
from ..drawing.operations import ChangeAnnotation
from ..errors import BadOperation
from ..kinds.common.hanging import about
from ..standards.geometrical import Feature
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging, has_size, need_sign


class StateFrame(AnyHanging):
    """A tolerance frame at the pointer that says what is typed."""

    act: Literal["state_frame"] = "state_frame"
    text: str = Field(max_length=600)

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        sheet, context, fields, feature = self.on_sheet(drawing, acting)
        frame = understood(drawing, acting, self.text, feature)
        own = ToleranceFrame(id=drawing.fresh()[0], frame=frame, **({"on": self.on} if self.on else fields))
        last = context.stacked(own) if self.on else None
        if last is not None:
            own = own.model_copy(update={"on": last.id})
        return sheet, own, said_of(frame, feature)


class ChangeFrame(AnyAct):
    """What a tolerance frame says, typed anew (an empty text: as it is); ``derived``: whether it is about the axis of the surface that it
    is led to."""

    act: Literal["change_frame"] = "change_frame"
    id: Ref
    text: str = Field(max_length=600)
    derived: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, after, _ = self._after(drawing, acting)
        changes = {"frame": after.frame.model_dump(mode="json"), "derived": self.derived}
        return ChangeAnnotation(id=self.id, changes=changes)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, after, feature = self._after(drawing, acting)
        return annotation_shown(drawing, acting, sheet, after, said_of(after.frame, feature))

    def _after(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, ToleranceFrame, Feature]:
        """The sheet, the frame as it will be, and what it is about then."""
        sheet, own = need_sign(drawing, self.id, ToleranceFrame)
        context, _ = acting.context(drawing, sheet, own.id)
        if self.derived and own.foot is not None and not has_size(context.view.projected, own.foot.ref):
            raise BadOperation("That surface has no axis", "Only what is round has one; leave it with the surface.")
        after = own.model_copy(update={"derived": self.derived})
        feature, _ = about(context, after)
        text = self.text if self.text.strip() else text_of(own.frame)
        return sheet, after.model_copy(update={"frame": understood(drawing, acting, text, feature)}), feature


def setting_of(drawing: Drawing, acting: ActContext, feature: Feature | None) -> Setting:
    """What a frame is about, and the datums of its drawing."""
    datums = {a.letter: sized for a, sized in datums_of(drawing, acting)}
    return Setting(feature, datums, {letter for letter, sized in datums.items() if sized})


def understood(drawing: Drawing, acting: ActContext, text: str, feature: Feature | None) -> Frame:
    """The frame that a text tells, refused where it is nonsense for what it is about or in this drawing."""
    frame = frame_of(text)
    check(frame, *setting_of(drawing, acting, feature))
    return frame


def datums_of(drawing: Drawing, acting: ActContext) -> Iterator[tuple[DatumFeature, bool]]:
    """All datums of a drawing, and whether each is a feature of size."""
    for sheet in drawing.sheets:
        for a in sheet.annotations:
            if isinstance(a, DatumFeature):
                context, _ = acting.context(drawing, sheet, a.id)
                round_ = a.foot is not None and has_size(context.view.projected, a.foot.ref)
                yield a, round_ or about(context, a)[0] != "surface"


def said_of(frame: Frame, feature: Feature) -> str:
    """What a frame says of a feature, and what is to be remarked about it."""
    found = f"{sentence(frame)} ({feature}). {explained(frame, feature)}"
    return " ".join([found, *(f"Remark: {r}." for r in remarks(frame))])
