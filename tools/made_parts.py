"""Parts made at random, for judging the projection: united and cut primitives, turned, swept and lofted shapes,
holes in holes, faces that coincide or touch on purpose, several bodies, open shells."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

from barequill.core import Part
from barequill.core.reading import shapes
from barequill.core.reading.preparing import prepare
from barequill.core.reading.raw import RawBody
from barequill.core.reading.weighing import weigh

Triple = tuple[float, float, float]


def bodies(*solids: Any) -> Part:
    """A part of some bodies of the kernel."""
    raw = [RawBody(f"body {k}", s) for k, s in enumerate(solids)]
    said = {"key": "", "name": "", "number": "", "unit": "millimetre"}
    return prepare(raw, lambda: weigh(raw), **said, progress=lambda share, what: None)


class Dice:
    """Chance that comes out the same each time for a seed."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)

    def figure(self, low: float, high: float) -> float:
        """A length; round figures on purpose often, since they make faces coincide and touch."""
        return self.random.choice([5, 10, 15, 20, 25, 30]) if self.random.random() < 0.6 else self.between(low, high)

    def between(self, low: float, high: float) -> float:
        return self.random.uniform(low, high)

    def often(self, share: float) -> bool:
        return self.random.random() < share

    def axis(self) -> Triple:
        if self.often(0.75):
            return self.random.choice([(1, 0, 0), (0, 1, 0), (0, 0, 1)])
        return self.between(-1, 1), self.between(-1, 1), self.between(0.2, 1)

    def place(self) -> Triple:
        def one() -> float:
            return self.random.choice([-20, -10, 0, 10, 20]) if self.often(0.6) else self.between(-25, 25)

        return one(), one(), one()


def primitive(dice: Dice) -> Any:
    """A box, cylinder, cone, sphere or torus."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    place = dice.place()
    kind = dice.random.choice(["box", "box", "cylinder", "cylinder", "cylinder", "cone", "sphere", "torus"])
    if kind == "box":
        return shapes.box(place, (dice.figure(5, 40), dice.figure(5, 40), dice.figure(5, 40)))
    if kind == "cylinder":
        return shapes.cylinder(place, dice.axis(), dice.figure(3, 20) / 1.5, dice.figure(5, 50))
    if kind == "cone":
        return shapes.cone(place, dice.axis(), dice.figure(5, 20), dice.figure(1, 12) / 3, dice.figure(10, 30))
    if kind == "sphere":
        return BRepPrimAPI_MakeSphere(gp_Pnt(*place), dice.figure(5, 20)).Shape()
    ring = gp_Ax2(gp_Pnt(*place), gp_Dir(*dice.axis()))
    return BRepPrimAPI_MakeTorus(ring, dice.between(12, 20), dice.between(3, 8)).Shape()


def edged(shape: Any, dice: Dice) -> Any:
    """With some edges rounded or chamfered."""
    from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet

    edges = shapes._edges(shape)
    tool = (BRepFilletAPI_MakeFillet if dice.often(0.6) else BRepFilletAPI_MakeChamfer)(shape)
    for edge in dice.random.sample(edges, min(len(edges), dice.random.randint(1, 3))):
        tool.Add(dice.random.choice([1, 2, 3]), edge)
    return tool.Shape()


def combined(dice: Dice) -> Any:
    """Primitives united and cut."""
    shape = shapes.box((-25, -20, -15), (50, 40, 30)) if dice.often(0.6) else primitive(dice)
    for _ in range(dice.random.randint(1, 4)):
        shape = (shapes.fuse if dice.often(0.5) else shapes.cut)(shape, primitive(dice))
    return edged(shape, dice) if dice.often(0.5) else shape


def turned(dice: Dice) -> Any:
    """A turned part of cylinders, cones and grooves, drilled across, some with a spline for a profile."""
    if dice.often(0.35):
        return shapes.cut(_vase(dice), shapes.cylinder((-40, 0, 0), (1, 0, 0), 4, 80))
    x, profile = -30.0, [(-30.0, 0.0)]
    for _ in range(dice.random.randint(2, 6)):
        radius = dice.figure(6, 25)
        profile.append((x, radius))
        x += dice.figure(4, 14)
        profile.append((x, radius if dice.often(0.7) else dice.figure(6, 25)))
    profile.append((x, 0.0))
    shape = shapes.turned([p for k, p in enumerate(profile) if k == 0 or p != profile[k - 1]])
    middle = (-30 + x) / 2
    for _ in range(dice.random.randint(0, 2)):
        shape = shapes.cut(shape, shapes.cylinder((middle, 0, -40), (0, 0, 1), dice.figure(2, 6) / 3, 80))
    if dice.often(0.5):
        shape = shapes.cut(shape, shapes.cylinder((-31, 0, 0), (1, 0, 0), 3, dice.figure(10, 40)))
    return edged(shape, dice) if dice.often(0.4) else shape


def _vase(dice: Dice) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt

    points = [gp_Pnt(-30 + 15 * k, 0, dice.between(8, 24)) for k in range(5)]
    foot, head = gp_Pnt(-30, 0, 0), gp_Pnt(30, 0, 0)
    wire = BRepBuilderAPI_MakeWire()
    wire.Add(BRepBuilderAPI_MakeEdge(foot, points[0]).Edge())
    wire.Add(spline_edge(points))
    wire.Add(BRepBuilderAPI_MakeEdge(points[-1], head).Edge())
    wire.Add(BRepBuilderAPI_MakeEdge(head, foot).Edge())
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return BRepPrimAPI_MakeRevol(face, gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0))).Shape()


def spline_edge(points: list[Any]) -> Any:
    """A smooth edge through some points of the kernel."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
    from OCP.collections import Array1_gp_Pnt
    from OCP.GeomAPI import GeomAPI_PointsToBSpline

    array = Array1_gp_Pnt(1, len(points))
    for k, p in enumerate(points):
        array.SetValue(k + 1, p)
    return BRepBuilderAPI_MakeEdge(GeomAPI_PointsToBSpline(array).Curve()).Edge()


def swept(dice: Dice) -> Any:
    """A round or square section along a bent line or a spline, on a foot or not."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe
    from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt

    points = [gp_Pnt(20 * k, dice.between(-8, 8) if k else 0, dice.between(-15, 15) if k else 0) for k in range(4)]
    spine = BRepBuilderAPI_MakeWire(spline_edge(points)).Wire()
    if dice.often(0.6):
        edge = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(points[0], gp_Dir(1, 0, 0)), dice.between(3, 6))).Edge()
        section = BRepBuilderAPI_MakeWire(edge).Wire()
    else:
        maker, half = BRepBuilderAPI_MakeWire(), dice.between(2, 5)
        corners = [gp_Pnt(0, a * half, b * half) for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
        for p, q in zip(corners, corners[1:] + corners[:1], strict=True):
            maker.Add(BRepBuilderAPI_MakeEdge(p, q).Edge())
        section = maker.Wire()
    shape = BRepOffsetAPI_MakePipe(spine, BRepBuilderAPI_MakeFace(section).Face()).Shape()
    return shapes.fuse(shape, shapes.box((-10, -12, -12), (12, 24, 24))) if dice.often(0.6) else shape


def lofted(dice: Dice) -> Any:
    """A skin through sections that grow, shrink and turn."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
    from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
    from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt

    tool = BRepOffsetAPI_ThruSections(True, dice.often(0.3))
    for k in range(dice.random.randint(2, 4)):
        centre = gp_Pnt(dice.between(-6, 6), dice.between(-6, 6), 16 * k)
        lean = gp_Dir(dice.between(-0.2, 0.2), dice.between(-0.2, 0.2), 1)
        ring = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(centre, lean), dice.between(6, 18))).Edge()
        tool.AddWire(BRepBuilderAPI_MakeWire(ring).Wire())
    tool.Build()
    shape = tool.Shape()
    return shapes.cut(shape, shapes.cylinder((0, 0, -5), (0, 0, 1), 4, 90)) if dice.often(0.5) else shape


def drilled(dice: Dice) -> Any:
    """A block with stepped, crossing, blind and coaxial holes, and cylinders that touch its faces."""
    shape = shapes.box((-30, -20, -10), (60, 40, 20))
    if dice.often(0.6):
        # a boss of the block's own width: its side runs into the block's sides without an edge
        shape = shapes.fuse(shape, shapes.cylinder((30, 0, -10), (0, 0, 1), 20, 20))
    if dice.often(0.4):
        shape = shapes.fuse(shape, shapes.cylinder((-30, 0, 10), (1, 0, 0), 10, dice.figure(20, 60)))
    for _ in range(dice.random.randint(1, 3)):
        x, y, r = dice.figure(5, 30) - 18, dice.figure(5, 20) - 12, dice.between(1.5, 4)
        shape = shapes.cut(shape, shapes.cylinder((x, y, -11), (0, 0, 1), r, 22))
        if dice.often(0.7):
            shape = shapes.cut(shape, shapes.cylinder((x, y, 4), (0, 0, 1), 1.7 * r, 20))
        if dice.often(0.4):
            shape = shapes.cut(shape, shapes.cone((x, y, -11), (0, 0, 1), 2 * r, r / 2, 5))
        if dice.often(0.5):
            shape = shapes.cut(shape, shapes.cylinder((x, -21, 0), (0, 1, 0), r if dice.often(0.5) else 1.2, 42))
    return edged(shape, dice) if dice.often(0.4) else shape


def gathered(dice: Dice) -> Any:
    """Several bodies that touch, overlap or stand apart."""
    from OCP.BRep import BRep_Builder
    from OCP.TopoDS import TopoDS_Compound

    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for make in dice.random.choices([combined, drilled, primitive], k=dice.random.randint(2, 3)):
        builder.Add(whole, shapes.moved(make(dice), (dice.random.choice([0, 20, 40]), dice.figure(5, 40), 0)))
    return whole


FAMILIES: tuple[Callable[[Dice], Any], ...] = (combined, turned, swept, lofted, drilled, gathered)


def random_shape(seed: int) -> Any | None:
    """A part made at random; None where the kernel fails to make a valid one."""
    from OCP.BRepCheck import BRepCheck_Analyzer
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    dice = Dice(seed)
    try:
        # primitives united and cut give the most different parts
        shape = FAMILIES[seed // 2 % len(FAMILIES) if seed % 2 else 0](dice)
        volume = GProp_GProps()
        BRepGProp.VolumeProperties_s(shape, volume)
        return shape if volume.Mass() > 100 and BRepCheck_Analyzer(shape).IsValid() else None
    except Exception:
        return None


def dome(outside: list[Triple], inside: list[Triple], turn: float, patches: int = 2) -> Any:
    """A shell between two profiles (from the foot to the pole, in the plane y = 0), turned about z in so many patches, from so
    far on (radians), as free-form faces."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
    from OCP.BRepBuilderAPI import (
        BRepBuilderAPI_MakeEdge,
        BRepBuilderAPI_MakeFace,
        BRepBuilderAPI_MakeWire,
        BRepBuilderAPI_NurbsConvert,
    )
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt

    outer, inner = ([gp_Pnt(*p) for p in points] for points in (outside, inside))
    wire = BRepBuilderAPI_MakeWire()
    for edge in (
        spline_edge(outer),
        BRepBuilderAPI_MakeEdge(outer[-1], inner[-1]).Edge(),
        spline_edge(inner),
        BRepBuilderAPI_MakeEdge(inner[0], outer[0]).Edge(),
    ):
        wire.Add(edge)
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    axis, pieces = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), []
    for k in range(patches):
        begin = shapes.moved(face, axis=(0, 0, 1), degrees=k * 360 / patches + math.degrees(turn))
        pieces.append(BRepPrimAPI_MakeRevol(begin, axis, 2 * math.pi / patches).Shape())
    whole = pieces[0]
    for piece in pieces[1:]:
        whole = BRepAlgoAPI_Fuse(whole, piece).Shape()
    return BRepBuilderAPI_NurbsConvert(whole, True).Shape()


def casting(seed: int) -> Any:
    """A housing half of 60 to 120 mm with walls of 2.5 to 5, ribs and bored bosses, most of its edges rounded: blends of free form
    where they run together."""
    dice = random.Random(seed)
    length, width, height = dice.uniform(60, 120), dice.uniform(40, 80), dice.uniform(20, 45)
    wall = dice.uniform(2.5, 5)
    shape = _blended(shapes.box((0, 0, 0), (length, width, height)), dice.uniform(4, 9), 0.8, dice)
    inner = shapes.box((wall, wall, wall), (length - 2 * wall, width - 2 * wall, height))
    shape = shapes.cut(shape, _blended(inner, dice.uniform(2, 5), 0.7, dice))
    for _ in range(dice.randint(1, 4)):
        corner = dice.uniform(0.2, 0.8) * length, wall / 2, wall / 2
        shape = shapes.fuse(shape, shapes.box(corner, (wall * 0.8, width - wall, height * dice.uniform(0.4, 0.8))))
    for _ in range(dice.randint(1, 3)):
        x, y = dice.uniform(0.2, 0.8) * length, dice.uniform(0.3, 0.7) * width
        boss = shapes.cone((x, y, wall / 2), (0, 0, 1), dice.uniform(5, 8), dice.uniform(3, 5), height * 0.8)
        shape = shapes.cut(shapes.fuse(shape, boss), shapes.cylinder((x, y, -1), (0, 0, 1), 2.0, height + 2))
    return _blended(shape, dice.uniform(0.6, 1.6), 0.6, dice)


def _blended(shape: Any, radius: float, share: float, dice: random.Random) -> Any:
    """A shape with a share of its edges rounded, or as many of these as the kernel can."""
    from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet

    edges = shapes._edges(shape)
    dice.shuffle(edges)
    most = max(1, int(share * len(edges)))
    for count in (most, most // 2, most // 4, most // 8, 4, 2, 1):
        maker = BRepFilletAPI_MakeFillet(shape)
        try:
            for edge in edges[: max(count, 1)]:
                maker.Add(radius, edge)
            maker.Build()
            if maker.IsDone():
                return maker.Shape()
        except Exception:
            continue
    return shape


def write_shape(path: Path, shape, unit: str = "MM") -> Path:
    """Write a kernel shape in the format that the path's suffix tells."""
    from OCP.BRepTools import BRepTools
    from OCP.IGESControl import IGESControl_Writer
    from OCP.Interface import Interface_Static
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    if path.suffix == ".brep":
        BRepTools.Write_s(shape, str(path))
    elif path.suffix == ".igs":
        writer = IGESControl_Writer(unit, 1)
        writer.AddShape(shape)
        writer.Write(str(path))
    else:
        step = STEPControl_Writer()
        Interface_Static.SetCVal_s("write.step.unit", unit)
        step.Transfer(shape, STEPControl_StepModelType.STEPControl_AsIs)
        step.Write(str(path))
        Interface_Static.SetCVal_s("write.step.unit", "MM")
    return path


def ring(big: float, small: float) -> object:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus

    return BRepPrimAPI_MakeTorus(big, small).Shape()


def write_assembly(path: Path, plan: dict[str, Any]) -> Path:
    """Write a STEP file of products: by name the kernel's shape, or a list of the products that it is put together of, each with
    how far (mm) along x it stands. The first is the whole."""
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.STEPControl import STEPControl_StepModelType
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopLoc import TopLoc_Location
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("made"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels: dict[str, Any] = {}

    def label(name: str) -> Any:
        if name not in labels:
            own = plan[name]
            if isinstance(own, list):
                made = tool.NewShape()
                for child, x in own:
                    move = gp_Trsf()
                    move.SetTranslation(gp_Vec(x, 0, 0))
                    tool.AddComponent(made, label(child), TopLoc_Location(move))
            else:
                made = tool.AddShape(own, False)
            TDataStd_Name.Set_s(made, TCollection_ExtendedString(name, True))
            labels[name] = made
        return labels[name]

    label(next(iter(plan)))
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs)
    writer.Write(str(path))
    return path
