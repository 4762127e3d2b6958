"""General notes: a numbered block on the sheet."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import Affix, Figure, Text
from ..base import Model, Point
from .base import AnyAnnotation

LineId = Annotated[str, Field(pattern=r"^n[0-9]{1,6}$")]


class NoteLine(Model):
    """One note of a block; flags refer to it by ``id``, whichever number it has."""

    id: LineId
    text: Text


class NotesBlock(AnyAnnotation):
    """Notes that hold for the whole drawing, numbered in their order under a ``heading``; ``at``: the upper left corner of the
    block, mm from the lower left corner of the sheet. ``width``: where lines are wrapped (mm)."""

    noun: ClassVar[str] = "block of notes"
    counts_as: ClassVar[str] = "note"
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"sheet"})
    lettered: ClassVar[bool] = True
    placed_by: ClassVar[tuple[str, ...]] = ("at", "width")

    kind: Literal["notes_block"] = "notes_block"
    heading: Affix = "Notes"
    notes: Annotated[list[NoteLine], Field(min_length=1, max_length=60)]
    at: Point = (25.0, 60.0)
    width: Annotated[Figure, Field(ge=20, le=1000)] = 150.0

    def number(self, line: str) -> int | None:
        """The number of a note, counted from 1; None where it is gone."""
        return next((k for k, n in enumerate(self.notes, 1) if n.id == line), None)
