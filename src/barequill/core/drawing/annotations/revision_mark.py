"""Marks of a revision: its letter beside what it changed."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..base import Point
from .base import AnyAnnotation

Side = Annotated[float, Field(ge=0, le=2000, allow_inf_nan=False)]


class RevisionMark(AnyAnnotation):
    """The letter of a revision in a triangle, or also a ``cloud`` about what changed, so ``wide`` and ``high`` (sheet mm). ``at``: the
    middle of the triangle, mm from the middle of the view on which it hangs, or from the lower left corner of the sheet; ``about``: the
    middle of the cloud from there."""

    noun: ClassVar[str] = "revision mark"
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"view", "sheet"})
    lettered: ClassVar[bool] = True
    placed_by: ClassVar[tuple[str, ...]] = ("at", "about")
    counts_as: ClassVar[str] = "sign"

    kind: Literal["revision_mark"] = "revision_mark"
    letter: Annotated[str, Field(min_length=1, max_length=4, pattern=r"^[A-Z0-9-]+$")]
    form: Literal["triangle", "cloud"] = "triangle"
    at: Point = (0.0, 0.0)
    about: Point = (0.0, 0.0)
    wide: Side = 0.0
    high: Side = 0.0
