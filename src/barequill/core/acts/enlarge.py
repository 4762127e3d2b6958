"""A detail: an outline drawn on a view, and what it holds set beside it, larger."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref, Scale
from ..drawing import DetailView, Drawing, Operation, Sheet
from ..drawing.base import Point
from ..drawing.operations import AddViews, need_view
from ..errors import UserError
from ..sheet.elements import view_name
from ..standards.scales import scale_text
from .base import ActContext, AnyAct, Preview
from .outlining import LARGEST, DrawnOutline, outline_by, scale_for, view_shown, words_of_outline


class Enlarge(AnyAct):
    """A detail of what an ``outline`` on a view holds, set down ``to`` a place; at a scale of the standard series where
    none is given. While its outline is still ``growing`` only that is shown."""

    act: Literal["enlarge"] = "enlarge"
    view: Ref
    outline: DrawnOutline
    to: Point
    scale: Scale | None = None
    growing: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view, _ = self._made(drawing, acting)
        return AddViews(sheet=sheet.id, views=[view])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view, words = self._made(drawing, acting)
        return view_shown(drawing, acting, sheet, view, words, self.growing)

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, DetailView, str]:
        sheet, parent = need_view(drawing, self.view)
        placed_view = acting.projections.placed_views(drawing, sheet)[parent.id]
        outline = outline_by(self.outline, placed_view)
        (own,) = drawing.fresh()
        scale = self.scale or scale_for(outline, placed_view)
        if self.scale is None and self.outline.half is None and not self.outline.points:
            size = 2 * max(outline.half) * scale
            if size > 1.3 * LARGEST:
                raise UserError(
                    f"It would be {size:.0f} mm wide at {scale_text(scale)}",
                    "It is large enough to be read already; draw a smaller ring about what is not.",
                )
        view = DetailView(
            id=own,
            part=parent.part,
            parent=parent.id,
            bodies=parent.bodies,
            place=self.to,
            scale=scale,
            outline=outline,
            letter=drawing.free_letter(),
            hidden_lines=parent.hidden_lines and not placed_view.projected.scene.is_cut,
            tangent_edges=parent.tangent_edges,
            shaded=parent.shaded,
        )
        words = f"{view_name(view)}, {scale_text(scale)}, {words_of_outline(outline, drawing, placed_view)}"
        return sheet, view, words
