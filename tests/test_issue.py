"""What is issued, from Python and from the command line."""

from __future__ import annotations

import io
import json
import math
import re
import subprocess
from pathlib import Path

import ezdxf
import numpy as np
import pypdfium2
import pytest

from barequill.core.display import Stroke
from barequill.core.drawing import apply
from barequill.core.drawing.operations import Annotate
from barequill.core.writers import write_dxf, write_pdf, write_svg
from tools.common import COMMAND, demo_file
from tools.sheets import DrawnPart

from .commanding import run


@pytest.fixture(scope="module")
def ink():
    acting = DrawnPart("round-gear-cover", face="+Y", views=["front", "left", "iso"])
    dimensions = [
        acting.pull("left", [((0, 6, -62),)], (40, 60)),
        acting.pull("front", [((0, 26, 20),)], (80, 80)),
    ]
    dimensions = [d.model_copy(update={"id": f"d{901 + k}"}) for k, d in enumerate(dimensions)]
    drawing = apply(acting.drawing, Annotate(sheet="e1", annotations=dimensions))
    return acting.ink(drawing)


def test_the_dxf_holds_real_curves_on_layers_and_dimensions(ink) -> None:
    document = ezdxf.read(io.StringIO(write_dxf(ink).decode()))
    audit = document.audit()
    assert not audit.errors and not audit.fixes
    space = document.modelspace()
    radii = sorted({round(c.dxf.radius, 4) for c in space.query("CIRCLE[layer=='VISIBLE']") if c.dxf.radius > 10})
    assert radii == [18, 20, 33.5, 36, 62], "bore, recess, boss at both ends, flange: at 1:1"
    assert document.layers.get("HIDDEN").dxf.linetype == "ISO_HIDDEN"
    assert document.layers.get("VISIBLE").dxf.lineweight == 50 and document.layers.get("HIDDEN").dxf.lineweight == 25
    assert space.query("ELLIPSE"), "circles in the pictorial view are ellipses"
    found = {d.dxf.text: d for d in space.query("DIMENSION")}
    assert set(found) == {"Ø124", "Ø40"}
    big = found["Ø124"]
    assert abs(big.dxf.defpoint2[1] - big.dxf.defpoint3[1]) == pytest.approx(124)
    assert len(list(document.blocks.get(big.dxf.geometry))) > 5


def test_the_pdf_has_true_size_embedded_lettering_and_vectors(ink) -> None:
    data = write_pdf([ink])
    document = pypdfium2.PdfDocument(data)
    assert [x / 72 * 25.4 for x in document[0].get_size()] == pytest.approx([420, 297], abs=0.01)
    assert b"FontFile2" in data
    text = document[0].get_textpage().get_text_range()
    assert "Ø124" in text and "Round gear cover" in text
    assert not [o for o in document[0].get_objects() if o.type == 3], "no pictures: all is vector"
    # the flange is drawn 124 mm wide in ink
    page = document[0].render(scale=4).to_numpy()[:, :, 0]
    assert (page < 128).sum() > 1000


def test_the_svg_is_grouped_by_view_in_millimetres(ink) -> None:
    svg = write_svg(ink).decode()
    assert 'width="420mm" height="297mm" viewBox="0 0 420 297"' in svg
    assert 'id="front-view-e2"' in svg and 'id="left-view-e3"' in svg and 'data-owner="d901"' in svg
    widths = {float(w) for w in re.findall(r'class="s visible" stroke-width="([\d.]+)"', svg)}
    assert widths == {0.5}
    assert re.search(r'class="s hidden" stroke-width="0.25" stroke-dasharray="[\d. ]+"', svg)


def test_all_formats_and_the_screen_show_the_same_ink(ink) -> None:
    strokes = [m for m in ink.marks_of() if isinstance(m, Stroke)]
    assert write_svg(ink).decode().count('<path class="s ') == len(strokes)
    document = ezdxf.read(io.StringIO(write_dxf(ink).decode()))
    in_blocks = sum(
        1
        for d in document.modelspace().query("DIMENSION")
        for e in document.blocks.get(d.dxf.geometry)
        if e.dxftype() not in ("TEXT", "SOLID")
    )
    loose = sum(
        1 for e in document.modelspace() if e.dxftype() in ("LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE")
    )
    assert in_blocks + loose == len(strokes)


def test_the_command_prints_what_was_read() -> None:
    words = [COMMAND, "part", str(demo_file("spindle-pedestal")), "--json"]
    done = subprocess.run(words, capture_output=True, text=True, timeout=120)
    told = json.loads(done.stdout)
    assert done.returncode == 0 and told["size"] == pytest.approx([140, 80, 114], abs=1e-5)
    # foot 140×80×16 with R12 corners, upright 68×40×64 and a half disc R34; less bore, four holes; less the oil hole
    foot = 140 * 80 * 16 - (4 - math.pi) * 144 * 16 - 4 * math.pi * 5.5**2 * 16
    upright = (68 * 64 + math.pi * 34**2 / 2 - math.pi * 400) * 40
    ribs = 2 * 17 * 36 / 2 * 10
    assert told["volume"] == pytest.approx(foot + upright + ribs - math.pi * 16 * 14, rel=1e-3)
    assert told["number"] == "WL-201" and told["bodies"][0]["name"] == "Spindle pedestal"


def test_the_command_draws_and_writes_lines(tmp_path: Path) -> None:
    part = str(demo_file("pawl"))
    out = tmp_path / "pawl.pdf"
    done = run(
        "draw",
        part,
        "--sheet",
        "A4",
        "--angle",
        "third",
        "--views",
        "front,right,iso",
        "--title",
        "Trial",
        "-o",
        str(out),
    )
    assert done.returncode == 0, done.stderr
    assert "Trial" in pypdfium2.PdfDocument(out.read_bytes())[0].get_textpage().get_text_range()
    lines = tmp_path / "lines.json"
    assert run("lines", part, "--view", "top", "--no-hidden", "-o", str(lines)).returncode == 0
    told = json.loads(lines.read_text())
    assert (told["right"], told["up"], told["toward"]) == ([1, 0, 0], [0, 1, 0], [0, 0, 1])
    assert all(c["visible"] for c in told["curves"])
    points = np.concatenate([c["points"] for c in told["curves"]])
    assert [*points.min(axis=0), *points.max(axis=0)] == pytest.approx([-18, 0, 92, 16], abs=1e-4)


@pytest.mark.parametrize(
    "words",
    [
        ("part", "nowhere.step"),
        ("draw", "PART", "--scale", "big", "-o", "x.pdf"),
        ("draw", "PART", "-o", "x.doc"),
        ("draw", "PART", "--sheet", "Z9", "-o", "x.pdf"),
        ("lines", "PART", "--toward", "0,0,1", "--up", "0,0,1", "-o", "x.json"),
        ("lines", "PART", "--view", "aslant", "-o", "x.json"),
    ],
)
def test_bad_input_ends_with_code_2_and_one_clear_line(words) -> None:
    done = run(*[str(demo_file("pawl")) if w == "PART" else w for w in words])
    assert done.returncode == 2
    assert len(done.stderr.strip().splitlines()) == 1 and done.stderr.startswith("barequill: ")
