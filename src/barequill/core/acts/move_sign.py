"""A sign or note dragged: the end of its leader to the pointer, or along what it is stacked under."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.hung import AnyHung
from ..drawing.annotations.surface_texture import SurfaceTexture
from ..drawing.annotations.treated_stretch import TreatedStretch
from ..drawing.base import Point
from ..drawing.operations import ChangeAnnotation, need_annotation
from ..errors import BadOperation
from ..kinds import solve
from ..kinds.common.hanging import hold_of, spot_of
from ..kinds.common.solving import way_at
from ..measuring.context import LayoutContext
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import SHORTEST, led_to, need_hung

NEAR_TIP = 2.5
"""mm about the tip of a leader within which that is taken, not the sign."""
SEAT = 10.0
"""mm from the outline beyond which a texture comes off it, onto a leader."""


class MoveSign(AnyAct):
    """A sign dragged from where it was pressed (``start``) to the pointer."""

    act: Literal["move_sign"] = "move_sign"
    id: Ref
    start: Point
    pointer: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        return ChangeAnnotation(id=self.id, changes=self._moved(drawing, acting)[2])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, own, changes = self._moved(drawing, acting)
        return annotation_shown(drawing, acting, sheet, own.model_copy(update=changes))

    def _moved(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, dict[str, Any]]:
        by = np.array(self.pointer) - np.array(self.start)
        sheet, free = need_annotation(drawing, self.id)
        if "at" in free.placed_by and getattr(free, "foot", None) is None and sheet.annotation(free.on) is None:
            x, y = free.model_dump(include={"at"})["at"]
            return sheet, free, {"at": (round(x + float(by[0]), 3), round(y + float(by[1]), 3))}
        sheet, own = need_hung(drawing, self.id)
        if own.foot is not None:
            context, place = acting.context(drawing, sheet, own.id)
            tip = hold_of(context.view, own.foot).tip
            stood = _foot_moved(context, own, tip, np.array(self.start) - place, by)
            if stood is not None:
                return sheet, own, stood
            end = tip + own.offset * way_at(own.angle) + by
            return sheet, own, led_to(tip, (float(end[0]), float(end[1])), (0.0, 0.0))
        context, _ = acting.context(drawing, sheet, own.id)
        carrier = context.carrier(own)
        if carrier is None:
            raise BadOperation("It hangs on nothing", "Remove it and set it anew.")
        under = solve(carrier, context).under()
        if under is None:
            raise BadOperation("It hangs on nothing", "Remove it and set it anew.")
        if under.ends and type(own).model_fields["kind"].default == "datum_feature":
            end, way = max(under.ends, key=lambda e: float(np.dot(e[1], way_at(own.angle))))
            there = end + own.offset * way + by
            ends = [(float((there - e) @ w), w) for e, w in under.ends]
            far, way = max(ends, key=lambda e: e[0])
            angle = float(np.degrees(np.arctan2(way[1], way[0])))
            return sheet, own, {"offset": round(max(far, SHORTEST), 2), "angle": round(angle, 3)}
        x, y = own.shift
        return (
            sheet,
            own,
            {"shift": (round(x + float(by @ under.along), 2), round(min(0.0, y + float(by @ under.across)), 2))},
        )


def _foot_moved(context: LayoutContext, own: AnyHung, tip: Any, pressed: Any, by: Any) -> dict[str, Any] | None:
    """The changes of a sign that is taken at its tip, or that sits on the outline: it goes along that; None for others."""
    if isinstance(own, TreatedStretch) and own.foot is not None:
        far = hold_of(context.view, own.foot.model_copy(update={"spot": own.to})).tip
        if float(np.linalg.norm(pressed - far)) < NEAR_TIP:
            return {"to": spot_of(context.view, own.foot.ref, far + by)}
    seated = isinstance(own, SurfaceTexture) and own.seated
    if own.foot is None or not (seated or float(np.linalg.norm(pressed - tip)) < NEAR_TIP):
        return None
    place = tip + by
    foot = own.foot.model_copy(update={"spot": spot_of(context.view, own.foot.ref, place)})
    new = hold_of(context.view, foot).tip
    if seated:
        if float(np.linalg.norm(place - new)) > SEAT:
            a = led_to(tip, (float(place[0]), float(place[1])), (0.0, 0.0))
            return {**a, "seated": False}
        return {"foot": foot.model_dump()}
    end = tip + own.offset * way_at(own.angle)
    return {"foot": foot.model_dump(), **led_to(new, (float(end[0]), float(end[1])), (0.0, 0.0))}
