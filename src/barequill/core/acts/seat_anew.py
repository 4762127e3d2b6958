"""What is loose seated anew: on a face, edge or corner that is pointed at, or on one of the likely places."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from ..bounds import Ref
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.operations import ChangeAnnotation, Group, apply, need_annotation
from ..drawing.operations.revisions import renamed, strings
from ..drawing.operations.telling import place_called
from ..errors import BadOperation, UserError
from ..kinds import solve
from ..kinds.common.solving import Solved
from ..measuring.context import root_view
from ..part.likely import PLACES, Likely, likely_places
from ..part.model import Part
from .base import ActContext, AnyAct, Preview, annotation_shown

ALIKE = 0.01
"""mm within which two things that are loose have gone the same way."""
MOST = 2000
"""Things that are loose that are listed."""
LARGEST = 12
"""References that are gone from one thing for which places are named; of more, all are pointed at."""
SUGGESTED = 40
"""For so many of them places are named at once: the next when these are seated."""


@dataclass(frozen=True)
class Seat:
    """A place where something that is loose may hang: by reference that is gone what it would be; ``words``: what speaks for it."""

    refs: dict[str, str]
    words: str


@dataclass(frozen=True)
class Adrift:
    """Something that is loose: its id, sheet, what it said, which references are gone, and up to three places, the likeliest first."""

    id: str
    sheet: str
    words: str
    gone: tuple[str, ...]
    seats: tuple[Seat, ...]


class SeatAnew(AnyAct):
    """Hang annotation ``id`` on others in place of the references that are gone (``refs``): what it says beside its figure, its
    tolerance, style and place stay, and what has hung on the same goes along. ``alike``: all else that is loose and for which the
    same step leads to one place is seated there too."""

    act: Literal["seat_anew"] = "seat_anew"
    id: Ref
    refs: Annotated[dict[Ref, Ref], Field(min_length=1, max_length=20)]
    alike: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        own_sheet, own = need_annotation(drawing, self.id)
        refs = _meant(drawing, acting, own_sheet, own, self.refs)
        if self.alike:
            refs = _as_far(drawing, acting, own_sheet, own, refs) | refs
        changes: list[ChangeAnnotation] = []
        for sheet in drawing.sheets:
            for annotation in sheet.annotations:
                if any(r in refs for r in _gone(drawing, acting, sheet, annotation)):
                    changes.append(ChangeAnnotation(id=annotation.id, changes=_renamed(annotation, refs)))
        if not any(c.id == self.id for c in changes):
            raise BadOperation("It is not loose", "What it hangs on is there; drag it, or make another.")
        label = f"Seat anew{place_called(drawing, own)}" + (
            f", and {len(changes) - 1} more" if len(changes) > 1 else ""
        )
        operation = Group(label=label, operations=[*changes])
        after = apply(drawing, operation)
        found = _solved(after, acting, self.id)
        if found.loose and need_annotation(after, self.id)[1].was is None:
            raise UserError("It cannot hang there", found.words.removeprefix("? ") or "Point at another place.")
        return operation

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        after = apply(drawing, self.plan(drawing, acting))
        sheet, own = need_annotation(after, self.id)
        return annotation_shown(after, acting, sheet, own)


def adrift(drawing: Drawing, acting: ActContext) -> list[Adrift]:
    """All of a drawing that is loose since its part changed, with the places where it may hang."""
    found: list[Adrift] = []
    for sheet in drawing.sheets:
        for own in sheet.annotations:
            gone = _gone(drawing, acting, sheet, own)
            if gone and len(found) < MOST:
                words = own.was.words if own.was is not None else ""
                found.append(
                    Adrift(
                        own.id,
                        sheet.id,
                        words or own.noun,
                        tuple(gone),
                        tuple(_seats(drawing, acting, sheet, own, gone)) if len(found) < SUGGESTED else (),
                    )
                )
    return found


def _seats(drawing: Drawing, acting: ActContext, sheet: Sheet, own: AnyAnnotation, gone: list[str]) -> Iterator[Seat]:
    """The likeliest places, of all references that are gone at once; only such at which it can be drawn."""
    each = [] if len(gone) > LARGEST else [_likely(drawing, acting, sheet, own, ref) for ref in gone]
    if not each or not all(each):
        return
    given = 0
    for ways in _several(each):
        refs = {ref: way.ref for ref, way in zip(gone, ways, strict=True)}
        if len(set(refs.values())) < len(refs):
            continue
        try:
            seated = apply(drawing, ChangeAnnotation(id=own.id, changes=_renamed(own, refs)))
        except UserError:
            continue
        if _solved(seated, acting, own.id).loose:
            continue
        yield Seat(refs, "; ".join(dict.fromkeys(w.words for w in ways)))
        given += 1
        if given == PLACES:
            return


def _several(each: Sequence[Sequence[Likely]]) -> list[tuple[Likely, ...]]:
    """The likeliest of what several references may be together; of many, the best of each with one or none other than that."""
    if len(each) <= 3:
        ways = list(itertools.product(*each))
    else:
        best = tuple(places[0] for places in each)
        ways = [best] + [(*best[:k], p, *best[k + 1 :]) for k, places in enumerate(each) for p in places[1:]]
    return sorted(ways, key=lambda way: -sum(p.weight for p in way))[: 3 * PLACES]


def _likely(drawing: Drawing, acting: ActContext, sheet: Sheet, own: AnyAnnotation, ref: str) -> Sequence[Likely]:
    now, before = _part(drawing, acting, sheet, own), _before(acting, own)
    if own.was is None or now is None or before is None:
        return ()
    return likely_places(before, now, own.was.refs.get(ref, ref))


def _as_far(
    drawing: Drawing, acting: ActContext, own_sheet: Sheet, own: AnyAnnotation, refs: dict[str, str]
) -> dict[str, str]:
    """What else is gone, and is where the same step leads from where it was, grown in the same way."""
    ways = {
        (w.step, w.ratio) for r, to in refs.items() for w in _likely(drawing, acting, own_sheet, own, r) if w.ref == to
    }
    found: dict[str, str] = {}
    for sheet in drawing.sheets:
        for other in sheet.annotations:
            for ref in _gone(drawing, acting, sheet, other):
                if ref in refs or ref in found:
                    continue
                fits = [
                    w.ref
                    for w in _likely(drawing, acting, sheet, other, ref)
                    if any(
                        max(abs(a - b) for a, b in zip(w.step, step, strict=True)) <= ALIKE
                        and abs(w.ratio - ratio) <= 1e-6
                        for step, ratio in ways
                    )
                ]
                if len(fits) == 1 and fits[0] not in {*refs.values(), *found.values()}:
                    found[ref] = fits[0]
    return found


def _meant(
    drawing: Drawing, acting: ActContext, sheet: Sheet, own: AnyAnnotation, refs: dict[str, str]
) -> dict[str, str]:
    """References that are pointed at, as the entities that are wanted: the wall of a hole for its rim, and the other way round."""
    now, before = _part(drawing, acting, sheet, own), _before(acting, own)
    found = dict(refs)
    if now is None:
        return found
    for gone, ref in refs.items():
        given = now.find(ref)
        if given is None:
            raise BadOperation("That is not there", "Point at an edge or face of the part as it is now.")
        first = own.was.refs.get(gone, gone) if own.was is not None else gone
        wanted = before.find(first) if before is not None else None
        if before is None or wanted is None or wanted[0] == given[0]:
            continue
        if wanted[0] == "face" and given[0] == "edge":
            form = before.faces[wanted[1]].surface.kind
            beside = [now.faces[f] for f in now.edges[given[1]].faces]
            fits = [f.ref for f in beside if f.surface.kind == form] or [f.ref for f in beside]
        elif wanted[0] == "edge" and given[0] == "face":
            curve = before.edges[wanted[1]].curve
            about = [now.edges[e] for e in now.faces[given[1]].boundary]
            fits = [e.ref for e in about if e.curve.kind == curve.kind and e.curve.full_turn == curve.full_turn]
        else:
            fits = []
        if not fits:
            raise UserError("It cannot hang there", f"It hung on a {wanted[0]}: point at one.")
        found[gone] = fits[0]
    return found


def _before(acting: ActContext, own: AnyAnnotation) -> Part | None:
    """The revision in which something was whole; None where that is not kept any more."""
    if own.was is None:
        return None
    try:
        acting.need_part(own.was.part)
        return acting.projections.part(own.was.part)
    except UserError:
        return None


def _solved(drawing: Drawing, acting: ActContext, own: str) -> Solved:
    sheet, annotation = need_annotation(drawing, own)
    root = root_view(sheet, annotation)
    if root is None:
        return solve(annotation, acting.sheet_stage(drawing, sheet))
    context, _ = acting.context(drawing, sheet, root)
    return solve(annotation, context)


def _part(drawing: Drawing, acting: ActContext, sheet: Sheet, own: AnyAnnotation) -> Part | None:
    """The part of the view on which something hangs."""
    root = root_view(sheet, own)
    view = sheet.view(root) if root is not None else None
    return None if view is None or not view.part else acting.projections.part(view.part)


def _gone(drawing: Drawing, acting: ActContext, sheet: Sheet, own: AnyAnnotation) -> list[str]:
    """The references of an annotation that its part does not hold any more, as far as it is known what they were."""
    if own.was is None:
        return []
    part = _part(drawing, acting, sheet, own)
    named = set(strings(own.model_dump(mode="json")))
    return [] if part is None else [r for r in own.was.refs if r in named and part.find(r) is None]


def _renamed(own: AnyAnnotation, refs: dict[str, str]) -> dict[str, Any]:
    """What of an annotation changes where references are called anew; what then hangs on all again forgets what it was."""

    fields = own.model_dump(mode="json", exclude={"id", "kind", "on", "was"})
    changes = {k: new for k, v in fields.items() if (new := renamed(v, refs)) != v}
    assert own.was is not None
    left = {r: before for r, before in own.was.refs.items() if r not in refs}
    return changes | {"was": own.was.model_dump(mode="json") | {"refs": left} if left else None}
