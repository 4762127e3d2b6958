"""One compiled pass for a curve in a wall that has no closed form: put on plane and surface, and fitted."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from ..geometry.following import followed, spline_slopes
from ..geometry.recognition import runs_straight
from ..geometry.splines import bezier_poles, wire_of
from .closed_forms import both_sides

LOST, SHORT, LINE, BENT = range(4)
"""What becomes of it: it is drawn from the mesh, it is next to nothing, it is a line, or none."""


@compiled
def fitted_along(surface, faces, face, nodes, uv, chain, about, p, fixed, aim, fit, chord, size, deflection):  # type: ignore[no-untyped-def]
    """The curve in which a plane (``aim``) meets a packed surface, along a ``chain`` (m, 2) of sides of the mesh with points
    p (m, 3), between ends (2, 3) that are ``fixed`` where they are no NaN.

    Returns what becomes of it, its points (n, 3), its poles and knots as a cubic spline, and as a wire within ``chord`` (mm)
    of that: parameters, points, cubics and outward normals.
    """
    one, other = both_sides(faces, face, nodes, uv, chain, about)
    points, way, slopes, normals, _ = followed(
        surface=surface, uva=one, uvb=other, ends=fixed, sense=faces.sense[face], aim=aim, fit=fit, most=3000
    )
    state = BENT
    n = len(points)
    if n < 2 or not way[n - 1] > 0 or not np.isfinite(points).all():
        state = LOST
    else:
        # what was followed must lie where the mesh does
        gap = length = 0.0
        for k in range(2):
            i, j = (0, 0) if k == 0 else (n - 1, len(p) - 1)
            gap = max(gap, np.sqrt(((points[i] - p[j]) ** 2).sum()))
        for i in range(1, len(p)):
            length += np.sqrt(((p[i] - p[i - 1]) ** 2).sum())
        if gap > 0.02 * size + 8 * deflection or abs(way[n - 1] - length) > 0.2 * length + 0.01 * size:
            state = LOST
    if state == BENT:
        moved = False
        for k in range(2):
            i = 0 if k == 0 else n - 1
            if not np.isnan(fixed[k, 0]) and np.sqrt(((points[i] - fixed[k]) ** 2).sum()) > 1e-10 * size:
                points[i] = fixed[k]
                moved = True
        if moved:
            m = 0
            ways = np.zeros(n)
            for i in range(n):
                step = np.sqrt(((points[i] - points[i - 1]) ** 2).sum()) if i else 0.0
                ways[i] = ways[i - 1] + step if i else 0.0
                if i and step <= 1e-9 * size:
                    continue
                points[m], normals[m], way[m] = points[i], normals[i], ways[i]
                m += 1
            points, normals, way = points[:m].copy(), normals[:m].copy(), way[:m].copy()
            if m < 2:
                state = SHORT
            else:
                slopes = spline_slopes(way, points)
    if state != BENT:
        way, points = np.array([0.0, 1.0]), np.zeros((2, 3))
        slopes, normals = points.copy(), points.copy()
    poles, knots = bezier_poles(way, points, slopes)
    rows, along, cubic, outward, _ = wire_of(way, points, slopes, normals, np.ones(len(way), np.bool_), chord)
    if state == BENT and runs_straight(along, fit / 2):
        state = LINE
        outward = np.stack((normals[0], normals[-1]))
    return state, points, poles, knots, rows, along, cubic, outward
