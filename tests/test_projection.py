"""Projection: figures from descriptive geometry, and a second method where there is none by hand."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from barequill.core import project, read_part
from barequill.core.errors import UserError
from barequill.core.geometry import curves2, nurbs
from barequill.core.part.model import Part
from barequill.core.projection import PRINCIPAL, camera
from barequill.demo import shapes

from .conftest import part_of, real_file
from .test_part import write_shape

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


def lengths(curves, visible: bool) -> float:
    return sum(c.curve.length() for c in curves if c.visible == visible)


def kinds(curves, visible: bool) -> list[str]:
    return sorted(c.curve.name for c in curves if c.visible == visible)


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
    part = made("drilled", lambda: shapes.cut(block(), shapes.cylinder((20, 15, -1), (0, 0, 1), 5, 30)))
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
    one = made("drilled", lambda: None)
    two = made(
        "turned",
        lambda: shapes.moved(
            shapes.cut(block(), shapes.cylinder((20, 15, -1), (0, 0, 1), 5, 30)), axis=(0, 0, 1), degrees=30
        ),
    )
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
