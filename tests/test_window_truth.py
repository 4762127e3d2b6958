"""Lengths and lines of broken, enlarged, cropped and auxiliary views, beside the kernel's figures and the judge's rays."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
import shapely
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.TopAbs import TopAbs_ShapeEnum as Kind
from OCP.TopoDS import TopoDS

from barequill.core.acts import MoveDimension
from barequill.core.acts.break_view import BreakView
from barequill.core.acts.crop_view import CropView
from barequill.core.acts.enlarge import Enlarge
from barequill.core.acts.leave_lines import LeaveLines
from barequill.core.acts.look_square import LookSquare
from barequill.core.acts.outlining import DrawnOutline
from barequill.core.acts.place_view import PlaceView
from barequill.core.annotation.measuring import measure
from barequill.core.annotation.remarks import remarks_on
from barequill.core.drawing import Anchor, Break, Dimension, Drawing, Place
from barequill.core.drawing.operations import Annotate, SetView, apply
from barequill.core.drawing.windows import Hold
from barequill.core.errors import UserError
from barequill.core.ink import Stroke
from barequill.core.part.reading import _read_step
from barequill.core.standards.sheets import drawing_space
from barequill.core.views.cutting_lines import frame_of
from barequill.core.views.windows import standing

from .conftest import demo_file
from .made_parts import bodies
from .revisions import built
from .sheets import Bench, done, id_of
from .truth import _explore, sample


def shapes_of(stem: str) -> list:
    return [raw.shape for raw in _read_step(demo_file(stem), stem)[0]]


def corners_of(stem: str) -> np.ndarray:
    """The vertices (n, 3) of a demo part, by the kernel."""
    found = {
        tuple(round(x, 9) for x in BRep_Tool.Pnt_s(TopoDS.Vertex(v)).Coord())
        for shape in shapes_of(stem)
        for v in _explore(shape, Kind.TopAbs_VERTEX)
    }
    return np.array(sorted(found))


def lengths_of(stem: str) -> np.ndarray:
    """Lengths of all edges of a demo part, by the kernel."""
    edges = [TopoDS.Edge(e) for shape in shapes_of(stem) for e in _explore(shape, Kind.TopAbs_EDGE)]
    return np.array(
        [GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(e)) for e in edges if not BRep_Tool.Degenerated_s(e)]
    )


def last(drawing: Drawing):
    return drawing.front_sheet.views[-1]


def picture_of(bench: Bench, view: str):
    return bench.studio.pictures(bench.drawing, bench.sheet)[view]


def spindle() -> Bench:
    bench = Bench("long-pinion-spindle", views=["front", "left"])
    bench.front = id_of(bench.drawing, "front")
    return bench


def at(bench: Bench, x: float, y: float) -> tuple[float, float]:
    p = bench.picture("front").chart.to_sheet(np.array([[x, y]]))[0]
    return float(p[0]), float(p[1])


def between(bench: Bench, view: str, one, two, direction: str) -> tuple[float, np.ndarray]:
    """A distance as it is measured in a view between the ends of two edges, and its feet on the sheet."""
    anchors = [Anchor(ref=ref, at=end) for ref, end in (one, two)]
    size = Dimension(id="d1", on=view, measure="distance", anchors=anchors, direction=direction, place=Place())
    stated = apply(bench.drawing, Annotate(sheet=bench.sheet.id, annotations=[size]))
    points = bench.ink(stated).dimensions["d1"].points
    return measure(picture_of(bench, view).shot, size).value, np.array([points["first"], points["second"]])


def test_lengths_across_breaks_and_in_details_are_the_kernels() -> None:
    bench = spindle()
    known = corners_of("long-pinion-spindle")
    bench.drawing = done(bench.studio, bench.drawing, BreakView(view=bench.front))
    ring = DrawnOutline(form="rectangle", centre=at(bench, 110.0, 0.0), half=(40.0, 30.0))
    bench.drawing = done(bench.studio, bench.drawing, Enlarge(view=bench.front, outline=ring, to=(300, 90), scale=2.0))
    detail = last(bench.drawing).id
    ends = {}
    for e in bench.part.edges:
        for name, t in (("start", e.curve.t0), ("end", e.curve.t1)):
            p = e.curve.point(t)
            # the kernel has a vertex there
            assert np.linalg.norm(known - p, axis=1).min() < 1e-6
            ends.setdefault(tuple(np.round(p, 3)), (e.ref, name, known[np.linalg.norm(known - p, axis=1).argmin()]))
    cases = within = 0
    for (r1, n1, p), (r2, n2, q) in list(combinations(ends.values(), 2))[::7]:
        for axis, direction in ((0, "horizontal"), (2, "vertical")):
            expected = abs(p[axis] - q[axis])
            if expected < 1e-6:
                continue
            value, feet = between(bench, bench.front, (r1, n1), (r2, n2), direction)
            assert value == pytest.approx(expected, abs=1e-6)
            cases += 1
            picture = picture_of(bench, detail)
            if not picture.chart.shows(picture.shot.flat_each(np.array([p, q]))).all():
                continue
            # in the detail the feet stand as far apart as the length at its scale
            value, feet = between(bench, detail, (r1, n1), (r2, n2), direction)
            assert abs(np.diff(feet[:, 0 if axis == 0 else 1])[0]) == pytest.approx(2.0 * expected, abs=1e-6)
            assert value == pytest.approx(expected, abs=1e-6)
            within += 1
    assert cases >= 40 and within >= 5


def test_lengths_along_an_auxiliary_view_are_those_of_its_edges() -> None:
    bench = Bench("angled-keeper", views=["front", "top"])
    part, true = bench.part, lengths_of("angled-keeper")
    face = next(f for f in part.faces if f.surface.kind == "plane" and 0.1 < abs(f.surface.axes[2][0]) < 0.95)
    act = LookSquare(view=id_of(bench.drawing, "front"), ref=face.ref, to=(60.0, 260.0), partial=False)
    bench.drawing = done(bench.studio, bench.drawing, act)
    view = last(bench.drawing)
    straight = [part.edges[e] for e in face.boundary if part.edges[e].curve.kind == "line"]
    assert len(straight) > 3
    for edge in straight:
        size = Dimension(id="d1", on=view.id, measure="length", anchors=[Anchor(ref=edge.ref, at="line")])
        value = measure(picture_of(bench, view.id).shot, size).value
        assert np.abs(true - value).min() < 1e-6


@pytest.mark.parametrize(
    ("stem", "made"),
    [
        ("long-pinion-spindle", "broken"),
        ("round-gear-cover", "detail"),
        ("spindle-pedestal", "detail"),
        ("catch-box", "crop"),
        ("pawl", "crop"),
    ],
)
def test_rays_see_what_windowed_views_show(stem: str, made: str) -> None:
    bench = Bench(stem, views=["front"])
    front = id_of(bench.drawing, "front")
    box = bench.picture("front").box
    centre = (box.x0 * 0.6 + box.x1 * 0.4, box.y0 * 0.4 + box.y1 * 0.6)
    outline = DrawnOutline(centre=centre, half=(box.width / 4, box.width / 4))
    act = {
        "broken": BreakView(view=front),
        "detail": Enlarge(view=front, outline=outline, to=(300.0, 90.0), scale=5.0),
        "crop": CropView(view=front, outline=outline),
    }[made]
    bench.drawing = done(bench.studio, bench.drawing, act)
    view = last(bench.drawing)
    picture = picture_of(bench, view.id)
    chart, shot, size = picture.chart, picture.shot, bench.part.size
    samples = sample(shapes_of(stem))
    seen = samples.picture(shot.view).jumps() - shot.centre
    inside = chart.shows(seen) & ~picture.in_gap(seen)
    assert 0.05 < inside.mean() < 1.0
    marks = bench.ink(bench.drawing).of(view.id).on_sheet()
    firm = [m.curve.points(1e-4) for m in marks if isinstance(m, Stroke) and m.pen == "visible"]
    tree = shapely.union_all([shapely.LineString(p) for p in firm])
    away = shapely.distance(shapely.points(chart.to_sheet(seen[inside])), tree)
    assert (away < size * 5e-4 * chart.scale).mean() >= 0.995
    # and nothing is drawn that the judged view from afar has not
    whole = shapely.union_all([shapely.LineString(c.curve.points(1e-5)) for c in shot.curves if c.visible])
    back = chart.from_sheet(np.concatenate(firm)) + shot.centre
    assert shapely.distance(shapely.points(back), whole).max() < 1e-3


def test_a_break_keeps_its_distance_from_what_is_beside_it_when_the_part_grows() -> None:
    """The end is 8 mm before the shoulder at 60 mm; the shaft then grows from 90 to 120 mm, and its middle moves."""
    short, long = (bodies(built("shaft", length=x)) for x in (90.0, 120.0))
    (ref,) = {
        e.ref
        for e in short.edges
        if e.curve.is_circle and e.curve.radius == 18.0 and abs(e.curve.origin[0] - 60) < 1e-9
    }
    b = Break(id="b", start=-20, end=7, holds=(None, Hold(tie={"ref": ref, "at": "centre"}, off=-8.0)))
    for part in (short, long):
        ends = standing(b, frame_of(part, (0, -1, 0), (0, 0, 1)), part)
        assert ends.end + (part.low[0] + part.high[0]) / 2 == pytest.approx(52.0)
        assert ends.start == -20


def test_breaking_names_the_larger_scale_and_takes_it_when_asked() -> None:
    bench = spindle()
    act = BreakView(view=bench.front)
    shown = act.preview(bench.drawing, bench.acts)
    assert bench.sheet.scale == 0.5
    assert "1:1 becomes possible" in shown.words
    larger = done(bench.studio, bench.drawing, act.model_copy(update={"rescaled": True}))
    assert larger.front_sheet.scale == 1.0
    bench.drawing = larger
    boxes = [p.box for p in bench.studio.pictures(larger, larger.front_sheet).values()]
    assert all(drawing_space("A3", True).holds(b) for b in boxes)
    assert all(h is not None for b in last_of(larger, bench.front).breaks for h in b.holds)


def last_of(drawing: Drawing, view: str):
    found = drawing.view(view)
    assert found is not None
    return found


def test_a_gap_becomes_as_wide_as_the_lettering_that_is_put_into_it() -> None:
    bench = spindle()
    first, second = at(bench, -60.0, 0.0), at(bench, 60.0, 0.0)
    bench.drawing = done(bench.studio, bench.drawing, BreakView(view=bench.front, first=first, second=second, gap=3.0))
    size = bench.pull("front", [((bench.part.low[0], 0, 8.0),), ((bench.part.high[0], 0, 8.0),)], (40, 60))
    size = size.model_copy(update={"id": "e900", "zigzag": True})
    bench.drawing = apply(bench.drawing, Annotate(sheet=bench.sheet.id, annotations=[size]))
    # a zigzag has corners to both sides of the line, at the break
    line = [m.curve.points(1e-3) for m in bench.ink(bench.drawing).of("e900").on_sheet() if isinstance(m, Stroke)]
    bent = [p for p in line if len(p) > 2]
    gap = bench.picture("front").chart.stands(np.array([[0.0, 0.0]]))[0]
    assert len(bent) == 1 and np.ptp(bent[0][:, 1]) > 2.0
    assert abs(bent[0][:, 0].mean() - gap[0]) < 20.0
    moved = done(bench.studio, bench.drawing, MoveDimension(id="e900", pointer=tuple(gap)))
    (b,) = last_of(moved, bench.front).breaks
    assert b.gap > 10.0
    away = (gap[0], bench.picture("front").box.y1 + 20.0)
    assert (
        last_of(done(bench.studio, bench.drawing, MoveDimension(id="e900", pointer=away)), bench.front).breaks[0].gap
        == 3.0
    )


def test_lines_of_a_face_and_hidden_ones_of_a_feature_are_left_out_together() -> None:
    bench = Bench("spindle-pedestal", views=["front", "top"])
    part, view = bench.part, id_of(bench.drawing, "front")
    hole = next(f for f in part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - 5.5) < 1e-9)
    ring = next(part.edges[e] for e in hole.boundary if part.edges[e].curve.is_circle)

    def drawn(pen: str) -> float:
        marks = bench.ink(bench.drawing).of(view).marks
        return sum(m.curve.length() for m in marks if isinstance(m, Stroke) and m.pen == pen)

    before = drawn("hidden"), drawn("visible")
    bench.drawing = done(bench.studio, bench.drawing, LeaveLines(view=view, ref=ring.ref, of="hidden"))
    # the two lines at the sides of the hole, 16 mm deep each, at the scale of the view
    scale = bench.picture("front").scale
    assert before[0] - drawn("hidden") == pytest.approx(2 * 16.0 * scale, abs=1e-6)
    assert drawn("visible") == before[1]
    plain = next(e for e in part.edges if e.curve.kind == "line" and abs(e.curve.length() - 116.0) < 1e-9)
    bench.drawing = done(bench.studio, bench.drawing, LeaveLines(view=view, ref=plain.ref, of="face"))
    assert plain.ref in last_of(bench.drawing, view).left_out
    assert len(last_of(bench.drawing, view).left_out) > 2
    with pytest.raises(UserError, match="no face"):
        LeaveLines(view=view, ref="E0").plan(bench.drawing, bench.acts)


def test_a_ring_on_a_size_is_remarked_and_a_kept_direction_makes_a_section() -> None:
    bench = spindle()
    size = bench.pull("front", [((bench.part.low[0], 0, 8.0),), ((bench.part.high[0], 0, 8.0),)], (40, 60))
    bench.drawing = apply(
        bench.drawing, Annotate(sheet=bench.sheet.id, annotations=[size.model_copy(update={"id": "e9"})])
    )
    box = bench.picture("front").box
    for up, count in ((60.0, 1), (20.0, 0)):
        ring = DrawnOutline(centre=(box.x0 + 60, box.y0 + up), half=(8.0, 8.0))
        there = done(bench.studio, bench.drawing, Enlarge(view=bench.front, outline=ring, to=(300, 90), scale=1.0))
        assert len(remarks_on(bench.ink(there), bench.studio.pictures(there, there.front_sheet))) == count
    # square to its axis the spindle is cut to a circle: Ø is 30 or more there, and its area is that of the disc
    cut = PlaceView(sheet=bench.sheet.id, part=bench.part.key, toward=(1, 0, 0), up=(0, 0, 1), to=(80, 60), cut_at=0.0)
    bench.drawing = done(bench.studio, bench.drawing, cut)
    regions = picture_of(bench, last(bench.drawing).id).shot.taken.regions
    area = sum(shapely.Polygon(r.rings[0], r.rings[1:]).area for r in regions)
    x = (bench.part.low[0] + bench.part.high[0]) / 2
    radii = [
        f.surface.radius
        for f in bench.part.faces
        if f.surface.kind == "cylinder" and (n := bench.part.mesh.nodes[f.nodes])[:, 0].min() < x < n[:, 0].max()
    ]
    assert area == pytest.approx(np.pi * max(radii) ** 2, rel=2e-4)
    bench.drawing = apply(bench.drawing, SetView(view=last(bench.drawing).id, changes={"cut_at": None}))
    assert not picture_of(bench, last(bench.drawing).id).shot.taken.regions
