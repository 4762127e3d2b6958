"""Diameters and radii of circles and arcs seen face on (ISO 129-1:2018)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..drawing import Dimension
from ..ink import DimensionRecord, Sketch
from .measuring import Round
from .solving import Array, Run, Solved, Stage, draw_arrow, draw_line, pair
from .style import Style
from .wording import Lettering


@dataclass(frozen=True, eq=False)
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
    offset: float
    run: Run

    @property
    def rim(self) -> Array:
        """Where the arrow touches the circle."""
        return self.centre + self.radius * self.direction

    def occupies(self) -> Array:
        far = self.centre - (self.radius if self.across and self.outward else 0.0) * self.direction
        return np.concatenate([np.array([self.rim, self.elbow, self.end, far]), self.run.corners()])

    def draw(self, sketch: Sketch) -> None:
        d, style = self.direction, self.style
        opposite = self.centre - self.radius * d
        if self.outward:
            draw_arrow(sketch, style, self.rim, d)
            if self.across:
                draw_arrow(sketch, style, opposite, -d)
            draw_line(sketch, opposite if self.across else self.centre, self.rim if self.offset < -1 else self.elbow)
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


def solve_round(stage: Stage, dimension: Dimension, found: Round, text: Lettering) -> SolvedRound:
    """Where a diameter or radius stands."""
    chart, style = stage.view.chart, stage.style
    centre = chart.to_sheet(found.centre[None])[0]
    r = found.radius * chart.scale
    angle = float(np.radians(dimension.place.angle))
    if found.symbol == "R":
        turn = float(np.radians(chart.turn))
        angle = _within(angle, (found.span[0] + turn, found.span[1] + turn))
    d = np.array([np.cos(angle), np.sin(angle)])
    elbow = centre + (r + dimension.place.offset) * d
    small = r < 2 * style.arrow + 2
    sense = 1.0 if d[0] >= -1e-9 else -1.0
    end = elbow + np.array([sense * (text.width + 1.0), 0.0])
    return SolvedRound(
        text.plain,
        tuple(anchor.ref for anchor in dimension.anchors),
        style,
        chart.scale,
        found.symbol == "Ø",
        centre,
        r,
        d,
        elbow,
        end,
        dimension.arrows == "inside" or (dimension.arrows == "auto" and not small),
        found.symbol == "Ø" and not small,
        dimension.place.offset,
        Run(text, (elbow + end) / 2 + [0, style.text_gap], 0.0),
    )


def _within(angle: float, span: tuple[float, float]) -> float:
    """The angle, or the nearest one inside a span (radians)."""
    turn = 2 * np.pi
    low, high = span
    a = low + (angle - low) % turn
    if a <= high:
        return float(a)
    return float(high if a - high < low + turn - a else low)
