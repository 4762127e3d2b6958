"""Borders of faces that nobody joined, but that lie on each other: there the surface runs on."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from ..part.model import Array, Edge
from .joints import SMOOTH

GAP = 2e-4
"""How far apart, in part sizes, borders may lie that are taken for one."""
PLACES, ROWS = 17, 129
"""Places along an edge that all have to lie on another border, and into how many an edge is laid out to find the nearest."""


def run_on(edges: list[Edge], size: float) -> list[Edge]:
    """The edges of a part, those borders as tangent edges that lie on other borders all along, with faces that are tangent there.

    Files of surfaces that are not joined have each edge twice, or one against several. Of those that lie on each other only the longest is
    ``smooth``; what lies on that is never drawn. ``size``: of the part, mm.
    """
    rows = [k for k, e in enumerate(edges) if e.joint == "border"]
    if len(rows) < 2:
        return edges
    laid = [edges[k].curve.points(np.linspace(edges[k].t[0], edges[k].t[-1], ROWS)) for k in rows]
    length = [float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum()) for p in laid]
    low, high = np.array([p.min(axis=0) for p in laid]), np.array([p.max(axis=0) for p in laid])
    reach = GAP * size
    tree = shapely.STRtree(shapely.box(*(low[:, :2] - reach).T, *(high[:, :2] + reach).T))
    found, drawn = list(edges), set()
    for k in sorted(range(len(rows)), key=lambda k: -length[k]):
        own = edges[rows[k]]
        step = (ROWS - 1) // (PLACES - 1)
        places, normals = laid[k][::step], _normals(own, np.linspace(own.t[0], own.t[-1], PLACES))
        near = tree.query(shapely.box(*low[k, :2], *high[k, :2]))
        near = near[(near != k) & (low[near, 2] < high[k, 2] + reach) & (high[near, 2] > low[k, 2] - reach)]
        on, kept = np.zeros(PLACES, bool), np.zeros(PLACES, bool)
        for other in near.tolist():
            gap, beside = _beside(edges[rows[other]], laid[other], places)
            met = (gap < reach) & (np.abs(np.einsum("ij,ij->i", normals, beside)) > np.cos(SMOOTH))
            on |= met
            kept |= met & (other in drawn)
        if on.all():
            if not kept.all():
                drawn.add(k)
            found[rows[k]] = replace(own, joint="same" if kept.all() else "smooth")
    return found


def _beside(edge: Edge, laid: Array, places: Array) -> tuple[Array, Array]:
    """How far (n,) places (n, 3) lie from an edge that is ``laid`` out, and the normals (n, 3) of its face where they are nearest."""
    t = np.linspace(edge.t[0], edge.t[-1], ROWS)[((places[:, None] - laid[None]) ** 2).sum(axis=2).argmin(axis=1)]
    for _ in range(4):
        p, way = edge.curve.derivatives(t)
        t = t + np.einsum("ij,ij->i", places - p, way) / np.maximum(np.einsum("ij,ij->i", way, way), 1e-300)
        t = np.clip(t, min(edge.t[0], edge.t[-1]), max(edge.t[0], edge.t[-1]))
    return np.linalg.norm(places - edge.curve.points(t), axis=1), _normals(edge, t)


def _normals(edge: Edge, t: Array) -> Array:
    """The normals (n, 3) of the face beside a border at parameters (n,)."""
    found = np.stack([np.interp(t, edge.t, edge.normals[0][:, x]) for x in range(3)], axis=1)
    return found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300)
