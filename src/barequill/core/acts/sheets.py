"""Sheets of a drawing: one more, a copy of one, and what is moved from one to another."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import MANY, Name, Ref, Scale
from ..drawing import Drawing, Operation, SectionView, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.annotations.datum_target import DatumTarget
from ..drawing.annotations.tolerance_frame import ToleranceFrame
from ..drawing.base import Size
from ..drawing.operations import AddSheet, Group, SendToSheet, SetView, apply, need_sheet
from ..drawing.views import AuxiliaryView, ProjectedView, View
from ..errors import BadOperation
from ..standards.sheets import Rectangle
from ..views.layout import ABOVE, ROOM
from ..views.occupancy import LEAST, Occupancy, occupancy
from .base import ActContext, AnyAct
from .state_datum import free_letter, renamed

STEP = 10.0
"""mm between the places that are tried for what is moved to another sheet."""


class NewSheet(AnyAct):
    """An empty sheet after another, like that one where nothing else is said."""

    act: Literal["new_sheet"] = "new_sheet"
    after: Ref
    name: Name = ""
    size: Size | None = None
    landscape: bool | None = None
    scale: Scale | None = None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        like = need_sheet(drawing, self.after)
        wanted = {n: v for n in ("size", "landscape", "scale") if (v := getattr(self, n)) is not None}
        (own,) = drawing.fresh()
        made = like.model_copy(update={"id": own, "name": self.name, "views": [], "annotations": [], **wanted})
        return AddSheet(sheet=made, at=drawing.number_of_sheet(like.id))


class CopySheet(AnyAct):
    """A copy of a sheet after it, with all that stands on it; what has a letter gets the next free one."""

    act: Literal["copy_sheet"] = "copy_sheet"
    sheet: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        held = [sheet.id, *(e.id for e in (*sheet.views, *sheet.annotations))]
        called = dict(zip(held, drawing.fresh(len(held)), strict=True))
        rows = {row.id for a in sheet.annotations if (row := getattr(a, "row", None)) is not None}
        called |= {row: f"{row}-{called[sheet.id]}"[:60] for row in rows}
        copy = Sheet.model_validate(_anew(sheet.model_dump(mode="json"), called))
        taken: set[str] = set()
        letters: dict[str, str] = {}
        views = []
        for view in copy.views:
            if view.letter:
                new = drawing.free_letter(taken)
                taken.add(new)
                view = view.model_copy(update={"letter": new})
            views.append(view)
        for datum in (a for a in copy.annotations if isinstance(a, DatumFeature)):
            letters[datum.letter] = free_letter(drawing, "", also=taken)
            taken.add(letters[datum.letter])
        annotations = [_relettered(a, letters) for a in copy.annotations]
        name = f"{sheet.name} (copy)"[:60] if sheet.name else ""
        made = copy.model_copy(update={"name": name, "views": views, "annotations": annotations})
        return Group(label="Copy a sheet", operations=[AddSheet(sheet=made, at=drawing.number_of_sheet(sheet.id))])


class SendTo(AnyAct):
    """Views and what stands free moved to another sheet, or to a new one where none is named, as large as they are, where there is
    room for them. Views that are not in line with what they were pulled out of any more get a letter."""

    act: Literal["send_to"] = "send_to"
    ids: Annotated[list[Ref], Field(min_length=1, max_length=MANY)]
    sheet: Ref = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        here = drawing.sheet_of(self.ids[0])
        if here is None:
            raise BadOperation("That is gone", "It was removed.")
        steps: list[Operation] = []
        trial = drawing

        def do(operation: Operation) -> None:
            nonlocal trial
            trial = apply(trial, operation)
            steps.append(operation)

        target = self.sheet
        if not target:
            do(NewSheet(after=here.id).plan(drawing, acting))
            target = trial.sheets[drawing.number_of_sheet(here.id)].id
        there = need_sheet(trial, target)
        ids = self._whole(drawing, there)
        for view in (v for s in drawing.sheets for v in s.views if v.id in ids):
            home = drawing.sheet_of(view.id)
            assert home is not None
            scale = home.scale_of(view)
            if view.scale is None and (scale != there.scale or view.parent is not None):
                do(SetView(view=view.id, changes={"scale": scale}))
        by = _room(acting, drawing, trial, there, ids)
        do(SendToSheet(ids=sorted(ids), sheet=target, by=by))
        for view in [v for s in trial.sheets for v in s.views]:
            if _needs_letter(trial, view):
                do(SetView(view=view.id, changes={"letter": trial.free_letter()}))
        return Group(label=f"Move to sheet {trial.number_of_sheet(target)}", operations=steps)

    def _whole(self, drawing: Drawing, there: Sheet) -> set[str]:
        """What is moved: also sections that are drawn within its views. What stands there already stays."""
        ids = {i for i in self.ids if there.view(i) is None and there.annotation(i) is None}
        if not ids:
            raise BadOperation("It stands there already", "Choose another sheet.")
        for sheet in drawing.sheets:
            ids |= {v.id for v in sheet.views if isinstance(v, SectionView) and v.within and v.parent in ids}
            for own in (a for a in sheet.annotations if a.id in ids):
                if drawing.sheet(own.on) is None and own.on not in ids and drawing.sheet_of(own.on) is sheet:
                    raise BadOperation(
                        f"A {own.noun} goes with what it hangs on", "Move its view, or cut and paste it there."
                    )
        return ids


def _needs_letter(drawing: Drawing, view: View) -> bool:
    """True for a view that is looked at from another's side and stands on another sheet than that, without a letter."""
    if view.letter or view.pictorial or not isinstance(view, ProjectedView | AuxiliaryView):
        return False
    return drawing.sheet_of(view.parent) is not drawing.sheet_of(view.id)


def _room(acting: ActContext, before: Drawing, drawing: Drawing, there: Sheet, ids: set[str]) -> tuple[float, float]:
    """By how much (mm) what is moved has to be shifted so that it stands on nothing: as little as may be."""
    boxes = [
        p.box.grown(ROOM / 2)
        for s in before.sheets
        if any(v.id in ids for v in s.views)
        for v, p in acting.projections.placed_views(before, s).items()
        if v in ids
    ]
    if not boxes:
        return 0.0, 0.0
    own = Rectangle(
        min(b.x0 for b in boxes), min(b.y0 for b in boxes), max(b.x1 for b in boxes), max(b.y1 for b in boxes) + ABOVE
    )
    taken = [p.box.grown(ROOM / 2) for p in acting.projections.placed_views(drawing, there).values()]
    ground = occupancy(drawing, there).with_more(*taken)
    return next(_shifts(ground, own), (0.0, 0.0))


def _shifts(ground: Occupancy, own: Rectangle) -> Iterator[tuple[float, float]]:
    """Ways to move a box so that it is clear of all, the shortest first."""
    space = ground.within(LEAST)
    if ground.clear_of_all(own, LEAST):
        yield 0.0, 0.0
    across = np.arange(space.x0 - own.x0, space.x1 - own.x1 + 1e-9, STEP)
    up = np.arange(space.y0 - own.y0, space.y1 - own.y1 + 1e-9, STEP)
    ways = sorted(((float(x), float(y)) for x in across for y in up), key=lambda w: w[0] ** 2 + w[1] ** 2)
    for x, y in ways:
        if ground.clear_of_all(Rectangle(own.x0 + x, own.y0 + y, own.x1 + x, own.y1 + y), LEAST):
            yield x, y


def _anew(value: Any, called: dict[str, str]) -> Any:
    """Plain data in which other ids stand in place of those that it names, also within texts (``{size e12}``)."""
    if isinstance(value, dict):
        return {k: _anew(v, called) for k, v in value.items()}
    if isinstance(value, list):
        return [_anew(v, called) for v in value]
    if isinstance(value, str):
        named = re.sub(r"\{size (\w+)\}", lambda m: f"{{size {called.get(m[1], m[1])}}}", value)
        return called.get(value, named)
    return value


def _relettered(own: Any, letters: dict[str, str]) -> Any:
    """An annotation with its datums called otherwise."""
    if isinstance(own, DatumFeature | DatumTarget) and own.letter in letters:
        return own.model_copy(update={"letter": letters[own.letter]})
    if isinstance(own, ToleranceFrame):
        plain = own.model_dump(mode="json")
        plain["frame"] = renamed(plain["frame"], letters)
        return ToleranceFrame.model_validate(plain)
    return own
