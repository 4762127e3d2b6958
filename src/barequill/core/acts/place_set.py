"""A set of views placed at once on an empty sheet."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import FEW, Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import AddViews, Group, SetSheet, need_sheet
from ..errors import BadOperation
from ..views.directions import FACES, turned
from ..views.layout import choose
from ..views.proposal import apply_layout, items_for, views_for
from .base import ActContext, AnyAct
from .new_drawing import FaceName, ViewName


class PlaceSet(AnyAct):
    """A set of views placed at once."""

    act: Literal["place_set"] = "place_set"
    sheet: Ref
    views: list[ViewName] = Field(min_length=1, max_length=FEW)
    face: FaceName = "-Y"
    quarter_turns: int = Field(default=0, ge=0, le=3)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        use = drawing.subject(sheet)
        if use is None:
            raise BadOperation("There is no part in this drawing", "Take a part from the shelf first.")
        if sheet.views:
            raise BadOperation(
                "There are views on this sheet already", "Pull further views out of them, or remove them first."
            )
        toward, up = turned(*FACES[self.face], self.quarter_turns)
        views = views_for(use.key, list(self.views), toward, up, drawing.fresh(len(self.views)))
        trial = sheet.model_copy(update={"views": views})
        found = choose(items_for(acting.projections, drawing.with_sheet(trial), trial), drawing, sheet)
        return Group(
            label=f"Place {len(views)} views",
            operations=[
                SetSheet(sheet=sheet.id, scale=found.scale),
                AddViews(sheet=sheet.id, views=apply_layout(views, found)),
            ],
        )
