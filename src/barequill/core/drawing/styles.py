"""Styles of dimensions, and of what marks and names views: how all that have one look."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import Name
from .base import Model

Length = Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)]


class DimensionStyle(Model):
    """How dimensions look; lengths in sheet mm, None for what the standard and the size of the sheet ask for."""

    name: Name
    arrow: Literal["filled", "closed", "open", "stroke", "dot"] = "filled"
    arrow_length: Length | None = None
    arrow_angle: Annotated[float, Field(ge=10, le=90)] = 20.0
    """Degrees between the flanks of an arrowhead: its proportion."""
    lettering: Annotated[float, Field(ge=1.8, le=20)] | None = None
    text: Literal["auto", "above", "level"] = "auto"
    """Above the line and along it, or level in a gap of it; auto as the standard has it."""
    crossings: Literal["whole", "arrows", "lines"] = "whole"
    """Where its lines cross those of other sizes: whole; extension lines broken at arrowheads; or extension lines broken wherever
    the dimension line of another crosses."""
    gap: Length | None = None
    overrun: Length | None = None
    first_row: Length | None = None
    row: Length | None = None
    decimals: Annotated[int, Field(ge=0, le=6)] | None = None
    trailing_zeros: bool = False
    decimal_sign: Literal[".", ","] = "."
    angle_decimals: Annotated[int, Field(ge=0, le=4)] | None = None
    angles: Literal["degrees", "minutes"] = "degrees"
    inches: Literal["decimal", "fraction", "feet"] = "decimal"
    second_unit: bool = False
    """The figure in the other unit too, in brackets."""


class ViewStyle(Model):
    """How cutting lines, rings, arrows of sight, their letters and the captions of views look; lengths in sheet mm, None for what the
    standard and the size of the sheet ask for."""

    name: Name
    letters: Annotated[float, Field(ge=1.8, le=20)] | None = None
    """Height of letters at cutting lines, rings and arrows, and of captions."""
    arrow: Literal["filled", "closed", "open"] = "filled"
    arrow_length: Length | None = None
    cutting_line: Literal["chain", "ends", "wide"] = "chain"
    """Narrow chain line with wide ends and turns; its ends and turns alone; wide all along."""
    caption: Literal["above", "below"] = "above"
    words: Literal["auto", "letters", "named"] = "auto"
    """A–A, or SECTION A–A, DETAIL A, VIEW A; auto as the standard has it."""
    scale: Literal["auto", "always", "never"] = "auto"
    """Whether the scale stands in the caption: auto where it is not the main one."""
