"""A face of the kernel as a surface of ours, with its mesh."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.TopAbs import TopAbs_Orientation

from ..geometry.evaluation import packed_surface
from ..geometry.recognition import recognise_surface
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.figures import normals_on, packed
from ..part.model import Array
from .facing import against_winding
from .kernel_geometry import surface_of
from .meshing import mesh_shape, read_meshes, triangulated
from .refining import refined

Described = tuple[
    tuple[Surface, bool], tuple[Surface, bool], Array | None, tuple[Array, Array, Array, NDArray[np.int64]], float
]
"""A face's surface and whether it is reversed, both as the kernel has them, its figures where it is elementary, mesh
(nodes, parameters, normals, triangles) and how far that strays from it."""


def described(
    face: Any,
    mesh: tuple[Array, Array, NDArray[np.int64]],
    chains: list[Array] | None,
    size: float,
    deflection: float,
) -> Described:
    """A face by its exact surface."""
    surface = surface_of(face)
    reverse = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    stray = 0.0
    own = triangulated(chains, [c @ surface.axes[:2].T for c in chains], 1e-7 * size) if chains is not None else None
    if own is not None:
        nodes, _, triangles = own
        uv = np.zeros((len(nodes), 2))
    else:
        if chains is not None:
            mesh_shape(face, deflection)
            (mesh,) = read_meshes([face])
        nodes, uv, triangles = mesh
        if not surface.elementary and len(nodes):
            nodes, uv, triangles, stray = refined(packed_surface(surface), nodes, uv, triangles, deflection)
    n = len(nodes)
    if reverse:
        triangles = np.ascontiguousarray(triangles[:, ::-1])
    figures = packed(surface, -1.0 if reverse else 1.0) if surface.elementary else None
    if not n:
        normals = np.zeros((0, 3))
    elif figures is not None and surface.kind != "cone" and not surface.spindle:
        normals = np.empty((n, 3))
        normals_on(figures, nodes, normals)
    else:
        normals = surface.normals(uv) * (-1.0 if reverse else 1.0)
    if n and against_winding(nodes, normals, triangles):
        # the kernel's own mesh knows better which side its parameters turn to the outside
        reverse, normals = not reverse, -normals
        figures = packed(surface, -1.0 if reverse else 1.0) if surface.elementary else None
    raw = surface, reverse
    if surface.elementary:
        known: Surface | None = surface.on_near_side(uv)
    else:
        known = recognise_surface(surface, uv, 1e-6 * size) if n else None
    if known is not None and known is not surface:
        surface = known
        reverse = bool((surface.normals_at(nodes) * normals).sum() < 0)
        figures = packed(surface, -1.0 if reverse else 1.0)
    if not (np.isfinite(nodes).all() and np.isfinite(normals).all()):
        raise ArithmeticError("the surface has places without a point or a normal")
    return (surface, reverse), raw, figures, (nodes, uv, normals, triangles), stray


def as_facets(face: Any, size: float, deflection: float) -> Described:
    """A face by nothing but the kernel's mesh."""
    ((nodes, uv, triangles),) = read_meshes([face])
    reverse = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    if reverse:
        triangles = np.ascontiguousarray(triangles[:, ::-1])
    a, b, c = (nodes[triangles[:, k]] for k in range(3))
    # nodes that a seam holds twice have one normal
    _, same = np.unique(np.round(nodes / (1e-9 * size)), axis=0, return_inverse=True)
    sums = np.zeros_like(nodes)
    for k in range(3):
        np.add.at(sums, same.reshape(-1)[triangles[:, k]], cross(b - a, c - a))
    normals = sums[same.reshape(-1)]
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, None]
    surface = Surface("facets", np.zeros(3), np.eye(3))
    return (surface, reverse), (surface, reverse), None, (nodes, uv, normals, triangles), deflection
