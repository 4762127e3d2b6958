"""Splines through points with slopes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled
from .curves3 import Curve3
from .following import wire_of
from .wires import Array, Wires


@compiled
def _beziers(t, p, d):  # type: ignore[no-untyped-def]
    """Poles (3 n - 2, 3) and knots of the piecewise cubic through points with slopes."""
    n = len(t)
    poles, knots = np.empty((3 * n - 2, 3)), np.empty(3 * n + 2)
    for i in range(n):
        poles[3 * i] = p[i]
        if i + 1 < n:
            width = (t[i + 1] - t[i]) / 3
            for x in range(3):
                poles[3 * i + 1, x] = p[i, x] + d[i, x] * width
                poles[3 * i + 2, x] = p[i + 1, x] - d[i + 1, x] * width
        knots[3 * i + 1 : 3 * i + 4] = t[i]
    knots[0] = t[0]
    knots[3 * n - 2 :] = t[n - 1]
    return poles, knots


def fitted_spline(
    t: Array, p: Array, d: Array, normals: Array, flags: NDArray[np.bool_], chord: float
) -> tuple[Curve3, Wires, Array, NDArray[np.bool_]]:
    """The piecewise cubic through points (n, 3) at parameters (n,) with slopes as NURBS, by its Bézier points; as a wire
    within ``chord`` (mm); and the normals and flags given for the points along that."""
    poles, knots = _beziers(t, p, d)
    curve = Curve3("nurbs", float(t[0]), float(t[-1]), degree=3, knots=knots, poles=poles)
    rows, points, cubic, outward, along = wire_of(t, p, d, normals, flags, chord)
    return curve, Wires(np.array([0, len(rows)]), rows, points, cubic), outward, along
