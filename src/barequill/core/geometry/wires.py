"""Many curves in space in one set of arrays, so that a whole view is worked on in a few calls.

A wire is a fine polyline whose every piece knows the cubic between its ends (Hermite, from the exact
points and slopes of the curve), so a point at any parameter is found to far below what is drawn.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..values import value
from .curves3 import Curve3

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


@value
class Wires:
    """n wires of m rows in all.

    ``start`` (n + 1,): first row of each. ``t`` (m,), ``points`` (m, 3): the polylines. ``cubic``
    (3, m, 3): coefficients of u, u² and u³ from each row to the next (u from 0 to 1), nothing at a last row.
    """

    start: Ints
    t: Array
    points: Array
    cubic: Array

    @property
    def count(self) -> int:
        """How many wires."""
        return len(self.start) - 1

    @cached_property
    def owner(self) -> Ints:
        """Wire of each row (m,)."""
        return np.repeat(np.arange(self.count), np.diff(self.start))

    @cached_property
    def first(self) -> Ints:
        """Row at which each wire begins (n,)."""
        return self.start[:-1]

    @cached_property
    def last(self) -> Ints:
        """Row at which each wire ends (n,)."""
        return self.start[1:] - 1

    @cached_property
    def left(self) -> Ints:
        """Rows from which a piece of polyline goes on (k,)."""
        inner = np.ones(len(self.t), bool)
        inner[self.last] = False
        return np.nonzero(inner)[0]

    def at(self, row: Ints, share: Array) -> Array:
        """Points (k, 3) between rows (k,) and the next ones."""
        u = share[:, None]
        a, b, c = self.cubic[:, row]
        return self.points[row] + u * (a + u * (b + u * c))


def joined(parts: Sequence[Wires]) -> Wires:
    """Wires of several sets as one."""
    parts = [p for p in parts if p.count]
    if len(parts) == 1:
        return parts[0]
    start = [np.zeros(1, np.int64)]
    for p in parts:
        start.append(p.start[1:] + start[-1][-1])
    return Wires(
        np.concatenate(start),
        np.concatenate([p.t for p in parts]) if parts else np.zeros(0),
        np.concatenate([p.points for p in parts]) if parts else np.zeros((0, 3)),
        np.concatenate([p.cubic for p in parts], axis=1) if parts else np.zeros((3, 0, 3)),
    )


def straight(a: Array, b: Array) -> Wires:
    """Lines from a (n, 3) to b (n, 3), parameter in mm."""
    n = len(a)
    t = np.zeros((n, 2))
    t[:, 1] = np.linalg.norm(b - a, axis=1)
    points = np.stack([a, b], axis=1).reshape(-1, 3)
    cubic = np.zeros((3, 2 * n, 3))
    cubic[0, ::2] = b - a
    return Wires(2 * np.arange(n + 1), t.ravel(), points, cubic)


def from_curves(curves: Sequence[Curve3], parameters: Sequence[Array]) -> Wires:
    """Wires along curves: of each curve a row for each of its ``parameters`` (k,), which rise."""
    if not curves:
        return Wires(np.zeros(1, np.int64), np.zeros(0), np.zeros((0, 3)), np.zeros((3, 0, 3)))
    counts = np.array([len(t) for t in parameters])
    start, t = np.concatenate([[0], np.cumsum(counts)]), np.concatenate(parameters)
    p, after = np.empty((len(t), 3)), np.empty((len(t), 3))
    free = np.array([c.kind == "nurbs" for c in curves], bool)
    rest = ~np.repeat(free, counts)
    p[rest], after[rest] = _lines_and_conics([c for c in curves if c.kind != "nurbs"], counts[~free], t[rest])
    before = after.copy()
    for k in np.nonzero(free)[0].tolist():
        rows = slice(start[k], start[k + 1])
        p[rows], after[rows] = curves[k].derivatives(t[rows])
        # at a kink the slope on the near side of each row differs from the one on the far side
        near = t[rows][1:] - 1e-9 * np.diff(t[rows])
        before[start[k]], before[start[k] + 1 : start[k + 1]] = after[start[k]], curves[k].derivatives(near)[1]
    width = np.zeros((len(t), 1))
    width[:-1, 0] = np.diff(t)
    step = np.zeros_like(p)
    step[:-1] = np.diff(p, axis=0)
    d0 = after * width
    d1 = np.zeros_like(p)
    d1[:-1] = before[1:]
    d1 *= width
    cubic = np.stack([d0, 3 * step - 2 * d0 - d1, d0 + d1 - 2 * step])
    cubic[:, start[1:] - 1] = 0.0
    return Wires(start, t, p, cubic)


def _lines_and_conics(curves: list[Curve3], counts: Ints, t: Array) -> tuple[Array, Array]:
    """Points and slopes, each (m, 3), of lines and conics at so many parameters of each, one curve after the other."""
    if not curves:
        return np.zeros((0, 3)), np.zeros((0, 3))
    none = np.zeros(3)
    figures = np.array([(c.origin, c.x, none if c.y is None else c.y) for c in curves])
    origin, x, y = np.repeat(figures, counts, axis=0).transpose(1, 0, 2)
    straight = np.repeat([c.kind == "line" for c in curves], counts)[:, None]
    cosine, sine = np.cos(t)[:, None], np.sin(t)[:, None]
    points = origin + np.where(straight, t[:, None], cosine) * x + sine * y
    return points, np.where(straight, x, cosine * y - sine * x)
