"""The ways of a house given to a drawing, whole or what departs from them set back."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field

from ..bounds import FEW, FIELDS
from ..drawing import Drawing, Operation
from ..drawing.annotations.notes_block import NotesBlock
from ..drawing.operations import Group, SetField, SetLetters, SetSheet, SetStyles, SetWays, apply
from ..drawing.styles import DimensionStyle, ViewStyle
from ..drawing.ways import NamedWays, Ways
from ..drawing.ways_taken import departures, notes_of, ways_of
from ..errors import UserError
from .base import ActContext, AnyAct
from .state_notes import ChangeNotes, StateNotes
from .title_block import TakeTemplate, template_of


class TakeWays(AnyAct):
    """A drawing given the ways of a house: conventions, lines, lettering, looks, title block, fields, notes. None leaves them: it stays
    as it is, and departs from nothing."""

    act: Literal["take_ways"] = "take_ways"
    ways: NamedWays | None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        if self.ways is None:
            return SetWays(ways=None)
        given = SetWays(ways=self.ways)
        after = apply(drawing, given)
        steps = _back(after, acting, [d.what for d in departures(after)], self.ways.ways)
        return Group(label=given.words(), operations=[given, *steps])


class SetBack(AnyAct):
    """What departs from the ways of the house set back to them, by what it is called; all where nothing is named."""

    act: Literal["set_back"] = "set_back"
    what: Annotated[list[str], Field(max_length=FIELDS)] = []

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        if drawing.ways is None:
            raise UserError("The drawing was given no ways", "Choose some in step 2 first.")
        there = [d.what for d in departures(drawing)]
        wanted = [w for w in there if w in self.what or not self.what]
        if not wanted:
            raise UserError("Nothing of that departs", f"The drawing is as {drawing.ways.name} has it.")
        steps = _back(drawing, acting, wanted, drawing.ways.ways)
        return Group(label=f"Set back to {drawing.ways.name}: {', '.join(wanted)}"[:160], operations=steps)


def ways_to_give(drawing: Drawing) -> Ways:
    """The ways of a drawing as they can be given to others: with the fields that are of the house, its template with them, and its
    general notes."""
    ways, front = ways_of(drawing), drawing.front_sheet
    template = None if ways.template is None else template_of(drawing, front, ways.template.name)
    fields = {
        **(template.fields if template is not None else {}),
        **{k: v for k, v in ways.fields.items() if k != "creator"},
    }
    bare = None if template is None else template.model_copy(update={"fields": {}})
    # what refers to one element of this drawing says nothing in another
    notes = [n for n in notes_of(drawing) if "{size " not in n]
    return ways.model_copy(update={"template": bare, "fields": fields, "notes": notes})


def _back(drawing: Drawing, acting: ActContext, wanted: list[str], ways: Ways) -> list[Operation]:
    """What makes a drawing so as its ways are, in the things that are wanted."""
    steps: list[Operation] = []
    trial = drawing

    def do(operation: Operation) -> None:
        nonlocal trial
        trial = apply(trial, operation)
        steps.append(operation)

    plain: dict[str, Any] = {n: getattr(ways, n) for n in ("standard", "angle", "unit", "font") if n in wanted}
    plain |= {n: getattr(ways, n) or 0 for n in ("wide", "lettering") if n in wanted}
    if plain:
        do(SetSheet(sheet=drawing.front_sheet.id, **plain))
    if "look of sizes" in wanted:
        do(SetStyles(styles=_merged(trial.styles, ways.styles), style=ways.style))
    if "look of views" in wanted:
        do(SetStyles(view_styles=_merged(trial.view_styles, ways.view_styles), view_style=ways.view_style))
    if "letters" in wanted:
        do(SetLetters(left_out=ways.letters_left_out))
    if "template" in wanted:
        do(TakeTemplate(template=ways.template).plan(trial, acting))
    for field, value in ways.fields.items():
        if f"field {field}" in wanted:
            do(SetField(field=field, value=value))
    if "notes" in wanted:
        do(_notes(trial, acting, ways.notes))
    return steps


S = TypeVar("S", bound=DimensionStyle | ViewStyle)


def _merged(own: list[S], wanted: list[S]) -> list[S]:
    """The drawing's own looks, with those of the house in place of what is called so."""
    names = {s.name for s in wanted}
    return [*wanted, *(s for s in own if s.name not in names)][:FEW]


def _notes(drawing: Drawing, acting: ActContext, notes: list[str]) -> Operation:
    """What puts the notes that are missing into the block of the drawing, or into a new one."""
    known = set(notes_of(drawing))
    missing = [n for n in notes if n not in known]
    block = next((a for s in drawing.sheets for a in s.annotations if isinstance(a, NotesBlock)), None)
    if block is None:
        return StateNotes(sheet=drawing.front_sheet.id, text="\n".join(missing)).plan(drawing, acting)
    return ChangeNotes(id=block.id, text="\n".join([*(n.text for n in block.notes), *missing])).plan(drawing, acting)
