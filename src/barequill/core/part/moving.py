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
            "",
            body,
            face.surface.moved(turn, by),
            face.reversed,
            face.area,
            turn @ face.centre + by,
            slice(face.nodes.start + self.nodes, face.nodes.stop + self.nodes),
            slice(face.triangles.start + self.triangles, face.triangles.stop + self.triangles),
            tuple(e + self.edges for e in face.boundary),
        )

    def edge(self, edge: Edge, body: int, turn: Array, by: Array) -> Edge:
        """The same of an edge."""
        first, last = (v + self.vertices if v >= 0 else v for v in edge.ends)
        return Edge(
            "",
            body,
            edge.curve.moved(turn, by),
            edge.joint,
            tuple(f + self.faces for f in edge.faces),
            (first, last),
            edge.t,
            edge.points @ turn.T + by,
            edge.normals @ turn.T,
            edge.convex,
        )
