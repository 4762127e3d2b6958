"""What lies on a sheet while dimensions are set down one after another, and what it costs to set one down on it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from .clashes import Shapes

TOUCH, CROSS, OUT = 12.0, 3.0, 60.0
"""What it costs where lettering meets something, where lines cross, and beyond the drawing space."""


@dataclass
class Ground:
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

    def _met(self, shapes: list[Any], which: int) -> int:
        """How many of what lies there, lettering (0) or lines (1), are met by some shapes."""
        every = self.texts if which == 0 else self.lines
        if not shapes or not every:
            return 0
        if self._trees is None:
            self._trees = shapely.STRtree(self.texts), shapely.STRtree(self.lines)
            self._upto = len(self.texts), len(self.lines)
        count = len(self._trees[which].query(shapes, predicate="intersects")[0]) if self._upto[which] else 0
        late = np.array(every[self._upto[which] :], object)
        return count + sum(int(shapely.intersects(s, late).sum()) for s in shapes if len(late))

    def cost(self, shapes: Shapes) -> float:
        """What it would cost to set something down here."""
        found = TOUCH * (2 * self._met(shapes.texts, 0) + self._met(shapes.texts, 1))
        found += TOUCH * self._met(shapes.lines, 0)
        found += TOUCH / 2 * len([a for a in shapes.arrows if self.arrows and shapely.intersects(a, self.arrows).any()])
        outside = [t for t in shapes.texts if not self.space.contains(t)]
        beyond = [g for g in shapes.lines if not self.space.contains(g)]
        return found + OUT * len(outside) + OUT / 6 * len(beyond)

    def copy(self) -> Ground:
        """Another that grows by itself."""
        return Ground(self.space, list(self.texts), list(self.lines), list(self.arrows), self._trees, self._upto)

    def take(self, other: Ground) -> None:
        """What lies on another."""
        self.texts, self.lines, self.arrows = other.texts, other.lines, other.arrows
        self._trees, self._upto = other._trees, other._upto

    def crossings(self, shapes: Shapes) -> float:
        """What the lines of something cost that cross those of others."""
        return CROSS * 0.5 * self._met(shapes.lines, 1)
