"""Areas of a recipe as faces of the kernel, and what of a shape lies at a place."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_ShapeEnum as Kind
from OCP.TopoDS import TopoDS

from ..errors import UserError
from ..recipe import model as m
from ..recipe.figures import Figures
from .raw import within

Vector = tuple[float, float, float]
WAYS: dict[str, tuple[Vector, Vector, Vector]] = {
    "xy": ((1, 0, 0), (0, 1, 0), (0, 0, 1)),
    "xz": ((1, 0, 0), (0, 0, 1), (0, 1, 0)),
    "yz": ((0, 1, 0), (0, 0, 1), (1, 0, 0)),
}
"""Right and up of a plane, and the axis that its name lacks."""


@dataclass(frozen=True)
class Frame:
    """A plane in space: its origin, its right and up, and the way in which what lies in it is pushed."""

    origin: Vector
    right: Vector
    up: Vector
    normal: Vector

    def at(self, u: float, v: float) -> Vector:
        """A place of it in space."""
        x, y, z = (o + u * r + v * w for o, r, w in zip(self.origin, self.right, self.up, strict=True))
        return x, y, z

    def along(self, by: float) -> Vector:
        """So far along its normal."""
        x, y, z = (by * n for n in self.normal)
        return x, y, z


class Areas:
    """Areas of a recipe as faces, by what its figures come to."""

    def __init__(self, figures: Figures) -> None:
        self._figures, self._figure = figures, figures.of

    def plane(self, plane: m.Plane, origin: m.Place) -> Frame:
        """A plane through an origin.

        Raises
        ------
        UserError
            Where its right and up have no length, or are not square to each other.
        """
        at = self._figures.place(origin)
        if isinstance(plane, str):
            return Frame(at, *WAYS[plane])
        right, up = (np.array(self._figures.place(p)) for p in (plane.right, plane.up))
        lengths = np.linalg.norm(right), np.linalg.norm(up)
        if min(lengths) < 1e-9 or abs(right @ up) > 1e-6 * lengths[0] * lengths[1]:
            raise UserError("its plane is no plane", "Its right and up are square to each other, and have some length.")
        right, up = right / lengths[0], up / lengths[1]
        ways = (right, up, np.cross(right, up))
        return Frame(at, *(tuple(float(c) for c in w) for w in ways))  # type: ignore[arg-type]

    def face(self, profile: m.Profile, frame: Frame) -> Any:
        """A profile as a face.

        Raises
        ------
        UserError
            Where it does not close, crosses itself, or a hole is not within it.
        """
        plane = gp_Pln(gp_Pnt(*frame.origin), gp_Dir(*np.cross(frame.right, frame.up).tolist()))
        maker = BRepBuilderAPI_MakeFace(plane, self._wire(profile.area, frame), True)
        if not maker.IsDone():
            raise UserError("its outline is no area", "It has to close, and not to cross itself.")
        face = maker.Face()
        whole = area_of(face)
        for hole in profile.holes:
            inner = BRepBuilderAPI_MakeFace(plane, self._wire(hole, frame), True).Face()
            adding = BRepBuilderAPI_MakeFace(face)
            adding.Add(TopoDS.Wire(BRepTools.OuterWire_s(inner).Reversed()))
            face = adding.Face()
            whole -= area_of(inner)
        if not BRepCheck_Analyzer(face).IsValid() or abs(area_of(face) - whole) > 1e-6 * abs(whole):
            raise UserError("its outline is no area", "It crosses itself, or a hole of it is not within it.")
        return face

    def path(self, path: list[Any]) -> Any:
        """Places and arcs in space as a wire."""
        wire, last = BRepBuilderAPI_MakeWire(), None
        for item in path:
            if isinstance(item, m.ArcInSpace):
                if last is None:
                    raise UserError("its path begins with an arc", "Say first the place from which it goes.")
                end = gp_Pnt(*self._figures.place(item.to))
                wire.Add(_arc(last, gp_Pnt(*self._figures.place(item.through)), end))
            else:
                end = gp_Pnt(*self._figures.place(item))
                if last is not None:
                    wire.Add(_line(last, end))
            last = end
        return wire.Wire()

    def _wire(self, area: m.Area, frame: Frame) -> Any:
        if isinstance(area, m.Circle):
            u, v = (self._figure(c) for c in area.centre)
            normal = gp_Dir(*np.cross(frame.right, frame.up).tolist())
            axes = gp_Ax2(gp_Pnt(*frame.at(u, v)), normal, gp_Dir(*frame.right))
            circle = gp_Circ(axes, self._figures.above_nothing(area.diameter, "diameter") / 2)
            return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
        wire = BRepBuilderAPI_MakeWire()
        for edge in self._edges(self._outline(area), frame):
            wire.Add(edge)
        return wire.Wire()

    def _outline(self, area: m.Area) -> list[Any]:
        if isinstance(area, m.Polygon):
            u, v = (self._figure(c) for c in area.centre)
            start = self._figure(area.start)
            reach = self._figures.above_nothing(area.across, "width across flats") / 2 / math.cos(math.pi / area.sides)
            turns = (math.radians(start + 360 * k / area.sides) for k in range(area.sides))
            return [(u + reach * math.cos(t), v + reach * math.sin(t)) for t in turns]
        if not isinstance(area, m.Rectangle):
            return list(area)
        u, v = (self._figure(c) for c in area.corner)
        w, h = (self._figures.above_nothing(c, "side") for c in area.size)
        r = self._figure(area.round)
        if r < 0 or 2 * r > min(w, h) + 1e-9:
            raise UserError(f"its corners are rounded by {r:g}", f"At most {min(w, h) / 2:g} fits.")
        if r < 1e-9:
            return [(u, v), (u + w, v), (u + w, v + h), (u, v + h)]
        s = r * (1 - math.sqrt(0.5))

        def arc(through: tuple[float, float], to: tuple[float, float]) -> m.Arc:
            return m.Arc(through=through, to=to)

        return [
            (u + r, v),
            (u + w - r, v),
            arc((u + w - s, v + s), (u + w, v + r)),
            (u + w, v + h - r),
            arc((u + w - s, v + h - s), (u + w - r, v + h)),
            (u + r, v + h),
            arc((u + s, v + h - s), (u, v + h - r)),
            (u, v + r),
            arc((u + s, v + s), (u + r, v)),
        ]

    def _edges(self, outline: list[Any], frame: Frame) -> list[Any]:
        def spot(item: Any) -> Any:
            return gp_Pnt(*frame.at(*(self._figure(c) for c in item)))

        if isinstance(outline[0], m.Arc):
            raise UserError("its outline begins with an arc", "Say first the place from which it goes.")
        start = last = spot(outline[0])
        found = []
        for item in outline[1:]:
            end = spot(item.to if isinstance(item, m.Arc) else item)
            if isinstance(item, m.Arc):
                found.append(_arc(last, spot(item.through), end))
            elif last.Distance(end) > 1e-7:
                found.append(_line(last, end))
            last = end
        return [*found, *([_line(last, start)] if last.Distance(start) > 1e-7 else [])]


def _line(start: Any, end: Any) -> Any:
    if start.Distance(end) <= 1e-7:
        raise UserError("two places of it are the same", "Leave one of them out.")
    return BRepBuilderAPI_MakeEdge(start, end).Edge()


def _arc(start: Any, through: Any, end: Any) -> Any:
    maker = GC_MakeArcOfCircle(start, through, end)
    if not maker.IsDone():
        raise UserError("an arc of it is none", "Its three places lie on a line, or two of them are the same.")
    return BRepBuilderAPI_MakeEdge(maker.Value()).Edge()


def area_of(face: Any) -> float:
    """Area of a face, mm²."""
    found = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, found)
    return float(found.Mass())


def volume_of(shape: Any) -> float:
    """Volume of a shape, mm³; below 0 where it is inside out."""
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, found)
    return float(found.Mass())


def solids_of(shape: Any) -> int:
    """How many solids a shape holds."""
    return sum(1 for _ in within(shape, Kind.TopAbs_SOLID))


def sound(shape: Any) -> Any:
    """A shape that is a solid without faults.

    Raises
    ------
    UserError
        Where nothing is left of it, or it has faults.
    """
    if shape is None or shape.IsNull() or not solids_of(shape):
        raise UserError("nothing is left of the body", "It takes all of it away. Make it smaller.")
    if not BRepCheck_Analyzer(shape).IsValid() or volume_of(shape) <= 0:
        raise UserError(
            "what it makes is no sound body",
            "It does not fit the body as it stands: it may be too large, or cross itself. Change its sizes.",
        )
    return shape


def _near(shape: Any, kind: Any, place: Vector, near: float) -> list[tuple[float, Any]]:
    """What of a kind lies within ``near`` of a place, with how far off each is, nearest first."""
    spot = BRepBuilderAPI_MakeVertex(gp_Pnt(*place)).Vertex()
    found: list[tuple[float, Any]] = []
    for one in within(shape, kind):
        if kind == Kind.TopAbs_EDGE and BRep_Tool.Degenerated_s(TopoDS.Edge(one)):
            continue
        apart = BRepExtrema_DistShapeShape(spot, one)
        if apart.IsDone() and apart.Value() <= near and not any(one.IsSame(other) for _, other in found):
            found.append((apart.Value(), one))
    return sorted(found, key=lambda f: f[0])


def edges_at(shape: Any, place: Vector, near: float) -> list[Any]:
    """The edge that lies at a place.

    Raises
    ------
    UserError
        Where none does, or several meet there.
    """
    found = [TopoDS.Edge(e) for _, e in _near(shape, Kind.TopAbs_EDGE, place, near)]
    told = ", ".join(f"{c:.6g}" for c in place)
    if not found:
        raise UserError(f"no edge lies at {told}", "Say a place on the edge; it moves where sizes before it change.")
    if len(found) > 1:
        raise UserError(f"{len(found)} edges meet at {told}", "Say a place on the edge that is none of its ends.")
    return found


def faces_at(shape: Any, place: Vector, near: float, every: bool = False) -> list[Any]:
    """The face that lies at a place, or ``every`` one.

    Raises
    ------
    UserError
        Where one is wanted and none lies there, or several meet.
    """
    found = [TopoDS.Face(f) for _, f in _near(shape, Kind.TopAbs_FACE, place, near)]
    if every or len(found) == 1:
        return found
    told = ", ".join(f"{c:.6g}" for c in place)
    if not found:
        raise UserError(f"no face lies at {told}", "Say a place on the face; it moves where sizes before it change.")
    raise UserError(f"{len(found)} faces meet at {told}", "Say a place within the face, not on its border.")
