"""Cutting: areas by hand and by the kernel, what is left judged by rays, sections of every kind on a sheet."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from barequill.core import cut_faces, project
from barequill.core.cutting import Cell, Cut
from barequill.core.cutting.limits import wall
from barequill.core.errors import UserError
from barequill.core.views.cutting_lines import stretches_of
from barequill.core.views.sections import smooth_outline

from . import cuts
from .conftest import demo_file, part_of, real_file

Z = (0.0, 0.0, 1.0)
COVER_AREA = 2 * (62 * 12 + (36 + 33.5) / 2 * 14 - 18 * 18 - 20 * 8) - 2 * 2 - 2 * (6.6 * 6 + 11 * 6)
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


def test_two_planes_take_a_quarter(pedestal) -> None:
    quarter = [((0, 0, 0), (1, 0, 0)), ((0, 0, 0), (0, -1, 0))]
    faces = cut_faces(pedestal, quarter)
    sides = [0.0, 0.0]
    for f in faces:
        sides[f.wall] += f.area
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


@pytest.mark.parametrize("name", ["catch-box", "small-pedestal-assembly", "long-pinion-spindle", "io1-cm-214.stp"])
def test_what_a_cut_leaves_is_drawn_as_rays_see_it(name: str) -> None:
    path = real_file(name) if "." in name else demo_file(name)
    for cut, shares in cuts.verdicts(path).items():
        assert min(shares) > 0.995, f"{cut}: {shares}"


def test_bodies_that_stay_whole_lose_nothing() -> None:
    part = part_of(demo_file("small-pedestal-assembly"))
    plane = Cell((wall((0, 0, 0), (1, 0, 0)),))
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
