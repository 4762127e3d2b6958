"""Sections on the sheet: from cutting lines by hand to what is inked and issued."""

from __future__ import annotations

import json
import math
from copy import copy
from pathlib import Path

import numpy as np
import pytest
import shapely

from barequill.core.acts import ChangeSheet, Spread
from barequill.core.acts.cut_locally import CutLocally
from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.leave_rib import LeaveRib
from barequill.core.acts.move_cutting import MoveCutting
from barequill.core.acts.move_letter import MoveLetter
from barequill.core.acts.operation import DoOperation
from barequill.core.acts.pull_view import PullView
from barequill.core.display import Hatch, Region, Text
from barequill.core.drawing import Drawing, SectionView
from barequill.core.drawing.operations import Annotate, Remove, SetHatch, SetLetters, SetView, apply
from barequill.core.errors import BadOperation, UserError
from barequill.core.measuring.inference import infer
from barequill.core.measuring.measuring import measure
from barequill.core.measuring.picking import Pick
from barequill.core.reading import shapes
from barequill.core.sheet.display_cache import DisplayCache
from barequill.core.sheet.stages import draw_sheet
from tools.common import demo_file
from tools.made_parts import bodies
from tools.sheets import DrawnPart, drawing_of, projections_of

from .commanding import run
from .shared import COVER_AREA, section


@pytest.fixture(scope="module")
def acting() -> DrawnPart:
    return DrawnPart("round-gear-cover", views=["front", "top"], face="+Y", scale=1.0)


def shot_of(acting: DrawnPart, drawing: Drawing, view: SectionView):
    return acting.projections.placed_views(drawing, drawing.front_sheet)[view.id].projected


def hole(acting: DrawnPart, degrees: float) -> dict:
    """The hole of the pitch circle at an angle, as a place of a line."""
    aim = np.array([50 * math.cos(math.radians(degrees)), 50 * math.sin(math.radians(degrees))])
    part = acting.part
    for edge in part.edges:
        c = edge.curve
        if c.is_circle and abs(c.radius - 3.3) < 1e-6 and np.allclose(c.origin[[0, 2]], [-aim[0], aim[1]], atol=1e-6):
            return {"ref": edge.ref, "at": "centre"}
    raise AssertionError("no hole there")


def test_a_section_looks_to_the_side_it_is_pulled_to_and_keeps_in_line(acting) -> None:
    drawing, view = section(acting, [(0, 0, {"at": "box"})], (120, 8))
    front = acting.placed_view("front").view
    assert view.line.courses == ["upright"] and view.letter == "A" and not view.hidden_lines
    assert view.place == pytest.approx((front.place[0] + 120, front.place[1])), "level with its view"
    # seen from +Y, right on the sheet is −X: first angle looks to where the section stands
    assert shot_of(acting, drawing, view).scene.toward == (1, 0, 0)
    areas = [shapely.Polygon(r.rings[0], r.rings[1:]).area for r in shot_of(acting, drawing, view).taken.regions]
    assert sum(areas) == pytest.approx(COVER_AREA, rel=1e-5)
    turned = apply(drawing, SetView(view=view.id, changes={"side": -view.side}))
    assert shot_of(acting, turned, turned.view(view.id)).scene.toward == (-1, 0, 0)


def test_an_aligned_section_turns_both_legs_into_one_plane(acting) -> None:
    points = [(0, 50, hole(acting, 90)), (0, 0, {"at": "box"}), (43.3, -25, hole(acting, -30) | {"lean": True})]
    drawing, view = section(acting, points, (120, 0))
    projected = shot_of(acting, drawing, view)
    assert len(projected.scene.legs) == 2
    # both holes stand 50 from the axis, and the cut is that through two opposite holes
    areas = [shapely.Polygon(r.rings[0], r.rings[1:]).area for r in projected.taken.regions]
    assert sum(areas) == pytest.approx(COVER_AREA, rel=1e-5)
    low, high = projected.hull.min(axis=0), projected.hull.max(axis=0)
    assert high - low == pytest.approx([26, 124], abs=1e-6)


MIDDLE = (0, 0, {"at": "box"})


@pytest.mark.parametrize(
    ("points", "to", "upper"),
    [([(0, 62), MIDDLE], 0, True), ([MIDDLE, (0, 62)], 0, True), ([MIDDLE], 0, False), ([MIDDLE], 20, True)],
    ids=["to the middle", "from the middle", "from it alone", "from it alone, pulled up"],
)
def test_a_half_section_cuts_one_half_and_has_a_centre_line_between(acting, points, to, upper) -> None:
    drawing, view = section(acting, points, (120, to), form="half")
    projected = shot_of(acting, drawing, view)
    for region in projected.taken.regions:
        assert (np.mean(region.rings[0], axis=0)[1] > 0) == upper
    areas = [shapely.Polygon(r.rings[0], r.rings[1:]).area for r in projected.taken.regions]
    assert sum(areas) == pytest.approx(COVER_AREA / 2, rel=1e-5)
    ink = acting.ink(drawing).of(view.id)
    assert [m.pen for m in ink.marks if getattr(m, "pen", "") == "centre"] == ["centre"]


def test_two_features_out_of_line_get_a_step_between(acting) -> None:
    places = [(0, 50, hole(acting, 90)), (0, 0, {"at": "box"}), (43.3, -25, hole(acting, -30))]
    drawing, view = section(acting, places, (130, 0))
    assert view.line.courses == ["upright", "upright", "level", "upright"]
    assert len(shot_of(acting, drawing, view).scene.cut.cells) == 2


def test_a_removed_section_shows_the_cut_face_alone_and_a_short_one_nothing_beyond(acting) -> None:
    drawing, view = section(acting, [(0, 50, hole(acting, 90))], (3, 110), form="removed")
    projected = shot_of(acting, drawing, view)
    assert {c.cls for c in projected.curves} == {"cut"} and view.bare
    drawing, view = section(acting, [(0, 10), (0, 70)], (130, 0), form="short")
    projected = shot_of(acting, drawing, view)
    assert projected.hull[:, 1].min() == pytest.approx(10, abs=1e-6)


def test_the_line_is_dragged_and_tied_again(acting) -> None:
    drawing, view = section(acting, [(0, 0, {"at": "box"})], (120, 0))
    x, y = acting.placed_view("front").view.place
    before = {k: v.place for k, v in zip("fs", drawing.front_sheet.views, strict=False)}
    moved = apply(drawing, MoveCutting(view=view.id, to=(x + 30, y), start=(x, y)).plan(drawing, acting.acts))
    line = moved.view(view.id).line
    assert all(c.tie is None for c in line.corners) and line.corners[0].place[0] == pytest.approx(30)
    tied = MoveCutting(view=view.id, corner=0, to=(x + 43, y), **hole(acting, 30)).plan(moved, acting.acts)
    after = apply(moved, tied)
    assert after.view(view.id).line.corners[0].tie.at == "centre"
    assert shot_of(acting, after, after.view(view.id)).scene.cut.cutting_planes[0].offset == pytest.approx(
        -43.30127, abs=1e-4
    )
    assert before == {k: v.place for k, v in zip("fs", after.front_sheet.views, strict=False)}


def test_a_view_from_an_aligned_section_is_without_all_that_lies_before_its_line(acting) -> None:
    points = [(0, 50, hole(acting, 90)), (0, 0, {"at": "box"}), (43.3, -25, hole(acting, -30) | {"lean": True})]
    drawing, view = section(acting, points, (130, 0))
    after = apply(
        drawing,
        PullView(view=view.id, side="above", to=(view.place[0], view.place[1] + 120)).plan(drawing, acting.acts),
    )
    child = after.front_sheet.views[-1]
    scene = acting.projections.scenes(after, after.front_sheet)[child.id]
    assert child.parent == view.id and not scene.legs and len(scene.cut.cells) == 2
    # a section to the right of its view is looked at from the left (first angle): before the line lies what is to its left
    part, seen = acting.part, acting.placed_view("front").projected
    inside = np.random.default_rng(3).uniform(part.low, part.high, (4000, 3))
    flat = seen.view.flat(inside) - seen.centre
    behind = shapely.Polygon([(0, 300), (0, 0), (300 * 0.866, -150), (300, 300)])
    assert (scene.cut.takes(inside, 0.0) != shapely.contains_xy(behind, flat)).mean() > 0.999


def test_a_leaning_leg_turns_square_to_an_edge() -> None:
    acting = DrawnPart("angled-keeper", views=["front"], scale=1.0)
    view = acting.placed_view("front").view
    # across the leg that is bent by 60 degrees, some 3 degrees off square
    x, y = acting.placed_view("front").on_sheet(np.array([[90 + 40 * 0.5, 0.0, 40 * 0.866]]))[0]
    way = np.radians(60 + 90 + 3)
    points = [CutPoint(x=x, y=y), CutPoint(x=x + 40 * math.cos(way), y=y + 40 * math.sin(way), lean=True)]
    act = CutView(view=view.id, points=points, to=(x + 60, y + 60))
    made = apply(acting.drawing, act.plan(acting.drawing, acting.acts)).front_sheet.views[-1]
    along = np.subtract(made.line.corners[1].place, made.line.corners[0].place)
    assert math.degrees(math.atan2(along[1], along[0])) == pytest.approx(150, abs=1e-6)


@pytest.mark.parametrize(
    ("points", "more", "why"),
    [
        ([(80, -70), (80, 70)], {}, "misses the part"),
        ([(0, 50), (0, 50.0000001)], {}, "no length"),
    ],
)
def test_a_cut_that_cannot_be_is_refused_with_the_reason(acting, points, more, why) -> None:
    with pytest.raises(UserError, match=why):
        section(acting, points, (130, 0), **more)


def test_views_are_spread_with_their_sections_and_removed_ones_go_along(acting) -> None:
    drawing, full = section(acting, [(0, 0, {"at": "box"})], (120, 0))
    cut = copy(acting)
    cut.drawing = drawing
    drawing, removed = section(cut, [(0, 50, hole(acting, 90))], (0, 100), form="removed")
    after = apply(drawing, Spread(sheet="e1").plan(drawing, acting.acts))
    front, was = after.front_sheet.views[0].place, drawing.front_sheet.views[0].place
    assert after.view(full.id).place[1] == pytest.approx(front[1]) and after.view(full.id).place[0] > front[0] + 60
    gone = np.subtract(after.view(removed.id).place, front)
    assert gone == pytest.approx(np.subtract(removed.place, was))
    half = apply(drawing, ChangeSheet(sheet="e1", scale=0.5).plan(drawing, acting.acts))
    gone = np.subtract(half.view(removed.id).place, half.front_sheet.views[0].place)
    assert gone == pytest.approx(np.subtract(removed.place, was) / 2)


def test_a_section_is_called_by_its_letter_of_now_and_drawn_as_it_is_now(acting) -> None:
    display_cache = DisplayCache()
    drawing, view = section(acting, [(0, 50, hole(acting, 90))], (0, 100), form="removed")

    def now(d: Drawing):
        return draw_sheet(d, d.front_sheet, acting.projections, display_cache).of(view.id)

    assert now(drawing).words == "Removed section A–A"
    renamed = apply(drawing, SetView(view=view.id, changes={"letter": "F"}))
    assert now(renamed).words == "Removed section F–F"
    turned_in = view.model_copy(update={"within": True})
    views = [turned_in if v.id == view.id else v for v in drawing.front_sheet.views]
    narrow = drawing.with_sheet(drawing.front_sheet.model_copy(update={"views": views}))
    assert {m.pen for m in now(narrow).marks} == {"revolved"} != {m.pen for m in now(drawing).marks}


def test_a_view_comes_with_centre_lines_where_its_parent_has_them(acting) -> None:
    bare, view = section(acting, [MIDDLE], (120, 0))
    assert not [a for a in bare.front_sheet.annotations if a.on == view.id]
    marked = DrawnPart("round-gear-cover", views=["front"], face="+Y", scale=1.0, centres=True)
    drawing, view = section(marked, [MIDDLE], (120, 0))
    # of the bore and of the two holes that are cut, each at the height of its axis
    own = [marked.ink(drawing).of(a.id) for a in drawing.front_sheet.annotations if a.on == view.id]
    heights = {round(float(p[1]), 3) for e in own for m in e.marks for p in m.curve.poles}
    assert {50.0, 100.0} <= {h - min(heights) for h in heights}
    with pytest.raises(UserError, match="Nothing is left to cut"):
        everything = SetView(view=view.id, changes={"whole": [b.name for b in marked.part.bodies]})
        DoOperation(operation=everything).plan(drawing, marked.acts)


def test_letters_come_in_order_and_once(acting) -> None:
    drawing, first = section(acting, [(0, 0, {"at": "box"})], (120, 0))
    views = [first.model_copy(update={"id": f"x{k}", "letter": ""}) for k in range(9)]
    sheet = drawing.front_sheet
    for view in views:
        named = view.model_copy(update={"letter": drawing.free_letter()})
        sheet = drawing.front_sheet
        drawing = drawing.with_sheet(sheet.model_copy(update={"views": [*sheet.views, named]}))
    letters = [v.letter for v in drawing.front_sheet.views if isinstance(v, SectionView)]
    assert letters == list("ABCDEFGHJK"), "I is left out"
    with pytest.raises(BadOperation, match="taken"):
        apply(drawing, SetView(view="x3", changes={"letter": "B"}))
    fewer = apply(drawing, Remove(ids=["x0", "x2"]))
    assert "B" not in [getattr(v, "letter", "") for v in fewer.front_sheet.views]
    closed = apply(fewer, SetLetters(close_up=True))
    assert [v.letter for v in closed.front_sheet.views if isinstance(v, SectionView)] == list("ABCDEFGH")


def test_a_local_cut_opens_a_view_to_a_depth_and_no_line_runs_beyond_it() -> None:
    acting = DrawnPart("catch-box", views=["front"], scale=1.0)
    view = acting.placed_view("front").view
    x, y = view.place
    outline = [(x + 52, y - 30), (x + 88, y - 30), (x + 88, y - 8), (x + 52, y - 8)]
    act = CutLocally(view=view.id, outline=outline, smooth=False, at="box")
    drawing = apply(acting.drawing, act.plan(acting.drawing, acting.acts))
    projected = acting.projections.placed_views(drawing, drawing.front_sheet)[view.id].projected
    # the lug beyond x = 52, 10 thick, less its hole of 12
    areas = [shapely.Polygon(r.rings[0], r.rings[1:]).area for r in projected.taken.regions]
    assert sum(areas) == pytest.approx((80 - 52 - 12) * 10, rel=1e-4)
    limits = [c.curve for c in projected.curves if c.cls == "limit"]
    assert sum(c.length() for c in limits) == pytest.approx(10, rel=0.05), "only over the part"
    crossed = [(x, y), (x + 30, y + 20), (x + 30, y), (x, y + 20)]
    with pytest.raises(UserError, match="crosses itself"):
        CutLocally(view=view.id, outline=crossed, smooth=False).plan(acting.drawing, acting.acts)


def test_a_rib_is_left_without_hatch_and_with_its_border() -> None:
    acting = DrawnPart("spindle-pedestal", views=["front"], scale=0.5)
    view = acting.placed_view("front").view
    act = CutView(view=view.id, points=[CutPoint(x=0, y=0, at="box")], to=(view.place[0] + 120, view.place[1]))
    drawing = apply(acting.drawing, act.plan(acting.drawing, acting.acts))
    made = drawing.front_sheet.views[-1]
    placed_view = acting.projections.placed_views(drawing, drawing.front_sheet)[made.id]

    def hatched(d: Drawing) -> float:
        projected = acting.projections.placed_views(d, d.front_sheet)[made.id].projected
        return sum(shapely.Polygon(r.rings[0], r.rings[1:]).area for r in projected.taken.regions)

    x, y = placed_view.on_sheet(np.array([[0.0, -26.0, 24.0]]))[0]
    left = apply(drawing, LeaveRib(view=made.id, to=(float(x), float(y))).plan(drawing, acting.acts))
    assert hatched(drawing) - hatched(left) == pytest.approx(17 * 36 / 2, rel=1e-3)
    projected = acting.projections.placed_views(left, left.front_sheet)[made.id].projected
    borders = [c for c in projected.curves if c.cls == "edge" and c.curve.kind == "line" and c.visible]
    border = next(c for c in borders if c.curve.length() == pytest.approx(36, rel=1e-3))
    # where it meets the upright, and there it can be measured
    context, (px, py) = acting.acts.context(left, left.front_sheet, made.id)
    place = placed_view.on_sheet(np.array([[0.0, -20.0, 30.0]]))[0] - (px, py)
    size = infer(context, [Pick(border.source, *place)], tuple(place + (15, 0)), "e99")
    assert measure(projected, size).value == pytest.approx(36, rel=1e-3)
    again = apply(left, LeaveRib(view=made.id, to=(float(x), float(y))).plan(left, acting.acts))
    assert hatched(again) == pytest.approx(hatched(drawing))


def test_hatches_tell_neighbours_apart_keep_clear_of_lettering_and_can_be_chosen() -> None:
    acting = DrawnPart("small-pedestal-assembly", views=["front", "top"], scale=1.0)
    view = acting.placed_view("top").view
    act = CutView(view=view.id, points=[CutPoint(x=0, y=0, at="box")], to=(view.place[0], view.place[1] + 130))
    drawing = apply(acting.drawing, act.plan(acting.drawing, acting.acts))
    made = drawing.front_sheet.views[-1]
    # studs stay whole by their name; the spindle, cut across, does not
    assert made.whole == ["Stud", "Stud (2)"]
    ink = acting.ink(drawing)
    hatches = [m for m in ink.of(f"{made.id}-hatch").marks if isinstance(m, Hatch)]
    assert len({h.angle for h in hatches}) >= 4, "base, cap, bush and spindle touch each other"
    assert all(2 <= h.spacing <= 6 for h in hatches)
    for h in hatches:
        shape = shapely.Polygon(h.rings[0], h.rings[1:]).buffer(1e-6)
        assert all(shape.covers(shapely.LineString(s)) for s in h.segments)
        apart = h.segments[:, 0] @ [-math.sin(math.radians(h.angle)), math.cos(math.radians(h.angle))]
        steps = np.diff(np.unique(np.round(apart, 6)))
        assert steps / h.spacing == pytest.approx(np.round(steps / h.spacing), abs=1e-3)
    none = apply(drawing, SetHatch(hatch={"body": "Base", "off": True}))
    assert len([m for m in acting.ink(none).of(f"{made.id}-hatch").marks if isinstance(m, Hatch)]) < len(hatches)
    letters = [m.text for m in ink.marks_of(f"{made.id}-line", f"{made.id}-caption") if isinstance(m, Text)]
    assert sorted(letters) == ["A", "A", "A–A"]


def test_a_size_whose_feature_is_cut_away_is_loose_and_says_so(acting) -> None:
    drawing, view = section(acting, [(0, 0, {"at": "box"})], (120, 0))
    cut = copy(acting)
    cut.drawing = drawing
    dimension = cut.pull("section", [((0, 9, 18),)], (-15, 60))
    kept = apply(drawing, Annotate(sheet="e1", annotations=[dimension]))
    x, y = acting.placed_view("front").view.place
    beyond = MoveCutting(view=view.id, to=(x + 40, y), start=(x, y)).plan(kept, acting.acts)
    away = apply(kept, beyond)
    assert acting.ink(kept).of(dimension.id).words == "Ø36"
    assert "Cut away" in acting.ink(away).of(dimension.id).words


def test_the_command_cuts_and_draws_documents(tmp_path: Path) -> None:
    out = tmp_path / "cut.json"
    part = str(demo_file("round-gear-cover"))
    args = ["lines", part, "--view", "right", "--cut", "0,0,0:1,0,0", "-o", str(out)]
    assert run(*args).returncode == 0
    told = json.loads(out.read_text())
    assert sum(f["area"] for f in told["cut_faces"]) == pytest.approx(COVER_AREA, rel=1e-6)
    for face in told["cut_faces"]:
        outer, *holes = (shapely.Polygon(loop) for loop in face["loops"])
        assert outer.area - sum(h.area for h in holes) == pytest.approx(face["area"], rel=1e-4)
    assert {c["class"] for c in told["curves"]} >= {"cut", "edge"}
    missed = run("lines", part, "--cut", "900,0,0:1,0,0", "-o", str(out))
    assert missed.returncode == 2 and "misses the part" in missed.stderr
    document = Path(__file__).parent / "data" / "sections.json"
    sheet = tmp_path / "sheet.svg"
    folder = str(demo_file("round-gear-cover").parent)
    done = run("draw", str(document), "--parts", folder, "-o", str(sheet))
    assert done.returncode == 0, done.stderr
    assert "A–A" in sheet.read_text() and 'class="s hatch"' in sheet.read_text()
    lost = run("draw", str(document), "--parts", str(tmp_path), "-o", str(sheet))
    assert lost.returncode == 2 and "round-gear-cover" in lost.stderr


def test_letters_at_a_line_go_clear_of_what_is_written_and_where_a_hand_puts_them(acting) -> None:
    drawing, view = section(acting, [(0, 0, {"at": "box"}), (0, 75)], (110, 0))

    def letters(of: Drawing) -> list[np.ndarray]:
        marks = acting.ink(of).of(f"{view.id}-line").on_sheet()
        return [np.array([m.x, m.y]) for m in marks if isinstance(m, Text)]

    free = letters(drawing)
    # a size whose lettering stands where the upper letter would
    upper = max(free, key=lambda p: p[1])
    dimension = acting.pull("front", [((-43.3, 12, 25), "centre"), ((43.3, 12, 25), "centre")], (62, 140)).model_copy(
        update={"id": "e990"}
    )

    def with_size(drawing: Drawing, place) -> Drawing:
        own = dimension.model_copy(update={"place": place})
        return apply(drawing, Annotate(sheet=acting.sheet.id, annotations=[own]))

    written = next(
        m for m in acting.ink(with_size(drawing, dimension.place)).of("e990").on_sheet() if isinstance(m, Text)
    )
    off = upper + [0.0, 2.5] - written.corners().mean(axis=0)
    place = dimension.place
    # to the left or right of its line, as that runs
    tries = [place.model_copy(update={"along": k * off[0], "offset": place.offset + off[1]}) for k in (1, -1)]
    crowded = max(
        (with_size(drawing, t) for t in tries), key=lambda d: len({*map(tuple, letters(d))} - {*map(tuple, free)})
    )
    moved = letters(crowded)
    ink = acting.ink(crowded)
    lettering = [shapely.Polygon(m.corners()) for m in ink.of("e990").on_sheet() if isinstance(m, Text)]
    own = [shapely.Polygon(m.corners()) for m in ink.of(f"{view.id}-line").on_sheet() if isinstance(m, Text)]
    assert not any(a.intersects(b) for a in own for b in lettering)
    assert max(np.linalg.norm(a - b) for a, b in zip(free, moved, strict=True)) > 1.0
    # by hand, and back near its own place
    start = tuple(free[0])
    act = MoveLetter(view=view.id, start=start, to=(start[0] + 9.0, start[1] - 4.0))
    after = apply(drawing, act.plan(drawing, acting.acts))
    assert letters(after)[0] - free[0] == pytest.approx([9.0, -4.0])
    back = MoveLetter(view=view.id, start=tuple(letters(after)[0]), to=(start[0] + 1.0, start[1]))
    assert apply(after, back.plan(after, acting.acts)).view(view.id).letters_off == (None, None)


def test_filled_cuts_of_two_bodies_are_told_apart_by_a_white_gap() -> None:
    plates = [shapes.box((0, 0, 1.6 * k), (60, 40, 1.6)) for k in (0, 1)]
    part = bodies(*plates)
    projections = projections_of(part)
    p = DrawnPart.__new__(DrawnPart)
    p.part, p.projections = part, projections
    p.drawing = drawing_of(projections, part, size="A3", centres=False, views=["front"], scale=0.5)
    drawing, view = section(p, [(0, 20), (0, -20)], (90, 0))
    filled = [
        m.rings[0]
        for e in p.ink(drawing).elements
        if e.group == view.id
        for m in e.marks
        if isinstance(m, Region) and len(m.rings[0]) > 3
    ]
    heights = sorted((float(r[:, 1].min()), float(r[:, 1].max())) for r in filled)
    assert len(heights) == 2
    # each 0.8 on the sheet, of which it gives 0.3 for the gap: both are thinner than the 0.7 that it may be
    width = 2 * 20 * 0.8 / (2 * 20.8)
    assert [b - a for a, b in heights] == pytest.approx([0.8 - 0.3 * width] * 2, abs=2e-3)
    assert heights[1][0] - heights[0][1] == pytest.approx(0.6 * width, abs=4e-3)


def test_a_line_begun_on_an_axis_or_an_edge_cuts_where_it_was_begun() -> None:
    acting = DrawnPart("long-pinion-spindle", views=["front"], scale=0.5)
    view, placed_view = acting.placed_view("front").view, acting.placed_view("front")
    x, y = view.place
    shaft = next(f for f in acting.part.faces if f.surface.kind == "cylinder" and f.surface.radius > 15)

    def made(*points: CutPoint, to: tuple[float, float]) -> SectionView:
        act = CutView(view=view.id, points=list(points), to=to)
        return apply(acting.drawing, act.plan(acting.drawing, acting.acts)).front_sheet.views[-1]

    # across the axis, 60 mm of the spindle from its middle: there, and tied to nothing along it
    on_axis = CutPoint(x=x - 30, y=y + 1, ref=shaft.ref, at="axis")
    across = made(on_axis, CutPoint(x=x - 30, y=y + 50), to=(x - 30, y - 60))
    assert across.line.corners[0].tie is None and across.line.corners[0].place[0] == pytest.approx(-60)
    # along it the axis holds the line
    along = made(on_axis, CutPoint(x=x + 150, y=y + 1), to=(x, y - 60))
    assert along.line.corners[0].tie.at == "axis" and along.line.courses == ["level"]
    # from an edge: its middle holds what is begun near that, else it is cut there, so far off its middle
    edges = [e for e in acting.part.edges if e.curve.kind == "line" and e.curve.length() > 25]
    edge = max(edges, key=lambda e: abs((e.points[-1] - e.points[0]) @ placed_view.projected.frame.right))
    middle = placed_view.on_sheet(((edge.points[0] + edge.points[-1]) / 2)[None])[0]
    for away, off in ((3.0, 0.0), (6.0, 12.0)):
        begun = CutPoint(x=float(middle[0]) + away, y=float(middle[1]), ref=edge.ref, at="line")
        line = made(begun, CutPoint(x=float(middle[0]) + away, y=y + 50), to=(x - 90, y)).line
        assert line.corners[0].tie.at == "line" and line.corners[0].off[0] == pytest.approx(off)
