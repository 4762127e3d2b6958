"""B-spline curves and surfaces, rational or not, over numpy arrays.

Knot vectors are full ("flat") and clamped: a curve with n poles and degree p has n + p + 1 knots.
Algorithms after L. Piegl, W. Tiller, *The NURBS Book*, 2nd ed., Springer 1997 (A2.1 to A2.3, A5.1).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def spans(knots: Array, degree: int, t: Array) -> NDArray[np.int64]:
    """Knot span of each parameter: shape (m,) for ``t`` of shape (m,)."""
    n = len(knots) - degree - 1
    return np.clip(np.searchsorted(knots, t, side="right") - 1, degree, n - 1)


def _recursive(knots: Array, degree: int, t: Array) -> tuple[NDArray[np.int64], Array, Array]:
    """The basis functions and their slopes by the recursion of Cox and de Boor."""
    t = np.asarray(t, dtype=float)
    span = spans(knots, degree, t)
    values = np.ones((len(t), 1))
    below = values
    for p in range(1, degree + 1):
        below = values
        values = np.zeros((len(t), p + 1))
        for r in range(p):
            right = knots[span + r + 1]
            left = knots[span + r + 1 - p]
            width = right - left
            part = np.divide(below[:, r], width, out=np.zeros(len(t)), where=width > 0)
            values[:, r] += (right - t) * part
            values[:, r + 1] += (t - left) * part
    slopes = np.zeros_like(values)
    for r in range(degree):
        width = knots[span + r + 1] - knots[span + r + 1 - degree]
        part = np.divide(below[:, r], width, out=np.zeros(len(t)), where=width > 0) * degree
        slopes[:, r] -= part
        slopes[:, r + 1] += part
    return span, values, slopes


@lru_cache(maxsize=512)
def _polynomials(degree: int, knots: bytes) -> tuple[Array, Array, Array]:
    """The basis functions of each span as polynomials of x from -1 to 1 over the span: coefficients
    (spans, degree + 1, degree + 1), rows by power; with the middles and half widths of the spans."""
    flat = np.frombuffer(knots)
    low, high = flat[degree : len(flat) - degree - 1], flat[degree + 1 : len(flat) - degree]
    middle, half = (low + high) / 2, (high - low) / 2
    x = np.cos(np.pi * (np.arange(degree + 1) + 0.5) / (degree + 1))
    wide = half > 0
    table = np.zeros((len(low), degree + 1, degree + 1))
    at = (middle[wide, None] + half[wide, None] * x).ravel()
    values = _recursive(flat, degree, at)[1].reshape(-1, degree + 1, degree + 1)
    table[wide] = np.linalg.solve(np.vander(x, increasing=True)[None], values)
    return table, middle, np.where(wide, half, 1.0)


def basis(knots: Array, degree: int, t: Array) -> tuple[NDArray[np.int64], Array, Array]:
    """Spans (m,), non-zero basis functions (m, degree + 1) and their first derivatives."""
    t = np.asarray(t, dtype=float)
    if degree > 7:
        return _recursive(knots, degree, t)
    table, middle, half = _polynomials(degree, knots.tobytes())
    span = spans(knots, degree, t)
    own = span - degree
    width = half[own]
    x = (t - middle[own]) / width
    powers, slopes = np.empty((len(t), degree + 1)), np.zeros((len(t), degree + 1))
    powers[:, 0] = 1.0
    for k in range(degree):
        powers[:, k + 1] = powers[:, k] * x
        slopes[:, k + 1] = (k + 1) * powers[:, k]
    slopes /= width[:, None]
    both = np.matmul(np.stack([powers, slopes], axis=1), table[own])
    return span, both[:, 0], both[:, 1]


def homogeneous(poles: Array, weights: Array | None) -> Array:
    """Poles (…, d) and weights (…) as homogeneous poles (…, d + 1)."""
    w = np.ones(poles.shape[:-1]) if weights is None else weights
    return np.concatenate([poles * w[..., None], w[..., None]], axis=-1)


def curve_points(degree: int, knots: Array, poles: Array, weights: Array | None, t: Array) -> tuple[Array, Array]:
    """Points and first derivatives of a curve, each (m, d)."""
    span, values, slopes = basis(knots, degree, t)
    columns = span[:, None] - degree + np.arange(degree + 1)
    h = homogeneous(poles, weights)[columns]
    top = np.einsum("mk,mkd->md", values, h)
    der = np.einsum("mk,mkd->md", slopes, h)
    w = top[:, -1:]
    points = top[:, :-1] / w
    return points, (der[:, :-1] - points * der[:, -1:]) / w


def surface_points(
    degrees: tuple[int, int], knots: tuple[Array, Array], poles: Array, weights: Array | None, uv: Array
) -> tuple[Array, Array, Array]:
    """Points and both first derivatives of a surface at ``uv`` (m, 2), each (m, 3)."""
    su, nu, du = basis(knots[0], degrees[0], uv[:, 0])
    sv, nv, dv = basis(knots[1], degrees[1], uv[:, 1])
    rows = su[:, None] - degrees[0] + np.arange(degrees[0] + 1)
    columns = sv[:, None] - degrees[1] + np.arange(degrees[1] + 1)
    net = poles if weights is None else homogeneous(poles, weights)
    h = net[rows[:, :, None], columns[:, None, :]]
    m, p, q, d = h.shape
    across = np.matmul(np.stack([nu, du], axis=1), h.reshape(m, p, q * d)).reshape(m, 2, q, d)
    top = np.matmul(nv[:, None, None], across)[:, :, 0]
    tv = np.matmul(dv[:, None], across[:, 0])[:, 0]
    point, tu = top[:, 0], top[:, 1]
    if weights is None:
        return point, tu, tv
    w = point[:, -1:]
    points = point[:, :-1] / w
    return points, (tu[:, :-1] - points * tu[:, -1:]) / w, (tv[:, :-1] - points * tv[:, -1:]) / w


def insert_knot(degree: int, knots: Array, h: Array, t: float, times: int) -> tuple[Array, Array]:
    """Insert knot ``t`` so many times into a curve with homogeneous poles ``h`` (Boehm)."""
    for _ in range(times):
        k = int(np.searchsorted(knots, t, side="right") - 1)
        new = np.empty((len(h) + 1, h.shape[1]))
        new[: k - degree + 1] = h[: k - degree + 1]
        new[k + 1 :] = h[k:]
        for i in range(k - degree + 1, k + 1):
            width = knots[i + degree] - knots[i]
            a = (t - knots[i]) / width if width > 0 else 0.0
            new[i] = a * h[i] + (1 - a) * h[i - 1]
        knots = np.insert(knots, k + 1, t)
        h = new
    return knots, h


def cut(
    degree: int, knots: Array, poles: Array, weights: Array | None, t0: float, t1: float
) -> tuple[Array, Array, Array | None]:
    """The piece of a clamped curve between two parameters: knots, poles, weights."""
    h = homogeneous(poles, weights)
    near = 1e-10 * (knots[-1] - knots[0])
    knots = knots.copy()
    for t in (t0, t1):
        close = np.abs(knots - t) <= near
        knots[close] = t
        if knots[0] < t < knots[-1]:
            knots, h = insert_knot(degree, knots, h, t, degree - int(close.sum()))
    first = int(np.searchsorted(knots, t0, side="right") - 1) - degree if t0 > knots[0] else 0
    last = int(np.searchsorted(knots, t1, side="left")) if t1 < knots[-1] else len(h)
    h = h[first:last]
    inner = knots[(knots > t0) & (knots < t1)]
    flat = np.concatenate([[t0] * (degree + 1), inner, [t1] * (degree + 1)])
    new_weights = h[:, -1] if weights is not None else None
    return flat, h[:, :-1] / h[:, -1:], new_weights


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
