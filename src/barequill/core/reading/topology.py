"""What bounds what in a body of the kernel."""

from __future__ import annotations

from typing import Any

from OCP.BRep import BRep_Tool
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS

from ..part.model import Array
from ..values import value
from .kernel_geometry import xyz


@value
class Topology:
    """The kernel's faces and edges of a body, and its vertices (3,).

    ``beside``: of each edge the faces beside it, with +1 where it runs in its curve's sense along their boundary.
    ``ends``: of each edge the vertices at its ends, -1 where there is none. ``counts``: how many edges bound each face.
    """

    faces: list[Any]
    edges: list[Any]
    vertices: list[Array]
    beside: list[dict[int, float]]
    ends: list[tuple[int, int]]
    counts: list[int]


def topology_of(shape: Any) -> Topology:
    """The topology of a shape."""
    kinds = TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_VERTEX
    face_map, edge_map, vertex_map = ShapeMap(), ShapeMap(), ShapeMap()
    for kind, found in zip(kinds, (face_map, edge_map, vertex_map), strict=True):
        TopExp.MapShapes_s(shape, kind, found)
    faces = [TopoDS.Face(face_map.FindKey(i + 1)) for i in range(face_map.Extent())]
    edges = [TopoDS.Edge(edge_map.FindKey(i + 1)) for i in range(edge_map.Extent())]
    vertices = [xyz(BRep_Tool.Pnt_s(TopoDS.Vertex(vertex_map.FindKey(i + 1)))) for i in range(vertex_map.Extent())]
    beside: list[dict[int, float]] = [{} for _ in edges]
    counts = []
    for row, face in enumerate(faces):
        explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        count = 0
        while explorer.More():
            edge = explorer.Current()
            back = edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
            beside[edge_map.FindIndex(edge) - 1].setdefault(row, -1.0 if back else 1.0)
            explorer.Next()
            count += 1
        counts.append(count)

    def row_of(vertex: Any) -> int:
        return -1 if vertex.IsNull() else vertex_map.FindIndex(vertex) - 1

    ends = [(row_of(TopExp.FirstVertex_s(e)), row_of(TopExp.LastVertex_s(e))) for e in edges]
    return Topology(faces, edges, vertices, beside, ends, counts)
