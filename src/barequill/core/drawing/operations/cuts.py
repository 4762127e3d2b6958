"""Hatch of the whole drawing, and the letters of its sections."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..cutting import HatchChoice
from ..document import Drawing
from ..views import SectionView, View
from .base import AnyOperation, with_views


class SetHatch(AnyOperation):
    """How the cut faces of a body are hatched in all views of the drawing."""

    op: Literal["set_hatch"] = "set_hatch"
    hatch: HatchChoice

    def applied(self, drawing: Drawing) -> Drawing:
        rest = [h for h in drawing.hatches if h.body != self.hatch.body]
        return drawing.model_copy(update={"hatches": [*rest, self.hatch]})

    def words(self) -> str:
        return f"Hatch {self.hatch.body}"


class SetLetters(AnyOperation):
    """Which letters views do not get by themselves; with ``close_up`` all sections are lettered anew in their order."""

    op: Literal["set_letters"] = "set_letters"
    left_out: Annotated[str, Field(max_length=20, pattern=r"^[A-Z]*$")] | None = None
    close_up: bool = False

    def applied(self, drawing: Drawing) -> Drawing:
        if self.left_out is not None:
            drawing = drawing.model_copy(update={"letters_left_out": self.left_out})
        if not self.close_up:
            return drawing
        lettered = [v for s in drawing.sheets for v in s.views if isinstance(v, SectionView) and v.letter]
        order = [v.id for v in sorted(lettered, key=lambda v: (len(v.letter), v.letter))]

        def bare(v: View) -> View:
            return v.model_copy(update={"letter": ""}) if v.id in order else v

        drawing = with_views(drawing, bare)
        for one in order:
            drawing = _lettered(drawing, one, drawing.free_letter())
        return drawing

    def words(self) -> str:
        return "Close up the letters" if self.close_up else "Set the letters"


def _lettered(drawing: Drawing, view: str, letter: str) -> Drawing:
    def named(v: View) -> View:
        return v.model_copy(update={"letter": letter}) if v.id == view else v

    return with_views(drawing, named)
