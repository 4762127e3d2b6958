"""What one pull means on round things: the side of the part, a radius, or a diameter; figures by hand, and over parts drawn by
chance by where the extension lines start."""

from __future__ import annotations

import math

import numpy as np
import pytest

from barequill.core.errors import Unmeasurable
from barequill.core.features.sweeps import merged
from barequill.core.measuring.inference import infer
from barequill.core.measuring.measuring import Linear, measure
from barequill.core.measuring.picking import Pick
from barequill.core.reading import shapes
from tools.common import at_length
from tools.made_parts import bodies, random_shape
from tools.plates import Plate
from tools.plates import plate as plate
from tools.sheets import DrawnPart, drawing_of, projections_of


class Made(DrawnPart):
    """A drawing of a solid."""

    def __init__(self, solid, views=("front", "top", "left")) -> None:
        self.part = bodies(solid)
        self.projections = projections_of(self.part)
        self.drawing = drawing_of(self.projections, self.part, size="A1", centres=False, views=list(views), scale=1.0)

    def means(self, look: str, place, pointer=(-15.0, 12.0), wish: str = "") -> tuple[str, float]:
        made = self.pull(look, [(place,)], pointer, wish)
        return made.measure, measure(self.placed_view(look).projected, made).value


def sector(radius: float, thick: float, start: float, end: float, high: float):
    """A part of a ring about the upright axis, between two angles in degrees that are less than half a turn apart."""
    ring = shapes.cut(
        shapes.cylinder((0, 0, 0), (0, 0, 1), radius, high),
        shapes.cylinder((0, 0, -1), (0, 0, 1), radius - thick, high + 2),
    )
    far = 4 * radius
    a, b = math.radians(start), math.radians(end)
    m = (a + b) / 2
    wedge = [(0.0, 0.0), *((far * math.cos(t), far * math.sin(t)) for t in (a, m, b))]
    piece = shapes.prism([(x, y, -1.0) for x, y in wedge], (0, 0, high + 2))
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

    return BRepAlgoAPI_Common(ring, piece).Shape()


def turned_at(radius: float, degrees: float, height: float) -> tuple[float, float, float]:
    return radius * math.cos(math.radians(degrees)), radius * math.sin(math.radians(degrees)), height


@pytest.mark.parametrize(
    ("start", "end", "seen"),
    [
        # from 200 to 259 degrees: both ends tell
        (200.0, 259.0, math.cos(math.radians(259)) - math.cos(math.radians(200))),
        # over the left of the circle: its leftmost place tells
        (150.0, 230.0, math.cos(math.radians(230)) + 1.0),
        (265.0, 275.0, 2 * math.sin(math.radians(5))),
    ],
)
def test_an_arc_of_less_than_half_a_turn_seen_in_its_plane_is_a_side_of_the_part(start, end, seen) -> None:
    """Seen from the front along y, an arc about the upright axis shows level; its reach is that of its cosines."""
    made = Made(sector(20.0, 3.0, start, end, 8.0))
    middle = turned_at(20.0, (start + end) / 2, 8.0)
    assert made.means("front", middle, (10.0, 40.0)) == ("length", pytest.approx(20.0 * seen, abs=1e-9))
    # face on it is the arc that it is, and what it is can be asked for from the side
    kind, value = made.means("top", middle, (60.0, -20.0))
    assert (kind, value) == ("radius", pytest.approx(20.0))
    assert made.means("front", middle, (10.0, 40.0), "diameter") == ("diameter", pytest.approx(40.0))
    # two heights of it are as far apart as it is high
    rows = [made.pick("front", turned_at(20.0, (start + end) / 2, h)) for h in (0.0, 8.0)]
    box = made.placed_view("front").box
    pulled = made.infer("front", rows, (box.x1 + 12.0, box.y0))
    assert measure(made.placed_view("front").projected, pulled).value == pytest.approx(8.0)


def test_a_rounded_corner_that_is_mitred_or_notched_is_as_long_as_it_shows() -> None:
    """Its outline from the front is where the round runs into the left side: at x = 0, y = R."""
    fall, corner = 0.5, 6.0
    block = shapes.rounded(shapes.box((0, 0, 0), (40, 20, 40)), corner, [(0, 0, 20)])
    above = shapes.prism([(-1, -1, 30 + fall), (-1, 41, 30 - 41 * fall), (-1, 41, 90), (-1, -1, 90)], (60, 0, 0))
    notch = shapes.box((-1, 3, 22), (20, 7, 2))
    for solid, picked, expected in (
        (shapes.cut(block, above), 10.0, 30 - fall * corner),
        (shapes.cut(block, above, notch), 25.0, 30 - fall * corner - 24),
        (shapes.cut(block, above, notch), 5.0, 22.0),
    ):
        made = Made(solid)
        front, context = made.placed_view("front"), made.context("front")
        round_face = next(f.ref for f in made.part.faces if f.surface.kind == "cylinder")
        x, y = context.view.transform.to_sheet(front.projected.flat(np.array([[0, corner, picked]])))[0]
        size = infer(context, [Pick(round_face, x, y)], (x - 20.0, y), "d1")
        assert (size.measure, measure(front.projected, size).value) == ("length", pytest.approx(expected))


def test_a_diameter_holds_where_a_side_of_it_is_cut_away() -> None:
    """A pin that is cut off aslant, and a taper, of which the sides are not equally long."""
    pin = shapes.cylinder((0, 0, 0), (0, 0, 1), 8, 60)
    taper = shapes.cone((0, 0, 0), (0, 0, 1), 10, 6, 40)
    aslant = shapes.prism([(-20, -20, 20), (20, -20, 40), (20, -20, 90), (-20, -20, 90)], (0, 40, 0))
    made = Made(shapes.cut(pin, aslant))
    assert made.means("front", (-8, 0, 5), (-14.0, 5.0)) == ("diameter", pytest.approx(16.0))
    assert made.means("front", (8, 0, 30), (30.0, 40.0), "length") == ("length", pytest.approx(34.0))
    assert made.means("front", (-8, 0, 5), (-14.0, 5.0), "length") == ("length", pytest.approx(26.0))
    made = Made(shapes.cut(taper, aslant))
    assert made.means("front", (-9.8, 0, 2), (-14.0, 5.0), "diameter") == ("diameter", pytest.approx(20.0))


def test_a_shaft_with_a_flat_is_measured_as_it_shows_and_one_with_a_keyway_by_its_diameter() -> None:
    shaft = shapes.cylinder((0, 0, 0), (0, 0, 1), 10, 60)
    flat = Made(shapes.cut(shaft, shapes.box((7, -20, -1), (20, 40, 62))))
    # the flat is seen from its edge in the front view: 10 to the round side, 7 to the flat
    assert flat.means("front", (0, -10, 60), (5.0, 80.0)) == ("length", pytest.approx(17.0))
    assert flat.means("left", (0, 0, 60), (5.0, 80.0)) == ("diameter", pytest.approx(20.0))
    assert flat.means("top", (-10, 0, 60), (-20.0, 30.0)) == ("diameter", pytest.approx(20.0))
    keyed = Made(shapes.cut(shaft, shapes.box((6, -2, 30), (20, 4, 40))))
    assert keyed.means("front", (0, -10, 60), (5.0, 80.0)) == ("diameter", pytest.approx(20.0))
    assert keyed.means("front", (-10, 0, 30), (-12.0, 30.0)) == ("diameter", pytest.approx(20.0))


def test_what_is_cut_into_arcs_is_still_the_hole_or_shaft_that_it_was() -> None:
    plate = shapes.cut(shapes.box((-30, -20, 0), (60, 40, 6)), shapes.cylinder((0, 0, -1), (0, 0, 1), 9, 8))
    # a slot across the hole leaves two arcs of it
    slotted = Made(shapes.cut(plate, shapes.box((-20, -3, -1), (40, 6, 8))))
    assert slotted.means("top", (0, 9, 6), (70.0, 50.0)) == ("diameter", pytest.approx(18.0))
    # a rounded end of half a turn, and one of a quarter
    lug = shapes.fuse(shapes.box((0, -8, 0), (30, 16, 6)), shapes.cylinder((30, 0, 0), (0, 0, 1), 8, 6))
    assert Made(lug).means("top", turned_at(8.0, 40.0, 6.0) + np.array([30, 0, 0]), (60.0, 30.0)) == (
        "radius",
        pytest.approx(8.0),
    )


def test_a_middle_or_a_centre_alone_means_what_it_is_of(plate: Plate) -> None:
    p, hole, back = plate, plate.circle(*plate.at), plate.edge(plate.long / 2, plate.wide, 0)
    for ref, at, kind, value in (
        (back, "middle", "length", p.long),
        (hole, "centre", "diameter", 2 * p.hole),
        (hole, "rim:90", "diameter", 2 * p.hole),
    ):
        made = p.infer("top", [Pick(ref, 0.0, 0.0, at)], (50.0, 300.0))
        assert (made.measure, p.value("top", made)) == (kind, pytest.approx(value))
    with pytest.raises(Unmeasurable, match="One point alone"):
        p.infer("top", [Pick(back, 0.0, 0.0, "end")], (50.0, 300.0))


def test_a_dome_of_up_to_half_a_ball_has_a_radius_and_more_of_it_a_diameter() -> None:
    ball = shapes.ball((0, 0, 10), 12)
    for low, kind, value in ((10.0, "radius", 12.0), (2.0, "diameter", 24.0)):
        dome = Made(shapes.cut(ball, shapes.box((-20, -20, low - 40), (40, 40, 40))))
        assert dome.means("front", (0, 0, 22), (30.0, 40.0)) == (kind, pytest.approx(value))


@pytest.mark.parametrize("seeds", [range(k, k + 8) for k in range(0, at_length(8, 80), 8)])
def test_no_extension_line_starts_beyond_the_part(seeds: range) -> None:
    """Whatever visible line is pulled by itself, its size starts and ends on what the view shows."""
    shapes_made = [s for s in map(random_shape, seeds) if s is not None]
    assert sum(map(_pulled_alone, shapes_made)) > 50


def _pulled_alone(shape) -> int:
    """How many lines could be pulled."""
    made = Made(shape, ("front", "top", "left", "iso"))
    size, count = made.part.size, 0
    for placed_view in made.projections.placed_views(made.drawing, made.sheet).values():
        context = made.context(placed_view.view.look)
        box = placed_view.projected.mesh_box + 2e-3 * size * np.array([-1, 1])
        curves = {c.source: c.curve for c in reversed(placed_view.projected.curves) if c.visible and c.cls != "smooth"}
        for ref, curve in curves.items():
            middle = curve.points(0.01 * size).mean(axis=0) - placed_view.projected.centre
            x, y = context.view.transform.to_sheet(middle[None])[0]
            try:
                found = measure(placed_view.projected, infer(context, [Pick(ref, x, y)], (x + 30.0, y + 45.0), "d1"))
            except Unmeasurable:
                continue
            count += 1
            if isinstance(found, Linear):
                ends = np.concatenate([found.first, found.second])
                assert (box[:, 0] < ends.min(axis=0)).all()
                assert (ends.max(axis=0) < box[:, 1]).all()
    return count


def test_spans_of_angles_that_meet_are_one_also_over_the_start() -> None:
    """Against marking a thousand places of the circle for each span."""
    dice = np.random.default_rng(4)
    grid = (np.arange(1000) + 0.5) * 2 * np.pi / 1000
    for _ in range(at_length(40, 200)):
        start = dice.uniform(-9, 9, dice.integers(1, 7))
        spans = np.column_stack([start, start + dice.uniform(0, 3, len(start))])
        marked = [(((g - spans[:, 0]) % (2 * np.pi)) <= spans[:, 1] - spans[:, 0]).any() for g in grid]
        own = merged(spans)
        assert [(((g - own[:, 0]) % (2 * np.pi)) <= own[:, 1] - own[:, 0]).any() for g in grid] == marked
        assert (own[1:, 0] > own[:-1, 1]).all()
        assert abs((own[:, 1] - own[:, 0]).sum() - np.mean(marked) * 2 * np.pi) < 0.1
