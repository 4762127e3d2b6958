"""Which lines of a view give way on paper: hidden lines and tangent edges so near to a visible line that they are one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2

Array = NDArray[np.float64]
SHARE = 0.2
"""Of the visible line's width: two lines nearer to each other are one on the sheet."""
LEAST = 8.0
"""In such distances: a line that is near another for less only crosses it, and stays."""


def parted(curves: Sequence[Curve2], over: Sequence[Curve2], near: float) -> list[tuple[list[Curve2], list[Curve2]]]:
    """Of each curve the pieces that stay, and those that run within ``near`` (mm) of one of the curves ``over``."""
    if not curves or not over:
        return [([c], []) for c in curves]
    lines = [shapely.LineString(c.points(near / 4)) for c in over]
    tree = shapely.STRtree(lines)
    found: list[tuple[list[Curve2], list[Curve2]]] = []
    for curve in curves:
        line = shapely.LineString(curve.points(near / 4))
        if not len(tree.query(line, predicate="dwithin", distance=near)):
            found.append(([curve], []))
            continue
        t = _along(curve, near)
        points = shapely.points(curve.evaluate(t))
        close = np.zeros(len(t), bool)
        close[tree.query(points, predicate="dwithin", distance=near)[0]] = True
        found.append(_split(curve, t, close, near))
    return found


def _along(curve: Curve2, near: float) -> Array:
    """Parameters of a curve, some ``near`` apart (mm), but a few hundred at the most."""
    count = int(np.clip(curve.length() / (2 * near), 4, 400)) + 1
    ends = (curve.t0, curve.t1) if curve.kind in ("conic", "nurbs") else (0.0, 1.0)
    return np.linspace(*ends, count)


def _split(curve: Curve2, t: Array, close: NDArray[np.bool_], near: float) -> tuple[list[Curve2], list[Curve2]]:
    step = curve.length() / (len(t) - 1)
    # runs that are near for less than a crossing takes do not count
    bounds = np.nonzero(np.diff(close))[0] + 1
    runs = [(int(a), int(b), bool(close[a])) for a, b in zip([0, *bounds], [*bounds, len(t)], strict=True)]
    whole = all(state for *_, state in runs)
    runs = [(a, b, state and (whole or (b - a - 1) * step > LEAST * near)) for a, b, state in runs]
    if not any(state for *_, state in runs):
        return [curve], []
    stay: list[Curve2] = []
    give: list[Curve2] = []
    for k, (a, b, state) in enumerate(runs):
        low = t[0] if k == 0 else (t[a - 1] + t[a]) / 2
        high = t[-1] if k == len(runs) - 1 else (t[b - 1] + t[b]) / 2
        if not state and (b - a) * step < near:
            state = True
        (give if state else stay).append(curve.piece(float(low), float(high)))
    return stay, give
