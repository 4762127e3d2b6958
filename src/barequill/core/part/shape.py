"""A part's mesh and edges as bytes, for a look at it in space on the screen.

The bytes: the length of a JSON header (4 bytes, little-endian), the header, blanks up to a multiple of 4, then the arrays
that the header names, one after the other, each filled up to a multiple of 4.
"""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

import numpy as np

from .model import Edge, Part

LINE_CLASSES = {"sharp": 0, "border": 0, "smooth": 1}


def drawn_edges(part: Part) -> list[Edge]:
    """The edges that are drawn in space, in the order in which they are sent."""
    return [e for e in part.edges if e.joint in LINE_CLASSES]


@lru_cache(maxsize=4)
def shape_bytes(part: Part) -> bytes:
    """Mesh (nodes, normals, triangles, and the face of each triangle) about the middle of the part's box in mm; edges as
    polylines, with where each begins, whether it is a straight one, its class (0 sharp, 1 tangent), and its body."""
    middle = (part.low + part.high) / 2
    edges = drawn_edges(part)
    points = [e.points for e in edges]
    kinds = {"plane": 1, "cylinder": 2}
    arrays = {
        "nodes": (part.mesh.nodes - middle).astype("<f4"),
        "normals": part.mesh.normals.astype("<f4"),
        "triangles": part.mesh.triangles.astype("<u4"),
        "face_of": part.mesh.face_of.astype("<u4"),
        "face_body": np.array([f.body for f in part.faces], "<u4"),
        "face_kind": np.array([kinds.get(f.surface.kind, 0) for f in part.faces], "<u4"),
        "face_axis": np.array([_axis(f) for f in part.faces], "<f4").reshape(-1, 3),
        "lines": (np.concatenate([np.zeros((0, 3)), *points]) - middle).astype("<f4"),
        "line_starts": np.concatenate([[0], np.cumsum([len(p) for p in points])]).astype("<u4"),
        "line_straight": np.array([e.curve.kind == "line" for e in edges], "<u4"),
        "line_class": np.array([LINE_CLASSES[e.joint] for e in edges], "<u4"),
        "line_body": np.array([e.body for e in edges], "<u4"),
    }
    header: dict[str, Any] = {
        "arrays": [{"name": n, "type": a.dtype.str[1:], "shape": list(a.shape)} for n, a in arrays.items()],
        "bodies": [b.name for b in part.bodies],
        "low": (part.low - middle).tolist(),
        "high": (part.high - middle).tolist(),
    }
    text = json.dumps(header, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    pieces = [len(text).to_bytes(4, "little"), text]
    for a in arrays.values():
        data = a.tobytes()
        pieces.append(data + bytes(-len(data) % 4))
    return b"".join(pieces)


def _axis(face: Any) -> np.ndarray:
    """The outward normal of a plane face, the axis of a cylinder; nothing for others."""
    if face.surface.kind == "plane":
        found: np.ndarray = face.surface.axes[2] * face.sense
        return found
    return face.surface.axes[2] if face.surface.kind == "cylinder" else np.zeros(3)
