"""The dimensions of a view or of the whole sheet put in order."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from ..arranging.clashes import clashes, over_others
from ..arranging.spreading import spread
from ..arranging.tidying import tidied
from ..bounds import FEW, Ref
from ..display import DisplayList
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations import AnyAnnotation, declared
from ..drawing.operations import ChangeAnnotation, Group, MoveView, apply, need_sheet
from ..errors import UserError
from ..sheet.elements import blank
from ..sheet.stages import draw_sheet
from .base import ActContext, AnyAct, Preview

MOST = 400
"""Sizes that are tidied in one act: what more take grows faster than they do."""


class Tidy(AnyAct):
    """All dimensions of some ``views``, of the whole sheet where none are named, in rows and at good angles, clear of each
    other; those that are pinned stay. With ``spread`` the views are moved apart for them too."""

    act: Literal["tidy"] = "tidy"
    sheet: Ref
    views: list[Ref] = Field(default=[], max_length=FEW)
    spread: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, _, moved = self._moved(drawing, acting)
        operations = _changes(moved)
        if self.spread:
            operations += _apart(drawing, *self._tried(drawing, acting, sheet, operations))
        if not operations:
            raise UserError("Nothing is to be tidied", "All sizes stand in good order already.")
        return Group(label="Spread the views" if self.spread else "Tidy the sizes", operations=operations)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, now, moved = self._moved(drawing, acting)
        operations = _changes(moved)
        before = sum(clashes(now).values())
        after, ink = self._tried(drawing, acting, sheet, operations)
        words = f"{len(moved)} moved" if moved else "all in good order already"
        if self.spread:
            apart = _apart(drawing, after, ink)
            _, ink = self._tried(drawing, acting, sheet, [*operations, *apart])
            words += ", views moved apart" if apart else ", the views have room"
            elements = tuple(e for e in ink.elements if e.kind != "sheet")
        else:
            own = {v.id for v in after.views if not self.views or v.id in self.views}
            elements = tuple(e for e in ink.elements if declared(e.kind).lettered and e.group in own)
        if moved or self.spread:
            words += f", {before} overlaps before, {sum(clashes(ink).values())} after"
            over = 0 if self.spread else len(over_others(ink, acting.projections.placed_views(drawing, after)))
            words += f", {over} over another view: spread the views" if over else ""
        return Preview(blank(drawing, sheet), elements, words)

    def _tried(
        self, drawing: Drawing, acting: ActContext, sheet: Sheet, operations: Sequence[Operation]
    ) -> tuple[Sheet, DisplayList]:
        """The sheet and its ink as they would be."""
        trial = drawing
        for o in operations:
            trial = apply(trial, o)
        after = need_sheet(trial, sheet.id)
        return after, self._ink(trial, acting, after)

    def _moved(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, DisplayList, list[AnyAnnotation]]:
        """The sheet, its ink as it is, and what is to stand elsewhere."""
        sheet = need_sheet(drawing, self.sheet)
        count = sum(a.on in self.views or not self.views for a in sheet.annotations if a.tidied != "stays")
        if count > MOST:
            raise UserError(
                f"{count} sizes are too many to tidy at once",
                f"Up to {MOST} are tidied in one act: select some of the views, and tidy them one after another.",
            )
        ink, placed_views = self._ink(drawing, acting, sheet), acting.projections.placed_views(drawing, sheet)
        return sheet, ink, tidied(drawing, sheet, placed_views, ink, list(self.views))

    def _ink(self, drawing: Drawing, acting: ActContext, sheet: Sheet) -> DisplayList:
        return draw_sheet(drawing, sheet, acting.projections, acting.display_cache)


def _changes(moved: list[AnyAnnotation]) -> list[Operation]:
    """What puts annotations where they should stand."""
    return [ChangeAnnotation(id=a.id, changes=a.place_as_json()) for a in moved]


def _apart(drawing: Drawing, sheet: Sheet, ink: DisplayList) -> list[Operation]:
    """What moves views apart, parents before those that go along with them."""
    places = spread(drawing, sheet, ink)
    return [MoveView(view=v.id, to=places[v.id]) for v in sheet.views if v.id in places]
