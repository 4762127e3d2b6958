"""Triangles of faces: the kernel's mesh read into arrays, and a mesh of our own for plane faces full of holes.

The kernel's mesher takes time that grows with the square of the holes in a face; a Delaunay triangulation of
the points on the boundary, parted along it, does not.
"""

from __future__ import annotations

from io import BytesIO
from struct import unpack_from
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.Message import Message_ProgressRange
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound, TopoDS_Face

from .raw import moved

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
ANGLE = 0.4
"""Angle (rad) asked of the mesher, which takes half of it from one side to the next: sides stay within 1 % of a radius."""
MANY = 64
"""Edges of a plane face from which on it is meshed here."""


def mesh_faces(faces: list[Any], edge_counts: list[int], deflection: float) -> set[int]:
    """Have the kernel mesh faces; rows of those that it is spared, because they are plane and full of holes."""
    spared = {
        row
        for row, (face, count) in enumerate(zip(faces, edge_counts, strict=True))
        if count >= MANY and BRepAdaptor_Surface(face).GetType() == GeomAbs_SurfaceType.GeomAbs_Plane
    }
    shape, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(shape)
    for row, face in enumerate(faces):
        if row not in spared:
            builder.Add(shape, face)
    mesh_shape(shape, deflection)
    return spared


def mesh_shape(shape: Any, deflection: float) -> None:
    """Have the kernel mesh a shape: edges and elementary faces within a deflection (mm), free-form faces coarsely."""
    mesher = BRepMesh_IncrementalMesh()
    mesher.SetShape(shape)
    asked = mesher.ChangeParameters()
    asked.Deflection, asked.Angle, asked.InParallel, asked.ControlSurfaceDeflection = deflection, ANGLE, True, False
    mesher.Perform(Message_ProgressRange())


def read_meshes(faces: list[Any]) -> list[tuple[Array, Array, Ints]]:
    """Nodes (n, 3), surface parameters (n, 2) and triangles (m, 3) of each face, all empty where one is not meshed.

    The kernel writes the triangulations, and nothing else, in its binary B-rep form, which is read as arrays: asked
    for each node and triangle on its own it takes some twenty times as long.
    """
    found: list[tuple[Array, Array, Ints]] = []
    meshes: list[tuple[Any, Any]] = []
    carrier, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(carrier)
    written: dict[int, int] = {}
    for face in faces:
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        meshes.append((mesh, place))
        if mesh is not None and id(mesh) not in written:
            written[id(mesh)] = len(written)
            bare = TopoDS_Face()
            builder.MakeFace(bare, mesh)
            builder.Add(carrier, bare)
    stream = BytesIO()
    BinTools.Write_s(carrier, stream)
    blocks = _triangulations(stream.getvalue(), len(written))
    for mesh, place in meshes:
        if mesh is None:
            found.append((np.zeros((0, 3)), np.zeros((0, 2)), np.zeros((0, 3), np.int64)))
        else:
            nodes, uv, triangles = blocks[written[id(mesh)]]
            found.append((moved(nodes, place.Transformation()), uv, triangles))
    return found


def _triangulations(data: bytes, count: int) -> list[tuple[Array, Array, Ints]]:
    """The triangulations in what the kernel wrote (its binary form, fourth version)."""
    head = b"\nTriangulations %d\n" % count
    at = data.index(head) + len(head)
    found = []
    for _ in range(count):
        n, m, with_parameters, with_normals = unpack_from("<ii??", data, at)
        at += 18  # and the deflection, a double
        nodes = np.frombuffer(data, "<f8", 3 * n, at).reshape(n, 3).copy()
        at += 24 * n
        uv = np.zeros((n, 2))
        if with_parameters:
            uv = np.frombuffer(data, "<f8", 2 * n, at).reshape(n, 2).copy()
            at += 16 * n
        triangles = np.frombuffer(data, "<i4", 3 * m, at).reshape(m, 3).astype(np.int64) - 1
        at += 12 * m + (12 * n if with_normals else 0)
        found.append((nodes, uv, triangles))
    assert data.startswith(b"\nTShapes", at), "the kernel wrote triangulations in an unknown form"
    return found


def edge_polygon(edge: Any, faces: list[Any]) -> tuple[Array | None, Array] | None:
    """Parameters (n,), if they are known, and nodes (n, 3) along an edge in the mesh of one of its faces; None where none is
    meshed."""
    for face in faces:
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        polygon = BRep_Tool.PolygonOnTriangulation_s(edge, mesh, place) if mesh is not None else None
        if polygon is None:
            continue
        count = range(1, polygon.NbNodes() + 1)
        nodes = np.array([(p.X(), p.Y(), p.Z()) for p in (mesh.Node(polygon.Node(k)) for k in count)])
        at = np.array([polygon.Parameter(k) for k in count]) if polygon.HasParameters() else None
        return at, moved(nodes, place.Transformation())
    return None


def edge_nodes(edge: Any, faces: list[Any]) -> Array | None:
    """Nodes (n, 3) along an edge in the mesh of one of its faces, None where none is meshed."""
    found = edge_polygon(edge, faces)
    return None if found is None else found[1]


def triangulated(chains: list[Array], flat: list[Array], near: float) -> tuple[Array, Array, Ints] | None:
    """Mesh of a face from the chains of points (n, 3) along its edges, and these laid ``flat`` (n, 2): nodes, these laid flat, and
    triangles, counter-clockwise there; None where a piece of the boundary is not among the sides of the triangles.

    Ends ``near`` each other, as they lie flat, are one.
    """
    # loaded only where a face is full of holes
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import Delaunay, QhullError

    sides, own = (
        np.concatenate([np.stack([c[:-1], c[1:]], axis=1) for c in some]).reshape(-1, width)
        for some, width in ((chains, 3), (flat, 2))
    )
    cells = np.round((own - own.min(axis=0)) / near).astype(np.int64)
    _, first, name = np.unique(cells[:, 0] * (1 << 31) + cells[:, 1], return_index=True, return_inverse=True)
    nodes, name, there = sides[first], name.reshape(-1, 2), own[first]
    try:
        mesh = Delaunay(there)
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
    p = there[triangles]
    d, e = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    turn = d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]
    triangles[turn < 0] = triangles[turn < 0][:, ::-1]
    return nodes, there, triangles[np.abs(turn) > 0]
