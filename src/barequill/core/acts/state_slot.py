"""The sizes of a slot or keyway: how far its ends are apart, and their radius."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Anchor, Dimension, Drawing, Operation, Place
from ..drawing.operations import Annotate
from ..errors import BadOperation, Unmeasurable, UserError
from ..features.slots import slot_at
from ..measuring.extremes import free_row
from ..measuring.measuring import Linear, measure
from .base import ActContext, AnyAct


class StateSlot(AnyAct):
    """The sizes of the slot that an edge or face of it names, in a view along its axis: between the middles of its ends, and
    the radius of both."""

    act: Literal["state_slot"] = "state_slot"
    view: Ref
    ref: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = drawing.sheet_of(self.view)
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        context, _ = acting.context(drawing, sheet, self.view)
        part, projected = context.view.projected.whole, context.view.projected
        slot = slot_at(part, self.ref)
        if slot is None:
            raise UserError("That is no slot", "Point at a side or an end of one.")
        if abs(float(slot.axis @ projected.view.toward)) < 1 - 1e-9:
            raise UserError(
                "The slot is not seen along its axis", "State its sizes in the view that shows its outline."
            )
        ids = drawing.fresh(2)
        ends = [Anchor(ref=part.faces[k].ref, at="centre") for k in slot.ends]
        flat = np.abs(np.diff(projected.flat_each(slot.middles), axis=0)[0])
        way = "horizontal" if flat[1] < 1e-6 else "vertical" if flat[0] < 1e-6 else "aligned"
        length = Dimension.model_validate(
            {"id": ids[0], "on": self.view, "measure": "distance", "anchors": ends, "direction": way}
        )
        try:
            found = measure(projected, length)
        except Unmeasurable as error:
            raise UserError(error.title, error.detail) from None
        assert isinstance(found, Linear)
        side, offset = free_row(context, sheet, found)
        length = length.model_copy(update={"place": Place.model_validate({"side": side, "offset": offset})})
        # the arrow points at the end that lies farther right
        right = int(np.argmax(projected.flat_each(slot.middles)[:, 0]))
        arcs = [e for e in part.faces[slot.ends[right]].boundary if part.edges[e].curve.is_circle]
        top = max(arcs, key=lambda e: float(part.edges[e].curve.origin @ projected.view.toward))  # type: ignore[operator]
        radius = Dimension(
            id=ids[1],
            on=self.view,
            measure="radius",
            anchors=[Anchor(ref=part.edges[top].ref, at="round")],
            count=2,
            place=Place(angle=35.0, offset=14.0),
        )
        return Annotate(sheet=sheet.id, annotations=[length, radius])
