"""Where walls meet faces: the mesh tells how the pieces hang together, the exact surfaces where they run."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3, polyline
from ..geometry.evaluation import Packed, Surfaces, packed_surface, together
from ..geometry.forms import Forms, forms_of, joined_forms
from ..geometry.surfaces import Surface
from ..geometry.wires import Wires, joined
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .closed_forms import FORMS, OTHER, Faces
from .fitting import Sliced, sliced
from .limits import HAIR, Array, Cut, Ints

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
    """Curves (n) in which a ``wall`` meets faces, with the material at their left as one looks against its normal.

    First lines by their ``ends`` (k, 2, 3), then circles and ellipses as ``conic`` (c, 3, 3: centre, x, y) over ``span``
    (c, 2), then curves that had to be fitted. Of all: ``forms``, ``wires``; by curve its ``face``, ``body``, and whether it is
    ``meshed``: drawn from the mesh; by row of the wires the face's outward ``normals`` (m, 3).
    """

    wall: int
    ends: Array
    conic: Array
    span: Array
    forms: Forms
    wires: Wires
    face: Ints
    body: Ints
    meshed: Flags
    normals: Array


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
    """The surfaces of a part that are followed where a wall meets them, kept for the parts last used."""
    return together([packed_turned(f.surface) for f in part.faces])


@lru_cache(maxsize=8)
def slices_of(part: Part, cut: Cut, edges: Wires) -> list[Slices]:
    """Where the walls of a cut that are shown meet the faces of a part, wall by wall; ``edges``: its edges as wires."""
    known, safe = figures_of(part), named(part, cut.whole)
    walls = [row for row, wall in enumerate(cut.walls) if wall.shown and cut.group[row] == row]
    return [_sliced_by(part, known, safe, edges, cut, row) for row in walls]


def _sliced_by(part: Part, known: Figures, safe: Flags, edges: Wires, cut: Cut, row: int) -> Slices:
    """Where one wall meets the faces."""

    def run(trusted: Flags) -> Sliced:
        size, mesh = part.size, part.mesh
        return sliced(
            mesh=known.mesh,
            uv=mesh.uv,
            strays=mesh.strays,
            deflection=mesh.deflection,
            safe=safe,
            node_face=known.node_face,
            face_body=known.face_body,
            flat=known.flat,
            pairs=known.pairs,
            faces=known.faces,
            surfaces=_surfaces(part),
            trusted=trusted,
            wires=(edges.start, edges.t, edges.points, edges.cubic),
            normal=cut.normals[row],
            offset=cut.offsets[row],
            hair=HAIR * size,
            size=size,
            near=NEAR * size,
            fit=FIT * size,
            chord=CHORD * size,
        )

    try:
        s = run(known.curved)
    except Exception:
        log.exception("where a wall meets %s", part.name)
        s = run(_sound(known.curved, run))
    found = Slices(
        wall=row,
        ends=s.ends,
        conic=s.conic,
        span=s.span,
        forms=s.forms,
        wires=Wires(s.start, s.t, s.points, s.cubic),
        face=s.face,
        body=known.face_body[s.face],
        meshed=np.zeros(len(s.face), bool),
        normals=s.normals,
    )
    return _with_lost(part, known, found, s) if len(s.lost) else found


def _sound(curved: Flags, run: Callable[[Flags], Sliced]) -> Flags:
    """Which of the ``curved`` faces can be followed."""
    sound = np.zeros(len(curved), bool)
    for face in np.nonzero(curved)[0]:
        alone = np.zeros(len(curved), bool)
        alone[face] = True
        try:
            run(alone)
            sound[face] = True
        except Exception:
            log.exception("where a wall meets face %s", face)
    return sound


def _with_lost(part: Part, known: Figures, found: Slices, s: Sliced) -> Slices:
    """What a wall meets, with the chains that could not be followed as the mesh has them."""
    curves, wires, faces, normals = [], [], [], []
    for face, a, b in zip(s.lost.tolist(), s.lost_begin, s.lost_begin[1:], strict=False):
        p = s.chains[a:b]
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
    every = np.concatenate([found.face, np.array(faces, np.int64)])
    return replace(
        found,
        forms=joined_forms([found.forms, forms_of(curves)]),
        wires=joined([found.wires, *wires]),
        face=every,
        body=known.face_body[every],
        meshed=np.arange(len(every)) >= len(found.face),
        normals=np.concatenate([found.normals, *normals]),
    )


def packed_turned(surface: Surface) -> Packed | None:
    """A surface of free form as the loops take it; a cone or torus as a line or circle turned about its axis, with the same
    parameters. None for others."""
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
    return packed_surface(surface) if surface.kind in ("nurbs", "revolution", "extrusion") else None
