"""Sizes in order over a whole sheet: figures of running sizes apart, rows of several views in line, views spread."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from barequill.core.acts.pull_dimension import PickJson, PullDimension
from barequill.core.acts.rows import StateRow
from barequill.core.acts.state_note import StateNote
from barequill.core.acts.state_texture import StateTexture
from barequill.core.acts.tidy import Tidy
from barequill.core.arranging.clashes import clashes, over_others
from barequill.core.arranging.tidy_rows import spaced
from barequill.core.display import Stroke, box_of
from barequill.core.drawing import Dimension, Place
from barequill.core.drawing.annotations.surface_texture import SurfaceTexture
from barequill.core.drawing.operations import Annotate, apply
from barequill.core.errors import UserError
from barequill.core.reading import shapes
from barequill.core.sheet.stages import draw_sheet
from tools.common import demo_file, part_of
from tools.plates import Plate, of, on
from tools.sheets import done, id_of
from tools.tidying import dimensioned, signed
from tools.tidying import done as tidied


def test_places_are_spaced_with_the_least_moves() -> None:
    # by hand: two that coincide part evenly; a third in their way is taken along; what is free stays
    assert spaced([10.0, 10.0], 4.0, 0.0) == [8.0, 12.0]
    assert spaced([10.0, 10.0, 13.0], 4.0, 0.0) == [7.0, 11.0, 15.0]
    assert spaced([10.0, 40.0], 4.0, 0.0) == [10.0, 40.0]
    assert spaced([1.0, 2.0], 4.0, 3.0) == [3.0, 7.0]


def test_figures_of_running_sizes_stand_apart() -> None:
    holes = [shapes.cylinder((x, 20, -1), (0, 0, 1), 1, 12) for x in (20, 23, 25.5, 70)]
    p = of(shapes.cut(shapes.box((0, 0, 0), (90, 40, 10)), *holes))
    p.high = 10
    box = p.placed_view("top").box
    ends = [PickJson(ref=p.edge(0, 20, 10), x=0, y=0)]
    act = StateRow(
        view=id_of(p.drawing, "top"),
        picks=ends + [PickJson(ref=p.circle(x, 20), at="centre", x=0, y=0) for x in (20, 23, 25.5, 70)],
        pointer=(box.x0 + 40, box.y1 + 12),
        form="running",
    )
    heap = done(p.projections, p.drawing, act)
    assert clashes(p.ink(heap))["text on text"] > 0
    clean = done(p.projections, heap, Tidy(sheet="e1"))
    assert clashes(p.ink(clean))["text on text"] == clashes(p.ink(clean))["text on line"] == 0
    jogs = [d.extensions[1].jog if d.extensions else 0.0 for d in clean.front_sheet.annotations]
    assert jogs[0] < 0 < jogs[2] and jogs[3] == 0.0, "the outer two of three give way, the far one stays"
    # the lines themselves tell the truth still: each arrow is where its hole is
    for d, x in zip(clean.front_sheet.annotations, (20, 23, 25.5, 70), strict=True):
        element = next(e for e in p.ink(clean).elements if e.id == d.id)
        assert element.record.points["line"][0] + element.at[0] - box.x0 == pytest.approx(x)


def test_first_rows_of_views_in_line_stand_in_line() -> None:
    p = of(
        shapes.fuse(shapes.box((0, 0, 0), (60, 30, 20)), shapes.box((60, 12, 0), (6, 6, 20))), views=("front", "left")
    )
    p.high = 20
    front, left = (p.placed_view(k) for k in ("front", "left"))
    heap = []
    for k, (look, edge) in enumerate((("front", p.edge(30, 0, 20)), ("left", p.edge(0, 15, 20)))):
        place = Place(side=-1, offset=14.0 + 9 * k)
        heap.append(Dimension(id=f"h{k}", on=id_of(p.drawing, look), measure="length", anchors=[on(edge)], place=place))
    messy = apply(p.drawing, Annotate(sheet="e1", annotations=heap))
    clean = done(p.projections, messy, Tidy(sheet="e1"))
    levels = [
        placed_view.box.y0 - d.place.offset
        for d, placed_view in zip(clean.front_sheet.annotations, (front, left), strict=True)
    ]
    assert levels[0] == pytest.approx(levels[1], abs=0.011)


def test_views_are_spread_for_their_sizes_where_that_is_asked() -> None:
    p = Plate(5)
    top, front = id_of(p.drawing, "top"), id_of(p.drawing, "front")
    edge = p.edge(p.long / 2, 0, p.high)
    gap = p.placed_view("front").box.y0 - p.placed_view("top").box.y1
    rows = int(gap / 7) + 3
    heap = [
        Dimension(
            id=f"h{k}",
            on=v,
            measure="length",
            anchors=[on(edge)],
            place=Place(side=side, offset=10.0 + 7 * k),
            pinned=True,
        )
        for v, side in ((front, -1),)
        for k in range(rows)
    ]
    crowded = apply(p.drawing, Annotate(sheet="e1", annotations=heap))
    with pytest.raises(UserError, match="Nothing"):
        done(p.projections, crowded, Tidy(sheet="e1"))
    spread = done(p.projections, crowded, Tidy(sheet="e1", spread=True))

    def over(drawing) -> int:
        return len(over_others(p.ink(drawing), p.projections.placed_views(drawing, drawing.front_sheet)))

    # by hand: of rows 10 and each 7 further out, those whose figures or arrows are over the top view
    gone = sum(1 for k in range(rows) if 10 + 7 * k + 1 > gap)
    assert over(crowded) == gone >= 2 and over(spread) == 0
    free = apply(p.drawing, Annotate(sheet="e1", annotations=[a.model_copy(update={"pinned": False}) for a in heap]))
    assert over(done(p.projections, free, Tidy(sheet="e1"))) == 0, "they go to the other side"

    def boxes(drawing) -> dict[str, np.ndarray]:
        found: dict[str, list] = {}
        for e in p.ink(drawing).elements:
            box = box_of(e.marks)
            if e.group in (top, front) and box is not None:
                found.setdefault(e.group, []).append(np.array([box.x0, box.y0, box.x1, box.y1]) + [*e.at, *e.at])
        return {k: np.array([*np.min(v, axis=0)[:2], *np.max(v, axis=0)[2:]]) for k, v in found.items()}

    def overlaps(drawing) -> bool:
        return any(
            (a[:2] < b[2:]).all() and (b[:2] < a[2:]).all()
            for a, b in itertools.combinations(boxes(drawing).values(), 2)
        )

    assert overlaps(crowded) and not overlaps(spread)
    upper, lower = (next(v for v in spread.front_sheet.views if v.id == k) for k in (front, top))
    assert upper.place[0] == pytest.approx(lower.place[0]), "they stay in line"
    assert all(b[0] > 10 and b[1] > 10 for b in boxes(spread).values())


def test_no_stretch_of_a_running_line_is_drawn_twice() -> None:
    holes = [shapes.cylinder((x, 20, -1), (0, 0, 1), 1, 12) for x in (20, 45, 70)]
    p = of(shapes.cut(shapes.box((0, 0, 0), (90, 40, 10)), *holes))
    p.high = 10
    box = p.placed_view("top").box
    picks = [PickJson(ref=p.circle(x, 20), at="centre", x=0, y=0) for x in (45, 20, 70)]
    picks += [PickJson(ref=p.edge(90, 20, 10), x=0, y=0)]
    act = StateRow(view=id_of(p.drawing, "top"), picks=picks, pointer=(box.x0 + 40, box.y1 + 12), form="running")
    drawing = done(p.projections, p.drawing, act)
    stretches = sorted(
        tuple(np.round(np.sort(m.curve.poles[:, 0]) + e.at[0] - box.x0, 3))
        for e in p.ink(drawing).elements
        if e.kind == "dimension"
        for m in e.marks
        if isinstance(m, Stroke) and m.curve.kind == "line" and np.ptp(m.curve.poles[:, 1]) < 1e-9
    )
    # the circle at the origin is 1.5 in radius
    assert stretches == [(20.0, 43.5), (46.5, 70.0), (70.0, 90.0)]


@pytest.mark.parametrize("stem", ["round-gear-cover", "spindle-pedestal"])
def test_signs_are_tidied_with_the_sizes_and_what_is_stacked_goes_along(stem: str) -> None:
    """Fifteen signs pulled this way and that on top of the sizes, and frames under four of them."""
    drawing, tools = dimensioned(part_of(demo_file(stem)), 0)
    drawing = signed(drawing, tools, part_of(demo_file(stem)), 0)
    before = clashes(draw_sheet(drawing, drawing.front_sheet, tools.projections))
    tidy = tidied(drawing, tools, Tidy(sheet=drawing.front_sheet.id))
    after = clashes(draw_sheet(tidy, tidy.front_sheet, tools.projections))
    assert before["text on line"] > 20 and before["text on text"] > 0
    assert not after["text on text"] and after["arrow on arrow"] <= 1 and after["text on line"] <= 1
    kept = [a for a in tidy.front_sheet.annotations if a.kind == "tolerance_frame" and a.foot is None]
    assert [a.on for a in kept] == [
        a.on for a in drawing.front_sheet.annotations if a.kind == "tolerance_frame" and a.foot is None
    ]


def test_a_texture_that_sits_on_a_line_slides_along_it_and_is_led_where_that_does_not_do() -> None:
    # walls on a plate leave 18 mm and 50 mm of it beside them: a sign is 14 mm wide, most of it to the right of where it sits
    walls = [shapes.box((x, 0, 10), (12, 40, 30)) for x in (18, 80)]
    p = of(shapes.fuse(shapes.box((0, 0, 0), (100, 40, 10)), *walls))
    p.high = 10
    front, box = id_of(p.drawing, "front"), p.placed_view("front").box

    def tried(x: float) -> SurfaceTexture:
        """Where the sign ends that sits at so much from the left."""
        edge, spot = p.edge(9 if x < 18 else 55, 0, 10), (box.x0 + x, box.y0 + 10)
        pulled = {"view": front, "ref": edge, "at": spot, "pointer": spot}
        seated = done(p.projections, p.drawing, StateTexture(**pulled, text="Ra 3.2"))
        assert clashes(p.ink(seated))["text on line"]
        clean = done(p.projections, seated, Tidy(sheet="e1"))
        assert not clashes(p.ink(clean))["text on line"]
        return clean.front_sheet.annotations[-1]

    assert not tried(9).seated, "no room along the line: it is led away"
    slid = tried(77)
    assert slid.seated and 30 < 30 + 50 * slid.foot.spot[0] < 70, "there is: it stays on the line"


def test_a_figure_so_short_that_no_shift_is_near_enough_is_tidied_too() -> None:
    # steps of 1 mm: three lengths of a figure of one digit are less than the least shift that is tried
    p = of(
        shapes.prism(
            [(0, 0, 0), (3, 0, 0), (3, 0, 1), (2, 0, 1), (2, 0, 2), (1, 0, 2), (1, 0, 3), (0, 0, 3)], (0, 20, 0)
        )
    )
    front, box = id_of(p.drawing, "front"), p.placed_view("front").box
    drawing = p.drawing
    for x in (0.5, 1.5, 2.5):
        pick = PickJson(ref=p.edge(x, 0, 3 - int(x)), x=box.x0 + x, y=box.y0 + 3 - int(x))
        drawing = done(
            p.projections, drawing, PullDimension(view=front, picks=[pick], pointer=(box.x0 + x, box.y1 + 9))
        )
    assert [a.measure for a in drawing.front_sheet.annotations] == ["length"] * 3
    drawing = done(p.projections, drawing, StateNote(sheet="e1", pointer=(box.x0 - 9, box.y1 + 15), text="Edges bare"))
    clean = done(p.projections, drawing, Tidy(sheet="e1"))
    assert not clashes(p.ink(clean))["text on text"]
