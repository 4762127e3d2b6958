"""Notes of holes: measured from the part, line by line, on a leader to the hole."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing import Dimension
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.threads import Thread
from ..errors import Unmeasurable
from ..features.holes import Hole, hole_at, like
from ..features.patterns import ring_of
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..measuring.threads import thread_of
from ..measuring.wording import Lettering, in_other_unit, letter, ways_of, written
from ..values import value
from .common.loose import Loose
from .common.solving import Array, Run, Solved, Under, draw_arrow, draw_line, under_runs, way_at

APART = 1.5
"""Lettering heights from line to line."""


@value
class SolvedNote(Solved):
    """A leader from ``tip`` to ``elbow``, the line under the first line of lettering to ``end``, and all its lines."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    tip: Array
    elbow: Array
    end: Array
    runs: tuple[Run, ...]

    def occupies(self) -> Array:
        return np.concatenate([np.array([self.tip, self.elbow, self.end]), *(r.corners() for r in self.runs)])

    def under(self) -> Under:
        return under_runs(self.runs)

    def draw(self, sketch: Sketch) -> None:
        way = self.tip - self.elbow
        length = float(np.linalg.norm(way))
        if length > 1e-6:
            draw_arrow(sketch, self.style, self.tip, way / length)
            draw_line(sketch, self.elbow, self.tip)
        draw_line(sketch, self.elbow, self.end)
        for run in self.runs:
            run.draw(sketch)


def count_of(context: LayoutContext, note: HoleNote, hole: Hole) -> int:
    """For how many holes a note stands."""
    ring = ring_of(context.view.projected.whole, hole) if note.spaced and not note.count else None
    if ring is not None:
        return ring.count
    return note.count or len(like(context.view.projected.whole, hole))


def lines_of_note(context: LayoutContext, note: HoleNote, hole: Hole, thread: Thread | None) -> list[Lettering]:
    """What a note says, line by line."""
    drawing, style = context.drawing, context.style
    own, height = style.own, style.lettering

    def size(value: float) -> str:
        text = written(value, None, drawing.unit, False, drawing.standard, own)
        return f"{text} [{in_other_unit(value, ways_of(drawing), own)}]" if own.second_unit else text

    def plain(text: str) -> Lettering:
        return Lettering(((text, 0.0, 0.0, height),), text_width(text, height), height, text)

    out, asme = set(note.leaves_out), drawing.standard == "ASME"
    count = count_of(context, note, hole)
    bore, lines = hole.bore, []
    times = f"{count}× " if count > 1 else ""
    depth = f" ↧ {size(hole.depth)}" if hole.depth is not None and "depth" not in out else ""
    through = " THRU" if asme and hole.through and "depth" not in out else ""
    if thread is not None and "thread" not in out:
        named = f"{times}{note.prefix}{thread.size}" + (f" – {thread.tolerance}" if thread.tolerance else "")
        named += " LH" if thread.hand == "left" else ""
        if thread.length is not None:
            named += f" ↧ {size(thread.length)}"
        if "bore" not in out and not hole.through:
            named += f" / Ø{size(bore.diameter)}{depth}"
        lines.append(plain(f"{named}{through}{note.suffix}"))
    elif "bore" not in out:
        base = Dimension(
            id="n",
            on=note.on,
            measure="diameter",
            anchors=[{"ref": note.ref, "at": "round"}],  # type: ignore[list-item]
            count=count,
            prefix=note.prefix,
            suffix=f"{depth}{through}{note.suffix}",
            tolerance=note.tolerance,
        )
        lines.append(letter(base, "Ø", bore.diameter, ways_of(drawing), height, own))
    sink, counter = hole.countersink, hole.counterbore
    if sink is not None and "countersink" not in out:
        angle = written(sink.angle, None, drawing.unit, True, drawing.standard, own)
        lines.append(plain(f"⌵ Ø{size(sink.diameter)} × {angle}"))
    if counter is not None and "counterbore" not in out:
        lines.append(plain(f"⌴ Ø{size(counter.diameter)} ↧ {size(counter.end - counter.start)}"))
    ring = ring_of(context.view.projected.whole, hole) if note.spaced else None
    if ring is not None:
        evenly = "EQUALLY SPACED ON" if ring.even else "ON"
        lines.append(plain(f"{evenly} Ø{size(ring.diameter)}"))
    if not lines:
        raise Unmeasurable("Nothing is said", "Say at least one thing of the hole.")
    return lines


def tip_of(context: LayoutContext, hole: Hole, angle: float) -> Array:
    """Where the leader of a note touches its hole: the rim of its widest circle seen face on, or its mouth."""
    placed_view = context.view
    transform, projected = placed_view.transform, placed_view.projected
    centre = transform.to_sheet(projected.flat(hole.mouth[None]))[0]
    if abs(float(hole.out @ projected.view.toward)) < 1 - 1e-6:
        return centre
    wide = max(
        (s.diameter for s in hole.steps if _is_seen(hole, s.start, projected.view.toward)), default=hole.bore.diameter
    )
    found: Array = centre + wide / 2 * transform.scale * way_at(angle)
    return found


def _is_seen(hole: Hole, start: float, toward: Array) -> bool:
    return float(hole.out @ toward) > 0 or start > 0 or len(hole.steps) == 1


def solve(note: HoleNote, context: LayoutContext) -> Solved:
    """What a note says, and where it stands."""
    return placer(note, context)(note)


def placer(note: HoleNote, context: LayoutContext) -> Callable[[HoleNote], Solved]:
    """What solves a note for one place after another: it is worded once."""
    placed_view, style = context.view, context.style
    try:
        hole = hole_at(placed_view.projected.whole, note.ref)
        if hole is None:
            raise Unmeasurable("No hole there", "The part has none there any more.")
        thread = thread_of(context.drawing, placed_view.view.part, placed_view.projected.whole, hole.faces)
        lines = lines_of_note(context, note, hole, thread)
    except Unmeasurable as error:
        foot = np.array([placed_view.box.x0, placed_view.box.y1 + 3])
        loose = Loose(f"? {error.title}", (note.ref,), foot, style.lettering)
        return lambda _: loose
    return lambda n: _put(context, n, hole, lines)


def _put(context: LayoutContext, note: HoleNote, hole: Hole, lines: list[Lettering]) -> SolvedNote:
    """A worded note in its place."""
    style = context.style
    tip = tip_of(context, hole, note.angle)
    d = way_at(note.angle)
    elbow = tip + max(note.offset, style.arrow) * d
    sense = 1.0 if d[0] >= -1e-9 else -1.0
    wide = max(t.width for t in lines)
    end = elbow + np.array([sense * (wide + 1.0), 0.0])
    left = min(elbow[0], end[0]) + 0.5
    runs = []
    foot_y = elbow[1] + style.text_gap
    for k, text in enumerate(lines):
        if k:
            foot_y -= (APART * style.lettering + (style.text_gap if k == 1 else 0.0)) + (text.height - style.lettering)
        runs.append(Run(text, np.array([left + text.width / 2, foot_y]), 0.0))
    words = " ".join(t.plain for t in lines)
    return SolvedNote(words=words, stands_on=(note.ref,), style=style, tip=tip, elbow=elbow, end=end, runs=tuple(runs))
