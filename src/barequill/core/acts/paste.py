"""Sizes and marks of one view put on another, where they fit."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import MANY, Ref
from ..drawing import Annotation, AnyAnnotation, Drawing, Operation
from ..drawing.annotations.hung import AnyHung
from ..drawing.operations import Annotate, need_view
from ..errors import BadOperation
from ..kinds import solve
from .base import ActContext, AnyAct


class Paste(AnyAct):
    """Annotations copied from a view (or cut from it) put on another: those that can be measured or drawn there."""

    act: Literal["paste"] = "paste"
    on: Ref
    annotations: Annotated[list[Annotation], Field(min_length=1, max_length=MANY)]

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.on)
        context, _ = acting.context(drawing, sheet, view.id)
        there = {a.meant() for a in sheet.annotations if a.on == view.id}
        ids = iter(drawing.fresh(len(self.annotations)))
        found: list[AnyAnnotation] = []
        called: dict[str, str] = {}
        for annotation in self.annotations:
            if annotation.on in called and isinstance(annotation, AnyHung):
                # what is stacked goes with what it is stacked under; but a letter stands once
                if not annotation.letters:
                    called[annotation.id] = new = next(ids)
                    found.append(annotation.model_copy(update={"id": new, "on": called[annotation.on]}))
                continue
            if annotation.meant() in there:
                continue
            own = annotation.copied(view.id) if "view" in annotation.hangs_on else None
            if own is not None and not solve(own, context).loose:
                called[annotation.id] = new = next(ids)
                found.append(own.model_copy(update={"id": new}))
        if not found:
            raise BadOperation(
                "None of it fits this view",
                "It is there already, or the view does not show it so that it can be measured; choose another view.",
            )
        return Annotate(sheet=sheet.id, annotations=found)
