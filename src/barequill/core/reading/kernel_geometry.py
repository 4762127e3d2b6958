"""From the kernel's curves and surfaces to exact curves and surfaces of our own."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.Geom import Geom_RectangularTrimmedSurface
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GeomAbs import GeomAbs_SurfaceType as SurfaceType
from OCP.GeomConvert import GeomConvert

from ..geometry.curves3 import Curve3
from ..geometry.recognition import frame_about
from ..geometry.surfaces import Surface
from .raw import moved

Array = NDArray[np.float64]
_ELEMENTARY = {
    SurfaceType.GeomAbs_Plane: ("plane", "Plane"),
    SurfaceType.GeomAbs_Cylinder: ("cylinder", "Cylinder"),
    SurfaceType.GeomAbs_Cone: ("cone", "Cone"),
    SurfaceType.GeomAbs_Sphere: ("sphere", "Sphere"),
    SurfaceType.GeomAbs_Torus: ("torus", "Torus"),
}


def xyz(p: Any) -> Array:
    """Coordinates of a kernel point, vector or direction."""
    return np.array(p.Coord())


def _flat(curve: Any, count: int, knot: str, times: str) -> Array:
    values = [getattr(curve, knot)(i + 1) for i in range(count)]
    repeats = [getattr(curve, times)(i + 1) for i in range(count)]
    return np.repeat(np.array(values, dtype=float), repeats)


def _clamped(spline: Any, degree: int, count: int, times: str) -> bool:
    """True where a spline begins and ends at its first and last poles, as all do that we evaluate."""
    repeats = getattr(spline, times)
    return bool(repeats(1) > degree and repeats(count) > degree)


def nurbs_curve(curve: Any, place: Any, t0: float, t1: float) -> Curve3:
    """A kernel B-spline curve, moved to its place unless that is None, between two of its parameters."""
    if curve.IsPeriodic() or not _clamped(curve, curve.Degree(), curve.NbKnots(), "Multiplicity"):
        curve = curve.Copy()
    if curve.IsPeriodic():
        low, high = curve.FirstParameter(), curve.LastParameter()
        if t0 < low - 1e-9 or t1 > high + 1e-9:
            curve.SetOrigin(curve.FirstUKnotIndex())
            curve.Segment(t0, t1)
        if curve.IsPeriodic():
            curve.SetNotPeriodic()
    if not _clamped(curve, curve.Degree(), curve.NbKnots(), "Multiplicity"):
        curve.Segment(curve.FirstParameter(), curve.LastParameter())
    n = curve.NbPoles()
    poles = moved(np.array([curve.Pole(i + 1).Coord() for i in range(n)]), place)
    weights = np.array([curve.Weight(i + 1) for i in range(n)]) if curve.IsRational() else None
    knots = _flat(curve, curve.NbKnots(), "Knot", "Multiplicity")
    t0, t1 = max(t0, float(knots[0])), min(t1, float(knots[-1]))
    whole = Curve3(
        "nurbs", float(knots[0]), float(knots[-1]), degree=curve.Degree(), knots=knots, poles=poles, weights=weights
    )
    near = 1e-9 * (knots[-1] - knots[0])
    return whole.piece(t0, t1) if t0 > knots[0] + near or t1 < knots[-1] - near else whole


def curve_of(edge: Any) -> Curve3:
    """The exact curve of an edge (anything that is not a line, circle, ellipse or B-spline becomes one)."""
    adaptor = BRepAdaptor_Curve(edge)
    kind, t0, t1 = adaptor.GetType(), adaptor.FirstParameter(), adaptor.LastParameter()
    return _adapted(adaptor, kind, t0, t1)


def _adapted(adaptor: Any, kind: Any, t0: float, t1: float) -> Curve3:
    if kind == CurveType.GeomAbs_Line:
        line = adaptor.Line()
        return Curve3("line", t0, t1, origin=xyz(line.Location()), x=xyz(line.Direction()))
    if kind in (CurveType.GeomAbs_Circle, CurveType.GeomAbs_Ellipse):
        conic = adaptor.Circle() if kind == CurveType.GeomAbs_Circle else adaptor.Ellipse()
        radii = (
            (conic.Radius(), conic.Radius())
            if kind == CurveType.GeomAbs_Circle
            else (conic.MajorRadius(), conic.MinorRadius())
        )
        frame = conic.Position()
        return Curve3(
            "conic",
            t0,
            t1,
            origin=xyz(frame.Location()),
            x=radii[0] * xyz(frame.XDirection()),
            y=radii[1] * xyz(frame.YDirection()),
        )
    return _as_nurbs(adaptor, t0, t1)


def _as_nurbs(adaptor: Any, t0: float, t1: float) -> Curve3:
    from OCP.GeomAbs import GeomAbs_Shape
    from OCP.GeomConvert import GeomConvert_ApproxCurve

    if adaptor.GetType() == CurveType.GeomAbs_BSplineCurve and hasattr(adaptor, "BSpline"):
        spline = adaptor.BSpline()
        return nurbs_curve(spline.Copy() if hasattr(spline, "Copy") else spline, None, t0, t1)
    from OCP.Geom import Geom_TrimmedCurve

    geometry = adaptor.Curve().Curve() if hasattr(adaptor, "Trsf") and adaptor.Is3DCurve() else None
    place = adaptor.Trsf() if hasattr(adaptor, "Trsf") else None
    if geometry is not None:
        trimmed = Geom_TrimmedCurve(geometry, t0, t1)
        try:
            spline = GeomConvert.CurveToBSplineCurve_s(trimmed)
        except Exception:
            spline = GeomConvert_ApproxCurve(trimmed, 1e-6, GeomAbs_Shape.GeomAbs_C1, 100, 8).Curve()
        return nurbs_curve(spline, place, spline.FirstParameter(), spline.LastParameter())
    t = np.linspace(t0, t1, 65)
    poles = np.array([xyz(adaptor.Value(float(x))) for x in t])
    knots = np.concatenate([[t[0]], t, [t[-1]]])
    return Curve3("nurbs", t0, t1, degree=1, knots=knots, poles=poles)


def _axes(frame: Any) -> Array:
    return np.array([xyz(frame.XDirection()), xyz(frame.YDirection()), xyz(frame.Direction())])


def surface_of(face: Any) -> Surface:
    """The exact surface of a face, in the part's frame; parameters are the kernel's."""
    adaptor = BRepAdaptor_Surface(face)
    kind = adaptor.GetType()
    if kind in _ELEMENTARY:
        name, getter = _ELEMENTARY[kind]
        shape = getattr(adaptor, getter)()
        frame = shape.Position()
        radius = minor = half = 0.0
        if name == "cylinder" or name == "sphere":
            radius = shape.Radius()
        elif name == "cone":
            radius, half = shape.RefRadius(), shape.SemiAngle()
        elif name == "torus":
            radius, minor = shape.MajorRadius(), shape.MinorRadius()
        return Surface(name, xyz(frame.Location()), _axes(frame), radius, minor, half)  # type: ignore[arg-type]
    if kind in (SurfaceType.GeomAbs_SurfaceOfRevolution, SurfaceType.GeomAbs_SurfaceOfExtrusion):
        swept = _swept(adaptor, kind)
        if swept is not None:
            return swept
    return _nurbs_surface(adaptor)


def _swept(adaptor: Any, kind: Any) -> Surface | None:
    """A surface of revolution or extrusion with its profile, or None where its parameters would differ."""
    basis = adaptor.BasisCurve()
    turning = kind == SurfaceType.GeomAbs_SurfaceOfRevolution
    low, high = (
        (adaptor.FirstVParameter(), adaptor.LastVParameter())
        if turning
        else (adaptor.FirstUParameter(), adaptor.LastUParameter())
    )
    basis_kind = basis.GetType()
    if basis_kind in (CurveType.GeomAbs_Line, CurveType.GeomAbs_Circle, CurveType.GeomAbs_Ellipse):
        profile = _adapted(basis, basis_kind, low, high)
    elif basis_kind == CurveType.GeomAbs_BSplineCurve:
        spline = basis.BSpline()
        profile = nurbs_curve(spline, None, spline.FirstParameter(), spline.LastParameter())
    else:
        return None
    if turning:
        axis = adaptor.AxeOfRevolution()
        z, origin = xyz(axis.Direction()), xyz(axis.Location())
    else:
        z, origin = xyz(adaptor.Direction()), np.zeros(3)
    return Surface("revolution" if turning else "extrusion", origin, frame_about(z), profile=profile)


def _nurbs_surface(adaptor: Any) -> Surface:
    from OCP.GeomAbs import GeomAbs_Shape
    from OCP.GeomConvert import GeomConvert_ApproxSurface

    base = adaptor.Surface().Surface()
    window = [adaptor.FirstUParameter(), adaptor.LastUParameter(), adaptor.FirstVParameter(), adaptor.LastVParameter()]
    place = adaptor.Trsf()
    if adaptor.GetType() == SurfaceType.GeomAbs_BSplineSurface:
        spline = adaptor.BSpline()
        place = None
    else:
        trimmed = Geom_RectangularTrimmedSurface(base, *window)
        if adaptor.GetType() == SurfaceType.GeomAbs_BezierSurface:
            spline = GeomConvert.SurfaceToBSplineSurface_s(trimmed)
        else:
            spline = GeomConvert_ApproxSurface(
                trimmed, 1e-5, GeomAbs_Shape.GeomAbs_C1, GeomAbs_Shape.GeomAbs_C1, 8, 8, 60, 0
            ).Surface()
    if spline.IsUPeriodic():
        spline.SetUNotPeriodic()
    if spline.IsVPeriodic():
        spline.SetVNotPeriodic()
    if not (
        _clamped(spline, spline.UDegree(), spline.NbUKnots(), "UMultiplicity")
        and _clamped(spline, spline.VDegree(), spline.NbVKnots(), "VMultiplicity")
    ):
        spline.Segment(*spline.Bounds())
    nu, nv = spline.NbUPoles(), spline.NbVPoles()
    poles = moved(np.array([[spline.Pole(i + 1, j + 1).Coord() for j in range(nv)] for i in range(nu)]), place)
    rational = spline.IsURational() or spline.IsVRational()
    weights = np.array([[spline.Weight(i + 1, j + 1) for j in range(nv)] for i in range(nu)]) if rational else None
    return Surface(
        "nurbs",
        np.zeros(3),
        np.eye(3),
        degrees=(spline.UDegree(), spline.VDegree()),
        knots=(
            _flat(spline, spline.NbUKnots(), "UKnot", "UMultiplicity"),
            _flat(spline, spline.NbVKnots(), "VKnot", "VMultiplicity"),
        ),
        poles=poles,
        weights=weights,
    )
