"""The arrays under a view: wires, meshes of plane faces, rays, and outlines in their own formulas."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from barequill.core.geometry.curves3 import Curve3, line
from barequill.core.geometry.splines import wire_of
from barequill.core.geometry.surfaces import Surface
from barequill.core.geometry.vectors import cross
from barequill.core.geometry.wires import from_curves, joined, straight
from barequill.core.part.figures import area_of, edge_figures, packed, stands_over
from barequill.core.part.model import Mesh
from barequill.core.projection import PRINCIPAL, camera
from barequill.core.projection.arcs import arcs_between, conic_arc, torus_arc
from barequill.core.projection.flattening import laid_flat
from barequill.core.projection.plane_curves import principal
from barequill.core.projection.rays import RayStructure
from barequill.core.projection.records import Eye
from barequill.core.projection.segments import grid_of, segments_of
from barequill.core.projection.table import table_of
from barequill.core.reading import shapes
from barequill.core.reading.meshing import triangulated
from tools.common import demo_file, part_of
from tools.made_parts import bodies

from .shared import CIRCLE_KNOTS, CIRCLE_WEIGHTS, circle_poles

X, Y, Z = np.eye(3)


def polygon(n: int, radius: float, centre=(0.0, 0.0)) -> np.ndarray:
    t = np.linspace(0, 2 * np.pi, n + 1)
    return np.c_[centre[0] + radius * np.cos(t), centre[1] + radius * np.sin(t), np.zeros(n + 1)]


def area(nodes: np.ndarray, triangles: np.ndarray) -> float:
    a, b, c = nodes[triangles].transpose(1, 0, 2)
    return float(np.cross(b - a, c - a)[:, 2].sum() / 2)


def bounded(chains: list[np.ndarray], near: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    return triangulated(chains, [c[:, :2] for c in chains], near)


def regular(n: int, radius: float) -> float:
    return n / 2 * radius**2 * math.sin(2 * math.pi / n)


# ---- meshes of plane faces


def test_a_plane_face_full_of_holes_has_its_own_area_and_turns_one_way() -> None:
    outer = np.array([[0, 0, 0], [100, 0, 0], [100, 80, 0], [0, 80, 0], [0, 0, 0]], float)
    holes = [polygon(24, 3, (10 + 16 * i, 10 + 15 * j)) for i in range(6) for j in range(5)]
    nodes, _, triangles = bounded([outer, *holes], 1e-6)
    assert area(nodes, triangles) == pytest.approx(100 * 80 - 30 * regular(24, 3))
    a, b, c = nodes[triangles].transpose(1, 0, 2)
    assert (np.cross(b - a, c - a)[:, 2] > 0).all()


def test_an_island_in_a_hole_is_part_of_the_face() -> None:
    chains = [polygon(32, 30), polygon(32, 20), polygon(32, 10)]
    nodes, _, triangles = bounded(chains, 1e-6)
    assert area(nodes, triangles) == pytest.approx(regular(32, 30) - regular(32, 20) + regular(32, 10))


@pytest.mark.parametrize("scale", [1e-2, 1.0, 1e4])
def test_the_mesh_of_a_face_does_not_care_for_its_size_or_the_order_of_its_edges(scale: float) -> None:
    chains = [scale * polygon(48, 50), scale * polygon(16, 5, (20, 0)), scale * polygon(16, 5, (-20, 0))]
    (there, _, one), (back, _, two) = (bounded(c, 1e-7 * scale) for c in (chains, [c[::-1] for c in reversed(chains)]))
    expected = scale**2 * (regular(48, 50) - 2 * regular(16, 5))
    assert area(there, one) == pytest.approx(expected) and area(back, two) == pytest.approx(expected)


# ---- wires


@pytest.mark.parametrize(
    "curve",
    [
        line(np.array([1.0, 2, 3]), np.array([4.0, 6, 3])),
        Curve3("conic", 0.3, 4.0, origin=X, x=5 * Y, y=5 * Z),
        Curve3("conic", 0.0, 2 * math.pi, origin=X, x=5 * Y, y=2 * Z),
        Curve3("nurbs", 0, 4, degree=2, knots=CIRCLE_KNOTS, poles=circle_poles(7, (1, 2, 3)), weights=CIRCLE_WEIGHTS),
    ],
)
def test_between_its_rows_a_wire_stays_on_its_curve(curve: Curve3) -> None:
    """The cubic between rows a two-hundredth of the curve apart is off by less than 1e-6 of its size."""
    t = np.linspace(curve.t0, curve.t1, 201)
    wires = from_curves([curve], [t])
    row = np.arange(200)
    for share in (0.25, 0.5, 0.9):
        exact = curve.points(t[:-1] + share * np.diff(t))
        assert wires.at(row, np.full(200, share)) == pytest.approx(exact, abs=1e-6)


def test_wires_of_mixed_curves_are_those_of_each_alone() -> None:
    corner = np.array([[0.0, 0, 0], [4, 0, 0], [4, 3, 0]])
    curves = [
        Curve3("conic", 0.3, 4.0, origin=X, x=5 * Y, y=2 * Z),
        Curve3("nurbs", 0, 2, degree=1, knots=np.array([0.0, 0, 1, 2, 2]), poles=corner),
        Curve3("line", -1.0, 6.0, origin=Y, x=Z),
        Curve3("nurbs", 0, 4, degree=2, knots=CIRCLE_KNOTS, poles=circle_poles(7, (1, 2, 3)), weights=CIRCLE_WEIGHTS),
        Curve3("conic", 0.0, 1.0, origin=Z, x=Z, y=X),
    ]
    parameters = [np.linspace(c.t0, c.t1, 3 + 2 * k) for k, c in enumerate(curves)]
    parameters[1] = np.array([0.0, 1.0, 2.0])
    both = from_curves(curves, parameters)
    for k, (curve, t) in enumerate(zip(curves, parameters, strict=True)):
        rows = slice(both.start[k], both.start[k + 1])
        alone = from_curves([curve], [t])
        assert both.points[rows] == pytest.approx(curve.points(t)) and both.t[rows] == pytest.approx(t)
        assert both.cubic[:, rows] == pytest.approx(alone.cubic)
    bent = both.at(both.start[1] + np.array([0, 1]), np.array([0.5, 0.5]))
    assert bent == pytest.approx(np.array([[2, 0, 0], [4, 1.5, 0]])), "a corner keeps both of its slopes"


def test_wires_of_several_sets_are_one_set() -> None:
    a = straight(np.zeros((2, 3)), np.array([[3.0, 4, 0], [0, 0, 2]]))
    b = from_curves([Curve3("conic", 0, 1, origin=X, x=Y, y=Z)], [np.linspace(0, 1, 5)])
    both = joined([a, b])
    assert both.count == 3 and both.start.tolist() == [0, 2, 4, 9]
    assert both.owner.tolist() == [0, 0, 1, 1, 2, 2, 2, 2, 2]
    assert both.t[1] == pytest.approx(5), "parameter of a line is mm along it"
    assert both.points[4:] == pytest.approx(b.points)


# ---- curves in the view


@settings(max_examples=50, deadline=None)
@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1), st.floats(0, 6), st.floats(0.1, 6))
def test_a_circle_in_any_view_is_the_ellipse_of_its_points(a, b, c, start, sweep) -> None:
    if abs(a) + abs(b) + abs(c) < 0.1:
        return
    view = camera((a, b, c), (0.3, 0.2, 1) if abs(c) < 0.95 * math.hypot(a, b, c) else (1, 0, 0))
    axes = np.empty((3, 2))
    low, high = principal(np.array([X + Y, 7 * Y, 7 * Z]), start, start + sweep, view.right, view.up, axes)
    centre, x, y = axes
    assert abs(x @ y) < 1e-6 and x @ x >= y @ y - 1e-9
    assert x @ x + y @ y == pytest.approx(49 * (2 - (view.toward @ Y) ** 2 - (view.toward @ Z) ** 2), rel=1e-6)
    space = np.array([X + Y + 7 * (math.cos(t) * Y + math.sin(t) * Z) for t in (start, start + sweep)])
    ends = np.array([centre + math.cos(t) * x + math.sin(t) * y for t in (low, high)])
    flat = view.flat(space)
    assert np.allclose(ends, flat, atol=1e-6) or np.allclose(ends, flat[::-1], atol=1e-6)


def test_a_circle_seen_edge_on_is_level_and_folds_where_it_turns_back() -> None:
    curve = Curve3("conic", 0, 2 * math.pi, origin=np.zeros(3), x=10 * X, y=10 * Y)
    w = from_curves([curve], [np.linspace(0, 2 * math.pi, 65)])
    bent = np.array([True])
    laid, strand, t = laid_flat((w.start, w.t, w.points, w.cubic), bent, Eye(X, Z, -Y), 1e-6)
    assert laid.level[0] and strand.tolist() == [0]
    assert t == pytest.approx([math.pi], abs=1e-6), "its two other turns are its ends"
    assert laid.way[-1] == pytest.approx(40, abs=1e-6)
    aslant, folds, _ = laid_flat(
        (w.start, w.t, w.points, w.cubic), bent, Eye(X, (Y + Z) / math.sqrt(2), (Z - Y) / math.sqrt(2)), 1e-6
    )
    assert not aslant.level[0] and not len(folds)


def test_pieces_in_one_place_are_taken_together() -> None:
    """Two equal lines, one run backward, and a third elsewhere: two places."""
    a = np.array([[0.0, 0, 0], [10, 0, 0], [0, 5, 0]])
    b = np.array([[10.0, 0, 0], [0, 0, 0], [10, 5, 0]])
    w = straight(a, b)
    laid, strand, t = laid_flat((w.start, w.t, w.points, w.cubic), np.zeros(3, bool), Eye(X, Y, Z), 1e-6)
    found = segments_of(laid, strand, t, 1e-4)
    place = found.place
    assert len(found.chord) == 2 and place[0] == place[1] != place[2]
    assert found.back.tolist() == [False, True, False]
    first = int(found.first[place[0]])
    assert {first, int(found.follow[first])} == {0, 1}
    grid = grid_of(found.chord, 1e-4)
    assert set(grid.held.tolist()) == {0, 1} and grid.begin[-1] == len(grid.held)


# ---- outlines


def test_an_arc_of_a_torus_s_outline_has_normals_square_to_the_view() -> None:
    toward = np.array([0.3, -0.7, 0.65])
    toward /= np.linalg.norm(toward)
    torus = (0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), 30.0, 8.0
    t, p, d, normals, convex = torus_arc(torus, 1.0, toward, 1.0, 0.0, 2 * math.pi, 1e-5, 1e-4)
    assert np.abs(normals @ toward).max() < 1e-9
    ring = np.hypot(p[:, 0], p[:, 1])
    assert np.hypot(ring - 30, p[:, 2]) == pytest.approx(np.full(len(p), 8.0), abs=1e-9)
    rt, rp, rc, *_ = wire_of(t, p, d, normals, convex, 1e-4)
    between = rp[:-1] + 0.5 * (rc[0, :-1] + 0.5 * (rc[1, :-1] + 0.5 * rc[2, :-1]))
    off = np.abs(np.hypot(np.hypot(between[:, 0], between[:, 1]) - 30, between[:, 2]) - 8)
    assert off.max() < 2e-5 and (np.diff(rt) > 0).all()


@pytest.mark.parametrize(("sense", "free"), [(1.0, True), (-1.0, False)])
def test_a_great_circle_leaves_its_ball_free_and_is_hidden_in_its_hollow(sense: float, free: bool) -> None:
    t, points, _, outward, loose = conic_arc(
        conic=np.array([Z, 5 * X, 5 * Y]),
        span=np.array([0.0, 2 * math.pi]),
        centre=Z,
        axis=Z,
        big=0.0,
        small=5.0,
        sense=sense,
        toward=Z,
        chord=1e-3,
    )
    assert (loose == free).all()
    assert outward == pytest.approx(sense * (points - Z) / 5)
    assert 5 * (1 - math.cos((t[1] - t[0]) / 2)) <= 1e-3


@pytest.mark.parametrize(
    ("roots", "seen", "arcs"),
    [
        ([], np.linspace(0, 6.2, 40), [(0, 2 * math.pi)]),
        ([1.0, 4.0], np.linspace(1.2, 3.8, 8), [(1.0, 4.0)]),
        ([1.0, 4.0], np.linspace(4.2, 7.0, 9) % (2 * math.pi), [(4.0, 1.0 + 2 * math.pi)]),
        ([1.0, 4.0], np.linspace(0, 6.2, 40), [(1.0, 4.0), (4.0, 1.0 + 2 * math.pi)]),
        ([], [], []),
    ],
)
def test_outlines_run_from_root_to_root_where_the_mesh_sees_them(roots, seen, arcs) -> None:
    found, held = arcs_between(np.array(roots, float), np.array(seen, float))
    assert found[held].tolist() == [pytest.approx(a) for a in arcs]


# ---- rays


def test_rays_meet_what_stands_in_their_way_and_say_where() -> None:
    nodes = np.array([[0.0, 0, 5], [10, 0, 5], [0, 10, 5]])
    mesh = Mesh(
        nodes, np.zeros((3, 2)), np.tile(Z, (3, 1)), np.array([[0, 1, 2]]), np.zeros(1, np.int64), 0.0, np.zeros(1)
    )
    rays = RayStructure(mesh, nodes.min(axis=0), nodes.max(axis=0))
    origins = np.array([[2.0, 2, 0], [8, 8, 0], [2, 2, 6]])
    assert rays.blocked(origins, Z).tolist() == [True, False, False]
    triangle, far, weights = rays.hits(origins, Z)
    assert triangle.tolist()[0] == 0 and triangle.tolist()[1] == -1
    assert far[0] == pytest.approx(5, abs=1e-5)
    assert weights[0] @ nodes == pytest.approx([2, 2, 5], abs=1e-5)


def test_the_table_knows_which_faces_turn_and_how_far_rays_are_lifted() -> None:
    part = bodies(shapes.rounded(shapes.box((0, 0, 0), (40, 30, 20)), 4, [(40, 15, 20), (20, 0, 20)]))
    table = table_of(part)
    kinds = [f.surface.kind for f in part.faces]
    assert table.turning.sum() == sum(k in ("sphere", "torus", "nurbs") for k in kinds)
    plane = table.ledger.face_lift[[k == "plane" for k in kinds]]
    assert plane == pytest.approx(np.full(len(plane), 1e-5 * part.size))
    assert (table.ledger.face_lift[[k == "cylinder" for k in kinds]] > plane[0]).all()
    for name in ("front", "iso"):
        assert camera(*PRINCIPAL[name]).toward == pytest.approx(
            cross(camera(*PRINCIPAL[name]).right, camera(*PRINCIPAL[name]).up)
        )
    pawl = part_of(demo_file("pawl"))
    assert table_of(pawl).refs == [e.ref for e in [*pawl.edges, *pawl.faces]]


# ---- figures of edges and faces


def test_an_edge_between_a_plane_and_a_cylinder_meets_squarely_and_convexly() -> None:
    rim = Curve3(
        "conic", 0, 2 * math.pi, origin=np.array([0, 0, 10.0]), x=np.array([5.0, 0, 0]), y=np.array([0, 5.0, 0])
    )
    lid = packed(Surface("plane", np.array([0, 0, 10.0]), np.eye(3)), 1.0)
    side = packed(Surface("cylinder", np.zeros(3), np.eye(3), radius=5), 1.0)
    t, points, normals, convex, turn, alike = edge_figures(
        True, 0.0, 2 * math.pi, rim.origin, rim.x, rim.y, 16, lid, side, 1.0
    )
    assert points == pytest.approx(rim.points(t)) and turn == pytest.approx(1.0) and not alike
    assert normals[0] == pytest.approx(np.tile([0, 0, 1.0], (17, 1)))
    assert normals[1] == pytest.approx(np.c_[np.cos(t), np.sin(t), 0 * t], abs=1e-12)
    assert convex.all()
    bore = packed(Surface("cylinder", np.zeros(3), np.eye(3), radius=5), -1.0)
    lipped = edge_figures(True, 0.0, 2 * math.pi, rim.origin, rim.x, rim.y, 16, lid, bore, -1.0)[3]
    assert lipped.all(), "the rim of a bore is convex too"
    rising = edge_figures(True, 0.0, 2 * math.pi, rim.origin, rim.x, rim.y, 16, lid, side, -1.0)[3]
    assert not rising.any(), "the foot of a boss is not"


def test_area_and_centre_of_a_mesh() -> None:
    nodes = np.array([[0.0, 0, 0], [6, 0, 0], [6, 2, 0], [0, 2, 0]])
    area, centre = area_of(nodes, np.array([[0, 1, 2], [0, 2, 3]]))
    assert area == pytest.approx(12) and centre == pytest.approx([3, 1, 0])


@pytest.mark.parametrize(
    ("point", "over"), [((1, 1, 0.5), True), ((1, 1, 0.8), False), ((3, 3, 0), False), ((0, 2, -0.5), True)]
)
def test_a_point_stands_over_a_triangle_within_what_that_may_stray(point, over: bool) -> None:
    nodes = np.array([[0.0, 0, 0], [4, 0, 0], [0, 4, 0]])
    for way in (1, -1):
        assert stands_over(nodes, np.array([[0, 1, 2][::way]]), np.array(point, float), 2, 0.6) == over
