"""What lies on a sheet while dimensions are set down one after another, and what it costs to set one down on it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..kinds.common.solving import Array
from .clashes import Shapes

Ints = NDArray[np.int64]

TOUCH, CROSS, OUT, CROWD = 12.0, 3.0, 60.0, 2.0
"""What it costs where lettering meets something, where lines cross, beyond the drawing space, and where lettering is nearer to
something than :data:`CLEAR`."""
CLEAR = 1.5
"""mm of paper that lettering should have about it."""


@dataclass
class Obstacles:
    """What lies on the sheet already: lettering and lines, in trees that grow as dimensions are set down."""

    space: Any
    texts: list[Any] = field(default_factory=list)
    lines: list[Any] = field(default_factory=list)
    arrows: list[Any] = field(default_factory=list)
    _trees: tuple[Any, Any] | None = None
    _upto: tuple[int, int] = (0, 0)

    def add(self, shapes: Shapes) -> None:
        """Set something down."""
        self.texts += shapes.texts
        self.lines += shapes.lines
        self.arrows += shapes.arrows

    def _met(self, shapes: list[Any], which: int) -> Ints:
        """How many of what lies there, lettering (0) or lines (1), each of some shapes (n,) meets."""
        every = self.texts if which == 0 else self.lines
        if not shapes or not every:
            return np.zeros(len(shapes), np.int64)
        if self._trees is None:
            self._trees = shapely.STRtree(self.texts), shapely.STRtree(self.lines)
            self._upto = len(self.texts), len(self.lines)
        own = np.array(shapes, object)
        count = np.zeros(len(own), np.int64)
        if self._upto[which]:
            count += np.bincount(self._trees[which].query(own, predicate="intersects")[0], minlength=len(own))
        late = np.array(every[self._upto[which] :], object)
        if len(late):
            count += shapely.intersects(own[:, None], late).sum(axis=1)
        return count

    def _outside(self, shapes: list[Any]) -> NDArray[np.bool_]:
        """Which of some shapes (n,) are not wholly within the drawing space."""
        shapely.prepare(self.space)
        outside: NDArray[np.bool_] = ~shapely.contains(self.space, np.array(shapes, object))
        return outside

    def lettering(self, texts: list[Any]) -> Array:
        """What it would cost to set down lettering here, (n,)."""
        found: Array = TOUCH * (2 * self._met(texts, 0) + self._met(texts, 1)) + OUT * self._outside(texts)
        return found

    def crowding(self, texts: list[Any]) -> float:
        """What lettering costs that has not enough paper about it here."""
        about: list[Any] = list(shapely.buffer(np.array(texts, object), CLEAR, join_style="mitre"))
        return float(CROWD * ((self._met(about, 0) > 0).sum() + (self._met(about, 1) > 0).sum()))

    def lining(self, lines: list[Any]) -> Array:
        """What it would cost to set down lines here, (n,)."""
        found: Array = TOUCH * self._met(lines, 0) + OUT / 6 * self._outside(lines)
        return found

    def struck(self, lines: list[Any]) -> float:
        """What lettering costs that lines would strike through here."""
        return float(TOUCH * self._met(lines, 0).sum())

    def heading(self, arrows: list[Any]) -> Array:
        """What it would cost to set down arrows here, (n,)."""
        if not self.arrows or not arrows:
            return np.zeros(len(arrows))
        own, every = np.array(arrows, object), np.array(self.arrows, object)
        found: Array = TOUCH / 2 * shapely.intersects(own[:, None], every).any(axis=1)
        return found

    def cost(self, shapes: Shapes) -> float:
        """What it would cost to set something down here."""
        found = self.lettering(shapes.texts).sum() + self.lining(shapes.lines).sum()
        return float(found + self.heading(shapes.arrows).sum())

    def copy(self) -> Obstacles:
        """Another that grows by itself."""
        return Obstacles(self.space, list(self.texts), list(self.lines), list(self.arrows), self._trees, self._upto)

    def take(self, other: Obstacles) -> None:
        """The same obstacles as another holds."""
        self.texts, self.lines, self.arrows = other.texts, other.lines, other.arrows
        self._trees, self._upto = other._trees, other._upto

    def crossings(self, shapes: Shapes) -> float:
        """What the lines of something cost that cross those of others."""
        return float(CROSS * 0.5 * self._met(shapes.lines, 1).sum())
