"""What the loops over cutting planes need of a part, in arrays, and kept for the parts last used."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np

from ..geometry.evaluation import Packed, Surfaces, packed_surface, together
from ..geometry.held import hold
from ..geometry.surfaces import Surface
from ..geometry.wires import Wires
from ..part.model import Part
from ..values import value
from .closed_forms import FORMS, OTHER, Faces
from .records import Array, Flags, Ints, Known, Lines

NEAR = 1e-6
"""In part sizes: what lies so near to a curve of closed form lies on it."""


def packed_turned(surface: Surface) -> Packed | None:
    """A surface of free form as the loops take it; a cone or torus as a line or circle turned about its axis, with the same
    parameters. None for others."""
    if surface.kind in ("cone", "torus"):
        surface = surface.as_revolution()
    return packed_surface(surface) if surface.kind in ("nurbs", "revolution", "extrusion") else None


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
def surfaces_of(part: Part) -> Surfaces:
    """The surfaces of a part that are followed where a cutting plane meets them, kept for the parts last used."""
    return together([packed_turned(f.surface) for f in part.faces])


@lru_cache(maxsize=8)
def known_of(part: Part, edges: Wires) -> Any:
    """What every cut of a part needs, held for the parts last used; ``edges``: its edges as wires."""
    known, mesh = figures_of(part), part.mesh
    return held_with(part, edges, known.mesh, uv=mesh.uv, strays=mesh.strays, node_face=known.node_face)


def held_with(
    part: Part, edges: Wires, mesh: tuple[Array, Ints, Ints], *, uv: Array, strays: Array, node_face: Ints
) -> Any:
    """What a cut needs (:class:`Known`), held, with a mesh: nodes (n, 3), triangles (k, 3), the face (k,) of each; and of it the
    parameters (n, 2) of its nodes, how far it strays by face (f,), and the faces (n,) of its nodes."""
    known, (nodes, triangles, face_of) = figures_of(part), mesh
    return hold(
        Known(
            nodes=nodes,
            triangles=triangles,
            face_of=face_of,
            uv=uv,
            node_face=node_face,
            strays=strays,
            deflection=part.mesh.deflection,
            face_body=known.face_body,
            flat=known.flat,
            pairs=known.pairs,
            faces=known.faces,
            surfaces=surfaces_of(part),
            wires=Lines(edges.start, edges.t, edges.points, edges.cubic),
        )
    )
