"""Circles through points of the plane."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def gaps_about(off: Array) -> Array:
    """The angles (n,), radians, between neighbours among points (n, 2) about zero, all round."""
    angles = np.sort(np.arctan2(off[:, 1], off[:, 0]))
    return np.diff(np.append(angles, angles[0] + 2 * np.pi))


def circle_through(points: Array) -> tuple[Array, float, float] | None:
    """Centre (2,), radius, and how far the farthest point lies off, of the circle nearest to points (n, 2), n from 3; None
    where they lie in a line (least squares on x² + y² = 2ax + 2by + c)."""
    origin = points.mean(axis=0)
    p = points - origin
    size = float(np.abs(p).max())
    if len(p) < 3 or size == 0.0:
        return None
    p = p / size
    rows = np.c_[2 * p, np.ones(len(p))]
    if np.linalg.svd(rows, compute_uv=False)[-1] < 1e-6:
        return None
    (a, b, c), *_ = np.linalg.lstsq(rows, (p * p).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(c + a * a + b * b, 0.0)))
    off = float(np.abs(np.linalg.norm(p - [a, b], axis=1) - radius).max())
    return origin + size * np.array([a, b]), radius * size, off * size
