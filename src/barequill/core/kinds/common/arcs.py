"""Lengths of arcs along themselves, and what is said with a leader: slopes, tapers, radii seen foreshortened."""

from __future__ import annotations

import numpy as np

from ...display import DimensionRecord, Sketch
from ...drawing import Dimension
from ...geometry import curves2
from ...measuring.context import LayoutContext
from ...measuring.measuring import ArcLength, Pointed
from ...measuring.style import Style
from ...measuring.wording import Lettering
from ...values import value
from .solving import (
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
    under_runs,
    way_at,
)


@value
class SolvedArc(Solved):
    """An arc about ``centre`` from ``start`` to ``end`` (radians) beside the one that it measures, of radius ``own``."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    scale: float
    centre: Array
    own: float
    radius: float
    start: float
    end: float
    outside: tuple[bool, bool]
    run: Run
    led: Led | None

    def at(self, angle: float, radius: float | None = None) -> Array:
        """The point at an angle, on the dimension's arc or another."""
        r = self.radius if radius is None else radius
        return self.centre + r * np.array([np.cos(angle), np.sin(angle)])

    @property
    def reach(self) -> tuple[float, float]:
        """From where to where the arc goes, beyond its ends where its arrows stand outside, radians."""
        more = 2 * self.style.arrow / self.radius
        return self.start - more * self.outside[0], self.end + more * self.outside[1]

    def occupies(self) -> Array:
        arc = [self.at(a) for a in np.linspace(*self.reach, 17)]
        lead = np.zeros((0, 2)) if self.led is None else self.led.corners()
        return np.concatenate([np.array(arc), self.run.corners(), lead])

    def draw(self, sketch: Sketch) -> None:
        out = 1.0 if self.radius >= self.own else -1.0
        for angle, sign, outside in zip((self.start, self.end), (1.0, -1.0), self.outside, strict=True):
            if abs(self.radius - self.own) > 0.3:
                low, high = self.own + out * self.style.gap, self.radius + out * self.style.overrun
                draw_line(sketch, self.at(angle, low), self.at(angle, high))
            lead = self.style.arrow / 2 / self.radius
            way = sign if outside else -sign
            a = angle - way * lead
            draw_arrow(sketch, self.style, self.at(angle), way * np.array([-np.sin(a), np.cos(a)]))
        sketch.stroke(curves2.circle(self.centre, self.radius, *self.reach), "dimension")
        self.run.draw(sketch)
        if self.led is not None:
            self.led.draw(sketch)
        ends = self.at(self.start, self.own), self.at(self.end, self.own)
        points = {"line": pair(self.at((self.start + self.end) / 2)), "text": self.run.middle()}
        points |= {"first": pair(ends[0]), "second": pair(ends[1])}
        turn = float(np.degrees(np.arctan2(*(ends[1] - ends[0])[::-1])))
        sketch.record = DimensionRecord("linear", self.words, points, turn, 1 / self.scale)


def solve_arc(context: LayoutContext, dimension: Dimension, found: ArcLength, text: Lettering) -> SolvedArc:
    """Where the length of an arc stands."""
    transform, style = context.view.transform, context.style
    centre, own = transform.to_sheet(found.centre[None])[0], found.radius * transform.scale
    turn = float(np.radians(transform.turn))
    start, end = found.span[0] + turn, found.span[1] + turn
    radius = max(own + dimension.place.offset, 2.0)
    length = radius * (end - start)
    outside = dimension.arrows == "outside" or (dimension.arrows == "auto" and length < 2 * style.arrow + 1.5)
    middle = (start + end) / 2 + dimension.place.along / radius
    out = dimension.place.aside != (0.0, 0.0)
    turned = each_outside(dimension, outside, bool(np.cos(start) <= np.cos(end)))
    if length < text.width and not out:
        middle = end + (text.width / 2 + 2 * style.arrow + 1) / radius
    d = np.array([np.cos(middle), np.sin(middle)])
    angle = 0.0 if level_text(dimension, style) else readable(np.array([-d[1], d[0]]))
    v = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
    run, led = Run(text, centre + radius * d + v * style.text_gap, angle), None
    if out:
        run, led = set_aside(text, centre + radius * d, dimension.place.aside, style.text_gap)
    refs = tuple(anchor.ref for anchor in dimension.anchors)
    return SolvedArc(
        words=text.plain,
        stands_on=refs,
        style=style,
        scale=transform.scale,
        centre=centre,
        own=own,
        radius=radius,
        start=start,
        end=end,
        outside=turned,
        run=run,
        led=led,
    )


@value
class SolvedPointed(Solved):
    """A leader from ``tip`` to ``elbow``, and the line under its lettering to ``end``."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    scale: float
    tip: Array
    elbow: Array
    end: Array
    run: Run

    def occupies(self) -> Array:
        return np.concatenate([np.array([self.tip, self.elbow, self.end]), self.run.corners()])

    def under(self) -> Under:
        return under_runs([self.run])

    def draw(self, sketch: Sketch) -> None:
        way = self.tip - self.elbow
        draw_arrow(sketch, self.style, self.tip, way / max(float(np.linalg.norm(way)), 1e-9))
        draw_line(sketch, self.elbow, self.tip)
        draw_line(sketch, self.elbow, self.end)
        self.run.draw(sketch)
        points = {"line": pair(self.tip), "second": pair(self.tip), "text": self.run.middle()}
        sketch.record = DimensionRecord("radius", self.words, points, 0.0, 1 / self.scale)


def solve_pointed(context: LayoutContext, dimension: Dimension, found: Pointed, text: Lettering) -> SolvedPointed:
    """Where what is said with a leader stands."""
    transform, style, place = context.view.transform, context.style, dimension.place
    tip = transform.to_sheet(found.spot[None])[0]
    d = way_at(place.angle)
    elbow = tip + max(place.offset, style.arrow) * d
    sense = 1.0 if d[0] >= -1e-9 else -1.0
    end = elbow + np.array([sense * (text.width + 1.0), 0.0])
    run = Run(text, (elbow + end) / 2 + [0, style.text_gap], 0.0)
    refs = tuple(anchor.ref for anchor in dimension.anchors)
    return SolvedPointed(
        words=text.plain, stands_on=refs, style=style, scale=transform.scale, tip=tip, elbow=elbow, end=end, run=run
    )
