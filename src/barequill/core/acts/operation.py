"""An operation that whoever acts states himself."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from ..drawing import Drawing, Operation, SectionView
from ..drawing.operations import Group, SetPart, SetView, apply
from ..drawing.operations.base import given
from .base import ActContext, AnyAct
from .cutting import need_cut


class DoOperation(AnyAct):
    """An operation that whoever acts states himself."""

    act: Literal["operation"] = "operation"
    operation: Operation

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        for operation in _each(self.operation):
            if isinstance(operation, SetPart):
                acting.need_part(operation.part.key)
            if isinstance(operation, SetView) and {"whole", "bodies"} & set(given(operation.changes)):
                _need_cut(operation, drawing, acting)
        return self.operation


def _need_cut(operation: SetView, drawing: Drawing, acting: ActContext) -> None:
    """Raises UserError where of a view that is cut no body would be."""
    if drawing.view(operation.view) is None:
        # it comes with the same act, or is gone
        return
    view = apply(drawing, operation).view(operation.view)
    if view is not None and (isinstance(view, SectionView) or view.local_cuts or getattr(view, "quarter", False)):
        need_cut(acting.projections.part(view.part), view.bodies, view.whole)


def _each(operation: Operation) -> Iterator[Operation]:
    """An operation and, of a group, all within it."""
    yield operation
    if isinstance(operation, Group):
        for inner in operation.operations:
            yield from _each(inner)
