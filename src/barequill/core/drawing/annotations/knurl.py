"""Knurls (ISO 13444)."""

from __future__ import annotations

import re
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...errors import UserError
from .typed import AnyTyped

PITCHES = (0.5, 0.6, 0.8, 1.0, 1.2, 1.6)
FORMS = {
    "RAA": "axial",
    "RBL": "left-hand",
    "RBR": "right-hand",
    "RGE": "diamonds, raised",
    "RGV": "diamonds, sunk",
    "RKE": "crossed, raised",
    "RKV": "crossed, sunk",
}


class Knurl(AnyTyped):
    """A knurl of a form and a pitch (mm) on a round face."""

    noun: ClassVar[str] = "knurl"
    form: ClassVar[str] = "RGE 0.8"

    kind: Literal["knurl"] = "knurl"
    name: Literal["RAA", "RBL", "RBR", "RGE", "RGV", "RKE", "RKV"] = "RGE"
    pitch: Annotated[float, Field(gt=0, le=10)] = 0.8

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        m = re.search(r"\b(R[A-Z]{2})\s*(\d+(?:[.,]\d+)?)", text.upper())
        if m is None or m[1] not in FORMS:
            known = ", ".join(f"{k} ({v})" for k, v in FORMS.items())
            raise UserError("No knurl is told", f"Write its form and its pitch, RGE 0.8. Forms: {known}.")
        pitch = float(m[2].replace(",", "."))
        if pitch not in PITCHES:
            raise UserError(f"There is no pitch of {pitch:g}", f"Pitches are {', '.join(f'{p:g}' for p in PITCHES)}.")
        return {"name": m[1], "pitch": pitch}

    @property
    def typed(self) -> str:
        return f"{self.name} {self.pitch:g}"
