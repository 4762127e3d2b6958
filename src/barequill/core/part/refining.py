"""A coarse mesh of a free-form face made as fine as it has to be: quicker than to have the kernel control it."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from ..geometry.evaluation import WORK, surface_at

ROUNDS = 7
"""How often a side may be halved: where the border itself strays, there would be no end to it."""
TURN = 0.7
"""Cosine of the angle between the normals at the ends of a side beyond which it is split, if it is long."""
LONG = 20.0
"""Shortest of these sides, in tolerances: at a crease the normals never come to agree."""


@compiled
def refined(form, degrees, ku, kv, net, frame, nodes, uv, triangles, tolerance):  # type: ignore[no-untyped-def]
    """Nodes (n, 3), parameters (n, 2) and triangles (m, 3) of a face, split at the middles of inner sides until none
    of these strays from the surface by more than ``tolerance``; sides on the border of the face stay as they are."""
    out, work = np.empty((4, 3)), np.empty(WORK)
    nodes, uv = nodes.copy(), uv.copy()
    normals = np.empty((len(nodes), 3))
    for i in range(len(nodes)):
        surface_at(form, degrees, ku, kv, net, frame, uv[i, 0], uv[i, 1], out, work)
        normals[i] = out[3]
    done = np.zeros((len(triangles), 3), np.bool_)
    for _ in range(ROUNDS):
        count = 0
        keys, side = np.empty(3 * len(triangles), np.int64), np.empty(3 * len(triangles), np.int64)
        for i in range(len(triangles)):
            for k in range(3):
                if not done[i, k]:
                    a, b = triangles[i, k], triangles[i, (k + 1) % 3]
                    keys[count], side[count] = min(a, b) * len(nodes) + max(a, b), 3 * i + k
                    done[i, k] = True
                    count += 1
        order = np.argsort(keys[:count])
        middle = np.full((len(triangles), 3), -1)
        first, made = len(nodes), 0
        new_nodes, new_uv, new_normals = np.empty((count, 3)), np.empty((count, 2)), np.empty((count, 3))
        for r in range(count - 1):
            # an inner side belongs to two triangles
            if keys[order[r]] != keys[order[r + 1]]:
                continue
            one, two = side[order[r]], side[order[r + 1]]
            a, b = triangles[one // 3, one % 3], triangles[one // 3, (one % 3 + 1) % 3]
            u, v = (uv[a, 0] + uv[b, 0]) / 2, (uv[a, 1] + uv[b, 1]) / 2
            surface_at(form, degrees, ku, kv, net, frame, u, v, out, work)
            if _strays(nodes[a], nodes[b], normals[a], normals[b], out, tolerance):
                new_nodes[made], new_normals[made] = out[0], out[3]
                new_uv[made, 0], new_uv[made, 1] = u, v
                middle[one // 3, one % 3] = middle[two // 3, two % 3] = first + made
                made += 1
        if made == 0:
            break
        nodes, uv = np.concatenate((nodes, new_nodes[:made])), np.concatenate((uv, new_uv[:made]))
        normals = np.concatenate((normals, new_normals[:made]))
        triangles, done = _split(nodes, triangles, done, middle)
    return nodes, uv, triangles


@compiled
def _strays(p, q, np_, nq, out, tolerance):  # type: ignore[no-untyped-def]
    """True where the side from p to q strays from the surface: at its middle (point and normal in ``out``), or by the
    turn of the normals over either half, or turns by too much."""
    off = one = two = alike = span = 0.0
    for x in range(3):
        m, n = out[0, x], out[3, x]
        off += (m - (p[x] + q[x]) / 2) * n
        one += (m - p[x]) * (n - np_[x])
        two += (q[x] - m) * (nq[x] - n)
        alike += np_[x] * nq[x]
        span += (q[x] - p[x]) ** 2
    return (
        abs(off) > tolerance
        or max(abs(one), abs(two)) > 8 * tolerance
        or (alike < TURN and span > (LONG * tolerance) ** 2)
    )


@compiled
def _split(nodes, triangles, done, middle):  # type: ignore[no-untyped-def]
    """Triangles (m, 3) parted at the nodes in ``middle`` (m, 3; -1 where a side stays whole), and which of their sides
    need not be looked at again."""
    total = len(triangles) + (middle >= 0).sum()
    found, settled = np.empty((total, 3), np.int64), np.zeros((total, 3), np.bool_)
    t = 0
    for i in range(len(triangles)):
        parts = (middle[i] >= 0).sum()
        # turned so that the whole sides, or the one that is split, come in a known place
        k = 0
        while (parts == 1 and middle[i, k] < 0) or (parts == 2 and middle[i, (k + 2) % 3] >= 0):
            k += 1
        a, b, c = triangles[i, k], triangles[i, (k + 1) % 3], triangles[i, (k + 2) % 3]
        d, e, f = middle[i, k], middle[i, (k + 1) % 3], middle[i, (k + 2) % 3]
        of_bc, of_ca = done[i, (k + 1) % 3], done[i, (k + 2) % 3]
        if parts == 0:
            found[t, 0], found[t, 1], found[t, 2] = a, b, c
            settled[t] = done[i]
        elif parts == 1:
            found[t, 0], found[t, 1], found[t, 2] = a, d, c
            settled[t, 2] = of_ca
            found[t + 1, 0], found[t + 1, 1], found[t + 1, 2] = d, b, c
            settled[t + 1, 1] = of_bc
        elif parts == 2:
            found[t, 0], found[t, 1], found[t, 2] = d, b, e
            if ((nodes[a] - nodes[e]) ** 2).sum() < ((nodes[d] - nodes[c]) ** 2).sum():
                found[t + 1, 0], found[t + 1, 1], found[t + 1, 2] = a, d, e
                found[t + 2, 0], found[t + 2, 1], found[t + 2, 2] = a, e, c
                settled[t + 2, 2] = of_ca
            else:
                found[t + 1, 0], found[t + 1, 1], found[t + 1, 2] = a, d, c
                settled[t + 1, 2] = of_ca
                found[t + 2, 0], found[t + 2, 1], found[t + 2, 2] = d, e, c
        else:
            found[t, 0], found[t, 1], found[t, 2] = a, d, f
            found[t + 1, 0], found[t + 1, 1], found[t + 1, 2] = d, b, e
            found[t + 2, 0], found[t + 2, 1], found[t + 2, 2] = f, e, c
            found[t + 3, 0], found[t + 3, 1], found[t + 3, 2] = d, e, f
        t += parts + 1
    return found, settled
