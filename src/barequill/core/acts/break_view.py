"""A broken view: stretches without features taken out of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import Coordinate, Ref
from ..drawing import Break, Drawing, Operation, Sheet, View
from ..drawing.operations import Group, SetSheet, SetView, need_view
from ..drawing.views import name_for
from ..drawing.windows import BreakForm
from ..errors import UserError
from ..measuring.wording import figure
from ..sheet.elements import view_words
from ..standards.scales import SERIES, scale_text
from ..views.breaking import held, proposed
from ..views.placed_view import PlacedView
from ..views.proposal import rearranged
from ..views.windows import break_in_view
from .base import ActContext, AnyAct, Preview
from .outlining import view_shown


class BreakView(AnyAct):
    """A stretch taken out of a view between two places (``first``, ``second``: sheet mm) along its x or y; all stretches
    without a feature where no places are given, ``rescaled`` with the sheet at the largest scale that becomes possible.
    ``change`` names a stretch that is altered."""

    act: Literal["break_view"] = "break_view"
    view: Ref
    along: Literal["x", "y"] | None = None
    first: tuple[Coordinate, Coordinate] | None = None
    second: tuple[Coordinate, Coordinate] | None = None
    gap: float = Field(default=4.0, ge=0.5, le=200)
    form: BreakForm = "auto"
    change: Ref = ""
    rescaled: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, after, _ = self._made(drawing, acting)
        if not self.rescaled:
            return _set(after)
        larger = self._larger(drawing, acting, sheet)
        if larger is None:
            raise UserError("No larger scale becomes possible", "Break the view alone, or take a larger sheet.")
        scale, broken, places = larger
        return Group(
            label=f"Break the view and draw at {scale_text(scale)}",
            operations=[broken, SetSheet(sheet=sheet.id, scale=scale, places=places)],
        )

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, after, words = self._made(drawing, acting)
        others: tuple[str, ...] = ()
        if self.first is None:
            larger = self._larger(drawing, acting, sheet)
            if larger is not None:
                words += f"; {scale_text(larger[0])} becomes possible"
                others = (f"draw at {scale_text(larger[0])}",)
        return replace(view_shown(drawing, acting, sheet, after, words), others=others)

    def _larger(
        self, drawing: Drawing, acting: ActContext, sheet: Sheet
    ) -> tuple[float, SetView, dict[str, tuple[float, float]]] | None:
        """The largest standard scale at which the sheet holds its views when this one is broken for it: with the stretches
        that are taken out then, and where the views stand."""
        try:
            most = rearranged(acting.projections, drawing, sheet, None).scale
        except UserError:
            most = sheet.scale
        for scale in (s for s in SERIES if s > max(most, sheet.scale) * 1.001):
            larger = sheet.model_copy(update={"scale": scale})
            trial = drawing.with_sheet(larger)
            try:
                _, after, _ = self._made(trial, acting)
                views = [after if v.id == after.id else v for v in larger.views]
                broken = larger.model_copy(update={"views": views})
                found = rearranged(acting.projections, trial.with_sheet(broken), broken, None, sheet.scale)
            except UserError:
                continue
            if found.scale >= scale * 0.999:
                return scale, _set(after), found.places
        return None

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, View, str]:
        sheet, view = need_view(drawing, self.view)
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
        now = [break_in_view(b, placed_view.projected.frame, placed_view.projected.whole) for b in view.breaks]
        old = next((b for b in now if b.id == self.change), None)
        rest = [b for b in now if b.id != self.change]
        if self.first is None or self.second is None:
            found = _proposed_in(placed_view, self.along)
        else:
            a, b = placed_view.transform.from_sheet(np.array([self.first, self.second]))
            along = (old.along if old else None) or self.along
            axis = {"x": 0, "y": 1}.get(along or "", int(np.argmax(np.abs(b - a))))
            found = [("xy"[axis], float(min(a[axis], b[axis])), float(max(a[axis], b[axis])))]
        gap, form = (old.gap, old.form) if old is not None else (self.gap, self.form)
        after, gone = view.model_copy(update={"breaks": rest}), 0.0
        for axis_name, start, end in found:
            start, end = _kept_off(rest, axis_name, start, end, 1.0 / placed_view.scale)
            if end - start <= gap / placed_view.scale:
                if len(found) > 1 or self.first is None:
                    continue
                raise UserError("The stretch is shorter than the gap", "Drag further, or make the gap narrower.")
            own = old.id if old is not None else name_for(after, "break")
            made: dict[str, Any] = {"id": own, "along": axis_name, "start": start, "end": end, "gap": gap, "form": form}
            added = held(Break.model_validate(made), placed_view.projected)
            after = after.model_copy(update={"breaks": [*after.breaks, added]})
            gone += end - start
        if not gone:
            raise UserError("There is nothing left to take out", "Drag over the stretch that is to be taken out.")
        words = f"{view_words(view)} broken, {figure(gone, None, drawing.unit, False, drawing.standard)} taken out"
        return sheet, after, words


def _set(view: View) -> SetView:
    """The operation that gives a view its breaks."""
    return SetView(view=view.id, changes={"breaks": [b.model_dump(mode="json") for b in view.breaks]})


def _proposed_in(placed_view: PlacedView, along: str | None) -> list[tuple[str, float, float]]:
    found = proposed(placed_view.projected, placed_view.scale, along)
    if not found:
        raise UserError("There is no long stretch without a feature", "Drag over the stretch that is to be taken out.")
    return found


def _kept_off(rest: list[Break], along: str, start: float, end: float, near: float) -> tuple[float, float]:
    """A stretch, shortened where others along the same axis are in its way."""
    for b in rest:
        if b.along != along or b.end + near < start or b.start - near > end:
            continue
        if b.start - near > start:
            end = min(end, b.start - near)
        else:
            start = max(start, b.end + near)
    return start, end
