"""Where walls meet faces: the mesh tells how the pieces hang together, the exact surfaces where they run."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3, line, polyline
from ..geometry.evaluation import packed_surface
from ..geometry.following import chained, followed, lying_in, spline_slopes
from ..geometry.plane_sections import plane_section
from ..geometry.recognition import conic_parameters, recognise_curve
from ..geometry.splines import fitted_spline
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..geometry.wires import Wires, from_curves, joined, straight
from ..part.chosen import named
from ..part.model import Face, Part
from ..values import value
from .chains import passed, passed_at, snapped, straight_chains
from .clipping import passings
from .limits import HAIR, Array, Cut, Ints, Wall

log = logging.getLogger(__name__)
Flags = NDArray[np.bool_]
TURN = 2 * np.pi
FIT = 2e-7
"""How far a fitted curve may stray, in part sizes."""
CHORD = 2e-5
NEAR = 1e-6
"""In part sizes: what lies so near to a curve of closed form lies on it."""


@value
class Slices:
    """Curves (n) in which walls meet faces, with the material at their left as one looks against the wall's normal.

    ``curves`` (None for a line along its wire), ``wires``; by curve its ``face``, ``body`` and ``wall``, and whether it
    is ``meshed``: drawn from the mesh; by row of the wires the face's outward ``normals`` (m, 3).
    """

    curves: list[Curve3 | None]
    wires: Wires
    face: Ints
    body: Ints
    wall: Ints
    meshed: Flags
    normals: Array


@value
class _Piece:
    curve: Curve3
    face: int
    wall: int
    meshed: bool = False
    wire: Wires | None = None
    normals: Array | None = None


@value
class Figures:
    """What every cut of a part needs: of its edges the faces (n, 2) and body (n,), of its faces the body (f,) and which
    are flat, of the nodes of its mesh the face (m,)."""

    pairs: Ints
    edge_body: Ints
    face_body: Ints
    flat: Flags
    node_face: Ints


@lru_cache(maxsize=8)
def figures_of(part: Part) -> Figures:
    """These figures, kept for the parts last used."""
    node_face = np.empty(len(part.mesh.nodes), np.int64)
    for k, f in enumerate(part.faces):
        node_face[f.nodes] = k
    return Figures(
        np.array([(e.faces[0], e.faces[-1]) for e in part.edges], np.int64).reshape(-1, 2),
        np.array([e.body for e in part.edges], np.int64),
        np.array([f.body for f in part.faces], np.int64),
        np.array([f.surface.kind == "plane" for f in part.faces], bool),
        node_face,
    )


@lru_cache(maxsize=8)
def slices_of(part: Part, cut: Cut, edges: Wires) -> Slices:
    """Where the walls of a cut that are shown meet the faces of a part; ``edges``: its edges as wires."""
    safe = named(part, cut.whole)
    face_body = figures_of(part).face_body
    straights: list[tuple[Array, Array, int, int]] = []
    pieces: list[_Piece] = []
    for row, wall in enumerate(cut.walls):
        if wall.shown and cut.group[row] == row:
            for found in _along_wall(part, wall, row, edges, safe, face_body):
                if isinstance(found, _Piece):
                    pieces.append(found)
                else:
                    straights.append(found)
    return _laid_out(part, straights, pieces, face_body)


def _laid_out(
    part: Part, straights: list[tuple[Array, Array, int, int]], pieces: list[_Piece], face_body: Ints
) -> Slices:
    """All curves in one set of arrays: lines first."""
    sets: list[Wires] = []
    normals: list[Array] = [np.zeros((0, 3))]
    if straights:
        a, b = np.array([s[0] for s in straights]), np.array([s[1] for s in straights])
        sets.append(straight(a, b))
        both = np.stack([a, b], axis=1)
        known: dict[int, Array] = {}
        for k, (_, _, row, _) in enumerate(straights):
            if row not in known and part.faces[row].surface.kind == "plane":
                known[row] = np.repeat(_normals(part.faces[row], both[k][:1]), 2, axis=0)
            normals.append(known[row] if row in known else _normals(part.faces[row], both[k]))
    plain = [p for p in pieces if p.wire is None]
    if plain:
        t = [p.curve.parameters(CHORD * part.size) for p in plain]
        wires = from_curves([p.curve for p in plain], t)
        sets.append(wires)
        for k, p in enumerate(plain):
            normals.append(_normals(part.faces[p.face], wires.points[wires.start[k] : wires.start[k + 1]]))
    fitted = [p for p in pieces if p.wire is not None]
    for p in fitted:
        assert p.wire is not None and p.normals is not None
        sets.append(p.wire)
        normals.append(p.normals)
    ordered = plain + fitted
    face = np.array([s[2] for s in straights] + [p.face for p in ordered], np.int64)
    return Slices(
        curves=[None] * len(straights) + [p.curve for p in ordered],
        wires=joined(sets),
        face=face,
        body=face_body[face] if len(face) else np.zeros(0, np.int64),
        wall=np.array([s[3] for s in straights] + [p.wall for p in ordered], np.int64),
        meshed=np.array([False] * len(straights) + [p.meshed for p in ordered], bool),
        normals=np.concatenate(normals),
    )


def _normals(face: Face, points: Array) -> Array:
    """Outward normals (m, 3) of an elementary face at points on it."""
    return face.sense * face.surface.normals_at(points)


def _along_wall(
    part: Part, wall: Wall, row: int, edges: Wires, safe: Flags, face_body: Ints
) -> Iterator[_Piece | tuple[Array, Array, int, int]]:
    mesh, size = part.mesh, part.size
    normal = np.array(wall.normal)
    wanted = ~safe[face_body] if len(face_body) else np.zeros(0, bool)
    mixed, height, over = passed(
        nodes=mesh.nodes,
        triangles=mesh.triangles,
        wanted=wanted,
        face_of=mesh.face_of,
        normal=normal,
        offset=wall.offset,
        hair=HAIR * size,
    )
    if not len(mixed):
        return
    sides, begin, closed = chained(mesh.triangles[mixed], over)
    known = figures_of(part)
    chain_face = known.node_face[sides[begin[:-1], 0]]
    begin, points, ways, rows = passed_at(sides, begin, mesh.nodes, mesh.normals, height, 1e-9 * size)
    pairs, flat = known.pairs, known.flat
    touched = np.zeros(len(part.faces), bool)
    touched[chain_face] = True
    bordering = touched[pairs].any(axis=1) if len(pairs) else np.zeros(0, bool)
    wire, place = passings(
        start=edges.start,
        t=edges.t,
        points=edges.points,
        cubic=edges.cubic,
        wanted=bordering,
        normal=normal,
        offset=wall.offset,
        hair=10 * HAIR * size,
    )
    reach = 4 * np.maximum(mesh.strays[chain_face], mesh.deflection) + 1e-5 * size
    ends = snapped(
        points=points, begin=begin, closed=closed, chain_face=chain_face, place=place, pair=pairs[wire], reach=reach
    )
    straights, both = straight_chains(
        points=points,
        ways=ways,
        begin=begin,
        snaps=ends,
        place=place,
        flat=flat,
        chain_face=chain_face,
        normal=normal,
        offset=wall.offset,
    )
    for c, (a, b) in zip(straights.tolist(), both, strict=True):
        if float(np.abs(b - a).max()) > 1e-7 * size:
            yield a, b, int(chain_face[c]), row
    for c in np.nonzero(~flat[chain_face])[0].tolist():
        face = int(chain_face[c])
        own = slice(begin[c], begin[c + 1])
        p = points[own]
        if len(p) < 2:
            continue
        p = p.copy()
        fixed = np.full((2, 3), np.nan)
        for e, j in enumerate(ends[c].tolist()):
            if j >= 0:
                fixed[e] = p[0 if e == 0 else -1] = place[j]
        # with the material at the left
        step = np.diff(p, axis=0)
        outward = ways[own]
        side = float((cross(step, (outward[1:] + outward[:-1]) / 2) @ normal).sum())
        chain = sides[rows[own]]
        if side > 0:
            p, chain, fixed = p[::-1], chain[::-1], fixed[::-1]
        loop = bool(closed[c]) or (float(np.linalg.norm(p[-1] - p[0])) < 1e-9 * size and len(p) > 3)
        try:
            yield from _exact(part=part, face=face, wall=wall, row=row, p=p, chain=chain, fixed=fixed, loop=loop)
        except Exception:
            log.exception("where a wall meets face %s of %s", part.faces[face].ref, part.name)
            yield from _from_mesh(part, face, row, p)


def _from_mesh(part: Part, face: int, row: int, p: Array) -> Iterator[_Piece]:
    """The curve as the mesh has it."""
    apart = np.concatenate([[True], np.linalg.norm(np.diff(p, axis=0), axis=1) > 1e-7 * part.size])
    p = p[apart]
    if len(p) < 2:
        return
    curve = polyline(p)
    assert curve.knots is not None
    cubic = np.zeros((3, len(p), 3))
    cubic[0, :-1] = np.diff(p, axis=0)
    wire = Wires(np.array([0, len(p)]), curve.knots[1:-1], p, cubic)
    own = part.faces[face]
    tree = np.argmin(((part.mesh.nodes[own.nodes][None] - p[:, None]) ** 2).sum(axis=2), axis=1)
    yield _Piece(curve, face, row, True, wire, part.mesh.normals[own.nodes][tree])


def _exact(
    part: Part, face: int, wall: Wall, row: int, p: Array, chain: Ints, fixed: Array, loop: bool
) -> Iterator[_Piece | tuple[Array, Array, int, int]]:
    surface, size = part.faces[face].surface, part.size
    if not loop and np.linalg.norm(p[-1] - p[0]) < 1e-7 * size and np.ptp(p, axis=0).max() < 1e-6 * size:
        return
    if surface.kind == "facets":
        yield from _from_mesh(part, face, row, p)
        return
    known = plane_section(surface, np.array(wall.normal), wall.offset, p, NEAR * size)
    if known is not None:
        if known.kind == "line":
            yield p[0], p[-1], face, row
        else:
            yield _Piece(_ranged(known, p, loop), face, row)
        return
    yield from _fitted(part=part, face=face, wall=wall, row=row, p=p, chain=chain, fixed=fixed)


def _ranged(conic: Curve3, p: Array, loop: bool) -> Curve3:
    """An ellipse run through as the points (m, 3) on it are."""
    assert conic.y is not None
    angle = conic_parameters(conic, p)
    if angle[-1] < angle[0]:
        conic, angle = replace(conic, y=-conic.y), -angle
    start = float(angle[0])
    return replace(conic, t0=start, t1=start + TURN if loop else float(angle[-1]))


def _turned(s: Surface) -> Surface:
    """A cone or torus as a line or circle turned about its axis, with the same parameters."""
    x, z = s.axes[0], s.axes[2]
    if s.kind == "cone":
        sa, ca = np.sin(s.half_angle), np.cos(s.half_angle)
        profile = Curve3("line", -1e9, 1e9, origin=s.origin + s.radius * x, x=sa * x + ca * z)
    else:
        profile = Curve3("conic", 0.0, TURN, origin=s.origin + s.radius * x, x=s.minor_radius * x, y=s.minor_radius * z)
    return Surface("revolution", s.origin, s.axes, profile=profile)


def _fitted(
    part: Part, face: int, wall: Wall, row: int, p: Array, chain: Ints, fixed: Array
) -> Iterator[_Piece | tuple[Array, Array, int, int]]:
    """The curve put exactly on plane and surface, and fitted."""
    own, mesh, size = part.faces[face], part.mesh, part.size
    surface = _turned(own.surface) if own.surface.kind in ("cone", "torus") else own.surface
    one, other = _parameters(surface, own, mesh, chain)
    aim = lying_in(np.array(wall.normal), wall.offset, size)
    points, way, slopes, normals, _ = followed(
        surface=packed_surface(surface),
        uva=one,
        uvb=other,
        ends=fixed,
        sense=own.sense,
        aim=aim,
        fit=FIT * size,
        most=3000,
    )
    lost = len(points) < 2 or not bool(way[-1] > 0) or not bool(np.isfinite(points).all())
    if not lost:
        # what was followed must lie where the mesh does
        gap = max(float(np.linalg.norm(points[k] - p[k])) for k in (0, -1))
        lost = bool(
            gap > 0.02 * size + 8 * mesh.deflection or abs(way[-1] - _length(p)) > 0.2 * _length(p) + 0.01 * size
        )
    if lost:
        yield from _from_mesh(part, face, row, p)
        return
    moved = False
    for k in (0, -1):
        if not np.isnan(fixed[k][0]) and 1e-10 * size < np.linalg.norm(points[k] - fixed[k]):
            points[k] = fixed[k]
            moved = True
    if moved:
        way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
        keep = np.concatenate([[True], np.diff(way) > 1e-9 * size])
        points, way, normals = points[keep], way[keep], normals[keep]
        if len(points) < 2:
            return
        slopes = spline_slopes(way, points)
    curve, wire, ways, _ = fitted_spline(way, points, slopes, normals, np.ones(len(way), bool), CHORD * size)
    known = recognise_curve(curve, FIT * size / 2)
    if known is not None and known.kind == "line":
        wire = straight(points[:1], points[-1:])
        yield _Piece(line(points[0], points[-1]), face, row, False, wire, normals[[0, -1]])
        return
    yield _Piece(curve, face, row, False, wire, ways)


def _length(p: Array) -> float:
    return float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum())


def _parameters(surface: Surface, face: Face, mesh: Any, chain: Ints) -> tuple[Array, Array]:
    """The parameters (k, 2) on both sides of a chain; near together also where the surface closes."""
    own = face.surface
    if own.kind in ("cone", "torus"):
        # the mesh has the parameters that the file gives the surface, which may be others
        one, other = (_turned_to(own, mesh.nodes[chain[:, k]]) for k in (0, 1))
        turns = [0] if own.kind == "cone" else [0, 1]
    else:
        one, other = mesh.uv[chain[:, 0]].copy(), mesh.uv[chain[:, 1]].copy()
        turns = [0] if surface.kind == "revolution" else []
    for k in turns:
        drift = np.round(np.diff(one[:, k], prepend=one[0, k]) / TURN).cumsum() * TURN
        one[:, k] -= drift
        other[:, k] -= TURN * np.round((other[:, k] - one[:, k]) / TURN)
    return np.ascontiguousarray(one), np.ascontiguousarray(other)


def _turned_to(s: Surface, points: Array) -> Array:
    """The parameters (m, 2) of points on a cone or torus."""
    x, y, z = s.axes
    q = points - s.origin
    rise = q @ z
    u = np.arctan2(q @ y, q @ x)
    if s.kind == "cone":
        return np.c_[u, rise / np.cos(s.half_angle)]
    return np.c_[u, np.arctan2(rise, np.hypot(q @ x, q @ y) - s.radius)]
