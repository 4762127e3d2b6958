"""The texture of all surfaces that carry no sign of their own, near the title block (ISO 21920-1)."""

from __future__ import annotations

from typing import ClassVar, Literal

from ..base import Point
from .base import AnyAnnotation


class GeneralTexture(AnyAnnotation):
    """What the title block's field says, as a sign, with the textures that are stated elsewhere in brackets: those ``each`` once, or
    the plain sign for all of them. ``at``: its corner, mm from the lower left corner of the sheet."""

    noun: ClassVar[str] = "general texture"
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"sheet"})
    lettered: ClassVar[bool] = True
    placed_by: ClassVar[tuple[str, ...]] = ("at",)
    counts_as: ClassVar[str] = "sign"

    kind: Literal["general_texture"] = "general_texture"
    at: Point = (240.0, 70.0)
    each: bool = True
