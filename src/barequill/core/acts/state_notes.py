"""The block of general notes: written, changed, proposed from the part and the fields, and flags that refer to it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Literal

import numpy as np
import shapely
from pydantic import Field

from ..arranging.clashes import standing_clear
from ..bounds import Ref
from ..display import box_of
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.note_flag import NoteFlag
from ..drawing.annotations.notes_block import NoteLine, NotesBlock
from ..drawing.base import Point
from ..drawing.operations import Annotate, ChangeAnnotation, need_sheet
from ..drawing.title_fields import field_values
from ..errors import BadOperation, UserError
from ..features.listing import features_of
from ..kinds import solve
from ..sheet.stages import draw_sheet
from ..standards.sheets import sheet_rectangle
from ..views.occupancy import occupancy
from .base import ActContext, AnyAct, Preview, annotation_shown, need_kind
from .hanging import AnyHanging

APART = 5.0
"""mm between a block and what stands beside it."""
STEP = 5.0
"""mm from one place to the next that are tried."""
WIDTHS = 150.0, 120.0, 95.0, 70.0
"""mm that a block is wide, the wider the better."""


class StateNotes(AnyAct):
    """A block of general notes, a line of ``text`` each, ``at`` a place (its upper left corner) or where there is room."""

    act: Literal["state_notes"] = "state_notes"
    sheet: Ref
    text: str = Field(max_length=20000)
    at: Point | None = None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        return Annotate(sheet=self.sheet, annotations=[self._made(drawing, acting)[1]])

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return annotation_shown(drawing, acting, *self._made(drawing, acting))

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, NotesBlock]:
        sheet = need_sheet(drawing, self.sheet)
        block = NotesBlock(id=drawing.fresh()[0], on=sheet.id, notes=lines_of(self.text, []))
        if self.at is not None:
            return sheet, block.model_copy(update={"at": self.at})
        return sheet, _room(drawing, acting, sheet, block)


class ChangeNotes(AnyAct):
    """The lines of a block written anew: those that stay keep their flags, wherever they go."""

    act: Literal["change_notes"] = "change_notes"
    id: Ref
    text: str = Field(max_length=20000)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, block = need_block(drawing, self.id)
        after = self._changed(drawing, acting, sheet, block)
        return ChangeAnnotation(id=self.id, changes={"notes": [n.model_dump() for n in after.notes], "at": after.at})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, block = need_block(drawing, self.id)
        return annotation_shown(drawing, acting, sheet, self._changed(drawing, acting, sheet, block))

    def _changed(self, drawing: Drawing, acting: ActContext, sheet: Sheet, block: NotesBlock) -> NotesBlock:
        """The block with its new lines: in the lower half of the sheet its foot stays where it is, else its head."""
        after = block.model_copy(update={"notes": lines_of(self.text, block.notes)})
        context = acting.sheet_stage(drawing, sheet)
        was, now = (solve(b, context).box for b in (block, after))
        low = was.y0 < sheet_rectangle(sheet.size, sheet.landscape).y1 / 2
        return after.model_copy(update={"at": (after.at[0], round(after.at[1] + was.y0 - now.y0, 3))}) if low else after


class ProposeNotes(AnyAct):
    """Notes that follow from the part and the title block, put into the block of a sheet, or into a new one."""

    act: Literal["propose_notes"] = "propose_notes"
    sheet: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        there = next((a for a in sheet.annotations if isinstance(a, NotesBlock)), None)
        known = {n.text for n in there.notes} if there else set()
        found = [t for t in proposals(drawing, sheet, acting) if t not in known]
        if not found:
            raise UserError(
                "Nothing more to propose", "The block says all that follows from the part and the title block."
            )
        if there is None:
            return StateNotes(sheet=sheet.id, text="\n".join(found)).plan(drawing, acting)
        text = "\n".join([*(n.text for n in there.notes), *found])
        return ChangeNotes(id=there.id, text=text).plan(drawing, acting)


class StateFlag(AnyHanging):
    """A flag at the pointer that refers to a note of a block."""

    act: Literal["state_flag"] = "state_flag"
    block: Ref
    line: Ref

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        _, block = need_block(drawing, self.block)
        if block.number(self.line) is None:
            raise BadOperation("The note is gone", "Choose another line of the block.")
        sheet, _, fields, _ = self.on_sheet(drawing, acting)
        return sheet, NoteFlag(id=drawing.fresh()[0], block=self.block, line=self.line, **fields), ""


def need_block(drawing: Drawing, own: str) -> tuple[Sheet, NotesBlock]:
    """The block of notes of that id, and its sheet; raises BadOperation where it is gone."""
    return need_kind(drawing, own, NotesBlock, "The block of notes is gone")


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


def proposals(drawing: Drawing, sheet: Sheet, acting: ActContext) -> Iterator[str]:
    """What is usually said once for a whole drawing."""
    values = field_values(drawing, sheet, None)
    if values.get("general_tolerance"):
        yield "Sizes without tolerances: {general_tolerance}."
    yield "Edges without a size: ISO 13715, outside −0.3, inside +0.3."
    use = drawing.subject(sheet)
    if use is not None:
        features = features_of(acting.projections.part(use.key))
        rounds = Counter(round(f.figure("radius"), 4) for f in features if f.kind in ("fillet", "round"))
        if rounds and (most := rounds.most_common(1)[0])[1] > 1:
            yield f"Rounds without a size: R{most[0]:g}."
    if values.get("surface"):
        yield "Surfaces without a sign: {surface}."
    if values.get("material"):
        yield "Material: {material}."


def room_for(
    drawing: Drawing,
    acting: ActContext,
    sheet: Sheet,
    boxes: list[tuple[float, float]],
    near: tuple[float, float] | None = None,
) -> tuple[int, float, float] | None:
    """The first of some boxes (width, height, mm) for which there is room on a sheet, as near to a place of its lower left corner (that of
    the title block where none is given) as may be, and that corner."""
    ink = draw_sheet(drawing, sheet, acting.projections, acting.display_cache)
    taken = [b for e in standing_clear(ink) if (b := box_of(e.on_sheet())) is not None]
    ground = occupancy(drawing, sheet).with_more(*taken)
    space, title = ground.space, ground.title
    free = ground.free(APART - 1e-6)
    shapely.prepare(free)
    for k, (wide, high) in enumerate(boxes):
        xs = np.arange(space.x0 + APART, space.x1 - APART - wide, STEP)
        ys = np.arange(space.y0 + APART, space.y1 - APART - high, STEP)
        x, y = (c.ravel() for c in np.meshgrid(xs, ys, indexing="ij"))
        fits = shapely.covers(free, shapely.box(x, y, x + wide, y + high))
        if fits.any():
            x, y = x[fits], y[fits]
            to = (title.x0, title.y1) if near is None else near
            nearest = np.lexsort((y, x, abs(x - to[0]) + abs(y - to[1])))[0]
            return k, float(x[nearest]), float(y[nearest])
    return None


def _room(drawing: Drawing, acting: ActContext, sheet: Sheet, block: NotesBlock) -> NotesBlock:
    """A block where there is room for it, narrower where it has to be."""
    context = acting.sheet_stage(drawing, sheet)
    tried = [block.model_copy(update={"width": w}) for w in WIDTHS]
    boxes = [solve(b, context).box for b in tried]
    found = room_for(drawing, acting, sheet, [(b.x1 - b.x0, b.y1 - b.y0) for b in boxes])
    if found is None:
        title = occupancy(drawing, sheet).title
        return block.model_copy(update={"at": (round(title.x0, 2), round(title.y1 + APART + 40.0, 2))})
    k, x, y = found
    return tried[k].model_copy(update={"at": (round(x, 2), round(y + boxes[k].y1 - boxes[k].y0, 2))})
