"""Dimensions: measured from the part, inferred from picks, written by the standard."""

from __future__ import annotations

import pytest

from barequill.core.display import Text
from barequill.core.drawing import Dimension, Tolerance, apply
from barequill.core.drawing.operations import Annotate, SetView
from barequill.core.errors import Unmeasurable
from barequill.core.measuring.centres import round_features
from barequill.core.measuring.picking import Pick
from barequill.core.measuring.wording import letter, ways_of
from tools.sheets import DrawnPart, empty


@pytest.fixture(scope="module")
def pedestal_bench() -> DrawnPart:
    return DrawnPart("spindle-pedestal", scale=0.5)


BELOW, LEFT = (30, -11), (-11, 20)


@pytest.mark.parametrize(
    ("look", "picks", "pointer", "measured", "value"),
    [
        ("front", [((0, -40, 0),)], BELOW, "length", 116.0),
        ("front", [((-70, -28, 8),), ((70, -28, 8),)], BELOW, "distance", 140.0),
        ("front", [((-30, -40, 0),), ((-40, -40, 16),)], LEFT, "distance", 16.0),
        ("front", [((14.142, -20, 94.142),)], (60, 70), "diameter", 40.0),
        ("front", [((24.04, -20, 104.04),)], (60, 70), "radius", 34.0),
        ("front", [((-30, -40, 0),), ((20, -20, 80), "centre")], LEFT, "distance", 80.0),
        ("top", [((-54, -30.5, 16), "centre"), ((54, -30.5, 16), "centre")], BELOW, "distance", 108.0),
        ("left", [((0, -12, 100),)], (5, 70), "diameter", 40.0),
    ],
)
def test_kind_and_value_are_inferred_from_what_is_pulled(pedestal_bench, look, picks, pointer, measured, value) -> None:
    dimension = pedestal_bench.pull(look, picks, pointer)
    assert dimension.measure == measured
    assert pedestal_bench.value(look, dimension) == pytest.approx(value, abs=1e-6)


def test_an_axis_can_be_measured_to(pedestal_bench) -> None:
    acting = pedestal_bench
    faces = [f.ref for f in acting.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - 20) < 1e-6]
    picks = [acting.pick("left", (-60, 0, 0)), Pick(faces[0], 0, 0, "axis")]
    box = acting.placed_view("left").box
    dimension = acting.infer("left", picks, (box.x0 - 11, box.y0 + 20))
    assert acting.value("left", dimension) == pytest.approx(80.0), "the bore stands 80 above the foot's underside"
    with pytest.raises(Unmeasurable, match="axis alone"):
        acting.infer("left", picks[1:], (0, 0))


def test_two_slanting_edges_give_their_angle() -> None:
    acting = DrawnPart("angled-keeper", scale=1.0)
    dimension = acting.pull("front", [((40, -30, 0),), ((110, -30, 34.641),)], (60, 20))
    assert dimension.measure == "angle"
    assert acting.value("front", dimension) == pytest.approx(120.0)


def test_a_slanting_edge_is_measured_the_way_it_is_pulled() -> None:
    acting = DrawnPart("angled-keeper", scale=1.0)
    edge = ((110, -30, 34.641),)
    aligned = acting.pull("front", [edge], (126, 20))
    assert aligned.direction == "aligned" and acting.value("front", aligned) == pytest.approx(80.0)
    for wish, value in (("horizontal", 40.0), ("vertical", 80 * 3**0.5 / 2)):
        dimension = acting.pull("front", [edge], (110, -12), wish)
        assert dimension.direction == wish and acting.value("front", dimension) == pytest.approx(value)


def test_the_first_row_stands_10_mm_off_and_the_next_7_further(pedestal_bench) -> None:
    for pointer, offset in ((-11.5, 10.0), (-16.4, 17.0), (-22.5, 24.0)):
        dimension = pedestal_bench.pull("front", [((0, -40, 0),)], (30, pointer))
        assert (dimension.place.frame, dimension.place.offset) == ("outline", offset)


def test_one_point_alone_and_parallel_edges_in_one_line_are_refused(pedestal_bench) -> None:
    with pytest.raises(Unmeasurable, match="second place"):
        pedestal_bench.pull("front", [((-58, -40, 0), "start")], BELOW)
    with pytest.raises(Unmeasurable, match="parallel"):
        pedestal_bench.pull("front", [((0, -40, 0),), ((0, -40, 16),)], BELOW, "angle")


def test_a_dimension_keeps_its_value_and_its_distance_when_the_scale_changes(pedestal_bench) -> None:
    dimension = pedestal_bench.pull("front", [((0, -40, 0),)], BELOW)
    drawing = apply(pedestal_bench.drawing, Annotate(sheet="e1", annotations=[dimension]))
    for scale in (0.5, 0.2):
        changed = apply(drawing, SetView(view=dimension.on, changes={"scale": scale}))
        ink = pedestal_bench.ink(changed)
        assert next(iter(ink.dimensions.values())).text == "116"
        box = pedestal_bench.projections.placed_views(changed, changed.front_sheet)[dimension.on].box
        assert next(iter(ink.dimensions.values())).points["line"][1] == pytest.approx(box.y0 - 10)
        tips = next(iter(ink.dimensions.values())).points
        assert abs(tips["first"][0] - tips["second"][0]) == pytest.approx(116 * scale)


@pytest.mark.parametrize(
    ("changes", "value", "pieces"),
    [
        ({}, 75.0, ["75"]),
        ({}, 7.5, ["7.5"]),
        ({}, 33.333, ["33.33"]),
        ({"decimals": 1}, 75.0, ["75.0"]),
        ({"prefix": "6× ", "suffix": " ↧6"}, 11.0, ["6× Ø11 ↧6"]),
        ({"reference": True}, 12.0, ["(Ø12)"]),
        ({"tolerance": Tolerance(kind="symmetric", upper=0.1)}, 20.0, ["Ø20 ±0.1"]),
        ({"tolerance": Tolerance(kind="unequal", upper=0.025, lower=0.0)}, 40.0, ["Ø40 ", "+0.025", "0"]),
        ({"tolerance": Tolerance(kind="unequal", upper=0.1, lower=-0.25)}, 40.0, ["Ø40 ", "+0.10", "–0.25"]),
        ({"tolerance": Tolerance(kind="limits", upper=0.2, lower=-0.1)}, 40.0, ["Ø", "40.2", "39.9"]),
    ],
)
def test_lettering_follows_the_standard(changes, value, pieces) -> None:
    measure_kind = "length" if value in (75.0, 7.5, 33.333) else "diameter"
    dimension = Dimension(id="d1", on="e2", measure=measure_kind, anchors=[{"ref": "E1", "at": "line"}], **changes)
    lettering = letter(dimension, "Ø" if measure_kind == "diameter" else "", value, ways_of(empty()), 3.5)
    assert [p[0] for p in lettering.pieces] == pieces


def test_inches_are_written_with_three_decimals_and_asme_drops_the_nought() -> None:
    dimension = Dimension(id="d1", on="e2", measure="length", anchors=[{"ref": "E1", "at": "line"}])
    assert letter(dimension, "", 12.7, ways_of(empty(unit="inch", standard="ASME")), 3.5).plain == ".500"
    assert letter(dimension, "", 38.1, ways_of(empty(unit="inch")), 3.5).plain == "1.500"


def test_every_hole_gets_one_mark_and_every_axis_one_line() -> None:
    acting = DrawnPart("round-gear-cover", face="+Y", views=["front", "left"])
    marks, axes = round_features(acting.placed_view("front").projected)
    assert len(marks) == 7 and not axes, "six holes and the cover's own centre"
    marks, axes = round_features(acting.placed_view("left").projected)
    assert not marks and len(axes) == 5, (
        "the cover's axis and six holes', two pairs of them in line: each line is drawn once"
    )


def test_rounds_of_less_than_a_half_turn_get_no_mark(pedestal_bench) -> None:
    marks, _ = round_features(pedestal_bench.placed_view("top").projected)
    assert len(marks) == 5, "four holes and the oil hole, no mark on the corners"


def test_a_loose_dimension_is_shown_and_never_guessed(pedestal_bench) -> None:
    dimension = pedestal_bench.pull("front", [((0, -40, 0),)], BELOW)
    gone = dimension.anchors[0].model_copy(update={"ref": "E000000000"})
    dimension = dimension.model_copy(update={"anchors": [gone]})
    drawing = apply(pedestal_bench.drawing, Annotate(sheet="e1", annotations=[dimension]))
    ink = pedestal_bench.ink(drawing)
    assert "? Loose" in [m.text for m in ink.marks_of() if isinstance(m, Text)] and not ink.dimensions
