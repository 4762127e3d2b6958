"""Another face of the part as the front of a drawing that has its views and sizes already."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import Ref
from ..drawing import CentreLine, CentreMark, Drawing, Operation, PrincipalView
from ..drawing.base import Vector
from ..drawing.operations import Group, Remove, SetSheet, SetView, apply, need_sheet, need_view
from ..errors import BadOperation
from ..measuring.centres import round_features
from ..views.proposal import rearranged
from .base import ActContext, AnyAct
from .centres import centres_plans
from .new_drawing import FaceName, front_of


class TurnFront(AnyAct):
    """Another face as the front: the views projected from it turn with it and are rearranged; centre marks and lines
    are those of what is seen now; sizes follow, or say why they cannot."""

    act: Literal["turn_front"] = "turn_front"
    view: Ref
    face: FaceName = "-Y"
    quarter_turns: int = Field(default=0, ge=0, le=3)
    toward: Vector | None = None
    up: Vector | None = None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        if not isinstance(view, PrincipalView):
            raise BadOperation(
                "This view follows its parent", "Turn the view that it was pulled out of; this one goes along."
            )
        toward, up = front_of(self.face, self.quarter_turns, self.toward, self.up)
        first = SetView(view=view.id, changes={"toward": toward, "up": up})
        operations: list[Operation] = [first]
        trial = apply(drawing, first)
        family = {view.id} | {v.id for v in trial.descendants(view.id)}
        stale = []
        for s in trial.sheets:
            scenes = acting.projections.scenes(trial, s)
            for v in s.views:
                if v.id in family:
                    marks, axes = round_features(acting.projections.projected(scenes[v.id]))
                    lines = {r for refs in axes for r in refs}
                    stale += [
                        a.id
                        for a in s.annotations
                        if a.on == v.id
                        and (
                            (isinstance(a, CentreMark) and a.ref not in marks)
                            or (isinstance(a, CentreLine) and not set(a.refs) & lines)
                        )
                    ]
        marked = {a.on for s in drawing.sheets for a in s.annotations if isinstance(a, CentreMark | CentreLine)}
        if stale:
            operations.append(Remove(ids=stale))
            trial = apply(trial, operations[-1])
        if marked & family:
            views = [v.id for s in trial.sheets for v in s.views if v.id in family]
            operations += centres_plans(acting.projections, trial, views)
        # marks take no room: the views stand as they would without them
        now = need_sheet(trial, sheet.id)
        found = rearranged(acting.projections, trial, now, now.scale)
        operations.append(SetSheet(sheet=sheet.id, places=found.places))
        return Group(label="Choose another front", operations=operations)
