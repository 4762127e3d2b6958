"""Sizes along an axis, depths, curves by ordinates, symmetrical sets, half diameters, and extension lines by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest

from barequill.core.acts.change_extension import ChangeExtension
from barequill.core.acts.pull_dimension import PickJson, PullDimension
from barequill.core.acts.rows import StateRow
from barequill.core.display import Stroke
from barequill.core.drawing import Anchor
from barequill.core.drawing.operations import Annotate, apply
from barequill.core.errors import Unmeasurable
from barequill.core.measuring.anchor_geometry import resolve
from barequill.core.measuring.measuring import measure
from barequill.core.measuring.pointing import snaps_of
from barequill.core.reading import shapes
from tools.plates import Plate, of, on
from tools.plates import plate as plate
from tools.sheets import done, id_of

from .shared import section


def pick(p: Plate, look: str, ref: str, at: str, x: float = 0.0, y: float = 0.0) -> PickJson:
    return PickJson(ref=ref, at=at, x=x, y=y)


def test_a_distance_along_a_picked_edge(plate: Plate) -> None:
    p = plate
    slant = p.edge(p.long - p.chamfer / 2, p.chamfer / 2, p.high)
    ends = on(p.circle(*p.at), "centre"), on(p.circle(*p.over), "centre")
    gap = np.subtract(p.over, p.at) @ (math.sqrt(0.5), math.sqrt(0.5))
    assert p.size("top", "distance", *ends, along=slant) == pytest.approx(abs(gap), abs=1e-9)
    box = p.placed_view("top").box
    act = PullDimension(
        view=id_of(p.drawing, "top"),
        picks=[pick(p, "top", a.ref, "centre") for a in ends] + [pick(p, "top", slant, "")],
        pointer=(box.x0 + 60, box.y1 + 30),
    )
    made = done(p.projections, p.drawing, act).front_sheet.annotations[-1]
    assert made.along == slant
    assert measure(p.placed_view("top").projected, made).value == pytest.approx(abs(gap), abs=1e-9)


def test_depths_go_along_the_sight() -> None:
    p = of(
        shapes.cut(
            shapes.box((0, 0, 0), (80, 50, 30)),
            shapes.cylinder((25, 25, 12), (0, 0, 1), 6, 30),
            shapes.box((50, -1, 21), (40, 60, 20)),
        )
    )
    p.high = 30
    blind = p.circle(25, 25)
    assert p.size("top", "depth", on(blind, "round")) == 18.0
    assert p.says("top") == "↧ 18"
    upper, lower = p.edge(0, 25, 30), p.edge(80, 25, 21)
    assert p.size("top", "depth", on(upper), on(lower)) == pytest.approx(9.0)
    with pytest.raises(Unmeasurable, match="There is no depth"):
        p.size("front", "depth", on(upper, "start"), on(upper, "start"))


def test_a_curve_is_told_by_ordinates() -> None:
    # a bore at 45° over the edge of a block leaves half an ellipse on its top, √2 as long as it is wide
    p = of(shapes.cut(shapes.box((0, 0, 0), (80, 60, 20)), shapes.cylinder((-30, 30, -10), (1, 0, 1), 15, 100)))
    curves = [e for e in p.part.edges if e.curve.kind == "conic" and not e.curve.is_circle]
    curves = [e for e in curves if np.allclose(e.points[:, 2], 20.0)]
    box = p.placed_view("top").box
    act = StateRow(
        view=id_of(p.drawing, "top"),
        picks=[pick(p, "top", c.ref, "", box.x0, box.y0) for c in curves],
        pointer=(box.x0 - 20, box.y1 + 20),
        form="ordinates",
        stations=2,
    )
    made = done(p.projections, p.drawing, act).front_sheet.annotations
    projected = p.placed_view("top").projected
    # the seam of the bore parts it in the middle: three even steps of a third of 15 √2 on either side of that
    k = np.array([0, 1, 2, 3, 2, 1, 0]) / 3
    places = 15 * np.c_[math.sqrt(2) * k, np.sqrt(1 - k**2) * [-1, -1, -1, 0, 1, 1, 1]]
    datum = resolve(projected, made[0].anchors[0]).space[0, :2] - (0.0, 30.0)
    for axis, way in ((0, "horizontal"), (1, "vertical")):
        signed = np.unique(np.round(places[:, axis] - datum[axis], 9))
        found = sorted(measure(projected, d).value for d in made if d.direction == way)
        assert found == pytest.approx(sorted(np.abs(signed[np.abs(signed) > 1e-6])), abs=1e-6)


def test_a_set_symmetrical_about_its_middle() -> None:
    holes = [shapes.cylinder((x, 25, -1), (0, 0, 1), r, 40) for x, r in ((15, 4), (105, 4), (30, 3), (90, 3), (60, 6))]
    p = of(shapes.cut(shapes.box((0, 0, 0), (120, 50, 20)), *holes))
    p.high = 20
    box = p.placed_view("top").box
    refs = [p.circle(x, 25) for x in (60, 30, 15, 90, 105)]
    act = StateRow(
        view=id_of(p.drawing, "top"),
        picks=[pick(p, "top", r, "centre") for r in refs],
        pointer=(box.x0 + 30, box.y1 + 12),
        form="symmetrical",
    )
    made = done(p.projections, p.drawing, act).front_sheet.annotations
    projected = p.placed_view("top").projected
    assert [measure(projected, d).value for d in made] == pytest.approx([60.0, 90.0])
    assert made[1].place.offset - made[0].place.offset == pytest.approx(7.0)
    lone = act.model_copy(update={"picks": act.picks[:4]})
    with pytest.raises(Unmeasurable, match="no counterpart"):
        lone.plan(p.drawing, p.acts)


def test_a_bore_in_a_half_section_has_half_its_line() -> None:
    p = of(
        shapes.cut(shapes.cylinder((0, 0, 0), (0, 1, 0), 40, 60), shapes.cylinder((0, -1, 0), (0, 1, 0), 12, 70)),
        views=("front",),
    )
    drawing, view = section(p, [(0, 44), (0, 0, {"at": "box"})], (90, 0), form="half")
    projected = p.projections.placed_views(drawing, drawing.front_sheet)[view.id].projected
    bore = next(f for f in p.part.faces if f.surface.kind == "cylinder" and f.surface.radius == 12)
    skin = next(f for f in p.part.faces if f.surface.kind == "cylinder" and f.surface.radius == 40)
    cuts = {}
    for name, face in (("bore", bore), ("skin", skin)):
        x, y = view.place
        reach = face.surface.radius
        act = PullDimension(
            view=view.id,
            picks=[PickJson(ref=face.ref, x=x, y=y + reach)],
            pointer=(x - 45, y),
            wish="diameter",
        )
        cuts[name] = done(p.projections, drawing, act).front_sheet.annotations[-1]
        assert measure(projected, cuts[name]).value == pytest.approx(2 * reach)
    assert cuts["bore"].half and not cuts["skin"].half


def test_corners_of_a_cut_and_crossings_can_be_caught() -> None:
    p = of(
        shapes.box((0, 0, 0), (60, 40, 10)),
        shapes.box((20, -15, 0), (10, 10, 30)),
        shapes.cut(shapes.box((0, 60, 0), (60, 20, 10)), shapes.box((36, 55, 4), (10, 30, 10))),
        views=("front", "top"),
    )
    # the post stands before the block: the block's upper edge goes on behind it
    met = [s for s in snaps_of(p.placed_view("front").still(), p.drawing) if s.word == "crossing of two edges"]
    zero = p.placed_view("front").projected.flat(np.array([[20.0, 0, 10]]))[0]
    assert any(np.allclose((s.x, s.y), zero, atol=1e-2) for s in met)
    drawing, view = section(p, [(-5, 60), (-5, -60)], (120, 0))
    placed_view = p.projections.placed_views(drawing, drawing.front_sheet)[view.id]
    corners = [s for s in snaps_of(placed_view.still(), drawing) if s.word == "corner of the cut"]
    assert len(corners) >= 8
    # two of them lie at the foot and the head of the block behind, ten apart
    a = min(corners, key=lambda s: (s.x, s.y))
    b = next(s for s in corners if s.x == a.x and s.y != a.y)
    x, y = view.place
    act = PullDimension(
        view=view.id,
        picks=[PickJson(ref=s.ref, at=s.at, x=x + s.x, y=y + s.y) for s in (a, b)],
        pointer=(x + a.x - 10, y),
    )
    made = done(p.projections, drawing, act).front_sheet.annotations[-1]
    assert measure(placed_view.projected, made).value == pytest.approx(abs(a.y - b.y), abs=0.011)


def test_extension_lines_are_changed_by_hand(plate: Plate) -> None:
    p = plate
    box = p.placed_view("top").box
    p.size("top", "distance", on(p.edge(0, p.wide / 2, p.high)), on(p.edge(p.long, p.wide / 2, 0)))

    made = p.made.model_copy(
        update={"direction": "horizontal", "place": p.made.place.model_copy(update={"offset": 20.0})}
    )
    drawing = apply(p.drawing, Annotate(sheet="e1", annotations=[made]))

    def lines(after) -> list[tuple[float, float, float]]:
        """x, and both ends in y above the view, of what is upright in the size."""
        element = next(e for e in p.ink(after).elements if e.id == "d1")
        found = []
        for m in element.marks:
            if isinstance(m, Stroke) and m.curve.kind == "line" and np.ptp(m.curve.poles[:, 0]) < 1e-9:
                ys = np.sort(m.curve.poles[:, 1]) + element.at[1] - box.y1
                found.append((round(float(m.curve.poles[0, 0] + element.at[0] - box.x0), 3), *np.round(ys, 3)))
        return sorted(found)

    usual = lines(drawing)
    assert [x for x, *_ in usual] == pytest.approx([0.0, p.long])
    at = (box.x0, box.y1 + 8)
    act = ChangeExtension(id="d1", what="leave_out", at=at)
    assert [x for x, *_ in lines(done(p.projections, drawing, act))] == pytest.approx([p.long])
    begun = lines(done(p.projections, drawing, act.model_copy(update={"what": "begin"})))
    assert begun[0][1] == pytest.approx(8.0) and begun[1] == usual[1]
    broken = lines(done(p.projections, drawing, act.model_copy(update={"what": "break"})))
    assert [b for b in broken if b[0] == 0.0] == [(0.0, usual[0][1], 7.0), (0.0, 9.0, usual[0][2])]
    aside = done(p.projections, drawing, ChangeExtension(id="d1", what="aside", at=(at[0] - 6, at[1]), of=at))
    assert next(x for x, *_ in lines(aside)) == pytest.approx(-6.0)
    again = done(p.projections, aside, ChangeExtension(id="d1", what="usual", at=at))
    assert lines(again) == usual


def test_a_corner_that_was_chamfered_away_is_marked_by_a_small_cross(plate: Plate) -> None:
    p = plate
    front, right = p.edge(p.long / 2, 0, p.high), p.edge(p.long, p.wide / 2, 0)
    corner = Anchor(ref=front, at="cross", other=right)
    assert p.size("top", "distance", corner, on(p.edge(0, p.wide / 2, p.high))) == pytest.approx(p.long)
    drawing = apply(p.drawing, Annotate(sheet="e1", annotations=[p.made]))
    element = next(e for e in p.ink(drawing).elements if e.id == "d1")
    box = p.placed_view("top").box
    aim = np.array([box.x0 + p.long, box.y0]) - element.at
    through = [
        m.curve.poles - aim
        for m in element.marks
        if isinstance(m, Stroke) and m.curve.kind == "line" and np.abs(m.curve.poles.mean(axis=0) - aim).max() < 1e-6
    ]
    assert sorted(tuple(np.ptp(q, axis=0).round(6)) for q in through) == [(0.0, 4.0), (4.0, 0.0)]
