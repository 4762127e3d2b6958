"""Ends of centre lines and marks dragged, each side on its own or all alike."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from ..bounds import Ref
from ..drawing import AnyAnnotation, CentreLine, CentreMark, Drawing, Operation, Sheet
from ..drawing.annotations.drawn_line import DrawnLine
from ..drawing.base import Point
from ..drawing.operations import ChangeAnnotation, need_annotation
from ..errors import UserError
from ..kinds import solve
from .base import ActContext, AnyAct, Preview, annotation_shown


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
            centre, size = reach.mean(axis=0), float(np.ptp(reach, axis=0).max()) / 2
            ways = np.array([[1, 0], [0, 1], [-1, 0], [0, -1]])
            k = int(np.argmax(ways @ (start - centre)))
            beyond = round(float(ways[k] @ (to - centre)) - size, 2)
            arms = list(annotation.arms)
            return sheet, annotation, {"arms": [beyond] * 4 if self.all_alike else [*arms[:k], beyond, *arms[k + 1 :]]}
        if not isinstance(annotation, CentreLine | DrawnLine):
            raise UserError("This has no ends", "Drag the end of a centre line or mark.")
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
