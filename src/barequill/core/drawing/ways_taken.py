"""The ways of a drawing: taken from it, begun with, and where a drawing departs from those that it was given."""

from __future__ import annotations

from collections.abc import Iterator

from .annotations.notes_block import NotesBlock
from .base import Model
from .document import Drawing
from .styles import DimensionStyle, ViewStyle
from .templates import ISO_7200, Template
from .title_fields import LABELS
from .ways import Ways

KEPT = ("owner", "creator", "language", "general_tolerance")
"""Fields of the title block that are taken over from the last drawing."""
COMMON = ("wide", "lettering", "font", "styles", "style", "view_styles", "view_style", "letters_left_out")
"""What is taken over as it is."""
CONVENTIONS = ("standard", "angle", "unit")
PLAIN = "ISO 7200"
"""What the template without a name is called."""


def ways_of(drawing: Drawing) -> Ways:
    """The ways of a drawing."""
    same = {n: getattr(drawing, n) for n in (*CONVENTIONS, *COMMON)}
    front = drawing.front_sheet
    template = drawing.template_of(front) if front.template else None
    return Ways(**same, template=template, fields={n: drawing.fields[n] for n in KEPT if drawing.fields.get(n)})


def notes_of(drawing: Drawing) -> list[str]:
    """The general notes of a drawing, as they are written."""
    return [n.text for s in drawing.sheets for a in s.annotations if isinstance(a, NotesBlock) for n in a.notes]


def begun_as(drawing: Drawing, ways: Ways) -> Drawing:
    """A drawing by the ways of a house, but for its conventions and units; what its title block says already stays."""
    fields = {**{n: v for n, v in ways.fields.items() if v}, **drawing.fields}
    drawing = drawing.model_copy(update={**{n: getattr(ways, n) for n in COMMON}, "fields": fields})
    return drawing if ways.template is None or ways.standard != drawing.standard else framed_by(drawing, ways.template)


def framed_by(drawing: Drawing, template: Template) -> Drawing:
    """A drawing whose sheets all have a template, where its title block has room on them; fields that are not filled in are filled as it
    says."""
    if not template.name or not all(template.fits(s.size, s.landscape) for s in drawing.sheets):
        return drawing
    sheets = [s.model_copy(update={"template": template.name}) for s in drawing.sheets]
    fields = {**template.fields, **drawing.fields}
    bare = template.model_copy(update={"fields": {}})
    return drawing.model_copy(update={"templates": [bare], "sheets": sheets, "fields": fields})


class Departure(Model):
    """Something in which a drawing is otherwise than the ways that it was given: ``what`` it is called, and in words."""

    what: str
    words: str


def departures(drawing: Drawing) -> list[Departure]:
    """All in which a drawing departs from the ways that it was given; none where it was given none."""
    return (
        [] if drawing.ways is None else [Departure(what=w, words=t) for w, t in _departures(drawing, drawing.ways.ways)]
    )


def _departures(drawing: Drawing, ways: Ways) -> Iterator[tuple[str, str]]:
    for name, said in (
        ("standard", "{} conventions"),
        ("angle", "{} angle"),
        ("unit", "units {}"),
        ("font", "lettering {}"),
    ):
        now, then = getattr(drawing, name), getattr(ways, name)
        if now != then:
            yield (
                name,
                f"{said.format(now)}, not {then}".capitalize()
                if name != "standard"
                else f"{said.format(now)}, not {then}",
            )
    for name, said in (("wide", "Wide lines"), ("lettering", "Lettering")):
        now, then = getattr(drawing, name), getattr(ways, name)
        if now != then:
            yield name, f"{said} {_mm(now)}, not {_mm(then)}"
    yield from _looks("sizes", drawing.style, ways.style, list(drawing.styles), list(ways.styles))
    yield from _looks("views", drawing.view_style, ways.view_style, list(drawing.view_styles), list(ways.view_styles))
    if drawing.letters_left_out != ways.letters_left_out:
        yield "letters", f"Letters without {drawing.letters_left_out or 'any'}, not {ways.letters_left_out or 'any'}"
    wanted = ways.template or ISO_7200
    for number, sheet in enumerate(drawing.sheets, 1):
        own = drawing.template_of(sheet)
        if own != wanted.model_copy(update={"fields": {}}):
            where = f" on sheet {number}" if len(drawing.sheets) > 1 else ""
            how = "was changed" if own.name == wanted.name else f"in place of {wanted.name or PLAIN}"
            yield "template", f"Title block {own.name or PLAIN} {how}{where}"
            break
    for field, then in ways.fields.items():
        now = drawing.fields.get(field, "")
        if now != then and then:
            label = LABELS.get(field, field.replace("_", " ").capitalize())
            yield f"field {field}", f"{label}: {now or 'empty'}, not {then}"[:200]
    known = set(notes_of(drawing))
    missing = [n for n in ways.notes if n not in known]
    if missing:
        yield (
            "notes",
            f"General note missing: {missing[0][:80]}" + (f", and {len(missing) - 1} more" if missing[1:] else ""),
        )


def _mm(figure: float | None) -> str:
    return "by the sheet's size" if figure is None else f"{figure:g} mm"


def _looks(
    of: str,
    now: str,
    then: str,
    own: list[DimensionStyle] | list[ViewStyle],
    wanted: list[DimensionStyle] | list[ViewStyle],
) -> Iterator[tuple[str, str]]:
    if now != then:
        yield f"look of {of}", f"Look of {of}: {now or 'the standard'}, not {then or 'the standard'}"
        return
    held = {s.name: s for s in own}
    changed = [s.name for s in wanted if held.get(s.name) != s]
    if changed:
        yield f"look of {of}", f"Look {changed[0]} of {of} {'was changed' if changed[0] in held else 'is missing'}"
