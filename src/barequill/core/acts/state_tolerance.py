"""A tolerance or fit stated on dimensions, as it is typed."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import FEW, Name, Ref
from ..drawing import Dimension, Drawing, Operation
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.operations import ChangeAnnotation, Group
from ..errors import Unmeasurable, UserError
from ..features.holes import hole_at
from ..kinds.common.tolerancing import checked, parsed
from ..measuring.context import LayoutContext
from ..measuring.measuring import measure
from ..standards.sheets import INCH
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
                bore = None if hole is None else hole.bore.diameter
                tolerance = parsed(self.text, bore / INCH if bore is not None and drawing.unit == "inch" else bore)
                operations.append(ChangeAnnotation(id=own, changes={"tolerance": tolerance.model_dump()}))
                continue
            sheet, found = need_dimension(drawing, own)
            context, _ = acting.context(drawing, sheet, found.on)
            angle = found.measure == "angle"
            value, lost = _value(context, found)
            tolerance = parsed(self.text, in_unit(value, found, drawing.unit), angle)
            if tolerance.kind == "fit":
                if angle:
                    raise UserError("Classes are for lengths", "State deviations of an angle, such as ±0.5.")
                if value is None:
                    raise lost
                checked(tolerance, value, drawing.unit)
            given = tolerance.model_copy(update={"bare_zero": found.tolerance.bare_zero})
            operations.append(ChangeAnnotation(id=own, changes={"tolerance": given.model_dump()}))
        return operations[0] if len(operations) == 1 else Group(label="State a tolerance", operations=operations)


def _value(context: LayoutContext, dimension: Dimension) -> tuple[float | None, UserError]:
    """What a dimension measures (mm or degrees); None, and why, where it cannot be measured."""
    try:
        return float(measure(context.view.projected, dimension).value), UserError("", "")
    except Unmeasurable as error:
        return None, UserError(error.title, error.detail)


def in_unit(value: float | None, dimension: Dimension, unit: str) -> float | None:
    """A value (mm or degrees) in the unit in which it is written."""
    return value / INCH if value is not None and unit == "inch" and dimension.measure != "angle" else value
