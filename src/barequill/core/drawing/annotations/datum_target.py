"""Datum targets (ISO 5459)."""

from __future__ import annotations

import re
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...errors import UserError
from .typed import AnyTyped

Length = Annotated[float, Field(gt=0, le=1e4)]


class DatumTarget(AnyTyped):
    """A place of the part by which a datum is taken: a point, a ``line`` (a whole straight edge), or an area, round (one length, its
    diameter) or square (two), mm. ``movable`` along its way."""

    noun: ClassVar[str] = "datum target"
    form: ClassVar[str] = "A1, A2 Ø6, A3 line, or A4 5x10 movable"

    kind: Literal["datum_target"] = "datum_target"
    letter: Annotated[str, Field(pattern=r"^[A-Z]$")]
    number: Annotated[int, Field(ge=1, le=99)]
    area: Annotated[list[Length], Field(max_length=2)] = []
    movable: bool = False
    line: bool = False

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        movable = "movable" in text.lower()
        plain = re.sub(r"movable", " ", text, flags=re.IGNORECASE).replace(",", ".")
        line = bool(re.search(r"\bline\b", plain, re.IGNORECASE))
        plain = re.sub(r"\b(line|point)\b", " ", plain, flags=re.IGNORECASE)
        m = re.match(r"\s*([A-Za-z])\s*(\d{1,2})\b(.*)$", plain.strip())
        if m is None or m[1].upper() in "IOQX" or int(m[2]) < 1:
            raise UserError(
                "No datum target is told",
                "Write the datum's letter and its own number: A1. I, O, Q and X are left out.",
            )
        area = re.fullmatch(r"\s*(?:[ØøØ⌀]\s*(\d+(?:\.\d+)?)|(\d+(?:\.\d+)?)\s*[x×]\s*(\d+(?:\.\d+)?)|)\s*", m[3])
        if area is None:
            raise UserError(f"“{m[3].strip()[:20]}” is no area", "Write Ø6, or 5x10; a point has none.")
        sizes = [float(a) for a in area.groups() if a]
        if any(not 0 < s <= 1e4 for s in sizes):
            raise UserError("An area of nothing", "Write how large it is, mm.")
        if line and sizes:
            raise UserError("A line has no area", "Write A1 line, or A1 Ø6.")
        return {"letter": m[1].upper(), "number": int(m[2]), "area": sizes, "movable": movable, "line": line}

    @property
    def size_text(self) -> str:
        """The size of its area as it is written; nothing for a point."""
        if not self.area:
            return ""
        return f"Ø{self.area[0]:g}" if len(self.area) == 1 else f"{self.area[0]:g}×{self.area[1]:g}"

    @property
    def typed(self) -> str:
        words = [
            f"{self.letter}{self.number}",
            self.size_text.replace("×", "x"),
            "line" if self.line else "",
            "movable" if self.movable else "",
        ]
        return " ".join(w for w in words if w)
