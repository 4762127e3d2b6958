"""Views lined up by two places of the part, held so from then on, and views turned so that an edge lies level."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.cutting import tie_of
from ..drawing.operations import (
    Group,
    MoveView,
    SetView,
    need_view,
)
from ..drawing.views import InLine
from ..errors import UserError
from ..views.cutting_lines import tie_point
from ..views.placed_view import PlacedView
from .base import ActContext, AnyAct

NEAR = 1e-6
"""mm on the sheet by which a view may stand off its line."""


class LineUp(AnyAct):
    """A view moved so that a place of it stands level with, or straight above or below, a place of another view, and held there until
    it is freed; along one way, or along both by one after the other."""

    act: Literal["line_up"] = "line_up"
    view: Ref
    ref: Ref
    at: Ref = ""
    other: Ref
    other_ref: Ref
    other_at: Ref = ""
    how: Literal["level", "upright"] | None = None
    """None takes the way that moves it less."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        placed_views = acting.projections.placed_views(drawing, sheet)
        if self.other not in placed_views or self.other == self.view:
            raise UserError("There is no other view to line up with", "Point at a place of another view of this sheet.")
        if self.view in _holding(drawing, self.other):
            raise UserError("The other is held in line with this one", "Free that, or line that one up with this.")
        held = {
            "ref": self.ref,
            "at": self.at,
            "other": self.other,
            "other_ref": self.other_ref,
            "other_at": self.other_at,
        }
        step = step_of(placed_views, view.id, InLine.model_validate(held | {"way": "level"}))
        if step is None:
            raise UserError("That place is gone", "Point at an edge or a centre.")
        how = self.how or ("level" if abs(step[1]) <= abs(step[0]) else "upright")
        lined = [line for line in view.lined if line.way != how]
        lined.append(InLine.model_validate(held | {"way": how}))
        to = (view.place[0], view.place[1] + step[1]) if how == "level" else (view.place[0] + step[0], view.place[1])
        # what is lined up by hand is held by hand
        changes = {"tied": False, "lined": [line.model_dump() for line in lined]}
        operations: list[Operation] = [SetView(view=view.id, changes=changes), MoveView(view=view.id, to=to)]
        return Group(label="Line up a view", operations=operations)


def _holding(drawing: Drawing, view: str) -> set[str]:
    """The views by which one is held in line, and those by which these are."""
    found: set[str] = set()
    waiting = [view]
    while waiting:
        here = drawing.view(waiting.pop())
        new = {line.other for line in here.lined} - found if here is not None else set()
        found |= new
        waiting += new
    return found


def step_of(placed_views: Mapping[str, PlacedView], view: str, line: InLine) -> tuple[float, float] | None:
    """How far (sheet mm, to the right and up) the place by which a view is held is from that of the other; None where one is gone."""
    spots = []
    for name, ref, at in ((view, line.ref, line.at), (line.other, line.other_ref, line.other_at)):
        tie, placed_view = tie_of(ref, at), placed_views.get(name)
        there = None if tie is None or placed_view is None else tie_point(placed_view.projected.whole, tie)
        if there is None or placed_view is None:
            return None
        spots.append(placed_view.on_sheet_each(there[None])[0])
    x, y = spots[1] - spots[0]
    return float(x), float(y)


class TurnView(AnyAct):
    """A view turned on its sheet so that an edge of it lies level, or stands upright where it is nearer to that."""

    act: Literal["turn_view"] = "turn_view"
    view: Ref
    ref: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
        part = placed_view.projected.whole
        kind, row = part.find(self.ref) or ("", 0)
        if kind != "edge" or part.edges[row].curve.kind != "line":
            raise UserError("That has no direction", "Point at a straight edge of the view.")
        curve = part.edges[row].curve
        ends = placed_view.projected.flat_each(curve.points(np.array([curve.t0, curve.t1])))
        way = ends[1] - ends[0]
        if float(np.linalg.norm(way)) < 1e-6 * part.size:
            raise UserError("This edge is seen end-on", "Point at one that is seen in its length.")
        angle = float(np.degrees(np.arctan2(way[1], way[0]))) % 90
        turn = -angle if angle <= 45 else 90 - angle
        return SetView(view=view.id, changes={"turn": round(turn, 6) + 0.0, "tied": False})
