"""The dimensions of a view or of the whole sheet put in order."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from ..annotation.clashes import clashes
from ..annotation.sheet_ink import annotation_element, blank, draw_sheet, scene_key
from ..annotation.solving import root_view
from ..annotation.tidying import tidied
from ..bounds import FEW, Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.operations import ChangeAnnotation, Group, need_sheet
from ..errors import UserError
from .base import AnyAct, Bench, Preview


class Tidy(AnyAct):
    """All dimensions of some ``views``, of the whole sheet where none are named, in rows and at good angles, clear of each
    other; those that are pinned stay."""

    act: Literal["tidy"] = "tidy"
    sheet: Ref
    views: list[Ref] = Field(default=[], max_length=FEW)

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        _, moved = self._moved(drawing, bench)
        if not moved:
            raise UserError("Nothing is to be tidied", "All sizes stand in good order already.")
        return Group(
            label="Tidy the sizes",
            operations=[
                ChangeAnnotation(
                    id=a.id,
                    changes={"angle": a.angle, "offset": a.offset}
                    if isinstance(a, HoleNote)
                    else {"place": a.place.model_dump()},  # type: ignore[attr-defined]
                )
                for a in moved
            ],
        )

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, moved = self._moved(drawing, bench)
        new = {a.id: a for a in moved}
        after = sheet.model_copy(update={"annotations": [new.get(a.id, a) for a in sheet.annotations]})
        trial = drawing.with_sheet(after)
        shown = [a for a in after.annotations if a.kind in ("dimension", "hole_note")]  # type: ignore[attr-defined]
        shown = [a for a in shown if not self.views or a.on in self.views]
        elements = []
        for a in shown:
            root = root_view(after, a)
            stage, place = bench.stage(trial, after, a.on)
            elements.append(annotation_element(a, root, stage, bench.well, scene_key(stage, False), place))
        before = sum(clashes(self._ink(drawing, bench, sheet)).values())
        left = sum(clashes(self._ink(trial, bench, after)).values())
        words = f"{len(moved)} moved, {before} overlaps before, {left} after" if moved else "all in good order already"
        return Preview(blank(sheet), tuple(elements), words)

    def _moved(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, list[AnyAnnotation]]:
        sheet = need_sheet(drawing, self.sheet)
        pictures = bench.studio.pictures(drawing, sheet)
        return sheet, tidied(drawing, sheet, pictures, self._ink(drawing, bench, sheet), list(self.views))

    def _ink(self, drawing: Drawing, bench: Bench, sheet: Sheet):  # type: ignore[no-untyped-def]
        return draw_sheet(drawing, sheet, bench.studio, date.today().isoformat(), bench.well)
