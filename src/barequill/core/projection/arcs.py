"""Compiled loops for outlines of closed form: arcs on spheres and tori, and rows along any outline."""

from __future__ import annotations

import numpy as np

from ..cutting.closed_forms import conic_along, dot, steps_along
from ..geometry.compiled import compiled

TURN = 2 * np.pi
LAPS = 20
"""How often an arc is halved at most: seen nearly from the side, the outline of a torus turns within next to no angle."""
WIDE = 0.6
"""Gap (rad) between places seen on the mesh beyond which an arc does not go on."""
PAST = 0.15
"""How far (rad) past a root the mesh may see an outline."""
RING, MERIDIAN, LEVEL, ASLANT = 0, 1, 2, 3
"""The closed curves of which the outline of a torus consists: seen from the side circles about its axis and meridians,
seen along its axis circles, else curves on either side of the tube."""


@compiled
def torus_arc(torus, sense, toward, branch, low, high, fit, chord):  # type: ignore[no-untyped-def]
    """The outline of a torus (see :func:`torus_at`) seen aslant, from angle ``low`` to ``high`` about its axis.

    Returns angles (n,), points and slopes (n, 3), outward normals and whether the face curves away there.
    """
    _, x, y, z, big, small = torus
    d = dot(toward, x), dot(toward, y), dot(toward, z)
    u = np.linspace(low, high, max(5, int(np.ceil((high - low) / 0.3)) + 1))
    for lap in range(LAPS):
        n = len(u)
        p, s, normal, convex = np.empty((n, 3)), np.empty((n, 3)), np.empty((n, 3)), np.empty(n, np.bool_)
        for i in range(n):
            at, slope, c, q, cv, sv = torus_at(torus, d, branch, u[i])
            p[i, 0], p[i, 1], p[i, 2] = at
            s[i, 0], s[i, 1], s[i, 2] = slope
            # curvature along the view: about the axis and round the tube
            eu = -q * d[0] + c * d[1]
            ev = -sv * (c * d[0] + q * d[1]) + cv * d[2]
            bend = eu * eu * cv / max(abs(big + small * cv), 1e-300) + ev * ev / small
            convex[i] = sense * bend > -1e-9 / small
            normal[i, 0] = sense * (cv * (c * x[0] + q * y[0]) + sv * z[0])
            normal[i, 1] = sense * (cv * (c * x[1] + q * y[1]) + sv * z[1])
            normal[i, 2] = sense * (cv * (c * x[2] + q * y[2]) + sv * z[2])
        more = np.empty(2 * n)
        m = 0
        for i in range(n):
            more[m] = u[i]
            m += 1
            if i == n - 1 or lap == LAPS - 1:
                continue
            h = u[i + 1] - u[i]
            true = torus_at(torus, d, branch, u[i] + h / 2)[0]
            stray = bulge = 0.0
            for k in range(3):
                middle = (p[i, k] + p[i + 1, k]) / 2
                stray += (true[k] - (middle + h / 8 * (s[i, k] - s[i + 1, k]))) ** 2
                bulge += (true[k] - middle) ** 2
            if stray > fit * fit or bulge > (16 * chord) ** 2:
                more[m] = u[i] + h / 2
                m += 1
        if m == n:
            break
        u = more[:m].copy()
    return u, p, s, normal, convex


@compiled
def three(v):  # type: ignore[no-untyped-def]
    """A vector as three numbers: loops that hand arrays on take several times as long."""
    return v[0], v[1], v[2]


@compiled
def torus_at(torus, d, branch, u):  # type: ignore[no-untyped-def]
    """Of the outline of a torus (origin, x, y and z as three numbers each; big and small radius), seen along d in its own
    frame: point and slope at angle u, the cosines and sines of that, and of the angle round the tube."""
    o, x, y, z, big, small = torus
    c, s = np.cos(u), np.sin(u)
    f = -(c * d[0] + s * d[1]) / d[2]
    df = -(c * d[1] - s * d[0]) / d[2]
    side = -1.0 if branch < 0 else 1.0
    cv = side / np.sqrt(1 + f * f)
    sv = cv * f
    turn = small * df / (1 + f * f)
    r, rise = big + small * cv, small * sv
    o0, o1, o2 = c * x[0] + s * y[0], c * x[1] + s * y[1], c * x[2] + s * y[2]
    point = o[0] + r * o0 + rise * z[0], o[1] + r * o1 + rise * z[1], o[2] + r * o2 + rise * z[2]
    slope = (
        r * (c * y[0] - s * x[0]) + turn * (cv * z[0] - sv * o0),
        r * (c * y[1] - s * x[1]) + turn * (cv * z[1] - sv * o1),
        r * (c * y[2] - s * x[2]) + turn * (cv * z[2] - sv * o2),
    )
    return point, slope, c, s, cv, sv


@compiled
def conic_arc(conic, span, centre, axis, big, small, sense, toward, chord):  # type: ignore[no-untyped-def]
    """Rows along a circle (3, 3: centre, x, y) over a span (2,) so close that chords stay within ``chord`` (mm), on a torus (on
    a sphere, where ``big`` is 0) about ``axis`` through ``centre``.

    Returns t, points, cubic (3, m, 3), the face's outward normals, and by row whether it bends away from the viewer.
    """
    n = steps_along(conic, span, chord) + 1
    t, points, cubic = np.empty(n), np.empty((n, 3)), np.zeros((3, n, 3))
    outward, free = np.empty((n, 3)), np.empty(n, np.bool_)
    conic_along(conic=conic, span=span, begin=0, end=n, t=t, points=points, cubic=cubic)
    a, d = three(axis), three(toward)
    c0, c1, c2 = three(centre)
    for i in range(n):
        q0, q1, q2 = points[i, 0] - c0, points[i, 1] - c1, points[i, 2] - c2
        along = q0 * a[0] + q1 * a[1] + q2 * a[2]
        r0, r1, r2 = q0 - along * a[0], q1 - along * a[1], q2 - along * a[2]
        r = max(np.sqrt(r0 * r0 + r1 * r1 + r2 * r2), 1e-300)
        r0, r1, r2 = r0 / r, r1 / r, r2 / r
        n0, n1, n2 = q0 - big * r0, q1 - big * r1, q2 - big * r2
        size = max(np.sqrt(n0 * n0 + n1 * n1 + n2 * n2), 1e-300)
        n0, n1, n2 = n0 / size, n1 / size, n2 / size
        outward[i, 0], outward[i, 1], outward[i, 2] = sense * n0, sense * n1, sense * n2
        free[i] = sense > 0
        if big != 0.0:
            # the curvature of the surface along the view: bending away where the outline is to be seen
            b0, b1, b2 = a[1] * r2 - a[2] * r1, a[2] * r0 - a[0] * r2, a[0] * r1 - a[1] * r0
            about = b0 * d[0] + b1 * d[1] + b2 * d[2]
            e0, e1, e2 = n1 * b2 - n2 * b1, n2 * b0 - n0 * b2, n0 * b1 - n1 * b0
            across = e0 * d[0] + e1 * d[1] + e2 * d[2]
            out = n0 * r0 + n1 * r1 + n2 * r2
            free[i] = sense * (about * about * out / r + across * across / small) > -1e-9 / small
    return t, points, cubic, outward, free


@compiled
def arcs_between(roots, seen):  # type: ignore[no-untyped-def]
    """The arcs (k, 2) of a closed curve between its ``roots`` that hold any of the angles ``seen``; by arc True, or False
    where none lies well within it, but it is shorter than a side of the mesh may be."""
    arcs, held = np.empty((len(roots) + 1, 2)), np.empty(len(roots) + 1, np.bool_)
    k = 0
    if len(seen):
        ends = np.empty(len(roots) + 2)
        m = 0
        turned = np.sort(roots % TURN)
        for i in range(len(turned)):
            before = turned[i - 1] if i > 0 else turned[-1] - TURN
            if len(turned) == 1 or turned[i] - before > 1e-6:
                ends[m] = turned[i]
                m += 1
        start = ends[0] if m else 0.0
        if m == 0:
            ends[0] = 0.0
            m = 1
        ends[m] = start + TURN
        own = np.sort(start + (seen - start) % TURN)
        for i in range(m):
            low, high = ends[i], ends[i + 1]
            a, b = np.searchsorted(own, low, side="left"), np.searchsorted(own, high, side="right")
            if a < b and high - low > TURN - 1e-6:
                # nothing parts the curve: it is whole, or ends where the boundary only touches it
                wide, gap = a, -1.0
                for j in range(a, b):
                    step = own[j + 1] - own[j] if j + 1 < b else own[a] + TURN - own[j]
                    if step > gap:
                        wide, gap = j, step
                if gap > WIDE:
                    low = own[wide + 1] if wide + 1 < b else own[a]
                    high = low + TURN - gap
            else:
                # the mesh sees a little past a root, and the root itself: an arc that is on the face is seen further in too
                rim = min(PAST, (high - low) / 4)
                if np.searchsorted(own, high - rim, side="left") <= np.searchsorted(own, low + rim, side="right"):
                    if high - low < WIDE:
                        arcs[k, 0], arcs[k, 1], held[k] = low, high, False
                        k += 1
                    continue
                low = own[a] if own[a] - low > WIDE else low
                high = own[b - 1] if high - own[b - 1] > WIDE else high
            if high > low:
                arcs[k, 0], arcs[k, 1], held[k] = low, high, True
                k += 1
    return arcs[:k].copy(), held[:k].copy()


@compiled
def round_torus(origin, axes, big, points):  # type: ignore[no-untyped-def]
    """The angles of points (n, 3) about the axis of a torus and round its tube (n, 2)."""
    found = np.empty((len(points), 2))
    for i in range(len(points)):
        q = points[i, 0] - origin[0], points[i, 1] - origin[1], points[i, 2] - origin[2]
        x = q[0] * axes[0, 0] + q[1] * axes[0, 1] + q[2] * axes[0, 2]
        y = q[0] * axes[1, 0] + q[1] * axes[1, 1] + q[2] * axes[1, 2]
        z = q[0] * axes[2, 0] + q[1] * axes[2, 1] + q[2] * axes[2, 2]
        found[i, 0], found[i, 1] = np.arctan2(y, x), np.arctan2(z, np.sqrt(x * x + y * y) - big)
    return found


@compiled
def _on_branch(form, side, d, phi, uv):  # type: ignore[no-untyped-def]
    """Which places (n, 2) on a torus lie on a branch of its outline, seen along ``d``: flags (n,)."""
    found = np.empty(len(uv), np.bool_)
    for i in range(len(uv)):
        u, v = uv[i, 0], uv[i, 1]
        if form == RING:
            found[i] = abs(_turned(v - side * np.pi / 2)) < abs(np.cos(u - phi)) * 0.8
        elif form == MERIDIAN:
            found[i] = abs(_turned(u - phi - side * np.pi / 2)) < abs(np.cos(v)) * 0.8
        elif form == LEVEL:
            found[i] = side * np.cos(v) > 0
        else:
            slope = -(np.cos(u) * d[0] + np.sin(u) * d[1]) / d[2]
            found[i] = abs(_turned(v - np.arctan(slope) - (np.pi if side < 0 else 0.0))) < np.pi / 2
    return found


@compiled
def _turned(angle):  # type: ignore[no-untyped-def]
    return (angle + np.pi) % TURN - np.pi


@compiled
def branch_arcs(form, side, d, seen, roots, meets):  # type: ignore[no-untyped-def]
    """The arcs (k, 2) of a branch of a torus's outline, and by arc whether it is on the face for certain: ``seen`` (n, 2)
    and ``roots`` (m, 2) are places about the axis and round the tube, ``meets`` the angles at which it meets another."""
    phi = np.arctan2(d[1], d[0])
    near, ends = _on_branch(form, side, d, phi, seen), _on_branch(form, side, d, phi, roots)
    along = 1 if form == MERIDIAN else 0
    return arcs_between(np.concatenate((roots[ends, along], meets)), seen[near, along])
