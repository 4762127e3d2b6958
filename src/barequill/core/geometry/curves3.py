"""Exact curves in space: line, circle, ellipse and NURBS, each with its parameter range."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..values import value
from . import nurbs

Array = NDArray[np.float64]
Kind = Literal["line", "conic", "nurbs"]
GAUSS = np.polynomial.legendre.leggauss(8)
"""Places and weights of Gauss integration."""


@value
class Curve3:
    """A curve with parameters from ``t0`` to ``t1``; lengths in the part's mm.

    ``line``: origin + t · x. ``conic``: origin + cos t · x + sin t · y, so a circle where x and y are
    square and of one length, else an ellipse. ``nurbs``: degree, flat knots, poles (n, 3), weights.
    """

    kind: Kind
    t0: float
    t1: float
    origin: Array | None = None
    x: Array | None = None
    y: Array | None = None
    degree: int = 0
    knots: Array | None = None
    poles: Array | None = None
    weights: Array | None = None

    def points(self, t: Array) -> Array:
        """Points (m, 3) at parameters (m,)."""
        return self.derivatives(t)[0]

    def point(self, t: float) -> Array:
        """The point (3,) at one parameter."""
        if self.kind == "nurbs":
            return self.derivatives(np.array([t]))[0][0]
        assert self.origin is not None and self.x is not None
        if self.kind == "line":
            return self.origin + t * self.x
        assert self.y is not None
        return self.origin + math.cos(t) * self.x + math.sin(t) * self.y

    def derivatives(self, t: Array) -> tuple[Array, Array]:
        """Points and first derivatives, each (m, 3)."""
        t = np.atleast_1d(np.asarray(t, dtype=float))
        if self.kind == "nurbs":
            assert self.knots is not None and self.poles is not None
            return nurbs.curve_points(self.degree, self.knots, self.poles, self.weights, t)
        assert self.origin is not None and self.x is not None
        if self.kind == "line":
            return self.origin + t[:, None] * self.x, np.repeat(self.x[None], len(t), axis=0)
        assert self.y is not None
        c, s = np.cos(t)[:, None], np.sin(t)[:, None]
        return self.origin + c * self.x + s * self.y, c * self.y - s * self.x

    @property
    def closed(self) -> bool:
        """True where both ends meet."""
        ends = self.points(np.array([self.t0, self.t1]))
        return self.kind != "line" and bool(
            np.linalg.norm(ends[1] - ends[0]) <= 1e-9 * max(1e-12, float(np.abs(ends).max()))
        )

    @property
    def is_circle(self) -> bool:
        """True for a circle or an arc of one."""
        if self.kind != "conic":
            return False
        assert self.x is not None and self.y is not None
        x, y = self.x.tolist(), self.y.tolist()
        a, b = math.hypot(*x), math.hypot(*y)
        return abs(a - b) <= 1e-9 * a and abs(sum(p * q for p, q in zip(x, y, strict=True))) <= 1e-9 * a * a

    @property
    def radius(self) -> float:
        """Radius of a circle, or half the major axis."""
        assert self.x is not None
        return math.hypot(*self.x.tolist())

    @property
    def full_turn(self) -> bool:
        """True for a closed conic."""
        return self.kind == "conic" and self.t1 - self.t0 > 2 * np.pi - 1e-9

    def piece(self, t0: float, t1: float) -> Curve3:
        """The same curve between other parameters."""
        if self.kind != "nurbs":
            return replace(self, t0=t0, t1=t1)
        assert self.knots is not None and self.poles is not None
        knots, poles, weights = nurbs.cut(self.degree, self.knots, self.poles, self.weights, t0, t1)
        return replace(self, t0=t0, t1=t1, knots=knots, poles=poles, weights=weights)

    def moved(self, turn: Array, by: Array) -> Curve3:
        """The same curve turned by a rotation (3, 3) and then moved by a vector (3,), mm."""
        return Curve3(
            kind=self.kind,
            t0=self.t0,
            t1=self.t1,
            origin=None if self.origin is None else turn @ self.origin + by,
            x=None if self.x is None else turn @ self.x,
            y=None if self.y is None else turn @ self.y,
            degree=self.degree,
            knots=self.knots,
            poles=None if self.poles is None else self.poles @ turn.T + by,
            weights=self.weights,
        )

    def parameters(self, tolerance: float) -> Array:
        """Parameters of a polyline that stays within ``tolerance`` (mm) of the curve."""
        if self.kind == "line":
            return np.array([self.t0, self.t1])
        if self.kind == "conic":
            return np.linspace(self.t0, self.t1, self.steps(tolerance) + 1)
        assert self.knots is not None
        breaks = np.unique(self.knots)
        breaks = breaks[(breaks >= self.t0) & (breaks <= self.t1)]
        breaks = np.unique(np.concatenate([[self.t0], breaks, [self.t1]]))
        if self.degree == 1:
            return breaks
        t = np.unique(np.concatenate([np.linspace(a, b, 5) for a, b in zip(breaks, breaks[1:], strict=False)]))
        for _ in range(12):
            p, middle = self.points(t), (t[:-1] + t[1:]) / 2
            q = self.points(middle)
            chord = p[1:] - p[:-1]
            length = np.maximum(np.linalg.norm(chord, axis=1), 1e-15)
            across = (q - p[:-1]) - chord * (np.einsum("ij,ij->i", q - p[:-1], chord) / length**2)[:, None]
            bad = np.linalg.norm(across, axis=1) > tolerance * 0.8
            if not bad.any():
                break
            t = np.sort(np.concatenate([t, middle[bad]]))
        return t

    def steps(self, tolerance: float) -> int:
        """Even steps along a conic whose chords stay within ``tolerance`` (mm) of it."""
        step = 2 * math.acos(1 - min(tolerance / max(self.radius, 1e-12), 0.3))
        return max(2, math.ceil((self.t1 - self.t0) / max(step, 1e-5)))

    def length(self) -> float:
        """Arc length in mm (exact for lines and circles, Gauss integration otherwise)."""
        if self.kind == "line" or self.is_circle:
            return (self.t1 - self.t0) * self.radius
        breaks = np.linspace(self.t0, self.t1, 33)
        if self.kind == "nurbs":
            assert self.knots is not None
            breaks = np.unique(np.concatenate([breaks, np.clip(self.knots, self.t0, self.t1)]))
        nodes, weights = GAUSS
        half = np.diff(breaks) / 2
        t = (breaks[:-1] + half)[:, None] + half[:, None] * nodes
        speed = np.linalg.norm(self.derivatives(t.ravel())[1], axis=1).reshape(t.shape)
        return float((speed * weights * half[:, None]).sum())


def line(start: Array, end: Array) -> Curve3:
    """The line between two points (3,); its parameter counts mm from the first."""
    span = np.asarray(end, float) - np.asarray(start, float)
    length = float(np.linalg.norm(span))
    return Curve3("line", 0.0, length, origin=np.asarray(start, float), x=span / max(length, 1e-300))


def polyline(points: Array) -> Curve3:
    """The straight pieces between points (n, 3) as one spline of degree 1, parameter in mm from the first."""
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    keep = np.concatenate([[True], np.diff(way) > 0])
    way, poles = way[keep], np.asarray(points, float)[keep]
    knots = np.concatenate([way[:1], way, way[-1:]])
    return Curve3("nurbs", float(way[0]), float(way[-1]), degree=1, knots=knots, poles=poles)
