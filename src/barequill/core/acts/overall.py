"""Sizes over all of views, by their farthest places."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import FEW, Ref
from ..drawing import Dimension, Drawing, Operation
from ..drawing.operations import Annotate
from ..errors import BadOperation, Unmeasurable, UserError
from ..measuring.extremes import overall
from .base import ActContext, AnyAct


class OverallSizes(AnyAct):
    """The length over all of views, level and upright; such as are stated already are not stated twice."""

    act: Literal["overall_sizes"] = "overall_sizes"
    views: list[Ref] = Field(min_length=1, max_length=FEW)
    axes: list[Literal["x", "y"]] = ["x", "y"]

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = drawing.sheet_of(self.views[0])
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        ids, why = drawing.fresh(2 * len(self.views)), None
        found: list[Dimension] = []
        for view in self.views:
            context, _ = acting.context(drawing, sheet, view)
            for axis in self.axes:
                try:
                    made = overall(context, 0 if axis == "x" else 1, ids[len(found)])
                except Unmeasurable as error:
                    why = error
                    continue
                if not any(_same(made, a) for a in sheet.annotations):
                    found.append(made)
        if not found:
            if why is not None:
                raise UserError(why.title, why.detail)
            raise UserError("The sizes over all are there already", "Nothing was added.")
        return Annotate(sheet=sheet.id, annotations=list(found))


def _same(made: Dimension, other: object) -> bool:
    return (
        isinstance(other, Dimension)
        and (other.on, other.direction) == (made.on, made.direction)
        and other.anchors in (made.anchors, made.anchors[::-1])
    )
