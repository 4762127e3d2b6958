"""Triangles of faces: the kernel's mesh read into arrays, and a mesh of our own for plane faces full of holes.

The kernel's mesher takes time that grows with the square of the holes in a face; a Delaunay triangulation of
the points on the boundary, parted along it, does not.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import Delaunay, QhullError

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
ANGLE = 0.4
"""Angle (rad) asked of the mesher, which takes half of it from one side to the next: sides stay within 1 % of a radius."""
MANY = 64
"""Edges of a plane face from which on it is meshed here."""


def mesh_faces(shape: Any, faces: list[Any], edge_counts: list[int], deflection: float) -> list[int]:
    """Have the kernel mesh a shape; rows of the faces that it is spared, because they are plane and full of holes."""
    spared = [
        row
        for row, (face, count) in enumerate(zip(faces, edge_counts, strict=True))
        if count >= MANY and BRepAdaptor_Surface(face).GetType() == GeomAbs_SurfaceType.GeomAbs_Plane
    ]
    if spared:
        rest, builder = TopoDS_Compound(), BRep_Builder()
        builder.MakeCompound(rest)
        out = set(spared)
        for row, face in enumerate(faces):
            if row not in out:
                builder.Add(rest, face)
        shape = rest
    BRepMesh_IncrementalMesh(shape, deflection, False, ANGLE, True)
    return spared


def placed(location: Any) -> tuple[Array, Array] | None:
    """Matrix (3, 3) and offset (3,) of a location, None where it is none."""
    if location.IsIdentity():
        return None
    trsf = location.Transformation()
    matrix = np.array([[trsf.Value(r + 1, c + 1) for c in range(4)] for r in range(3)])
    return matrix[:, :3], matrix[:, 3]


def read_mesh(face: Any, with_parameters: bool) -> tuple[Array, Array, Ints]:
    """Nodes (n, 3), their surface parameters (n, 2; zeros where not wanted) and triangles (m, 3) of a face."""
    place = TopLoc_Location()
    mesh = BRep_Tool.Triangulation_s(face, place)
    if mesh is None:
        return np.zeros((0, 3)), np.zeros((0, 2)), np.zeros((0, 3), np.int64)
    n, m = mesh.NbNodes(), mesh.NbTriangles()
    node, triangle = mesh.Node, mesh.Triangle
    nodes = np.array([(p.X(), p.Y(), p.Z()) for p in map(node, range(1, n + 1))]).reshape(-1, 3)
    triangles = np.array([triangle(k).Get() for k in range(1, m + 1)], dtype=np.int64).reshape(-1, 3) - 1
    uv = np.zeros((n, 2))
    if n and with_parameters and mesh.HasUVNodes():
        uv = np.array([(q.X(), q.Y()) for q in map(mesh.UVNode, range(1, n + 1))])
    moved = placed(place)
    if moved is not None:
        nodes = nodes @ moved[0].T + moved[1]
    return nodes, uv, triangles


def edge_nodes(edge: Any, faces: list[Any]) -> Array | None:
    """Nodes (n, 3) along an edge in the mesh of one of its faces, None where none is meshed."""
    for face in faces:
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        polygon = BRep_Tool.PolygonOnTriangulation_s(edge, mesh, place) if mesh is not None else None
        if polygon is None:
            continue
        rows = [polygon.Node(k) for k in range(1, polygon.NbNodes() + 1)]
        nodes = np.array([(p.X(), p.Y(), p.Z()) for p in map(mesh.Node, rows)])
        moved = placed(place)
        return nodes if moved is None else nodes @ moved[0].T + moved[1]
    return None


def triangulated(chains: list[Array], axes: Array, near: float) -> tuple[Array, Ints] | None:
    """Mesh of a plane face from the chains of points (n, 3) along its edges: nodes and triangles, counter-clockwise
    about axes[2]; None where a piece of the boundary is not among the sides of the triangles."""
    sides = np.concatenate([np.stack([c[:-1], c[1:]], axis=1) for c in chains]).reshape(-1, 3)
    own = sides @ axes[:2].T
    cells = np.round((own - own.min(axis=0)) / near).astype(np.int64)
    _, first, name = np.unique(cells[:, 0] * (1 << 31) + cells[:, 1], return_index=True, return_inverse=True)
    nodes, name, flat = sides[first], name.reshape(-1, 2), own[first]
    try:
        mesh = Delaunay(flat)
    except (QhullError, ValueError):
        return None
    triangles = mesh.simplices.astype(np.int64)
    count = np.int64(len(nodes))
    border = np.unique(np.minimum(name[:, 0], name[:, 1]) * count + np.maximum(name[:, 0], name[:, 1]))
    # side k of a triangle lies opposite its corner k, as its neighbour k does
    ends = np.stack([triangles[:, [1, 2]], triangles[:, [2, 0]], triangles[:, [0, 1]]], axis=1)
    key = ends.min(axis=2) * count + ends.max(axis=2)
    on_border = np.isin(key, border)
    if len(np.unique(key[on_border])) < (border // count != border % count).sum():
        return None
    one, side = np.nonzero(~on_border & (mesh.neighbors >= 0))
    links = coo_array((np.ones(len(one), np.int8), (one, mesh.neighbors[one, side])), shape=(len(triangles),) * 2)
    groups, group = connected_components(links, directed=False)
    # a step over the border goes in or out: even and odd, from outside the hull inward
    depth = np.full(groups, -1)
    hull = np.nonzero(mesh.neighbors < 0)
    depth[group[hull[0]]] = np.where(on_border[hull], 1, 0)
    cross_one, cross_side = np.nonzero(on_border & (mesh.neighbors >= 0))
    a, b = group[cross_one], group[mesh.neighbors[cross_one, cross_side]]
    for _ in range(64):
        new = (depth[a] >= 0) & (depth[b] < 0)
        if not new.any():
            break
        depth[b[new]] = depth[a[new]] + 1
    inside = depth % 2 == 1
    triangles = triangles[inside[group]]
    p = flat[triangles]
    d, e = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    turn = d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]
    triangles[turn < 0] = triangles[turn < 0][:, ::-1]
    return nodes, triangles[np.abs(turn) > 0]
