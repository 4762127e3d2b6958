"""What the sheet's lettering lacks: drawn from fonts that are shipped, in its order, found by search in all formats."""

from __future__ import annotations

import io
import re
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pypdfium2
import pytest
from fontTools.ttLib import TTFont
from PIL import Image

from barequill.core.acts.overall import OverallSizes
from barequill.core.arranging.clashes import clashes
from barequill.core.arranging.remarks import remarks_on
from barequill.core.display import DisplayList, Element, Sketch, Text
from barequill.core.display.glyphs import glyph_path
from barequill.core.display.lettering import FACES, FOLDER, face_of, laid_out, pieces, text_width, undrawable
from barequill.core.drawing import apply
from barequill.core.drawing.operations import SetSheet
from barequill.core.sheet.display_cache import DisplayCache
from barequill.core.sheet.stages import draw_sheet
from barequill.core.standards.lines import line_group
from barequill.core.writers import write_dxf, write_pdf, write_png, write_svg
from barequill.core.writers.dxf import as_text
from tools.sheets import DrawnPart, done, id_of

TEXTS = {
    "chinese": "水泵轴承座 5",
    "hebrew": "מכסה גלגל",
    "arabic": "غطاء الترس 5",
    "signs": "✓ ⚠ → ≅ ≢ Ω",
    "kana": "ポンプ",
}
LATIN = "Pawl Ø24 H7"


def sheet_of(*texts: str) -> DisplayList:
    group = line_group("A4")
    sketch = Sketch(group)
    for k, text in enumerate(texts):
        sketch.text(text, 20.0, 40.0 + 15 * k, 5.0)
    element = Element(id="e1", kind="sheet", group="sheet", words="", key="", at=(0.0, 0.0), marks=tuple(sketch.marks))
    return DisplayList(width=297, height=210, lines=group, elements=[element], title="t")


def test_bold_lettering_has_lines_of_a_seventh_of_its_height_in_all_formats() -> None:
    # ISO 3098: lines of a tenth in type B; a heading's are a seventh. Counted in a picture at 600 dots an inch, at half height
    widths = []
    for bold in (False, True):
        sheet, sketch = sheet_of("I"), Sketch(line_group("A4"))
        sketch.text("I", 20.0, 40.0, 10.0, bold=bold)
        element = Element(id="e1", kind="sheet", group="", words="", key="", at=(0, 0), marks=tuple(sketch.marks))
        drawn = DisplayList(width=297, height=210, lines=sheet.lines, elements=[element], title="t")
        placed_view = np.array(Image.open(io.BytesIO(write_png(drawn, 600))).convert("L"))
        widths.append(float((255 - placed_view[round((210 - 45) * 600 / 25.4)]).sum()) / 255 * 25.4 / 600)
        root = ET.fromstring(write_svg(drawn))
        grown = [
            float(g.get("stroke-width")) for g in root.iter("{http://www.w3.org/2000/svg}g") if g.get("stroke-width")
        ]
        scale = [re.search(r"scale\((\S+)", g.get("transform", "")) for g in root.iter("{http://www.w3.org/2000/svg}g")]
        ems = next(float(s.group(1)) for s in scale if s)
        assert [w * ems for w in grown] == ([pytest.approx(10 * (1 / 7 - 1 / 10), rel=0.01)] if bold else [])
        styles = {e.dxf.style for e in ezdxf.read(io.StringIO(write_dxf(drawn).decode())).modelspace().query("TEXT")}
        assert styles == ({"LETTERING_BOLD"} if bold else {"LETTERING"})
    assert widths[0] == pytest.approx(1.0, rel=0.06) and widths[1] - widths[0] == pytest.approx(10 / 7 - 1, rel=0.06)


def test_fonts_come_with_their_licences_and_are_taken_by_script() -> None:
    for face in FACES:
        assert face.file.exists() and list(FOLDER.glob(f"{face.name[:4].lower()}*copyright.txt"))
    assert {c: face_of(c).name for c in "Aא水ا✓"} == dict(
        zip("Aא水ا✓", ("osifont", "DejaVuSans", "DroidSansFallback", "DejaVuSans", "DejaVuSans"), strict=True)
    )
    assert [p[0].name for p in pieces("水泵")] == ["DroidSansFallback"], "a word is not put together of two fonts"
    assert not undrawable("".join(TEXTS.values())) and undrawable("a\U0001f9f0") == ["\U0001f9f0"]


def test_what_is_read_from_right_to_left_stands_so_and_arabic_is_joined() -> None:
    assert laid_out("אבג") == "גבא" and laid_out("אבג 12") == "12 גבא" and laid_out(LATIN) == LATIN
    # beh alone, and its four forms in a word: initial, medial, final (Unicode's charts)
    assert laid_out("ببب") == "\ufe90\ufe92\ufe91" and laid_out("لا") == "\ufefb"
    font = TTFont(FACES[1].file)
    widths, names = font["hmtx"].metrics, font.getBestCmap()
    ems = sum(widths[names[c]][0] for c in (0xFE90, 0xFE92, 0xFE91)) / font["head"].unitsPerEm * FACES[1].share
    assert text_width("ببب", 5.0) == pytest.approx(ems * 5.0 / (1510 / 2048))


@pytest.mark.parametrize("name", TEXTS)
def test_each_script_is_drawn_alike_in_every_format_and_found_in_it(name: str) -> None:
    text = TEXTS[name]
    ink = sheet_of(text)
    pdf = pypdfium2.PdfDocument(write_pdf([ink]))
    said = pdf[0].get_textpage().get_text_range()
    assert re.sub(r"\s", "", text) in re.sub(r"\s", "", said), "found by search"
    svg = ET.fromstring(write_svg(ink))
    assert text in ["".join(t.itertext()) for t in svg.iter("{http://www.w3.org/2000/svg}text")]
    document = ezdxf.read(io.StringIO(write_dxf(ink).decode()))
    assert not document.audit().errors
    (entity,) = document.modelspace().query("TEXT")
    assert entity.dxf.text == text and entity.dxf.style != "LETTERING"
    # ink is there, about as wide as is reckoned with, and no box of a letter that lacks
    dots = np.array(pdf[0].render(scale=4).to_pil().convert("L")) < 128
    columns = np.nonzero(dots.any(axis=0))[0] / 4 / 72 * 25.4
    assert columns.max() - columns.min() == pytest.approx(text_width(text, 5.0), rel=0.2)
    letters = [c for c in laid_out(text) if c != " "]
    drawn = {u.get("href")[1:] for u in svg.iter("{http://www.w3.org/2000/svg}use")}
    assert {f"l{ord(c):x}" for c in letters} == drawn
    assert write_png(ink)


def test_what_no_font_has_is_drawn_by_its_number_and_remarked() -> None:
    ink = sheet_of("Pump \U0001f9f0 1")
    (mark,) = [m for m in ink.elements[0].marks if isinstance(m, Text)]
    assert mark.text == "Pump [U+1F9F0] 1"
    assert "no lettering has" in remarks_on(ink, {})[0].words


def test_what_a_dxf_reader_would_take_for_a_code_stands_for_itself() -> None:
    from ezdxf.tools.text import plain_text

    for text in ("100%%d of it", "%%", "a^b ^M", "5%", "x%%%y", "%%%%"):
        assert plain_text(as_text(text)) == text, text
    assert as_text(r"\U+00E4") == r"\U+005CU+00E4" and as_text(r"C:\Users") == r"C:\Users"


def test_lettering_is_chosen_for_a_drawing_and_all_is_measured_and_issued_in_it() -> None:
    p = DrawnPart("round-gear-cover", views=["front"])
    drawing = done(p.projections, p.drawing, OverallSizes(views=[id_of(p.drawing, "front")], axes=["x", "y"]))
    kept = DisplayCache()
    widths, keys = {}, {}
    for font in ("upright", "sloped", "plain", "upright"):
        drawing = apply(drawing, SetSheet(sheet="e1", font=font))
        ink, fresh = (draw_sheet(drawing, drawing.front_sheet, p.projections, cache) for cache in (kept, None))
        for one, two in zip(ink.elements, fresh.elements, strict=True):
            assert (one.key, one.at) == (two.key, two.at), "what is kept of another lettering is not taken"
        texts = [m for e in ink.elements for m in e.marks if isinstance(m, Text)]
        assert texts and {t.font for t in texts} == {font}
        widths[font] = sum(t.width for t in texts)
        keys[font] = {e.key for e in ink.elements if any(isinstance(m, Text) for m in e.marks)}
        clashing = clashes(ink)
        assert not clashing["text on text"]
        data = write_pdf([ink])
        assert {"upright": b"osifont", "sloped": b"osifont-sloped", "plain": b"DejaVuSans"}[font] in data
        dxf = ezdxf.read(io.StringIO(write_dxf(ink).decode()))
        styles = {e.dxf.style for e in dxf.modelspace().query("TEXT")}
        assert {"upright": "LETTERING", "sloped": "LETTERING_SLOPED", "plain": "LETTERING_WIDE"}[font] in styles
    assert widths["sloped"] == pytest.approx(widths["upright"]), "letters that slope stand as far apart"
    assert widths["plain"] != pytest.approx(widths["upright"], rel=0.02)
    assert not keys["sloped"] & keys["upright"] and not keys["plain"] & keys["upright"]
    # each point of an I slopes by 75°: it lies farther right by tan 15° of how high it is
    first = [np.array(re.findall(r"(-?\d+) (-?\d+)", glyph_path("I", f))[0], float) for f in ("upright", "sloped")]
    assert first[1] - first[0] == pytest.approx((first[0][1] * np.tan(np.radians(15)), 0), abs=0.6)
