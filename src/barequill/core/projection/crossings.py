"""Compiled loops that find where strands cross, and part them there."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .flattening import CROSSING, END, FOLD, row_at, slot_of, spot_at, way_of

ALONG = 2e-3
"""Sine of the angle below which two curves that meet only touch."""


@compiled
def _grown(a, b):  # type: ignore[no-untyped-def]
    more_a, more_b = np.empty(2 * len(a), np.int64), np.empty(2 * len(b))
    more_a[: len(a)] = a
    more_b[: len(b)] = b
    return more_a, more_b


@compiled
def _apart(points, near):  # type: ignore[no-untyped-def]
    """Rows (k,) of points (n, 2) of which no other lies in the same square of that size: most ends are a corner's, in
    which several lines end."""
    size = 16
    while size < 3 * len(points):
        size *= 2
    slots = np.full(size, -1, np.int64)
    cells = np.empty((len(points), 2), np.int64)
    found = np.empty(len(points), np.int64)
    n = 0
    for i in range(len(points)):
        a, b = np.int64(np.floor(points[i, 0] / near + 0.5)), np.int64(np.floor(points[i, 1] / near + 0.5))
        slot = slot_of(a, b, size)
        while slots[slot] >= 0 and (cells[slots[slot], 0] != a or cells[slots[slot], 1] != b):
            slot = (slot + 1) & (size - 1)
        if slots[slot] < 0:
            slots[slot] = i
            cells[i, 0], cells[i, 1] = a, b
            found[n] = i
            n += 1
    return found[:n]


@compiled
def crossed(places, grid, cuts, ends, near):  # type: ignore[no-untyped-def]
    """Places (k,), and shares (k,) of the way along them, where contours (``cuts`` (p,)) cross them or ``ends`` (j, 2) touch."""
    cubic, curved, chord, row, first = places.cubic, places.curved, places.chord, places.row, places.first
    x0, y0, size, columns, rows, begin, held = grid
    found, share = np.empty(256, np.int64), np.empty(256)
    n = 0
    cx, cy = 0, -1
    for c in range(columns * rows):
        cy += 1
        if cy == rows:
            cx, cy = cx + 1, 0
        a, b = begin[c], begin[c + 1]
        if b - a < 2:
            continue
        for m in range(a, b):
            k = held[m]
            # chords go from left to right
            left, right = chord[k, 0] - 2 * near, chord[k, 2] + 2 * near
            lower = min(chord[k, 1], chord[k, 3]) - 2 * near
            upper = max(chord[k, 1], chord[k, 3]) + 2 * near
            for o in range(m + 1, b):
                j = held[o]
                if not (cuts[k] or cuts[j]) or chord[j, 0] > right or chord[j, 2] < left:
                    continue
                y0_, y1_ = chord[j, 1], chord[j, 3]
                if (y0_ > upper and y1_ > upper) or (y0_ < lower and y1_ < lower):
                    continue
                bent = curved[k] or curved[j]
                if curved[k] and curved[j] and abs(row[first[k]] - row[first[j]]) <= 1:
                    continue
                bx, by = chord[k, 2] - chord[k, 0], chord[k, 3] - chord[k, 1]
                dx, dy = chord[j, 2] - chord[j, 0], chord[j, 3] - chord[j, 1]
                ex, ey = chord[j, 0] - chord[k, 0], chord[j, 1] - chord[k, 1]
                cross = bx * dy - by * dx
                lb, ld = np.sqrt(bx * bx + by * by), np.sqrt(dx * dx + dy * dy)
                if abs(cross) <= 1e-7 * lb * ld:
                    continue
                s, r = (ex * dy - ey * dx) / cross, (ex * by - ey * bx) / cross
                if s * lb < -near or (s - 1) * lb > near or r * ld < -near or (r - 1) * ld > near:
                    continue
                s, r = min(max(s, 0.0), 1.0), min(max(r, 0.0), 1.0)
                # of the cells that both run through, the one in which they meet
                mx, my = chord[k, 0] + s * bx, chord[k, 1] + s * by
                if int((mx - x0) / size) != cx or int((my - y0) / size) != cy:
                    continue
                cut_k, cut_j = cuts[j], cuts[k]
                if bent:
                    firm = True
                    for _ in range(3):
                        px = cubic[k, 1, 0] + s * (2 * cubic[k, 2, 0] + 3 * s * cubic[k, 3, 0])
                        py = cubic[k, 1, 1] + s * (2 * cubic[k, 2, 1] + 3 * s * cubic[k, 3, 1])
                        qx = cubic[j, 1, 0] + r * (2 * cubic[j, 2, 0] + 3 * r * cubic[j, 3, 0])
                        qy = cubic[j, 1, 1] + r * (2 * cubic[j, 2, 1] + 3 * r * cubic[j, 3, 1])
                        cross = px * qy - py * qx
                        if abs(cross) <= ALONG * np.sqrt((px * px + py * py) * (qx * qx + qy * qy)):
                            firm = False
                            break
                        at_k, at_j = spot_at(cubic, k, s), spot_at(cubic, j, r)
                        gx, gy = at_j[0] - at_k[0], at_j[1] - at_k[1]
                        ds = min(max((gx * qy - gy * qx) / cross, -0.5), 0.5)
                        dr = min(max((gx * py - gy * px) / cross, -0.5), 0.5)
                        s, r = min(max(s + ds, 0.0), 1.0), min(max(r + dr, 0.0), 1.0)
                    if not firm:
                        continue
                else:
                    # lines that stay within ``near`` of each other do not cut each other
                    cut_k = cut_k and max(abs(ex * dy - ey * dx), abs(ex * dy - ey * dx - cross)) > near * ld
                    cut_j = cut_j and max(abs(ex * by - ey * bx), abs(ex * by - ey * bx - cross)) > near * lb
                if n + 2 > len(found):
                    found, share = _grown(found, share)
                if cut_k:
                    found[n], share[n] = k, s
                    n += 1
                if cut_j:
                    found[n], share[n] = j, r
                    n += 1
    for e in _apart(ends, near / 1000):
        x, y = ends[e, 0], ends[e, 1]
        c = int((x - x0) / size) * rows + int((y - y0) / size)
        for m in range(begin[c], begin[c + 1]):
            k = held[m]
            if x < chord[k, 0] - 2 * near or x > chord[k, 2] + 2 * near:
                continue
            dx, dy = chord[k, 2] - chord[k, 0], chord[k, 3] - chord[k, 1]
            ex, ey = x - chord[k, 0], y - chord[k, 1]
            length = dx * dx + dy * dy
            s = min(max((ex * dx + ey * dy) / length, 0.0), 1.0) if length > 0 else 0.0
            if (ex - s * dx) ** 2 + (ey - s * dy) ** 2 < 4 * near * near:
                if n + 1 > len(found):
                    found, share = _grown(found, share)
                found[n], share[n] = k, s
                n += 1
    return found[:n].copy(), share[:n].copy()


@compiled
def _evened(laid, s, t0, t1, u):  # type: ignore[no-untyped-def]
    """The parameter at a share of the way along strand s, which is straight in the view, between t0 and t1."""
    t, flat, a, b = laid.t, laid.flat, laid.start[s], laid.start[s + 1]
    i0, u0 = row_at(t, a, b, t0)
    i1, u1 = row_at(t, a, b, t1)
    x0, y0 = spot_at(flat, i0, u0)
    x1, y1 = spot_at(flat, i1, u1)
    length = np.hypot(x1 - x0, y1 - y0)
    if length <= 0:
        return t0
    hx, hy = (x1 - x0) / length, (y1 - y0) / length
    target = u * length
    low, high = i0, i1 + 1
    while high - low > 1:
        middle = (low + high) // 2
        if (flat[middle, 0, 0] - x0) * hx + (flat[middle, 0, 1] - y0) * hy <= target:
            low = middle
        else:
            high = middle
    i = low
    c0 = (flat[i, 0, 0] - x0) * hx + (flat[i, 0, 1] - y0) * hy - target
    c1 = flat[i, 1, 0] * hx + flat[i, 1, 1] * hy
    c2 = flat[i, 2, 0] * hx + flat[i, 2, 1] * hy
    c3 = flat[i, 3, 0] * hx + flat[i, 3, 1] * hy
    a_, b_ = (u0 if i == i0 else 0.0), (u1 if i == i1 else 1.0)
    x = (a_ + b_) / 2
    for _ in range(30):
        off = c0 + x * (c1 + x * (c2 + x * c3))
        if off < 0:
            a_ = x
        else:
            b_ = x
        slope = c1 + x * (2 * c2 + 3 * x * c3)
        to = x - off / slope if abs(slope) > 1e-12 * length else -1.0
        if not (a_ < to < b_):
            to = (a_ + b_) / 2
        if abs(to - x) < 1e-14:
            break
        x = to
    return t[i] + x * (t[i + 1] - t[i])


@compiled
def _ordered(rows, keys):  # type: ignore[no-untyped-def]
    """Put rows in the order of their keys, in place; of equal keys the earlier stays first."""
    n = len(rows)
    if n > 64:
        rows[:] = rows[np.argsort(keys[rows], kind="mergesort")]
        return
    for i in range(1, n):
        row = rows[i]
        j = i
        while j > 0 and keys[rows[j - 1]] > keys[row]:
            rows[j] = rows[j - 1]
            j -= 1
        rows[j] = row


@compiled
def parted(  # type: ignore[no-untyped-def]
    laid, places, bent, musts, found, share, near
):
    """All strands (n) parted where they end, fold, change (``musts``: :class:`Cuts`) or are crossed (``found``, ``share``, of
    :func:`crossed`); of cuts closer than ``near`` (mm) one stays. ``bent`` (n,): no lines in space.

    Returns by piece its strand, low and high parameter, and whether a new line begins with it.
    """
    start, t, flat, way, level = laid
    back, strand, t0, t1, first, follow = places.back, places.strand, places.t0, places.t1, places.first, places.follow
    n = len(start) - 1
    # cuts by strand: counted, then laid out
    count = np.zeros(n + 1, np.int64)
    for i in range(len(musts.strand)):
        count[musts.strand[i] + 1] += 1
    # on one place, hits closer than a quarter of ``near`` are one
    lone = np.ones(len(found), np.bool_)
    begin = np.zeros(len(first) + 1, np.int64)
    for i in range(len(found)):
        begin[found[i] + 1] += 1
    for p in range(len(first)):
        begin[p + 1] += begin[p]
    order, filled = np.empty(len(found), np.int64), begin[:-1].copy()
    for i in range(len(found)):
        order[filled[found[i]]] = i
        filled[found[i]] += 1
    for p in range(len(first)):
        if begin[p + 1] - begin[p] < 2:
            continue
        by = order[begin[p] : begin[p + 1]]
        _ordered(by, share)
        # the length of the place, from any piece of it
        k = first[p]
        length = way_of(laid, strand[k], t0[k], t1[k])
        last = share[by[0]]
        for m in range(1, len(by)):
            if (share[by[m]] - last) * length < near / 8:
                lone[by[m]] = False
            else:
                last = share[by[m]]
    for i in range(len(found)):
        if lone[i]:
            k = first[found[i]]
            while k >= 0:
                count[strand[k] + 1] += 1
                k = follow[k]
    for s in range(n):
        count[s + 1] += count[s]
    total = count[n]
    cut_t, cut_rank = np.empty(total), np.empty(total, np.int64)
    fill = count[:-1].copy()
    for i in range(len(musts.strand)):
        s = musts.strand[i]
        cut_t[fill[s]], cut_rank[fill[s]] = musts.t[i], musts.rank[i]
        fill[s] += 1
    for i in range(len(found)):
        if not lone[i]:
            continue
        k = first[found[i]]
        while k >= 0:
            s = strand[k]
            u = 1 - share[i] if back[k] else share[i]
            if level[s] and bent[s]:
                x = _evened(laid, s, t0=t0[k], t1=t1[k], u=u)
            else:
                x = t0[k] + u * (t1[k] - t0[k])
            cut_t[fill[s]], cut_rank[fill[s]] = x, CROSSING
            fill[s] += 1
            k = follow[k]
    owner, low, high = np.empty(total, np.int64), np.empty(total), np.empty(total)
    new = np.zeros(total, np.bool_)
    line_up = np.empty(total, np.int64)
    pieces = 0
    for s in range(n):
        a, b = count[s], count[s + 1]
        own_t, own_rank = cut_t[a:b], cut_rank[a:b]
        by = line_up[: b - a]
        for m in range(b - a):
            by[m] = m
        _ordered(by, own_t)
        # the rank decides within a cluster; ends always stay
        at = own_t[by[0]]
        begun = False
        cluster_t, cluster_rank, cluster_from = 0.0, -1, 0.0
        line, base = True, start[s]
        for m in range(len(by) + 1):
            if m < len(by):
                x, rank = own_t[by[m]], own_rank[by[m]]
                if x < t[start[s]] or x > t[start[s + 1] - 1]:
                    continue
                # they come in order
                base, u = row_at(t, base, start[s + 1], x)
                px, py = spot_at(flat, base, u)
                gx, gy = px - flat[base, 0, 0], py - flat[base, 0, 1]
                w = way[base] + np.sqrt(gx * gx + gy * gy)
            else:
                x, rank, w = 0.0, -1, np.inf
            joins = cluster_rank >= 0 and w - cluster_from < near
            if joins and not (rank == END and cluster_rank == END):
                if rank < cluster_rank:
                    cluster_t, cluster_rank = x, rank
                continue
            # what was gathered becomes one cut
            if cluster_rank >= 0:
                if begun:
                    owner[pieces], low[pieces], high[pieces], new[pieces] = s, at, cluster_t, line
                    pieces += 1
                begun = True
                at, line = cluster_t, cluster_rank <= FOLD
            cluster_t, cluster_rank, cluster_from = x, rank, w
    return owner[:pieces].copy(), low[:pieces].copy(), high[:pieces].copy(), new[:pieces].copy()
