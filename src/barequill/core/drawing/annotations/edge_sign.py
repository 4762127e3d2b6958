"""Edges of undefined shape (ISO 13715)."""

from __future__ import annotations

import re
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...errors import UserError
from .typed import AnyTyped

Size = Annotated[str, Field(max_length=12, pattern=r"^([+−±][0-9]*\.?[0-9]*)?$")]
SIZE = re.compile(r"^([+\-−–±])\s*(\d+(?:[.,]\d+)?)?$")


class EdgeSign(AnyTyped):
    """What may be at an edge: ``+`` more than the sharp edge (a burr, a passing), ``−`` less (undercut), ``±`` either; one value, or
    an ``upper`` and a ``lower`` limit (mm)."""

    noun: ClassVar[str] = "edge sign"
    form: ClassVar[str] = "-0.3, or -0.2 -0.5 all round"

    kind: Literal["edge_sign"] = "edge_sign"
    upper: Size
    lower: Size = ""
    all_round: bool = False

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        around = bool(re.search(r"\ball (a)?round\b", text, re.IGNORECASE))
        words = (
            re.sub(r"\ball (a)?round\b", " ", text, flags=re.IGNORECASE).replace("+-", "±").replace("/", " ").split()
        )
        found = []
        for word in words:
            m = SIZE.match(word)
            if m is None or (m[2] and not 0 < float(m[2].replace(",", ".")) <= 100):
                raise UserError(f"“{word[:20]}” is no size of an edge", "Write + or − with a value: −0.3, +0.5, ±0.05.")
            sign = {"-": "−", "–": "−"}.get(m[1], m[1])
            found.append(sign + (m[2] or "").replace(",", "."))
        if not 1 <= len(found) <= 2:
            raise UserError("An edge has one value, or two limits", "Write −0.3, or −0.2 −0.5.")
        if len(found) == 2 and _figure(found[0]) <= _figure(found[1]):
            found.reverse()
        return {"upper": found[0], "lower": found[1] if len(found) == 2 else "", "all_round": around}

    @property
    def typed(self) -> str:
        return " ".join(t for t in (self.upper, self.lower, "all round" if self.all_round else "") if t)


def _figure(size: str) -> float:
    value = float(size[1:] or 0)
    return -value if size[0] == "−" else value
