"""Dimensions of every kind on parts of known figures: their values, what they say, and how they stand in sets."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest

from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.pull_dimension import PickJson, PullDimension
from barequill.core.errors import Unmeasurable, UserError
from barequill.core.measuring.inference import SIDES, WISHES
from barequill.core.measuring.measuring import measure
from barequill.core.measuring.pointing import lines_of, snaps_of
from barequill.core.reading import shapes
from tools.made_parts import bodies, ring
from tools.plates import Plate, on, picks
from tools.plates import plate as plate
from tools.sheets import done, drawing_of, id_of, projections_of


def cases(p: Plate) -> list[tuple[float, float]]:
    """Sizes as they are measured, and as the plate was built."""
    L, W, H, R, C = p.long, p.wide, p.high, p.corner, p.chamfer
    (x, y), (u, v) = p.at, p.over
    top, back, left = p.edge(L / 2, W, H), p.edge(L / 2, W, 0), p.edge(0, W / 2, H)
    right, arc = p.edge(L, W / 2, 0), p.edge(R * (1 - 2**-0.5), R * (1 - 2**-0.5), H, kind="round")
    slant, front = p.edge(L - C / 2, C / 2, H), p.edge(L / 2, 0, H)
    one, two = p.circle(x, y), p.circle(u, v)
    slope = p.edge(L - p.run / 2, W, H + p.rise / 2)
    low, high = p.edge(L / 2, 0, 0), p.edge(L / 2, 0, H)
    cone = next(f.ref for f in p.part.faces if f.surface.kind == "cone")
    half = math.atan(p.rise / 5 / p.rise)
    found = [
        (p.size("top", "length", on(back)), L),
        (p.size("top", "distance", on(left), on(right)), L),
        (p.size("top", "distance", on(front), on(top)), W),
        (p.size("top", "radius", on(arc, "round")), R),
        (p.size("top", "diameter", on(arc, "round")), 2 * R),
        (p.size("top", "arc", on(arc, "round")), math.pi * R / 2),
        (p.size("top", "chord", on(arc, "round")), R * 2**0.5),
        (p.size("top", "chamfer", on(slant), direction="horizontal"), C),
        (p.size("top", "chamfer", on(slant), direction="vertical"), C),
        (p.size("top", "length", on(slant), direction="aligned"), C * 2**0.5),
        (p.size("top", "angle", on(slant), on(front), place={"angle": 170}), 135.0),
        (p.size("top", "angle", on(slant), place={"angle": 20}), 45.0),
        (p.size("top", "angle", on(slant), place={"angle": 20}, reflex=True), 315.0),
        (p.size("top", "slope", on(slant)), 1.0),
        (p.size("top", "diameter", on(one, "round")), 2 * p.hole),
        (p.size("top", "radius", on(two, "round")), p.other),
        (p.size("top", "distance", on(one, "centre"), on(left)), x),
        (p.size("top", "distance", on(one, "centre"), on(two, "centre"), direction="horizontal"), u - x),
        (p.size("top", "distance", on(one, "centre"), on(two, "centre"), direction="vertical"), v - y),
        (p.size("top", "distance", on(one, "centre"), on(two, "centre")), math.hypot(u - x, v - y)),
        (p.size("top", "distance", on(one, "rim", angle=0), on(one, "rim", angle=180)), 2 * p.hole),
        (p.size("top", "distance", on(one, "rim", angle=180), on(left)), x - p.hole),
        (p.size("top", "distance", on(one, "rim", angle=0), on(left)), x + p.hole),
        (p.size("top", "distance", on(left, "cross", other=front), on(right)), L),
        (p.size("top", "distance", on(left, "cross", other=front), on(two, "centre")), math.hypot(u, v)),
        (p.size("front", "distance", on(low), on(high)), H),
        (p.size("front", "slope", on(slope)), p.run / p.rise),
        (p.size("front", "angle", on(slope), place={"angle": 8}), math.degrees(math.atan2(p.rise, p.run))),
        (p.size("front", "taper", on(cone, "outline")), 0.5 / math.tan(half)),
        (p.size("front", "chamfer", on(slope), direction="horizontal"), p.run),
        (p.size("front", "diameter", on(one, "round")), 2 * p.hole),
    ]  # fmt: skip
    for axis in "xy":
        after = done(p.projections, p.drawing, OverallSizes(views=[id_of(p.drawing, "top")], axes=[axis]))
        made = after.front_sheet.annotations[-1]
        found.append((measure(p.placed_view("top").projected, made).value, L if axis == "x" else W))
    return found


def test_more_than_three_hundred_sizes_of_every_kind_are_as_the_parts_were_built() -> None:
    compared = 0
    for seed in range(10):
        for measured, built in cases(Plate(seed)):
            assert measured == pytest.approx(built, abs=1e-6)
            compared += 1
    assert compared >= 300


@pytest.mark.parametrize(
    ("solid", "level", "upright"),
    [
        (lambda: shapes.cylinder((0, 0, 0), (1, 0, 0), 12, 40), 40.0, 24.0),
        (lambda: shapes.cylinder((0, 0, 0), (0, 1, 0), 12, 40), 24.0, 24.0),
        (lambda: shapes.cylinder((0, 0, 0), (0, 0, 1), 12, 40), 24.0, 40.0),
        (lambda: shapes.fuse(shapes.box((-10, -10, 0), (20, 20, 20)), ball(15.0)), 30.0, 35.0),
        (lambda: shapes.rounded(shapes.box((0, 0, 0), (50, 30, 20)), 6, [(0, 0, 10), (50, 0, 10)]), 50.0, 20.0),
        # rings and free forms that bulge beyond all their edges: 2 · (20 + 5) across, 10 high; a dome of revolution
        (lambda: ring(20.0, 5.0), 50.0, 10.0),
        (lambda: shapes.fuse(ring(20.0, 5.0), shapes.box((-3, -3, -2), (6, 6, 4))), 50.0, 10.0),
        (
            lambda: shapes.fuse(shapes.box((0, -5, 0), (10, 10, 10)), shapes.cylinder((10, 0, 5), (1, 0, 0), 3, 8)),
            18.0,
            10.0,
        ),
    ],
)
def test_sizes_over_all_are_those_of_the_part(solid, level: float, upright: float) -> None:
    part = bodies(solid())
    projections = projections_of(part)
    drawing = drawing_of(projections, part, size="A3", centres=False, views=["front"])
    front = id_of(drawing, "front")
    after = done(projections, drawing, OverallSizes(views=[front]))
    projected = projections.placed_views(after, after.front_sheet)[front].projected
    assert [measure(projected, d).value for d in after.front_sheet.annotations] == pytest.approx([level, upright])


def test_each_size_over_all_is_given_once_for_a_sheet() -> None:
    part = bodies(shapes.box((0, 0, 0), (50, 30, 20)))
    projections = projections_of(part)
    drawing = drawing_of(projections, part, size="A3", centres=False, views=["front", "top", "left"])
    views = [v.id for v in drawing.front_sheet.views]
    after = done(projections, drawing, OverallSizes(views=views))
    placed = projections.placed_views(after, after.front_sheet)
    values = sorted(measure(placed[d.on].projected, d).value for d in after.front_sheet.annotations)
    assert values == pytest.approx([20.0, 30.0, 50.0])
    # asked for one view alone, that has its own
    one = done(projections, after, OverallSizes(views=[views[2]]))
    assert sum(a.on == views[2] for a in one.front_sheet.annotations) == 2


def ball(radius: float):
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
    from OCP.gp import gp_Pnt

    return BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 20), radius).Shape()


def test_kinds_say_what_they_are(plate: Plate) -> None:
    p = plate
    arc = p.edge(p.corner * (1 - 2**-0.5), p.corner * (1 - 2**-0.5), p.high, kind="round")
    slant = p.edge(p.long - p.chamfer / 2, p.chamfer / 2, p.high)
    c = f"{p.chamfer:g}"
    p.size("top", "arc", on(arc, "round"))
    assert p.says("top") == f"⌒{round(math.pi * p.corner / 2, 2):g}"
    for form, words in (("angle", f"{c} × 45°"), ("letter", f"C{c}"), ("lengths", f"{c} × {c}")):
        p.size("top", "chamfer", on(slant), chamfer=form)
        assert p.says("top") == words
    p.size("top", "slope", on(slant))
    assert p.says("top") == "⌳ 1:1"
    p.size("front", "taper", on(next(f.ref for f in p.part.faces if f.surface.kind == "cone"), "outline"))
    assert p.says("front") == "⌲ 1:2.5"
    # a wall that has no slope has none to state
    with pytest.raises(Unmeasurable, match="no slope"):
        p.size("top", "slope", on(p.edge(p.long / 2, p.wide, p.high)))
    with pytest.raises(Unmeasurable, match="no cone"):
        p.size("top", "taper", on(slant))
    with pytest.raises(Unmeasurable, match="no arc"):
        p.size("top", "chord", on(p.circle(*p.at), "round"))


def test_the_side_beside_a_rounded_corner_is_no_diameter_but_a_bore_s_sides_are() -> None:
    """Seen from the front, the rounded corner of the plate ends in a line as high as the plate."""
    p = Plate(5)
    front = p.placed_view("front")
    face = next(f for f in p.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - p.corner) < 1e-6)
    pulled = PullDimension(
        view=id_of(p.drawing, "front"),
        picks=[PickJson(ref=face.ref, x=front.box.x0, y=(front.box.y0 + front.box.y1) / 2)],
        pointer=(front.box.x0 - 12.0, front.box.y0 + 5.0),
    )
    after = done(p.projections, p.drawing, pulled)
    made = after.front_sheet.annotations[-1]
    assert made.measure == "length"
    assert measure(front.projected, made).value == pytest.approx(p.high)
    assert lines_of(front, p.drawing)[face.ref].words == f"side, rounded R{p.corner:g}"
    bore = next(f for f in p.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - p.hole) < 1e-6)
    made = p.infer("front", [p.pick("front", (p.at[0] - p.hole, p.at[1], 5.0))], (front.box.x0 - 12.0, front.box.y0))
    assert (made.measure, made.anchors[0].ref) == ("diameter", bore.ref)


def test_sides_of_circles_and_corners_that_were_rounded_away_can_be_caught(plate: Plate) -> None:
    p = plate
    snaps = {(s.word, s.at): s for s in snaps_of(p.placed_view("top"), p.drawing)}
    transform, projected = p.placed_view("top").transform, p.placed_view("top").projected
    dia = f"Ø{2 * p.hole:g}"
    for word, at, way in (("right side", "rim:0", (1, 0)), ("top", "rim:90", (0, 1))):
        found = next(s for (w, a), s in snaps.items() if w == f"{word} of {dia}" and a == at)
        spot = projected.flat(np.array([[p.at[0] + way[0] * p.hole, p.at[1] + way[1] * p.hole, p.high]]))
        assert (found.x, found.y) == pytest.approx(tuple(transform.to_sheet(spot)[0]), abs=0.02)
    corners = [s for (w, _), s in snaps.items() if w == "corner of two edges, extended"]
    expected = [transform.to_sheet(projected.flat(np.array([[x, 0.0, p.high]])))[0] for x in (0.0, p.long)]
    for spot in expected:
        assert min(math.dist((s.x, s.y), spot) for s in corners) < 0.02


@pytest.mark.parametrize("wish", [*WISHES, *SIDES, "", "horizontal"])
def test_what_is_asked_of_any_two_things_is_measured_or_refused_with_the_reason(plate: Plate, wish: str) -> None:
    p, dice = plate, random.Random(len(wish))
    refs = [x.ref for x in (*p.part.faces, *p.part.edges)]
    asked = [dice.sample(refs, n) for n in (1, 2) for _ in range(25)]
    counts = [0, 0]
    for look, some in ((look, some) for look in ("front", "top") for some in asked):
        act = PullDimension(
            view=id_of(p.drawing, look), picks=picks(p, *((r, "") for r in some)), pointer=(70.0, 90.0), wish=wish
        )
        try:
            act.preview(p.drawing, p.acts)
            counts[0] += 1
        except UserError as error:
            assert error.title and error.detail
            counts[1] += 1
    assert counts[1] and (counts[0] or wish in ("taper", "arc length", "chord", "slope", "chamfer"))


@pytest.mark.parametrize("at", ["rim:", "rim:up", "rim:nan", "rim:1e99", "cross:", "cross:E0", "nowhere"])
def test_places_that_are_none_are_refused(plate: Plate, at: str) -> None:
    p = plate
    pair = picks(p, (p.circle(*p.at), at), (p.edge(0, p.wide / 2, p.high), ""))
    act = PullDimension(view=id_of(p.drawing, "top"), picks=pair, pointer=(10.0, 10.0))
    if at == "nowhere":
        # a point that it has not is not a point of it: the circle as a whole is taken
        assert act.plan(p.drawing, p.acts)
        return
    with pytest.raises(UserError):
        act.plan(p.drawing, p.acts)
