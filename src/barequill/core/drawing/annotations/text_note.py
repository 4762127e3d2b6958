"""Notes: text on leaders, on a view, or on the sheet by itself."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import BeforeValidator, Field

from ...bounds import Figure, plain
from ..base import Point
from .hung import AnyHung, Foot


def _lines(text: object) -> object:
    """A text whose lines are kept, and in which nothing else is that is not printed."""
    return "\n".join(plain(t.rstrip()) for t in text.split("\n")) if isinstance(text, str) else text


class TextNote(AnyHung):
    """A note of one or several lines. ``more``: further places that leaders go to. Without a foot it stands ``at`` a place: mm
    from the middle of the view on which it hangs, or from the lower left corner of the sheet. ``width``: where lines are
    wrapped (sheet mm), 0 for nowhere. ``height`` of its lettering, 0 for that of sizes. ``turn`` in degrees."""

    noun: ClassVar[str] = "note"
    counts_as: ClassVar[str] = "note"
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"view", "sheet", "annotation"})
    placed_by: ClassVar[tuple[str, ...]] = ("angle", "offset", "shift", "at")

    kind: Literal["text_note"] = "text_note"
    text: Annotated[str, BeforeValidator(_lines), Field(min_length=1, max_length=2000)]
    more: Annotated[list[Foot], Field(max_length=20)] = []
    at: Point = (0.0, 0.0)
    width: Annotated[Figure, Field(ge=0, le=1000)] = 0.0
    height: Annotated[Figure, Field(ge=0, le=50)] = 0.0
    align: Literal["left", "middle", "right"] = "left"
    turn: Annotated[Figure, Field(ge=-180, le=180)] = 0.0
    heading: bool = False
    """Its first line is one step larger, and underlined."""
    jogged: bool = True
    """Its leaders end in a level piece; else they run straight to the text."""
