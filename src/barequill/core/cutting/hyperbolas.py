"""Compiled loops for hyperbolas, in which cutting planes meet cones: exactly, as rational splines, and as wires along these."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from .closed_forms import norm, outward_along

WIDEST = 1.2
"""The widest span of one arc: its weight is then cosh 0.6, no more than 1.19."""
FINEST = 0.08
"""The widest step between rows, where the curve reaches as far as the part: the cubics between them stray by less than 1e-7
of its size."""


@compiled
def bowed_along(faces, f, bow, span, chord, size):  # type: ignore[no-untyped-def]
    """The branch centre + cosh t · x + sinh t · y (bow: 3, 3) over a span (2,) on a face: homogeneous poles (k, 4) and knots of
    its arcs, rational and of the second degree, and as a wire within ``chord`` (mm): parameters, points, cubics and outward
    normals."""
    o, x, y = bow
    width = span[1] - span[0]
    arcs = max(1, int(np.ceil(width / WIDEST)))
    half = width / arcs / 2
    net, knots = np.empty((2 * arcs + 1, 4)), np.empty(2 * arcs + 4)
    for k in range(2 * arcs + 1):
        # the pole between two ends lies where the tangents there meet
        at, weight = span[0] + k * half, np.cosh(half) if k % 2 else 1.0
        c, s = np.cosh(at), np.sinh(at)
        for i in range(3):
            net[k, i] = weight * o[i] + c * x[i] + s * y[i]
        net[k, 3] = weight
    for k in range(arcs + 1):
        knots[2 * k + 1 : 2 * k + 3] = k
    knots[0], knots[-1] = 0.0, arcs
    reach = max(abs(span[0]), abs(span[1]))
    far = np.cosh(reach) * max(norm(x), norm(y))
    step = min(
        2 * np.arccosh(1 + chord / max(norm(x), 1e-9 * size)), FINEST * np.sqrt(np.sqrt(size / max(far, 1e-9 * size)))
    )
    steps = max(1, int(np.ceil(2 * half / step)))
    m = arcs * steps + 1
    t, points, cubic, normals = np.empty(m), np.empty((m, 3)), np.zeros((3, m, 3)), np.empty((m, 3))
    q = np.exp(-half)
    slopes = np.empty((m, 3))
    for j in range(m):
        arc = min(j // steps, arcs - 1)
        # within an arc: the angle from its middle, and the spline's parameter there
        angle = half * (2 * (j - arc * steps) / steps - 1)
        e = np.exp(angle)
        t[j] = arc + (e - q) / ((1 - q) * (1 + e)) if j % steps else j // steps
        speed = e * (1 + q) / ((1 - q) * (1 + e) ** 2)
        at = span[0] + (2 * arc + 1) * half + angle
        c, s = np.cosh(at), np.sinh(at)
        for i in range(3):
            points[j, i] = o[i] + c * x[i] + s * y[i]
            slopes[j, i] = (s * x[i] + c * y[i]) / speed
        if j:
            h = t[j] - t[j - 1]
            for i in range(3):
                d0, d1, gap = h * slopes[j - 1, i], h * slopes[j, i], points[j, i] - points[j - 1, i]
                cubic[0, j - 1, i], cubic[1, j - 1, i], cubic[2, j - 1, i] = (
                    d0,
                    3 * gap - 2 * d0 - d1,
                    d0 + d1 - 2 * gap,
                )
    outward_along(faces, f, points, 0, m, normals)
    return net, knots, t, points, cubic, normals
