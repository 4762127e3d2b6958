"""Where cutting planes meet faces: the mesh tells how the pieces hang together, the exact surfaces where they run."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..geometry.curves3 import Curve3, polyline
from ..geometry.evaluation import Packed, Surfaces, packed_surface, together
from ..geometry.forms import forms_of, joined_forms
from ..geometry.held import hold, let_go
from ..geometry.surfaces import Surface
from ..geometry.wires import Wires, joined
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .closed_forms import FORMS, OTHER, Faces
from .fitting import Sliced, opened_by, sliced
from .limits import HAIR, Array, Cut, Ints

log = logging.getLogger(__name__)
Flags = NDArray[np.bool_]
FIT = 2e-7
"""How far a fitted curve may stray, in part sizes."""
CHORD = 2e-5
GRAZED, LYING, MANY = 2.0, 0.95, 40_000
"""Within how many deflections a cutting plane grazes a face, whose normal lies along its own by more than so much (as a cosine); and
up to how many triangles such a face has in a finer mesh."""
ALONG = 0.3
"""Sine of the angle within which an edge runs along a cutting plane that it is near to."""
NEAR = 1e-6
"""In part sizes: what lies so near to a curve of closed form lies on it."""


@value
class Figures:
    """What every cut of a part needs: of its edges the faces (n, 2) and body (n,), of its faces the body (f,) and which
    are flat and which are not, of the nodes of its mesh the face (m,); the faces as the loops take them, and so the mesh: nodes,
    triangles and the face of each; and which bodies (b,) are solid."""

    pairs: Ints
    edge_body: Ints
    face_body: Ints
    flat: Flags
    curved: Flags
    node_face: Ints
    faces: Faces
    mesh: tuple[Array, Ints, Ints]
    solid: Flags


@lru_cache(maxsize=8)
def figures_of(part: Part) -> Figures:
    """These figures, kept for the parts last used."""
    node_face = np.empty(len(part.mesh.nodes), np.int64)
    for k, f in enumerate(part.faces):
        node_face[f.nodes] = k
    mesh, flat = part.mesh, np.array([f.surface.kind == "plane" for f in part.faces], bool)
    return Figures(
        pairs=np.array([(e.faces[0], e.faces[-1]) for e in part.edges], np.int64).reshape(-1, 2),
        edge_body=np.array([e.body for e in part.edges], np.int64),
        face_body=np.array([f.body for f in part.faces], np.int64),
        flat=flat,
        curved=~flat,
        node_face=node_face,
        faces=faces_in_arrays(part),
        mesh=(
            np.ascontiguousarray(mesh.nodes, float),
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
    half = np.array([s.half_angle for s in surfaces], float)
    return Faces(
        form=np.array([FORMS.index(s.kind) if s.elementary else OTHER for s in surfaces], np.int64),
        origin=np.array([s.origin for s in surfaces], float).reshape(-1, 3),
        axes=np.array([s.axes for s in surfaces], float).reshape(-1, 3, 3),
        radius=np.array([s.radius for s in surfaces], float),
        minor=np.array([s.minor_radius for s in surfaces], float),
        half=half,
        lean=np.stack([np.sin(half), np.cos(half)], axis=1),
        sense=np.array([f.sense * f.surface.hand for f in faces], float),
    )


@lru_cache(maxsize=8)
def _surfaces(part: Part) -> Surfaces:
    """The surfaces of a part that are followed where a cutting plane meets them, kept for the parts last used."""
    return together([packed_turned(f.surface) for f in part.faces])


@lru_cache(maxsize=8)
def known_of(part: Part, edges: Wires) -> Any:
    """What every cut of a part needs, held for the parts last used; ``edges``: its edges as wires."""
    known, mesh = figures_of(part), part.mesh
    return _held(part, edges, known.mesh, (mesh.uv, mesh.strays, known.node_face))


def _held(part: Part, edges: Wires, mesh: tuple[Array, Ints, Ints], of_mesh: tuple[Array, Array, Ints]) -> Any:
    """What a cut needs, held, with a mesh (nodes, triangles, the face of each), and of it the parameters of its nodes, how far
    it strays by face, and the faces of its nodes."""
    known, (uv, strays, node_face) = figures_of(part), of_mesh
    bodies = known.face_body, known.flat, known.pairs
    exact = known.faces, _surfaces(part), (edges.start, edges.t, edges.points, edges.cubic)
    return hold((mesh, uv, strays, part.mesh.deflection, node_face, *bodies, *exact))


def _grazed(part: Part, edges: Wires, normal: Array, offset: float) -> dict[int, int]:
    """The faces that a cutting plane all but touches along, or whose edges it does, so that the mesh does not tell how often it meets
    them, or whether at all: where it passes within a few deflections of what lies all but in it. Of each, how often its mesh is to
    be made twice as fine until that tells; of one body all as often, so that they agree about their edges."""
    known, mesh = figures_of(part), part.mesh
    # what each face strays from its mesh, not what the whole part may: in a large assembly that is more than small bodies are thick
    reach = GRAZED * mesh.strays
    nodes, _, face_of = known.mesh
    height = np.abs(nodes @ normal - offset)
    # what lies in the cutting plane itself is met as the mesh has it
    least = NEAR * part.size
    rows = np.nonzero(known.curved[known.node_face] & (least < height) & (height <= reach[known.node_face]))[0]
    rows = rows[np.abs(mesh.normals[rows] @ normal) > LYING]
    faces = set(known.node_face[rows].tolist())
    # how much finer each body is wanted: what strays by a quarter each time is to be told from how far the plane is
    finer = np.zeros(len(part.bodies))
    of_body = known.face_body[known.node_face[rows]]
    np.maximum.at(finer, of_body, reach[known.node_face[rows]] / height[rows])
    bent = np.repeat(np.diff(edges.start) > 2, np.diff(edges.start))
    height = np.abs(edges.points @ normal - offset)
    # an edge strays from its mesh as the faces beside it do: of small bodies of a large part much less than a deflection
    beside = mesh.strays[known.pairs].max(axis=1) if len(known.pairs) else np.zeros(0)
    stray = np.repeat(beside, np.diff(edges.start))
    close = np.nonzero(bent & (least < height) & (height <= GRAZED * stray))[0]
    way = edges.cubic[0][close]
    along = np.abs(way @ normal) < ALONG * np.maximum(np.linalg.norm(way, axis=1), 1e-300)
    near = np.searchsorted(edges.start, close, side="right") - 1
    faces |= set(known.pairs[near[along]].ravel().tolist())
    np.maximum.at(finer, known.edge_body[near[along]], (GRAZED * stray / np.maximum(height, least))[close][along])
    # an edge is met as often on both of its sides
    for a, b in known.pairs[np.unique(near)].tolist():
        if a in faces or b in faces:
            faces |= {a, b}
    if not faces:
        return {}
    counts = np.bincount(face_of, minlength=len(part.faces))
    levels = np.clip(np.ceil(np.log2(np.maximum(finer, 1.0)) / 2) + 1, 1, 3).astype(int)
    wanted = sorted(f for f in faces if 0 < counts[f] < MANY and part.faces[f].surface.kind != "facets")
    return {f: int(levels[known.face_body[f]]) for f in wanted}


def _refined(part: Part, wanted: dict[int, int], edges: Wires) -> Any:
    """What every cut of a part needs, held, with some of its faces in a mesh that is as often made twice as fine as is ``wanted``."""
    faces = list(wanted)
    known, mesh = figures_of(part), part.mesh
    nodes, triangles, face_of = known.mesh
    uv, node_face, strays = [mesh.uv], [known.node_face], mesh.strays.copy()
    rest = ~np.isin(face_of, faces)
    order = np.argsort(face_of, kind="stable")
    begin, end = (np.searchsorted(face_of[order], faces, side=side) for side in ("left", "right"))
    more_nodes, more_triangles, more_of = [nodes], [triangles[rest]], [face_of[rest]]
    count, made = len(nodes), dict[Any, tuple[Surface, Array, tuple[Array, Array, Ints]]]()
    for f, first, last in zip(faces, begin.tolist(), end.tolist(), strict=True):
        face, own = part.faces[f], triangles[order[first:last]]
        places, at, rows = mesh.uv[face.nodes], nodes[face.nodes], own - face.nodes.start
        levels = min(wanted[f], 3 if len(own) < MANY / 64 else 2 if len(own) < MANY / 16 else 1)
        key = levels, face.surface.kind, places.tobytes(), rows.tobytes()
        # bodies that are placed copies of one have their faces meshed alike
        finer = _placed_like(made.get(key), face.surface, at, NEAR * part.size)
        if finer is None:
            finer = places, at, rows
            for _ in range(levels):
                finer = _quartered(part, f, *finer)
            made[key] = face.surface, at, finer
        places, at, rows = finer
        uv.append(places)
        more_nodes.append(at)
        node_face.append(np.full(len(at), f))
        more_triangles.append(rows + count)
        more_of.append(np.full(len(rows), f))
        strays[f] /= 4**levels
        count += len(at)
    whole = np.concatenate(more_nodes), np.concatenate(more_triangles), np.concatenate(more_of)
    return _held(part, edges, whole, (np.concatenate(uv), strays, np.concatenate(node_face)))


def _placed_like(
    known: tuple[Surface, Array, tuple[Array, Array, Ints]] | None, surface: Surface, nodes: Array, near: float
) -> tuple[Array, Array, Ints] | None:
    """The finer mesh of a face (places, points, triangles) moved to where another of the same shape lies, whose ``nodes`` (n, 3) are these;
    None where it is another shape."""
    if known is None:
        return None
    base, before, (places, at, rows) = known
    turn = surface.axes.T @ base.axes
    if len(before) != len(nodes) or np.abs((before - base.origin) @ turn.T + surface.origin - nodes).max() > near:
        return None
    return places, (at - base.origin) @ turn.T + surface.origin, rows


def _quartered(part: Part, f: int, places: Array, at: Array, triangles: Ints) -> tuple[Array, Array, Ints]:
    """Triangles (m, 3) of a face, each as four by the middles of its sides: places (n, 2) on the surface, points (n, 3) and
    triangles. Middles on the border lie on the edge there."""
    face = part.faces[f]
    sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    many = len(places)
    names, row, count = np.unique(sides[:, 0] * many + sides[:, 1], return_inverse=True, return_counts=True)
    unlike = np.stack(np.divmod(names, many), axis=1)
    row = row.reshape(-1, 3) + len(places)
    (a, b, c), (x, y, z) = triangles.T, row.T
    found = np.concatenate([np.stack(t, axis=1) for t in ((a, x, z), (x, b, y), (z, y, c), (x, y, z))])
    middles = places[unlike].mean(axis=1)
    points = face.surface.points(middles)
    border = np.nonzero(count == 1)[0]
    if len(border):
        chord = at[unlike[border]].mean(axis=1)
        points[border] = _on_edges(part, face.boundary, chord)
    return np.concatenate([places, middles]), np.concatenate([at, points]), found


def _on_edges(part: Part, rows: tuple[int, ...], points: Array) -> Array:
    """The places (m, 3) of some edges that are nearest to points (m, 3) beside them; points far from all stay."""
    best, found = np.full(len(points), np.inf), points.copy()
    straight = [part.edges[e].points[[0, -1]] for e in rows if part.edges[e].curve.kind == "line"]
    if straight:
        # what is beside a straight edge lies on it already, and goes to no other
        ends = np.array(straight)
        way = ends[:, 1] - ends[:, 0]
        off = points[:, None] - ends[:, 0]
        share = np.einsum("mlk,lk->ml", off, way) / np.maximum(np.einsum("lk,lk->l", way, way), 1e-300)
        best = np.linalg.norm(off - np.clip(share, 0.0, 1.0)[..., None] * way, axis=2).min(axis=1)
    for e in rows:
        curve = part.edges[e].curve
        if curve.kind == "line":
            continue
        own = _nearest(curve, points)
        p = curve.points(own)
        gap = np.linalg.norm(points - p, axis=1)
        nearer = (gap < best) & (gap < 4 * part.mesh.deflection)
        best[nearer], found[nearer] = gap[nearer], p[nearer]
    return found


def _nearest(curve: Curve3, points: Array) -> Array:
    """The parameters (m,) of a bent curve at which it is nearest to points (m, 3) beside it."""
    if curve.is_circle:
        assert curve.origin is not None and curve.x is not None and curve.y is not None
        off = points - curve.origin
        turn = np.arctan2(off @ curve.y, off @ curve.x)
        # as far round as the curve goes, the nearer of its ends beyond that
        middle = (curve.t0 + curve.t1) / 2
        turn = middle + (turn - middle + np.pi) % (2 * np.pi) - np.pi
        return np.clip(turn, curve.t0, curve.t1)
    t = np.linspace(curve.t0, curve.t1, 513)
    own = t[cKDTree(curve.points(t)).query(points)[1]]
    for _ in range(3):
        p, way = curve.derivatives(own)
        own = own + np.einsum("ij,ij->i", points - p, way) / np.maximum(np.einsum("ij,ij->i", way, way), 1e-300)
        own = np.clip(own, curve.t0, curve.t1)
    return own


@lru_cache(maxsize=8)
def slices_of(part: Part, cut: Cut, edges: Wires) -> list[tuple[int, Any, Any]]:
    """Where the cutting planes of a cut that are shown meet the faces of a part, by cutting plane: its row, and held what it meets
    (:class:`Sliced`), and that as boundaries of what is laid open (:class:`Opened`); ``edges``: those of the part as wires."""
    group = cut.group.tolist()
    cutting_planes = [
        row for row, cutting_plane in enumerate(cut.cutting_planes) if cutting_plane.shown and group[row] == row
    ]
    return [(row, *_sliced_by(part, edges, cut, row)) for row in cutting_planes]


def _sliced_by(part: Part, edges: Wires, cut: Cut, row: int) -> tuple[Any, Any]:
    """Where one cutting plane meets the faces: exactly, but for chains that cannot be followed, and for bodies of which what was found is not what
    the mesh has; these are as the mesh has them."""
    figures = figures_of(part)
    known, safe, size = known_of(part, edges), named(part, cut.whole), part.size
    normal, offset = cut.normals[row], float(cut.offsets[row])
    grazed = _grazed(part, edges, normal, offset)
    if grazed:
        known = _refined(part, grazed, edges)

    def run(trusted: Flags, safe: Flags = safe) -> tuple[Any, Any, int, Flags]:
        return sliced(  # type: ignore[no-any-return]
            known=known,
            safe=safe,
            trusted=trusted,
            solid=figures.solid,
            normal=normal,
            offset=offset,
            hair=HAIR * size,
            size=size,
            near=NEAR * size,
            fit=FIT * size,
            chord=CHORD * size,
        )

    trusted = figures.curved
    try:
        found, opened, lost, wrong = run(trusted)
    except Exception:
        log.exception("where a cutting plane meets %s", part.name)
        trusted = _sound(trusted, run)
        found, opened, lost, wrong = run(trusted)
    if not lost and not wrong.any():
        return found, opened
    chains: list[tuple[int, Array]] = []
    if wrong.any():
        log.warning(
            "where a cutting plane meets bodies %s of %s, as their mesh has it", np.nonzero(wrong)[0], part.name
        )
        found = run(trusted, safe | wrong)[0]
        chains = chains_of(figures.mesh, wrong[figures.face_body], normal, offset, HAIR * size)
    it: Sliced = let_go(found)
    chains += [(int(f), it.chains[a:b]) for f, a, b in zip(it.lost, it.lost_begin, it.lost_begin[1:], strict=False)]
    whole = _with_chains(part, it, chains)
    return hold(whole), hold(opened_by(whole))


def chains_of(
    mesh: tuple[Array, Ints, Ints], wanted: Flags, normal: Array, offset: float, hair: float
) -> list[tuple[int, Array]]:
    """Where a cutting plane meets a mesh (nodes, triangles, the face of each), of the faces ``wanted`` (f,): each chain of sides (m, 3)
    with its face, with the material at its left as one looks against the cutting plane's normal. What lies within ``hair`` (mm) of the cutting plane counts as beyond
    it."""
    nodes, triangles, face_of = mesh
    height = nodes @ normal - offset
    over = (height > -hair)[triangles]
    mixed = over.any(axis=1) & ~over.all(axis=1) & wanted[face_of]
    corners, over, face = triangles[mixed], over[mixed], face_of[mixed]
    after, over_after = np.roll(corners, -1, axis=1), np.roll(over, -1, axis=1)
    sides = np.sort(np.stack([corners, after], axis=2), axis=2)
    # each triangle is entered over one side and left over another
    entry, leave = sides[over & ~over_after], sides[~over & over_after]
    gap = height[entry[:, 0]] - height[entry[:, 1]]
    share = np.clip(height[entry[:, 0]] / np.where(gap != 0, gap, 1.0), 0, 1)
    follows = {(f, *side): k for k, (f, side) in enumerate(zip(face.tolist(), map(tuple, entry.tolist()), strict=True))}
    after_row = [follows.get((f, *side)) for f, side in zip(face.tolist(), leave.tolist(), strict=True)]
    gap = height[leave[:, 0]] - height[leave[:, 1]]
    share_out = np.clip(height[leave[:, 0]] / np.where(gap != 0, gap, 1.0), 0, 1)
    begin = nodes[entry[:, 0]] + share[:, None] * (nodes[entry[:, 1]] - nodes[entry[:, 0]])
    end = nodes[leave[:, 0]] + share_out[:, None] * (nodes[leave[:, 1]] - nodes[leave[:, 0]])
    led = {k for k in after_row if k is not None}
    found, left = [], set(range(len(face)))
    for first in [*(k for k in range(len(face)) if k not in led), *range(len(face))]:
        if first not in left:
            continue
        rows, k = [], first
        while k is not None and k in left:
            left.discard(k)
            rows.append(k)
            k = after_row[k]  # type: ignore[assignment]
        found.append((int(face[first]), np.concatenate([begin[rows], end[rows[-1:]]])))
    return found


def _sound(curved: Flags, run: Callable[[Flags], Any]) -> Flags:
    """Which of the ``curved`` faces can be followed."""
    sound = np.zeros(len(curved), bool)
    for face in np.nonzero(curved)[0]:
        alone = np.zeros(len(curved), bool)
        alone[face] = True
        try:
            run(alone)
            sound[face] = True
        except Exception:
            log.exception("where a cutting plane meets face %s", face)
    return sound


def _with_chains(part: Part, s: Sliced, chains: list[tuple[int, Array]]) -> Sliced:
    """What a cutting plane meets, with chains (m, 3) of faces as the mesh has them."""
    curves, wires, faces, normals = [], [], [], []
    for face, p in chains:
        p = p[np.concatenate([[True], np.linalg.norm(np.diff(p, axis=0), axis=1) > 1e-7 * part.size])]
        if len(p) < 2:
            continue
        curve = polyline(p)
        assert curve.knots is not None
        cubic = np.zeros((3, len(p), 3))
        cubic[0, :-1] = np.diff(p, axis=0)
        own = part.faces[face].nodes
        near = np.argmin(((part.mesh.nodes[own][None] - p[:, None]) ** 2).sum(axis=2), axis=1)
        curves.append(curve)
        wires.append(Wires(np.array([0, len(p)]), curve.knots[1:-1], p, cubic))
        faces.append(face)
        normals.append(part.mesh.normals[own][near])
    every = np.concatenate([s.face, np.array(faces, np.int64)])
    laid = joined([Wires(s.start, s.t, s.points, s.cubic), *wires])
    return s._replace(
        face=every,
        body=figures_of(part).face_body[every],
        meshed=np.arange(len(every)) >= len(s.face),
        forms=joined_forms([s.forms, forms_of(curves)]),
        start=laid.start,
        t=laid.t,
        points=laid.points,
        cubic=laid.cubic,
        normals=np.concatenate([s.normals, *normals]),
    )


def packed_turned(surface: Surface) -> Packed | None:
    """A surface of free form as the loops take it; a cone or torus as a line or circle turned about its axis, with the same
    parameters. None for others."""
    if surface.kind in ("cone", "torus"):
        surface = surface.as_revolution()
    return packed_surface(surface) if surface.kind in ("nurbs", "revolution", "extrusion") else None
