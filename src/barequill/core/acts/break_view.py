"""A broken view: stretches without features taken out of it."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..annotation.sheet_ink import view_words
from ..annotation.wording import figure
from ..bounds import Coordinate, Ref
from ..drawing import Break, Drawing, Operation, Sheet, View
from ..drawing.operations import SetView, need_view
from ..drawing.views import name_for
from ..drawing.windows import BreakForm
from ..errors import UserError
from ..views.shot import Shot
from .base import AnyAct, Bench, Preview
from .outlining import view_shown

KEEP = 8.0
"""mm on the sheet that are left beside a feature."""
WORTH = 20.0
"""mm on the sheet from which a stretch is worth taking out."""
SLENDER = 4.0
"""How many times as long as wide a view is from which breaks are proposed."""
SHARE = 0.15
"""Of the length of the view, from which on a stretch is worth taking out."""
FORMS = {
    "zigzag": "zigzag lines",
    "freehand": "freehand lines",
    "round": "ends of a round bar",
    "tube": "ends of a tube",
}


class BreakView(AnyAct):
    """A stretch taken out of a view between two places (``first``, ``second``: sheet mm) along its x or y; all stretches
    without a feature where no places are given. ``change`` names a stretch that is altered."""

    act: Literal["break_view"] = "break_view"
    view: Ref
    along: Literal["x", "y"] | None = None
    first: tuple[Coordinate, Coordinate] | None = None
    second: tuple[Coordinate, Coordinate] | None = None
    gap: float = Field(default=4.0, ge=0.5, le=200)
    form: BreakForm = "auto"
    change: Ref = ""

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        _, after, _ = self._made(drawing, bench)
        return SetView(view=after.id, changes={"breaks": [b.model_dump(mode="json") for b in after.breaks]})

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, after, words = self._made(drawing, bench)
        return view_shown(drawing, bench, sheet, after, words)

    def _made(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, View, str]:
        sheet, view = need_view(drawing, self.view)
        picture = bench.studio.pictures(drawing, sheet)[view.id]
        old = next((b for b in view.breaks if b.id == self.change), None)
        rest = [b for b in view.breaks if b.id != self.change]
        if self.first is None or self.second is None:
            found = proposed(picture.shot, picture.scale, self.along)
            if not found:
                raise UserError(
                    "There is no long stretch without a feature", "Drag over the stretch that is to be taken out."
                )
        else:
            a, b = picture.chart.from_sheet(np.array([self.first, self.second]))
            along = (old.along if old else None) or self.along
            axis = {"x": 0, "y": 1}.get(along or "", int(np.argmax(np.abs(b - a))))
            found = [("xy"[axis], float(min(a[axis], b[axis])), float(max(a[axis], b[axis])))]
        gap, form = (old.gap, old.form) if old is not None else (self.gap, self.form)
        after, gone = view.model_copy(update={"breaks": rest}), 0.0
        for axis_name, start, end in found:
            start, end = _kept_off(rest, axis_name, start, end, 1.0 / picture.scale)
            if end - start <= gap / picture.scale:
                if len(found) > 1 or self.first is None:
                    continue
                raise UserError("The stretch is shorter than the gap", "Drag further, or make the gap narrower.")
            own = old.id if old is not None else name_for(after, "break")
            made: dict[str, Any] = {"id": own, "along": axis_name, "start": start, "end": end, "gap": gap, "form": form}
            after = after.model_copy(update={"breaks": [*after.breaks, Break.model_validate(made)]})
            gone += end - start
        if not gone:
            raise UserError("There is nothing left to take out", "Drag over the stretch that is to be taken out.")
        words = f"{view_words(view)} broken, {figure(gone, None, drawing.unit, False, drawing.standard)} taken out"
        return sheet, after, words


def _kept_off(rest: list[Break], along: str, start: float, end: float, near: float) -> tuple[float, float]:
    """A stretch so far as others along the same axis leave room for it."""
    for b in rest:
        if b.along != along or b.end + near < start or b.start - near > end:
            continue
        if b.start - near > start:
            end = min(end, b.start - near)
        else:
            start = max(start, b.end + near)
    return start, end


def proposed(shot: Shot, scale: float, along: str | None = None) -> list[tuple[str, float, float]]:
    """Stretches of a view in which nothing begins or ends, long enough to be worth taking out: axis, start and end (view
    mm). Only along the longer way of the view, where it is not said along which."""
    box = shot.mesh_box
    lengths = box[:, 1] - box[:, 0]
    axes = [{"x": 0, "y": 1}[along]] if along is not None else [int(np.argmax(lengths))]
    if along is None and lengths.max() < SLENDER * lengths.min():
        # what is compact stays whole
        return []
    keep = KEEP / scale
    return [
        ("xy"[axis], a + keep, b - keep)
        for axis in axes
        for a, b in free_stretches(shot, scale, axis)
        if (b - a) * scale >= WORTH + 2 * KEEP and b - a >= SHARE * lengths[axis]
    ]


def free_stretches(shot: Shot, scale: float, axis: int) -> list[tuple[float, float]]:
    """All stretches (view mm) along an axis between the places where something begins or ends."""
    marks = [shot.mesh_box[axis]]
    for c in shot.strings.curves:
        x0, y0, x1, y1 = c.bounds()
        low, high = (x0, x1) if axis == 0 else (y0, y1)
        other = (y1 - y0) if axis == 0 else (x1 - x0)
        marks.append(np.array([low, high]))
        if c.kind != "line" or (other > 1e-6 * shot.whole.size and high - low > 1e-6 * shot.whole.size):
            # what bends or slants is a feature all along
            marks.append(np.linspace(low, high, max(2, int((high - low) * scale / 4) + 2)))
    at = np.unique(np.concatenate(marks))
    near = 1e-6 * shot.whole.size
    return [(float(a), float(b)) for a, b in zip(at, at[1:], strict=False) if b - a > near]
