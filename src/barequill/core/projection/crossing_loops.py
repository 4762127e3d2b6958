"""Compiled loops that find where strands cross or come to lie on each other, and part them there."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .flat_loops import CROSSING, END, FOLD, row_at, spot_at, way_of

ALONG = 2e-3
"""Sine of the angle below which two curves that meet only touch."""


@compiled
def segments_of(start, t, flat, level, fold_strand, fold_t, near):  # type: ignore[no-untyped-def]
    """Short pieces of all strands, those in the same place taken together.

    Returns ``cubic`` (k, 4, 2) of each place in the share of the way along it, ``curved`` (k,), ``chord``
    (k, 4) both ends; of each piece its ``place``, whether it runs ``back``, strand, first row, t0 and t1; and by
    place the first piece, by piece the next one there (-1 at the end).
    """
    n = len(start) - 1
    total = len(fold_t)
    for s in range(n):
        total += 1 if level[s] else start[s + 1] - start[s] - 1
    strand, row = np.empty(total, np.int64), np.empty(total, np.int64)
    t0, t1 = np.empty(total), np.empty(total)
    back = np.zeros(total, np.bool_)
    place = np.empty(total, np.int64)
    follow = np.full(total, -1, np.int64)
    first = np.empty(total, np.int64)
    cubic, chord = np.zeros((total, 4, 2)), np.empty((total, 4))
    curved = np.zeros(total, np.bool_)
    size = 16
    while size < 3 * total:
        size *= 2
    slots = np.full(size, -1, np.int64)
    cells = np.empty((total, 5), np.int64)
    cell = np.empty(5, np.int64)
    k = places = 0
    f = 0
    own = np.empty(4)
    for s in range(n):
        a, b = start[s], start[s + 1]
        pieces = b - a - 1
        folds = 0
        if level[s]:
            while f + folds < len(fold_t) and fold_strand[f + folds] == s:
                folds += 1
            pieces = folds + 1
        for j in range(pieces):
            if level[s]:
                ta = t[a] if j == 0 else fold_t[f + j - 1]
                tb = t[b - 1] if j == folds else fold_t[f + j]
                i, u = row_at(t, a, b, ta)
                x0, y0 = spot_at(flat, i, u)
                h, v = row_at(t, a, b, tb)
                x1, y1 = spot_at(flat, h, v)
            else:
                i = a + j
                ta, tb = t[i], t[i + 1]
                x0, y0 = flat[i, 0]
                x1, y1 = flat[i + 1, 0]
            strand[k], row[k], t0[k], t1[k] = s, i, ta, tb
            turn = x0 > x1 or (x0 == x1 and y0 > y1)
            back[k] = turn
            if turn:
                own[0], own[1], own[2], own[3] = x1, y1, x0, y0
            else:
                own[0], own[1], own[2], own[3] = x0, y0, x1, y1
            number = np.uint64(1469598103934665603)
            for c in range(4):
                cell[c] = np.int64(np.floor(own[c] * 8 / near + 0.5))
            cell[4] = 1 if level[s] else 0
            for c in range(5):
                number = (number ^ np.uint64(cell[c])) * np.uint64(1099511628211)
                number ^= number >> np.uint64(29)
            slot = np.int64(number & np.uint64(size - 1))
            while slots[slot] >= 0:
                same = True
                for c in range(5):
                    same = same and cells[slots[slot], c] == cell[c]
                if same:
                    break
                slot = (slot + 1) & (size - 1)
            if slots[slot] >= 0:
                p = slots[slot]
                follow[k] = follow[first[p]]
                follow[first[p]] = k
                place[k] = p
            else:
                p = places
                places += 1
                slots[slot] = p
                cells[p] = cell
                first[p] = k
                place[k] = p
                chord[p] = own
                curved[p] = not level[s]
                if level[s]:
                    cubic[p, 0, 0], cubic[p, 0, 1] = own[0], own[1]
                    cubic[p, 1, 0], cubic[p, 1, 1] = own[2] - own[0], own[3] - own[1]
                else:
                    for x in range(2):
                        c0, c1, c2, c3 = flat[i, 0, x], flat[i, 1, x], flat[i, 2, x], flat[i, 3, x]
                        if turn:
                            c0, c1, c2, c3 = c0 + c1 + c2 + c3, -c1 - 2 * c2 - 3 * c3, c2 + 3 * c3, -c3
                        cubic[p, 0, x], cubic[p, 1, x], cubic[p, 2, x], cubic[p, 3, x] = c0, c1, c2, c3
            k += 1
        f += folds
    return cubic[:places], curved[:places], chord[:places], place, back, strand, row, t0, t1, first[:places], follow


@compiled
def _column(chord, k, x0, x1, slack):  # type: ignore[no-untyped-def]
    """Lowest and highest y of a place between x0 and x1, with slack."""
    ax, ay, bx, by = chord[k]
    dx = bx - ax
    ya, yb = ay, by
    if dx > 0:
        u = min(max((x0 - slack - ax) / dx, 0.0), 1.0)
        v = min(max((x1 + slack - ax) / dx, 0.0), 1.0)
        ya, yb = ay + u * (by - ay), ay + v * (by - ay)
    return min(ya, yb) - slack, max(ya, yb) + slack


@compiled
def grid_of(chord, slack):  # type: ignore[no-untyped-def]
    """A grid over all places: origin, size of a cell, columns and rows, and which places run through each cell."""
    n = len(chord)
    x0 = y0 = np.inf
    x1 = y1 = -np.inf
    reach = 0.0
    for k in range(n):
        x0, x1 = min(x0, chord[k, 0], chord[k, 2]), max(x1, chord[k, 0], chord[k, 2])
        y0, y1 = min(y0, chord[k, 1], chord[k, 3]), max(y1, chord[k, 1], chord[k, 3])
        reach += np.hypot(chord[k, 2] - chord[k, 0], chord[k, 3] - chord[k, 1])
    x0, y0, x1, y1 = x0 - 2 * slack, y0 - 2 * slack, x1 + 2 * slack, y1 + 2 * slack
    wide, high = x1 - x0, y1 - y0
    size = max(np.sqrt(wide * high / max(n, 1)), reach / max(3 * n, 1), max(wide, high) / 4000, 4 * slack)
    columns, rows = int(wide / size) + 1, int(high / size) + 1
    begin = np.zeros(columns * rows + 1, np.int64)
    held = np.empty(0, np.int64)
    for lap in range(2):
        if lap == 1:
            for c in range(columns * rows):
                begin[c + 1] += begin[c]
            held = np.empty(begin[columns * rows], np.int64)
            # filled from the back of each cell
        for k in range(n):
            i0 = int((min(chord[k, 0], chord[k, 2]) - slack - x0) / size)
            i1 = int((max(chord[k, 0], chord[k, 2]) + slack - x0) / size)
            for i in range(i0, i1 + 1):
                low, top = _column(chord, k, x0 + i * size, x0 + (i + 1) * size, slack)
                for j in range(int((low - y0) / size), int((top - y0) / size) + 1):
                    c = i * rows + j
                    if lap == 0:
                        begin[c + 1] += 1
                    else:
                        begin[c + 1] -= 1
                        held[begin[c + 1]] = k
    # after filling, begin[c + 1] is where cell c begins
    ends = np.empty(columns * rows + 1, np.int64)
    for c in range(columns * rows):
        ends[c] = begin[c + 1]
    ends[columns * rows] = len(held)
    return x0, y0, size, columns, rows, ends, held


@compiled
def off_chord(chord, x, y):  # type: ignore[no-untyped-def]
    """How far a point is from a chord (4,), and the share of the way along it to the point nearest."""
    dx, dy = chord[2] - chord[0], chord[3] - chord[1]
    ex, ey = x - chord[0], y - chord[1]
    length = dx * dx + dy * dy
    share = min(max((ex * dx + ey * dy) / length, 0.0), 1.0) if length > 0 else 0.0
    return np.hypot(ex - share * dx, ey - share * dy), share


@compiled
def _lies_on(x, y, s, chord, strand, first, follow, grid, near):  # type: ignore[no-untyped-def]
    """True where a point of strand s lies within ``near`` of another strand."""
    x0, y0, size, _, rows, begin, held = grid
    cell = int((x - x0) / size) * rows + int((y - y0) / size)
    for h in range(begin[cell], begin[cell + 1]):
        p = held[h]
        if off_chord(chord[p], x, y)[0] > near:
            continue
        g = first[p]
        while g >= 0:
            if strand[g] != s:
                return True
            g = follow[g]
    return False


@compiled
def joinings(start, t, flat, way, wanted, chord, strand, first, follow, grid, near):  # type: ignore[no-untyped-def]
    """Strands (k,) and parameters (k,) where the ``wanted`` ones (n,) come to lie on another strand, or leave it.

    Where they do so for less than a few ``near`` they only cross or meet it.
    """
    found_strand, found_t = np.empty(len(t), np.int64), np.empty(len(t))
    k = 0
    for s in range(len(start) - 1):
        if not wanted[s]:
            continue
        a, b = start[s], start[s + 1]
        before = False
        came_t, came_way = t[a], 0.0
        for i in range(a, b):
            on = _lies_on(flat[i, 0, 0], flat[i, 0, 1], s, chord, strand, first, follow, grid, near)
            if i == a:
                before = on
                continue
            if on != before:
                low, high = 0.0, 1.0
                for _ in range(12):
                    u = (low + high) / 2
                    x, y = spot_at(flat, i - 1, u)
                    if _lies_on(x, y, s, chord, strand, first, follow, grid, near) == before:
                        low = u
                    else:
                        high = u
                u = (low + high) / 2
                here_t, here_way = t[i - 1] + u * (t[i] - t[i - 1]), way[i - 1] + u * (way[i] - way[i - 1])
                if on:
                    came_t, came_way = here_t, here_way
                elif here_way - came_way > 20 * near:
                    if came_t > t[a]:
                        found_strand[k], found_t[k] = s, came_t
                        k += 1
                    found_strand[k], found_t[k] = s, here_t
                    k += 1
            before = on
        if before and came_t > t[a] and way[b - 1] - came_way > 20 * near:
            found_strand[k], found_t[k] = s, came_t
            k += 1
    return found_strand[:k].copy(), found_t[:k].copy()


@compiled
def _grown(a, b):  # type: ignore[no-untyped-def]
    more_a, more_b = np.empty(2 * len(a), np.int64), np.empty(2 * len(b))
    more_a[: len(a)] = a
    more_b[: len(b)] = b
    return more_a, more_b


@compiled
def crossed(cubic, curved, chord, cuts, row, first, ends, grid, near):  # type: ignore[no-untyped-def]
    """Places, and shares of the way along them, where contours (``cuts``) cross them or ``ends`` (j, 2) touch."""
    x0, y0, size, columns, rows, begin, held = grid
    found, share = np.empty(256, np.int64), np.empty(256)
    n = 0
    for c in range(columns * rows):
        a, b = begin[c], begin[c + 1]
        if b - a < 2:
            continue
        cx, cy = c // rows, c % rows
        for m in range(a, b):
            k = held[m]
            for o in range(m + 1, b):
                j = held[o]
                if not (cuts[k] or cuts[j]):
                    continue
                bent = curved[k] or curved[j]
                if curved[k] and curved[j] and abs(row[first[k]] - row[first[j]]) <= 1:
                    continue
                bx, by = chord[k, 2] - chord[k, 0], chord[k, 3] - chord[k, 1]
                dx, dy = chord[j, 2] - chord[j, 0], chord[j, 3] - chord[j, 1]
                ex, ey = chord[j, 0] - chord[k, 0], chord[j, 1] - chord[k, 1]
                cross = bx * dy - by * dx
                lb, ld = np.hypot(bx, by), np.hypot(dx, dy)
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
                        p, q = cubic[k], cubic[j]
                        px = p[1, 0] + s * (2 * p[2, 0] + 3 * s * p[3, 0])
                        py = p[1, 1] + s * (2 * p[2, 1] + 3 * s * p[3, 1])
                        qx = q[1, 0] + r * (2 * q[2, 0] + 3 * r * q[3, 0])
                        qy = q[1, 1] + r * (2 * q[2, 1] + 3 * r * q[3, 1])
                        cross = px * qy - py * qx
                        if abs(cross) <= ALONG * np.hypot(px, py) * np.hypot(qx, qy):
                            firm = False
                            break
                        gx = (
                            q[0, 0]
                            + r * (q[1, 0] + r * (q[2, 0] + r * q[3, 0]))
                            - (p[0, 0] + s * (p[1, 0] + s * (p[2, 0] + s * p[3, 0])))
                        )
                        gy = (
                            q[0, 1]
                            + r * (q[1, 1] + r * (q[2, 1] + r * q[3, 1]))
                            - (p[0, 1] + s * (p[1, 1] + s * (p[2, 1] + s * p[3, 1])))
                        )
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
    for e in range(len(ends)):
        c = int((ends[e, 0] - x0) / size) * rows + int((ends[e, 1] - y0) / size)
        for m in range(begin[c], begin[c + 1]):
            k = held[m]
            dx, dy = chord[k, 2] - chord[k, 0], chord[k, 3] - chord[k, 1]
            ex, ey = ends[e, 0] - chord[k, 0], ends[e, 1] - chord[k, 1]
            length = dx * dx + dy * dy
            s = min(max((ex * dx + ey * dy) / length, 0.0), 1.0) if length > 0 else 0.0
            if np.hypot(ex - s * dx, ey - s * dy) < 2 * near:
                if n + 1 > len(found):
                    found, share = _grown(found, share)
                found[n], share[n] = k, s
                n += 1
    return found[:n].copy(), share[:n].copy()


@compiled
def _evened(t, flat, a, b, t0, t1, u):  # type: ignore[no-untyped-def]
    """The parameter at a share of the way along a curve that is straight in the view between t0 and t1."""
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
def parted(  # type: ignore[no-untyped-def]
    start,
    t,
    flat,
    way,
    level,
    bent,
    musts,
    must_t,
    must_rank,
    found,
    share,
    place,
    back,
    strand,
    t0,
    t1,
    first,
    follow,
    near,
):
    """All strands parted where they end, fold, change or are crossed; of cuts closer than ``near`` one stays.

    Returns by piece its strand, low and high parameter, and whether a new line begins with it.
    """
    n = len(start) - 1
    # cuts by strand: counted, then laid out
    count = np.zeros(n + 1, np.int64)
    for i in range(len(musts)):
        count[musts[i] + 1] += 1
    # on one place, hits closer than a quarter of ``near`` are one
    order = np.argsort(found, kind="mergesort")
    lone = np.ones(len(found), np.bool_)
    i = 0
    while i < len(order):
        j = i
        while j < len(order) and found[order[j]] == found[order[i]]:
            j += 1
        if j - i > 1:
            own = order[i:j]
            by = own[np.argsort(share[own])]
            p = found[by[0]]
            k = first[p]
            # the length of the place, from any piece of it
            length = way_of(flat, t, start, strand[k], t0[k], t1[k])
            last = share[by[0]]
            for m in range(1, len(by)):
                if (share[by[m]] - last) * length < near / 8:
                    lone[by[m]] = False
                else:
                    last = share[by[m]]
        i = j
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
    for i in range(len(musts)):
        s = musts[i]
        cut_t[fill[s]], cut_rank[fill[s]] = must_t[i], must_rank[i]
        fill[s] += 1
    for i in range(len(found)):
        if not lone[i]:
            continue
        k = first[found[i]]
        while k >= 0:
            s = strand[k]
            u = 1 - share[i] if back[k] else share[i]
            if level[s] and bent[s]:
                x = _evened(t, flat, start[s], start[s + 1], t0[k], t1[k], u)
            else:
                x = t0[k] + u * (t1[k] - t0[k])
            cut_t[fill[s]], cut_rank[fill[s]] = x, CROSSING
            fill[s] += 1
            k = follow[k]
    owner, low, high = np.empty(total, np.int64), np.empty(total), np.empty(total)
    new = np.zeros(total, np.bool_)
    pieces = 0
    for s in range(n):
        a, b = count[s], count[s + 1]
        own_t, own_rank = cut_t[a:b], cut_rank[a:b]
        by = np.argsort(own_t)
        # the rank decides within a cluster; ends always stay
        at = own_t[by[0]]
        begun = False
        cluster_t, cluster_rank, cluster_from = 0.0, -1, 0.0
        line = True
        for m in range(len(by) + 1):
            if m < len(by):
                x, rank = own_t[by[m]], own_rank[by[m]]
                if x < t[start[s]] or x > t[start[s + 1] - 1]:
                    continue
                i, u = row_at(t, start[s], start[s + 1], x)
                px, py = spot_at(flat, i, u)
                w = way[i] + np.hypot(px - flat[i, 0, 0], py - flat[i, 0, 1])
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
