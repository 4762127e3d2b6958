"""Centre lines that are no axis of one feature: midway between two edges, of symmetry, or from place to place."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..base import Model, Point
from ..cutting import Tie
from .base import AnyAnnotation, Reach
from .dimension import Anchor


class LinePlace(Model):
    """Where a line begins or ends: an ``anchor`` on the part, or a free place (``at``, mm of the view about the middle of the part)."""

    anchor: Anchor | None = None
    at: Point = (0.0, 0.0)


class DrawnLine(AnyAnnotation):
    """A line tied to the part: ``midway`` between two straight edges or between the axes of two faces, from one place
    ``to`` another, or that of ``symmetry`` of the whole part, along the view's x or y (``axis``). ``places``: both, of a line from
    place to place, where they are more than ties can tell. ``beyond``: how far (mm on the sheet) it goes on at both ends."""

    noun: ClassVar[str] = "line"
    gives_way: ClassVar[bool] = True

    kind: Literal["drawn_line"] = "drawn_line"
    form: Literal["midway", "to", "symmetry"]
    ties: Annotated[list[Tie], Field(max_length=2)] = []
    places: Annotated[list[LinePlace], Field(max_length=2)] = []
    axis: Literal["x", "y"] = "x"
    beyond: tuple[Reach, Reach] = (3.0, 3.0)
