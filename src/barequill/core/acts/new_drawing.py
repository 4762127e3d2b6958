"""A new drawing of a part, with views and scale proposed."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from ..bounds import FEW, FIELDS, Density, Key, Name, Ref, Scale, Text
from ..drawing import Drawing, PartUse, Sheet
from ..drawing.base import Model, Size, Vector
from ..drawing.operations import AddViews, apply
from ..drawing.templates import Template, shipped
from ..drawing.ways import NamedWays, Ways
from ..drawing.ways_taken import begun_as, framed_by
from ..errors import UserError
from ..part.model import Part
from ..standards.sheets import paper
from ..views import layout
from ..views.directions import FACES, squared, turned
from ..views.placed_view import ProjectionCache
from ..views.proposal import apply_layout, items_for, propose_sheet, views_for
from .base import ActContext

ViewName = Literal["front", "back", "top", "bottom", "left", "right", "iso"]
FaceName = Literal["-Y", "+Y", "+Z", "-Z", "-X", "+X"]


class NewDrawing(Model):
    """What a new drawing is to be; what is left out is proposed."""

    part: Key
    size: Size | None = None
    landscape: bool = True
    standard: Literal["ISO", "ASME"] | None = None
    angle: Literal["first", "third"] | None = None
    unit: Literal["mm", "inch"] | None = None
    scale: Scale | None = None
    views: Annotated[list[ViewName], Field(max_length=FEW)] = ["front", "top", "left", "iso"]
    face: FaceName = "-Y"
    quarter_turns: int = Field(default=0, ge=0, le=3)
    toward: Vector | None = None
    up: Vector | None = None
    """Directions of the front where it is none of the six faces; both together, and before the face."""
    centres: bool = True
    hidden_lines: bool = True
    fields: Annotated[dict[Ref, Text], Field(max_length=FIELDS)] = {}
    template: Template | None = None
    """Its border and title block; without one that of its ways, else that of its conventions."""
    ways: Ways | None = None
    house: Name = ""
    """The name under which its ways are kept: it is told where the drawing departs from them."""
    """As what it begins, but for what is told here."""


class Shelved(Model):
    """What the shelf says of a part, where it says more than the part's file."""

    name: Name | None = None
    number: Name | None = None
    material: Name = ""
    density: Density | None = None


def use_of(part: Part, shelved: Shelved) -> PartUse:
    """A part as a drawing has it that begins: as the shelf says, else as its file does."""
    return PartUse(
        key=part.key,
        name=part.name if shelved.name is None else shelved.name,
        number=part.number if shelved.number is None else shelved.number,
        material=shelved.material or next((b.material for b in part.bodies if b.material), None) or "",
        density=shelved.density,
    )


def new_drawing(projections: ProjectionCache, wish: NewDrawing, shelved: Shelved | None = None) -> Drawing:
    """A drawing with one sheet; size, scale, standard, angle, unit and places are proposed where not given.

    Raises
    ------
    UserError
        Where the views do not fit.
    """
    from .centres import centres_plans
    from .declare_thread import threads_said
    from .state_notes import StateNotes

    part, shelved = projections.part(wish.part), shelved or Shelved()
    ways = wish.ways
    usual = "ASME" if wish.size in ("A", "B", "C", "D", "E") else "ISO" if wish.size or ways is None else ways.standard
    standard = wish.standard or usual
    usual_angle: Literal["first", "third"] = "third" if standard == "ASME" else "first"
    angle = wish.angle or (ways.angle if ways is not None and ways.standard == standard else usual_angle)
    use = use_of(part, shelved)
    size = wish.size or ("A3" if standard == "ISO" else "B")
    own, *ids = (f"e{k + 1}" for k in range(1 + len(wish.views)))
    toward, up = front_of(wish.face, wish.quarter_turns, wish.toward, wish.up)
    views = views_for(part.key, list(wish.views), toward, up, ids)
    if not wish.hidden_lines:
        views = [v.model_copy(update={"hidden_lines": False}) for v in views]
    sheet = Sheet(id=own, size=size, landscape=wish.landscape)
    drawing = Drawing(
        standard=standard,
        angle=angle,
        unit=wish.unit or ("inch" if part.unit == "inch" and standard == "ASME" else "mm"),
        parts=[use],
        sheets=[sheet],
        fields=wish.fields,
        last_id=1,
    )
    drawing = drawing.model_copy(update={"threads": threads_said(part, drawing.unit == "inch")})
    drawing = drawing if ways is None else begun_as(drawing, ways)
    template = wish.template or (shipped("asme-y14-1") if standard == "ASME" and not drawing.templates else None)
    drawing = drawing if template is None else framed_by(drawing, template)
    sheet = drawing.front_sheet
    if not views:
        return drawing
    trial = sheet.model_copy(update={"views": views})
    items = items_for(projections, drawing.with_sheet(trial), trial)
    if wish.size is None and wish.scale is None:
        chosen, found = propose_sheet(items, drawing)
        sheet = sheet.model_copy(update={"size": chosen, "scale": found.scale})
    else:
        found = layout.choose(items, drawing, sheet, wish.scale)
        sheet = sheet.model_copy(update={"scale": found.scale})
    drawing = apply(drawing.with_sheet(sheet), AddViews(sheet=sheet.id, views=apply_layout(views, found)))
    if ways is not None and wish.house:
        drawing = drawing.model_copy(update={"ways": NamedWays(name=wish.house, ways=ways)})
        if ways.notes:
            notes = StateNotes(sheet=sheet.id, text="\n".join(ways.notes))
            drawing = apply(drawing, notes.plan(drawing, ActContext(projections)))
    if wish.centres:
        for plan in centres_plans(projections, drawing, [v.id for v in views]):
            drawing = apply(drawing, plan)
    return drawing


def front_of(
    face: FaceName, quarter_turns: int, toward: Vector | None, up: Vector | None
) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """Directions toward the viewer and up of a front: those given, made square to each other, or those of a face.

    Raises
    ------
    UserError
        Where the directions given do not make a camera.
    """
    if toward is None or up is None:
        return turned(*FACES[face], quarter_turns)
    return turned(*squared(toward, up), quarter_turns)


def checked_names(names: list[str], size: str | None) -> None:
    """Raises UserError where a view or a sheet of that name is unknown; the message lists those that there are."""
    known: tuple[str, ...] = get_args(ViewName)
    unknown = [n for n in names if n not in known]
    if unknown:
        raise UserError(f"There is no view named {unknown[0]}", f"Choose from {', '.join(known)}.")
    if size is not None:
        paper(size)
