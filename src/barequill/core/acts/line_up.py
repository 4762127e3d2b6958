"""Views lined up by two places of the part, and views turned so that an edge lies level."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import Group, MoveView, SetView, need_view
from ..errors import UserError
from ..views.cutting_lines import tie_point
from .base import ActContext, AnyAct
from .cutting import tie_of


class LineUp(AnyAct):
    """A view moved so that a place of it stands level with, or straight above or below, a place of another view."""

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
        spots = []
        for name, ref, at in ((self.view, self.ref, self.at), (self.other, self.other_ref, self.other_at)):
            tie = tie_of(ref, at)
            there = None if tie is None else tie_point(placed_views[name].projected.whole, tie)
            if there is None:
                raise UserError("That place is gone", "Point at an edge or a centre.")
            spots.append(placed_views[name].on_sheet_each(there[None])[0])
        step = spots[1] - spots[0]
        how = self.how or ("level" if abs(step[1]) <= abs(step[0]) else "upright")
        to = np.array(view.place) + (np.array([0.0, step[1]]) if how == "level" else np.array([step[0], 0.0]))
        moved = MoveView(view=view.id, to=(float(to[0]), float(to[1])))
        if not view.tied:
            return moved
        # what is lined up by hand is held by hand
        return Group(label="Line up a view", operations=[SetView(view=view.id, changes={"tied": False}), moved])


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
