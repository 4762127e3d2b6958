"""Elementary curves and surfaces behind NURBS: some modellers write every circle and cylinder as one.

Each function fits by linear least squares and accepts only what agrees within a tolerance, so a
free-form shape stays what it is.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled
from .curves3 import Curve3
from .surfaces import Surface
from .vectors import cross

Array = NDArray[np.float64]
NEITHER, LINE, CIRCLE = range(3)


def recognise_curve(curve: Curve3, tolerance: float) -> Curve3 | None:
    """The line or circle that a NURBS curve is within ``tolerance`` (mm), or None."""
    if curve.kind != "nurbs":
        return None
    p = curve.points(np.linspace(curve.t0, curve.t1, 41))
    kind, origin, x, y, end = _line_or_circle(p, tolerance)
    if kind == LINE:
        return Curve3("line", 0.0, end, origin=origin, x=x)
    return Curve3("conic", 0.0, end, origin=origin, x=x, y=y) if kind == CIRCLE else None


@compiled
def _line_or_circle(p, tolerance):  # type: ignore[no-untyped-def]
    """What points (m, 3) in order lie on: LINE, CIRCLE or NEITHER, then origin, x, y (circle) and the last parameter."""
    m = len(p)
    origin, x, y = np.zeros(3), np.zeros(3), np.zeros(3)
    # a frame in their plane: the longest way from the first point, and what stands off it most
    far = off = 0.0
    for i in range(m):
        d = np.sqrt(((p[i] - p[0]) ** 2).sum())
        if d > far:
            far, x = d, (p[i] - p[0]) / d
    for i in range(m):
        q = p[i] - p[0]
        q = q - (q * x).sum() * x
        d = np.sqrt((q * q).sum())
        if d > off:
            off, y = d, q / d
    if off <= tolerance:
        length = np.sqrt(((p[m - 1] - p[0]) ** 2).sum())
        x = (p[m - 1] - p[0]) / max(length, 1e-300)
        for i in range(1, m):
            if not ((p[i] - p[i - 1]) * x).sum() > 0:
                return NEITHER, origin, x, y, 0.0
        return LINE, p[0].copy(), x, y, length
    z = np.cross(x, y)
    # the circle of least squares: centre (a, b) from its two normal equations about the mean of the points
    mean = np.zeros(3)
    for i in range(m):
        mean += p[i] / m
    flat = np.empty((m, 2))
    uu = uv = vv = ru = rv = r = 0.0
    for i in range(m):
        q = p[i] - mean
        if abs((q * z).sum()) > tolerance:
            return NEITHER, origin, x, y, 0.0
        u, v = (q * x).sum(), (q * y).sum()
        flat[i, 0], flat[i, 1] = u, v
        uu, uv, vv = uu + u * u, uv + u * v, vv + v * v
        ru, rv, r = ru + (u * u + v * v) * u, rv + (u * u + v * v) * v, r + (u * u + v * v) / m
    det = uu * vv - uv * uv
    if not det > 0:
        return NEITHER, origin, x, y, 0.0
    a, b = (ru * vv - rv * uv) / (2 * det), (rv * uu - ru * uv) / (2 * det)
    radius = np.sqrt(r + a * a + b * b)
    if radius > 1e4 * far:
        return NEITHER, origin, x, y, 0.0
    for i in range(m):
        if abs(np.hypot(flat[i, 0] - a, flat[i, 1] - b) - radius) > tolerance:
            return NEITHER, origin, x, y, 0.0
    turn = 0.0
    way = (flat[0, 0] - a) * (flat[1, 1] - flat[0, 1]) - (flat[0, 1] - b) * (flat[1, 0] - flat[0, 0])
    for i in range(1, m):
        u0, v0, u1, v1 = flat[i - 1, 0] - a, flat[i - 1, 1] - b, flat[i, 0] - a, flat[i, 1] - b
        step = np.arctan2(u0 * v1 - v0 * u1, u0 * u1 + v0 * v1)
        if not step * way > 0:
            return NEITHER, origin, x, y, 0.0
        turn += abs(step)
    if np.sqrt(((p[m - 1] - p[0]) ** 2).sum()) < 10 * tolerance:
        turn = 2 * np.pi
    origin = mean + a * x + b * y
    start = (p[0] - origin) - ((p[0] - origin) * z).sum() * z
    start = start / np.sqrt((start * start).sum())
    across = np.cross(z, start) if way > 0 else np.cross(start, z)
    return CIRCLE, origin, radius * start, radius * across, turn


def conic_parameters(curve: Curve3, points: Array) -> Array:
    """Parameters of ordered points on a conic or line, rising from its ``t0``."""
    assert curve.origin is not None and curve.x is not None
    p = points - curve.origin
    if curve.kind == "line":
        return p @ curve.x / (curve.x @ curve.x)
    assert curve.y is not None
    angles = np.arctan2(p @ curve.y / (curve.y @ curve.y), p @ curve.x / (curve.x @ curve.x))
    angles = np.unwrap(angles)
    return angles - 2 * np.pi * np.round((angles[0] - curve.t0) / (2 * np.pi))


def recognise_surface(surface: Surface, uv: Array, tolerance: float) -> Surface | None:
    """The plane, cylinder, cone or sphere that a surface is around ``uv`` (m, 2), or None."""
    low, high = uv.min(axis=0), uv.max(axis=0)
    u, v = np.meshgrid(np.linspace(low[0], high[0], 9), np.linspace(low[1], high[1], 9))
    at = np.c_[u.ravel(), v.ravel()]
    p, n = surface.points(at), surface.normals(at)
    good = np.isfinite(n).all(axis=1) & (np.linalg.norm(n, axis=1) > 0.5)
    p, n = p[good], n[good]
    if len(p) < 9:
        return None
    mean = n.mean(axis=0)
    if np.abs(n - mean).max() < 1e-7:
        candidate = Surface("plane", p.mean(axis=0), _frame(mean / np.linalg.norm(mean)))
        return candidate if np.abs((p - candidate.origin) @ candidate.axes[2]).max() < tolerance else None
    option = _turned(p, n)
    if option is None:
        return None
    agree = np.linalg.norm(cross(option.normals_at(p), n), axis=1).max() < 1e-5
    return option if agree and _distance(option, p) < tolerance else None


def _turned(p: Array, n: Array) -> Surface | None:
    """The cylinder, cone or sphere that points with these normals would lie on, by how the normals spread."""
    # normals of a cylinder are square to its axis; those of a cone stand at one angle to it; those of a sphere at none
    for spread, fit in ((n, _cylinder), (n - n.mean(axis=0), _cone)):
        values, rows = np.linalg.eigh(spread.T @ spread)
        if values[0] <= 1e-10 * values[2]:
            return fit(p, n, rows[:, 0])
    return _sphere(p, n)


def _frame(z: Array) -> Array:
    helper = np.eye(3)[int(np.argmin(np.abs(z)))]
    x = cross(helper, z)
    x /= np.linalg.norm(x)
    return np.array([x, cross(z, x), z])


def _sphere(p: Array, n: Array) -> Surface | None:
    rows = np.concatenate([np.c_[np.tile(np.eye(3)[k], (len(p), 1)), n[:, k]] for k in range(3)])
    s, *_ = np.linalg.lstsq(rows, p.T.ravel(), rcond=None)
    return Surface("sphere", s[:3], np.eye(3), radius=abs(float(s[3]))) if abs(s[3]) > 0 else None


def _cylinder(p: Array, n: Array, axis: Array) -> Surface | None:
    frame = _frame(axis)
    flat, out = p @ frame[:2].T, n @ frame[:2].T
    table = np.concatenate([np.c_[np.tile(np.eye(2)[k], (len(p), 1)), out[:, k]] for k in range(2)])
    s, *_ = np.linalg.lstsq(table, flat.T.ravel(), rcond=None)
    return Surface("cylinder", s[:2] @ frame[:2], frame, radius=abs(float(s[2])))


def _cone(p: Array, n: Array, axis: Array) -> Surface | None:
    apex, *_ = np.linalg.lstsq(n, (n * p).sum(axis=1), rcond=None)
    if ((p - apex) @ axis).mean() < 0:
        axis = -axis
    along = (p - apex) @ axis
    across = np.linalg.norm((p - apex) - along[:, None] * axis, axis=1)
    half = float(np.arctan2(across.mean(), along.mean()))
    reach = float(along.mean())
    return Surface("cone", apex + reach * axis, _frame(axis), radius=reach * np.tan(half), half_angle=half)


def _distance(s: Surface, p: Array) -> float:
    q = p - s.origin
    along = q @ s.axes[2]
    across = np.linalg.norm(q - along[:, None] * s.axes[2], axis=1)
    if s.kind == "sphere":
        return float(np.abs(np.linalg.norm(q, axis=1) - s.radius).max())
    if s.kind == "cylinder":
        return float(np.abs(across - s.radius).max())
    return float(np.abs(across - s.radius - along * np.tan(s.half_angle)).max() * np.cos(s.half_angle))
