"""The block of general notes: written, changed, proposed from the part and the fields, and flags that refer to it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from ..annotation.kinds import solve
from ..annotation.title_block import field_values
from ..bounds import Ref
from ..drawing import Drawing, Operation, Sheet
from ..drawing.annotations.note_flag import NoteFlag
from ..drawing.annotations.notes_block import NoteLine, NotesBlock
from ..drawing.base import Point
from ..drawing.operations import Annotate, ChangeAnnotation, need_sheet
from ..errors import BadOperation, UserError
from ..part.features.blends import blends_of
from ..standards.sheets import Rectangle
from ..views.occupancy import occupancy
from .base import AnyAct, Bench, Preview
from .hanging import AnyHanging, shown

APART = 5.0
"""mm between a block and what stands beside it."""


class StateNotes(AnyAct):
    """A block of general notes, a line of ``text`` each, ``at`` a place (its upper left corner) or where there is room."""

    act: Literal["state_notes"] = "state_notes"
    sheet: Ref
    text: str = Field(max_length=20000)
    at: Point | None = None

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        return Annotate(sheet=self.sheet, annotations=[self._made(drawing, bench)[1]])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        return shown(drawing, bench, *self._made(drawing, bench))

    def _made(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, NotesBlock]:
        sheet = need_sheet(drawing, self.sheet)
        block = NotesBlock(id=drawing.fresh()[0], on=sheet.id, notes=lines_of(self.text, []))
        at = self.at or _room(drawing, bench, sheet, block)
        return sheet, block.model_copy(update={"at": at})


class ChangeNotes(AnyAct):
    """The lines of a block written anew: those that stay keep their flags, wherever they go."""

    act: Literal["change_notes"] = "change_notes"
    id: Ref
    text: str = Field(max_length=20000)

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        _, block = need_block(drawing, self.id)
        lines = lines_of(self.text, block.notes)
        return ChangeAnnotation(id=self.id, changes={"notes": [n.model_dump() for n in lines]})

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, block = need_block(drawing, self.id)
        return shown(drawing, bench, sheet, block.model_copy(update={"notes": lines_of(self.text, block.notes)}))


class ProposeNotes(AnyAct):
    """Notes that follow from the part and the title block, put into the block of a sheet, or into a new one."""

    act: Literal["propose_notes"] = "propose_notes"
    sheet: Ref

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        there = next((a for a in sheet.annotations if isinstance(a, NotesBlock)), None)
        known = {n.text for n in there.notes} if there else set()
        found = [t for t in proposals(drawing, sheet, bench) if t not in known]
        if not found:
            raise UserError(
                "Nothing more to propose", "The block says all that follows from the part and the title block."
            )
        if there is None:
            return StateNotes(sheet=sheet.id, text="\n".join(found)).plan(drawing, bench)
        text = "\n".join([*(n.text for n in there.notes), *found])
        return ChangeNotes(id=there.id, text=text).plan(drawing, bench)


class StateFlag(AnyHanging):
    """A flag at the pointer that refers to a note of a block."""

    act: Literal["state_flag"] = "state_flag"
    block: Ref
    line: Ref

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, flag = self._made(drawing, bench)
        return Annotate(sheet=sheet.id, annotations=[flag])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        return shown(drawing, bench, *self._made(drawing, bench))

    def _made(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, NoteFlag]:
        _, block = need_block(drawing, self.block)
        if block.number(self.line) is None:
            raise BadOperation("The note is gone", "Choose another line of the block.")
        sheet, _, fields, _ = self.seat(drawing, bench)
        return sheet, NoteFlag(id=drawing.fresh()[0], block=self.block, line=self.line, **fields)


def need_block(drawing: Drawing, own: str) -> tuple[Sheet, NotesBlock]:
    """The block of notes of that id, and its sheet; raises BadOperation where it is gone."""
    sheet = drawing.sheet_of(own)
    found = sheet.annotation(own) if sheet is not None else None
    if sheet is None or not isinstance(found, NotesBlock):
        raise BadOperation("The block of notes is gone", "It was removed.")
    return sheet, found


def lines_of(text: str, before: list[NoteLine]) -> list[NoteLine]:
    """Notes by the lines of a text. One that was there keeps its id; so does one that stands in the place of another that is gone."""
    words = [w for t in text.split("\n") if (w := t.strip())]
    if not words:
        raise UserError("A block without notes", "Write a line for each note, or remove the block.")
    if len(words) > 60:
        raise UserError("Too many notes", "A block has at most 60 lines.")
    if any(len(w) > 300 for w in words):
        raise UserError("Too long a note", "Write at most 300 signs in a line.")
    left = list(before)
    found: list[NoteLine | None] = []
    for w in words:
        same = next((n for n in left if n.text == w), None)
        if same is not None:
            left.remove(same)
        found.append(same)
    names = {n.id for n in before}
    fresh = (f"n{k}" for k in range(1, 10**6) if f"n{k}" not in names)
    made = []
    for k, (w, same) in enumerate(zip(words, found, strict=True)):
        stood = next((n for n in left if k < len(before) and n is before[k]), None)
        if same is None and stood is not None:
            left.remove(stood)
            same = stood.model_copy(update={"text": w})
        made.append(same or NoteLine(id=next(fresh), text=w))
    return made


def proposals(drawing: Drawing, sheet: Sheet, bench: Bench) -> Iterator[str]:
    """What is usually said once for a whole drawing."""
    values = field_values(drawing, sheet, None, "")
    if values.get("general_tolerance"):
        yield "Sizes without tolerances: {general_tolerance}."
    yield "Edges without a size: ISO 13715, outside −0.3, inside +0.3."
    use = drawing.subject(sheet)
    if use is not None:
        rounds = Counter(round(f.figure("radius"), 4) for f in blends_of(bench.studio.part(use.key)))
        if rounds and (most := rounds.most_common(1)[0])[1] > 1:
            yield f"Rounds without a size: R{most[0]:g}."
    if values.get("surface"):
        yield "Surfaces without a sign: {surface}."
    if values.get("material"):
        yield "Material: {material}."


def _room(drawing: Drawing, bench: Bench, sheet: Sheet, block: NotesBlock) -> tuple[float, float]:
    """A free place for a block: at the lower left, beside or above the title block, or in an upper corner."""
    box = solve(block, bench.sheet_stage(drawing, sheet)).box
    wide, high = box.x1 - box.x0, box.y1 - box.y0
    views = [p.box for p in bench.studio.pictures(drawing, sheet).values()]
    ground = occupancy(sheet.size, sheet.landscape).with_more(*views)
    space, title = ground.space, ground.title
    low, top = space.y0 + APART + high, space.y1 - APART
    places = [
        (space.x0 + APART, low),
        (title.x0 - APART - wide, low),
        (title.x0, title.y1 + APART + high),
        (space.x1 - APART - wide, top),
        (space.x0 + APART, top),
    ]
    free = (p for p in places if ground.clear_of_all(Rectangle(p[0], p[1] - high, p[0] + wide, p[1]), APART))
    x, y = next(free, places[2])
    return round(x, 2), round(y, 2)
