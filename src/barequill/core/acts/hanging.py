"""What acts have in common that hang signs and notes on geometry, sizes and each other."""

from __future__ import annotations

from typing import Any, TypeVar

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.hung import AnyHung, Foot
from ..drawing.base import Point
from ..drawing.operations import Annotate
from ..errors import BadOperation, UserError
from ..kinds import solve
from ..kinds.common.hanging import about, face_at, hold_of, spot_of
from ..measuring.context import LayoutContext
from ..standards.geometrical import Feature
from ..views.projected_scene import ProjectedScene
from .base import ActContext, AnyAct, Preview, annotation_shown, need_kind

S = TypeVar("S", bound=AnyHung)
SHORTEST = 3.0
"""mm that a leader has at least."""


class AnyHanging(AnyAct):
    """A sign pulled out of geometry (``ref``, touched ``at`` a place of the sheet; with a ``dot`` inside its face), or out of a
    size, note or sign (``on``), to the pointer."""

    view: Ref = ""
    ref: Ref = ""
    on: Ref = ""
    at: Point = (0.0, 0.0)
    dot: bool = False
    pointer: Point

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        """The sheet, the sign as it would hang there, and words for it (none: its own)."""
        raise NotImplementedError

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, sign, _ = self.made(drawing, acting)
        return Annotate(sheet=sheet.id, annotations=[sign])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return annotation_shown(drawing, acting, *self.made(drawing, acting))

    def on_sheet(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, LayoutContext, dict[str, Any], Feature]:
        """The sheet and layout context, the fields that tell where it hangs, and what it is about there."""
        sheet = drawing.sheet_of(self.on or self.view)
        if sheet is None:
            raise BadOperation("What it was to hang on is gone", "Choose another place.")
        if self.on:
            return self._carried(drawing, acting, sheet)
        context, (x, y) = acting.context(drawing, sheet, self.view)
        placed_view = context.view
        place = np.array([self.at[0] - x, self.at[1] - y])
        ref = self.ref or face_at(placed_view, place)
        foot = Foot(ref=ref, spot=spot_of(placed_view, ref, place), dot=self.dot)
        hold = hold_of(placed_view, foot)
        return sheet, context, {"on": self.view, "foot": foot, **led_to(hold.tip, self.pointer, (x, y))}, hold.feature

    def _carried(
        self, drawing: Drawing, acting: ActContext, sheet: Sheet
    ) -> tuple[Sheet, LayoutContext, dict[str, Any], Feature]:
        carrier = sheet.annotation(self.on)
        if carrier is None or carrier.feature is None:
            raise UserError("Nothing hangs there", "Pull it out of an edge, a face, a size, or a tolerance frame.")
        context, (x, y) = acting.context(drawing, sheet, self.on)
        under = solve(carrier, context).under()
        if under is None:
            raise UserError("Nothing hangs on that", "Take a length, a diameter, or a hole note.")
        fields: dict[str, Any] = {"on": self.on}
        if under.ends:
            middle = (under.ends[0][0] + under.ends[1][0]) / 2
            fields |= led_to(middle, self.pointer, (x, y))
            reach = [float((np.array(self.pointer) - (x, y) - end) @ way) for end, way in under.ends]
            fields["offset"] = round(max(SHORTEST, *reach), 2)
        return sheet, context, fields, about(context, carrier)[0]


def led_to(tip: Any, pointer: Point, place: tuple[float, float]) -> dict[str, float]:
    """Angle and length of a leader from its tip to the pointer, ``place`` being the view's."""
    gap = np.array([pointer[0] - place[0], pointer[1] - place[1]]) - tip
    length = float(np.linalg.norm(gap))
    angle = float(np.degrees(np.arctan2(gap[1], gap[0]))) if length > 1e-9 else 45.0
    return {"angle": round(angle, 3), "offset": round(max(length, SHORTEST), 2)}


def need_hung(drawing: Drawing, own: str) -> tuple[Sheet, AnyHung]:
    """The sign or note of that id, and its sheet; raises BadOperation where it is gone."""
    return need_kind(drawing, own, AnyHung, "It is gone")


def need_sign(drawing: Drawing, own: str, kind: type[S]) -> tuple[Sheet, S]:
    """The sign of that id, of a kind, and its sheet; raises BadOperation where it is gone or of another kind."""
    sheet, found = need_hung(drawing, own)
    if not isinstance(found, kind):
        raise BadOperation(f"That is no {kind.noun}", "Choose one.")
    return sheet, found


def has_size(projected: ProjectedScene, ref: str) -> bool:
    """True for what is round, so that it has a size: a cylinder or sphere, or an edge of one."""
    kind, row = projected.part.find(ref) or ("", 0)
    faces = projected.part.edges[row].faces if kind == "edge" else (row,) if kind == "face" else ()
    return any(projected.part.faces[f].surface.kind in ("cylinder", "sphere") for f in faces)
