"""The ways of a house: what is taken over from drawing to drawing, whatever part they are of."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import FEW, FIELDS, Name, Ref, Text, one_of
from ..standards.lines import GROUPS, HEIGHTS
from .base import Model
from .document import Drawing
from .styles import DimensionStyle, ViewStyle
from .templates import Template

KEPT = ("owner", "creator", "language", "general_tolerance")
"""Fields of the title block that are taken over."""
COMMON = ("wide", "lettering", "font", "styles", "style", "view_styles", "view_style", "letters_left_out")
"""What is taken over as it is."""


class Ways(Model):
    """Conventions, units, lines, lettering, looks of sizes and views, letters left out, and fields of the title block."""

    standard: Literal["ISO", "ASME"] = "ISO"
    angle: Literal["first", "third"] = "first"
    unit: Literal["mm", "inch"] = "mm"
    wide: Annotated[float, one_of(*GROUPS)] | None = None
    lettering: Annotated[float, one_of(*HEIGHTS)] | None = None
    font: Literal["upright", "sloped", "plain"] = "upright"
    styles: Annotated[list[DimensionStyle], Field(max_length=FEW)] = []
    style: Name = ""
    view_styles: Annotated[list[ViewStyle], Field(max_length=FEW)] = []
    view_style: Name = ""
    letters_left_out: Annotated[str, Field(max_length=20, pattern=r"^[A-Z]*$")] = "IOQ"
    template: Template | None = None
    fields: Annotated[dict[Ref, Text], Field(max_length=FIELDS)] = {}


def ways_of(drawing: Drawing) -> Ways:
    """The ways of a drawing."""
    same = {n: getattr(drawing, n) for n in ("standard", "angle", "unit", *COMMON)}
    front = drawing.front_sheet
    template = drawing.template_of(front) if front.template else None
    return Ways(**same, template=template, fields={n: drawing.fields[n] for n in KEPT if drawing.fields.get(n)})


def begun_as(drawing: Drawing, ways: Ways) -> Drawing:
    """A drawing by the ways of a house, but for its conventions and units; what its title block says already stays."""
    fields = {**{n: v for n, v in ways.fields.items() if n in KEPT}, **drawing.fields}
    drawing = drawing.model_copy(update={**{n: getattr(ways, n) for n in COMMON}, "fields": fields})
    return drawing if ways.template is None or ways.standard != drawing.standard else framed_by(drawing, ways.template)


def framed_by(drawing: Drawing, template: Template) -> Drawing:
    """A drawing whose sheets all have a template, where its title block has room on them; fields that are not filled in are filled as it
    says."""
    if not template.name or not all(template.fits(s.size, s.landscape) for s in drawing.sheets):
        return drawing
    sheets = [s.model_copy(update={"template": template.name}) for s in drawing.sheets]
    fields = {**template.fields, **drawing.fields}
    bare = template.model_copy(update={"fields": {}})
    return drawing.model_copy(update={"templates": [bare], "sheets": sheets, "fields": fields})
