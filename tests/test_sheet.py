"""Sheets as ink: border, title block, and how dimensions are laid out, in figures of the standards."""

from __future__ import annotations

import math

import numpy as np
import pytest
from fontTools.ttLib import TTFont

from barequill.core.display import Region, Sketch, Stroke, Text
from barequill.core.display.lettering import CAPITAL, FONT_FILE, drawable, font_size, text_width
from barequill.core.drawing import Drawing, Sheet, apply
from barequill.core.drawing.operations import Annotate, ChangeAnnotation, SetPart, SetSheet, SetView
from barequill.core.drawing.templates import ISO_7200
from barequill.core.reading import shapes
from barequill.core.sheet.stages import draw_sheet
from barequill.core.sheet.title_block import draw_title_block, title_zones
from barequill.core.standards.lines import PENS, line_group
from barequill.core.standards.scales import SERIES, scale_text
from barequill.core.standards.sheets import SIZES, sheet_rectangle
from barequill.core.views.placed_view import ProjectionCache
from tools.made_parts import bodies
from tools.sheets import DrawnPart, drawing_of, empty


@pytest.fixture(scope="module")
def acting() -> DrawnPart:
    return DrawnPart("spindle-pedestal", scale=0.5)


def sheet_ink(acting: DrawnPart, drawing: Drawing):
    return acting.ink(drawing)


def with_dimension(acting: DrawnPart, dimension, **changes) -> Drawing:
    drawing = apply(acting.drawing, Annotate(sheet="e1", annotations=[dimension]))
    return apply(drawing, ChangeAnnotation(id=dimension.id, changes=changes)) if changes else drawing


def marks_of(ink, owner: str, kind):
    return [m for m in ink.marks_of(owner) if isinstance(m, kind)]


def straight(ink, owner: str):
    return [m.curve.poles for m in marks_of(ink, owner, Stroke) if m.curve.kind == "line"]


# ---- the sheet itself


@pytest.mark.parametrize(
    ("size", "short", "long"),
    [("A0", 841, 1189), ("A1", 594, 841), ("A2", 420, 594), ("A3", 297, 420), ("A4", 210, 297), ("B", 279.4, 431.8)],
)
def test_trimmed_sizes_are_those_of_iso_5457_and_asme_y14_1(size, short, long) -> None:
    assert SIZES[size] == pytest.approx((short, long))
    lying, upright = sheet_rectangle(size, True), sheet_rectangle(size, False)
    assert (lying.width, lying.height) == (upright.height, upright.width) == pytest.approx((long, short))


@pytest.mark.parametrize("landscape", [True, False])
@pytest.mark.parametrize("size", SIZES)
def test_the_frame_leaves_20_for_filing_and_10_elsewhere_and_the_title_block_stands_lower_right(
    size, landscape
) -> None:
    sheet, space, block = (f(size, landscape) for f in (sheet_rectangle, ISO_7200.space, ISO_7200.block))
    assert (space.x0, space.y0) == (20, 10)
    assert (sheet.x1 - space.x1, sheet.y1 - space.y1) == (10, 10)
    assert block.width == pytest.approx(180) and (block.x1, block.y0) == (space.x1, space.y0)
    assert space.holds(block) or (size in ("A4", "A") and not landscape)


def test_border_zones_count_50_from_the_middle_in_letters_without_i_and_o(acting) -> None:
    drawing = Drawing.model_validate({**acting.drawing.to_json(), "sheets": [{"id": "e1", "size": "A3"}]})
    ink = sheet_ink(acting, drawing)
    words = [m for m in ink.marks_of("sheet") if isinstance(m, Text) and m.height == 3.5]
    figures = sorted({int(m.text) for m in words if m.text.isdigit() and (m.y < 10 or m.y > 287)})
    assert figures == list(range(1, 9)), "420 mm: four fields on each side of the middle"
    letters = sorted({m.text for m in words if len(m.text) == 1 and m.text.isalpha() and (m.x < 20 or m.x > 410)})
    assert letters == list("ABCDEF")
    upper = {m.text: m.y for m in words if m.text in "AF" and m.x < 20}
    assert upper["A"] > upper["F"], "from the top down"
    marks = [m for m in ink.marks_of() if isinstance(m, Stroke) and m.pen == "frame"]
    assert any(np.ptp(m.curve.poles[:, 0]) == 0 and m.curve.poles[0, 0] == 210 for m in marks), "centring marks"
    assert ink.width_of("frame") == 0.7


def test_all_mandatory_fields_of_iso_7200_stand_in_the_title_block_and_nothing_overlaps(acting) -> None:
    ink = sheet_ink(acting, acting.drawing)
    fields = {f.field: f for f in ink.fields}
    mandatory = {"owner", "number", "date", "sheet", "title", "approver", "creator", "document_type"}
    assert mandatory | {"scale", "projection", "material", "mass", "general_tolerance", "surface", "units"} <= set(
        fields
    )
    block = ISO_7200.block("A3", True)
    area = sum((f.x1 - f.x0) * (f.y1 - f.y0) for f in ink.fields)
    assert area == pytest.approx(block.width * block.height), "the cells fill the block without gap or overlap"
    assert {f for f in fields if fields[f].auto} == {"sheet", "size", "scale", "mass", "units", "projection"}
    assert fields["date"].value == "", "it is not issued yet"


@pytest.mark.parametrize(("angle", "side"), [("first", 1), ("third", -1)])
def test_the_projection_symbol_tells_the_angle(acting, angle, side) -> None:
    """ISO 5456-2: in first angle the circles (seen from the left) stand to the right of the cone."""
    drawing = Drawing.model_validate({**acting.drawing.to_json(), "angle": angle})
    ink = sheet_ink(acting, drawing)
    zone = next(f for f in ink.fields if f.field == "projection")
    inside = [
        m
        for m in ink.marks_of("sheet")
        if isinstance(m, Stroke)
        and m.pen == "visible"
        and zone.x0 < np.mean(m.curve.bounds()[::2]) < zone.x1
        and zone.y0 < np.mean(m.curve.bounds()[1::2]) < zone.y1
    ]
    circles = [m.curve for m in inside if m.curve.is_circular]
    slants = [m.curve for m in inside if m.curve.kind == "line" and np.ptp(m.curve.poles[:, 0]) > 1]
    assert len(circles) == 2
    assert (circles[0].poles[0, 0] - np.mean([c.poles[:, 0] for c in slants])) * side > 0


def test_lines_have_the_widths_and_numbers_of_iso_128() -> None:
    assert (line_group("A3").wide, line_group("A3").narrow) == (0.5, 0.25)
    assert (line_group("A1").wide, line_group("A1").narrow) == (0.7, 0.35)
    assert {n: PENS[n].number for n in ("visible", "tangent", "hidden", "centre")} == {
        "visible": "01.2",
        "tangent": "01.1",
        "hidden": "02.1",
        "centre": "04.1",
    }
    assert PENS["hidden"].pattern == (12, 3) and PENS["centre"].pattern == (24, 3, 0.5, 3)


def test_standard_scales_run_from_enlarging_to_reducing() -> None:
    assert sorted(SERIES, reverse=True) == SERIES
    texts = [scale_text(s) for s in SERIES]
    assert texts[:7] == ["50:1", "20:1", "10:1", "5:1", "2:1", "1:1", "1:2"] and "1:1000" in texts


def test_lettering_is_as_wide_as_the_font_says() -> None:
    font = TTFont(FONT_FILE)
    names, widths = font.getBestCmap(), font["hmtx"].metrics
    text = "Ø40 H7 ±0.1"
    ems = sum(widths[names[ord(c)]][0] for c in text) / font["head"].unitsPerEm
    assert text_width(text, 3.5) == pytest.approx(ems * 3.5 / CAPITAL)
    assert font_size(3.5) * CAPITAL == pytest.approx(3.5)
    assert drawable("−5 ⌀8 … \u4e00") == "–5 Ø8 ... \u4e00"
    assert drawable("a\U0001f9f0b") == "a[U+1F9F0]b", "what no font has is not dropped silently"


@pytest.mark.parametrize(
    ("long", "least"),
    [
        ("Lower bearing block of the eastern paddle gear, left hand, second pattern", 2.5),
        ("水泵" * 60, 0.3),
        ("Lower bearing block of the paddle gear " * 7, 0.5),
    ],
)
def test_what_is_too_long_for_its_cell_is_fitted_and_never_cut(long: str, least: float) -> None:
    ink = Sketch(line_group("A3"))
    drawing = empty(fields={"title": long})
    draw_title_block(ink, drawing.angle, ISO_7200, drawing.front_sheet, {"title": long})
    cell = next(zone for zone in title_zones(ISO_7200, drawing.front_sheet, {"title": long}) if zone.field == "title")
    texts = [m for m in ink.marks if isinstance(m, Text) and cell.x0 < m.x < cell.x1 and cell.y0 < m.y < cell.y1]
    texts = [t for t in texts if t.text != "Title"]
    assert "".join(t.text for t in reversed(texts)).replace(" ", "") == long.replace(" ", "")
    for text in texts:
        assert text.x + text.width < cell.x1 and text.y + text.height < cell.y1 - 2.5 and text.height >= least


# ---- dimensions


def test_a_length_has_two_extension_lines_two_arrows_and_its_text_above_the_line(acting) -> None:
    dimension = acting.pull("front", [((0, -40, 0),)], (30, -11))
    ink = sheet_ink(acting, with_dimension(acting, dimension))
    box = acting.placed_view("front").box
    lines = straight(ink, "d900")
    upright = [p for p in lines if np.ptp(p[:, 0]) < 1e-9]
    level = [p for p in lines if np.ptp(p[:, 1]) < 1e-9]
    assert len(upright) == 2 and len(level) == 1
    assert level[0][0, 1] == pytest.approx(box.y0 - 10)
    for p in upright:
        assert p[:, 1].min() == pytest.approx(box.y0 - 10 - 2), "extension lines overrun by 2"
    arrows = marks_of(ink, "d900", Region)
    assert len(arrows) == 2
    for a in arrows:
        assert np.linalg.norm(a.rings[0][0] - a.rings[0][1:].mean(axis=0)) == pytest.approx(3.5)
        spread = 2 * math.degrees(math.atan2(np.linalg.norm(a.rings[0][1] - a.rings[0][2]) / 2, 3.5))
        assert 15 <= spread <= 30
    (text,) = marks_of(ink, "d900", Text)
    assert text.height == 3.5 and text.y == pytest.approx(box.y0 - 10 + 1)
    assert text.x + text.width / 2 == pytest.approx((box.x0 + box.x1) / 2, abs=0.1), "in its middle"


def test_upright_dimensions_are_read_from_the_right(acting) -> None:
    dimension = acting.pull("front", [((-30, -40, 0),), ((20, -20, 80), "centre")], (-11, 20))
    ink = sheet_ink(acting, with_dimension(acting, dimension))
    (text,) = marks_of(ink, "d900", Text)
    assert text.angle == pytest.approx(90)
    line = next(p for p in straight(ink, "d900") if np.ptp(p[:, 0]) < 1e-9)
    assert text.x < line[0, 0], "its foot is on the line, and it stands to the left of it"


def test_arrows_turn_outward_where_room_is_short_and_can_be_told_to(acting) -> None:
    narrow = acting.pull("front", [((-30, -40, 0),), ((-40, -40, 16),)], (-11, 20))
    for choice, inward in (("auto", False), ("inside", True), ("outside", False)):
        ink = sheet_ink(acting, with_dimension(acting, narrow, arrows=choice))
        tips = [f.rings[0] for f in marks_of(ink, "d900", Region)]
        low, high = sorted(tips, key=lambda p: p[0, 1])
        points_apart = low[0, 1] < low[1:, 1].mean() and high[0, 1] > high[1:, 1].mean()
        assert points_apart == inward
        assert high[0, 1] - low[0, 1] == pytest.approx(16 * 0.5), "tips stand on the extension lines all the same"


def test_asme_lettering_stands_level_in_a_gap_of_the_line(acting) -> None:
    dimension = acting.pull("front", [((-30, -40, 0),), ((20, -20, 80), "centre")], (-11, 20))
    drawing = apply(with_dimension(acting, dimension), SetSheet(sheet="e1", standard="ASME"))
    ink = sheet_ink(acting, drawing)
    (text,) = marks_of(ink, "d900", Text)
    assert text.angle == 0
    pieces = [p for p in straight(ink, "d900") if np.ptp(p[:, 0]) < 1e-9]
    assert len(pieces) == 2, "the dimension line is broken for it"
    low, high = sorted(sorted(p[:, 1]) for p in pieces)
    assert low[1] < text.y and high[0] > text.y + text.height
    starts = [p for p in straight(ink, "d900") if np.ptp(p[:, 1]) < 1e-9]
    assert starts, "extension lines"


def test_a_diameter_goes_through_the_centre_and_a_radius_from_it(acting) -> None:
    bore = acting.pull("front", [((14.142, -20, 94.142),)], (60, 70))
    ink = sheet_ink(acting, with_dimension(acting, bore))
    placed_view = acting.placed_view("front")
    record = ink.dimensions["d900"]
    centre = (np.array(record.points["line"]) + np.array(record.points["second"])) / 2
    aim = placed_view.on_sheet(np.array([[0, -20, 80.0]]))[0]
    assert centre == pytest.approx(aim)
    assert next(iter(ink.dimensions.values())).form == "diameter" and next(iter(ink.dimensions.values())).text == "Ø40"
    assert len(marks_of(ink, "d900", Region)) == 2
    crown = acting.pull("front", [((24.04, -20, 104.04),)], (60, 75))
    ink = sheet_ink(acting, with_dimension(acting, crown))
    assert next(iter(ink.dimensions.values())).form == "radius" and next(iter(ink.dimensions.values())).text == "R34"
    assert np.array(next(iter(ink.dimensions.values())).points["line"]) == pytest.approx(aim)


def test_an_angle_is_an_arc_about_its_apex() -> None:
    keeper = DrawnPart("angled-keeper", scale=1.0)
    dimension = keeper.pull("front", [((40, -30, 0),), ((110, -30, 34.641),)], (75, 20))
    ink = sheet_ink(keeper, with_dimension(keeper, dimension))
    arcs = [m.curve for m in marks_of(ink, "d900", Stroke) if m.curve.kind == "conic"]
    assert len(arcs) == 1 and arcs[0].is_circular
    (record,) = ink.dimensions.values()
    assert record.form == "angular" and record.text.endswith("°")
    sweep = math.degrees(arcs[0].t1 - arcs[0].t0)
    value = float(record.text[:-1])
    assert value == 120 and sweep >= value - 1e-6
    apex = np.array(record.points["apex"])
    for name in ("first", "second"):
        assert np.linalg.norm(np.array(record.points[name]) - apex) == pytest.approx(np.linalg.norm(arcs[0].a))


@pytest.mark.parametrize("scale", [0.2, 0.5, 1.0])
def test_what_is_placed_keeps_its_place_relative_to_the_view_at_any_scale(acting, scale) -> None:
    inner = acting.pull("front", [((14.142, -20, 94.142),)], (60, 70))
    outer = acting.pull("front", [((0, -40, 0),)], (30, -18))
    outer = outer.model_copy(update={"id": "d901"})
    drawing = apply(acting.drawing, Annotate(sheet="e1", annotations=[inner, outer]))
    view = inner.on
    drawing = apply(drawing, SetView(view=view, changes={"scale": scale}))
    ink = sheet_ink(acting, drawing)
    box = acting.projections.placed_views(drawing, drawing.front_sheet)[view].box
    texts = {own: d.text for own, d in ink.dimensions.items()}
    assert texts == {"d900": "Ø40", "d901": "116"}
    second = ink.dimensions["d901"]
    assert second.points["line"][1] == pytest.approx(box.y0 - 17), "the second row stays the second row"


def test_a_caption_tells_a_view_s_own_scale_and_the_title_block_the_main_one(acting) -> None:
    view = acting.placed_view("front").view.id
    drawing = apply(acting.drawing, SetView(view=view, changes={"scale": 1.0, "caption": "Seen from the towpath"}))
    ink = sheet_ink(acting, drawing)
    captions = [m.text for m in marks_of(ink, f"{view}-caption", Text)]
    assert captions == ["Seen from the towpath (1:1)"]
    scale = next(f.value for f in ink.fields if f.field == "scale")
    assert scale.startswith("1:2 (") and "1:1" in scale


def test_hidden_and_tangent_lines_come_and_go_with_the_view_s_wish(acting) -> None:
    view = acting.placed_view("top").view.id

    def pens(**changes) -> set[str]:
        ink = sheet_ink(acting, apply(acting.drawing, SetView(view=view, changes=changes)))
        return {m.pen for m in marks_of(ink, view, Stroke)}

    assert "hidden" in pens() and "hidden" not in pens(hidden_lines=False)
    assert "tangent" not in pens(tangent_edges="off") and "tangent" not in pens(tangent_edges="shown")


def test_the_inch_sheet_states_inches_and_pounds(acting) -> None:
    dimension = acting.pull("front", [((0, -40, 0),)], (30, -11))
    drawing = with_dimension(acting, dimension)
    (use,) = drawing.parts
    drawing = apply(drawing, SetPart(part=use.model_copy(update={"density": 7.2})))
    drawing = apply(drawing, SetSheet(sheet="e1", size="B", standard="ASME", unit="inch", angle="third"))
    ink = sheet_ink(acting, drawing)
    assert (ink.width, ink.height) == pytest.approx((431.8, 279.4))
    values = {f.field: f.value for f in ink.fields}
    assert values["units"] == "inch" and values["projection"] == "third angle"
    # 2.6856 kg
    assert values["mass"] == "5.92 lb"
    assert next(iter(ink.dimensions.values())).text == "4.567", "116 mm"


def test_a_sheet_without_a_part_is_a_sheet_all_the_same(acting) -> None:
    ink = acting.ink(Drawing(sheets=[Sheet(id="e1", size="A4", landscape=False)]))
    assert any(f.field == "title" and f.value == "" for f in ink.fields) and not ink.dimensions


@pytest.mark.parametrize(("scale", "drawn"), [(1.0, False), (10.0, True)])
def test_a_hidden_line_that_is_one_with_a_visible_line_on_paper_gives_way_and_is_still_found(scale, drawn) -> None:
    """A groove in the back ends 0.06 mm below the top edge: less than a fifth of a line of 0.5 mm at 1:1, not at 10:1."""
    block = shapes.cut(shapes.box((0, 0, 0), (30, 20, 10)), shapes.box((-1, 15, 9.94), (40, 10, 10)))
    part = bodies(shapes.fuse(block, shapes.box((0, 0, 0), (3, 20, 10))))
    projections = ProjectionCache(lambda key: part)
    drawing = drawing_of(projections, part, size="A3", scale=scale, views=["front"], centres=False)
    ink = draw_sheet(drawing, drawing.front_sheet, projections)
    hidden = [m for m in ink.marks_of() if isinstance(m, Stroke) and m.pen == "hidden"]
    assert bool(hidden) == drawn
    under = [m for e in ink.elements for m in e.under]
    assert bool(under) != drawn
    lower = {e.ref for e in part.edges if e.points[:, 2].min() > 9.94 - 1e-9}
    assert {m.source for m in (hidden or under)} <= lower
