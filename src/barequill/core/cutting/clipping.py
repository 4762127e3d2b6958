"""Compiled loops that clip wires at the walls of a cut, part rays there, and see what is laid open."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled

LOOKS = 4
"""Stretches of each piece of a wire in which it may pass a wall once."""


@compiled
def _height(points, cubic, i, u, normal, offset):  # type: ignore[no-untyped-def]
    h = -offset
    for x in range(3):
        h += normal[x] * (points[i, x] + u * (cubic[0, i, x] + u * (cubic[1, i, x] + u * cubic[2, i, x])))
    return h


@compiled
def _roots(t, points, cubic, a, b, normal, offset, found, n):  # type: ignore[no-untyped-def]
    """Parameters at which a wire (rows a to b - 1) passes a plane, into ``found`` from place n on; the next place."""
    for i in range(a, b - 1):
        h0 = _height(points, cubic, i, 0.0, normal, offset)
        h1 = _height(points, cubic, i + 1, 0.0, normal, offset)
        c1 = c2 = c3 = 0.0
        for x in range(3):
            c1 += normal[x] * cubic[0, i, x]
            c2 += normal[x] * cubic[1, i, x]
            c3 += normal[x] * cubic[2, i, x]
        # the cubic stays between its Bézier heights
        low = min(h0, h1, h0 + c1 / 3, h1 - (c1 + 2 * c2 + 3 * c3) / 3)
        top = max(h0, h1, h0 + c1 / 3, h1 - (c1 + 2 * c2 + 3 * c3) / 3)
        if low > 0 or top < 0:
            continue
        bent = abs(c2) + abs(c3) > 1e-12 * (abs(c1) + 1e-300)
        looks = LOOKS if bent else 1
        u0, g0 = 0.0, h0
        for k in range(looks):
            u1 = (k + 1) / looks
            g1 = h0 + u1 * (c1 + u1 * (c2 + u1 * c3)) if k < looks - 1 else h1
            if g0 == 0.0 and n < len(found):
                found[n] = t[i] + u0 * (t[i + 1] - t[i])
                n += 1
            elif (g0 > 0) != (g1 > 0) and g1 != 0.0 and n < len(found):
                lo, hi, glo, ghi = u0, u1, g0, g1
                u = u0
                for it in range(60):
                    u = lo + (hi - lo) * glo / (glo - ghi) if it % 3 != 2 else (lo + hi) / 2
                    g = h0 + u * (c1 + u * (c2 + u * c3))
                    if g == 0.0 or hi - lo < 1e-15:
                        break
                    if (g > 0) == (glo > 0):
                        lo, glo = u, g
                    else:
                        hi, ghi = u, g
                found[n] = t[i] + u * (t[i + 1] - t[i])
                n += 1
            u0, g0 = u1, g1
        if i == b - 2 and g0 == 0.0 and n < len(found):
            found[n] = t[i + 1]
            n += 1
    return n


@compiled
def passings(start, t, points, cubic, wanted, normal, offset, hair):  # type: ignore[no-untyped-def]
    """Where the ``wanted`` wires (n,) pass a plane, or end within ``hair`` of it: wires (k,) and points (k, 3)."""
    wire, place = np.empty(1024, np.int64), np.empty((1024, 3))
    own = np.empty(4096)
    n = 0
    for s in range(len(start) - 1):
        if not wanted[s]:
            continue
        a, b = start[s], start[s + 1]
        low = top = _height(points, cubic, a, 0.0, normal, offset)
        for i in range(a + 1, b):
            h = _height(points, cubic, i, 0.0, normal, offset)
            low, top = min(low, h), max(top, h)
        if b - a <= 2 and (low > hair or top < -hair):
            continue
        k = _roots(t=t, points=points, cubic=cubic, a=a, b=b, normal=normal, offset=offset, found=own, n=0)
        for e in range(2):
            r = a if e == 0 else b - 1
            if abs(_height(points, cubic, r, 0.0, normal, offset)) <= hair and k < len(own):
                own[k] = t[r]
                k += 1
        for j in range(k):
            if n == len(wire):
                more, far = np.empty(2 * n, np.int64), np.empty((2 * n, 3))
                more[:n] = wire
                far[:n] = place
                wire, place = more, far
            wire[n] = s
            i = a
            while i < b - 2 and t[i + 1] < own[j]:
                i += 1
            width = t[i + 1] - t[i]
            u = (own[j] - t[i]) / width if width > 0 else 0.0
            for x in range(3):
                place[n, x] = points[i, x] + u * (cubic[0, i, x] + u * (cubic[1, i, x] + u * cubic[2, i, x]))
            n += 1
    return wire[:n].copy(), place[:n].copy()


@compiled
def _taken_at(p, normals, offsets, first, group, own, hair):  # type: ignore[no-untyped-def]
    """Whether a point is taken away; where it lies in a plane (the first wall of its ``group``), also whether it lies off
    what the walls there lay open."""
    covered = own < 0
    for c in range(len(first) - 1):
        inside, mine = True, False
        for w in range(first[c], first[c + 1]):
            if group[w] == own:
                mine = True
        for w in range(first[c], first[c + 1]):
            if group[w] == own:
                continue
            h = -offsets[w]
            for x in range(3):
                h += normals[w, x] * p[x]
            if h <= -hair:
                inside = False
                break
        if inside and mine:
            covered = True
        elif inside:
            return True
    return not covered


@compiled
def clipped(start, t, points, cubic, own, safe, normals, offsets, first, group, hair, short):  # type: ignore[no-untyped-def]
    """What is left of wires: of each kept stretch its wire, low and high parameter; and wires and parameters of places
    where a stretch passes a wall and goes on.

    ``own`` (n,): the group of walls (w,) that a wire lies in, or -1; ``safe`` (n,): True for wires that nothing is taken of; ``short``:
    mm below which a stretch is none.
    """
    n = len(start) - 1
    size = 2 * n + 256
    wire, low, high = np.empty(size, np.int64), np.empty(size), np.empty(size)
    broken, at = np.empty(size, np.int64), np.empty(size)
    k = breaks = 0
    found = np.empty(4096)
    p = np.empty(3)
    for s in range(n):
        a, b = start[s], start[s + 1]
        m = 0
        if not safe[s]:
            for w in range(len(offsets)):
                if group[w] != own[s]:
                    m = _roots(
                        t=t,
                        points=points,
                        cubic=cubic,
                        a=a,
                        b=b,
                        normal=normals[w],
                        offset=offsets[w],
                        found=found,
                        n=m,
                    )
        cuts = np.sort(found[:m])
        begin = last = t[a]
        open_ = False
        for j in range(m + 1):
            end = cuts[j] if j < m else t[b - 1]
            if end - last <= 1e-12 * (abs(t[b - 1]) + abs(t[a])) and j < m:
                continue
            gone = False
            if not safe[s]:
                middle = (last + end) / 2
                i = a
                while i < b - 2 and t[i + 1] < middle:
                    i += 1
                width = t[i + 1] - t[i]
                u = (middle - t[i]) / width if width > 0 else 0.0
                for x in range(3):
                    p[x] = points[i, x] + u * (cubic[0, i, x] + u * (cubic[1, i, x] + u * cubic[2, i, x]))
                gone = _taken_at(p=p, normals=normals, offsets=offsets, first=first, group=group, own=own[s], hair=hair)
            if k + 2 > len(wire) or breaks + 2 > len(broken):
                wire, low, high, broken, at = _more(wire, low, high, broken, at)
            if gone:
                if open_:
                    wire[k], low[k], high[k] = s, begin, last
                    k += 1
                open_ = False
            elif not open_:
                begin, open_ = last, True
            else:
                broken[breaks], at[breaks] = s, last
                breaks += 1
            last = end
        if open_:
            wire[k], low[k], high[k] = s, begin, t[b - 1]
            k += 1
    # stretches shorter than can be seen are none
    keep = 0
    for j in range(k):
        s = wire[j]
        if low[j] == t[start[s]] and high[j] == t[start[s + 1] - 1]:
            far = short + 1.0
        else:
            far = 0.0
            q, r = np.empty(3), np.empty(3)
            for e in range(3):
                x = low[j] + e / 2 * (high[j] - low[j])
                i = start[s]
                while i < start[s + 1] - 2 and t[i + 1] < x:
                    i += 1
                width = t[i + 1] - t[i]
                u = (x - t[i]) / width if width > 0 else 0.0
                for c in range(3):
                    q[c] = points[i, c] + u * (cubic[0, i, c] + u * (cubic[1, i, c] + u * cubic[2, i, c]))
                if e:
                    far += np.sqrt(((q - r) ** 2).sum())
                r[:] = q
        if far > short:
            wire[keep], low[keep], high[keep] = s, low[j], high[j]
            keep += 1
    return wire[:keep].copy(), low[:keep].copy(), high[:keep].copy(), broken[:breaks].copy(), at[:breaks].copy()


@compiled
def _more(wire, low, high, broken, at):  # type: ignore[no-untyped-def]
    n, m = len(wire), len(broken)
    a, b, c, d, e = (
        np.empty(2 * n, np.int64),
        np.empty(2 * n),
        np.empty(2 * n),
        np.empty(2 * m, np.int64),
        np.empty(2 * m),
    )
    a[:n], b[:n], c[:n], d[:m], e[:m] = wire, low, high, broken, at
    return a, b, c, d, e


@compiled
def stretches(start, t, points, cubic, away, free, wire, low, high):  # type: ignore[no-untyped-def]
    """The rows of stretches of wires: start, t, points, cubic, away and free, as those are of whole ones."""
    k = len(wire)
    begin = np.zeros(k + 1, np.int64)
    firsts, lasts = np.empty(k, np.int64), np.empty(k, np.int64)
    for j in range(k):
        a, b = start[wire[j]], start[wire[j] + 1]
        i = a
        while i < b - 2 and t[i + 1] <= low[j]:
            i += 1
        m = i
        while m < b - 2 and t[m + 1] < high[j]:
            m += 1
        firsts[j], lasts[j] = i, m
        begin[j + 1] = begin[j] + m - i + 2
    rows = begin[k]
    t2, p2, c2 = np.empty(rows), np.empty((rows, 3)), np.zeros((3, rows, 3))
    a2, f2 = np.empty((rows, 3)), np.empty(rows, np.bool_)
    for j in range(k):
        r = begin[j]
        for i in range(firsts[j], lasts[j] + 1):
            x0, x1 = max(low[j], t[i]), min(high[j], t[i + 1])
            width = t[i + 1] - t[i]
            u = (x0 - t[i]) / width if width > 0 else 0.0
            e = (x1 - x0) / width if width > 0 else 0.0
            t2[r] = x0
            for x in range(3):
                c0, c1, c3, c4 = points[i, x], cubic[0, i, x], cubic[1, i, x], cubic[2, i, x]
                p2[r, x] = c0 + u * (c1 + u * (c3 + u * c4))
                c2[0, r, x] = e * (c1 + u * (2 * c3 + 3 * u * c4))
                c2[1, r, x] = e * e * (c3 + 3 * u * c4)
                c2[2, r, x] = e * e * e * c4
                a2[r, x] = (1 - u) * away[i, x] + u * away[i + 1, x]
            f2[r] = free[i + 1] if u >= 0.5 else free[i]
            r += 1
        i = lasts[j]
        width = t[i + 1] - t[i]
        u = min((high[j] - t[i]) / width, 1.0) if width > 0 else 1.0
        t2[r] = high[j]
        for x in range(3):
            c0, c1, c3, c4 = points[i, x], cubic[0, i, x], cubic[1, i, x], cubic[2, i, x]
            p2[r, x] = points[i + 1, x] if u >= 1.0 else c0 + u * (c1 + u * (c3 + u * c4))
            a2[r, x] = (1 - u) * away[i, x] + u * away[i + 1, x]
        f2[r] = free[i + 1] if u >= 0.5 else free[i]
    return begin, t2, p2, c2, a2, f2


@compiled
def next_stretch(origins, toward, begin, normals, offsets, first, hair):  # type: ignore[no-untyped-def]
    """Of rays (m, 3) from ``begin`` (m,; mm from their origins) on the next stretch outside all cells: where it begins
    and ends (m,), infinity where there is none or no end."""
    m = len(origins)
    low, high = np.empty(m), np.empty(m)
    slope = np.empty(len(offsets))
    for w in range(len(offsets)):
        slope[w] = normals[w, 0] * toward[0] + normals[w, 1] * toward[1] + normals[w, 2] * toward[2]
        if abs(slope[w]) < 1e-12:
            slope[w] = 0.0
    for r in range(m):
        s, end = begin[r], np.inf
        moved = True
        while moved and s < np.inf:
            moved, end = False, np.inf
            for c in range(len(first) - 1):
                a, b = -np.inf, np.inf
                for w in range(first[c], first[c + 1]):
                    h = hair - offsets[w]
                    for x in range(3):
                        h += normals[w, x] * origins[r, x]
                    if slope[w] == 0.0:
                        if h <= 0:
                            b = -np.inf
                    elif slope[w] > 0:
                        a = max(a, -h / slope[w])
                    else:
                        b = min(b, -h / slope[w])
                if not a < b:
                    continue
                if a <= s and s < b:
                    s, moved = b, True
                elif a > s:
                    end = min(end, a)
        low[r], high[r] = s, end
    return low, high


@compiled
def seen_from(start, t, points, normals, convex, toward, right, up, tiny):  # type: ignore[no-untyped-def]
    """The state of boundaries in a view: away, free, contour, drawn, and where it changes, as in :class:`InView`."""
    n, m = len(start) - 1, len(points)
    away, free = np.zeros((m, 3)), np.ones(m, np.bool_)
    contour, drawn = np.zeros(n, np.bool_), np.zeros(n, np.bool_)
    broken, at = np.empty(2 * m, np.int64), np.empty(2 * m)
    k = 0
    for s in range(n):
        x0 = y0 = np.inf
        x1 = y1 = -np.inf
        before = np.zeros(2)
        for i in range(start[s], start[s + 1]):
            x = points[i, 0] * right[0] + points[i, 1] * right[1] + points[i, 2] * right[2]
            y = points[i, 0] * up[0] + points[i, 1] * up[1] + points[i, 2] * up[2]
            x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
            g = np.zeros(2)
            for e in range(2):
                for c in range(3):
                    g[e] += normals[e, i, c] * toward[c]
                if abs(g[e]) < 1e-7:
                    g[e] = 0.0
                if i > start[s] and (g[e] >= 0) != (before[e] >= 0):
                    broken[k], at[k] = s, t[i - 1] + before[e] / (before[e] - g[e]) * (t[i] - t[i - 1])
                    k += 1
                before[e] = g[e]
            best = max(g[0], g[1])
            free[i] = (best if convex[s] else min(g[0], g[1])) >= 0
            floor = 1e-6 if convex[s] and best > 1e-6 else -1e-6
            contour[s] = contour[s] or g[0] * g[1] <= 0
            length = 0.0
            for c in range(3):
                away[i, c] = (normals[0, i, c] if g[0] > floor else 0.0) + (normals[1, i, c] if g[1] > floor else 0.0)
                length += away[i, c] ** 2
            length = np.sqrt(length)
            if length < 1e-6:
                away[i] = normals[0, i]
            else:
                away[i] /= length
        drawn[s] = max(x1 - x0, y1 - y0) >= tiny
    return away, free, contour, drawn, broken[:k].copy(), at[:k].copy()
