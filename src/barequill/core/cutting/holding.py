"""Compiled loops that tell which rays pass what the rings in a cutting plane hold."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .closed_forms import dot
from .rings import boxes_of

STRIPS = 256
"""Strips across a region at most: a ray looks at the sides of one."""


@compiled
def _strips(points, first):  # type: ignore[no-untyped-def]
    """The sides of rings in strips across y: for each point the one that follows it (k,); which of them, by the points where
    they begin, run through each strip; the lowest y, and how many strips there are to a mm."""
    k = len(points)
    after = np.empty(k, np.int64)
    low = high = points[0, 1] if k else 0.0
    for r in range(len(first) - 1):
        for i in range(first[r], first[r + 1]):
            after[i] = i + 1 if i + 1 < first[r + 1] else first[r]
            low, high = min(low, points[i, 1]), max(high, points[i, 1])
    count = min(max(k // 4, 1), STRIPS)
    per = count / max(high - low, 1e-300)
    begin = np.zeros(count + 1, np.int64)
    spans = np.empty((k, 2), np.int64)
    for i in range(k):
        one, other = points[i, 1], points[after[i], 1]
        spans[i, 0] = min(int((min(one, other) - low) * per), count - 1)
        spans[i, 1] = min(int((max(one, other) - low) * per), count - 1)
        for s in range(spans[i, 0], spans[i, 1] + 1):
            begin[s + 1] += 1
    for s in range(count):
        begin[s + 1] += begin[s]
    held, at = np.empty(begin[count], np.int64), begin[:count].copy()
    for i in range(k):
        for s in range(spans[i, 0], spans[i, 1] + 1):
            held[at[s]] = i
            at[s] += 1
    return after, begin, held, low, per


@compiled
def _held(points, strips, x, y):  # type: ignore[no-untyped-def]
    """Whether a point lies in a region with rings about it, by the sides that a ray from it to the right passes."""
    after, begin, held, low, per = strips
    if not low <= y:
        return False
    s = int(min((y - low) * per, 1e6))
    if s > len(begin) - 2:
        if (y - low) * per > len(begin):
            return False
        s = len(begin) - 2
    found = False
    for h in range(begin[s], begin[s + 1]):
        px, py = points[held[h], 0], points[held[h], 1]
        qx, qy = points[after[held[h]], 0], points[after[held[h]], 1]
        if (py > y) != (qy > y) and x < px + (y - py) / (qy - py) * (qx - px):
            found = not found
    return found


@compiled
def _way(origins, i, normal, offset, slope):  # type: ignore[no-untyped-def]
    """How far a ray that rises so over a cutting plane goes to it."""
    return (offset - (origins[i, 0] * normal[0] + origins[i, 1] * normal[1] + origins[i, 2] * normal[2])) / slope


@compiled
def _in_frame(origins, i, way, toward, frame):  # type: ignore[no-untyped-def]
    """The place in a cutting plane's frame so far from a ray's origin."""
    x = origins[i, 0] - frame[0, 0] + way * toward[0]
    y = origins[i, 1] - frame[0, 1] + way * toward[1]
    z = origins[i, 2] - frame[0, 2] + way * toward[2]
    return x * frame[1, 0] + y * frame[1, 1] + z * frame[1, 2], x * frame[2, 0] + y * frame[2, 1] + z * frame[2, 2]


@compiled
def through(points, first, frame, normal, offset, origins, toward, low, high):  # type: ignore[no-untyped-def]
    """Rays (m, 3) that pass a region with rings in a cutting plane farther than ``low`` (mm) and nearer than ``high`` (m,): their rows
    (k,) and how far from their origins they do. ``frame`` (3, 3): a point in the cutting plane and the directions of its x and y."""
    slope = dot(normal, toward)
    strips = _strips(points, first)
    rows, ways, k = np.empty(len(origins), np.int64), np.empty(len(origins)), 0
    for i in range(len(origins) if abs(slope) >= 1e-9 else 0):
        way = _way(origins, i, normal, offset, slope)
        if low < way < high[i]:
            x, y = _in_frame(origins, i, way, toward, frame)
            if _held(points, strips, x, y):
                rows[k], ways[k] = i, way
                k += 1
    return rows[:k].copy(), ways[:k].copy()


@compiled
def behind(rings, frame, normal, offset, origins, toward, low, found):  # type: ignore[no-untyped-def]
    """Those rays (m, 3) are ``found`` (m,) too that pass what the sound ``rings``, held, of a body in a cutting plane hold, farther than
    ``low`` (mm)."""
    slope = dot(normal, toward)
    if abs(slope) < 1e-9:
        return
    rows, flat, n = np.empty(len(origins), np.int64), np.empty((len(origins), 2)), 0
    for i in range(len(origins)):
        way = _way(origins, i, normal, offset, slope)
        if way > low and not found[i]:
            rows[n] = i
            flat[n, 0], flat[n, 1] = _in_frame(origins, i, way, toward, frame)
            n += 1
    # from left to right, so that a body looks at those alone that may lie in its box
    order = np.argsort(flat[:n, 0])
    across = flat[:n, 0][order]
    own = rings.it
    for b in range(len(own.sound)):
        r, q = own.of_body[b], own.of_body[b + 1]
        if r == q or not own.sound[b]:
            continue
        first = own.first[r : q + 1] - own.first[r]
        points = own.points[own.first[r] : own.first[q]]
        x0, y0, x1, y1 = boxes_of(points, np.array([0, len(points)]))[0]
        begin, end = np.searchsorted(across, x0), np.searchsorted(across, x1, side="right")
        if begin == end:
            continue
        strips = _strips(points, first)
        for i in range(begin, end):
            k = order[i]
            if y0 <= flat[k, 1] <= y1 and not found[rows[k]]:
                found[rows[k]] = _held(points, strips, flat[k, 0], flat[k, 1])
