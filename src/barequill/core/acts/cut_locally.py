"""A local section: part of a view cut open within a closed line, down to a depth."""

from __future__ import annotations

from typing import Literal

import numpy as np
import shapely
from pydantic import Field

from ..bounds import Figure, Ref
from ..display import Sketch
from ..drawing import Drawing, LocalCut, Operation, SectionView, Sheet, View
from ..drawing.base import Point
from ..drawing.cutting import tie_of
from ..drawing.operations import SetView, need_view
from ..drawing.views import name_for
from ..errors import BadOperation, UserError
from ..geometry import curves2
from ..measuring.pointing import words_of_tie
from ..part.uncut import left_whole
from ..sheet.elements import blank, drawn_view
from ..views.sections import outline_of
from .base import ActContext, AnyAct, Preview
from .cutting import need_cut
from .outlining import thinned


class CutLocally(AnyAct):
    """A closed ``outline`` (sheet mm) drawn on a view, cut to the ``depth`` (mm toward the viewer from the middle of the
    part) or to what ``ref`` and ``at`` name; ``change`` names the local cut that is drawn anew."""

    act: Literal["cut_locally"] = "cut_locally"
    view: Ref
    outline: list[Point] = Field(min_length=1, max_length=400)
    smooth: bool = True
    depth: Figure = 0.0
    ref: Ref = ""
    at: Ref = ""
    change: Ref = ""
    growing: bool = False
    """The outline is still being drawn: only it is shown."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, view, cuts, whole = self._changed(drawing, acting)
        changes = {"local_cuts": [c.model_dump(mode="json") for c in cuts]}
        return SetView(view=view.id, changes=changes | ({} if whole is None else {"whole": whole}))

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view = need_view(drawing, self.view)
        if self.growing or len(self.outline) < 3:
            return self._line(drawing, sheet)
        sheet, view, cuts, whole = self._changed(drawing, acting)
        update = {"local_cuts": cuts} | ({} if whole is None else {"whole": whole})
        changed = view.model_copy(update=update)
        trial = sheet.model_copy(update={"views": [changed if v.id == view.id else v for v in sheet.views]})
        after = drawing.with_sheet(trial)
        placed_view = acting.projections.placed_views(after, trial)[view.id]
        ink = blank(drawing, sheet)
        elements = drawn_view(after, trial, placed_view, ink, acting.display_cache)
        depth = cuts[-1]
        words = f"{depth.depth:.6g} mm from the middle of the part"
        if depth.tie is not None:
            words = f"to the {words_of_tie(acting.projections.part(view.part), depth.tie, drawing)}"
        return Preview(ink, tuple(elements), f"local section, {words}")

    def _line(self, drawing: Drawing, sheet: Sheet) -> Preview:
        ink = blank(drawing, sheet)
        sketch = Sketch(ink.lines)
        if len(self.outline) > 1:
            sketch.stroke(curves2.polyline(self.outline), "limit")
        element = sketch.element("outline", "view", self.view, "outline", "outline", (0.0, 0.0))
        return Preview(ink, (element,), "draw round what is to be cut open")

    def _changed(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, View, list[LocalCut], list[str] | None]:
        sheet, view = need_view(drawing, self.view)
        if isinstance(view, SectionView):
            raise BadOperation("This view is a section already", "Cut locally in a view that shows the part whole.")
        if len(self.outline) < 3:
            raise UserError("The outline has no area", "Draw it round the place that is to be cut open.")
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
        drawn = placed_view.transform.from_sheet(np.array(self.outline, float))
        points = thinned(drawn, 1.0 / placed_view.transform.scale) if self.smooth and not self.change else drawn
        tie = tie_of(self.ref, self.at)
        old = next((c for c in view.local_cuts if c.id == self.change), None)
        own = old.id if old is not None else name_for(view, "cut")
        cut = LocalCut(
            id=own,
            outline=[(float(x), float(y)) for x, y in points],
            smooth=self.smooth,
            depth=self.depth if tie is None else 0.0,
            tie=tie,
        )
        outline = shapely.Polygon(outline_of(cut))
        if not outline.is_valid:
            raise UserError("The outline crosses itself", "Draw it round the place, without a loop.")
        if not outline.intersects(shapely.MultiPoint(placed_view.projected.hull).convex_hull):
            raise UserError("The outline misses the part", "Draw it over the part.")
        part = acting.projections.part(view.part)
        whole = None
        if not view.local_cuts and len(part.bodies) > 1:
            whole = left_whole(part, placed_view.projected.view.toward, view.bodies)
        need_cut(part, view.bodies, view.whole if whole is None else whole)
        return sheet, view, [*(c for c in view.local_cuts if c.id != own), cut], whole
