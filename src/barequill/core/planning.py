"""Plans: from what a hand wants to operations with all that they need."""

from __future__ import annotations

from .annotation.centres import existing, round_features
from .drawing.document import CentreLine, CentreMark, Dimension, Drawing, PartUse, Sheet, View
from .drawing.operations import AddViews, Annotate, Group, MoveView, Operation, SetSheet, SetView, apply, find_view
from .errors import BadOperation, UserError
from .part.model import Part
from .standards.sheets import SIZES
from .views import layout
from .views.directions import FACES, Side, camera_of, look_of, turned
from .views.picture import Shot, Studio
from .views.proposal import SET_NAMES, apply_layout, items_for, propose_sheet, rearranged, views_for


def new_drawing(
    studio: Studio,
    part: Part,
    *,
    size: str | None = None,
    landscape: bool = True,
    standard: str | None = None,
    angle: str | None = None,
    unit: str | None = None,
    scale: float | None = None,
    names: list[str] | None = None,
    face: str = "-Y",
    quarter_turns: int = 0,
    centres: bool = True,
    material: str = "",
    density: float | None = None,
) -> Drawing:
    """A drawing of a part with a set of views placed; what is left out is proposed from the part.

    Raises
    ------
    UserError
        Where a choice is unknown or the views do not fit.
    """
    if size is not None and size not in SIZES:
        raise UserError(f"There is no sheet {size}", f"Choose one of {', '.join(SIZES)}.")
    if face not in FACES:
        raise UserError(f"There is no face {face}", f"Choose one of {', '.join(FACES)}.")
    standard = standard or ("ASME" if size in ("A", "B", "C", "D", "E") else "ISO")
    angle = angle or ("third" if standard == "ASME" else "first")
    names = ["front", "top", "left", "iso"] if names is None else names
    unknown = [n for n in names if n not in SET_NAMES]
    if unknown:
        raise UserError(f"There is no view named {unknown[0]}", f"Choose from {', '.join(SET_NAMES)}.")
    made_of = material or next((b.material for b in part.bodies if b.material), None) or ""
    drawing = Drawing.model_validate(
        {
            "standard": standard,
            "angle": angle,
            "unit": unit or ("inch" if part.unit == "inch" and standard == "ASME" else "mm"),
            "parts": [PartUse(key=part.key, name=part.name, number=part.number, material=made_of, density=density)],
        }
    )
    sheet = Sheet.model_validate(
        {"id": "s1", "size": size or ("A3" if standard == "ISO" else "B"), "landscape": landscape}
    )
    drawing.sheets = [sheet]
    if not names:
        return drawing
    toward, up = turned(*FACES[face], quarter_turns)
    views = views_for(part.key, names, toward, up, 1)
    items = items_for(studio, views, angle)
    if size is None and scale is None:
        chosen, found = propose_sheet(items, standard)
        sheet.size = chosen  # type: ignore[assignment]
    else:
        found = layout.choose(items, sheet.size, landscape, scale)
    sheet.scale = found.scale
    operations: list[Operation] = [AddViews(sheet="s1", views=apply_layout(views, found))]
    drawing = apply(drawing, operations[0])
    if centres:
        for view in drawing.sheets[0].views:
            plan = centres_plan(studio, drawing, view.id)
            if plan is not None:
                drawing = apply(drawing, plan)
    return drawing


def pulled_view(drawing: Drawing, parent_id: str, side: str, to: tuple[float, float]) -> tuple[Sheet, View]:
    """The view pulled out of a side (left, right, above, below) or corner (such as ``above-right``) of another."""
    sheet, parent = find_view(drawing, parent_id)
    corner = (1, 1)
    if "-" in side:
        rows, columns = side.split("-", 1)
        if rows not in ("above", "below") or columns not in ("left", "right"):
            raise UserError(
                f"There is no corner named {side}", "Choose above-left, above-right, below-left or below-right."
            )
        corner = (1 if columns == "right" else -1, 1 if rows == "above" else -1)
        look = "corner"
    else:
        if side not in ("left", "right", "above", "below"):
            raise UserError(f"There is no side named {side}", "Choose left, right, above or below.")
        known: Side = side  # type: ignore[assignment]
        look = look_of(known, drawing.angle)
    toward, up = camera_of(look, parent.toward, parent.up, corner)  # type: ignore[arg-type]
    place = to
    if look in ("left", "right"):
        place = (to[0], parent.place[1])
    elif look in ("top", "bottom"):
        place = (parent.place[0], to[1])
    view = View(
        id=f"v{drawing.last_id + 1}",
        part=parent.part,
        parent=parent.id,
        look=look,  # type: ignore[arg-type]
        toward=toward,
        up=up,
        place=place,
        hidden_lines=look != "corner",
    )
    return sheet, view


def centres_plan(studio: Studio, drawing: Drawing, view_id: str) -> Operation | None:
    """Centre marks for all circles of a view and centre lines for all its round features; None where all are there."""
    sheet, view = find_view(drawing, view_id)
    if view.pictorial:
        return None
    shot: Shot = studio.shot(view.part, view.toward, view.up)
    marks, axes = round_features(shot)
    have_marks, have_lines = existing(sheet.annotations, view_id)
    number = drawing.last_id
    found: list[Dimension | CentreMark | CentreLine] = []
    for ref in marks:
        if ref not in have_marks:
            number += 1
            found.append(CentreMark(id=f"c{number}", view=view_id, ref=ref))
    for refs in axes:
        if not set(refs) & have_lines:
            number += 1
            found.append(CentreLine(id=f"c{number}", view=view_id, refs=refs))
    return Annotate(sheet=sheet.id, annotations=found) if found else None


def sheet_plan(studio: Studio, drawing: Drawing, change: SetSheet) -> Operation:
    """A change of sheet, scale or projection angle with the views rearranged for it."""
    trial = apply(drawing, change)
    sheet = trial.sheet(change.sheet)
    assert sheet is not None
    if not sheet.views:
        return change
    asked = change.scale
    resized = change.size is not None or change.landscape is not None
    scale = asked if asked is not None else None if resized else sheet.scale
    try:
        found = rearranged(studio, trial, sheet, scale)
    except UserError:
        found = rearranged(studio, trial, sheet, sheet.scale)
    operations: list[Operation] = [
        change.model_copy(update={"scale": found.scale, "places": found.places}),
        *(
            SetView(view=v.id, changes={"scale": found.scales.get(v.id)})
            for v in sheet.views
            if v.pictorial and scale is None and v.scale != found.scales.get(v.id)
        ),
    ]
    return operations[0] if len(operations) == 1 else Group(label="Set the sheet", operations=operations)


def spread_plan(studio: Studio, drawing: Drawing, sheet_id: str) -> Operation:
    """All views of a sheet moved to where they stand best at the present scale."""
    sheet = drawing.sheet(sheet_id)
    if sheet is None or not sheet.views:
        raise BadOperation("There is nothing to spread", "Place a view first.")
    found = rearranged(studio, drawing, sheet, sheet.scale)
    return SetSheet(sheet=sheet_id, places=found.places)


__all__ = ["MoveView", "centres_plan", "new_drawing", "pulled_view", "sheet_plan", "spread_plan"]
