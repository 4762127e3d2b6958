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
from .solving import Array, Run, Solved, draw_arrow, draw_line, pair, readable


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
    outside: bool
    extensions: Array
    middle: float
    run: Run

    @property
    def more(self) -> float:
        """How far the arc goes beyond its ends, radians."""
        return 2 * self.style.arrow / self.radius if self.outside else 0.0

    def at(self, angle: float) -> Array:
        """The point of the arc at an angle."""
        return self.apex + self.radius * np.array([np.cos(angle), np.sin(angle)])

    def occupies(self) -> Array:
        arc = [self.at(a) for a in np.linspace(self.start - self.more, self.end + self.more, 17)]
        return np.concatenate([np.array(arc), self.extensions.reshape(-1, 2), self.run.corners()])

    def draw(self, sketch: Sketch) -> None:
        for p, q in self.extensions:
            draw_line(sketch, p, q)
        sketch.stroke(curves2.circle(self.apex, self.radius, self.start - self.more, self.end + self.more), "dimension")
        lead = self.style.arrow / 2 / self.radius
        for ray, sign in ((self.start, -1.0), (self.end, 1.0)):
            sign = -sign if self.outside else sign
            a = ray - sign * lead
            draw_arrow(sketch, self.style, self.at(ray), sign * np.array([-np.sin(a), np.cos(a)]))
        self.run.draw(sketch)
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
    more = 2 * style.arrow / radius if outside else 0.0
    middle = (start + end) / 2 + dimension.place.along / radius
    d = np.array([np.cos(middle), np.sin(middle)])
    angle = 0.0 if style.level else readable(np.array([-d[1], d[0]]))
    v = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
    if length < text.width:
        middle = end + more + (text.width / 2 + 1) / radius
        d = np.array([np.cos(middle), np.sin(middle)])
    return SolvedAngular(
        words=text.plain,
        stands_on=tuple(anchor.ref for anchor in dimension.anchors),
        style=style,
        apex=apex,
        radius=radius,
        start=start,
        end=end,
        outside=outside,
        extensions=np.array(extensions).reshape(-1, 2, 2),
        middle=middle,
        run=Run(text, apex + d * radius + v * style.text_gap, angle),
    )
