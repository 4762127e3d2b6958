"""Datum features: a letter in its square, on a triangle that stands on what is meant (ISO 5459)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..display import Sketch
from ..drawing.annotations.datum_feature import DatumFeature
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..values import value
from .common.hanging import Hold, carried, draw_leader, hold_of, lost, rectangle
from .common.solving import Array, Solved, Under, draw_line, way_at

SQUARE = 2.0
"""Lettering heights of the square, and what its triangle is a half of."""
SIDE = 1.0
HEIGHT = SIDE * float(np.sqrt(3)) / 2
"""Of the triangle, in lettering heights: all its sides are alike."""


@value
class SolvedDatum(Solved):
    """The middle of the triangle's ``base``, the unit way ``out`` from there, the corners of its stem (n, 2), and the middle of its square.
    With a ``dot`` it is led into a face, without a triangle there: that stands at the square."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    letter: str
    filled: bool
    base: Array
    out: Array
    stem: Array
    square: Array
    lead: Array

    @property
    def _corners(self) -> Array:
        half = SQUARE * self.style.lettering / 2
        return np.asarray(self.square + half * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]))

    def occupies(self) -> Array:
        across = np.array([-self.out[1], self.out[0]]) * self.style.lettering / 2
        return np.concatenate([self._corners, self.stem, self.lead, np.array([self.base + across, self.base - across])])

    def under(self) -> Under:
        return Under(self._corners[0], np.array([1.0, 0.0]), SQUARE * self.style.lettering, gap=0.0)

    def draw(self, sketch: Sketch) -> None:
        h = self.style.lettering
        across = np.array([-self.out[1], self.out[0]]) * SIDE * h / 2
        top = self.base + HEIGHT * h * self.out
        corners = np.array([self.base + across, self.base - across, top])
        if self.filled:
            sketch.fill(corners)
        else:
            sketch.stroke(curves2.polyline(np.array([*corners, corners[0]])), "sign")
        for p, q in zip(self.stem, self.stem[1:], strict=False):
            draw_line(sketch, p, q)
        if len(self.lead) > 1:
            draw_leader(sketch, self.style, self.lead, True)
        sketch.stroke(rectangle(self._corners[0], np.array([1.0, 0.0]), SQUARE * h, SQUARE * h), "sign")
        sketch.text(self.letter, self.square[0], self.square[1] - h / 2, h, "middle")


def solve(datum: DatumFeature, context: LayoutContext) -> Solved:
    """Where a datum stands."""
    return placer(datum, context)(datum)


def placer(datum: DatumFeature, context: LayoutContext) -> Callable[[DatumFeature], Solved]:
    """What solves a datum for one place after another."""
    style = context.style
    try:
        if datum.foot is not None:
            hold = hold_of(context.view, datum.foot)
            return lambda d: replace(_led(d, hold, style), words=f"datum {d.letter}: {hold.words}")
        under, _, about, refs = carried(context, datum)
    except Unmeasurable as error:
        return lost(context, datum, f"Datum {datum.letter}", error)
    return lambda d: replace(_stacked(d, under, refs, style), words=f"datum {d.letter}: {about}")


def _made(
    datum: DatumFeature,
    triangle: tuple[Array, Array],
    stem: list[Array],
    box: Array,
    style: Style,
    refs: tuple[str, ...],
) -> SolvedDatum:
    base, out = triangle
    return SolvedDatum(
        words=f"datum {datum.letter}",
        stands_on=refs,
        style=style,
        letter=datum.letter,
        filled=datum.filled,
        base=base,
        out=out,
        stem=np.array(stem),
        square=box,
        lead=np.zeros((0, 2)),
    )


def _led(datum: DatumFeature, hold: Hold, style: Style) -> SolvedDatum:
    """A datum on an outline, its stem square to it; or led into a face."""
    h = style.lettering
    way = way_at(datum.angle)
    to = hold.tip + datum.offset * way
    if hold.dot or hold.out is None:
        # a leader into the face or to the corner, the triangle on its shelf
        shelf = to + np.array([2 * h if way[0] >= 0 else -2 * h, 0.0])
        base, out = (to + shelf) / 2, np.array([0.0, 1.0 if way[1] >= 0 else -1.0])
        top = base + HEIGHT * h * out
        box = top + (0.5 + SQUARE / 2) * h * out
        made = _made(datum, (base, out), [top, top + 0.5 * h * out], box, style, hold.stands_on)
        return replace(made, lead=np.array([hold.tip, to, shelf]))
    out = hold.out if float((to - hold.tip) @ hold.out) >= 0 else -hold.out
    top = hold.tip + HEIGHT * h * out
    half = SQUARE * h / 2
    far = max(float((to - hold.tip) @ out), HEIGHT * h + half + 1.0)
    knee = hold.tip + far * out
    aside = (to - knee) @ np.array([-out[1], out[0]])
    box = to if abs(float(aside)) > half else knee
    return _made(datum, (hold.tip, out), [top, *_stem(top, knee, box, half)], box, style, hold.stands_on)


def _stem(top: Array, knee: Array, box: Array, half: float) -> list[Array]:
    """Where the stem turns, and where it meets the square."""
    corner = knee if np.linalg.norm(box - knee) > 1e-6 else top
    way = box - corner
    length = float(np.linalg.norm(way))
    if length < 1e-9:
        return [corner]
    reach = half / max(float(np.abs(way / length).max()), 1e-9)
    end = box - way / length * min(reach, length)
    return [corner, end]


def _stacked(datum: DatumFeature, under: Under, refs: tuple[str, ...], style: Style) -> SolvedDatum:
    """A datum in line with a dimension line, or under what is written."""
    h, half = style.lettering, SQUARE * style.lettering / 2
    way = way_at(datum.angle)
    if under.ends:
        end, out = max(under.ends, key=lambda e: float(e[1] @ way))
        far = max(datum.offset, HEIGHT * h + half + 1.0)
        box = end + far * out
        top = end + HEIGHT * h * out
        return _made(datum, (end, out), [top, *_stem(top, top, box, half)], box, style, refs)
    n = under.across
    base = under.corner + under.gap * n + (h + datum.shift[0]) * under.along
    top = base - HEIGHT * h * n
    box = top - (0.6 * h + half) * n
    return _made(datum, (base, -n), [top, top - 0.6 * h * n], box, style, refs)
