"""Another revision of a part in place of the one that a drawing shows: views, cuts, sizes and marks go along with it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import Any, Literal

import numpy as np

from ..bounds import Key
from ..drawing import Drawing, Operation
from ..drawing.operations import apply
from ..drawing.operations.revisions import TakeRevision as Taking
from ..errors import BadOperation
from ..features.flat_pattern import BENT
from ..part.matching import Choice, Matching, matching
from ..part.model import Array, Part
from ..sheet.elements import blank
from ..views.cutting_lines import frame_of
from .base import ActContext, AnyAct, Preview


class TakeRevision(AnyAct):
    """Show the part ``by`` where the drawing shows ``part``, as another revision of it: what has hung on an entity hangs on
    the one that it has become; what is gone is loose, and says so.

    ``whole``: where it is not certain whether all of the part only stands elsewhere in its new file, what to take for true.
    """

    act: Literal["take_revision"] = "take_revision"
    part: Key
    by: Key
    whole: Choice | None = None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        old, new = self._parts(drawing, acting)
        matched = _matched(old, new, self.whole)
        found, turn = matched.found, _turn(matched)
        # what is not found is called as nothing is in the revision, also where something else is called so there
        refs = {r: found[r].ref if r in found else _gone(r, new) for r in _used(drawing, old)}
        # the middle of a bend is called after its face
        for r in sorted(set(_strings(drawing.model_dump(mode="json")))):
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
        """In words: how much of what the drawing hangs on is there in the revision."""
        old, new = self._parts(drawing, acting)
        apply(drawing, self.plan(drawing, acting))
        matched = _matched(old, new, self.whole)
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
        return Preview(blank(drawing, drawing.front_sheet), (), words, ("moved", "stayed") if asked else ())

    def _parts(self, drawing: Drawing, acting: ActContext) -> tuple[Part, Part]:
        if drawing.part(self.part) is None:
            raise BadOperation("The part is gone", "The drawing does not show it any more.")
        if self.by == self.part:
            raise BadOperation("The drawing shows it already", "Choose another revision of the part.")
        acting.need_part(self.by)
        return acting.projections.part(self.part), acting.projections.part(self.by)


@lru_cache(maxsize=8)
def _matched(old: Part, new: Part, whole: Choice | None) -> Matching:
    return matching(old, new, whole)


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
    return sorted({r for r in _strings(drawing.model_dump(mode="json")) if r in part.index})


def _strings(value: Any) -> Iterator[str]:
    """All strings of a document."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for v in value.values():
            yield from _strings(v)
    elif isinstance(value, list):
        for v in value:
            yield from _strings(v)
