"""The extension lines of a size by hand: left out, interrupted, begun elsewhere, or moved aside."""

from __future__ import annotations

from typing import Literal

import numpy as np
import shapely

from ..bounds import Ref
from ..drawing import Dimension, Drawing, Operation, Sheet
from ..drawing.annotations.dimension import Extension
from ..drawing.base import Point
from ..drawing.operations import ChangeAnnotation
from ..errors import UserError
from ..kinds import solve
from ..kinds.common.linear import SolvedLinear, SolvedRunning, extensions_of
from .base import ActContext, AnyAct, Preview, need_dimension
from .pull_dimension import shown_all

NEAR = 2.0
"""mm along an extension line within which a break is the one that is there already."""
SAYS = {
    "leave_out": "an extension line left out, or back again",
    "break": "a break in an extension line, or none any more",
    "begin": "an extension line begun here",
    "aside": "an extension line moved aside",
    "usual": "extension lines as usual",
}


class ChangeExtension(AnyAct):
    """The extension line of a size nearest to a place of the sheet: to ``leave_out`` or bring back, to ``break`` there or
    mend, to ``begin`` there, or to move ``aside`` to there; ``usual`` puts both back."""

    act: Literal["change_extension"] = "change_extension"
    id: Ref
    what: Literal["leave_out", "break", "begin", "aside", "usual"]
    at: Point
    of: Point | None = None
    """Where it was taken hold of, to be moved aside from there; the place itself where none is given."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, new = self._made(drawing, acting)
        return ChangeAnnotation(id=self.id, changes={"extensions": [e.model_dump() for e in new.extensions]})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, new = self._made(drawing, acting)
        return shown_all(drawing, acting, sheet, [new], SAYS[self.what], ())

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, Dimension]:
        sheet, own = need_dimension(drawing, self.id)
        if self.what == "usual":
            return sheet, own.model_copy(update={"extensions": []})
        context, (x, y) = acting.context(drawing, sheet, own.on)
        # the first line is marked, to be known again: the ends of the solved line run along u
        marked = [Extension(shown=False), Extension()]
        solved = solve(own.model_copy(update={"extensions": marked, "half": False}), context)
        if not isinstance(solved, SolvedLinear | SolvedRunning):
            raise UserError("It has no extension lines", "Lengths and distances alone have them.")
        aim = np.array(self.at) - (x, y)
        hold = aim if self.of is None else np.array(self.of) - (x, y)
        now = extensions_of(own)
        u = solved.along
        order = [1, 0] if solved.extensions[0].shown else [0, 1]
        feet = [f + now[k].jog * u for f, k in zip(solved.feet, order, strict=True)]
        lines = shapely.linestrings(np.stack([solved.starts, feet], axis=1))
        i = int(np.argmin(shapely.distance(lines, shapely.Point(hold))))
        k, start, foot = order[i], solved.starts[i], solved.feet[i]
        reach = foot - start
        length = max(float(np.linalg.norm(reach)), 1e-9)
        along = float((aim - start) @ reach) / length
        changed = [*now]
        changed[k] = self._changed(now[k], along, length, float((aim - foot) @ u))
        return sheet, own.model_copy(update={"extensions": changed})

    def _changed(self, own: Extension, along: float, length: float, aside: float) -> Extension:
        if self.what == "leave_out":
            return own.model_copy(update={"shown": not own.shown})
        if self.what == "begin":
            return own.model_copy(update={"gap": round(min(max(along, 0.0), length), 2), "shown": True})
        if self.what == "aside":
            return own.model_copy(update={"jog": round(aside, 2) if abs(aside) > 0.5 else 0.0, "shown": True})
        at = round(length - along, 2)
        left = [b for b in own.breaks if abs(b - at) > NEAR]
        return own.model_copy(update={"breaks": left if len(left) < len(own.breaks) else [*left, at][-8:]})
