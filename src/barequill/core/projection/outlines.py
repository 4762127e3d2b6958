"""Outlines: where a curved face turns away from the viewer (its apparent contour).

Along an outline the face's normal is square to the direction of view. Cylinders and cones give straight
rulings between exact points of the face's boundary, spheres arcs of a great circle, all other faces a
curve traced over the mesh, put exactly on the surface, and fitted.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import make_interp_spline

from ..geometry.curves3 import Curve3, line
from ..geometry.surfaces import Surface
from ..part.model import Face, Part
from .camera import Camera
from .strands import GRAZING, Strand, _end_on, face_lift, turning_points

Array = NDArray[np.float64]


def outline_strands(part: Part, view: Camera) -> list[Strand]:
    """Strands of the outlines of all faces of a part."""
    found: list[Strand] = []
    g = part.mesh.normals @ view.toward
    g[np.abs(g) < GRAZING] = 0.0
    for row, face in enumerate(part.faces):
        surface = face.surface
        if surface.kind == "plane":
            continue
        # where a face curves toward the viewer its outline lies behind the face itself
        convex: list[tuple[Array, NDArray[np.bool_]] | None] = []
        if surface.kind in ("cylinder", "cone"):
            curves = _rulings(part, row, view)
        else:
            side = g[face.nodes]
            if not len(side) or (side >= 0).all() or (side < 0).all():
                continue
            chains = _chains(part, face, g)
            if surface.kind == "sphere":
                curves = _great_circle(part, row, chains, view)
            else:
                curves, convex = _traced(part, row, chains, view)
        for k, curve in enumerate(curves):
            t = curve.parameters(2e-5 * part.size)
            points = curve.points(t)
            if _end_on(part, points, view):
                continue
            free = np.full(len(t), face.sense * surface.hand > 0)
            if convex:
                near, flags = convex[k]  # type: ignore[misc]
                free = flags[np.array([int(np.argmin(((near - p) ** 2).sum(axis=1))) for p in points])]
            change = np.nonzero(free[1:] != free[:-1])[0]
            found.append(
                Strand(
                    face.ref,
                    "outline",
                    curve,
                    t,
                    points,
                    _outward(part, face, points),
                    free,
                    face_lift(part, row),
                    True,
                    (t[change] + t[change + 1]) / 2,
                    turning_points(curve, view),
                )
            )
    return found


def _outward(part: Part, face: Face, points: Array) -> Array:
    """Outward normals of a face near points (m, 3) on it."""
    if face.surface.elementary:
        return face.sense * face.surface.normals_at(points)
    nodes, normals = part.mesh.nodes[face.nodes], part.mesh.normals[face.nodes]
    nearest = np.array([int(np.argmin(((nodes - p) ** 2).sum(axis=1))) for p in points])
    return normals[nearest]


def boundary_roots(part: Part, row: int, view: Camera) -> Array:
    """Points (k, 3) on the boundary of a face at which its normal is square to the direction of view."""
    face = part.faces[row]
    found = []
    for index in face.boundary:
        edge = part.edges[index]
        if len(edge.faces) == 1 and edge.joint == "same":
            continue
        g = edge.normals[edge.faces.index(row) if len(edge.faces) > 1 else 0] @ view.toward
        g = np.where(np.abs(g) < GRAZING, 0.0, g)
        side = g >= 0
        at = np.nonzero(side[1:] != side[:-1])[0]
        if not len(at):
            continue
        low, high, glow, ghigh = edge.t[at], edge.t[at + 1], g[at], g[at + 1]
        t = low + glow / (glow - ghigh) * (high - low)
        if face.surface.elementary:
            for _ in range(4):
                gt = face.sense * face.surface.normals_at(edge.curve.points(t)) @ view.toward
                left = (gt >= 0) == (glow >= 0)
                low, glow = np.where(left, t, low), np.where(left, gt, glow)
                high, ghigh = np.where(left, high, t), np.where(left, ghigh, gt)
                width = glow - ghigh
                share = np.divide(glow, width, out=np.full(len(t), 0.5), where=np.abs(width) > 1e-300)
                t = low + np.clip(share, 0, 1) * (high - low)
        found.append(edge.curve.points(t))
    return np.concatenate(found) if found else np.zeros((0, 3))


def _rulings(part: Part, row: int, view: Camera) -> list[Curve3]:
    face = part.faces[row]
    axis = face.surface.axes[2]
    roots = boundary_roots(part, row, view)
    if not len(roots):
        return []
    p = roots - face.surface.origin
    side = face.surface.normals_at(roots) @ np.cross(axis, view.toward) >= 0
    curves = []
    for group in (p[side], p[~side]):
        group = group[np.argsort(group @ axis)]
        if len(group) % 2:
            group = group[[0, -1]] if len(group) > 2 else group[:0]
        for a, b in zip(group[::2], group[1::2], strict=True):
            if np.linalg.norm(b - a) > 1e-7 * part.size:
                curves.append(line(a + face.surface.origin, b + face.surface.origin))
    return curves


def _chains(part: Part, face: Face, g: Array) -> list[Array]:
    """Crossings of mesh sides by the outline as chains: each (k, 2) of node rows, the sides crossed."""
    triangles = part.mesh.triangles[face.triangles]
    side = g >= 0
    mixed = triangles[np.ptp(side[triangles].astype(int), axis=1) > 0]
    links: dict[tuple[int, int], list[tuple[int, int]]] = {}
    for tri in mixed:
        ends = []
        for a, b in ((tri[0], tri[1]), (tri[1], tri[2]), (tri[2], tri[0])):
            if side[a] != side[b]:
                ends.append((int(min(a, b)), int(max(a, b))))
        links.setdefault(ends[0], []).append(ends[1])
        links.setdefault(ends[1], []).append(ends[0])
    chains, seen = [], set()
    starts = [k for k, v in links.items() if len(v) == 1] + list(links)
    for start in starts:
        if start in seen:
            continue
        chain = [start]
        seen.add(start)
        while True:
            step = next((k for k in links[chain[-1]] if k not in seen), None)
            if step is None:
                break
            chain.append(step)
            seen.add(step)
        if len(chain) > 2 and chain[0] in links[chain[-1]]:
            chain.append(chain[0])
        if len(chain) > 1:
            chains.append(np.array(chain))
    return chains


def _great_circle(part: Part, row: int, chains: list[Array], view: Camera) -> list[Curve3]:
    sphere = part.faces[row].surface
    nodes = part.mesh.nodes
    x, y = sphere.radius * view.right, sphere.radius * view.up
    roots = boundary_roots(part, row, view)
    arcs = []
    for chain in chains:
        p = (nodes[chain[:, 0]] + nodes[chain[:, 1]]) / 2 - sphere.origin
        angle = np.unwrap(np.arctan2(p @ y, p @ x))
        if np.array_equal(chain[0], chain[-1]) or abs(angle[-1] - angle[0]) > 2 * np.pi - 0.05:
            return [Curve3("conic", 0.0, 2 * np.pi, origin=sphere.origin, x=x, y=y)]
        ends = np.array([angle[0], angle[-1]])
        if len(roots):
            q = roots - sphere.origin
            exact = np.arctan2(q @ y, q @ x)
            for k in range(2):
                off = (exact - ends[k] + np.pi) % (2 * np.pi) - np.pi
                best = int(np.argmin(np.abs(off)))
                if abs(off[best]) < 0.3:
                    ends[k] += off[best]
        arcs.append((min(ends), max(ends)))
    merged: list[tuple[float, float]] = []
    for low, high in sorted((a % (2 * np.pi), a % (2 * np.pi) + b - a) for a, b in arcs):
        if merged and low - merged[-1][1] < 0.02:
            merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
        else:
            merged.append((low, high))
    return [
        Curve3("conic", low, min(high, low + 2 * np.pi), origin=sphere.origin, x=x, y=y)
        for low, high in merged
        if high > low
    ]


def _on_outline(surface: Surface, a: Array, b: Array, ga: Array, gb: Array, toward: Array) -> Array:
    """Surface parameters between rows of a and b at which the normal is square to ``toward``."""
    low, high = a.copy(), b.copy()
    for k in range(12):
        width = ga - gb
        share = np.divide(ga, width, out=np.full(len(ga), 0.5), where=np.abs(width) > 1e-300)
        share = np.clip(share, 0.02, 0.98) if k < 8 else np.clip(share, 0, 1)
        uv = low + share[:, None] * (high - low)
        g = surface.normals(uv) @ toward
        left = (g >= 0) == (ga >= 0)
        low, ga = np.where(left[:, None], uv, low), np.where(left, g, ga)
        high, gb = np.where(left[:, None], high, uv), np.where(left, gb, g)
    return uv


def _refined(surface: Surface, uv: Array, toward: Array, tolerance: float) -> Array:
    """Insert points on the outline until it is smooth within ``tolerance`` (mm)."""
    for _ in range(5):
        p, du, dv = surface.derivatives(uv)
        chord = p[1:] - p[:-1]
        turn = np.ones(len(chord))
        unit = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-300)[:, None]
        bend = np.linalg.norm(np.cross(unit[1:], unit[:-1]), axis=1)
        turn[:-1] = bend
        turn[1:] = np.maximum(turn[1:], bend)
        turn[0] = bend[0] if len(bend) else 1.0
        need = np.linalg.norm(chord, axis=1) * np.maximum(turn, 0) / 8 > tolerance
        if not need.any():
            break
        at = np.nonzero(need)[0]
        middle = (uv[at] + uv[at + 1]) / 2
        scale = np.array([np.linalg.norm(du, axis=1).mean(), np.linalg.norm(dv, axis=1).mean()])
        scale = np.maximum(scale, 1e-12)
        for _ in range(4):
            g = surface.normals(middle) @ toward
            h = 1e-6 * np.maximum(np.ptp(uv, axis=0), 1e-9)
            gu = (surface.normals(middle + [h[0], 0]) @ toward - g) / h[0] / scale[0]
            gv = (surface.normals(middle + [0, h[1]]) @ toward - g) / h[1] / scale[1]
            slope = np.maximum(gu**2 + gv**2, 1e-300)
            step = np.c_[-g * gu / slope / scale[0], -g * gv / slope / scale[1]]
            reach = np.abs(uv[at + 1] - uv[at]) + 1e-12
            middle = middle + np.clip(step, -reach.max(axis=0), reach.max(axis=0))
        # a step that led away from the outline, or off the patch, is not taken
        q = surface.points(middle)
        off = np.linalg.norm(q - (p[at] + p[at + 1]) / 2, axis=1)
        good = (np.abs(surface.normals(middle) @ toward) < 1e-5) & (off < 0.5 * np.linalg.norm(chord[at], axis=1))
        if not good.any():
            break
        uv = np.insert(uv, at[good] + 1, middle[good], axis=0)
    return uv


def _curving_away(face: Face, uv: Array, toward: Array) -> NDArray[np.bool_]:
    """True (m,) where a face curves away from the viewer on its outline: there a step toward the viewer faces him."""
    _, du, dv = face.surface.derivatives(uv)
    basis = np.stack([du, dv], axis=2)
    step = np.einsum("mij,j->mi", np.linalg.pinv(basis), toward)
    reach = 1e-3 * np.maximum(np.ptp(uv, axis=0).max(), 1e-9)
    step *= reach / np.maximum(np.linalg.norm(step, axis=1), 1e-300)[:, None]
    rise = face.surface.normals(uv + step) @ toward - face.surface.normals(uv - step) @ toward
    return face.sense * rise > 0


def _traced(
    part: Part, row: int, chains: list[Array], view: Camera
) -> tuple[list[Curve3], list[tuple[Array, NDArray[np.bool_]] | None]]:
    """Outlines traced over the mesh, each with points on it and whether the face curves away there."""
    face = part.faces[row]
    surface = face.surface
    roots = boundary_roots(part, row, view)
    curves: list[Curve3] = []
    convex: list[tuple[Array, NDArray[np.bool_]] | None] = []
    for chain in chains:
        a, b = part.mesh.uv[chain[:, 0]], part.mesh.uv[chain[:, 1]]
        ga, gb = (part.mesh.normals[chain[:, k]] @ view.toward * face.sense for k in range(2))
        uv = _on_outline(surface, a, b, ga, gb, view.toward)
        jump = np.linalg.norm(np.diff(surface.points(uv), axis=0), axis=1)
        keep = np.concatenate([[True], jump > 1e-8 * part.size])
        uv = uv[keep]
        if len(uv) < 2:
            continue
        uv = _refined(surface, uv, view.toward, 5e-6 * part.size)
        p = surface.points(uv)
        flags = p.copy(), _curving_away(face, uv, view.toward)
        closed = np.array_equal(chain[0], chain[-1])
        if len(roots) and not closed:
            for k in (0, -1):
                gap = np.linalg.norm(roots - p[k], axis=1)
                near = int(np.argmin(gap))
                reach = np.linalg.norm(p[k] - p[1 if k == 0 else -2])
                if gap[near] < max(4 * part.mesh.deflection, 0.75 * reach):
                    p[k] = roots[near]
        p = p[np.concatenate([[True], np.linalg.norm(np.diff(p, axis=0), axis=1) > 1e-9 * part.size])]
        if len(p) >= 2:
            curves.append(_fitted(p, 1e-7 * part.size))
            convex.append(flags)
    return curves, convex


def _fitted(p: Array, tolerance: float) -> Curve3:
    """A line where points are straight, else the cubic through them."""
    span = p[-1] - p[0]
    length = float(np.linalg.norm(span))
    if length > 0:
        off = p - p[0] - ((p - p[0]) @ span / length**2)[:, None] * span
        if np.linalg.norm(off, axis=1).max() < 10 * tolerance:
            return line(p[0], p[-1])
    t = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    degree = min(3, len(p) - 1)
    spline = make_interp_spline(t, p, k=degree)
    return Curve3(
        "nurbs", 0.0, float(t[-1]), degree=degree, knots=np.asarray(spline.t, float), poles=np.asarray(spline.c, float)
    )
