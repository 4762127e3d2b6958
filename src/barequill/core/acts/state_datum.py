"""A datum set on geometry, on a size, or under a tolerance frame."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.operations import Annotate
from ..errors import UserError
from ..standards.geometrical import NO_DATUM, Feature
from .base import Bench, Preview
from .hanging import AnyHanging, shown


class StateDatum(AnyHanging):
    """A datum at the pointer, with a ``letter`` or the next one that is free."""

    act: Literal["state_datum"] = "state_datum"
    letter: Annotated[str, Field(pattern=r"^[A-Z]{0,2}$")] = ""

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, datum, _ = self._made(drawing, bench)
        return Annotate(sheet=sheet.id, annotations=[datum])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, datum, feature = self._made(drawing, bench)
        return shown(drawing, bench, sheet, datum, f"datum {datum.letter}: the {feature}")

    def _made(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, DatumFeature, Feature]:
        letter = free_letter(drawing, self.letter)
        sheet, _, fields, feature = self.seat(drawing, bench)
        return sheet, DatumFeature(id=drawing.fresh()[0], letter=letter, **fields), feature


def free_letter(drawing: Drawing, wanted: str, but: str = "") -> str:
    """A wanted letter, refused where it cannot be had; the next free one where none is wanted."""
    taken = drawing.letters(but)
    if wanted:
        if set(wanted) & NO_DATUM or (len(wanted) == 2 and wanted[0] != wanted[1]):
            raise UserError(f"{wanted} is no letter of a datum", "Take a single letter, but for I, O, Q and X.")
        if wanted in taken:
            raise UserError(f"The letter {wanted} is taken", "Each letter stands on a drawing once; take another.")
        return wanted
    letters = [c for c in "ABCDEFGHIJKLMNOPQRSTUVWXYZ" if c not in NO_DATUM and c not in drawing.letters_left_out]
    return next(n for n in [*letters, *(a + a for a in letters), "ZZ"] if n not in taken or n == "ZZ")
