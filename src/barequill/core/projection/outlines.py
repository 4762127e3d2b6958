"""Outlines: where a curved face turns away from the viewer (its apparent contour).

Along an outline the face's normal is square to the direction of view. Cylinders and cones give straight
rulings between exact points of the face's boundary, spheres arcs of a great circle, tori circles or the
exact curve tan v = -(cos u · dx + sin u · dy) / dz in their own frame; all other faces a curve followed
over the mesh, put exactly on the surface, and fitted.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline

from ..geometry.curves3 import Curve3, line
from ..geometry.surfaces import Surface
from ..part.model import Face, Part
from .camera import Camera
from .edge_loops import chains_of, mixed_triangles, ruled_roots
from .table import Table
from .wires import Array, Ints, Wires, from_curves, joined, straight

Flags = NDArray[np.bool_]
FIT = 4e-6
"""How far a fitted outline may stray, in part sizes."""
CHORD = 2e-5
TURN = 2 * np.pi
WIDE = 0.6
"""Gap (rad) between places seen on the mesh beyond which an arc does not go on."""


@dataclass(frozen=True, eq=False)
class Outlines:
    """Outlines of a part: ``wires``, their ``curves`` (None for a line along its wire), the face of each (n,),
    and by rows of the wires ``outward`` normals (m, 3) and ``free`` (m,), False where the face hides it itself."""

    wires: Wires
    curves: list[Curve3 | None]
    face: Ints
    outward: Array
    free: Flags


def outlines_of(part: Part, table: Table, view: Camera, g: Array) -> Outlines:
    """All outlines; ``g`` (2, m): the edges' normals toward the viewer."""
    a, b, ruled = _rulings(part, table, view, g)
    lines = straight(a, b)
    outward = table.ruled_normals(np.repeat(ruled, 2), lines.points)
    free = np.repeat(table.sense[ruled] > 0, 2)
    curves: list[Curve3] = []
    owner: list[int] = []
    ways: list[Array] = []
    normals: list[Array] = []
    frees: list[Flags] = []
    for row, chains, roots in _turning_faces(part, table, view, g):
        face = part.faces[row]
        kind = face.surface.kind
        if kind == "sphere":
            found = _great_circle(part, face, chains, roots, view)
        elif kind == "torus":
            found = _around_torus(part, face, chains, roots, view)
        else:
            found = _followed(part, face, chains, roots, view)
        for curve, t, normal, convex in found:
            curves.append(curve)
            owner.append(row)
            ways.append(t)
            normals.append(normal)
            frees.append(convex)
    bent = from_curves(curves, ways)
    return Outlines(
        joined([lines, bent]) if len(ruled) or curves else bent,
        [None] * len(ruled) + curves,
        np.concatenate([ruled, np.array(owner, np.int64)]),
        np.concatenate([outward, *normals]),
        np.concatenate([free, *frees]),
    )


def _rulings(part: Part, table: Table, view: Camera, g: Array) -> tuple[Array, Array, Ints]:
    """Straight outlines of cylinders and cones: both ends (n, 3) and the face of each (n,)."""
    w, r = table.wires, table.ruled
    points, along, group = ruled_roots(
        r.row,
        r.side,
        r.face,
        g,
        w.points,
        w.cubic,
        table.origin,
        table.axis,
        table.radius,
        table.sine,
        table.cosine,
        table.sense,
        view.toward,
    )
    if not len(points):
        return np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, np.int64)
    order = np.lexsort((along, group))
    group, along, points = group[order], along[order], points[order]
    names, first, counts = np.unique(group, return_index=True, return_counts=True)
    even = counts % 2 == 0
    rows = np.concatenate([[0], np.cumsum(counts)])
    inside = np.repeat(even, counts)
    place = np.arange(len(group)) - np.repeat(rows[:-1], counts)
    begin = np.nonzero(inside & (place % 2 == 0))[0]
    ends_a, ends_b, faces = [points[begin]], [points[begin + 1]], [group[begin] // 2]
    for k in np.nonzero(~even)[0]:
        f = int(names[k]) // 2
        own = points[first[k] : first[k] + counts[k]]
        if table.apex[f]:
            surface = part.faces[f].surface
            tip = surface.origin - surface.axes[2] * surface.radius / np.tan(surface.half_angle)
            own = np.concatenate([own, tip[None]])
            own = own[np.argsort((own - tip) @ surface.axes[2])]
            ends_a.append(own[::2])
            ends_b.append(own[1::2])
            faces.append(np.full(len(own) // 2, f))
        elif len(own) > 2:
            ends_a.append(own[:1])
            ends_b.append(own[-1:])
            faces.append(np.array([f]))
    a, b, ruled = np.concatenate(ends_a), np.concatenate(ends_b), np.concatenate(faces)
    long = np.linalg.norm(b - a, axis=1) > 1e-7 * part.size
    return a[long], b[long], ruled[long]


def _turning_faces(part: Part, table: Table, view: Camera, g: Array) -> Iterator[tuple[int, list[Array], Array]]:
    """Faces other than cylinders and cones that turn away somewhere: their row, the chains of mesh sides
    crossed (k, 2), and the points (j, 3) on their boundary where they do."""
    mesh = part.mesh
    if not table.turning.any():
        return
    mixed, facing = mixed_triangles(mesh.triangles, mesh.face_of, table.turning, mesh.normals, view.toward)
    if not len(mixed):
        return
    o = table.others
    g0, g1 = g[o.side, o.row], g[o.side, o.row + 1]
    turns = np.nonzero((g0 >= 0) != (g1 >= 0))[0]
    roots = table.wires.at(o.row[turns], np.clip(g0[turns] / (g0[turns] - g1[turns]), 0, 1))
    faces = mesh.face_of[mixed]
    for face in np.unique(faces).tolist():
        yield face, chains_of(mesh.triangles[mixed[faces == face]], facing), roots[o.face[turns] == face]


def _middles(part: Part, chains: list[Array]) -> Array:
    both = np.concatenate(chains)
    return (part.mesh.nodes[both[:, 0]] + part.mesh.nodes[both[:, 1]]) / 2


def _arcs(roots: Array, seen: Array) -> list[tuple[float, float]]:
    """The arcs (from, to) of a closed curve between its ``roots`` that hold any of the angles ``seen``."""
    if not len(seen):
        return []
    roots = np.sort(roots % TURN)
    roots = roots[np.diff(roots, prepend=roots[-1:] - TURN) > 1e-6] if len(roots) > 1 else roots
    start = float(roots[0]) if len(roots) else 0.0
    seen = np.sort(start + (seen - start) % TURN)
    ends = np.append(roots, start + TURN) if len(roots) else np.array([0.0, TURN])
    arcs: list[tuple[float, float]] = []
    for low, high in zip(ends, ends[1:], strict=False):
        own = seen[(seen >= low) & (seen <= high)]
        if not len(own):
            continue
        if high - low > TURN - 1e-6:
            # nothing parts the curve: it is whole, or ends where the boundary only touches it
            gaps = np.diff(own, append=own[0] + TURN)
            wide = int(np.argmax(gaps))
            if gaps[wide] > WIDE:
                low = own[(wide + 1) % len(own)]
                high = low + TURN - gaps[wide]
        else:
            low = own[0] if own[0] - low > WIDE else low
            high = own[-1] if high - own[-1] > WIDE else high
        if high > low:
            arcs.append((float(low), float(high)))
    return arcs


Found = list[tuple[Curve3, Array, Array, Flags]]


def _great_circle(part: Part, face: Face, chains: list[Array], roots: Array, view: Camera) -> Found:
    sphere = face.surface
    x, y = sphere.radius * view.right, sphere.radius * view.up

    def angles(p: Array) -> Array:
        q = p - sphere.origin
        return np.arctan2(q @ y, q @ x)

    found: Found = []
    if not chains:
        return found
    for low, high in _arcs(angles(roots), angles(_middles(part, chains))):
        curve = Curve3("conic", low, high, origin=sphere.origin, x=x, y=y)
        t = curve.parameters(CHORD * part.size)
        normals = face.sense * sphere.normals_at(curve.points(t))
        found.append((curve, t, normals, np.full(len(t), face.sense * sphere.hand > 0)))
    return found


def _around_torus(part: Part, face: Face, chains: list[Array], roots: Array, view: Camera) -> Found:
    torus = face.surface
    d = torus.axes @ view.toward
    middles = _middles(part, chains) if chains else np.zeros((0, 3))
    found: Found = []
    for curve, where, meets in _torus_branches(torus, d):
        near, at = where(middles)
        if not near.any():
            continue
        touching, ends = where(roots)
        for low, high in _arcs(np.concatenate([ends[touching], meets]), at[near]):
            found += _torus_arc(part, face, curve, low, high, view)
    return found


def _torus_uv(torus: Surface, p: Array) -> tuple[Array, Array]:
    q = (p - torus.origin) @ torus.axes.T
    ring = np.linalg.norm(q[:, :2], axis=1)
    return np.arctan2(q[:, 1], q[:, 0]), np.arctan2(q[:, 2], ring - torus.radius)


def _turned(angle: Array) -> Array:
    return (angle + np.pi) % TURN - np.pi


def _torus_branches(torus: Surface, d: Array):  # type: ignore[no-untyped-def]
    """The closed curves of which a torus's outline consists: each as Curve3 or as a function of u, what tells
    which points lie on it and at what angle, and the angles at which it meets another."""
    x, y, z = torus.axes
    big, small = torus.radius, torus.minor_radius
    level = float(np.hypot(d[0], d[1]))

    if abs(d[2]) < 1e-9:
        # seen from the side: two circles about the axis, and two meridians
        phi, square = float(np.arctan2(d[1], d[0])), np.array([-np.pi / 2, np.pi / 2])
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin + s * small * z, x=big * x, y=big * y)

            def on_ring(p: Array, s: float = s) -> tuple[Flags, Array]:
                u, v = _torus_uv(torus, p)
                return np.abs(_turned(v - s * np.pi / 2)) < np.abs(np.cos(u - phi)) * 0.8, u

            yield ring, on_ring, phi + square
            out = np.cos(phi + s * np.pi / 2) * x + np.sin(phi + s * np.pi / 2) * y
            meridian = Curve3("conic", 0.0, TURN, origin=torus.origin + big * out, x=small * out, y=small * z)

            def on_meridian(p: Array, s: float = s) -> tuple[Flags, Array]:
                u, v = _torus_uv(torus, p)
                return np.abs(_turned(u - phi - s * np.pi / 2)) < np.abs(np.cos(v)) * 0.8, v

            yield meridian, on_meridian, square
        return
    if level < 1e-9:
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin, x=(big + s * small) * x, y=(big + s * small) * y)

            def on_level(p: Array, s: float = s) -> tuple[Flags, Array]:
                u, v = _torus_uv(torus, p)
                return s * np.cos(v) > 0, u

            yield ring, on_level, np.zeros(0)
        return

    def branch(u: Array, s: float) -> Array:
        slope = -(np.cos(u) * d[0] + np.sin(u) * d[1]) / d[2]
        return np.arctan(slope) + (np.pi if s < 0 else 0.0)

    for s in (1.0, -1.0):

        def points(u: Array, s: float = s) -> Array:
            return torus.points(np.c_[u, branch(u, s)])

        def on(p: Array, s: float = s) -> tuple[Flags, Array]:
            u, v = _torus_uv(torus, p)
            return np.abs(_turned(v - branch(u, s))) < np.pi / 2, u

        yield points, on, np.zeros(0)


def _torus_arc(part: Part, face: Face, curve, low: float, high: float, view: Camera) -> Found:  # type: ignore[no-untyped-def]
    torus = face.surface
    if isinstance(curve, Curve3):
        made = curve.piece(low, high)
        t = made.parameters(CHORD * part.size)
    else:
        u = np.linspace(low, high, max(9, int(np.ceil((high - low) / 0.1)) + 1))
        for _ in range(6):
            spline = CubicSpline(u, curve(u))
            middle = (u[:-1] + u[1:]) / 2
            off = np.linalg.norm(spline(middle) - curve(middle), axis=1) > FIT / 4 * part.size
            if not off.any():
                break
            u = np.sort(np.concatenate([u, middle[off]]))
        made = _as_nurbs(CubicSpline(u, curve(u)), u)
        t = made.parameters(CHORD * part.size)
    p = made.points(t)
    normals = torus.normals_at(p)
    u, v = _torus_uv(torus, p)
    # the curvature of the surface along the view: bending away where the outline is to be seen
    eu = -np.sin(u)[:, None] * torus.axes[0] + np.cos(u)[:, None] * torus.axes[1]
    ev = np.cross(normals, eu)
    about = np.cos(v) / np.maximum(np.abs(torus.radius + torus.minor_radius * np.cos(v)), 1e-300)
    bend = (eu @ view.toward) ** 2 * about + (ev @ view.toward) ** 2 / torus.minor_radius
    free = face.sense * torus.hand * bend > -1e-9 / torus.minor_radius
    return [(made, t, face.sense * normals, free)]


def _as_nurbs(spline: CubicSpline, t: Array) -> Curve3:
    """A piecewise cubic as NURBS, by its Bézier points."""
    width = np.diff(t)[:, None]
    p, d = spline(t), spline(t, 1)
    poles = np.empty((3 * len(t) - 2, 3))
    poles[::3] = p
    poles[1::3] = p[:-1] + d[:-1] * width / 3
    poles[2::3] = p[1:] - d[1:] * width / 3
    knots = np.concatenate([np.repeat(t[:1], 4), np.repeat(t[1:-1], 3), np.repeat(t[-1:], 4)])
    return Curve3("nurbs", float(t[0]), float(t[-1]), degree=3, knots=knots, poles=poles)


def _on_outline(surface: Surface, a: Array, b: Array, ga: Array, gb: Array, toward: Array) -> Array:
    """Surface parameters between rows of a and b at which the normal is square to ``toward``."""
    low, high = a.copy(), b.copy()
    uv = (a + b) / 2
    for k in range(9):
        width = ga - gb
        share = np.divide(ga, width, out=np.full(len(ga), 0.5), where=np.abs(width) > 1e-300)
        share = np.clip(share, 0.02, 0.98) if k < 5 else np.clip(share, 0, 1)
        uv = low + share[:, None] * (high - low)
        g = surface.normals(uv) @ toward
        if np.abs(g).max() < 1e-11:
            break
        left = (g >= 0) == (ga >= 0)
        low, ga = np.where(left[:, None], uv, low), np.where(left, g, ga)
        high, gb = np.where(left[:, None], high, uv), np.where(left, gb, g)
    return uv


def _settled(surface: Surface, uv: Array, across: Array, reach: Array, toward: Array) -> tuple[Array, Flags]:
    """Put ``uv`` (k, 2) onto the outline by steps along ``across`` (k, 2), at most ``reach`` (k,) away; and which
    of them arrived."""
    h = 1e-4 * reach
    both = surface.normals(np.concatenate([uv, uv + h[:, None] * across])) @ toward
    g, slope = both[: len(uv)], (both[len(uv) :] - both[: len(uv)]) / h
    s = np.zeros(len(uv))
    for _ in range(6):
        step = np.divide(-g, slope, out=np.zeros(len(uv)), where=np.abs(slope) > 1e-300)
        to = np.clip(s + step, -reach, reach)
        now = surface.normals(uv + to[:, None] * across) @ toward
        slope = np.divide(now - g, to - s, out=slope, where=np.abs(to - s) > 1e-9 * reach)
        s, g = to, now
        if np.abs(g).max(initial=0.0) < 1e-10:
            break
    return uv + s[:, None] * across, (np.abs(g) < 1e-7) & (np.abs(s) < reach)


def _curving_away(face: Face, uv: Array, toward: Array) -> Flags:
    """True (m,) where a face curves away from the viewer on its outline: there a step toward the viewer faces him."""
    _, du, dv = face.surface.derivatives(uv)
    # the step in parameters that goes along the view, by least squares in the tangent plane
    a, b, c = ((p * q).sum(axis=1) for p, q in ((du, du), (du, dv), (dv, dv)))
    e, f = du @ toward, dv @ toward
    determinant = np.maximum(a * c - b * b, 1e-300)
    step = np.c_[(c * e - b * f) / determinant, (a * f - b * e) / determinant]
    reach = 1e-3 * np.maximum(np.ptp(uv, axis=0).max(), 1e-9)
    step *= reach / np.maximum(np.linalg.norm(step, axis=1), 1e-300)[:, None]
    both = face.surface.normals(np.concatenate([uv + step, uv - step])) @ toward
    return face.sense * (both[: len(uv)] - both[len(uv) :]) > 0


def _followed(part: Part, face: Face, chains: list[Array], roots: Array, view: Camera) -> Found:
    """Outlines of a free-form face: points of the mesh chains put on the surface, filled in until a cubic
    through them stays within FIT."""
    surface, mesh, toward = face.surface, part.mesh, view.toward
    found: Found = []
    if not chains:
        return found
    both = np.concatenate(chains)
    ga, gb = (mesh.normals[both[:, k]] @ toward * face.sense for k in range(2))
    every = _on_outline(surface, mesh.uv[both[:, 0]], mesh.uv[both[:, 1]], ga, gb, toward)
    ends = np.cumsum([0] + [len(c) for c in chains])
    for chain, a, b in zip(chains, ends, ends[1:], strict=False):
        uv = every[a:b]
        points = surface.points(uv)
        apart = np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-6 * part.size
        keep = np.concatenate([[True], apart])
        if keep.sum() > 1 and not keep[-1]:
            keep[-1], keep[np.nonzero(keep)[0][-1]] = True, False
        uv, points = uv[keep], points[keep]
        if len(uv) < 2:
            continue
        closed = bool(np.array_equal(chain[0], chain[-1]))
        uv, points = _filled(part, surface, uv, points, toward)
        convex = _curving_away(face, uv, toward)
        if len(roots) and not closed:
            for k in (0, -1):
                gap = np.linalg.norm(roots - points[k], axis=1)
                near = int(np.argmin(gap))
                reach = np.linalg.norm(points[k] - points[1 if k == 0 else -2])
                if 1e-9 * part.size < gap[near] < max(4 * mesh.deflection, 0.75 * reach):
                    points[k] = roots[near]
        normals = face.sense * surface.normals(uv)
        way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
        if not (np.diff(way) > 0).all():
            continue
        curve = _fitted(points, way, FIT * part.size)
        t = curve.parameters(CHORD * part.size)
        nearest = np.clip(np.searchsorted((way[1:] + way[:-1]) / 2, t), 0, len(way) - 1)
        blend = np.stack([np.interp(t, way, normals[:, k]) for k in range(3)], axis=1)
        blend /= np.maximum(np.linalg.norm(blend, axis=1), 1e-300)[:, None]
        found.append((curve, t, blend, convex[nearest]))
    return found


def _filled(part: Part, surface: Surface, uv: Array, points: Array, toward: Array) -> tuple[Array, Array]:
    for _ in range(6):
        way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
        if len(uv) > 3000 or not (np.diff(way) > 0).all():
            break
        middle = (way[:-1] + way[1:]) / 2
        guess = CubicSpline(way, points)(middle) if len(way) > 2 else (points[:-1] + points[1:]) / 2
        step = np.diff(uv, axis=0)
        long = np.linalg.norm(step, axis=1)
        across = np.c_[-step[:, 1], step[:, 0]] / np.maximum(long, 1e-300)[:, None]
        at, arrived = _settled(surface, (uv[:-1] + uv[1:]) / 2, across, 0.5 * long, toward)
        true = surface.points(at)
        off = true - guess
        chord = np.diff(points, axis=0)
        length = np.linalg.norm(chord, axis=1)
        along = np.einsum("ij,ij->i", off, chord) / length
        stray = np.linalg.norm(off - along[:, None] * chord / length[:, None], axis=1)
        new = arrived & (stray > FIT / 2 * part.size) & (np.linalg.norm(off, axis=1) < 0.5 * length)
        new &= length > 2e-6 * part.size
        if not new.any():
            break
        spot = np.nonzero(new)[0] + 1
        uv, points = np.insert(uv, spot, at[new], axis=0), np.insert(points, spot, true[new], axis=0)
    return uv, points


def _fitted(p: Array, way: Array, tolerance: float) -> Curve3:
    """A line where points are straight, else the cubic through them."""
    span = p[-1] - p[0]
    length = float(np.linalg.norm(span))
    if length > 0.5 * way[-1]:
        off = p - p[0] - ((p - p[0]) @ span / length**2)[:, None] * span
        if np.linalg.norm(off, axis=1).max() < tolerance:
            return line(p[0], p[-1])
    if len(p) < 3:
        return line(p[0], p[-1])
    return _as_nurbs(CubicSpline(way, p), way)
