"""Exact curves as path data of cubic Béziers and arcs."""

from __future__ import annotations

import base64
from math import atan2, cos, degrees, hypot, pi, sin

import numpy as np
from numpy.typing import NDArray

from ..geometry import nurbs
from ..geometry.curves2 import Curve2

Array = NDArray[np.float64]
PARTS = 8
"""Cubics for one rational Bézier arc: a quarter turn of 40 mm radius then strays less than 0.001 mm."""


def picture_data(png: bytes) -> str:
    """A PNG picture as a data URL."""
    return "data:image/png;base64," + base64.b64encode(png).decode()


def path_data(curve: Curve2, height: float, digits: int = 4) -> str:
    """SVG path data of a curve, y turned down in a sheet of ``height`` mm; arcs stay arcs."""

    def at(x: float, y: float) -> str:
        return f"{x:.{digits}f} {height - y:.{digits}f}"

    if curve.kind == "conic":
        assert curve.a is not None and curve.b is not None
        (cx, cy), (ax, ay), (bx, by) = curve.poles[0].tolist(), curve.a.tolist(), curve.b.tolist()
        # which way it is drawn tells on which side of its chord it bulges
        sweep = 0 if ax * by - ay * bx > 0 else 1
        turned = f"A{hypot(ax, ay):.4f} {hypot(bx, by):.4f} {-degrees(atan2(ay, ax)):.4f} 0 {sweep} "
        t0, t1 = curve.t0, curve.t1
        stops = (t0, (t0 + t1) / 2, t1) if t1 - t0 > pi * 0.9 else (t0, t1)
        points = [at(cx + cos(t) * ax + sin(t) * bx, cy + cos(t) * ay + sin(t) * by) for t in stops]
        return f"M{points[0]}" + "".join(turned + q for q in points[1:])
    if curve.kind == "nurbs":
        text = ""
        for k, arc in enumerate(cubics(curve)):
            points = [at(*p) for p in arc.tolist()]
            text += (f"M{points[0]}" if k == 0 else "") + "C" + " ".join(points[1:])
        return text
    return "M" + "L".join([f"{x:.{digits}f} {height - y:.{digits}f}" for x, y in curve.poles.tolist()])


def cubics(curve: Curve2) -> list[Array]:
    """A conic or NURBS as cubic Béziers, each (4, 2); exact for polynomial ones of degree 3 or less."""
    if curve.kind == "conic":
        n = max(1, int(np.ceil((curve.t1 - curve.t0) / (np.pi / 4) - 1e-9)))
        stops = np.linspace(curve.t0, curve.t1, n + 1)
        k = 4 / 3 * np.tan((stops[1] - stops[0]) / 4)
        p = curve.evaluate(stops)
        d = -np.sin(stops)[:, None] * curve.a + np.cos(stops)[:, None] * curve.b  # type: ignore[operator]
        return [np.array([p[i], p[i] + k * d[i], p[i + 1] - k * d[i + 1], p[i + 1]]) for i in range(n)]
    assert curve.knots is not None
    arcs: list[Array] = []
    for poles, weights in nurbs.beziers(curve.degree, curve.knots, curve.poles, curve.weights):
        if weights is None and curve.degree <= 3:
            arcs.append(_raised(poles))
        else:
            arcs += _approximated(poles, weights)
    return arcs


def _raised(poles: Array) -> Array:
    while len(poles) < 4:
        n = len(poles)
        share = (np.arange(1, n) / n)[:, None]
        poles = np.concatenate([poles[:1], share * poles[:-1] + (1 - share) * poles[1:], poles[-1:]])
    return poles


def _approximated(poles: Array, weights: Array | None) -> list[Array]:
    """A Bézier of high degree, or a rational one, as Hermite cubics."""
    degree = len(poles) - 1
    knots = np.array([0.0] * (degree + 1) + [1.0] * (degree + 1))
    p, d = nurbs.curve_points(degree, knots, poles, weights, np.linspace(0, 1, PARTS + 1))
    h = 1 / PARTS / 3
    return [np.array([p[i], p[i] + h * d[i], p[i + 1] - h * d[i + 1], p[i + 1]]) for i in range(PARTS)]
