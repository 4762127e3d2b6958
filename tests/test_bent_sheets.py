"""Bent sheet: what is one, its bends, and its flat pattern, by hand figures.

The length of a flat pattern is the sum of its flats and of the neutral lines of its bends, angle · (r + K · t).
"""

from __future__ import annotations

import io
import math
from dataclasses import replace

import ezdxf
import numpy as np
import pytest

from barequill.core import Part
from barequill.core.acts.lay_flat import LayFlat, MirrorView, StateBends
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.pull_view import PullView
from barequill.core.acts.take_revision import TakeRevision
from barequill.core.arranging.remarks import remarks_on
from barequill.core.errors import UserError
from barequill.core.features.bent_sheet import Rule, bent_sheet_of, bent_sheets
from barequill.core.features.flat_pattern import flat_pattern_of
from barequill.core.features.holes import holes_of
from barequill.core.features.listing import features_of
from barequill.core.reading import shapes
from barequill.core.reading.shapes import bent
from barequill.core.reading.splitting import split_bodies
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.contours import contours_of
from barequill.core.views.placed_view import ProjectionCache
from barequill.core.views.projecting import take
from barequill.core.views.scene import Scene
from barequill.core.writers.contours import write_contours
from tools.common import demo_file, part_of
from tools.made_parts import bodies
from tools.sheets import DrawnPart, done, drawing_of, id_of, projections_of
from tools.truth import verdict

K = Rule(0.44)
QUARTER = math.pi / 2


def solid(shape) -> Part:
    return bodies(*(s for _, s in split_bodies(shape, "sheet")))


def laid(shape, rule: Rule = K) -> Part:
    return flat_pattern_of(solid(shape), "", rule)


def size(flat: Part) -> list[float]:
    return [round(float(x), 6) for x in flat.high - flat.low]


def length(flats: list[float], turns: list[float], neutral: float) -> float:
    return sum(flats) + sum(math.radians(abs(t)) * neutral for t in turns)


@pytest.mark.parametrize(
    ("what", "flats", "turns"),
    [
        ("angle", [40, 30], [90]),
        ("flat angle", [40, 30], [30]),
        ("sharp angle", [40, 30], [135]),
        ("channel", [25, 60, 25], [90, 90]),
        ("Z", [30, 40, 20], [90, -90]),
        ("hem", [50, 12], [180]),
        ("hat", [15, 20, 40, 20, 15], [-90, 90, 90, -90]),
        ("without a flat between", [30, 0, 30], [60, -60]),
    ],
)
def test_a_strip_is_as_long_in_the_flat_as_its_flats_and_neutral_lines(what, flats, turns) -> None:
    r, t, wide = 3.0, 2.0, 90.0
    if what == "without a flat between":
        part = bodies(bent([30, 1e-3, 30], turns, r, t, wide))
        flats = [30, 1e-3, 30]
    else:
        part = bodies(bent(flats, turns, r, t, wide))
    sheet = bent_sheet_of(part, 0, K)
    assert sheet.thickness == pytest.approx(t) and len(sheet.bends) == len(turns)
    assert sorted(b.angle for b in sheet.bends) == pytest.approx(sorted(map(abs, turns)))
    assert {round(b.radius, 6) for b in sheet.bends} == {r} and {round(b.length, 6) for b in sheet.bends} == {wide}
    ups = [b.up for b in sheet.bends]
    assert max(ups.count(True), ups.count(False)) == max(sum(x > 0 for x in turns), sum(x < 0 for x in turns))
    flat = flat_pattern_of(part, "", K)
    want = length(flats, turns, r + 0.44 * t)
    assert size(flat) == pytest.approx([max(want, wide), min(want, wide), t], abs=1e-5)
    seen = take(flat, Scene("flat", (0, 0, 1), (0, 1, 0)))
    middles = [c for c in seen.curves if c.cls == "smooth"]
    assert len(middles) == len(turns) and all(c.curve.length() == pytest.approx(wide) for c in middles)
    # the first bend's middle: its flat and half of its neutral line from the end
    ends = {round(float(c.curve.poles[0][0 if want > wide else 1]), 4) for c in middles}
    first = flats[0] + math.radians(abs(turns[0])) * (r + 0.44 * t) / 2
    assert any(abs(e - x) < 1e-3 for e in ends for x in (first, want - first))


def test_the_neutral_line_by_din_6935() -> None:
    # by hand: r / t = 1.5: k = 0.65 + 0.5 · log10(1.5) = 0.738046; beyond r = 5 t it lies in the middle
    rule = Rule()
    assert rule.neutral(3.0, 2.0) == pytest.approx(3 + 0.738046 / 2 * 2, abs=1e-5)
    assert rule.neutral(10.0, 2.0) == pytest.approx(11.0, abs=1e-3) and rule.neutral(40.0, 2.0) == 41.0
    assert size(laid(bent([40, 30], [90], 3, 2, 20), rule))[0] == pytest.approx(70 + QUARTER * 3.738046, abs=1e-4)


def test_a_box_of_a_floor_and_four_sides_open_at_its_corners() -> None:
    # a floor of 60 × 40 within its bends, sides of 20 on all four: two channels that cross, without what is not on the floor of the other
    r, t = 2.0, 1.5
    n, foot = r + 0.44 * t, r + t

    def tray(floor: float, wide: float):
        """A channel that stands open upward, its floor from 0 to ``floor`` along x at z = 0."""
        up = shapes.moved(bent([20, floor, 20], [90, 90], r, t, wide), (0, 0, 0), (0, 1, 0), 90)
        low = solid(up).low
        return shapes.moved(up, (-float(low[0]) - foot, 0, -float(low[2])))

    along = tray(60, 40)
    across = shapes.moved(tray(40, 60), (60, 0, 0), (0, 0, 1), 90)
    flat = laid(shapes.fuse(along, across))
    assert size(flat) == pytest.approx([60 + 40 + 4 * QUARTER * n / 2, 40 + 40 + 4 * QUARTER * n / 2, t], abs=1e-4)
    top = sum(f.area for f in flat.faces if f.surface.kind == "plane" and f.centre[2] > t - 1e-6)
    assert top == pytest.approx(60 * 40 + 2 * (60 + 40) * (20 + QUARTER * n), rel=1e-6)


def test_holes_lie_where_they_are_to_be_cut() -> None:
    # an angle, 40 along x and 30 upright: a hole in either leg, one across the bend, one sunk
    r, t = 3.0, 2.0
    shape = bent([40, 30], [90], r, t, 50)
    level = shapes.cylinder((25, 12, -5), (0, 0, 1), 4, 20)
    upright = shapes.cylinder((30, 30, 5 + 18), (1, 0, 0), 3, 40)
    sunk = shapes.cone((12, 36, 0.8), (0, 0, 1), 2.5, 3.7, 1.2)
    small = shapes.cylinder((12, 36, -1), (0, 0, 1), 2.5, 10)
    flat = laid(shapes.cut(shape, level, upright, small, sunk))
    assert size(flat) == pytest.approx([70 + QUARTER * (r + 0.44 * t), 50, t], abs=1e-5)
    found = {round(h.bore.diameter, 4): h for h in holes_of(flat)}
    assert sorted(found) == [5.0, 6.0, 8.0] and found[5.0].countersink is not None
    # hand: the level one 25 from its end; the upright one 18 above the end of the bend, 12 from the end of that leg
    ends = [sorted(round(v, 4) for v in (h.mouth[0], flat.high[0] - h.mouth[0])) for h in (found[8.0], found[6.0])]
    assert ends[0][0] == pytest.approx(25) and ends[1][0] == pytest.approx(12)
    across = [{round(v, 4) for v in (float(h.mouth[1]), 50 - float(h.mouth[1]))} for h in (found[8.0], found[6.0])]
    assert across == [{12.0, 38.0}, {30.0, 20.0}]
    # a hole bored square to the middle of the bend comes out longer across it than along it, by the neutral line and its sides
    slot = shapes.moved(shapes.cylinder((0, 25, 0), (0, 0, 1), 1.5, 60), (40, 0, t + r), (0, 1, 0), 135, (0, 25, 0))
    bored = laid(shapes.cut(shape, slot))
    assert size(bored)[0] == pytest.approx(70 + QUARTER * (r + 0.44 * t), abs=1e-5)
    rim = [
        e for e in bored.edges if e.curve.kind == "nurbs" and abs(float(e.points[:, 2].mean()) - bored.high[2]) < 1e-6
    ]
    points = np.concatenate([e.points for e in rim])
    wide = 2 * math.asin(1.5 / r) * (r + 0.44 * t)
    assert sorted(np.ptp(points[:, :2], axis=0)) == pytest.approx(sorted([3.0, wide]), rel=2e-3)


def test_a_rolled_sheet_is_as_long_as_its_neutral_line() -> None:
    # a tube of 20 within and 1 thick, open by 30°
    ring = shapes.cut(shapes.cylinder((0, 0, 0), (0, 0, 1), 21, 80), shapes.cylinder((0, 0, -1), (0, 0, 1), 20, 90))
    gap = shapes.prism([(0, 0, -1), (40, 0, -1), (40 * math.cos(math.pi / 6), 20, -1)], (0, 0, 90))
    flat = laid(shapes.cut(ring, gap))
    assert size(flat) == pytest.approx([math.radians(330) * 20.44, 80, 1], abs=1e-4)
    with pytest.raises(UserError, match="closed tube"):
        laid(ring)


def test_what_is_no_sheet_is_told_why_and_bends_are_no_fillets() -> None:
    part = bodies(bent([40, 30], [90], 3, 2, 50))
    assert [f.kind for f in features_of(part)].count("bend") == 1
    assert not [f for f in features_of(part) if f.kind in ("fillet", "round")]
    for shape, why in (
        (shapes.box((0, 0, 0), (20, 20, 20)), "thick"),
        (shapes.ball((0, 0, 0), 10), "flat and round"),
        (shapes.fuse(bent([40, 30], [90], 3, 2, 50), shapes.box((10, 10, 0), (12, 12, 9))), "."),
    ):
        with pytest.raises(UserError, match=why):
            bent_sheet_of(solid(shape), 0, K)
    for stem in ("spindle-pedestal", "round-gear-cover", "long-pinion-spindle"):
        assert not bent_sheets(part_of(demo_file(stem)))


def test_a_flat_pattern_is_a_view_like_any_other_and_is_cut_out_with_its_bends() -> None:
    # an angle with a hole in each leg; the neutral line of its bend: 90° · (3 + 0.44 · 2)
    shape = shapes.cut(bent([40, 30], [90], 3, 2, 50), shapes.cylinder((25, 12, -5), (0, 0, 1), 4, 20))
    part = replace(solid(shape), key="sheet")
    p = DrawnPart(part, views=["front", "top"], scale=1.0)
    front = id_of(p.drawing, "front")
    laid_out = done(p.projections, p.drawing, LayFlat(view=front, k=0.44, to=(250, 150)))
    view = laid_out.front_sheet.views[-1]
    placed = p.projections.placed_views(laid_out, laid_out.front_sheet)[view.id]
    long = 70 + QUARTER * 3.88
    assert (placed.box.x1 - placed.box.x0, placed.box.y1 - placed.box.y0) == pytest.approx((long, 50), abs=1e-3)
    stated = done(p.projections, laid_out, OverallSizes(views=[view.id], axes=["x"]))
    ink = draw_sheet(stated, stated.front_sheet, p.projections)
    assert [e.words for e in ink.elements if e.kind == "dimension"] == [f"{long:.2f}"]
    document = ezdxf.read(io.StringIO(write_contours(contours_of(placed.projected)).decode()))
    cut, bends = (document.modelspace().query(f'*[layer=="{n}"]') for n in ("CUT", "BEND"))
    assert sorted(e.dxftype() for e in cut) == ["CIRCLE", "LWPOLYLINE"]
    (line,) = bends
    # along the middle of the bend: 40 and half of the neutral line from one end, or 30 and half of it from the other
    at = abs(line.dxf.start.x) - 0.0
    assert line.dxf.start.x == line.dxf.end.x and abs(line.dxf.start.y - line.dxf.end.y) == pytest.approx(50)
    assert at == pytest.approx(abs(long / 2 - 40 - QUARTER * 3.88 / 2), abs=1e-6)
    # of a part that is bent no more it shows the part as it is, and says so
    p.part = replace(bodies(shapes.box((0, 0, 0), (30, 20, 10))), key="sheet")
    later = projections_of(p.part)
    now = later.placed_views(laid_out, laid_out.front_sheet)
    said = remarks_on(draw_sheet(laid_out, laid_out.front_sheet, later), now)
    assert any(r.on == view.id and "no bent sheet" in r.words for r in said)
    with pytest.raises(UserError, match="no bent sheet"):
        block = DrawnPart(replace(bodies(shapes.box((0, 0, 0), (30, 20, 10))), key="block"), views=["front"])
        done(block.projections, block.drawing, LayFlat(view=id_of(block.drawing, "front"), to=(200, 200)))


def test_a_flange_that_is_narrower_than_its_base_with_notches_beside_its_bend() -> None:
    # a base of 40 × 40, a flange of 20 upright by 30 in its middle, notches of 2 × 6 on both sides of the bend
    base = shapes.fuse(shapes.box((0, 0, 0), (40, 40, 2)), shapes.moved(bent([10, 30], [90], 3, 2, 20), (30, 10, 0)))
    notches = [shapes.box((34, y, -1), (7, 2, 4)) for y in (8, 30)]
    flat = laid(shapes.cut(base, *notches))
    long = QUARTER * 3.88
    assert size(flat) == pytest.approx([40 + long + 30, 40, 2], abs=1e-5)
    rim = [c for c in take(flat, Scene("flat", (0, 0, 1), (0, 1, 0))).curves if c.visible and c.cls != "smooth"]
    # three sides of the base, what is left of the fourth, around the flange, and in and out of the notches
    assert sum(c.curve.length() for c in rim) == pytest.approx(3 * 40 + (40 - 20) + 2 * (30 + long) + 20 + 4 * 6)


def test_a_flat_pattern_is_seen_as_a_blank_that_was_never_bent() -> None:
    """Against rays at a plate that the kernel makes as long as the strip is by hand, with its holes where they are by hand."""
    shape = shapes.cut(
        bent([40, 30], [90], 3, 2, 50),
        shapes.cylinder((25, 12, -5), (0, 0, 1), 4, 20),
        shapes.cylinder((30, 30, 5 + 18), (1, 0, 0), 3, 40),
    )
    flat, long = laid(shape), 70 + QUARTER * 3.88
    holes = {round(h.bore.diameter, 4): h.mouth for h in holes_of(flat)}
    blank = shapes.cut(
        shapes.box((0, 0, 0), (long, 50, 2)),
        *(shapes.cylinder((float(x), float(y), -1), (0, 0, 1), d / 2, 4) for d, (x, y, _) in holes.items()),
    )
    from_end = {d: min(abs(float(p[0]) - e) for e in (0.0, long)) for d, p in holes.items()}
    assert from_end == pytest.approx({8.0: 25, 6.0: 12})
    for name, shares in verdict(
        [s for _, s in split_bodies(blank, "blank")], flat, ["front", "top", "iso", "aslant"]
    ).items():
        assert min(shares.all()) >= 0.995, f"{name}: {shares}"


def test_what_hangs_on_a_flat_pattern_follows_another_revision_and_its_mirrored_view_lies_flat_too() -> None:
    def angle(leg: float, key: str) -> Part:
        shape = shapes.cut(bent([40, leg], [90], 3, 2, 50), shapes.cylinder((25, 12, -5), (0, 0, 1), 4, 20))
        return replace(solid(shape), key=key)

    parts = {key: angle(leg, key) for key, leg in (("a" * 24, 30), ("b" * 24, 45))}
    projections = ProjectionCache(parts.__getitem__)
    drawing = drawing_of(projections, parts["a" * 24], views=["front"], size="A3", scale=1.0)
    drawing = done(projections, drawing, LayFlat(view=id_of(drawing, "front"), k=0.44, to=(250, 200)))
    flat = drawing.front_sheet.views[-1].id
    for act in (
        StateBends(view=flat),
        OverallSizes(views=[flat], axes=["x"]),
        MirrorView(view=flat, to=(250, 80)),
        PullView(view=flat, side="below", to=(250, 130)),
    ):
        drawing = done(projections, drawing, act)
    *_, mirrored, below = drawing.front_sheet.views
    assert projections.scenes(drawing, drawing.front_sheet)[mirrored.id].part == "a" * 24 + "-flat-k04400-mirrored"
    box = projections.placed_views(drawing, drawing.front_sheet)[below.id].box
    assert (box.x1 - box.x0, box.y1 - box.y0) == pytest.approx((70 + QUARTER * 3.88, 2), abs=1e-3)
    later = done(projections, drawing, TakeRevision(part="a" * 24, by="b" * 24))
    ink = draw_sheet(later, later.front_sheet, projections)
    said = {e.words for e in ink.elements if e.kind in ("dimension", "text_note") and not e.loose}
    assert said == {"UP 90° R3", f"{85 + QUARTER * 3.88:.2f}"}
