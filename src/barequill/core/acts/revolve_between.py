"""A section turned into its view between break lines: one act breaks the view and puts the section into the gap."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Break, Drawing, Operation, SectionView, Sheet, View
from ..drawing.base import Point
from ..drawing.operations import AddViews, Group, SetView, need_view
from ..drawing.views import name_for
from ..errors import UserError
from ..views.breaking import KEEP, free_stretches, held
from ..views.windows import break_in_view
from .base import ActContext, AnyAct, Preview
from .cut_view import CutPoint, CutView
from .cutting import checked
from .outlining import view_shown

AIR = 4.0
"""mm on the sheet between the section and the break lines."""


class RevolveBetween(AnyAct):
    """A section at a place ``to`` of a long view, across it, turned into the view between two break lines; the stretch
    without features about that place is taken out, and the gap is as wide as the section needs."""

    act: Literal["revolve_between"] = "revolve_between"
    view: Ref
    to: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, after, section = self._made(drawing, acting)
        checked(drawing, acting, section)
        breaks = [b.model_dump(mode="json") for b in after.breaks]
        operations: list[Operation] = [
            SetView(view=after.id, changes={"breaks": breaks}),
            AddViews(sheet=sheet.id, views=[section]),
        ]
        return Group(label="Turn a section in between break lines", operations=operations)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, after, section = self._made(drawing, acting)
        rest = [v for v in sheet.views if v.id not in (after.id, section.id)]
        trial = sheet.model_copy(update={"views": [*rest, after, section]})
        changed = drawing.with_sheet(trial)
        broken, turned = (
            view_shown(changed, acting, trial, v, "a section turned in between break lines") for v in (after, section)
        )
        return Preview(broken.ink, broken.elements + turned.elements, broken.words)

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, View, SectionView]:
        sheet, view = need_view(drawing, self.view)
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
        box = placed_view.projected.mesh_box
        axis = int(np.argmax(box[:, 1] - box[:, 0]))
        here = placed_view.transform.from_sheet(np.array([self.to]))[0]
        if not box[axis, 0] < here[axis] < box[axis, 1]:
            raise UserError("There is nothing to cut", "Click where the section is to be, on the part.")
        here[1 - axis] = float(box[1 - axis].mean())
        x, y = placed_view.transform.to_sheet(here[None])[0]
        across = CutPoint(x=x, y=y + 1.0) if axis == 0 else CutPoint(x=x + 1.0, y=y)
        act = CutView(view=view.id, points=[CutPoint(x=x, y=y), across], to=self.to, form="revolved")
        section = act.section(drawing, acting, view)
        trial = sheet.model_copy(update={"views": [*sheet.views, section]})
        shown = acting.projections.placed_views(drawing.with_sheet(trial), trial)[section.id].box
        need = (shown.width if axis == 0 else shown.height) + 2 * AIR
        name = "xy"[axis]
        now = [break_in_view(b, placed_view.projected.frame, placed_view.projected.whole) for b in view.breaks]
        own = next((b for b in now if b.along == name and b.start < here[axis] < b.end), None)
        if own is not None:
            wider = own.model_copy(update={"gap": max(own.gap, need)})
            breaks = [wider if b.id == own.id else b for b in view.breaks]
        else:
            keep = KEEP / placed_view.scale
            free = [
                s for s in free_stretches(placed_view.projected, placed_view.scale, axis) if s[0] < here[axis] < s[1]
            ]
            start, end = free[0] if free else (here[axis] - keep / 2, here[axis] + keep / 2)
            if end - start > 3 * keep:
                start, end = start + keep, end - keep
            if not start < here[axis] < end:
                # the place stays within what is taken out
                start, end = min(start, here[axis] - keep / 2), max(end, here[axis] + keep / 2)
            made = Break(id=name_for(view, "break"), along=name, start=start, end=end, gap=need)  # type: ignore[arg-type]
            breaks = [*view.breaks, held(made, placed_view.projected)]
        return sheet, view.model_copy(update={"breaks": breaks}), section
