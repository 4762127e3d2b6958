"""Drawings of several sheets: what is moved, copied and removed with a sheet, and how one sheet tells of another."""

from __future__ import annotations

import io

import ezdxf
import pypdfium2
import pytest

from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.enlarge import Enlarge
from barequill.core.acts.outlining import DrawnOutline
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.remove_views import RemoveViews
from barequill.core.acts.sheets import CopySheet, NewSheet, SendTo
from barequill.core.acts.state_datum import StateDatum
from barequill.core.acts.state_frame import StateFrame
from barequill.core.acts.state_notes import ProposeNotes, StateFlag
from barequill.core.display import Text
from barequill.core.drawing import Drawing
from barequill.core.drawing.operations import MoveSheet, RemoveSheet, SetField, SetView, apply
from barequill.core.errors import BadOperation, UserError
from barequill.core.sheet.display_cache import DisplayCache
from barequill.core.sheet.stages import draw_sheet
from barequill.core.writers import write_dxf, write_pdf
from tools.sheets import DrawnPart, id_of

from .block import Block


class Cover(DrawnPart):
    """The gear cover on one sheet, with a section through its middle and its sizes over all."""

    def __init__(self) -> None:
        super().__init__("round-gear-cover", views=["front", "top"], scale=0.5)
        front = self.placed_view("front").view
        act = CutView(view=front.id, points=[CutPoint(x=0, y=0, at="box")], to=(front.place[0] + 120, front.place[1]))
        self.do(act)
        self.section = self.drawing.front_sheet.views[-1]
        self.do(OverallSizes(views=[self.section.id]))

    def do(self, act) -> None:
        self.drawing = apply(self.drawing, act.plan(self.drawing, self.acts))

    def drawn(self, number: int):
        return draw_sheet(self.drawing, self.drawing.sheets[number - 1], self.projections)

    def written(self, number: int) -> dict[str, list[str]]:
        """What is written on a sheet, by element."""
        return {e.id: [m.text for m in e.marks if isinstance(m, Text)] for e in self.drawn(number).elements}


@pytest.fixture
def cover() -> Cover:
    return Cover()


def test_a_section_on_another_sheet_and_its_line_tell_of_each_other(cover: Cover) -> None:
    own = cover.section.id
    sizes = [a.id for a in cover.sheet.annotations if a.on == own]
    assert cover.written(1)[f"{own}-line"] == ["A", "A"] and cover.written(1)[f"{own}-caption"] == ["A–A"] and sizes
    before = {i: cover.drawn(1).of(i).words for i in sizes}
    cover.do(SendTo(ids=[own]))
    one, two = cover.drawing.sheets
    assert (two.size, two.scale, [v.id for v in two.views]) == (one.size, one.scale, [own])
    assert cover.written(1)[f"{own}-line"] == ["A (sheet 2)"] * 2 and f"{own}-caption" not in cover.written(1)
    assert cover.written(2)[f"{own}-caption"] == ["A–A (sheet 1)"]
    assert {i: cover.drawn(2).of(i).words for i in sizes} == before, "its sizes have gone with it and say the same"
    for k in (1, 2):
        assert any(f"{k} of 2" in texts for texts in cover.written(k).values())
    # the cut still follows the line, from the other sheet
    looks = []
    for side in (1, -1):
        turned = apply(cover.drawing, SetView(view=own, changes={"side": side}))
        looks.append(cover.projections.placed_views(turned, turned.sheets[1])[own].projected.scene.toward)
    assert looks[0] == tuple(-x for x in looks[1])
    cover.drawing = apply(cover.drawing, MoveSheet(sheet=two.id, to=0))
    assert cover.written(1)[f"{own}-caption"] == ["A–A (sheet 2)"]
    document = pypdfium2.PdfDocument(write_pdf([cover.drawn(1), cover.drawn(2)]))
    assert len(document) == 2 and "A–A (sheet 2)" in document[0].get_textpage().get_text_range()


def test_sheets_are_issued_all_or_some_and_as_layouts_of_one_dxf(cover: Cover) -> None:
    cover.do(SendTo(ids=[cover.section.id]))
    cover.do(NewSheet(after=cover.sheet.id, size="A4", landscape=False))
    document = ezdxf.read(io.StringIO(write_dxf(*(cover.drawn(k) for k in (1, 2, 3))).decode()))
    assert not document.audit().has_errors
    assert document.layout_names_in_taborder() == ["Model", "Sheet 1", "Sheet 2", "Sheet 3"]
    windows = [document.layout(f"Sheet {k}").query("VIEWPORT")[-1].dxf for k in (1, 2, 3)]
    assert [(w.width, w.height, w.view_height) for w in windows] == [(420, 297, 297), (210, 297, 297), (420, 297, 297)]
    # the middle of each window lies where its sheet is: 420, then 210 beyond 50, then 420 beyond 50 more
    assert [w.view_center_point.x for w in windows] == pytest.approx([210, 575, 940])
    captions = [e.dxf.insert.x for e in document.modelspace().query("TEXT") if "A–A" in e.dxf.text]
    assert len(captions) == 1 and 730 < captions[0] < 1150, "the section lies within the third"
    assert cover.drawing.sheets_named("1,3") == [cover.drawing.sheets[0], cover.drawing.sheets[2]]
    for words in ("4", "0", "2-1", "1;2", "x"):
        with pytest.raises(UserError, match="no sheet"):
            cover.drawing.sheets_named(words)


def test_a_pdf_tells_what_it_is_and_leads_to_its_views(cover: Cover) -> None:
    fields = {"creator": "R. Oake", "date": "2026-03-04", "number": "WL-9", "title": "Cover"}
    for field, value in fields.items():
        cover.drawing = apply(cover.drawing, SetField(field=field, value=value))
    cover.do(SendTo(ids=[cover.section.id]))
    data = write_pdf([cover.drawn(1), cover.drawn(2)])
    assert data == write_pdf([cover.drawn(1), cover.drawn(2)]), "the same sheets give the same file"
    document = pypdfium2.PdfDocument(data)
    told = document.get_metadata_dict()
    assert (told["Title"], told["Author"], told["CreationDate"]) == ("WL-9 Cover", "R. Oake", "D:20260304000000Z")
    marks = [(m.level, m.get_title(), m.get_dest().get_index()) for m in document.get_toc()]
    assert [m[::2] for m in marks] == [(0, 0), (1, 0), (1, 0), (0, 1), (1, 1)]
    assert marks[0][1] == "Sheet 1" and "A–A" in marks[-1][1]


def test_a_view_that_is_out_of_line_with_its_parent_gets_a_letter_and_an_arrow(cover: Cover) -> None:
    top = id_of(cover.drawing, "top")
    cover.do(SendTo(ids=[top]))
    view = cover.drawing.view(top)
    assert view.letter == "B", "A is the section's"
    assert cover.written(1)[f"{top}-sight"] == ["B (sheet 2)"]
    assert cover.written(2)[f"{top}-caption"] == ["B (sheet 1)"]


def test_a_view_keeps_its_scale_on_a_sheet_of_another_and_stands_clear_there(cover: Cover) -> None:
    cover.do(NewSheet(after=cover.sheet.id, size="A4", landscape=False, scale=0.2))
    other = cover.drawing.sheets[1]
    for own in (cover.section.id, id_of(cover.drawing, "top")):
        cover.do(SendTo(ids=[own], sheet=other.id))
    sheet = cover.drawing.sheets[1]
    assert [sheet.scale_of(v) for v in sheet.views] == [0.5, 0.5]
    one, two = (p.box for p in cover.projections.placed_views(cover.drawing, sheet).values())
    assert not one.overlaps(two)
    assert any("(1:2)" in t for texts in cover.written(2).values() for t in texts), "the scale that is not the sheet's"
    with pytest.raises(BadOperation, match="stands there already"):
        cover.do(SendTo(ids=[cover.section.id], sheet=other.id))


def test_a_detail_has_its_ring_on_the_sheet_of_its_parent(cover: Cover) -> None:
    front = id_of(cover.drawing, "front")
    x, y = cover.drawing.view(front).place
    cover.do(Enlarge(view=front, outline=DrawnOutline(centre=(x, y), half=(8, 8)), to=(x + 90, y + 90)))
    detail = cover.drawing.front_sheet.views[-1]
    cover.do(SendTo(ids=[detail.id]))
    assert cover.written(1)[f"{detail.id}-ring"] == ["B (sheet 2)"]
    assert cover.written(2)[f"{detail.id}-caption"][0].startswith("B (sheet 1)")


def test_a_copied_sheet_has_letters_of_its_own_and_frames_refer_to_them(block: Block) -> None:
    block.hang(StateDatum, block.front, (20, 0, 0), (0, -15))
    block.hang(StateFrame, block.front, (70, 0, 20), (14, 16), text="parallelism 0.05 A")
    block.do(CopySheet(sheet=block.sheet.id))
    one, two = block.drawing.sheets
    held = [{e.id for e in (s, *s.views, *s.annotations)} for s in (one, two)]
    assert not held[0] & held[1] and len(held[0]) == len(held[1])
    datum, frame = two.annotations[-2:]
    assert (datum.letter == "B" and frame.frame.datums == ("B",)) or list(frame.frame.datums) == ["B"]
    drawn = draw_sheet(block.drawing, two, block.projections)
    assert not any(e.loose for e in drawn.elements)


def test_views_that_can_stand_by_themselves_stay_where_what_they_were_pulled_out_of_goes(cover: Cover) -> None:
    front, top = id_of(cover.drawing, "front"), id_of(cover.drawing, "top")
    cover.do(OverallSizes(views=[top]))
    display_cache = DisplayCache()
    draw_sheet(cover.drawing, cover.sheet, cover.projections, display_cache)
    kept = apply(cover.drawing, RemoveViews(ids=[front], keep=True).plan(cover.drawing, cover.acts))
    drawn, fresh = (draw_sheet(kept, kept.sheets[0], cover.projections, w) for w in (display_cache, DisplayCache()))
    assert [(e.id, e.words, e.at) for e in drawn.elements] == [(e.id, e.words, e.at) for e in fresh.elements]
    cover.do(SendTo(ids=[top]))
    before = [(e.id, e.words, e.loose) for e in cover.drawn(2).elements if e.group == top]
    shown = cover.projections.placed_views(cover.drawing, cover.drawing.sheets[1])[top].projected.curves
    gone = apply(cover.drawing, RemoveViews(ids=[front]).plan(cover.drawing, cover.acts))
    assert [len(s.views) for s in gone.sheets] == [0, 0]
    cover.do(RemoveViews(ids=[front], keep=True))
    assert [[v.id for v in s.views] for s in cover.drawing.sheets] == [[], [top]], (
        "the section is nothing without its line"
    )
    view = cover.drawing.view(top)
    assert (view.kind, view.parent, view.letter, view.scale) == ("principal", None, "", 0.5)
    again = cover.projections.placed_views(cover.drawing, cover.drawing.sheets[1])[top].projected.curves
    assert [c.source for c in again] == [c.source for c in shown]
    sizes = [x for x in before if x[0] not in (f"{top}-caption", f"{top}-sight")]
    assert [
        (e.id, e.words, e.loose)
        for e in cover.drawn(2).elements
        if e.group == top and e.id in dict.fromkeys(x[0] for x in sizes)
    ] == sizes


def test_a_flag_tells_on_which_sheet_its_note_stands(block: Block) -> None:
    notes = block.do(ProposeNotes(sheet=block.sheet.id))
    line = block.sheet.annotation(notes).notes[0].id
    flag = block.hang(StateFlag, block.front, (70, 0, 20), (14, 16), block=notes, line=line)
    said = lambda: [m.text for e in block.drawn.elements if e.id == flag for m in e.marks if isinstance(m, Text)]  # noqa: E731
    assert said() == ["1"]
    block.drawing = apply(block.drawing, SendTo(ids=[notes]).plan(block.drawing, block.acts))
    assert block.drawing.sheets[1].annotations[0].on == block.drawing.sheets[1].id
    assert said() == ["1 (sheet 2)"]


def test_a_sheet_goes_with_all_that_hangs_on_it_and_the_last_one_stays(cover: Cover) -> None:
    cover.do(SendTo(ids=[cover.section.id]))
    one, two = cover.drawing.sheets
    left = apply(cover.drawing, RemoveSheet(sheet=one.id))
    assert [s.id for s in left.sheets] == [two.id] and not left.sheets[0].views, "the section hangs on the other's view"
    left = apply(cover.drawing, RemoveSheet(sheet=two.id))
    assert [v.id for v in left.sheets[0].views] == [v.id for v in one.views]
    with pytest.raises(BadOperation, match="one sheet at least"):
        apply(left, RemoveSheet(sheet=one.id))
    assert Drawing.load(cover.drawing.to_json()) == cover.drawing
