"""The part as values: bodies, faces, edges, lasting references, mesh; two revisions of one."""

from .model import Body, Edge, Face, Mesh, Part

__all__ = ["Body", "Edge", "Face", "Mesh", "Part"]
