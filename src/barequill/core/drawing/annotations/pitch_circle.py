"""Pitch circles through the centres of holes or bosses seen face on."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import FEW, Figure, Ref
from .base import AnyAnnotation


class PitchCircle(AnyAnnotation):
    """The circle through the centres of three or more round features; ``refs`` are their edges or faces. ``ends``: the angles
    (degrees, counter-clockwise from the right of the view) from which and to which it goes, where it is no whole turn."""

    noun: ClassVar[str] = "pitch circle"
    gives_way: ClassVar[bool] = True

    kind: Literal["pitch_circle"] = "pitch_circle"
    refs: Annotated[list[Ref], Field(min_length=3, max_length=FEW)]
    ends: tuple[Figure, Figure] | None = None
