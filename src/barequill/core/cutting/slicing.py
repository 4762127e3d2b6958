"""Where walls meet faces: the mesh tells how the pieces hang together, the exact surfaces where they run."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3, line, polyline
from ..geometry.evaluation import Packed, packed_surface
from ..geometry.following import lying_in
from ..geometry.forms import Forms, closed_curves, forms_of
from ..geometry.surfaces import Surface
from ..geometry.wires import Wires, joined, straight
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .closed_forms import FORMS, OTHER, Faces, lines_and_conics
from .fitting import LINE, LOST, SHORT, fitted_along
from .limits import HAIR, Array, Cut, Ints, Wall
from .meeting import Met, wall_meets

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

    First lines by their ``ends`` (k, 2, 3), then circles and ellipses as ``conic`` (c, 3, 3: centre, x, y) over ``span``
    (c, 2), then curves that had to be fitted. Of all: ``forms``, ``wires``; by curve its ``face``, ``body`` and ``wall``, and
    whether it is ``meshed``: drawn from the mesh; by row of the wires the face's outward ``normals`` (m, 3).
    """

    ends: Array
    conic: Array
    span: Array
    forms: Forms
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
    wire: Wires
    normals: Array
    meshed: bool = False


@value
class Figures:
    """What every cut of a part needs: of its edges the faces (n, 2) and body (n,), of its faces the body (f,) and which
    are flat, of the nodes of its mesh the face (m,); the faces as the loops take them, and so the mesh: nodes, normals,
    triangles and the face of each; and which bodies (b,) are solid."""

    pairs: Ints
    edge_body: Ints
    face_body: Ints
    flat: Flags
    node_face: Ints
    faces: Faces
    mesh: tuple[Array, Array, Ints, Ints]
    solid: Flags


@lru_cache(maxsize=8)
def figures_of(part: Part) -> Figures:
    """These figures, kept for the parts last used."""
    node_face = np.empty(len(part.mesh.nodes), np.int64)
    for k, f in enumerate(part.faces):
        node_face[f.nodes] = k
    mesh = part.mesh
    return Figures(
        pairs=np.array([(e.faces[0], e.faces[-1]) for e in part.edges], np.int64).reshape(-1, 2),
        edge_body=np.array([e.body for e in part.edges], np.int64),
        face_body=np.array([f.body for f in part.faces], np.int64),
        flat=np.array([f.surface.kind == "plane" for f in part.faces], bool),
        node_face=node_face,
        faces=faces_in_arrays(part),
        mesh=(
            np.ascontiguousarray(mesh.nodes, float),
            np.ascontiguousarray(mesh.normals, float),
            np.ascontiguousarray(mesh.triangles, np.int64),
            np.ascontiguousarray(mesh.face_of, np.int64),
        ),
        solid=np.array([b.solid for b in part.bodies], bool),
    )


@lru_cache(maxsize=8)
def faces_in_arrays(part: Part) -> Faces:
    """The faces of a part as loops take them, kept for the parts last used."""
    faces = part.faces
    surfaces = [f.surface for f in faces]
    return Faces(
        form=np.array([FORMS.index(s.kind) if s.elementary else OTHER for s in surfaces], np.int64),
        origin=np.array([s.origin for s in surfaces], float).reshape(-1, 3),
        axes=np.array([s.axes for s in surfaces], float).reshape(-1, 3, 3),
        radius=np.array([s.radius for s in surfaces], float),
        minor=np.array([s.minor_radius for s in surfaces], float),
        half=np.array([s.half_angle for s in surfaces], float),
        sense=np.array([f.sense * f.surface.hand for f in faces], float),
    )


@lru_cache(maxsize=8)
def slices_of(part: Part, cut: Cut, edges: Wires) -> Slices:
    """Where the walls of a cut that are shown meet the faces of a part; ``edges``: its edges as wires."""
    known, size = figures_of(part), part.size
    walls = [row for row, wall in enumerate(cut.walls) if wall.shown and cut.group[row] == row]
    met = [
        wall_meets(
            mesh=known.mesh,
            strays=part.mesh.strays,
            deflection=part.mesh.deflection,
            safe=named(part, cut.whole),
            node_face=known.node_face,
            face_body=known.face_body,
            flat=known.flat,
            pairs=known.pairs,
            faces=known.faces,
            wires=(edges.start, edges.t, edges.points, edges.cubic),
            normal=cut.normals[row],
            offset=cut.offsets[row],
            hair=HAIR * size,
            size=size,
            near=NEAR * size,
        )
        for row in walls
    ]
    one = met[0] if len(met) == 1 else _together(met)
    face, kind, reach, own, start, t, points, cubic, normals = lines_and_conics(
        faces=known.faces,
        ends=one.ends,
        line_face=one.line_face,
        conic=one.conic,
        span=one.span,
        conic_face=one.conic_face,
        chord=CHORD * size,
    )
    if len(walls) == 1:
        wall = np.full(len(face), walls[0])
    else:
        rows = np.array(walls, np.int64)
        wall = np.concatenate(
            [np.repeat(rows, [len(m.ends) for m in met]), np.repeat(rows, [len(m.conic) for m in met])]
        )
    wires, forms, meshed = Wires(start, t, points, cubic), closed_curves(kind, reach, own), np.zeros(len(face), bool)
    pieces: list[_Piece] = []
    if any(len(m.left) for m in met):
        fitted = [(row, piece) for row, m in zip(walls, met, strict=True) for piece in _left(part, cut, row, m)]
        pieces = [p for _, p in fitted]
    if pieces:
        forms = forms_of([p.curve for p in pieces], after=forms)
        wires = joined([wires, *(p.wire for p in pieces)])
        face = np.concatenate([face, np.array([p.face for p in pieces], np.int64)])
        wall = np.concatenate([wall, np.array([row for row, _ in fitted], np.int64)])
        meshed = np.concatenate([meshed, np.array([p.meshed for p in pieces], bool)])
        normals = np.concatenate([normals, *(p.normals for p in pieces)])
    return Slices(
        ends=one.ends,
        conic=one.conic,
        span=one.span,
        forms=forms,
        wires=wires,
        face=face,
        body=known.face_body[face],
        wall=wall,
        meshed=meshed,
        normals=normals,
    )


def _together(met: list[Met]) -> Met:
    """Lines and conics of several walls in one."""
    none = np.zeros((0, 3))
    return Met(
        ends=np.concatenate([np.zeros((0, 2, 3)), *(m.ends for m in met)]),
        line_face=np.concatenate([np.zeros(0, np.int64), *(m.line_face for m in met)]),
        conic=np.concatenate([np.zeros((0, 3, 3)), *(m.conic for m in met)]),
        span=np.concatenate([np.zeros((0, 2)), *(m.span for m in met)]),
        conic_face=np.concatenate([np.zeros(0, np.int64), *(m.conic_face for m in met)]),
        left=np.zeros(0, np.int64),
        begin=np.zeros(1, np.int64),
        points=none,
        sides=np.zeros((0, 2), np.int64),
        fixed=np.zeros((0, 2, 3)),
    )


def _left(part: Part, cut: Cut, row: int, met: Met) -> Iterator[_Piece]:
    """What of a wall's curves has to be fitted."""
    for k, face in enumerate(met.left.tolist()):
        a, b = met.begin[k], met.begin[k + 1]
        p = met.points[a:b]
        try:
            if part.faces[face].surface.kind == "facets":
                yield from _from_mesh(part, face, p)
            else:
                chain, fixed = met.sides[a:b], met.fixed[k]
                yield from _fitted(part=part, face=face, wall=cut.walls[row], p=p, chain=chain, fixed=fixed)
        except Exception:
            log.exception("where a wall meets face %s of %s", part.faces[face].ref, part.name)
            yield from _from_mesh(part, face, p)


def _from_mesh(part: Part, face: int, p: Array) -> Iterator[_Piece]:
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
    yield _Piece(curve, face, wire, part.mesh.normals[own.nodes][tree], True)


@lru_cache(maxsize=256)
def _packed(surface: Surface) -> tuple[Packed, bool]:
    """A surface as the loops take it, a cone or torus as a line or circle turned about its axis, with the same parameters;
    and whether something is turned about an axis."""
    if surface.kind in ("cone", "torus"):
        x, z = surface.axes[0], surface.axes[2]
        if surface.kind == "cone":
            sa, ca = np.sin(surface.half_angle), np.cos(surface.half_angle)
            profile = Curve3("line", -1e9, 1e9, origin=surface.origin + surface.radius * x, x=sa * x + ca * z)
        else:
            profile = Curve3(
                "conic",
                0.0,
                TURN,
                origin=surface.origin + surface.radius * x,
                x=surface.minor_radius * x,
                y=surface.minor_radius * z,
            )
        surface = Surface("revolution", surface.origin, surface.axes, profile=profile)
    return packed_surface(surface), surface.kind == "revolution"


def _fitted(part: Part, face: int, wall: Wall, p: Array, chain: Ints, fixed: Array) -> list[_Piece]:
    """The curve put exactly on plane and surface, and fitted."""
    mesh, size = part.mesh, part.size
    surface, about = _packed(part.faces[face].surface)
    state, points, poles, knots, rows, along, cubic, outward = fitted_along(
        surface=surface,
        faces=figures_of(part).faces,
        face=face,
        nodes=mesh.nodes,
        uv=mesh.uv,
        chain=chain,
        about=about,
        p=p,
        fixed=fixed,
        aim=lying_in(np.array(wall.normal), wall.offset, size),
        fit=FIT * size,
        chord=CHORD * size,
        size=size,
        deflection=mesh.deflection,
    )
    if state == LOST:
        return list(_from_mesh(part, face, p))
    if state == SHORT:
        return []
    if state == LINE:
        wire = straight(points[:1], points[-1:])
        return [_Piece(line(points[0], points[-1]), face, wire, outward)]
    curve = Curve3("nurbs", float(knots[0]), float(knots[-1]), degree=3, knots=knots, poles=poles)
    return [_Piece(curve, face, Wires(np.array([0, len(rows)]), rows, along, cubic), outward)]
