"""Adding and changing annotations, and removing whatever there is."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field

from ...bounds import MANY, Ref
from ...errors import BadOperation
from ..annotations import KINDS, Annotation
from ..document import Drawing
from .base import AnyOperation, changed, given, need_annotation, need_sheet, numbered, partial, without
from .telling import changes_told, counted, place_called, view_called

if TYPE_CHECKING:
    AnnotationChanges = Any
else:
    AnnotationChanges = partial("AnnotationChanges", KINDS)


class Annotate(AnyOperation):
    """Add annotations to a sheet."""

    op: Literal["annotate"] = "annotate"
    sheet: Ref
    annotations: Annotated[list[Annotation], Field(max_length=MANY)]

    def applied(self, drawing: Drawing) -> Drawing:
        sheet = need_sheet(drawing, self.sheet)
        known = {sheet.id} | {e.id for e in (*sheet.views, *sheet.annotations)}
        for annotation in self.annotations:
            if annotation.on not in known:
                raise BadOperation(
                    "The view is gone", f"{annotation.on} is not on this sheet any more; take another view."
                )
            known.add(annotation.id)
        drawing = numbered(drawing, [a.id for a in self.annotations])
        return drawing.with_sheet(sheet.model_copy(update={"annotations": [*sheet.annotations, *self.annotations]}))

    def words(self) -> str:
        n = len(self.annotations)
        return f"Add a {self.annotations[0].noun}" if n == 1 else f"Add {n} annotations"


WORDS = {
    "place": "Move a dimension",
    "frame": "Change a tolerance frame",
    "notes": "Change the general notes",
    "rows": "Change a table of values",
    "made": "Change a texture",
    "letter": "Call a datum otherwise",
    "filled": "Change a datum",
    "near": "Change a weld",
    "pilot": "Change a centre hole",
    "pitch": "Change a knurl",
    "more": "Change the leaders of a note",
    "text": "Change a note",
    "heading": "Change a note",
    "jogged": "Change a note",
    "seated": "Change a texture",
    "all_round": "Change a sign",
    "line": "Change a flag",
}
"""What a step is called, by the first of these fields that it changes."""
PLACES = {"foot", "angle", "offset", "shift", "at", "to"}


class ChangeAnnotation(AnyOperation):
    """Change an annotation."""

    op: Literal["change_annotation"] = "change_annotation"
    id: Ref
    changes: AnnotationChanges

    def applied(self, drawing: Drawing) -> Drawing:
        sheet, annotation = need_annotation(drawing, self.id)
        allowed = set(type(annotation).model_fields) - {"id", "kind", "on"}
        after = changed(annotation, given(self.changes), allowed, "annotation")
        kept = [after if a.id == self.id else a for a in sheet.annotations]
        return drawing.with_sheet(sheet.model_copy(update={"annotations": kept}))

    def words(self) -> str:
        changes = set(given(self.changes))
        if {"beyond", "arms"} & changes:
            return "Move the ends of a centre line"
        found = next((words for field, words in WORDS.items() if field in changes), None)
        if found is None and changes & PLACES:
            return "Move a sign"
        return found or "Change a dimension"

    def told(self, before: Drawing) -> str:
        own = next((a for s in before.sheets for a in s.annotations if a.id == self.id), None)
        if own is None:
            return self.words()
        changes = given(self.changes)
        details = changes_told(own, {k: v for k, v in changes.items() if k not in PLACES})
        base = self.words() if set(changes) & {*WORDS, *PLACES, "beyond", "arms"} else f"Change a {own.noun}"
        return f"{base}{place_called(before, own)}" + (f": {details}" if details else "")


class Remove(AnyOperation):
    """Remove views and annotations, with all that hangs on them."""

    op: Literal["remove"] = "remove"
    ids: list[Ref] = Field(min_length=1, max_length=MANY)

    def applied(self, drawing: Drawing) -> Drawing:
        held = {e.id for s in drawing.sheets for e in (*s.views, *s.annotations)}
        for element in self.ids:
            if element not in held:
                raise BadOperation("That is gone already", f"{element} is not in this drawing any more.")
        gone = drawing.hanging(set(self.ids))
        return drawing.model_copy(update={"sheets": [without(s, gone) for s in drawing.sheets]})

    def words(self) -> str:
        return "Remove" if len(self.ids) == 1 else f"Remove {len(self.ids)} elements"

    def told(self, before: Drawing) -> str:
        views = {v.id: view_called(v) for s in before.sheets for v in s.views}
        if len(self.ids) == 1 and self.ids[0] in views:
            return f"Remove {views[self.ids[0]]}"
        nouns = {a.id: a.noun for s in before.sheets for a in s.annotations}
        return f"Remove {counted([nouns.get(i, 'view') for i in self.ids])}"
