"""Tolerance frames: what is understood, what is refused and why. The cases are those of ISO 1101, 2692, 5458 and 5459."""

from __future__ import annotations

import json

import pytest

from barequill.core.drawing.geometrical import check, explained, frame_of, remarks, sentence, text_of
from barequill.core.drawing.geometrical.choices import Setting, choices, starting
from barequill.core.errors import UserError

from .commanding import run

UNDERSTOOD = [
    ("position Ø0.1(M) A B(M)", "position", "diameter", 0.1, ["M"], [["A", []], ["B", ["M"]]]),
    ("position Ø0.1 M A B", "position", "diameter", 0.1, ["M"], [["A", []], ["B", []]]),
    ("position 0.1 dia M to A B", "position", "diameter", 0.1, ["M"], [["A", []], ["B", []]]),
    ("⌖ Ø0,1 Ⓜ | A | B Ⓜ", "position", "diameter", 0.1, ["M"], [["A", []], ["B", ["M"]]]),
    ("position SØ0.2 A B C", "position", "sphere", 0.2, [], [["A", []], ["B", []], ["C", []]]),
    ("position Ø0 (M) A", "position", "diameter", 0.0, ["M"], [["A", []]]),
    ("true position dia .25 at maximum material to A", "position", "diameter", 0.25, ["M"], [["A", []]]),
    ("concentricity Ø0.05 A-B", "coaxiality", "diameter", 0.05, [], [["A-B", []]]),
    ("coaxial Ø0.05 to A–B", "coaxiality", "diameter", 0.05, [], [["A-B", []]]),
    ("run-out 0.02 A-B", "circular run-out", "width", 0.02, [], [["A-B", []]]),
    ("total runout 0.05 A", "total run-out", "width", 0.05, [], [["A", []]]),
    ("// 0.1 A", "parallelism", "width", 0.1, [], [["A", []]]),
    ("square 0.05 A", "perpendicularity", "width", 0.05, [], [["A", []]]),
    ("circularity 0.01", "roundness", "width", 0.01, [], []),
    ("profile of any line 0.3 A", "profile of a line", "width", 0.3, [], [["A", []]]),
    ("symmetry 0.1 A(L)", "symmetry", "width", 0.1, [], [["A", ["L"]]]),
    ("flatness 0.1 CZ", "flatness", "width", 0.1, ["CZ"], []),
    ("position Ø0.1 A[DV] B><", "position", "diameter", 0.1, [], [["A", ["DV"]], ["B", ["><"]]]),
]


@pytest.mark.parametrize(("text", "characteristic", "zone", "value", "modifiers", "datums"), UNDERSTOOD)
def test_a_frame_is_understood_as_it_is_said(text, characteristic, zone, value, modifiers, datums):
    frame = frame_of(text)
    check(frame)
    said = {"characteristic": characteristic, "zone": zone, "value": value, "modifiers": modifiers, "datums": datums}
    assert frame.as_json() == {"rows": [said]}
    assert frame_of(text_of(frame)) == frame, "typed again it says the same"


def test_what_stands_about_a_frame_is_understood_too():
    frame = frame_of('4x position Ø0.5 A B; Ø0.1 (P) 20 A above "BOTH FLANGES" all around')
    assert (frame.count, frame.above, frame.around, len(frame.rows)) == (4, "BOTH FLANGES", "around", 2)
    assert (frame.rows[1].characteristic, frame.rows[1].projected) == ("position", 20.0)
    frame = frame_of("profile of a surface 0.2 UZ -0.05 A between K and L")
    assert (frame.rows[0].offset, frame.between) == (-0.05, ("K", "L"))
    frame = frame_of("straightness 0.1/50 in the intersection plane parallel to C")
    assert (frame.rows[0].per, frame.planes[0].kind, frame.planes[0].relation) == ([50.0], "intersection", "parallel")
    assert frame_of("flatness 0.02 / 100x100").rows[0].per == [100.0, 100.0]
    for frame in (frame_of("2x flatness 0.1 CZ"), frame_of("angularity 0.1 A orientation plane square to B")):
        assert frame_of(text_of(frame)) == frame


SOUND: list[tuple[str, str | None]] = [
    ("straightness Ø0.05 M", "axis"),
    ("straightness 0.1", "surface"),
    ("flatness 0.05 M", "middle plane"),
    ("roundness 0.01", "surface"),
    ("cylindricity 0.02", "surface"),
    ("profile of a line 0.1", "surface"),
    ("profile of a surface 0.2 A B C", "surface"),
    ("profile of a surface 0.2 UZ+0.1 A", "surface"),
    ("parallelism 0.1 A", "surface"),
    ("parallelism Ø0.1 A", "axis"),
    ("perpendicularity Ø0 M A", "axis"),
    ("angularity 0.2 A", "middle plane"),
    ("position Ø0.2 CZ", "axis"),
    ("position Ø0.2 M A B(M) C(M)", "axis"),
    ("position SØ0.3 A", "centre"),
    ("coaxiality Ø0.05 M A", "axis"),
    ("symmetry 0.1 M A", "middle plane"),
    ("total run-out 0.05 A-B", "surface"),
    ("straightness 0.2; 0.05/100", "surface"),
]
REFUSED: list[tuple[str, str | None, str]] = [
    ("straightness 0.1 A", None, "no datum"),
    ("flatness 0.1 A", None, "no datum"),
    ("roundness 0.1 A", None, "no datum"),
    ("cylindricity 0.1 A-B", None, "no datum"),
    ("parallelism 0.1", None, "needs a datum"),
    ("perpendicularity 0.1", None, "needs a datum"),
    ("angularity 0.1", None, "needs a datum"),
    ("coaxiality Ø0.1", None, "needs a datum"),
    ("symmetry 0.1", None, "needs a datum"),
    ("circular run-out 0.1", None, "needs a datum"),
    ("total run-out 0.1", None, "needs a datum"),
    ("position Ø0.1", None, "needs a datum"),
    ("flatness Ø0.1", None, "no zone Ø"),
    ("roundness Ø0.1", None, "no zone Ø"),
    ("cylindricity SØ0.1", None, "no zone SØ"),
    ("profile of a surface Ø0.1 A", None, "no zone Ø"),
    ("symmetry Ø0.1 A", None, "no zone Ø"),
    ("circular run-out Ø0.1 A", None, "no zone Ø"),
    ("parallelism SØ0.1 A", None, "no zone SØ"),
    ("coaxiality 0.1 A", None, "round"),
    ("straightness Ø0.1", "surface", "no zone with Ø"),
    ("perpendicularity Ø0.1 A", "surface", "no zone with Ø"),
    ("position Ø0.1 A", "middle plane", "no zone with Ø"),
    ("position SØ0.1 A", "axis", "sphere"),
    ("flatness 0", None, "nothing"),
    ("position Ø0 A", None, "nothing"),
    ("roundness 0.1 M", None, "whatever the size"),
    ("cylindricity 0.1 L", None, "whatever the size"),
    ("profile of a line 0.1 M", None, "whatever the size"),
    ("circular run-out 0.1 M A", None, "whatever the size"),
    ("total run-out 0.1 (L) A", None, "whatever the size"),
    ("flatness 0.1 M", "surface", "without size"),
    ("straightness 0.1 L", "surface", "without size"),
    ("perpendicularity 0.1 M A", "surface", "without size"),
    ("position Ø0.1 R A", None, "Ⓜ or Ⓛ"),
    ("position Ø0.1 M L A", None, "exclude"),
    ("position Ø0.1 CZ SZ A", None, "exclude"),
    ("position Ø0.1 M M A", None, "twice"),
    ("flatness 0.1 (P) 20", None, "projected"),
    ("circular run-out 0.1 (P) 20 A", None, "projected"),
    ("position Ø0.1 (P) A", None, "how far"),
    ("position Ø0.1 UZ+0.02 A", None, "unequal"),
    ("profile of a surface 0.1 UZ A", None, "by how much"),
    ("parallelism 0.1 OZ A", None, "moves off"),
    ("flatness 0.1 VA", None, "free angle"),
    ("position Ø0.1 (E) A", None, "envelope"),
    ("position Ø0.1 A A", None, "twice"),
    ("position Ø0.1 A-B A", None, "twice"),
    ("position Ø0.1 A B C D", None, "three"),
    ("position Ø0.1 I", None, "no letter"),
    ("position Ø0.1 A O", None, "no letter"),
    ("parallelism 0.1 Q", None, "no letter"),
    ("circular run-out 0.1 A(M)", None, "whatever the size"),
    ("parallelism 0.1 A><", None, "direction only"),
    ("straightness 0.1/100x100", None, "not of an area"),
    ("position Ø0.1/100 A", None, "not limited"),
    ("roundness 0.1/10", None, "not limited"),
    ("roundness 0.1", "axis", "no roundness"),
    ("flatness 0.1", "axis", "no flatness"),
    ("total run-out 0.1 A", "axis", "of a surface"),
    ("coaxiality Ø0.1 A", "surface", "no coaxiality"),
    ("symmetry 0.1 A", "surface", "no symmetry"),
    ("position Ø0.1 A; Ø0.2 B", None, "finer"),
    ("flatness 0.1 all around", "axis", "no flatness"),
    ("flatness 0.1 in the intersection plane parallel to C", None, "intersection plane"),
    ("position Ø0.1 Z", None, "no datum Z"),
    ("position Ø0.1 A(M)", None, "no size"),
]
MISREAD = [
    ("", "empty"),
    ("flatness", "missing"),
    ("flatness -0.1", "below zero"),
    ("flat-ish 0.1", "no characteristic"),
    ("0.1 A", "no characteristic"),
    ("position Ø0.1 A B to everything", "no datum"),
    ("position Ø0.1 AB", "no datum"),
    ("position Ø0.1 (Q) A", "no modifier"),
    ("position Ø0.1 A[ZZ]", "no modifier"),
    ("position Ø0.1 § A", "not understood"),
    ("position Ø99999999 A", "beyond all measure"),
    ("position Ø0.1 " + "A " * 400, "Too long"),
]


@pytest.mark.parametrize(("text", "feature"), SOUND)
def test_what_the_standards_allow_is_allowed(text, feature):
    check(frame_of(text), feature, set("ABC"), set("ABC"))


@pytest.mark.parametrize(("text", "feature", "why"), REFUSED)
def test_nonsense_is_refused_with_its_reason(text, feature, why):
    with pytest.raises(UserError) as refused:
        check(frame_of(text), feature, set("ABCDIOQ"), set("BC"))
    assert why.lower() in str(refused.value).lower() and refused.value.detail


@pytest.mark.parametrize(("text", "why"), MISREAD)
def test_what_is_not_understood_says_at_which_word(text, why):
    with pytest.raises(UserError) as refused:
        frame_of(text)
    assert why.lower() in str(refused.value).lower()


def test_a_form_coarser_than_the_place_is_remarked():
    assert remarks(frame_of("flatness 0.2; parallelism 0.1 A")) and not remarks(
        frame_of("flatness 0.05; parallelism 0.1 A")
    )


def test_plain_words_tell_what_is_asked():
    said = explained(frame_of("4x position Ø0.1 M A"), "axis")
    assert "each of the 4" in said and "cylinder 0.1 mm across" in said and "grows" in said
    assert sentence(frame_of("flatness 0.02/100x100")) == "Flatness within 0.02 over any 100 × 100"


def test_each_choice_is_one_that_the_rules_allow():
    """All that is offered, two choices deep, is sound where it is offered; and something is offered in every cell."""
    datums = {"A": False, "B": True, "C": True}
    sized = {d for d, has in datums.items() if has}
    for feature in ("surface", "axis", "middle plane", "centre"):
        setting = Setting(feature, datums, sized)
        first = frame_of(starting(setting))
        check(first, feature, datums, sized)
        offered = {text for cell in choices(first, setting) for text, _ in cell.options}
        assert len({frame_of(t).rows[0].characteristic for t in offered}) >= 4
        for text in sorted(offered)[::3]:
            for cell in choices(frame_of(text), setting):
                for further, _ in cell.options:
                    check(frame_of(further), feature, datums, sized)


def test_the_command_tells_a_frame_and_refuses_nonsense():
    told = run("frame", "position Ø0.1(M) A B(M)", "--json")
    row = {"characteristic": "position", "zone": "diameter", "value": 0.1, "modifiers": ["M"]}
    assert json.loads(told.stdout)["rows"] == [row | {"datums": [["A", []], ["B", ["M"]]]}]
    assert set(json.loads(told.stdout)) == {"rows", "words"} and told.returncode == 0
    refused = run("frame", "flatness 0.1 A")
    assert refused.returncode == 2 and "no datum" in refused.stderr and not refused.stdout
