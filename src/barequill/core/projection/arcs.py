"""Compiled loops for outlines of closed form: arcs on spheres and tori, and rows along any outline."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled


@compiled
def torus_arc(origin, axes, big, small, sense, toward, branch, low, high, fit, chord):  # type: ignore[no-untyped-def]
    """The outline of a torus seen aslant, from angle ``low`` to ``high`` about its axis.

    Returns angles (n,), points and slopes (n, 3), outward normals and whether the face curves away there.
    """
    d = axes @ toward
    u = np.linspace(low, high, max(5, int(np.ceil((high - low) / 0.3)) + 1))
    for lap in range(8):
        n = len(u)
        p, s, normal, convex = np.empty((n, 3)), np.empty((n, 3)), np.empty((n, 3)), np.empty(n, np.bool_)
        for i in range(n):
            _torus_point(origin, axes, big, small, d, branch, u[i], p[i], s[i], normal[i])
            c, q = np.cos(u[i]), np.sin(u[i])
            cv = normal[i, 0]
            sv = normal[i, 1]
            # curvature along the view: about the axis and round the tube
            eu = -q * d[0] + c * d[1]
            ev = -sv * (c * d[0] + q * d[1]) + cv * d[2]
            bend = eu * eu * cv / max(abs(big + small * cv), 1e-300) + ev * ev / small
            convex[i] = sense * bend > -1e-9 / small
            for x in range(3):
                normal[i, x] = sense * (cv * (c * axes[0, x] + q * axes[1, x]) + sv * axes[2, x])
        more = np.empty(2 * n)
        m = 0
        true, slope, dump = np.empty(3), np.empty(3), np.empty(3)
        for i in range(n):
            more[m] = u[i]
            m += 1
            if i == n - 1 or lap == 7:
                continue
            h = u[i + 1] - u[i]
            _torus_point(origin, axes, big, small, d, branch, u[i] + h / 2, true, slope, dump)
            stray = bulge = 0.0
            for x in range(3):
                guess = (p[i, x] + p[i + 1, x]) / 2 + h / 8 * (s[i, x] - s[i + 1, x])
                stray += (true[x] - guess) ** 2
                bulge += (true[x] - (p[i, x] + p[i + 1, x]) / 2) ** 2
            if stray > fit * fit or bulge > (16 * chord) ** 2:
                more[m] = u[i] + h / 2
                m += 1
        if m == n:
            break
        u = more[:m].copy()
    return u, p, s, normal, convex


@compiled
def _torus_point(origin, axes, big, small, d, branch, u, point, slope, turn):  # type: ignore[no-untyped-def]
    """Point and slope at angle u; ``turn`` holds the cosine and sine of the angle round the tube."""
    c, s = np.cos(u), np.sin(u)
    f = -(c * d[0] + s * d[1]) / d[2]
    df = -(-s * d[0] + c * d[1]) / d[2]
    v = np.arctan(f) + (np.pi if branch < 0 else 0.0)
    dv = df / (1 + f * f)
    cv, sv = np.cos(v), np.sin(v)
    r = big + small * cv
    for x in range(3):
        out, side = c * axes[0, x] + s * axes[1, x], c * axes[1, x] - s * axes[0, x]
        point[x] = origin[x] + r * out + small * sv * axes[2, x]
        slope[x] = r * side + dv * small * (cv * axes[2, x] - sv * out)
    turn[0], turn[1] = cv, sv


@compiled
def conic_arc(origin, x, y, t0, t1, centre, axis, big, small, sense, toward, chord):  # type: ignore[no-untyped-def]
    """Rows along origin + cos t * x + sin t * y so close that chords stay within ``chord`` (mm), on a torus (on a
    sphere, where ``big`` is 0) about ``axis`` through ``centre``.

    Returns t, points, cubic (3, m, 3), the face's outward normals, and by row whether it bends away from the viewer.
    """
    radius = np.sqrt(max(x[0] ** 2 + x[1] ** 2 + x[2] ** 2, y[0] ** 2 + y[1] ** 2 + y[2] ** 2, 1e-24))
    n = max(2, int(np.ceil((t1 - t0) / (2 * np.arccos(1 - min(chord / radius, 0.3))))))
    t, points, cubic = np.empty(n + 1), np.empty((n + 1, 3)), np.zeros((3, n + 1, 3))
    outward, free = np.empty((n + 1, 3)), np.empty(n + 1, np.bool_)
    h = (t1 - t0) / n
    for i in range(n + 1):
        t[i] = t0 + i * h if i < n else t1
        c, s = np.cos(t[i]), np.sin(t[i])
        points[i] = origin + c * x + s * y
    for i in range(n + 1):
        if i < n:
            c, s = np.cos(t[i]), np.sin(t[i])
            e, f = np.cos(t[i + 1]), np.sin(t[i + 1])
            for k in range(3):
                step = points[i + 1, k] - points[i, k]
                d0, d1 = h * (c * y[k] - s * x[k]), h * (e * y[k] - f * x[k])
                cubic[0, i, k], cubic[1, i, k], cubic[2, i, k] = d0, 3 * step - 2 * d0 - d1, d0 + d1 - 2 * step
        q = points[i] - centre
        along = q[0] * axis[0] + q[1] * axis[1] + q[2] * axis[2]
        ring = q - along * axis
        r = max(np.sqrt(ring[0] ** 2 + ring[1] ** 2 + ring[2] ** 2), 1e-300)
        ring = ring / r
        normal = (q - big * ring) / small
        normal = normal / max(np.sqrt(normal[0] ** 2 + normal[1] ** 2 + normal[2] ** 2), 1e-300)
        outward[i] = sense * normal
        if big == 0.0:
            free[i] = sense > 0
            continue
        # the curvature of the surface along the view: bending away where the outline is to be seen
        about = np.cross(axis, ring)
        across = np.cross(normal, about)
        a = about[0] * toward[0] + about[1] * toward[1] + about[2] * toward[2]
        b = across[0] * toward[0] + across[1] * toward[1] + across[2] * toward[2]
        out = normal[0] * ring[0] + normal[1] * ring[1] + normal[2] * ring[2]
        free[i] = sense * (a * a * out / r + b * b / small) > -1e-9 / small
    return t, points, cubic, outward, free
