"""Views of the other hand, oblique projections, and bodies in their colours."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from PIL import Image

from barequill.core import Part, read_part
from barequill.core.acts.explode import Explode
from barequill.core.acts.lay_flat import MirrorView
from barequill.core.display import Stroke, Tint
from barequill.core.drawing import Anchor, Dimension
from barequill.core.drawing.operations import SetView, apply
from barequill.core.drawing.views import PictorialView
from barequill.core.errors import Unmeasurable
from barequill.core.features.derived import mirrored_key, source_of
from barequill.core.measuring.measuring import measure
from barequill.core.part.chosen import body_names
from barequill.core.part.transforming import mirrored_part, moved_part
from barequill.core.reading import shapes
from barequill.core.reading.splitting import split_bodies
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.projecting import take
from barequill.core.views.scene import Scene
from barequill.core.writers.dxf import write_dxf
from tools.common import demo_file, part_of
from tools.made_parts import bodies
from tools.sheets import DrawnPart, done, id_of

HALF = np.sqrt(0.5)


def pieces(part: Part, scene: Scene, sense: float = 1.0) -> dict[bool, list[tuple[float, ...]]]:
    """Seen and hidden lines: the middle and the length of each, ``sense`` -1 as in a mirror."""
    found: dict[bool, list[tuple[float, ...]]] = {True: [], False: []}
    for c in take(part, scene).curves:
        points = c.curve.points(1e-4)
        low, high = points.min(axis=0), points.max(axis=0)
        x = sense * (low[0] + high[0]) / 2
        y = (low[1] + high[1]) / 2
        found[c.visible].append((round(x, 2) + 0.0, round(y, 2) + 0.0, round(c.curve.length(), 2)))
    return {k: sorted(v) for k, v in found.items()}


@pytest.mark.parametrize("stem", ["spindle-pedestal", "pawl", "round-gear-cover", "catch-box"])
@pytest.mark.parametrize("toward", [(0, -1, 0), (1, -1, 1)])
def test_a_part_of_the_other_hand_is_seen_as_in_a_mirror(stem, toward) -> None:
    part = part_of(demo_file(stem))
    part = moved_part(part, np.eye(3), -(part.low + part.high) / 2)
    other = mirrored_part(part)
    assert [f.ref for f in other.faces] == [f.ref for f in part.faces]
    # a camera that is mirrored with it sees the mirror image
    one = pieces(part, Scene("part", toward, (0, 0, 1)), -1.0)
    two = pieces(other, Scene("part", (-toward[0], *toward[1:]), (0, 0, 1)))
    for k in (True, False):
        assert len(one[k]) == len(two[k])
        assert np.abs(np.array(one[k]) - np.array(two[k])).max(initial=0.0) < 0.02


def test_a_mirrored_view_has_views_and_sizes_of_the_other_hand() -> None:
    # a block with a step to the right: mirrored it stands to the left, also in what is pulled out of it
    solid = shapes.cut(shapes.box((0, 0, 0), (60, 20, 30)), shapes.box((40, -1, 10), (30, 30, 30)))
    p = DrawnPart(replace(bodies(solid), key="block"), views=["front"], scale=1.0)
    front = id_of(p.drawing, "front")
    drawing = done(p.projections, p.drawing, MirrorView(view=front, to=(250, 150)))
    own = drawing.front_sheet.views[-1]
    key = p.projections.scenes(drawing, drawing.front_sheet)[own.id].part
    assert key == mirrored_key("block") and source_of(key) == "block"
    placed = p.projections.placed_views(drawing, drawing.front_sheet)[own.id]
    upright = [
        flat.points(0.1)[0][0] - placed.box.x0
        for c, flat in placed.placed
        if c.visible and c.curve.kind == "line" and abs(np.ptp(c.curve.poles[:, 0])) < 1e-9
    ]
    assert sorted(round(x, 6) for x in upright) == [0.0, 20.0, 60.0], "the step is 20 from the left"
    again = done(p.projections, drawing, MirrorView(view=own.id, to=(250, 60)))
    assert not again.front_sheet.views[-1].mirrored, "what is mirrored twice is as modelled"


@pytest.mark.parametrize(
    ("form", "depth", "heights"),
    [("cavalier", (HALF, HALF), None), ("cabinet", (HALF / 2, HALF / 2), None), ("military", (HALF, HALF), 20.0)],
)
def test_oblique_projections_by_hand(form, depth, heights) -> None:
    # a block of 40 × 30 × 20, seen from the front and from above right
    part = replace(bodies(shapes.box((0, 0, 0), (40, 30, 20))), key="block")
    p = DrawnPart(part, views=["front"], scale=1.0)
    view = PictorialView(
        id="p1", part="block", parent=id_of(p.drawing, "front"), place=(250, 150), form=form, hidden_lines=False
    )
    sheet = p.drawing.front_sheet
    sheet = sheet.model_copy(update={"views": [*sheet.views, view]})
    placed = p.projections.placed_views(p.drawing.with_sheet(sheet), sheet)["p1"]
    lines = [c for c in placed.projected.curves if c.visible]
    assert len(lines) == 9, "three faces are seen"
    (x0, y0, z0, o) = placed.on_sheet_each(np.array([[40, 0, 0], [0, 30, 0], [0, 0, 20], [0, 0, 0]], float))
    along_x, along_y, along_z = x0 - o, y0 - o, z0 - o
    if heights is None:
        assert along_x == pytest.approx((40, 0), abs=1e-9) and along_z == pytest.approx((0, 20), abs=1e-9)
        assert along_y == pytest.approx((30 * depth[0], 30 * depth[1]), abs=1e-9)
    else:
        assert along_x == pytest.approx((40 * HALF, -40 * HALF), abs=1e-9) and along_z == pytest.approx(
            (0, 20), abs=1e-9
        )
        assert along_y == pytest.approx((30 * HALF, 30 * HALF), abs=1e-9)
    wide = {"cavalier": 40 + 30 * HALF, "cabinet": 40 + 15 * HALF, "military": 70 * HALF}[form]
    assert placed.box.x1 - placed.box.x0 == pytest.approx(wide)


def test_an_oblique_projection_hides_what_a_sheared_part_hides() -> None:
    """The same part sheared by the kernel and seen square: a bore, a boss and a rounded corner on a block."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_GTransform
    from OCP.gp import gp_GTrsf, gp_Mat

    solid = shapes.cut(shapes.box((0, 0, 0), (40, 30, 20)), shapes.cylinder((12, -1, 10), (0, 1, 0), 5, 40))
    solid = shapes.fuse(shapes.rounded(solid, 6, [(40, 15, 20)]), shapes.cylinder((25, 15, 18), (0, 0, 1), 6, 10))
    lean = HALF / 2
    # front is -Y: what lies farther back is moved to the right and up
    shear = gp_GTrsf()
    shear.SetVectorialPart(gp_Mat(1, lean, 0, 0, 1, 0, 0, lean, 1))
    sheared = bodies(BRepBuilderAPI_GTransform(solid, shear, True).Shape())
    want = take(sheared, Scene("s", (0, -1, 0), (0, 0, 1)))
    right, up = (1.0, lean, 0.0), (0.0, lean, 1.0)
    found = take(bodies(solid), Scene("p", (lean, -1, lean), (0, 0, 1), oblique=(right, up)))
    for seen in (True, False):
        lengths = [
            sum(c.curve.length() for c in r.curves if c.visible is seen and c.cls != "smooth") for r in (found, want)
        ]
        assert lengths[0] == pytest.approx(lengths[1], rel=2e-3)


def test_bodies_have_the_colours_of_their_file_on_the_screen_and_are_grey_where_they_are_issued(tmp_path: Path) -> None:
    from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDocStd import TDocStd_Document
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("coloured"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    tool, colours = XCAFDoc_DocumentTool.ShapeTool_s(document.Main()), XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    for x, (r, g, b) in ((0, (0.8, 0.2, 0.1)), (30, (0.1, 0.4, 0.8))):
        label = tool.AddShape(shapes.box((x, 0, 0), (20, 20, 20)), False)
        colours.SetColor(label, Quantity_Color(r, g, b, Quantity_TOC_sRGB), XCAFDoc_ColorType.XCAFDoc_ColorSurf)
    writer = STEPCAFControl_Writer()
    writer.SetColorMode(True)
    writer.Transfer(document)
    writer.Write(str(tmp_path / "coloured.step"))
    part = read_part(tmp_path / "coloured.step")
    assert [b.colour for b in part.bodies] == ["#cc331a", "#1a66cc"]
    p = DrawnPart(part, views=["front"], scale=1.0)
    front = id_of(p.drawing, "front")
    shaded = apply(p.drawing, SetView(view=front, changes={"shaded": True, "coloured": True}))

    def tint(drawing) -> Tint:
        ink = draw_sheet(drawing, drawing.front_sheet, p.projections)
        return next(m for e in ink.elements for m in e.marks if isinstance(m, Tint)), ink

    mark, ink = tint(shaded)
    grey, coloured = (
        np.asarray(Image.open(io.BytesIO(d)).convert("RGBA")).astype(int) for d in (mark.png, mark.coloured)
    )
    assert {tuple(c) for c in grey[grey[..., 3] > 0][:, :3]} == {(23, 35, 44)}, "ink alone"
    left, right = (coloured[coloured.shape[0] // 2, coloured.shape[1] * k // 10] for k in (1, 9))
    assert left[0] > 2 * left[2] and right[2] > 2 * right[0] and left[3] == right[3] == 255
    chosen = apply(
        shaded, SetView(view=front, changes={"colours": [{"body": part.bodies[0].name, "colour": "#00ff00"}]})
    )
    dot = np.asarray(Image.open(io.BytesIO(tint(chosen)[0].coloured)).convert("RGBA"))[5, 5]
    assert dot[1] > 100 and dot[0] == dot[2] == 0
    # the front of two cubes is of one tone: a solid hatch each, as large as they are
    dxf = ezdxf.read(io.StringIO(write_dxf(ink).decode()))
    assert not dxf.audit().errors
    hatches = [h for h in dxf.modelspace().query("HATCH") if h.dxf.layer == "TONES"]
    assert all(h.dxf.solid_fill for h in hatches)
    boxes = [np.array([v[:2] for v in h.paths[0].vertices]) for h in hatches]
    assert sorted(round(float(np.ptp(b[:, 0]))) for b in boxes) == [20, 20]


def test_an_assembly_is_pulled_apart_along_its_axes_and_sizes_across_are_refused() -> None:
    # a block with a pin upright in it and a bush along y: the pin comes off upward, the bush toward the viewer, both clear of the block
    block = shapes.cut(
        shapes.box((0, 0, 0), (60, 40, 30)),
        shapes.cylinder((15, 20, 10), (0, 0, 1), 5, 40),
        shapes.cylinder((42, -1, 15), (0, 1, 0), 8, 60),
    )
    pin, bush = shapes.cylinder((15, 20, 10), (0, 0, 1), 5, 25), shapes.cylinder((42, 0, 15), (0, 1, 0), 8, 40)
    solids = [s for shape in (block, pin, bush) for _, s in split_bodies(shape, "x")]
    part = replace(bodies(*solids), key="c" * 24)
    p = DrawnPart(part, views=["front", "iso"], scale=1.0, size="A2")
    iso = id_of(p.drawing, "corner")
    sized = apply(p.drawing, SetView(view=iso, changes={"scale": 1.0}))
    drawing = done(p.projections, sized, Explode(view=iso))
    steps = {s.body: s.by for s in drawing.view(iso).apart}
    names = body_names(part)
    assert set(steps) == {names[1], names[2]}
    x, y, up = steps[names[1]]
    assert x == y == 0 and up > 20, "20 of the pin are in the block"
    x, out, z = steps[names[2]]
    assert x == z == 0 and out < -40, "all of the bush is"
    placed = p.projections.placed_views(drawing, drawing.front_sheet)[iso]
    shown = placed.projected.part
    assert shown.apart[1] == pytest.approx(steps[names[1]]) and shown.volume == pytest.approx(part.volume)
    # what is drawn is what the kernel's bodies show that were moved so before they were read
    moved = [solids[0], shapes.moved(solids[1], steps[names[1]]), shapes.moved(solids[2], steps[names[2]])]
    want = take(bodies(*moved), Scene("m", placed.projected.scene.toward, placed.projected.scene.up))
    lengths = [sum(c.curve.length() for c in r if c.visible) for r in (placed.projected.curves, want.curves)]
    assert lengths[0] == pytest.approx(lengths[1], rel=1e-6)
    ink = draw_sheet(drawing, drawing.front_sheet, p.projections)
    traces = [m for m in ink.of(iso).marks if isinstance(m, Stroke) and m.pen == "centre"]
    assert len(traces) == 2, "a line from each to where it was"
    edges = {b: next(e.ref for e in part.edges if e.body == b and e.curve.is_circle) for b in (1, 2)}
    anchors = [Anchor(ref=edges[b], at="centre") for b in (1, 2)]
    across = Dimension(id="d9", on=iso, measure="distance", anchors=anchors)
    with pytest.raises(Unmeasurable, match="pulled apart"):
        measure(placed.projected, across)
    half = apply(drawing, SetView(view=iso, changes={"apart_by": 0.5}))
    again = p.projections.placed_views(half, half.front_sheet)[iso].projected.part
    assert again.apart[1][2] == pytest.approx(up / 2)
    whole = apply(drawing, SetView(view=iso, changes={"apart": []}))
    assert p.projections.scenes(whole, whole.front_sheet)[iso].part == "c" * 24
