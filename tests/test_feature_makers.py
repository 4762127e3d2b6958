"""Walls, blends and patterns one by one: each maker of features by itself, on bodies whose figures are chosen here."""

from __future__ import annotations

import math

import pytest

from barequill.core.features.blends import blends_of, chamfers_of
from barequill.core.features.listing import features_of
from barequill.core.features.patterns import patterns_of
from barequill.core.features.walls import channels_of, ribs_of
from barequill.core.reading import shapes
from tools.made_parts import bodies

BLOCK = ((0, 0, 0), (100, 60, 20))


def told(features) -> list[tuple[str, dict[str, float]]]:
    return sorted(((f.kind, {n: round(v, 4) for n, v in f.figures}) for f in features), key=str)


# ---- walls


@pytest.mark.parametrize(("width", "deep"), [(8, 5), (30, 12), (3.2, 19)])
def test_a_channel_has_the_width_between_its_walls_and_the_depth_to_its_floor(width: float, deep: float) -> None:
    part = bodies(shapes.cut(shapes.box(*BLOCK), shapes.box((40, -1, 20 - deep), (width, 62, 30))))
    (channel,) = channels_of(part)
    assert channel.kind == "channel"
    assert channel.figure("width") == pytest.approx(width, abs=1e-6)
    assert channel.figure("depth") == pytest.approx(deep, abs=1e-6)
    # open at both ends, so it runs along the whole of the block, and its floor looks up
    assert channel.figure("length") == pytest.approx(60, abs=1e-6)
    assert abs(channel.axis[2]) == pytest.approx(1)


def test_a_step_and_a_plain_block_are_no_channels() -> None:
    step = shapes.cut(shapes.box(*BLOCK), shapes.box((60, -1, 10), (60, 62, 30)))
    assert channels_of(bodies(step)) == [] and channels_of(bodies(shapes.box(*BLOCK))) == []


def test_a_thin_web_on_a_plate_is_a_rib_and_a_thick_one_is_none() -> None:
    def webbed(thick: float):
        corner = shapes.fuse(shapes.box((0, 0, 0), (100, 60, 10)), shapes.box((0, 0, 0), (10, 60, 60)))
        web = shapes.prism([(10, 30, 10), (50, 30, 10), (10, 30, 50)], (0, thick, 0))
        return bodies(shapes.fuse(corner, web))

    (rib,) = ribs_of(webbed(6))
    assert rib.kind == "rib" and rib.figure("thickness") == pytest.approx(6, abs=1e-6)
    assert abs(rib.axis[1]) == pytest.approx(1), "square to its sides"
    assert ribs_of(webbed(45)) == [], "as stout as high"


# ---- blends


def test_a_fillet_fills_a_corner_and_a_round_takes_an_edge_off() -> None:
    corner = shapes.fuse(shapes.box((0, 0, 0), (80, 40, 10)), shapes.box((0, 0, 0), (10, 40, 50)))
    part = bodies(shapes.rounded(shapes.rounded(corner, 4, [(10, 20, 10)]), 2.5, [(80, 20, 10)]))
    assert told(blends_of(part)) == [("fillet", {"radius": 4.0}), ("round", {"radius": 2.5})]


def test_rounds_all_round_a_block_are_one_run_of_their_radius() -> None:
    edges = [(50, 0, 20), (50, 60, 20), (0, 30, 20), (100, 30, 20)]
    part = bodies(shapes.rounded(shapes.box(*BLOCK), 3, edges))
    found = blends_of(part)
    assert {(f.kind, round(f.figure("radius"), 6)) for f in found} == {("round", 3.0)}
    assert len({face for f in found for face in f.faces}) == sum(len(f.faces) for f in found) >= 4, "each face once"


def test_a_bore_and_a_shaft_are_no_blends() -> None:
    part = bodies(
        shapes.cut(shapes.cylinder((0, 0, 0), (0, 0, 1), 30, 50), shapes.cylinder((0, 0, -1), (0, 0, 1), 10, 60))
    )
    assert blends_of(part) == []


@pytest.mark.parametrize("width", [0.5, 2.0, 6.0])
def test_a_chamfer_of_equal_legs_is_told_by_them_and_45_degrees(width: float) -> None:
    part = bodies(shapes.chamfered(shapes.box(*BLOCK), width, [(50, 0, 20)]))
    (found,) = chamfers_of(part)
    figures = dict(found.figures)
    assert found.kind == "chamfer"
    assert figures["length"] == pytest.approx(width, abs=1e-6) and figures["angle"] == pytest.approx(45, abs=1e-6)


# ---- patterns


def drilled(*places: tuple[float, float], through=(0, 0)):
    holes = [shapes.cylinder((x, y, -1), (0, 0, 1), 3, 30) for x, y in places]
    return bodies(shapes.cut(shapes.box((-60, -60, 0), (120, 120, 20)), *holes))


def patterns(part):
    features = features_of(part)
    return patterns_of(part, [f for f in features if f.kind == "hole"])


@pytest.mark.parametrize("count", [3, 5, 6, 8])
def test_holes_on_a_circle_have_its_diameter_and_divide_it_evenly(count: int) -> None:
    angles = [2 * math.pi * k / count + 0.2 for k in range(count)]
    (found,) = patterns(drilled(*((40 * math.cos(a), 40 * math.sin(a)) for a in angles)))
    assert (found.kind, found.even, len(found.members)) == ("circle", True, count)
    assert found.diameter == pytest.approx(80, abs=1e-4)


def test_a_row_has_its_pitch_and_a_grid_has_both() -> None:
    (row,) = patterns(drilled(*((x, 10) for x in (-45, -30, -15, 0, 15))))
    assert row.kind == "row" and row.pitches == pytest.approx((15,), abs=1e-4)
    (grid,) = patterns(drilled(*((x, y) for x in (-40, -20, 0, 20) for y in (-30, 5, 40))))
    assert grid.kind == "grid" and sorted(grid.pitches) == pytest.approx([20, 35], abs=1e-4)
    assert sorted(grid.counts) == [3, 4]


def test_holes_anywhere_are_free_and_one_alone_is_no_pattern() -> None:
    (found,) = patterns(drilled((-40, -31), (3, 7), (17, -22), (44, 38), (-12, 41)))
    assert found.kind == "free" and len(found.members) == 5
    assert patterns(drilled((0, 0))) == []
