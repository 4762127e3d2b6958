"""Projected curves as columns of figures: thousands of them are kept and read again in a moment."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2
from ..values import value
from .engine import ProjectedCurve

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


@value
class Columns:
    """``ends`` tell where the figures of each curve end in ``poles`` (k, 2), ``knots`` and ``weights``; ``axes``
    (n, 2, 2) are those of conics, ``spans`` (n, 4) parameters of the plane curve and of its source."""

    kinds: tuple[str, ...]
    classes: tuple[str, ...]
    sources: tuple[str, ...]
    also: tuple[tuple[str, ...], ...]
    flags: NDArray[np.bool_]
    degrees: Ints
    spans: Array
    axes: Array
    poles: Array
    knots: Array
    weights: Array
    ends: Ints
    bodies: tuple[str, ...] = ()
    """Of regions that a cut lays open the body of each,"""
    counts: tuple[tuple[int, ...], ...] = ()
    """how many points each of its outlines has,"""
    corners: Array | None = None
    """and all these points (m, 2)."""


def as_columns(curves: Sequence[ProjectedCurve]) -> Columns:
    """The curves of a view as columns."""
    flat = [c.curve for c in curves]
    none, zero = np.zeros(0), np.zeros(2)
    ends = [
        [len(c.poles), 0 if c.knots is None else len(c.knots), 0 if c.weights is None else len(c.weights)] for c in flat
    ]
    axes = [[zero if c.a is None else c.a, zero if c.b is None else c.b] for c in flat]
    return Columns(
        kinds=tuple(c.kind for c in flat),
        classes=tuple(c.cls for c in curves),
        sources=tuple(c.source for c in curves),
        also=tuple(c.also for c in curves),
        flags=np.array([[c.visible, c.meshed] for c in curves], bool).reshape(-1, 2),
        degrees=np.array([c.degree for c in flat], np.int64),
        spans=np.array([[c.curve.t0, c.curve.t1, *c.span] for c in curves], float).reshape(-1, 4),
        axes=np.array(axes, float).reshape(-1, 2, 2),
        poles=np.concatenate([np.zeros((0, 2)), *(c.poles for c in flat)]),
        knots=np.concatenate([none, *(c.knots for c in flat if c.knots is not None)]),
        weights=np.concatenate([none, *(c.weights for c in flat if c.weights is not None)]),
        ends=np.cumsum(np.array(ends, np.int64).reshape(-1, 3), axis=0),
    )


def from_columns(columns: Columns) -> list[ProjectedCurve]:
    """The curves that :func:`as_columns` was given."""
    found: list[ProjectedCurve] = []
    p0 = k0 = w0 = 0
    rows = zip(
        columns.kinds,
        columns.classes,
        columns.sources,
        columns.also,
        columns.flags.tolist(),
        columns.degrees.tolist(),
        columns.spans.tolist(),
        columns.axes,
        columns.ends.tolist(),
        strict=True,
    )
    for kind, cls, source, also, (visible, meshed), degree, (t0, t1, low, high), (a, b), (p1, k1, w1) in rows:
        conic = kind == "conic"
        curve = Curve2(
            kind=kind,
            # type: ignore[arg-type]
            poles=columns.poles[p0:p1],
            a=a if conic else None,
            b=b if conic else None,
            t0=t0,
            t1=t1,
            degree=degree,
            knots=columns.knots[k0:k1] if k1 > k0 else None,
            weights=columns.weights[w0:w1] if w1 > w0 else None,
        )
        p0, k0, w0 = p1, k1, w1
        found.append(
            ProjectedCurve(
                curve=curve, visible=visible, cls=cls, source=source, span=(low, high), also=also, meshed=meshed
            )
        )  # type: ignore[arg-type]
    return found
