"""Notes of holes: measured from the part, line by line, on a leader to the hole."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...drawing import Dimension
from ...drawing.annotations.hole_note import HoleNote
from ...drawing.threads import Thread
from ...errors import Unmeasurable
from ...ink import Sketch
from ...ink.lettering import text_width
from ...part.features.holes import Hole, hole_at, like
from ...values import value
from ..solving import Array, Run, Solved, Stage, Under, draw_arrow, draw_line, under_runs, way_at
from ..style import Style
from ..threading import thread_of
from ..wording import Lettering, letter, ways_of, written
from .dimension import Loose

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


def count_of(stage: Stage, note: HoleNote, hole: Hole) -> int:
    """For how many holes a note stands."""
    return note.count or len(like(stage.view.shot.whole, hole))


def lines_of_note(stage: Stage, note: HoleNote, hole: Hole, thread: Thread | None) -> list[Lettering]:
    """What a note says, line by line."""
    drawing, style = stage.drawing, stage.style
    own, height = style.own, style.lettering

    def size(value: float) -> str:
        return written(value, None, drawing.unit, False, drawing.standard, own)

    def plain(text: str) -> Lettering:
        return Lettering(((text, 0.0, 0.0, height),), text_width(text, height), height, text)

    out, asme = set(note.leaves_out), drawing.standard == "ASME"
    count = count_of(stage, note, hole)
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
    if not lines:
        raise Unmeasurable("Nothing is said", "Say at least one thing of the hole.")
    return lines


def tip_of(stage: Stage, hole: Hole, angle: float) -> Array:
    """Where the leader of a note touches its hole: the rim of its widest circle seen face on, or its mouth."""
    picture = stage.view
    chart, shot = picture.chart, picture.shot
    centre = chart.to_sheet(shot.flat(hole.mouth[None]))[0]
    if abs(float(hole.out @ shot.view.toward)) < 1 - 1e-6:
        return centre
    wide = max(
        (s.diameter for s in hole.steps if _is_seen(hole, s.start, shot.view.toward)), default=hole.bore.diameter
    )
    found: Array = centre + wide / 2 * chart.scale * way_at(angle)
    return found


def _is_seen(hole: Hole, start: float, toward: Array) -> bool:
    return float(hole.out @ toward) > 0 or start > 0 or len(hole.steps) == 1


def solve(note: HoleNote, stage: Stage) -> Solved:
    """What a note says, and where it stands."""
    return placer(note, stage)(note)


def placer(note: HoleNote, stage: Stage) -> Callable[[HoleNote], Solved]:
    """What solves a note for one place after another: it is worded once."""
    picture, style = stage.view, stage.style
    try:
        hole = hole_at(picture.shot.whole, note.ref)
        if hole is None:
            raise Unmeasurable("No hole there", "The part has none there any more.")
        thread = thread_of(stage.drawing, picture.view.part, picture.shot.whole, hole.faces)
        lines = lines_of_note(stage, note, hole, thread)
    except Unmeasurable as error:
        foot = np.array([picture.box.x0, picture.box.y1 + 3])
        loose = Loose(f"? {error.title}", (note.ref,), foot, style.lettering)
        return lambda _: loose
    return lambda n: _put(stage, n, hole, lines)


def _put(stage: Stage, note: HoleNote, hole: Hole, lines: list[Lettering]) -> SolvedNote:
    """A worded note in its place."""
    style = stage.style
    tip = tip_of(stage, hole, note.angle)
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
