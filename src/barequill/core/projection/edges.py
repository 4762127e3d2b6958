"""Compiled loops over the edges of a part: their state in a view, and where faces turn away along them."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled

GRAZING = 1e-7
"""Cosine below which a face counts as seen edge-on."""
UNSURE = 1e-3
"""The same at a pole of a free-form face, whose normal there is a guess."""
SHARP, SMOOTH, SAME, BORDER = 0, 1, 2, 3


@compiled
def _aside(points, normals, convex, i, k, toward, away):  # type: ignore[no-untyped-def]
    """Where free space lies beside two sheets that meet at row i, as seen by the viewer, into ``away[i]``.

    ``k``: the row from which the edge runs on. Seen along the edge the sheets leave it in two directions; the
    viewer looks into the smaller or the larger angle between them.
    """
    t = points[k + 1] - points[k]
    t = t / max(np.sqrt((t * t).sum()), 1e-300)
    inward = np.empty((2, 3))
    for s in range(2):
        n = normals[s, i]
        for x in range(3):
            y, z = (x + 1) % 3, (x + 2) % 3
            inward[s, x] = n[y] * t[z] - n[z] * t[y]
        if ((inward[s] * normals[1 - s, i]).sum() <= 0) != convex:
            inward[s] = -inward[s]
    middle = inward[0] + inward[1]
    length = np.sqrt((middle * middle).sum())
    if length < 1e-6:
        middle, length = normals[0, i].copy(), 1.0
        side = (middle * toward).sum()
        away[i] = middle if side >= 0 else -middle
        return
    middle /= length
    d = toward - (toward * t).sum() * t
    size = max(np.sqrt((d * d).sum()), 1e-300)
    within = (d * middle).sum() / size > (inward[0] * middle).sum()
    away[i] = middle if within else -middle


@compiled
def edges_in_view(ledger, eye, smooth, tiny):  # type: ignore[no-untyped-def]
    """State of the n edges (m rows) of a :class:`Ledger`; those of a ``sheet`` (a body of surfaces only) are hidden by nothing of
    their own. What reaches no farther than ``tiny`` (mm) in the view is not drawn.

    Returns ``g`` (2, m), the normals toward the viewer; by edge the class (1 edge, 2 outline, 3 smooth, -1 not
    drawn) and whether something may end behind it; by row the free direction (m, 3) and whether the faces
    there leave it free; and edge and parameter of the places where the state may change.
    """
    start, t, points, normals, convex = ledger.start, ledger.t, ledger.points, ledger.normals, ledger.convex
    joint, sheet, curved = ledger.joint, ledger.sheet, ledger.curved
    right, up, toward = eye
    n, m = len(start) - 1, len(points)
    g = np.empty((2, m))
    away = np.zeros((m, 3))
    free = np.ones(m, np.bool_)
    cls = np.full(n, -1, np.int64)
    contour = np.zeros(n, np.bool_)
    break_edge, break_t = np.empty(2 * m, np.int64), np.empty(2 * m)
    breaks = 0
    r0, r1, r2, u0, u1, u2 = right[0], right[1], right[2], up[0], up[1], up[2]
    d0, d1, d2 = toward[0], toward[1], toward[2]
    for e in range(n):
        a, b = start[e], start[e + 1]
        steep = total = within = 0.0
        x0 = y0 = np.inf
        x1 = y1 = -np.inf
        for i in range(a, b):
            p0, p1, p2 = points[i, 0], points[i, 1], points[i, 2]
            x, y = p0 * r0 + p1 * r1 + p2 * r2, p0 * u0 + p1 * u1 + p2 * u2
            x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
            v = normals[0, i, 0] * d0 + normals[0, i, 1] * d1 + normals[0, i, 2] * d2
            w = normals[1, i, 0] * d0 + normals[1, i, 1] * d1 + normals[1, i, 2] * d2
            v, w = 0.0 if abs(v) < GRAZING else v, 0.0 if abs(w) < GRAZING else w
            g[0, i], g[1, i] = v, w
            steep = max(steep, abs(v), abs(w))
            total += max(abs(v), abs(w))
            if i > a and i < b - 1:
                within = max(within, abs(v), abs(w))
        if max(x1 - x0, y1 - y0) < tiny:
            continue
        j = joint[e]
        # along a smooth edge whose faces turn away runs an outline
        # (a pole of a free-form face, at an end, where its normal is not as sure, does not undo that)
        along = steep <= 1e-6 or (steep <= 1e-5 and total <= 5e-7 * (b - a))
        along = along or (b - a > 8 and steep <= UNSURE and within <= 1e-6)
        hem = curved[e] >= 0 and ((j == SAME and along) or (j == SMOOTH and steep == 0.0))
        if j in (SHARP, BORDER):
            cls[e] = 1
        elif hem:
            cls[e] = 2
        elif j == SMOOTH and steep > 0.0 and smooth:
            cls[e] = 3
        else:
            continue
        ends = hem or j == BORDER
        thin = sheet[e]
        for i in range(a, b):
            g0, g1 = g[0, i], g[1, i]
            w0 = w1 = 1.0
            if j == BORDER:
                w0, w1 = (-1.0 if g0 < 0 else 1.0), 0.0
            elif j == SHARP and thin:
                ends = ends or g0 * g1 <= 0
                _aside(
                    points=points,
                    normals=normals,
                    convex=convex[i],
                    i=i,
                    k=i if i + 1 < b else i - 1,
                    toward=toward,
                    away=away,
                )
                continue
            elif j == SHARP:
                best = max(g0, g1)
                free[i] = (best if convex[i] else min(g0, g1)) >= 0
                floor = 1e-6 if convex[i] and best > 1e-6 else -1e-6
                w0, w1 = (1.0 if g0 > floor else 0.0), (1.0 if g1 > floor else 0.0)
                ends = ends or g0 * g1 <= 0
            elif thin and not hem:
                w0 = w1 = 1.0 if g0 + g1 > 0 else -1.0
            elif not hem:
                free[i] = g0 + g1 > 0
            n0, n1, n2 = normals[0, i, 0], normals[0, i, 1], normals[0, i, 2]
            x, y = w0 * n0 + w1 * normals[1, i, 0], w0 * n1 + w1 * normals[1, i, 1]
            z = w0 * n2 + w1 * normals[1, i, 2]
            length = np.sqrt(x * x + y * y + z * z)
            if j == SHARP and length < 1e-6:
                # a knife's edge or a crack seen edge-on: to either side of it there is the free, or the other face
                away[i, 0], away[i, 1], away[i, 2] = n0, n1, n2
            elif length > 0:
                away[i, 0], away[i, 1], away[i, 2] = x / length, y / length, z / length
        contour[e] = ends
        if hem:
            continue
        if j == SHARP:
            sides = 2
        elif j in (BORDER, SMOOTH):
            sides = 1
        else:
            continue
        for s in range(sides):
            h0 = 0.0
            for i in range(a, b):
                h1 = g[s, i] + g[1, i] if j == SMOOTH else g[s, i]
                if i > a and (h0 >= 0) != (h1 >= 0):
                    break_edge[breaks] = e
                    break_t[breaks] = t[i - 1] + h0 / (h0 - h1) * (t[i] - t[i - 1])
                    breaks += 1
                h0 = h1
    return g, cls, contour, away, free, break_edge[:breaks].copy(), break_t[:breaks].copy()


@compiled
def ruled_roots(ledger, g, toward):  # type: ignore[no-untyped-def]
    """Where the normals of cylinders and cones are square to the view along their boundary.

    Returns points (k, 3), their height along the axis (k,), a number (k,) for the face and the side of the
    axis on which they lie: twice the face's row, one more on one side. ``g`` (2, m): of a :class:`Ledger` the normals
    toward the viewer.
    """
    row, side, face = ledger.ruled_row, ledger.ruled_side, ledger.ruled_face
    points, cubic, origin, axis = ledger.points, ledger.cubic, ledger.origin, ledger.axis
    radius, sine, cosine, sense = ledger.radius, ledger.sine, ledger.cosine, ledger.sense
    most = len(row)
    found = np.empty((most, 3))
    along, group = np.empty(most), np.empty(most, np.int64)
    p = np.empty(3)
    n = 0
    for i in range(most):
        r, s, f = row[i], side[i], face[i]
        g0, g1 = g[s, r], g[s, r + 1]
        first = g0 >= 0
        if first == (g1 >= 0):
            continue
        ax, ay, az = axis[f]
        # across the axis and the view: which of the two sides
        cx = ay * toward[2] - az * toward[1]
        cy = az * toward[0] - ax * toward[2]
        cz = ax * toward[1] - ay * toward[0]
        dot = ax * toward[0] + ay * toward[1] + az * toward[2]
        low, high = 0.0, 1.0
        u = min(max(g0 / (g0 - g1), 0.0), 1.0)
        height = across = 0.0
        for it in range(7):
            for k in range(3):
                p[k] = points[r, k] + u * (cubic[0, r, k] + u * (cubic[1, r, k] + u * cubic[2, r, k])) - origin[f, k]
            height = p[0] * ax + p[1] * ay + p[2] * az
            qx, qy, qz = p[0] - height * ax, p[1] - height * ay, p[2] - height * az
            size = np.sqrt(qx * qx + qy * qy + qz * qz)
            across = p[0] * cx + p[1] * cy + p[2] * cz
            flank = -1.0 if radius[f] * cosine[f] + height * sine[f] < 0 else 1.0
            radial = (qx * toward[0] + qy * toward[1] + qz * toward[2]) / max(size, 1e-300)
            now = sense[f] * (flank * cosine[f] * radial - sine[f] * dot)
            if it == 6 or abs(now) < 1e-15:
                break
            if (now >= 0) == first:
                low, g0 = u, now
            else:
                high, g1 = u, now
            width = g0 - g1
            part = min(max(g0 / width, 0.0), 1.0) if abs(width) > 1e-300 else 0.5
            # now and then a plain halving, so that no end stands still
            u = (low + high) / 2 if it == 3 else low + part * (high - low)
        for k in range(3):
            found[n, k] = p[k] + origin[f, k]
        along[n] = height
        group[n] = 2 * f + (1 if across >= 0 else 0)
        n += 1
    return found[:n], along[:n], group[:n]


@compiled
def rulings(ledger, points, along, group, least):  # type: ignore[no-untyped-def]
    """Straight outlines of cylinders and cones of a :class:`Ledger` between the roots of each side of each face, as
    :func:`ruled_roots` gives them: ``points`` (k, 3), ``along`` (k,), ``group`` (k,).

    Returns, of n lines longer than ``least`` (mm), their parameters (2n,), ends (2n, 3), cubic (3, 2n, 3), outward normals
    (2n, 3) and the face of each (n,).
    """
    apex, origin, axis = ledger.apex, ledger.origin, ledger.axis
    radius, sine, cosine = ledger.radius, ledger.sine, ledger.cosine
    k = len(group)
    t, ends = np.zeros(2 * k), np.empty((2 * k, 3))
    outward, face = np.empty((2 * k, 3)), np.empty(k, np.int64)
    order = np.argsort(group, kind="mergesort")
    own = np.empty((k + 1, 3))
    n = i = 0
    while i < k:
        f = group[order[i]] // 2
        j = i
        while j < k and group[order[j]] == group[order[i]]:
            # in the order of their heights
            m = j
            row = order[j]
            while m > i and along[order[m - 1]] > along[row]:
                order[m] = order[m - 1]
                m -= 1
            order[m] = row
            j += 1
        count = j - i
        for m in range(count):
            own[m] = points[order[i + m]]
        if count % 2 and apex[f]:
            # what begins at no root begins at the apex
            height = -radius[f] * cosine[f] / sine[f]
            m = count
            while m > 0 and along[order[i + m - 1]] > height:
                own[m] = own[m - 1]
                m -= 1
            own[m] = origin[f] + height * axis[f]
            count += 1
        elif count % 2:
            own[1] = own[count - 1]
            count = 2 if count > 1 else 0
        for m in range(0, count, 2):
            length = np.sqrt(((own[m + 1] - own[m]) ** 2).sum())
            if length <= least:
                continue
            t[2 * n + 1], face[n] = length, f
            for e in range(2):
                ends[2 * n + e] = own[m + e]
                _ruled_normal(ledger, f, own[m + e], outward[2 * n + e])
            n += 1
        i = j
    cubic = np.zeros((3, 2 * n, 3))
    for m in range(n):
        cubic[0, 2 * m] = ends[2 * m + 1] - ends[2 * m]
    return t[: 2 * n].copy(), ends[: 2 * n].copy(), cubic, outward[: 2 * n].copy(), face[:n].copy()


@compiled
def _ruled_normal(ledger, f, point, out):  # type: ignore[no-untyped-def]
    """The outward normal of a cylinder or cone f of a :class:`Ledger` at a point (3,) on it, into ``out`` (3,)."""
    axis, sine, cosine = ledger.axis, ledger.sine[f], ledger.cosine[f]
    p = point - ledger.origin[f]
    height = p[0] * axis[f, 0] + p[1] * axis[f, 1] + p[2] * axis[f, 2]
    radial = p - height * axis[f]
    radial = radial / max(np.sqrt((radial**2).sum()), 1e-300)
    side = -1.0 if ledger.radius[f] * cosine + height * sine < 0 else 1.0
    for x in range(3):
        out[x] = ledger.sense[f] * (cosine * side * radial[x] - sine * axis[f, x])


@compiled
def mixed_triangles(triangles, face_of, wanted, normals, toward):  # type: ignore[no-untyped-def]
    """Triangles of the faces ``wanted`` that turn away from the viewer in part, and which nodes face him."""
    n = len(normals)
    facing, aside = np.empty(n, np.bool_), np.empty(n, np.bool_)
    for i in range(n):
        v = normals[i, 0] * toward[0] + normals[i, 1] * toward[1] + normals[i, 2] * toward[2]
        facing[i] = v >= -GRAZING
        aside[i] = abs(v) <= GRAZING
    # a face that turns only just to its own boundary has its outline there, on the edge
    both = np.zeros((len(wanted), 2), np.bool_)
    for i in range(len(triangles)):
        for k in range(3):
            c = triangles[i, k]
            if not aside[c]:
                both[face_of[i], 1 if facing[c] else 0] = True
    found = np.empty(len(triangles), np.int64)
    k = 0
    for i in range(len(triangles)):
        f = face_of[i]
        if wanted[f] and both[f, 0] and both[f, 1]:
            a, b, c = facing[triangles[i, 0]], facing[triangles[i, 1]], facing[triangles[i, 2]]
            if a != b or b != c:
                found[k] = i
                k += 1
    return found[:k].copy(), facing
