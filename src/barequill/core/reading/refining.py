"""A coarse mesh of a free-form face made as fine as it has to be: quicker than to have the kernel control it."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from ..geometry.curve_tracing import parameters_on
from ..geometry.evaluation import WORK, surface_at

ROUNDS = 7
"""How often a side may be halved: where the border itself strays, there would be no end to it."""
TURN = 0.7
"""Cosine of the angle between the normals at the ends of a side beyond which it is split, if it is long."""
ASIDE = 0.05
"""So far aside, in lengths of a side, the surface at the middle of its parameters is looked for next to the side itself."""
LONG = 20.0
"""Shortest of these sides, in tolerances: at a crease the normals never come to agree."""


@compiled
def refined(surface, nodes, uv, triangles, tolerance):  # type: ignore[no-untyped-def]
    """A mesh split at the middles of its inner sides until none of these strays from the surface by more than
    ``tolerance``; sides on the border of the face stay as they are.

    Returns nodes (n, 3), parameters (n, 2), triangles (m, 3), and how far the sides stray, those of the border too.
    """
    out, work = np.empty((4, 3)), np.empty(WORK)
    nodes, uv = nodes.copy(), uv.copy()
    normals = np.empty((len(nodes), 3))
    for i in range(len(nodes)):
        surface_at(surface, uv[i, 0], uv[i, 1], out, work)
        normals[i] = out[3]
    done = np.zeros((len(triangles), 3), np.bool_)
    worst = 0.0
    for turn in range(ROUNDS + 1):
        sides = _sides(triangles, done, len(nodes))
        middle = np.full((len(triangles), 3), -1)
        first, made = len(nodes), 0
        new_nodes, new_normals = np.empty((len(sides), 3)), np.empty((len(sides), 3))
        new_uv = np.empty((len(sides), 2))
        for i in range(len(sides)):
            one, two = sides[i]
            a, b = triangles[one // 3, one % 3], triangles[one // 3, (one % 3 + 1) % 3]
            at = (uv[a] + uv[b]) / 2
            surface_at(surface, at[0], at[1], out, work)
            new_nodes[made], new_normals[made], new_uv[made] = out[0], out[3], at
            off, turned, aside = _off(nodes[a], nodes[b], normals[a], normals[b], out, tolerance)
            if aside and off <= tolerance:
                for share in (0.25, 0.75):
                    at = uv[a] + share * (uv[b] - uv[a])
                    surface_at(surface, at[0], at[1], out, work)
                    off = max(off, abs(((out[0] - nodes[a] - share * (nodes[b] - nodes[a])) * out[3]).sum()))
                if off <= tolerance:
                    astray = _beside(
                        surface=surface,
                        at=new_uv[made],
                        there=new_nodes[made],
                        p=nodes[a],
                        q=nodes[b],
                        tolerance=tolerance,
                        out=out,
                        work=work,
                    )
                    off = max(off, astray)
            if two >= 0 and turn < ROUNDS and (turned or off > tolerance):
                middle[one // 3, one % 3] = middle[two // 3, two % 3] = first + made
                made += 1
            else:
                worst = max(worst, off)
        if made == 0:
            break
        nodes, uv = np.concatenate((nodes, new_nodes[:made])), np.concatenate((uv, new_uv[:made]))
        normals = np.concatenate((normals, new_normals[:made]))
        triangles, done = _split(nodes, triangles, done, middle)
    return nodes, uv, triangles, worst


@compiled
def _beside(surface, at, there, p, q, tolerance, out, work):  # type: ignore[no-untyped-def]
    """How far the middle of a side from p to q lies off the surface next to it, where the middle of its parameters ``at`` (2,)
    is far aside, at ``there``: along the crest of a ring all normals are alike, and a chord of it stands free."""
    middle, drift, span = (p + q) / 2, 0.0, 0.0
    for x in range(3):
        drift += (there[x] - middle[x]) ** 2
        span += (q[x] - p[x]) ** 2
    if drift < (ASIDE * ASIDE) * span:
        return 0.0
    near = parameters_on(surface, at, middle, max(np.sqrt(span) / 16, tolerance))
    if np.isnan(near[0]):
        return 2 * tolerance
    surface_at(surface, near[0], near[1], out, work)
    return np.sqrt(((out[0] - middle) ** 2).sum())


@compiled
def _sides(triangles, done, nodes):  # type: ignore[no-untyped-def]
    """Sides not ``done`` (m, 3), which they are from now on: numbers (k, 2), three a triangle, of each side in both of
    its triangles; -1 in place of the second on the border."""
    keys, number = np.empty(3 * len(triangles), np.int64), np.empty(3 * len(triangles), np.int64)
    count = 0
    for i in range(len(triangles)):
        for k in range(3):
            if not done[i, k]:
                a, b = triangles[i, k], triangles[i, (k + 1) % 3]
                keys[count], number[count] = min(a, b) * nodes + max(a, b), 3 * i + k
                done[i, k] = True
                count += 1
    order = np.argsort(keys[:count])
    found = np.full((count, 2), -1)
    sides = 0
    for r in range(count):
        if r > 0 and keys[order[r]] == keys[order[r - 1]] and found[sides - 1, 1] < 0:
            found[sides - 1, 1] = number[order[r]]
        else:
            found[sides, 0], sides = number[order[r]], sides + 1
    return found[:sides]


@compiled
def _off(p, q, np_, nq, out, tolerance):  # type: ignore[no-untyped-def]
    """How far the side from p to q lies off the surface, whose point and normal half way are in ``out``: there, and at
    its quarters as the cubics through these points and slopes have it; whether it is long and turns by too much; and
    whether the surface runs so far aside of it that its quarters have to be looked at themselves."""
    off = one = two = alike = span = drift = along = 0.0
    for x in range(3):
        m, n = out[0, x], out[3, x]
        gap = m - (p[x] + q[x]) / 2
        off += gap * n
        drift += gap * gap
        along += gap * (q[x] - p[x])
        one += (m - p[x]) * (n - np_[x])
        two += (q[x] - m) * (nq[x] - n)
        alike += np_[x] * nq[x]
        span += (q[x] - p[x]) ** 2
    quarters = max(abs(off / 2 + one / 8), abs(off / 2 + two / 8))
    aside = drift - along * along / max(span, 1e-300) - off * off > (4 * tolerance) ** 2
    return max(abs(off), quarters), alike < TURN and span > (LONG * tolerance) ** 2, aside


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
