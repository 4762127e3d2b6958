"""Elementary curves and surfaces behind NURBS: some modellers write every circle and cylinder as one.

Each function fits by linear least squares and accepts only what agrees within a tolerance, so a
free-form shape stays what it is.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .curves3 import Curve3
from .surfaces import Surface
from .vectors import cross

Array = NDArray[np.float64]


def recognise_curve(curve: Curve3, tolerance: float) -> Curve3 | None:
    """The line or circle that a NURBS curve is within ``tolerance`` (mm), or None."""
    if curve.kind != "nurbs":
        return None
    p = curve.points(np.linspace(curve.t0, curve.t1, 41))
    centre = p.mean(axis=0)
    _, spread, rows = np.linalg.svd(p - centre, full_matrices=False)
    if spread[1] <= tolerance:
        along = (p - p[0]) @ (p[-1] - p[0])
        if np.all(np.diff(along) > 0):
            d = (p[-1] - p[0]) / np.linalg.norm(p[-1] - p[0])
            return Curve3("line", 0.0, float(np.linalg.norm(p[-1] - p[0])), origin=p[0], x=d)
        return None
    if spread[2] > tolerance:
        return None
    flat = (p - centre) @ rows[:2].T
    solution, *_ = np.linalg.lstsq(np.c_[2 * flat, np.ones(len(flat))], (flat**2).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(solution[2] + solution[:2] @ solution[:2], 0.0)))
    if np.abs(np.linalg.norm(flat - solution[:2], axis=1) - radius).max() > tolerance or radius > 1e4 * spread[0]:
        return None
    middle = centre + solution[:2] @ rows[:2]
    x = (p[0] - middle) / np.linalg.norm(p[0] - middle)
    normal = cross(rows[0], rows[1])
    y = cross(normal, x)
    if (p[1] - p[0]) @ y < 0:
        y = -y
    angles = conic_parameters(Curve3("conic", 0, 1, origin=middle, x=radius * x, y=radius * y), p)
    if not np.all(np.diff(angles) > 0):
        return None
    turn = float(angles[-1])
    if np.linalg.norm(p[-1] - p[0]) < 10 * tolerance:
        turn = 2 * np.pi
    return Curve3("conic", 0.0, turn, origin=middle, x=radius * x, y=radius * y)


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
    for option in (_sphere(p, n), _cylinder(p, n), _cone(p, n)):
        if option is None:
            continue
        m = option.normals_at(p)
        agree = np.linalg.norm(cross(m, n), axis=1).max() < 1e-5
        if agree and _distance(option, p) < tolerance:
            return option
    return None


def _frame(z: Array) -> Array:
    helper = np.eye(3)[int(np.argmin(np.abs(z)))]
    x = cross(helper, z)
    x /= np.linalg.norm(x)
    return np.array([x, cross(z, x), z])


def _sphere(p: Array, n: Array) -> Surface | None:
    rows = np.concatenate([np.c_[np.tile(np.eye(3)[k], (len(p), 1)), n[:, k]] for k in range(3)])
    s, *_ = np.linalg.lstsq(rows, p.T.ravel(), rcond=None)
    return Surface("sphere", s[:3], np.eye(3), radius=abs(float(s[3]))) if abs(s[3]) > 0 else None


def _cylinder(p: Array, n: Array) -> Surface | None:
    _, spread, rows = np.linalg.svd(n, full_matrices=False)
    if spread[2] > 1e-5 * spread[0]:
        return None
    frame = _frame(rows[2])
    flat, out = p @ frame[:2].T, n @ frame[:2].T
    table = np.concatenate([np.c_[np.tile(np.eye(2)[k], (len(p), 1)), out[:, k]] for k in range(2)])
    s, *_ = np.linalg.lstsq(table, flat.T.ravel(), rcond=None)
    return Surface("cylinder", s[:2] @ frame[:2], frame, radius=abs(float(s[2])))


def _cone(p: Array, n: Array) -> Surface | None:
    _, spread, rows = np.linalg.svd(n - n.mean(axis=0), full_matrices=False)
    if spread[2] > 1e-5 * spread[0]:
        return None
    axis = rows[2]
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
