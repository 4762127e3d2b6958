"""Exact plane curves: what a projection gives, and what ink is drawn with."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..values import value
from . import nurbs

Array = NDArray[np.float64]
Kind = Literal["line", "conic", "nurbs", "polyline"]
TURN = 2 * np.pi
GAUSS = np.polynomial.legendre.leggauss(8)


@value
class Curve2:
    """A curve in the plane (mm, y up).

    ``line`` and ``polyline``: ``poles`` (n, 2). ``conic``: centre + cos t · a + sin t · b for t from t0
    to t1, with b a quarter turn counter-clockwise from a and |a| >= |b|. ``nurbs``: degree, flat knots,
    poles (n, 2), weights.
    """

    kind: Kind
    poles: Array
    a: Array | None = None
    b: Array | None = None
    t0: float = 0.0
    t1: float = 1.0
    degree: int = 0
    knots: Array | None = None
    weights: Array | None = None

    @property
    def is_circular(self) -> bool:
        """True for a circle or an arc of one."""
        if self.kind != "conic":
            return False
        assert self.a is not None and self.b is not None
        big, small = np.linalg.norm(self.a), np.linalg.norm(self.b)
        return bool(abs(big - small) <= 1e-7 * big)

    @property
    def full_turn(self) -> bool:
        """True for a whole circle or ellipse."""
        return self.kind == "conic" and self.t1 - self.t0 > TURN - 1e-9

    @property
    def name(self) -> str:
        """Kind as written out: line, circle, arc, ellipse, elliptic_arc, bspline or polyline."""
        if self.kind == "conic":
            if self.is_circular:
                return "circle" if self.full_turn else "arc"
            return "ellipse" if self.full_turn else "elliptic_arc"
        return "bspline" if self.kind == "nurbs" else self.kind

    def evaluate(self, t: Array) -> Array:
        """Points (m, 2) at parameters (lines and polylines: share of the way by index)."""
        t = np.atleast_1d(np.asarray(t, float))
        if self.kind == "conic":
            return self.poles[0] + np.cos(t)[:, None] * self.a + np.sin(t)[:, None] * self.b  # type: ignore[operator]
        if self.kind == "nurbs":
            assert self.knots is not None
            return nurbs.curve_points(self.degree, self.knots, self.poles, self.weights, t)[0]
        at = np.linspace(0, 1, len(self.poles))
        return np.c_[np.interp(t, at, self.poles[:, 0]), np.interp(t, at, self.poles[:, 1])]

    def points(self, tolerance: float) -> Array:
        """A polyline (m, 2) within ``tolerance`` (mm) of the curve."""
        return self.poles if self.kind in ("line", "polyline") else self.evaluate(self.parameters(tolerance))

    def parameters(self, tolerance: float) -> Array:
        """Parameters (m,) of the corners of a polyline within ``tolerance`` (mm) of the curve."""
        if self.kind in ("line", "polyline"):
            return np.linspace(0.0, 1.0, len(self.poles))
        if self.kind == "conic":
            r = max(float(np.linalg.norm(self.a)), 1e-12)  # type: ignore[arg-type]
            step = 2 * np.arccos(1 - min(tolerance / r, 0.3))
            n = max(2, int(np.ceil((self.t1 - self.t0) / step)))
            return np.linspace(self.t0, self.t1, n + 1)
        assert self.knots is not None
        t = np.unique(self.knots)
        t = np.unique(np.concatenate([np.linspace(u, v, self.degree + 2) for u, v in zip(t, t[1:], strict=False)]))
        for _ in range(12):
            p, middle = self.evaluate(t), (t[:-1] + t[1:]) / 2
            q = self.evaluate(middle)
            chord = p[1:] - p[:-1]
            length = np.maximum(np.linalg.norm(chord, axis=1), 1e-15)
            off = np.abs(chord[:, 0] * (q - p[:-1])[:, 1] - chord[:, 1] * (q - p[:-1])[:, 0]) / length
            bad = off > tolerance * 0.8
            if not bad.any():
                break
            t = np.sort(np.concatenate([t, middle[bad]]))
        return t

    def piece(self, t0: float, t1: float) -> Curve2:
        """The same curve between two parameters (of lines and polylines: shares of the way by index)."""
        if self.kind == "conic":
            return replace(self, t0=t0, t1=t1)
        if self.kind == "nurbs":
            assert self.knots is not None
            knots, poles, weights = nurbs.cut(self.degree, self.knots, self.poles, self.weights, t0, t1)
            return replace(self, t0=t0, t1=t1, knots=knots, poles=poles, weights=weights)
        at = np.linspace(0, 1, len(self.poles))
        inner = self.poles[(at > t0) & (at < t1)]
        ends = self.evaluate(np.array([t0, t1]))
        return replace(self, poles=np.concatenate([ends[:1], inner, ends[1:]]))

    def mapped(self, matrix: Array) -> Curve2:
        """The curve under a linear map (2, 2) that keeps its sense: each point p becomes matrix · p."""
        poles = self.poles @ matrix.T
        if self.kind != "conic":
            return replace(self, poles=poles)
        assert self.a is not None and self.b is not None
        p, q = matrix @ self.a, matrix @ self.b
        # conjugate half axes to those that are square to each other
        turn = 0.5 * float(np.arctan2(2 * p @ q, p @ p - q @ q))
        a, b = np.cos(turn) * p + np.sin(turn) * q, np.cos(turn) * q - np.sin(turn) * p
        return replace(self, poles=poles, a=a, b=b, t0=self.t0 - turn, t1=self.t1 - turn)

    def moved(self, scale: float = 1.0, angle: float = 0.0, offset: tuple[float, float] | Array = (0.0, 0.0)) -> Curve2:
        """The curve scaled, then turned (radians), about the origin, then moved."""
        by = np.asarray(offset, float)
        if scale == 1.0 and angle == 0.0:
            poles, a, b = self.poles + by, self.a, self.b
        else:
            c, s = scale * math.cos(angle), scale * math.sin(angle)
            m = np.array([[c, s], [-s, c]])
            poles = self.poles @ m + by
            a, b = None if self.a is None else self.a @ m, None if self.b is None else self.b @ m
        return Curve2(
            kind=self.kind,
            poles=poles,
            a=a,
            b=b,
            t0=self.t0,
            t1=self.t1,
            degree=self.degree,
            knots=self.knots,
            weights=self.weights,
        )

    def extremes(self, tolerance: float = 1e-3) -> Array:
        """Points (k, 2) that span its box: exactly for lines and conics, within ``tolerance`` for others."""
        if self.kind != "conic":
            return self.poles if self.kind != "nurbs" else self.points(tolerance)
        assert self.a is not None and self.b is not None
        found = np.concatenate([np.arctan2(self.b, self.a), np.arctan2(self.b, self.a) + np.pi])
        turns = found + TURN * np.ceil((self.t0 - found) / TURN)
        return self.evaluate(np.concatenate([[self.t0, self.t1], turns[turns <= self.t1]]))

    def bounds(self) -> tuple[float, float, float, float]:
        """Box (x low, y low, x high, y high); exact for lines and conics, tight for others."""
        p = self.extremes()
        low, high = p.min(axis=0), p.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def length(self) -> float:
        """Arc length, mm."""
        if self.is_circular:
            return float((self.t1 - self.t0) * np.linalg.norm(self.a))  # type: ignore[arg-type]
        if self.kind in ("line", "polyline"):
            return float(np.linalg.norm(np.diff(self.poles, axis=0), axis=1).sum())
        # Gauss integration of the speed over pieces in which it is smooth
        if self.kind == "conic":
            breaks = np.linspace(self.t0, self.t1, 9)
        else:
            assert self.knots is not None
            breaks = np.unique(self.knots)
        half = np.diff(breaks) / 2
        t = ((breaks[:-1] + half)[:, None] + half[:, None] * GAUSS[0]).ravel()
        if self.kind == "conic":
            slope = np.cos(t)[:, None] * self.b - np.sin(t)[:, None] * self.a  # type: ignore[operator]
        else:
            slope = nurbs.curve_points(self.degree, self.knots, self.poles, self.weights, t)[1]  # type: ignore[arg-type]
        speed = np.sqrt((slope * slope).sum(axis=1)).reshape(len(half), -1)
        return float((speed * GAUSS[1] * half[:, None]).sum())

    def to_json(self) -> dict[str, Any]:
        """Kind and exact data as plain values (angles in radians, counter-clockwise)."""
        name = self.name
        if name in ("line", "polyline"):
            return {"kind": name}
        if name == "bspline":
            assert self.knots is not None
            return {
                "kind": name,
                "degree": self.degree,
                "knots": self.knots.tolist(),
                "poles": self.poles.tolist(),
                "weights": None if self.weights is None else self.weights.tolist(),
            }
        assert self.a is not None and self.b is not None
        data: dict[str, Any] = {"kind": name, "centre": self.poles[0].tolist()}
        turn = float(np.arctan2(self.a[1], self.a[0])) if self.is_circular else 0.0
        if self.is_circular:
            data["radius"] = float(np.linalg.norm(self.a))
        else:
            data["major"] = self.a.tolist()
            data["ratio"] = float(np.linalg.norm(self.b) / np.linalg.norm(self.a))
        if not self.full_turn:
            data["start"], data["end"] = self.t0 + turn, self.t1 + turn
        return data


def moved_all(
    curves: Sequence[Curve2], scale: float = 1.0, angle: float = 0.0, offset: tuple[float, float] | Array = (0.0, 0.0)
) -> list[Curve2]:
    """Curves scaled, then turned (radians), about the origin, then moved: :meth:`Curve2.moved` of many at once."""
    if not curves:
        return []
    c, s = scale * math.cos(angle), scale * math.sin(angle)
    m = np.array([[c, s], [-s, c]])
    poles = np.concatenate([k.poles for k in curves]) @ m + np.asarray(offset, float)
    bent = [v for k in curves if k.a is not None and k.b is not None for v in (k.a, k.b)]
    axes = iter(np.array(bent).reshape(-1, 2) @ m)
    found, last = [], 0
    for k in curves:
        first, last = last, last + len(k.poles)
        a, b = (None, None) if k.a is None else (next(axes), next(axes))
        found.append(
            Curve2(
                kind=k.kind,
                poles=poles[first:last],
                a=a,
                b=b,
                t0=k.t0,
                t1=k.t1,
                degree=k.degree,
                knots=k.knots,
                weights=k.weights,
            )
        )
    return found


def spanned(curves: Sequence[Curve2], tolerance: float) -> Array:
    """Points (m, 2) that span what curves reach: their poles, and of bent ones the ends, the outermost points along both
    axes (exact for conics) and the corners of polylines within ``tolerance`` (mm)."""
    conics = [c for c in curves if c.kind == "conic"]
    free = [c.points(tolerance / 10) for c in curves if c.kind == "nurbs"]
    found = [np.zeros((0, 2)), *(c.poles for c in curves if c.kind in ("line", "polyline")), *free]
    if conics:
        centre, a, b = (np.array(v) for v in zip(*((c.poles[0], c.a, c.b) for c in conics), strict=True))
        t0, t1 = np.array([c.t0 for c in conics]), np.array([c.t1 for c in conics])
        most = np.arctan2(b, a)
        most = np.concatenate([most, most + np.pi], axis=1)
        most += TURN * np.ceil((t0[:, None] - most) / TURN)
        row, k = np.nonzero(most <= t1[:, None])
        reach = np.maximum(np.linalg.norm(a, axis=1), 1e-12)
        step = 2 * np.arccos(1 - np.minimum(tolerance / reach, 0.3))
        count = np.maximum(2, np.ceil((t1 - t0) / step)).astype(np.int64)
        rows = np.repeat(np.arange(len(conics)), count + 1)
        share = (np.arange(len(rows)) - np.repeat(np.cumsum(count + 1) - count - 1, count + 1)) / count[rows]
        rows, t = np.concatenate([rows, row]), np.concatenate([t0[rows] + share * (t1 - t0)[rows], most[row, k]])
        found.append(centre[rows] + np.cos(t)[:, None] * a[rows] + np.sin(t)[:, None] * b[rows])
    return np.concatenate(found)


def line(p: Any, q: Any) -> Curve2:
    """The line from p to q."""
    return Curve2("line", np.array([p, q], dtype=float))


def polyline(points: Any) -> Curve2:
    """Straight pieces through points (n, 2)."""
    return Curve2("polyline", np.asarray(points, dtype=float))


def circle(centre: Any, radius: float, t0: float = 0.0, t1: float = TURN) -> Curve2:
    """A circle, or the arc from angle t0 counter-clockwise to t1 (radians)."""
    return Curve2(
        "conic",
        np.array([centre], dtype=float),
        a=np.array([radius, 0.0]),
        b=np.array([0.0, radius]),
        t0=t0,
        t1=t1,
    )


def conic(centre: Array, x: Array, y: Array, t0: float, t1: float) -> Curve2:
    """The ellipse centre + cos t · x + sin t · y (mm), from ``t0`` to ``t1`` (radians), in its principal axes. ``centre``, ``x`` and ``y``
    are any vectors (2,), not along one line."""
    if x[0] * y[1] - x[1] * y[0] < 0:
        y, t0, t1 = -y, -t1, -t0
    shift = 0.0
    if abs(x @ y) > 1e-12 * (x @ x + y @ y) or y @ y > x @ x * (1 + 1e-12):
        shift = 0.5 * float(np.arctan2(2 * (x @ y), x @ x - y @ y))
        c, s = np.cos(shift), np.sin(shift)
        x, y = c * x + s * y, c * y - s * x
    t0, t1 = t0 - shift, t1 - shift
    turns = TURN * np.floor(t0 / TURN + 1e-12)
    return Curve2("conic", centre[None].copy(), a=x, b=y, t0=float(t0 - turns), t1=float(t1 - turns))
