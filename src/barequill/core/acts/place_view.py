"""A view from a direction of its own, such as one that was kept with the part."""

from __future__ import annotations

from typing import Literal

from ..bounds import Figure, Key, Name, Ref
from ..drawing import Drawing, FreeView, Operation, PrincipalView, Sheet, View
from ..drawing.base import Point, Vector
from ..drawing.operations import AddViews, need_sheet
from ..sheet.elements import view_words
from ..views.directions import squared
from .base import ActContext, AnyAct, Preview
from .outlining import view_shown


class PlaceView(AnyAct):
    """A view of a part of the drawing from a direction of its own, set down ``to`` a place: a principal one, out of which
    others can be pulled, or a ``pictorial`` one."""

    act: Literal["place_view"] = "place_view"
    sheet: Ref
    part: Key = ""
    """The drawing's first part where none is given."""
    name: Name = ""
    toward: Vector
    up: Vector
    pictorial: bool = False
    cut_at: Figure | None = None
    """A section: cut square to the sight, mm toward the viewer from the middle of the part."""
    to: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = self._made(drawing)
        return AddViews(sheet=sheet.id, views=[view])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view = self._made(drawing)
        return view_shown(drawing, acting, sheet, view, self.name or view_words(view))

    def _made(self, drawing: Drawing) -> tuple[Sheet, View]:
        sheet = need_sheet(drawing, self.sheet)
        toward, up = squared(self.toward, self.up)
        (own,) = drawing.fresh()
        subject = drawing.subject(sheet)
        common = {
            "id": own,
            "part": self.part or (subject.key if subject is not None else ""),
            "place": self.to,
            "toward": toward,
            "up": up,
            "caption": self.name,
            "cut_at": self.cut_at,
            "hidden_lines": not self.pictorial and self.cut_at is None,
        }
        if self.pictorial:
            return sheet, FreeView.model_validate(common)
        return sheet, PrincipalView.model_validate(common)
