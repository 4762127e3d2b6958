"""Dimensions, measured from the part whenever they are drawn."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import Affix, Figure, Ref
from ..base import Model
from .base import AnyAnnotation


class Anchor(Model):
    """A place on the part that a dimension hangs on, by lasting reference.

    ``line``: a straight edge as a whole. ``start``, ``end``, ``middle``, ``centre``: a point of an edge.
    ``point``: a vertex. ``round``: a circle, arc, or cylinder. ``outline``: the outline of a cylinder or
    cone seen from the side, on the side that ``side`` tells (+1 left of its axis on the sheet, -1 right).
    ``axis``: the axis of such a face.
    """

    ref: Ref
    at: Literal["line", "start", "end", "middle", "centre", "point", "round", "outline", "axis"]
    side: Literal[-1, 1] = 1


class Tolerance(Model):
    """Deviations of a dimension in its own unit (mm, inch or degrees)."""

    kind: Literal["none", "symmetric", "unequal", "limits"] = "none"
    upper: Figure = 0.0
    lower: Figure = 0.0


class Place(Model):
    """Where a dimension line stands.

    Linear: ``offset`` beyond the view's outline (sheet mm) on the side ``side`` of the measured direction,
    or with ``frame`` = ``model`` from the first anchor (model mm). ``along`` shifts the text along the
    line from its middle (sheet mm). Round and angular: ``angle`` (degrees) and ``offset`` (sheet mm) from
    the circle, or from the apex, to the text.
    """

    side: Literal[-1, 1] = 1
    frame: Literal["outline", "model"] = "outline"
    offset: Figure = 10.0
    along: Figure = 0.0
    angle: Figure = 45.0


class Dimension(AnyAnnotation):
    """A dimension."""

    noun: ClassVar[str] = "dimension"

    kind: Literal["dimension"] = "dimension"
    measure: Literal["length", "distance", "angle", "diameter", "radius"]
    anchors: list[Anchor] = Field(min_length=1, max_length=2)
    direction: Literal["aligned", "horizontal", "vertical"] = "aligned"
    place: Place = Place()
    decimals: Annotated[int, Field(ge=0, le=6)] | None = None
    count: Annotated[int, Field(ge=1, le=9999)] = 1
    """How many features of the part it stands for: written as 6×."""
    sign: Literal["auto", "diameter", "square"] = "auto"
    """What the length is across: a diameter (Ø), a square (□); auto as measured."""
    prefix: Affix = ""
    suffix: Affix = ""
    reference: bool = False
    tolerance: Tolerance = Tolerance()
    arrows: Literal["auto", "inside", "outside"] = "auto"
    zigzag: bool = False
    """With a zigzag in its line where that goes across a stretch that is taken out."""
