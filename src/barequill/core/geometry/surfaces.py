"""Exact surfaces: points and natural normals from surface parameters, vectorised."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..values import value
from . import nurbs
from .curves3 import Curve3
from .vectors import cross

Array = NDArray[np.float64]
Kind = Literal["plane", "cylinder", "cone", "sphere", "torus", "revolution", "extrusion", "nurbs", "facets"]


@value
class Surface:
    """A surface in the part's frame (mm, radians).

    ``origin`` and the rows of ``axes`` (3, 3) place it: axes[2] is the axis or the plane's normal.
    Elementary surfaces use ``radius``, ``minor_radius`` (torus) and ``half_angle`` (cone) with the
    parametrisation of ISO 10303-42. A ``revolution`` turns ``profile`` about the axis by u; an
    ``extrusion`` moves it along axes[2] by v; ``nurbs`` has degrees, knots, poles (n, m, 3), weights.
    """

    kind: Kind
    origin: Array
    axes: Array
    radius: float = 0.0
    minor_radius: float = 0.0
    half_angle: float = 0.0
    profile: Curve3 | None = None
    degrees: tuple[int, int] = (0, 0)
    knots: tuple[Array, Array] | None = None
    poles: Array | None = None
    weights: Array | None = None

    def derivatives(self, uv: Array) -> tuple[Array, Array, Array]:
        """Points and both first derivatives at ``uv`` (m, 2), each (m, 3)."""
        if self.kind == "nurbs":
            assert self.knots is not None and self.poles is not None
            return nurbs.surface_points(self.degrees, self.knots, self.poles, self.weights, uv)
        x, y, z = self.axes
        u, v = uv[:, :1], uv[:, 1:]
        if self.kind == "plane":
            ones = np.ones_like(u)
            return self.origin + u * x + v * y, ones * x, ones * y
        if self.kind == "extrusion":
            assert self.profile is not None
            p, d = self.profile.derivatives(uv[:, 0])
            return p + v * z, d, np.ones_like(u) * z
        c, s = np.cos(u), np.sin(u)
        if self.kind == "revolution":
            assert self.profile is not None
            p, d = self.profile.derivatives(uv[:, 1])
            p = p - self.origin

            def turn(a: Array) -> Array:
                along = (a @ z)[:, None] * z
                return c * (a - along) + s * cross(z, a) + along

            q = turn(p)
            return self.origin + q, cross(z, q), turn(d)
        out, side = c * x + s * y, c * y - s * x
        if self.kind == "cylinder":
            return self.origin + self.radius * out + v * z, self.radius * side, np.ones_like(u) * z
        if self.kind == "cone":
            sa, ca = np.sin(self.half_angle), np.cos(self.half_angle)
            r = self.radius + v * sa
            return self.origin + r * out + v * ca * z, r * side, sa * out + ca * z
        cv, sv = np.cos(v), np.sin(v)
        big = self.radius if self.kind == "torus" else 0.0
        small = self.minor_radius if self.kind == "torus" else self.radius
        r = big + small * cv
        return (
            self.origin + r * out + small * sv * z,
            r * side,
            small * (cv * z - sv * out),
        )

    def as_revolution(self) -> Surface:
        """A round surface as its profile turned about its axis, with the same parameters; others as they are."""
        x, y, z = self.axes
        if self.kind in ("cylinder", "cone"):
            lean = self.half_angle if self.kind == "cone" else 0.0
            profile = Curve3(
                "line", -1e9, 1e9, origin=self.origin + self.radius * x, x=np.sin(lean) * x + np.cos(lean) * z
            )
        elif self.kind in ("sphere", "torus"):
            far, small = (0.0, self.radius) if self.kind == "sphere" else (self.radius, self.minor_radius)
            profile = Curve3("conic", 0.0, 2 * np.pi, origin=self.origin + far * x, x=small * x, y=small * z)
        else:
            return self
        # of left-handed axes the third is that about which x turns to y
        return Surface("revolution", self.origin, np.stack([x, y, self.hand * z]), profile=profile)

    def points(self, uv: Array) -> Array:
        """Points (m, 3)."""
        return self.derivatives(uv)[0]

    @cached_property
    def hand(self) -> float:
        """+1 for right-handed axes, -1 for left-handed ones (then natural normals point inward)."""
        (a, b, c), (d, e, f), (g, h, i) = self.axes.tolist()
        return 1.0 if a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) > 0 else -1.0

    def normals(self, uv: Array) -> Array:
        """Unit natural normals (m, 3), before the face's own sense is applied."""
        x, y, z = self.axes
        if self.kind == "plane":
            return np.repeat(self.hand * z[None], len(uv), axis=0)
        if self.kind in ("cylinder", "cone", "sphere", "torus"):
            hand = self.hand
            out = np.cos(uv[:, :1]) * x + np.sin(uv[:, :1]) * y
            if self.kind == "cylinder":
                return hand * out
            if self.kind == "cone":
                return hand * self._side(uv) * (np.cos(self.half_angle) * out - np.sin(self.half_angle) * z)
            side = self._side(uv) if self.kind == "torus" else 1.0
            return hand * side * (np.cos(uv[:, 1:]) * out + np.sin(uv[:, 1:]) * z)
        _, du, dv = self.derivatives(uv)
        n = cross(du, dv)
        length = np.linalg.norm(n, axis=1)
        flat = length < 1e-12 * max(1.0, float(length.max(initial=0.0)))
        if flat.any() and not flat.all():
            centre = uv[~flat].mean(axis=0)
            _, du, dv = self.derivatives(uv[flat] + 1e-4 * (centre - uv[flat]))
            n[flat] = cross(du, dv)
            length = np.linalg.norm(n, axis=1)
        return n / np.maximum(length, 1e-300)[:, None]

    def _ring(self, uv: Array) -> Array:
        """Signed distance (m, 1) from the axis of a cone or torus: below 0 beyond an apex, where natural normals turn."""
        if self.kind == "cone":
            return self.radius + uv[:, 1:] * np.sin(self.half_angle)
        return self.radius + self.minor_radius * np.cos(uv[:, 1:])

    def _side(self, uv: Array) -> Array:
        return np.where(self._ring(uv) < -1e-12 * (abs(self.radius) + self.minor_radius), -1.0, 1.0)

    @property
    def spindle(self) -> bool:
        """True for a torus that runs through its own axis."""
        return self.kind == "torus" and self.minor_radius >= abs(self.radius)

    def on_near_side(self, uv: Array) -> Surface:
        """The surface so described that points at ``uv`` (m, 2) that all lie beyond an apex lie before it.

        A cone is turned end for end; of a torus the part within its axis gets a radius below 0. Parameters are
        others then, and natural normals point the other way.
        """
        if self.kind not in ("cone", "torus") or not len(uv):
            return self
        ring = self._ring(uv)
        if ring.max() > -ring.min():
            return self
        if self.kind == "torus":
            return replace(self, radius=-self.radius)
        x, y, z = self.axes
        return replace(self, radius=-self.radius, axes=np.array([x, -y, -z]))

    def normals_at(self, points: Array) -> Array:
        """Unit natural normals of an elementary surface at points (m, 3) lying on it, before its apex."""
        z = self.axes[2]
        if self.kind == "plane":
            return np.repeat(self.hand * z[None], len(points), axis=0)
        hand = self.hand
        p = points - self.origin
        along = p @ z
        radial = p - along[:, None] * z
        if self.kind == "sphere":
            n = p
        elif self.kind == "torus":
            ring = radial / np.maximum(np.linalg.norm(radial, axis=1), 1e-300)[:, None]
            n = p - self.radius * ring
        else:
            n = radial / np.maximum(np.linalg.norm(radial, axis=1), 1e-300)[:, None]
            if self.kind == "cone":
                sa, ca = np.sin(self.half_angle), np.cos(self.half_angle)
                side = np.sign(self.radius * ca + along * sa)
                n = n * ca * side[:, None] - sa * z
        return hand * n / np.maximum(np.linalg.norm(n, axis=1), 1e-300)[:, None]

    def moved(self, turn: Array, by: Array) -> Surface:
        """The same surface turned by a rotation (3, 3) and then moved by a vector (3,), mm."""
        return Surface(
            kind=self.kind,
            origin=turn @ self.origin + by,
            axes=self.axes @ turn.T,
            radius=self.radius,
            minor_radius=self.minor_radius,
            half_angle=self.half_angle,
            profile=None if self.profile is None else self.profile.moved(turn, by),
            degrees=self.degrees,
            knots=self.knots,
            poles=None if self.poles is None else self.poles @ turn.T + by,
            weights=self.weights,
        )

    @property
    def elementary(self) -> bool:
        """True where normals follow from a point alone."""
        return self.kind in ("plane", "cylinder", "cone", "sphere", "torus")

    def same_as(self, other: Surface, size: float) -> bool:
        """True where both are one and the same unbounded surface, within 1e-6 of ``size`` (mm)."""
        near = 1e-6 * size
        if self is other:
            return True
        if self.kind != other.kind or self.kind in ("revolution", "extrusion", "facets"):
            return False
        if self.kind == "nurbs":
            return (
                self.poles is not None
                and other.poles is not None
                and self.poles.shape == other.poles.shape
                and bool(np.allclose(self.poles, other.poles, atol=near, rtol=0))
            )
        parallel = abs(self.axes[2] @ other.axes[2]) > 1 - 1e-10
        gap = other.origin - self.origin
        if self.kind == "sphere":
            return bool(np.linalg.norm(gap) < near and abs(self.radius - other.radius) < near)
        if not parallel:
            return False
        along = float(gap @ self.axes[2])
        if self.kind == "plane":
            return abs(along) < near
        across = float(np.linalg.norm(gap - along * self.axes[2]))
        if across > near:
            return False
        if self.kind == "cylinder":
            return abs(self.radius - other.radius) < near
        if self.kind == "torus":
            return (
                abs(along) < near
                and abs(self.radius - other.radius) < near
                and abs(self.minor_radius - other.minor_radius) < near
            )
        sense = float(np.sign(self.axes[2] @ other.axes[2]))
        grown = self.radius + along * np.tan(self.half_angle)
        return abs(self.half_angle - sense * other.half_angle) < 1e-9 and abs(grown - other.radius) < near
