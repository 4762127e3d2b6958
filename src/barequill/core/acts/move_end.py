"""Ends of centre lines, marks and pitch circles dragged, each side on its own or all alike."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..bounds import Ref
from ..drawing import AnyAnnotation, CentreLine, CentreMark, Drawing, Operation, Sheet
from ..drawing.annotations.drawn_line import DrawnLine
from ..drawing.annotations.pitch_circle import PitchCircle
from ..drawing.base import Point
from ..drawing.operations import ChangeAnnotation, need_annotation
from ..errors import UserError
from ..kinds import solve
from ..kinds.centre_mark import arms_of
from ..kinds.pitch_circle import SolvedCircle
from ..measuring.context import LayoutContext
from .base import ActContext, AnyAct, Preview, annotation_shown

Array = NDArray[np.float64]
CLOSES = np.radians(2.0)
"""Angle between both ends of a pitch circle at which it closes."""


class MoveEnd(AnyAct):
    """The end of a centre line or mark that is nearest to where the hand took hold (``start``) dragged ``to`` a place along
    it; with ``all_alike`` all its ends go as far beyond the feature."""

    act: Literal["move_end"] = "move_end"
    id: Ref
    start: Point
    to: Point
    all_alike: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, _, changes = self._moved(drawing, acting)
        return ChangeAnnotation(id=self.id, changes=changes)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, annotation, changes = self._moved(drawing, acting)
        after = type(annotation).model_validate(annotation.model_dump() | changes)
        return annotation_shown(drawing, acting, sheet, after)

    def _moved(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, dict[str, Any]]:
        sheet, annotation = need_annotation(drawing, self.id)
        context, place = acting.context(drawing, sheet, annotation.on)
        start, to = (np.array(p) - place for p in (self.start, self.to))
        if isinstance(annotation, CentreMark):
            bare = annotation.model_copy(update={"arms": (0.0, 0.0, 0.0, 0.0)})
            reach = solve(bare, context).occupies()
            if len(reach) < 2:
                raise UserError("This mark is loose", "Its circle is gone; remove it.")
            centre = reach.mean(axis=0)
            size = float(np.linalg.norm(reach - centre, axis=1).max())
            x, y = arms_of(context.view)
            ways = np.array([x, y, -x, -y])
            k = int(np.argmax(ways @ (start - centre)))
            beyond = round(float(ways[k] @ (to - centre)) - size, 2)
            arms = list(annotation.arms)
            return sheet, annotation, {"arms": [beyond] * 4 if self.all_alike else [*arms[:k], beyond, *arms[k + 1 :]]}
        if isinstance(annotation, PitchCircle):
            return sheet, annotation, {"ends": _turned_to(annotation, context, start, to)}
        if not isinstance(annotation, CentreLine | DrawnLine):
            raise UserError("This has no ends", "Drag the end of a centre line, a mark or a pitch circle.")
        bare_line = annotation.model_copy(update={"beyond": (0.0, 0.0)})
        ends = solve(bare_line, context).occupies()
        if len(ends) < 2:
            raise UserError("This line is loose", "What it was drawn about is gone; remove it.")
        u = (ends[-1] - ends[0]) / max(float(np.linalg.norm(ends[-1] - ends[0])), 1e-9)
        k = int(np.linalg.norm(start - ends[0]) > np.linalg.norm(start - ends[-1]))
        beyond = round(float((to - ends[-1]) @ u if k else (ends[0] - to) @ u), 2)
        both = list(annotation.beyond)
        both[k] = beyond
        return sheet, annotation, {"beyond": [beyond, beyond] if self.all_alike else both}


def _turned_to(circle: PitchCircle, context: LayoutContext, start: Array, to: Array) -> tuple[float, float] | None:
    """Both ends (degrees) of a pitch circle with the one that is nearest to ``start`` dragged ``to`` a place; None for a whole turn."""
    solved = solve(circle, context)
    if not isinstance(solved, SolvedCircle) or solved.loose:
        raise UserError("This pitch circle is loose", "Its holes lie on no circle any more; remove it.")
    first, last = solved.span
    own, there = (float(np.arctan2(*(p - solved.centre)[::-1])) for p in (start, to))

    def away(a: float, b: float) -> float:
        return abs((a - b + np.pi) % (2 * np.pi) - np.pi)

    # both ends of a whole turn lie on each other: the one that opens the gap the way the hand went
    began = (
        (there - own + np.pi) % (2 * np.pi) > np.pi if away(first, last) < 1e-6 else away(first, own) < away(last, own)
    )
    first, last = (there, last) if began else (first, there)
    if away(first, last) < CLOSES:
        return None
    turn = np.radians(context.view.transform.turn)
    return round(float(np.degrees(first - turn)) % 360, 2), round(float(np.degrees(last - turn)) % 360, 2)
