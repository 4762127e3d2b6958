"""Placing, moving and changing views."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal, get_args

from pydantic import Field

from ...bounds import FEW, Ref
from ...errors import BadOperation
from ..base import Point
from ..document import Drawing
from ..views import AuxiliaryView, OneView, View, way_of
from .base import AnyOperation, changed, given, need_sheet, need_view, numbered, partial, shifted, with_views
from .telling import view_called

NAMES = {
    "scale": "scale",
    "tied": "alignment",
    "lined": "line",
    "hidden_lines": "hidden lines",
    "shaded": "tones",
    "coloured": "colours",
    "colours": "colours",
    "mirrored": "hand",
    "flat": "flat pattern",
    "form": "projection",
    "apart": "bodies pulled apart",
    "apart_by": "how far bodies are pulled apart",
    "tangent_edges": "tangent edges",
    "caption": "caption",
    "style": "look",
    "caption_off": "place of the caption",
    "bodies": "bodies",
    "adjacent": "adjacent parts",
    "angles": "axes",
    "full": "lengths of axes",
    "left_out": "what is left out",
    "hidden_out": "hidden lines left out",
    "cut_at": "plane of the cut",
    "place": "place",
    "line": "cutting line",
    "side": "direction of looking",
    "letter": "letter",
    "bare": "what is shown",
    "depth": "depth",
    "marked": "marking",
    "letters_off": "place of a letter",
    "whole": "what stays whole",
    "ribs": "ribs",
    "hatches": "hatch",
    "local_cuts": "local cuts",
    "quarter": "cut",
    "turn": "turn",
    "crop": "crop",
    "breaks": "breaks",
    "outline": "outline",
    "edge": "edge",
    "border": "border",
    "leader": "line to its ring",
}


if TYPE_CHECKING:
    ViewChanges = Any
else:
    ViewChanges = partial("ViewChanges", get_args(View), {*NAMES, "toward", "up"})


class AddViews(AnyOperation):
    """Place views."""

    op: Literal["add_views"] = "add_views"
    sheet: Ref
    views: Annotated[list[OneView], Field(max_length=FEW)]

    def applied(self, drawing: Drawing) -> Drawing:
        sheet = need_sheet(drawing, self.sheet)
        known = {v.id for s in drawing.sheets for v in s.views}
        for view in self.views:
            if drawing.part(view.part) is None:
                raise BadOperation("The part is not in this drawing", "Take the part into the drawing first.")
            if view.parent is not None and view.parent not in known:
                raise BadOperation("The parent view is gone", "Choose another view to project from.")
            known.add(view.id)
        drawing = numbered(drawing, [v.id for v in self.views])
        return drawing.with_sheet(sheet.model_copy(update={"views": [*sheet.views, *self.views]}))

    def words(self) -> str:
        n = len(self.views)
        return "Place a view" if n == 1 else f"Place {n} views"


class MoveView(AnyOperation):
    """Move a view; views tied to it go along, and its own tie holds it in line with its parent."""

    op: Literal["move_view"] = "move_view"
    view: Ref
    to: Point

    def applied(self, drawing: Drawing) -> Drawing:
        sheet, view = need_view(drawing, self.view)
        dx, dy = self.to[0] - view.place[0], self.to[1] - view.place[1]
        if sheet.view(view.parent) is not None:
            way = way_of(view)
            if way is not None:
                along = dx * way[0] + dy * way[1]
                dx, dy = along * way[0], along * way[1]
        return shifted(drawing, dict.fromkeys(_together(drawing, view), (dx, dy)))

    def words(self) -> str:
        return "Move a view"

    def told(self, before: Drawing) -> str:
        return f"Move {view_called(before.view(self.view))}"


class SetView(AnyOperation):
    """Change properties of a view: scale, tied, hidden_lines, shaded, tangent_edges, caption, bodies, left_out, what of it
    is cut and how, the directions of one that has its own, and all that sections have."""

    op: Literal["set_view"] = "set_view"
    view: Ref
    changes: ViewChanges

    def applied(self, drawing: Drawing) -> Drawing:
        sheet, view = need_view(drawing, self.view)
        asked = given(self.changes)
        changes = dict(asked)
        lettered = isinstance(view, AuxiliaryView) and not view.letter
        if lettered and (changes.get("tied") is False or changes.get("turn")):
            # out of its line it is known by a letter
            changes.setdefault("letter", drawing.free_letter())
        after: View = changed(view, changes, ({*NAMES, "toward", "up"}) & set(type(view).model_fields), "view")
        letter = asked.get("letter")
        if letter and letter in drawing.letters(but=view.id):
            raise BadOperation(f"The letter {letter} is taken", "Another view of this drawing has it; choose another.")
        if asked.get("tied") and view.parent is None:
            raise BadOperation(
                "This view has no parent", "Only a view that was pulled out of another can be tied to it."
            )
        drawing = drawing.with_sheet(
            sheet.model_copy(update={"views": [after if v.id == view.id else v for v in sheet.views]})
        )
        parent, way = sheet.view(after.parent), way_of(after)
        if asked.get("tied") and parent is not None and way is not None:
            dx, dy = parent.place[0] - after.place[0], parent.place[1] - after.place[1]
            along = dx * way[0] + dy * way[1]
            step = (dx - along * way[0], dy - along * way[1])
            drawing = shifted(drawing, dict.fromkeys(_together(drawing, after), step))
        return drawing

    def words(self) -> str:
        return "Change " + ", ".join(NAMES.get(k, "direction") for k in given(self.changes)) + " of a view"

    def told(self, before: Drawing) -> str:
        return self.words().removesuffix("a view") + view_called(before.view(self.view))


class ReplaceView(AnyOperation):
    """Put a view of another kind in the place of one, under its id: what hangs on it hangs on the new one."""

    op: Literal["replace_view"] = "replace_view"
    view: OneView

    def applied(self, drawing: Drawing) -> Drawing:
        need_view(drawing, self.view.id)
        return with_views(drawing, lambda v: self.view if v.id == self.view.id else v)

    def words(self) -> str:
        return "Let a view stand by itself"


def _together(drawing: Drawing, view: View) -> list[str]:
    """A view and those that move with it: tied to it, and on its sheet."""
    sheet = drawing.sheet_of(view.id)
    tied = drawing.descendants(view.id, tied_only=True)
    return [view.id, *(v.id for v in tied if sheet is not None and sheet.view(v.id) is not None)]
