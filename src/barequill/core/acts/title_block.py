"""Templates taken by sheets, and title blocks changed cell by cell."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field

from ..bounds import FEW, Name, Ref, Text
from ..drawing import Drawing, Operation, Sheet, title_cells
from ..drawing.base import Model
from ..drawing.operations import Group, SetField, SetSheet, SetTemplates, apply, need_sheet
from ..drawing.pictures import Picture
from ..drawing.templates import ISO_7200, Margins, Template, Zones, called
from ..drawing.title_fields import AUTOMATIC, COMPUTED, LABELS
from ..errors import BadOperation, UserError
from ..views.occupancy import Occupancy, occupancy
from ..views.proposal import rearranged
from .base import ActContext, AnyAct

_STEPS = [5.0 * k for k in range(-16, 17)]
"""mm by which views are moved together."""
OWN = "Own title block"
"""How a template is called that was made by changing the one without a name."""
NOT_OF_A_HOUSE = {"number", "title", "revision", "date", "material", "surface", "creator", "approver"}
"""Fields that are of one drawing: a template that is made of it begins without them."""


class TakeTemplate(AnyAct):
    """Sheets with the frame and title block of a template (none: that of ISO 7200); views that would lie on it are moved. What it says
    of fields that are not filled in is filled in."""

    act: Literal["take_template"] = "take_template"
    template: Template | None
    sheets: Annotated[list[Ref], Field(max_length=FEW)] = []
    """Which; all where none are named."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        ids = self.sheets or [s.id for s in drawing.sheets]
        for own in ids:
            need_sheet(drawing, own)
        name, templates = "", list(drawing.templates)
        if self.template is not None and self.template != ISO_7200:
            taken = self.template if self.template.name else self.template.model_copy(update={"name": OWN})
            name = taken.name
            templates = [*(t for t in templates if t.name != name), taken.model_copy(update={"fields": {}})]
        used = {s.template for s in drawing.sheets if s.id not in ids} | {name}
        templates = [t for t in templates if t.name in used]
        fields = {} if self.template is None else self.template.fields
        operations: list[Operation] = [
            SetTemplates(templates=templates, sheets={own: name for own in ids}),
            *(SetField(field=k, value=v) for k, v in fields.items() if v and not drawing.fields.get(k)),
        ]
        label = f"Take the title block {name or 'of ISO 7200'}"[:120]
        trial = apply(drawing, Group(label=label, operations=operations))
        for own in ids:
            operations += _cleared(drawing, trial, need_sheet(trial, own), acting)
        return Group(label=label, operations=operations)


def _cleared(before: Drawing, drawing: Drawing, sheet: Sheet, acting: ActContext) -> list[Operation]:
    """What moves views that have come to lie over the frame or under the title block."""
    ground, was = occupancy(drawing, sheet), occupancy(before, need_sheet(before, sheet.id))
    boxes = [p.box for p in acting.projections.placed_views(drawing, sheet).values()]

    def clear(of: Occupancy, x: float = 0.0, y: float = 0.0) -> int:
        moved = [b.moved(x, y) for b in boxes]
        return sum(of.space.holds(b) and not of.title.overlaps(b) for b in moved)

    if clear(ground) >= clear(was):
        return []
    # all as they stand to each other, a little aside; else laid out anew
    near = sorted(((x, y) for x in _STEPS for y in _STEPS), key=lambda s: s[0] ** 2 + s[1] ** 2)
    shift = next(((x, y) for x, y in near if clear(ground, x, y) == len(boxes)), None)
    if shift is not None:
        moved = {v.id: (v.place[0] + shift[0], v.place[1] + shift[1]) for v in sheet.views}
        return [SetSheet(sheet=sheet.id, places=moved)]
    try:
        found = rearranged(acting.projections, drawing, sheet, sheet.scale)
    except UserError:
        return []
    return [SetSheet(sheet=sheet.id, scale=found.scale, places=found.places)]


class AnyTitleAct(AnyAct):
    """A change of the template of a sheet; all sheets that have the same go along."""

    sheet: Ref

    def changed(self, template: Template) -> tuple[Template, str]:
        """The template after it, and what was done."""
        raise NotImplementedError

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        return _with_template(drawing, need_sheet(drawing, self.sheet), self.changed)


def _with_template(drawing: Drawing, sheet: Sheet, change: Callable[[Template], tuple[Template, str]]) -> Operation:
    was = drawing.template_of(sheet)
    after, label = change(was)
    if not was.name:
        taken = {t.name for t in drawing.templates}
        name = next(n for k in range(1, FEW) if (n := OWN if k == 1 else f"{OWN} {k}") not in taken)
        after = after.model_copy(update={"name": after.name or name})
    elif after.name != was.name and any(t.name == after.name for t in drawing.templates):
        raise BadOperation("That name is taken", f"Another template of the drawing is called {after.name}.")
    templates = [after if t.name == was.name else t for t in drawing.templates]
    if not was.name:
        templates.append(after)
    same = [s.id for s in drawing.sheets if drawing.template_of(s) is was]
    return SetTemplates(templates=templates, sheets={own: after.name for own in same}, label=label[:160])


class SplitCell(AnyTitleAct):
    """A cell of the title block in two: beside each other where it is cut ``across``, else above each other."""

    act: Literal["split_cell"] = "split_cell"
    cell: Ref
    across: bool = True
    at: Annotated[float, Field(ge=0, le=1200, allow_inf_nan=False)] | None = None

    def changed(self, template: Template) -> tuple[Template, str]:
        cell = title_cells.need_cell(template, self.cell)
        return title_cells.split(template, self.cell, self.across, self.at), f"Split the cell {called(cell)}"


class JoinCells(AnyTitleAct):
    """Cells of the title block as one, which shows what the first did."""

    act: Literal["join_cells"] = "join_cells"
    cells: Annotated[list[Ref], Field(min_length=1, max_length=FEW)]

    def changed(self, template: Template) -> tuple[Template, str]:
        return title_cells.joined(template, self.cells), f"Join {len(self.cells)} cells"


class RemoveCells(AnyTitleAct):
    """Cells of the title block taken away; what is beside them grows into their place."""

    act: Literal["remove_cells"] = "remove_cells"
    cells: Annotated[list[Ref], Field(min_length=1, max_length=FEW)]

    def changed(self, template: Template) -> tuple[Template, str]:
        names = ", ".join(called(title_cells.need_cell(template, c)) for c in self.cells)
        for own in self.cells:
            template = title_cells.removed(template, own)
        return template, f"Remove the cell{'s' if len(self.cells) > 1 else ''} {names}"


class AddCell(AnyTitleAct):
    """One more cell over the whole width at the top, or over the whole height at the left."""

    act: Literal["add_cell"] = "add_cell"
    side: Literal["top", "left"] = "top"

    def changed(self, template: Template) -> tuple[Template, str]:
        return title_cells.added(template, self.side), "Add a cell to the title block"


class MoveCellEdge(AnyTitleAct):
    """A border of a cell moved ``to`` so many mm from the left, or from the bottom, of the title block."""

    act: Literal["move_cell_edge"] = "move_cell_edge"
    cell: Ref
    side: title_cells.Edge
    to: Annotated[float, Field(ge=-1200, le=1200, allow_inf_nan=False)]

    def changed(self, template: Template) -> tuple[Template, str]:
        cell = title_cells.need_cell(template, self.cell)
        return title_cells.moved(template, self.cell, self.side, self.to), f"Move a border of {called(cell)}"


class CellChanges(Model):
    """What can be changed of a cell; None leaves it."""

    label: Text | None = None
    shows: Text | None = None
    """A field by its label or name, as one types it, ``nothing`` for a cell that only has a text, or ``projection``."""
    text: Text | None = None
    lettering: Annotated[float, Field(ge=1.8, le=20, allow_inf_nan=False)] | None = None
    align: Literal["left", "middle", "right"] | None = None
    needed: bool | None = None
    choices: Annotated[list[Text], Field(max_length=60)] | None = None
    picture: Picture | None = None


class ChangeCell(AnyTitleAct):
    """What a cell of the title block shows, and how."""

    act: Literal["change_cell"] = "change_cell"
    cell: Ref
    changes: CellChanges

    def changed(self, template: Template) -> tuple[Template, str]:
        cell, wish = title_cells.need_cell(template, self.cell), self.changes
        names = ("label", "text", "lettering", "align", "needed", "choices")
        new: dict[str, object] = {n: v for n in names if (v := getattr(wish, n)) is not None}
        if wish.shows is not None:
            field = named_field(wish.shows)
            new |= {"field": field, "shows": "projection" if field == "projection" else "words", "picture": None}
            if field and not cell.label and wish.label is None and field != "projection":
                new["label"] = LABELS.get(field, wish.shows.strip())
            if not field:
                new["needed"] = False
        if wish.picture is not None:
            new |= {"field": "", "text": "", "label": "", "needed": False, "shows": "picture", "picture": wish.picture}
        return title_cells.changed(template, self.cell, **new), f"Change the cell {called(cell)}"


def named_field(said: str) -> str:
    """The field that is meant: one of ISO 7200 by its label or name, else one of one's own; none for nothing."""
    plain = said.strip().rstrip(".").lower()
    if plain in ("", "nothing", "text", "its text"):
        return ""
    known = {label.lower(): field for field, label in LABELS.items()} | {
        "revision": "revision",
        "projection": "projection",
    }
    name = known.get(plain) or re.sub(r"[^a-z0-9]+", "_", plain).strip("_")[:40]
    if not name:
        raise UserError(f"No field can be called {said[:40]}", "Take letters and figures, such as Checked by.")
    if name in COMPUTED and name not in AUTOMATIC:
        raise UserError(f"{said[:40]} is computed", f"Let the cell show nothing, and write {{{name}}} as its text.")
    return name


class ChangeBorder(AnyTitleAct):
    """The border of a sheet's template: its margins, zones and centring marks, and what the template is called."""

    act: Literal["change_border"] = "change_border"
    name: Name | None = None
    margins: Margins | None = None
    zones: Zones | Literal[False] | None = None
    """False for none."""
    centring: bool | None = None

    def changed(self, template: Template) -> tuple[Template, str]:
        new: dict[str, object] = {n: v for n in ("margins", "centring") if (v := getattr(self, n)) is not None}
        if self.zones is not None:
            new["zones"] = self.zones or None
        name = (self.name or "").strip()
        if name:
            new["name"] = name
        label = "Change the border" if set(new) - {"name"} else f"Call the template {name}"
        return template.model_copy(update=new), label


def template_of(drawing: Drawing, sheet: Sheet, name: str = "") -> Template:
    """The template of a sheet as it can be given to other drawings, with the fields that are of the house and not of one drawing."""
    own = drawing.template_of(sheet)
    shown = {c.field for c in own.cells if c.field and c.field not in AUTOMATIC} - NOT_OF_A_HOUSE
    fields = {k: v for k, v in drawing.fields.items() if k in shown and v}
    return own.model_copy(update={"name": name or own.name or OWN, "fields": fields})
