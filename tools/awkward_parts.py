"""Parts such as real files hold and chance does not make: surfaces beyond an apex, domes, thin shells, solids inside out."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from barequill.core.reading import shapes
from barequill.core.reading.raw import faces_of, within


def _ax(height: float = 0.0, down: bool = False) -> Any:
    from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt

    return gp_Ax3(gp_Pnt(0, 0, height), gp_Dir(0, 0, -1 if down else 1))


def _patch(surface: Any, *window: float) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace

    return BRepBuilderAPI_MakeFace(surface, *window, 1e-7).Face()


def _sewn(*faces: Any) -> Any:
    """A solid of faces that close, as they come: which way it looks is the kernel's affair."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
    from OCP.BRepLib import BRepLib
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    sewing = BRepBuilderAPI_Sewing(1e-4)
    for face in faces:
        sewing.Add(face)
    sewing.Perform()
    shell = TopoDS.Shell(TopExp_Explorer(sewing.SewedShape(), TopAbs_ShapeEnum.TopAbs_SHELL).Current())
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _disc(radius: float, height: float) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.gp import gp_Circ

    edge = BRepBuilderAPI_MakeEdge(gp_Circ(_ax(height).Ax2(), radius)).Edge()
    return BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(edge).Wire()).Face()


def countersunk_head() -> Any:
    """A countersunk head, its cone described beyond its apex, under a dome on a torus through its own axis."""
    from OCP.Geom import Geom_ConicalSurface, Geom_CylindricalSurface, Geom_ToroidalSurface

    turn = 2 * math.pi
    big, small = 2.0, 10.0
    rim, pole = math.acos(0.6), math.acos(-big / small)
    top = small * math.sin(rim)
    dome = _patch(Geom_ToroidalSurface(_ax(), big, small), 0, turn, rim, pole)
    # radius 8 at the rim, 3 below: beyond the apex of a cone that opens upward
    half = math.pi / 4
    cone = Geom_ConicalSurface(_ax(top - 12.0, down=True), half, 4.0)
    flank = _patch(cone, 0, turn, -12.0 / math.cos(half), -7.0 / math.cos(half))
    shank = _patch(Geom_CylindricalSurface(_ax(top - 25.0), 3.0), 0, turn, 0, 20)
    return _sewn(dome, flank, shank, _disc(3, top - 25))


def lemon() -> Any:
    """A dome on the inner part of a torus through its own axis."""
    from OCP.Geom import Geom_ToroidalSurface

    pole = math.acos(-0.2)
    return _sewn(_patch(Geom_ToroidalSurface(_ax(), 2.0, 10.0), 0, 2 * math.pi, pole, math.pi), _disc(8, 0))


def _half_ball(radius: float) -> Any:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    return BRepPrimAPI_MakeSphere(_ax().Ax2(), radius, 0, math.pi / 2, 2 * math.pi).Shape()


def hollow_dome() -> Any:
    """A half ball hollowed out by a smaller one: both end at their great circles."""
    return shapes.cut(_half_ball(10), _half_ball(8))


def hollow_lamp() -> Any:
    """A domed round body, hollow, with a collar and a flat on it."""
    body = shapes.fuse(
        _half_ball(5), shapes.cylinder((0, 0, -6), (0, 0, 1), 5, 6), shapes.cylinder((0, 0, -7), (0, 0, 1), 6, 1)
    )
    inner = shapes.fuse(_half_ball(4), shapes.cylinder((0, 0, -5), (0, 0, 1), 4, 5))
    return shapes.cut(body, inner, shapes.box((5, -10, -8), (3, 20, 30)))


def two_patches() -> Any:
    """A dome whose free-form skin comes in two halves."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_NurbsConvert
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
    from OCP.collections import Array1_gp_Pnt
    from OCP.Geom import Geom_BezierCurve
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf

    poles = Array1_gp_Pnt(1, 4)
    for k, place in enumerate([(10, 0, 0), (10, 0, 5), (6, 0, 9), (0, 0, 9)]):
        poles.SetValue(k + 1, gp_Pnt(*place))
    profile = BRepBuilderAPI_MakeEdge(Geom_BezierCurve(poles)).Edge()
    axis = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    half = BRepBuilderAPI_NurbsConvert(BRepPrimAPI_MakeRevol(profile, axis, math.pi).Shape(), True).Shape()
    turn = gp_Trsf()
    turn.SetRotation(axis, math.pi)
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform

    return _sewn(half, BRepBuilderAPI_Transform(half, turn, True).Shape(), _disc(10, 0))


def nut() -> Any:
    """A hexagon nut, its corners chamfered on both sides, with a bore."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

    corners = [(10 * math.cos(k * math.pi / 3), 10 * math.sin(k * math.pi / 3), 0.0) for k in range(6)]
    prism = shapes.prism(corners, (0, 0, 8))
    for cone in (
        shapes.cone((0, 0, 0), (0, 0, 1), 8.6, 8.6 + 10 * math.sqrt(3), 10),
        shapes.cone((0, 0, 8), (0, 0, -1), 8.6, 8.6 + 10 * math.sqrt(3), 10),
    ):
        prism = BRepAlgoAPI_Common(prism, cone).Shape()
    return shapes.cut(prism, shapes.cylinder((0, 0, -1), (0, 0, 1), 5, 10))


def thin_shell() -> Any:
    """A pan with rounded corners and a wall of a two-hundredth of its size."""
    outer = shapes.rounded(
        shapes.box((0, 0, 0), (80, 50, 15)), 8, [(0, 0, 7.5), (80, 0, 7.5), (0, 50, 7.5), (80, 50, 7.5)]
    )
    inner = shapes.rounded(
        shapes.box((0.5, 0.5, 0.5), (79, 49, 15)), 7.5, [(0.5, 0.5, 8), (79.5, 0.5, 8), (0.5, 49.5, 8), (79.5, 49.5, 8)]
    )
    return shapes.cut(outer, inner)


def inside_out() -> Any:
    """A block with a hole that a file turned inside out."""
    block = shapes.cut(shapes.box((0, 0, 0), (30, 20, 10)), shapes.cylinder((10, 10, -1), (0, 0, 1), 4, 12))
    return block.Reversed()


def solid_of(shape: Any) -> Any:
    """The first solid of a shape."""
    from OCP.TopAbs import TopAbs_ShapeEnum

    return next(within(shape, TopAbs_ShapeEnum.TopAbs_SOLID))


def drilled_block(turn: float, overlap: float) -> Any:
    """A block of 20 mm with a hole of Ø8 by 10 mm from above, tip 118°, the drill ``turn`` degrees about its axis; its seams
    lie an ``overlap`` (rad) more than a turn from each other, as some exports have it."""
    from OCP.BRep import BRep_Builder, BRep_Tool
    from OCP.gp import gp_Vec2d
    from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
    from OCP.TopoDS import TopoDS

    tip = 4 / math.tan(math.radians(59))
    drill = shapes.fuse(shapes.cylinder((0, 0, 0), (0, 0, 1), 4, 20), shapes.cone((0, 0, 0), (0, 0, -1), 4, 0, tip))
    drill = shapes.moved(drill, axis=(0, 0, 1), degrees=turn)
    block = solid_of(shapes.cut(shapes.box((-10, -10, -10), (20, 20, 20)), drill))
    for face in faces_of(block):
        for edge in within(face, TopAbs_ShapeEnum.TopAbs_EDGE):
            edge = TopoDS.Edge(edge)
            if overlap and BRep_Tool.IsClosed_s(edge, face):
                ways = []
                for sense in (TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED):
                    ways.append(BRep_Tool.CurveOnSurface_s(TopoDS.Edge(edge.Oriented(sense)), face, 0.0, 0.0).Copy())
                far = max(ways, key=lambda w: w.Value(0.0).X())
                far.Translate(gp_Vec2d(overlap, 0.0))
                BRep_Builder().UpdateEdge(edge, *ways, face, BRep_Tool.Tolerance_s(edge))
    return block


def staple() -> Any:
    """A round wire bent to a staple, its tori quarter turns that begin and end where the angle about their axes does."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe
    from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt

    def bend(x: float, *angles: float) -> Any:
        about = gp_Circ(gp_Ax2(gp_Pnt(x, 0, 10), gp_Dir(0, -1, 0), gp_Dir(1, 0, 0)), 3)
        return BRepBuilderAPI_MakeEdge(about, *angles).Edge()

    def leg(*ends: tuple[float, float]) -> Any:
        return BRepBuilderAPI_MakeEdge(*(gp_Pnt(x, 0, z) for x, z in ends)).Edge()

    path = BRepBuilderAPI_MakeWire(leg((0, 0), (0, 10)), bend(3, math.pi / 2, math.pi), leg((3, 13), (13, 13)))
    path.Add(bend(13, 0, math.pi / 2))
    path.Add(leg((16, 10), (16, 0)))
    profile = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 1.2)).Edge()
    face = BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(profile).Wire()).Face()
    return BRepOffsetAPI_MakePipe(path.Wire(), face).Shape()


AWKWARD: dict[str, Callable[[], Any]] = {
    f.__name__: f
    for f in (countersunk_head, lemon, hollow_dome, hollow_lamp, two_patches, nut, thin_shell, inside_out, staple)
}
