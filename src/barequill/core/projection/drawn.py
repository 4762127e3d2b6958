"""Compiled loops over the pieces of strands: where they are looked at, what is drawn once, what runs on."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .flattening import row_at, slot_of, spot_at
from .records import Runs
from .segments import off_chord

VISIBLE, HIDDEN, DROPPED = 0, 1, 2


@compiled
def sampled(rows, laid, owner, low, high, toward):  # type: ignore[no-untyped-def]
    """Samples of the n pieces of strands, which are ``rows`` in space and ``laid`` flat.

    Returns origins of rays (n, 3, 3), three a piece, lifted off the part; whether the faces there leave each
    free (n, 3); the depth (n,) at half way; both ends (n, 2, 2) in the view; and (n, 2, 2) a point half way along
    the piece and the middle of the points at its quarters, the same for all pieces in one place.
    """
    start, t, flat, way, level = laid
    points, cubic, away, free, lift = rows.points, rows.cubic, rows.away, rows.free, rows.lift
    n = len(owner)
    origins, loose = np.empty((n, 3, 3)), np.empty((n, 3), np.bool_)
    depth, ends, inner, ways = np.empty(n), np.empty((n, 2, 2)), np.empty((n, 2, 2)), np.empty((n, 2))
    last = 0
    for k in range(n):
        s = owner[k]
        # pieces come by strand, in the order of their parameters
        a, b = start[s], start[s + 1]
        if last > a and last < b and t[last] <= low[k]:
            a = last
        i0, u0 = row_at(t, a, b, low[k])
        i1, u1 = row_at(t, i0, b, high[k])
        last, far = i1, lift[s]
        for e in range(2):
            i, u = (i0, u0) if e == 0 else (i1, u1)
            px, py = spot_at(flat, i, u)
            gx, gy = px - flat[i, 0, 0], py - flat[i, 0, 1]
            ends[k, e, 0], ends[k, e, 1], ways[k, e] = px, py, way[i] + np.sqrt(gx * gx + gy * gy)
        for c in range(3):
            i, u = row_at(t, i0, i1 + 2, low[k] + (0.17 + 0.33 * c) * (high[k] - low[k]))
            loose[k, c] = free[i + 1] if u >= 0.5 else free[i]
            d, v = 0.0, 1 - u
            for x in range(3):
                p = points[i, x] + u * (cubic[0, i, x] + u * (cubic[1, i, x] + u * cubic[2, i, x]))
                d += p * toward[x]
                origins[k, c, x] = p + far * (v * away[i, x] + u * away[i + 1, x] + 0.5 * toward[x])
            if c == 1:
                depth[k] = d
        if level[s]:
            for x in range(2):
                inner[k, 0, x] = inner[k, 1, x] = (ends[k, 0, x] + ends[k, 1, x]) / 2
            continue
        inner[k, 1, 0] = inner[k, 1, 1] = 0.0
        for c in range(3):
            w = ways[k, 0] + (c + 1) / 4 * (ways[k, 1] - ways[k, 0])
            i, u = row_at(way, i0, i1 + 2, w)
            px, py = spot_at(flat, i, u)
            if c == 1:
                inner[k, 0, 0], inner[k, 0, 1] = px, py
            else:
                inner[k, 1, 0] += px / 2
                inner[k, 1, 1] += py / 2
    return origins, loose, depth, ends, inner, ways


@compiled
def _named(points, near):  # type: ignore[no-untyped-def]
    """Numbers (n,) of points (n, 2), the same for those within about ``near`` of each other."""
    n = len(points)
    size = 16
    while size < 3 * n:
        size *= 2
    slots = np.full(size, -1, np.int64)
    name = np.empty(n, np.int64)
    follow = np.full(n, -1, np.int64)
    # in cells so wide that most points are near one only
    wide = 8 * near
    for k in range(n):
        x, y = points[k]
        best, least = -1, near
        for i in range(np.int64(np.floor((x - near) / wide)), np.int64(np.floor((x + near) / wide)) + 1):
            for j in range(np.int64(np.floor((y - near) / wide)), np.int64(np.floor((y + near) / wide)) + 1):
                m = slots[slot_of(i, j, size)]
                while m >= 0:
                    away = np.sqrt((points[m, 0] - x) ** 2 + (points[m, 1] - y) ** 2)
                    if away < least:
                        best, least = m, away
                    m = follow[m]
        if best >= 0:
            name[k] = best
        else:
            name[k] = k
            slot = slot_of(np.int64(np.floor(x / wide)), np.int64(np.floor(y / wide)), size)
            follow[k] = slots[slot]
            slots[slot] = k
    return name


@compiled
def drawn_once(pieces, blocked, cls, near):  # type: ignore[no-untyped-def]
    """What is drawn of :class:`Pieces` (n), of those with common ends and middles one; ``blocked`` (n, 3): where something
    stands in front; ``cls``: by strand its class.

    The visible goes before the hidden, a sharp edge before an outline before a smooth one, the nearer before the
    farther. Returns by piece whether it is hidden and the piece ``over`` it (itself where it is drawn).
    """
    ends, inner, loose = pieces.ends, pieces.inner, pieces.loose
    n = len(pieces.owner)
    hidden = np.zeros(n, np.bool_)
    for k in range(n):
        count = 0
        for c in range(3):
            if not loose[k, c] or blocked[k, c]:
                count += 1
        hidden[k] = count >= 2
    spots = np.empty((2 * n, 2))
    # of straight pieces both are the middle
    halves, row = np.empty((2 * n, 2)), np.empty(2 * n, np.int64)
    m = 0
    for k in range(n):
        spots[k], spots[n + k] = ends[k, 0], ends[k, 1]
        for h in range(2):
            if h == 0 or inner[k, 0, 0] != inner[k, 1, 0] or inner[k, 0, 1] != inner[k, 1, 1]:
                halves[m] = inner[k, h]
                m += 1
            row[h * n + k] = m - 1
    end_name, inner_name = _named(spots, 2 * near), _named(halves[:m], 2 * near)[row]
    size = 16
    while size < 3 * n:
        size *= 2
    slots = np.full(size, -1, np.int64)
    leader = np.empty(n, np.int64)
    over = np.full(n, -1, np.int64)
    for k in range(n):
        a, b = min(end_name[k], end_name[n + k]), max(end_name[k], end_name[n + k])
        slot = slot_of(a * 2654435761 + inner_name[k], b * 40503 + inner_name[n + k], size)
        while slots[slot] >= 0:
            m = slots[slot]
            if (
                min(end_name[m], end_name[n + m]) == a
                and max(end_name[m], end_name[n + m]) == b
                and inner_name[m] == inner_name[k]
                and inner_name[n + m] == inner_name[n + k]
            ):
                break
            slot = (slot + 1) & (size - 1)
        if slots[slot] < 0:
            slots[slot] = k
            leader[k] = k
            over[k] = k
            continue
        m = slots[slot]
        leader[k] = m
        best = over[m]
        if _before(best, k, pieces, hidden=hidden, cls=cls, near=near):
            over[m] = k
    for k in range(n):
        if leader[k] != k:
            over[k] = -1 - over[leader[k]]
    for k in range(n):
        if over[k] < 0:
            over[k] = -1 - over[k]
    return hidden, over


@compiled
def _before(k, m, pieces, hidden, cls, near):  # type: ignore[no-untyped-def]
    """True where piece m goes before piece k in one place."""
    owner, depth = pieces.owner, pieces.depth
    if hidden[k] != hidden[m]:
        return hidden[k]
    if cls[owner[k]] != cls[owner[m]]:
        return cls[owner[m]] < cls[owner[k]]
    if abs(depth[k] - depth[m]) > near:
        return depth[m] > depth[k]
    return m < k


@compiled
def shadowed(laid, places, grid, pieces, hidden, over, cls, near):  # type: ignore[no-untyped-def]
    """Pieces parted otherwise than those they lie under: where each point of three along a piece lies within
    ``near`` (mm) of pieces that go before it, ``over`` (n,) is set to one of these."""
    start, t, flat = laid.start, laid.t, laid.flat
    owner, low, high = pieces.owner, pieces.low, pieces.high
    chord, back, strand, t0, t1 = places.chord, places.back, places.strand, places.t0, places.t1
    first, follow = places.first, places.follow
    n = len(owner)
    x0, y0, size, _, rows, begin, held = grid
    # pieces come by strand, in the order of their parameters
    from_piece = np.full(len(start), n, np.int64)
    for k in range(n - 1, -1, -1):
        from_piece[owner[k]] = k
    for s in range(len(start) - 2, -1, -1):
        if from_piece[s] == n:
            from_piece[s] = from_piece[s + 1]
    found = over.copy()
    for k in range(n):
        if over[k] != k:
            continue
        above = -1
        for c in range(3):
            s = owner[k]
            i, u = row_at(t, start[s], start[s + 1], low[k] + (0.2 + 0.3 * c) * (high[k] - low[k]))
            x, y = spot_at(flat, i, u)
            cell = int((x - x0) / size) * rows + int((y - y0) / size)
            above = -1
            for h in range(begin[cell], begin[cell + 1]):
                p = held[h]
                if x < chord[p, 0] - near or x > chord[p, 2] + near:
                    continue
                off, share = off_chord(chord[p], x, y)
                if off > near:
                    continue
                g = first[p]
                while g >= 0 and above < 0:
                    o = strand[g]
                    if o != s:
                        v = 1 - share if back[g] else share
                        at = t0[g] + v * (t1[g] - t0[g])
                        a, b = from_piece[o], from_piece[o + 1]
                        while b - a > 1:
                            middle = (a + b) // 2
                            if low[middle] <= at:
                                a = middle
                            else:
                                b = middle
                        if (
                            a < n
                            and owner[a] == o
                            and over[a] == a
                            and _before(k, a, pieces, hidden=hidden, cls=cls, near=near)
                        ):
                            above = a
                    g = follow[g]
                if above >= 0:
                    break
            if above < 0:
                break
        if above >= 0:
            found[k] = above
    for k in range(n):
        top = found[k]
        while found[top] != top:
            top = found[top]
        found[k] = top
    return found


@compiled
def runs_of(pieces, hidden, over, crumb):  # type: ignore[no-untyped-def]
    """Neighbouring pieces of one state, as :class:`Runs`; what is shorter than a ``crumb`` (mm) goes with its neighbours."""
    owner, ways, parted = pieces.owner, pieces.ways, pieces.new
    n = len(owner)
    state = np.empty(n, np.int64)
    for k in range(n):
        state[k] = DROPPED if over[k] != k else (HIDDEN if hidden[k] else VISIBLE)
    for k in range(n):
        if ways[k, 1] - ways[k, 0] >= crumb:
            continue
        # a crumb goes with its neighbours
        before = state[k - 1] if k > 0 and owner[k - 1] == owner[k] else -1
        after = state[k + 1] if k + 1 < n and owner[k + 1] == owner[k] else -1
        if before == after and before >= 0:
            state[k] = before
        elif before == -1 and after >= 0:
            state[k] = after
        elif after == -1 and before >= 0:
            state[k] = before
    first, last, covered = np.empty(n, np.int64), np.empty(n, np.int64), np.empty(n, np.bool_)
    runs = 0
    for k in range(n):
        if state[k] == DROPPED:
            continue
        goes_on = k > 0 and not parted[k] and owner[k - 1] == owner[k] and state[k - 1] == state[k] and runs > 0
        if goes_on:
            last[runs - 1] = k
        else:
            first[runs], last[runs], covered[runs] = k, k, state[k] == HIDDEN
            runs += 1
    return Runs(first=first[:runs].copy(), last=last[:runs].copy(), covered=covered[:runs].copy())
