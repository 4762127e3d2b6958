"""Tolerance frames as the screen asks for them: typed, or chosen cell by cell."""

from __future__ import annotations

from ..core.acts.base import ActContext
from ..core.acts.hanging import need_hung
from ..core.acts.state_frame import ChangeFrame, StateFrame, setting_of
from ..core.drawing import Drawing
from ..core.drawing.annotations.tolerance_frame import ToleranceFrame
from ..core.drawing.geometrical import check, explained, frame_of, remarks, sentence, text_of
from ..core.drawing.geometrical.choices import Setting, choices, starting
from ..core.errors import NotFound, UserError
from ..core.kinds.common.hanging import about
from ..core.standards.geometrical import Feature
from . import schemas as s


def frame_json(acting: ActContext, drawing: Drawing, act: StateFrame | ChangeFrame) -> s.FrameJson:
    """How the text of an act is understood where it would hang."""
    feature, words, text = _place(acting, drawing, act)
    setting = setting_of(drawing, acting, feature)
    text = text.strip() or starting(setting)
    try:
        frame = frame_of(text)
    except UserError as error:
        return _fault(text, setting, words, error)
    fault = ""
    try:
        check(frame, *setting)
    except UserError as error:
        fault = str(error)
    rows = [
        [s.FrameChoice(name=c.name, says=c.says, options=list(c.options)) for c in choices(frame, setting, k)]
        for k in range(len(frame.rows))
    ]
    return s.FrameJson(
        text=text_of(frame),
        words=sentence(frame),
        explained=explained(frame, feature),
        remarks=remarks(frame),
        rows=rows,
        feature=feature,
        about=words,
        meant=_meant(feature, words),
        fault=fault,
    )


def _place(acting: ActContext, drawing: Drawing, act: StateFrame | ChangeFrame) -> tuple[Feature, str, str]:
    """What a frame is about, in words too, and its text."""
    if isinstance(act, StateFrame):
        _, context, _, feature = act.on_sheet(drawing, acting)
        carrier = context.sheet.annotation(act.on) if act.on else None
        words = about(context, carrier)[1] if carrier is not None else "surface"
        return feature, words, act.text
    sheet, own = need_hung(drawing, act.id)
    if not isinstance(own, ToleranceFrame):
        raise NotFound("There is no such frame", "It was removed; choose another.")
    context, _ = acting.context(drawing, sheet, own.id)
    feature, words = about(context, own.model_copy(update={"derived": act.derived}))
    return feature, words, act.text or text_of(own.frame)


def _fault(text: str, setting: Setting, words: str, error: UserError) -> s.FrameJson:
    return s.FrameJson(
        text=text,
        words="",
        explained="",
        remarks=[],
        rows=[],
        feature=setting.feature or "surface",
        about=words,
        meant=_meant(setting.feature or "surface", words),
        fault=str(error),
    )


def _meant(feature: str, words: str) -> str:
    return words if words.startswith(feature) else f"{feature}, {words}"
