"""Compiled loops over strands as chords in a grid, and where strands come to lie on each other."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .flattening import row_at, slot_of, spot_at
from .records import Grid, Places


@compiled
def segments_of(laid, fold_strand, fold_t, near):  # type: ignore[no-untyped-def]
    """Short pieces of all strands of :class:`Laid`, those within ``near`` (mm) of each other taken together, as :class:`Places`;
    ``fold_strand``, ``fold_t`` (k,): where strands that are straight in the view turn back."""
    start, t, flat, _, level = laid
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
    k = places = f = 0
    per = 8 / near
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
                x0, y0 = flat[i, 0, 0], flat[i, 0, 1]
                x1, y1 = flat[i + 1, 0, 0], flat[i + 1, 0, 1]
            strand[k], row[k], t0[k], t1[k] = s, i, ta, tb
            turn = x0 > x1 or (x0 == x1 and y0 > y1)
            back[k] = turn
            if turn:
                x0, y0, x1, y1 = x1, y1, x0, y0
            c0, c1 = np.int64(np.floor(x0 * per + 0.5)), np.int64(np.floor(y0 * per + 0.5))
            c2, c3 = np.int64(np.floor(x1 * per + 0.5)), np.int64(np.floor(y1 * per + 0.5))
            c4 = 1 if level[s] else 0
            slot = slot_of(c0 + 31 * c3, 2 * (c1 + 31 * c2) + c4, size)
            while slots[slot] >= 0:
                p = slots[slot]
                if (
                    cells[p, 0] == c0
                    and cells[p, 1] == c1
                    and cells[p, 2] == c2
                    and cells[p, 3] == c3
                    and cells[p, 4] == c4
                ):
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
                cells[p, 0], cells[p, 1], cells[p, 2], cells[p, 3], cells[p, 4] = c0, c1, c2, c3, c4
                first[p] = k
                place[k] = p
                chord[p, 0], chord[p, 1], chord[p, 2], chord[p, 3] = x0, y0, x1, y1
                curved[p] = not level[s]
                if level[s]:
                    cubic[p, 0, 0], cubic[p, 0, 1], cubic[p, 1, 0], cubic[p, 1, 1] = x0, y0, x1 - x0, y1 - y0
                else:
                    for x in range(2):
                        q0, q1, q2, q3 = flat[i, 0, x], flat[i, 1, x], flat[i, 2, x], flat[i, 3, x]
                        if turn:
                            q0, q1, q2, q3 = q0 + q1 + q2 + q3, -q1 - 2 * q2 - 3 * q3, q2 + 3 * q3, -q3
                        cubic[p, 0, x], cubic[p, 1, x], cubic[p, 2, x], cubic[p, 3, x] = q0, q1, q2, q3
            k += 1
        f += folds
    return Places(
        cubic=cubic[:places],
        curved=curved[:places],
        chord=chord[:places],
        place=place,
        back=back,
        strand=strand,
        row=row,
        t0=t0,
        t1=t1,
        first=first[:places],
        follow=follow,
    )


@compiled
def _column(chord, k, x0, x1, slack):  # type: ignore[no-untyped-def]
    """Lowest and highest y of a place between x0 and x1, with slack."""
    ax, ay, bx, by = chord[k, 0], chord[k, 1], chord[k, 2], chord[k, 3]
    dx = bx - ax
    ya, yb = ay, by
    if dx > 0:
        u = min(max((x0 - slack - ax) / dx, 0.0), 1.0)
        v = min(max((x1 + slack - ax) / dx, 0.0), 1.0)
        ya, yb = ay + u * (by - ay), ay + v * (by - ay)
    return min(ya, yb) - slack, max(ya, yb) + slack


@compiled
def grid_of(chord, slack):  # type: ignore[no-untyped-def]
    """The :class:`Grid` over all places by their ``chord`` (p, 4), each widened by ``slack`` (mm)."""
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
    # most places lie in one column: of these the first and last cell is kept
    ends = np.empty((n, 2), np.int64)
    per = 1 / size
    for k in range(n):
        ax, ay, bx, by = chord[k, 0], chord[k, 1], chord[k, 2], chord[k, 3]
        low, top = min(ay, by) - slack - y0, max(ay, by) + slack - y0
        # they go from left to right
        i0, i1 = int((ax - slack - x0) * per), int((bx + slack - x0) * per)
        if i0 == i1 or top - low <= size:
            a, b = i0 * rows + int(low * per), i0 * rows + int(top * per)
            ends[k, 0], ends[k, 1] = a, b
            for i in range(i1 - i0 + 1):
                for c in range(a + i * rows, b + i * rows + 1):
                    begin[c + 1] += 1
            continue
        ends[k, 0] = -1
        for i in range(i0, i1 + 1):
            low, top = _column(chord, k, x0 + i * size, x0 + (i + 1) * size, slack)
            for c in range(i * rows + int((low - y0) * per), i * rows + int((top - y0) * per) + 1):
                begin[c + 1] += 1
    for c in range(columns * rows):
        begin[c + 1] += begin[c]
    held, at = np.empty(begin[columns * rows], np.int64), begin[:-1].copy()
    for k in range(n):
        i0, i1 = int((chord[k, 0] - slack - x0) * per), int((chord[k, 2] + slack - x0) * per)
        for i in range(i0, i1 + 1):
            if ends[k, 0] >= 0:
                a, b = ends[k, 0] + (i - i0) * rows, ends[k, 1] + (i - i0) * rows
            else:
                low, top = _column(chord, k, x0 + i * size, x0 + (i + 1) * size, slack)
                a, b = i * rows + int((low - y0) * per), i * rows + int((top - y0) * per)
            for c in range(a, b + 1):
                held[at[c]] = k
                at[c] += 1
    return Grid(x=x0, y=y0, size=size, columns=columns, rows=rows, begin=begin, held=held)


@compiled
def off_chord(chord, x, y):  # type: ignore[no-untyped-def]
    """How far a point is from a chord (4,), and the share of the way along it to the point nearest."""
    dx, dy = chord[2] - chord[0], chord[3] - chord[1]
    ex, ey = x - chord[0], y - chord[1]
    length = dx * dx + dy * dy
    share = min(max((ex * dx + ey * dy) / length, 0.0), 1.0) if length > 0 else 0.0
    return np.sqrt((ex - share * dx) ** 2 + (ey - share * dy) ** 2), share


@compiled
def _lies_on(x, y, s, lines):  # type: ignore[no-untyped-def]
    """True where a point of strand s lies near another strand; ``lines``: :class:`Places`, their :class:`Grid`, and how near
    (mm) that is."""
    places, grid, near = lines
    chord = places.chord
    cell = int((x - grid.x) / grid.size) * grid.rows + int((y - grid.y) / grid.size)
    for h in range(grid.begin[cell], grid.begin[cell + 1]):
        p = grid.held[h]
        if x < chord[p, 0] - near or x > chord[p, 2] + near or off_chord(chord[p], x, y)[0] > near:
            continue
        g = places.first[p]
        while g >= 0:
            if places.strand[g] != s:
                return True
            g = places.follow[g]
    return False


@compiled
def _turn(flat, row, before, s, lines):  # type: ignore[no-untyped-def]
    """The share of the way from a row to the next at which a strand, lying on another or not ``before``, ceases to."""
    low, high = 0.0, 1.0
    for _ in range(12):
        u = (low + high) / 2
        x, y = spot_at(flat, row, u)
        if _lies_on(x, y, s, lines) == before:
            low = u
        else:
            high = u
    return (low + high) / 2


@compiled
def joinings(laid, places, grid, wanted, near):  # type: ignore[no-untyped-def]
    """Strands (k,) and parameters (k,) where the ``wanted`` ones (n,) come to lie within ``near`` (mm) on another strand, or
    leave it.

    Where they do so for less than a few ``near`` they only cross or meet it.
    """
    start, t, flat, way, _ = laid
    lines = places, grid, near
    found_strand, found_t = np.empty(len(t), np.int64), np.empty(len(t))
    k = 0
    for s in range(len(start) - 1):
        if not wanted[s]:
            continue
        a, b = start[s], start[s + 1]
        i = a
        while i < b:
            if not _lies_on(flat[i, 0, 0], flat[i, 0, 1], s, lines):
                i += 1
                continue
            j = i
            while j + 1 < b and _lies_on(flat[j + 1, 0, 0], flat[j + 1, 0, 1], s, lines):
                j += 1
            # it may come onto the other before row i, and leave it after row j
            comes, leaves = i > a, j + 1 < b
            short = i == j
            if short and comes:
                u = max(1 - 10 * near / max(way[i] - way[i - 1], 1e-300), 0.0)
                x, y = spot_at(flat, i - 1, u)
                short = not _lies_on(x, y, s, lines)
            if short and leaves:
                u = min(10 * near / max(way[i + 1] - way[i], 1e-300), 1.0)
                x, y = spot_at(flat, i, u)
                short = not _lies_on(x, y, s, lines)
            if not short:
                u = _turn(flat, i - 1, False, s, lines) if comes else 1.0
                v = _turn(flat, j, True, s, lines) if leaves else 0.0
                came_t, came_way = t[i], way[i]
                if comes:
                    came_t, came_way = t[i - 1] + u * (t[i] - t[i - 1]), way[i - 1] + u * (way[i] - way[i - 1])
                left_t, left_way = t[j], way[j]
                if leaves:
                    left_t, left_way = t[j] + v * (t[j + 1] - t[j]), way[j] + v * (way[j + 1] - way[j])
                if left_way - came_way > 20 * near:
                    if comes:
                        found_strand[k], found_t[k] = s, came_t
                        k += 1
                    if leaves:
                        found_strand[k], found_t[k] = s, left_t
                        k += 1
            i = j + 1
    return found_strand[:k].copy(), found_t[:k].copy()
