"""A drawing taken over for another part: its sheets, views, title block, notes and looks, without what hung on the part."""

from __future__ import annotations

from contextlib import suppress

from ..drawing import CentreLine, CentreMark, Drawing, PartUse, PrincipalView, ProjectedView
from ..drawing.annotations.table import Table
from ..drawing.operations import apply
from ..drawing.views import FreeView, PictorialView, View
from ..errors import UserError
from ..views.proposal import rearranged
from .base import ActContext
from .centres import centres_plans
from .make_room import MakeRoom

OF_THE_PART = ("title", "number", "material", "mass", "date", "revision", "approver")
"""Fields that are the part's, or tell of work on it that is not done yet."""
BARE: dict[str, object] = {
    "bodies": None,
    "adjacent": [],
    "left_out": [],
    "hidden_out": [],
    "lined": [],
    "local_cuts": [],
    "whole": [],
    "ribs": [],
    "hatches": [],
    "crop": None,
    "breaks": [],
    "colours": [],
    "caption_off": None,
}
"""What a view has of a part, as one has it that is new."""


def for_another(acting: ActContext, drawing: Drawing, use: PartUse) -> Drawing:
    """The drawing for another part: views that look at all of it, laid out anew, and what stands on the sheets by itself. Sections,
    details and auxiliary views, sizes and marks go with the part.

    Raises
    ------
    UserError
        Where there is no such part, or its views do not fit.
    """
    projections = acting.projections
    projections.part(use.key)
    marked = {a.on for s in drawing.sheets for a in s.annotations if isinstance(a, CentreMark | CentreLine)}
    fields = {n: v for n, v in drawing.fields.items() if n not in OF_THE_PART}
    made = drawing.model_copy(update={"parts": [use], "threads": [], "items": [], "fields": fields, "hatches": []})
    for sheet in drawing.sheets:
        views = [_bare(v, use.key) for v in sheet.views if _stays(drawing, v)]
        free = [a for a in sheet.annotations if a.on == sheet.id and not (isinstance(a, Table) and a.view)]
        made = made.with_sheet(sheet.model_copy(update={"views": views, "annotations": free}))
    for sheet in made.sheets:
        if sheet.views:
            found = rearranged(projections, made, sheet, None)
            placed = [
                v.model_copy(update={"place": found.places.get(v.id, v.place), "scale": found.scales.get(v.id)})
                for v in sheet.views
            ]
            made = made.with_sheet(sheet.model_copy(update={"scale": found.scale, "views": placed}))
    if not any(s.views for s in made.sheets):
        raise UserError("None of its views is of a whole part", "Copy it with its part, or begin a new drawing.")
    wanted = [v.id for s in made.sheets for v in s.views if v.id in marked]
    for plan in centres_plans(projections, made, wanted):
        made = apply(made, plan)
    for sheet in made.sheets:
        with suppress(UserError):
            made = apply(made, MakeRoom(sheet=sheet.id).plan(made, acting))
    return made


def _stays(drawing: Drawing, view: View, seen: int = 0) -> bool:
    """Whether a view looks at the whole of whatever part there is."""
    if isinstance(view, PrincipalView | FreeView):
        return view.flat is None and view.cut_at is None
    parent = drawing.view(view.parent)
    if not isinstance(view, ProjectedView | PictorialView) or parent is None or seen > 20:
        return False
    return _stays(drawing, parent, seen + 1)


def _bare(view: View, part: str) -> View:
    fields = {n: v for n, v in BARE.items() if n in type(view).model_fields}
    return view.model_copy(update={**fields, "part": part, "scale": None})
