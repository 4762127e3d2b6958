"""Small tools over the kernel to build shapes. Lengths in mm, angles in degrees."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe, BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
)
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.collections import List_TopoDS_Shape
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS

Point = tuple[float, float, float]


def box(corner: Point, size: Point) -> Any:
    """A box from its lowest corner."""
    return BRepPrimAPI_MakeBox(gp_Pnt(*corner), *size).Shape()


def cylinder(foot: Point, axis: Point, radius: float, height: float) -> Any:
    """A cylinder."""
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*foot), gp_Dir(*axis)), radius, height).Shape()


def ball(middle: Point, radius: float) -> Any:
    """A ball."""
    return BRepPrimAPI_MakeSphere(gp_Pnt(*middle), radius).Shape()


def cone(foot: Point, axis: Point, radius: float, top: float, height: float) -> Any:
    """A truncated cone."""
    return BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(*foot), gp_Dir(*axis)), radius, top, height).Shape()


def fuse(*shapes: Any) -> Any:
    """The union, with faces of one surface made one."""
    whole = shapes[0]
    for shape in shapes[1:]:
        whole = BRepAlgoAPI_Fuse(whole, shape).Shape()
    return unified(whole)


def cut(shape: Any, *tools: Any) -> Any:
    """The shape less the tools."""
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return unified(shape)


def unified(shape: Any) -> Any:
    """Neighbouring faces of one surface joined."""
    tool = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    tool.Build()
    return tool.Shape()


def prism(outline: list[tuple[Any, ...]], along: Point) -> Any:
    """An outline swept along a vector: points (x, y, z), or (through, end) for an arc from the last point."""
    wire = BRepBuilderAPI_MakeWire()
    start = last = gp_Pnt(*outline[0])
    for item in outline[1:]:
        if isinstance(item[0], tuple):
            through, end = gp_Pnt(*item[0]), gp_Pnt(*item[1])
            wire.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(last, through, end).Value()).Edge())
        else:
            end = gp_Pnt(*item)
            wire.Add(BRepBuilderAPI_MakeEdge(last, end).Edge())
        last = end
    if last.Distance(start) > 1e-6:
        wire.Add(BRepBuilderAPI_MakeEdge(last, start).Edge())
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(*along)).Shape()


def turned(profile: list[tuple[float, float]]) -> Any:
    """A profile of (x, radius) turned about the X axis."""
    points = [(x, 0.0, r) for x, r in profile]
    wire = BRepBuilderAPI_MakeWire()
    for p, q in zip(points, points[1:] + points[:1], strict=True):
        wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(*p), gp_Pnt(*q)).Edge())
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return BRepPrimAPI_MakeRevol(face, gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0))).Shape()


def _edges(shape: Any) -> list[Any]:
    found = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_EDGE, found)
    return [TopoDS.Edge(found.FindKey(i + 1)) for i in range(found.Extent())]


def _middle(edge: Any) -> Point:
    from OCP.BRepAdaptor import BRepAdaptor_Curve

    curve = BRepAdaptor_Curve(edge)
    p = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    return p.X(), p.Y(), p.Z()


def _at(shape: Any, places: list[Point]) -> list[Any]:
    edges = _edges(shape)
    return [min(edges, key=lambda e: math.dist(_middle(e), p)) for p in places]


def rounded(shape: Any, radius: float, places: list[Point]) -> Any:
    """Fillets on the edges whose middles lie nearest to places."""
    return filleted(shape, radius, _at(shape, places))


def chamfered(shape: Any, width: float, places: list[Point]) -> Any:
    """Chamfers on the edges whose middles lie nearest to places."""
    return bevelled(shape, width, _at(shape, places))


def bent(flats: list[float], turns: list[float], radius: float, thick: float, wide: float) -> Any:
    """A strip of flats with bends by angles (degrees, counter-clockwise above 0) between them, all of one radius within, ``wide`` along y;
    it begins flat along x, its lower side at z = 0."""
    at, way = np.array([0.0, 0.0]), 0.0
    low: list[Any] = [at]
    high: list[Any] = [at + (0, thick)]

    def off(angle: float) -> np.ndarray:
        return np.array([-math.sin(angle), math.cos(angle)])

    for k, flat in enumerate(flats):
        at = at + flat * np.array([math.cos(way), math.sin(way)])
        low.append(at)
        high.append(at + thick * off(way))
        if k < len(turns):
            turn = math.radians(turns[k])
            left = turn > 0
            heart = at + off(way) * ((thick + radius) if left else -radius)
            arcs: tuple[list[Any], list[Any]] = ([], [])
            for share in (0.5, 1.0):
                n = off(way + share * turn)
                for side, arc in ((0.0, arcs[0]), (thick, arcs[1])):
                    r = (radius + thick - side) if left else (radius + side)
                    arc.append(heart - r * n if left else heart + r * n)
            low.append(tuple(arcs[0]))
            high.append(tuple(arcs[1]))
            at, way = arcs[0][1], way + turn

    def space(p: np.ndarray) -> tuple[float, float, float]:
        return (float(p[0]), 0.0, float(p[1]))

    outline: list[Any] = [space(low[0])]
    for item in low[1:]:
        outline.append(tuple(map(space, item)) if isinstance(item, tuple) else space(item))
    back = high[::-1]
    outline.append(space(back[0]))
    for k, item in enumerate(back):
        if isinstance(item, tuple):
            outline += [space(item[1]), (space(item[0]), space(back[k + 1]))]
        elif k and not isinstance(back[k - 1], tuple):
            outline.append(space(item))
    return prism(outline, (0, wide, 0))


def moved(
    shape: Any, by: Point = (0, 0, 0), axis: Point | None = None, degrees: float = 0.0, about: Point = (0, 0, 0)
) -> Any:
    """The shape turned about an axis, then moved."""
    trsf = gp_Trsf()
    if axis is not None:
        trsf.SetRotation(gp_Ax1(gp_Pnt(*about), gp_Dir(*axis)), math.radians(degrees))
    shift = gp_Trsf()
    shift.SetTranslation(gp_Vec(*by))
    return BRepBuilderAPI_Transform(shape, shift.Multiplied(trsf), True).Shape()


def pushed(face: Any, along: Point) -> Any:
    """A face moved along a vector, as a solid."""
    return BRepPrimAPI_MakePrism(face, gp_Vec(*along)).Shape()


def turned_about(face: Any, at: Point, along: Point, degrees: float) -> Any:
    """A face turned about a line, as a solid."""
    axis = gp_Ax1(gp_Pnt(*at), gp_Dir(*along))
    if abs(abs(degrees) - 360) < 1e-9:
        return BRepPrimAPI_MakeRevol(face, axis).Shape()
    return BRepPrimAPI_MakeRevol(face, axis, math.radians(degrees)).Shape()


def turned_along(profile: list[tuple[float, float]], at: Point, along: Point) -> Any:
    """A closed profile of (how far along a line, how far from it) turned about that line."""
    side = square_to(along)
    corners = [gp_Pnt(*(a + x * u + r * s for a, u, s in zip(at, along, side, strict=True))) for x, r in profile]
    wire = BRepBuilderAPI_MakeWire()
    for p, q in zip(corners, corners[1:] + corners[:1], strict=True):
        wire.Add(BRepBuilderAPI_MakeEdge(p, q).Edge())
    return turned_about(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), at, along, 360)


def square_to(way: Point) -> Point:
    """A unit vector square to a unit vector."""
    least = np.eye(3)[int(np.argmin(np.abs(way)))]
    found = np.cross(way, least)
    x, y, z = (float(c) for c in found / np.linalg.norm(found))
    return x, y, z


def swept(face: Any, path: Any) -> Any:
    """A face moved along a wire, as a solid."""
    return BRepOffsetAPI_MakePipe(path, face).Shape()


def common(shape: Any, other: Any) -> Any:
    """What lies within both."""
    return unified(BRepAlgoAPI_Common(shape, other).Shape())


def extent(shape: Any) -> float:
    """The diagonal of the box about a shape."""
    from .extent import rough_box

    low, high = rough_box([shape])
    return math.dist(low, high)


def mirrored(shape: Any, at: Point, normal: Point) -> Any:
    """The shape on the other side of a plane."""
    trsf = gp_Trsf()
    trsf.SetMirror(gp_Ax2(gp_Pnt(*at), gp_Dir(*normal)))
    return BRepBuilderAPI_Transform(shape, trsf, True).Shape()


def hollowed(shape: Any, opened: list[Any], thick: float) -> Any:
    """The shape hollowed out to walls within it, open at some faces."""
    faces = List_TopoDS_Shape()
    for face in opened:
        faces.Append(face)
    tool = BRepOffsetAPI_MakeThickSolid()
    tool.MakeThickSolidByJoin(shape, faces, -thick, 1e-4)
    return tool.Shape()


def filleted(shape: Any, radius: float, edges: list[Any]) -> Any:
    """Edges of a shape rounded."""
    tool = BRepFilletAPI_MakeFillet(shape)
    for edge in edges:
        tool.Add(radius, edge)
    return tool.Shape()


def bevelled(shape: Any, width: float, edges: list[Any]) -> Any:
    """Edges of a shape chamfered."""
    tool = BRepFilletAPI_MakeChamfer(shape)
    for edge in edges:
        tool.Add(width, edge)
    return tool.Shape()
