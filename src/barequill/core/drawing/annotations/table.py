"""Tables: cells that somebody wrote, or that follow the part and the drawing."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from ...bounds import Affix, Figure, Ref, Text
from ...errors import BadOperation
from ..base import Model, Point
from .base import AnyAnnotation
from .dimension import Anchor

ROWS, COLUMNS = 500, 24
"""How many a table has at most."""
CornerName = Literal["top left", "top right", "bottom left", "bottom right"]


class Column(Model):
    """A column: its ``title``, how its cells are set, its ``width`` (mm; as wide as what is in it where none is given), and what of the
    drawing it ``shows`` in a table that is filled by itself."""

    title: Affix = ""
    align: Literal["left", "middle", "right"] = "left"
    width: Annotated[Figure, Field(gt=0, le=1000)] | None = None
    shows: Ref = ""


class Joined(Model):
    """Cells of a row from a ``column`` on that are one, ``across`` so many columns."""

    row: Annotated[int, Field(ge=0, le=ROWS)]
    column: Annotated[int, Field(ge=0, le=COLUMNS)]
    across: Annotated[int, Field(ge=2, le=COLUMNS)]


class Table(AnyAnnotation):
    """A table that stands on the sheet. Its ``corner`` is at the place ``at`` (mm from the lower left corner of the sheet), or
    ``tied``: in that corner of the frame, or on the title block. From there its rows go down, or up where it stands on a lower corner;
    the ``heading`` and the titles of its columns come first at the ``titles`` end. After ``most`` rows it goes on beside itself.

    ``follows``: what fills it: the holes of a ``view`` (counted from ``origin``), the bends of one that is a flat pattern,
    the items of the parts list, the revisions, the general tolerances that the title block names; nothing where its ``rows`` are written.
    """

    noun: ClassVar[str] = "table"
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"sheet"})
    lettered: ClassVar[bool] = True
    placed_by: ClassVar[tuple[str, ...]] = ("at", "tied", "corner")
    counts_as: ClassVar[str] = "table"

    kind: Literal["table"] = "table"
    heading: Affix = ""
    columns: Annotated[list[Column], Field(min_length=1, max_length=COLUMNS)]
    rows: Annotated[list[Annotated[list[Text], Field(max_length=COLUMNS)]], Field(max_length=ROWS)] = []
    joined: Annotated[list[Joined], Field(max_length=ROWS)] = []
    follows: Literal["", "holes", "parts", "revisions", "tolerances", "bends"] = ""
    view: Ref = ""
    origin: Anchor | None = None
    at: Point = (30.0, 280.0)
    corner: CornerName = "top left"
    tied: Literal["", "frame", "title block"] = ""
    titles: Literal["top", "bottom"] = "top"
    most: Annotated[int, Field(ge=1, le=ROWS)] | None = None
    lettering: Annotated[Figure, Field(ge=1.8, le=20)] | None = None
    marked: Annotated[int, Field(ge=0, le=ROWS)] | None = None
    """The row that is drawn, of a table of variants."""

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        if any(len(r) > len(self.columns) for r in self.rows):
            raise ValueError("a row has more cells than the table has columns")
        for j in self.joined:
            if j.row >= max(len(self.rows), 1) or j.column + j.across > len(self.columns):
                raise ValueError("cells are joined that the table does not have")
        return self

    def check(self) -> None:
        if not self.follows and not self.rows:
            raise BadOperation("A table without rows", "Write at least one.")

    def copied(self, on: str) -> Table | None:
        return self.model_copy(update={"on": on, "tied": ""})
