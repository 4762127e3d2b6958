"""Diameters and radii of circles and arcs seen face on (ISO 129-1:2018)."""

from __future__ import annotations

import numpy as np

from ...display import DimensionRecord, Sketch
from ...drawing import Dimension
from ...geometry.curves2 import polyline
from ...measuring.context import LayoutContext
from ...measuring.measuring import Round
from ...measuring.style import Style
from ...measuring.wording import Lettering
from ...values import value
from .solving import BELOW, Array, Run, Solved, Under, draw_arrow, draw_line, pair

HALF = 5.0
"""mm by which half a line goes beyond the centre."""
SHORT = 40.0
"""mm of the line of a radius that is shortened."""


@value
class SolvedRound(Solved):
    """``rim`` is where its arrow touches, ``elbow`` and ``end`` are those of the line under its lettering."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    scale: float
    diameter: bool
    centre: Array
    radius: float
    direction: Array
    elbow: Array
    end: Array
    outward: bool
    """True where the arrow points from the centre outward."""
    across: bool
    jog: bool
    offset: float
    run: Run

    @property
    def rim(self) -> Array:
        """Where the arrow touches the circle."""
        return self.centre + self.radius * self.direction

    def occupies(self) -> Array:
        far = self.centre - (self.radius if self.across and self.outward else 0.0) * self.direction
        return np.concatenate([np.array([self.rim, self.elbow, self.end, far]), self.run.corners()])

    def under(self) -> Under:
        left = np.array([min(self.elbow[0], self.end[0]), self.elbow[1] - BELOW])
        return Under(left, np.array([1.0, 0.0]), abs(float(self.end[0] - self.elbow[0])))

    def draw(self, sketch: Sketch) -> None:
        d, style = self.direction, self.style
        opposite = self.centre - self.radius * d
        if self.outward:
            draw_arrow(sketch, style, self.rim, d)
            if self.across:
                draw_arrow(sketch, style, opposite, -d)
            start = opposite if self.across else self.centre
            if self.diameter and not self.across:
                start = self.centre - min(HALF, self.radius) * d
            if self.offset < -self.radius:
                # lettering on the hollow side: the line comes from there, through the centre
                start = self.elbow
            if self.jog:
                start = self._jogged(sketch)
            draw_line(sketch, start, self.rim if self.offset < -1 else self.elbow)
        else:
            draw_arrow(sketch, style, self.rim, -d)
            draw_line(sketch, self.rim, self.elbow if self.offset > style.arrow else self.rim + 2 * style.arrow * d)
        draw_line(sketch, self.elbow, self.end)
        self.run.draw(sketch)
        sketch.record = DimensionRecord(
            "diameter" if self.diameter else "radius",
            self.words,
            {
                "line": pair(opposite if self.diameter else self.centre),
                "second": pair(self.rim),
                "text": self.run.middle(),
            },
            0.0,
            1 / self.scale,
        )

    def _jogged(self, sketch: Sketch) -> Array:
        """The shortened inner piece of the line with its jog; where the rest of it begins."""
        d, n = self.direction, np.array([-self.direction[1], self.direction[0]])
        long = min(0.6 * self.radius, SHORT)
        turn = self.rim - 0.55 * long * d
        aside = turn - 1.5 * d + 3.0 * n
        sketch.stroke(polyline(np.array([aside - 0.45 * long * d, aside, turn])), "dimension")
        return turn


def solve_round(context: LayoutContext, dimension: Dimension, found: Round, text: Lettering) -> SolvedRound:
    """Where a diameter or radius stands."""
    transform, style = context.view.transform, context.style
    centre = transform.to_sheet(found.centre[None])[0]
    r = found.radius * transform.scale
    angle = float(np.radians(dimension.place.angle))
    if found.symbol.endswith("R"):
        turn = float(np.radians(transform.turn))
        angle = _within(angle, (found.span[0] + turn, found.span[1] + turn))
    d = np.array([np.cos(angle), np.sin(angle)])
    elbow = centre + (r + dimension.place.offset) * d
    small = r < 2 * style.arrow + 2
    sense = 1.0 if (elbow - centre)[0] >= -1e-9 else -1.0
    end = elbow + np.array([sense * (text.width + 1.0), 0.0])
    return SolvedRound(
        words=text.plain,
        stands_on=tuple(anchor.ref for anchor in dimension.anchors),
        style=style,
        scale=transform.scale,
        diameter=found.symbol.endswith("Ø"),
        centre=centre,
        radius=r,
        direction=d,
        elbow=elbow,
        end=end,
        outward=dimension.arrows == "inside"
        or (dimension.arrows == "auto" and (not small or dimension.place.offset < -r)),
        across=found.symbol.endswith("Ø") and not small and not dimension.half,
        jog=dimension.jog and not found.symbol.endswith("Ø"),
        offset=dimension.place.offset,
        run=Run(text, (elbow + end) / 2 + [0, style.text_gap], 0.0),
    )


def _within(angle: float, span: tuple[float, float]) -> float:
    """The angle, or the nearest one inside a span (radians)."""
    turn = 2 * np.pi
    low, high = span
    a = low + (angle - low) % turn
    if a <= high:
        return float(a)
    return float(high if a - high < low + turn - a else low)
