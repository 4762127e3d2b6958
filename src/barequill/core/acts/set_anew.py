"""Signs and notes that were copied, or kept under a name, set down in another place: also of another drawing."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ..bounds import FEW, Ref
from ..drawing import Annotation, AnyAnnotation, Dimension, Drawing, Operation, Sheet
from ..drawing.annotations.datum_feature import DatumFeature
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.annotations.hung import AnyHung
from ..drawing.annotations.note_flag import NoteFlag
from ..drawing.operations import Annotate, apply, need_sheet
from ..errors import UserError
from ..features.holes import hole_at
from ..measuring.inference import infer, placed
from ..measuring.picking import Pick, anchor_for
from .base import ActContext, Preview, annotation_shown
from .hanging import AnyHanging
from .pull_dimension import PickJson
from .state_datum import free_letter

BETWEEN = ("measure", "anchors", "direction", "along", "place", "half", "on_paper")
"""Fields of a size between two places that follow from these places, and from where it is set down."""


class SetAnew(AnyHanging):
    """Annotations set on geometry or on a size, or, those that stand free, at the pointer of a ``sheet``; a size of two places
    between two ``picks``. What is stacked under one goes with it; datums get the next free letters."""

    act: Literal["set_anew"] = "set_anew"
    sheet: Ref = ""
    picks: Annotated[list[PickJson], Field(max_length=2)] = []
    annotations: Annotated[list[Annotation], Field(min_length=1, max_length=FEW)]

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, made = self._set(drawing, acting)
        return Annotate(sheet=sheet.id, annotations=made)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, made = self._set(drawing, acting)
        after = apply(drawing, Annotate(sheet=sheet.id, annotations=made))
        sheet = need_sheet(after, sheet.id)
        first = annotation_shown(after, acting, sheet, made[0])
        elements = [e for own in made for e in annotation_shown(after, acting, sheet, own).elements]
        return Preview(first.ink, tuple(elements), f"{len(made)} signs" if len(made) > 1 else first.words)

    def _set(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, list[AnyAnnotation]]:
        names = {a.id for a in self.annotations}
        roots = [a for a in self.annotations if a.on not in names]
        hung = [a for a in roots if _hangs(a)]
        free = [a for a in roots if a not in hung and hasattr(a, "at")]
        others = [a for a in roots if a not in hung and a not in free]
        if others:
            raise UserError(f"A {others[0].noun} is not set anew", "Make one where it is wanted.")
        if len(hung) > 1:
            raise UserError(
                "Several at once have no one place", "Set them one by one: choose one, with what is stacked under it."
            )
        ids = iter(drawing.fresh(len(self.annotations)))
        called: dict[str, str] = {}
        made: list[AnyAnnotation] = []
        sheet = drawing.sheet_of(self.on or self.view) if hung else None
        if hung:
            sheet, fields = self._seated(drawing, acting, hung[0])
            made.append(self._placed(drawing, hung[0], fields, next(ids), called))
        if free:
            sheet = sheet or need_sheet(drawing, self.sheet)
            x0, y0 = _at(free[0])
            for a in free:
                x, y = _at(a)
                place = (self.pointer[0] + x - x0, self.pointer[1] + y - y0)
                made.append(self._placed(drawing, a, {"on": sheet.id, "at": place}, next(ids), called))
        assert sheet is not None
        waiting = [a for a in self.annotations if a.on in names]
        while waiting:
            ready = [a for a in waiting if a.on in called]
            if not ready:
                break
            for a in ready:
                taken = drawing.letters() | {x for m in made for x in m.letters}
                made.append(self._placed(drawing, a, {"on": called[a.on]}, next(ids), called, taken))
            waiting = [a for a in waiting if a not in ready]
        return sheet, made

    def _seated(self, drawing: Drawing, acting: ActContext, own: AnyAnnotation) -> tuple[Sheet, dict[str, Any]]:
        """The sheet, and the fields that tell where one hangs anew: a size of one edge or round measures what is pointed at."""
        if isinstance(own, AnyHung):
            sheet, _, fields, _ = self.on_sheet(drawing, acting)
            return sheet, {"foot": None, **fields}
        found = drawing.sheet_of(self.view)
        if found is not None and isinstance(own, Dimension) and len(own.anchors) > 1:
            return found, self._between(drawing, acting, found, own)
        if found is None or not self.ref:
            raise UserError("It measures an edge", "Point at one, straight or round as the other was.")
        context, (x, y) = acting.context(drawing, found, self.view)
        if isinstance(own, HoleNote):
            part = context.view.projected.whole
            hole = hole_at(part, self.ref)
            if hole is None:
                raise UserError("That is no hole", "Point at the circle or the sides of a bore.")
            return found, {"on": self.view, "ref": part.faces[hole.faces[0]].ref}
        assert isinstance(own, Dimension)
        anchor = anchor_for(context.view, Pick(self.ref, self.at[0] - x, self.at[1] - y))
        new = own.model_copy(update={"on": self.view, "anchors": [anchor], "row": None, "extensions": []})
        new = placed(context, new, (self.pointer[0] - x, self.pointer[1] - y))
        return found, {"on": self.view, "anchors": [anchor], "row": None, "extensions": [], "place": new.place}

    def _between(self, drawing: Drawing, acting: ActContext, sheet: Sheet, own: Dimension) -> dict[str, Any]:
        """The fields that tell where a size of two places hangs anew: it measures what it did, between others."""
        if len(self.picks) < 2:
            raise UserError("It measures between two places", "Point at the first, then at the second.")
        context, (x, y) = acting.context(drawing, sheet, self.view)
        picks = [Pick(p.ref, p.x - x, p.y - y, p.at) for p in self.picks]
        wish = own.direction if own.measure == "distance" else own.measure
        made = infer(context, picks, (self.pointer[0] - x, self.pointer[1] - y), own.id, wish)
        if made.measure != own.measure:
            raise UserError(
                "Between these places lies another kind of size",
                f"They have: {made.measure}. Wanted: {own.measure}; point at two places as those of the other were.",
            )
        return {"on": self.view, "row": None, "extensions": []} | {name: getattr(made, name) for name in BETWEEN}

    def _placed(
        self,
        drawing: Drawing,
        own: AnyAnnotation,
        fields: dict[str, Any],
        new: str,
        called: dict[str, str],
        taken: set[str] | None = None,
    ) -> AnyAnnotation:
        called[own.id] = new
        if isinstance(own, DatumFeature):
            fields = fields | {"letter": free_letter(drawing, "", also=taken or set())}
        if isinstance(own, NoteFlag) and drawing.sheet_of(own.block) is None:
            raise UserError(
                "Its note is not on this drawing", "Set the block of notes first, then flags for its lines."
            )
        return own.model_copy(update={"id": new, **fields})


def _hangs(own: AnyAnnotation) -> bool:
    """True for what is set on one edge, face or size."""
    if isinstance(own, AnyHung):
        return own.foot is not None or not hasattr(own, "at")
    return isinstance(own, (HoleNote, Dimension))


def _at(own: AnyAnnotation) -> tuple[float, float]:
    x, y = own.at  # type: ignore[attr-defined]
    return float(x), float(y)
