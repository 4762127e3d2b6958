"""The chart: the way from a view's own mm to the sheet's, and back."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Chart:
    """View mm times ``scale``, turned counter-clockwise by ``turn`` degrees, its zero put at ``place``."""

    place: tuple[float, float]
    scale: float
    turn: float = 0.0

    @cached_property
    def matrix(self) -> Array:
        """Rows (2, 2) by which a view's directions become the sheet's."""
        a = np.radians(self.turn)
        return np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]]) if self.turn else np.eye(2)

    def to_sheet(self, points: Array) -> Array:
        """View mm (m, 2) to sheet mm."""
        return (np.asarray(points) * self.scale) @ self.matrix + self.place

    def from_sheet(self, points: Array) -> Array:
        """Sheet mm (m, 2) to view mm."""
        return (np.asarray(points) - self.place) @ self.matrix.T / self.scale

    def direction(self, along: Array) -> Array:
        """A direction (2,) of the view as the sheet has it."""
        return np.asarray(along) @ self.matrix

    def curve(self, curve: Curve2, origin: Array) -> Curve2:
        """A curve of the view, given about a point ``origin`` (2,), on the sheet."""
        turn = np.radians(self.turn)
        offset = np.asarray(self.place) - (origin * self.scale) @ self.matrix
        return curve.moved(self.scale, turn, offset)
