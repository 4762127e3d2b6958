"""Compiled loops of the projection called by themselves, on figures that can be worked out by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest

from barequill.core.projection.arcs import arcs_between, round_torus
from barequill.core.projection.crossings import _apart
from barequill.core.projection.edges import mixed_triangles
from barequill.core.projection.flattening import row_at, slot_of, spot_at, way_of
from barequill.core.projection.records import Laid

TURN = 2 * math.pi


def test_a_row_and_the_share_of_the_way_to_the_next_are_found_by_halving() -> None:
    t = np.array([0.0, 1.0, 4.0, 6.0, 6.5])
    assert [row_at(t, 0, 5, x) for x in (0.0, 0.25, 1.0, 3.25, 6.25)] == [
        (0, 0.0),
        (0, 0.25),
        (1, 0.0),
        (1, 0.75),
        (3, 0.5),
    ]
    # beyond its ends it stays at them
    assert row_at(t, 0, 5, -7.0) == (0, 0.0) and row_at(t, 0, 5, 99.0) == (3, 1.0)
    # of a strand that begins further on, only its own rows
    assert row_at(t, 2, 5, 5.0) == (2, 0.5)


def test_a_cubic_is_evaluated_and_the_straight_way_between_two_places_is_measured() -> None:
    # x = 3u + 2u² - u³, y = 1 + 4u in the first stretch; straight on to (7, 5) in the second
    flat = np.zeros((3, 4, 2))
    flat[0] = [[0, 1], [3, 4], [2, 0], [-1, 0]]
    flat[1] = [[4, 5], [3, 0], [0, 0], [0, 0]]
    flat[2, 0] = [7, 5]
    assert spot_at(flat, 0, 0.5) == pytest.approx((1.5 + 0.5 - 0.125, 3.0))
    # from (0, 1) to half of the second stretch at (5.5, 5)
    laid = Laid(np.array([0, 3]), np.array([0.0, 1.0, 2.0]), flat, np.zeros(3), np.zeros(1, bool))
    way = way_of(laid, 0, 0.0, 1.5)
    assert way == pytest.approx(math.hypot(5.5, 4.0))


def test_pairs_are_spread_over_a_table_and_one_pair_lies_in_one_place() -> None:
    size = 1024
    slots = [slot_of(i, j, size) for i in range(64) for j in range(64)]
    assert all(0 <= s < size for s in slots) and slots[5 * 64 + 9] == slot_of(5, 9, size)
    # 4096 pairs in 1024 places: 4 each; by chance none has more than a handful
    assert np.bincount(slots, minlength=size).max() < 20


def test_arcs_of_a_closed_curve_are_those_between_roots_in_which_something_is_seen() -> None:
    roots = np.radians([30.0, 120.0, 250.0])
    seen = np.radians(np.arange(121.0, 249.0))
    arcs, held = arcs_between(roots, seen)
    assert len(arcs) == 1 and held[0]
    assert np.degrees(arcs[0]) == pytest.approx([120, 250], abs=1e-9)
    # the arc over the start of counting: from 250 by way of 360 to 390
    over, held = arcs_between(roots, np.radians(np.arange(251.0, 389.0) % 360))
    assert len(over) == 1 and held[0] and math.degrees(over[0, 1] - over[0, 0]) == pytest.approx(140)
    assert math.degrees(over[0, 0] % TURN) == pytest.approx(250)


def test_a_curve_that_nothing_parts_is_whole_and_one_unseen_is_none() -> None:
    arcs, held = arcs_between(np.empty(0), np.linspace(0, TURN, 200, endpoint=False))
    assert len(arcs) == 1 and held[0] and arcs[0, 1] - arcs[0, 0] == pytest.approx(TURN)
    assert len(arcs_between(np.radians([10.0, 200.0]), np.empty(0))[0]) == 0


def test_places_on_a_torus_are_told_by_two_angles_also_in_a_turned_frame() -> None:
    axes = np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]])
    origin, big, small = np.array([5.0, -3, 2]), 20.0, 6.0
    u, v = np.radians([0.0, 50, 175, -120]), np.radians([10.0, 100, -60, 179])
    out = np.cos(u)[:, None] * axes[0] + np.sin(u)[:, None] * axes[1]
    points = origin + (big + small * np.cos(v))[:, None] * out + (small * np.sin(v))[:, None] * axes[2]
    assert round_torus(origin, axes, big, points) == pytest.approx(np.c_[u, v])


def test_triangles_across_an_outline_are_those_with_nodes_on_both_of_its_sides() -> None:
    # a strip of four nodes whose normals turn from toward the viewer (z) to away from him
    normals = np.array([[0.0, 0, 1], [1, 0, 0.5], [1, 0, -0.5], [0, 0, -1]])
    triangles = np.array([[0, 1, 1], [0, 1, 2], [1, 2, 3], [2, 3, 3]])
    mixed, facing = mixed_triangles(triangles, np.zeros(4, np.int64), np.array([True]), normals, np.array([0.0, 0, 1]))
    assert mixed.tolist() == [1, 2] and facing.tolist() == [True, True, False, False]
    # of a face that is not asked for, none; nor of one that only ever looks at him
    assert (
        len(mixed_triangles(triangles, np.zeros(4, np.int64), np.array([False]), normals, np.array([0.0, 0, 1]))[0])
        == 0
    )
    toward = mixed_triangles(triangles[:1], np.zeros(1, np.int64), np.array([True]), normals, np.array([0.0, 0, 1]))
    assert len(toward[0]) == 0


def test_of_points_that_lie_on_each_other_the_first_is_kept() -> None:
    points = np.array([[0.0, 0], [10, 0], [1e-7, -1e-7], [10, 5], [10 + 1e-7, 0]])
    assert _apart(points, 1e-6).tolist() == [0, 1, 3]
    assert len(_apart(points, 1e-9)) == 5
