"""What a note says: figures of the part and the sheet put in where they are named, so that they stay true.

``{Ø}``, ``{depth}``, ``{count}``, ``{thread}`` of the hole that the note is led to; ``{size e12}`` a size of the sheet by its id;
``{bend}`` and ``{bend_number}`` of the bend line that it is led to on a flat pattern; ``{title}`` and the like a field of the title block.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ...display.lettering import text_width
from ...drawing.annotations.text_note import TextNote
from ...drawing.title_fields import COMPUTED, LABELS, field_values
from ...features.holes import Hole, hole_at, like
from ...measuring.context import LayoutContext
from ...measuring.threads import thread_of
from ...measuring.wording import written
from .hanging import bends_shown

NAMED = re.compile(r"\{([^{}\n]{1,40})\}")
OF_HOLE = {"Ø": "Ø", "dia": "Ø", "diameter": "Ø", "depth": "depth", "↧": "depth", "count": "count", "thread": "thread"}
LOST = "?"


@dataclass(frozen=True)
class Said:
    """A note as it reads, and what of it is ``lost``: named, and not there."""

    text: str
    lost: tuple[str, ...]


def said(context: LayoutContext, note: TextNote) -> Said:
    """What a note says."""
    lost: list[str] = []

    def put(m: re.Match[str]) -> str:
        found = _figure(context, note, m[1].strip())
        if found is None:
            lost.append(m[1].strip())
            return f"{LOST}{m[1].strip()}{LOST}"
        return found

    return Said(NAMED.sub(put, note.text), tuple(lost))


def _figure(context: LayoutContext, note: TextNote, name: str) -> str | None:
    if name in OF_HOLE:
        return _of_hole(context, note, OF_HOLE[name])
    if name.startswith("size "):
        return context.says(name[5:].strip())
    if name in ("bend", "bend_number"):
        return _of_bend(context, note, name)
    if name in LABELS or name in COMPUTED or context.drawing.template_of(context.sheet).showing(name):
        return field_values(context.drawing, context.sheet, None).get(name) or None
    return None


def _of_hole(context: LayoutContext, note: TextNote, what: str) -> str | None:
    if note.foot is None or context.placed_view is None:
        return None
    projected = context.view.projected
    hole = hole_at(projected.whole, note.foot.ref)
    if hole is None:
        return None
    return _says(context, hole, what)


def _of_bend(context: LayoutContext, note: TextNote, name: str) -> str | None:
    """How it is bent along the line that a note is led to: ``UP 90° R3``; or the number of that line in the table of bends."""
    if note.foot is None or context.placed_view is None:
        return None
    ref = note.foot.ref
    bend = next((b for b in context.view.projected.whole.bends if b.ref == ref), None)
    if bend is None:
        return None
    if name == "bend_number":
        return next(str(k) for k, b in enumerate(bends_shown(context.view.projected), 1) if b.bend.ref == ref)
    drawing = context.drawing
    radius = written(bend.radius, None, drawing.unit, False, drawing.standard, context.style.own)
    return f"{'UP' if bend.up else 'DOWN'} {round(bend.angle, 2):g}° R{radius}"


def _says(context: LayoutContext, hole: Hole, what: str) -> str | None:
    drawing, own = context.drawing, context.style.own
    part = context.view.projected.whole
    if what == "count":
        return str(len(like(part, hole)))
    if what == "thread":
        thread = thread_of(drawing, context.view.view.part, part, hole.faces)
        return None if thread is None else thread.size
    if what == "depth":
        if hole.depth is None:
            return None
        return f"↧ {written(hole.depth, None, drawing.unit, False, drawing.standard, own)}"
    return f"Ø{written(hole.bore.diameter, None, drawing.unit, False, drawing.standard, own)}"


def wrapped(text: str, height: float, width: float) -> list[str]:
    """A text in lines, broken at blanks where they would be wider than a width (mm; 0: nowhere)."""
    found: list[str] = []
    for line in text.split("\n"):
        words = line.split(" ")
        current = words[0]
        for word in words[1:]:
            if width > 0 and text_width(f"{current} {word}", height) > width:
                found.append(current)
                current = word
            else:
                current = f"{current} {word}"
        found.append(current)
    return found
