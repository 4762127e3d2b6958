"""Compiled loops that clip wires at the cutting planes of a cut, and part rays there."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled

LOOKS = 4
"""Stretches of each piece of a wire in which it may pass a cutting plane once."""
FAR = 1e4
"""How far a ray looks at most, in sizes of the part."""


@compiled
def _height(points, i, normal, offset):  # type: ignore[no-untyped-def]
    """How far row i lies beyond a plane."""
    return points[i, 0] * normal[0] + points[i, 1] * normal[1] + points[i, 2] * normal[2] - offset


@compiled
def _roots(t, points, cubic, a, b, normal, offset, found, n):  # type: ignore[no-untyped-def]
    """Parameters at which a wire (rows a to b - 1) passes a plane, into ``found`` from place n on; the next place."""
    h1 = _height(points, a, normal, offset)
    for i in range(a, b - 1):
        h0 = h1
        h1 = _height(points, i + 1, normal, offset)
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
        if b - a <= 2:
            h0 = _height(points, a, normal, offset)
            h1 = _height(points, a + 1, normal, offset)
            if min(h0, h1) > hair or max(h0, h1) < -hair:
                continue
        k = _roots(t=t, points=points, cubic=cubic, a=a, b=b, normal=normal, offset=offset, found=own, n=0)
        for e in range(2):
            r = a if e == 0 else b - 1
            h = _height(points, r, normal, offset)
            if abs(h) <= hair and k < len(own):
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
def _taken_at(p, cutting_planes, own, hair):  # type: ignore[no-untyped-def]
    """Whether a point is taken away; where it lies in a plane (the first cutting plane of its ``group``), also whether it lies off
    what the cutting planes there lay open."""
    normals, offsets, first, group = cutting_planes
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
def _near_plane(points, a, b, normal, offset, reach):  # type: ignore[no-untyped-def]
    """Whether some of rows a to b - 1 lie beyond a cutting plane and some before it, or within ``reach`` (mm) of it."""
    under = over = False
    for i in range(a, b):
        h = _height(points, i, normal, offset)
        under, over = under or h < reach, over or h > -reach
        if under and over:
            return True
    return False


@compiled
def clipped(wires, own, safe, cutting_planes, hair, short, reach):  # type: ignore[no-untyped-def]
    """What is left of wires (start, t, points, cubic): of each kept stretch its wire, low and high parameter; and wires and parameters of places
    where a stretch passes a cutting plane and goes on.

    ``own`` (n,): the group of ``cutting_planes`` that a wire lies in, or -1; ``safe`` (n,): True for wires that nothing is taken of; ``short``:
    mm below which a stretch is none; ``reach``: mm that a wire does not stray from its rows.
    """
    start, t, points, cubic = wires
    normals, offsets, _, group = cutting_planes
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
                if group[w] != own[s] and _near_plane(points, a, b, normals[w], offsets[w], reach):
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
                gone = _taken_at(p, cutting_planes, own[s], hair)
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
def rows_of(start, t, wire, low, high):  # type: ignore[no-untyped-def]
    """The first and last row (k,) of stretches of wires that goes on to another, and how many rows they have in all."""
    firsts, lasts = np.empty(len(wire), np.int64), np.empty(len(wire), np.int64)
    count = 0
    for j in range(len(wire)):
        a, b = start[wire[j]], start[wire[j] + 1]
        i, m = a, b - 2
        if low[j] != t[a] or high[j] != t[b - 1]:
            while i < b - 2 and t[i + 1] <= low[j]:
                i += 1
            m = i
            while m < b - 2 and t[m + 1] < high[j]:
                m += 1
        firsts[j], lasts[j] = i, m
        count += m - i + 2
    return firsts, lasts, count


@compiled
def stretches(t, points, cubic, away, free, low, high, firsts, lasts, begin, base, out):  # type: ignore[no-untyped-def]
    """Lay the rows of stretches of wires down in ``out``: start, t, points, cubic, away and free as those of whole ones have
    them, from the stretch ``base`` on, which begins with the row ``begin``."""
    start2, t2, p2, c2, a2, f2 = out
    r = begin
    for j in range(len(low)):
        start2[base + j] = r
        for i in range(firsts[j], lasts[j] + 1):
            x0, x1 = max(low[j], t[i]), min(high[j], t[i + 1])
            t2[r] = x0
            if x0 == t[i] and x1 == t[i + 1]:
                for x in range(3):
                    p2[r, x], a2[r, x] = points[i, x], away[i, x]
                    c2[0, r, x], c2[1, r, x], c2[2, r, x] = cubic[0, i, x], cubic[1, i, x], cubic[2, i, x]
                f2[r] = free[i]
                r += 1
                continue
            width = t[i + 1] - t[i]
            u = (x0 - t[i]) / width if width > 0 else 0.0
            e = (x1 - x0) / width if width > 0 else 0.0
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
            c2[0, r, x] = c2[1, r, x] = c2[2, r, x] = 0.0
            a2[r, x] = (1 - u) * away[i, x] + u * away[i + 1, x]
        f2[r] = free[i + 1] if u >= 0.5 else free[i]
        r += 1
    start2[base + len(low)] = r
    return r


@compiled
def _stretch(origin, slope, begin, cutting_planes, hair):  # type: ignore[no-untyped-def]
    """Of a ray from ``begin`` (mm from its origin) on the next stretch outside all cells: where it begins and ends, infinity
    where there is none or no end; ``slope`` (w,): how fast it rises over each cutting plane."""
    normals, offsets, first, _ = cutting_planes
    s, end = begin, np.inf
    moved = True
    while moved and s < np.inf:
        moved, end = False, np.inf
        for c in range(len(first) - 1):
            a, b = -np.inf, np.inf
            for w in range(first[c], first[c + 1]):
                h = hair - offsets[w]
                for x in range(3):
                    h += normals[w, x] * origin[x]
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
    return s, end


@compiled
def stretches_ahead(origins, live, gone, toward, cutting_planes, hair, margin, centre, scale):  # type: ignore[no-untyped-def]
    """Of the ``live`` of rays (m, 3) the next stretches outside all cells, each from so far ``gone`` (mm from its origin) on:
    rays (k,), and as the tracer takes them, in single precision, about ``centre`` and to ``scale``, where the stretch begins
    (k, 3), its direction, and how far to look from there: up to ``margin`` before its end. And the
    rays that come out of cells again later, with how far they have gone then."""
    normals, offsets = cutting_planes.normals, cutting_planes.offsets
    m = len(live)
    slope = np.empty(len(offsets))
    for w in range(len(offsets)):
        slope[w] = normals[w, 0] * toward[0] + normals[w, 1] * toward[1] + normals[w, 2] * toward[2]
        if abs(slope[w]) < 1e-12:
            slope[w] = 0.0
    rays, begin, way, k = np.empty(m, np.int64), np.empty((m, 3), np.float32), np.empty((m, 3), np.float32), 0
    reach = np.empty(m, np.float32)
    on, past, n = np.empty(m, np.int64), np.empty(m), 0
    for i in range(m):
        r = live[i]
        low, high = _stretch(origins[r], slope, gone[i], cutting_planes, hair)
        if low == np.inf:
            continue
        if high - low > margin:
            rays[k], reach[k] = r, min((high - low - margin) * scale, FAR)
            for x in range(3):
                begin[k, x], way[k, x] = (origins[r, x] + low * toward[x] - centre[x]) * scale, toward[x]
            k += 1
        if high < np.inf and _stretch(origins[r], slope, high, cutting_planes, hair)[0] < np.inf:
            on[n], past[n] = r, high
            n += 1
    return rays[:k].copy(), begin[:k].copy(), way[:k].copy(), reach[:k].copy(), on[:n].copy(), past[:n].copy()
