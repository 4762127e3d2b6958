"""The sheet, the conventions, the title block, the parts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import MANY, Ref, Scale, Text
from ...standards.scales import scale_text
from ..base import Model, Point, Size
from ..document import Drawing, PartUse, Sheet
from ..views import View
from .base import AnyOperation, need_sheet, shifted, with_views


class SheetChanges(Model):
    """What can be changed of a sheet and the conventions; None leaves it."""

    sheet: Ref
    size: Size | None = None
    landscape: bool | None = None
    scale: Scale | None = None
    angle: Literal["first", "third"] | None = None
    standard: Literal["ISO", "ASME"] | None = None
    unit: Literal["mm", "inch"] | None = None


class SetSheet(SheetChanges, AnyOperation):
    """Change a sheet and the conventions; ``places`` are the new places of its views."""

    op: Literal["set_sheet"] = "set_sheet"
    places: Annotated[dict[Ref, Point], Field(max_length=MANY)] = {}

    def applied(self, drawing: Drawing) -> Drawing:
        sheet = need_sheet(drawing, self.sheet)
        own = {n: v for n in ("size", "landscape", "scale") if (v := getattr(self, n)) is not None}
        drawing = drawing.with_sheet(sheet.model_copy(update=own))
        if self.angle is not None and self.angle != drawing.angle:
            for each in drawing.sheets:
                drawing = shifted(drawing, _mirrored(drawing, each))
        common = {n: v for n in ("angle", "standard", "unit") if (v := getattr(self, n)) is not None}

        def placed(v: View) -> View:
            return v.model_copy(update={"place": self.places[v.id]}) if v.id in self.places else v

        return (
            with_views(drawing.model_copy(update=common), placed) if self.places else drawing.model_copy(update=common)
        )

    def words(self) -> str:
        what = [
            text
            for text in (
                self.size,
                scale_text(self.scale) if self.scale else None,
                f"{self.angle} angle" if self.angle else None,
                self.standard,
                self.unit,
            )
            if text
        ]
        return "Set the sheet" + (f": {', '.join(what)}" if what else "")


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
    """Fill in a field of the title block."""

    op: Literal["set_field"] = "set_field"
    field: Ref = Field(min_length=1)
    value: Text

    def applied(self, drawing: Drawing) -> Drawing:
        return drawing.model_copy(update={"fields": {**drawing.fields, self.field: self.value}})

    def words(self) -> str:
        return f"Fill in {self.field.replace('_', ' ')}"


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
