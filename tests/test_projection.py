"""Projection: figures from descriptive geometry, and a second method where there is none by hand."""

from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np
import pytest

from barequill.core import project, read_part
from barequill.core.errors import UserError
from barequill.core.geometry import curves2, nurbs
from barequill.core.part.model import Part
from barequill.core.projection import PRINCIPAL, camera
from barequill.core.projection.columns import Curves, as_columns
from barequill.core.projection.shading import shade
from barequill.core.reading import shapes
from barequill.core.reading.raw import faces_of
from tools.common import demo_file, part_of
from tools.made_parts import bodies, write_shape

from .conftest import real_file
from .shared import kinds, lengths

ISO = PRINCIPAL["iso"]


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory):
    folder = tmp_path_factory.mktemp("shapes")

    def make(name: str, build) -> Part:
        return part_of(
            write_shape(folder / f"{name}.brep", build())
            if not (folder / f"{name}.brep").exists()
            else folder / f"{name}.brep"
        )

    return make


def drilled() -> object:
    return shapes.cut(block(), shapes.cylinder((20, 15, -1), (0, 0, 1), 5, 30))


def block() -> object:
    return shapes.box((0, 0, 0), (40, 30, 20))


def test_a_box_from_the_front_is_four_lines_and_nothing_hidden(made) -> None:
    curves = project(made("block", block), *PRINCIPAL["front"])
    assert kinds(curves, True) == ["line"] * 4 and not kinds(curves, False)
    assert lengths(curves, True) == pytest.approx(2 * (40 + 20))


def test_a_box_in_isometric_shows_nine_edges_and_hides_three(made) -> None:
    curves = project(made("block", block), *ISO)
    assert len(kinds(curves, True)) == 9 and len(kinds(curves, False)) == 3
    short = math.sqrt(2 / 3)
    assert lengths(curves, True) == pytest.approx(3 * (40 + 30 + 20) * short)
    assert lengths(curves, False) == pytest.approx((40 + 30 + 20) * short)


def test_a_cylinder_has_a_circle_from_above_and_two_outlines_from_the_side(made) -> None:
    part = made("rod", lambda: shapes.cylinder((5, 0, 0), (0, 0, 1), 10, 50))
    top = project(part, *PRINCIPAL["top"])
    assert [c.curve.name for c in top] == ["circle"]
    assert top[0].curve.poles[0] == pytest.approx([5, 0]) and np.linalg.norm(top[0].curve.a) == pytest.approx(10)
    front = project(part, *PRINCIPAL["front"])
    assert kinds(front, True) == ["line"] * 4 and not kinds(front, False)
    outlines = [c for c in front if c.cls == "outline"]
    assert sorted(c.curve.poles[0][0] for c in outlines) == pytest.approx([-5, 15])
    assert {part.index[c.source][0] for c in outlines} == {"face"}


def test_a_sphere_shows_its_great_circle_from_everywhere(made) -> None:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    part = made("ball", lambda: BRepPrimAPI_MakeSphere(12.0).Shape())
    for toward in ((0, -1, 0), (1, -1, 1), (0.3, 0.5, -0.8)):
        curves = project(part, toward, (0.1, 0.2, 1))
        assert sum(c.curve.length() for c in curves if c.visible) == pytest.approx(2 * math.pi * 12, rel=1e-6)
        assert all(np.linalg.norm(c.curve.a) == pytest.approx(12) for c in curves)


def test_a_through_hole_is_hidden_from_the_side(made) -> None:
    part = made("drilled", drilled)
    curves = project(part, *PRINCIPAL["front"])
    hidden = [c for c in curves if not c.visible]
    assert sorted(c.curve.poles[0][0] for c in hidden) == pytest.approx([15, 25])
    assert lengths(curves, False) == pytest.approx(2 * 20)


def test_what_lies_behind_a_visible_line_is_not_drawn_but_known(made) -> None:
    """A step: from the front its tread is hidden (one line), from behind it is seen and nothing else is."""
    part = made("stairs", lambda: shapes.fuse(block(), shapes.box((0, 0, 20), (40, 15, 10))))
    front = project(part, *PRINCIPAL["front"])
    assert kinds(front, False) == ["line"] and lengths(front, False) == pytest.approx(40)
    curves = project(part, *PRINCIPAL["back"])
    assert not kinds(curves, False)
    assert lengths(curves, True) == pytest.approx(2 * 40 + 2 * 30 + 40)
    assert any(c.also for c in curves), "the edges in front and behind of one line are both known"


def test_outline_of_a_torus_agrees_with_its_equation(made) -> None:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus

    part = made("ring", lambda: BRepPrimAPI_MakeTorus(30.0, 8.0).Shape())
    toward = np.array([1.0, -1.0, 1.0]) / math.sqrt(3)
    curves = [c for c in project(part, toward, (0, 0, 1)) if c.cls == "outline"]
    view = camera(toward, (0, 0, 1))
    # points of the outline: tube normal square to the view, so (cos u, sin u, tan v) with cos u·dx + sin u·dy = -tan v·dz
    u = np.linspace(0, 2 * math.pi, 400)
    v = np.arctan(-(np.cos(u) * toward[0] + np.sin(u) * toward[1]) / toward[2])
    outer = np.c_[(30 + 8 * np.cos(v)) * np.cos(u), (30 + 8 * np.cos(v)) * np.sin(u), 8 * np.sin(v)]
    drawn = np.concatenate([c.curve.points(1e-3) for c in curves])
    for p in view.flat(outer):
        assert np.linalg.norm(drawn - p, axis=1).min() < 0.35, "every true point lies near a drawn one"
    x = np.array([c.curve.bounds() for c in curves])
    assert x[:, 2].max() == pytest.approx(38, abs=0.02), "30 + 8 square to the axis"


@pytest.mark.parametrize("name", ["io1-cm-214.stp", "sg1-c5-214.stp", "component8.step"])
def test_nothing_is_drawn_twice_on_real_parts(name: str) -> None:
    part = part_of(real_file(name))
    for view in ("front", "top", "iso"):
        curves = project(part, *PRINCIPAL[view])
        samples = [(k, p) for k, c in enumerate(curves) for p in c.curve.points(part.size * 1e-3)[1:-1]]
        points = np.array([p for _, p in samples])
        owners = np.array([k for k, _ in samples])
        double = 0
        for k, c in enumerate(curves):
            line = c.curve.points(part.size * 1e-5)
            others = points[owners != k]
            d = line[1:] - line[:-1]
            for p in others:
                t = np.clip(((p - line[:-1]) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-30), 0, 1)
                double += bool(np.linalg.norm(line[:-1] + t[:, None] * d - p, axis=1).min() < part.size * 1e-6)
        # single points may coincide where curves only touch
        assert double <= 0.04 * len(points), f"{name} {view}: {double} of {len(points)}"


def test_the_projection_is_the_same_for_a_part_turned_with_its_camera(made) -> None:
    one = made("drilled", drilled)
    two = made("turned", lambda: shapes.moved(drilled(), axis=(0, 0, 1), degrees=30))
    c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
    toward = np.array(ISO[0], float)
    turned = (c * toward[0] - s * toward[1], s * toward[0] + c * toward[1], toward[2])
    for visible in (True, False):
        assert lengths(project(two, turned, (0, 0, 1)), visible) == pytest.approx(
            lengths(project(one, *ISO), visible), rel=1e-6
        )


def test_a_camera_without_direction_is_refused(made) -> None:
    with pytest.raises(UserError, match="parallel"):
        project(made("block", block), (0, 0, 1), (0, 0, 2))


def test_a_piece_of_a_spline_lies_on_the_spline() -> None:
    knots = np.array([0, 0, 0, 0, 1, 2, 3, 3, 3, 3], float)
    poles = np.array([[0, 0], [1, 3], [3, 3], [4, 0], [6, -2], [8, 1]], float)
    weights = np.array([1, 2, 1, 0.5, 1, 1], float)
    cut_knots, cut_poles, cut_weights = nurbs.cut(3, knots, poles, weights, 0.4, 2.3)
    t = np.linspace(0.4, 2.3, 30)
    assert nurbs.curve_points(3, cut_knots, cut_poles, cut_weights, t)[0] == pytest.approx(
        nurbs.curve_points(3, knots, poles, weights, t)[0]
    )


def test_an_ellipse_given_by_any_two_half_diameters_gets_its_axes() -> None:
    """x = (5, 0), y = (3, 4) conjugate: by Rytz, a² + b² = 25 + 25 and a·b = |det| = 20."""
    ellipse = curves2.conic(np.zeros(2), np.array([5.0, 0.0]), np.array([3.0, 4.0]), 0.0, 2 * math.pi)
    a, b = np.linalg.norm(ellipse.a), np.linalg.norm(ellipse.b)
    assert a**2 + b**2 == pytest.approx(50) and a * b == pytest.approx(20)
    assert ellipse.bounds()[3] == pytest.approx(4.0)


def test_prepared_parts_need_no_kernel_to_be_projected(tmp_path: Path) -> None:
    import pickle
    import subprocess
    import sys

    path = tmp_path / "part"
    path.write_bytes(pickle.dumps(read_part(write_shape(tmp_path / "b.brep", block()))))
    code = f"import pickle,sys; from barequill.core.projection import project; n=len(project(pickle.load(open({str(path)!r},'rb')),(1,-1,1),(0,0,1))); print(n, 'OCP' in sys.modules)"
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert said.split() == ["12", "False"]


def test_a_bar_that_runs_into_a_block_is_hidden_from_there_on() -> None:
    """The bar from x = 10 to 70 leaves the block of 40 mm through its face at x = 40."""
    part = bodies(shapes.box((0, 0, 0), (40, 40, 40)), shapes.box((10, 10, 10), (60, 20, 20)))
    long = [c for c in project(part, *ISO) if c.cls == "edge" and _along_x(part, c)]
    ends = {(c.visible, *np.round(np.sort(part_x(part, c)), 3)) for c in long}
    assert (True, 40.0, 70.0) in ends, "seen where it has come out"
    assert (False, 10.0, 40.0) in ends, "hidden inside"


def _along_x(part: Part, curve) -> bool:
    x = part.edges[part.index[curve.source][1]].curve.x
    return x is not None and abs(x[0]) > 0.99


def part_x(part: Part, curve) -> np.ndarray:
    return part.edges[part.index[curve.source][1]].curve.points(np.array(curve.span))[:, 0]


def test_a_box_without_its_front_shows_its_inside(made) -> None:
    """Five faces of a box of 40 × 30 × 20 as a sheet, the front away: from the front all twelve edges lie in sight,
    the far four behind the near four; from the back the same four are seen and nothing is hidden apart from them."""

    def open_box() -> object:
        from OCP.BRep import BRep_Builder
        from OCP.TopoDS import TopoDS_Compound

        found, builder = TopoDS_Compound(), BRep_Builder()
        builder.MakeCompound(found)
        for face in faces_of(block()):
            if abs(_middle(face)[1]) > 1e-6:
                builder.Add(found, face)
        return found

    part = made("open-box", open_box)
    assert not part.bodies[0].solid and len(part.faces) == 5
    aslant = project(part, (0.3, -1.0, 0.4), (0, 0, 1))
    # looking in: the edges of the far face show through the missing front, but where the near walls cover them
    floor_back = [c for c in aslant if c.visible and _where(part, c, y=30, z=0)]
    assert sum(c.curve.length() for c in floor_back) > 20, "the floor's far edge is seen inside"
    behind = project(part, (0.3, 1.0, 0.4), (0, 0, 1))
    assert not [c for c in behind if c.visible and _where(part, c, y=0, z=0)], (
        "from behind the walls cover the near floor edge"
    )


def _middle(face) -> np.ndarray:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    amount = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, amount)
    c = amount.CentreOfMass()
    return np.array([c.X(), c.Y(), c.Z()])


def _where(part: Part, curve, **place: float) -> bool:
    points = part.edges[part.index[curve.source][1]].points
    return all(np.allclose(points[:, "xyz".index(k)], v) for k, v in place.items())


def test_a_circle_that_hides_a_line_cuts_it_where_algebra_says() -> None:
    """A disc of radius 10 before a rod: its edge at height 6 is hidden for |x| < 8 (6² + 8² = 10²)."""
    disc, rod = shapes.cylinder((0, 0, 0), (0, -1, 0), 10, 5), shapes.box((-30, 10, -6), (60, 5, 12))
    curves = project(bodies(disc, rod), *PRINCIPAL["front"])
    seen = [c.curve.poles for c in curves if c.visible and c.curve.kind == "line"]
    inner = sorted(abs(x) for p in seen for x, y in p if abs(abs(y) - 6) < 1e-9 and abs(x) < 29)
    assert inner == pytest.approx([8.0] * 4, abs=1e-6)
    hidden = [c.curve.length() for c in curves if not c.visible and c.curve.kind == "line"]
    assert sorted(hidden)[-2:] == pytest.approx([16.0, 16.0], abs=1e-6)


def test_a_ring_from_the_side_is_circles_and_lines(made) -> None:
    """R = 30, r = 8, seen square to its axis: two meridian circles of radius 8 with centres 60 apart, and tangents."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus

    curves = project(made("ring", lambda: BRepPrimAPI_MakeTorus(30.0, 8.0).Shape()), *PRINCIPAL["front"])
    assert {c.curve.name for c in curves} <= {"arc", "circle", "line"}
    arcs = [c.curve for c in curves if c.visible and c.curve.kind == "conic"]
    assert {round(float(np.linalg.norm(a.a)), 6) for a in arcs} == {8.0}
    assert {round(abs(float(a.poles[0][0])), 6) for a in arcs} == {30.0}
    # the outer half of either circle is seen, the inner half lies behind the ring
    assert sum(a.length() for a in arcs) == pytest.approx(2 * math.pi * 8, rel=1e-6)
    lines = [c.curve for c in curves if c.visible and c.curve.kind == "line"]
    assert sum(x.length() for x in lines) == pytest.approx(2 * 60, rel=1e-6)


@pytest.mark.parametrize("factor", [0.5 / 180, 50_000 / 180])
def test_tiny_and_huge_parts_are_projected_alike(made, factor: float) -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Pnt, gp_Trsf

    from barequill.core.reading.step import read_step

    path = demo_file("catch-box")
    resized = gp_Trsf()
    resized.SetScale(gp_Pnt(0, 0, 0), factor)
    solids = [BRepBuilderAPI_Transform(r.shape, resized, True).Shape() for r in read_step(path, path.name)[0]]
    for view in ("front", "iso"):
        small, plain = project(bodies(*solids), *PRINCIPAL[view]), project(part_of(path), *PRINCIPAL[view])
        for visible in (True, False):
            assert kinds(small, visible) == kinds(plain, visible)
            assert lengths(small, visible) == pytest.approx(factor * lengths(plain, visible), rel=1e-6)


def test_a_line_at_the_place_of_another_can_still_be_found(made) -> None:
    """Seen from above, the lower rim of a bore lies under the upper one: drawn once, found twice."""
    drilled = made("bored", lambda: shapes.cut(block(), shapes.cylinder((20, 15, -1), (0, 0, 1), 6, 30)))
    circles = [c for c in project(drilled, *PRINCIPAL["top"]) if c.curve.name == "circle"]
    assert len(circles) == 1 and circles[0].visible
    under = {drilled.edges[drilled.index[s][1]].points[0, 2] for s in circles[0].also if s.startswith("E")}
    assert under == {0.0}, "the rim at z = 0 lies under the one at z = 20"


def test_tones_cover_the_shadow_of_the_part_and_follow_the_light(made) -> None:
    """A cube of 20 mm in isometric: a hexagon of 3 · 20² / √3 mm²; three faces, three tones, the top the lightest."""
    from PIL import Image

    part = made("cube", lambda: shapes.box((0, 0, 0), (20, 20, 20)))
    tones = shade(part, camera(*ISO))
    placed_view = np.asarray(Image.open(io.BytesIO(tones.png)))[..., 3]
    (x0, y0), (x1, y1) = tones.low, tones.high
    dot = (x1 - x0) * (y1 - y0) / placed_view.size
    view = camera(*ISO)

    def tone(*corner: float) -> int:
        x, y = view.flat(np.array([corner], float))[0]
        return int(
            placed_view[int((y1 - y) / (y1 - y0) * len(placed_view)), int((x - x0) / (x1 - x0) * len(placed_view[0]))]
        )

    top, left, right = tone(10, 10, 20), tone(10, 0, 10), tone(20, 10, 10)
    assert top < left < right
    covered = (placed_view > 0).sum() * dot / (3 * 400 / math.sqrt(3))
    assert covered == pytest.approx(1.0 if top else 2 / 3, abs=0.01)


@pytest.mark.parametrize("name", ["spindle-pedestal", "round-gear-cover", "pawl"])
def test_every_piece_ends_where_its_edge_has_the_parameters_of_its_span(name: str) -> None:
    """In space by the edge's own curve, then along the camera's right and up; and columns are read as what they were."""
    part = part_of(demo_file(name))
    view, curves, met = camera(*ISO), project(part, *ISO), set()
    for c in curves:
        kind, row = part.index[c.source]
        if kind == "edge":
            space = part.edges[row].curve.points(np.array(c.span))
            own, flat = c.curve.points(1.0)[[0, -1]], space @ np.array([view.right, view.up]).T
            assert min(np.abs(own - flat).max(), np.abs(own - flat[::-1]).max()) < 1e-6 * part.size, c.source
            met.add(c.curve.kind)
    assert "conic" in met
    again = Curves(as_columns(list(curves)))
    for one, two in zip(curves, again, strict=True):
        assert (one.source, one.also, one.cls, one.visible, one.span) == (
            two.source,
            two.also,
            two.cls,
            two.visible,
            two.span,
        )
        assert one.curve.to_json() == two.curve.to_json()
