"""A view pulled out of another."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref
from ..drawing import Drawing, Operation, PictorialView, ProjectedView, SectionView, Sheet, View
from ..drawing.base import Point
from ..drawing.operations import AddViews, need_view
from ..errors import UserError
from ..sheet.elements import blank, caption_element, drawn_view, view_words
from ..views.directions import Side, look_of
from .base import ActContext, AnyAct, Preview
from .centres import with_centres


class PullView(AnyAct):
    """A view pulled out of a side (left, right, above, below) or corner (above-right, …) of another."""

    act: Literal["pull_view"] = "pull_view"
    view: Ref
    side: Ref
    to: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = self._pulled(drawing)
        plan = AddViews(sheet=sheet.id, views=[view])
        return with_centres(acting, drawing, plan, view)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view = self._pulled(drawing)
        trial = sheet.model_copy(update={"views": [*sheet.views, view]})
        after = drawing.with_sheet(trial)
        placed_view = acting.projections.placed_views(after, trial)[view.id]
        ink = blank(drawing, sheet)
        caption = caption_element(placed_view, drawing, trial, view.caption)
        elements = [*drawn_view(after, trial, placed_view, ink, acting.display_cache), caption]
        return Preview(ink, tuple(e for e in elements if e is not None), view_words(view), (), view.place)

    def _pulled(self, drawing: Drawing) -> tuple[Sheet, View]:
        sheet, parent = need_view(drawing, self.view)
        (own,) = drawing.fresh()
        common = {"id": own, "part": parent.part, "parent": parent.id, "bodies": parent.bodies}
        if "-" in self.side:
            rows, columns = self.side.split("-", 1)
            if rows not in ("above", "below") or columns not in ("left", "right"):
                raise UserError(
                    f"There is no corner named {self.side}",
                    "Choose above-left, above-right, below-left or below-right.",
                )
            corner = (1 if columns == "right" else -1, 1 if rows == "above" else -1)
            return sheet, PictorialView.model_validate(
                common | {"place": self.to, "corner": corner, "hidden_lines": False}
            )
        if self.side not in ("left", "right", "above", "below"):
            raise UserError(f"There is no side named {self.side}", "Choose left, right, above or below.")
        known: Side = self.side  # type: ignore[assignment]
        look = look_of(known, drawing.angle)
        place = (self.to[0], parent.place[1]) if look in ("left", "right") else (parent.place[0], self.to[1])
        # what a section leaves out is left out of the views from it too
        hidden = {"hidden_lines": False} if isinstance(parent, SectionView) and not parent.hidden_lines else {}
        return sheet, ProjectedView.model_validate(common | hidden | {"place": place, "look": look})
