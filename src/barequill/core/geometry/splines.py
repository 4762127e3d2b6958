"""Splines through points with slopes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .curves3 import Curve3
from .following import wire_of
from .wires import Array, Wires


def fitted_spline(
    t: Array, p: Array, d: Array, normals: Array, flags: NDArray[np.bool_], chord: float
) -> tuple[Curve3, Wires, Array, NDArray[np.bool_]]:
    """The piecewise cubic through points (n, 3) at parameters (n,) with slopes as NURBS, by its Bézier points; as a wire
    within ``chord`` (mm); and the normals and flags given for the points along that."""
    width = np.diff(t)[:, None]
    poles = np.empty((3 * len(t) - 2, 3))
    poles[::3] = p
    poles[1::3] = p[:-1] + d[:-1] * width / 3
    poles[2::3] = p[1:] - d[1:] * width / 3
    knots = np.concatenate([np.repeat(t[:1], 4), np.repeat(t[1:-1], 3), np.repeat(t[-1:], 4)])
    curve = Curve3("nurbs", float(t[0]), float(t[-1]), degree=3, knots=knots, poles=poles)
    rows, points, cubic, outward, along = wire_of(t, p, d, normals, flags, chord)
    return curve, Wires(np.array([0, len(rows)]), rows, points, cubic), outward, along
