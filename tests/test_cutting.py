"""Cutting: areas by hand and by the kernel, what is left judged by rays, sections of every kind on a sheet."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from barequill.core import cut_faces, project
from barequill.core.cutting import Cell, Cut
from barequill.core.cutting.closed_forms import BOWED, CURVED, FORMS, Faces, closed_forms
from barequill.core.cutting.holding import behind, through
from barequill.core.cutting.hyperbolas import bowed_along
from barequill.core.cutting.limits import cutting_plane
from barequill.core.cutting.records import Chains, Fine
from barequill.core.cutting.region import Region
from barequill.core.cutting.rings import in_plane, rings_of
from barequill.core.errors import UserError
from barequill.core.geometry.curves3 import Curve3
from barequill.core.geometry.held import hold
from barequill.core.geometry.wires import from_curves
from barequill.core.reading import shapes
from barequill.core.views.cutting_lines import stretches_of
from barequill.core.views.sections import smooth_outline
from tools import cuts
from tools.awkward_parts import drilled_block, solid_of
from tools.common import at_length, demo_file, part_of
from tools.made_parts import bodies

from .conftest import real_file
from .shared import COVER_AREA

Z = (0.0, 0.0, 1.0)
"""mm² of the gear cover cut through its axis and two holes: flange and boss less bores, chamfer and two stepped holes."""


def test_a_section_through_the_axis_has_the_area_of_its_profile(cover) -> None:
    faces = cut_faces(cover, [((0, 0, 0), (1, 0, 0))])
    assert sum(f.area for f in faces) == pytest.approx(COVER_AREA, rel=1e-6)
    curves = project(cover, (1, 0, 0), Z, cut=[((0, 0, 0), (1, 0, 0))])
    # what bounds the cut faces is straight, is seen, and encloses them
    boundary = [c.curve for c in curves if c.cls == "cut"]
    assert boundary and {c.kind for c in boundary} == {"line"}
    enclosed = shapely.union_all(list(shapely.polygonize([shapely.LineString(c.poles) for c in boundary]).geoms))
    rings = [shapely.Polygon(f.loops[0][:, 1:]) for f in faces]
    assert enclosed.symmetric_difference(shapely.union_all(rings)).area < 1e-3


def test_a_bore_cut_aslant_is_bounded_by_its_ellipse(cover) -> None:
    n = np.array([0.0, -math.sin(0.3), math.cos(0.3)])
    curves = project(cover, n, (0, 1, 0), cut=[((0, 9, 0), tuple(n))])
    ellipses = [c.curve for c in curves if c.cls == "cut" and c.curve.kind == "conic"]
    # the bore of 36 along Y, cut at 0.3 rad to its axis
    found = [c for c in ellipses if np.linalg.norm(c.b) == pytest.approx(18, rel=1e-9)]
    assert found and np.linalg.norm(found[0].a) == pytest.approx(18 / math.sin(0.3), rel=1e-9)


@pytest.mark.parametrize("overlap", [0.0, 1.3e-7], ids=["as it comes", "its seam overlaps"])
@pytest.mark.parametrize("turn", [0.0, 37.0, 90.0, 180.0])
def test_a_drilled_hole_is_cut_to_its_very_tip_wherever_its_seam_runs(turn: float, overlap: float) -> None:
    part = bodies(drilled_block(turn, overlap))
    assert not part.remarks
    # a block of 20 by 20 mm, a hole of Ø8 by 10 mm with a tip of 118° below
    area = 20 * 20 - (8 * 10 + 4 * 4 / math.tan(math.radians(59)))
    for normal in ((1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0)):
        (face,) = cut_faces(part, [((0, 0, 0), normal)])
        assert face.area == pytest.approx(area, rel=1e-8)


def test_a_cut_along_a_face_that_rounds_off_shows_what_is_kept() -> None:
    block = shapes.box((0, 0, 0), (30, 20, 10))
    rim = [(15, 0, 10), (15, 20, 10), (0, 10, 10), (30, 10, 10)]
    part = bodies(solid_of(shapes.rounded(block, 2, rim)))
    top = [((0, 0, 10), (0, 0, 1))]
    # the flat top between the roundings, that are tangent to the wall; and nothing where it is taken away
    assert sum(f.area for f in cut_faces(part, top)) == pytest.approx(26 * 16, rel=1e-6)
    assert not cut_faces(part, [((0, 0, 10), (0, 0, -1))])


def test_a_mirrored_ring_is_cut_as_the_ring_itself() -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf

    mirror = gp_Trsf()
    mirror.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
    ring = BRepPrimAPI_MakeTorus(20, 6).Shape()
    one, other = bodies(ring), bodies(BRepBuilderAPI_Transform(ring, mirror, True).Shape())
    assert [p.faces[0].surface.hand for p in (one, other)] == [1, -1]
    cut = [((3, 2, 1), (0.2, -1.0, 0.3))]
    areas = [sum(f.area for f in cut_faces(p, c)) for p, c in ((one, cut), (other, [((-3, 2, 1), (-0.2, -1.0, 0.3))]))]
    assert areas[1] == pytest.approx(areas[0], rel=1e-7)
    seen = [project(p, (0.0, -1, 0.4), Z, cut=c) for p, c in ((one, cut), (other, [((-3, 2, 1), (-0.2, -1.0, 0.3))]))]
    for cls in ("cut", "outline", "edge"):
        one_long, other_long = (sum(c.curve.length() for c in s if c.cls == cls and c.visible) for s in seen)
        assert other_long == pytest.approx(one_long, rel=1e-5), cls
    assert {c.curve.kind for c in seen[1] if c.cls == "cut"} == {c.curve.kind for c in seen[0] if c.cls == "cut"}


def test_two_planes_take_a_quarter(pedestal) -> None:
    quarter = [((0, 0, 0), (1, 0, 0)), ((0, 0, 0), (0, -1, 0))]
    faces = cut_faces(pedestal, quarter)
    sides = [0.0, 0.0]
    for f in faces:
        sides[f.cutting_plane] += f.area
        assert all((loop[:, 0] < 1e-9).all() or (loop[:, 1] > -1e-9).all() for loop in f.loops)
    # half of each whole section: foot, ribs and upright less bore and oil hole, left to right foot and upright
    one = 40 * 16 + 17 * 36 / 2 + 20 * (60 - 16) + (114 - 100) * 20 - 4 * 14
    assert sides[0] == pytest.approx(one, rel=2e-3)
    curves = project(pedestal, (1, -1, 1), Z, cut=quarter)
    assert any(c.cls == "cut" and c.visible for c in curves)
    # where both planes meet in the material an edge is seen
    corner = [
        c for c in curves if c.cls == "cut" and c.curve.kind == "line" and abs(np.diff(c.curve.poles[:, 0])[0]) < 1e-9
    ]
    assert any(c.curve.length() == pytest.approx(60 * math.sqrt(2 / 3), rel=1e-6) for c in corner)


@pytest.mark.parametrize(
    "name", ["spindle-pedestal", "small-pedestal-assembly", "round-gear-cover", "component8.step", "sg1-c5-214.stp"]
)
def test_areas_are_those_of_the_kernel(name: str) -> None:
    path = real_file(name) if "." in name else demo_file(name)
    for cut, ours, theirs, by in cuts.areas(path):
        assert ours == pytest.approx(theirs, rel=1e-5), f"{cut}, {by}"


@pytest.mark.parametrize(
    "name", at_length(["catch-box"], ["catch-box", "small-pedestal-assembly", "long-pinion-spindle", "io1-cm-214.stp"])
)
def test_what_a_cut_leaves_is_drawn_as_rays_see_it(name: str) -> None:
    path = real_file(name) if "." in name else demo_file(name)
    for cut, shares in cuts.verdicts(path).items():
        assert min(shares) > 0.995, f"{cut}: {shares}"


def test_bodies_that_stay_whole_lose_nothing() -> None:
    part = part_of(demo_file("small-pedestal-assembly"))
    plane = Cell((cutting_plane((0, 0, 0), (1, 0, 0)),))
    alone = Cut((plane,), whole=("Stub spindle",))
    bodies = {f.body for f in cut_faces(part, alone)}
    spindle = [b.name for b in part.bodies].index("Stub spindle")
    assert spindle not in bodies and len(bodies) == 3
    seen = {c.source for c in project(part, (1, 0, 0), Z, cut=alone) if c.visible}
    assert any(part.edges[part.index[s][1]].body == spindle for s in seen if part.index[s][0] == "edge")


def test_a_line_is_parted_into_legs_and_steps() -> None:
    stepped = np.array([[-50, 0], [0, 0], [0, 20], [50, 20]], float)
    legs = stretches_of(stepped)
    assert [tuple(s.along) for s in legs] == [(1, 0), (1, 0)] and legs[0].first and legs[1].last
    bent = stretches_of(np.array([[0, 50], [0, 0], [40, -30]], float))
    assert len(bent) == 2 and tuple(bent[1].along) == pytest.approx((0.8, -0.6))
    with pytest.raises(UserError, match="turns back"):
        stretches_of(np.array([[0, 0], [10, 0], [10, 5], [-20, 5]], float))
    assert np.allclose(smooth_outline(np.eye(3)[:, :2] * 9)[::6], np.eye(3)[:, :2] * 9), "through its corners"


def _round_face(form: str, tan: float) -> Faces:
    """A face about the Z axis of radius 7, where it is a cone at the height 0."""
    half = math.atan(tan)
    return Faces(
        form=np.array([FORMS.index(form)]),
        origin=np.zeros((1, 3)),
        axes=np.eye(3)[None],
        radius=np.array([7.0]),
        minor=np.zeros(1),
        half=np.array([half]),
        lean=np.array([[math.sin(half), math.cos(half)]]),
        sense=np.ones(1),
    )


def _met(faces: Faces, points: np.ndarray, outward: np.ndarray, normal: np.ndarray, offset: float) -> tuple:
    """What a plane meets along points of a face in a part of 20 mm, and whether these are turned to have the material at
    their left."""
    turned = np.array([(np.cross(np.diff(points, axis=0), outward[1:]) @ normal).sum() > 0])
    found = closed_forms(
        faces=faces,
        chains=Chains(
            face=np.zeros(1, np.int64),
            begin=np.array([0, len(points)]),
            points=points,
            closed=np.zeros(1, bool),
            leftward=~turned,
            snaps=np.full((1, 2), -1),
            place=np.zeros((0, 3)),
        ),
        normal=normal,
        offset=offset,
        fine=Fine(size=20.0, hair=1e-6, near=1e-6, fit=1e-6, chord=1e-3),
    )
    return (*found, turned)


@pytest.mark.parametrize(("tilt", "low", "high"), [(0.0, -5, 6), (0.0, 1, 9), (0.2, -3, 2), (-0.1, -0.2, 8)])
def test_a_wall_beside_the_axis_of_a_cone_meets_it_in_a_hyperbola(tilt: float, low: float, high: float) -> None:
    """Of a cone of 0.5 from its apex at Z -14: where x = 3 + tilt · z, and y² + x² = (z + 14)²/4 for y from low to high."""
    y = np.linspace(low, high, 30)
    # (1/4 - tilt²) z² + (7 - 6 tilt) z + 49 - 9 - y² = 0, on the nappe above the apex
    a, b = 0.25 - tilt**2, 7 - 6 * tilt
    z = (-b + np.sqrt(b * b - 4 * a * (40 - y * y))) / (2 * a)
    points = np.c_[3 + tilt * z, y, z]
    normal = np.array([1, 0, -tilt]) / math.hypot(1, tilt)
    outward, faces = np.c_[points[:, :2], -0.25 * (z + 14)], _round_face("cone", 0.5)
    known, _, bow, span, turned = _met(faces, points, outward, normal, 3 / math.hypot(1, tilt))
    assert known.tolist() == [BOWED]
    net, knots, t, rows, cubic, normals = bowed_along(faces, 0, bow[0], span[0], 1e-3, 20.0)
    curve = Curve3(
        "nurbs", knots[0], knots[-1], degree=2, knots=knots, poles=net[:, :3] / net[:, 3:], weights=net[:, 3]
    )
    fine = curve.points(np.linspace(knots[0], knots[-1], 301))
    wire = rows[:-1] + 0.5 * (cubic[0] + 0.5 * (cubic[1] + 0.5 * cubic[2]))[:-1]
    for p, near in ((fine, 1e-9), (rows, 1e-9), (wire, 2e-6)):
        assert np.abs(np.hypot(p[:, 0], p[:, 1]) - (p[:, 2] + 14) / 2).max() < near
        assert np.abs(p[:, 0] - 3 - tilt * p[:, 2]).max() < near
    assert rows[[0, -1]] == pytest.approx(points[[-1, 0] if turned[0] else [0, -1]], abs=1e-9)
    assert curve.points(t) == pytest.approx(rows, abs=1e-9)
    chords = np.diff(rows, axis=0)
    sag = np.cross(chords, wire - rows[:-1])
    assert (np.linalg.norm(sag, axis=1) / np.linalg.norm(chords, axis=1)).max() < 1.01e-3, "chords within that of it"
    own = np.c_[rows[:, :2], -0.25 * (rows[:, 2] + 14)]
    assert normals == pytest.approx(own / np.linalg.norm(own, axis=1)[:, None], abs=1e-9)
    assert np.cross(normal, rows[1] - rows[0]) @ normals[0] < 0, "the material at the left"


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(["cylinder", "cone", "sphere"]),
    st.tuples(*[st.floats(-1, 1)] * 3),
    st.floats(-3, 3),
    st.floats(0, 6),
    st.floats(1, 6.2),
    st.booleans(),
)
def test_a_wall_meets_round_faces_in_the_conic_through_points_found_by_their_angles(
    form, n, offset, start, sweep, back
):
    """Rising from the angle about the axis to the height at which the plane is, or round the circle within a ball."""
    if math.hypot(*n) < 0.1:
        return
    normal = np.array(n) / math.hypot(*n)
    angle = np.linspace(start, start + sweep, 40)[:: -1 if back else 1]
    round_about = np.c_[np.cos(angle), np.sin(angle), 0 * angle]
    tan = 0.3 if form == "cone" else 0.0
    if form == "sphere":
        if abs(offset) > 6.5:
            return
        u = np.cross(normal, [0.6, 0, 0.8] if abs(normal[0]) < 0.9 else [0, 1.0, 0])
        u /= np.linalg.norm(u)
        points = offset * normal + math.sqrt(49 - offset**2) * (
            round_about[:, :1] * u + round_about[:, 1:2] * np.cross(normal, u)
        )
    else:
        # n · ((7 + h tan) r + h z) = offset
        across = round_about @ normal
        if np.abs(normal[2] + tan * across).min() < 0.35 or abs(normal[2]) < 1.1 * tan * math.hypot(*normal[:2]):
            # grazed, or met in a hyperbola
            return
        h = (offset - 7 * across) / (normal[2] + tan * across)
        if (7 + h * tan).min() < 0.5:
            return
        points = (7 + h * tan)[:, None] * round_about + h[:, None] * np.array(Z)
    outward = points - (0 if form == "sphere" else np.outer(points[:, 2], Z))
    known, ends, conic, span, turned = _met(_round_face(form, tan), points, outward, normal, offset)
    assert known.tolist() == [CURVED]
    o, x, y = conic[0]
    own = o + np.outer(np.cos(span[0]), x) + np.outer(np.sin(span[0]), y)
    assert own == pytest.approx(points[[-1, 0] if turned[0] else [0, -1]], abs=1e-7)
    assert ends[0] == pytest.approx(own, abs=1e-7)
    q = points - o
    on = np.hypot(q @ y / (y @ y), q @ x / (x @ x))
    assert on == pytest.approx(np.ones(40), abs=1e-8)
    # with the material, the inside of the face, at the left as one looks against the normal
    way = np.cross(normal, -math.sin(span[0, 0]) * x + math.cos(span[0, 0]) * y)
    assert way @ (outward[-1] if turned[0] else outward[0]) < 0


def test_a_circle_holds_its_own_area_however_coarse_its_polyline_is() -> None:
    x, y = 5 * np.array([0.8, 0.6, 0]), 5 * np.array([-0.6, 0.8, 0])
    conic, span, none = np.array([[[1.0, 2, 3], x, y]]), np.array([[0.0, 2 * math.pi]]), np.zeros((0, 2, 3))
    frame = np.array([[0, 0, 3.0], [1.0, 0, 0], [0, 1.0, 0]])
    wire = from_curves(
        [Curve3("conic", 0.0, 2 * math.pi, origin=conic[0, 0], x=x, y=y)], [np.linspace(0, 2 * math.pi, 65)]
    )
    wires, some, all_ = (wire.start, wire.points, wire.cubic), np.zeros(0, np.int64), np.array([0])
    for fine in (1e-3, 0.5):
        for flat, begin, bulge in (
            in_plane(ends=none, conic=conic, span=span, wires=wires, fitted=some, frame=frame, fine=fine),
            in_plane(ends=none, conic=conic[:0], span=span[:0], wires=wires, fitted=all_, frame=frame, fine=4 * fine),
        ):
            assert begin.tolist() == [0, len(flat)] and flat[0] == pytest.approx(flat[-1], abs=1e-9)
            a, b = flat[:-1], flat[1:]
            chords = float((a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]).sum() / 2)
            assert chords + bulge[0] == pytest.approx(25 * math.pi, rel=1e-6)
            assert np.abs(np.hypot(*((a + b) / 2 - [1, 2]).T) - 5).max() < 1.05 * fine


def _sides(*rings: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The sides of rings (m, 2) as pieces in any order, and where each begins."""
    sides = np.concatenate([np.stack([r, np.roll(r, -1, axis=0)], axis=1) for r in rings])
    np.random.default_rng(4).shuffle(sides)
    return sides.reshape(-1, 2), 2 * np.arange(len(sides) + 1)


def _square(x: float, y: float, half: float) -> np.ndarray:
    return np.array([x, y]) + half * np.array([[-1.0, -1], [1, -1], [1, 1], [-1, 1]])


def test_rings_lie_in_each_other_in_turn_or_are_not_sound() -> None:
    """A square plate with a round hole, a bar in that, and another bar beside; then two that cross, one within another without
    a hole between, and a hole outside."""
    turn = np.linspace(0, 2 * math.pi, 300)[:-1]
    hole = np.c_[4 * np.cos(turn), -4 * np.sin(turn)]
    plate, bar, beside = _square(0, 0, 10), _square(0, 0, 2), _square(20, 3, 1)
    flat, begin = _sides(plate, hole, bar, beside)
    n = len(begin) - 1
    frame, up = np.array([[0, 0, 7.0], [1, 0, 0], [0, 1, 0]]), np.array([0, 0, 1.0])
    rings = rings_of(flat, begin, np.full(n, 0.5), np.ones(n, np.int64), np.array([True, True]), frame, 1e-3)
    assert rings.of_body.tolist() == [0, 0, 4] and rings.sound[1] and rings.over.tolist() == [0, n / 2]
    assert (rings.spots == np.c_[rings.points, np.full(len(rings.points), 7.0)]).all()
    round_ = shapely.Polygon(hole).area
    assert sorted(rings.turns) == pytest.approx(sorted([400, -round_, 16, 4]), rel=1e-12)
    region = Region(
        points=rings.points,
        spots=rings.spots,
        first=rings.first,
        turns=rings.turns,
        around=rings.around,
        area=float(rings.turns.sum()),
    )
    found = sorted((area, len(loops)) for area, loops in region.faces(frame, 1e-6))
    assert [k for _, k in found] == [1, 1, 2]
    assert [a for a, _ in found] == pytest.approx([4, 16, 400 - round_], rel=1e-12)
    # rays along Z from below pass it where the shape of the same corners lies over them
    spots = np.random.default_rng(5).uniform(-12, 22, (500, 3)) * [1, 1, 0]
    high = np.full(500, np.inf)
    rows, way = through(rings.points, rings.first, frame, up, 7.0, spots, up, 0.0, high)
    shape = shapely.union_all([shapely.Polygon(plate, [hole]), shapely.Polygon(bar), shapely.Polygon(beside)])
    assert rows.tolist() == np.nonzero(shapely.contains_xy(shape, spots[:, 0], spots[:, 1]))[0].tolist()
    assert way == pytest.approx(np.full(len(rows), 7.0))
    struck = np.arange(500) % 2 == 0
    behind(hold(rings), frame, up, 7.0, spots, up, 0.0, struck)
    assert np.nonzero(struck)[0].tolist() == sorted({*rows.tolist(), *range(0, 500, 2)})
    for wrong in ((plate, _square(10, 10, 2)), (plate, bar), (plate, _square(15, 0, 2)[::-1])):
        flat, begin = _sides(*wrong)
        n = len(begin) - 1
        solid = np.array([True])
        assert not rings_of(flat, begin, np.zeros(n), np.zeros(n, np.int64), solid, frame, 1e-3).sound[0]


def test_a_wall_that_all_but_touches_a_face_meets_it_as_often_as_it_does() -> None:
    """By hand: a lying cylinder of radius 200 and 50 long, cut 0.02 and 0.5 beneath its top, where its mesh strays 0.14, and a
    wall 0.02 within the foot of a cone on a plate, which meets it in a bow of 1.26 by 0.03."""
    lying = bodies(shapes.cylinder((0, 0, 0), (0, 1, 0), 200, 50))
    assert lying.mesh.strays.max() > 0.1
    for turn in (0.03, 0.31, 0.5):
        way = np.array([np.cos(turn), 0, np.sin(turn)])
        for height in (199.98, 199.5):
            (face,) = cut_faces(lying, Cut((Cell((cutting_plane(height * way, way),)),)))
            assert face.area == pytest.approx(2 * np.sqrt(200**2 - height**2) * 50, rel=3e-6)
    # a cone of radius 10 at its foot and 4 at its top, 8 higher: its height over x is (10 − √(x² + 9.98²)) · 8 / 6
    plate = shapes.fuse(shapes.box((-40, -40, -6), (80, 80, 6)), shapes.cone((0, 0, 0), (0, 0, 1), 10, 4, 8))
    (face,) = cut_faces(
        bodies(solid_of(plate)), Cut((Cell((cutting_plane(np.array([0, 9.98, 0]), np.array([0.0, 1, 0])),)),))
    )
    half = np.sqrt(10**2 - 9.98**2)
    x = np.linspace(-half, half, 200_001)
    height = (10 - np.hypot(x, 9.98)) * 8 / 6
    assert face.area - 480 == pytest.approx(float(((height[1:] + height[:-1]) / 2 * np.diff(x)).sum()), rel=1e-3)


def test_a_wall_that_the_exact_curves_miss_is_as_the_mesh_has_it_and_told() -> None:
    # a bore of 12 whose surface says that it is one of 10: the block's mesh and edges know better
    part = bodies(solid_of(shapes.cut(shapes.box((0, 0, 0), (40, 30, 20)), shapes.cylinder((20, 15, -1), Z, 6, 22))))
    cut = [((0, 0, 9), (0, 0, -1))]
    exact = cut_faces(part, cut)
    assert sum(f.area for f in exact) == pytest.approx(40 * 30 - math.pi * 36, rel=1e-9)
    assert not any(c.meshed for c in project(part, (0, 0, 1), (0, 1, 0), cut=cut) if c.cls == "cut")
    faces = tuple(
        replace(f, surface=replace(f.surface, radius=5.0)) if f.surface.kind == "cylinder" else f for f in part.faces
    )
    wrong = replace(part, key="wrong", faces=faces)
    # the polygon that the mesh has of the bore, chords about a circle of 6
    assert sum(f.area for f in cut_faces(wrong, cut)) == pytest.approx(40 * 30 - math.pi * 36, abs=1.0)
    curves = [c for c in project(wrong, (0, 0, 1), (0, 1, 0), cut=cut) if c.cls == "cut"]
    assert any(c.meshed for c in curves)
    points = np.concatenate([c.curve.points(1e-3) for c in curves if c.meshed])
    bore = points[np.hypot(points[:, 0] - 20, points[:, 1] - 15) < 10]
    assert len(bore) and np.allclose(np.hypot(bore[:, 0] - 20, bore[:, 1] - 15), 6, atol=0.05)


def test_a_body_whose_poles_lie_far_out_is_meshed_by_its_own_size() -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.collections import Array2_gp_Pnt
    from OCP.Geom import Geom_BezierSurface
    from OCP.gp import gp_Pnt

    # of a strip 4,000 mm long, bowed up by 1,000, the first hundredth
    poles = Array2_gp_Pnt(1, 3, 1, 2)
    for u, (x, z) in enumerate(((0, 0), (2000, 2000), (4000, 0)), 1):
        for v, y in enumerate((0, 30), 1):
            poles.SetValue(u, v, gp_Pnt(x, y, z))
    part = bodies(BRepBuilderAPI_MakeFace(Geom_BezierSurface(poles), 0, 0.01, 0, 1, 1e-7).Face())
    size = math.dist((0, 0, 0), (40, 30, 2 * 0.01 * 0.99 * 2000))
    assert part.size == pytest.approx(size, rel=1e-6)
    assert part.mesh.deflection == pytest.approx(5e-4 * size, rel=0.05)
