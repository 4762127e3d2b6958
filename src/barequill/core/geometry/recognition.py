"""Elementary curves and surfaces behind NURBS: some modellers write every circle and cylinder as one.

Each function fits by linear least squares and accepts only what agrees within a tolerance, so a
free-form shape stays what it is.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled
from .curves3 import Curve3
from .surfaces import Surface

Array = NDArray[np.float64]
NEITHER, LINE, CIRCLE = range(3)
KINDS: tuple[Any, ...] = (None, "plane", "cylinder", "cone", "sphere")
GRID = 9
"""Points each way at which a surface is looked at."""


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
def runs_straight(p, tolerance):  # type: ignore[no-untyped-def]
    """Whether points (m, 3) in order lie within ``tolerance`` (mm) of the line from the first to the last, and go along it."""
    m = len(p)
    way = p[m - 1] - p[0]
    length = np.sqrt((way * way).sum())
    if length == 0:
        return False
    way = way / length
    before = 0.0
    for i in range(1, m):
        dx, dy, dz = p[i, 0] - p[0, 0], p[i, 1] - p[0, 1], p[i, 2] - p[0, 2]
        along = dx * way[0] + dy * way[1] + dz * way[2]
        ox, oy, oz = dx - along * way[0], dy - along * way[1], dz - along * way[2]
        if along <= before or ox * ox + oy * oy + oz * oz > tolerance * tolerance:
            return False
        before = along
    return True


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
    """The parameters (m,) of points (m, 3) on a conic or line, which come in their order along it and rise from its ``t0``."""
    assert curve.origin is not None and curve.x is not None
    p = points - curve.origin
    if curve.kind == "line":
        return p @ curve.x / (curve.x @ curve.x)
    assert curve.y is not None
    angles = np.arctan2(p @ curve.y / (curve.y @ curve.y), p @ curve.x / (curve.x @ curve.x))
    angles = np.unwrap(angles)
    return angles - 2 * np.pi * np.round((angles[0] - curve.t0) / (2 * np.pi))


def recognise_surface(surface: Surface, uv: Array, tolerance: float) -> Surface | None:
    """The plane, cylinder, cone or sphere that a surface without normals of its own is around ``uv`` (m, 2), or None."""
    low, high = uv.min(axis=0), uv.max(axis=0)
    grid = np.empty((GRID, GRID, 2))
    grid[..., 0], grid[..., 1] = np.linspace(low[0], high[0], GRID), np.linspace(low[1], high[1], GRID)[:, None]
    kind, origin, axes, radius, half = _elementary(*surface.derivatives(grid.reshape(-1, 2)), tolerance)
    return Surface(KINDS[kind], origin, axes, radius=radius, half_angle=half) if kind else None


@compiled
def _elementary(points, du, dv, tolerance):  # type: ignore[no-untyped-def]
    """What points (m, 3) with these slopes, each (m, 3), lie on: a place in KINDS, then origin, axes (3, 3), radius and
    half angle."""
    p, n, lengths = points.copy(), np.empty_like(points), np.empty(len(points))
    steep = 0.0
    for i in range(len(points)):
        n[i] = np.cross(du[i], dv[i])
        lengths[i] = (n[i] * n[i]).sum()
        if lengths[i] > steep:
            steep = lengths[i]
    m = 0
    for i in range(len(points)):
        # at a pole there is no normal
        if np.isfinite(lengths[i]) and lengths[i] > 1e-16 * steep:
            p[m], n[m], m = points[i], n[i] / np.sqrt(lengths[i]), m + 1
    if m < 9:
        return 0, np.zeros(3), np.eye(3), 0.0, 0.0
    p, n = p[:m], n[:m]
    middle, mean = np.zeros(3), np.zeros(3)
    for i in range(m):
        middle += p[i] / m
        mean += n[i] / m
    plane, spread, about, joint = 0.0, 0.0, np.zeros((3, 3)), 0.0
    whole = np.zeros((3, 3))
    for i in range(m):
        d = n[i] - mean
        plane = max(plane, np.abs(d).max())
        spread += (d * d).sum()
        joint += ((p[i] - middle) * d).sum()
        for a in range(3):
            for b in range(3):
                about[a, b] += d[a] * d[b]
                whole[a, b] += n[i, a] * n[i, b]
    if plane < 1e-7:
        axes = frame_about(mean / np.sqrt((mean * mean).sum()))
        for i in range(m):
            if not abs(((p[i] - middle) * axes[2]).sum()) < tolerance:
                return 0, middle, np.eye(3), 0.0, 0.0
        return 1, middle, axes, 0.0, 0.0
    # normals of a cylinder are square to its axis; those of a cone stand at one angle to it; those of a sphere at none
    values, ways = _principal(whole)
    other, others = _principal(about)
    half = 0.0
    if values[0] <= 1e-10 * values[2]:
        kind, axes = 2, frame_about(ways[:, 0])
        # the centre and radius of least squares: a point stands off the mean of all as its normal does off theirs
        above = below = 0.0
        for i in range(m):
            for k in range(2):
                d = ((n[i] - mean) * axes[k]).sum()
                above, below = above + d * ((p[i] - middle) * axes[k]).sum(), below + d * d
        radius = above / max(below, 1e-300)
        origin = np.zeros(3)
        for k in range(2):
            origin += ((middle - radius * mean) * axes[k]).sum() * axes[k]
    elif other[0] <= 1e-10 * other[2]:
        kind, axis = 3, others[:, 0].copy()
        # the apex lies in all tangent planes; found again from what is left over, it is good to the last digit
        apex = np.zeros(3)
        for _ in range(2):
            left = np.zeros(3)
            for i in range(m):
                left += n[i] * (n[i] * (p[i] - middle - apex)).sum()
            for k in range(3):
                apex += ways[:, k] * (ways[:, k] * left).sum() / max(values[k], 1e-300)
        apex += middle
        if ((middle - apex) * axis).sum() < 0:
            axis = -axis
        along = across = 0.0
        for i in range(m):
            q = p[i] - apex
            rise = (q * axis).sum()
            q = q - rise * axis
            along, across = along + rise / m, across + np.sqrt((q * q).sum()) / m
        half = np.arctan2(across, along)
        origin, axes, radius = apex + along * axis, frame_about(axis), along * np.tan(half)
    else:
        kind, axes, radius = 4, np.eye(3), joint / spread
        origin = middle - radius * mean
    radius = abs(radius)
    z, sine, cosine = axes[2], np.sin(half), np.cos(half)
    for i in range(m):
        q = p[i] - origin
        rise = (q * z).sum()
        level = q - rise * z if kind != 4 else q
        ring = max(np.sqrt((level * level).sum()), 1e-300)
        normal = level / ring
        if kind == 3:
            normal = normal * (cosine * np.sign(radius * cosine + rise * sine)) - sine * z
        off = ring - radius - (rise * np.tan(half) if kind == 3 else 0.0)
        turned = np.cross(normal, n[i])
        if not (abs(off) * cosine < tolerance and (turned * turned).sum() < 1e-10):
            return 0, middle, np.eye(3), 0.0, 0.0
    return kind, origin, axes, radius, half


@compiled
def frame_about(z):  # type: ignore[no-untyped-def]
    """Right-handed axes (3, 3), in rows, the last of which is a unit vector."""
    helper = np.zeros(3)
    helper[np.argmin(np.abs(z))] = 1.0
    axes = np.empty((3, 3))
    x = np.cross(helper, z)
    axes[0] = x / np.sqrt((x * x).sum())
    axes[1], axes[2] = np.cross(z, axes[0]), z
    return axes


@compiled
def frames_of(normals, offsets):  # type: ignore[no-untyped-def]
    """Of planes by their unit normals (w, 3) and offsets (w,) a point, and two directions in each (w, 3, 3), so that the first
    × the second is its normal."""
    found = np.empty((len(normals), 3, 3))
    for w in range(len(normals)):
        axes = frame_about(normals[w])
        for x in range(3):
            found[w, 0, x], found[w, 1, x], found[w, 2, x] = offsets[w] * axes[2, x], axes[0, x], axes[1, x]
    return found


@compiled
def _principal(table):  # type: ignore[no-untyped-def]
    """Eigenvalues (3,), rising, and eigenvectors, in columns, of a symmetric matrix (3, 3), by Jacobi's rotations."""
    a, ways = table.copy(), np.eye(3)
    for _ in range(30):
        if a[0, 1] ** 2 + a[0, 2] ** 2 + a[1, 2] ** 2 <= 1e-40 * (a[0, 0] ** 2 + a[1, 1] ** 2 + a[2, 2] ** 2):
            break
        for p, q in ((0, 1), (0, 2), (1, 2)):
            if a[p, q] == 0.0:
                continue
            gap = a[q, q] - a[p, p]
            angle = 0.5 * np.arctan(2 * a[p, q] / gap) if gap != 0.0 else np.pi / 4
            turn = np.eye(3)
            turn[p, p] = turn[q, q] = np.cos(angle)
            turn[p, q], turn[q, p] = np.sin(angle), -np.sin(angle)
            new = np.zeros((3, 3))
            for i in range(3):
                for j in range(3):
                    for k in range(3):
                        for r in range(3):
                            new[i, j] += turn[k, i] * a[k, r] * turn[r, j]
            a = new
            ways = np.dot(ways, turn)
    values = np.array([a[0, 0], a[1, 1], a[2, 2]])
    order = np.argsort(values)
    return values[order], ways[:, order]
