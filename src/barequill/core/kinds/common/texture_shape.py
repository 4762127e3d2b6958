"""The sign of surface texture, drawn (ISO 21920-1: legs at 60°, the short one 1.4 h high, the long one 3 h)."""

from __future__ import annotations

import numpy as np

from ...display import Sketch
from ...display.lettering import text_width
from ...drawing.annotations.surface_texture import SurfaceTexture
from ...geometry import curves2
from ...values import value
from .solving import Array, draw_line

SHORT, LONG = 1.4, 3.0
"""Heights of both legs, in lettering heights."""
SLOPE = float(1 / np.tan(np.radians(60)))
LINE = 1.4
"""Lettering heights from one line of what is written to the next."""
PAD = 0.4
AROUND = 0.45
"""Radius of the circle for all round, in lettering heights."""


@value
class TextureShape:
    """The sign of a texture for lettering of a height (mm): how high and wide it is, from its corner on."""

    texture: SurfaceTexture
    h: float

    @property
    def lines(self) -> list[str]:
        """What is written under its upper line."""
        t = self.texture
        if t.upper and t.lower:
            return [f"U {t.upper}", f"L {t.lower}"]
        return [f"L {t.lower}"] if t.lower else [t.upper] if t.upper else []

    @property
    def high(self) -> float:
        """Height of the long leg."""
        return (LONG + LINE * max(0, len(self.lines) - 1)) * self.h

    @property
    def bar(self) -> tuple[float, float]:
        """From where to where the upper line runs."""
        start = self.high * SLOPE
        wide = max((text_width(t, self.h) for t in (*self.lines, self.texture.process)), default=0.0)
        return start, start + (wide + 2 * PAD * self.h if wide else 0.0)

    def corners(self, at: Array, u: Array) -> Array:
        """Corners (4, 2) of all of it, its corner at a place, along a unit way."""
        h, n = self.h, np.array([-u[1], u[0]])
        left = -SHORT * h * SLOPE - (text_width(self.texture.allowance, h) + PAD * h if self.texture.allowance else 0.0)
        top = self.high + (1.4 * h if self.texture.process else 0.0)
        return np.array([at + x * u + y * n for x, y in ((left, 0), (self.bar[1], 0), (self.bar[1], top), (left, top))])

    def draw(self, sketch: Sketch, at: Array, u: Array) -> None:
        """Draw it with its corner at a place, along a unit way."""
        h, t, n = self.h, self.texture, np.array([-u[1], u[0]])
        angle = float(np.degrees(np.arctan2(u[1], u[0])))

        def p(x: float, y: float) -> Array:
            return np.asarray(at + x * u + y * n)

        def text(words: str, x: float, y: float, anchor: str = "start") -> None:
            place = p(x, y)
            sketch.text(words, place[0], place[1], h, anchor, angle)  # type: ignore[arg-type]

        short = SHORT * h
        start, end = self.bar
        sketch.stroke(curves2.polyline(np.array([p(-short * SLOPE, short), p(0, 0), p(start, self.high)])), "sign")
        if end > start:
            draw_line(sketch, p(start, self.high), p(end, self.high), "sign")
        if t.made == "removed":
            draw_line(sketch, p(-short * SLOPE, short), p(short * SLOPE, short), "sign")
        elif t.made == "not removed":
            # it touches both legs, and the height of the short one
            radius = short / 3
            sketch.stroke(curves2.circle(p(0, short - radius), radius), "sign")
        if t.all_round:
            sketch.stroke(curves2.circle(p(start, self.high), AROUND * h), "sign")
        for k, words in enumerate(self.lines):
            text(words, start + PAD * h, self.high - (LINE + LINE * k) * h)
        if t.process:
            text(t.process, start + PAD * h, self.high + 0.4 * h)
        if t.lay:
            text(t.lay, short * SLOPE + 0.2 * h, 0.15 * h)
        if t.allowance:
            text(t.allowance, -short * SLOPE - 0.3 * h, 0.2 * h, "end")
