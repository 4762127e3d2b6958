"""Scenes, charts and what hangs on them: bodies alone, turned views, another face as the front."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from barequill.core import project
from barequill.core.acts import Centres, Paste, TurnFront
from barequill.core.cutting import beyond
from barequill.core.display import Sketch, box_of
from barequill.core.drawing import Dimension, apply
from barequill.core.drawing.operations import Annotate, MoveView, SetField, SetView
from barequill.core.errors import BadOperation
from barequill.core.kinds import solve
from barequill.core.measuring.context import LayoutContext
from barequill.core.part.chosen import body_names, only
from barequill.core.reading import shapes
from barequill.core.sheet.display_cache import DisplayCache
from barequill.core.sheet.elements import solved
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.directions import cameras
from barequill.core.views.placed_view import PlacedView
from barequill.core.views.projecting import take
from barequill.core.views.scene import Scene
from barequill.core.views.view_transform import ViewTransform
from tools.common import demo_file, part_of
from tools.made_parts import bodies
from tools.sheets import DrawnPart, done, drawing_of, id_of, places, projections_of


@pytest.fixture(scope="module")
def assembly():
    return part_of(demo_file("small-pedestal-assembly"))


def test_a_body_alone_is_what_its_own_file_would_be(assembly) -> None:
    names = body_names(assembly)
    assert len(set(names)) == len(names) == len(assembly.bodies) > 1
    for k, name in enumerate(names):
        alone = only(assembly, [name])
        assert [f.ref for f in alone.faces] == [f.ref for f in assembly.faces if f.body == k]
        assert alone.volume == pytest.approx(assembly.bodies[k].volume)
        # the mesh holds the body's own area
        t = alone.mesh.nodes[alone.mesh.triangles]
        area = np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1).sum() / 2
        assert area == pytest.approx(assembly.bodies[k].area, rel=5e-3)
    assert only(assembly, names) is assembly and not only(assembly, ["no such"]).faces


def test_what_another_body_hides_is_seen_where_it_is_shown_alone() -> None:
    inner = shapes.box((5, 5, 5), (10, 10, 10))
    part = bodies(shapes.cut(shapes.box((0, 0, 0), (20, 20, 20)), shapes.box((4, 4, 4), (12, 12, 12))), inner)
    toward, up = (0.3, -0.8, 0.5), (0, 0, 1)
    names = body_names(part)
    own = {e.ref for e in part.edges if e.body == 1}
    both = [c for c in project(part, toward, up) if c.source in own]
    alone = project(only(part, [names[1]]), toward, up)
    assert both and not any(c.visible for c in both)
    assert {c.source for c in alone} == own
    # of a cube's twelve edges nine are seen
    assert len({c.source for c in alone if c.visible}) == 9


def test_bodies_of_one_name_are_told_apart_also_among_some_of_them() -> None:
    """Three pins of one name: without the first, the others are still the second and the third, and stay whole as such."""
    part = bodies(*(shapes.box((20 * k, 0, 0), (10, 10, 10)) for k in range(3)))
    part = replace(part, bodies=tuple(replace(b, name="pin") for b in part.bodies))
    assert body_names(part) == ["pin", "pin (2)", "pin (3)"]
    assert body_names(only(part, ["pin (2)", "pin (3)"])) == ["pin (2)", "pin (3)"]
    cut = replace(beyond([((0, 5, 0), (0, -1, 0))]), whole=("pin (2)",))
    found = take(part, Scene("a" * 24, (0, -1, 0), (0, 0, 1), bodies=("pin (2)", "pin (3)"), cut=cut))
    assert [r.body for r in found.regions] == ["pin (3)"]


def test_what_reaches_out_of_a_cut_covers_its_face_where_it_stands_before_it() -> None:
    """A key that stays whole lies in a slot, half before the cut and half behind. Seen from above it covers nothing of the
    face above the slot: what of it lies behind the cut counts for nothing, though it would be seen there."""
    outline = [(0, 0), (15, 0), (15, 5), (25, 5), (25, 0), (40, 0), (40, 10), (0, 10)]
    block = shapes.prism([(x, 0, z) for x, z in outline], (0, 40, 0))
    part = bodies(block, shapes.box((15, 15, 0), (10, 24, 5)))
    cut = replace(beyond([((0, 20, 0), (0, -1, 0))]), whole=("body 1",))
    for look, area in (((0.0, -1.0, 1.0), (40 * 10 - 10 * 5) * math.sqrt(0.5)), ((0.0, -1.0, 0.0), 350.0)):
        found = take(part, Scene("a" * 24, look, (0, 0, 1), cut=cut))
        (region,) = found.regions
        assert shapely.Polygon(region.rings[0], region.rings[1:]).area == pytest.approx(area, rel=1e-5)
    # from the side it covers what lies behind its five millimetres: a strip of 5 mm in the middle of the foot
    found = take(part, Scene("a" * 24, (1.0, -1.0, 0.0), (0, 0, 1), cut=cut))
    whole = sum(shapely.Polygon(r.rings[0], r.rings[1:]).area for r in found.regions)
    assert whole == pytest.approx((350 - 5 * 5) * math.sqrt(0.5), rel=1e-5)


def test_a_view_of_one_body_takes_the_room_of_that_body_and_stays_in_line(assembly) -> None:
    projections = projections_of(assembly)
    drawing = drawing_of(projections, assembly, size="A3", views=["front", "top"], centres=False)
    front = id_of(drawing, "front")
    name = body_names(assembly)[-1]
    after = apply(drawing, SetView(view=front, changes={"bodies": [name]}))
    whole, one = (projections.placed_views(d, d.front_sheet)[front] for d in (drawing, after))
    assert one.projected.scene != whole.projected.scene and one.projected.scene.digest != whole.projected.scene.digest
    nodes = only(assembly, [name]).mesh.nodes
    expected = one.on_sheet(nodes)
    assert (one.box.x0, one.box.x1) == pytest.approx((expected[:, 0].min(), expected[:, 0].max()), abs=0.05)
    corner = assembly.low[None]
    assert one.on_sheet(corner) == pytest.approx(whole.on_sheet(corner)), "where it stood in the whole"


def test_a_scene_is_named_by_all_that_it_shows() -> None:
    scene = Scene("k", (0, -1, 0), (0, 0, 1))
    others = [
        Scene("k2", (0, -1, 0), (0, 0, 1)),
        Scene("k", (0, 1, 0), (0, 0, 1)),
        Scene("k", (0, -1, 0), (1, 0, 0)),
        Scene("k", (0, -1, 0), (0, 0, 1), ("a",)),
        Scene("k", (0, -1, 0), (0, 0, 1), ("a", "b")),
    ]
    assert len({s.digest for s in [scene, *others]}) == 6
    assert Scene("k", (0, -1, 0), (0, 0, 1), ("b", "a")).digest == others[-1].digest


@pytest.mark.parametrize("turn", [0.0, 30.0, 90.0, -135.0])
def test_a_chart_goes_to_the_sheet_and_back(turn: float) -> None:
    transform = ViewTransform((120.0, 80.0), 0.5, turn)
    points = np.array([[0.0, 0], [40, 0], [-3, 17.5]])
    there = transform.to_sheet(points)
    assert transform.from_sheet(there) == pytest.approx(points)
    a = math.radians(turn)
    assert there[1] == pytest.approx([120 + 20 * math.cos(a), 80 + 20 * math.sin(a)])


@pytest.mark.parametrize("turn", [30.0, 90.0])
def test_a_size_of_a_turned_view_turns_with_it_and_says_the_same(turn: float) -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.5)
    length = acting.pull("front", [((0, -40, 0),)], (30, -11))
    bore = acting.pull("front", [((14.142, -20, 94.142),)], (60, 70))
    context = acting.context("front")
    placed_view = context.view
    turned = LayoutContext(
        context.drawing,
        context.sheet,
        context.style,
        PlacedView(placed_view.view, placed_view.projected, ViewTransform((0.0, 0.0), placed_view.scale, turn)),
    )
    for dimension in (length, bore):
        before, after = solve(dimension, context), solve(dimension, turned)
        assert before.words == after.words
    a = math.radians(turn)
    matrix = np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])
    straight, tilted = solve(length, context), solve(length, turned)
    assert tilted.starts == pytest.approx(straight.starts @ matrix) or tilted.starts == pytest.approx(
        (straight.starts @ matrix)[::-1]
    )
    apart = np.linalg.norm(tilted.feet[1] - tilted.feet[0])
    assert apart == pytest.approx(116 * 0.5), "still 116 long"


def test_another_face_as_the_front_turns_the_family_and_says_which_sizes_are_loose() -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.5, views=["front", "top", "left"])
    sizes = [
        acting.pull("front", [((0, -40, 0),)], (30, -11)),
        acting.pull("left", [((-60, 0, 0),)], (20, -11)).model_copy(update={"id": "d901"}),
    ]
    drawing = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=sizes))
    drawing = done(acting.projections, drawing, Centres(sheet=acting.sheet.id))
    after = done(acting.projections, drawing, TurnFront(view=id_of(drawing, "front"), face="-X"))
    seen = cameras(after)
    looks = {v.look: seen[v.id][0] for v in after.front_sheet.views}
    # from −X the left side of the part is what was its back
    assert looks == {"front": (-1, 0, 0), "top": (0, 0, 1), "left": (0, 1, 0)}
    p = places(after)
    assert p["left"][1] == pytest.approx(p["front"][1]) and p["top"][0] == pytest.approx(p["front"][0])
    words = {i: s.words for i, (s, _) in solved(after, after.front_sheet, acting.projections).items()}
    # 116 runs along X, which is now looked along; the foot's width of 80, seen from the left before, still shows
    assert words["d900"] == "? Both ends coincide in this view"
    marks = [w for i, w in words.items() if i not in ("d900", "d901")]
    assert marks and not any("loose" in w for w in marks), "centres are those of what is seen now"
    with pytest.raises(BadOperation, match="follows its parent"):
        done(acting.projections, drawing, TurnFront(view=id_of(drawing, "top"), face="-X"))


def test_what_is_solved_is_where_its_ink_goes() -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.5)
    for dimension in (
        acting.pull("front", [((0, -40, 0),)], (30, -11)),
        acting.pull("front", [((14.142, -20, 94.142),)], (60, 70)),
        acting.pull("left", [((0, -40, 8),), ((0, 40, 8),)], (20, -11)),
    ):
        look = next(v.look for v in acting.sheet.views if v.id == dimension.on)
        found = solve(dimension, acting.context(look))
        sketch = Sketch(acting.context(look).style.lines)
        found.draw(sketch)
        box = box_of(sketch.marks)
        assert box is not None and found.box.grown(1.0).holds(box)
        assert set(found.stands_on) == {a.ref for a in dimension.anchors}


def test_what_does_not_change_is_not_drawn_again() -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.5)
    size = acting.pull("front", [((0, -40, 0),)], (30, -11))
    drawing = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[size]))
    display_cache = DisplayCache()

    def ink(d):
        return {e.id: e for e in draw_sheet(d, d.front_sheet, acting.projections, display_cache).elements}

    before = ink(drawing)
    front = id_of(drawing, "front")
    x, y = drawing.front_sheet.view(front).place
    moved = ink(apply(drawing, MoveView(view=front, to=(x + 5, y))))
    for own in (front, "d900"):
        assert moved[own].marks is before[own].marks and moved[own].at == pytest.approx((x + 5, y))
    filled = ink(apply(drawing, SetField(field="title", value="Other")))
    assert [i for i in filled if filled[i] is not before[i] and filled[i].key != before[i].key] == ["sheet"]
    coarse = ink(apply(drawing, SetView(view=front, changes={"scale": 0.2})))
    assert coarse["d900"].key != before["d900"].key


def test_an_annotation_can_hang_on_another_and_goes_with_it() -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.5)
    first = acting.pull("front", [((0, -40, 0),)], (30, -11))
    second: Dimension = first.model_copy(update={"id": "d901", "on": "d900"})
    drawing = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[first, second]))
    assert [e.group for e in acting.ink(drawing).elements if e.kind == "dimension"] == [first.on, first.on]
    from barequill.core.drawing.operations import Remove

    assert not apply(drawing, Remove(ids=["d900"])).front_sheet.annotations


def test_what_is_put_on_another_view_is_what_can_be_measured_there() -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.2, views=["front", "back", "left", "top"])
    length = acting.pull("front", [((0, -40, 0),)], (30, -11))
    picks = [((-58, -40, 0), "start"), ((20, -20, 80), "centre")]
    high = acting.pull("front", picks, (-11, 20), "vertical").model_copy(update={"id": "d901"})
    drawing = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[length, high]))

    def put(look: str, *annotations):
        return done(acting.projections, drawing, Paste(on=id_of(drawing, look), annotations=list(annotations)))

    after = put("back", length, high)
    words = {s.words for s, _ in solved(after, after.front_sheet, acting.projections).values()}
    assert len(after.front_sheet.annotations) == 4 and words == {"116", "80"}
    assert after.front_sheet.annotations[-1].on == id_of(after, "back")
    # the view from the left looks along the edge of 116, and shows the height of the bore
    left = put("left", length, high).front_sheet.annotations
    assert [a.on == id_of(drawing, "left") for a in left] == [False, False, True]
    with pytest.raises(BadOperation, match="None of it fits"):
        put("left", length)
    with pytest.raises(BadOperation, match="None of it fits"):
        put("front", length)
    # a centre mark goes where its circle is seen face on
    marked = done(acting.projections, drawing, Centres(sheet=acting.sheet.id, views=[id_of(drawing, "front")]))
    mark = next(a for a in marked.front_sheet.annotations if a.kind == "centre_mark")
    with pytest.raises(BadOperation, match="None of it fits"):
        done(acting.projections, marked, Paste(on=id_of(marked, "left"), annotations=[mark]))
    assert done(acting.projections, marked, Paste(on=id_of(marked, "back"), annotations=[mark]))


def test_the_centre_of_a_fillet_is_marked_by_choice() -> None:
    acting = DrawnPart("spindle-pedestal", scale=0.5)
    top = id_of(acting.drawing, "top")
    corner = acting.pick("top", (70 - 12 + 12 * 0.7071, 40 - 12 + 12 * 0.7071, 16))
    after = done(acting.projections, acting.drawing, Centres(sheet=acting.sheet.id, views=[top], refs=[corner.ref]))
    (mark,) = after.front_sheet.annotations
    found = solve(mark, acting.context("top"))
    assert found.arms.reshape(-1, 2).mean(axis=0) == pytest.approx(
        acting.placed_view("top").still().on_sheet(np.array([[58, 28, 16.0]]))[0]
    )
    with pytest.raises(BadOperation, match="already"):
        done(acting.projections, after, Centres(sheet=acting.sheet.id, views=[top], refs=[corner.ref]))
