"""Marks of a revision set beside what it changed."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
import shapely
from pydantic import Field

from ..bounds import FEW, MANY, Ref
from ..display import DisplayList, Text
from ..display.marks import box_of
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.revision_mark import RevisionMark
from ..drawing.base import Model
from ..drawing.operations import Annotate, Group, Remove, need_sheet
from ..errors import UserError
from ..sheet.stages import draw_sheet
from ..standards.sheets import Rectangle
from ..views.occupancy import occupancy
from .base import ActContext, AnyAct

GAP = 1.0
"""mm between a mark and what it is beside."""
Far = Annotated[float, Field(ge=-10_000, le=10_000, allow_inf_nan=False)]
Side = Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]


class ChangedPlace(Model):
    """Where something changed: on a sheet, the lower left corner of its box and its sides, mm."""

    sheet: Ref
    x: Far
    y: Far
    width: Side
    height: Side


class MarkChanges(AnyAct):
    """A mark of a revision beside each place that changed, in place of the marks of that letter that there are; marks of earlier revisions
    are taken off where that is wanted."""

    act: Literal["mark_changes"] = "mark_changes"
    letter: Annotated[str, Field(min_length=1, max_length=4, pattern=r"^[A-Z0-9-]+$")]
    form: Literal["triangle", "cloud"] = "triangle"
    places: Annotated[list[ChangedPlace], Field(min_length=1, max_length=FEW)]
    alone: bool = True
    """Marks of earlier revisions are taken off."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        old = [
            a
            for s in drawing.sheets
            for a in s.annotations
            if isinstance(a, RevisionMark) and (self.alone or a.letter == self.letter)
        ]
        gone = {a.id for a in old}
        operations: list[Operation] = [Remove(ids=sorted(gone))] if old else []
        names = drawing.fresh(len(self.places))
        for own in dict.fromkeys(p.sheet for p in self.places):
            sheet = need_sheet(drawing, own)
            ink = draw_sheet(drawing, sheet, acting.projections, acting.display_cache)
            places = [p for p in self.places if p.sheet == own]
            made: list[AnyAnnotation] = []
            taken = [
                shapely.Polygon(m.corners())
                for e in ink.elements
                if e.id not in gone
                for m in e.on_sheet()
                if isinstance(m, Text)
            ]
            for place in _apart(places):
                made.append(
                    self._mark(
                        drawing=drawing, sheet=sheet, acting=acting, ink=ink, box=place, name=names.pop(0), taken=taken
                    )
                )
            operations.append(Annotate(sheet=own, annotations=made))
        count = sum(len(o.annotations) for o in operations if isinstance(o, Annotate))
        label = f"Mark {count} change{'' if count == 1 else 's'} of revision {self.letter}"
        return Group(label=label, operations=operations)

    def _mark(
        self,
        drawing: Drawing,
        sheet: Sheet,
        acting: ActContext,
        ink: DisplayList,
        box: Rectangle,
        name: str,
        taken: list[shapely.Polygon],
    ) -> RevisionMark:
        """A mark beside a box, clear of lettering, on the view in which the box lies or on the sheet."""
        h = ink.lines.lettering
        reach = 1.5 * h + GAP + (h if self.form == "cloud" else 0.0)
        middle = np.array([(box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2])
        half = np.array([box.width, box.height]) / 2 + reach
        ways = [(1, 1), (-1, 1), (1, -1), (-1, -1), (1, 0), (0, 1), (-1, 0), (0, -1)]
        spots = [middle + (half + k * 2.5 * h) * np.array(w) for k in range(3) for w in ways]
        space = occupancy(drawing, sheet).space

        def cost(spot: np.ndarray) -> float:
            own = shapely.box(*(spot - 1.6 * h), *(spot + 1.6 * h))
            inside = space.holds(Rectangle(*own.bounds))
            return sum(own.intersection(t).area for t in taken) + (0.0 if inside else 1e3)

        spot = min(spots, key=cost)
        taken.append(shapely.box(*(spot - 1.6 * h), *(spot + 1.6 * h)))
        on, zero = sheet.id, np.zeros(2)
        views = acting.projections.placed_views(drawing, sheet)
        holding = [
            (e, b)
            for e in ink.elements
            if e.kind == "view" and e.id in views and (b := box_of(e.on_sheet())) is not None
            if b.grown(40.0).holds(Rectangle(*middle, *middle))
        ]
        if holding:
            element, _ = min(holding, key=lambda eb: (eb[1].away(*middle), eb[1].width * eb[1].height))
            on, zero = element.id, np.array(views[element.id].transform.place)
        at, about = spot - zero, middle - spot
        return RevisionMark(
            id=name,
            on=on,
            letter=self.letter,
            form=self.form,
            at=(round(float(at[0]), 3), round(float(at[1]), 3)),
            about=(round(float(about[0]), 3), round(float(about[1]), 3)),
            wide=round(min(box.width + 2 * GAP, 2000.0), 3),
            high=round(min(box.height + 2 * GAP, 2000.0), 3),
        )


def _apart(places: list[ChangedPlace]) -> list[Rectangle]:
    """The boxes of places, those that are nearly the same once."""
    found: list[Rectangle] = []
    for p in places:
        box = Rectangle(p.x, p.y, p.x + p.width, p.y + p.height)
        if not any(b.grown(3.0).holds(box) and box.grown(3.0).holds(b) for b in found):
            found.append(box)
    return found


class RemoveMarks(AnyAct):
    """All marks of revisions taken off the sheets, or those with a letter."""

    act: Literal["remove_marks"] = "remove_marks"
    letter: Annotated[str, Field(max_length=4)] = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        ids = [
            a.id
            for s in drawing.sheets
            for a in s.annotations
            if isinstance(a, RevisionMark) and self.letter in ("", a.letter)
        ][:MANY]
        if not ids:
            raise UserError(
                "There are no such marks",
                f"No mark of revision {self.letter} stands on a sheet." if self.letter else "",
            )
        return Group(label=f"Take the marks of {self.letter or 'revisions'} off", operations=[Remove(ids=ids)])
