"""A tolerance frame stated as it is typed, on geometry or on a size, and typed anew."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from ..annotation.hanging import about
from ..bounds import Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.annotations.tolerance_frame import ToleranceFrame
from ..drawing.geometrical import Frame, check, explained, frame_of, remarks, sentence, text_of
from ..drawing.geometrical.choices import Setting
from ..drawing.operations import Annotate, ChangeAnnotation
from ..errors import BadOperation
from ..standards.geometrical import Feature
from .base import AnyAct, Bench, Preview
from .hanging import AnyHanging, has_size, last_of_stack, need_hung, shown


class StateFrame(AnyHanging):
    """A tolerance frame at the pointer that says what is typed."""

    act: Literal["state_frame"] = "state_frame"
    text: str = Field(max_length=600)

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, frame, _ = self._made(drawing, bench)
        return Annotate(sheet=sheet.id, annotations=[frame])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, frame, feature = self._made(drawing, bench)
        return shown(drawing, bench, sheet, frame, said_of(frame.frame, feature))

    def _made(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, ToleranceFrame, Feature]:
        sheet, stage, fields, feature = self.seat(drawing, bench)
        frame = understood(drawing, bench, self.text, feature)
        if self.on:
            own = ToleranceFrame(id=drawing.fresh()[0], frame=frame, on=self.on)
            return sheet, own.model_copy(update={"on": last_of_stack(stage, own)}), feature
        return sheet, ToleranceFrame(id=drawing.fresh()[0], frame=frame, **fields), feature

    def about(self, drawing: Drawing, bench: Bench) -> Feature:
        """What a frame there would be about."""
        return self.seat(drawing, bench)[3]


class ChangeFrame(AnyAct):
    """What a tolerance frame says, typed anew (an empty text: as it is); ``derived``: whether it is about the axis of the surface that it
    is led to."""

    act: Literal["change_frame"] = "change_frame"
    id: Ref
    text: str = Field(max_length=600)
    derived: bool = False

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        return ChangeAnnotation(id=self.id, changes=self._changes(drawing, bench)[2])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, own, changes = self._changes(drawing, bench)
        frame = understood(drawing, bench, self.said(own), self.feature(drawing, bench, sheet, own))
        after = own.model_copy(update=changes | {"frame": frame})
        return shown(drawing, bench, sheet, after, said_of(frame, self.feature(drawing, bench, sheet, own)))

    def said(self, own: ToleranceFrame) -> str:
        """What it is to say."""
        return self.text if self.text.strip() else text_of(own.frame)

    def feature(self, drawing: Drawing, bench: Bench, sheet: Sheet, own: ToleranceFrame) -> Feature:
        stage, _ = bench.stage(drawing, sheet, own.id)
        return about(stage, own.model_copy(update={"derived": self.derived}))[0]

    def _changes(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, ToleranceFrame, dict[str, object]]:
        sheet, own = need_hung(drawing, self.id)
        if not isinstance(own, ToleranceFrame):
            raise BadOperation("That is no tolerance frame", "Choose one.")
        if self.derived and own.foot is not None:
            stage, _ = bench.stage(drawing, sheet, own.id)
            if not has_size(stage.view.shot, own.foot.ref):
                raise BadOperation("That surface has no axis", "Only what is round has one; leave it with the surface.")
        frame = understood(drawing, bench, self.said(own), self.feature(drawing, bench, sheet, own))
        return sheet, own, {"frame": frame.model_dump(mode="json"), "derived": self.derived}


def setting_of(drawing: Drawing, bench: Bench, feature: Feature | None) -> Setting:
    """What a frame is about, and the datums of its drawing."""
    datums = {a.letter: sized for a, sized in datums_of(drawing, bench)}
    return Setting(feature, datums, {letter for letter, sized in datums.items() if sized})


def understood(drawing: Drawing, bench: Bench, text: str, feature: Feature | None) -> Frame:
    """The frame that a text tells, refused where it is nonsense for what it is about or in this drawing."""
    frame = frame_of(text)
    check(frame, *setting_of(drawing, bench, feature))
    return frame


def datums_of(drawing: Drawing, bench: Bench) -> Iterator[tuple[DatumFeature, bool]]:
    """All datums of a drawing, and whether each is a feature of size."""
    for sheet in drawing.sheets:
        for a in sheet.annotations:
            if isinstance(a, DatumFeature):
                stage, _ = bench.stage(drawing, sheet, a.id)
                round_ = a.foot is not None and has_size(stage.view.shot, a.foot.ref)
                yield a, round_ or about(stage, a)[0] != "surface"


def said_of(frame: Frame, feature: Feature) -> str:
    """What a frame says of a feature, and what is to be remarked about it."""
    found = f"{sentence(frame)} ({feature}). {explained(frame, feature)}"
    return " ".join([found, *(f"Remark: {r}." for r in remarks(frame))])
