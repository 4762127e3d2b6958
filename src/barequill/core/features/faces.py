"""Faces that make one feature of a part."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.model import Array, Part

TURNED = ("cylinder", "cone", "torus", "sphere")


def feature_faces(part: Part, row: int) -> list[int]:
    """The face of that row and those that make one feature with it: joined to it about the same axis, and flat ends that
    are bounded by nothing else."""
    found, waiting = [row], [row]
    if part.faces[row].surface.kind not in TURNED:
        return found
    while waiting:
        for edge in part.faces[waiting.pop()].boundary:
            for other in part.edges[edge].faces:
                if other in found or not _belongs(part, other, row, found):
                    continue
                found.append(other)
                waiting.append(other)
    return found


def _belongs(part: Part, other: int, row: int, found: list[int]) -> bool:
    surface, own = part.faces[other].surface, part.faces[row].surface
    if surface.kind == "plane":
        return all(set(part.edges[e].faces) <= {*found, other} for e in part.faces[other].boundary)
    return surface.kind in TURNED and coaxial(own, surface, 1e-6 * part.size)


def off_axis(origin: Array, axis: Array, point: Array) -> float:
    """How far (mm) a point is from an axis, told by a point of it and its unit direction."""
    return float(np.linalg.norm(cross(axis, point - origin)))


def coaxial(one: Surface, other: Surface, near: float) -> bool:
    """True where another round surface is about the axis of one, within ``near`` (mm); a sphere where its middle is on it."""
    axis = one.axes[2]
    if off_axis(one.origin, axis, other.origin) >= near:
        return False
    return other.kind == "sphere" or abs(float(axis @ other.axes[2])) > 1 - 1e-9


def normal_of(part: Part, row: int) -> Array:
    """The outward normal of a plane face."""
    face = part.faces[row]
    found: Array = face.sense * face.surface.hand * face.surface.axes[2]
    return found


def faces_beside(part: Part, ref: str) -> list[int]:
    """The face of that reference, or those beside an edge: round ones first, then the smaller."""
    kind, row = part.find(ref) or ("", 0)
    if kind == "face":
        return [row]
    if kind != "edge":
        return []

    def rank(face: int) -> tuple[bool, float]:
        points = part.mesh.nodes[part.faces[face].nodes]
        reach = float(np.ptp(points, axis=0).sum()) if len(points) else 0.0
        return part.faces[face].surface.kind not in TURNED, reach

    return sorted(dict.fromkeys(part.edges[row].faces), key=rank)


def words_of_face(part: Part, row: int, size: Callable[[float], str]) -> str:
    """What a face is, in words; ``size`` writes a length."""
    s = part.faces[row].surface
    if s.kind in ("cylinder", "sphere"):
        return f"{s.kind} Ø{size(2 * s.radius)}"
    names = {"plane": "plane face", "cone": "cone", "torus": "round edge"}
    return names.get(s.kind, "curved face")


def halves_of(part: Part, row: int) -> list[int]:
    """The faces next to one that lie on the same cylinder."""
    s, found, waiting = part.faces[row].surface, [row], [row]
    while waiting:
        for edge in part.faces[waiting.pop()].boundary:
            for other in part.edges[edge].faces:
                t = part.faces[other].surface
                if other in found or t.kind != "cylinder" or abs(t.radius - s.radius) > 1e-6 * part.size:
                    continue
                if coaxial(s, t, 1e-6 * part.size):
                    found.append(other)
                    waiting.append(other)
    return found
