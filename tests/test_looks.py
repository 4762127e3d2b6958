"""Pictorial views by their axes, adjacent parts, kept directions, a part in space; pitch circles and other centre lines."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
import shapely

from barequill.core.acts import ActContext
from barequill.core.acts.centre_lines import DrawLine, PitchCircles
from barequill.core.acts.centres import Centres
from barequill.core.acts.look_square import LookSquare
from barequill.core.acts.move_end import MoveEnd
from barequill.core.acts.new_drawing import NewDrawing, new_drawing
from barequill.core.acts.place_view import PlaceView
from barequill.core.acts.pull_dimension import PullDimension
from barequill.core.acts.revolve_between import RevolveBetween
from barequill.core.acts.state_hole import StateHole
from barequill.core.display import Stroke, Text
from barequill.core.drawing import CentreMark, Dimension, Drawing
from barequill.core.drawing.operations import Annotate, ChangeAnnotation, SetView, apply
from barequill.core.errors import BadOperation, UserError
from barequill.core.kinds import solve
from barequill.core.measuring.measuring import measure
from barequill.core.part.shape import shape_bytes
from barequill.core.views.cutting_lines import frame_of
from barequill.core.views.windows import foreshortenings
from tools.common import demo_file, part_of
from tools.plates import Plate
from tools.sheets import DrawnPart, done, id_of

DIMETRIC = [7.180755781458282, 41.40962210927086]


def changed(acting: DrawnPart, look: str, **changes) -> None:
    acting.drawing = apply(acting.drawing, SetView(view=id_of(acting.drawing, look), changes=changes))


@pytest.fixture
def cover() -> DrawnPart:
    return DrawnPart("round-gear-cover", views=["front", "left"], face="+Y", scale=1.0)


# ---- pictorial views


@pytest.mark.parametrize(
    ("angles", "shares", "leans"),
    [
        ([30, 30], (math.sqrt(2 / 3),) * 3, (30, 30)),
        # ISO 5456-3: 7° and 42°, the depth at half length
        (DIMETRIC, (math.sqrt(8) / 3, math.sqrt(2) / 3, math.sqrt(8) / 3), (7.18, 41.41)),
        ([15, 45], None, (15, 45)),
    ],
)
def test_the_axes_of_a_pictorial_view_lean_and_shorten_as_asked(angles, shares, leans):
    acting = DrawnPart("pawl", views=["front", "iso"])
    changed(acting, "corner", angles=angles)
    placed_view = acting.placed_view("corner")
    frame = frame_of(acting.part, placed_view.projected.scene.toward, placed_view.projected.scene.up)
    if shares is not None:
        assert foreshortenings(frame) == pytest.approx(shares, abs=1e-9)
    # the front is seen from -Y: X is its width, Y its depth, Z stands upright
    slopes = [math.degrees(math.atan2(abs(frame.up[k]), abs(frame.right[k]))) for k in (0, 1)]
    assert slopes == pytest.approx(leans, abs=0.01)
    assert frame.right[2] == pytest.approx(0.0, abs=1e-12)
    plain = placed_view.transform.scale
    changed(acting, "corner", full=True)
    assert acting.placed_view("corner").transform.scale * max(foreshortenings(frame)) == pytest.approx(plain)


@pytest.mark.parametrize(
    ("look", "changes", "why"),
    [
        ("corner", {"angles": [60, 40]}, "less than 90°"),
        ("front", {"toward": [0, 0, 1], "up": [0, 0, 2]}, "line of sight"),
        ("front", {"breaks": [{"id": "b", "along": "x", "start": 5, "end": 5}]}, "beyond its start"),
        ("front", {"crop": {"outline": {"form": "free", "centre": [0, 0], "points": [[0, 0]]}}}, "three of them"),
        ("front", {"crop": {"outline": None}}, "which half"),
    ],
)
def test_what_no_view_can_be_is_refused_and_says_why(look, changes, why):
    acting = DrawnPart("pawl", views=["front", "iso"])
    with pytest.raises(BadOperation) as told:
        changed(acting, look, **changes)
    assert why in told.value.detail


def test_an_outline_far_larger_than_the_part_costs_no_more_than_others():
    acting = DrawnPart("pawl", views=["front"])
    far = {"outline": {"centre": [0, 0], "half": [1e8, 1e8]}, "edge": "ragged"}
    changed(acting, "front", crop=far, breaks=[{"id": "b", "start": -5, "end": 5, "form": "freehand"}])
    assert len(acting.placed_view("front").transform.window) <= 4000
    assert acting.ink(acting.drawing).of(id_of(acting.drawing, "front")).marks


def test_adjacent_parts_are_drawn_in_their_own_line_and_hide_nothing():
    acting = DrawnPart("small-pedestal-assembly", views=["front"])
    before = {c.source for c in acting.placed_view("front").projected.curves if c.visible}
    changed(acting, "front", adjacent=["Base"])
    part, curves = acting.part, acting.placed_view("front").projected.curves
    base = [b.name for b in part.bodies].index("Base")
    refs = {e.ref for e in part.edges if e.body == base}
    own = [c for c in curves if c.cls == "adjacent"]
    assert own and {c.source for c in own} <= refs | {f.ref for f in part.faces if f.body == base}
    # the studs go into the base, and are seen all along now
    studs = {e.ref for e in part.edges if part.bodies[e.body].name == "Stud"}
    assert len({c.source for c in curves if c.visible} & studs) > len(before & studs)
    pens = {m.pen for m in acting.ink(acting.drawing).of(id_of(acting.drawing, "front")).marks if isinstance(m, Stroke)}
    assert "adjacent" in pens


def test_a_front_of_its_own_direction_is_made_square_and_pulled_from():
    part = part_of(demo_file("angled-keeper"))
    acting = DrawnPart("angled-keeper", views=["front"])
    wish = NewDrawing(part=part.key, views=["front", "top"], toward=(2.0, 0.0, -1.0), up=(0.0, 0.3, 1.0))
    made = new_drawing(acting.projections, wish)
    front = made.front_sheet.views[0]
    assert np.linalg.norm(front.toward) == pytest.approx(1.0)
    assert np.dot(front.toward, front.up) == pytest.approx(0.0, abs=1e-9)
    act = PlaceView(sheet=acting.sheet.id, name="leaf", toward=(0.866, 0, -0.5), up=(0.5, 0, 0.866), to=(80.0, 90.0))
    after = done(acting.projections, acting.drawing, act).front_sheet.views[-1]
    assert (after.kind, after.caption, after.place) == ("principal", "leaf", (80.0, 90.0))
    with pytest.raises(UserError):
        done(acting.projections, acting.drawing, act.model_copy(update={"up": (0.866, 0.0, -0.5)}))


def test_a_part_in_space_is_sent_whole():
    part = part_of(demo_file("small-pedestal-assembly"))
    data = shape_bytes(part)
    length = int.from_bytes(data[:4], "little")
    header, at = json.loads(data[4 : 4 + length]), 4 + length
    arrays = {}
    for a in header["arrays"]:
        count = int(np.prod(a["shape"]))
        arrays[a["name"]] = np.frombuffer(data, "<" + a["type"], count, at).reshape(a["shape"])
        at += 4 * count
    assert at == len(data)
    assert header["bodies"] == [b.name for b in part.bodies]
    nodes, triangles = arrays["nodes"].astype(float), arrays["triangles"]
    # the mesh encloses what the part does (divergence theorem), but for its chords
    p = nodes[triangles]
    volume = float(np.einsum("ij,ij->i", p[:, 0], np.cross(p[:, 1], p[:, 2])).sum() / 6)
    assert volume == pytest.approx(sum(b.volume for b in part.bodies), rel=2e-3)
    assert arrays["line_starts"][-1] == len(arrays["lines"])
    planes = arrays["face_kind"] == 1
    assert np.linalg.norm(arrays["face_axis"][planes], axis=1) == pytest.approx(np.ones(planes.sum()), abs=1e-6)


# ---- centre lines


def solved(acting: DrawnPart, annotation):
    return solve(annotation, acting.context("front"))


def test_the_ring_of_six_holes_has_its_pitch_circle_and_only_once(cover):
    act = PitchCircles(view=id_of(cover.drawing, "front"))
    cover.drawing = done(cover.projections, cover.drawing, act)
    (ring,) = [a for a in cover.sheet.annotations if a.kind == "pitch_circle"]
    found = solved(cover, ring)
    assert found.words == "pitch circle Ø100"
    assert (found.radius, tuple(found.centre)) == (pytest.approx(50.0), pytest.approx((0.0, 0.0), abs=1e-9))
    with pytest.raises(UserError, match="no ring"):
        done(cover.projections, cover.drawing, act)
    with pytest.raises(UserError, match="Three centres"):
        done(cover.projections, cover.drawing, act.model_copy(update={"refs": ring.refs[:2]}))


def hole_at_angle(cover: DrawnPart, degrees: float):
    """The edge of the hole of the ring of Ø100 that the front view shows at an angle."""
    placed_view = cover.placed_view("front")
    want = 50 * np.array([math.cos(math.radians(degrees)), math.sin(math.radians(degrees))])
    rounds = [e for e in cover.part.edges if e.curve.is_circle and e.curve.full_turn]
    return next(
        e
        for e in rounds
        if e.curve.radius < 10 and np.allclose(placed_view.projected.flat(e.curve.origin[None])[0], want, atol=1e-6)
    )


def test_sizes_are_pulled_out_of_a_pitch_circle(cover):
    front = id_of(cover.drawing, "front")
    cover.drawing = done(cover.projections, cover.drawing, PitchCircles(view=front))
    (ring,) = [a for a in cover.sheet.annotations if a.kind == "pitch_circle"]
    x, y = cover.placed_view("front").transform.place
    pick = {"ref": ring.refs[0], "at": f"pitch:{ring.id}", "x": x + 50, "y": y}
    act = PullDimension(view=front, picks=[pick], pointer=(x + 80, y + 60))
    drawing = done(cover.projections, cover.drawing, act)
    size = drawing.front_sheet.annotations[-1]
    assert solved(cover, size).words == "Ø100" and size.says_of() == {}, "it says nothing of the hole itself"
    radius = done(cover.projections, cover.drawing, act.model_copy(update={"wish": "radius"}))
    assert solved(cover, radius.front_sheet.annotations[-1]).words == "R50"
    # six holes: neighbours are 60° apart, one between them left out 120°
    for one, other, pointer, angle in ((30, 90, (x + 40, y + 70), 60.0), (30, 150, (x, y + 80), 120.0)):
        picks = [{"ref": hole_at_angle(cover, a).ref, "x": x, "y": y, "at": "centre"} for a in (one, other)]
        told = done(
            cover.projections, cover.drawing, PullDimension(view=front, picks=[*picks, pick], pointer=pointer)
        ).front_sheet.annotations[-1]
        found = measure(cover.placed_view("front").projected, told)
        assert found.value == pytest.approx(angle, abs=1e-9) and found.apex == pytest.approx([0, 0], abs=1e-9)


def test_a_hole_note_tells_the_pitch_circle(cover):
    front, hole = id_of(cover.drawing, "front"), hole_at_angle(cover, 30)
    stated = done(cover.projections, cover.drawing, StateHole(view=front, ref=hole.ref, pointer=(300, 200)))
    note = stated.front_sheet.annotations[-1]
    plain = solved(cover, note).words
    spaced = solved(cover, note.model_copy(update={"spaced": True})).words
    assert spaced == f"{plain} EQUALLY SPACED ON Ø100" and plain.startswith("6× Ø")


def test_the_ends_of_a_pitch_circle_are_dragged_open_and_closed(cover):
    cover.drawing = done(cover.projections, cover.drawing, PitchCircles(view=id_of(cover.drawing, "front")))
    ring = cover.drawing.front_sheet.annotations[-1]
    x, y = cover.placed_view("front").transform.place

    def dragged(drawing: Drawing, start: float, to: float) -> Drawing:
        a, b = math.radians(start), math.radians(to)
        ends = [(x + 50 * math.cos(t), y + 50 * math.sin(t)) for t in (a, b)]
        return done(cover.projections, drawing, MoveEnd(id=ring.id, start=ends[0], to=ends[1]))

    opened = dragged(cover.drawing, 0, -90)
    (arc,) = [a for a in opened.front_sheet.annotations if a.id == ring.id]
    assert arc.ends == (0.0, 270.0)
    # three quarters of the way round: 0.75 · π · 100
    assert solved(cover, arc).span == pytest.approx((0.0, 1.5 * math.pi))
    (closed,) = [a for a in dragged(opened, -90, 0.5).front_sheet.annotations if a.id == ring.id]
    assert closed.ends is None


def test_a_line_runs_from_a_rim_to_a_free_place_and_follows(cover):
    front, hole = id_of(cover.drawing, "front"), hole_at_angle(cover, 30)
    x, y = cover.placed_view("front").transform.place
    act = DrawLine(
        view=front, form="to", refs=[hole.ref, ""], ats=["rim:30", ""], spots=[(x + 45, y + 26), (x + 10, y + 4)]
    )
    line = done(cover.projections, cover.drawing, act).front_sheet.annotations[-1]
    reach = 50 + hole.curve.radius
    rim = reach * np.array([math.cos(math.radians(30)), math.sin(math.radians(30))])
    assert solved(cover, line).ends == pytest.approx(np.array([rim, [10.0, 4.0]]), abs=1e-6)
    # pointed at anywhere on a circle, it begins there
    turned = act.model_copy(update={"refs": [hole.ref, ""], "ats": ["", ""]})
    again = done(cover.projections, cover.drawing, turned).front_sheet.annotations[-1]
    start = np.array([45.0, 26.0]) - 50 * np.array([math.cos(math.radians(30)), math.sin(math.radians(30))])
    nearest = 50 * np.array([math.cos(math.radians(30)), math.sin(math.radians(30))])
    nearest = nearest + hole.curve.radius * start / np.linalg.norm(start)
    assert solved(cover, again).ends[0] == pytest.approx(nearest, abs=1e-4)


def test_centre_marks_lie_along_a_slanting_view():
    acting = DrawnPart("angled-keeper", views=["front"], scale=1.0)
    part = acting.part
    slanted = [f for f in part.faces if f.surface.kind == "plane" and 0.1 < abs(float(f.surface.axes[2][0])) < 0.99]
    face = max(slanted, key=lambda f: float(np.ptp(part.mesh.nodes[f.nodes], axis=0).sum()))
    act = LookSquare(view=id_of(acting.drawing, "front"), ref=face.ref, to=(60.0, 260.0), partial=False)
    after = done(acting.projections, acting.drawing, act)
    auxiliary = after.front_sheet.views[-1]
    if not any(a.kind == "centre_mark" and a.on == auxiliary.id for a in after.front_sheet.annotations):
        after = done(acting.projections, after, Centres(sheet=after.front_sheet.id, views=[auxiliary.id]))
    mark = next(a for a in after.front_sheet.annotations if a.kind == "centre_mark" and a.on == auxiliary.id)
    context, _ = ActContext(acting.projections).context(after, after.front_sheet, auxiliary.id)
    arms = solve(mark, context).arms
    # the front is seen along Y, which lies in the plane of a view that is square to one of its edges
    y = context.view.transform.direction(context.view.projected.view.flat(np.array([[0.0, 1.0, 0.0]]))[0])
    ways = [(q - p) / np.linalg.norm(q - p) for p, q in arms]
    assert sorted(round(abs(float(w @ y)), 9) for w in ways) == [0.0, 1.0]
    assert min(abs(float(y[0])), abs(float(y[1]))) > 0.1, "that is no way of the paper"


def test_lines_midway_of_symmetry_and_from_place_to_place():
    acting = DrawnPart("catch-box", views=["front"], scale=1.0)
    view, part = id_of(acting.drawing, "front"), acting.part
    middle = (part.low + part.high) / 2

    def line_of(**wish):
        after = done(acting.projections, acting.drawing, DrawLine(view=view, **wish))
        return solved(acting, after.front_sheet.annotations[-1])

    level = line_of(form="symmetry", axis="x")
    assert level.ends[:, 1] == pytest.approx([0.0, 0.0], abs=1e-9)
    assert abs(level.ends[1, 0] - level.ends[0, 0]) == pytest.approx(part.high[0] - part.low[0], abs=1e-6)
    upright = [
        e
        for e in part.edges
        if e.curve.kind == "line"
        and abs(e.points[0][0] - e.points[-1][0]) < 1e-9
        and abs(e.points[0][2] - e.points[-1][2]) > 5
    ]
    left, right = min(upright, key=lambda e: e.points[0][0]), max(upright, key=lambda e: e.points[0][0])
    between = line_of(form="midway", refs=[left.ref, right.ref], ats=["line", "line"])
    expected = (left.points[0][0] + right.points[0][0]) / 2 - middle[0]
    assert between.ends[:, 0] == pytest.approx([expected] * 2, abs=1e-9)
    across = line_of(form="to", refs=[left.ref, right.ref], ats=["start", "start"])
    assert across.pieces[0] != pytest.approx(across.ends), "it goes on a little at both ends"
    with pytest.raises(UserError, match="no line between"):
        line_of(form="to", refs=[left.ref, left.ref], ats=["start", "start"])


def test_an_end_is_dragged_alone_or_with_all_others(cover):
    edge = next(e for e in cover.part.edges if e.curve.is_circle and abs(e.curve.radius - 62) < 1e-6)

    mark = CentreMark(id="e900", on=id_of(cover.drawing, "front"), ref=edge.ref)
    cover.drawing = apply(cover.drawing, Annotate(sheet=cover.sheet.id, annotations=[mark]))
    x, y = cover.placed_view("front").transform.place
    act = MoveEnd(id="e900", start=(x + 64, y), to=(x + 72, y + 1))
    after = done(cover.projections, cover.drawing, act).front_sheet.annotations[-1]
    assert after.arms == (10.0, None, None, None)
    alike = done(cover.projections, cover.drawing, act.model_copy(update={"all_alike": True})).front_sheet.annotations[
        -1
    ]
    assert alike.arms == (10.0,) * 4
    reach = solved(cover, alike).occupies()
    assert np.abs(reach).max() == pytest.approx(72.0, abs=1e-6)


def test_a_section_between_break_lines_stands_in_the_middle_of_its_gap():
    acting = DrawnPart("long-pinion-spindle", views=["front"])
    view = id_of(acting.drawing, "front")
    x, y = acting.placed_view("front").on_sheet(np.array([[200.0, 0.0, 0.0]]))[0]
    acting.drawing = done(acting.projections, acting.drawing, RevolveBetween(view=view, to=(float(x), float(y))))
    section = acting.sheet.views[-1]
    assert section.within
    (gap,) = acting.placed_view("front").transform.gaps
    ends = acting.placed_view("front").transform.to_sheet(np.array([[gap.start, 0.0], [gap.end, 0.0]]))
    box = acting.projections.placed_views(acting.drawing, acting.sheet)[section.id].box
    assert (box.x0 + box.x1) / 2 == pytest.approx(ends[:, 0].mean(), abs=1e-6)
    # Ø40 at this scale, with air on both sides
    assert box.width == pytest.approx(40.0 * acting.sheet.scale, abs=1e-3)
    assert ends[1, 0] - ends[0, 0] == pytest.approx(box.width + 8.0, abs=1e-3)
    with pytest.raises(UserError, match="nothing to cut"):
        done(acting.projections, acting.drawing, RevolveBetween(view=view, to=(float(x) + 900.0, float(y))))


def test_centre_lines_give_way_to_lettering_and_are_whole_again_when_it_goes() -> None:
    """A size of the plate's length whose figure stands on the centre line of its hole, and then beside it."""
    p = Plate(3)
    hole, top = p.circle(*p.at), id_of(p.drawing, "top")
    drawing = apply(
        p.drawing,
        Annotate(
            sheet=p.sheet.id,
            annotations=[
                CentreMark(id="c1", on=top, ref=hole),
                Dimension.model_validate(
                    {
                        "id": "d1",
                        "on": top,
                        "measure": "length",
                        "anchors": [{"ref": p.edge(p.long / 2, p.wide, 0), "at": "line"}],
                        "place": {"frame": "model", "offset": -(p.wide - p.at[1]) - 1.5, "along": p.at[0] - p.long / 2},
                    }
                ),
            ],
        ),
    )

    def drawn(drawing: Drawing) -> tuple[float, float]:
        """How long the centre mark's lines are, and how much of them lies under the figure."""
        elements = {e.id: e for e in p.ink(drawing).elements}
        (text,) = [m for m in elements["d1"].on_sheet() if isinstance(m, Text)]
        lines = shapely.union_all(
            [shapely.LineString(m.curve.points(0.01)) for m in elements["c1"].on_sheet() if isinstance(m, Stroke)]
        )
        return lines.length, lines.intersection(shapely.Polygon(text.corners())).length

    less, under = drawn(drawing)
    assert under == 0
    away = apply(drawing, ChangeAnnotation(id="d1", changes={"place": {"offset": 12.0, "along": 0.0}}))
    whole, _ = drawn(away)
    # of the level line less than 0.8 mm would be left at either end, so none is; the upright one is interrupted by the
    # height of the figure (5 on A1), its box from 0.15 below its foot to its top, and 0.7 beyond
    assert whole - less == pytest.approx(whole / 2 + 1.15 * 5.0 + 2 * 0.7, abs=0.02)
