"""Another revision of a part in place of the one that a drawing shows: views, cuts, sizes and marks go along with it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any, Literal

from ..annotation.sheet_ink import blank
from ..bounds import Key
from ..drawing import Drawing, Operation
from ..drawing.operations import apply
from ..drawing.operations.revisions import TakeRevision as Taking
from ..errors import BadOperation
from ..part.matching import Match, matched
from ..part.model import Part
from ..views.cutting_lines import frame_of
from .base import AnyAct, Bench, Preview


class TakeRevision(AnyAct):
    """Show the part ``by`` where the drawing shows ``part``, as another revision of it: what has hung on an entity hangs on
    the one that it has become; what is gone is loose, and says so."""

    act: Literal["take_revision"] = "take_revision"
    part: Key
    by: Key

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        old, new = self._parts(drawing, bench)
        found = _matched(old, new)
        refs = {r: found[r].ref for r in _used(drawing, old) if r in found and found[r].ref != r}
        steps = {}
        for sheet in drawing.sheets:
            for own, scene in bench.studio.scenes(drawing, sheet).items():
                if scene.part == self.part:
                    one, two = (frame_of(p, scene.toward, scene.up) for p in (old, new))
                    gap = one.middle - two.middle
                    steps[own] = (float(gap @ one.right), float(gap @ one.up), float(gap @ one.toward))
        return Taking(part=self.part, by=self.by, refs=refs, steps=steps)

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        """In words: how much of what the drawing hangs on is there in the revision."""
        old, new = self._parts(drawing, bench)
        apply(drawing, self.plan(drawing, bench))
        found = _matched(old, new)
        used = _used(drawing, old)
        kept, gone = [r for r in used if r in found], [r for r in used if r not in found]
        changed = [r for r in kept if found[r].how not in ("unchanged", "same surface")]
        words = f"Of {len(used)} edges and faces that the drawing hangs on, {len(kept)} are there"
        words += f", {len(changed)} of them moved or resized" if changed else ""
        return Preview(
            blank(drawing.front_sheet),
            (),
            words + (f"; {len(gone)} {'is' if len(gone) == 1 else 'are'} gone" if gone else ""),
        )

    def _parts(self, drawing: Drawing, bench: Bench) -> tuple[Part, Part]:
        if drawing.part(self.part) is None:
            raise BadOperation("The part is gone", "The drawing does not show it any more.")
        if self.by == self.part:
            raise BadOperation("The drawing shows it already", "Choose another revision of the part.")
        bench.need_part(self.by)
        return bench.studio.part(self.part), bench.studio.part(self.by)


@lru_cache(maxsize=8)
def _matched(old: Part, new: Part) -> dict[str, Match]:
    return matched(old, new)


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
