"""A detail: an outline drawn on a view, and what it holds set beside it, larger."""

from __future__ import annotations

from typing import Literal

from ..annotation.sheet_ink import view_name
from ..bounds import Ref, Scale
from ..drawing import DetailView, Drawing, Operation, Sheet
from ..drawing.base import Point
from ..drawing.operations import AddViews, need_view
from ..standards.scales import scale_text
from .base import AnyAct, Bench, Preview
from .outlining import DrawnOutline, outline_by, scale_for, view_shown, words_of_outline


class Enlarge(AnyAct):
    """A detail of what an ``outline`` on a view holds, set down ``to`` a place; at a scale of the standard series where
    none is given. While its outline is still ``growing`` only that is shown."""

    act: Literal["enlarge"] = "enlarge"
    view: Ref
    outline: DrawnOutline
    to: Point
    scale: Scale | None = None
    growing: bool = False

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, view, _ = self._made(drawing, bench)
        return AddViews(sheet=sheet.id, views=[view])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, view, words = self._made(drawing, bench)
        return view_shown(drawing, bench, sheet, view, words, self.growing)

    def _made(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, DetailView, str]:
        sheet, parent = need_view(drawing, self.view)
        picture = bench.studio.pictures(drawing, sheet)[parent.id]
        outline = outline_by(self.outline, picture)
        (own,) = drawing.fresh()
        scale = self.scale or scale_for(outline, picture, sheet.scale)
        view = DetailView(
            id=own,
            part=parent.part,
            parent=parent.id,
            bodies=parent.bodies,
            place=self.to,
            scale=scale,
            outline=outline,
            letter=drawing.free_letter(),
            hidden_lines=parent.hidden_lines and not picture.shot.scene.is_cut,
            tangent_edges=parent.tangent_edges,
            shaded=parent.shaded,
        )
        words = f"{view_name(view)}, {scale_text(scale)}, {words_of_outline(outline, drawing, picture)}"
        return sheet, view, words
