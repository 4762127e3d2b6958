"""Outlines: where a curved face turns away from the viewer (its apparent contour).

Along an outline the face's normal is square to the direction of view. Cylinders and cones give straight
rulings between exact points of the face's boundary, spheres arcs of a great circle, tori circles or the
exact curve tan v = -(cos u · dx + sin u · dy) / dz in their own frame; all other faces a curve followed
over the mesh, put exactly on the surface, and fitted.
"""

from __future__ import annotations

import logging
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3, line, polyline
from ..geometry.evaluation import Packed, packed_surface
from ..geometry.following import (
    chains_of,
    followed,
    overlooked,
    parameters_on,
    spline_slopes,
    turning_from,
)
from ..geometry.wires import Array, Ints, Wires, joined, straight
from ..part.model import Face, Part
from ..values import value
from .camera import Camera
from .edges import mixed_triangles, ruled_roots, rulings
from .outline import FIT, Found, Turns, spline
from .round_outlines import around_torus, great_circle
from .table import Table

log = logging.getLogger(__name__)
Flags = NDArray[np.bool_]


@value
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
    lines, normals, ruled = _rulings(part, table, view, g)
    found = [
        (row, one)
        for row, turns in _turning_faces(part, table, view, g)
        for one in _outlines_of_face(part, row, turns, view)
    ]
    sets = [lines] if len(ruled) else []
    sets += [one.wire for _, one in found]
    wires = joined(sets) if sets else lines
    face = np.concatenate([ruled, np.array([row for row, _ in found], np.int64)])
    outward = np.concatenate([normals, *(one.outward for _, one in found)])
    free = np.concatenate([np.repeat(table.sense[ruled] > 0, 2), *(one.free for _, one in found)])
    # a sheet does not hide its own outline; where it bends toward the viewer, free space lies on its other side
    sheet = np.array([not part.bodies[part.faces[f].body].solid for f in face], bool)[wires.owner]
    outward[sheet & ~free] *= -1.0
    curves = [None] * len(ruled) + [one.curve for _, one in found]
    meshed = np.array([False] * len(ruled) + [one.meshed for _, one in found], bool)
    return Outlines(wires, curves, face, meshed, outward, free | sheet)


def _outlines_of_face(part: Part, row: int, turns: Turns, view: Camera) -> list[Found]:
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


def _from_mesh(part: Part, turns: Turns, view: Camera) -> list[Found]:
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


def _exact_outlines(part: Part, face: Face, turns: Turns, view: Camera) -> list[Found]:
    kind = face.surface.kind
    if kind not in ("sphere", "torus"):
        return _followed(part, face, turns, view)
    if not turns.chains:
        return []
    roots = np.concatenate([turns.roots, *_ends_on_outline(part, face, view)])
    return (great_circle if kind == "sphere" else around_torus)(part, face, turns.chains, roots, view)


def _ends_on_outline(part: Part, face: Face, view: Camera) -> Iterator[Array]:
    """Ends (2, 3) of those of a face's edges that lie on its outline all along, as seams may: it goes on there."""
    for row in face.boundary:
        edge = part.edges[row]
        if np.abs(edge.normals[0] @ view.toward).max() < 1e-7:
            yield edge.points[[0, -1]]


def _rulings(part: Part, table: Table, view: Camera, g: Array) -> tuple[Wires, Array, Ints]:
    """Straight outlines of cylinders and cones: n lines, outward normals (2n, 3) by their rows, and the face of each."""
    w, r = table.wires, table.ruled
    figures = table.origin, table.axis, table.radius, table.sine, table.cosine, table.sense
    roots, along, group = ruled_roots(r.row, r.side, r.face, g, w.points, w.cubic, *figures, view.toward)
    t, points, cubic, outward, face = rulings(roots, along, group, table.apex, *figures, 1e-7 * part.size)
    return Wires(2 * np.arange(len(face) + 1), t, points, cubic), outward, face


def _turning_faces(part: Part, table: Table, view: Camera, g: Array) -> Iterator[tuple[int, Turns]]:
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
    # what belongs to a face stands together
    order = np.argsort(o.face[turns], kind="stable")
    meets, pairs = o.face[turns][order], np.argsort(o.face[turns][first], kind="stable")
    paired, place = o.face[turns][first][pairs], np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    faces = mesh.face_of[mixed]
    by_face = np.argsort(faces, kind="stable")
    mixed, faces = mixed[by_face], faces[by_face]
    names = np.union1d(faces, meets)
    own, at, tri = (
        np.searchsorted(rows, np.append(names, len(part.faces))).tolist() for rows in (meets, paired, faces)
    )
    for k, face in enumerate(names.tolist()):
        rows, two = order[own[k] : own[k + 1]], pairs[at[k] : at[k + 1]]
        pair = place[np.stack([first[two], first[two] + 1], axis=1)] - own[k]
        chains = chains_of(mesh.triangles[mixed[tri[k] : tri[k + 1]]], facing) if tri[k] < tri[k + 1] else []
        yield face, Turns(chains, roots[rows], between[two], span[two], seen[two], pair)


def _followed(part: Part, face: Face, turns: Turns, view: Camera) -> list[Found]:
    """Outlines of a free-form face: points of the mesh chains put on the surface, filled in until a cubic
    through them stays within FIT."""
    mesh, roots, aim = part.mesh, turns.roots, turning_from(view.toward)
    found: list[Found] = []
    packed = packed_surface(face.surface)
    ways = [
        (mesh.uv[chain[:, 0]], mesh.uv[chain[:, 1]], _ends_of(part, chain, roots), np.array_equal(chain[0], chain[-1]))
        for chain in turns.chains
    ]
    ways += [(*arc, False) for arc in _overlooked(part, face, turns, packed, view)]
    for one, other, ends, closed in ways:
        points, way, slopes, normals, convex = followed(
            surface=packed, uva=one, uvb=other, ends=ends, sense=face.sense, aim=aim, fit=FIT * part.size, most=3000
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
        found.append(spline(part, way, points, slopes, normals, convex))
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
    part: Part, face: Face, turns: Turns, packed: Packed, view: Camera
) -> Iterator[tuple[Array, Array, Array]]:
    """Short outlines that leave the boundary and come back over one and the same side of the mesh: parameters (3, 2)
    on both of their sides, at the ends and half way, and the ends (2, 3)."""
    if not len(turns.pair):
        return
    mesh = part.mesh
    opposite = overlooked(
        middle=turns.between,
        span=turns.span,
        facing=turns.facing,
        triangles=mesh.triangles[face.triangles],
        nodes=mesh.nodes,
        normals=mesh.normals,
        toward=view.toward,
        near=4 * mesh.deflection,
    )
    for k in np.nonzero(opposite >= 0)[0].tolist():
        within = mesh.uv[opposite[k]]
        edge = parameters_on(packed, within, turns.between[k], FIT * part.size)
        if not np.isnan(edge[0]):
            yield np.array([edge, edge, edge]), np.array([edge, within, edge]), turns.roots[turns.pair[k]]
