"""Tolerance frames, datums, textures and notes on a sheet: where they stand, how they are drawn, and how they are read back.

The part is a block of 100 × 60 × 20 with a bore Ø20 through its middle; figures of signs are those of ISO 7083 and ISO 1101.
"""

from __future__ import annotations

import io
import re
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pypdfium2
import pytest

from barequill.core.acts.move_sign import MoveSign
from barequill.core.acts.state_datum import ChangeDatum, StateDatum
from barequill.core.acts.state_frame import StateFrame
from barequill.core.acts.state_note import AddLeader, StateNote
from barequill.core.acts.state_texture import StateTexture
from barequill.core.arranging.sign_remarks import sign_remarks
from barequill.core.display import Region, Stroke, Text
from barequill.core.display.signs import sign_of
from barequill.core.drawing.geometrical import frame_of
from barequill.core.drawing.operations import Annotate, Remove, SetField, apply
from barequill.core.errors import BadOperation, UserError
from barequill.core.writers import write_dxf, write_pdf, write_svg

from .block import Block, ChangeAnnotationOf

BORE = 20.0


def test_a_frame_is_led_square_to_its_surface_and_is_twice_as_high_as_its_lettering(block):
    h = block.drawn.lines.lettering
    datum = block.hang(StateDatum, block.front, (20, 0, 0), (0, -15))
    own = block.hang(StateFrame, block.front, (70, 0, 20), (14, 16), text=f"parallelism 0.05 {letter_of(block, datum)}")
    tip = np.array(block.at(block.front, (70, 0, 20)))
    (arrow,) = [m.rings[0] for m in block.marks(own) if isinstance(m, Region)]
    assert np.abs(arrow - tip).max(axis=1).min() < 1e-6, "its arrow touches the upper face"
    lines = [m.curve.poles for m in block.marks(own) if isinstance(m, Stroke) and m.curve.kind == "line"]
    upright = [p for p in lines if np.abs(p - tip).sum(axis=1).min() < 1e-6]
    assert abs(upright[0][0][0] - upright[0][1][0]) < 1e-9, "square to it"
    boxes = [m.curve.poles for m in block.marks(own) if isinstance(m, Stroke) and len(m.curve.poles) == 5]
    assert [round(float(np.ptp(b[:, 1])), 6) for b in boxes] == [2 * h] * 3
    assert all(np.ptp(b[:, 0]) >= 2 * h - 1e-9 for b in boxes)
    pens = {m.pen for m in block.marks(own) if isinstance(m, Stroke) and len(m.curve.poles) == 5}
    assert [block.drawn.width_of(pen) for pen in pens] == [pytest.approx(h / 10)], "its lines as those of its lettering"
    assert [m.text for m in block.marks(own) if isinstance(m, Text)] == ["∥", "0.05", letter_of(block, datum)]


def letter_of(block: Block, datum: str) -> str:
    return block.sheet.annotation(datum).letter


def test_a_frame_on_a_diameter_is_of_the_axis_is_stacked_and_goes_with_it(block):
    with pytest.raises(UserError, match="roundness"):
        block.do(StateFrame(on=block.size, pointer=(0, 0), text="roundness 0.1"))
    first = block.do(StateFrame(on=block.size, pointer=(0, 0), text="straightness Ø0.1 M"))
    second = block.do(StateFrame(on=block.size, pointer=(0, 0), text="straightness Ø0.05/10"))
    datum = block.do(StateDatum(on=second, pointer=(0, 0)))
    said = next(m for m in block.marks(block.size) if isinstance(m, Text))
    tops = [block.points(own)[:, 1].max() for own in (first, second, datum)]
    lows = [block.points(own)[:, 1].min() for own in (first, second, datum)]
    assert said.y > tops[0] and lows[0] == pytest.approx(tops[1]) and lows[1] >= tops[2] - 1e-9
    before = [block.points(own) for own in (first, second, datum)]
    place = block.sheet.annotation(block.size).place.model_dump()
    block.do(ChangeAnnotationOf(block.size, {"place": {**place, "angle": place["angle"] - 20}}))
    steps = [block.points(own)[0] - was[0] for own, was in zip((first, second, datum), before, strict=True)]
    assert np.linalg.norm(steps[0]) > 1 and np.allclose(steps[0], steps[1]) and np.allclose(steps[0], steps[2])
    block.drawing = apply(block.drawing, Remove(ids=[block.size]))
    assert not block.sheet.annotations, "what is stacked goes with it"


def test_a_datum_stands_on_the_outline_with_a_triangle_of_the_lettering_s_height(block):
    h = block.drawn.lines.lettering
    own = block.hang(StateDatum, block.front, (30, 0, 0), (0, -20))
    (triangle,) = [m.rings[0] for m in block.marks(own) if isinstance(m, Region)]
    sides = np.linalg.norm(triangle - np.roll(triangle, 1, axis=0), axis=1)
    assert sides == pytest.approx([h, h, h], rel=0.02)
    foot = block.at(block.front, (30, 0, 0))
    assert np.sort(triangle[:, 1])[1:] == pytest.approx([foot[1]] * 2), "its base is on the outline"
    square = next(m.curve.poles for m in block.marks(own) if isinstance(m, Stroke) and len(m.curve.poles) == 5)
    assert np.ptp(square, axis=0) == pytest.approx([2 * h, 2 * h])
    assert letter_of(block, own) == "A" and letter_of(block, block.do(StateDatum(on=block.size, pointer=(0, 0)))) == "B"
    assert [e.words for e in block.drawn.elements if e.kind == "datum_feature"] == [
        "datum A: flat face",
        "datum B: axis of Ø20",
    ]
    for letter, why in (("A", "taken"), ("I", "no letter"), ("AB", "no letter")):
        with pytest.raises(UserError, match=why):
            block.do(StateDatum(on=block.size, pointer=(0, 0), letter=letter))


def test_nonsense_that_comes_by_a_bare_operation_is_refused_too(block):
    name = block.hang(StateFrame, block.front, (70, 0, 20), (14, 16), text="flatness 0.05")
    nonsense = block.sheet.annotation(name).model_copy(update={"id": "e90", "frame": frame_of("flatness 0.05 A")})
    with pytest.raises(BadOperation, match="datum"):
        apply(block.drawing, Annotate(sheet=block.sheet.id, annotations=[nonsense]))


def test_frames_follow_a_datum_that_is_called_otherwise_and_it_is_remarked_where_it_is_gone(block):
    datum = block.hang(StateDatum, block.front, (30, 0, 0), (0, -20))
    frame = block.do(StateFrame(on=block.size, pointer=(0, 0), text="perpendicularity Ø0.1 A"))
    with pytest.raises(UserError, match="no datum B"):
        block.do(StateFrame(on=block.size, pointer=(0, 0), text="perpendicularity Ø0.1 B"))
    block.do(ChangeDatum(id=datum, letter="G"))
    assert block.sheet.annotation(frame).frame.datums == ["G"]
    assert not [r for r in sign_remarks(block.drawing, block.sheet) if r.on == frame]
    block.drawing = apply(block.drawing, Remove(ids=[datum]))
    (remark,) = [r for r in sign_remarks(block.drawing, block.sheet) if r.on == frame]
    assert "datum G" in remark.words


def test_a_texture_sits_on_the_outline_from_outside_or_is_led_there(block):
    h = block.drawn.lines.lettering
    for place, by, out in (((40, 0, 20), (0, 1), (0, 1)), ((0, 0, 10), (-1, 0), (-1, 0))):
        own = block.hang(StateTexture, block.front, place, by, text="Ra 1.6")
        sign = next(m.curve.poles for m in block.marks(own) if isinstance(m, Stroke) and len(m.curve.poles) == 3)
        corner = np.array(block.at(block.front, place))
        assert sign[1] == pytest.approx(corner), "its corner touches the outline"
        short, long = (sign[0] - corner, sign[2] - corner)
        assert short @ np.array(out) == pytest.approx(1.4 * h, rel=0.02) and long @ np.array(out) == pytest.approx(
            3 * h, rel=0.02
        )
        for leg in (short, long):
            assert np.degrees(np.arccos(leg @ np.array(out) / np.linalg.norm(leg))) == pytest.approx(30, abs=0.5)
        (said,) = [m for m in block.marks(own) if isinstance(m, Text)]
        assert (said.text, said.angle) == ("Ra 1.6", {(0, 1): 0.0, (-1, 0): 90.0}[out])
    below = block.hang(StateTexture, block.front, (40, 0, 0), (0, -1), text="Ra 3.2 / Ra 0.8 ground lay ⊥")
    assert [m.text for m in block.marks(below) if isinstance(m, Text)] == ["U Ra 3.2", "L Ra 0.8", "ground", "⊥"]
    assert any(isinstance(m, Region) for m in block.marks(below)), "from below it would not be read: it has a leader"
    sat = block.sheet.annotation(own)
    start = block.at(block.front, (0, 0, 10))
    block.do(MoveSign(id=own, start=start, pointer=(start[0], start[1] + 4)))
    moved = block.sheet.annotation(own)
    assert moved.seated and moved.foot.spot[1] == pytest.approx(sat.foot.spot[1] + 4 / 20)
    block.do(MoveSign(id=own, start=start, pointer=(start[0] - 30, start[1])))
    assert not block.sheet.annotation(own).seated, "pulled off it is led there"
    for text, why in (("Ra", "without its value"), ("Ra 0.8 / Ra 3.2", "below the lower"), ("Ra 0", "nothing")):
        with pytest.raises(UserError, match=why):
            block.hang(StateTexture, block.front, (40, 0, 20), (0, 1), text=text)


def test_a_note_tells_true_figures_and_says_where_they_are_lost(block):
    block.drawing = apply(block.drawing, SetField(field="title", value="Bed"))
    x, y = block.at(block.top, (60, 30, 20))
    text = "Bore {Ø}\n{count} off, see {title}: {size SIZE}".replace("SIZE", block.size)
    own = block.do(
        StateNote(view=block.top, ref=block.edge(60, 30, 20), at=(x, y), pointer=(x + 40, y - 20), text=text)
    )
    said = [m.text for m in block.marks(own) if isinstance(m, Text)]
    assert said == ["Bore Ø20", "1 off, see Bed: Ø20"]
    assert not block.drawn.of(own).loose
    block.drawing = apply(block.drawing, Remove(ids=[block.size]))
    assert block.drawn.of(own).loose and "?size" in "".join(m.text for m in block.marks(own) if isinstance(m, Text))
    arrows = [m for m in block.marks(own) if isinstance(m, Region)]
    corner = block.at(block.top, (100, 30, 20))
    block.do(AddLeader(id=own, ref=block.edge(100, 30, 20), at=corner))
    more = [m for m in block.marks(own) if isinstance(m, Region)]
    assert len(more) == len(arrows) + 1 and min(np.abs(m.rings[0] - corner).max(axis=1).min() for m in more) < 1e-6
    block.do(AddLeader(id=own, ref=block.edge(100, 30, 20), at=corner))
    assert len([m for m in block.marks(own) if isinstance(m, Region)]) == len(arrows), "and taken off again"


def test_a_note_into_a_face_ends_in_a_dot_and_free_ones_stand_where_they_were_set(block):
    x, y = block.at(block.top, (20, 50, 20))
    own = block.do(StateNote(view=block.top, dot=True, at=(x, y), pointer=(x - 40, y + 20), text="Flat"))
    (dot,) = [m.rings[0] for m in block.marks(own) if isinstance(m, Region)]
    assert dot.mean(axis=0) == pytest.approx((x, y), abs=1e-6) and np.ptp(dot, axis=0) == pytest.approx(
        [1, 1], abs=0.05
    )
    with pytest.raises(UserError, match="No face"):
        x, y = block.at(block.top, (50, 30, 20))
        block.do(StateNote(view=block.top, dot=True, at=(x, y), pointer=(x - 40, y), text="In the bore"))
    stacked = block.do(StateNote(on=block.size, pointer=(x, y), text="Reamed"))
    stood = [next(m for m in block.marks(stacked) if isinstance(m, Text))]
    block.do(MoveSign(id=stacked, start=(x, y), pointer=(x + 4, y - 3)))
    stood.append(next(m for m in block.marks(stacked) if isinstance(m, Text)))
    assert (stood[1].x - stood[0].x, stood[1].y - stood[0].y) == pytest.approx((4, -3), abs=0.02), (
        "it goes with the hand"
    )
    free = block.do(StateNote(sheet=block.sheet.id, pointer=(150, 60), text="One\nTwo"))
    first, second = (m for m in block.marks(free) if isinstance(m, Text))
    h = block.drawn.lines.lettering
    assert (first.x, first.y + h) == pytest.approx((150, 60)) and first.y - second.y == pytest.approx(1.6 * h)


PROPORTIONS = {
    "⏤": (2.0, 0.0), "⏥": (2.077, 1.0), "○": (1.5, 1.5), "⌒": (2.0, 1.0), "⌓": (2.0, 1.0), "⊥": (2.0, 1.5),
    "⌖": (2.0, 2.0), "◎": (1.5, 1.5), "⌯": (2.0, 1.0), "Ⓜ": (1.6, 1.6), "⌴": (2.0, 1.0), "⌵": (2.0, 1.0), "□": (1.0, 1.0),
}  # fmt: skip
"""Width and height of signs in lettering heights (ISO 7083, ISO 129-1)."""


@pytest.mark.parametrize("letter", PROPORTIONS)
def test_signs_have_the_standard_s_proportions_in_the_ink(letter):
    found = Text(letter, 10.0, 20.0, 3.5).signs()[0]
    points = np.concatenate([c.points(0.001) for c in found])
    assert np.ptp(points, axis=0) / 3.5 == pytest.approx(PROPORTIONS[letter], rel=0.02, abs=1e-6)
    turned = np.concatenate([c.points(0.001) for c in Text(letter, 10.0, 20.0, 3.5, angle=90).signs()[0]])
    assert np.ptp(turned, axis=0)[::-1] / 3.5 == pytest.approx(PROPORTIONS[letter], rel=0.02, abs=1e-6)


def test_every_format_gives_back_what_a_frame_says_and_hangs_on_no_font(block):
    block.hang(StateDatum, block.front, (30, 0, 0), (0, -20))
    block.do(StateFrame(on=block.size, pointer=(0, 0), text="4x position Ø0.1(M) A"))
    text = pypdfium2.PdfDocument(write_pdf([block.drawn]))[0].get_textpage().get_text_range()
    assert re.search(r"position\s*Ø0\.1\s*\(M\)", text)
    svg = ET.fromstring(write_svg(block.drawn))
    lettered = ["".join(t.itertext()) for t in svg.iter("{http://www.w3.org/2000/svg}text")]
    assert {"⌖", "Ø0.1Ⓜ", "4×"} <= set(lettered)
    document = ezdxf.read(io.StringIO(write_dxf(block.drawn).decode()))
    assert not document.audit().errors
    every = [*document.modelspace(), *(e for b in document.blocks for e in b)]
    texts = [e.dxf.text for e in every if e.dxftype() == "TEXT"]
    assert "Ø0.1" in texts and not any(sign_of(c) for t in texts for c in t), "letters alone are text"
    blocks = {e.dxf.name: document.blocks[e.dxf.name] for e in every if e.dxftype() == "INSERT"}
    assert {b.block.dxf.description for b in blocks.values()} >= {"position", "(M)"}
    assert all(e.dxftype() in ("LINE", "LWPOLYLINE", "ARC", "CIRCLE", "SOLID") for b in blocks.values() for e in b)
