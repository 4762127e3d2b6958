"""What is issued, looked into: the same figures, lines and words in each format, at true size."""

from __future__ import annotations

import io
import itertools
import re
import shutil
import subprocess
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pypdfium2
import pytest
from PIL import Image
from pypdfium2 import raw as pdfium

from barequill.core.display import Stroke, Text
from barequill.core.drawing import apply
from barequill.core.drawing.operations import Annotate, ChangeAnnotation, SetView
from barequill.core.writers import write_dxf, write_pdf, write_png, write_svg
from tools.sheets import DrawnPart

MM = 72 / 25.4


@pytest.fixture(scope="module")
def ink():
    acting = DrawnPart("spindle-pedestal", views=["front", "top", "left", "iso"])
    pulls = [
        acting.pull("front", [((0, -40, 0),)], (30, -11)),
        acting.pull("front", [((14.142, -20, 94.142),)], (60, 70)),
        acting.pull("front", [((24.04, -20, 104.04),)], (-10, 80)),
        acting.pull("left", [((0, -40, 8),), ((0, 40, 8),)], (20, -11)),
    ]
    pulls = [d.model_copy(update={"id": f"d{901 + k}"}) for k, d in enumerate(pulls)]
    drawing = apply(acting.drawing, Annotate(sheet="e1", annotations=pulls))
    tolerance = {"tolerance": {"kind": "unequal", "upper": 0.025, "lower": 0.0}}
    drawing = apply(drawing, ChangeAnnotation(id="d902", changes=tolerance))
    return acting.ink(drawing)


@pytest.fixture(scope="module")
def dxf(ink):
    return ezdxf.read(io.StringIO(write_dxf(ink).decode()))


def strokes_of(ink, kind: str, *owners: str) -> list:
    return [m for m in ink.marks_of(*owners) if isinstance(m, Stroke) and m.curve.name == kind]


# ---- DXF


def test_dxf_line_types_repeat_in_the_lengths_of_iso_128(dxf) -> None:
    """12 and 3 widths, 24, 3, 0.5 and 3 widths of a 0.25 mm line."""
    hidden = dxf.linetypes.get("ISO_HIDDEN")
    steps = [t.value for t in hidden.pattern_tags.tags if t.code == 49]
    assert steps == pytest.approx([3.0, -0.75])
    centre = [t.value for t in dxf.linetypes.get("ISO_CENTRE").pattern_tags.tags if t.code == 49]
    assert centre == pytest.approx([6.0, -0.75, 0.125, -0.75])


def test_dxf_layers_carry_kind_and_width(dxf) -> None:
    weights = {layer.dxf.name: layer.dxf.lineweight for layer in dxf.layers}
    assert weights["VISIBLE"] == 50 and weights["FRAME"] == 70
    assert {weights[n] for n in ("HIDDEN", "CENTRE", "DIMENSION", "TANGENT")} == {25}
    used = {e.dxf.layer for e in dxf.modelspace()}
    assert {"VISIBLE", "HIDDEN", "CENTRE", "DIMENSION", "FRAME", "FRAME_NARROW"} <= used
    assert dxf.units == 4 and dxf.dxfversion >= "AC1024"


@pytest.mark.parametrize(
    ("kind", "entity"), [("circle", "CIRCLE"), ("arc", "ARC"), ("ellipse", "ELLIPSE"), ("elliptic_arc", "ELLIPSE")]
)
def test_dxf_round_curves_lie_where_the_ink_has_them(ink, dxf, kind: str, entity: str) -> None:
    there = dxf.modelspace().query(entity)
    views = [e.id for e in ink.elements if e.kind == "view"]
    for mark in strokes_of(ink, kind, *views):
        ends = mark.curve.evaluate(np.array([mark.curve.t0, mark.curve.t1]))
        centre = mark.curve.poles[0]
        found = [e for e in there if np.allclose((e.dxf.center.x, e.dxf.center.y), centre, atol=1e-6)]
        assert found
        if entity == "ARC":
            spans = [[(e.start_point.x, e.start_point.y), (e.end_point.x, e.end_point.y)] for e in found]
            assert any(np.allclose(s, ends, atol=1e-6) for s in spans)
        if kind == "elliptic_arc":
            spans = [[(e.start_point.x, e.start_point.y), (e.end_point.x, e.end_point.y)] for e in found]
            assert any(np.allclose(s, ends, atol=1e-5) for s in spans)


def test_dxf_dimensions_measure_the_model_and_not_the_sheet(ink, dxf) -> None:
    found = {d.dxf.text: d for d in dxf.modelspace().query("DIMENSION")}
    assert set(found) == {d.text for d in ink.dimensions.values()}
    length = found["116"]
    apart = abs(length.dxf.defpoint2.x - length.dxf.defpoint3.x)
    factor = length.override().get("dimlfac", 1.0)
    assert apart * factor == pytest.approx(116), "points at sheet scale, with the factor to the model"
    assert length.dimtype == 0 and found[next(t for t in found if t.startswith("Ø40"))].dimtype == 3
    assert found["R34"].dimtype == 4
    for d in found.values():
        block = dxf.blocks.get(d.dxf.geometry)
        assert [e for e in block if e.dxftype() == "TEXT"] and [e for e in block if e.dxftype() == "SOLID"]


def test_dxf_holds_all_words_of_the_sheet(ink, dxf) -> None:
    words = {m.text for m in ink.marks_of() if isinstance(m, Text)}
    there = {t.dxf.text for t in dxf.modelspace().query("TEXT")}
    for d in dxf.modelspace().query("DIMENSION"):
        there |= {t.dxf.text for t in dxf.blocks.get(d.dxf.geometry) if t.dxftype() == "TEXT"}
    assert words == there


# ---- SVG


def test_svg_is_well_formed_and_grouped_and_its_arcs_end_where_the_ink_s_do(ink) -> None:
    root = ET.fromstring(write_svg(ink))
    space = "{http://www.w3.org/2000/svg}"
    groups = {g.get("id") for g in root.iter(f"{space}g") if g.get("id")}
    assert {"front-view-e2", "top-view-e3", "left-view-e4", "isometric-view-e5"} <= groups
    assert "frame-and-title-block-sheet" in groups
    ids = [e.get("id") for e in root.iter() if e.get("id")]
    assert len(ids) == len(set(ids)), "ids are told once"
    paths = [p.get("d") for p in root.iter(f"{space}path")]
    ends = {tuple(round(float(v), 2) for v in re.findall(r"-?[\d.]+", d)[-2:]) for d in paths}
    for mark in strokes_of(ink, "arc"):
        p = mark.curve.evaluate(np.array([mark.curve.t1]))[0]
        assert (round(p[0], 2), round(ink.height - p[1], 2)) in ends


def test_svg_words_stand_where_and_as_high_as_in_the_ink(ink) -> None:
    root = ET.fromstring(write_svg(ink))
    texts = [t for t in root.iter("{http://www.w3.org/2000/svg}text")]
    assert sorted("".join(t.itertext()) for t in texts) == sorted(m.text for m in ink.marks_of() if isinstance(m, Text))


def test_three_readers_show_the_same_picture_within_one_in_a_hundred_dots(ink, browser, tmp_path) -> None:
    """PDFium shows the PDF; librsvg, which loads no lettering of its own, and Chromium show the SVG."""
    if shutil.which("rsvg-convert") is None:
        pytest.skip("librsvg is not here (Debian: librsvg2-bin)")
    first = Image.open(io.BytesIO(write_png(ink, 144))).convert("L")
    wide, high = first.size
    svg = tmp_path / "sheet.svg"
    svg.write_bytes(write_svg(ink))
    size = ["-w", str(wide), "-h", str(high)]
    subprocess.run(["rsvg-convert", *size, str(svg), "-o", str(tmp_path / "second.png")], check=True)
    page = browser.new_page(viewport={"width": wide, "height": high})
    page.goto(svg.as_uri())
    page.evaluate(
        "([w, h]) => { const s = document.documentElement; s.setAttribute('width', w); s.setAttribute('height', h) }",
        [wide, high],
    )
    page.screenshot(path=tmp_path / "third.png")
    assert page.evaluate("window.find('Spindle pedestal')"), "the text itself is found"
    page.close()
    others = [Image.open(tmp_path / f"{n}.png").convert("L") for n in ("second", "third")]
    placed_views = [np.asarray(p, float) for p in (first, *others)]
    for a, b in itertools.combinations(placed_views, 2):
        assert (abs(a - b) > 48).mean() < 0.01
    assert (placed_views[1] < 128).mean() > 0.01, "and it is not blank"


# ---- PDF and PNG


def _page(ink):
    return pypdfium2.PdfDocument(write_pdf([ink]))[0]


def test_pdf_lines_have_their_true_widths(ink) -> None:
    import ctypes

    widths = set()
    for o in _page(ink).get_objects(filter=[pdfium.FPDF_PAGEOBJ_PATH]):
        value = ctypes.c_float()
        stroke, mode = ctypes.c_int(), ctypes.c_int()
        pdfium.FPDFPath_GetDrawMode(o.raw, mode, stroke)
        if stroke.value and pdfium.FPDFPageObj_GetStrokeWidth(o.raw, value):
            widths.add(round(value.value / MM, 3))
    assert widths == {0.25, 0.5, 0.7}


def test_pdf_geometry_stands_at_true_size(ink) -> None:
    """The bore of 40 at its scale: some path has just this box, in points."""
    circles = [m.curve for m in strokes_of(ink, "circle", "e2")]
    boxes = [o.get_bounds() for o in _page(ink).get_objects(filter=[pdfium.FPDF_PAGEOBJ_PATH])]
    for c in circles:
        x0, y0, x1, y1 = (v * MM for v in c.bounds())
        gaps = [max(abs(b[0] - x0), abs(b[1] - y0), abs(b[2] - x1), abs(b[3] - y1)) for b in boxes]
        # boxes of strokes count the line's width of 0.5
        assert min(gaps) < 0.501 * MM


def test_several_sheets_are_several_pages_each_of_its_size(ink) -> None:
    from dataclasses import replace

    wide = replace(ink, width=594.0, height=420.0)
    document = pypdfium2.PdfDocument(write_pdf([ink, wide]))
    sizes = [[round(v / MM) for v in document[k].get_size()] for k in range(len(document))]
    assert sizes == [[420, 297], [594, 420]]


def test_the_picture_shows_ink_where_the_page_has_it(ink) -> None:
    placed_view = np.asarray(Image.open(io.BytesIO(write_png(ink))).convert("L"))
    high, wide = placed_view.shape
    assert wide / high == pytest.approx(420 / 297, rel=0.01)
    dark = placed_view < 128
    for mark in strokes_of(ink, "line", "e2"):
        if mark.pen != "visible":
            continue
        x, y = mark.curve.poles.mean(axis=0)
        column, row = int(x / 420 * wide), int((297 - y) / 297 * high)
        assert dark[row - 3 : row + 4, column - 3 : column + 4].any()


def test_hidden_lines_left_out_on_the_sheet_are_left_out_of_what_is_issued() -> None:
    acting = DrawnPart("spindle-pedestal", views=["front"])
    drawing = apply(acting.drawing, SetView(view="e2", changes={"hidden_lines": False}))
    ink = acting.ink(drawing)
    assert not ezdxf.read(io.StringIO(write_dxf(ink).decode())).modelspace().query("*[layer=='HIDDEN']")
    assert 'class="s hidden"' not in write_svg(ink).decode()
