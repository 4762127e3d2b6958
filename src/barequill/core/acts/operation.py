"""An operation as it is."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from ..drawing import Drawing, Operation
from ..drawing.operations import Group, SetPart
from .base import AnyAct, Bench


class DoOperation(AnyAct):
    """An operation as it is."""

    act: Literal["operation"] = "operation"
    operation: Operation

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        for operation in _each(self.operation):
            if isinstance(operation, SetPart):
                bench.need_part(operation.part.key)
        return self.operation


def _each(operation: Operation) -> Iterator[Operation]:
    """An operation and, of a group, all within it."""
    yield operation
    if isinstance(operation, Group):
        for inner in operation.operations:
            yield from _each(inner)
