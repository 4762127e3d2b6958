"""The sheet, the conventions, the title block, the parts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import FEW, MANY, Name, Ref, Scale, Text, one_of
from ...errors import BadOperation
from ...standards.lines import GROUPS, HEIGHTS
from ...standards.scales import scale_text
from ..base import Model, Point, Size
from ..document import Drawing, PartUse, Sheet
from ..title_fields import LABELS
from ..views import View
from .base import AnyOperation, need_sheet, numbered, shifted, with_views, without


class SheetChanges(Model):
    """What can be changed of a sheet and the conventions; None leaves it."""

    sheet: Ref
    name: Name | None = None
    size: Size | None = None
    landscape: bool | None = None
    scale: Scale | None = None
    angle: Literal["first", "third"] | None = None
    standard: Literal["ISO", "ASME"] | None = None
    unit: Literal["mm", "inch"] | None = None
    wide: Annotated[float, one_of(0, *GROUPS)] | None = None
    """mm of wide lines; 0 for that of each sheet's size."""
    lettering: Annotated[float, one_of(0, *HEIGHTS)] | None = None
    """mm of lettering; 0 for that of each sheet's size."""
    font: Literal["upright", "sloped", "plain"] | None = None


class SetSheet(SheetChanges, AnyOperation):
    """Change a sheet and the conventions; ``places`` are the new places of its views."""

    op: Literal["set_sheet"] = "set_sheet"
    places: Annotated[dict[Ref, Point], Field(max_length=MANY)] = {}

    def applied(self, drawing: Drawing) -> Drawing:
        sheet = need_sheet(drawing, self.sheet)
        own = {n: v for n in ("name", "size", "landscape", "scale") if (v := getattr(self, n)) is not None}
        drawing = drawing.with_sheet(sheet.model_copy(update=own))
        if self.angle is not None and self.angle != drawing.angle:
            for each in drawing.sheets:
                drawing = shifted(drawing, _mirrored(drawing, each))
        common = {n: v for n in ("angle", "standard", "unit", "font") if (v := getattr(self, n)) is not None}
        common |= {n: v or None for n in ("wide", "lettering") if (v := getattr(self, n)) is not None}

        def placed(v: View) -> View:
            return v.model_copy(update={"place": self.places[v.id]}) if v.id in self.places else v

        return (
            with_views(drawing.model_copy(update=common), placed) if self.places else drawing.model_copy(update=common)
        )

    def words(self) -> str:
        what = [
            text
            for text in (
                f"called {self.name}" if self.name else None,
                self.size,
                scale_text(self.scale) if self.scale else None,
                f"{self.angle} angle" if self.angle else None,
                self.standard,
                self.unit,
                None if self.wide is None else f"wide lines of {self.wide} mm" if self.wide else "lines by its size",
                None
                if self.lettering is None
                else f"lettering of {self.lettering} mm"
                if self.lettering
                else "lettering by its size",
                f"{self.font} lettering" if self.font else None,
            )
            if text
        ]
        return "Set the sheet" + (f": {', '.join(what)}" if what else "")


class AddSheet(AnyOperation):
    """Add a sheet, before the one that is now ``at`` that place from 0 on, or as the last."""

    op: Literal["add_sheet"] = "add_sheet"
    sheet: Sheet
    at: Annotated[int, Field(ge=0, le=FEW)] | None = None

    def applied(self, drawing: Drawing) -> Drawing:
        if drawing.sheet(self.sheet.id) is not None:
            raise BadOperation("That name is taken", f"The drawing already holds {self.sheet.id}; load it again.")
        if len(drawing.sheets) >= FEW:
            raise BadOperation("That is too much", f"A drawing holds at most {FEW} sheets.")
        new = [self.sheet.id, *(e.id for e in (*self.sheet.views, *self.sheet.annotations))]
        drawing = numbered(drawing, new)
        sheets = list(drawing.sheets)
        sheets.insert(len(sheets) if self.at is None else self.at, self.sheet)
        return drawing.model_copy(update={"sheets": sheets})

    def words(self) -> str:
        n = len(self.sheet.views)
        return "Add a sheet" + (f" with {n} view{'s' if n > 1 else ''}" if n else "")


class MoveSheet(AnyOperation):
    """Move a sheet ``to`` another place among all, from 0 on."""

    op: Literal["move_sheet"] = "move_sheet"
    sheet: Ref
    to: Annotated[int, Field(ge=0, le=FEW)]

    def applied(self, drawing: Drawing) -> Drawing:
        sheet = need_sheet(drawing, self.sheet)
        sheets = [s for s in drawing.sheets if s.id != sheet.id]
        sheets.insert(self.to, sheet)
        return drawing.model_copy(update={"sheets": sheets})

    def words(self) -> str:
        return f"Make it sheet {self.to + 1}"


class RemoveSheet(AnyOperation):
    """Remove a sheet with all that stands on it, and what hangs on that on other sheets."""

    op: Literal["remove_sheet"] = "remove_sheet"
    sheet: Ref

    def applied(self, drawing: Drawing) -> Drawing:
        sheet = need_sheet(drawing, self.sheet)
        if len(drawing.sheets) == 1:
            raise BadOperation("A drawing has one sheet at least", "Remove what stands on it, or add another first.")
        gone = drawing.hanging({sheet.id, *(e.id for e in (*sheet.views, *sheet.annotations))})
        kept = [without(s, gone) for s in drawing.sheets if s.id != sheet.id]
        return drawing.model_copy(update={"sheets": kept})

    def words(self) -> str:
        return "Remove a sheet"


class SendToSheet(AnyOperation):
    """Move views and annotations to another sheet, with all that hangs on them where they stand, shifted ``by`` so much (mm)."""

    op: Literal["send_to_sheet"] = "send_to_sheet"
    ids: list[Ref] = Field(min_length=1, max_length=MANY)
    sheet: Ref
    by: Point = (0.0, 0.0)

    def applied(self, drawing: Drawing) -> Drawing:
        target = need_sheet(drawing, self.sheet)
        held = {e.id for s in drawing.sheets for e in (*s.views, *s.annotations)}
        for element in self.ids:
            if element not in held:
                raise BadOperation("That is gone", f"{element} is not in this drawing any more.")
        sent = set(self.ids)
        for sheet in drawing.sheets:
            while more := {a.id for a in sheet.annotations if a.on in sent} - sent:
                sent |= more
        views = [v for s in drawing.sheets if s.id != target.id for v in s.views if v.id in sent]
        annotations = [a for s in drawing.sheets if s.id != target.id for a in s.annotations if a.id in sent]
        dx, dy = self.by
        moved = [v.model_copy(update={"place": (v.place[0] + dx, v.place[1] + dy)}) for v in views]
        free = [a.on_sheet(target.id, self.by) if drawing.sheet(a.on) is not None else a for a in annotations]
        sheets = [
            s.model_copy(update={"views": [*s.views, *moved], "annotations": [*s.annotations, *free]})
            if s.id == target.id
            else without(s, sent)
            for s in drawing.sheets
        ]
        return drawing.model_copy(update={"sheets": sheets})

    def words(self) -> str:
        return "Move to another sheet"


def _mirrored(d: Drawing, sheet: Sheet) -> dict[str, tuple[float, float]]:
    """How far every tied projected view moves to stand on the other side of its parent."""
    steps: dict[str, tuple[float, float]] = {}

    def turn(parent: View, carried: tuple[float, float]) -> None:
        for child in [v for v in sheet.views if v.parent == parent.id and v.tied]:
            step = carried
            if not child.pictorial and not getattr(child, "within", False):
                dx, dy = parent.place[0] - child.place[0], parent.place[1] - child.place[1]
                step = (carried[0] + 2 * dx, carried[1] + 2 * dy)
            steps[child.id] = step
            turn(child, step)

    for root in [v for v in sheet.views if sheet.view(v.parent) is None or not v.tied]:
        turn(root, (0.0, 0.0))
    return steps


class SetField(AnyOperation):
    """Fill in a field of the title block, empty it, or with None let it fill itself again."""

    op: Literal["set_field"] = "set_field"
    field: Ref = Field(min_length=1)
    value: Text | None

    def applied(self, drawing: Drawing) -> Drawing:
        if self.value is None:
            fields = {k: v for k, v in drawing.fields.items() if k != self.field}
            return drawing.model_copy(update={"fields": fields})
        return drawing.model_copy(update={"fields": {**drawing.fields, self.field: self.value}})

    def words(self) -> str:
        name = LABELS.get(self.field, self.field.replace("_", " ")).lower()
        if not self.value:
            return f"Empty the {name}" if self.value is not None else f"Let the {name} fill itself"
        return f"{name.capitalize()}: {self.value[:60]}"


class SetPart(AnyOperation):
    """Take a part into the drawing, or change its material."""

    op: Literal["set_part"] = "set_part"
    part: PartUse

    def applied(self, drawing: Drawing) -> Drawing:
        if drawing.part(self.part.key) is None:
            return drawing.model_copy(update={"parts": [*drawing.parts, self.part]})
        return drawing.model_copy(update={"parts": [self.part if p.key == self.part.key else p for p in drawing.parts]})

    def words(self) -> str:
        return "Set the part's material"
