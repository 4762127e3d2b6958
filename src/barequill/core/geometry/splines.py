"""Splines through points with slopes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled
from .curves3 import Curve3
from .wires import Array, Wires


@compiled
def wire_of(t, p, d, normals, convex, chord):  # type: ignore[no-untyped-def]
    """Rows along a piecewise cubic (n nodes with slopes) so close that chords stay within ``chord`` (mm).

    Returns t, points, cubic (3, m, 3), normals and flags by row.
    """
    n = len(t)
    steps = np.ones(n, np.int64)
    total = 1
    for i in range(n - 1):
        h = t[i + 1] - t[i]
        bulge = 0.0
        for x in range(3):
            bulge += (h / 8 * (d[i, x] - d[i + 1, x])) ** 2
        steps[i] = max(1, int(np.ceil(np.sqrt(np.sqrt(bulge) / chord))))
        total += steps[i]
    rt, rp, rc = np.empty(total), np.empty((total, 3)), np.zeros((3, total, 3))
    rn, rf = np.empty((total, 3)), np.empty(total, np.bool_)
    m = 0
    for i in range(n - 1):
        h, k = t[i + 1] - t[i], steps[i]
        for j in range(k):
            u, e = j / k, 1.0 / k
            rt[m] = t[i] + u * h
            length = 0.0
            for x in range(3):
                c0, c1 = p[i, x], h * d[i, x]
                step = p[i + 1, x] - p[i, x]
                c2, c3 = 3 * step - 2 * c1 - h * d[i + 1, x], c1 + h * d[i + 1, x] - 2 * step
                rp[m, x] = c0 + u * (c1 + u * (c2 + u * c3))
                rc[0, m, x] = e * (c1 + u * (2 * c2 + 3 * u * c3))
                rc[1, m, x] = e * e * (c2 + 3 * u * c3)
                rc[2, m, x] = e * e * e * c3
                rn[m, x] = (1 - u) * normals[i, x] + u * normals[i + 1, x]
                length += rn[m, x] ** 2
            for x in range(3):
                rn[m, x] /= max(np.sqrt(length), 1e-300)
            rf[m] = convex[i] if u < 0.5 else convex[i + 1]
            m += 1
    rt[m], rp[m], rn[m], rf[m] = t[n - 1], p[n - 1], normals[n - 1], convex[n - 1]
    return rt, rp, rc, rn, rf


@compiled
def bezier_poles(t, p, d):  # type: ignore[no-untyped-def]
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
    poles, knots = bezier_poles(t, p, d)
    curve = Curve3("nurbs", float(t[0]), float(t[-1]), degree=3, knots=knots, poles=poles)
    rows, points, cubic, outward, along = wire_of(t, p, d, normals, flags, chord)
    return curve, Wires(np.array([0, len(rows)]), rows, points, cubic), outward, along
