"""Sets of dimensions made by going through places, and changed afterwards."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..bounds import FEW, Ref
from ..drawing import Anchor, Dimension, Drawing, Operation, Sheet
from ..drawing.base import Point
from ..drawing.operations import Annotate, Group, Remove
from ..errors import BadOperation, UserError
from ..measuring.anchor_geometry import resolve
from ..measuring.curve_stations import along_curve, free_curve
from ..measuring.picking import Pick, anchor_for
from ..measuring.sets import kept_looks, members_of, places_of, row_direction, row_of
from .base import ActContext, AnyAct, Preview, need_dimension
from .pull_dimension import PickJson, shown_all

RowForm = Literal["chain", "parallel", "running", "ordinates", "symmetrical"]
NAMES = {
    "chain": "in a chain",
    "parallel": "in parallel from the first place",
    "running": "running from the first place",
    "ordinates": "running both ways from the first place",
    "symmetrical": "symmetrical about the middle",
}


class StateRow(AnyAct):
    """A set of dimensions through places in a view, its line at the pointer: a chain, or from the first place in parallel,
    running, or running both ways (ordinates), or symmetrical about the first or the middle of all. A free curve among them
    stands for so many ``stations`` on it, evenly spaced along its greater reach in the view."""

    act: Literal["state_row"] = "state_row"
    view: Ref
    picks: list[PickJson] = Field(min_length=1, max_length=FEW)
    pointer: Point
    form: RowForm = "chain"
    stations: int = Field(default=6, ge=1, le=100)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, found = self._made(drawing, acting)
        return Annotate(sheet=sheet.id, annotations=list(found))

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, found = self._made(drawing, acting)
        others = tuple(NAMES[f] for f in NAMES if f != self.form)
        count = "1 size" if len(found) == 1 else f"{len(found)} sizes"
        return shown_all(drawing, acting, sheet, found, f"{count}, {NAMES[self.form]}", others)

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, list[Dimension]]:
        sheet = drawing.sheet_of(self.view)
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        context, (x, y) = acting.context(drawing, sheet, self.view)
        anchors: list[Anchor] = []
        for p in self.picks:
            curve = free_curve(context.view.projected, p.ref) if not p.at else None
            if curve is not None:
                new = along_curve(context.view.projected, p.ref, curve, self.stations)
            else:
                new = [anchor_for(context.view, Pick(p.ref, p.x - x, p.y - y, p.at))]
            anchors += [a for a in new if a not in anchors]
        if len(anchors) < 2:
            raise UserError("One place alone", "Go on to a second place.")
        aim = np.array([self.pointer[0] - x, self.pointer[1] - y])
        ids = drawing.fresh(2 * len(anchors))
        if self.form != "ordinates":
            direction = row_direction(context, anchors, aim)
            return sheet, row_of(
                context=context, anchors=anchors, form=self.form, direction=direction, draft=None, aim=aim, ids=ids
            )
        box = context.view.box
        level, upright = np.array([aim[0], box.y1 + 12.0]), np.array([box.x0 - 12.0, aim[1]])
        if aim[1] < (box.y0 + box.y1) / 2:
            level = np.array([aim[0], box.y0 - 12.0])
        if aim[0] > (box.x0 + box.x1) / 2:
            upright = np.array([box.x1 + 12.0, aim[1]])
        one = row_of(
            context=context, anchors=anchors, form="running", direction="horizontal", draft=None, aim=level, ids=ids
        )
        return sheet, one + row_of(
            context=context,
            anchors=anchors,
            form="running",
            direction="vertical",
            draft=None,
            aim=upright,
            ids=ids[len(anchors) :],
        )


class ChangeRow(AnyAct):
    """The set of a dimension in another ``form``, from another ``datum`` (the place of it nearest to that of the sheet), with
    a place more (``add``), or without the place at which the dimension ends (``leave_out``)."""

    act: Literal["change_row"] = "change_row"
    id: Ref
    form: Literal["chain", "parallel", "running", "symmetrical"] | None = None
    datum: Point | None = None
    add: PickJson | None = None
    leave_out: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, old, new = self._made(drawing, acting)
        return Group(
            label="Change a set of dimensions",
            operations=[Remove(ids=[d.id for d in old]), Annotate(sheet=sheet.id, annotations=list(new))],
        )

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, _, new = self._made(drawing, acting)
        return shown_all(drawing, acting, sheet, new, f"{len(new)} sizes", ())

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, list[Dimension], list[Dimension]]:
        sheet, own = need_dimension(drawing, self.id)
        if len(own.anchors) < 2:
            raise UserError("It has no two places", "A set is made of distances between places.")
        context, (x, y) = acting.context(drawing, sheet, own.on)
        old = members_of(sheet, own)
        anchors = places_of(old)
        form = self.form or (own.row.form if own.row else "chain")
        if self.add is not None:
            anchors.append(anchor_for(context.view, Pick(self.add.ref, self.add.x - x, self.add.y - y, self.add.at)))
        if self.leave_out:
            anchors = [a for a in anchors if a != own.anchors[-1]]
            if len(anchors) < 2:
                raise UserError("Nothing would be left", "Remove the dimension in place of its end.")
        if self.datum is not None:
            spot = context.view.transform.from_sheet(np.array([[self.datum[0] - x, self.datum[1] - y]]))[0]
            first = min(
                anchors,
                key=lambda a: float(np.linalg.norm(resolve(context.view.projected, a).points - spot, axis=1).min()),
            )
            anchors = [first, *(a for a in anchors if a != first)]
        direction = own.direction
        if direction == "aligned":
            direction = row_direction(context, anchors, np.zeros(2))  # type: ignore[assignment]
        ids = drawing.fresh(len(anchors))
        new = row_of(
            context=context,
            anchors=anchors,
            form=form,
            direction=direction,
            draft=old[0].place,
            aim=np.zeros(2),
            ids=ids,
        )
        return sheet, old, kept_looks(old, new)
