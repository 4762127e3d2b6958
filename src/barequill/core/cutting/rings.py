"""Compiled loops that lay curves flat in their wall, make closed rings of them, and tell what lies within these."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .chains import linked
from .closed_forms import dot, norm, steps_along

CHUNK = 16
"""Sides that are looked at together."""


@compiled
def in_wall(ends, conic, span, wires, fitted, frame, fine):  # type: ignore[no-untyped-def]
    """Lines (k, 2, 3), conics (c, 3, 3) and ``fitted`` wires (f,) of a wall, by their rows in ``wires`` (start, points, cubic),
    as polylines (m, 2) in its own ``frame`` (3, 3), within ``fine`` (mm) of them; where each begins (k + c + f + 1,), and
    the area between each and its polyline, above 0 where it lies at the right of that."""
    flat, begin, bulge = _lines_and_conics_in_wall(ends, conic, span, frame, fine)
    if len(fitted) == 0:
        return flat, begin, bulge
    more, then, beyond = _wires_in_wall(wires, fitted, frame, fine / 4)
    return (
        np.concatenate((flat, more)),
        np.concatenate((begin, then[1:] + begin[-1])),
        np.concatenate((bulge, beyond)),
    )


@compiled
def _lines_and_conics_in_wall(ends, conic, span, frame, fine):  # type: ignore[no-untyped-def]
    origin, right, up = frame[0], frame[1], frame[2]
    k, c = len(ends), len(conic)
    begin, bulge = np.zeros(k + c + 1, np.int64), np.zeros(k + c)
    for i in range(k):
        begin[i + 1] = begin[i] + 2
    for i in range(c):
        begin[k + i + 1] = begin[k + i] + steps_along(conic[i], span[i], fine) + 1
    flat = np.empty((begin[k + c], 2))
    for i in range(k):
        for e in range(2):
            p = ends[i, e] - origin
            flat[2 * i + e, 0], flat[2 * i + e, 1] = dot(p, right), dot(p, up)
    for i in range(c):
        a, b = begin[k + i], begin[k + i + 1]
        o = conic[i, 0] - origin
        ox, oy = dot(o, right), dot(o, up)
        xx, xy = dot(conic[i, 1], right), dot(conic[i, 1], up)
        yx, yy = dot(conic[i, 2], right), dot(conic[i, 2], up)
        h = (span[i, 1] - span[i, 0]) / (b - a - 1)
        chords = 0.0
        for j in range(a, b):
            t = span[i, 0] + (j - a) * h if j < b - 1 else span[i, 1]
            cosine, sine = np.cos(t), np.sin(t)
            flat[j, 0], flat[j, 1] = ox + cosine * xx + sine * yx, oy + cosine * xy + sine * yy
            if j > a:
                chords += ((flat[j - 1, 0] - ox) * (flat[j, 1] - oy) - (flat[j, 0] - ox) * (flat[j - 1, 1] - oy)) / 2
        # about the centre the sector of a conic is as large as its angle
        bulge[k + i] = (xx * yy - xy * yx) * (span[i, 1] - span[i, 0]) / 2 - chords
    return flat, begin, bulge


@compiled
def _wires_in_wall(wires, which, frame, fine):  # type: ignore[no-untyped-def]
    """Wires as :func:`in_wall` gives them: exactly, since a wire is a cubic from each row to the next."""
    start, points, cubic = wires
    origin, right, up = frame[0], frame[1], frame[2]
    begin, bulge = np.zeros(len(which) + 1, np.int64), np.zeros(len(which))
    steps = np.ones(start[-1], np.int64)
    for k in range(len(which)):
        begin[k + 1] = begin[k] + 1
        for i in range(start[which[k]], start[which[k] + 1] - 1):
            off = norm(2 * cubic[1, i] + 3 * cubic[2, i]) / 8
            steps[i] = max(1, int(np.ceil(np.sqrt(off / fine))))
            begin[k + 1] += steps[i]
    flat = np.empty((begin[-1], 2))
    c = np.empty((4, 2))
    # Gauss's three places: exact for the area under a cubic
    places, weights = (0.5 - np.sqrt(0.15), 0.5, 0.5 + np.sqrt(0.15)), (5 / 18, 8 / 18, 5 / 18)
    for k in range(len(which)):
        m = begin[k]
        for i in range(start[which[k]], start[which[k] + 1]):
            p = points[i] - origin
            c[0, 0], c[0, 1] = dot(p, right), dot(p, up)
            for d in range(3):
                c[d + 1, 0], c[d + 1, 1] = dot(cubic[d, i], right), dot(cubic[d, i], up)
            last = i == start[which[k] + 1] - 1
            for j in range(1 if last else steps[i]):
                u = j / steps[i]
                for x in range(2):
                    flat[m, x] = c[0, x] + u * (c[1, x] + u * (c[2, x] + u * c[3, x]))
                m += 1
            if not last:
                for g in range(3):
                    u = places[g]
                    x, y = c[0] + u * (c[1] + u * (c[2] + u * c[3]))
                    dx, dy = c[1] + u * (2 * c[2] + 3 * u * c[3])
                    bulge[k] += weights[g] * (x * dy - y * dx) / 2
        for j in range(begin[k] + 1, begin[k + 1]):
            bulge[k] -= (flat[j - 1, 0] * flat[j, 1] - flat[j, 0] * flat[j - 1, 1]) / 2
    return flat, begin, bulge


@compiled
def rings_of(flat, begin, bulge, body, solid, gap):  # type: ignore[no-untyped-def]
    """Closed polylines of pieces that end where others of their body begin; a gap is closed straight.

    ``flat`` (m, 2): the pieces after each other, from ``begin`` (n + 1,) on; ``bulge`` (n,): what each holds beyond its
    polyline; ``body`` (n,): that of each; those that are not ``solid`` (b,) have none. Returns points (k, 2) and where in them each ring begins (r + 1,), the first ring
    (b + 1,) of each body, the sum (b,) of what its pieces hold beyond their polylines, the area (r,) that each holds (below 0 where it runs clockwise), and by body whether its rings
    are sound: they do not cross, and those about material and those about holes lie in each other in turn.
    """
    n, bodies = len(body), len(solid)
    over = np.zeros(bodies)
    for i in range(n):
        over[body[i]] += bulge[i]
    points = np.empty((len(flat) + n, 2))
    first, of_body = np.zeros(n + 1, np.int64), np.zeros(bodies + 1, np.int64)
    sound = np.ones(bodies, np.bool_)
    rings = k = 0
    own = np.empty(n, np.int64)
    for b in range(bodies):
        m = 0
        for i in range(n if solid[b] else 0):
            if body[i] != b:
                continue
            p, q = begin[i], begin[i + 1]
            if q - p > 3 and max(abs(flat[q - 1, 0] - flat[p, 0]), abs(flat[q - 1, 1] - flat[p, 1])) < 1e-3 * gap:
                points[k : k + q - 1 - p] = flat[p : q - 1]
                k += q - 1 - p
                rings += 1
                first[rings] = k
            else:
                own[m] = i
                m += 1
        if m:
            starts, ends = np.empty((m, 2)), np.empty((m, 2))
            for i in range(m):
                starts[i], ends[i] = flat[begin[own[i]]], flat[begin[own[i] + 1] - 1]
            order, runs = linked(starts, ends, gap)
            for r in range(len(runs) - 1):
                a = k
                for j in range(runs[r], runs[r + 1]):
                    p, q = begin[own[order[j]]], begin[own[order[j]] + 1]
                    points[k : k + q - 1 - p] = flat[p : q - 1]
                    k += q - 1 - p
                last = flat[begin[own[order[runs[r + 1] - 1]] + 1] - 1]
                if k - a < 2 or max(abs(last[0] - points[a, 0]), abs(last[1] - points[a, 1])) >= gap:
                    points[k] = last
                    k += 1
                if k - a > 2:
                    rings += 1
                    first[rings] = k
                else:
                    k = a
        of_body[b + 1] = rings
        if m + of_body[b + 1] - of_body[b] > 0:
            sound[b] = not _cross(flat, begin, body, b, 1e-6 * gap)
    turns, boxes = np.empty(rings), boxes_of(points, first[: rings + 1])
    for r in range(rings):
        a, z = first[r], first[r + 1]
        area = 0.0
        for i in range(a + 1, z - 1):
            ux, uy = points[i, 0] - points[a, 0], points[i, 1] - points[a, 1]
            vx, vy = points[i + 1, 0] - points[a, 0], points[i + 1, 1] - points[a, 1]
            area += (ux * vy - uy * vx) / 2
        turns[r] = area
    for b in range(bodies):
        for r in range(of_body[b], of_body[b + 1]):
            x, y = _beside(points, first, r)
            depth = 0
            for o in range(of_body[b], of_body[b + 1]):
                if o != r and _within(points, first[o], first[o + 1], boxes[o], x, y):
                    depth += 1
            if turns[r] == 0 or (turns[r] > 0) != (depth % 2 == 0):
                sound[b] = False
    return points[:k].copy(), first[: rings + 1].copy(), of_body, over, turns, boxes, sound


@compiled
def boxes_of(points, first):  # type: ignore[no-untyped-def]
    """The boxes (r, 4) of rings: lowest x and y, highest x and y."""
    boxes = np.empty((len(first) - 1, 4))
    for r in range(len(first) - 1):
        x0 = y0 = np.inf
        x1 = y1 = -np.inf
        for i in range(first[r], first[r + 1]):
            x, y = points[i, 0], points[i, 1]
            x0, y0, x1, y1 = min(x0, x), min(y0, y), max(x1, x), max(y1, y)
        boxes[r, 0], boxes[r, 1], boxes[r, 2], boxes[r, 3] = x0, y0, x1, y1
    return boxes


@compiled
def _beside(points, first, r):  # type: ignore[no-untyped-def]
    """The middle of the longest side of a ring."""
    a, z = first[r], first[r + 1]
    most, x, y = -1.0, 0.0, 0.0
    for i in range(a, z):
        j = i + 1 if i + 1 < z else a
        length = abs(points[j, 0] - points[i, 0]) + abs(points[j, 1] - points[i, 1])
        if length > most:
            most, x, y = length, (points[i, 0] + points[j, 0]) / 2, (points[i, 1] + points[j, 1]) / 2
    return x, y


@compiled
def _within(points, a, z, box, x, y):  # type: ignore[no-untyped-def]
    """Whether a point lies within a ring (rows a to z - 1), by the sides that a ray from it to the right passes."""
    if x < box[0] or x > box[2] or y < box[1] or y > box[3]:
        return False
    found = False
    px, py = points[z - 1, 0], points[z - 1, 1]
    for i in range(a, z):
        qx, qy = points[i, 0], points[i, 1]
        if (py > y) != (qy > y) and x < px + (y - py) / (qy - py) * (qx - px):
            found = not found
        px, py = qx, qy
    return found


@compiled
def through(points, first, boxes, frame, normal, offset, origins, toward, low, high):  # type: ignore[no-untyped-def]
    """Rays (m, 3) that pass a region with rings in a wall farther than ``low`` (mm) and nearer than ``high`` (m,): their rows
    (k,) and how far from their origins they do. ``frame`` (3, 3): a point in the wall and the directions of its x and y."""
    slope = normal[0] * toward[0] + normal[1] * toward[1] + normal[2] * toward[2]
    rows, ways, k = np.empty(len(origins), np.int64), np.empty(len(origins)), 0
    for i in range(len(origins) if abs(slope) >= 1e-9 else 0):
        p = origins[i]
        way = (offset - p[0] * normal[0] - p[1] * normal[1] - p[2] * normal[2]) / slope
        if not low < way < high[i]:
            continue
        x = y = 0.0
        for c in range(3):
            off = p[c] + way * toward[c] - frame[0, c]
            x, y = x + off * frame[1, c], y + off * frame[2, c]
        odd = False
        for r in range(len(boxes)):
            if _within(points, first[r], first[r + 1], boxes[r], x, y):
                odd = not odd
        if odd:
            rows[k], ways[k] = i, way
            k += 1
    return rows[:k].copy(), ways[:k].copy()


@compiled
def held_by(points, first, boxes, turns):  # type: ignore[no-untyped-def]
    """For each ring about a hole the smallest about material that it lies in; -1 for the others, and where there is none."""
    found = np.full(len(turns), -1, np.int64)
    for r in range(len(turns)):
        if turns[r] > 0:
            continue
        x, y = _beside(points, first, r)
        for o in range(len(turns)):
            smaller = turns[o] > -turns[r] and (found[r] < 0 or turns[o] < turns[found[r]])
            if smaller and _within(points, first[o], first[o + 1], boxes[o], x, y):
                found[r] = o
    return found


@compiled
def _cross(flat, begin, body, b, deep):  # type: ignore[no-untyped-def]
    """Whether pieces of a body cross each other, by more than ``deep`` (mm)."""
    n = len(body)
    chunks = 0
    for i in range(n):
        if body[i] == b:
            chunks += (begin[i + 1] - begin[i] - 2) // CHUNK + 1
    piece, low, high = np.empty(chunks, np.int64), np.empty(chunks, np.int64), np.empty(chunks, np.int64)
    boxes = np.empty((chunks, 4))
    m = 0
    for i in range(n):
        if body[i] != b:
            continue
        for first in range(begin[i], begin[i + 1] - 1, CHUNK):
            piece[m], low[m], high[m] = i, first, min(first + CHUNK, begin[i + 1] - 1)
            x0 = y0 = np.inf
            x1 = y1 = -np.inf
            for h in range(low[m], high[m] + 1):
                x, y = flat[h, 0], flat[h, 1]
                x0, y0, x1, y1 = min(x0, x), min(y0, y), max(x1, x), max(y1, y)
            boxes[m, 0], boxes[m, 1], boxes[m, 2], boxes[m, 3] = x0, y0, x1, y1
            m += 1
    by = np.argsort(boxes[:m, 0])
    for f in range(m):
        k = by[f]
        for g in range(f + 1, m):
            j = by[g]
            if boxes[j, 0] > boxes[k, 2]:
                break
            if piece[j] == piece[k] or boxes[j, 1] > boxes[k, 3] or boxes[j, 3] < boxes[k, 1]:
                continue
            if _apart(flat, low[k], high[k], low[j], high[j]) or _apart(flat, low[j], high[j], low[k], high[k]):
                continue
            for i in range(low[k], high[k]):
                for h in range(low[j], high[j]):
                    if _sides_cross(flat[i], flat[i + 1], flat[h], flat[h + 1], deep):
                        return True
    return False


@compiled
def _apart(flat, a, b, c, d):  # type: ignore[no-untyped-def]
    """Whether all points from row c to d lie on one side of those from row a to b, as the line through a and b tells."""
    ux, uy = flat[b, 0] - flat[a, 0], flat[b, 1] - flat[a, 1]
    low = high = 0.0
    for i in range(a + 1, b):
        off = ux * (flat[i, 1] - flat[a, 1]) - uy * (flat[i, 0] - flat[a, 0])
        low, high = min(low, off), max(high, off)
    under = over = True
    for i in range(c, d + 1):
        off = ux * (flat[i, 1] - flat[a, 1]) - uy * (flat[i, 0] - flat[a, 0])
        under, over = under and off <= low, over and off >= high
    return (under or over) and (ux != 0 or uy != 0)


@compiled
def _sides_cross(a, b, c, d, deep):  # type: ignore[no-untyped-def]
    """Whether two straight sides cross each other, each by more than ``deep`` (mm) beyond the other."""
    if max(c[0], d[0]) < min(a[0], b[0]) or min(c[0], d[0]) > max(a[0], b[0]):
        return False
    if max(c[1], d[1]) < min(a[1], b[1]) or min(c[1], d[1]) > max(a[1], b[1]):
        return False
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]
    least = deep * np.sqrt(ux * ux + uy * uy)
    one, two = ux * (c[1] - a[1]) - uy * (c[0] - a[0]), ux * (d[1] - a[1]) - uy * (d[0] - a[0])
    if not ((one > least and two < -least) or (one < -least and two > least)):
        return False
    least = deep * np.sqrt(vx * vx + vy * vy)
    one, two = vx * (a[1] - c[1]) - vy * (a[0] - c[0]), vx * (b[1] - c[1]) - vy * (b[0] - c[0])
    return (one > least and two < -least) or (one < -least and two > least)
