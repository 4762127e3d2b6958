"""Faces that the kernel's reader lays wrongly over their surface, laid over it anew."""

from __future__ import annotations

import logging
from typing import Any

import numpy as np

from .raw import faces_of, within

log = logging.getLogger(__name__)


def mended(shape: Any) -> Any:
    """A body whose faces lie once round their surfaces of revolution.

    Where a profile crosses its axis, the reader takes edges for others on the far side of the axis, and has a face
    wind round it several times. Over the surface of just that piece of the profile which the face covers, there is
    but one way for the edges to lie.
    """
    bad = [face for face in faces_of(shape) if _wound(face)]
    if not bad:
        return shape
    from OCP.ShapeBuild import ShapeBuild_ReShape

    context = ShapeBuild_ReShape()
    for face in bad:
        context.Replace(face, _laid_anew(face))
    found = context.Apply(shape)
    if found.IsNull() or found.ShapeType() != shape.ShapeType() or _edges(found) != _edges(shape):
        log.warning("%d faces of revolution could not be laid over their surfaces anew", len(bad))
        return shape
    return found


def _wound(face: Any) -> bool:
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_SurfaceType

    surface = BRepAdaptor_Surface(face)
    return bool(
        surface.GetType() == GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution
        and surface.LastUParameter() - surface.FirstUParameter() > 2 * np.pi + 1e-6
    )


def _laid_anew(face: Any) -> Any:
    from OCP.BRep import BRep_Builder, BRep_Tool
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.Geom import Geom_SurfaceOfRevolution, Geom_TrimmedCurve
    from OCP.ShapeFix import ShapeFix_Edge
    from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Wire

    place, window = TopLoc_Location(), BRepAdaptor_Surface(face)
    surface = BRep_Tool.Surface_s(face, place)
    while hasattr(surface, "BasisSurface"):
        surface = surface.BasisSurface()
    profile = Geom_TrimmedCurve(surface.BasisCurve(), window.FirstVParameter(), window.LastVParameter())
    builder, made = BRep_Builder(), TopoDS_Face()
    builder.MakeFace(made, Geom_SurfaceOfRevolution(profile, surface.Axis()), place, BRep_Tool.Tolerance_s(face))
    forward, fixing = TopoDS.Face(face.Oriented(TopAbs_Orientation.TopAbs_FORWARD)), ShapeFix_Edge()
    for bound in within(forward, TopAbs_ShapeEnum.TopAbs_WIRE):
        # the edges themselves stay, so that the faces beside this one go on sharing them; but for those of no length
        # that the reader put in where it lost its way
        edges = [TopoDS.Edge(e) for e in within(bound, TopAbs_ShapeEnum.TopAbs_EDGE)]
        edges = [e for e in edges if not BRep_Tool.Degenerated_s(e)]
        wire = TopoDS_Wire()
        builder.MakeWire(wire)
        for edge in edges:
            fixing.FixAddPCurve(edge, made, BRep_Tool.IsClosed_s(edge, forward))
            builder.Add(wire, edge)
        builder.Add(made, wire)
        _on_one_turn(edges, made)
    return made.Oriented(face.Orientation())


def _on_one_turn(edges: list[Any], face: Any) -> None:
    """Shift the ways of a wire's edges over a surface of revolution by whole turns, so that each begins where the one
    before it ends; of a face all round, from its seam on."""
    from OCP.BRep import BRep_Tool
    from OCP.gp import gp_Vec2d
    from OCP.TopAbs import TopAbs_Orientation

    turn = 2 * np.pi
    seam = any(BRep_Tool.IsClosed_s(edge, face) for edge in edges)
    before = None
    for edge in edges:
        way = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
        if way is None:
            continue
        if BRep_Tool.IsClosed_s(edge, face):
            if before is not None:
                _seam(edge, face, before)
                before = None
            continue
        ends = [way.Value(t).X() for t in BRep_Tool.Range_s(edge)]
        if edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
            ends.reverse()
        if seam:
            by = -turn * np.floor(min(ends) / turn + 1e-6)
        else:
            by = 0.0 if before is None else turn * round((before - ends[0]) / turn)
        if by:
            way.Translate(gp_Vec2d(float(by), 0.0))
        before = ends[1] + by


def _seam(edge: Any, face: Any, at: float) -> None:
    """Have a seam run at a parameter of its surface where it is passed as ``edge`` passes it, a turn on the other way."""
    from OCP.BRep import BRep_Builder, BRep_Tool
    from OCP.gp import gp_Vec2d
    from OCP.TopAbs import TopAbs_Orientation
    from OCP.TopoDS import TopoDS

    start = BRep_Tool.Range_s(edge)[0]
    ways = []
    for sense in (TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED):
        wanted = at if edge.Orientation() == sense else 2 * np.pi - at
        way = BRep_Tool.CurveOnSurface_s(TopoDS.Edge(edge.Oriented(sense)), face, 0.0, 0.0).Copy()
        way.Translate(gp_Vec2d(wanted - way.Value(start).X(), 0.0))
        ways.append(way)
    BRep_Builder().UpdateEdge(edge, *ways, face, BRep_Tool.Tolerance_s(edge))


def _edges(shape: Any) -> int:
    """How many edges of some length a shape has."""
    from OCP.BRep import BRep_Tool
    from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp
    from OCP.TopoDS import TopoDS

    found = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_EDGE, found)
    return sum(not BRep_Tool.Degenerated_s(TopoDS.Edge(found.FindKey(k + 1))) for k in range(found.Extent()))
