"""How things are called where a step of the history tells of them: views, annotations, and what was changed of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..annotations import AnyAnnotation
from ..annotations.dimension import Tolerance
from ..document import Drawing
from ..views import SectionView, View

LOOKS = {"corner": "pictorial view", "square": "auxiliary view", "detail": "detail"}
FIELDS = {
    "row": "set",
    "fit": "fit",
    "bare_zero": "zero",
    "on_paper": "angle on the paper",
    "leaves_out": "what is left out",
    "most": "rows of a piece",
}
"""Fields that are called otherwise than by their name."""
PLAIN = (str, int, float, bool, type(None))


def view_called(view: View | None) -> str:
    """A view in the middle of a sentence: the front view, section A–A, detail B."""
    if view is None:
        return "a view"
    if isinstance(view, SectionView):
        return f"section {view.letter}–{view.letter}" if view.letter else "the section"
    name = LOOKS.get(view.look, f"{view.look} view")
    return f"{name} {view.letter}" if view.letter else f"the {name}"


def place_called(drawing: Drawing, annotation: AnyAnnotation) -> str:
    """On which view an annotation hangs, be it by way of others; nothing of what stands on the sheet."""
    sheet = drawing.sheet_of(annotation.id)
    current: AnyAnnotation | None = annotation
    for _ in range(len(sheet.annotations) if sheet is not None else 0):
        if sheet is None or current is None:
            break
        view = sheet.view(current.on)
        if view is not None:
            return f" on {view_called(view)}"
        current = sheet.annotation(current.on)
    return ""


def changes_told(annotation: AnyAnnotation, changes: Mapping[str, Any]) -> str:
    """What plain fields of an annotation were and are: ``tolerance none → H7``; nothing where none of these changed."""
    said = []
    for field, value in changes.items():
        before = getattr(annotation, field, None)
        if field == "tolerance":
            was, now = (tolerance_told(Tolerance.model_validate(t)) for t in (before, value))
        elif isinstance(value, PLAIN) and isinstance(before, PLAIN):
            was, now = _plain(before), _plain(value)
        else:
            continue
        if was != now:
            said.append(f"{FIELDS.get(field, field.replace('_', ' '))} {was} → {now}")
    return ", ".join(said)


def tolerance_told(tolerance: Tolerance) -> str:
    """A tolerance in short."""
    if tolerance.kind in ("none", "fit"):
        return tolerance.fit or "none"
    if tolerance.kind == "symmetric":
        return f"±{tolerance.upper:g}"
    if tolerance.kind in ("minimum", "maximum"):
        return tolerance.kind
    return f"{tolerance.upper:+g}/{tolerance.lower:+g}"


def _plain(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    return str(value)[:40] if value not in ("", None) else "none"


def counted(nouns: list[str]) -> str:
    """Things by their nouns: a dimension; 3 dimensions and a note."""
    kinds = dict.fromkeys(nouns)
    told = [f"a {n}" if nouns.count(n) == 1 else f"{nouns.count(n)} {n}s" for n in kinds]
    return told[0] if len(told) == 1 else f"{', '.join(told[:-1])} and {told[-1]}"
