"""The part: reading files, bodies, faces, edges, lasting references, mass, mesh."""

from .model import Body, Edge, Face, Mesh, Part
from .reading import content_key, read_part

__all__ = ["Body", "Edge", "Face", "Mesh", "Part", "content_key", "read_part"]
