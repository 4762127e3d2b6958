"""Centre marks and centre lines."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field

from ..bounds import MANY, Ref
from ..drawing import AnyAnnotation, CentreLine, CentreMark, Drawing, Operation, View
from ..drawing.operations import Annotate, Group, apply, need_sheet, need_view
from ..errors import BadOperation
from ..kinds import solve
from ..measuring.centres import existing, round_features
from ..sheet.elements import context_of
from ..views.placed_view import ProjectionCache
from .base import ActContext, AnyAct


class Centres(AnyAct):
    """Centre marks and centre lines for all holes, bosses and shafts of views, or of all views of a sheet; or with
    ``refs`` just for these arcs of one view, be they fillets."""

    act: Literal["centres"] = "centres"
    sheet: Ref
    views: Annotated[list[Ref], Field(max_length=MANY)] | None = None
    refs: Annotated[list[Ref], Field(max_length=MANY)] = []

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        views = self.views if self.views is not None else [v.id for v in sheet.views]
        if self.refs:
            return self._chosen(drawing, acting, views)
        found = centres_plans(acting.projections, drawing, views)
        if not found:
            raise BadOperation(
                "Nothing to mark",
                "All holes, bosses and shafts of these views carry their marks and lines already, or there are none.",
            )
        return found[0] if len(found) == 1 else Group(label="Add centre marks and lines", operations=found)

    def _chosen(self, drawing: Drawing, acting: ActContext, views: list[str]) -> Operation:
        if len(views) != 1:
            raise BadOperation("One view at a time", "Choose arcs of one view to mark their centres.")
        sheet, view = need_view(drawing, views[0])
        projected = acting.projections.projected(acting.projections.scenes(drawing, sheet)[view.id])
        have, _ = existing(sheet.annotations, view.id)
        refs = [r for r in dict.fromkeys(self.refs) if r not in have]
        for ref in refs:
            kind, row = projected.part.find(ref) or ("", 0)
            if not (
                (kind == "edge" and projected.part.edges[row].curve.is_circle)
                or (kind == "face" and projected.part.faces[row].surface.kind == "cylinder")
            ):
                raise BadOperation("That has no centre", "Choose a circle or an arc that is seen face on.")
        if not refs:
            raise BadOperation("Nothing to mark", "What is chosen carries its centre mark already.")
        marks: list[AnyAnnotation] = [
            CentreMark(id=i, on=view.id, ref=r) for i, r in zip(drawing.fresh(len(refs)), refs, strict=True)
        ]
        return Annotate(sheet=sheet.id, annotations=marks)


def with_centres(acting: ActContext, drawing: Drawing, plan: Operation, view: View, like: str = "") -> Operation:
    """The plan that adds a view, with centre marks and lines for that where its parent has some, or the view that it is ``like``."""
    like = like or view.parent or ""
    sheet, _ = need_view(drawing, like)
    if not any(isinstance(a, CentreMark | CentreLine) and a.on == like for a in sheet.annotations):
        return plan
    marks = centres_plan(acting.projections, apply(drawing, plan), view.id)
    return plan if marks is None else Group(label=plan.words(), operations=[plan, marks])


def centres_plans(projections: ProjectionCache, drawing: Drawing, views: Iterable[str]) -> list[Operation]:
    """The plans of several views, each on what the one before left."""
    found: list[Operation] = []
    for view in views:
        plan = centres_plan(projections, drawing, view)
        if plan is not None:
            found.append(plan)
            drawing = apply(drawing, plan)
    return found


def centres_plan(projections: ProjectionCache, drawing: Drawing, view_id: str) -> Operation | None:
    """Centre marks for all holes and bosses of a view and centre lines for all its shafts; None where all are there."""
    sheet, view = need_view(drawing, view_id)
    if view.pictorial:
        return None
    marks, axes = round_features(projections.projected(projections.scenes(drawing, sheet)[view.id]))
    have_marks, have_lines = existing(sheet.annotations, view_id)
    possible: list[AnyAnnotation] = [CentreMark(id="", on=view_id, ref=ref) for ref in marks if ref not in have_marks]
    possible += [CentreLine(id="", on=view_id, refs=refs) for refs in axes if not set(refs) & have_lines]
    placed_view = projections.placed_views(drawing, sheet)[view_id]
    if not placed_view.transform.plain:
        # of what is left out nothing is marked
        context = context_of(drawing, sheet, {view_id: placed_view}, view_id)
        possible = [a for a in possible if len(solve(a, context).occupies()) > 1]
    ids = drawing.fresh(len(possible))
    found = [a.model_copy(update={"id": i}) for a, i in zip(possible, ids, strict=True)]
    return Annotate(sheet=sheet.id, annotations=found) if found else None
