"""A datum set on geometry, on a size, or under a tolerance frame."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ..bounds import Ref
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.annotations.tolerance_frame import ToleranceFrame
from ..drawing.operations import ChangeAnnotation, Group
from ..errors import UserError
from ..standards.geometrical import NO_DATUM
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging, need_sign


class StateDatum(AnyHanging):
    """A datum at the pointer, with a ``letter`` or the next one that is free."""

    act: Literal["state_datum"] = "state_datum"
    letter: Annotated[str, Field(pattern=r"^[A-Z]{0,2}$")] = ""

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        letter = free_letter(drawing, self.letter)
        sheet, _, fields, feature = self.on_sheet(drawing, acting)
        datum = DatumFeature(id=drawing.fresh()[0], letter=letter, **fields)
        return sheet, datum, f"datum {letter}: the {feature}"


class ChangeDatum(AnyAct):
    """Another letter of a datum; the tolerance frames that refer to it follow."""

    act: Literal["change_datum"] = "change_datum"
    id: Ref
    letter: Annotated[str, Field(pattern=r"^[A-Z]{0,2}$")]

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, own = need_sign(drawing, self.id, DatumFeature)
        letter = free_letter(drawing, self.letter, self.id)
        steps: list[Operation] = [ChangeAnnotation(id=self.id, changes={"letter": letter})]
        for sheet in drawing.sheets:
            for a in sheet.annotations:
                if isinstance(a, ToleranceFrame) and own.letter in a.frame.datums:
                    frame = a.frame.model_dump(mode="json")
                    steps.append(ChangeAnnotation(id=a.id, changes={"frame": renamed(frame, {own.letter: letter})}))
        return steps[0] if len(steps) == 1 else Group(label="Call a datum otherwise", operations=steps)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, own = need_sign(drawing, self.id, DatumFeature)
        letter = free_letter(drawing, self.letter, self.id)
        return annotation_shown(drawing, acting, sheet, own.model_copy(update={"letter": letter}))


def renamed(value: Any, called: Mapping[str, str]) -> Any:
    """A frame as plain data, some datums in it called otherwise."""
    if isinstance(value, dict):
        return {k: [called.get(x, x) for x in v] if k == "letters" else renamed(v, called) for k, v in value.items()}
    return [renamed(v, called) for v in value] if isinstance(value, list) else value


def free_letter(drawing: Drawing, wanted: str, but: str = "", also: Collection[str] = ()) -> str:
    """A wanted letter, refused where it cannot be had; the next free one where none is wanted. Taken are those of the drawing, ``but``
    for those of that id, and ``also`` some more."""
    taken = drawing.letters(but) | set(also)
    if wanted:
        if set(wanted) & NO_DATUM or (len(wanted) == 2 and wanted[0] != wanted[1]):
            raise UserError(f"{wanted} is no letter of a datum", "Take a single letter, but for I, O, Q and X.")
        if wanted in taken:
            raise UserError(f"The letter {wanted} is taken", "Each letter stands on a drawing once; take another.")
        return wanted
    letters = [c for c in "ABCDEFGHIJKLMNOPQRSTUVWXYZ" if c not in NO_DATUM and c not in drawing.letters_left_out]
    return next(n for n in [*letters, *(a + a for a in letters), "ZZ"] if n not in taken or n == "ZZ")
