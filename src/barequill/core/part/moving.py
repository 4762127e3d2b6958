"""Faces and edges of a body that stands in another place, too."""

from __future__ import annotations

from dataclasses import dataclass

from .model import Array, Edge, Face


@dataclass(frozen=True)
class Shift:
    """How far on in the lists of a part the rows of a body lie that repeats another."""

    faces: int
    edges: int
    vertices: int
    nodes: int
    triangles: int

    def face(self, face: Face, body: int, turn: Array, by: Array) -> Face:
        """A face turned by a rotation (3, 3) and moved by a vector (3,)."""
        return Face(
            ref="",
            body=body,
            surface=face.surface.moved(turn, by),
            reversed=face.reversed,
            area=face.area,
            centre=turn @ face.centre + by,
            nodes=slice(face.nodes.start + self.nodes, face.nodes.stop + self.nodes),
            triangles=slice(face.triangles.start + self.triangles, face.triangles.stop + self.triangles),
            boundary=tuple(e + self.edges for e in face.boundary),
        )

    def edge(self, edge: Edge, body: int, turn: Array, by: Array) -> Edge:
        """The same of an edge."""
        first, last = (v + self.vertices if v >= 0 else v for v in edge.ends)
        return Edge(
            ref="",
            body=body,
            curve=edge.curve.moved(turn, by),
            joint=edge.joint,
            faces=tuple(f + self.faces for f in edge.faces),
            ends=(first, last),
            t=edge.t,
            points=edge.points @ turn.T + by,
            normals=edge.normals @ turn.T,
            convex=edge.convex,
        )
