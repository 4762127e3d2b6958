"""What sections are made by: cutting lines tied to the part, local cuts, and how cut faces are hatched."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import FEW, Figure, Name, Ref
from .base import Model, Point

End = Literal["through", "short", "half"]
Course = Literal["level", "upright", "lean"]
Letter = Annotated[str, Field(max_length=3, pattern=r"^[A-Z]{0,2}[0-9]?$")]
Pattern = Literal["general", "material", "steel", "light", "copper", "plastic"]
"""``material``: as the material of the body tells."""


class Tie(Model):
    """A place of the part, by lasting reference: a point of an edge (``line``: the middle of a straight one), a vertex
    (``point``), the ``axis`` of a face, or the middle of the whole part (``box``, without a reference)."""

    ref: Ref = ""
    at: Literal["start", "end", "middle", "centre", "point", "line", "axis", "round", "outline", "box"]


def tie_of(ref: str, at: str) -> Tie | None:
    """What a hand has caught, by reference and which of its points; None for nothing."""
    if at == "box":
        return Tie(ref="", at="box")
    return Tie.model_validate({"ref": ref, "at": at or "middle"}) if ref else None


class Corner(Model):
    """A corner of a cutting line: ``place`` in mm of the parent view about the middle of the part; where it is tied, that
    goes before, moved by ``off``."""

    place: Point
    tie: Tie | None = None
    off: Point = (0.0, 0.0)


class CuttingLine(Model):
    """A cutting line on a view, from corner to corner.

    ``courses``: how each leg runs, so that its corners follow each other. ``ends``: it goes on ``through`` the view, stops
    ``short`` (nothing is shown beyond), or only ``half`` is cut (what lies beyond stays whole).
    """

    corners: Annotated[list[Corner], Field(min_length=2, max_length=40)]
    courses: Annotated[list[Course], Field(min_length=1, max_length=39)]
    ends: tuple[End, End] = ("through", "through")


class LocalCut(Model):
    """A cut inside a view, within a closed ``outline`` (mm of the view about the middle of the part), down to a ``depth``
    (mm from the middle of the part toward the viewer) or to what it is tied to."""

    id: Ref
    outline: Annotated[list[Point], Field(min_length=3, max_length=FEW)]
    smooth: bool = True
    """Drawn as a free line through its corners."""
    depth: Figure = 0.0
    tie: Tie | None = None


class HatchChoice(Model):
    """How the cut faces of a body are hatched; what is None is chosen."""

    body: Name
    angle: Annotated[float, Field(ge=-180, le=180)] | None = None
    """Degrees from the horizontal, counter-clockwise."""
    spacing: Annotated[float, Field(ge=0.5, le=20)] | None = None
    """mm on the sheet."""
    pattern: Pattern | None = None
    off: bool = False
