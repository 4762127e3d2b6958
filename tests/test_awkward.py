"""Parts as real files hold them, drawn truly: judged by rays, and by what a hand can work out."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from barequill.core import project
from barequill.core.projection import PRINCIPAL, outlines, strands
from barequill.core.reading import describing, shapes
from tools.awkward_parts import AWKWARD, countersunk_head, hollow_dome, inside_out, lemon
from tools.common import at_length
from tools.made_parts import bodies, ring
from tools.truth import LEAST, bodies_of, random_part, verdict


@pytest.mark.parametrize("name", list(AWKWARD)[:: at_length(2, 1)])
def test_an_awkward_part_is_drawn_truly_by_the_judgement_of_rays(name: str) -> None:
    shape = AWKWARD[name]()
    for view, shares in verdict(bodies_of(shape), random_part(shape), ["front", "top", "iso", "aslant"]).items():
        assert min(shares.all()) >= LEAST, (view, shares)


@pytest.mark.parametrize("make", [countersunk_head, lemon, hollow_dome, inside_out])
def test_every_normal_points_out_of_the_body(make) -> None:
    """A step along it leaves the body, by the kernel's own classification of points."""
    from OCP.BRepClass3d import BRepClass3d_SolidClassifier
    from OCP.gp import gp_Pnt
    from OCP.TopAbs import TopAbs_State

    (solid,) = bodies_of(make())
    part = bodies(solid)
    judge = BRepClass3d_SolidClassifier(solid)
    # a solid turned inside out has its inside without
    judge.PerformInfinitePoint(1e-6)
    far = judge.State()
    for face in part.faces:
        t = part.mesh.triangles[face.triangles]
        middle = part.mesh.nodes[t].mean(axis=1)[len(t) // 2]
        normal = part.mesh.normals[t].mean(axis=1)[len(t) // 2]
        normal /= np.linalg.norm(normal)
        judge.Perform(gp_Pnt(*(middle + 0.05 * normal)), 1e-6)
        assert judge.State() == far != TopAbs_State.TopAbs_ON, face.surface.kind


def test_a_face_that_cannot_be_followed_costs_no_view_and_is_told(monkeypatch) -> None:
    part = random_part(AWKWARD["two_patches"]())
    whole = project(part, *PRINCIPAL["iso"])

    def broken(*_args, **_named):
        raise ZeroDivisionError("division by zero")

    monkeypatch.setattr(outlines, "followed", broken)
    found = project(part, *PRINCIPAL["iso"])
    meshed = [c for c in found if c.meshed]
    assert meshed and not any(c.meshed for c in whole)
    assert {c.source for c in found} == {c.source for c in whole}
    outline = [c for c in whole if c.cls == "outline"]
    length = sum(c.curve.length() for c in meshed)
    assert length == pytest.approx(sum(c.curve.length() for c in outline), rel=2e-3)


@pytest.mark.parametrize("how", ["raises", "nowhere"])
def test_of_two_rings_one_cannot_be_had_exactly_and_the_other_is(monkeypatch, how: str) -> None:
    part = bodies(shapes.moved(ring(20, 5), (0, 0, 30)), ring(20, 5))
    whole, true = project(part, *PRINCIPAL["iso"]), outlines.round_outlines

    def broken(rounds, turning, **named):
        if 0 in turning.face:
            raise ZeroDivisionError("division by zero")
        return true(rounds=rounds, turning=turning, **named)

    def all_broken(*_, **__):
        raise ZeroDivisionError("division by zero")

    if how == "raises":
        monkeypatch.setattr(outlines, "round_outlines", broken)
        monkeypatch.setattr(strands, "gathered", all_broken)
    else:
        first, *others = part.faces
        lost = replace(first, surface=replace(first.surface, minor_radius=math.nan))
        part = replace(part, faces=(lost, *others))
    found = project(part, *PRINCIPAL["iso"])
    assert {c.source for c in found if c.meshed} == {part.faces[0].ref}
    for ref, near in ((part.faces[0].ref, 5e-3), (part.faces[1].ref, 1e-9)):
        one, other = (sum(c.curve.length() for c in curves if c.source == ref) for curves in (found, whole))
        assert one == pytest.approx(other, rel=near)


def test_a_face_that_cannot_be_described_is_taken_from_its_mesh_and_told(monkeypatch) -> None:
    shape = AWKWARD["hollow_lamp"]()
    whole, true = random_part(shape), describing.surface_of

    def broken(face):
        surface = true(face)
        if surface.kind == "sphere":
            raise IndexError("index past the end")
        return surface

    monkeypatch.setattr(describing, "surface_of", broken)
    part = random_part(shape)
    assert (
        sum(f.surface.kind == "facets" for f in part.faces) == sum(f.surface.kind == "sphere" for f in whole.faces) > 0
    )
    assert any("drawn from the mesh" in said for said in part.remarks)
    # the lines of the other faces are where they were, and the domes are drawn within what the mesh may stray
    for view in ("front", "iso"):
        one, other = (project(p, *PRINCIPAL[view]) for p in (whole, part))
        lengths = [sum(c.curve.length() for c in curves if c.visible) for curves in (one, other)]
        assert lengths[1] == pytest.approx(lengths[0], rel=0.02)


def test_a_spline_whose_knots_are_not_clamped_is_the_kernel_s_own_curve() -> None:
    from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int
    from OCP.Geom import Geom_BSplineCurve
    from OCP.gp import gp_Pnt

    from barequill.core.reading.kernel_geometry import nurbs_curve

    poles, knots, times = Array1_gp_Pnt(1, 6), Array1_double(1, 10), Array1_int(1, 10)
    for k in range(6):
        poles.SetValue(k + 1, gp_Pnt(k, k * k % 5, k % 3))
    for k in range(10):
        knots.SetValue(k + 1, float(k))
        times.SetValue(k + 1, 1)
    spline = Geom_BSplineCurve(poles, knots, times, 3, False)
    for low, high in ((3.0, 6.0), (3.5, 5.0), (5.2, 6.0)):
        t = np.linspace(low, high, 9)
        told = np.array([spline.Value(float(x)).Coord() for x in t])
        assert nurbs_curve(spline, None, low, high).points(t) == pytest.approx(told, abs=1e-12)
    assert spline.NbKnots() == 10, "the kernel's own curve is left as it was"


def test_a_round_tip_whose_profile_crosses_its_axis_is_wound_round_once(tmp_path) -> None:
    """A face of revolution of an arc about an axis within its circle, written to a STEP file and read again: the tip's
    area is 2 pi r (R pi / 2 + r) for a quarter circle of radius r whose middle lies R off the axis."""
    import math

    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
    from OCP.GC import GC_MakeArcOfCircle
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt

    from barequill.core.reading.mending import mended

    big, small = 0.2215, 0.24
    ends = [(0.0, 0.0), (big, 0.0), (big + small, small), (big + small, 4.0), (0.0, 4.0)]
    points = [gp_Pnt(x, 0, z) for x, z in ends]
    half = math.sqrt(0.5)
    middle = gp_Pnt(big + small * half, 0, small - small * half)
    wire = BRepBuilderAPI_MakeWire()
    for k in range(5):
        a, b = points[k], points[(k + 1) % 5]
        arc = GC_MakeArcOfCircle(a, middle, b).Value() if k == 1 else None
        wire.Add((BRepBuilderAPI_MakeEdge(arc) if arc else BRepBuilderAPI_MakeEdge(a, b)).Edge())
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    solid = BRepPrimAPI_MakeRevol(face, gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))).Shape()
    part = bodies(mended(bodies_of(solid)[0]))
    tip = max((f for f in part.faces if f.surface.kind in ("torus", "revolution")), key=lambda f: f.area)
    assert tip.area == pytest.approx(2 * math.pi * small * (big * math.pi / 2 + small), rel=0.02)
    for view in verdict([mended(bodies_of(solid)[0])], part, ["front", "iso"]).values():
        assert min(view.all()) >= LEAST
