"""A tolerance or fit stated on dimensions, as it is typed."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import FEW, Name, Ref
from ..drawing import Drawing, Operation
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.operations import ChangeAnnotation, Group
from ..errors import Unmeasurable, UserError
from ..features.holes import hole_at
from ..kinds.common.tolerancing import checked, parsed
from ..measuring.measuring import measure
from ..measuring.wording import in_unit
from .base import ActContext, AnyAct, need_dimension


class StateTolerance(AnyAct):
    """A tolerance as it is typed (``±0.1``, ``+0.05/-0.03``, ``H7``, ``none``) on dimensions."""

    act: Literal["state_tolerance"] = "state_tolerance"
    ids: list[Ref] = Field(min_length=1, max_length=FEW)
    text: Name

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        operations: list[Operation] = []
        for own in self.ids:
            sheet = drawing.sheet_of(own)
            found = sheet.annotation(own) if sheet is not None else None
            if sheet is not None and isinstance(found, HoleNote):
                context, _ = acting.context(drawing, sheet, found.on)
                hole = hole_at(context.view.projected.whole, found.ref)
                tolerance = parsed(self.text, None if hole is None else in_unit(hole.bore.diameter, drawing.unit))
                operations.append(ChangeAnnotation(id=own, changes={"tolerance": tolerance.model_dump()}))
                continue
            sheet, found = need_dimension(drawing, own)
            context, _ = acting.context(drawing, sheet, found.on)
            angle = found.measure == "angle"
            value, lost = None, None
            try:
                value = float(measure(context.view.projected, found).value)
            except Unmeasurable as error:
                lost = UserError(error.title, error.detail)
            shown = None if value is None else in_unit(value, drawing.unit, angle)
            tolerance = parsed(self.text, shown, angle)
            if tolerance.kind == "fit":
                if angle:
                    raise UserError("Classes are for lengths", "State deviations of an angle, such as ±0.5.")
                if lost is not None:
                    raise lost
                assert value is not None
                checked(tolerance, value, drawing.unit)
            given = tolerance.model_copy(update={"bare_zero": found.tolerance.bare_zero})
            operations.append(ChangeAnnotation(id=own, changes={"tolerance": given.model_dump()}))
        return operations[0] if len(operations) == 1 else Group(label="State a tolerance", operations=operations)
