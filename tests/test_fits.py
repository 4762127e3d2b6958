"""Limits and fits against figures published in ISO 286-2 and against the standard's own formulas; tolerances as typed."""

from __future__ import annotations

import json
import math

import pytest
from click.testing import CliRunner

from barequill.cli import main
from barequill.core.errors import UserError
from barequill.core.kinds.common.tolerancing import parsed
from barequill.core.standards.fits import BY_PART, BY_STEP, GRADES, ORDER, PARTED, STEPS, fit, fit_field, grade
from barequill.core.standards.general import angle, class_of, edge, general, linear

# upper and lower limit deviations, µm, of ISO 286-2:2010 (sizes within the step)
PUBLISHED = """
5 H7 12 0 | 5 g6 -4 -12 | 5 f7 -10 -22 | 5 k6 9 1 | 5 n6 16 8 | 5 p6 20 12 | 5 s6 27 19 | 5 N9 0 -30 | 5 P9 -12 -42
5 K7 3 -9 | 5 M7 0 -12 | 5 N7 -4 -16 | 5 P7 -8 -20 | 5 R7 -11 -23 | 5 S7 -15 -27 | 5 h11 0 -75 | 5 js6 4 -4
8 D10 98 40 | 8 E9 61 25 | 8 F8 35 13 | 8 G7 20 5 | 8 H8 22 0 | 8 J7 8 -7 | 8 K6 2 -7 | 8 m6 15 6 | 8 c11 -80 -170
12 P9 -18 -61 | 12 N9 0 -43 | 12 h9 0 -43 | 12 JS9 21.5 -21.5 | 12 k6 12 1 | 12 e8 -32 -59 | 12 R7 -16 -34 | 12 j6 8 -3
25 H7 21 0 | 25 g6 -7 -20 | 25 f7 -20 -41 | 25 d9 -65 -117 | 25 k6 15 2 | 25 m6 21 8 | 25 n6 28 15 | 25 p6 35 22
25 r6 41 28 | 25 s6 48 35 | 25 t6 54 41 | 25 u6 61 48 | 25 K7 6 -15 | 25 M7 0 -21 | 25 N7 -7 -28 | 25 P7 -14 -35
25 R7 -20 -41 | 25 S7 -27 -48 | 25 U7 -40 -61 | 25 h6 0 -13 | 25 H11 130 0 | 25 c11 -110 -240 | 25 j7 13 -8
40 H7 25 0 | 40 g6 -9 -25 | 40 f7 -25 -50 | 40 e8 -50 -89 | 40 k6 18 2 | 40 n6 33 17 | 40 p6 42 26 | 40 s6 59 43
40 u6 76 60 | 40 K7 7 -18 | 40 N7 -8 -33 | 40 P7 -17 -42 | 40 J7 14 -11 | 40 J8 24 -15 | 40 H6 16 0 | 40 M6 -4 -20
60 H8 46 0 | 60 g6 -10 -29 | 60 r6 60 41 | 60 s6 72 53 | 60 t6 85 66 | 60 u6 106 87 | 60 a11 -340 -530 | 60 b11 -190 -380
75 r6 62 43 | 75 s6 78 59 | 75 R7 -32 -62 | 75 S7 -48 -78 | 90 H7 35 0 | 90 k6 25 3 | 90 m6 35 13 | 90 n6 45 23 | 90 p6 59 37
110 s6 101 79 | 110 f7 -36 -71 | 110 K7 10 -25 | 110 N7 -10 -45 | 110 P7 -24 -59 | 150 H7 40 0 | 150 r6 90 65 | 150 s6 125 100
150 g6 -14 -39 | 150 d9 -145 -245 | 150 M7 0 -40 | 150 P7 -28 -68 | 210 H7 46 0 | 210 n6 60 31 | 210 p6 79 50 | 210 r6 109 80
210 K7 13 -33 | 210 N7 -14 -60 | 260 H7 52 0 | 260 M6 -9 -41 | 260 g6 -17 -49 | 260 f7 -56 -108 | 260 k6 36 4 | 350 H7 57 0
350 e8 -125 -214 | 350 p6 98 62 | 350 P7 -41 -98 | 450 H7 63 0 | 450 h6 0 -40 | 480 s6 292 252 | 450 K7 18 -45
550 H7 70 0 | 550 g6 -22 -66 | 550 f7 -76 -146 | 550 N7 -44 -114 | 900 H8 140 0 | 900 K7 0 -90 | 1500 H7 125 0 | 3000 h9 0 -540
2 H7 10 0 | 2 g6 -2 -8 | 2 K7 0 -10 | 2 M7 -2 -12 | 2 N7 -4 -14 | 2 P7 -6 -16 | 2 N9 -4 -29 | 2 f7 -6 -16 | 2 x6 26 20
"""
CASES = [c.split() for line in PUBLISHED.strip().splitlines() for c in line.split("|")]


@pytest.mark.parametrize(("size", "name", "upper", "lower"), CASES)
def test_classes_have_the_published_deviations(size: str, name: str, upper: str, lower: str) -> None:
    found = fit_field(float(size), name)
    assert (found.upper, found.lower) == (float(upper), float(lower))


def test_more_than_a_hundred_and_thirty_published_classes_are_compared() -> None:
    assert len(CASES) >= 130


def middle(steps: list[int], k: int) -> float:
    low = steps[k - 1] if k else 1
    return math.sqrt(low * steps[k])


def test_every_grade_is_what_its_formula_gives_but_for_the_standards_rounding() -> None:
    """i = 0.45 ∛D + 0.001 D to 500 mm, I = 0.004 D + 2.1 beyond; so many of them for each grade."""
    counts = [7, 10, 16, 25, 40, 64, 100, 160, 250, 400, 640, 1000, 1600, 2500]
    for name, count in zip([str(n) for n in range(5, 19)], counts, strict=True):
        for k, value in enumerate(GRADES[name]):
            # the first step goes by figures of its own
            d = middle(STEPS, k)
            if not k:
                continue
            unit = 0.45 * d ** (1 / 3) + 0.001 * d if STEPS[k] <= 500 else 0.004 * d + 2.1
            assert value == pytest.approx(count * unit, rel=0.08, abs=0.9), (name, STEPS[k])
    for k in range(len(STEPS)):
        figures = [GRADES[n][k] for n in ORDER if k < len(GRADES[n])]
        assert figures == sorted(figures)


IT = {n: lambda d, n=n: grade(d, n) for n in ORDER}
FORMULAS = {
    "a": lambda d: -(265 + 1.3 * d if d <= 120 else 3.5 * d),
    "b": lambda d: -(140 + 0.85 * d if d <= 160 else 1.8 * d),
    "c": lambda d: -(52 * d**0.2 if d <= 40 else 95 + 0.8 * d),
    "d": lambda d: -16 * d**0.44,
    "e": lambda d: -11 * d**0.41,
    "f": lambda d: -5.5 * d**0.41,
    "g": lambda d: -2.5 * d**0.34,
    "m": lambda d: IT["7"](d) - IT["6"](d) if d <= 500 else 0.024 * d + 12.6,
    "n": lambda d: 5 * d**0.34 if d <= 500 else 0.04 * d + 21,
    "p": lambda d: IT["7"](d) + 3 if d <= 500 else 0.072 * d + 37.8,
    "s": lambda d: IT["8"](d) + 2 if d <= 50 else IT["7"](d) + 0.4 * d,
    "t": lambda d: IT["7"](d) + 0.63 * d,
    "u": lambda d: IT["7"](d) + d,
    "v": lambda d: IT["7"](d) + 1.25 * d,
    "x": lambda d: IT["7"](d) + 1.6 * d,
    "y": lambda d: IT["7"](d) + 2 * d,
    "z": lambda d: IT["7"](d) + 2.5 * d,
    "za": lambda d: IT["8"](d) + 3.15 * d,
    "zb": lambda d: IT["9"](d) + 4 * d,
    "zc": lambda d: IT["10"](d) + 5 * d,
}


ROUNDED = {("b", 160), ("e", 1000), ("m", 3150), *(("c", top) for top in (14, 18, 24, 30, 40))}
"""Where the tables of the standard depart from its formula by more than that; published limits above cover b, c."""


@pytest.mark.parametrize("letter", FORMULAS)
def test_every_tabulated_deviation_is_what_its_formula_gives_but_for_rounding(letter: str) -> None:
    table, steps = (BY_STEP[letter], STEPS) if letter in BY_STEP else (BY_PART[letter], PARTED)
    compared = 0
    for k, value in enumerate(table):
        if value is None or steps[k] <= 10 or (letter, steps[k]) in ROUNDED:
            continue
        d = middle(steps, k)
        assert value == pytest.approx(FORMULAS[letter](d), rel=0.045, abs=3.2), (letter, steps[k])
        compared += 1
    assert compared >= 12


def test_r_is_the_middle_of_p_and_s() -> None:
    for k, value in enumerate(BY_PART["r"]):
        p = next(v for v, top in zip(BY_STEP["p"], STEPS, strict=True) if top >= PARTED[k])
        assert value == pytest.approx(math.sqrt(p * BY_PART["s"][k]), rel=0.04, abs=1.0)


def test_pairs_and_what_the_standard_has_not() -> None:
    assert (fit(40, "H7/g6").least, fit(40, "H7/g6").most) == (9, 50)
    assert fit(40, "H7/g6").words == "clearance 0.009 to 0.050"
    assert fit(40, "H7/s6").words == "interference 0.018 to 0.059"
    assert fit(40, "H7/k6").words == "transition: interference to 0.018, clearance to 0.023"
    for size, name in (
        (40, "Q7"),
        (40, "H19"),
        (40, "hH7"),
        (40, "t6x"),
        (20, "t6"),
        (40, "K9"),
        (600, "y7"),
        (4000, "H7"),
    ):
        with pytest.raises(UserError):
            fit_field(size, name)
    with pytest.raises(UserError):
        fit(40, "g6/H7")


def test_the_command_prints_deviations() -> None:
    run = CliRunner().invoke(main, ["fit", "40", "H7", "--json"])
    assert json.loads(run.output) == {"upper": 25, "lower": 0}
    assert "-0.009" not in CliRunner().invoke(main, ["fit", "40", "g6"]).output
    assert CliRunner().invoke(main, ["fit", "40", "g6"]).output == "40 g6: -9 / -25 µm\n"
    refused = CliRunner().invoke(main, ["fit", "40", "Q9"])
    assert refused.exit_code == 2


@pytest.mark.parametrize(
    ("text", "kind", "upper", "lower", "fit_", "shown"),
    [
        ("+0.05/-0.03", "unequal", 0.05, -0.03, "", "class"),
        ("0/-0.04", "unequal", 0.0, -0.04, "", "class"),
        ("−0,02 / −0,05", "unequal", -0.02, -0.05, "", "class"),
        ("±0.1", "symmetric", 0.1, -0.1, "", "class"),
        ("0.1", "symmetric", 0.1, -0.1, "", "class"),
        ("+.1", "unequal", 0.1, 0.0, "", "class"),
        ("limits +0.1/0", "limits", 0.1, 0.0, "", "class"),
        ("min.", "minimum", 0.0, 0.0, "", "class"),
        ("H7", "fit", 0.0, 0.0, "H7", "class"),
        ("js6 with deviations", "fit", 0.0, 0.0, "js6", "both"),
        ("H7 limits", "fit", 0.0, 0.0, "H7", "limits"),
        ("H7/g6", "fit", 0.0, 0.0, "H7/g6", "class"),
        ("none", "none", 0.0, 0.0, "", "class"),
    ],
)
def test_tolerances_are_stated_as_they_are_typed(text, kind, upper, lower, fit_, shown) -> None:
    found = parsed(text)
    assert (found.kind, found.upper, found.lower, found.fit, found.shown) == (kind, upper, lower, fit_, shown)


@pytest.mark.parametrize(
    ("text", "value", "angle", "kind", "upper", "lower"),
    [
        ("119.9/120.1", 120, False, "limits", 0.1, -0.1),
        ("120.1-119.9", 120, False, "limits", 0.1, -0.1),
        ("120,1 – 119,9", 120, False, "limits", 0.1, -0.1),
        ("119.95 to 120", 120, False, "limits", 0.0, -0.05),
        # of a shaft Ø20 f7: both below its nominal size (ISO 286)
        ("19.980/19.959", 20, False, "limits", -0.02, -0.041),
        ("limits 1.495/1.505", 1.5, False, "limits", 0.005, -0.005),
        ("±30'", 45, True, "symmetric", 0.5, -0.5),
        ("±0°30'", 45, True, "symmetric", 0.5, -0.5),
        ("+1°30'/-15'", 45, True, "unequal", 1.5, -0.25),
        ('±36"', 45, True, "symmetric", 0.01, -0.01),
        ("44°45'/45°15'", 45, True, "limits", 0.25, -0.25),
        ("±0.5°", 45, True, "symmetric", 0.5, -0.5),
        # one of them 0: that is a deviation
        ("0.1/0", 120, False, "unequal", 0.1, 0.0),
    ],
)
def test_limits_are_typed_as_they_are_and_angles_in_minutes(text, value, angle, kind, upper, lower) -> None:
    found = parsed(text, value, angle)
    assert (found.kind, found.upper, found.lower) == (
        kind,
        pytest.approx(upper, abs=1e-9),
        pytest.approx(lower, abs=1e-9),
    )


@pytest.mark.parametrize(
    ("text", "value"), [("0.1/0.05", 120.0), ("250-251", 120.0), ("119.9/120.1", None), ("5/5", 5.0)]
)
def test_two_figures_that_are_no_limits_are_refused_with_what_was_understood(text, value) -> None:
    with pytest.raises(UserError) as told:
        parsed(text, value)
    assert "limits" in str(told.value)
    if value == 120:
        assert "of 120" in str(told.value)


def test_minutes_of_a_length_are_no_tolerance() -> None:
    with pytest.raises(UserError):
        parsed("±30'", 120.0)


@pytest.mark.parametrize("text", ["about 3", "+0.1/+0.1", "1/2/3", "H7 blue", "g6/H7", "H25"])
def test_what_is_no_tolerance_is_refused(text: str) -> None:
    with pytest.raises(UserError):
        parsed(text)


def test_general_tolerances_are_those_of_iso_2768() -> None:
    assert [linear(x, "m") for x in (2, 6, 30, 31, 120, 400, 1000, 2000, 4000)] == [
        0.1, 0.1, 0.2, 0.3, 0.3, 0.5, 0.8, 1.2, 2.0,
    ]  # fmt: skip
    assert (linear(10, "f"), linear(500, "c"), linear(50, "v"), linear(3000, "f"), linear(0.3, "m")) == (
        0.1, 2.0, 1.5, None, None,
    )  # fmt: skip
    assert (edge(2, "m"), edge(5, "f"), edge(10, "c")) == (0.2, 0.5, 2.0)
    assert (angle(8, "m"), angle(60, "c"), angle(500, "v")) == (60, 30, 20)
    assert class_of("ISO 2768-mK") == class_of("ISO 2768-1-m") == "m"
    assert general("ISO 2768-m", "length", 40.0, 0, 0) == "±0.3 by ISO 2768-m"
    assert general("ISO 2768-f", "angle", 30.0, 20.0, 0) == "±0°30′ by ISO 2768-f"
    assert general(".XX ±.01 .XXX ±.005", "length", 1.25, 0, 2) == "±0.01 by the block of 2 decimals"
    assert general("by agreement", "length", 40.0, 0, 0) == ""
