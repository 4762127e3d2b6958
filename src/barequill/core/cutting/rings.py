"""Compiled loops that lay curves flat in their cutting plane, and make closed rings of them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.held import Held
from .chains import linked
from .closed_forms import dot, steps_along

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
CHUNK = 16
"""Sides that are looked at together."""


@compiled
def in_plane(ends, conic, span, wires, fitted, frame, fine):  # type: ignore[no-untyped-def]
    """Lines (k, 2, 3), conics (c, 3, 3) and ``fitted`` wires (f,) of a cutting plane, by their rows in ``wires`` (start, points, cubic),
    as polylines (m, 2) in its own ``frame`` (3, 3), within ``fine`` (mm) of them; where each begins (k + c + f + 1,), and
    the area between each and its polyline, above 0 where it lies at the right of that."""
    flat, begin, bulge = _lines_and_conics_in_plane(ends, conic, span, frame, fine)
    if len(fitted) == 0:
        return flat, begin, bulge
    more, then, beyond = _wires_in_plane(wires, fitted, frame, fine / 4)
    return (
        np.concatenate((flat, more)),
        np.concatenate((begin, then[1:] + begin[-1])),
        np.concatenate((bulge, beyond)),
    )


@compiled
def _lines_and_conics_in_plane(ends, conic, span, frame, fine):  # type: ignore[no-untyped-def]
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
        cosine, sine, turn, rise = np.cos(span[i, 0]), np.sin(span[i, 0]), np.cos(h), np.sin(h)
        chords = x0 = y0 = 0.0
        for j in range(a, b):
            if j == b - 1:
                cosine, sine = np.cos(span[i, 1]), np.sin(span[i, 1])
            x, y = cosine * xx + sine * yx, cosine * xy + sine * yy
            flat[j, 0], flat[j, 1] = ox + x, oy + y
            if j > a:
                chords += (x0 * y - x * y0) / 2
            x0, y0 = x, y
            cosine, sine = cosine * turn - sine * rise, sine * turn + cosine * rise
        # about the centre the sector of a conic is as large as its angle
        bulge[k + i] = (xx * yy - xy * yx) * (span[i, 1] - span[i, 0]) / 2 - chords
    return flat, begin, bulge


@compiled
def _wires_in_plane(wires, which, frame, fine):  # type: ignore[no-untyped-def]
    """Wires as :func:`in_plane` gives them: exactly, since a wire is a cubic from each row to the next."""
    start, points, cubic = wires
    o0, o1, o2 = frame[0, 0], frame[0, 1], frame[0, 2]
    r0, r1, r2 = frame[1, 0], frame[1, 1], frame[1, 2]
    u0, u1, u2 = frame[2, 0], frame[2, 1], frame[2, 2]
    begin, bulge = np.zeros(len(which) + 1, np.int64), np.zeros(len(which))
    steps = np.ones(start[-1], np.int64)
    for k in range(len(which)):
        begin[k + 1] = begin[k] + 1
        for i in range(start[which[k]], start[which[k] + 1] - 1):
            off = 0.0
            for x in range(3):
                off += (2 * cubic[1, i, x] + 3 * cubic[2, i, x]) ** 2
            steps[i] = max(1, int(np.ceil(np.sqrt(np.sqrt(off) / 8 / fine))))
            begin[k + 1] += steps[i]
    flat = np.empty((begin[-1], 2))
    for k in range(len(which)):
        m = begin[k]
        for i in range(start[which[k]], start[which[k] + 1]):
            p0, p1, p2 = points[i, 0] - o0, points[i, 1] - o1, points[i, 2] - o2
            px, py = p0 * r0 + p1 * r1 + p2 * r2, p0 * u0 + p1 * u1 + p2 * u2
            flat[m, 0], flat[m, 1] = px, py
            m += 1
            if i == start[which[k] + 1] - 1:
                break
            p0, p1, p2 = cubic[0, i, 0], cubic[0, i, 1], cubic[0, i, 2]
            ax, ay = p0 * r0 + p1 * r1 + p2 * r2, p0 * u0 + p1 * u1 + p2 * u2
            p0, p1, p2 = cubic[1, i, 0], cubic[1, i, 1], cubic[1, i, 2]
            bx, by = p0 * r0 + p1 * r1 + p2 * r2, p0 * u0 + p1 * u1 + p2 * u2
            p0, p1, p2 = cubic[2, i, 0], cubic[2, i, 1], cubic[2, i, 2]
            cx, cy = p0 * r0 + p1 * r1 + p2 * r2, p0 * u0 + p1 * u1 + p2 * u2
            # what a cubic holds with the lines from where it begins, less what its polyline does
            bulge[k] += (ax * by - ay * bx) / 6 + (ax * cy - ay * cx) / 4 + (bx * cy - by * cx) / 10
            x0 = y0 = 0.0
            for j in range(1, steps[i] + 1):
                u = j / steps[i]
                x, y = u * (ax + u * (bx + u * cx)), u * (ay + u * (by + u * cy))
                bulge[k] -= (x0 * y - x * y0) / 2
                x0, y0 = x, y
                if j < steps[i]:
                    flat[m, 0], flat[m, 1] = px + x, py + y
                    m += 1
    return flat, begin, bulge


class Rings(NamedTuple):
    """Closed polylines, body after body: ``points`` (k, 2), in space ``spots`` (k, 3), from where in them each ring begins
    (r + 1,), the first ring (b + 1,) of each body; the area (r,) that each holds, below 0 where it runs clockwise; for each about a hole the one ``around`` it
    (r,), the smallest about material that it lies in, else -1; and by body (b,) what its curves hold ``over`` their polylines,
    and whether its rings are ``sound``: they do not cross, and those about material and about holes lie in each other in turn."""

    points: Array
    spots: Array
    first: Ints
    of_body: Ints
    turns: Array
    around: Ints
    over: Array
    sound: NDArray[np.bool_]


@compiled
def laid_in_plane(slices, solid, frame, fine, gap):  # type: ignore[no-untyped-def]
    """What :func:`in_plane` gives of what a cutting plane meets, both held; its rings (see :func:`rings_of`), held; and whether those of
    all bodies are sound."""
    s = slices.it
    fitted = np.arange(len(s.ends) + len(s.conic), len(s.body))
    flat, begin, bulge = in_plane(
        ends=s.ends,
        conic=s.conic,
        span=s.span,
        wires=(s.start, s.points, s.cubic),
        fitted=fitted,
        frame=frame,
        fine=fine,
    )
    rings = rings_of(flat=flat, begin=begin, bulge=bulge, body=s.body, solid=solid, frame=frame, gap=gap)
    return Held((flat, begin, bulge, s.body)), Held(rings), rings.sound.all()


@compiled
def rings_of(flat, begin, bulge, body, solid, frame, gap):  # type: ignore[no-untyped-def]
    """The rings of pieces that end where others of their body begin; a gap is closed straight.

    ``flat`` (m, 2): the pieces after each other, from ``begin`` (n + 1,) on; ``bulge`` (n,): what each holds beyond its
    polyline; ``body`` (n,): that of each; those that are not ``solid`` (b,) have none; ``frame`` (3, 3): a point in the
    cutting plane and its two directions.
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
                k = _laid_on(flat, p, q - 1, points, k)
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
                    k = _laid_on(flat, p, q - 1, points, k)
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
    around = np.full(rings, -1, np.int64)
    for b in range(bodies):
        for r in range(of_body[b], of_body[b + 1]):
            x, y = _beside(points, first, r)
            depth = 0
            for o in range(of_body[b], of_body[b + 1]):
                if o != r and _within(points, first[o], first[o + 1], boxes[o], x, y):
                    depth += 1
                    smaller = turns[o] > -turns[r] and (around[r] < 0 or turns[o] < turns[around[r]])
                    if turns[r] <= 0 and smaller:
                        around[r] = o
            if turns[r] == 0 or (turns[r] > 0) != (depth % 2 == 0):
                sound[b] = False
    points, spots = points[:k].copy(), np.empty((k, 3))
    for i in range(k):
        for x in range(3):
            spots[i, x] = frame[0, x] + points[i, 0] * frame[1, x] + points[i, 1] * frame[2, x]
    return Rings(
        points=points,
        spots=spots,
        first=first[: rings + 1].copy(),
        of_body=of_body,
        turns=turns,
        around=around,
        over=over,
        sound=sound,
    )


@compiled
def _laid_on(flat, a, z, points, k):  # type: ignore[no-untyped-def]
    """Rows a to z - 1 onto points (k, 2) from row k on: how many these are then."""
    for i in range(a, z):
        points[k, 0], points[k, 1] = flat[i, 0], flat[i, 1]
        k += 1
    return k


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
