"""Tables of values: what a gear, a spline or a spring is made to."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import Affix, Text
from ..base import Model, Point
from .base import AnyAnnotation


class ValueRow(Model):
    """A row: what is told, and its value."""

    name: Text
    value: Text = ""


class ValueTable(AnyAnnotation):
    """Rows of names and values under a ``heading``; ``at``: its upper left corner, mm from the lower left corner of the sheet."""

    noun: ClassVar[str] = "table of values"
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"sheet"})
    lettered: ClassVar[bool] = True
    placed_by: ClassVar[tuple[str, ...]] = ("at",)
    counts_as: ClassVar[str] = "table"

    kind: Literal["value_table"] = "value_table"
    heading: Affix = ""
    rows: Annotated[list[ValueRow], Field(min_length=1, max_length=60)]
    at: Point = (30.0, 280.0)
