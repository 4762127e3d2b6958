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

from ..geometry.curve_tracing import followed, overlooked, parameters_on, spline_slopes, turning_from
from ..geometry.curves3 import Curve3, line, polyline
from ..geometry.evaluation import Packed, packed_surface
from ..geometry.forms import NO_FORMS, Forms, forms_of, joined_forms
from ..geometry.wires import Array, Ints, Wires, joined, straight
from ..part.model import Face, Part
from ..values import value
from .camera import Camera
from .outline import Found, Turns, spline
from .round_outlines import FIT, round_outlines
from .seen import ROUND, Outlined
from .table import Table
from .turning import Places, places_of

log = logging.getLogger(__name__)
Flags = NDArray[np.bool_]
NONE: Flags = np.zeros(0, bool)
HEM = 5e-5
"""How near, in part sizes, an outline lies to an edge that it is."""


@value
class Outlines:
    """Outlines of a part: ``lines`` as the loops take them, of which the first ``straight`` are rulings; the exact curves
    of the others, and which of them are drawn from the mesh."""

    lines: Outlined
    straight: int
    forms: Forms
    meshed: Flags


def outlines_of(part: Part, table: Table, view: Camera, g: Array, ruled: Outlined, hems: Ints) -> Outlines:
    """All outlines: the ``ruled`` ones, and those of other faces; ``g`` (2, m): the edges' normals toward the viewer; ``hems``:
    the edges, by row, along which two patches of a face turn away: what of their outlines lies there is that edge again."""
    places = places_of(part, table, view, g) if table.turning.any() else None
    if places is None:
        return Outlines(ruled, len(ruled.face), NO_FORMS, NONE)
    form = table.ledger.form[places.faces]
    there = places.from_triangle[:, 1] > places.from_triangle[:, 0]
    sets, left = _round(part, table, view, g, places, np.nonzero((form == ROUND) & there)[0])
    rest = np.sort(np.concatenate([np.nonzero(form != ROUND)[0], left]))
    own = [(int(places.faces[k]), one) for k in rest.tolist() for one in _outlines_of_face(part, places, k, view)]
    if len(hems):
        along = _segments(table.wires, hems)
        own = [(f, one) for f, one in own if not _lies_on(one.wire.points, *along, HEM * part.size)]
    if own:
        sets.append(_as_set(own))
    if not sets:
        return Outlines(ruled, len(ruled.face), NO_FORMS, NONE)
    lines = [ruled, *(one.lines for one in sets)]
    return Outlines(
        _joined(lines), len(ruled.face), joined_forms([o.forms for o in sets]), np.concatenate([o.meshed for o in sets])
    )


def _segments(wires: Wires, rows: Ints) -> tuple[Array, Array]:
    """Both ends (n, 3) of all pieces of some wires."""
    begin = np.concatenate([wires.points[wires.start[e] : wires.start[e + 1] - 1] for e in rows.tolist()])
    end = np.concatenate([wires.points[wires.start[e] + 1 : wires.start[e + 1]] for e in rows.tolist()])
    return begin, end


def _lies_on(points: Array, begin: Array, end: Array, near: float) -> bool:
    """Whether points (m, 3) all lie within ``near`` mm of lines between points (n, 3)."""
    way = end - begin
    square = np.maximum(np.einsum("ij,ij->i", way, way), 1e-300)
    for p in np.array_split(points, max(1, len(points) // 200)):
        share = np.clip(np.einsum("mnj,nj->mn", p[:, None] - begin, way) / square, 0.0, 1.0)
        if np.linalg.norm(p[:, None] - begin - share[..., None] * way, axis=2).min(axis=1).max() > near:
            return False
    return True


def _joined(sets: list[Outlined]) -> Outlined:
    wires = joined([Wires(o.start, o.t, o.points, o.cubic) for o in sets])
    return Outlined(
        start=wires.start,
        t=wires.t,
        points=wires.points,
        cubic=wires.cubic,
        outward=np.concatenate([o.outward for o in sets]),
        free=np.concatenate([o.free for o in sets]),
        face=np.concatenate([o.face for o in sets]),
        bent=np.concatenate([o.bent for o in sets]),
    )


def _as_set(found: list[tuple[int, Found]]) -> Outlines:
    """Outlines of faces, each with its row."""
    own = [one for _, one in found]
    wires = joined([one.wire for one in own])
    outward, free = np.concatenate([one.outward for one in own]), np.concatenate([one.free for one in own])
    lines = as_outlined(wires, outward, free, np.array([row for row, _ in found], np.int64), [one.curve for one in own])
    return Outlines(lines, 0, forms_of([one.curve for one in own]), np.array([one.meshed for one in own], bool))


def as_outlined(wires: Wires, outward: Array, free: Flags, face: Ints, curves: list[Curve3]) -> Outlined:
    """Wires of m rows along n curves as outlines: by row outward normals (m, 3) and whether the face leaves them free (m,), and by
    outline the ``face`` (n,)."""
    return Outlined(
        start=wires.start,
        t=wires.t,
        points=wires.points,
        cubic=wires.cubic,
        outward=outward,
        free=free,
        face=face,
        bent=np.array([c.kind != "line" for c in curves], bool),
    )


def with_more(one: Outlines, more: Outlines | None) -> Outlines:
    """Outlines, and more of them that are no rulings."""
    if more is None:
        return one
    return Outlines(
        _joined([one.lines, more.lines]),
        one.straight,
        joined_forms([one.forms, more.forms]),
        np.concatenate([one.meshed, more.meshed]),
    )


def _round(part: Part, table: Table, view: Camera, g: Array, places: Places, rows: Ints) -> tuple[list[Outlines], Ints]:
    """The outlines of spheres and tori by their rows among the places, and the rows that are left for the mesh: one face
    never costs a view."""
    if not len(rows):
        return [], rows
    try:
        lines, forms = round_outlines(
            rounds=table.rounds,
            turning=places.at(rows),
            g=g,
            start=table.wires.start,
            points=table.wires.points,
            eye=view.eye,
            size=part.size,
        )
        if not np.isfinite(lines.points).all():
            raise ArithmeticError("an outline has no place at some parameter")
    except Exception:
        if len(rows) == 1:
            log.exception("outlines of face %s, seen from %s", part.faces[places.faces[rows[0]]].ref, view.toward)
            return [], rows
        each = [_round(part, table, view, g, places, rows[k : k + 1]) for k in range(len(rows))]
        return [one for sets, _ in each for one in sets], np.concatenate([left for _, left in each])
    n = len(lines.face)
    return ([Outlines(lines, 0, forms, np.zeros(n, bool))] if n else []), rows[:0]


def _outlines_of_face(part: Part, places: Places, row: int, view: Camera) -> list[Found]:
    """The outlines of a face by its row among the places, from its mesh where they cannot be had exactly."""
    face, turns = part.faces[int(places.faces[row])], places.turns(row)
    try:
        if face.surface.kind not in ("facets", "sphere", "torus"):
            found = _followed(part, face, turns, view)
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
