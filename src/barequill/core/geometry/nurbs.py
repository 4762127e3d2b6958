"""B-spline curves and surfaces, rational or not, over numpy arrays.

Knot vectors are full ("flat") and clamped: a curve with n poles and degree p has n + p + 1 knots.
Algorithms after L. Piegl, W. Tiller, *The NURBS Book*, 2nd ed., Springer 1997 (A2.1 to A2.3, A5.1).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled

Array = NDArray[np.float64]


@compiled
def basis_at(degree, knots, n, t, values, slopes):  # type: ignore[no-untyped-def]
    """Span of t among the knots of n poles, with the basis functions that are not zero there and their slopes."""
    low, high = degree, n
    if t >= knots[n]:
        low = n - 1
        while low > degree and knots[low] == knots[low + 1]:
            low -= 1
    else:
        while high - low > 1:
            middle = (low + high) // 2
            if knots[middle] <= t:
                low = middle
            else:
                high = middle
    span = low
    values[0] = 1.0
    for k in range(degree + 1):
        slopes[k] = 0.0
    for p in range(1, degree + 1):
        if p == degree:
            for r in range(p):
                width = knots[span + r + 1] - knots[span + r + 1 - p]
                part = values[r] * p / width if width > 0 else 0.0
                slopes[r] -= part
                slopes[r + 1] += part
        saved = 0.0
        for r in range(p):
            right, left = knots[span + r + 1] - t, t - knots[span + r + 1 - p]
            part = values[r] / (right + left) if right + left > 0 else 0.0
            values[r] = saved + right * part
            saved = left * part
        values[p] = saved
    return span


@compiled
def _along(degree, knots, h, t):  # type: ignore[no-untyped-def]
    """Points and slopes (m, d) of a curve with homogeneous poles (n, d + 1)."""
    m, d = len(t), h.shape[1] - 1
    points, slopes = np.empty((m, d)), np.empty((m, d))
    values, rise = np.empty(degree + 1), np.empty(degree + 1)
    for i in range(m):
        span = basis_at(degree, knots, len(h), t[i], values, rise)
        w = dw = 0.0
        for k in range(degree + 1):
            w += values[k] * h[span - degree + k, d]
            dw += rise[k] * h[span - degree + k, d]
        for x in range(d):
            a = b = 0.0
            for k in range(degree + 1):
                a += values[k] * h[span - degree + k, x]
                b += rise[k] * h[span - degree + k, x]
            points[i, x] = a / w
            slopes[i, x] = (b - points[i, x] * dw) / w
    return points, slopes


@compiled
def highest(degree, knots, h, low, high, k):  # type: ignore[no-untyped-def]
    """The greatest coordinate ``k`` of a curve with homogeneous poles (n, d + 1) between two parameters close about it."""
    best = -np.inf
    for _ in range(12):
        t = np.linspace(low, high, 9)
        points, _slopes = _along(degree, knots, h, t)
        top = int(np.argmax(points[:, k]))
        best = max(best, points[top, k])
        low, high = t[max(top - 1, 0)], t[min(top + 1, 8)]
    return best


@compiled
def _over(pu, pv, ku, kv, h, uv):  # type: ignore[no-untyped-def]
    """Points and both slopes (m, 3) of a surface with homogeneous poles (n, k, 4)."""
    m = len(uv)
    out = np.zeros((3, m, 3))
    nu, du, nv, dv = np.empty(pu + 1), np.empty(pu + 1), np.empty(pv + 1), np.empty(pv + 1)
    for i in range(m):
        su = basis_at(pu, ku, h.shape[0], uv[i, 0], nu, du)
        sv = basis_at(pv, kv, h.shape[1], uv[i, 1], nv, dv)
        w = wu = wv = 0.0
        for a in range(pu + 1):
            for b in range(pv + 1):
                p = h[su - pu + a, sv - pv + b]
                f, fu, fv = nu[a] * nv[b], du[a] * nv[b], nu[a] * dv[b]
                w, wu, wv = w + f * p[3], wu + fu * p[3], wv + fv * p[3]
                for x in range(3):
                    out[0, i, x] += f * p[x]
                    out[1, i, x] += fu * p[x]
                    out[2, i, x] += fv * p[x]
        for x in range(3):
            out[0, i, x] /= w
            out[1, i, x] = (out[1, i, x] - out[0, i, x] * wu) / w
            out[2, i, x] = (out[2, i, x] - out[0, i, x] * wv) / w
    return out


def homogeneous(poles: Array, weights: Array | None) -> Array:
    """Poles (…, d) with their weights (…), or with none, as homogeneous poles (…, d + 1): each times its weight, then the weight."""
    w = np.ones(poles.shape[:-1]) if weights is None else weights
    return np.concatenate([poles * w[..., None], w[..., None]], axis=-1)


def curve_points(degree: int, knots: Array, poles: Array, weights: Array | None, t: Array) -> tuple[Array, Array]:
    """Points and first derivatives of a curve, each (m, d)."""
    found: tuple[Array, Array] = _along(degree, knots, homogeneous(poles, weights), np.ascontiguousarray(t, float))
    return found


def surface_points(
    degrees: tuple[int, int], knots: tuple[Array, Array], poles: Array, weights: Array | None, uv: Array
) -> tuple[Array, Array, Array]:
    """Points and both first derivatives of a surface at ``uv`` (m, 2), each (m, 3)."""
    net = homogeneous(poles, weights)
    points, du, dv = _over(*degrees, *knots, net, np.ascontiguousarray(uv, float))
    return points, du, dv


@compiled
def insert_knot(degree, knots, h, t, times):  # type: ignore[no-untyped-def]
    """Insert knot ``t`` so many times into a curve with homogeneous poles ``h`` (Boehm): knots and poles."""
    for _ in range(times):
        k = np.searchsorted(knots, t, side="right") - 1
        new, longer = np.empty((len(h) + 1, h.shape[1])), np.empty(len(knots) + 1)
        new[: k - degree + 1] = h[: k - degree + 1]
        new[k + 1 :] = h[k:]
        for i in range(k - degree + 1, k + 1):
            width = knots[i + degree] - knots[i]
            a = (t - knots[i]) / width if width > 0 else 0.0
            for x in range(h.shape[1]):
                new[i, x] = a * h[i, x] + (1 - a) * h[i - 1, x]
        longer[: k + 1], longer[k + 1], longer[k + 2 :] = knots[: k + 1], t, knots[k + 1 :]
        knots, h = longer, new
    return knots, h


@compiled
def between(degree, knots, h, t0, t1):  # type: ignore[no-untyped-def]
    """The piece of a clamped curve with homogeneous poles between two parameters: knots and poles."""
    near = 1e-10 * (knots[-1] - knots[0])
    knots = knots.copy()
    for t in (t0, t1):
        close = 0
        for i in range(len(knots)):
            if abs(knots[i] - t) <= near:
                knots[i] = t
                close += 1
        if knots[0] < t < knots[-1]:
            knots, h = insert_knot(degree, knots, h, t, degree - close)
    first = np.searchsorted(knots, t0, side="right") - 1 - degree if t0 > knots[0] else 0
    last = np.searchsorted(knots, t1, side="left") if t1 < knots[-1] else len(h)
    low, high = np.searchsorted(knots, t0, side="right"), np.searchsorted(knots, t1, side="left")
    flat = np.empty(max(high - low, 0) + 2 * (degree + 1))
    flat[: degree + 1], flat[len(flat) - degree - 1 :] = t0, t1
    if high > low:
        flat[degree + 1 : len(flat) - degree - 1] = knots[low:high]
    return flat, h[first:last].copy()


def cut(
    degree: int, knots: Array, poles: Array, weights: Array | None, t0: float, t1: float
) -> tuple[Array, Array, Array | None]:
    """The piece of a clamped curve between two parameters ``t0`` < ``t1``, of its knots (k,), poles (n, d) and weights (n,): the same three of
    the piece, which keeps its parameters."""
    flat, h = between(degree, knots, homogeneous(poles, weights), float(t0), float(t1))
    return flat, h[:, :-1] / h[:, -1:], None if weights is None else h[:, -1]


def beziers(degree: int, knots: Array, poles: Array, weights: Array | None) -> list[tuple[Array, Array | None]]:
    """The Bézier arcs of a clamped curve: poles (degree + 1, d) and weights of each."""
    h = homogeneous(poles, weights)
    for t in np.unique(knots[degree + 1 : -degree - 1]):
        times = degree - int((knots == t).sum())
        if times > 0:
            knots, h = insert_knot(degree, knots, h, float(t), times)
    arcs = []
    for i in range(0, len(h) - degree, degree):
        piece = h[i : i + degree + 1]
        arcs.append((piece[:, :-1] / piece[:, -1:], piece[:, -1] if weights is not None else None))
    return arcs
