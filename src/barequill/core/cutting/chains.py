"""Compiled loops over the mesh where a cutting plane passes it: chains of its sides, their ends, and how pieces make rings."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled


@compiled
def passed(nodes, triangles, wanted, face_of, normal, offset, hair):  # type: ignore[no-untyped-def]
    """Triangles that a plane passes, of the faces ``wanted``; and of all nodes the height (n,) and whether they count as
    beyond it."""
    n = len(nodes)
    height, over = np.empty(n), np.empty(n, np.bool_)
    for i in range(n):
        h = nodes[i, 0] * normal[0] + nodes[i, 1] * normal[1] + nodes[i, 2] * normal[2] - offset
        height[i], over[i] = h, h > -hair
    found = np.empty(len(triangles), np.int64)
    k = 0
    for i in range(len(triangles)):
        a, b, c = over[triangles[i, 0]], over[triangles[i, 1]], over[triangles[i, 2]]
        if (a != b or b != c) and wanted[face_of[i]]:
            found[k] = i
            k += 1
    return found[:k].copy(), height, over


@compiled
def passed_at(sides, begin, nodes, height, near):  # type: ignore[no-untyped-def]
    """Points where chains of sides meet the plane, those closer than ``near`` taken as one: begin (c + 1,), points
    (k, 3), and the rows of ``sides`` that they come from."""
    n = len(sides)
    points, rows = np.empty((n, 3)), np.empty(n, np.int64)
    new = np.zeros(len(begin), np.int64)
    k = 0
    for c in range(len(begin) - 1):
        first = k
        for i in range(begin[c], begin[c + 1]):
            a, b = sides[i]
            ha, hb = height[a], height[b]
            u = ha / (ha - hb) if ha != hb else 0.5
            u = min(max(u, 0.0), 1.0)
            gap = 0.0
            for x in range(3):
                points[k, x] = nodes[a, x] + u * (nodes[b, x] - nodes[a, x])
                if k > first:
                    gap += (points[k, x] - points[k - 1, x]) ** 2
            if k > first and gap < near * near:
                # of points in one place the last one ends a chain as the first began it
                if i == begin[c + 1] - 1:
                    rows[k - 1] = i
                continue
            rows[k] = i
            k += 1
        new[c + 1] = k
    return new, points[:k].copy(), rows[:k].copy()


@compiled
def snapped(points, begin, closed, chain_face, place, pair, reach):  # type: ignore[no-untyped-def]
    """For both ends of open chains the row of the passing (k, 3) of an edge of the face that is nearest, or -1: of two ends not the
    same, where there is another."""
    found = np.full((len(begin) - 1, 2), -1, np.int64)
    # of each face with a chain its passings, in their order: each names the next of the face that is its first, or second
    most = -1
    for c in range(len(begin) - 1):
        most = max(most, chain_face[c])
    head, onward = np.full(most + 1, -1), np.empty((len(place), 2), np.int64)
    for j in range(len(place) - 1, -1, -1):
        for k in range(2):
            f = pair[j, k]
            onward[j, k] = -1
            if 0 <= f <= most and (k == 0 or f != pair[j, 0]):
                onward[j, k] = head[f]
                head[f] = j
    for c in range(len(begin) - 1):
        if closed[c] or begin[c + 1] <= begin[c]:
            continue
        # of each end the nearest passing, and the one after it
        near = np.full((2, 2), -1)
        gaps = np.full((2, 2), np.inf)
        for e in range(2):
            p = points[begin[c]] if e == 0 else points[begin[c + 1] - 1]
            j = head[chain_face[c]]
            while j >= 0:
                gap = (place[j, 0] - p[0]) ** 2 + (place[j, 1] - p[1]) ** 2 + (place[j, 2] - p[2]) ** 2
                if gap <= reach[c] ** 2 and gap < gaps[e, 0]:
                    near[e, 1], gaps[e, 1] = near[e, 0], gaps[e, 0]
                    near[e, 0], gaps[e, 0] = j, gap
                elif gap <= reach[c] ** 2 and gap < gaps[e, 1]:
                    near[e, 1], gaps[e, 1] = j, gap
                j = onward[j, 0] if pair[j, 0] == chain_face[c] else onward[j, 1]
        found[c, 0], found[c, 1] = near[0, 0], near[1, 0]
        if near[0, 0] >= 0 and near[0, 0] == near[1, 0]:
            # a chain does not end where it begins: of both ends the one that loses less goes on to its second
            for e in range(2):
                other = 1 - e
                if near[e, 1] >= 0 and gaps[e, 1] + gaps[other, 0] <= gaps[e, 0] + gaps[other, 1]:
                    found[c, e] = near[e, 1]
                    break
    return found


@compiled
def straight_chains(chains, flat, normal, offset):  # type: ignore[no-untyped-def]
    """Of :class:`Chains` on faces that are ``flat`` (f,) the chain and both ends (k, 2, 3), in the plane normal (3,) · q = offset
    (mm), with the material at the left."""
    begin, points, snaps, place = chains.begin, chains.points, chains.snaps, chains.place
    n = len(begin) - 1
    chain, ends = np.empty(n, np.int64), np.empty((n, 2, 3))
    k = 0
    for c in range(n):
        if not flat[chains.face[c]] or begin[c + 1] - begin[c] < 2:
            continue
        a, b = points[begin[c]].copy(), points[begin[c + 1] - 1].copy()
        if snaps[c, 0] >= 0:
            a[:] = place[snaps[c, 0]]
        if snaps[c, 1] >= 0:
            b[:] = place[snaps[c, 1]]
        off_a, off_b = (a * normal).sum() - offset, (b * normal).sum() - offset
        a -= off_a * normal
        b -= off_b * normal
        chain[k] = c
        if chains.leftward[c]:
            ends[k, 0], ends[k, 1] = a, b
        else:
            ends[k, 0], ends[k, 1] = b, a
        k += 1
    return chain[:k].copy(), ends[:k].copy()


@compiled
def linked(starts, ends, gap):  # type: ignore[no-untyped-def]
    """Pieces (n) put after each other where one ends and the next begins, within ``gap``: their order (n,), and at which
    places of it rings begin (r + 1,)."""
    n = len(starts)
    order, first = np.empty(n, np.int64), np.empty(n + 1, np.int64)
    used = np.zeros(n, np.bool_)
    # starts by x: only those near are looked at
    by = np.argsort(starts[:, 0])
    xs = starts[by, 0]
    k = rings = 0
    for s in range(n):
        if used[s]:
            continue
        first[rings] = k
        rings += 1
        at = s
        while True:
            used[at] = True
            order[k] = at
            k += 1
            x, y = ends[at]
            back = np.hypot(starts[s, 0] - x, starts[s, 1] - y)
            best, least = -1, min(gap, back)
            low, high = 0, n
            while low < high:
                middle = (low + high) // 2
                if xs[middle] < x - least:
                    low = middle + 1
                else:
                    high = middle
            for m in range(low, n):
                if xs[m] > x + least:
                    break
                j = by[m]
                if not used[j]:
                    d = np.hypot(starts[j, 0] - x, starts[j, 1] - y)
                    if d < least:
                        best, least = j, d
            if best < 0 and back > gap:
                # a gap wider than that: on to the nearest, if it is nearer than the beginning
                least = back
                for j in range(n):
                    if not used[j]:
                        d = np.hypot(starts[j, 0] - x, starts[j, 1] - y)
                        if d < least:
                            best, least = j, d
            if best < 0:
                break
            at = best
    first[rings] = k
    return order, first[: rings + 1].copy()
