"""What a checker would mark about tolerance frames and datums, whatever the sheet looks like."""

from __future__ import annotations

from ..drawing import Dimension, Drawing, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.annotations.tolerance_frame import ToleranceFrame
from ..drawing.geometrical import remarks
from ..drawing.geometrical.language import row_text
from ..drawing.geometrical.rules import refusals
from ..standards.geometrical import CHARACTERISTICS
from .remarks import Remark

EXACT = ("position", "angularity", "profile of a line", "profile of a surface")
"""What is held to theoretically exact sizes (ISO 1101)."""


def sign_remarks(drawing: Drawing, sheet: Sheet) -> list[Remark]:
    """Frames of a sheet that refer to datums that are nowhere, that lack their exact sizes, that say what may not be said, or whose form is coarser than their place."""
    every = [a for s in drawing.sheets for a in s.annotations]
    datums = {a.letter for a in every if isinstance(a, DatumFeature)}
    exact = any(isinstance(a, Dimension) and a.exact for a in every)
    found = []
    for a in sheet.annotations:
        if not isinstance(a, ToleranceFrame):
            continue
        said = row_text(a.frame.rows[0])
        for letter in a.frame.datums:
            if letter not in datums:
                found.append(Remark(a.id, f"{said} refers to datum {letter}, which is nowhere on the drawing"))
        for row in a.frame.rows:
            located = row.characteristic in EXACT and (row.datums or row.characteristic == "position")
            if located and not exact and CHARACTERISTICS[row.characteristic].group != "form":
                found.append(Remark(a.id, f"{said} wants theoretically exact sizes; none is stated"))
                break
        found += [Remark(a.id, f"{said}: {title[0].lower()}{title[1:]}") for title, _ in refusals(a.frame)]
        found += [Remark(a.id, words) for words in remarks(a.frame)]
    return found
