"""A tolerance or fit stated on dimensions, as it is typed."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import FEW, Name, Ref
from ..drawing import Drawing, Operation
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.operations import ChangeAnnotation, Group
from ..errors import Unmeasurable, UserError
from ..kinds.common.tolerancing import checked, parsed
from ..measuring.measuring import Angular, measure
from .base import ActContext, AnyAct, need_dimension


class StateTolerance(AnyAct):
    """A tolerance as it is typed (``±0.1``, ``+0.05/-0.03``, ``H7``, ``none``) on dimensions."""

    act: Literal["state_tolerance"] = "state_tolerance"
    ids: list[Ref] = Field(min_length=1, max_length=FEW)
    text: Name

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        tolerance = parsed(self.text)
        operations: list[Operation] = []
        for own in self.ids:
            sheet = drawing.sheet_of(own)
            found = sheet.annotation(own) if sheet is not None else None
            if sheet is not None and isinstance(found, HoleNote):
                operations.append(ChangeAnnotation(id=own, changes={"tolerance": tolerance.model_dump()}))
                continue
            sheet, found = need_dimension(drawing, own)
            context, _ = acting.context(drawing, sheet, found.on)
            if tolerance.kind == "fit":
                if found.measure == "angle":
                    raise UserError("Classes are for lengths", "State deviations of an angle, such as ±0.5.")
                try:
                    value = measure(context.view.projected, found)
                except Unmeasurable as error:
                    raise UserError(error.title, error.detail) from None
                assert not isinstance(value, Angular)
                checked(tolerance, value.value, drawing.unit)
            given = tolerance.model_copy(update={"bare_zero": found.tolerance.bare_zero})
            operations.append(ChangeAnnotation(id=own, changes={"tolerance": given.model_dump()}))
        return operations[0] if len(operations) == 1 else Group(label="State a tolerance", operations=operations)
