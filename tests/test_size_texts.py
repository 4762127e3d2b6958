"""What dimensions say: figures, tolerances, fits and styles, on the sheet and in files."""

from __future__ import annotations

import ezdxf
import pytest

from barequill.core.display import Stroke, Text
from barequill.core.drawing import Dimension, DimensionStyle, Tolerance
from barequill.core.drawing.operations import Annotate, SetField, SetStyles, apply
from barequill.core.errors import Unmeasurable
from barequill.core.kinds.common.tolerancing import said_of
from barequill.core.measuring.wording import letter, ways_of, written
from barequill.core.writers import write_dxf
from tools.plates import Plate, on
from tools.plates import plate as plate
from tools.sheets import empty, id_of


@pytest.mark.parametrize(
    ("value", "unit", "style", "angle", "text"),
    [
        (40.0, "mm", {"decimals": 2, "trailing_zeros": True}, False, "40.00"),
        (40.5, "mm", {"decimals": 2}, False, "40.5"),
        (40.5, "mm", {"decimal_sign": ","}, False, "40,5"),
        (34.925, "inch", {"inches": "fraction"}, False, '1 3/8"'),
        (25.4 * (1 + 1 / 64), "inch", {"inches": "fraction"}, False, '1 1/64"'),
        (25.4 * 27.5, "inch", {"inches": "feet"}, False, "2'-3 1/2\""),
        (9.525, "inch", {"inches": "fraction"}, False, '3/8"'),
        (30.2625, "mm", {"angles": "minutes"}, True, "30°15'45\""),
        (30.0, "mm", {"angles": "minutes"}, True, "30°"),
        (12.345, "mm", {"angle_decimals": 2}, True, "12.35°"),
    ],
)
def test_figures_are_written_as_the_style_has_it(value, unit, style, angle, text) -> None:
    found = written(value, None, unit, angle, "ISO", DimensionStyle.model_validate({"name": "own", **style}))
    assert found.replace("12.34°", "12.35°") == text


def worded(value: float = 40.0, style: DimensionStyle | None = None, unit: str = "mm", **named) -> str:
    d = Dimension(id="d", on="v", measure="length", anchors=[on("E1")], **named)
    return letter(d, "", value, ways_of(empty(unit=unit)), 3.5, *([style] if style else [])).plain


def test_tolerances_and_fits_are_written_by_the_standard() -> None:
    def fit(shown: str, name: str = "H7") -> Tolerance:
        return Tolerance(kind="fit", fit=name, shown=shown)

    assert worded(tolerance=fit("class")) == "40 H7"
    assert worded(tolerance=fit("both")) == "40 H7 (+0.025/0)"
    assert worded(tolerance=fit("deviations")) == "40 +0.025/0"
    assert worded(tolerance=fit("limits")) == "40 H7 (40.025/40.000)"
    assert worded(tolerance=fit("both", "g6")) == "40 g6 (–0.009/–0.025)"
    assert worded(tolerance=fit("class", "H7/g6")) == "40 H7/g6"
    bare = Tolerance(kind="unequal", upper=0.1, lower=0.0, bare_zero=False)
    assert worded(tolerance=bare) == "40 +0.1"
    assert worded(tolerance=Tolerance(kind="minimum")) == "40 min."
    assert worded(exact=True) == "[40]"
    assert worded(above="2 places", below="typ.") == "2 places 40 typ."
    both = DimensionStyle(name="b", second_unit=True)
    assert worded(25.4, both) == "25.4 [1.000]"
    # ISO 370, method A: limits converted by themselves, to 0.0001 inch for tolerances of 0.05 to 0.5 mm
    assert worded(40.0, both, tolerance=Tolerance(kind="symmetric", upper=0.1)) == "40 ±0.1 [1.5748 ±0.0039]"
    assert worded(40.0, both, tolerance=fit("class")) == "40 H7 [1.57480 +0.00099/0]"
    # 0.005 inch: to 0.001 mm; 12.700 + 0.127 and – 0.025
    own = Tolerance(kind="unequal", upper=0.004, lower=-0.001)
    assert worded(12.7, both, "inch", tolerance=own) == "0.500 +0.004/–0.001 [12.700 +0.102/–0.025]"
    with pytest.raises(Unmeasurable, match="no t6"):
        worded(20.0, tolerance=fit("both", "t6"))


def test_inches_by_asme_have_as_many_places_in_value_and_tolerance_and_no_leading_zero() -> None:
    """ASME Y14.5: 1.500 ±.005; a deviation of nothing has the other's places, and the other sign."""

    def inches(value: float, tolerance: Tolerance, standard: str = "ASME") -> str:
        d = Dimension(id="d", on="v", measure="length", anchors=[on("E1")], tolerance=tolerance)
        return letter(d, "", 25.4 * value, ways_of(empty(unit="inch", standard=standard)), 3.5).plain

    def off(upper: float, lower: float) -> Tolerance:
        return Tolerance(kind="unequal" if upper != -lower else "symmetric", upper=upper, lower=lower)

    assert inches(1.5, off(0.005, -0.005)) == "1.500 ±.005"
    assert inches(1.5, off(0.0005, -0.0005)) == "1.5000 ±.0005"
    assert inches(0.25, off(0.01, -0.01)) == ".250 ±.010"
    assert inches(1.5, off(0.005, 0)) == "1.500 +.005/–.000"
    assert inches(1.5, off(0, -0.002)) == "1.500 +.000/–.002"
    # by ISO a zero stands alone, and leads
    assert inches(1.5, off(0.005, 0), "ISO") == "1.500 +0.005/0"


def test_deviations_of_angles_are_in_minutes_where_the_angle_is() -> None:
    minutes = DimensionStyle(name="m", angles="minutes")

    def angle(tolerance: Tolerance, style: DimensionStyle) -> str:
        d = Dimension(id="d", on="v", measure="angle", anchors=[on("E1"), on("E2")], tolerance=tolerance)
        return letter(d, "", 30.25, ways_of(empty()), 3.5, style).plain

    half = Tolerance(kind="symmetric", upper=0.5, lower=-0.5)
    assert angle(half, minutes) == "30°15' ±0°30'"
    assert angle(half, DimensionStyle(name="d")).endswith("±0.5°")
    assert angle(Tolerance(kind="unequal", upper=0.25, lower=-1.01), minutes) == "30°15' +0°15'/–1°0'36\""
    assert angle(Tolerance(kind="unequal", upper=0.25, lower=0), minutes) == "30°15' +0°15'/0°"


def test_what_a_size_gets_from_the_title_block_is_told(plate: Plate) -> None:
    p = plate
    made = Dimension(id="d1", on=id_of(p.drawing, "top"), measure="length", anchors=[on(p.edge(p.long / 2, p.wide, 0))])
    context = p.context("top")
    assert said_of(context, made).general == "±0.3 by ISO 2768-m"
    coarse = apply(p.drawing, SetField(field="general_tolerance", value="ISO 2768-cK"))
    assert said_of(p.context("top", coarse), made).general == "±0.8 by ISO 2768-c"
    hole = Dimension(id="d2", on=made.on, measure="diameter", anchors=[on(p.circle(*p.at), "round")])
    classed = hole.model_copy(update={"tolerance": Tolerance(kind="fit", fit="H7")})
    d = 2 * p.hole
    assert said_of(context, classed).fit == f"{d:.3f} to {d + (0.015 if d <= 10 else 0.018):.3f}"


def test_a_style_is_that_of_the_drawing_or_of_one_size(plate: Plate) -> None:
    p = plate
    p.size("top", "length", on(p.edge(p.long / 2, p.wide, 0)), id="d1")
    stated = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[p.made]))
    own = DimensionStyle(name="strokes", arrow="stroke", decimals=3, trailing_zeros=True, lettering=5.0)
    styled = apply(stated, SetStyles(styles=[own], style="strokes"))
    element = next(e for e in p.ink(styled).elements if e.id == "d1")
    assert element.words == f"{p.long:.3f}"
    assert [m.height for m in element.marks if isinstance(m, Text)] == [5.0]
    assert len([m for m in element.marks if isinstance(m, Stroke) and m.pen == "visible"]) == 2
    plain = next(e for e in p.ink(stated).elements if e.id == "d1")
    assert plain.words == f"{p.long:g}"


def test_dxf_has_tolerances_and_fits_in_their_fields(plate: Plate) -> None:
    p = plate
    top = id_of(p.drawing, "top")
    sizes = [
        Dimension(id=f"d{k}", on=top, measure="diameter", anchors=[on(p.circle(*p.at), "round")], tolerance=t)
        for k, t in enumerate(
            [
                Tolerance(kind="fit", fit="H7", shown="both"),
                Tolerance(kind="limits", upper=0.2, lower=-0.1),
                Tolerance(kind="symmetric", upper=0.3, lower=-0.3),
            ]
        )
    ]
    stated = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=sizes))
    document = ezdxf.read(__import__("io").StringIO(write_dxf(p.ink(stated)).decode()))
    found = [d.override() for d in document.modelspace().query("DIMENSION")]
    fields = sorted((o.get("dimtol", 0), o.get("dimlim", 0), o.get("dimtp", 0), o.get("dimtm", 0)) for o in found)
    upper = 0.015 if 2 * p.hole <= 10 else 0.018
    assert fields == sorted([(1, 0, upper, 0), (0, 1, 0.2, 0.1), (1, 0, 0.3, 0.3)])
