"""The look of one dimension given to others."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ..bounds import FEW, Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import ChangeAnnotation, Group
from ..errors import UserError
from .base import ActContext, AnyAct, need_dimension

LOOKS = ("style", "decimals", "arrows", "ends", "text", "reference", "exact")


class GiveLook(AnyAct):
    """The look of a dimension (its style, decimals, arrows, whether it is a reference or exact, and how its tolerance is shown)
    given to others; what they say stays theirs."""

    act: Literal["give_look"] = "give_look"
    source: Ref
    ids: list[Ref] = Field(min_length=1, max_length=FEW)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, source = need_dimension(drawing, self.source)
        operations: list[Operation] = []
        for own in self.ids:
            _, other = need_dimension(drawing, own)
            changes: dict[str, Any] = {n: getattr(source, n) for n in LOOKS if getattr(other, n) != getattr(source, n)}
            shown = {"bare_zero": source.tolerance.bare_zero, "shown": source.tolerance.shown}
            if other.tolerance.model_copy(update=shown) != other.tolerance:
                changes["tolerance"] = shown
            if changes and own != self.source:
                operations.append(ChangeAnnotation(id=own, changes=changes))
        if not operations:
            raise UserError("They look alike already", "Choose others.")
        return Group(label="Give a look to others", operations=operations)
