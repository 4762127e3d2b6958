"""Annotations are solved before they are drawn: first it is found what they say, where they stand, and on what."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...display import Sketch
from ...drawing import Dimension
from ...geometry import curves2
from ...measuring.style import SIGHT, Style
from ...measuring.wording import Lettering
from ...standards.sheets import Rectangle
from ...values import value

Array = NDArray[np.float64]


BELOW = 1.5
"""mm between what is written of a size and what is stacked under it."""


@value
class Under:
    """Where something is stacked under lettering: its upper left corner, the unit way ``along`` which it reads, how wide what
    stands above is, and how far that lies above the corner (``gap``). ``ends``: those of a dimension line, each with the unit
    way in which it goes on; ``room``: what is between its extension lines."""

    corner: Array
    along: Array
    width: float
    gap: float = BELOW
    ends: tuple[tuple[Array, Array], ...] = ()
    room: float = np.inf

    @property
    def across(self) -> Array:
        """The unit way across the lettering."""
        return np.array([-self.along[1], self.along[0]])

    def at(self, shift: tuple[float, float]) -> Array:
        """The corner, moved by so much along and across."""
        return np.asarray(self.corner + shift[0] * self.along + shift[1] * self.across)


class Solved(ABC):
    """An annotation with all that can be asked of it. Places are sheet mm from the zero of what it hangs on."""

    words: str
    """What it says."""
    stands_on: tuple[str, ...]
    """References of the entities that it is about."""
    loose: bool = False
    """True where what it is about is gone, or is not seen so that it can be drawn."""

    @abstractmethod
    def occupies(self) -> Array:
        """Points (n, 2) that its ink reaches."""

    @abstractmethod
    def draw(self, sketch: Sketch) -> None:
        """Put it into a display list."""

    def under(self) -> Under | None:
        """Where a sign that hangs on it is stacked; None where it carries none."""
        return None

    @property
    def box(self) -> Rectangle:
        """The upright box of its ink."""
        low, high = self.occupies().min(axis=0), self.occupies().max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


@value
class Run:
    """Lettering put somewhere: the middle of its foot, and its angle (degrees)."""

    text: Lettering
    foot: Array
    angle: float

    @property
    def up(self) -> Array:
        """The unit vector across the lettering."""
        a = np.radians(self.angle)
        return np.array([-np.sin(a), np.cos(a)])

    @property
    def along(self) -> Array:
        """The unit vector along it."""
        return way_at(self.angle)

    def corners(self) -> Array:
        """Corners (4, 2) of its box."""
        half, up = self.along * self.text.width / 2, self.up * self.text.height
        return self.foot + np.array([-half, half, half + up, -half + up])

    def middle(self) -> tuple[float, float]:
        """The middle of its box."""
        x, y = self.foot + self.up * self.text.height / 2
        return float(x), float(y)

    def draw(self, sketch: Sketch) -> None:
        """Put it into a display list."""
        if self.text.boxed:
            corners = self.corners()
            sketch.stroke(curves2.polyline(np.concatenate([corners, corners[:1]])), "dimension")
        for piece, x, y, height in self.text.pieces:
            at = self.foot + (x - self.text.width / 2) * self.along + y * self.up
            sketch.text(piece, at[0], at[1], height, "start", self.angle)


@value
class Led:
    """Lettering out at the end of a leader: where the leader starts, and both ends of the line under the lettering, the nearer
    first."""

    root: Array
    near: Array
    far: Array

    def corners(self) -> Array:
        """All places (3, 2) of it."""
        return np.array([self.root, self.near, self.far])

    def draw(self, sketch: Sketch) -> None:
        """Put it into a display list."""
        sketch.stroke(curves2.polyline(self.corners()), "dimension")

    def under(self) -> Under:
        """Where something is stacked under it."""
        left = self.near if self.near[0] <= self.far[0] else self.far
        return Under(left - [0.0, BELOW], np.array([1.0, 0.0]), float(abs(self.far[0] - self.near[0])))


def set_aside(text: Lettering, root: Array, aside: tuple[float, float], gap: float) -> tuple[Run, Led]:
    """Lettering so far aside (to the right and up) from the ``root`` of its leader, level and ``gap`` above its line."""
    middle, half = root + np.array(aside), np.array([text.width / 2 + 0.5, 0.0])
    sense = 1.0 if aside[0] >= 0 else -1.0
    return Run(text, middle + [0.0, gap], 0.0), Led(root, middle - sense * half, middle + sense * half)


def each_outside(dimension: Dimension, both: bool, forward: bool) -> tuple[bool, bool]:
    """Of both arrows in their order along a line whether they stand outside: as ``both`` do, or each as it is told of itself, where
    the order is from the left or from below (``forward``) or from the other end."""
    told = [*dimension.ends, "auto", "auto"][:2]
    first, second = (both if t == "auto" else t == "outside" for t in (told if forward else told[::-1]))
    return first, second


def level_text(dimension: Dimension, style: Style) -> bool:
    """Whether the text of a dimension reads from below, in a gap of its line."""
    return style.level if dimension.text == "auto" else dimension.text == "level"


def under_runs(runs: Sequence[Run]) -> Under:
    """Where something is stacked under runs of lettering that read one way."""
    first = runs[0]
    places = np.concatenate([r.corners() for r in runs])
    left, right = (places @ first.along).min(), (places @ first.along).max()
    low = (places @ first.up).min() - BELOW
    return Under(left * first.along + low * first.up, first.along, float(right - left))


def draw_arrow(sketch: Sketch, style: Style, tip: Array, direction: Array) -> None:
    """A filled arrowhead with its tip at a point, pointing along a unit direction."""
    _arrowhead(sketch, style, tip, direction, 1.0)


def draw_sight_arrow(sketch: Sketch, style: Style, tail: Array, tip: Array, direction: Array) -> None:
    """An arrow that tells from where one looks: its wide shaft from ``tail``, its tip, and the way in which it points."""
    base = _arrowhead(sketch, style, tip, direction, SIGHT)
    sketch.stroke(curves2.line(tail, base), "cutting-end")


def _arrowhead(sketch: Sketch, style: Style, tip: Array, direction: Array, size: float) -> Array:
    """Draw an arrowhead of the style's form; the middle of its base."""
    across = np.array([-direction[1], direction[0]])
    side = across * style.arrow_half * size
    base: Array = tip - style.arrow * size * direction
    if style.arrow_form == "stroke":
        lean = (direction + across) * style.arrow * size * 0.42
        sketch.stroke(curves2.line(tip - lean, tip + lean), "visible")
        return tip
    if style.arrow_form == "dot":
        turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        sketch.fill(list(tip + 0.22 * style.arrow * size * np.c_[np.cos(turn), np.sin(turn)]))
        return tip
    if style.arrow_form == "open":
        sketch.stroke(curves2.polyline(np.array([base + side, tip, base - side])), "dimension")
        return tip
    if style.arrow_form == "closed":
        sketch.stroke(curves2.polyline(np.array([tip, base + side, base - side, tip])), "dimension")
        return base
    sketch.fill([tip, base + side, base - side])
    return base


def draw_letter(sketch: Sketch, letter: str, at: Array, height: float) -> None:
    """A letter with its middle at a place, read from below."""
    sketch.text(letter, float(at[0]), float(at[1]) - height / 2, height, "middle")


def draw_line(sketch: Sketch, p: Array, q: Array, pen: str = "dimension", source: str = "") -> None:
    """A straight line, where it has any length."""
    if np.linalg.norm(q - p) > 1e-6:
        sketch.stroke(curves2.line(p, q), pen, source)


def way_at(angle: float) -> Array:
    """The unit vector (2,) at an angle (degrees), counter-clockwise from the right."""
    a = np.radians(angle)
    return np.array([np.cos(a), np.sin(a)])


def readable(u: Array) -> float:
    """Angle (degrees) of lettering along a direction, read from below or from the right."""
    angle = float(np.degrees(np.arctan2(u[1], u[0]))) % 180
    return angle - 180 if angle > 90 + 1e-6 else angle


def pair(p: Any) -> tuple[float, float]:
    """A place as plain figures."""
    return float(p[0]), float(p[1])
