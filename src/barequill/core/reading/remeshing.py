"""A mesh of our own for a face that the kernel's mesher gives up, as where its edges overlap by a rounding."""

from __future__ import annotations

import logging
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS

from ..geometry.evaluation import packed_surface
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.model import Array
from .kernel_geometry import curve_of, surface_of
from .meshing import edge_polygon, triangulated
from .raw import within
from .refining import refined

log = logging.getLogger(__name__)
AROUND = 48
"""Steps along an edge of no length, such as an apex."""
STEPS = 1, 12, 72
"""Steps along each edge at least, that are tried one after the other."""
NEAR = 1e-6
"""In part sizes, as it is long on the surface: ends of edges so near to each other are one."""
FINE = 0.01
"""How far edges that go their own way stray at most, in square roots of the area."""
ASTRAY = 0.05
"""Largest share by which the area of a mesh may differ from that of its face."""


def remeshed(
    face: Any, beside: list[tuple[Any, list[Any]]], size: float, deflection: float
) -> tuple[Array, Array, NDArray[np.int64]] | None:
    """Nodes (n, 3), parameters (n, 2) and triangles (m, 3) of a face; None where its edges do not bound it.

    ``beside``: its edges, and with each the faces whose nodes are taken over, if these are meshed. Where those are too few,
    as along a circle smaller than ``deflection`` (mm), or too far from each other to be joined by sides of triangles, the face
    goes its own way.
    """
    figures = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, figures)
    area = abs(figures.Mass())
    fine = min(deflection, FINE * np.sqrt(area))
    for edges, chord, steps in ((beside, deflection, 1), *(([], fine, n) for n in STEPS)):
        try:
            found = _bounded(face, edges, size, chord, steps)
        except Exception:
            log.exception("a face of %.3g mm² cannot be meshed", area)
            continue
        if found is not None:
            nodes, _, triangles = found
            a, b, c = (nodes[triangles[:, k]] for k in range(3))
            # NaN is astray too
            if abs(np.linalg.norm(cross(b - a, c - a), axis=1).sum() / 2 - area) <= ASTRAY * area:
                return found
    return None


def _bounded(
    face: Any, beside: list[tuple[Any, list[Any]]], size: float, deflection: float, steps: int
) -> tuple[Array, Array, NDArray[np.int64]] | None:
    """What the edges of a face bound, as a mesh: they are laid flat by their parameters, as long as they are on the surface; sides
    within are split until they lie on that."""
    surface = surface_of(face)
    chains, ways = [], []
    for edge in within(face, TopAbs_ShapeEnum.TopAbs_EDGE):
        others = next((faces for known, faces in beside if known.IsSame(edge)), [])
        nodes, uv = _along(TopoDS.Edge(edge), face, surface, others, deflection, steps)
        chains.append(nodes)
        ways.append(uv)
    every = np.concatenate([np.zeros((0, 2)), *ways])
    if len(every) < 3:
        return None
    grid = np.stack(np.meshgrid(*np.linspace(every.min(axis=0), every.max(axis=0), 5).T), axis=-1).reshape(-1, 2)
    metric = np.array([np.linalg.norm(d, axis=1).mean() for d in surface.derivatives(grid)[1:]])
    if not (np.isfinite(metric).all() and (metric > 0).all()):
        return None
    found = triangulated(chains, [uv * metric for uv in ways], NEAR * size)
    if found is None:
        return None
    nodes, flat, triangles = found
    uv = flat / metric
    if surface.kind != "plane" and len(triangles):
        nodes, uv, triangles, _ = refined(packed_surface(surface.as_revolution()), nodes, uv, triangles, deflection)
    return nodes, uv, triangles


def _along(
    edge: Any, face: Any, surface: Surface, beside: list[Any], deflection: float, steps: int
) -> tuple[Array, Array]:
    """Nodes (n, 3) along an edge, those of the mesh beside it where there is one, else in so many ``steps`` at least, and their
    parameters (n, 2) on a face."""
    first, last = BRep_Tool.Range_s(edge)
    at, nodes = np.linspace(first, last, AROUND + 1), None
    known, met = edge_polygon(edge, beside) or (None, None)
    if known is not None:
        at, nodes = known, met
    elif not BRep_Tool.Degenerated_s(edge):
        curve = curve_of(edge)
        t = curve.parameters(deflection)
        t = t if len(t) > steps else np.linspace(curve.t0, curve.t1, steps + 1)
        at = first + (t - curve.t0) / max(curve.t1 - curve.t0, 1e-300) * (last - first)
        nodes = curve.points(t)
    way = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
    uv = np.array([(p.X(), p.Y()) for p in (way.Value(float(x)) for x in at)])
    return (surface.points(uv) if nodes is None else nodes), uv
