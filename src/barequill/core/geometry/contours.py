"""Closed contours of plane curves."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..values import value
from .curves2 import Curve2

Array = NDArray[np.float64]


@value
class Piece:
    """A curve of a contour, and whether it is gone along ``back`` from its end."""

    curve: Curve2
    back: bool = False


@value
class Contours:
    """Closed contours in view mm about the middle of the part, outer ones and those of openings; ``exact`` where they are the lines of
    the view, and not the border of its mesh. ``bends``: lines along which is bent."""

    loops: tuple[tuple[Piece, ...], ...]
    exact: bool
    bends: tuple[Curve2, ...] = ()


def points_of(loop: Sequence[Piece], near: float) -> Array:
    """A loop as a closed polyline (n, 2) that lies within ``near`` (mm) of it; its first point is not repeated."""
    runs = [p.curve.points(near)[::-1] if p.back else p.curve.points(near) for p in loop]
    return np.concatenate([r[:-1] for r in runs])
