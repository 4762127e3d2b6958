"""Templates of sheets: frame, zones, and a title block of cells that one can change. See ``docs/template-format.md``."""

from __future__ import annotations

import itertools
import json
from functools import cache
from importlib import resources
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..bounds import FIELDS, Name, Ref, Text
from ..standards.sheets import Rectangle, sheet_rectangle
from .base import Model
from .pictures import Picture

VERSION = 1
MOST_CELLS = 80
NARROWEST, LOWEST = 5.0, 3.0
"""mm of the smallest cell."""
TOUCH = 1e-3
"""mm within which borders are the same."""
SHIPPED = ("iso-7200", "asme-y14-1", "small-a4")

Side = Annotated[float, Field(ge=0, le=1200, allow_inf_nan=False)]
Margin = Annotated[float, Field(ge=5, le=100, allow_inf_nan=False)]


class Margins(Model):
    """mm between the edges of the trimmed sheet and the frame."""

    left: Margin = 20.0
    right: Margin = 10.0
    top: Margin = 10.0
    bottom: Margin = 10.0


class Zones(Model):
    """The fields of the frame, by which places on the sheet are found."""

    field: Annotated[float, Field(ge=20, le=500, allow_inf_nan=False)] = 50.0
    """mm of a field, counted from the middle; about so much where an ``even`` number of fields share a side equally."""
    even: bool = False
    numbers: Literal["rightward", "leftward"] = "rightward"
    letters: Literal["downward", "upward"] = "downward"
    strip: Annotated[float, Field(ge=3, le=20, allow_inf_nan=False)] = 5.0
    lettering: Annotated[float, Field(ge=1.8, le=10, allow_inf_nan=False)] = 3.5


class TitleCell(Model):
    """A cell of the title block, from the block's lower left corner, mm."""

    id: Annotated[Ref, Field(min_length=1)]
    x: Side
    y: Side
    width: Annotated[float, Field(ge=NARROWEST, le=1200, allow_inf_nan=False)]
    height: Annotated[float, Field(ge=LOWEST, le=400, allow_inf_nan=False)]
    label: Text = ""
    field: Ref = ""
    """The field that it shows and that is filled in there; none for a cell that only shows its ``text``."""
    text: Text = ""
    """What it says where nobody filled in its field; fields in braces, such as ``{mass}``, are put in."""
    shows: Literal["words", "projection", "picture"] = "words"
    picture: Picture | None = None
    lettering: Annotated[float, Field(ge=1.8, le=20, allow_inf_nan=False)] = 3.5
    align: Literal["left", "middle", "right"] = "left"
    needed: bool = False
    """A sheet is not issued while it is empty."""
    choices: Annotated[list[Text], Field(max_length=60)] = []
    """What is offered where it is filled in."""

    @property
    def box(self) -> Rectangle:
        """Its place within the block."""
        return Rectangle(self.x, self.y, self.x + self.width, self.y + self.height)


class Template(Model):
    """The frame and the title block of sheets. The block stands at the lower right within the frame."""

    name: Name = ""
    margins: Margins = Margins()
    zones: Zones | None = Zones()
    centring: bool = True
    """Whether it has centring marks."""
    cells: Annotated[list[TitleCell], Field(min_length=1, max_length=MOST_CELLS)]
    fields: Annotated[dict[Ref, Text], Field(max_length=FIELDS)] = {}
    """What a drawing that takes it has in its fields where they are not filled in."""

    @model_validator(mode="after")
    def _sound(self) -> Template:
        if len({c.id for c in self.cells}) < len(self.cells):
            raise ValueError("two cells have the same id")
        for a, b in itertools.combinations(self.cells, 2):
            if a.box.grown(-TOUCH).overlaps(b.box):
                raise ValueError(f"the cells {called(a)} and {called(b)} lie on each other")
        if min(c.x for c in self.cells) > TOUCH or min(c.y for c in self.cells) > TOUCH:
            raise ValueError("no cell stands at the left or at the bottom of the block, where x or y is 0")
        return self

    @property
    def width(self) -> float:
        """mm of its title block."""
        return max(c.x + c.width for c in self.cells)

    @property
    def height(self) -> float:
        """mm of its title block."""
        return max(c.y + c.height for c in self.cells)

    def space(self, size: str, landscape: bool) -> Rectangle:
        """The space within the frame of a sheet."""
        r, m = sheet_rectangle(size, landscape), self.margins
        return Rectangle(m.left, m.bottom, r.x1 - m.right, r.y1 - m.top)

    def block(self, size: str, landscape: bool) -> Rectangle:
        """Where the title block stands."""
        space = self.space(size, landscape)
        return Rectangle(space.x1 - self.width, space.y0, space.x1, space.y0 + self.height)

    def fits(self, size: str, landscape: bool) -> bool:
        """False where the title block reaches over the frame of such a sheet."""
        space = self.space(size, landscape)
        return self.width <= space.width + TOUCH and self.height <= 0.7 * space.height

    def cell(self, cell_id: str) -> TitleCell | None:
        """The cell of that id."""
        return next((c for c in self.cells if c.id == cell_id), None)

    def showing(self, field: str) -> TitleCell | None:
        """The cell that shows a field."""
        return next((c for c in self.cells if c.field == field), None)


def called(cell: TitleCell) -> str:
    """A cell in words: by its label, else by what it shows."""
    return cell.label.rstrip(".") or cell.field.replace("_", " ") or cell.text or cell.shows


class TemplateFile(Model):
    """A template as a file of its own."""

    format: Literal["barequill-template"] = "barequill-template"
    version: Annotated[int, Field(ge=1, le=VERSION)] = VERSION
    template: Template


@cache
def shipped(name: str) -> Template:
    """One of the templates that come along (:data:`SHIPPED`)."""
    text = (resources.files(__package__) / "shipped" / f"{name}.json").read_text("utf-8")
    return TemplateFile.model_validate(json.loads(text)).template


ISO_7200 = shipped("iso-7200")
"""That of sheets which name none."""
