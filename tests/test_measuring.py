"""What can be measured and pointed at in views, in figures that follow from how the parts were built."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from barequill.core.acts import ChangeSheet, PullView, Spread, centres_plan
from barequill.core.display import Stroke
from barequill.core.drawing import Anchor, Dimension, Drawing, apply
from barequill.core.drawing.operations import Annotate, MoveView, SetView
from barequill.core.drawing.templates import ISO_7200
from barequill.core.errors import Unmeasurable, UserError
from barequill.core.measuring.anchor_geometry import resolve
from barequill.core.measuring.centres import round_features
from barequill.core.measuring.inference import moved_text, placed
from barequill.core.measuring.measuring import measure, normal_of
from barequill.core.measuring.picking import Pick
from barequill.core.measuring.pointing import lines_of, snaps_of
from barequill.core.standards.sheets import Rectangle
from barequill.core.views.directions import FACES, camera_of, look_of, side_of, turned
from barequill.core.views.layout import Item, choose, loose
from barequill.core.views.proposal import propose_sheet
from tools.common import demo_file, part_of
from tools.sheets import DrawnPart, done, drawing_of, empty, id_of, projections_of


@pytest.fixture(scope="module")
def keeper() -> DrawnPart:
    return DrawnPart("angled-keeper", scale=1.0)


@pytest.fixture(scope="module")
def pedestal_sheet() -> DrawnPart:
    return DrawnPart("spindle-pedestal", scale=0.5)


def edge_at(part, place, kind: str = "line") -> str:
    """The reference of the edge whose middle lies nearest to a place."""

    def gap(e) -> float:
        middle = e.curve.points(np.array([(e.curve.t0 + e.curve.t1) / 2]))[0]
        return float(np.linalg.norm(middle - place)) if e.curve.kind == kind else math.inf

    return min(part.edges, key=gap).ref


def dimension(view: str, kind: str, *anchors: Anchor, **named) -> Dimension:
    return Dimension(id="d1", on=view, measure=kind, anchors=list(anchors), **named)


# ---- measuring


@pytest.mark.parametrize(
    ("place", "at", "expected"),
    [
        ((0, -40, 0), "start", {(-58, -40, 0), (58, -40, 0)}),
        ((0, -40, 0), "end", {(-58, -40, 0), (58, -40, 0)}),
        ((0, -40, 0), "middle", {(0, -40, 0)}),
    ],
)
def test_points_of_an_edge_are_where_it_was_built(pedestal_sheet, place, at, expected) -> None:
    projected = pedestal_sheet.placed_view("top").projected
    anchor_geometry = resolve(projected, Anchor(ref=edge_at(pedestal_sheet.part, place), at=at))
    assert tuple(np.round(anchor_geometry.space[0], 6) + 0.0) in expected
    assert anchor_geometry.points[0] == pytest.approx(projected.flat(anchor_geometry.space)[0])


@pytest.mark.parametrize(
    ("direction", "value"), [("aligned", math.hypot(116, 16)), ("horizontal", 116.0), ("vertical", 16.0)]
)
def test_two_points_are_measured_aligned_level_or_upright(pedestal_sheet, direction, value) -> None:
    """From one lower end of the foot's front edge to the other upper one: 116 across and 16 up."""
    part, placed_view = pedestal_sheet.part, pedestal_sheet.placed_view("front")
    low, high = edge_at(part, (0, -40, 0)), edge_at(part, (0, -40, 16))

    def end(ref: str, x: float) -> Anchor:
        curve = part.edges[part.index[ref][1]].curve
        at = "start" if curve.points(np.array([curve.t0]))[0][0] * x > 0 else "end"
        return Anchor(ref=ref, at=at)

    d = dimension(placed_view.view.id, "distance", end(low, -1), end(high, 1), direction=direction)
    assert measure(placed_view.projected, d).value == pytest.approx(value)


def test_a_slanting_length_is_true_in_the_view_square_to_it_and_short_in_others(keeper) -> None:
    ref = keeper.pick("front", (110, -30, 34.641)).ref
    true = measure(keeper.placed_view("front").projected, dimension("v1", "length", Anchor(ref=ref, at="line")))
    assert true.value == pytest.approx(80)
    above = measure(keeper.placed_view("top").projected, dimension("v2", "length", Anchor(ref=ref, at="line")))
    assert above.value == pytest.approx(40), "cos 60° of it"


def test_an_aligned_length_on_a_pictorial_view_is_the_true_one(pedestal_sheet) -> None:
    ref = edge_at(pedestal_sheet.part, (0, -40, 0))
    found = measure(
        pedestal_sheet.placed_view("corner").projected, dimension("v4", "length", Anchor(ref=ref, at="line"))
    )
    assert found.value == pytest.approx(116), "not the 0.816 of it that is drawn"


@pytest.mark.parametrize(
    ("kind", "anchors", "words"),
    [
        ("length", [("line", (0, -40, 0)), None], None),
        ("distance", [("line", (0, -40, 0))], "two places"),
        ("angle", [("line", (0, -40, 0))], "is level"),
        ("diameter", [("line", (0, -40, 0))], None),
    ],
)
def test_what_has_no_such_measure_is_refused_with_the_remedy(pedestal_sheet, kind, anchors, words) -> None:
    part, placed_view = pedestal_sheet.part, pedestal_sheet.placed_view("front")
    geometries = [Anchor(ref=edge_at(part, place), at=at) for at, place in (a for a in anchors if a)]
    d = dimension(placed_view.view.id, kind, *geometries)
    if words is None:
        if kind == "length":
            assert measure(placed_view.projected, d).value == pytest.approx(116)
        else:
            with pytest.raises(Unmeasurable):
                measure(placed_view.projected, d)
        return
    with pytest.raises(Unmeasurable) as told:
        measure(placed_view.projected, d)
    assert words in told.value.title and told.value.detail


def test_an_edge_seen_end_on_has_no_length_there(pedestal_sheet) -> None:
    ref = edge_at(pedestal_sheet.part, (-34, 0, 16))
    with pytest.raises(Unmeasurable, match="coincide"):
        measure(pedestal_sheet.placed_view("front").projected, dimension("v1", "length", Anchor(ref=ref, at="line")))
    side = measure(pedestal_sheet.placed_view("left").projected, dimension("v3", "length", Anchor(ref=ref, at="line")))
    assert side.value == pytest.approx(40)


def test_each_reference_says_what_it_is_not(pedestal_sheet) -> None:
    projected = pedestal_sheet.placed_view("front").projected
    line = edge_at(pedestal_sheet.part, (0, -40, 0))
    for anchor in (Anchor(ref=line, at="round"), Anchor(ref=line, at="axis"), Anchor(ref="E000000000", at="line")):
        with pytest.raises(Unmeasurable):
            resolve(projected, anchor)


@pytest.mark.parametrize("angle", [0, 30, 90, 135, 180, 270])
def test_a_dimension_line_is_set_off_upward_or_to_the_right(angle) -> None:
    u = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    n = normal_of(u)
    assert abs(n @ u) < 1e-12 and np.linalg.norm(n) == pytest.approx(1)
    assert n[1] > 1e-9 or n[0] > 0


# ---- placing


def test_a_row_snaps_to_one_that_is_there(pedestal_sheet) -> None:
    acting = pedestal_sheet
    first = acting.pull("front", [((0, -40, 0),)], (30, -13.2))
    first = first.model_copy(update={"place": first.place.model_copy(update={"offset": 13.2})})
    drawing = apply(acting.drawing, Annotate(sheet="e1", annotations=[first]))
    box = acting.placed_view("front").box
    pointer = (box.x0 + 30, box.y0 - 14.4)
    second = acting.infer(
        "front",
        [acting.pick("front", (20, -20, 80), "centre"), acting.pick("front", (-30, -40, 0), "start")],
        pointer,
        "d901",
        "horizontal",
        drawing,
    )
    assert second.place.offset == 13.2, "in line with the other, not with the row of 17"


def test_inside_the_outline_a_line_stands_where_it_was_put(pedestal_sheet) -> None:
    inner = pedestal_sheet.pull("front", [((0, -40, 16),)], (35, 30))
    assert inner.place.frame == "model"
    found = measure(pedestal_sheet.placed_view("front").projected, inner)
    assert found.value == pytest.approx(116)


def test_text_is_dragged_along_its_line_and_caught_in_the_middle(pedestal_sheet) -> None:
    d = pedestal_sheet.pull("front", [((0, -40, 0),)], (35, -11))
    placed_view = pedestal_sheet.placed_view("front")
    context, box = pedestal_sheet.context("front"), placed_view.still().box
    middle = (box.x0 + box.x1) / 2
    assert moved_text(context, d, (middle + 12, box.y0 - 10)).along == pytest.approx(12, abs=1e-6)
    assert moved_text(context, d, (middle + 1.2, box.y0 - 10)).along == 0


def test_a_round_size_follows_the_pointer_about_its_centre(pedestal_sheet) -> None:
    placed_view = pedestal_sheet.placed_view("front").still()
    d = pedestal_sheet.pull("front", [((14.142, -20, 94.142),)], (60, 70))
    centre = placed_view.on_sheet(np.array([[0, -20, 80.0]]))[0]
    moved = placed(pedestal_sheet.context("front"), d, (centre[0] - 20, centre[1] + 20))
    assert moved.place.angle == pytest.approx(135)
    assert moved.place.offset == pytest.approx(math.hypot(20, 20) - 20 * 0.5, abs=0.01)


def test_picking_the_same_edge_twice_is_picking_it_once(pedestal_sheet) -> None:
    pick = pedestal_sheet.pick("front", (0, -40, 0))
    box = pedestal_sheet.placed_view("front").box
    d = pedestal_sheet.infer("front", [pick, pick], (box.x0 + 30, box.y0 - 11))
    assert d.measure == "length" and len(d.anchors) == 1


def test_a_pick_that_is_gone_is_told(pedestal_sheet) -> None:
    with pytest.raises(Unmeasurable, match="Nothing there"):
        pedestal_sheet.infer("front", [Pick("E123", 0, 0)], (0, 0))


# ---- pointing


def test_all_that_shows_has_words_with_its_size(pedestal_sheet) -> None:
    words = lines_of(pedestal_sheet.placed_view("front"), pedestal_sheet.drawing)
    told = {line.words for line in words.values()}
    assert {"edge, 116 long", "circle Ø40", "arc R34"} <= told
    assert {c.source for c in pedestal_sheet.placed_view("front").projected.curves} <= set(words)


def test_the_pointer_catches_ends_middles_and_centres_where_they_are(pedestal_sheet) -> None:
    placed_view = pedestal_sheet.placed_view("front")
    snaps = {(s.word, s.x, s.y) for s in snaps_of(placed_view, pedestal_sheet.drawing)}

    def at(word: str, x: float, z: float) -> bool:
        sx, sy = placed_view.on_sheet(np.array([[x, 0, z]]))[0]
        return any(w.startswith(word) and abs(a - sx) < 0.02 and abs(b - sy) < 0.02 for w, a, b in snaps)

    assert at("centre of", 0, 80) and at("midpoint", 0, 0) and at("end point", -58, 0)
    assert len({(x, y) for _, x, y in snaps}) == len(snaps), "one point in one place"


def test_marks_and_lines_follow_their_view_and_its_scale(pedestal_sheet) -> None:
    acting = pedestal_sheet
    view = id_of(acting.drawing, "front")
    drawing = apply(acting.drawing, centres_plan(acting.projections, acting.drawing, view))
    assert centres_plan(acting.projections, drawing, view) is None, "all are there"
    x, y = drawing.front_sheet.view(view).place
    moved = apply(drawing, MoveView(view=view, to=(x + 10, y + 7)))
    scaled = apply(moved, SetView(view=view, changes={"scale": 1.0}))

    def crosses(d: Drawing) -> list[np.ndarray]:
        marks = [m for e in acting.ink(d).elements if e.kind.startswith("centre") for m in e.on_sheet()]
        return [m.curve.poles for m in marks if isinstance(m, Stroke) and m.pen == "centre"]

    for before, after in zip(crosses(drawing), crosses(moved), strict=True):
        assert after - before == pytest.approx(np.tile([10, 7], (2, 1)))
    marks, axes = round_features(acting.placed_view("front").projected)
    assert len(crosses(scaled)) == 2 * len(marks) + len(axes)


# ---- directions and layout


def test_pulling_to_a_side_and_standing_on_it_are_each_other_s_inverse() -> None:
    sides = {"left": (-1, 0), "right": (1, 0), "above": (0, 1), "below": (0, -1)}
    for angle, (side, cell) in itertools.product(("first", "third"), sides.items()):
        assert side_of(look_of(side, angle), angle) == cell
    with pytest.raises(UserError):
        look_of("aslant", "first")


@pytest.mark.parametrize("face", FACES)
def test_projected_views_of_any_front_are_square_to_it_and_to_each_other(face: str) -> None:
    d, u = (np.array(v, float) for v in FACES[face])
    cameras = {
        look: camera_of(look, tuple(d), tuple(u)) for look in ("front", "left", "right", "top", "bottom", "back")
    }
    toward = np.array([c[0] for c in cameras.values()])
    assert sorted(np.round(toward @ d, 9)) == [-1, 0, 0, 0, 0, 1]
    for look, (t, up) in cameras.items():
        assert abs(np.dot(t, up)) < 1e-12
        right = np.cross(up, t)
        if look in ("left", "right", "back"):
            assert up == pytest.approx(tuple(u)), "upright stays upright"
        if look in ("top", "bottom"):
            assert right == pytest.approx(np.cross(u, d)), "what is right in front is right from above"
    corner, _ = camera_of("corner", tuple(d), tuple(u))
    assert np.dot(corner, d) / np.linalg.norm(corner) == pytest.approx(1 / math.sqrt(3))


def test_four_quarter_turns_are_none() -> None:
    for face in FACES.values():
        assert turned(*face, 4) == turned(*face, 0)
        ups = {turned(*face, k)[1] for k in range(4)}
        assert len(ups) == 4


def block(w: float, h: float, d: float) -> list[Item]:
    def about(x: float, y: float) -> Rectangle:
        return Rectangle(-x / 2, -y / 2, x / 2, y / 2)

    return [Item("front", about(w, h), (0, 0)), Item("left", about(d, h), (1, 0)), Item("top", about(w, d), (0, -1))]


@pytest.mark.parametrize(
    ("size", "w", "h", "d", "scale"),
    [
        # A3 lies 390 × 277 within its frame; three gaps of 19 each way beside the views
        ("A3", 100, 60, 60, 1.0),
        ("A3", 30, 20, 20, 5.0),
        ("A3", 400, 200, 200, 0.2),
        ("A4", 100, 60, 60, 0.5),
        ("A0", 400, 200, 200, 1.0),
    ],
)
def test_the_largest_standard_scale_that_fits_is_taken(size, w, h, d, scale) -> None:
    drawing = empty(size, size != "A4")
    found = choose(block(w, h, d), drawing, drawing.front_sheet)
    assert found.scale == scale
    larger = {5.0: 10.0, 1.0: 2.0, 0.5: 1.0, 0.2: 0.5}[scale]
    with pytest.raises(UserError):
        choose(block(w, h, d), drawing, drawing.front_sheet, 2 * larger)


def test_views_asked_for_too_large_are_still_set_down_to_be_seen() -> None:
    found = loose(block(400, 300, 300), empty("A4"), empty("A4").front_sheet, 1.0)
    assert set(found.places) == {"front", "left", "top"} and found.scale == 1.0


def test_the_sheet_is_proposed_by_what_the_part_needs() -> None:
    assert propose_sheet(block(100, 60, 60), empty(standard="ISO"))[0] == "A3"
    assert propose_sheet(block(220, 130, 120), empty(standard="ISO"))[0] == "A2", "1:1 there, where A3 would take 1:2"
    assert propose_sheet(block(100, 60, 60), empty(standard="ASME"))[0] == "B"
    size, layout = propose_sheet(block(3000, 2000, 2000), empty(standard="ISO"))
    assert (size, layout.scale) == ("A1", 0.1)


@pytest.mark.parametrize("stem", ["long-pinion-spindle", "catch-box", "pawl", "small-pedestal-assembly"])
def test_proposed_sheets_of_all_parts_are_clear_and_spread(stem: str) -> None:
    part = part_of(demo_file(stem))
    projections = projections_of(part)
    drawing = drawing_of(projections, part, centres=False)
    sheet = drawing.front_sheet
    space, cells = ISO_7200.space(sheet.size, sheet.landscape), ISO_7200.block(sheet.size, sheet.landscape)
    boxes = [p.box for p in projections.placed_views(drawing, sheet).values()]
    for k, box in enumerate(boxes):
        assert space.holds(box) and not box.overlaps(cells)
        assert not any(box.grown(3).overlaps(other) for other in boxes[:k])
    wide = max(b.x1 for b in boxes) - min(b.x0 for b in boxes)
    assert wide > 0.5 * space.width


def test_spreading_puts_moved_views_back_into_order() -> None:
    part = part_of(demo_file("pawl"))
    projections = projections_of(part)
    drawing = drawing_of(projections, part, size="A3", centres=False)
    before = {v.id: v.place for v in drawing.front_sheet.views}
    moved = apply(drawing, MoveView(view="e2", to=(40, 40)))
    again = done(projections, moved, Spread(sheet="e1"))
    assert {v.id: v.place for v in again.front_sheet.views} == {
        k: pytest.approx(p, abs=1e-6) for k, p in before.items()
    }
    with pytest.raises(UserError):
        done(projections, empty(), Spread(sheet="e1"))


def test_a_pulled_view_hangs_on_its_parent_and_an_unknown_side_is_refused() -> None:
    part = part_of(demo_file("pawl"))
    projections = projections_of(part)
    drawing = drawing_of(projections, part, views=["front"], centres=False)
    view = done(projections, drawing, PullView(view="e2", side="above-left", to=(50, 50))).front_sheet.views[-1]
    assert view.parent == "e2" and view.pictorial and view.place == (50, 50) and view.corner == (-1, 1)
    for side in ("sideways", "up-left", "above-middle"):
        with pytest.raises(UserError, match=r"no (side|corner) named"):
            done(projections, drawing, PullView(view="e2", side=side, to=(0, 0)))


def test_a_change_of_sheet_keeps_a_scale_that_was_asked_for() -> None:
    part = part_of(demo_file("pawl"))
    projections = projections_of(part)
    drawing = drawing_of(projections, part, size="A3", scale=0.5, centres=False)
    asked = done(projections, drawing, ChangeSheet(sheet="e1", scale=0.2))
    assert asked.front_sheet.scale == 0.2
    third = done(projections, asked, ChangeSheet(sheet="e1", angle="third"))
    assert third.front_sheet.scale == 0.2 and third.angle == "third"
    large = done(projections, third, ChangeSheet(sheet="e1", size="A2"))
    assert large.front_sheet.scale > 0.2, "on another sheet the largest that fits is taken anew"
