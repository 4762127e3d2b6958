"""The camera of a parallel projection."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..errors import UserError
from ..values import value
from .records import Eye

Array = NDArray[np.float64]

PRINCIPAL: dict[str, tuple[tuple[float, float, float], tuple[float, float, float]]] = {
    "front": ((0, -1, 0), (0, 0, 1)),
    "back": ((0, 1, 0), (0, 0, 1)),
    "top": ((0, 0, 1), (0, 1, 0)),
    "bottom": ((0, 0, -1), (0, -1, 0)),
    "left": ((-1, 0, 0), (0, 0, 1)),
    "right": ((1, 0, 0), (0, 0, 1)),
    "iso": ((1, -1, 1), (0, 0, 1)),
}
"""Named directions: toward the viewer, and up, in the part's frame."""


@value
class Camera:
    """Unit vectors: right and up on the sheet, and toward the viewer; right × up = toward."""

    right: Array
    up: Array
    toward: Array

    @cached_property
    def eye(self) -> Eye:
        """As the compiled loops take it."""
        return Eye(right=self.right, up=self.up, toward=self.toward)

    @cached_property
    def _plane(self) -> Array:
        return np.array([self.right, self.up]).T

    def flat(self, points: Array) -> Array:
        """Points (m, 3) to the view plane (m, 2): x = p · right, y = p · up."""
        return points @ self._plane


def camera(toward: ArrayLike, up: ArrayLike) -> Camera:
    """A camera that looks against ``toward`` (from the part to the viewer) with ``up`` upward.

    Raises
    ------
    UserError
        Where a direction has no length or both are parallel.
    """
    return _camera(tuple(np.asarray(toward, float).ravel().tolist()), tuple(np.asarray(up, float).ravel().tolist()))


@lru_cache(maxsize=256)
def _camera(d: Sequence[float], u: Sequence[float]) -> Camera:
    if len(d) != 3 or len(u) != 3 or not all(map(math.isfinite, [*d, *u])) or math.hypot(*d) < 1e-12:
        raise UserError("The direction of view has no length", "Give three numbers, not all zero, such as 0,-1,0.")
    d = _unit(d)
    right = _cross(u, d)
    if math.hypot(*right) < 1e-9 * max(1e-12, math.hypot(*u)):
        raise UserError(
            "Up and the direction of view are parallel", "Give an up direction square to the direction of view."
        )
    right = _unit(right)
    return Camera(*np.array([right, _cross(d, right), d]))


def _unit(v: Sequence[float]) -> list[float]:
    length = math.hypot(*v)
    return [x / length for x in v]


def _cross(a: Sequence[float], b: Sequence[float]) -> list[float]:
    return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
