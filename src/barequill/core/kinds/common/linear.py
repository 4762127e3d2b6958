"""Lengths and distances with their extension lines (ISO 129-1:2018)."""

from __future__ import annotations

import numpy as np

from ...display import DimensionRecord, Sketch
from ...drawing import Anchor, Dimension
from ...drawing.annotations.dimension import Extension
from ...errors import Unmeasurable
from ...geometry.curves2 import circle, polyline
from ...measuring.anchor_geometry import resolve
from ...measuring.context import LayoutContext
from ...measuring.measuring import Linear, forward, level_of, measure, normal_of
from ...measuring.style import Style
from ...measuring.wording import Lettering
from ...values import value
from ...views.view_transform import ViewTransform
from .solving import (
    BELOW,
    Array,
    Led,
    Run,
    Solved,
    Under,
    draw_arrow,
    draw_line,
    each_outside,
    level_text,
    pair,
    readable,
    set_aside,
)

HALF = 5.0
"""mm by which half a dimension line goes beyond the middle."""
ORIGIN = 1.5
"""mm of the radius of the circle at the origin of running dimensions."""
VIRTUAL = 2.0
"""mm to either side of the cross at the corner of two edges, extended."""
JOG = 3.0
"""mm before the dimension line at which an extension line that is moved aside is square to it again."""
LEAN = 3.0
"""mm over which the extension line of a running dimension leans over to its figure."""
BREAK = 2.0
"""mm of a break in an extension line."""
ZIG = 1.6
"""mm of half the width of a zigzag in a dimension line."""


def extensions_of(dimension: Dimension) -> tuple[Extension, Extension]:
    """Both extension lines of a dimension, as usual where nothing is said of them."""
    first, second = [*dimension.extensions, Extension(), Extension()][:2]
    return first, second


def draw_extension(sketch: Sketch, style: Style, start: Array, foot: Array, u: Array, own: Extension) -> None:
    """An extension line from near its ``start`` to beyond its ``foot``, which a jog moves along ``u``."""
    reach = foot - start - own.jog * u
    length = float(np.linalg.norm(reach))
    if not own.shown or length <= 0.3:
        return
    d = reach / length
    begin = own.gap if own.gap is not None else (style.gap if length > 4 else 0.0)
    if begin >= length:
        return
    if own.jog:
        # straight out, then aslant over to its foot
        knee = max(begin, length - max(abs(own.jog), 2.0) - JOG)
        draw_line(sketch, start + d * begin, start + d * knee)
        draw_line(sketch, start + d * knee, foot - d * JOG)
        begin, start = length - JOG, foot - d * length
    for low, high in _pieces(begin, length + style.overrun, [length - b for b in own.breaks]):
        draw_line(sketch, start + d * low, start + d * high)


def _pieces(low: float, high: float, breaks: list[float]) -> list[tuple[float, float]]:
    """A stretch without the breaks in it."""
    found = []
    for at in sorted(b for b in breaks if low < b < high):
        found.append((low, at - BREAK / 2))
        low = at + BREAK / 2
    return [(a, b) for a, b in [*found, (low, high)] if b - a > 0.1]


@value
class SolvedLinear(Solved):
    """``starts`` and ``feet`` (2, 2) are the ends of its extension lines, ``low`` and ``high`` how far the dimension line
    reaches from its middle along ``along``."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    scale: float
    along: Array
    starts: Array
    feet: Array
    low: float
    high: float
    outside: tuple[bool, bool]
    run: Run
    shift: float
    half: float
    level: bool
    """Its text stands in a gap of the line."""
    led: Led | None
    half_line: bool
    """One half alone of the line, a little beyond the middle, with one arrow."""
    zigs: tuple[float, ...]
    """Where its line has a zigzag, from its middle along ``along``."""
    extensions: tuple[Extension, Extension]
    crosses: tuple[tuple[Array, Array, Array], ...] = ()
    """Corners of two edges, extended: where they are, and the ways of both."""

    @property
    def middle(self) -> Array:
        """The middle between the feet."""
        found: Array = self.feet.mean(axis=0)
        return found

    def occupies(self) -> Array:
        ends = self.middle + np.outer([self.low, self.high], self.along)
        reach = self.feet - self.starts
        length = np.maximum(np.linalg.norm(reach, axis=1), 1e-9)[:, None]
        lead = np.zeros((0, 2)) if self.led is None else self.led.corners()
        return np.concatenate(
            [self.starts, self.feet + reach / length * self.style.overrun, ends, self.run.corners(), lead]
        )

    def under(self) -> Under:
        if self.led is not None:
            return self.led.under()
        below = self.run.foot - self.run.up * (BELOW + (0.0 if self.level else self.style.text_gap))
        ends = tuple((self.middle + at * self.along, np.sign(at) * self.along) for at in (self.low, self.high))
        corner, wide = below - self.run.along * self.run.text.width / 2, self.run.text.width
        room = float(np.linalg.norm(self.feet[1] - self.feet[0]))
        return Under(corner, self.run.along, wide, ends=ends, room=room)

    def draw(self, sketch: Sketch) -> None:
        u, style = self.along, self.style
        low = max(self.low, -HALF) if self.half_line else self.low
        for start, foot, own in list(zip(self.starts, self.feet, self.extensions, strict=True))[self.half_line :]:
            draw_extension(sketch, style, start, foot, u, own)
        if self.level and self.led is None:
            gaps = (self.shift - self.half - style.text_gap, self.shift + self.half + style.text_gap)
            self._line(sketch, low, max(low, gaps[0]))
            self._line(sketch, min(self.high, gaps[1]), self.high)
        else:
            self._line(sketch, low, self.high)
        first, second = (1.0 if out else -1.0 for out in self.outside)
        if not self.half_line:
            draw_arrow(sketch, style, self.feet[0], u * first)
        draw_arrow(sketch, style, self.feet[1], -u * second)
        if self.led is not None:
            self.led.draw(sketch)
        for place, *ways in self.crosses:
            for way in ways:
                draw_line(sketch, place - VIRTUAL * way, place + VIRTUAL * way)
        self.run.draw(sketch)
        sketch.record = DimensionRecord(
            "linear",
            self.words,
            {
                "line": pair(self.feet[1]),
                "first": pair(self.starts[0]),
                "second": pair(self.starts[1]),
                "text": self.run.middle(),
            },
            float(np.degrees(np.arctan2(u[1], u[0]))),
            1 / self.scale,
        )

    def _line(self, sketch: Sketch, low: float, high: float) -> None:
        """A piece of the dimension line, with its zigzags."""
        n = np.array([-self.along[1], self.along[0]])
        for at in sorted(z for z in self.zigs if low + ZIG < z < high - ZIG):
            draw_line(sketch, self.middle + self.along * low, self.middle + self.along * (at - ZIG))
            corners = np.array([[-1, 0], [-0.4, 1.6], [0.4, -1.6], [1, 0]]) * ZIG
            path = self.middle + (at + corners[:, :1]) * self.along + corners[:, 1:] * n
            sketch.stroke(polyline(path), "dimension")
            low = at + ZIG
        draw_line(sketch, self.middle + self.along * low, self.middle + self.along * high)


def _zigs(
    context: LayoutContext, dimension: Dimension, u: Array, middle: Array, text: tuple[float, float]
) -> tuple[float, ...]:
    """Where the line goes across stretches that are taken out, clear of the ``text`` (its middle and half its width)."""
    transform, found = context.view.transform, []
    for gap in transform.gaps if dimension.zigzag else ():
        way = transform.direction(np.eye(2)[gap.axis])
        if abs(float(way @ u)) < 0.999:
            continue
        spot = np.zeros((1, 2))
        spot[0, gap.axis] = (gap.start + gap.end) / 2
        at = float((transform.to_sheet(spot)[0] - middle) @ u)
        if abs(at - text[0]) < text[1] + ZIG + 1:
            at = text[0] + (text[1] + ZIG + 2) * (1 if at >= text[0] else -1)
        found.append(at)
    return tuple(found)


def _feet(found: Linear, transform: ViewTransform, n: Array, level: float) -> tuple[list[Array], list[Array]]:
    """Where both extension lines start, each from the nearest of its points, and where they meet the dimension line."""
    starts, feet = [], []
    # square to the dimension line, or as the part runs in a pictorial view
    out = n if found.out is None else transform.direction(found.out)
    for options in (found.first, found.second):
        points = transform.to_sheet(options)
        nearest = points[int(np.argmin(np.abs(points @ n - level)))]
        starts.append(nearest)
        feet.append(nearest + out * ((level - nearest @ n) / float(out @ n)))
    return starts, feet


@value
class SolvedRunning(Solved):
    """A running dimension: its line from the origin to its end, its figure at the end of the extension line; the ``first``
    of its set draws the origin. ``starts`` and ``feet`` (2, 2): origin first."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    scale: float
    starts: Array
    feet: Array
    out: Array
    first: bool
    run: Run
    zero: Run
    extensions: tuple[Extension, Extension]
    along: Array
    begin: float
    """From where on its line is its own, from the origin along ``along``, mm."""

    def occupies(self) -> Array:
        return np.concatenate([self.starts, self.feet, self.run.corners(), self.zero.corners()])

    def _extension(self, sketch: Sketch, start: Array, foot: Array, own: Extension) -> None:
        """An extension line; beyond the dimension line it leans over to where its figure stands."""
        style = self.style
        plain = own.model_copy(update={"jog": 0.0})
        if float((foot - start) @ self.out) > 0.3:
            draw_extension(sketch, style, start, foot, self.along, plain)
        if own.jog and own.shown:
            knee = foot + self.out * style.overrun
            draw_line(sketch, knee, knee + self.out * LEAN + own.jog * self.along)

    def draw(self, sketch: Sketch) -> None:
        style = self.style
        for start, foot, drawn, own in zip(self.starts, self.feet, (self.first, True), self.extensions, strict=True):
            if drawn:
                self._extension(sketch, start, foot, own)
        gap = self.feet[1] - self.feet[0]
        u = gap / max(float(np.linalg.norm(gap)), 1e-9)
        draw_line(sketch, self.feet[0] + (self.along * self.begin if self.begin else u * ORIGIN), self.feet[1])
        draw_arrow(sketch, style, self.feet[1], u)
        self.run.draw(sketch)
        if self.first:
            sketch.stroke(circle(self.feet[0], ORIGIN), "dimension")
            self.zero.draw(sketch)
        points = {"line": pair(self.feet[1]), "first": pair(self.starts[0]), "second": pair(self.starts[1])}
        points["text"] = self.run.middle()
        turn = float(np.degrees(np.arctan2(u[1], u[0])))
        sketch.record = DimensionRecord("linear", self.words, points, turn, 1 / self.scale)


def solve_running(
    context: LayoutContext, dimension: Dimension, found: Linear, text: Lettering, zero: Lettering
) -> SolvedRunning:
    """Where a running dimension stands."""
    style, transform = context.style, context.view.transform
    n, level = normal_of(transform.direction(found.along)), level_of(context, dimension, found)
    starts, feet = _feet(found, transform, n, level)
    out = n if level >= float(np.mean([s @ n for s in starts])) else -n
    angle = readable(out)
    runs = []
    extensions = extensions_of(dimension)
    along = forward(transform.direction(found.along))
    for foot, own, line in zip(feet, (zero, text), extensions, strict=True):
        lean = LEAN if line.jog else 0.0
        middle = foot + line.jog * along + out * (style.overrun + lean + 1.0 + own.width / 2)
        up = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
        runs.append(Run(own, middle - up * own.height / 2, angle))
    refs = tuple(anchor.ref for anchor in dimension.anchors)
    own_row = context.row(dimension)
    first = not own_row or own_row[0].id == dimension.id
    begin = _begun(context, dimension, own_row, feet, along)
    return SolvedRunning(
        words=text.plain,
        stands_on=refs,
        style=style,
        scale=transform.scale,
        starts=np.array(starts),
        feet=np.array(feet),
        out=out,
        first=first,
        run=runs[1],
        zero=runs[0],
        extensions=extensions,
        along=along,
        begin=begin,
    )


def _begun(
    context: LayoutContext, dimension: Dimension, members: list[Dimension], feet: list[Array], along: Array
) -> float:
    """From where on, from the origin, the line of a running dimension is its own: where the next nearer one of its set ends,
    so that no stretch is drawn twice."""
    zero = float(feet[0] @ along)
    own = float(feet[1] @ along) - zero
    begin = 0.0
    for other in members:
        if other.id == dimension.id:
            continue
        try:
            theirs = measure(context.view.projected, other)
        except Unmeasurable:
            continue
        if isinstance(theirs, Linear):
            at = float(context.view.transform.to_sheet(theirs.second[:1])[0] @ along) - zero
            if at * own > 0 and abs(begin) < abs(at) < abs(own) - 1e-6:
                begin = at
    return begin


def solve_linear(context: LayoutContext, dimension: Dimension, found: Linear, text: Lettering) -> SolvedLinear:
    """Where a linear dimension stands."""
    style, transform = context.style, context.view.transform
    u = transform.direction(found.along)
    n = normal_of(u)
    level = level_of(context, dimension, found)
    starts, feet = _feet(found, transform, n, level)
    first, second = extensions_of(dimension)
    feet = [foot + own.jog * u for foot, own in zip(feet, (first, second), strict=True)]
    if (feet[1] - feet[0]) @ u < 0:
        starts, feet, first, second = starts[::-1], feet[::-1], second, first
    if dimension.half and not transform.shows(transform.from_sheet(starts[1][None])).any():
        # the half that is shown is the one that is drawn
        starts, feet, u, first, second = starts[::-1], feet[::-1], -u, _mirrored(second), _mirrored(first)
    room = float(np.linalg.norm(feet[1] - feet[0]))
    level_ = level_text(dimension, style)
    angle = 0.0 if level_ else readable(u)
    a = np.radians(angle)
    foot_u = np.array([np.cos(a), np.sin(a)])
    half = abs(float(foot_u @ u)) * text.width / 2 + abs(float(foot_u @ n)) * text.height / 2
    arrow = style.arrow
    out = dimension.place.aside != (0.0, 0.0)
    if out:
        half = 0.0
    outside = dimension.arrows == "outside" or (
        dimension.arrows == "auto" and room < max(2 * arrow + 1.5, 2 * half + (2 * arrow + 2 if level_ else 1.0))
    )
    shift = dimension.place.along
    if shift == 0.0 and 2 * half + 1.0 > room and not out:
        shift = room / 2 + 2 * arrow + half + 0.5
    low, high = -room / 2, room / 2
    turned = each_outside(dimension, outside, bool(forward(u) @ u > 0))
    low, high = low - 2 * arrow * turned[0], high + 2 * arrow * turned[1]
    low, high = min(low, shift - half - 0.5), max(high, shift + half + 0.5)
    v = np.array([-np.sin(a), np.cos(a)])
    middle = (feet[0] + feet[1]) / 2
    at = middle + u * shift + (-v * text.height / 2 if level_ else v * style.text_gap)
    run, led = Run(text, at, angle), None
    if out:
        run, led = set_aside(text, middle + u * shift, dimension.place.aside, style.text_gap)
    return SolvedLinear(
        words=text.plain,
        stands_on=tuple(anchor.ref for anchor in dimension.anchors),
        style=style,
        scale=transform.scale,
        along=u,
        starts=np.array(starts),
        feet=np.array(feet),
        low=low,
        high=high,
        outside=turned,
        run=run,
        shift=shift,
        half=half,
        level=level_,
        led=led,
        half_line=dimension.half,
        zigs=_zigs(context, dimension, u, middle, (shift, half)),
        extensions=(first, second),
        crosses=tuple(c for a in dimension.anchors if (c := _virtual(context, a)) is not None),
    )


def _virtual(context: LayoutContext, anchor: Anchor) -> tuple[Array, Array, Array] | None:
    """The corner of two edges that was rounded or chamfered away, and the ways of both on the sheet (ISO 129-1)."""
    if anchor.at != "cross":
        return None
    projected, transform = context.view.projected, context.view.transform
    place = transform.to_sheet(resolve(projected, anchor).points)[0]
    edges = (resolve(projected, Anchor(ref=r, at="line")).points for r in (anchor.ref, anchor.other))
    one, two = (transform.direction((p[1] - p[0]) / np.linalg.norm(p[1] - p[0])) for p in edges)
    return place, one, two


def _mirrored(own: Extension) -> Extension:
    """An extension line as it is told of where its direction is turned round."""
    return own.model_copy(update={"jog": -own.jog}) if own.jog else own
