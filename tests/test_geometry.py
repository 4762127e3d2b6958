"""Curves and surfaces against closed formulas, finite differences and integrals."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import BSpline
from scipy.special import ellipe

from barequill.core.display.paths import cubics, path_data
from barequill.core.geometry import curves2, nurbs
from barequill.core.geometry.curves3 import Curve3, line
from barequill.core.geometry.evaluation import WORK, packed_surface, surface_at
from barequill.core.geometry.recognition import recognise_curve, recognise_surface
from barequill.core.geometry.surfaces import Surface
from barequill.core.part.figures import normals_on, packed

from .shared import CIRCLE_KNOTS, CIRCLE_WEIGHTS, SQUARE, TILTED, circle_poles


def spline(seed: int, degree: int = 3, n: int = 8, dimensions: int = 3):
    dice = np.random.default_rng(seed)
    inner = np.sort(dice.uniform(0, 1, n - degree - 1))
    knots = np.concatenate([np.zeros(degree + 1), inner, np.ones(degree + 1)])
    return knots, dice.normal(size=(n, dimensions)) * 10


# ---- NURBS


@pytest.mark.parametrize("degree", [1, 2, 3, 5])
def test_b_splines_agree_with_another_implementation(degree: int) -> None:
    knots, poles = spline(degree, degree)
    t = np.linspace(0, 1, 101)
    theirs = BSpline(knots, poles, degree)
    points, slopes = nurbs.curve_points(degree, knots, poles, None, t)
    assert points == pytest.approx(theirs(t), abs=1e-12)
    inside = ~np.isin(t, knots)
    assert slopes[inside] == pytest.approx(theirs.derivative()(t)[inside], abs=1e-9)


def test_nine_weighted_poles_are_a_circle() -> None:
    points, slopes = nurbs.curve_points(2, CIRCLE_KNOTS, 5 * SQUARE, CIRCLE_WEIGHTS, np.linspace(0, 4, 77))
    assert np.linalg.norm(points, axis=1) == pytest.approx(np.full(77, 5.0), abs=1e-12)
    assert (points * slopes).sum(axis=1) == pytest.approx(np.zeros(77), abs=1e-10), "slopes are tangent"


@pytest.mark.parametrize(("t0", "t1"), [(0.0, 0.4), (0.25, 0.8), (0.5, 1.0), (0.1, 0.11)])
@pytest.mark.parametrize("degree", [2, 3])
def test_a_piece_of_a_spline_is_the_same_curve(degree: int, t0: float, t1: float) -> None:
    knots, poles = spline(7, degree)
    weights = np.random.default_rng(3).uniform(0.5, 2, len(poles))
    cut_knots, cut_poles, cut_weights = nurbs.cut(degree, knots, poles, weights, t0, t1)
    t = np.linspace(t0, t1, 33)
    whole = nurbs.curve_points(degree, knots, poles, weights, t)[0]
    piece = nurbs.curve_points(degree, cut_knots, cut_poles, cut_weights, t)[0]
    assert piece == pytest.approx(whole, abs=1e-9)
    assert len(cut_knots) == len(cut_poles) + degree + 1 and cut_knots[0] == t0 and cut_knots[-1] == t1


def test_bezier_arcs_of_a_spline_join_end_to_end() -> None:
    knots, poles = spline(11)
    arcs = nurbs.beziers(3, knots, poles, None)
    assert len(arcs) == len(np.unique(knots)) - 1
    for (a, _), (b, _) in zip(arcs, arcs[1:], strict=False):
        assert a[-1] == pytest.approx(b[0], abs=1e-12)
    ends = nurbs.curve_points(3, knots, poles, None, np.array([0.0, 1.0]))[0]
    assert np.array([arcs[0][0][0], arcs[-1][0][-1]]) == pytest.approx(ends)


def test_a_surface_of_revolution_as_nurbs_is_a_cylinder() -> None:
    low = np.c_[4 * SQUARE, np.zeros(9)]
    net = np.stack([low, low + [0, 0, 10]], axis=1)
    weights = np.stack([CIRCLE_WEIGHTS] * 2, axis=1)
    uv = np.c_[np.linspace(0, 4, 40), np.linspace(0, 1, 40)]
    points, du, dv = nurbs.surface_points((2, 1), (CIRCLE_KNOTS, np.array([0.0, 0, 1, 1])), net, weights, uv)
    assert np.hypot(points[:, 0], points[:, 1]) == pytest.approx(np.full(40, 4.0))
    assert points[:, 2] == pytest.approx(10 * uv[:, 1])
    assert dv == pytest.approx(np.tile([0, 0, 10.0], (40, 1)), abs=1e-9)
    assert (du * points * [1, 1, 0]).sum(axis=1) == pytest.approx(np.zeros(40), abs=1e-9)


# ---- plane curves


def test_the_length_of_an_ellipse_is_the_elliptic_integral() -> None:
    curve = curves2.conic(np.array([3.0, 4.0]), np.array([10.0, 0]), np.array([0, 4.0]), 0, 2 * math.pi)
    assert curve.length() == pytest.approx(4 * 10 * ellipe(1 - 16 / 100), rel=1e-6)
    assert curve.name == "ellipse" and not curve.is_circular


@settings(max_examples=60, deadline=None)
@given(st.floats(0, 6.28), st.floats(0.2, 6.0), st.floats(0, 6.28), st.floats(1, 50), st.floats(0.1, 1))
def test_the_box_of_an_elliptic_arc_is_that_of_its_points(start, sweep, tilt, big, ratio) -> None:
    x = big * np.array([math.cos(tilt), math.sin(tilt)])
    y = ratio * big * np.array([-math.sin(tilt), math.cos(tilt)])
    curve = curves2.conic(np.array([5.0, -2.0]), x, y, start, start + sweep)
    p = curve.evaluate(np.linspace(curve.t0, curve.t1, 4001))
    assert curve.bounds() == pytest.approx((*p.min(axis=0), *p.max(axis=0)), abs=1e-4 * big)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(-20, 20), st.floats(-20, 20), st.floats(-20, 20), st.floats(-20, 20), st.floats(0, 6), st.floats(0.1, 6)
)
def test_any_two_vectors_of_an_ellipse_come_into_principal_axes(a, b, c, d, start, sweep) -> None:
    x, y = np.array([a, b]), np.array([c, d])
    if abs(a * d - b * c) < 1.0:
        return
    curve = curves2.conic(np.zeros(2), x, y, start, start + sweep)
    assert abs(curve.a @ curve.b) < 1e-7 * (curve.a @ curve.a)
    assert curve.a @ curve.a >= curve.b @ curve.b * (1 - 1e-9)
    assert curve.a[0] * curve.b[1] - curve.a[1] * curve.b[0] > 0, "counter-clockwise"
    t = np.linspace(start, start + sweep, 5)
    ends = np.cos(t)[:, None] * x + np.sin(t)[:, None] * y
    mine = curve.evaluate(np.array([curve.t0, curve.t1]))
    forward = np.allclose(mine, ends[[0, -1]], atol=1e-6)
    assert forward or np.allclose(mine, ends[[-1, 0]], atol=1e-6)


@pytest.mark.parametrize(
    ("curve", "name"),
    [
        (curves2.line((0, 0), (3, 4)), "line"),
        (curves2.circle((1, 2), 5), "circle"),
        (curves2.circle((1, 2), 5, 0.5, 2.0), "arc"),
        (curves2.conic(np.zeros(2), np.array([3.0, 0]), np.array([0, 1.0]), 0.2, 1.0), "elliptic_arc"),
        (curves2.polyline([(0, 0), (1, 1), (2, 0)]), "polyline"),
    ],
)
def test_curves_tell_their_kind_and_exact_data(curve, name: str) -> None:
    told = curve.to_json()
    assert told["kind"] == name
    if name in ("circle", "arc"):
        assert told["radius"] == 5 and told["centre"] == [1, 2]
    if name == "arc":
        assert (told["start"], told["end"]) == (0.5, 2.0)
    if name == "elliptic_arc":
        assert told["ratio"] == pytest.approx(1 / 3)


def test_a_turned_arc_tells_its_angles_from_the_x_axis() -> None:
    told = curves2.circle((0, 0), 2, 0.0, 1.0).moved(3.0, math.pi / 2, (10, 20)).to_json()
    assert told["radius"] == pytest.approx(6) and told["centre"] == pytest.approx([10, 20])
    assert (told["start"], told["end"]) == (pytest.approx(math.pi / 2), pytest.approx(math.pi / 2 + 1))


@pytest.mark.parametrize("tolerance", [1e-1, 1e-3, 1e-5])
def test_a_polyline_stays_within_its_tolerance_of_the_curve(tolerance: float) -> None:
    knots, poles = spline(5, dimensions=2)
    for curve in (
        curves2.circle((0, 0), 30, 0.3, 5.0),
        curves2.Curve2("nurbs", poles, degree=3, knots=knots, t0=0.0, t1=1.0),
    ):
        coarse = curve.points(tolerance)
        fine = curve.evaluate(np.linspace(curve.t0, curve.t1, 3001))
        d = coarse[1:] - coarse[:-1]
        gap = fine[:, None] - coarse[None, :-1]
        share = np.clip((gap * d).sum(axis=2) / np.maximum((d * d).sum(axis=1), 1e-30), 0, 1)
        off = np.linalg.norm(gap - share[..., None] * d, axis=2).min(axis=1)
        assert off.max() < 1.3 * tolerance
    assert len(curves2.line((0, 0), (9, 9)).points(tolerance)) == 2


def test_ink_paths_of_arcs_and_splines_are_exact() -> None:
    arc = curves2.circle((50, 50), 10, 0.0, math.pi / 2)
    assert path_data(arc, 100) == "M60.0000 50.0000A10.0000 10.0000 -0.0000 0 0 50.0000 40.0000"
    assert path_data(curves2.circle((50, 50), 10), 100).count("A") == 2, "a whole circle is two arcs"
    knots, poles = spline(4, dimensions=2)
    curve = curves2.Curve2("nurbs", poles, degree=3, knots=knots, t0=0.0, t1=1.0)
    assert path_data(curve, 100).count("C") == len(np.unique(knots)) - 1
    numbers = [float(x) for x in re.findall(r"-?[\d.]+", path_data(curve, 100))]
    assert numbers[:2] == pytest.approx([poles[0, 0], 100 - poles[0, 1]], abs=1e-4)


def test_cubics_of_circles_and_rational_curves_stray_less_than_a_micrometre() -> None:
    ring = curves2.Curve2("nurbs", 40 * SQUARE, degree=2, knots=CIRCLE_KNOTS, weights=CIRCLE_WEIGHTS, t0=0, t1=4)
    for curve in (curves2.circle((0, 0), 40), ring):
        for arc in cubics(curve):
            t = np.linspace(0, 1, 50)[:, None]
            p = (1 - t) ** 3 * arc[0] + 3 * t * (1 - t) ** 2 * arc[1] + 3 * t**2 * (1 - t) * arc[2] + t**3 * arc[3]
            assert np.abs(np.linalg.norm(p, axis=1) - 40).max() < 1e-3


# ---- curves in space


def test_length_of_lines_circles_and_splines() -> None:
    assert line(np.zeros(3), np.array([1.0, 2, 2])).length() == pytest.approx(3)
    ring = Curve3("nurbs", 0, 4, degree=2, knots=CIRCLE_KNOTS, poles=circle_poles(7, (1, 2, 3)), weights=CIRCLE_WEIGHTS)
    assert ring.length() == pytest.approx(14 * math.pi, rel=1e-9)
    flat = Curve3("conic", 0, 2 * math.pi, origin=np.zeros(3), x=np.array([10.0, 0, 0]), y=np.array([0, 4.0, 0]))
    assert flat.length() == pytest.approx(40 * ellipe(1 - 0.16), rel=1e-9) and not flat.is_circle
    assert flat.closed and flat.full_turn


def test_conics_have_as_many_steps_as_their_sagitta_asks() -> None:
    circle = Curve3("conic", 0, math.pi, origin=np.zeros(3), x=np.array([100.0, 0, 0]), y=np.array([0, 100.0, 0]))
    n = circle.steps(0.01)
    step = math.pi / n
    assert 100 * (1 - math.cos(step / 2)) <= 0.01 < 100 * (1 - math.cos(math.pi / (n - 1) / 2)) * 1.01


# ---- surfaces


SURFACES = {
    "plane": Surface("plane", np.array([1.0, 2, 3]), TILTED),
    "cylinder": Surface("cylinder", np.array([1.0, 2, 3]), TILTED, radius=5),
    "cone": Surface("cone", np.array([1.0, 2, 3]), TILTED, radius=5, half_angle=0.4),
    "sphere": Surface("sphere", np.array([1.0, 2, 3]), TILTED, radius=5),
    "torus": Surface("torus", np.array([1.0, 2, 3]), TILTED, radius=9, minor_radius=2),
    "revolution": Surface(
        "revolution",
        np.array([1.0, 2, 3]),
        TILTED,
        profile=Curve3("line", -1, 1, origin=np.array([1.0, 2, 3]) + 5 * TILTED[0], x=TILTED[2] + 0.3 * TILTED[0]),
    ),
    "extrusion": Surface(
        "extrusion",
        np.zeros(3),
        TILTED,
        profile=Curve3("conic", 0, 6, origin=np.zeros(3), x=4 * TILTED[0], y=4 * TILTED[1]),
    ),
}
UV = np.random.default_rng(1).uniform(-1, 1, (30, 2))


@pytest.mark.parametrize("kind", SURFACES)
def test_slopes_of_surfaces_agree_with_finite_differences(kind: str) -> None:
    s, h = SURFACES[kind], 1e-6
    _, du, dv = s.derivatives(UV)
    for k, slope in enumerate((du, dv)):
        step = np.zeros(2)
        step[k] = h
        assert (s.points(UV + step) - s.points(UV - step)) / (2 * h) == pytest.approx(slope, abs=1e-7)
    n = s.normals(UV)
    assert np.linalg.norm(n, axis=1) == pytest.approx(np.ones(30))
    cross = np.cross(du, dv)
    assert (cross * n).sum(axis=1) == pytest.approx(np.linalg.norm(cross, axis=1), rel=1e-9)


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("kind", ["plane", "cylinder", "cone", "sphere", "torus"])
def test_normals_from_a_point_alone_are_those_from_its_parameters(kind: str, mirrored: bool) -> None:
    s = SURFACES[kind]
    if mirrored:
        s = Surface(s.kind, s.origin, s.axes * [[1], [-1], [1]], s.radius, s.minor_radius, s.half_angle)
        assert s.hand == -1
    points = s.points(UV)
    assert s.normals_at(points) == pytest.approx(s.normals(UV), abs=1e-9)
    for sense in (1.0, -1.0):
        compiled = np.empty_like(points)
        normals_on(packed(s, sense), points, compiled)
        assert compiled == pytest.approx(sense * s.normals(UV), abs=1e-9)


def test_one_and_the_same_surface_is_told_from_others() -> None:
    s = SURFACES["cylinder"]
    moved = Surface(
        "cylinder", s.origin + 7 * s.axes[2], np.roll(s.axes[:2], 1, axis=0).tolist() + [s.axes[2]], radius=5
    )
    moved = Surface("cylinder", moved.origin, np.array(moved.axes), radius=5)
    assert s.same_as(moved, 100)
    assert not s.same_as(Surface("cylinder", s.origin, s.axes, radius=5.01), 100)
    assert not s.same_as(Surface("cylinder", s.origin + s.axes[0], s.axes, radius=5), 100)
    cone = SURFACES["cone"]
    further = Surface("cone", cone.origin + 3 * cone.axes[2], cone.axes, radius=5 + 3 * math.tan(0.4), half_angle=0.4)
    assert cone.same_as(further, 100) and not cone.same_as(SURFACES["cylinder"], 100)


# ---- recognition


def test_circles_and_lines_written_as_splines_are_recognised_and_others_are_not() -> None:
    poles = circle_poles(7, (1, 2, 3))
    ring = Curve3("nurbs", 0, 4, degree=2, knots=CIRCLE_KNOTS, poles=poles, weights=CIRCLE_WEIGHTS)
    known = recognise_curve(ring, 1e-6)
    assert known is not None and known.is_circle and known.radius == pytest.approx(7) and known.full_turn
    assert known.origin == pytest.approx([1, 2, 3], abs=1e-9)
    quarter = recognise_curve(ring.piece(0.0, 1.0), 1e-6)
    assert quarter is not None and quarter.t1 == pytest.approx(math.pi / 2)
    middle = quarter.points(np.array([math.pi / 4]))[0]
    assert middle == pytest.approx(ring.points(np.array([0.5]))[0], abs=1e-8), "it runs the same way"
    straight = Curve3("nurbs", 0, 1, degree=1, knots=np.array([0.0, 0, 1, 1]), poles=np.array([[0.0, 0, 0], [3, 4, 0]]))
    found = recognise_curve(straight, 1e-6)
    assert found is not None and found.kind == "line" and found.length() == pytest.approx(5)
    knots, free = spline(2)
    assert recognise_curve(Curve3("nurbs", 0, 1, degree=3, knots=knots, poles=free), 1e-6) is None
    bent = poles.copy()
    bent[4] += 0.01
    nearly = Curve3("nurbs", 0, 4, degree=2, knots=CIRCLE_KNOTS, poles=bent, weights=CIRCLE_WEIGHTS)
    assert recognise_curve(nearly, 1e-6) is None, "a hundredth of a millimetre off is no circle"


@pytest.mark.parametrize("seed", range(12))
def test_arcs_written_as_splines_run_as_they_did(seed: int) -> None:
    """A rational quadratic with weight cos(half its angle) at the corner of its tangents is an arc, anywhere in space."""
    dice = np.random.default_rng(seed)
    angle, radius, centre = dice.uniform(0.05, 3.0), dice.uniform(0.5, 50), dice.normal(size=3) * 40
    frame = np.linalg.qr(dice.normal(size=(3, 3)))[0]
    ends = np.array([[1, 0], [np.cos(angle), np.sin(angle)]])
    corner = ends.sum(axis=0) / (1 + np.cos(angle))
    poles = centre + radius * np.array([ends[0], corner, ends[1]]) @ frame[:2]
    weights = np.array([1, np.cos(angle / 2), 1])
    arc = Curve3("nurbs", 0, 1, degree=2, knots=np.array([0.0, 0, 0, 1, 1, 1]), poles=poles, weights=weights)
    known = recognise_curve(arc, 1e-6)
    assert known is not None and known.radius == pytest.approx(radius, rel=1e-6)
    assert known.t1 - known.t0 == pytest.approx(angle, rel=1e-6)
    # a quadratic arc is half way round at half its parameter
    for share in (0.0, 0.5, 1.0):
        assert known.point(known.t0 + share * (known.t1 - known.t0)) == pytest.approx(arc.point(share), abs=1e-6)
    if angle > 0.5:
        bulged = Curve3("nurbs", 0, 1, degree=2, knots=arc.knots, poles=poles, weights=weights * [1, 1.05, 1])
        assert recognise_curve(bulged, 1e-6) is None, "with another weight it is an arc of an ellipse"


@pytest.mark.parametrize("kind", SURFACES)
def test_what_is_moved_keeps_its_shape(kind: str) -> None:
    surface = SURFACES[kind]
    by = np.array([3.0, -20.0, 7.0])
    moved = surface.moved(TILTED, by)
    uv = np.random.default_rng(3).uniform(0.2, 0.9, (20, 2))
    assert moved.points(uv) == pytest.approx(surface.points(uv) @ TILTED.T + by, abs=1e-9)
    assert moved.normals(uv) == pytest.approx(surface.normals(uv) @ TILTED.T, abs=1e-9)


@pytest.mark.parametrize(("top", "kind"), [(4.0, "cylinder"), (2.0, "cone")])
def test_cylinders_and_cones_written_as_splines_are_recognised(top: float, kind: str) -> None:
    low = 4 * SQUARE @ TILTED[:2]
    net = np.stack([low, top * SQUARE @ TILTED[:2] + 10 * TILTED[2]], axis=1)
    surface = Surface(
        "nurbs",
        np.zeros(3),
        np.eye(3),
        degrees=(2, 1),
        knots=(CIRCLE_KNOTS, np.array([0.0, 0, 1, 1])),
        poles=net,
        weights=np.stack([CIRCLE_WEIGHTS] * 2, axis=1),
    )
    uv = np.array([[0.0, 0.0], [4.0, 1.0]])
    known = recognise_surface(surface, uv, 1e-5)
    assert known is not None and known.kind == kind
    assert abs(known.axes[2] @ TILTED[2]) == pytest.approx(1)
    if kind == "cylinder":
        assert known.radius == pytest.approx(4)
    else:
        assert math.tan(known.half_angle) == pytest.approx(2 / 10)
    net[3, 1] += 0.01
    assert recognise_surface(surface, uv, 1e-5) is None


@pytest.mark.parametrize("power", [3, 20])
def test_loops_evaluate_splines_of_any_degree_that_the_kernel_has(power: int) -> None:
    """On z = u^n the slope along u is n·u^(n-1); its Bernstein heights are all nothing but the last."""
    steps = np.arange(power + 1) / power
    poles = np.zeros((power + 1, 2, 3))
    poles[:, :, 0], poles[:, 1, 1], poles[-1, :, 2] = steps[:, None], 1.0, 1.0
    knots = np.repeat([0.0, 1.0], power + 1), np.array([0.0, 0, 1, 1])
    surface = Surface("nurbs", np.zeros(3), np.eye(3), degrees=(power, 1), knots=knots, poles=poles)
    out, work = np.empty((4, 3)), np.empty(WORK)
    surface_at(packed_surface(surface), 0.9, 0.25, out, work)
    slope = power * 0.9 ** (power - 1)
    assert out[0] == pytest.approx([0.9, 0.25, 0.9**power])
    assert out[1] == pytest.approx([1, 0, slope]) and out[2] == pytest.approx([0, 1, 0])
    assert out[3] == pytest.approx(np.array([-slope, 0, 1]) / math.hypot(1, slope))
