"""The ways of a house as they are kept and stored: what is taken over from drawing to drawing, whatever part they are of."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import FEW, FIELDS, Name, Ref, Text, one_of
from ..standards.lines import GROUPS, HEIGHTS
from .base import Model
from .styles import DimensionStyle, ViewStyle
from .templates import Template


class Ways(Model):
    """Conventions, units, lines, lettering, looks of sizes and views, letters left out, border and title block, fields of it, and general
    notes."""

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
    notes: Annotated[list[Text], Field(max_length=60)] = []
    """General notes that each drawing has."""


class NamedWays(Model):
    """Ways under a name."""

    name: Annotated[Name, Field(min_length=1, max_length=100)]
    ways: Ways


class WaysFile(NamedWays):
    """Named ways as a file of their own."""

    format: Literal["barequill-ways"] = "barequill-ways"
    version: Annotated[int, Field(ge=1, le=1)] = 1
