"""A view cropped to an outlined piece, or to the half or quarter of a symmetrical part; and outlines moved afterwards."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Crop, DetailView, Drawing, Operation, Outline, Sheet, View
from ..drawing.base import Point
from ..drawing.cutting import tie_of
from ..drawing.operations import SetView, need_view
from ..drawing.windows import Edge
from ..errors import BadOperation
from ..sheet.elements import view_words
from ..views.cutting_lines import tie_point
from ..views.windows import is_loose, middle_of
from .base import ActContext, AnyAct, Preview
from .outlining import DrawnOutline, outline_by, view_shown, words_of_outline


class CropView(AnyAct):
    """A view cropped to an ``outline``, with its edge ragged, plain or not drawn."""

    act: Literal["crop_view"] = "crop_view"
    view: Ref
    outline: DrawnOutline
    edge: Edge = "ragged"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, after, _ = self._made(drawing, acting)
        assert after.crop is not None
        return SetView(view=after.id, changes={"crop": after.crop.model_dump(mode="json")})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, after, words = self._made(drawing, acting)
        return view_shown(drawing, acting, sheet, after, words)

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, View, str]:
        sheet, view = need_view(drawing, self.view)
        if isinstance(view, DetailView):
            raise BadOperation("A detail is cropped already", "Change its outline: drag its ring.")
        whole = view.model_copy(update={"crop": None})
        trial = sheet.model_copy(update={"views": [whole if v.id == view.id else v for v in sheet.views]})
        placed_view = acting.projections.placed_views(drawing.with_sheet(trial), trial)[view.id]
        outline = outline_by(self.outline, placed_view)
        after = view.model_copy(update={"crop": Crop(outline=outline, edge=self.edge)})
        return sheet, after, f"{view_words(view)} cropped, {words_of_outline(outline, drawing, placed_view)}"


class MoveOutline(AnyAct):
    """The outline of a detail, or of a cropped view, moved so that its centre is ``to`` a place (or what ``ref`` and ``at``
    name), or made as large as to reach there (``size``)."""

    act: Literal["move_outline"] = "move_outline"
    view: Ref
    to: Point
    ref: Ref = ""
    at: Ref = ""
    size: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, after, outline, _ = self._made(drawing, acting)
        held: dict[str, Any] = {"outline": outline.model_dump(mode="json")}
        if isinstance(after, DetailView):
            return SetView(view=after.id, changes=held)
        assert after.crop is not None
        return SetView(view=after.id, changes={"crop": {"edge": after.crop.edge} | held})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, after, _, words = self._made(drawing, acting)
        return view_shown(drawing, acting, sheet, after, words)

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, View, Outline, str]:
        sheet, view = need_view(drawing, self.view)
        old = view.outline if isinstance(view, DetailView) else view.crop and view.crop.outline
        if not old:
            raise BadOperation("This view has no outline", "Crop it first, or choose a detail.")
        home = drawing.sheet_of(view.parent or "") if isinstance(view, DetailView) else sheet
        if home is None:
            raise BadOperation("The view of this detail is gone", "Put it back with undo.")
        ground = acting.projections.placed_views(drawing, home)[
            (view.parent or "") if isinstance(view, DetailView) else view.id
        ]
        part, projected = ground.projected.whole, ground.projected
        here = ground.transform.from_sheet(np.array([self.to]))[0]
        centre = middle_of(old, projected.frame, part)
        if self.size:
            reach = np.maximum(np.abs(here - centre), 0.5 / ground.scale)
            if old.points:
                far = float(np.linalg.norm(np.array(old.points), axis=1).max())
                factor = float(np.linalg.norm(here - centre)) / max(far, 1e-9)
                points = [(x * factor, y * factor) for x, y in old.points]
                outline = old.model_copy(update={"points": points})
            elif old.form == "round" and abs(old.half[0] - old.half[1]) < 1e-9:
                radius = max(float(np.linalg.norm(here - centre)), 0.5 / ground.scale)
                outline = old.model_copy(update={"half": (radius, radius)})
            else:
                outline = old.model_copy(update={"half": (float(reach[0]), float(reach[1]))})
        else:
            tie = tie_of(self.ref, self.at)
            caught = None if tie is None else tie_point(part, tie)
            if caught is not None:
                here = projected.flat_each(caught[None])[0]
                outline = old.model_copy(update={"tie": tie, "off": (0.0, 0.0)})
            elif not is_loose(old, part) and old.tie is not None:
                off = here - centre + old.off
                outline = old.model_copy(update={"off": (float(off[0]), float(off[1]))})
            else:
                outline = old
            outline = outline.model_copy(update={"centre": (float(here[0]), float(here[1]))})
        if isinstance(view, DetailView):
            after: View = view.model_copy(update={"outline": outline})
        else:
            assert view.crop is not None
            after = view.model_copy(update={"crop": view.crop.model_copy(update={"outline": outline})})
        words = f"{view_words(view)}, outline {words_of_outline(outline, drawing, ground)}"
        return sheet, after, outline, words
