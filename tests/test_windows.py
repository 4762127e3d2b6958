"""Details, auxiliary, broken and cropped views: what of a view is drawn, where, and how large."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_ShapeEnum as Kind
from OCP.TopExp import TopExp_Explorer

from barequill.core.acts import ChangeSheet, DoOperation, MoveDimension, Spread
from barequill.core.acts.break_view import BreakView
from barequill.core.acts.crop_view import CropView, MoveOutline
from barequill.core.acts.enlarge import Enlarge
from barequill.core.acts.line_up import LineUp, TurnView
from barequill.core.acts.look_square import LookSquare
from barequill.core.acts.outlining import DrawnOutline
from barequill.core.display import Stroke
from barequill.core.drawing import Dimension, Drawing
from barequill.core.drawing.annotations.tolerance_frame import ToleranceFrame
from barequill.core.drawing.operations import Annotate, MoveView, SetView, apply
from barequill.core.errors import UserError
from barequill.core.geometry.curves2 import circle, line
from barequill.core.geometry.within import Strings
from barequill.core.reading import shapes
from barequill.core.reading.step import read_step
from barequill.core.views.view_transform import Gap, ViewTransform
from tools.common import demo_file
from tools.plates import of, on
from tools.sheets import DrawnPart, done, id_of

RING = DrawnOutline(centre=(0.0, 0.0), half=(9.0, 9.0))


def last(drawing: Drawing):
    return drawing.front_sheet.views[-1]


def changed(drawing: Drawing, view: str, **changes) -> Drawing:
    return apply(drawing, SetView(view=view, changes=changes))


@pytest.fixture
def spindle() -> DrawnPart:
    acting = DrawnPart("long-pinion-spindle", views=["front", "top", "left"])
    acting.front = id_of(acting.drawing, "front")
    return acting


def at_part(acting: DrawnPart, look: str, x: float, y: float) -> tuple[float, float]:
    """A place of a view's part (mm from its middle) on the sheet."""
    p = acting.placed_view(look).transform.to_sheet(np.array([[x, y]]))[0]
    return float(p[0]), float(p[1])


def strokes(acting: DrawnPart, view: str, pen: str) -> list:
    element = acting.ink(acting.drawing).of(view)
    return [m.curve for m in element.on_sheet() if isinstance(m, Stroke) and m.pen == pen]


@pytest.mark.parametrize("turn", [0.0, 35.0])
def test_a_stretch_is_taken_out_and_what_is_beyond_keeps_its_lengths(turn):
    transform = ViewTransform((100.0, 50.0), 0.5, turn, gaps=(Gap(0, -20.0, 40.0, 4.0), Gap(1, 5.0, 25.0, 2.0)))
    points = np.array([[-90.0, 0.0], [-20.0, 0.0], [40.0, 0.0], [90.0, 0.0], [90.0, 5.0], [90.0, 25.0]])
    there = transform.to_sheet(points)
    steps = np.linalg.norm(np.diff(there, axis=0), axis=1)
    assert steps == pytest.approx([35.0, 4.0, 25.0, 2.5, 2.0])
    assert transform.from_sheet(there) == pytest.approx(points)
    # the middle of what is left stays where it was
    ends = transform.to_sheet(np.array([[-1000.0, 0.0], [1000.0, 0.0]]))
    assert ends.mean(axis=0) - ViewTransform((100.0, 50.0), 0.5, turn).to_sheet(np.zeros((1, 2)))[0] == pytest.approx(
        transform.direction(np.array([0.0, 0.5 * (20.0 - 4.0) / 2])), abs=1e-9
    )


def test_a_broken_view_is_shorter_by_what_is_taken_out_and_its_sizes_stay_true(spindle):
    before = spindle.placed_view("front").box
    first, second = at_part(spindle, "front", -20.0, 0.0), at_part(spindle, "front", 100.0, 0.0)
    spindle.drawing = done(
        spindle.projections, spindle.drawing, BreakView(view=spindle.front, first=first, second=second)
    )
    after = spindle.placed_view("front").box
    assert before.width - after.width == pytest.approx(120.0 * 0.5 - 4.0, abs=1e-6)
    # the view from above is broken alike, that from the left is not
    assert spindle.placed_view("top").box.width == pytest.approx(after.width, abs=1e-6)
    assert not spindle.placed_view("left").transform.gaps
    # 300 long over all, measured at the ends of the part across the break
    low, high = spindle.part.low[0], spindle.part.high[0]
    size = spindle.pull("front", [((low, 0, 8.0),), ((high, 0, 8.0),)], (40, 60))
    assert spindle.value("front", size) == pytest.approx(high - low, abs=1e-6)
    # nothing of the part is drawn between the break lines
    gap = spindle.placed_view("front").transform.to_sheet(np.array([[-20.0, 0.0], [100.0, 0.0]]))
    inner = shapely.box(gap[0, 0] + 0.01, 0, gap[1, 0] - 0.01, 400)
    lines = [shapely.LineString(c.points(1e-3)) for c in strokes(spindle, spindle.front, "visible")]
    assert lines
    assert not shapely.intersects(inner, lines).any()


def test_stretches_without_features_are_found_and_are_none_where_something_is(spindle):
    spindle.drawing = done(spindle.projections, spindle.drawing, BreakView(view=spindle.front))
    breaks = spindle.drawing.view(spindle.front).breaks
    marks = np.array([c.bounds() for c in spindle.placed_view("front").projected.strings.curves])[:, [0, 2]].ravel()
    assert breaks
    for b in breaks:
        assert not ((marks > b.start) & (marks < b.end)).any()
        assert b.end - b.start > 40.0
    with pytest.raises(UserError, match="nothing left"):
        done(spindle.projections, spindle.drawing, BreakView(view=spindle.front))


def test_a_detail_shows_what_its_ring_holds_larger_and_nothing_else(spindle):
    centre = at_part(spindle, "front", 110.0, 12.0)
    act = Enlarge(view=spindle.front, outline=RING.model_copy(update={"centre": centre}), to=(300.0, 200.0), scale=2.0)
    spindle.drawing = done(spindle.projections, spindle.drawing, act)
    detail = last(spindle.drawing)
    assert detail.letter == "A"
    assert detail.outline.half == pytest.approx((18.0, 18.0))
    placed_view = spindle.projections.placed_views(spindle.drawing, spindle.sheet)[detail.id]
    # the same shot as its parent's: no new projection
    assert placed_view.projected is spindle.placed_view("front").projected
    drawn = strokes(spindle, detail.id, "visible")
    points = np.concatenate([c.points(1e-3) for c in drawn])
    assert np.linalg.norm(points - (300.0, 200.0), axis=1).max() == pytest.approx(36.0, abs=2e-3)
    # as much of each line as a plain polygon cuts off its finely drawn parent
    frame = shapely.Point(110.0, 12.0).buffer(18.0, quad_segs=4000)
    whole = [c for c in placed_view.projected.curves if c.visible and c.cls != "smooth"]
    near = [shapely.LineString(c.curve.points(1e-5) - placed_view.projected.centre) for c in whole]
    expected = 2.0 * sum(line.intersection(frame).length for line in near)
    assert sum(c.length() for c in drawn) == pytest.approx(expected, rel=1e-4)
    words = [e.words for e in spindle.ink(spindle.drawing).elements]
    assert "outline of detail A" in words
    assert "caption A (2:1)" in words


def test_a_detail_follows_its_ring_and_its_feature(spindle):
    edge = next(
        e for e in spindle.part.edges if e.curve.is_circle and abs(e.curve.origin[0] - spindle.part.high[0]) < 30
    )
    outline = DrawnOutline(centre=(0.0, 0.0), ref=edge.ref)
    spindle.drawing = done(
        spindle.projections, spindle.drawing, Enlarge(view=spindle.front, outline=outline, to=(300.0, 200.0))
    )
    detail = last(spindle.drawing)
    assert detail.outline.tie.ref == edge.ref
    middle = (spindle.part.low + spindle.part.high) / 2
    assert detail.outline.centre[0] == pytest.approx(edge.curve.origin[0] - middle[0], abs=1e-6)
    to = at_part(spindle, "front", -120.0, 5.0)
    spindle.drawing = done(spindle.projections, spindle.drawing, MoveOutline(view=detail.id, to=to))
    moved = last(spindle.drawing)
    transform = spindle.projections.placed_views(spindle.drawing, spindle.sheet)[detail.id].transform
    assert transform.about == pytest.approx((-120.0, 5.0), abs=1e-6)
    assert moved.outline.tie.ref == edge.ref
    wider = at_part(spindle, "front", -120.0 + 25.0, 5.0)
    spindle.drawing = done(spindle.projections, spindle.drawing, MoveOutline(view=detail.id, to=wider, size=True))
    assert last(spindle.drawing).outline.half == pytest.approx((25.0, 25.0))


def true_areas(stem: str) -> list[float]:
    """Areas of the plane faces of a demo part, by the kernel."""
    found = []
    for raw in read_step(demo_file(stem), stem)[0]:
        faces = TopExp_Explorer(raw.shape, Kind.TopAbs_FACE)
        while faces.More():
            properties = GProp_GProps()
            BRepGProp.SurfaceProperties_s(faces.Current(), properties)
            found.append(properties.Mass())
            faces.Next()
    return found


def test_an_auxiliary_view_shows_a_slanted_face_in_its_true_area():
    acting = DrawnPart("angled-keeper", views=["front", "top"])
    front, part = id_of(acting.drawing, "front"), acting.part
    slanted = [
        k for k, f in enumerate(part.faces) if f.surface.kind == "plane" and 0.01 < abs(f.surface.axes[2][0]) < 0.99
    ]
    largest = max(slanted, key=lambda k: float(np.ptp(part.mesh.nodes[part.faces[k].nodes], axis=0).sum()))
    act = LookSquare(view=front, ref=part.faces[largest].ref, to=(60.0, 260.0), partial=False)
    acting.drawing = done(acting.projections, acting.drawing, act)
    view = last(acting.drawing)
    placed_view = acting.projections.placed_views(acting.drawing, acting.sheet)[view.id]
    own = {part.edges[e].ref for e in part.faces[largest].boundary}
    loops = [c.curve.points(1e-7) for c in placed_view.projected.curves if own & {c.source, *c.also}]
    rings = shapely.get_parts(shapely.polygonize([shapely.LineString(np.round(p, 7)) for p in loops]))
    assert len(rings)
    area = max(r.area for r in rings)
    assert min(abs(area - a) / a for a in true_areas("angled-keeper")) < 1e-6
    # it stands on its line: square to the slanted edge, from the front view
    off = np.array(view.place) - acting.placed_view("front").transform.place
    assert abs(off @ np.array(view.along)) < 1e-9
    # moved, it stays on it; untied, it goes where it is wanted, and is known by a letter
    moved = apply(acting.drawing, MoveView(view=view.id, to=(view.place[0] - 20.0, view.place[1])))
    step = np.array(last(moved).place) - view.place
    assert abs(step @ np.array(view.along)) < 1e-9
    assert np.linalg.norm(step) > 5.0
    free = changed(acting.drawing, view.id, tied=False)
    assert last(free).letter == "A"
    acting.drawing = apply(free, MoveView(view=view.id, to=(300.0, 100.0)))
    words = [e.words for e in acting.ink(acting.drawing).elements]
    assert "arrow of view A" in words
    assert "caption A" in words


def test_a_partial_auxiliary_view_leaves_out_what_is_foreshortened():
    acting = DrawnPart("angled-keeper", views=["front"])
    part = acting.part
    slanted = [f for f in part.faces if f.surface.kind == "plane" and 0.01 < abs(f.surface.axes[2][0]) < 0.99]
    face = max(slanted, key=lambda f: float(np.ptp(part.mesh.nodes[f.nodes], axis=0).sum()))
    whole, partial = (
        done(
            acting.projections,
            acting.drawing,
            LookSquare(view=id_of(acting.drawing, "front"), ref=face.ref, to=(60.0, 260.0), partial=share),
        )
        for share in (False, True)
    )
    boxes = [acting.projections.placed_views(d, d.front_sheet)[last(d).id].box for d in (whole, partial)]
    assert boxes[1].width * boxes[1].height < 0.8 * boxes[0].width * boxes[0].height
    with pytest.raises(UserError, match="no direction"):
        round_edge = next(e for e in part.edges if e.curve.is_circle)
        done(
            acting.projections,
            acting.drawing,
            LookSquare(view=id_of(acting.drawing, "front"), ref=round_edge.ref, to=(0, 0)),
        )


def test_a_cropped_view_keeps_what_lies_within_and_gets_the_rest_back(spindle):
    before = spindle.placed_view("front").box
    outline = DrawnOutline(form="rectangle", centre=at_part(spindle, "front", 0.0, 0.0), half=(20.0, 30.0))
    spindle.drawing = done(
        spindle.projections, spindle.drawing, CropView(view=spindle.front, outline=outline, edge="plain")
    )
    box = spindle.placed_view("front").box
    assert (box.x1 - box.x0) == pytest.approx(40.0, abs=1e-3)
    # half of a symmetrical view ends at its centre line, which is marked with two strokes at either end
    spindle.drawing = changed(spindle.drawing, spindle.front, crop={"outline": None, "halves": [1, 0], "edge": "none"})
    half = spindle.placed_view("front").box
    assert half.x0 == pytest.approx(spindle.placed_view("front").transform.place[0], abs=1e-6)
    assert half.x1 == pytest.approx(before.x1, abs=1e-6)
    assert len(strokes(spindle, spindle.front, "dimension")) == 4
    spindle.drawing = changed(spindle.drawing, spindle.front, crop=None)
    assert spindle.placed_view("front").box == before


def test_views_are_turned_and_lined_up():
    acting = DrawnPart("angled-keeper", views=["front", "top"])
    front, top = id_of(acting.drawing, "front"), id_of(acting.drawing, "top")
    slanted = next(
        e
        for e in acting.part.edges
        if e.curve.kind == "line" and abs((w := e.points[-1] - e.points[0])[0]) > 0.1 and abs(w[2]) > 1.0
    )
    acting.drawing = done(acting.projections, acting.drawing, TurnView(view=front, ref=slanted.ref))
    ends = acting.placed_view("front").on_sheet_each(slanted.points[[0, -1]])
    assert min(abs(ends[1] - ends[0])) == pytest.approx(0.0, abs=1e-6)
    assert abs(acting.drawing.view(front).turn) == pytest.approx(30.0, abs=1e-6)
    caption = next(e for e in acting.ink(acting.drawing).elements if e.kind == "caption" and e.group == front)
    assert caption.words.endswith("turned by 30°")
    corner = slanted.ref
    act = LineUp(view=top, ref=corner, at="start", other=front, other_ref=corner, other_at="start", how="upright")
    acting.drawing = done(acting.projections, acting.drawing, act)
    spots = [acting.placed_view(look).on_sheet_each(slanted.points[:1])[0] for look in ("front", "top")]
    assert spots[0][0] == pytest.approx(spots[1][0], abs=1e-6)
    assert not acting.drawing.view(top).tied

    def apart(axis: int) -> float:
        return float(
            np.subtract(*(acting.placed_view(v).on_sheet_each(slanted.points[:1])[0] for v in ("front", "top")))[axis]
        )

    # held so: it follows the other, its own scale and that of the sheet, and goes only up and down by hand
    x, y = acting.drawing.view(top).place
    fx, fy = acting.drawing.view(front).place
    for act in (
        DoOperation(operation=MoveView(view=front, to=(fx + 31, fy + 7))),
        DoOperation(operation=MoveView(view=top, to=(x + 50, y - 9))),
        DoOperation(operation=SetView(view=top, changes={"scale": 0.4})),
        ChangeSheet(sheet=acting.sheet.id, size="A2"),
    ):
        acting.drawing = done(acting.projections, acting.drawing, act)
        assert apart(0) == pytest.approx(0.0, abs=1e-6)
    with pytest.raises(UserError, match="held in line with this one"):
        done(acting.projections, acting.drawing, LineUp(view=front, ref=corner, other=top, other_ref=corner))
    both = LineUp(view=top, ref=corner, at="end", other=front, other_ref=corner, other_at="end", how="level")
    acting.drawing = done(acting.projections, acting.drawing, both)
    assert {h.way for h in acting.drawing.view(top).lined} == {"level", "upright"}
    free = DoOperation(operation=SetView(view=top, changes={"lined": []}))
    acting.drawing = done(acting.projections, acting.drawing, free)
    acting.drawing = done(acting.projections, acting.drawing, DoOperation(operation=MoveView(view=top, to=(9, 9))))
    assert acting.drawing.view(top).place == (9, 9)


def test_spreading_and_rescaling_keep_details_clear_and_auxiliary_views_on_their_line():
    acting = DrawnPart("angled-keeper", views=["front", "top", "left", "iso"])
    front, part = id_of(acting.drawing, "front"), acting.part
    face = next(f for f in part.faces if f.surface.kind == "plane" and abs(f.surface.axes[2][0] - 0.8660254) < 1e-6)
    acting.drawing = done(acting.projections, acting.drawing, LookSquare(view=front, ref=face.ref, to=(60.0, 260.0)))
    edge = next(e for e in part.edges if e.curve.is_circle)
    ring = DrawnOutline(centre=(0.0, 0.0), ref=edge.ref)
    acting.drawing = done(acting.projections, acting.drawing, Enlarge(view=front, outline=ring, to=(150.0, 150.0)))
    before = acting.projections.placed_views(acting.drawing, acting.sheet)
    for act in (Spread(sheet=acting.sheet.id), ChangeSheet(sheet=acting.sheet.id, scale=0.5)):
        acting.drawing = done(acting.projections, acting.drawing, act)
        placed_views = acting.projections.placed_views(acting.drawing, acting.sheet)
        detail, aux = (next(p for p in placed_views.values() if p.view.kind == k) for k in ("detail", "auxiliary"))
        others = [p.box for p in placed_views.values() if p.view.id not in (detail.view.id, aux.view.id)]
        assert not any(detail.box.overlaps(b) for b in others)
        off = np.array(aux.transform.place) - placed_views[front].transform.place
        assert abs(off @ np.array(aux.view.along)) < 1e-6
        assert detail.scale == before[detail.view.id].scale


def test_a_circle_that_begins_within_an_outline_is_cut_where_it_leaves_it():
    ring = circle((0.0, 0.0), 10.0)
    strings = Strings([ring, line((-20, 4), (20, 4))], 1e-5)
    (_, arc), (_, chord) = strings.within(shapely.box(6.0, -20.0, 30.0, 20.0))
    half = math.acos(0.6)
    assert arc.kind == "conic" and arc.t1 - arc.t0 == pytest.approx(2 * half, abs=1e-9)
    assert arc.points(1e-4)[:, 0].min() == pytest.approx(6.0, abs=1e-9)
    assert chord.poles == pytest.approx(np.array([[6.0, 4.0], [20.0, 4.0]]))
    # a window in two pieces leaves two arcs
    pieces = strings.within(shapely.box(-20, 8, 20, 20).union(shapely.box(-20, -20, 20, -8)))
    assert [k for k, _ in pieces] == [0, 0]
    assert sum(c.length() for _, c in pieces) == pytest.approx(2 * 20 * math.acos(0.8), rel=1e-9)


def test_a_size_is_carried_to_a_detail_and_back_with_its_look(spindle):
    act = Enlarge(
        view=spindle.front,
        outline=RING.model_copy(update={"centre": at_part(spindle, "front", 122.0, 17.0), "half": (3.0, 3.0)}),
        to=(300.0, 90.0),
        scale=5.0,
    )
    # the undercut, from 330 to 334 mm
    size = spindle.pull("front", [((330, 0, 19),), ((334, 0, 15.5),)], (40, 60))
    size = size.model_copy(update={"suffix": " min", "on": spindle.front})
    spindle.drawing = apply(spindle.drawing, Annotate(sheet=spindle.sheet.id, annotations=[size]))
    spindle.drawing = done(spindle.projections, spindle.drawing, act)
    detail = last(spindle.drawing)
    box = spindle.projections.placed_views(spindle.drawing, spindle.sheet)[detail.id].box
    there = done(
        spindle.projections, spindle.drawing, MoveDimension(id=size.id, pointer=((box.x0 + box.x1) / 2, box.y1 + 9))
    )
    (carried,) = [a for a in there.front_sheet.annotations if a.kind == "dimension"]
    assert (carried.on, carried.suffix) == (detail.id, " min")
    dims = spindle.ink(there).dimensions
    assert [d.text for d in dims.values()] == ["4 min"]
    first, second = (np.array(dims[carried.id].points[k]) for k in ("first", "second"))
    assert abs(second[0] - first[0]) == pytest.approx(4.0 * 5.0, abs=1e-6)
    front = spindle.placed_view("front").box
    back = done(spindle.projections, there, MoveDimension(id=carried.id, pointer=(front.x1 - 40, front.y1 + 12)))
    assert next(a for a in back.front_sheet.annotations if a.kind == "dimension").on == spindle.front
    # what the detail does not show stays
    other = spindle.pull("front", [((30, 0, 15),)], (40, 60)).model_copy(update={"id": "e950"})
    full = apply(spindle.drawing, Annotate(sheet=spindle.sheet.id, annotations=[other]))
    kept = done(spindle.projections, full, MoveDimension(id="e950", pointer=((box.x0 + box.x1) / 2, box.y1 + 9)))
    assert next(a for a in kept.front_sheet.annotations if a.id == "e950").on == spindle.front


def test_a_size_is_dragged_to_another_view_that_shows_the_same_with_what_is_stacked_under_it() -> None:
    """A block of 100 × 60 × 20: its 60 are seen from above and from the left, its 100 from above and from the front alone."""
    p = of(shapes.box((0, 0, 0), (100, 60, 20)), views=("front", "top", "left"))
    top = id_of(p.drawing, "top")
    deep = Dimension(
        id="e900",
        on=top,
        measure="distance",
        direction="vertical",
        suffix=" TYP",
        anchors=[on(p.edge(0, 30, 20), at) for at in ("start", "end")],
    )
    long = Dimension(id="e901", on=top, measure="length", anchors=[on(p.edge(50, 0, 20))])
    frame = ToleranceFrame(
        id="e902",
        on=deep.id,
        frame={"rows": [{"characteristic": "straightness", "value": 0.1}]},  # type: ignore[arg-type]
    )
    p.drawing = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[deep, long, frame]))

    def dragged(own: str, look: str) -> tuple[MoveDimension, Drawing]:
        box = p.placed_view(look).box
        act = MoveDimension(id=own, pointer=((box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2))
        return act, done(p.projections, p.drawing, act)

    _, there = dragged(deep.id, "left")
    carried = next(a for a in there.front_sheet.annotations if isinstance(a, Dimension) and a.suffix == " TYP")
    assert (carried.on, carried.direction) == (id_of(p.drawing, "left"), "aligned")
    words = {e.id: e.words for e in p.ink(there).elements}
    assert words[carried.id] == "60 TYP"
    assert [a.on for a in there.front_sheet.annotations if a.kind == "tolerance_frame"] == [carried.id]
    act, kept = dragged("e901", "left")
    assert next(a for a in kept.front_sheet.annotations if a.id == "e901").on == top
    assert act.preview(p.drawing, p.acts).words.endswith("the left view does not show it")
