"""Fillets, rounded edges and chamfers between plane and round faces.

A fillet fills a corner, a round takes one away; each is the run of such faces of one radius that hang together.
"""

from __future__ import annotations

import numpy as np

from ..geometry.vectors import cross
from ..part.model import Array, Edge, Part
from .faces import normal_of
from .feature import Feature, Kind, middle_of
from .rings import NEAR

LARGEST = 0.35
"""Of the part's size: the radius from which on a rounded face is no edge of something."""
TURNED = 2.8
"""Angle (rad) through which a rounded edge goes at most; a half turn is the end of a slot or a boss."""
SLIM = 0.75
"""Of the faces beside it: how wide a chamfer is at most."""


def blends_of(part: Part) -> list[Feature]:
    """Fillets and rounds, run by run."""
    kinds = [_blend(part, row) for row in range(len(part.faces))]
    found, taken = [], set[int]()
    for row, own in enumerate(kinds):
        if own is None or row in taken:
            continue
        kind, radius = own
        run, waiting = [row], [row]
        while waiting:
            for e in part.faces[waiting.pop()].boundary:
                for other in part.edges[e].faces:
                    beside = kinds[other]
                    if (
                        other in run
                        or beside is None
                        or beside[0] != kind
                        or abs(beside[1] - radius) > NEAR * part.size
                    ):
                        continue
                    run.append(other)
                    waiting.append(other)
        taken.update(run)
        place = middle_of(part, row)
        axis = part.faces[row].surface.axes[2]
        found.append(Feature(kind, tuple(sorted(run)), place, axis, (("radius", radius),)))
    return found


def _blend(part: Part, row: int) -> tuple[Kind, float] | None:
    """Whether a face fills a corner or rounds one, and its radius; None where it does neither."""
    face, s = part.faces[row], part.faces[row].surface
    if s.kind not in ("cylinder", "torus") or not len(part.mesh.nodes[face.nodes]):
        return None
    radius = s.radius if s.kind == "cylinder" else s.minor_radius
    if radius > LARGEST * part.size or (s.kind == "torus" and s.spindle):
        return None
    along = [e for e in (part.edges[k] for k in face.boundary) if _runs_along(e, part, row)]
    if len(along) < 2 or sum(e.joint == "smooth" for e in along) < 2 or any(e.joint == "border" for e in along):
        return None
    nodes, normals = part.mesh.nodes[face.nodes], part.mesh.normals[face.nodes]
    if s.kind == "cylinder":
        heart = s.origin + np.outer((nodes - s.origin) @ s.axes[2], s.axes[2])
    else:
        off = nodes - s.origin
        off = off - np.outer(off @ s.axes[2], s.axes[2])
        heart = s.origin + s.radius * off / np.maximum(np.linalg.norm(off, axis=1), 1e-300)[:, None]
    side = float(np.einsum("ij,ij->i", normals, nodes - heart).mean())
    if _through(normals, along, part, row) > TURNED:
        return None
    return ("round" if side > 0 else "fillet"), radius


def _runs_along(edge: Edge, part: Part, row: int) -> bool:
    """True for an edge along a rounded face, not across it: the normal of the face does not turn along it about the face's
    own round (for a cylinder a line along its axis, for a torus a circle about it)."""
    s = part.faces[row].surface
    if edge.joint == "same":
        return False
    if s.kind == "cylinder":
        way = edge.points[-1] - edge.points[0]
        length = float(np.linalg.norm(way))
        return edge.curve.kind == "line" and length > 0 and abs(float(way @ s.axes[2])) > (1 - 1e-6) * length
    off = edge.points - s.origin
    heights = off @ s.axes[2]
    return bool(np.ptp(heights) < NEAR * part.size)


def _through(normals: Array, along: list[Edge], part: Part, row: int) -> float:
    """The angle between a face's normals at its long edges."""
    sides = [e.normals[0 if e.faces[0] == row else 1][0] for e in along]
    cylinder = part.faces[row].surface.kind == "cylinder"
    if not cylinder:
        return 0.0
    most = 0.0
    for a in sides:
        spread = np.arccos(np.clip(normals @ a, -1, 1))
        most = max(most, float(spread.max()))
    return most


def chamfers_of(part: Part) -> list[Feature]:
    """Plane faces between two planes that are met outward by both, slanting and slim."""
    found = []
    for row, face in enumerate(part.faces):
        if face.surface.kind != "plane":
            continue
        own = normal_of(part, row)
        sides = []
        for k in face.boundary:
            e = part.edges[k]
            other = next((f for f in e.faces if f != row), None)
            if e.joint != "sharp" or e.curve.kind != "line" or other is None or not e.convex.all():
                continue
            if part.faces[other].surface.kind != "plane":
                continue
            turn = float(np.degrees(np.arccos(np.clip(own @ normal_of(part, other), -1, 1))))
            if 10 < turn < 80:
                sides.append((e, other, turn))
        found += _chamfer(part, row, sides)
    return found


def _chamfer(part: Part, row: int, sides: list[tuple[Edge, int, float]]) -> list[Feature]:
    for i, (one, a, at_a) in enumerate(sides):
        way = one.points[-1] - one.points[0]
        long = float(np.linalg.norm(way))
        way = way / max(long, 1e-300)
        for two, b, at_b in sides[i + 1 :]:
            if a == b or abs(float((two.points[-1] - two.points[0]) @ way)) < 0.5 * long:
                continue
            if np.linalg.norm(cross(two.points[-1] - two.points[0], way)) > NEAR * part.size:
                continue
            own = normal_of(part, row)
            if float(cross(own, normal_of(part, a)) @ way) * float(cross(own, normal_of(part, b)) @ way) > 0:
                continue
            across = float(np.linalg.norm(cross(two.points[0] - one.points[0], way)))
            widths = [_width(part, f, cross(way, normal_of(part, f))) for f in (a, b)]
            # on which faces it stands: its legs are the sides of the corner that it takes away
            corner = np.radians(at_a + at_b)
            if np.sin(corner) < 0.1 or across > SLIM * min(widths) or across > 0.5 * long:
                continue
            legs = sorted(across * np.sin(np.radians(t)) / np.sin(corner) for t in (at_a, at_b))
            angle = min(at_a, at_b)
            figures = (("length", float(legs[-1])), ("other", float(legs[0])), ("angle", angle))
            return [Feature("chamfer", (row,), middle_of(part, row), own, figures)]
    return []


def _width(part: Part, row: int, way: Array) -> float:
    return float(np.ptp(part.mesh.nodes[part.faces[row].nodes] @ way))
