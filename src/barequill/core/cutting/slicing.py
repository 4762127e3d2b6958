"""Where walls meet faces: the mesh tells how the pieces hang together, the exact surfaces where they run."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3, line, polyline
from ..geometry.evaluation import packed_surface
from ..geometry.following import chained, followed, lying_in, spline_slopes
from ..geometry.forms import Forms, forms_of, joined_forms, plain_forms
from ..geometry.recognition import recognise_curve
from ..geometry.splines import fitted_spline
from ..geometry.surfaces import Surface
from ..geometry.wires import Wires, joined, straight
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .chains import passed, passed_at, snapped, straight_chains
from .clipping import passings
from .closed_forms import CURVED, FORMS, LEFT, OTHER, STRAIGHT, Faces, both_sides, closed_forms, lines_and_conics
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

    First lines by their ``ends`` (k, 2, 3), then circles and ellipses as ``conic`` (c, 3, 3: centre, x, y) over ``span``
    (c, 2), then curves that are ``fitted``. Of all: ``forms``, ``wires``; by curve its ``face``, ``body`` and ``wall``, and
    whether it is ``meshed``: drawn from the mesh; by row of the wires the face's outward ``normals`` (m, 3).
    """

    ends: Array
    conic: Array
    span: Array
    fitted: list[Curve3]
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
class _Met:
    """Where one wall meets faces: lines, conics, and what had to be fitted."""

    ends: Array
    line_face: Ints
    conic: Array
    span: Array
    conic_face: Ints
    fitted: list[_Piece]


@value
class Figures:
    """What every cut of a part needs: of its edges the faces (n, 2) and body (n,), of its faces the body (f,) and which
    are flat, of the nodes of its mesh the face (m,); and the
    faces as the loops take them."""

    pairs: Ints
    edge_body: Ints
    face_body: Ints
    flat: Flags
    node_face: Ints
    faces: Faces


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
        faces_in_arrays(part),
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
    safe = named(part, cut.whole)
    face_body = figures_of(part).face_body
    met = [
        (row, _along_wall(part, wall, edges, safe, face_body))
        for row, wall in enumerate(cut.walls)
        if wall.shown and cut.group[row] == row
    ]
    found = [(row, m) for row, m in met if m is not None]
    ends = np.concatenate([np.zeros((0, 2, 3)), *(m.ends for _, m in found)])
    conic = np.concatenate([np.zeros((0, 3, 3)), *(m.conic for _, m in found)])
    span = np.concatenate([np.zeros((0, 2)), *(m.span for _, m in found)])
    none = np.zeros(0, np.int64)
    line_face = np.concatenate([none, *(m.line_face for _, m in found)])
    conic_face = np.concatenate([none, *(m.conic_face for _, m in found)])
    start, t, points, cubic, normals = lines_and_conics(
        faces=figures_of(part).faces,
        ends=ends,
        line_face=line_face,
        conic=conic,
        span=span,
        conic_face=conic_face,
        chord=CHORD * part.size,
    )
    wires = Wires(start, t, points, cubic)
    fitted = [p for _, m in found for p in m.fitted]
    face = np.concatenate([line_face, conic_face, np.array([p.face for p in fitted], np.int64)])
    walls = [
        np.array([row for row, m in found for _ in of(m)], np.int64)
        for of in (lambda m: m.ends, lambda m: m.conic, lambda m: m.fitted)
    ]
    return Slices(
        ends=ends,
        conic=conic,
        span=span,
        fitted=[p.curve for p in fitted],
        forms=joined_forms(
            [plain_forms(len(ends), conic, span), *([forms_of([p.curve for p in fitted])] if fitted else [])]
        ),
        wires=joined([wires, *(p.wire for p in fitted)]) if fitted else wires,
        face=face,
        body=face_body[face] if len(face) else none,
        wall=np.concatenate(walls),
        meshed=np.array([False] * (len(ends) + len(conic)) + [p.meshed for p in fitted], bool),
        normals=np.concatenate([normals, *(p.normals for p in fitted)]) if fitted else normals,
    )


def _along_wall(part: Part, wall: Wall, edges: Wires, safe: Flags, face_body: Ints) -> _Met | None:
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
        return None
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
    long = np.abs(both[:, 1] - both[:, 0]).max(axis=1, initial=0.0) > 1e-7 * size
    what, tips, conic, span, turned = closed_forms(
        faces=known.faces,
        points=points,
        ways=ways,
        begin=begin,
        snaps=ends,
        place=place,
        closed=closed,
        chain_face=chain_face,
        normal=normal,
        offset=wall.offset,
        size=size,
        near=NEAR * size,
    )
    curved, drawn = np.nonzero(what == CURVED)[0], np.nonzero(what == STRAIGHT)[0]
    fitted: list[_Piece] = []
    for c in np.nonzero(what == LEFT)[0].tolist():
        p, chain, fixed = (
            points[begin[c] : begin[c + 1]].copy(),
            sides[rows[begin[c] : begin[c + 1]]],
            np.full((2, 3), np.nan),
        )
        for e, j in enumerate(ends[c].tolist()):
            if j >= 0:
                fixed[e] = p[0 if e == 0 else -1] = place[j]
        if turned[c]:
            # with the material at the left
            p, chain, fixed = p[::-1], chain[::-1], fixed[::-1]
        face = int(chain_face[c])
        try:
            if part.faces[face].surface.kind == "facets":
                fitted += _from_mesh(part, face, p)
            else:
                fitted += _fitted(part=part, face=face, wall=wall, p=p, chain=chain, fixed=fixed)
        except Exception:
            log.exception("where a wall meets face %s of %s", part.faces[face].ref, part.name)
            fitted += _from_mesh(part, face, p)
    return _Met(
        ends=np.concatenate([both[long], tips[drawn]]),
        line_face=np.concatenate([chain_face[straights[long]], chain_face[drawn]]),
        conic=conic[curved],
        span=span[curved],
        conic_face=chain_face[curved],
        fitted=fitted,
    )


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


def _turned(s: Surface) -> Surface:
    """A cone or torus as a line or circle turned about its axis, with the same parameters."""
    x, z = s.axes[0], s.axes[2]
    if s.kind == "cone":
        sa, ca = np.sin(s.half_angle), np.cos(s.half_angle)
        profile = Curve3("line", -1e9, 1e9, origin=s.origin + s.radius * x, x=sa * x + ca * z)
    else:
        profile = Curve3("conic", 0.0, TURN, origin=s.origin + s.radius * x, x=s.minor_radius * x, y=s.minor_radius * z)
    return Surface("revolution", s.origin, s.axes, profile=profile)


def _fitted(part: Part, face: int, wall: Wall, p: Array, chain: Ints, fixed: Array) -> Iterator[_Piece]:
    """The curve put exactly on plane and surface, and fitted."""
    own, mesh, size = part.faces[face], part.mesh, part.size
    surface = _turned(own.surface) if own.surface.kind in ("cone", "torus") else own.surface
    one, other = both_sides(
        faces=figures_of(part).faces,
        f=face,
        nodes=mesh.nodes,
        uv=mesh.uv,
        chain=np.ascontiguousarray(chain),
        about=surface.kind == "revolution",
    )
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
        gap, length = max(float(np.linalg.norm(points[k] - p[k])) for k in (0, -1)), _length(p)
        lost = bool(gap > 0.02 * size + 8 * mesh.deflection or abs(way[-1] - length) > 0.2 * length + 0.01 * size)
    if lost:
        yield from _from_mesh(part, face, p)
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
        yield _Piece(line(points[0], points[-1]), face, wire, normals[[0, -1]])
        return
    yield _Piece(curve, face, wire, ways)


def _length(p: Array) -> float:
    return float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum())
