"""Compiled loops that lay runs of pieces as exact plane curves, in columns."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.forms import CONIC, LINE, SPLINE, Ints
from ..geometry.nurbs import between
from .seen import OUTLINE

Flags = NDArray[np.bool_]
TURN = 2 * np.pi
SEAM = 1e-9


@compiled
def principal(conic, t0, t1, right, up, out):  # type: ignore[no-untyped-def]
    """A conic (3, 3: centre, x, y) in the view in principal axes, into ``out`` (3, 2: centre, a, b); its parameters."""
    for r in range(3):
        c = conic[r]
        out[r, 0] = c[0] * right[0] + c[1] * right[1] + c[2] * right[2]
        out[r, 1] = c[0] * up[0] + c[1] * up[1] + c[2] * up[2]
    if out[1, 0] * out[2, 1] - out[1, 1] * out[2, 0] < 0:
        out[2, 0], out[2, 1] = -out[2, 0], -out[2, 1]
        t0, t1 = -t1, -t0
    xx, yy = out[1, 0] ** 2 + out[1, 1] ** 2, out[2, 0] ** 2 + out[2, 1] ** 2
    xy = out[1, 0] * out[2, 0] + out[1, 1] * out[2, 1]
    shift = 0.0
    if abs(xy) > 1e-12 * (xx + yy) or yy > xx * (1 + 1e-12):
        shift = 0.5 * np.arctan2(2 * xy, xx - yy)
        c, s = np.cos(shift), np.sin(shift)
        for i in range(2):
            x, y = out[1, i], out[2, i]
            out[1, i], out[2, i] = c * x + s * y, c * y - s * x
    t0, t1 = t0 - shift, t1 - shift
    turns = TURN * np.floor(t0 / TURN + 1e-12)
    return t0 - turns, t1 - turns


class Origins(NamedTuple):
    """What strands come from: the rows of ``edge`` in the part, then the faces that have an ``outline``, then those along
    which something is ``laid`` open. ``hem``: of each of the part's edges the face whose outline it is where it is one.
    Of the outlines the first ``straight`` are lines without a form; which of the others are meshed, and of what is laid
    open."""

    edge: Ints
    outline: Ints
    laid: Ints
    hem: Ints
    straight: int
    outline_meshed: Flags
    laid_meshed: Flags


@compiled
def _place(origins, w):  # type: ignore[no-untyped-def]
    """The set of forms (0 edges, 1 outlines, 2 what is laid open) and the row there of an origin; of outlines without one
    it lies below 0."""
    n, m = len(origins.edge), len(origins.outline)
    if w < n:
        return 0, origins.edge[w]
    return (1, w - n - origins.straight) if w < n + m else (2, w - n - m)


@compiled
def _sources(origins, whole, cls):  # type: ignore[no-untyped-def]
    """The source of each strand (n,): a row of the part's edges, or behind all of these one of its faces."""
    found = np.empty(len(whole), np.int64)
    edges = len(origins.hem)
    for s in range(len(whole)):
        which, row = _place(origins, whole[s])
        if which == 0:
            found[s] = edges + origins.hem[row] if cls[s] == OUTLINE else row
        else:
            found[s] = edges + (origins.outline[row + origins.straight] if which == 1 else origins.laid[row])
    return found


@compiled
def _meshed(origins, w):  # type: ignore[no-untyped-def]
    """Whether what comes from an origin is drawn from the mesh."""
    which, row = _place(origins, w)
    if which == 0 or row < 0:
        return False
    return origins.outline_meshed[row] if which == 1 else origins.laid_meshed[row]


@compiled
def _seams(parted, runs, origins, sets):  # type: ignore[no-untyped-def]
    """For each run that begins where a whole circle or ellipse closes the one of the same state that ends there, of which
    it is the rest (k,); for all others -1."""
    owner, low, high = parted.pieces.owner, parted.pieces.low, parted.pieces.high
    n = len(owner)
    found = np.full(len(runs.first), -1, np.int64)
    begins = np.full(len(origins.edge) + len(origins.outline) + len(origins.laid), -1, np.int64)
    for k in range(len(runs.first)):
        a, b = runs.first[k], runs.last[k]
        s = owner[a]
        opens, closes = a == 0 or owner[a - 1] != s, b == n - 1 or owner[b + 1] != s
        if parted.laid.level[s] or not (opens or closes):
            continue
        w = parted.whole[s]
        which, row = _place(origins, w)
        if sets[which].kind[row] != CONIC:
            continue
        t0, t1 = sets[which].ends[row]
        if t1 - t0 <= TURN - SEAM:
            continue
        # of what a cut has left of a circle, only the stretches on both sides of its seam meet there
        if opens and low[a] == t0:
            begins[w] = k
        if closes and high[b] == t1:
            other = begins[w] if begins[w] >= 0 else k
            if other != k and runs.covered[other] == runs.covered[k]:
                found[other] = k
    return found


@compiled
def _beneath(owner, over, drawn, rest, source, count):  # type: ignore[no-untyped-def]
    """Of the :class:`Runs` that are ``drawn`` those (j,) and the sources (j,) of what lies under them, each once, by run; a run that goes with another (``rest``)
    under that."""
    first, last = drawn.first, drawn.last
    n, runs = len(owner), len(first)
    keys = np.empty(n, np.int64)
    m = 0
    for p in range(n):
        o = over[p]
        if o == p:
            continue
        low, high = 0, runs
        while low < high:
            middle = (low + high) // 2
            if first[middle] <= o:
                low = middle + 1
            else:
                high = middle
        run = low - 1
        if run < 0 or o > last[run]:
            continue
        name = source[owner[p]]
        # the source of the run that is drawn is named anyway
        h = rest[run] if rest[run] >= 0 else run
        if name != source[owner[first[h]]]:
            keys[m] = h * count + name
            m += 1
    own = np.sort(keys[:m])
    k = 0
    for i in range(m):
        if i == 0 or own[i] != own[i - 1]:
            own[k] = own[i]
            k += 1
    return own[:k] // count, own[:k] % count


@compiled
def plane_curves(parted, over, drawn, sources, faces, eye, least):  # type: ignore[no-untyped-def]
    """The :class:`Runs` of pieces that are ``drawn``, as columns.

    ``parted``: :class:`Parted`; ``over`` (n,): the piece that each lies under; ``sources``: what strands come from
    (:class:`Origins`), and the three sets of forms of that; ``faces``: how many the part has; ``eye``: :class:`Eye`.
    What does not reach as far as ``least`` (mm) is left out.

    Returns, in few arrays since each that goes out takes a microsecond, how many curves, poles, knots and sources beneath there
    are; numbers: by curve kind, class, source, degree and where the sources beneath it end, then where its poles, knots and
    weights end (n, 3), the sources beneath, and those that are used; by curve whether it is seen and whether it is meshed
    (n, 2); and reals: by curve parameters (n, 4) and axes (n, 2, 2), poles (k, 2), knots and weights. Sources are places among
    those that are used: rows of edges, and behind all these of faces.
    """
    owner, low, high, ends = parted.pieces.owner, parted.pieces.low, parted.pieces.high, parted.pieces.ends
    level, cls, whole = parted.laid.level, parted.cls, parted.whole
    first, last, covered = drawn.first, drawn.last, drawn.covered
    origins, sets = sources
    right, up = eye.right, eye.up
    runs = len(first)
    source, count = _sources(origins, whole, cls), len(origins.hem) + faces
    rest = _seams(parted, drawn, origins, sets)
    after = np.full(runs, -1, np.int64)
    poles_most = knots_most = 0
    for k in range(runs):
        if rest[k] >= 0:
            after[rest[k]] = k
        s = owner[first[k]]
        poles_most += 2
        if not level[s]:
            which, r = _place(origins, whole[s])
            forms = sets[which]
            if forms.kind[r] == SPLINE:
                more = forms.poles[r + 1] - forms.poles[r] + 2 * forms.degree[r]
                poles_most += more
                knots_most += more + forms.degree[r] + 2
    under, names = _beneath(owner, over, drawn, rest=rest, source=source, count=count)
    kind, klass, name = np.empty(runs, np.int64), np.empty(runs, np.int64), np.empty(runs, np.int64)
    flags, degree, closing = np.empty((runs, 2), np.bool_), np.zeros(runs, np.int64), np.empty(runs, np.int64)
    spans, axes, till = np.zeros((runs, 4)), np.zeros((runs, 2, 2)), np.empty((runs, 3), np.int64)
    poles, knots, weights = np.empty((poles_most, 2)), np.empty(knots_most), np.empty(poles_most)
    beneath = np.empty(len(names), np.int64)
    flat = np.empty((3, 2))
    n = p = q = v = b = u = 0
    for k in range(runs):
        if rest[k] >= 0:
            continue
        s = owner[first[k]]
        t0, t1 = low[first[k]], high[last[k]]
        if after[k] >= 0:
            t0, t1 = t0 - TURN, high[last[after[k]]]
        spans[n, 2], spans[n, 3] = t0, t1
        spans[n, 0], spans[n, 1] = 0.0, 1.0
        degree[n] = 0
        if level[s]:
            x0, y0 = ends[first[k], 0, 0], ends[first[k], 0, 1]
            x1, y1 = ends[last[k], 1, 0], ends[last[k], 1, 1]
            if max(abs(x1 - x0), abs(y1 - y0)) < least:
                continue
            kind[n] = LINE
            poles[p, 0], poles[p, 1], poles[p + 1, 0], poles[p + 1, 1] = x0, y0, x1, y1
            p += 2
        else:
            which, r = _place(origins, whole[s])
            forms = sets[which]
            kind[n] = forms.kind[r]
            if forms.kind[r] == CONIC:
                spans[n, 0], spans[n, 1] = principal(forms.conic[r], t0, t1, right, up, flat)
                poles[p] = flat[0]
                axes[n, 0], axes[n, 1] = flat[1], flat[2]
                p += 1
            else:
                d = forms.degree[r]
                h, turns = (
                    forms.net[forms.poles[r] : forms.poles[r + 1]],
                    forms.knots[forms.turns[r] : forms.turns[r + 1]],
                )
                if t0 <= forms.ends[r, 0] and t1 >= forms.ends[r, 1]:
                    t0, t1 = forms.ends[r, 0], forms.ends[r, 1]
                else:
                    turns, h = between(d, turns, h, max(t0, forms.ends[r, 0]), min(t1, forms.ends[r, 1]))
                x0 = y0 = np.inf
                x1 = y1 = -np.inf
                for i in range(len(h)):
                    x = (h[i, 0] * right[0] + h[i, 1] * right[1] + h[i, 2] * right[2]) / h[i, 3]
                    y = (h[i, 0] * up[0] + h[i, 1] * up[1] + h[i, 2] * up[2]) / h[i, 3]
                    x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
                    poles[p + i, 0], poles[p + i, 1] = x, y
                if max(x1 - x0, y1 - y0) < least:
                    continue
                if forms.rational[r]:
                    for i in range(len(h)):
                        weights[v + i] = h[i, 3]
                    v += len(h)
                knots[q : q + len(turns)] = turns
                p, q = p + len(h), q + len(turns)
                degree[n] = d
                spans[n, 0], spans[n, 1] = t0, t1
        klass[n], name[n], flags[n, 0], flags[n, 1] = cls[s], source[s], not covered[k], _meshed(origins, whole[s])
        while u < len(under) and under[u] < k:
            u += 1
        while u < len(under) and under[u] == k:
            beneath[b] = names[u]
            u, b = u + 1, b + 1
        closing[n] = b
        till[n, 0], till[n, 1], till[n, 2] = p, q, v
        n += 1
    # the sources that are used, in order, and each by its place among them
    place = np.full(count, -1, np.int64)
    for i in range(n):
        place[name[i]] = 0
    for i in range(b):
        place[beneath[i]] = 0
    used = np.nonzero(place == 0)[0]
    for i in range(len(used)):
        place[used[i]] = i
    for i in range(n):
        name[i] = place[name[i]]
    for i in range(b):
        beneath[i] = place[beneath[i]]
    numbers, reals = np.empty(8 * n + b + len(used), np.int64), np.empty(8 * n + 2 * p + q + v)
    for i in range(n):
        numbers[i], numbers[n + i], numbers[2 * n + i] = kind[i], klass[i], name[i]
        numbers[3 * n + i], numbers[4 * n + i] = degree[i], closing[i]
        for c in range(3):
            numbers[5 * n + 3 * i + c] = till[i, c]
        for c in range(4):
            reals[4 * i + c], reals[4 * n + 4 * i + c] = spans[i, c], axes[i, c // 2, c % 2]
    numbers[8 * n : 8 * n + b], numbers[8 * n + b :] = beneath[:b], used
    at = 8 * n
    for i in range(p):
        reals[at], reals[at + 1] = poles[i, 0], poles[i, 1]
        at += 2
    reals[at : at + q], reals[at + q :] = knots[:q], weights[:v]
    return n, p, q, b, numbers, flags[:n].copy(), reals
