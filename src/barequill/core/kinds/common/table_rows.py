"""What fills a table by itself: the holes or bends of a view, the parts list, the revisions, general tolerances."""

from __future__ import annotations

from collections.abc import Iterable
from weakref import WeakKeyDictionary

from ...drawing.annotations.hole_note import HoleNote
from ...drawing.annotations.table import Column, Table
from ...drawing.annotations.text_note import TextNote
from ...drawing.items import Item
from ...drawing.title_fields import field_values, mass_text
from ...errors import Unmeasurable
from ...features.holes import like
from ...features.naming import NamedHole, named_holes
from ...measuring.anchor_geometry import resolve
from ...measuring.context import LayoutContext
from ...measuring.threads import thread_of
from ...measuring.wording import written
from ...standards import general
from ...views.placed_view import PlacedView
from ...views.projected_scene import ProjectedScene
from ..hole_note import lines_of_note
from .hanging import bends_shown
from .note_words import said

COLUMNS: dict[str, list[tuple[str, str, str]]] = {
    "holes": [("Hole", "hole", "left"), ("X", "x", "right"), ("Y", "y", "right"), ("Size", "size", "left")],
    "parts": [
        ("Item", "number", "right"),
        ("Qty", "quantity", "right"),
        ("Name", "name", "left"),
        ("Number", "reference", "left"),
        ("Material", "material", "left"),
        ("Mass", "mass", "right"),
        ("Remarks", "remarks", "left"),
    ],
    "revisions": [
        ("Rev.", "letter", "middle"),
        ("What changed", "words", "left"),
        ("Date", "date", "left"),
        ("By", "creator", "left"),
        ("Approved", "approver", "left"),
    ],
    "bends": [
        ("Bend", "number", "middle"),
        ("Way", "way", "left"),
        ("Angle", "angle", "right"),
        ("Radius", "radius", "right"),
        ("At", "at", "right"),
    ],
    "tolerances": [("Over", "over", "right"), ("Up to", "up_to", "right"), ("±", "deviation", "right")],
}
"""The columns of such tables as they begin: title, what they show, how they are set."""
HEADINGS = {
    "holes": "Holes",
    "parts": "Parts list",
    "revisions": "Revisions",
    "tolerances": "General tolerances",
    "bends": "Bends",
}


_known: WeakKeyDictionary[ProjectedScene, list[NamedHole]] = WeakKeyDictionary()


def usual_columns(follows: str) -> list[Column]:
    """The columns with which a table that fills itself begins."""
    return [Column(title=t, shows=s, align=a) for t, s, a in COLUMNS[follows]]  # type: ignore[arg-type]


def rows_of(table: Table, context: LayoutContext) -> tuple[list[list[str]], bool]:
    """The cells of a table, row by row, and whether something of it is lost; raises Unmeasurable where all is."""
    if table.follows:
        shown = {
            "holes": _holes,
            "parts": _parts,
            "revisions": _revisions,
            "tolerances": _tolerances,
            "bends": _bends,
        }
        rows = shown[table.follows](table, context)
        return [[r.get(c.shows, "") for c in table.columns] for r in rows], False
    lost, found = False, []
    for row in table.rows:
        cells = []
        for text in row:
            # figures of the part and the sheet that are named in a cell stay true
            told = said(context, TextNote(id="t", on=table.on, text=text)) if "{" in text else None
            lost |= told is not None and bool(told.lost)
            cells.append((text if told is None else told.text).strip())
        found.append(cells + [""] * (len(table.columns) - len(row)))
    return found, lost


def holes_shown(placed_view: PlacedView) -> list[NamedHole]:
    """The holes that a view shows from above, by their names; looked for once."""
    projected = placed_view.projected
    found = _known.get(projected)
    if found is None:
        view = projected.view
        found = _known[projected] = named_holes(projected.whole, view.toward, view.right, view.up)
    return found


def without_letter(placed_view: PlacedView, lettered: Iterable[str]) -> list[NamedHole]:
    """The holes that a view shows, but for those of which a face is among the ``lettered``."""
    part = placed_view.projected.whole
    rows = {found[1] for ref in lettered if (found := part.find(ref)) is not None}
    return [n for n in holes_shown(placed_view) if not rows & set(n.hole.faces)]


def _figure(context: LayoutContext, length: float) -> str:
    """A length as the drawing writes it."""
    drawing = context.drawing
    return written(length, None, drawing.unit, False, drawing.standard, context.style.own)


def _holes(table: Table, context: LayoutContext) -> list[dict[str, str]]:
    placed_view = context.shown(table.view)
    if placed_view is None:
        raise Unmeasurable("Its view is not on this sheet", "Move the table to the sheet of its view.")
    drawing, projected = context.drawing, placed_view.projected
    if table.origin is not None:
        zero = resolve(projected, table.origin).points.mean(axis=0)
    else:
        zero = projected.hull.min(axis=0)

    part = projected.whole
    notes = context.hole_notes(placed_view.view.part)
    inner = context.in_view(placed_view)
    noted: dict[str, HoleNote | None] = {}
    said: dict[tuple[str, str], str] = {}
    found = []
    for named in holes_shown(placed_view):
        if named.letter not in noted:
            # one note tells of all that are made alike
            faces = {part.faces[f].ref for h in like(part, named.hole) for f in h.faces}
            noted[named.letter] = next((n for n in notes if n.ref in faces), None)
        thread = thread_of(drawing, placed_view.view.part, part, named.hole.faces)
        key = named.letter, "" if thread is None else thread.model_dump_json(exclude={"ref"})
        if key not in said:
            note = noted[named.letter] or HoleNote(id="n", on=table.view, ref=part.faces[named.hole.faces[0]].ref)
            note = note.model_copy(update={"count": 1, "spaced": False, "on": table.view})
            said[key] = " ".join(line.plain for line in lines_of_note(inner, note, named.hole, thread))
        x, y = named.at - zero
        found.append(
            {"hole": named.name, "x": _figure(context, float(x)), "y": _figure(context, float(y)), "size": said[key]}
        )
    return found


def _bends(table: Table, context: LayoutContext) -> list[dict[str, str]]:
    """Each bend of a flat pattern: its number, which way, by how much and by which radius within it is bent, and how far its middle is from
    the left edge of the pattern, or of a level one from the lower edge."""
    placed_view = context.shown(table.view)
    if placed_view is None:
        raise Unmeasurable("Its view is not on this sheet", "Move the table to the sheet of its view.")
    zero = placed_view.projected.hull.min(axis=0)
    found = []
    for number, shown in enumerate(bends_shown(placed_view.projected), 1):
        bend, across = shown.bend, 1 - shown.axis
        found.append(
            {
                "number": str(number),
                "way": "up" if bend.up else "down",
                "angle": f"{round(bend.angle, 2):g}°",
                "radius": f"R{_figure(context, bend.radius)}",
                "at": _figure(context, float(shown.line.mean(axis=0)[across] - zero[across])),
            }
        )
    if not found:
        raise Unmeasurable("The view has no bends", "Choose the flat pattern of a bent sheet.")
    return found


def _parts(table: Table, context: LayoutContext) -> list[dict[str, str]]:
    unit = context.drawing.unit
    return [told_of(item, unit) for item in context.drawing.items]


def told_of(item: Item, unit: str) -> dict[str, str]:
    """What the parts list says of an item, by the names of its columns."""
    total = None if item.mass is None else item.mass * item.quantity
    return {
        **item.more,
        "number": str(item.number),
        "quantity": str(item.quantity),
        "name": item.name,
        "reference": item.reference,
        "material": item.material,
        "mass": mass_text(item.mass, unit),
        "total": mass_text(total, unit),
        "remarks": item.remarks,
    }


def _revisions(table: Table, context: LayoutContext) -> list[dict[str, str]]:
    return [r.model_dump() for r in context.drawing.revisions]


def _tolerances(table: Table, context: LayoutContext) -> list[dict[str, str]]:
    field = field_values(context.drawing, context.sheet, None).get("general_tolerance", "")
    name = general.class_of(field)
    if name is None:
        raise Unmeasurable(
            "The title block names no class", "Fill in its general tolerances first, such as ISO 2768-m."
        )
    most = max((p.projected.whole.size for v in context.views() if (p := context.shown(v)) is not None), default=4000.0)
    return [
        {"over": f"{low:g}", "up_to": f"{high:g}", "deviation": f"{deviation:g}"}
        for low, high, deviation in general.linear_ranges(name)
        if low < most
    ]


def hole_called(placed_view: PlacedView, face: str) -> NamedHole | None:
    """The hole that a face belongs to, with its name; None where it is none that the view shows."""
    _, row = placed_view.projected.whole.find(face) or ("", -1)
    return next((n for n in holes_shown(placed_view) if row in n.hole.faces), None)
