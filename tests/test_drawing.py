"""The document, its operations, and layout."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from barequill.core.acts import ChangeSheet, PullView
from barequill.core.drawing import Drawing, apply
from barequill.core.drawing.operations import MoveView, Remove, SetField, SetPart, SetSheet, SetView
from barequill.core.drawing.templates import ISO_7200
from barequill.core.errors import BadOperation, UserError
from barequill.core.sheet.stages import draw_sheet
from barequill.core.standards.lines import fitted_pattern
from barequill.core.standards.scales import SERIES, parse_scale, scale_text
from barequill.core.standards.sheets import Rectangle
from barequill.core.views.directions import camera_of, cameras
from barequill.core.views.layout import Item, choose
from barequill.core.views.placed_view import ProjectionCache
from tools.sheets import done, drawing_of, empty, id_of, places, projections_of

FRONT = ((0.0, -1.0, 0.0), (0.0, 0.0, 1.0))


@pytest.fixture
def projections(pedestal) -> ProjectionCache:
    return projections_of(pedestal)


@pytest.fixture
def drawing(projections, pedestal) -> Drawing:
    return drawing_of(projections, pedestal, size="A3")


def test_first_angle_puts_the_view_from_the_left_on_the_right_and_from_above_below(drawing) -> None:
    p = places(drawing)
    assert p["left"][0] > p["front"][0] and p["left"][1] == pytest.approx(p["front"][1])
    assert p["top"][1] < p["front"][1] and p["top"][0] == pytest.approx(p["front"][0])


def test_the_views_change_sides_with_the_projection_angle_and_come_back(projections, drawing) -> None:
    third = done(projections, drawing, ChangeSheet(sheet="e1", angle="third"))
    p = places(third)
    assert p["left"][0] < p["front"][0] and p["top"][1] > p["front"][1]
    back = apply(third, SetSheet(sheet="e1", angle="first"))
    q = places(back)
    assert q["left"][0] > q["front"][0] and q["top"][1] < q["front"][1]


@pytest.mark.parametrize(
    ("look", "toward", "up"),
    [
        ("top", (0, 0, 1), (0, 1, 0)),
        ("bottom", (0, 0, -1), (0, -1, 0)),
        ("left", (-1, 0, 0), (0, 0, 1)),
        ("right", (1, 0, 0), (0, 0, 1)),
        ("back", (0, 1, 0), (0, 0, 1)),
        ("corner", (1, -1, 1), (0, 0, 1)),
    ],
)
def test_projected_views_look_along_the_part_s_axes(look, toward, up) -> None:
    assert camera_of(look, *FRONT) == (tuple(map(float, toward)), tuple(map(float, up)))


def test_moving_a_view_takes_its_children_along_and_its_tie_holds_it_in_line(drawing) -> None:
    before = places(drawing)
    x, y = before["front"]
    moved = apply(drawing, MoveView(view=id_of(drawing, "front"), to=(x + 10, y + 5)))
    for look, (px, py) in before.items():
        assert places(moved)[look] == pytest.approx((px + 10, py + 5))
    x, y = before["left"]
    aside = apply(drawing, MoveView(view=id_of(drawing, "left"), to=(x + 7, y + 30)))
    assert places(aside)["left"] == pytest.approx((x + 7, y))
    free = apply(drawing, SetView(view=id_of(drawing, "left"), changes={"tied": False}))
    free = apply(free, MoveView(view=id_of(drawing, "left"), to=(x + 7, y + 30)))
    assert places(free)["left"] == pytest.approx((x + 7, y + 30))
    tied = apply(free, SetView(view=id_of(drawing, "left"), changes={"tied": True}))
    assert places(tied)["left"] == pytest.approx((x + 7, y))


def test_removing_a_view_removes_what_hangs_on_it_and_leaves_the_given_drawing_alone(drawing) -> None:
    count = len(drawing.front_sheet.views)
    after = apply(drawing, Remove(ids=[id_of(drawing, "front")]))
    assert not after.front_sheet.views and not after.front_sheet.annotations
    assert len(drawing.front_sheet.views) == count


def test_a_family_shares_its_scale_and_a_view_may_have_its_own(drawing) -> None:
    sheet = drawing.front_sheet
    changed = apply(drawing, SetView(view=id_of(drawing, "front"), changes={"scale": 1.0})).sheets[0]
    assert changed.scale_of(changed.view(id_of(drawing, "top"))) == 1.0
    assert sheet.scale_of(next(v for v in sheet.views if v.look == "top")) == sheet.scale


@pytest.mark.parametrize(
    "operation",
    [
        MoveView(view="v99", to=(0, 0)),
        SetView(view="e2", changes={"quarter": True}),
        Remove(ids=["d77"]),
    ],
)
def test_an_operation_that_does_not_fit_is_refused(drawing, operation) -> None:
    with pytest.raises(BadOperation):
        apply(drawing, operation)


@pytest.mark.parametrize("changes", [{"colour": "red"}, {"scale": -2}, {"crop": {"halves": "left"}}])
def test_changes_that_no_view_can_have_are_refused_as_they_come_in(changes) -> None:
    with pytest.raises(ValidationError):
        SetView(view="e2", changes=changes)


def test_a_view_pulled_to_the_right_in_third_angle_looks_from_the_right(projections, drawing) -> None:
    drawing = drawing.model_copy(update={"angle": "third"})
    after = done(projections, drawing, PullView(view=id_of(drawing, "front"), side="right", to=(300, 10)))
    view = after.front_sheet.views[-1]
    assert view.look == "right" and cameras(after)[view.id][0] == (1, 0, 0)
    assert view.place == (300, places(drawing)["front"][1])


def test_the_title_block_fills_itself_and_stays_true(projections, drawing) -> None:
    (use,) = drawing.parts
    drawing = apply(drawing, SetPart(part=use.model_copy(update={"density": 7.2})))
    drawing = apply(drawing, SetField(field="title", value="Pedestal"))
    ink = draw_sheet(drawing, drawing.front_sheet, projections)
    values = {f.field: f.value for f in ink.fields}
    # 366 882 mm³ and two ribs of 17 × 36 × 10 / 2, of cast iron at 7.2 g/cm³
    assert values["mass"] == "2.69 kg"
    assert values["sheet"] == "1 of 1" and values["size"] == "A3" and values["title"] == "Pedestal"
    assert values["scale"].startswith(scale_text(drawing.front_sheet.scale))
    assert values["number"] == "WL-201"


sizes = st.floats(2, 3000)


@settings(max_examples=40, deadline=None)
@given(w=sizes, h=sizes, d=sizes)
def test_whatever_its_size_the_views_of_a_part_clear_each_other_the_frame_and_the_title_block(w, h, d) -> None:
    def about(x: float, y: float) -> Rectangle:
        return Rectangle(-x / 2, -y / 2, x / 2, y / 2)

    r = math.sqrt(w * w + h * h + d * d)
    items = [
        Item("front", about(w, h), (0, 0)),
        Item("left", about(d, h), (1, 0)),
        Item("top", about(w, d), (0, -1)),
        Item("iso", about(r * 0.8, r * 0.8), None),
    ]
    layout = choose(items, empty(), empty().front_sheet)
    boxes = []
    for item in items:
        s = layout.scales.get(item.id, layout.scale)
        x, y = layout.places[item.id]
        b = Rectangle(x + item.box.x0 * s, y + item.box.y0 * s, x + item.box.x1 * s, y + item.box.y1 * s)
        room = 10.0 if item.cell else 0.0
        assert ISO_7200.space("A3", True).holds(b.grown(room - 1e-6))
        assert not b.grown(room).overlaps(ISO_7200.block("A3", True))
        boxes.append((b, room))
    for i, (a, ra) in enumerate(boxes):
        for b, rb in boxes[:i]:
            assert not a.grown(max(ra, rb) - 1e-6).overlaps(b), "the first row of dimensions has its room"
    assert layout.scale in SERIES


def test_views_that_cannot_fit_are_refused_with_the_remedy() -> None:
    item = Item("front", Rectangle(-500, -500, 500, 500), (0, 0))
    with pytest.raises(UserError, match="smaller scale"):
        choose([item], empty("A4"), empty("A4").front_sheet, 1.0)


@pytest.mark.parametrize(
    ("text", "value"), [("1:2", 0.5), ("2:1", 2.0), ("1:2.5", 0.4), ("0.2", 0.2), ("x", None), ("1:0", None)]
)
def test_scales_are_read_as_they_are_written(text, value) -> None:
    assert parse_scale(text) == (pytest.approx(value) if value else None)


@pytest.mark.parametrize("length", [12.5, 31.0, 77.7, 200.0])
def test_dashed_lines_start_and_end_with_a_dash(length) -> None:
    for pen, count in (("hidden", 2), ("centre", 4)):
        dashes = fitted_pattern(pen, 0.25, length)
        repeats = (length - dashes[0]) / sum(dashes)
        assert len(dashes) == count and repeats == pytest.approx(round(repeats)) and repeats > 0.99
    assert fitted_pattern("hidden", 0.25, 1.5) == [], "too short for a gap"
