"""Angles between two straight edges (ISO 129-1:2018)."""

from __future__ import annotations

import numpy as np

from ...display import DimensionRecord, Sketch
from ...drawing import Dimension
from ...geometry import curves2
from ...measuring.context import LayoutContext
from ...measuring.measuring import Angular
from ...measuring.style import Style
from ...measuring.wording import Lettering
from ...values import value
from .solving import Array, Led, Run, Solved, draw_arrow, draw_line, each_outside, level_text, pair, readable, set_aside


@value
class SolvedAngular(Solved):
    """An arc about ``apex`` from ``start`` to ``end`` (radians), with extension lines (k, 2, 2) to the edges."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    apex: Array
    radius: float
    start: float
    end: float
    outside: tuple[bool, bool]
    extensions: Array
    middle: float
    run: Run
    led: Led | None

    @property
    def reach(self) -> tuple[float, float]:
        """From where to where the arc goes, beyond its ends where its arrows stand outside, radians."""
        more = 2 * self.style.arrow / self.radius
        return self.start - more * self.outside[0], self.end + more * self.outside[1]

    def at(self, angle: float) -> Array:
        """The point of the arc at an angle."""
        return self.apex + self.radius * np.array([np.cos(angle), np.sin(angle)])

    def occupies(self) -> Array:
        arc = [self.at(a) for a in np.linspace(*self.reach, 17)]
        lead = np.zeros((0, 2)) if self.led is None else self.led.corners()
        return np.concatenate([np.array(arc), self.extensions.reshape(-1, 2), self.run.corners(), lead])

    def draw(self, sketch: Sketch) -> None:
        for p, q in self.extensions:
            draw_line(sketch, p, q)
        sketch.stroke(curves2.circle(self.apex, self.radius, *self.reach), "dimension")
        lead = self.style.arrow / 2 / self.radius
        for ray, sign, outside in zip((self.start, self.end), (-1.0, 1.0), self.outside, strict=True):
            sign = -sign if outside else sign
            a = ray - sign * lead
            draw_arrow(sketch, self.style, self.at(ray), sign * np.array([-np.sin(a), np.cos(a)]))
        self.run.draw(sketch)
        if self.led is not None:
            self.led.draw(sketch)
        sketch.record = DimensionRecord(
            "angular",
            self.words,
            {
                "line": pair(self.at(self.middle)),
                "first": pair(self.at(self.start)),
                "second": pair(self.at(self.end)),
                "apex": pair(self.apex),
                "text": self.run.middle(),
            },
        )


def solve_angular(context: LayoutContext, dimension: Dimension, found: Angular, text: Lettering) -> SolvedAngular:
    """Where an angle stands."""
    transform, style = context.view.transform, context.style
    turn = float(np.radians(transform.turn))
    start, end = found.start + turn, found.end + turn
    apex = transform.to_sheet(found.apex[None])[0]
    radius = max(dimension.place.offset, 5.0)
    extensions = []
    for ray in (start, end):
        d = np.array([np.cos(ray), np.sin(ray)])
        reaches = [
            float((p - apex) @ d)
            for points in (found.first, found.second)
            for p in transform.to_sheet(points)
            if np.linalg.norm((p - apex) - ((p - apex) @ d) * d) < 0.05
        ]
        near = max([x for x in reaches if x > 0], default=0.0)
        if near < radius:
            extensions.append([apex + d * near, apex + d * (radius + style.overrun)])
        elif reaches and min(reaches) > radius:
            extensions.append([apex + d * min(reaches), apex + d * (radius - style.overrun)])
    length = radius * (end - start)
    outside = dimension.arrows == "outside" or (dimension.arrows == "auto" and length < 2 * style.arrow + 3)
    left = apex[0] + radius * np.cos(start) <= apex[0] + radius * np.cos(end)
    turned = each_outside(dimension, outside, bool(left))
    more = 2 * style.arrow / radius if turned[1] else 0.0
    middle = (start + end) / 2 + dimension.place.along / radius
    d = np.array([np.cos(middle), np.sin(middle)])
    angle = 0.0 if level_text(dimension, style) else readable(np.array([-d[1], d[0]]))
    v = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
    out = dimension.place.aside != (0.0, 0.0)
    if length < text.width and not out:
        middle = end + more + (text.width / 2 + 1) / radius
        d = np.array([np.cos(middle), np.sin(middle)])
    run, led = Run(text, apex + d * radius + v * style.text_gap, angle), None
    if out:
        run, led = set_aside(text, apex + d * radius, dimension.place.aside, style.text_gap)
    return SolvedAngular(
        words=text.plain,
        stands_on=tuple(anchor.ref for anchor in dimension.anchors),
        style=style,
        apex=apex,
        radius=radius,
        start=start,
        end=end,
        outside=turned,
        extensions=np.array(extensions).reshape(-1, 2, 2),
        middle=middle,
        run=run,
        led=led,
    )
