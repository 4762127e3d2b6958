"""One compiled pass over the strands of a view that is cut: what is left of them, and the boundaries of what is laid open."""

from __future__ import annotations

import numpy as np

from ..cutting.clipping import clipped, rows_of, stretches
from ..geometry.compiled import compiled
from ..geometry.held import Held
from .pieces import pieces_of
from .plane_curves import Origins
from .seen import Rows

CUT = 0
"""The class of boundaries of what is laid open."""


@compiled
def _seen_from(opened, outward, eye, tiny):  # type: ignore[no-untyped-def]
    """The state of boundaries in a view, between a cutting plane with its ``outward`` normal (w, 3) and a face or another cutting plane: by row
    where free space lies (m, 3) and whether both leave it free; by boundary whether something may end behind it, and
    whether it is drawn, not seen end-on; and where it changes, by boundary and parameter."""
    start, t, points, normals = opened.start, opened.t, opened.points, opened.normals
    cutting_plane, convex = opened.cutting_plane, opened.convex
    right, up, toward = eye
    n, m = len(start) - 1, len(points)
    away, free = np.empty((m, 3)), np.ones(m, np.bool_)
    contour, drawn = np.zeros(n, np.bool_), np.zeros(n, np.bool_)
    broken, at = np.empty(2 * m, np.int64), np.empty(2 * m)
    k = 0
    for s in range(n):
        x0 = y0 = np.inf
        x1 = y1 = -np.inf
        n0, n1, n2 = outward[cutting_plane[s]]
        g0 = n0 * toward[0] + n1 * toward[1] + n2 * toward[2]
        if abs(g0) < 1e-7:
            g0 = 0.0
        before = 0.0
        for i in range(start[s], start[s + 1]):
            x = points[i, 0] * right[0] + points[i, 1] * right[1] + points[i, 2] * right[2]
            y = points[i, 0] * up[0] + points[i, 1] * up[1] + points[i, 2] * up[2]
            x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
            m0, m1, m2 = normals[i]
            g1 = m0 * toward[0] + m1 * toward[1] + m2 * toward[2]
            if abs(g1) < 1e-7:
                g1 = 0.0
            if i > start[s] and (g1 >= 0) != (before >= 0):
                broken[k], at[k] = s, t[i - 1] + before / (before - g1) * (t[i] - t[i - 1])
                k += 1
            before = g1
            best = max(g0, g1)
            free[i] = (best if convex[s] else min(g0, g1)) >= 0
            floor = 1e-6 if convex[s] and best > 1e-6 else -1e-6
            contour[s] = contour[s] or g0 * g1 <= 0
            w0, w1 = (1.0 if g0 > floor else 0.0), (1.0 if g1 > floor else 0.0)
            a0, a1, a2 = w0 * n0 + w1 * m0, w0 * n1 + w1 * m1, w0 * n2 + w1 * m2
            length = np.sqrt(a0 * a0 + a1 * a1 + a2 * a2)
            if length < 1e-6:
                a0, a1, a2, length = n0, n1, n2, 1.0
            away[i, 0], away[i, 1], away[i, 2] = a0 / length, a1 / length, a2 / length
        drawn[s] = max(x1 - x0, y1 - y0) >= tiny
    return away, free, contour, drawn, broken[:k].copy(), at[:k].copy()


@compiled
def leave(rows, opened, cutting_planes, bodies, safe, face_lift, bare, eye, lengths):  # type: ignore[no-untyped-def]
    """What a cut leaves of strands, and what of the boundaries of what it lays open; nothing but these where it is ``bare``.

    ``bodies`` (k,): those of the strands; ``safe`` (b,): True for bodies of which nothing is taken; ``face_lift`` (f,), mm;
    ``lengths`` (mm): :class:`Lengths`.
    """
    hair, point, reach = lengths
    r, o = rows, opened
    n, k = len(r.cls), len(o.cutting_plane)
    away, free, contour, drawn, turned, turned_t = _seen_from(o, cutting_planes.normals, eye, point)
    kept = np.empty(n, np.bool_)
    for i in range(n):
        kept[i] = safe[bodies[i]]
    wire, low, high, broken, at = clipped(
        wires=(r.start, r.t, r.points, r.cubic),
        own=np.full(n, -1),
        safe=kept,
        cutting_planes=cutting_planes,
        hair=hair,
        short=point,
        reach=reach,
    )
    if bare:
        wire, low, high = wire[:0], low[:0], high[:0]
    new_wire, new_low, new_high, new_broken, new_at = clipped(
        wires=(o.start, o.t, o.points, o.cubic),
        own=o.cutting_plane,
        safe=np.zeros(k, np.bool_),
        cutting_planes=cutting_planes,
        hair=hair,
        short=point,
        reach=reach,
    )
    count = 0
    for i in range(len(new_wire)):
        if drawn[new_wire[i]]:
            new_wire[count], new_low[count], new_high[count] = new_wire[i], new_low[i], new_high[i]
            count += 1
    new_wire, new_low, new_high = new_wire[:count], new_low[:count], new_high[:count]
    firsts, lasts, rows_left = rows_of(r.start, r.t, wire, low, high)
    new_firsts, new_lasts, new_rows = rows_of(o.start, o.t, new_wire, new_low, new_high)
    m, count = rows_left + new_rows, len(wire) + count
    start, t, points, cubic = np.zeros(count + 1, np.int64), np.empty(m), np.empty((m, 3)), np.empty((3, m, 3))
    all_away, all_free = np.empty((m, 3)), np.empty(m, np.bool_)
    out = start, t, points, cubic, all_away, all_free
    then = stretches(
        t=r.t,
        points=r.points,
        cubic=r.cubic,
        away=r.away,
        free=r.free,
        low=low,
        high=high,
        firsts=firsts,
        lasts=lasts,
        begin=0,
        base=0,
        out=out,
    )
    stretches(
        t=o.t,
        points=o.points,
        cubic=o.cubic,
        away=away,
        free=free,
        low=new_low,
        high=new_high,
        firsts=new_firsts,
        lasts=new_lasts,
        begin=then,
        base=len(wire),
        out=out,
    )
    wire = np.concatenate((wire, new_wire + n))
    low, high = np.concatenate((low, new_low)), np.concatenate((high, new_high))
    cls, lift = np.empty(count, np.int64), np.empty(count)
    ends, bent = np.empty(count, np.bool_), np.empty(count, np.bool_)
    # from which stretch on those of a wire come
    stretch = np.full(n + k + 1, count, np.int64)
    for i in range(count - 1, -1, -1):
        s = wire[i]
        stretch[s] = i
        if s < n:
            cls[i], lift[i], ends[i], bent[i] = r.cls[s], r.lift[s], r.contour[s], r.bent[s]
        else:
            b = s - n
            cls[i], lift[i], ends[i], bent[i] = CUT, face_lift[o.face[b]], contour[b], o.bent[b]
    # breaks go to the stretch that they lie in
    most = len(r.broken) + len(turned) + len(broken) + len(new_broken)
    new, new_t, found = np.empty(most, np.int64), np.empty(most), 0
    for i in range(most):
        if i < len(r.broken):
            s, x = r.broken[i], r.at[i]
        elif i < len(r.broken) + len(turned):
            s, x = turned[i - len(r.broken)] + n, turned_t[i - len(r.broken)]
        elif i < most - len(new_broken):
            s, x = broken[i - len(r.broken) - len(turned)], at[i - len(r.broken) - len(turned)]
        else:
            s, x = new_broken[i - most + len(new_broken)] + n, new_at[i - most + len(new_broken)]
        j = stretch[s]
        while j < count and wire[j] == s:
            if low[j] < x < high[j]:
                new[found], new_t[found] = j, x
                found += 1
            j += 1
    return Rows(
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        away=all_away,
        free=all_free,
        cls=cls,
        contour=ends,
        lift=lift,
        bent=bent,
        whole=wire,
        broken=new[:found].copy(),
        at=new_t[:found].copy(),
    )


@compiled
def left_parted(uncut, laid, cutting_planes, bodies, safe, face_lift, bare, eye, size, lengths):  # type: ignore[no-untyped-def]
    """What a cut leaves of strands, parted as :func:`pieces_of` does it, what that comes from, held, and the origins of rays.

    ``uncut``, held: rows, origins and forms of the strands; ``laid``, held: the boundaries of what is laid open; ``eye``:
    :class:`Eye`; ``lengths``: :class:`Lengths`. Raises NothingSeen where nothing
    is left.
    """
    rows, own, sets = uncut.it
    opened = laid.it
    left = leave(
        rows=rows,
        opened=opened,
        cutting_planes=cutting_planes,
        bodies=bodies,
        safe=safe,
        face_lift=face_lift,
        bare=bare,
        eye=eye,
        lengths=lengths,
    )
    parted, rays = pieces_of(left, eye, size)
    origins = Origins(
        edge=own.edge,
        outline=own.outline,
        laid=opened.face,
        hem=own.hem,
        straight=own.straight,
        outline_meshed=own.outline_meshed,
        laid_meshed=opened.meshed,
    )
    return parted, Held((origins, (sets[0], sets[1], opened.forms))), rays
