"""Outlines along edges that are all but tangent, where one of their faces turns to the viewer and the other away.

Patches of free form that were made one by one meet at a small angle. Where the viewer looks along their edge neither has an outline of its own:
the edge is the outline. So it closes the gap between that of one patch, which ends on the edge, and that of the other.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..geometry.forms import forms_of
from ..geometry.wires import Array, Ints, from_curves
from ..part.model import Part
from .camera import Camera
from .outlines import Outlines, as_outlined
from .seen import OUTLINE
from .table import Table

TURNED = 1e-6
"""Sine of the angle between faces from which on an edge that counts as tangent can be an outline by itself."""


@lru_cache(maxsize=8)
def creased(part: Part) -> tuple[Ints, Array]:
    """The tangent edges, by row, whose faces meet at an angle somewhere, row after row along them (m,), and their normals (2, m, 3)."""
    edges = [
        (k, e.normals)
        for k, e in enumerate(part.edges)
        if e.joint in ("smooth", "same")
        and len(e.faces) == 2
        and np.linalg.norm(e.normals[0] - e.normals[1], axis=1).max() > TURNED
    ]
    if not edges:
        return np.zeros(0, np.int64), np.zeros((2, 0, 3))
    rows = np.repeat([k for k, _ in edges], [n.shape[1] for _, n in edges])
    return rows, np.concatenate([n for _, n in edges], axis=1)


def spans_of(part: Part, view: Camera) -> list[tuple[int, float, float]]:
    """The stretches of tangent edges that are outlines in a view: the edge's row and both parameters."""
    owner, normals = creased(part)
    if not len(owner):
        return []
    a, b = normals @ view.toward
    found = []
    for row in np.unique(owner[(a * b < 0) & (np.abs(a - b) > TURNED)]).tolist():
        edge = part.edges[row]
        g = edge.normals @ view.toward
        # which of both turns to the viewer, 0 where neither does alone
        way = np.where(g[0] * g[1] < 0, np.sign(g[0]), 0.0)
        bounds = [0, *(np.flatnonzero(np.diff(way)) + 1).tolist(), len(way)]
        for a, b in zip(bounds, bounds[1:], strict=False):
            if way[a] == 0:
                continue
            begin = edge.t[a] if a == 0 else _zero(edge.t, g, a - 1, a)
            end = edge.t[b - 1] if b == len(way) else _zero(edge.t, g, b, b - 1)
            if end - begin > 1e-9 * (edge.t[-1] - edge.t[0]):
                found.append((row, float(begin), float(end)))
    return found


def _zero(t: Array, g: Array, out: int, within: int) -> float:
    """Where between a row and its neighbour within a stretch the one of both normals (2, m) turns by which it ends."""
    side = 0 if g[0, out] * g[0, within] <= 0 else 1
    a, b = g[side, out], g[side, within]
    return float(t[out] + a / (a - b) * (t[within] - t[out])) if a != b else float(t[out])


def crease_outlines(part: Part, table: Table, view: Camera, cls: Ints) -> Outlines | None:
    """These stretches as outlines of the face that turns to the viewer, but for edges whose class (n,) says that they are outlines
    anyway."""
    spans = [s for s in spans_of(part, view) if cls[s[0]] != OUTLINE]
    if not spans:
        return None
    curves, places, outward, free, owner = [], [], [], [], []
    for row, begin, end in spans:
        edge = part.edges[row]
        inner = edge.t[(edge.t > begin) & (edge.t < end)]
        t = np.concatenate([[begin], inner, [end]])
        g = edge.normals @ view.toward
        near = int(np.abs(edge.t - (begin + end) / 2).argmin())
        both = edge.normals.sum(axis=0)
        n = np.stack([np.interp(t, edge.t, both[:, x]) for x in range(3)], axis=1)
        outward.append(n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300))
        free.append(np.full(len(t), bool(edge.convex[near])))
        owner.append(edge.faces[0 if g[0, near] >= 0 else 1])
        curves.append(edge.curve.piece(begin, end))
        places.append(t)
    wires = from_curves(curves, places)
    lines = as_outlined(wires, np.concatenate(outward), np.concatenate(free), np.array(owner, np.int64), curves)
    return Outlines(lines, 0, forms_of(curves), np.zeros(len(curves), bool))
