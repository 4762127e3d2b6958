"""Pieces of views: outlines of details and crops, and stretches taken out of broken views."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..bounds import FEW, Figure, Ref
from .base import Model, Point
from .cutting import Tie

Extent = Annotated[Figure, Field(gt=0)]
Edge = Literal["plain", "ragged", "none"]
BreakForm = Literal["auto", "zigzag", "freehand", "round", "tube"]


class Outline(Model):
    """A closed outline on a view about a ``centre`` (mm of the view from the middle of the part; where it is tied, that
    goes before, moved by ``off``): an ellipse or a rectangle of ``half`` a width and height; ``corners`` about the
    centre, or a ``free`` line through points about it."""

    form: Literal["round", "rectangle", "corners", "free"] = "round"
    centre: Point
    tie: Tie | None = None
    off: Point = (0.0, 0.0)
    half: tuple[Extent, Extent] = (10.0, 10.0)
    points: Annotated[list[Point], Field(max_length=FEW)] = []

    @model_validator(mode="after")
    def _has_corners(self) -> Outline:
        if self.form in ("corners", "free") and len(self.points) < 3:
            raise ValueError("an outline through points has three of them or more")
        return self


class Crop(Model):
    """What is kept of a view: what lies within an outline, or the half or quarter of a symmetrical part to which
    ``halves`` point along the view's x and y (0: both)."""

    outline: Outline | None = None
    halves: tuple[Literal[-1, 0, 1], Literal[-1, 0, 1]] = (0, 0)
    edge: Edge = "ragged"

    @model_validator(mode="after")
    def _keeps_a_piece(self) -> Crop:
        if self.outline is None and self.halves == (0, 0):
            raise ValueError("a crop has an outline, or says which half it keeps")
        return self


class Hold(Model):
    """A place of the part from which an end of a stretch keeps its distance: ``off`` mm of the view along its axis."""

    tie: Tie
    off: Figure = 0.0


class Break(Model):
    """A stretch that is taken out of a view, ``along`` its x or y, from ``start`` to ``end`` (mm of the view from the middle
    of the part; where its ends have ``holds``, those go before); ``gap`` mm are left between on the sheet."""

    id: Ref
    along: Literal["x", "y"] = "x"
    start: Figure
    end: Figure
    gap: Annotated[Figure, Field(ge=0.5, le=200)] = 4.0
    form: BreakForm = "auto"
    holds: tuple[Hold | None, Hold | None] = (None, None)

    @model_validator(mode="after")
    def _in_order(self) -> Break:
        if self.end <= self.start:
            raise ValueError("a stretch ends beyond its start")
        return self
