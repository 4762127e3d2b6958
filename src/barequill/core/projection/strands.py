"""Strands: every curve in space that may be drawn, with what is known along it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3
from ..part.model import Edge, Part
from .camera import Camera

Array = NDArray[np.float64]
LineClass = Literal["edge", "outline", "smooth"]
GRAZING = 1e-7
"""Cosine below which a face counts as seen edge-on."""


@dataclass(frozen=True, eq=False)
class Strand:
    """A curve that may be drawn.

    ``t`` (m,) and ``points`` (m, 3): its fine polyline. ``away`` (m, 3): where free space lies, used to
    lift rays off the part's own faces. ``free`` (m,): False where the faces at the curve itself hide it.
    ``lift``: how far (mm) to go that way. ``contour``: True where something may end behind it.
    ``breaks``: parameters at which its state may change (the faces there turn away). ``folds``: where a
    conic seen edge-on turns back, so that pieces on both sides are never one.
    """

    source: str
    cls: LineClass
    curve: Curve3
    t: Array
    points: Array
    away: Array
    free: NDArray[np.bool_]
    lift: float
    contour: bool
    breaks: Array
    folds: Array


def face_lift(part: Part, face: int) -> float:
    """How far (mm) the mesh of a face may stray from the face, with a margin."""
    surface = part.faces[face].surface
    if surface.kind == "plane":
        return 1e-5 * part.size
    stray = part.mesh.deflection
    if surface.kind in ("cylinder", "sphere"):
        stray = min(stray, 0.01 * surface.radius)
    elif surface.kind == "torus":
        stray = min(stray, 0.01 * (surface.radius + surface.minor_radius))
    return 1.5 * stray + 1e-5 * part.size


def edge_strands(part: Part, view: Camera, smooth: bool) -> list[Strand]:
    """Strands of all edges that are to be drawn, and of edges on which an outline lies."""
    found = []
    for edge in part.edges:
        g = edge.normals @ view.toward
        g[np.abs(g) < GRAZING] = 0.0
        if edge.joint == "same":
            strand = _hem(part, edge, g, view)
        elif edge.joint == "smooth":
            strand = _hem(part, edge, g, view) if not g.any() else _tangent(part, edge, g, view) if smooth else None
        else:
            strand = _sharp(part, edge, g, view)
        if strand is not None:
            found.append(strand)
    return found


def turning_points(curve: Curve3, view: Camera) -> Array:
    """Parameters at which a conic seen edge-on turns back; none where it is not seen edge-on."""
    if curve.kind != "conic":
        return np.zeros(0)
    assert curve.x is not None and curve.y is not None
    flat = view.flat(np.array([curve.x, curve.y]))
    if abs(flat[0, 0] * flat[1, 1] - flat[0, 1] * flat[1, 0]) > 1e-9 * curve.radius**2:
        return np.zeros(0)
    axis = flat[int(np.argmax(np.linalg.norm(flat, axis=1)))]
    first = float(np.arctan2(flat[1] @ axis, flat[0] @ axis))
    turns: Array = first + np.pi * np.arange(-4, 9, dtype=float)
    return turns[(turns > curve.t0 + 1e-9) & (turns < curve.t1 - 1e-9)]


def _end_on(part: Part, points: Array, view: Camera) -> bool:
    flat = view.flat(points)
    return bool(np.ptp(flat, axis=0).max() < 1e-7 * part.size)


def _unit(rows: Array) -> Array:
    return rows / np.maximum(np.linalg.norm(rows, axis=1), 1e-300)[:, None]


def _sign_changes(t: Array, g: Array) -> Array:
    side = g >= 0
    at = np.nonzero(side[1:] != side[:-1])[0]
    share = g[at] / (g[at] - g[at + 1])
    return t[at] + share * (t[at + 1] - t[at])


def _strand(
    part: Part,
    edge: Edge,
    view: Camera,
    cls: LineClass,
    away: Array,
    free: NDArray[np.bool_],
    contour: bool,
    breaks: Array,
    source: str,
) -> Strand | None:
    if _end_on(part, edge.points, view):
        return None
    lift = max(face_lift(part, f) for f in edge.faces)
    turns = turning_points(edge.curve, view)
    return Strand(source, cls, edge.curve, edge.t, edge.points, away, free, lift, contour, breaks, turns)


def _sharp(part: Part, edge: Edge, g: Array, view: Camera) -> Strand | None:
    n1, n2 = edge.normals
    if edge.joint == "border":
        away = np.where(g[0][:, None] < 0, -n1, n1)
        return _strand(
            part, edge, view, "edge", away, np.ones(len(edge.t), bool), True, _sign_changes(edge.t, g[0]), edge.ref
        )
    best = np.maximum(g[0], g[1])
    free = np.where(edge.convex, best, np.minimum(g[0], g[1])) >= 0
    floor = np.where(edge.convex & (best > 1e-6), 1e-6, -1e-6)
    away = (g[0] > floor)[:, None] * n1 + (g[1] > floor)[:, None] * n2
    contour = bool((g[0] * g[1] <= 0).any())
    breaks = np.concatenate([_sign_changes(edge.t, g[0]), _sign_changes(edge.t, g[1])])
    return _strand(part, edge, view, "edge", _unit(away), free, contour, breaks, edge.ref)


def _tangent(part: Part, edge: Edge, g: Array, view: Camera) -> Strand | None:
    mean = g.mean(axis=0)
    return _strand(
        part,
        edge,
        view,
        "smooth",
        _unit(edge.normals.sum(axis=0)),
        mean > 0,
        False,
        _sign_changes(edge.t, mean),
        edge.ref,
    )


def _hem(part: Part, edge: Edge, g: Array, view: Camera) -> Strand | None:
    """A smooth edge along which its faces turn away: the outline lies on it."""
    if np.abs(g).max() > 1e-6:
        return None
    curved = [f for f in edge.faces if part.faces[f].surface.kind != "plane"]
    if not curved:
        return None
    free = np.ones(len(edge.t), bool)
    return _strand(
        part, edge, view, "outline", _unit(edge.normals.sum(axis=0)), free, True, np.zeros(0), part.faces[curved[0]].ref
    )
