"""Another revision of a part in place of the one that a drawing shows: views, cuts, sizes and marks go along with it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import suppress
from typing import Literal

import numpy as np

from ..arranging.spreading import shifted, spread
from ..arranging.standing import standing_remarks
from ..bounds import Key, Ref
from ..display import DisplayList, Element
from ..drawing import AnyAnnotation, CentreLine, CentreMark, Drawing, Operation
from ..drawing.operations import Annotate, ChangeAnnotation, Group, MoveView, apply, need_sheet, need_view
from ..drawing.operations.revisions import TakeRevision as Taking
from ..drawing.operations.revisions import strings
from ..drawing.operations.telling import place_called
from ..errors import BadOperation, UserError
from ..features.flat_pattern import BENT
from ..kinds.common.solving import Solved
from ..measuring.context import root_view
from ..part.matching import Choice, Matching, matching
from ..part.model import Array, Part
from ..sheet.elements import blank, solved
from ..sheet.stages import draw_sheet
from ..views.cutting_lines import frame_of
from .base import ActContext, AnyAct, Preview
from .centres import centres_plan
from .make_room import MakeRoom

OUTGROWN = 1.0
"""mm on the sheet by which a view may grow and still count as in its place."""


class TakeRevision(AnyAct):
    """Show the part ``by`` where the drawing shows ``part``, as another revision of it: what has hung on an entity hangs on
    the one that it has become; what is gone is loose, and says so.

    ``whole``: where it is not certain whether all of the part only stands elsewhere in its new file, what to take for true.
    New holes, bosses and shafts get their marks in views that have marks, and views that outgrew their place are moved apart.
    ``sheet``: the one that is looked at, of which a preview shows what changes.
    """

    act: Literal["take_revision"] = "take_revision"
    part: Key
    by: Key
    whole: Choice | None = None
    sheet: Ref = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        taking = self._taking(drawing, acting)
        after = apply(drawing, taking)
        more = list(self._remains(drawing, taking, acting))
        for operation in more:
            after = apply(after, operation)
        for operation in self._marks(drawing, after, acting):
            after = apply(after, operation)
            more.append(operation)
        more += self._room(drawing, after, acting)
        return Group(label=taking.words(), operations=[taking, *more]) if more else taking

    def _remains(self, drawing: Drawing, taking: Taking, acting: ActContext) -> Iterator[Operation]:
        """What is to be remembered of annotations that come loose, and forgotten of those that hang on all of theirs again."""
        old, new = self._parts(drawing, acting)
        for sheet in drawing.sheets:
            own = {v.id for v in sheet.views if v.part == self.part}
            shown: dict[str, tuple[Solved, tuple[float, float]]] = {}
            for annotation in sheet.annotations:
                if root_view(sheet, annotation) not in own:
                    continue
                was = annotation.was
                before = {r: r for r in strings(annotation.model_dump(mode="json")) if r in old.index}
                before |= was.refs if was is not None else {}
                gone = {taking.refs.get(r, r): first for r, first in before.items()}
                gone = {r: first for r, first in gone.items() if new.find(r) is None}
                if not gone and was is not None:
                    yield ChangeAnnotation(id=annotation.id, changes={"was": None})
                elif gone and was is None:
                    shown = shown or solved(drawing, sheet, acting.projections)
                    found, _ = shown[annotation.id]
                    if not found.loose:
                        x, y = _stood(found)
                        remains = {"part": self.part, "words": found.words[:500], "at": (x, y), "refs": gone}
                        yield ChangeAnnotation(id=annotation.id, changes={"was": remains})
                elif gone and was is not None and gone != was.refs:
                    yield ChangeAnnotation(id=annotation.id, changes={"was": {"refs": gone}})

    def _marks(self, drawing: Drawing, after: Drawing, acting: ActContext) -> Iterator[Operation]:
        """Marks and lines for what is new, in views that had some."""
        old, new = self._parts(drawing, acting)
        matched = matching(old, new, self.whole).found
        known = {m.ref for m in matched.values()}
        for sheet in drawing.sheets:
            marks = [a for a in sheet.annotations if isinstance(a, CentreMark | CentreLine)]
            for view in sheet.views:
                own = [a for a in marks if a.on == view.id]
                if view.part != self.part or not own:
                    continue
                # what looks as one that is loose now may be that: it waits for a hand
                loose = {_radius(old, r) for a in own for r in _refs(a) if r not in matched}
                plan = centres_plan(acting.projections, after, view.id)
                possible = plan.annotations if isinstance(plan, Annotate) else []
                fresh = [
                    a for a in possible if not known & set(_refs(a)) and not loose & {_radius(new, r) for r in _refs(a)}
                ]
                if fresh:
                    operation = Annotate(
                        sheet=sheet.id,
                        annotations=[
                            a.model_copy(update={"id": i}) for a, i in zip(fresh, after.fresh(len(fresh)), strict=True)
                        ],
                    )
                    after = apply(after, operation)
                    yield operation

    def _room(self, drawing: Drawing, after: Drawing, acting: ActContext) -> Iterator[Operation]:
        """What moves views apart on sheets on which they outgrew their place, with all that is written beside them."""
        for sheet in drawing.sheets:
            own = [v.id for v in sheet.views if v.part == self.part]
            if not own or not any(_outgrown(drawing, after, acting, v) for v in own):
                continue
            if _crowded(after, acting, sheet.id) <= _crowded(drawing, acting, sheet.id):
                continue
            # where there is no room for all, single ones may have some; else the check says so, and what to do
            for arranged in (spread, shifted):
                now = need_sheet(after, sheet.id)
                try:
                    places = arranged(after, now, _drawn(after, acting, sheet.id))
                except UserError:
                    continue
                moves = [MoveView(view=v.id, to=places[v.id]) for v in now.views if v.id in places]
                tried = after
                for operation in moves:
                    tried = apply(tried, operation)
                if moves and len(_crowded(tried, acting, sheet.id)) < len(_crowded(after, acting, sheet.id)):
                    after = tried
                    yield from moves
            if _crowded(after, acting, sheet.id):
                with suppress(UserError):
                    yield MakeRoom(sheet=sheet.id).plan(after, acting)

    def _taking(self, drawing: Drawing, acting: ActContext) -> Taking:
        old, new = self._parts(drawing, acting)
        matched = matching(old, new, self.whole)
        found, turn = matched.found, _turn(matched)
        # what is not found is called as nothing is in the revision, also where something else is called so there
        refs = {r: found[r].ref if r in found else _gone(r, new) for r in _used(drawing, old)}
        # the middle of a bend is called after its face
        for r in sorted(set(strings(drawing.model_dump(mode="json")))):
            face, bend, rest = r.partition(BENT)
            if bend and face in old.index:
                refs[r] = (found[face].ref if face in found else _gone(face, new)) + bend + rest
        refs = {r: to for r, to in refs.items() if to != r}
        steps = {}
        for sheet in drawing.sheets:
            for own, scene in acting.projections.scenes(drawing, sheet).items():
                if scene.part == self.part:
                    one = frame_of(old, scene.toward, scene.up)
                    two = frame_of(new, _turned(turn, scene.toward), _turned(turn, scene.up))
                    gap = matched.motion.places(one.middle) - two.middle
                    steps[own] = (float(gap @ two.right), float(gap @ two.up), float(gap @ two.toward))
        rows = None if turn is None else tuple(float(x) for x in turn.ravel())
        return Taking(part=self.part, by=self.by, refs=refs, steps=steps, turn=rows, scale=matched.motion.scale)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        """In words how much of what the drawing hangs on is there in the revision, what changes on its sheets, and how the sheet that is
        looked at would be where it changes."""
        old, new = self._parts(drawing, acting)
        after = apply(drawing, self.plan(drawing, acting))
        matched = matching(old, new, self.whole)
        found, used = matched.found, _used(drawing, old)
        kept, gone = [r for r in used if r in found], [r for r in used if r not in found]
        changed = [r for r in kept if found[r].how not in ("unchanged", "same surface")]
        words = f"Of {len(used)} edges and faces that the drawing hangs on, {len(kept)} are there"
        words += f", {len(changed)} of them moved or resized" if changed else ""
        words += f"; {len(gone)} {'is' if len(gone) == 1 else 'are'} gone" if gone else ""
        if not matched.sure and matched.other is not None:
            words += f". The whole part may have been {matched.other.words()} in its file: say whether it was"
        elif not matched.motion.stands:
            words += f". The whole part was {matched.motion.words()} in its file"
            words += "; the views look at it as before" if _turn(matched) is not None else ""
        asked = matched.other is not None or not matched.motion.stands
        others = ("moved", "stayed") if asked else ()
        sheet = drawing.sheet(self.sheet) or drawing.front_sheet
        elements = _changed_ink(drawing, after, acting, sheet.id) if self.sheet else ()
        return Preview(blank(drawing, sheet), elements, words, others, changes=_what_changes(drawing, after, acting))

    def _parts(self, drawing: Drawing, acting: ActContext) -> tuple[Part, Part]:
        if drawing.part(self.part) is None:
            raise BadOperation("The part is gone", "The drawing does not show it any more.")
        if self.by == self.part:
            raise BadOperation("The drawing shows it already", "Choose another revision of the part.")
        acting.need_part(self.by)
        return acting.projections.part(self.part), acting.projections.part(self.by)


def _stood(found: Solved) -> tuple[float, float]:
    """Where an annotation says what it says, sheet mm from the place of its view."""
    run = getattr(found, "run", None)
    place = run.foot if run is not None else found.occupies().mean(axis=0)
    return round(float(place[0]), 2), round(float(place[1]), 2)


def _refs(annotation: AnyAnnotation) -> list[str]:
    """The references on which a centre mark or line hangs."""
    return [annotation.ref] if isinstance(annotation, CentreMark) else list(getattr(annotation, "refs", ()))


def _radius(part: Part, ref: str) -> float | None:
    """The radius (mm, rounded) of a round edge or face; None of what is not round, or gone."""
    kind, row = part.find(ref) or ("", 0)
    curve = part.edges[row].curve if kind == "edge" else None
    if curve is not None and curve.is_circle and curve.x is not None:
        return round(float(np.linalg.norm(curve.x)), 6)
    return round(part.faces[row].surface.radius, 6) if kind == "face" else None


def _drawn(drawing: Drawing, acting: ActContext, sheet: str) -> DisplayList:
    return draw_sheet(drawing, need_sheet(drawing, sheet), acting.projections, acting.display_cache)


def _crowded(drawing: Drawing, acting: ActContext, sheet: str) -> set[str]:
    """The ids of what lies on something, or reaches over the frame of a sheet."""
    own = need_sheet(drawing, sheet)
    placed_views = acting.projections.placed_views(drawing, own)
    return {r.on for r in standing_remarks(drawing, own, _drawn(drawing, acting, sheet), placed_views)}


def _outgrown(drawing: Drawing, after: Drawing, acting: ActContext, view: str) -> bool:
    """True where a view reaches farther on its sheet than it did."""
    boxes = []
    for own in (drawing, after):
        sheet, shown = need_view(own, view)
        scale = sheet.scale_of(shown)
        box = acting.projections.extent(acting.projections.scenes(own, sheet)[view])
        boxes.append([scale * x for x in (-box.x0, -box.y0, box.x1, box.y1)])
    return any(b > a + OUTGROWN for a, b in zip(*boxes, strict=True))


def _changed_ink(drawing: Drawing, after: Drawing, acting: ActContext, sheet: str) -> tuple[Element, ...]:
    """The elements of a sheet that would be others, or stand elsewhere."""
    known = {e.id: e for e in _drawn(drawing, acting, sheet).elements}
    now = _drawn(after, acting, sheet)
    return tuple(e for e in now.elements if e.kind != "sheet" and not (e.id in known and known[e.id].like(e)))


def _what_changes(drawing: Drawing, after: Drawing, acting: ActContext) -> tuple[str, ...]:
    """What the sizes, notes and signs of the drawing would say that they do not say now, and which would be loose."""
    found = []
    for sheet in after.sheets:
        was, now = (solved(d, need_sheet(d, sheet.id), acting.projections) for d in (drawing, after))
        for annotation in sheet.annotations:
            own, where = now[annotation.id][0], place_called(after, annotation)
            if annotation.id not in was:
                found.append(f"new: {annotation.noun}{where}")
                continue
            before = was[annotation.id][0]
            if own.loose and not before.loose:
                found.append(f"loose: {before.words or annotation.noun}{where}")
            elif own.words != before.words and annotation.lettered:
                found.append(f"{before.words} → {own.words}{where}")
    counted = Counter(found)
    return tuple(f"{n} × {line}" if n > 1 else line for line, n in counted.items())


def _turn(matched: Matching) -> Array | None:
    """The turn (3, 3) that the views make with a part that was turned in its file."""
    motion = matched.motion
    return motion.turn if matched.sure and motion.turns and not motion.mirrors else None


def _turned(turn: Array | None, direction: Sequence[float]) -> tuple[float, float, float]:
    x, y, z = direction if turn is None else (turn @ np.asarray(direction, float)).tolist()
    return (float(x), float(y), float(z))


def _gone(ref: str, new: Part) -> str:
    """A reference that nothing in the new part has: its own, or where that is of something else there, one made of it."""
    return ref if new.find(ref) is None else f"{ref}.gone"


def _used(drawing: Drawing, part: Part) -> list[str]:
    """The references of a part that a drawing hangs on."""
    return sorted({r for r in strings(drawing.model_dump(mode="json")) if r in part.index})
