"""Stations on a free curve, from which it is told by ordinates."""

from __future__ import annotations

import numpy as np

from ..drawing import Anchor
from ..geometry.curves3 import Curve3
from ..views.projected_scene import ProjectedScene


def free_curve(projected: ProjectedScene, ref: str) -> Curve3 | None:
    """The curve of an edge that is neither straight nor part of a circle; None where there is none."""
    kind, row = projected.part.find(ref) or ("", 0)
    if kind != "edge":
        return None
    curve = projected.part.edges[row].curve
    return None if curve.kind == "line" or curve.is_circle else curve


def along_curve(projected: ProjectedScene, ref: str, curve: Curve3, count: int) -> list[Anchor]:
    """Both ends of a curve and ``count`` stations between, evenly spaced along its greater reach in the view; of one that
    comes back over itself there, evenly spaced along itself."""
    t = np.linspace(curve.t0, curve.t1, 2049)
    flat = projected.flat_each(curve.points(t))
    axis = int(np.argmax(np.ptp(flat, axis=0)))
    way = flat[:, axis] * (1.0 if flat[-1, axis] >= flat[0, axis] else -1.0)
    even = not (np.diff(way) <= 0).any()
    if not even:
        way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(flat, axis=0), axis=1))])
    steps = np.linspace(way[0], way[-1], count + 2)[: count + 2 - curve.closed]
    found = np.interp(steps, way, t)
    for _ in range(3 if even and not projected.scene.legs else 0):
        # to where the reach is even exactly (Newton)
        points, slopes = curve.derivatives(found)
        gap = projected.flat_each(points)[:, axis] - (steps if flat[-1, axis] >= flat[0, axis] else -steps)
        slope = projected.view.flat(slopes)[:, axis]
        step = np.where(np.abs(slope) > 1e-9, gap / np.where(np.abs(slope) > 1e-9, slope, 1.0), 0.0)
        found = np.clip(found - step, curve.t0, curve.t1)
    shares = (found - curve.t0) / (curve.t1 - curve.t0)
    return [Anchor(ref=ref, at="along", share=round(float(x), 9)) for x in np.clip(shares, 0.0, 1.0)]
