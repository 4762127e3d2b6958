"""Outlines and hiding in figures worked out by hand: balls, rods, cones and rings, alone and through each other."""

from __future__ import annotations

import itertools
import math
from functools import partial

import numpy as np
import pytest

from barequill.core import project
from barequill.core.geometry.curves3 import Curve3
from barequill.core.projection import PRINCIPAL, camera
from barequill.core.projection.piercing import runs_into
from barequill.core.projection.strands import strands_of
from barequill.core.reading import shapes
from tools.awkward_parts import solid_of
from tools.common import at_length, demo_file, part_of
from tools.made_parts import bodies, dome, ring
from tools.random_shells import LOOKS, crosses_itself, lofted, turned
from tools.truth import LEAST, judge, sample

from .shared import kinds, lengths

ISO = PRINCIPAL["iso"]
VIEWS = [*PRINCIPAL.values(), ((0.37, -0.81, 0.45), (0, 0, 1))]


def ball(radius: float, centre=(0, 0, 0)) -> object:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
    from OCP.gp import gp_Pnt

    return BRepPrimAPI_MakeSphere(gp_Pnt(*centre), radius).Shape()


def outlines(curves, visible: bool = True):
    return [c for c in curves if c.cls == "outline" and c.visible == visible]


# ---- single bodies


def test_a_cone_shows_two_outlines_from_its_apex_tangent_to_its_foot() -> None:
    """Foot radius 10, height 30, apex up; seen from the front both run from (±10, 0) to (0, 30)."""
    curves = project(bodies(shapes.cone((0, 0, 0), (0, 0, 1), 10, 0, 30)), *PRINCIPAL["front"])
    ends = sorted(tuple(np.round(sorted(c.curve.poles.tolist()), 6).ravel()) for c in outlines(curves))
    assert ends == [(-10, 0, 0, 30), (0, 30, 10, 0)]
    above = project(bodies(shapes.cone((0, 0, 0), (0, 0, 1), 10, 0, 30)), *PRINCIPAL["top"])
    assert kinds(above, True) == ["circle"], "from above the apex is a point and draws nothing"


def test_a_cone_aslant_has_its_outlines_where_tangents_from_the_apex_touch_the_foot() -> None:
    """Seen at 60° from its axis the foot is an ellipse of half axes 10 and 5 about the origin, the apex 30·sin 60° up.

    A tangent from (0, h) touches x²/a² + y²/b² = 1 at y = b²/h.
    """
    toward = (0, -math.sin(math.pi / 3), math.cos(math.pi / 3))
    part = bodies(shapes.cone((0, 0, 0), (0, 0, 1), 10, 0, 30))
    found = outlines(project(part, toward, (0, 0, 1)))
    h, b = 30 * math.sin(math.pi / 3), 10 * math.cos(math.pi / 3)
    y = b * b / h
    x = 10 * math.sqrt(1 - y * y / b / b)
    touches = sorted(tuple(np.round(min(c.curve.poles.tolist(), key=lambda p: p[1]), 6)) for c in found)
    assert touches == [pytest.approx((-x, y), abs=1e-6), pytest.approx((x, y), abs=1e-6)]


def test_a_cone_seen_from_within_its_half_angle_has_no_outline() -> None:
    part = bodies(shapes.cone((0, 0, 0), (0, 0, 1), 20, 0, 10))
    steep = project(part, (0, -0.3, 1), (0, 1, 0))
    assert not outlines(steep) and not outlines(steep, False), "half angle 63°, seen at 17°"


@pytest.mark.parametrize("tilt", [20.0, 45.0, 70.0])
def test_a_rod_aslant_is_as_long_as_its_axis_projected(tilt: float) -> None:
    a = math.radians(tilt)
    part = bodies(shapes.cylinder((0, 0, 0), (0, 0, 1), 6, 50))
    curves = project(part, (0, -math.sin(a), math.cos(a)), (0, 0, 1))
    rulings = outlines(curves)
    assert [c.curve.length() for c in rulings] == pytest.approx([50 * math.sin(a)] * 2)
    assert abs(rulings[0].curve.poles[0, 0] - rulings[1].curve.poles[0, 0]) == pytest.approx(12)
    ellipses = [c.curve for c in curves if c.curve.kind == "conic"]
    assert {round(float(np.linalg.norm(e.b) / np.linalg.norm(e.a)), 9) for e in ellipses} == {round(math.cos(a), 9)}
    # of the far rim half is hidden
    seen = sum(e.length() for e, c in zip(ellipses, [c for c in curves if c.curve.kind == "conic"]) if c.visible)
    hidden = sum(c.curve.length() for c in curves if not c.visible)
    assert seen == pytest.approx(3 * hidden, rel=1e-6)


@pytest.mark.parametrize("toward", [(0, 0, 1), (0, -1, 1), (0.3, -0.8, 0.7)])
def test_a_ring_s_outline_is_the_offset_of_its_middle_circle(toward) -> None:
    """Every point of the outline lies the small radius away from the projected middle circle, seen so steeply that
    this nowhere bends more sharply than that."""
    big, small = 30.0, 8.0
    view = camera(toward, (0, 1, 0) if toward[2] == 1 and toward[1] == 0 else (0, 0, 1))
    curves = outlines(project(bodies(ring(big, small)), toward, view.up)) + outlines(
        project(bodies(ring(big, small)), toward, view.up), False
    )
    t = np.linspace(0, 2 * np.pi, 20001)
    middle = view.flat(np.c_[big * np.cos(t), big * np.sin(t), 0 * t])
    for c in curves:
        for p in c.curve.points(0.02)[::7]:
            assert np.linalg.norm(middle - p, axis=1).min() == pytest.approx(small, abs=2e-3)


def test_a_ring_hides_part_of_its_own_hole_when_seen_low() -> None:
    low = project(bodies(ring(30, 8)), (0, -1, 0.15), (0, 0, 1))
    high = project(bodies(ring(30, 8)), (0, 0, 1), (0, 1, 0))
    assert lengths(low, False) > 20, "the hole's far side hides behind the near one"
    assert lengths(high, False) == 0 and sorted(c.curve.length() for c in high) == pytest.approx(
        [2 * math.pi * 22, 2 * math.pi * 38]
    )


def test_a_dome_on_a_rod_has_no_line_where_they_meet() -> None:
    """A half ball on a cylinder of its own radius: the rim between them is tangent, and thin or off."""
    part = bodies(shapes.fuse(shapes.cylinder((0, 0, -20), (0, 0, 1), 8, 20), ball(8)))
    sharp = project(part, *PRINCIPAL["front"], smooth=False)
    assert sum(c.curve.length() for c in sharp if c.visible) == pytest.approx(16 + 2 * 20 + math.pi * 8, rel=1e-6)
    smooth = [c for c in project(part, *PRINCIPAL["front"]) if c.cls == "smooth" and c.visible]
    assert sum(c.curve.length() for c in smooth) == pytest.approx(16)


@pytest.mark.parametrize("radius", [1.0, 4.0])
def test_a_rounded_edge_square_to_the_view_is_an_arc_and_along_it_two_tangent_edges(radius: float) -> None:
    block = shapes.rounded(shapes.box((0, 0, 0), (40, 30, 20)), radius, [(40, 15, 20)])
    part = bodies(block)
    front = project(part, *PRINCIPAL["front"])
    arcs = [c.curve for c in front if c.curve.kind == "conic"]
    assert len(arcs) == 1 and arcs[0].length() == pytest.approx(math.pi / 2 * radius)
    assert lengths(front, True) == pytest.approx(2 * 40 + 2 * 20 - 2 * radius + math.pi / 2 * radius)
    above = project(part, *PRINCIPAL["top"])
    tangent = [c for c in above if c.cls == "smooth"]
    assert [c.curve.length() for c in tangent] == pytest.approx([30])
    assert tangent[0].curve.poles[0, 0] == pytest.approx(40 - radius)
    right = [c for c in above if c.visible and c.curve.kind == "line" and np.allclose(c.curve.poles[:, 0], 40)]
    assert sum(c.curve.length() for c in right) == pytest.approx(30), "the round's own outline closes the view"


# ---- bodies before, in and through each other


def test_a_ball_pushed_through_a_plate_is_seen_above_and_hidden_below() -> None:
    """A ball of radius 10 with its centre 6 above a plate's upper face: from the front its outline goes under the
    plate's face at 6 below its middle, at x = ±8, and stays hidden within and behind the plate."""
    plate, sphere = shapes.box((-30, -30, -7), (60, 60, 7)), ball(10, (0, 0, 6))
    part = bodies(plate, sphere)
    assert runs_into(part) == {0: [1], 1: [0]}
    curves = project(part, *PRINCIPAL["front"])
    seen, hid = outlines(curves), outlines(curves, False)
    half = math.pi + 2 * math.asin(0.6)
    assert sum(c.curve.length() for c in seen) == pytest.approx(10 * half, rel=1e-4)
    assert sum(c.curve.length() for c in hid) == pytest.approx(10 * (2 * math.pi - half), rel=1e-4)
    ends = [p for c in seen for p in c.curve.evaluate(np.array([c.curve.t0, c.curve.t1]))]
    low = sorted((p for p in ends if abs(p[1]) < 0.5), key=lambda p: p[0])
    assert [low[0], low[-1]] == [pytest.approx((-8, 0), abs=1e-3), pytest.approx((8, 0), abs=1e-3)]


def test_a_bolt_in_its_hole_touches_the_plate_and_does_not_run_into_it() -> None:
    plate = shapes.cut(shapes.box((-30, -30, 0), (60, 60, 10)), shapes.cylinder((0, 0, -1), (0, 0, 1), 6, 12))
    bolt = shapes.fuse(shapes.cylinder((0, 0, -8), (0, 0, 1), 6, 18), shapes.cylinder((0, 0, 10), (0, 0, 1), 10, 7))
    part = bodies(plate, bolt)
    assert runs_into(part) == {0: [], 1: []}
    curves = project(part, *PRINCIPAL["front"])
    hidden = [c.curve for c in curves if not c.visible]
    assert sum(c.length() for c in hidden) == pytest.approx(2 * 10), "the hole and the shank in it are one line each"
    below = [c for c in outlines(curves) if c.curve.poles[:, 1].max() < 1e-6]
    assert [c.curve.length() for c in below] == pytest.approx([8, 8])


def test_two_equal_boxes_in_one_place_are_drawn_once() -> None:
    box = shapes.box((0, 0, 0), (40, 30, 20))
    twice, once = bodies(box, shapes.moved(box)), bodies(box)
    for view in VIEWS:
        for visible in (True, False):
            assert lengths(project(twice, *view), visible) == pytest.approx(lengths(project(once, *view), visible))


def test_a_box_wholly_inside_another_is_hidden_from_all_sides() -> None:
    part = bodies(shapes.box((0, 0, 0), (40, 40, 40)), shapes.box((10, 10, 10), (20, 20, 20)))
    for view in VIEWS:
        inner = [c for c in project(part, *view) if part.edges[part.index[c.source][1]].body == 1]
        assert inner and not any(c.visible for c in inner)


@pytest.mark.parametrize("gap", [5.0, 0.5, 0.05])
def test_what_lies_just_behind_a_face_is_hidden_by_it(gap: float) -> None:
    """A smaller plate a little behind a larger one; the gap down to a two-thousandth of the part's size."""
    front, back = shapes.box((0, 0, 0), (60, 4, 60)), shapes.box((20, 4 + gap, 20), (20, 4, 20))
    curves = project(bodies(front, back), *PRINCIPAL["front"])
    assert lengths(curves, True) == pytest.approx(240)
    assert lengths(curves, False) == pytest.approx(80)


def test_a_long_thin_slot_and_what_is_seen_through_it() -> None:
    """A wall with a slot 1 mm high; behind it a bar of 30 × 30: of the bar's outline only 1 mm on each side is seen."""
    wall = shapes.cut(shapes.box((0, 0, 0), (100, 2, 40)), shapes.box((10, -1, 20), (80, 4, 1)))
    bar = shapes.box((35, 20, 5), (30, 30, 30))
    part = bodies(wall, bar)
    curves = project(part, *PRINCIPAL["front"])
    seen = [c for c in curves if c.visible and part.edges[part.index[c.source][1]].body == 1]
    assert sum(c.curve.length() for c in seen) == pytest.approx(2.0, abs=1e-6)
    assert sorted(c.curve.poles[0, 0] for c in seen) == pytest.approx([35, 65])


# ---- what holds of every view


@pytest.mark.parametrize("stem", ["spindle-pedestal", "catch-box", "pawl"])
def test_opposite_views_are_mirror_images_in_what_they_show_at_all(stem: str) -> None:
    """Seen from behind, the same lines lie mirrored; only what is hidden changes."""
    part = part_of(demo_file(stem))
    for one, other in (("front", "back"), ("left", "right")):
        spans = []
        for name in (one, other):
            boxes = np.array([c.curve.bounds() for c in project(part, *PRINCIPAL[name])])
            spans.append((*boxes.min(axis=0)[:2], *boxes.max(axis=0)[2:]))
        assert spans[0][1::2] == pytest.approx(spans[1][1::2], abs=1e-5)
        assert (spans[0][0], spans[0][2]) == pytest.approx((-spans[1][2], -spans[1][0]), abs=1e-5)
        whole = [
            lengths(project(part, *PRINCIPAL[n]), True) + lengths(project(part, *PRINCIPAL[n]), False)
            for n in (one, other)
        ]
        assert whole[0] == pytest.approx(whole[1], rel=0.35)


@pytest.mark.parametrize("stem", ["spindle-pedestal", "round-gear-cover", "small-pedestal-assembly"])
def test_left_out_hidden_and_tangent_lines_leave_the_others_as_they_are(stem: str) -> None:
    part = part_of(demo_file(stem))
    for view in (PRINCIPAL["front"], ISO):
        full = project(part, *view)

        def told(curves) -> list[tuple]:
            return sorted((c.source, c.visible, c.cls, round(c.curve.length(), 6)) for c in curves)

        assert told(project(part, *view, hidden=False)) == told(c for c in full if c.visible)
        plain = project(part, *view, smooth=False)
        assert all(c.cls != "smooth" for c in plain)
        sharp = sum(c.curve.length() for c in full if c.cls == "edge" and c.visible)
        assert sum(c.curve.length() for c in plain if c.cls == "edge" and c.visible) == pytest.approx(sharp)


@pytest.mark.parametrize("stem", ["catch-box", "angled-keeper", "long-pinion-spindle"])
def test_every_curve_lies_where_its_source_and_span_say(stem: str) -> None:
    part = part_of(demo_file(stem))
    for toward, up in VIEWS:
        view = camera(toward, up)
        for c in project(part, toward, up):
            kind, row = part.index[c.source]
            if kind != "edge" or c.cls == "outline":
                continue
            space = part.edges[row].curve.points(np.linspace(*c.span, 9))
            flat, drawn = view.flat(space), c.curve.points(part.size * 1e-6)
            ends = {tuple(np.round(p, 4)) for p in (drawn[0], drawn[-1])}
            if c.curve.kind != "line":
                assert {tuple(np.round(p, 4)) for p in flat[[0, -1]]} == ends
            else:
                # an arc seen edge-on is a line over all of its extent
                d = drawn[-1] - drawn[0]
                share = (flat - drawn[0]) @ d / (d @ d)
                assert share.min() > -1e-6 and share.max() < 1 + 1e-6


def test_no_crumbs_are_left_along_a_line() -> None:
    """Pieces of one source in one state that touch are one curve."""
    for stem in ("round-gear-cover", "catch-box"):
        part = part_of(demo_file(stem))
        for view in VIEWS:
            curves = project(part, *view)
            by_source = itertools.groupby(
                sorted(curves, key=lambda c: (c.source, c.cls)), key=lambda c: (c.source, c.cls)
            )
            for _, group in by_source:
                pieces = sorted(group, key=lambda c: c.span)
                for a, b in zip(pieces, pieces[1:], strict=False):
                    touching = abs(a.span[1] - b.span[0]) < 1e-9
                    assert not (touching and a.visible == b.visible) or (
                        a.curve.kind == "line" and b.curve.kind == "line"
                    )


def test_the_same_view_twice_is_the_same_view() -> None:
    part = part_of(demo_file("small-pedestal-assembly"))
    first, second = ([(c.source, c.visible, c.span) for c in project(part, *ISO)] for _ in range(2))
    assert first == second


def test_an_outline_is_found_that_comes_back_over_one_side_of_the_mesh() -> None:
    """A sheet z = f(x, y) over 40 × 20 with df/dx = (1 - d²)(1 - y/20)·c - 0.2, where d = (x - 20)/20.

    Seen along x it turns away where that is 0: at y = 0 where d² = 1 - 0.2/c, and at x = 20 up to y = 20·(1 - 0.2/c).
    With c = 0.2011 that is an arc 3 mm wide and 0.11 mm high on a mesh with sides of many millimetres.
    """
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.collections import Array2_gp_Pnt
    from OCP.Geom import Geom_BezierSurface
    from OCP.gp import gp_Pnt

    c = 0.2011
    # f is a cubic in x = 40 u: its Bézier heights from its values at four places
    u = np.array([0, 1, 2, 3]) / 3
    bernstein = np.array([[math.comb(3, k) * v**k * (1 - v) ** (3 - k) for k in range(4)] for v in u])
    poles = Array2_gp_Pnt(1, 4, 1, 2)
    for row, y in ((1, 0.0), (2, 20.0)):
        d = 2 * u - 1
        heights = np.linalg.solve(bernstein, c * (1 - y / 20) * 20 * (d - d**3 / 3) - 0.2 * 40 * u)
        for k in range(4):
            poles.SetValue(k + 1, row, gp_Pnt(40 * k / 3, y, float(heights[k])))
    part = bodies(BRepBuilderAPI_MakeFace(Geom_BezierSurface(poles), 1e-7).Face())
    assert max(np.ptp(part.mesh.nodes[t], axis=0).max() for t in part.mesh.triangles) > 3
    # all of it: seen along x its farther half lies a thousandth lower than the nearer one
    forms = strands_of(part, camera((1, 0, 0), (0, 0, 1)), True).forms[1]
    ((t0, t1),) = forms.ends
    found = Curve3("nurbs", t0, t1, degree=3, knots=forms.knots, poles=forms.net[:, :3])
    high = 1 - 0.2 / c
    points = found.points(np.linspace(found.t0, found.t1, 2001))
    assert points[:, 1].max() == pytest.approx(20 * high, abs=1e-4)
    half = np.sqrt(high)
    rise = [c * 20 * (d - d**3 / 3) - 0.2 * 20 * (d + 1) for d in (-half, half)]
    assert sorted(points[[0, -1], 2]) == pytest.approx(sorted(rise), abs=1e-4)


def test_the_ridge_within_one_face_is_its_outline() -> None:
    """A roof of one spline face, straight down from a ridge that is a parabola in space to eaves 20 to either side.

    Seen from the side it turns away at the ridge, where its normal leaps: x = 40 u, z = 10 + 8 u (1 - u).
    """
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.collections import Array1_double, Array1_int, Array2_gp_Pnt
    from OCP.Geom import Geom_BSplineSurface
    from OCP.gp import gp_Pnt

    poles = Array2_gp_Pnt(1, 3, 1, 3)
    for k, (out, high) in enumerate(((0, 10), (6, 14), (0, 10))):
        for row, (y, z) in enumerate(((-20, 0), (out, high), (20, 0))):
            poles.SetValue(k + 1, row + 1, gp_Pnt(20 * k, y, z))
    knots, times = [], []
    for at, repeats in (((0.0, 1.0), (3, 3)), ((0.0, 0.5, 1.0), (2, 1, 2))):
        one, other = Array1_double(1, len(at)), Array1_int(1, len(at))
        for i, (knot, repeat) in enumerate(zip(at, repeats, strict=True)):
            one.SetValue(i + 1, knot)
            other.SetValue(i + 1, repeat)
        knots.append(one)
        times.append(other)
    roof = Geom_BSplineSurface(poles, *knots, *times, 2, 1)
    part = bodies(BRepBuilderAPI_MakeFace(roof, 1e-7).Face())
    ridge = [x for x in project(part, *PRINCIPAL["front"]) if x.cls == "outline"]
    points = np.concatenate([x.curve.points(1e-3) for x in ridge])
    u = points[:, 0] / 40
    assert (u.min(), u.max()) == pytest.approx((0, 1), abs=1e-4)
    assert points[:, 1] == pytest.approx(10 + 8 * u * (1 - u), abs=1e-3)
    assert sum(x.curve.length() for x in ridge) == pytest.approx(
        np.hypot(*np.diff(_parabola(), axis=0).T).sum(), rel=1e-4
    )


def _parabola() -> np.ndarray:
    u = np.linspace(0, 1, 2001)
    return np.c_[40 * u, 10 + 8 * u * (1 - u)]


def test_a_mesh_tells_how_far_it_strays_from_its_faces() -> None:
    """Round a cylinder of radius 6 a side over the angle a strays by 6·(1 - cos(a/2)); on planes nothing strays."""
    part = bodies(shapes.cylinder((0, 0, 0), (0, 0, 1), 6, 50))
    strays = part.mesh.strays
    for face, stray in zip(part.faces, strays, strict=True):
        if face.surface.kind == "plane":
            assert stray == pytest.approx(0, abs=1e-12)
            continue
        p = part.mesh.nodes[face.nodes]
        around = np.sort(np.unique(np.round(np.arctan2(p[:, 1], p[:, 0]), 9)))
        assert stray == pytest.approx(6 * (1 - math.cos(np.diff(around).max() / 2)), rel=0.02)


def test_a_dome_of_two_patches_whose_seams_lie_in_the_outline_shows_both_sides_of_it() -> None:
    """Two half turns of a free-form profile, 1.4 thick, seen along the plane of their seams: at the pole, where such a face has no
    sure normal, the seam still runs along the outline; it is as long as the profile, on both sides, outside seen, inside hidden."""
    profile, inside = (
        [
            (x * math.cos(a) ** 1.04156801544, 0.0, z * math.sin(a) ** 1.04156801544)
            for a in np.linspace(0, math.pi / 2, 7)
        ]
        for x, z in ((29.5185850837, 26.3268767589), (28.0936971673, 24.9019888425))
    )
    profile[-1], inside[-1] = (0.0, 0.0, 26.3268767589), (0.0, 0.0, 24.9019888425)
    for turn in (0.0, 1e-9):
        part = bodies(solid_of(dome(profile, inside, turn)))
        found = project(part, (0, -1, 0), (0, 0, 1))
        for visible, points in ((True, profile), (False, inside)):
            chords = sum(math.dist(p, q) for p, q in itertools.pairwise(points))
            own = [c.curve.length() for c in found if c.cls == "outline" and c.visible is visible]
            assert len(own) == 2 and own == pytest.approx([chords, chords], rel=0.02)


@pytest.mark.parametrize(
    ("make", "look"), [(partial(lofted, 15, 0.0, 4), "top"), (partial(turned, 15, 0.0, 2), "tilted")]
)
def test_a_fold_that_runs_out_to_nothing_and_the_rim_of_a_dent_are_followed_whole(make, look: str) -> None:
    # a fold 0.1 wide and 6 long beyond the last node of the mesh that lies in it; and a ring about a dent, over which a side of
    # the mesh stood as a chord, as all normals along the ring are alike
    shell = solid_of(make())
    part, (toward, up) = bodies(shell), LOOKS[look]
    shares = judge(sample([shell], 2e-4), part, project(part, toward, up), toward, up)
    assert min(shares.jumps, shares.folds, shares.outlines) >= LEAST


def test_a_shell_whose_skin_passes_through_itself_is_known_as_such() -> None:
    assert crosses_itself(sample([solid_of(lofted(14, 0.0, 2))], 2e-4))
    assert not crosses_itself(sample([solid_of(lofted(14, 0.0, 4))], 2e-4))


@pytest.mark.parametrize(
    "make", [*(partial(lofted, 2, t, 4) for t in at_length([1e-6], [0.0, 1e-6, 1e-3])), partial(turned, 8, 1e-9, 2)]
)
def test_where_seams_of_a_shell_lie_in_the_outline_they_are_it(make) -> None:
    # four patches that meet at up to 0.006 to both sides, so that none turns away by itself; and two whose normals are a guess
    # at the pole
    shell = solid_of(make())
    part, (toward, up) = bodies(shell), LOOKS["front"]
    shares = judge(sample([shell], 2e-4), part, project(part, toward, up), toward, up)
    assert min(shares.rim, shares.jumps, shares.folds, shares.outlines, shares.once) >= LEAST
