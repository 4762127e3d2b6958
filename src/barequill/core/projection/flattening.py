"""Compiled loops that lay strands flat in the view, and follow them there by their parameters.

Points in the view are (x, y) in mm; ``near`` is the distance within which two lines are one on the sheet.
"""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .records import Laid

END, FOLD, BREAK, CROSSING = 0, 1, 2, 3


@compiled
def slot_of(i, j, size):  # type: ignore[no-untyped-def]
    """Where a pair of whole numbers is looked for first in a table of a size that is a power of 2."""
    number = (np.uint64(i) * np.uint64(11400714819323198485)) ^ (np.uint64(j) * np.uint64(14029467366897019727))
    number ^= number >> np.uint64(31)
    return np.int64(number & np.uint64(size - 1))


@compiled
def row_at(t, a, b, x):  # type: ignore[no-untyped-def]
    """The row from a to b - 2 left of parameter x, and the share of the way to the next."""
    low, high = a, b - 1
    while high - low > 1:
        middle = (low + high) // 2
        if t[middle] <= x:
            low = middle
        else:
            high = middle
    width = t[low + 1] - t[low]
    u = (x - t[low]) / width if width > 0 else 0.0
    return low, min(max(u, 0.0), 1.0)


@compiled
def spot_at(flat, i, u):  # type: ignore[no-untyped-def]
    """The point in the view at a share of the way from a row to the next."""
    return (
        flat[i, 0, 0] + u * (flat[i, 1, 0] + u * (flat[i, 2, 0] + u * flat[i, 3, 0])),
        flat[i, 0, 1] + u * (flat[i, 1, 1] + u * (flat[i, 2, 1] + u * flat[i, 3, 1])),
    )


@compiled
def way_of(laid, s, t0, t1):  # type: ignore[no-untyped-def]
    """Straight distance (mm) in the view between two parameters of a strand of :class:`Laid`."""
    i, u = row_at(laid.t, laid.start[s], laid.start[s + 1], t0)
    j, v = row_at(laid.t, laid.start[s], laid.start[s + 1], t1)
    x0, y0 = spot_at(laid.flat, i, u)
    x1, y1 = spot_at(laid.flat, j, v)
    return np.hypot(x1 - x0, y1 - y0)


@compiled
def _across(x, y, z, right, up):  # type: ignore[no-untyped-def]
    """A vector along the directions right and up in a view, three numbers each: a loop that hands arrays on takes longer."""
    return x * right[0] + y * right[1] + z * right[2], x * up[0] + y * up[1] + z * up[2]


@compiled
def laid_flat(wires, bent, eye, flatness):  # type: ignore[no-untyped-def]
    """The n strands of m rows in the view plane, as :class:`Laid`, and the strand (k,) and parameter (k,) of places where
    a curve that is straight in the view turns back.

    ``wires``: their polylines in space (mm): start (n + 1,), t (m,), points (m, 3), cubic (3, m, 3); ``bent`` (n,): no lines
    there; ``eye``: :class:`Eye`; ``flatness`` (mm): how far a straight one may stray.
    """
    start, t, points, cubic = wires
    n, m = len(start) - 1, len(t)
    flat = np.empty((m, 4, 2))
    way = np.zeros(m)
    level = np.ones(n, np.bool_)
    fold_strand, fold_t = np.empty(m, np.int64), np.empty(m)
    folds = 0
    across, rise = (eye.right[0], eye.right[1], eye.right[2]), (eye.up[0], eye.up[1], eye.up[2])
    for s in range(n):
        a, b = start[s], start[s + 1]
        px = py = along = 0.0
        for i in range(a, b):
            x, y = _across(points[i, 0], points[i, 1], points[i, 2], across, rise)
            flat[i, 0, 0], flat[i, 0, 1] = x, y
            for d in range(3):
                v, w = _across(cubic[d, i, 0], cubic[d, i, 1], cubic[d, i, 2], across, rise)
                flat[i, d + 1, 0], flat[i, d + 1, 1] = v, w
            if i > a:
                along += np.sqrt((x - px) * (x - px) + (y - py) * (y - py))
                way[i] = along
            px, py = x, y
        if not bent[s]:
            continue
        # the row farthest from the first gives the direction
        x0, y0 = flat[a, 0, 0], flat[a, 0, 1]
        far, fx, fy = 0.0, 1.0, 0.0
        for i in range(a, b):
            dx, dy = flat[i, 0, 0] - x0, flat[i, 0, 1] - y0
            if dx * dx + dy * dy > far:
                far, fx, fy = dx * dx + dy * dy, dx, dy
        length = np.sqrt(fx * fx + fy * fy)
        if length == 0:
            continue
        fx, fy = fx / length, fy / length
        for i in range(a, b):
            dx, dy = flat[i, 0, 0] - x0, flat[i, 0, 1] - y0
            if abs(dx * fy - dy * fx) > flatness:
                level[s] = False
                break
        if not level[s]:
            continue
        last = -1.0e300
        for i in range(a + 1, b - 1):
            h0 = (flat[i - 1, 0, 0] - x0) * fx + (flat[i - 1, 0, 1] - y0) * fy
            h1 = (flat[i, 0, 0] - x0) * fx + (flat[i, 0, 1] - y0) * fy
            h2 = (flat[i + 1, 0, 0] - x0) * fx + (flat[i + 1, 0, 1] - y0) * fy
            if (h1 - h0) * (h2 - h1) > 0 or (h1 == h0 and h2 == h1):
                continue
            # the top of the parabola through three rows
            t0, t1, t2 = t[i - 1], t[i], t[i + 1]
            upper = (t1 - t0) ** 2 * (h1 - h2) - (t1 - t2) ** 2 * (h1 - h0)
            lower = (t1 - t0) * (h1 - h2) - (t1 - t2) * (h1 - h0)
            top = t1 - 0.5 * upper / lower if abs(lower) > 1e-300 else t1
            top = min(max(top, t0), t2)
            # right between two rows it shows at both
            if i - 1 == last:
                continue
            fold_strand[folds], fold_t[folds] = s, top
            folds += 1
            last = i
    laid = Laid(start=start, t=t, flat=flat, way=way, level=level)
    return laid, fold_strand[:folds].copy(), fold_t[:folds].copy()


@compiled
def spots_of(laid, strand, at):  # type: ignore[no-untyped-def]
    """Points (k, 2) in the view (mm) at parameters ``at`` (k,) of strands (k,) of :class:`Laid`."""
    found = np.empty((len(at), 2))
    for k in range(len(at)):
        s = strand[k]
        i, u = row_at(laid.t, laid.start[s], laid.start[s + 1], at[k])
        found[k, 0], found[k, 1] = spot_at(laid.flat, i, u)
    return found
