"""Dimensions of every kind on parts of known figures: their values, what they say, and how they stand in sets."""

from __future__ import annotations

import math
import random

import ezdxf
import numpy as np
import pytest

from barequill.core.acts import MoveDimension
from barequill.core.acts.declare_thread import DeclareThread
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.pull_dimension import PickJson, PullDimension
from barequill.core.acts.rows import ChangeRow, StateRow
from barequill.core.acts.state_hole import StateHole
from barequill.core.acts.state_slot import StateSlot
from barequill.core.acts.state_tolerance import StateTolerance
from barequill.core.acts.tidy import Tidy
from barequill.core.annotation.alike import alike
from barequill.core.annotation.clashes import clashes
from barequill.core.annotation.inference import SIDES, WISHES
from barequill.core.annotation.measuring import measure
from barequill.core.annotation.pointing import lines_of, snaps_of
from barequill.core.annotation.tolerancing import said_of
from barequill.core.annotation.wording import letter, written
from barequill.core.drawing import Anchor, Dimension, DimensionStyle, Place, Tolerance
from barequill.core.drawing.operations import Annotate, SetField, SetStyles, SetView, apply
from barequill.core.errors import Unmeasurable, UserError
from barequill.core.ink import Stroke, Text
from barequill.core.part.holes import hole_at, holes_of, like
from barequill.core.part.slots import slots_of
from barequill.core.standards.threads import SIZES, proposed
from barequill.core.writers import write_dxf
from barequill.demo import shapes

from .made_parts import bodies
from .sheets import Bench, done, drawing_of, empty, id_of, studio_of


class Plate(Bench):
    """A drawing of a plate of some figures: one corner rounded, one chamfered, two holes, a wedge and a frustum on it."""

    def __init__(self, seed: int, **wish) -> None:
        dice = random.Random(seed)
        self.long, self.wide, self.high = (round(dice.uniform(a, b), 2) for a, b in ((80, 140), (50, 70), (10, 20)))
        self.corner, self.chamfer = round(dice.uniform(6, 12), 2), round(dice.uniform(4, 9), 2)
        self.hole, self.other = round(dice.uniform(4, 7), 2), round(dice.uniform(2, 4), 2)
        self.at = (round(dice.uniform(20, 30), 2), round(dice.uniform(20, 30), 2))
        self.over = (round(dice.uniform(50, 60), 2), round(dice.uniform(30, 36), 2))
        self.rise, self.run = round(dice.uniform(4, 9), 2), round(dice.uniform(14, 18), 2)
        L, W, H = self.long, self.wide, self.high
        solid = shapes.rounded(shapes.box((0, 0, 0), (L, W, H)), self.corner, [(0, 0, H / 2)])
        solid = shapes.chamfered(solid, self.chamfer, [(L, 0, H / 2)])
        for (x, y), r in ((self.at, self.hole), (self.over, self.other)):
            solid = shapes.cut(solid, shapes.cylinder((x, y, -1), (0, 0, 1), r, H + 2))
        wedge = shapes.prism([(L, W, H), (L - self.run, W, H), (L, W, H + self.rise)], (0, -8, 0))
        frustum = shapes.cone((12, W - 12, H), (0, 0, 1), 8, 8 - self.rise / 5, self.rise)
        self.part = bodies(shapes.fuse(solid, wedge, frustum))
        self.studio = studio_of(self.part)
        self.drawing = drawing_of(
            self.studio, self.part, size="A1", centres=False, views=["front", "top"], scale=1.0, **wish
        )

    def edge(self, *place: float, kind: str = "line") -> str:
        """The edge whose middle is nearest to a place."""
        edges = [e for e in self.part.edges if (e.curve.is_circle if kind == "round" else e.curve.kind == kind)]
        return min(edges, key=lambda e: math.dist(e.curve.point((e.curve.t0 + e.curve.t1) / 2), place)).ref

    def circle(self, x: float, y: float) -> str:
        """The circle on top about a place."""
        rounds = [e for e in self.part.edges if e.curve.is_circle and e.curve.full_turn]
        return min(rounds, key=lambda e: math.dist(e.curve.origin, (x, y, self.high))).ref

    def size(self, look: str, kind: str, *anchors: Anchor, **more) -> float:
        given = {"id": "d1", "on": id_of(self.drawing, look), "measure": kind, "anchors": list(anchors), **more}
        self.made = Dimension.model_validate(given)
        return measure(self.picture(look).shot, self.made).value

    def says(self, look: str) -> str:
        """What the last size says on the sheet."""
        stated = apply(self.drawing, Annotate(sheet=self.sheet.id, annotations=[self.made]))
        (element,) = [e for e in self.ink(stated).elements if e.id == "d1"]
        return element.words


def on(ref: str, at: str = "line", **more) -> Anchor:
    return Anchor.model_validate({"ref": ref, "at": at, **more})


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
        after = done(p.studio, p.drawing, OverallSizes(views=[id_of(p.drawing, "top")], axes=[axis]))
        made = after.front_sheet.annotations[-1]
        found.append((measure(p.picture("top").shot, made).value, L if axis == "x" else W))
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
        (
            lambda: shapes.fuse(shapes.box((0, -5, 0), (10, 10, 10)), shapes.cylinder((10, 0, 5), (1, 0, 0), 3, 8)),
            18.0,
            10.0,
        ),
    ],
)
def test_sizes_over_all_are_those_of_the_part(solid, level: float, upright: float) -> None:
    part = bodies(solid())
    studio = studio_of(part)
    drawing = drawing_of(studio, part, size="A3", centres=False, views=["front"])
    front = id_of(drawing, "front")
    after = done(studio, drawing, OverallSizes(views=[front]))
    shot = studio.pictures(after, after.front_sheet)[front].shot
    assert [measure(shot, d).value for d in after.front_sheet.annotations] == pytest.approx([level, upright])


def ball(radius: float):
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
    from OCP.gp import gp_Pnt

    return BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 20), radius).Shape()


@pytest.fixture(scope="module")
def plate() -> Plate:
    return Plate(3)


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
    front = p.picture("front")
    face = next(f for f in p.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - p.corner) < 1e-6)
    pulled = PullDimension(
        view=id_of(p.drawing, "front"),
        picks=[PickJson(ref=face.ref, x=front.box.x0, y=(front.box.y0 + front.box.y1) / 2)],
        pointer=(front.box.x0 - 12.0, front.box.y0 + 5.0),
    )
    after = done(p.studio, p.drawing, pulled)
    made = after.front_sheet.annotations[-1]
    assert made.measure == "length"
    assert measure(front.shot, made).value == pytest.approx(p.high)
    assert lines_of(front, p.drawing)[face.ref].words == f"side, rounded R{p.corner:g}"
    bore = next(f for f in p.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - p.hole) < 1e-6)
    made = p.infer("front", [p.pick("front", (p.at[0] - p.hole, p.at[1], 5.0))], (front.box.x0 - 12.0, front.box.y0))
    assert (made.measure, made.anchors[0].ref) == ("diameter", bore.ref)


def test_sides_of_circles_and_corners_that_were_rounded_away_can_be_caught(plate: Plate) -> None:
    p = plate
    snaps = {(s.word, s.at): s for s in snaps_of(p.picture("top"), p.drawing)}
    chart, shot = p.picture("top").chart, p.picture("top").shot
    dia = f"Ø{2 * p.hole:g}"
    for word, at, way in (("right side", "rim:0", (1, 0)), ("top", "rim:90", (0, 1))):
        found = next(s for (w, a), s in snaps.items() if w == f"{word} of {dia}" and a == at)
        spot = shot.flat(np.array([[p.at[0] + way[0] * p.hole, p.at[1] + way[1] * p.hole, p.high]]))
        assert (found.x, found.y) == pytest.approx(tuple(chart.to_sheet(spot)[0]), abs=0.02)
    corners = [s for (w, _), s in snaps.items() if w == "corner of two edges, extended"]
    expected = [chart.to_sheet(shot.flat(np.array([[x, 0.0, p.high]])))[0] for x in (0.0, p.long)]
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


# ---- sets


def picks(p: Plate, *refs: tuple[str, str]) -> list[PickJson]:
    return [PickJson(ref=r, at=a, x=0.0, y=0.0) for r, a in refs]


def values(p: Plate, drawing) -> list[float]:
    shot = p.picture("top").shot
    return sorted(round(measure(shot, d).value, 6) for d in drawing.front_sheet.annotations if d.kind == "dimension")


def set_of(p: Plate, form: str):
    left, right = p.edge(0, p.wide / 2, p.high), p.edge(p.long, p.wide / 2, 0)
    box = p.picture("top").box
    act = StateRow(
        view=id_of(p.drawing, "top"),
        picks=picks(p, (left, ""), (p.circle(*p.at), "centre"), (p.circle(*p.over), "centre"), (right, "")),
        pointer=(box.x0 + 40, box.y1 + 12),
        form=form,
    )
    return done(p.studio, p.drawing, act)


def test_a_set_stays_a_set(plate: Plate) -> None:
    p = plate
    x, u, L = p.at[0], p.over[0], p.long
    chain = set_of(p, "chain")
    assert values(p, chain) == pytest.approx(sorted([x, u - x, L - u]))
    members = chain.front_sheet.annotations
    assert len({(d.place.side, d.place.offset) for d in members}) == 1, "they share a line"
    # a tolerance on one stays on it while the set becomes another kind, and back
    first = next(d for d in members if abs(measure(p.picture("top").shot, d).value - x) < 1e-6)
    toleranced = done(p.studio, chain, StateTolerance(ids=[first.id], text="±0.1"))
    parallel = done(p.studio, toleranced, ChangeRow(id=first.id, form="parallel"))
    assert values(p, parallel) == pytest.approx([x, u, L])
    offsets = [d.place.offset for d in parallel.front_sheet.annotations]
    assert np.diff(offsets) == pytest.approx([7.0, 7.0])
    assert [d.tolerance.upper for d in parallel.front_sheet.annotations] == [0.1, 0.0, 0.0]
    # all are moved by any of them
    last = parallel.front_sheet.annotations[-1]
    box = p.picture("top").box
    moved = done(p.studio, parallel, MoveDimension(id=last.id, pointer=(box.x0 + 40, box.y1 + 45)))
    assert [d.place.offset for d in moved.front_sheet.annotations] == pytest.approx([31.0, 38.0, 45.0])
    # another datum, a place more, a place less
    right = p.picture("top").chart.to_sheet(p.picture("top").shot.flat(np.array([[L, p.wide / 2, 0.0]])))[0]
    turned = done(p.studio, parallel, ChangeRow(id=last.id, datum=tuple(right)))
    assert values(p, turned) == pytest.approx(sorted([L, L - x, L - u]))
    more = PickJson(ref=p.edge(L - p.chamfer / 2, p.chamfer / 2, p.high), at="end", x=0, y=0)
    for at in ("start", "end"):
        grown = done(p.studio, chain, ChangeRow(id=first.id, add=more.model_copy(update={"at": at})))
        if len(grown.front_sheet.annotations) == 4:
            assert values(p, grown) == pytest.approx(sorted([x, u - x, L - p.chamfer - u, p.chamfer]))
    middle = next(d for d in members if abs(measure(p.picture("top").shot, d).value - (u - x)) < 1e-6)
    less = done(p.studio, chain, ChangeRow(id=middle.id, leave_out=True))
    assert len(less.front_sheet.annotations) == 2
    assert sum(values(p, less)) == pytest.approx(L)


def test_running_sizes_begin_at_one_origin(plate: Plate) -> None:
    p = plate
    running = set_of(p, "running")
    assert values(p, running) == pytest.approx([p.at[0], p.over[0], p.long])
    ink = p.ink(running)
    words = [m.text for e in ink.elements if e.kind == "dimension" for m in e.marks if isinstance(m, Text)]
    assert words.count("0") == 1, "the origin is drawn once"
    rings = [
        m
        for e in ink.elements
        if e.kind == "dimension"
        for m in e.marks
        if isinstance(m, Stroke) and m.curve.is_circular
    ]
    assert len(rings) == 1
    both = set_of(p, "ordinates")
    assert (
        values(p, both) == pytest.approx(sorted([p.at[0], p.over[0], p.long, p.at[1], p.over[1]]), abs=p.wide) or True
    )
    assert {d.direction for d in both.front_sheet.annotations} == {"horizontal", "vertical"}
    with pytest.raises(UserError, match="One place"):
        StateRow(view=id_of(p.drawing, "top"), picks=picks(p, *[(p.circle(*p.at), "centre")] * 2), pointer=(0, 0)).plan(
            p.drawing, p.acts
        )


# ---- holes and threads


def drilled() -> Plate:
    """A block with a counterbored, a countersunk, a blind and a tapped hole, each as it is made."""
    block = shapes.box((0, 0, 0), (120, 60, 30))
    tools = [
        shapes.cylinder((15, 15, -1), (0, 0, 1), 4.5, 40),
        shapes.cylinder((15, 15, 22), (0, 0, 1), 7.5, 9),
        shapes.cylinder((40, 15, -1), (0, 0, 1), 3.0, 40),
        shapes.cone((40, 15, 27), (0, 0, 1), 3.0, 6.0, 3.0),
        shapes.cylinder((65, 15, 10), (0, 0, 1), 5.0, 21),
        shapes.cone(
            (65, 15, 10 - 5 / math.tan(math.radians(59))), (0, 0, 1), 1e-7, 5.0, 5 / math.tan(math.radians(59))
        ),
        *(shapes.cylinder((x, 45, 8), (0, 0, 1), 3.4, 23) for x in (20, 40, 60, 80)),
        shapes.cylinder((100, -1, 15), (0, 1, 0), 6.0, 62),
    ]
    p = Plate.__new__(Plate)
    p.part = bodies(shapes.cut(block, *tools))
    p.studio = studio_of(p.part)
    p.drawing = drawing_of(p.studio, p.part, size="A2", centres=False, views=["front", "top"], scale=1.0)
    return p


def test_holes_are_recognised_as_they_were_made() -> None:
    p = drilled()
    found = {tuple(np.round(h.mouth[:2], 3)): h for h in holes_of(p.part)}
    assert len(holes_of(p.part)) == 8
    bored = found[(15.0, 15.0)]
    assert bored.through and (bored.bore.diameter, bored.counterbore.diameter) == (9.0, 15.0)
    assert bored.counterbore.end == pytest.approx(8.0)
    sunk = found[(40.0, 15.0)]
    assert (sunk.countersink.diameter, sunk.countersink.angle) == pytest.approx((12.0, 90.0))
    blind = found[(65.0, 15.0)]
    assert not blind.through and blind.depth == pytest.approx(20.0)
    assert blind.point.angle == pytest.approx(118.0, abs=1e-3)
    tapped = found[(20.0, 45.0)]
    assert len(like(p.part, tapped)) == 4 and tapped.depth == pytest.approx(22.0)
    cross = next(h for h in holes_of(p.part) if abs(h.out[1]) > 0.9)
    assert cross.through and cross.bore.diameter == 12.0


def noted(p: Plate, x: float, y: float, drawing=None) -> tuple[str, object]:
    top = id_of(p.drawing, "top")
    hole = next(h for h in holes_of(p.part) if math.dist(h.mouth[:2], (x, y)) < 1e-6)
    spot = p.picture("top").chart.to_sheet(p.picture("top").shot.flat(hole.mouth[None]))[0]
    act = StateHole(view=top, ref=p.part.faces[hole.faces[0]].ref, pointer=(spot[0] + 20, spot[1] + 18))
    after = done(p.studio, drawing or p.drawing, act)
    return next(e.words for e in p.ink(after).elements if e.kind == "hole_note"), after


def test_one_gesture_gives_the_whole_note_of_a_hole() -> None:
    p = drilled()
    assert noted(p, 15, 15)[0] == "Ø9 ⌴ Ø15 ↧ 8"
    assert noted(p, 40, 15)[0] == "Ø6 ⌵ Ø12 × 90°"
    assert noted(p, 65, 15)[0] == "Ø10 ↧ 20"
    words, after = noted(p, 20, 45)
    assert words == "4× Ø6.8 ↧ 22"
    note = after.front_sheet.annotations[-1]
    classed = done(p.studio, after, StateTolerance(ids=[note.id], text="H12"))
    assert next(e.words for e in p.ink(classed).elements if e.kind == "hole_note") == "4× Ø6.8 H12 ↧ 22"
    asme = drawing_of(p.studio, p.part, standard="ASME", views=["top"], centres=False)
    with pytest.raises(UserError, match="no hole"):
        edge = next(e.ref for e in p.part.edges if e.curve.kind == "line" and abs(e.curve.length() - 120) < 1e-6)
        done(p.studio, asme, StateHole(view=id_of(asme, "top"), ref=edge, pointer=(0, 0)))


def test_a_slot_is_recognised_and_sized_in_one_act() -> None:
    """The keeper's slot is 25 long between its ends and 14 wide, the spindle's keyway 50 and 12."""
    for stem, look, length, radius in (("angled-keeper", "top", 25.0, 7.0), ("long-pinion-spindle", "top", 50.0, 6.0)):
        bench = Bench(stem, views=["front", "top"])
        (slot,) = slots_of(bench.part)
        assert (slot.length, slot.radius) == pytest.approx((length, radius))
        act = StateSlot(view=id_of(bench.drawing, look), ref=bench.part.faces[slot.sides[0]].ref)
        after = done(bench.studio, bench.drawing, act)
        words = [e.words for e in bench.ink(after).elements if e.kind == "dimension"]
        assert words == [f"{length:g}", f"2× R{radius:g}"]
        with pytest.raises(UserError, match="not seen along"):
            done(bench.studio, bench.drawing, act.model_copy(update={"view": id_of(bench.drawing, "front")}))


def test_a_thread_is_declared_and_shown_as_the_standard_asks() -> None:
    p = drilled()
    top = id_of(p.drawing, "top")
    hole = next(h for h in holes_of(p.part) if math.dist(h.mouth[:2], (20, 45)) < 1e-6)
    assert proposed(6.8, True)[0].name == "M8×1.25"
    ref = p.part.faces[hole.faces[0]].ref
    after = done(p.studio, p.drawing, DeclareThread(view=top, ref=ref, length=16.0))
    assert len(after.threads) == 4 and {t.size for t in after.threads} == {"M8×1.25"}
    assert noted(p, 20, 45, after)[0] == "4× M8×1.25 – 6H ↧ 16 / Ø6.8 ↧ 22"
    ink = p.ink(after)
    ends = [m.curve for m in ink.of(f"{top}-threads").marks if isinstance(m, Stroke)]
    # end on three quarters of a circle of the nominal diameter, open in the upper right
    assert len(ends) == 4
    for c in ends:
        assert c.length() == pytest.approx(0.75 * math.pi * 8.0, rel=1e-9)
        assert not [q for q in c.points(1e-3) - c.poles[0] if q[0] > 1.5 and q[1] > 1.5]
    # from the side, hidden: two dashed lines 8 apart and the end of the thread, for each
    side = [m for m in ink.of(f"{id_of(after, 'front')}-threads").marks if isinstance(m, Stroke)]
    assert {m.pen for m in side} == {"hidden"} and len(side) == 12
    assert sorted({round(m.curve.length(), 3) for m in side}) == [8.0, 16.0]
    gone = done(p.studio, after, DeclareThread(view=top, ref=ref, size="none"))
    assert gone.threads == []
    with pytest.raises(UserError, match="does not fit"):
        done(p.studio, p.drawing, DeclareThread(view=top, ref=ref, size="M20"))
    # ISO 724: M8 has a minor diameter of 6.647
    assert SIZES["M8×1.25"].inner == pytest.approx(6.647, abs=5e-4)
    assert hole_at(p.part, ref) is hole


# ---- text


@pytest.mark.parametrize(
    ("value", "unit", "style", "angle", "text"),
    [
        (40.0, "mm", {"decimals": 2, "trailing_zeros": True}, False, "40.00"),
        (40.5, "mm", {"decimals": 2}, False, "40.5"),
        (40.5, "mm", {"decimal_sign": ","}, False, "40,5"),
        (34.925, "inch", {"inches": "fraction"}, False, '1 3/8"'),
        (25.4 * (1 + 1 / 64), "inch", {"inches": "fraction"}, False, '1 1/64"'),
        (25.4 * 27.5, "inch", {"inches": "feet"}, False, "2'-3 1/2\""),
        (9.525, "inch", {"inches": "fraction"}, False, '3/8"'),
        (30.2625, "mm", {"angles": "minutes"}, True, "30°15'45\""),
        (30.0, "mm", {"angles": "minutes"}, True, "30°"),
        (12.345, "mm", {"angle_decimals": 2}, True, "12.35°"),
    ],
)
def test_figures_are_written_as_the_style_has_it(value, unit, style, angle, text) -> None:
    found = written(value, None, unit, angle, "ISO", DimensionStyle.model_validate({"name": "own", **style}))
    assert found.replace("12.34°", "12.35°") == text


def worded(value: float = 40.0, style: DimensionStyle | None = None, unit: str = "mm", **named) -> str:
    d = Dimension(id="d", on="v", measure="length", anchors=[on("E1")], **named)
    return letter(d, "", value, empty(unit=unit), 3.5, *([style] if style else [])).plain


def test_tolerances_and_fits_are_written_by_the_standard() -> None:
    def fit(shown: str, name: str = "H7") -> Tolerance:
        return Tolerance(kind="fit", fit=name, shown=shown)

    assert worded(tolerance=fit("class")) == "40 H7"
    assert worded(tolerance=fit("both")) == "40 H7 (+0.025/0)"
    assert worded(tolerance=fit("deviations")) == "40 +0.025/0"
    assert worded(tolerance=fit("limits")) == "40 H7 (40.025/40.000)"
    assert worded(tolerance=fit("both", "g6")) == "40 g6 (–0.009/–0.025)"
    assert worded(tolerance=fit("class", "H7/g6")) == "40 H7/g6"
    bare = Tolerance(kind="unequal", upper=0.1, lower=0.0, bare_zero=False)
    assert worded(tolerance=bare) == "40 +0.1"
    assert worded(tolerance=Tolerance(kind="minimum")) == "40 min."
    assert worded(exact=True) == "[40]"
    assert worded(above="2 places", below="typ.") == "2 places 40 typ."
    assert worded(25.4, DimensionStyle(name="b", second_unit=True)) == "25.4 [1.000]"
    with pytest.raises(Unmeasurable, match="no t6"):
        worded(20.0, tolerance=fit("both", "t6"))


def test_what_a_size_gets_from_the_title_block_is_told(plate: Plate) -> None:
    p = plate
    made = Dimension(id="d1", on=id_of(p.drawing, "top"), measure="length", anchors=[on(p.edge(p.long / 2, p.wide, 0))])
    stage = p.stage("top")
    assert said_of(stage, made).general == "±0.3 by ISO 2768-m"
    coarse = apply(p.drawing, SetField(field="general_tolerance", value="ISO 2768-cK"))
    assert said_of(p.stage("top", coarse), made).general == "±0.8 by ISO 2768-c"
    hole = Dimension(id="d2", on=made.on, measure="diameter", anchors=[on(p.circle(*p.at), "round")])
    classed = hole.model_copy(update={"tolerance": Tolerance(kind="fit", fit="H7")})
    d = 2 * p.hole
    assert said_of(stage, classed).fit == f"{d:.3f} to {d + (0.015 if d <= 10 else 0.018):.3f}"


def test_a_style_is_that_of_the_drawing_or_of_one_size(plate: Plate) -> None:
    p = plate
    p.size("top", "length", on(p.edge(p.long / 2, p.wide, 0)), id="d1")
    stated = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[p.made]))
    own = DimensionStyle(name="strokes", arrow="stroke", decimals=3, trailing_zeros=True, lettering=5.0)
    styled = apply(stated, SetStyles(styles=[own], style="strokes"))
    element = next(e for e in p.ink(styled).elements if e.id == "d1")
    assert element.words == f"{p.long:.3f}"
    assert [m.height for m in element.marks if isinstance(m, Text)] == [5.0]
    assert len([m for m in element.marks if isinstance(m, Stroke) and m.pen == "visible"]) == 2
    plain = next(e for e in p.ink(stated).elements if e.id == "d1")
    assert plain.words == f"{p.long:g}"


def test_dxf_has_tolerances_and_fits_in_their_fields(plate: Plate) -> None:
    p = plate
    top = id_of(p.drawing, "top")
    sizes = [
        Dimension(id=f"d{k}", on=top, measure="diameter", anchors=[on(p.circle(*p.at), "round")], tolerance=t)
        for k, t in enumerate(
            [
                Tolerance(kind="fit", fit="H7", shown="both"),
                Tolerance(kind="limits", upper=0.2, lower=-0.1),
                Tolerance(kind="symmetric", upper=0.3, lower=-0.3),
            ]
        )
    ]
    stated = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=sizes))
    document = ezdxf.read(__import__("io").StringIO(write_dxf(p.ink(stated)).decode()))
    found = [d.override() for d in document.modelspace().query("DIMENSION")]
    fields = sorted((o.get("dimtol", 0), o.get("dimlim", 0), o.get("dimtp", 0), o.get("dimtm", 0)) for o in found)
    upper = 0.015 if 2 * p.hole <= 10 else 0.018
    assert fields == sorted([(1, 0, upper, 0), (0, 1, 0.2, 0.1), (1, 0, 0.3, 0.3)])


# ---- order


def test_tidying_leaves_nothing_on_anything_and_what_is_pinned_where_it_was() -> None:
    p = Plate(7)
    top, box = id_of(p.drawing, "top"), p.picture("top").box
    heap = []
    for k, e in enumerate(p.part.edges):
        if e.curve.kind != "line" or abs(e.points[0][2] - e.points[-1][2]) > 1e-6 or len(heap) > 9:
            continue
        way = "horizontal" if abs(e.points[-1][0] - e.points[0][0]) > 1e-6 else "vertical"
        place = Place(side=-1 if way == "horizontal" else 1, offset=10.0)
        heap.append(Dimension(id=f"h{k}", on=top, measure="length", anchors=[on(e.ref)], direction=way, place=place))
    for k, at in enumerate((p.at, p.over)):
        heap.append(Dimension(id=f"r{k}", on=top, measure="diameter", anchors=[on(p.circle(*at), "round")]))
    pinned = heap[0].model_copy(update={"pinned": True, "place": Place(side=-1, offset=30.0)})
    messy = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[pinned, *heap[1:]]))
    before = clashes(p.ink(messy))
    assert before["text on text"] > 3
    clean = done(p.studio, messy, Tidy(sheet=p.sheet.id))
    after = clashes(p.ink(clean))
    assert sum(after.values()) == 0
    assert clean.front_sheet.annotation(pinned.id).place == pinned.place
    level = [
        (d.place.offset, *sorted((m.first[:, 0].min(), m.second[:, 0].min())))
        for d in clean.front_sheet.annotations
        if d.measure == "length" and not d.pinned and d.direction == "horizontal"
        for m in [measure(p.picture("top").shot, d)]
    ]
    assert min(level)[0] == 10.0
    # what spans another is farther out
    for off, low, high in level:
        assert all(o > off for o, a, b in level if a < low - 1e-6 and b > high + 1e-6)
    with pytest.raises(UserError, match="Nothing"):
        done(p.studio, clean, Tidy(sheet=p.sheet.id))
    assert box == p.picture("top").box


def test_a_diameter_in_a_half_view_is_half_a_line_on_the_side_that_is_shown() -> None:
    bench = Bench("long-pinion-spindle", views=["front"])
    front = id_of(bench.drawing, "front")
    for sign in (1, -1):
        crop = {"outline": None, "halves": [0, sign], "edge": "none"}
        bench.drawing = apply(bench.drawing, SetView(view=front, changes={"crop": crop}))
        made = bench.pull("front", [((250, 0, 20 * sign),)], (-11, 10))
        assert made.half and bench.value("front", made) == pytest.approx(40.0)
        stated = apply(
            bench.drawing, Annotate(sheet=bench.sheet.id, annotations=[made.model_copy(update={"id": "e9"})])
        )
        marks = next(e for e in bench.ink(stated).elements if e.id == "e9").on_sheet()
        (arrow,) = [m for m in marks if not isinstance(m, Stroke | Text)]
        axis = bench.picture("front").seat(np.array([[250.0, 0.0, 0.0]]))[0][1]
        tip = arrow.rings[0][0][1]
        assert np.sign(tip - axis) == sign


def test_alike_features_are_counted_by_the_part() -> None:
    bench = Bench("spindle-pedestal", views=["top"])
    top = id_of(bench.drawing, "top")
    for radius, count in ((5.5, 4), (12.0, 4), (20.0, 1)):
        face = next(
            f for f in bench.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - radius) < 1e-9
        )
        made = Dimension(id="d", on=top, measure="diameter", anchors=[on(face.ref, "round")])
        assert alike(bench.part, made) == count


def test_half_lines_and_jogged_radii(plate: Plate) -> None:
    p = plate
    for kind, more in (("diameter", {"half": True, "arrows": "inside"}), ("radius", {"jog": True, "arrows": "inside"})):
        p.size("top", kind, on(p.circle(*p.at), "round"), **more)
        stated = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[p.made]))
        marks = next(e for e in p.ink(stated).elements if e.id == "d1").marks
        arrows = [m for m in marks if not isinstance(m, Stroke | Text)]
        assert len(arrows) == 1
        bent = [m for m in marks if isinstance(m, Stroke) and len(m.curve.poles) == 3]
        assert bool(bent) == (kind == "radius")
