"""Compiled figures of edges and faces whose surfaces are elementary: points, normals, areas, in one call each."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.surfaces import Surface

Array = NDArray[np.float64]
KINDS = ("plane", "cylinder", "cone", "sphere", "torus")


def packed(surface: Surface, sense: float) -> Array:
    """An elementary surface as figures (17,): kind, sense with handedness, origin, axes, radii, half angle."""
    found = np.empty(17)
    found[0], found[1] = KINDS.index(surface.kind), sense * surface.hand
    found[2:5], found[5:14] = surface.origin, surface.axes.ravel()
    found[14], found[15], found[16] = surface.radius, surface.minor_radius, surface.half_angle
    return found


@compiled
def normals_on(s, points, out):  # type: ignore[no-untyped-def]
    """Outward unit normals at points (m, 3) on a packed surface, into ``out`` (m, 3)."""
    kind, sense = int(s[0]), s[1]
    z = s[11:14]
    sine, cosine = np.sin(s[16]), np.cos(s[16])
    for i in range(len(points)):
        if kind == 0:
            for k in range(3):
                out[i, k] = sense * z[k]
            continue
        p0, p1, p2 = points[i, 0] - s[2], points[i, 1] - s[3], points[i, 2] - s[4]
        along = p0 * z[0] + p1 * z[1] + p2 * z[2]
        r0, r1, r2 = p0 - along * z[0], p1 - along * z[1], p2 - along * z[2]
        ring = max(np.sqrt(r0 * r0 + r1 * r1 + r2 * r2), 1e-300)
        if kind == 3:
            n0, n1, n2 = p0, p1, p2
        elif kind == 4:
            f = s[14] / ring
            n0, n1, n2 = p0 - f * r0, p1 - f * r1, p2 - f * r2
        elif kind == 2:
            side = s[14] * cosine + along * sine
            f = cosine * (1.0 if side > 0 else (-1.0 if side < 0 else 0.0)) / ring
            n0, n1, n2 = f * r0 - sine * z[0], f * r1 - sine * z[1], f * r2 - sine * z[2]
        else:
            n0, n1, n2 = r0, r1, r2
        length = sense / max(np.sqrt(n0 * n0 + n1 * n1 + n2 * n2), 1e-300)
        out[i, 0], out[i, 1], out[i, 2] = n0 * length, n1 * length, n2 * length


@compiled
def edge_figures(bent, t0, t1, origin, x, y, rows, one, two, sense):  # type: ignore[no-untyped-def]
    """A line (origin + t x) or conic in ``rows`` even steps between two packed surfaces.

    Returns t (m,), points (m, 3), normals (2, m, 3), by row whether the faces meet convexly, the largest sine of
    the angle between the normals, and whether they point alike all along. ``sense`` is +1 where the edge runs in its
    curve's sense along the boundary of the first face.
    """
    m = rows + 1
    t, points, normals = np.empty(m), np.empty((m, 3)), np.empty((2, m, 3))
    tangent, convex = np.empty((m, 3)), np.empty(m, np.bool_)
    for i in range(m):
        t[i] = t0 + (t1 - t0) * i / rows if i < rows else t1
        c, s = np.cos(t[i]), np.sin(t[i])
        for k in range(3):
            if bent:
                points[i, k] = origin[k] + c * x[k] + s * y[k]
                tangent[i, k] = c * y[k] - s * x[k]
            else:
                points[i, k] = origin[k] + t[i] * x[k]
                tangent[i, k] = x[k]
    normals_on(one, points, normals[0])
    normals_on(two, points, normals[1])
    turn, alike = 0.0, True
    for i in range(m):
        a, b, d = normals[0, i], normals[1, i], tangent[i]
        inward = (a[1] * d[2] - a[2] * d[1]) * b[0] + (a[2] * d[0] - a[0] * d[2]) * b[1]
        inward += (a[0] * d[1] - a[1] * d[0]) * b[2]
        convex[i] = sense * inward <= 0
        u, v, w = a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]
        turn = max(turn, np.sqrt(u * u + v * v + w * w))
        alike = alike and a[0] * b[0] + a[1] * b[1] + a[2] * b[2] > 0
    return t, points, normals, convex, turn, alike


@compiled
def area_of(nodes, triangles):  # type: ignore[no-untyped-def]
    """Area and centre (3,) of a mesh."""
    total = 0.0
    centre = np.zeros(3)
    for i in range(len(triangles)):
        a, b, c = nodes[triangles[i, 0]], nodes[triangles[i, 1]], nodes[triangles[i, 2]]
        u0, u1, u2 = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        v0, v1, v2 = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        n0, n1, n2 = u1 * v2 - u2 * v1, u2 * v0 - u0 * v2, u0 * v1 - u1 * v0
        area = np.sqrt(n0 * n0 + n1 * n1 + n2 * n2) / 2
        total += area
        for k in range(3):
            centre[k] += area * (a[k] + b[k] + c[k]) / 3
    return total, centre / total if total > 0 else centre


@compiled
def strays_of(nodes, normals, triangles, face_of, faces):  # type: ignore[no-untyped-def]
    """How far the triangles of each of so many faces stray from it, by the outward normals at their nodes.

    Over a side whose normals differ by dn from end to end, a face rises by an eighth of the side times dn, as a circle
    does over its chord.
    """
    found = np.zeros(faces)
    for i in range(len(triangles)):
        for k in range(3):
            p, q = triangles[i, k], triangles[i, (k + 1) % 3]
            along = 0.0
            for x in range(3):
                along += (nodes[q, x] - nodes[p, x]) * (normals[q, x] - normals[p, x])
            found[face_of[i]] = max(found[face_of[i]], abs(along) / 8)
    return found


@compiled
def stands_over(nodes, triangles, point, k, stray):  # type: ignore[no-untyped-def]
    """True where a point (3,) lies along axis ``k`` over one of the triangles (m, 3), within ``stray`` of its heights."""
    x, y = (k + 1) % 3, (k + 2) % 3
    for i in range(len(triangles)):
        left = right = 0
        for j in range(3):
            p, q = nodes[triangles[i, j]], nodes[triangles[i, (j + 1) % 3]]
            side = (q[x] - p[x]) * (point[y] - p[y]) - (q[y] - p[y]) * (point[x] - p[x])
            left, right = left + (side >= 0), right + (side <= 0)
        if left < 3 and right < 3:
            continue
        a, b, c = nodes[triangles[i, 0], k], nodes[triangles[i, 1], k], nodes[triangles[i, 2], k]
        reach = max(abs(a - b), abs(b - c), abs(c - a))
        if abs((a + b + c) / 3 - point[k]) <= reach + stray:
            return True
    return False
