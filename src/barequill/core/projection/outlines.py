"""Outlines: where a curved face turns away from the viewer (its apparent contour).

Along an outline the face's normal is square to the direction of view. Cylinders and cones give straight
rulings between exact points of the face's boundary, spheres arcs of a great circle, tori circles or the
exact curve tan v = -(cos u · dx + sin u · dy) / dz in their own frame; all other faces a curve followed
over the mesh, put exactly on the surface, and fitted.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3, line, polyline
from ..geometry.evaluation import packed_surface
from ..geometry.surfaces import Surface
from ..part.figures import stands_over
from ..part.model import Face, Part
from .arc_loops import conic_arc, torus_arc, wire_of
from .camera import Camera
from .edge_loops import chains_of, mixed_triangles, ruled_roots
from .outline_loops import (
    followed,
    overlooked,
    parameters_on,
    spline_slopes,
)
from .table import Table
from .wires import Array, Ints, Wires, joined, straight

log = logging.getLogger(__name__)
Flags = NDArray[np.bool_]
FIT = 4e-6
"""How far a fitted outline may stray, in part sizes."""
CHORD = 2e-5
TURN = 2 * np.pi
WIDE = 0.6
"""Gap (rad) between places seen on the mesh beyond which an arc does not go on."""


@dataclass(frozen=True, eq=False)
class Outlines:
    """Outlines of a part: ``wires``, their ``curves`` (None for a line along its wire), the face of each (n,), which
    (n,) are drawn from the mesh, and by rows of the wires ``outward`` normals (m, 3) and ``free`` (m,), False where the
    face hides it itself."""

    wires: Wires
    curves: list[Curve3 | None]
    face: Ints
    meshed: Flags
    outward: Array
    free: Flags


def outlines_of(part: Part, table: Table, view: Camera, g: Array) -> Outlines:
    """All outlines; ``g`` (2, m): the edges' normals toward the viewer."""
    a, b, ruled = _rulings(part, table, view, g)
    lines = straight(a, b)
    found = [
        (row, one)
        for row, turns in _turning_faces(part, table, view, g)
        for one in _outlines_of_face(part, row, turns, view)
    ]
    sets = [lines] if len(ruled) else []
    sets += [one.wire for _, one in found]
    wires = joined(sets) if sets else lines
    face = np.concatenate([ruled, np.array([row for row, _ in found], np.int64)])
    outward = np.concatenate(
        [table.ruled_normals(np.repeat(ruled, 2), lines.points), *(one.outward for _, one in found)]
    )
    free = np.concatenate([np.repeat(table.sense[ruled] > 0, 2), *(one.free for _, one in found)])
    # a sheet does not hide its own outline; where it bends toward the viewer, free space lies on its other side
    sheet = np.array([not part.bodies[part.faces[f].body].solid for f in face], bool)[wires.owner]
    outward[sheet & ~free] *= -1.0
    curves = [None] * len(ruled) + [one.curve for _, one in found]
    meshed = np.array([False] * len(ruled) + [one.meshed for _, one in found], bool)
    return Outlines(wires, curves, face, meshed, outward, free | sheet)


@dataclass(frozen=True, eq=False)
class Found:
    """One outline: its curve, and by rows of its wire (m,) outward normals and where the face leaves it free."""

    curve: Curve3
    wire: Wires
    outward: Array
    free: Flags
    meshed: bool = False


def _outlines_of_face(part: Part, row: int, turns: _Turns, view: Camera) -> list[Found]:
    """The outlines of a face, from its mesh where they cannot be had exactly: one face never costs a view."""
    face = part.faces[row]
    try:
        if face.surface.kind != "facets":
            found = _exact_outlines(part, face, turns, view)
            if all(np.isfinite(one.wire.points).all() for one in found):
                return found
            log.error("outlines of face %s of %s have no place at some parameter", face.ref, part.name)
    except Exception:
        log.exception("outlines of face %s of %s, seen from %s", face.ref, part.name, view.toward)
    return _from_mesh(part, turns, view)


def _from_mesh(part: Part, turns: _Turns, view: Camera) -> list[Found]:
    """Outlines as polylines over the sides of the mesh that they cross."""
    mesh, found = part.mesh, []
    for chain in turns.chains:
        g = mesh.normals[chain] @ view.toward
        share = np.clip(g[:, 0] / np.where(g[:, 0] == g[:, 1], 1.0, g[:, 0] - g[:, 1]), 0, 1)[:, None]
        a, b = mesh.nodes[chain[:, 0]], mesh.nodes[chain[:, 1]]
        one, other = mesh.normals[chain[:, 0]], mesh.normals[chain[:, 1]]
        points, normals = a + share * (b - a), one + share * (other - one)
        convex = ((b - a) * (other - one)).sum(axis=1) > 0
        ends = _ends_of(part, chain, turns.roots)
        for k, end in zip((0, len(points)), ends, strict=True):
            if not np.isnan(end[0]):
                points, convex = (
                    np.insert(points, k, end, axis=0),
                    np.insert(convex, k, convex[min(k, len(convex) - 1)]),
                )
                normals = np.insert(normals, k, normals[min(k, len(normals) - 1)], axis=0)
        apart = np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-7 * part.size
        keep = np.concatenate([[True], apart])
        points, normals, convex = points[keep], normals[keep], convex[keep]
        if len(points) < 2:
            continue
        normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, None]
        curve = polyline(points)
        assert curve.knots is not None
        cubic = np.zeros((3, len(points), 3))
        cubic[0, :-1] = np.diff(points, axis=0)
        wire = Wires(np.array([0, len(points)]), curve.knots[1:-1], points, cubic)
        found.append(Found(curve, wire, normals, convex, True))
    return found


def _exact_outlines(part: Part, face: Face, turns: _Turns, view: Camera) -> list[Found]:
    kind = face.surface.kind
    if kind not in ("sphere", "torus"):
        return _followed(part, face, turns, view)
    if not turns.chains:
        return []
    roots = np.concatenate([turns.roots, *_ends_on_outline(part, face, view)])
    return (_great_circle if kind == "sphere" else _around_torus)(part, face, turns.chains, roots, view)


def _ends_on_outline(part: Part, face: Face, view: Camera) -> Iterator[Array]:
    """Ends (2, 3) of those of a face's edges that lie on its outline all along, as seams may: it goes on there."""
    for row in face.boundary:
        edge = part.edges[row]
        if np.abs(edge.normals[0] @ view.toward).max() < 1e-7:
            yield edge.points[[0, -1]]


def _conic(part: Part, face: Face, curve: Curve3, view: Camera) -> Found:
    """An arc on a sphere or torus."""
    torus = face.surface
    ball = torus.kind == "sphere"
    t, points, cubic, outward, free = conic_arc(
        curve.origin,
        curve.x,
        curve.y,
        curve.t0,
        curve.t1,
        torus.origin,
        torus.axes[2],
        0.0 if ball else torus.radius,
        torus.radius if ball else torus.minor_radius,
        face.sense * torus.hand,
        view.toward,
        CHORD * part.size,
    )
    return Found(curve, Wires(np.array([0, len(t)]), t, points, cubic), outward, free)


def _spline(part: Part, t: Array, p: Array, d: Array, normals: Array, convex: Flags) -> Found:
    """The piecewise cubic through points with slopes as NURBS, by its Bézier points."""
    width = np.diff(t)[:, None]
    poles = np.empty((3 * len(t) - 2, 3))
    poles[::3] = p
    poles[1::3] = p[:-1] + d[:-1] * width / 3
    poles[2::3] = p[1:] - d[1:] * width / 3
    knots = np.concatenate([np.repeat(t[:1], 4), np.repeat(t[1:-1], 3), np.repeat(t[-1:], 4)])
    curve = Curve3("nurbs", float(t[0]), float(t[-1]), degree=3, knots=knots, poles=poles)
    t, points, cubic, outward, free = wire_of(t, p, d, normals, convex, CHORD * part.size)
    return Found(curve, Wires(np.array([0, len(t)]), t, points, cubic), outward, free)


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


@dataclass(frozen=True, eq=False)
class _Turns:
    """Where a face turns away: chains of mesh sides (k, 2) crossed; points (j, 3) on its boundary; and between two of
    these on one edge the point (i, 3) half way, how far they are apart (i,), the normal toward the viewer there (i,),
    and the two points by row (i, 2)."""

    chains: list[Ints]
    roots: Array
    between: Array
    span: Array
    facing: Array
    pair: Ints


def _turning_faces(part: Part, table: Table, view: Camera, g: Array) -> Iterator[tuple[int, _Turns]]:
    """Faces other than cylinders and cones that turn away somewhere, by row."""
    mesh = part.mesh
    if not table.turning.any():
        return
    mixed, facing = mixed_triangles(mesh.triangles, mesh.face_of, table.turning, mesh.normals, view.toward)
    o, w = table.others, table.wires
    g0, g1 = g[o.side, o.row], g[o.side, o.row + 1]
    turns = np.nonzero((g0 >= 0) != (g1 >= 0))[0]
    if not len(mixed) and not len(turns):
        return
    rows, sides = o.row[turns], o.side[turns]
    roots = w.at(rows, np.clip(g0[turns] / (g0[turns] - g1[turns]), 0, 1))
    # rows come by side, then edge by edge in order: what follows on the same edge follows on the boundary
    next_on = (w.owner[rows[1:]] == w.owner[rows[:-1]]) & (sides[1:] == sides[:-1]) if len(rows) else np.zeros(0, bool)
    first = np.nonzero(next_on)[0]
    middle = (rows[first] + rows[first + 1] + 1) // 2
    between, seen = w.points[middle], g[sides[first], middle]
    span = np.linalg.norm(roots[first + 1] - roots[first], axis=1)
    faces, meets = mesh.face_of[mixed], o.face[turns]
    for face in np.union1d(faces, meets).tolist():
        own = np.nonzero(meets == face)[0]
        at = np.nonzero(meets[first] == face)[0]
        pair = np.searchsorted(own, np.stack([first[at], first[at] + 1], axis=1))
        chains = chains_of(mesh.triangles[mixed[faces == face]], facing) if (faces == face).any() else []
        yield face, _Turns(chains, roots[own], between[at], span[at], seen[at], pair)


def _middles(part: Part, chains: list[Ints]) -> Array:
    both = np.concatenate(chains)
    return (part.mesh.nodes[both[:, 0]] + part.mesh.nodes[both[:, 1]]) / 2


def _arcs(
    roots: Array, seen: Array, on_face: Callable[[float], bool] = lambda angle: False
) -> list[tuple[float, float]]:
    """The arcs (from, to) of a closed curve between its ``roots`` that hold any of the angles ``seen``, or, where they
    are shorter than a side of the mesh, whose middle lies ``on_face``."""
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
            if high - low < WIDE and on_face((low + high) / 2):
                arcs.append((float(low), float(high)))
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


def _great_circle(part: Part, face: Face, chains: list[Ints], roots: Array, view: Camera) -> list[Found]:
    sphere = face.surface
    x, y = sphere.radius * view.right, sphere.radius * view.up

    def angles(p: Array) -> Array:
        q = p - sphere.origin
        return np.arctan2(q @ y, q @ x)

    def on_face(angle: float) -> bool:
        """Whether the mesh of the face stands over a point of the great circle."""
        out = np.cos(angle) * x + np.sin(angle) * y
        k = int(np.abs(out).argmax())
        own = part.mesh.triangles[face.triangles]
        return bool(stands_over(part.mesh.nodes, own, sphere.origin + out, k, 3 * part.mesh.deflection))

    return [
        _conic(part, face, Curve3("conic", low, high, origin=sphere.origin, x=x, y=y), view)
        for low, high in _arcs(angles(roots), angles(_middles(part, chains)), on_face)
    ]


def _around_torus(part: Part, face: Face, chains: list[Ints], roots: Array, view: Camera) -> list[Found]:
    torus = face.surface
    d = torus.axes @ view.toward
    mesh_u, mesh_v = _torus_uv(torus, _middles(part, chains))
    root_u, root_v = _torus_uv(torus, roots)
    found: list[Found] = []
    for curve, on, round_axis, meets in _torus_branches(torus, d):
        near = on(mesh_u, mesh_v)
        if not near.any():
            continue
        ends = (root_u if round_axis else root_v)[on(root_u, root_v)]
        seen = (mesh_u if round_axis else mesh_v)[near]
        for low, high in _arcs(np.concatenate([ends, meets]), seen):
            found.append(_torus_arc(part, face, curve, low, high, view))
    return found


def _torus_uv(torus: Surface, p: Array) -> tuple[Array, Array]:
    q = (p - torus.origin) @ torus.axes.T
    return np.arctan2(q[:, 1], q[:, 0]), np.arctan2(q[:, 2], np.hypot(q[:, 0], q[:, 1]) - torus.radius)


def _turned(angle: Array) -> Array:
    return (angle + np.pi) % TURN - np.pi


Branch = tuple[Curve3 | float, Callable[[Array, Array], Flags], bool, Array]


def _torus_branches(torus: Surface, d: Array) -> Iterator[Branch]:
    """The closed curves of which a torus's outline consists, seen along ``d`` (3,) in its own frame.

    Each as Curve3, or seen aslant as the side (+1, -1) of the tube; what tells which angles (about the axis,
    round the tube) lie on it; whether it goes round the axis; and the angles at which it meets another.
    """
    x, y, z = torus.axes
    big, small = torus.radius, torus.minor_radius
    phi, square = float(np.arctan2(d[1], d[0])), np.array([-np.pi / 2, np.pi / 2])
    # where a torus that runs through its own axis meets it, round the tube
    poles = np.array([-1.0, 1.0]) * np.arccos(-big / small) if torus.spindle else np.zeros(0)
    if abs(d[2]) < 1e-9:
        # seen from the side: two circles about the axis, and two meridians
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin + s * small * z, x=big * x, y=big * y)

            def on_ring(u: Array, v: Array, s: float = s) -> Flags:
                return np.abs(_turned(v - s * np.pi / 2)) < np.abs(np.cos(u - phi)) * 0.8

            yield ring, on_ring, True, phi + square
            out = np.cos(phi + s * np.pi / 2) * x + np.sin(phi + s * np.pi / 2) * y
            meridian = Curve3("conic", 0.0, TURN, origin=torus.origin + big * out, x=small * out, y=small * z)

            def on_meridian(u: Array, v: Array, s: float = s) -> Flags:
                return np.abs(_turned(u - phi - s * np.pi / 2)) < np.abs(np.cos(v)) * 0.8

            yield meridian, on_meridian, False, np.concatenate([square, poles])
    elif np.hypot(d[0], d[1]) < 1e-9:
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin, x=(big + s * small) * x, y=(big + s * small) * y)

            def on_level(u: Array, v: Array, s: float = s) -> Flags:
                return s * np.cos(v) > 0

            yield ring, on_level, True, np.zeros(0)
    else:
        # the branch on whose side of the tube the axis lies goes through it
        turns = -np.tan(poles) * d[2] / np.hypot(d[0], d[1])
        turns = np.arccos(turns[np.abs(turns) <= 1])
        through = np.concatenate([phi + turns, phi - turns])
        for s in (1.0, -1.0):

            def on(u: Array, v: Array, s: float = s) -> Flags:
                slope = -(np.cos(u) * d[0] + np.sin(u) * d[1]) / d[2]
                return np.abs(_turned(v - np.arctan(slope) - (np.pi if s < 0 else 0.0))) < np.pi / 2

            yield s, on, True, through if s * big < 0 else np.zeros(0)


def _torus_arc(part: Part, face: Face, curve: Curve3 | float, low: float, high: float, view: Camera) -> Found:
    torus = face.surface
    sense = face.sense * torus.hand
    if not isinstance(curve, Curve3):
        return _spline(
            part,
            *torus_arc(
                torus.origin,
                torus.axes,
                torus.radius,
                torus.minor_radius,
                sense,
                view.toward,
                curve,
                low,
                high,
                FIT / 4 * part.size,
                CHORD * part.size,
            ),
        )

    return _conic(part, face, curve.piece(low, high), view)


def _followed(part: Part, face: Face, turns: _Turns, view: Camera) -> list[Found]:
    """Outlines of a free-form face: points of the mesh chains put on the surface, filled in until a cubic
    through them stays within FIT."""
    mesh, roots = part.mesh, turns.roots
    found: list[Found] = []
    form, degrees, ku, kv, net, frame = packed = packed_surface(face.surface)
    ways = [
        (mesh.uv[chain[:, 0]], mesh.uv[chain[:, 1]], _ends_of(part, chain, roots), np.array_equal(chain[0], chain[-1]))
        for chain in turns.chains
    ]
    ways += [(*arc, False) for arc in _overlooked(part, face, turns, packed, view)]
    for one, other, ends, closed in ways:
        points, way, slopes, normals, convex = followed(
            form, degrees, ku, kv, net, frame, one, other, ends, face.sense, view.toward, FIT * part.size, 3000
        )
        if len(points) < 2 or not way[-1] > 0:
            continue
        if len(roots) and not closed:
            moved = False
            for k in (0, -1):
                gap = np.linalg.norm(roots - points[k], axis=1)
                near = int(np.argmin(gap))
                reach = np.linalg.norm(points[k] - points[1 if k == 0 else -2])
                if 1e-9 * part.size < gap[near] < max(4 * mesh.deflection, 0.75 * reach):
                    points[k] = roots[near]
                    moved = True
            if moved:
                way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
                keep = np.concatenate([[True], np.diff(way) > 1e-9 * part.size])
                points, way, normals, convex = points[keep], way[keep], normals[keep], convex[keep]
                if len(points) < 2:
                    continue
                slopes = spline_slopes(way, points)
        span = points[-1] - points[0]
        length = float(np.linalg.norm(span))
        if length > 0.5 * way[-1]:
            off = points - points[0] - ((points - points[0]) @ span / length**2)[:, None] * span
            if np.linalg.norm(off, axis=1).max() < FIT * part.size:
                wire = straight(points[:1], points[-1:])
                found.append(Found(line(points[0], points[-1]), wire, normals[[0, -1]], convex[[0, -1]]))
                continue
        found.append(_spline(part, way, points, slopes, normals, convex))
    return found


def _ends_of(part: Part, chain: Ints, roots: Array) -> Array:
    """Where a chain begins and ends (2, 3): at roots beside the sides of the mesh that it begins and ends with, or NaN.

    Such a side lies on the boundary and may be long, as along a ruled face, and the root anywhere on it.
    """
    ends = np.full((2, 3), np.nan)
    if not len(roots) or np.array_equal(chain[0], chain[-1]):
        return ends
    taken = -1
    for k in (0, -1):
        a, b = part.mesh.nodes[chain[k]]
        share = np.clip((roots - a) @ (b - a) / max(float((b - a) @ (b - a)), 1e-300), 0, 1)
        gap = np.linalg.norm(roots - a - share[:, None] * (b - a), axis=1)
        near = int(np.argmin(gap))
        if gap[near] < 4 * part.mesh.deflection and near != taken:
            ends[k], taken = roots[near], near
    return ends


def _overlooked(
    part: Part, face: Face, turns: _Turns, packed: tuple[Any, ...], view: Camera
) -> Iterator[tuple[Array, Array, Array]]:
    """Short outlines that leave the boundary and come back over one and the same side of the mesh: parameters (3, 2)
    on both of their sides, at the ends and half way, and the ends (2, 3)."""
    if not len(turns.pair):
        return
    mesh = part.mesh
    form, degrees, ku, kv, net, frame = packed
    opposite = overlooked(
        turns.between,
        turns.span,
        turns.facing,
        mesh.triangles[face.triangles],
        mesh.nodes,
        mesh.normals,
        view.toward,
        4 * mesh.deflection,
    )
    for k in np.nonzero(opposite >= 0)[0].tolist():
        within = mesh.uv[opposite[k]]
        edge = parameters_on(form, degrees, ku, kv, net, frame, within, turns.between[k], FIT * part.size)
        if not np.isnan(edge[0]):
            yield np.array([edge, edge, edge]), np.array([edge, within, edge]), turns.roots[turns.pair[k]]
