"""The exact box around a part: extremes of its edges, and of those faces that bulge beyond them."""

from __future__ import annotations

import numpy as np

from ..geometry.curves3 import Curve3
from ..geometry.nurbs import highest, homogeneous
from ..geometry.surfaces import Surface
from .figures import stands_over
from .model import Array, Edge, Face, Mesh

RULED = ("plane", "cylinder", "cone", "extrusion")
"""Kinds of surfaces whose extremes lie on their boundary."""
STEPS = 12


def box_of(faces: list[Face], edges: list[Edge], vertices: Array, mesh: Mesh) -> tuple[Array, Array]:
    """Lowest and highest coordinates (3,), mm, of what the faces and edges cover, exact within 1e-7 of the size."""
    points = np.concatenate([vertices, *(e.points for e in edges), mesh.nodes])
    near = 1e-4 * float(np.linalg.norm(points.max(axis=0) - points.min(axis=0)))
    sure = np.concatenate([vertices, *(e.points for e in edges)]) if edges else mesh.nodes
    corners = np.array([sure.min(axis=0), sure.max(axis=0)])
    conics = [e.curve for e in edges if e.curve.kind == "conic"]
    if conics:
        low, high = _conic_boxes(conics)
        corners = np.array([np.minimum(corners[0], low.min(axis=0)), np.maximum(corners[1], high.max(axis=0))])
    free = [e for e in edges if e.curve.kind == "nurbs"]
    ends = np.array([[e.points.min(axis=0), e.points.max(axis=0)] for e in free]).reshape(-1, 2, 3)
    strays = mesh.strays
    for side, sign in ((0, -1.0), (1, 1.0)):
        for k in range(3):
            best = sign * corners[side, k]
            bulging = (sign * ends[:, side, k] > best - near) & (ends[:, 1, k] - ends[:, 0, k] > 1e-9 * near)
            for row in np.nonzero(bulging)[0].tolist():
                best = max(best, _curve_extreme(free[row], k, sign))
            for row, face in enumerate(faces):
                if face.surface.kind in RULED or face.nodes.start == face.nodes.stop:
                    continue
                heights = sign * mesh.nodes[face.nodes, k]
                top = int(heights.argmax())
                if heights[top] + 3 * strays[row] + 1e-9 * near > best:
                    start = face.nodes.start + top
                    point = surface_extreme(face.surface, mesh.nodes[start], mesh.uv[start], sign * np.eye(3)[k])
                    if (
                        point is not None
                        and sign * point[k] > best
                        and stands_over(mesh.nodes, mesh.triangles[face.triangles], point, k, 3 * strays[row])
                    ):
                        best = sign * float(point[k])
            corners[side, k] = sign * best
    return corners[0], corners[1]


def exact_boxes(curves: list[Curve3]) -> tuple[Array, Array]:
    """Lowest and highest coordinates (n, 3) of each curve; of splines those of their poles, which hold them in."""
    low, high = np.zeros((len(curves), 3)), np.zeros((len(curves), 3))
    bent = [k for k, c in enumerate(curves) if c.kind == "conic"]
    if bent:
        low[bent], high[bent] = _conic_boxes([curves[k] for k in bent])
    straight = [k for k, c in enumerate(curves) if c.kind == "line"]
    if straight:
        ends = np.array([curves[k].points(np.array([curves[k].t0, curves[k].t1])) for k in straight])
        low[straight], high[straight] = ends.min(axis=1), ends.max(axis=1)
    for k, curve in enumerate(curves):
        if curve.kind == "nurbs":
            assert curve.poles is not None
            low[k], high[k] = curve.poles.min(axis=0), curve.poles.max(axis=0)
    return low, high


def _conic_boxes(conics: list[Curve3]) -> tuple[Array, Array]:
    """Lowest and highest coordinates (n, 3) of each conic."""
    t0, t1 = np.array([c.t0 for c in conics])[:, None], np.array([c.t1 for c in conics])[:, None]
    origin, x, y = (
        np.array([c.origin for c in conics]),
        np.array([c.x for c in conics]),
        np.array([c.y for c in conics]),
    )
    rise, turn = np.hypot(x, y), np.arctan2(y, x)
    ends = [origin + np.cos(t) * x + np.sin(t) * y for t in (t0, t1)]
    highs, lows = [*ends], [*ends]
    for values, at, bound in ((highs, turn, origin + rise), (lows, turn + np.pi, origin - rise)):
        reached = at + 2 * np.pi * np.ceil((t0 - at) / (2 * np.pi)) <= t1
        values.append(np.where(reached, bound, ends[0]))
    return np.min(lows, axis=0), np.max(highs, axis=0)


def _curve_extreme(edge: Edge, k: int, sign: float) -> float:
    """The greatest value of ``sign`` times coordinate ``k`` along a free-form edge."""
    row = int((sign * edge.points[:, k]).argmax())
    low, high = float(edge.t[max(row - 1, 0)]), float(edge.t[min(row + 1, len(edge.t) - 1)])
    curve = edge.curve
    assert curve.knots is not None and curve.poles is not None
    found: float = highest(curve.degree, curve.knots, homogeneous(sign * curve.poles, curve.weights), low, high, k)
    return found


def surface_extreme(surface: Surface, point: Array, uv: Array, way: Array) -> Array | None:
    """The point (3,) near one of its points where a surface reaches farthest along a unit ``way`` (3,), None where none is found."""
    if surface.kind == "facets":
        return None
    if surface.kind == "sphere":
        found: Array = surface.origin + surface.radius * way
        return found
    if surface.kind == "torus":
        z = surface.axes[2]
        level = way - (way @ z) * z
        from_axis = point - surface.origin - ((point - surface.origin) @ z) * z
        if np.linalg.norm(level) > 1e-9:
            level *= 1.0 if level @ from_axis > 0 else -1.0
        else:
            level = from_axis
        if not np.linalg.norm(level) > 1e-12 * surface.minor_radius:
            return None
        centre = surface.origin + surface.radius * level / np.linalg.norm(level)
        return centre + surface.minor_radius * way
    at = uv.copy()
    step = 1e-5 * _span(surface)
    for _ in range(STEPS):
        around = at + np.array([[0, 0], [step[0], 0], [-step[0], 0], [0, step[1]], [0, -step[1]]])
        found, du, dv = surface.derivatives(around)
        slope = np.array([du[0] @ way, dv[0] @ way])
        bend = np.array(
            [
                [(du[1] - du[2]) @ way / (2 * step[0]), (du[3] - du[4]) @ way / (2 * step[1])],
                [(dv[1] - dv[2]) @ way / (2 * step[0]), (dv[3] - dv[4]) @ way / (2 * step[1])],
            ]
        )
        move = np.linalg.lstsq(bend, -slope, rcond=1e-9)[0]
        if not np.isfinite(move).all():
            return None
        if (np.abs(move) < 1e-3 * step).all():
            return found[0]
        at = at + np.clip(move, -3e3 * step, 3e3 * step)
    return found[0]


def _span(surface: Surface) -> Array:
    """Extent of the parameters (2,) of a surface of revolution or a NURBS surface."""
    if surface.knots is not None:
        return np.array([k[-1] - k[0] for k in surface.knots])
    assert surface.profile is not None
    return np.array([2 * np.pi, surface.profile.t1 - surface.profile.t0])
