"""Views removed, with what hangs on them or without."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import MANY, Ref
from ..drawing import Drawing, FreeView, Operation, PrincipalView
from ..drawing.base import Vector
from ..drawing.operations import Group, Remove, ReplaceView
from ..drawing.views import PictorialView, ProjectedView, View
from ..views.directions import cameras
from .base import ActContext, AnyAct


class RemoveViews(AnyAct):
    """Views and annotations removed. Where ``keep`` is asked for, views that were pulled out of one of these and can stand by
    themselves stay: projected and pictorial ones. Sections, details and auxiliary views go with what they are of."""

    act: Literal["remove_views"] = "remove_views"
    ids: Annotated[list[Ref], Field(min_length=1, max_length=MANY)]
    keep: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        removal = Remove(ids=self.ids)
        if not self.keep:
            return removal
        looks = cameras(drawing, acting.projections.part)
        gone, kept = set(self.ids), []
        for sheet in drawing.sheets:
            for view in sheet.views:
                if view.parent in gone and view.id not in gone:
                    alone = _alone(view, looks[view.id], sheet.scale_of(view), drawing.root_of(view))
                    kept += [ReplaceView(view=alone)] if alone is not None else []
        if not kept:
            return removal
        return Group(label="Remove a view, and keep others that were pulled out of it", operations=[*kept, removal])


def _alone(view: View, look: tuple[Vector, Vector], scale: float, root: View) -> View | None:
    """A view with directions of its own in place of one that follows its parent; None for what is nothing without it."""
    if not isinstance(view, ProjectedView | PictorialView) or getattr(view, "form", "axonometric") != "axonometric":
        return None
    made = {"mirrored": root.mirrored, "flat": root.flat} if isinstance(root, PrincipalView | FreeView) else {}
    if made.get("mirrored"):
        # a camera is kept as it looks at the part as it is
        look = (-look[0][0], *look[0][1:]), (-look[1][0], *look[1][1:])
    kind: type[PrincipalView | FreeView] = PrincipalView if isinstance(view, ProjectedView) else FreeView
    common = {n: getattr(view, n) for n in kind.model_fields if n in type(view).model_fields and n != "kind"}
    own = common | made | {"parent": None, "toward": look[0], "up": look[1], "scale": scale, "letter": ""}
    return kind.model_validate(own)
