"""Signs that are typed: welds (ISO 2553), edges (ISO 13715), centre holes (ISO 6411), knurls (ISO 13444), datum targets (ISO 5459), textures
(ISO 21920-1); and what stands on the sheet by itself."""

from __future__ import annotations

import json
import sqlite3

import ezdxf
import numpy as np
import pypdfium2
import pytest

from barequill.core.acts.make_exact import MakeExact
from barequill.core.acts.paste import Paste
from barequill.core.acts.pull_dimension import PullDimension
from barequill.core.acts.set_anew import SetAnew
from barequill.core.acts.state_datum import StateDatum
from barequill.core.acts.state_frame import StateFrame
from barequill.core.acts.state_general_texture import StateGeneralTexture
from barequill.core.acts.state_hole import StateHole
from barequill.core.acts.state_notes import ChangeNotes, ProposeNotes, StateFlag
from barequill.core.acts.state_sign import ChangeSign, StateSign
from barequill.core.acts.state_table import StateTable
from barequill.core.acts.state_texture import StateTexture
from barequill.core.display import Region, Stroke, Text
from barequill.core.drawing.annotations import BY_NAME
from barequill.core.drawing.annotations.dimension import Tolerance
from barequill.core.drawing.operations import Annotate, Remove, SetField, apply
from barequill.core.drawing.texture_language import texture_of, texture_text
from barequill.core.errors import UserError
from barequill.core.kinds.common.plain_words import note_explained, size_explained
from barequill.core.standards.geometrical import CHARACTERISTICS
from barequill.store import Store
from tools.common import demo_file
from tools.sheets import DrawnPart, id_of

from .block import Block, ChangeAnnotationOf
from .commanding import run

UNDERSTOOD = [
    ("weld", "a5 fillet", {"near.form": "fillet", "near.letter": "a", "near.size": 5.0, "other": None}),
    ("weld", "z6 fillet both sides all round on site", {"other.size": 6.0, "all_round": True, "on_site": True}),
    ("weld", "s8 bevel; other a5 fillet 3x50(30); tail 135", {"other.count": 3, "other.gap": 30.0, "tail": "135"}),
    ("weld", "other V convex", {"near": None, "other.form": "V", "other.shape": "convex"}),
    ("weld", "a3 fillet 3x40(60) both sides staggered system B", {"staggered": True, "system": "B"}),
    ("edge_sign", "-0.3", {"upper": "−0.3", "lower": ""}),
    ("edge_sign", "-0.5 -0.2 all round", {"upper": "−0.2", "lower": "−0.5", "all_round": True}),
    ("edge_sign", "+-0,05", {"upper": "±0.05"}),
    ("centre_hole", "A 4/8.5", {"type": "A", "pilot": 4.0, "outer": 8.5, "stays": "stays"}),
    ("centre_hole", "b 2.5 must not stay", {"type": "B", "outer": 8.0, "stays": "must not stay"}),
    ("knurl", "RGE 0.8", {"name": "RGE", "pitch": 0.8}),
    ("datum_target", "A2 Ø6", {"letter": "A", "number": 2, "area": [6.0], "movable": False}),
    ("datum_target", "C1 line", {"line": True, "area": []}),
    ("datum_target", "b3 5x10 movable", {"letter": "B", "area": [5.0, 10.0], "movable": True}),
]
REFUSED = [
    ("weld", "5 fillet", "throat or its leg"),
    ("weld", "a5 V", "of a fillet"),
    ("weld", "a5 something", "no weld"),
    ("weld", "all round", "No weld"),
    ("weld", "a5 fillet staggered", "staggered"),
    ("edge_sign", "0.3", "no size"),
    ("edge_sign", "-0.1 -0.2 -0.3", "two limits"),
    ("centre_hole", "A 4.5", "no pilot"),
    ("centre_hole", "A 4/9", "goes with 8.5"),
    ("centre_hole", "4/8.5", "No centre hole"),
    ("knurl", "RXX 1", "No knurl"),
    ("knurl", "RGE 0.9", "no pitch"),
    ("datum_target", "I1", "No datum target"),
    ("datum_target", "A1 big", "no area"),
    ("treated_stretch", "  ", "Nothing"),
]


@pytest.mark.parametrize(("kind", "text", "said"), UNDERSTOOD)
def test_a_sign_is_understood_as_it_is_typed(kind, text, said):
    sign = BY_NAME[kind].model_validate({"id": "e1", "on": "v", **BY_NAME[kind].read(text)})
    for path, wanted in said.items():
        found = sign
        for name in path.split("."):
            found = getattr(found, name)
        assert found == wanted, path
    assert BY_NAME[kind].model_validate({"id": "e1", "on": "v", **BY_NAME[kind].read(sign.typed)}) == sign


@pytest.mark.parametrize(("kind", "text", "why"), REFUSED)
def test_what_no_standard_knows_is_refused(kind, text, why):
    with pytest.raises(UserError, match=why):
        BY_NAME[kind].read(text)


@pytest.mark.parametrize(
    "text", ["Ra 1.6", "U Ra 3.2 L Ra 0.8 ground", "not removed Rz 100", "Rz 6.3 lay X allowance 0.5 all round"]
)
def test_a_texture_typed_again_is_the_same(text):
    fields = texture_of(text)
    sign = BY_NAME["surface_texture"].model_validate({"id": "e1", "on": "v", **fields})
    assert texture_text(sign) == text and texture_of(texture_text(sign)) == fields


def test_signs_are_drawn_at_their_place_and_to_their_measure(block: Block):
    h = block.drawn.lines.lettering
    own = block.hang(StateSign, block.front, (70, 0, 20), (15, 20), sign="edge_sign", text="-0.3")
    legs = [m.curve.poles for m in block.marks(own) if isinstance(m, Stroke)]
    assert any(np.ptp(p[:, 1]) == pytest.approx(1.8 * h, rel=0.2) and np.ptp(p[:, 0]) < 1e-9 for p in legs)
    tip = block.at(block.front, (70, 0, 20))
    assert min(np.abs(m.rings[0] - tip).max(axis=1).min() for m in block.marks(own) if isinstance(m, Region)) < 1e-6
    block.do(ChangeSign(id=own, text="+0.5"))
    assert [m.text for m in block.marks(own) if isinstance(m, Text)] == ["+0.5"]
    x, y = block.at(block.top, (20, 45, 20))
    target = block.do(
        StateSign(view=block.top, dot=True, at=(x, y), pointer=(x - 40, y + 10), sign="datum_target", text="A1 Ø8")
    )
    circles = [m.curve for m in block.marks(target) if isinstance(m, Stroke) and m.curve.kind == "conic"]
    assert sorted(round(2 * float(np.linalg.norm(c.a)), 3) for c in circles) == [8.0, 4 * h]
    weld = block.hang(
        StateSign, block.front, (100, 0, 20), (20, 15), sign="weld", text="a5 fillet; other s3 V; tail 111"
    )
    texts = [m.text for m in block.marks(weld) if isinstance(m, Text)]
    assert texts == ["a5", "s3", "111"]
    high = {m.text: m.y for m in block.marks(weld) if isinstance(m, Text)}
    assert high["a5"] > high["111"] > high["s3"], "system A: the arrow's side above the line"


def test_general_notes_follow_the_part_and_flags_follow_their_notes(block: Block):
    block.drawing = apply(block.drawing, SetField(field="surface", value="Ra 3.2"))
    own = block.do(ProposeNotes(sheet=block.sheet.id))
    said = [m.text for m in block.marks(own) if isinstance(m, Text)]
    assert "Sizes without tolerances: ISO 2768-m." in said and "Surfaces without a sign: Ra 3.2." in said
    lines = block.sheet.annotation(own).notes
    flag = block.hang(StateFlag, block.front, (70, 0, 20), (10, 12), block=own, line=lines[-1].id)
    number = lambda: next(m.text for m in block.marks(flag) if isinstance(m, Text))  # noqa: E731
    assert number() == str(len(lines))
    block.do(ChangeNotes(id=own, text="\n".join(["First of all.", lines[-1].text])))
    assert number() == "2"
    block.do(ChangeNotes(id=own, text="First of all."))
    assert block.drawn.of(flag).loose
    with pytest.raises(UserError, match="without notes"):
        block.do(ChangeNotes(id=own, text=" \n "))


def test_the_general_texture_counts_what_is_on_the_sheets(block: Block):
    with pytest.raises(UserError, match="says no texture"):
        block.do(StateGeneralTexture(sheet=block.sheet.id))
    block.drawing = apply(block.drawing, SetField(field="surface", value="Ra 6.3"))
    own = block.do(StateGeneralTexture(sheet=block.sheet.id))
    texts = lambda: [m.text for m in block.marks(own) if isinstance(m, Text)]  # noqa: E731
    assert texts() == ["Ra 6.3"]
    for text in ("Ra 1.6", "Ra 6.3", "Ra 1.6", "Ra 3.2"):
        last = block.hang(StateTexture, block.front, (40, 0, 20), (0, 1), text=text)
    assert texts() == ["Ra 6.3", "Ra 1.6", "Ra 3.2"]
    block.drawing = apply(block.drawing, Remove(ids=[last]))
    assert texts() == ["Ra 6.3", "Ra 1.6"]
    block.do(ChangeAnnotationOf(own, {"each": False}))
    assert texts() == ["Ra 6.3"]
    table = block.do(StateTable(sheet=block.sheet.id, text=f"Gear\nModule: 2\nBore: {{size {block.size}}}"))
    assert [m.text for m in block.marks(table) if isinstance(m, Text)] == ["Gear", "Module", "2", "Bore", "Ø20"]


def test_sizes_that_place_a_feature_are_made_exact_in_one_act(block: Block):
    frame = block.do(StateFrame(on=block.size, pointer=(0, 0), text="position Ø0.1 CZ"))
    with pytest.raises(UserError, match="No size"):
        block.do(MakeExact(id=frame))
    picks = [
        block.pick(block.top, (0, 30, 20)),
        block.pick(block.top, (50, 40, 20)).model_copy(update={"at": "centre"}),
    ]
    placed = block.do(PullDimension(view=block.top, picks=picks, pointer=block.at(block.top, (25, -20, 20))))
    block.do(MakeExact(id=frame))
    assert block.sheet.annotation(placed).exact and not block.sheet.annotation(block.size).exact
    with pytest.raises(UserError, match="already"):
        block.do(MakeExact(id=frame))


def test_what_is_stacked_is_copied_with_what_it_is_stacked_under_but_for_letters(block: Block):
    frame = block.do(StateFrame(on=block.size, pointer=(0, 0), text="straightness Ø0.1"))
    block.do(StateDatum(on=frame, pointer=(0, 0)))
    copied = list(block.sheet.annotations)
    block.drawing = apply(block.drawing, Remove(ids=[block.size]))
    block.do(Paste(on=block.top, annotations=copied))
    size, again = block.sheet.annotations
    assert (size.kind, again.kind, again.on) == ("dimension", "tolerance_frame", size.id)


def test_sizes_and_notes_say_in_plain_words_what_they_ask(block: Block):
    context, _ = block.acts.context(block.drawing, block.sheet, block.top)
    size = block.sheet.annotation(block.size)
    assert "20 mm across" in size_explained(context, size) and "±0.2" in size_explained(context, size)
    fit = size.model_copy(update={"tolerance": size.tolerance.model_copy(update={"kind": "fit", "fit": "H7"})})
    assert "from 20 mm to 20.021 mm" in size_explained(context, fit), "ISO 286-2: Ø20 H7 is +21/0 µm"
    exact = size.model_copy(update={"exact": True})
    assert "theoretically exact" in size_explained(context, exact)
    note = block.do(StateHole(view=block.top, ref=block.edge(60, 30, 20), pointer=block.at(block.top, (90, 0, 20))))
    assert note_explained(context, block.sheet.annotation(note)) == "One hole: 20 mm across, right through the part."


def test_a_sheet_holds_every_characteristic(block: Block):
    block.hang(StateDatum, block.front, (30, 0, 0), (0, -20))
    for k, (name, rule) in enumerate(CHARACTERISTICS.items()):
        zone = {"width": "", "diameter": "Ø"}.get(rule.zones[0], "")
        datum = "A" if rule.least or name == "position" else ""
        text = f"{name} {zone}0.{k + 1} {datum}"
        if name in ("coaxiality", "symmetry"):
            block.do(StateFrame(on=block.size, pointer=(0, 0), text=text))
        else:
            block.hang(StateFrame, block.front, (5 + 6 * k, 0, 20), (8, 10 + 8 * k), text=text)
    frames = [a for a in block.sheet.annotations if a.kind == "tolerance_frame"]
    assert {a.frame.rows[0].characteristic for a in frames} == set(CHARACTERISTICS)
    for own in frames:
        said = [m.text for m in block.marks(own.id) if isinstance(m, Text)]
        assert said[0] == CHARACTERISTICS[own.frame.rows[0].characteristic].sign


def test_signs_that_were_copied_are_set_anew_in_another_place_and_on_another_drawing(block: Block):
    datum = block.hang(StateDatum, block.front, (30, 0, 0), (0, -20))
    frame = block.hang(StateFrame, block.front, (70, 0, 20), (14, 16), text="parallelism 0.05 A")
    under = block.do(StateDatum(on=frame, pointer=(0, 0)))
    copied = [block.sheet.annotation(own) for own in (frame, under)]
    other = Block()
    with pytest.raises(UserError, match="no one place"):
        other.hang(SetAnew, other.front, (10, 0, 20), (5, 20), annotations=[*copied, block.sheet.annotation(datum)])
    other.hang(StateDatum, other.front, (30, 0, 0), (0, -20))
    other.hang(SetAnew, other.front, (10, 0, 20), (5, 20), annotations=copied)
    again, letter = other.sheet.annotations[-2:]
    assert (again.kind, again.on, letter.on, letter.letter) == ("tolerance_frame", other.front, again.id, "B")
    tip = other.at(other.front, (10, 0, 20))
    arrows = [m.rings[0] for m in other.marks(again.id) if isinstance(m, Region)]
    assert min(np.abs(a - tip).max(axis=1).min() for a in arrows) < 1e-6
    proposed = block.do(ProposeNotes(sheet=block.sheet.id))
    notes = block.sheet.annotation(proposed)
    other.do(SetAnew(sheet=other.sheet.id, pointer=(40, 90), annotations=[notes]))
    assert other.sheet.annotations[-1].at == pytest.approx((40, 90))
    # a size of one edge measures the edge that is pointed at, with all that it carried
    size = block.sheet.annotation(block.size).model_copy(update={"measure": "length", "prefix": "ca. "})
    other.hang(SetAnew, other.front, (40, 0, 20), (0, 12), annotations=[size])
    assert other.drawn.elements and "ca. 100" in [e.words for e in other.drawn.elements if e.kind == "dimension"]

    # a size of two places, between two others: its tolerance stays with it, its value is what lies there
    def between(on: Block, *places) -> list:
        return [on.pick(on.front, place) for place in places]

    across, depth = [(0, 0, 10), (100, 0, 10)], [(50, 0, 0), (50, 0, 20)]
    pulled = PullDimension(view=block.front, picks=between(block, *across), pointer=block.at(block.front, (50, 0, 50)))
    name = block.do(pulled)
    tolerance = Tolerance(kind="symmetric", upper=0.1, lower=-0.1)
    wide = block.sheet.annotation(name).model_copy(update={"tolerance": tolerance, "suffix": " net"})
    bare = {"view": other.front, "pointer": other.at(other.front, (120, 0, 10)), "annotations": [wide]}
    with pytest.raises(UserError, match="two places"):
        other.do(SetAnew(**bare))
    other.do(SetAnew(**bare, picks=between(other, *depth)))
    assert [e.words for e in other.drawn.elements if e.kind == "dimension"][-1] == "20 ±0.1 net"
    with pytest.raises(UserError, match="another kind"):
        other.do(SetAnew(**bare, picks=between(other, across[0], depth[0])))


def test_signs_of_one_s_own_are_kept_under_a_name_for_any_drawing(block: Block, tmp_path):
    own = block.hang(StateFrame, block.front, (70, 0, 20), (14, 16), text="flatness 0.05")
    plain = [block.sheet.annotation(own).model_dump(mode="json")]
    store = Store(tmp_path)
    first = store.keep_own_signs("Seat", plain)
    assert store.keep_own_signs("Seat", [*plain, *plain]) == first, "a name stands once"
    store.keep_own_signs("Another", plain)
    store.close()
    again = Store(tmp_path)
    assert [(name, len(kept)) for _, name, kept in again.own_signs()] == [("Another", 1), ("Seat", 2)]
    again.remove_own_signs(first)
    with pytest.raises(UserError, match="gone"):
        again.remove_own_signs(first)
    with sqlite3.connect(again.file) as connection:
        connection.execute("UPDATE own_signs SET annotations = '{ spoilt'")
    assert again.own_signs() == [], "what cannot be read closes nothing"
    again.close()


def test_the_command_line_draws_every_frame_texture_weld_and_edge_and_they_are_found_in_the_pdf(tmp_path):
    """All characteristics with all their zones and most modifiers; all textures; all forms of welds on both sides; edges."""
    acting = DrawnPart("spindle-pedestal", views=["front", "top"], centres=False)
    front = id_of(acting.drawing, "front")
    lines = [e.ref for e in acting.part.edges if e.curve.kind == "line"]
    said: list[dict] = []
    for name, rule in CHARACTERISTICS.items():
        for zone in rule.zones:
            row = {
                "characteristic": name,
                "zone": zone,
                "value": 0.1,
                "datums": [{"letters": ["B"]}] if rule.most else [],
            }
            row |= {"modifiers": ["M"]} if rule.material else {"modifiers": ["CZ"]}
            said.append({"kind": "tolerance_frame", "frame": {"rows": [row]}})
    for made in ("any", "removed", "not removed"):
        for around in (False, True):
            sign = {
                "made": made,
                "upper": "Ra 3.2",
                "lower": "Ra 0.8",
                "lay": "X",
                "all_round": around,
                "seated": False,
            }
            said.append({"kind": "surface_texture", **sign})
    for form in (
        "fillet",
        "square",
        "V",
        "bevel",
        "Y",
        "half Y",
        "U",
        "J",
        "plug",
        "spot",
        "seam",
        "edge",
        "flange",
        "surfacing",
    ):
        side = {"form": form, "letter": "a" if form == "fillet" else "s", "size": 4, "shape": "flat"}
        said.append({"kind": "weld", "near": side, "other": side | {"shape": "convex"}, "tail": f"by {form}"})
    said += [{"kind": "edge_sign", "upper": u, "lower": w} for u, w in (("−0.2", "−0.5"), ("+0.3", ""), ("±0.05", ""))]
    said.append({"kind": "datum_feature", "letter": "B"})
    own = [
        BY_NAME[a["kind"]].model_validate(
            {**a, "id": f"e{500 + k}", "on": front, "foot": {"ref": lines[k % len(lines)]}, "angle": 31 * k % 360}
        )
        for k, a in enumerate(said)
    ]
    drawing = apply(acting.drawing, Annotate(sheet=acting.sheet.id, annotations=own))
    (tmp_path / "drawing.json").write_text(json.dumps(drawing.to_json()))
    parts = demo_file("spindle-pedestal").parent
    use = drawing.parts[0].model_copy(update={"key": "spindle-pedestal"})
    views = [v.model_copy(update={"part": use.key}) for v in acting.sheet.views]
    named = drawing.model_copy(
        update={"parts": [use], "sheets": [drawing.front_sheet.model_copy(update={"views": views})]}
    )
    (tmp_path / "drawing.json").write_text(json.dumps(named.to_json()))
    for kind in ("pdf", "dxf"):
        done = run("draw", "drawing.json", "--parts", str(parts), "-o", f"sheet.{kind}", cwd=tmp_path)
        assert done.returncode == 0, done.stderr
    text = pypdfium2.PdfDocument(tmp_path / "sheet.pdf")[0].get_textpage().get_text_range()
    assert all(name in text for name in CHARACTERISTICS) and all(f"by {form}" in text for form in ("V", "half Y", "J"))
    assert text.count("Ra 3.2") == 6 and "(M)" in text and "\u2212" not in text
    document = ezdxf.readfile(tmp_path / "sheet.dxf")
    assert not document.audit().errors
    assert {f"SIGN_{ord(r.sign):04X}" for r in CHARACTERISTICS.values()} <= {b.name for b in document.blocks}


def test_a_weld_without_a_form_is_an_empty_sign_to_be_filled_in():
    p = DrawnPart("pawl", views=["front"])
    weld = BY_NAME["weld"].model_validate(
        {"id": "e90", "on": id_of(p.drawing, "front"), "foot": {"ref": p.part.edges[0].ref}}
    )
    drawn = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[weld]))
    (found,) = [e for e in p.ink(drawn).elements if e.kind == "weld"]
    assert not found.loose and not [m for m in found.marks if isinstance(m, Text)]
