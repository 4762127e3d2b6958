"""Centre holes, in their simplified form (ISO 6411)."""

from __future__ import annotations

import re
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...errors import UserError
from .typed import AnyTyped

SIZES = {
    "A": {0.5: 1.06, 0.63: 1.32, 0.8: 1.7, 1: 2.12, 1.25: 2.65, 1.6: 3.35, 2: 4.25, 2.5: 5.3, 3.15: 6.7, 4: 8.5, 5: 10.6, 6.3: 13.2, 8: 17, 10: 21.2},
    "B": {1: 3.15, 1.25: 4, 1.6: 5, 2: 6.3, 2.5: 8, 3.15: 10, 4: 12.5, 5: 16, 6.3: 18, 8: 22.4, 10: 28},
    "R": {1: 2.12, 1.25: 2.65, 1.6: 3.35, 2: 4.25, 2.5: 5.3, 3.15: 6.7, 4: 8.5, 5: 10.6, 6.3: 13.2, 8: 17, 10: 21.2},
}  # fmt: skip
"""Types (R: round flanks, A: without, B: with a protecting chamfer), their pilots, and the diameter at the face, mm (ISO 866,
ISO 2540, ISO 2541)."""


class CentreHole(AnyTyped):
    """A centre hole in an end face: of a ``type`` with a ``pilot`` and an ``outer`` diameter, that is to ``stay`` on the finished part,
    may stay, or must not."""

    noun: ClassVar[str] = "centre hole"
    form: ClassVar[str] = "A 4/8.5, or: B 2.5/8 may stay"

    kind: Literal["centre_hole"] = "centre_hole"
    type: Literal["R", "A", "B"] = "A"
    pilot: Annotated[float, Field(gt=0, le=100)]
    outer: Annotated[float, Field(gt=0, le=200)]
    stays: Literal["stays", "may stay", "must not stay"] = "stays"

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        plain = text.replace(",", ".")
        stays = next((s for s in ("must not stay", "may stay") if s in plain.lower()), "stays")
        m = re.search(r"\b([RAB])\s*(\d+(?:\.\d+)?)(?:\s*/\s*(\d+(?:\.\d+)?))?", plain, re.IGNORECASE)
        if m is None:
            raise UserError("No centre hole is told", "Write its type and its diameters: A 4/8.5.")
        kind, pilot = m[1].upper(), float(m[2])
        if pilot not in SIZES[kind]:
            usual = ", ".join(f"{p:g}" for p in SIZES[kind])
            raise UserError(f"There is no pilot of {pilot:g} for type {kind}", f"Usual are {usual}.")
        outer = float(m[3]) if m[3] else SIZES[kind][pilot]
        if outer != SIZES[kind][pilot]:
            raise UserError(
                f"{kind} {pilot:g} goes with {SIZES[kind][pilot]:g}", f"Write {kind} {pilot:g}/{SIZES[kind][pilot]:g}."
            )
        return {"type": kind, "pilot": pilot, "outer": outer, "stays": stays}

    @property
    def typed(self) -> str:
        more = "" if self.stays == "stays" else f" {self.stays}"
        return f"{self.type} {self.pilot:g}/{self.outer:g}{more}"
