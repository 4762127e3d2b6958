"""A texture sign set on an outline or led to it, as it is typed; and typed anew."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..bounds import FEW, Ref, Text
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.surface_texture import SurfaceTexture
from ..drawing.operations import ChangeAnnotation, Group
from ..drawing.texture_language import texture_of
from ..kinds.common.hanging import hold_of
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging, need_sign
from .move_sign import SEAT

PLAIN = {"made": "removed", "lay": "", "allowance": "", "all_round": False}
"""What a texture is where nothing else is typed."""


class StateTexture(AnyHanging):
    """A texture at the pointer: seated on the outline where that is near, else on a leader."""

    act: Literal["state_texture"] = "state_texture"
    text: Text = "Ra 3.2"

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        said = texture_of(self.text)
        sheet, context, fields, _ = self.on_sheet(drawing, acting)
        texture = SurfaceTexture(id=drawing.fresh()[0], **fields, **said)
        if texture.foot is not None:
            _, (x, y) = acting.context(drawing, sheet, self.view)
            tip = hold_of(context.view, texture.foot).tip
            away = float(np.linalg.norm(np.array([self.pointer[0] - x, self.pointer[1] - y]) - tip))
            texture = texture.model_copy(update={"seated": away < SEAT and not self.dot})
        return sheet, texture, ""


class ChangeTexture(AnyAct):
    """What textures say, typed anew."""

    act: Literal["change_texture"] = "change_texture"
    ids: list[Ref] = Field(min_length=1, max_length=FEW)
    text: Text

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        said = texture_of(self.text)
        for own in self.ids:
            need_sign(drawing, own, SurfaceTexture)
        steps: list[Operation] = [ChangeAnnotation(id=own, changes={**PLAIN, **said}) for own in self.ids]
        return steps[0] if len(steps) == 1 else Group(label="Change textures", operations=steps)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, own = need_sign(drawing, self.ids[0], SurfaceTexture)
        return annotation_shown(drawing, acting, sheet, own.model_copy(update={**PLAIN, **texture_of(self.text)}))
