"""Text out of its line, arrows each by itself, lines broken at crossings, line groups and heights of lettering."""

from __future__ import annotations

import ctypes
import json
import math

import ezdxf
import numpy as np
import pypdfium2
import pytest
import shapely

from barequill.core.acts.pull_dimension import MoveDimension
from barequill.core.arranging.size_remarks import size_remarks
from barequill.core.display import Region, Stroke, Text
from barequill.core.drawing import Dimension, DimensionStyle, Drawing
from barequill.core.drawing.operations import Annotate, ChangeAnnotation, SetSheet, SetStyles, apply
from barequill.core.errors import UserError
from barequill.core.writers import write_dxf, write_pdf
from tools.plates import Plate, on
from tools.plates import plate as plate
from tools.sheets import done, id_of


def stated(p: Plate, *more: Dimension, **changes) -> Drawing:
    """The plate with its length stated above its top view."""
    p.size("top", "length", on(p.edge(p.long / 2, p.wide, 0)), id="d1", place={"offset": 20.0}, **changes)
    return apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[p.made, *more]))


def element(p: Plate, drawing: Drawing, own: str = "d1"):
    return next(e for e in p.ink(drawing).elements if e.id == own)


def arrows(found) -> list[tuple[float, float]]:
    """Of each arrowhead its tip's place and the way in which it points, left of the sheet first (x, and +1 to the right)."""
    heads = []
    for m in (m for m in found.marks if isinstance(m, Region)):
        tip, *base = m.rings[0]
        heads.append((tip[0], math.copysign(1, tip[0] - np.mean(base, axis=0)[0])))
    return sorted(heads)


def test_each_arrow_is_turned_by_itself(plate: Plate) -> None:
    assert [w for _, w in arrows(element(plate, stated(plate)))] == [-1, 1]
    assert [w for _, w in arrows(element(plate, stated(plate, ends=["outside", "auto"])))] == [1, 1]
    found = element(plate, stated(plate, ends=["auto", "outside"]))
    assert [w for _, w in arrows(found)] == [-1, -1]
    # the line goes on for two arrows' lengths beyond the end whose arrow stands outside, and not at the other; arrows are as long
    # as lettering is high, on A1 5 mm
    levels = [m.curve.points(0.1) for m in found.marks if isinstance(m, Stroke) and m.curve.kind == "line"]
    (line,) = [x for x in levels if abs(np.ptp(x[:, 1])) < 1e-9]
    (left, _), (right, _) = arrows(found)
    assert (line[:, 0].min(), line[:, 0].max()) == pytest.approx((left, right + 2 * 5.0))


def test_a_text_is_pulled_out_of_its_line_and_back(plate: Plate) -> None:
    drawing = stated(plate)
    place = plate.placed_view("top").transform.place
    text = next(m for m in element(plate, drawing).on_sheet() if isinstance(m, Text))
    middle = text.corners().mean(axis=0)
    to = (float(middle[0]) + 30.0, float(middle[1]) + 15.0)
    out = done(plate.projections, drawing, MoveDimension(id="d1", pointer=to, text_only=True, out=True))
    found = element(plate, out)
    led = next(m for m in found.marks if isinstance(m, Text))
    assert led.corners().mean(axis=0) + place == pytest.approx(to, abs=0.5)
    # from the middle of the line to the nearer end of the line under the text
    (leader,) = [m.curve.points(0.1) for m in found.marks if isinstance(m, Stroke) and m.curve.kind == "polyline"]
    (left, _), (right, _) = arrows(found)
    assert leader[0][0] == pytest.approx((left + right) / 2)
    assert leader[1] == pytest.approx([led.corners()[:, 0].min() - 0.5, leader[2][1]])
    # dragged on it stays out; brought to its line it stands there again
    further = MoveDimension(id="d1", pointer=(to[0] + 20, to[1]), text_only=True)
    assert done(plate.projections, out, further).sheet_of("d1").annotation("d1").place.aside[0] == pytest.approx(
        50, abs=0.1
    )
    root = (float(leader[0][0] + place[0]), float(leader[0][1] + place[1] + 2))
    back = done(plate.projections, out, MoveDimension(id="d1", pointer=root, text_only=True))
    assert back.sheet_of("d1").annotation("d1").place.aside == (0.0, 0.0)
    round_ = Dimension(
        id="d2", on=id_of(plate.drawing, "top"), measure="diameter", anchors=[on(plate.circle(*plate.at), "round")]
    )
    with pytest.raises(UserError, match="has a leader already"):
        done(plate.projections, stated(plate, round_), MoveDimension(id="d2", pointer=to, text_only=True, out=True))


@pytest.mark.parametrize(("text", "gap"), [("above", False), ("level", True), ("auto", False)])
def test_a_text_stands_along_its_line_or_in_a_gap(plate: Plate, text: str, gap: bool) -> None:
    found = element(plate, stated(plate, text=text))
    lines = [m.curve.points(0.1) for m in found.marks if isinstance(m, Stroke)]
    level = [x for x in lines if abs(np.ptp(x[:, 1])) < 1e-9]
    assert len(level) == (2 if gap else 1)


@pytest.mark.parametrize(("how", "pieces"), [("whole", 2), ("arrows", 2), ("lines", 4)])
def test_extension_lines_are_broken_where_the_line_of_another_crosses(plate: Plate, how: str, pieces: int) -> None:
    """A longer size below a shorter one: both its extension lines go across nothing; those of a size further out cross the line of
    one that is nearer and reaches beyond them."""
    top = id_of(plate.drawing, "top")
    near = {"offset": 10.0, "side": 1}
    hole = Dimension(
        id="d2",
        on=top,
        measure="distance",
        direction="horizontal",
        anchors=[on(plate.circle(*plate.at), "centre"), on(plate.circle(*plate.over), "centre")],
        place={"offset": 30.0},  # type: ignore[arg-type]
        style="own",
    )
    drawing = stated(plate, hole)
    drawing = apply(drawing, ChangeAnnotation(id="d1", changes={"place": near}))
    drawing = apply(drawing, SetStyles(styles=[DimensionStyle(name="own", crossings=how)]))  # type: ignore[arg-type]
    found = element(plate, drawing, "d2")
    across = [
        m.curve.points(0.1) for m in found.marks if isinstance(m, Stroke) and np.ptp(m.curve.points(0.1)[:, 0]) < 1e-9
    ]
    assert len(across) == pieces
    (line,) = [
        shapely.LineString(m.curve.points(0.1))
        for m in element(plate, drawing).marks
        if isinstance(m, Stroke) and np.ptp(m.curve.points(0.1)[:, 1]) < 1e-9
    ]
    away = min(shapely.LineString(x).distance(line) for x in across)
    assert away == pytest.approx(1.0 if how == "lines" else 0.0, abs=0.01)


def test_the_proportion_of_arrows_is_chosen(plate: Plate) -> None:
    style = DimensionStyle(name="wide", arrow_angle=60, arrow_length=4)
    drawing = apply(stated(plate), SetStyles(styles=[style], style="wide"))
    head = next(m for m in element(plate, drawing).marks if isinstance(m, Region)).rings[0]
    one, two = head[1] - head[0], head[2] - head[0]
    between = math.degrees(math.acos(one @ two / (np.linalg.norm(one) * np.linalg.norm(two))))
    assert between == pytest.approx(60)
    assert np.linalg.norm((one + two) / 2) == pytest.approx(4)


@pytest.mark.parametrize(
    ("size", "chosen", "wide", "narrow", "lettering", "caption"),
    [
        ("A3", {}, 0.5, 0.25, 3.5, 5.0),
        ("A2", {}, 0.7, 0.35, 3.5, 5.0),
        ("A0", {}, 0.7, 0.35, 5.0, 7.0),
        ("A3", {"wide": 0.35, "lettering": 2.5}, 0.35, 0.18, 2.5, 3.5),
        ("A1", {"wide": 1.0, "lettering": 7.0}, 1.0, 0.5, 7.0, 10.0),
    ],
)
def test_line_groups_and_heights_are_those_of_the_standard_or_chosen(
    plate: Plate, size, chosen, wide, narrow, lettering, caption
) -> None:
    drawing = apply(stated(plate), SetSheet(sheet=plate.sheet.id, size=size, **chosen))
    lines = plate.ink(drawing).lines
    assert (lines.width("visible"), lines.width("hidden"), lines.lettering, lines.caption) == (
        wide,
        narrow,
        lettering,
        caption,
    )
    written = next(m for m in element(plate, drawing).marks if isinstance(m, Text))
    assert written.height == lettering
    back = apply(drawing, SetSheet(sheet=plate.sheet.id, size="A3", wide=0, lettering=0))
    assert (plate.ink(back).lines.wide, plate.ink(back).lines.lettering) == (0.5, 3.5)
    assert json.loads(back.model_dump_json())["wide"] is None


def test_chosen_widths_are_true_in_pdf_and_dxf(plate: Plate, tmp_path) -> None:
    drawing = apply(stated(plate), SetSheet(sheet=plate.sheet.id, wide=0.35))
    ink = plate.ink(drawing)
    (tmp_path / "a.dxf").write_bytes(write_dxf(ink))
    layers = ezdxf.readfile(tmp_path / "a.dxf").layers
    assert (layers.get("VISIBLE").dxf.lineweight, layers.get("HIDDEN").dxf.lineweight) == (35, 18)
    widths, width = set(), ctypes.c_float()
    for found in pypdfium2.PdfDocument(write_pdf([ink]))[0].get_objects():
        if pypdfium2.raw.FPDFPageObj_GetStrokeWidth(found, width):
            widths.add(round(width.value * 25.4 / 72, 2))
    assert {0.35, 0.18} <= widths


def test_a_fraction_that_is_rounded_is_remarked(plate: Plate) -> None:
    """1/64 inch is 0.396875 mm: a length of 80 to 140 mm with two decimals is a fraction by chance alone."""
    drawing = apply(
        stated(plate), SetStyles(styles=[DimensionStyle(name="f", inches="fraction", second_unit=True)], style="f")
    )
    placed = plate.projections.placed_views(drawing, drawing.front_sheet)
    (remark,) = size_remarks(drawing, drawing.front_sheet, placed)
    assert remark.on == "d1"
    assert remark.words.endswith(f"it measures {plate.long / 25.4:.4f} inch")
    assert not size_remarks(stated(plate), drawing.front_sheet, placed)
