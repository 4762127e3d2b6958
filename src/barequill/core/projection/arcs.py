"""Compiled loops for outlines of closed form: arcs on spheres and tori, and rows along any outline."""

from __future__ import annotations

import numpy as np

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
def torus_arc(origin, axes, big, small, sense, toward, branch, low, high, fit, chord):  # type: ignore[no-untyped-def]
    """The outline of a torus seen aslant, from angle ``low`` to ``high`` about its axis.

    Returns angles (n,), points and slopes (n, 3), outward normals and whether the face curves away there.
    """
    d = axes @ toward
    u = np.linspace(low, high, max(5, int(np.ceil((high - low) / 0.3)) + 1))
    for lap in range(LAPS):
        n = len(u)
        p, s, normal, convex = np.empty((n, 3)), np.empty((n, 3)), np.empty((n, 3)), np.empty(n, np.bool_)
        for i in range(n):
            torus_point(
                origin=origin,
                axes=axes,
                big=big,
                small=small,
                d=d,
                branch=branch,
                u=u[i],
                point=p[i],
                slope=s[i],
                turn=normal[i],
            )
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
            if i == n - 1 or lap == LAPS - 1:
                continue
            h = u[i + 1] - u[i]
            torus_point(
                origin=origin,
                axes=axes,
                big=big,
                small=small,
                d=d,
                branch=branch,
                u=u[i] + h / 2,
                point=true,
                slope=slope,
                turn=dump,
            )
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
def torus_point(origin, axes, big, small, d, branch, u, point, slope, turn):  # type: ignore[no-untyped-def]
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
        q = points[i] - origin
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
        u, v = uv[i]
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
