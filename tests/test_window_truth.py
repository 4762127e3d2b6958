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
from barequill.core.arranging.remarks import remarks_on
from barequill.core.display import Stroke
from barequill.core.drawing import Anchor, Break, Dimension, Drawing, Place
from barequill.core.drawing.operations import Annotate, SetView, apply
from barequill.core.drawing.templates import ISO_7200
from barequill.core.drawing.windows import Hold
from barequill.core.errors import UserError
from barequill.core.measuring.measuring import measure
from barequill.core.reading.step import read_step
from barequill.core.views.cutting_lines import frame_of
from barequill.core.views.windows import break_in_view
from tools.common import at_length, demo_file
from tools.made_parts import bodies
from tools.revisions import built
from tools.sheets import DrawnPart, done, id_of
from tools.truth import _explore, sample


def shapes_of(stem: str) -> list:
    return [raw.shape for raw in read_step(demo_file(stem), stem)[0]]


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


def picture_of(acting: DrawnPart, view: str):
    return acting.projections.placed_views(acting.drawing, acting.sheet)[view]


def spindle() -> DrawnPart:
    acting = DrawnPart("long-pinion-spindle", views=["front", "left"])
    acting.front = id_of(acting.drawing, "front")
    return acting


def at(acting: DrawnPart, x: float, y: float) -> tuple[float, float]:
    p = acting.placed_view("front").transform.to_sheet(np.array([[x, y]]))[0]
    return float(p[0]), float(p[1])


def between(acting: DrawnPart, view: str, one, two, direction: str) -> tuple[float, np.ndarray]:
    """A distance as it is measured in a view between the ends of two edges, and its feet on the sheet."""
    anchors = [Anchor(ref=ref, at=end) for ref, end in (one, two)]
    size = Dimension(id="d1", on=view, measure="distance", anchors=anchors, direction=direction, place=Place())
    stated = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[size]))
    points = acting.ink(stated).dimensions["d1"].points
    return measure(picture_of(acting, view).projected, size).value, np.array([points["first"], points["second"]])


def test_lengths_across_breaks_and_in_details_are_the_kernels() -> None:
    acting = spindle()
    known = corners_of("long-pinion-spindle")
    acting.drawing = done(acting.projections, acting.drawing, BreakView(view=acting.front))
    ring = DrawnOutline(form="rectangle", centre=at(acting, 110.0, 0.0), half=(40.0, 30.0))
    acting.drawing = done(
        acting.projections, acting.drawing, Enlarge(view=acting.front, outline=ring, to=(300, 90), scale=2.0)
    )
    detail = last(acting.drawing).id
    ends = {}
    for e in acting.part.edges:
        for name, t in (("start", e.curve.t0), ("end", e.curve.t1)):
            p = e.curve.point(t)
            # the kernel has a vertex there
            assert np.linalg.norm(known - p, axis=1).min() < 1e-6
            ends.setdefault(tuple(np.round(p, 3)), (e.ref, name, known[np.linalg.norm(known - p, axis=1).argmin()]))
    cases = within = 0
    for (r1, n1, p), (r2, n2, q) in list(combinations(ends.values(), 2))[:: at_length(3, 1) * 7]:
        for axis, direction in ((0, "horizontal"), (2, "vertical")):
            expected = abs(p[axis] - q[axis])
            if expected < 1e-6:
                continue
            value, feet = between(acting, acting.front, (r1, n1), (r2, n2), direction)
            assert value == pytest.approx(expected, abs=1e-6)
            cases += 1
            placed_view = picture_of(acting, detail)
            if not placed_view.transform.shows(placed_view.projected.flat_each(np.array([p, q]))).all():
                continue
            # in the detail the feet stand as far apart as the length at its scale
            value, feet = between(acting, detail, (r1, n1), (r2, n2), direction)
            assert abs(np.diff(feet[:, 0 if axis == 0 else 1])[0]) == pytest.approx(2.0 * expected, abs=1e-6)
            assert value == pytest.approx(expected, abs=1e-6)
            within += 1
    assert cases >= at_length(40, 120) and within >= 5


def test_lengths_along_an_auxiliary_view_are_those_of_its_edges() -> None:
    acting = DrawnPart("angled-keeper", views=["front", "top"])
    part, true = acting.part, lengths_of("angled-keeper")
    face = next(f for f in part.faces if f.surface.kind == "plane" and 0.1 < abs(f.surface.axes[2][0]) < 0.95)
    act = LookSquare(view=id_of(acting.drawing, "front"), ref=face.ref, to=(60.0, 260.0), partial=False)
    acting.drawing = done(acting.projections, acting.drawing, act)
    view = last(acting.drawing)
    straight = [part.edges[e] for e in face.boundary if part.edges[e].curve.kind == "line"]
    assert len(straight) > 3
    for edge in straight:
        size = Dimension(id="d1", on=view.id, measure="length", anchors=[Anchor(ref=edge.ref, at="line")])
        value = measure(picture_of(acting, view.id).projected, size).value
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
    acting = DrawnPart(stem, views=["front"])
    front = id_of(acting.drawing, "front")
    box = acting.placed_view("front").box
    centre = (box.x0 * 0.6 + box.x1 * 0.4, box.y0 * 0.4 + box.y1 * 0.6)
    outline = DrawnOutline(centre=centre, half=(box.width / 4, box.width / 4))
    act = {
        "broken": BreakView(view=front),
        "detail": Enlarge(view=front, outline=outline, to=(300.0, 90.0), scale=5.0),
        "crop": CropView(view=front, outline=outline),
    }[made]
    acting.drawing = done(acting.projections, acting.drawing, act)
    view = last(acting.drawing)
    placed_view = picture_of(acting, view.id)
    transform, projected, size = placed_view.transform, placed_view.projected, acting.part.size
    samples = sample(shapes_of(stem))
    seen = samples.placed_view(projected.view).jumps() - projected.centre
    inside = transform.shows(seen) & ~placed_view.in_gap(seen)
    assert 0.05 < inside.mean() < 1.0
    marks = acting.ink(acting.drawing).of(view.id).on_sheet()
    firm = [m.curve.points(1e-4) for m in marks if isinstance(m, Stroke) and m.pen == "visible"]
    tree = shapely.union_all([shapely.LineString(p) for p in firm])
    away = shapely.distance(shapely.points(transform.to_sheet(seen[inside])), tree)
    assert (away < size * 5e-4 * transform.scale).mean() >= 0.995
    # and nothing is drawn that the judged view from afar has not
    whole = shapely.union_all([shapely.LineString(c.curve.points(1e-5)) for c in projected.curves if c.visible])
    back = transform.from_sheet(np.concatenate(firm)) + projected.centre
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
        ends = break_in_view(b, frame_of(part, (0, -1, 0), (0, 0, 1)), part)
        assert ends.end + (part.low[0] + part.high[0]) / 2 == pytest.approx(52.0)
        assert ends.start == -20


def test_breaking_names_the_larger_scale_and_takes_it_when_asked() -> None:
    acting = spindle()
    act = BreakView(view=acting.front)
    shown = act.preview(acting.drawing, acting.acts)
    assert acting.sheet.scale == 0.5
    assert "1:1 becomes possible" in shown.words
    larger = done(acting.projections, acting.drawing, act.model_copy(update={"rescaled": True}))
    assert larger.front_sheet.scale == 1.0
    acting.drawing = larger
    boxes = [p.box for p in acting.projections.placed_views(larger, larger.front_sheet).values()]
    assert all(ISO_7200.space("A3", True).holds(b) for b in boxes)
    assert all(h is not None for b in last_of(larger, acting.front).breaks for h in b.holds)


def last_of(drawing: Drawing, view: str):
    found = drawing.view(view)
    assert found is not None
    return found


def test_a_gap_becomes_as_wide_as_the_lettering_that_is_put_into_it() -> None:
    acting = spindle()
    first, second = at(acting, -60.0, 0.0), at(acting, 60.0, 0.0)
    acting.drawing = done(
        acting.projections, acting.drawing, BreakView(view=acting.front, first=first, second=second, gap=3.0)
    )
    size = acting.pull("front", [((acting.part.low[0], 0, 8.0),), ((acting.part.high[0], 0, 8.0),)], (40, 60))
    size = size.model_copy(update={"id": "e900", "zigzag": True})
    acting.drawing = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[size]))
    # a zigzag has corners to both sides of the line, at the break
    line = [m.curve.points(1e-3) for m in acting.ink(acting.drawing).of("e900").on_sheet() if isinstance(m, Stroke)]
    bent = [p for p in line if len(p) > 2]
    gap = acting.placed_view("front").transform.stands(np.array([[0.0, 0.0]]))[0]
    assert len(bent) == 1 and np.ptp(bent[0][:, 1]) > 2.0
    assert abs(bent[0][:, 0].mean() - gap[0]) < 20.0
    moved = done(acting.projections, acting.drawing, MoveDimension(id="e900", pointer=tuple(gap)))
    (b,) = last_of(moved, acting.front).breaks
    assert b.gap > 10.0
    away = (gap[0], acting.placed_view("front").box.y1 + 20.0)
    assert (
        last_of(done(acting.projections, acting.drawing, MoveDimension(id="e900", pointer=away)), acting.front)
        .breaks[0]
        .gap
        == 3.0
    )


def test_lines_of_a_face_and_hidden_ones_of_a_feature_are_left_out_together() -> None:
    acting = DrawnPart("spindle-pedestal", views=["front", "top"])
    part, view = acting.part, id_of(acting.drawing, "front")
    hole = next(f for f in part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - 5.5) < 1e-9)
    ring = next(part.edges[e] for e in hole.boundary if part.edges[e].curve.is_circle)

    def drawn(pen: str) -> float:
        marks = acting.ink(acting.drawing).of(view).marks
        return sum(m.curve.length() for m in marks if isinstance(m, Stroke) and m.pen == pen)

    before = drawn("hidden"), drawn("visible")
    acting.drawing = done(acting.projections, acting.drawing, LeaveLines(view=view, ref=ring.ref, of="hidden"))
    # the two lines at the sides of the hole, 16 mm deep each, at the scale of the view
    scale = acting.placed_view("front").scale
    assert before[0] - drawn("hidden") == pytest.approx(2 * 16.0 * scale, abs=1e-6)
    assert drawn("visible") == before[1]
    plain = next(e for e in part.edges if e.curve.kind == "line" and abs(e.curve.length() - 116.0) < 1e-9)
    acting.drawing = done(acting.projections, acting.drawing, LeaveLines(view=view, ref=plain.ref, of="face"))
    assert plain.ref in last_of(acting.drawing, view).left_out
    assert len(last_of(acting.drawing, view).left_out) > 2
    with pytest.raises(UserError, match="no face"):
        LeaveLines(view=view, ref="E0").plan(acting.drawing, acting.acts)


def test_a_ring_on_a_size_is_remarked_and_a_kept_direction_makes_a_section() -> None:
    acting = spindle()
    size = acting.pull("front", [((acting.part.low[0], 0, 8.0),), ((acting.part.high[0], 0, 8.0),)], (40, 60))
    acting.drawing = apply(
        acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[size.model_copy(update={"id": "e9"})])
    )
    box = acting.placed_view("front").box
    for up, count in ((60.0, 1), (20.0, 0)):
        ring = DrawnOutline(centre=(box.x0 + 60, box.y0 + up), half=(8.0, 8.0))
        there = done(
            acting.projections, acting.drawing, Enlarge(view=acting.front, outline=ring, to=(300, 90), scale=1.0)
        )
        assert len(remarks_on(acting.ink(there), acting.projections.placed_views(there, there.front_sheet))) == count
    # square to its axis the spindle is cut to a circle: Ø is 30 or more there, and its area is that of the disc
    cut = PlaceView(
        sheet=acting.sheet.id, part=acting.part.key, toward=(1, 0, 0), up=(0, 0, 1), to=(80, 60), cut_at=0.0
    )
    acting.drawing = done(acting.projections, acting.drawing, cut)
    regions = picture_of(acting, last(acting.drawing).id).projected.taken.regions
    area = sum(shapely.Polygon(r.rings[0], r.rings[1:]).area for r in regions)
    x = (acting.part.low[0] + acting.part.high[0]) / 2
    radii = [
        f.surface.radius
        for f in acting.part.faces
        if f.surface.kind == "cylinder" and (n := acting.part.mesh.nodes[f.nodes])[:, 0].min() < x < n[:, 0].max()
    ]
    assert area == pytest.approx(np.pi * max(radii) ** 2, rel=2e-4)
    acting.drawing = apply(acting.drawing, SetView(view=last(acting.drawing).id, changes={"cut_at": None}))
    assert not picture_of(acting, last(acting.drawing).id).projected.taken.regions
