"""Lasting references: a short mark made from what an entity is, not from where it stands in a file.

The mark is a hash of the entity's kind and its own geometry, rounded in absolute lengths, so it is the same on each
import of the same file, and in a later revision of the part in which the entity did not change, whatever was added or
taken away elsewhere. Only entities alike in all of this (coincident edges of two bodies) are told apart by what is
beside them, and then all of them: a reference that does not hold any more is loose, never on another entity.
"""

from __future__ import annotations

import hashlib
from collections import Counter, defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .box import exact_boxes
from .model import Array, Edge, Face

STEP, ASIDE = 1e-3, 0.318
"""mm to which places and lengths are rounded; and where between two steps the border lies, in steps: round figures, in
mm or inches, stand well off it."""
TURN = 1e-4
"""To this the components of directions are rounded."""
DIGITS = 9


def steps(figures: Array, step: float = STEP) -> NDArray[np.int64]:
    """Figures in whole steps, so rounded that noise about round figures changes none."""
    return np.floor(np.asarray(figures, float) / step + ASIDE).astype(np.int64)


def _marks(letter: str, kinds: Sequence[str], rows: NDArray[np.int64]) -> list[str]:
    """A mark for each row (n, k) of rounded figures of a kind."""
    rows = np.ascontiguousarray(rows)
    return [
        letter + hashlib.sha1(kind.encode() + row.tobytes()).hexdigest()[:DIGITS]
        for kind, row in zip(kinds, rows, strict=True)
    ]


def _told_apart(marks: list[str], beside: list[list[str]]) -> list[str]:
    """The marks, but those that several entities share made longer by what lies beside each, and by a number where that
    is alike too."""
    shared = {m for m, n in Counter(marks).items() if n > 1}
    found, seen = list(marks), Counter[str]()
    for k, mark in enumerate(marks):
        if mark in shared:
            text = " ".join(sorted(beside[k]))
            found[k] = f"{mark}.{hashlib.sha1(text.encode()).hexdigest()[:4]}"
            seen[found[k]] += 1
            if seen[found[k]] > 1:
                found[k] += f"-{seen[found[k]]}"
    return found


def names_of(faces: list[Face], edges: list[Edge], middles: list[Array], vertices: Array) -> list[list[str]]:
    """References of faces, edges and vertices (v, 3), in their order; ``middles``: a point (3,) half way of each edge."""
    vertex_marks = _marks("V", ["vertex"] * len(vertices), steps(vertices))
    edge_marks = _edge_marks(edges, middles)
    face_marks = _face_marks(faces, edges)
    beside_face = [[edge_marks[e] for e in face.boundary] for face in faces]
    beside_edge = [[face_marks[f] for f in edge.faces] for edge in edges]
    beside_vertex: dict[int, list[str]] = defaultdict(list)
    for k, edge in enumerate(edges):
        for v in edge.ends:
            beside_vertex[v].append(edge_marks[k])
    return [
        _told_apart(face_marks, beside_face),
        _told_apart(edge_marks, beside_edge),
        _told_apart(vertex_marks, [beside_vertex[v] for v in range(len(vertices))]),
    ]


def _edge_marks(edges: list[Edge], middles: list[Array]) -> list[str]:
    """An edge is told by its ends, whichever comes first, and its middle; a whole circle or ellipse, which may begin
    anywhere, by its centre, axis and radii."""
    rows = np.zeros((len(edges), 9), np.int64)
    if not edges:
        return []
    ends = steps(np.array([e.points[[0, -1]] for e in edges]))
    later = np.array([tuple(a) > tuple(b) for a, b in ends.tolist()])
    ends[later] = ends[later][:, ::-1]
    rows[:, :6], rows[:, 6:] = ends.reshape(-1, 6), steps(np.array(middles))
    kinds: list[str] = [e.curve.kind for e in edges]
    for k, edge in enumerate(edges):
        curve = edge.curve
        if curve.full_turn:
            assert curve.origin is not None and curve.x is not None and curve.y is not None
            radii = sorted((float(np.linalg.norm(curve.x)), float(np.linalg.norm(curve.y))))
            rows[k] = [*steps(curve.origin), *way(np.cross(curve.x, curve.y)), *steps(np.array([*radii, 0.0]))]
            kinds[k] = "whole"
    return _marks("E", kinds, rows)


def way(v: Array, step: float = TURN) -> NDArray[np.int64]:
    """A direction without sense, in whole steps."""
    v = v / max(float(np.linalg.norm(v)), 1e-300)
    first = int(np.argmax(np.abs(v) > 1e-3))
    return steps(v * np.sign(v[first]), step)


def _face_marks(faces: list[Face], edges: list[Edge]) -> list[str]:
    """A face is told by its kind, radii, sense and the box about its edges, so that a hole more in it changes nothing."""
    low, high = exact_boxes([e.curve for e in edges])
    rows = np.zeros((len(faces), 12), np.int64)
    for k, face in enumerate(faces):
        surface, own = face.surface, list(face.boundary)
        if own:
            rows[k, :3], rows[k, 3:6] = steps(low[own].min(axis=0)), steps(high[own].max(axis=0))
        else:
            rows[k, :3] = steps(face.centre)
        rows[k, 6:8] = steps(np.array([surface.radius, surface.minor_radius]))
        sense = face.sense * surface.hand
        rows[k, 8:11] = steps(sense * surface.axes[2], TURN) if surface.kind == "plane" else [sense, 0, 0]
        # of free-form faces their size tells what their box does not
        rows[k, 11] = 0 if surface.elementary else int(np.sign(sense))
    return _marks("F", [f.surface.kind for f in faces], rows)
