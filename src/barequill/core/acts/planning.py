"""What is done with every act: its step is named by the figures that it changes, and views that are held in line are moved along."""

from __future__ import annotations

import numpy as np

from ..bounds import NAME
from ..display.lettering import lettered
from ..drawing import Dimension, Drawing, Operation, Sheet
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.operations import ChangeAnnotation, Group, SetSheet, apply, label, need_sheet
from ..drawing.operations.telling import place_called
from ..kinds import solve
from .base import ActContext, AnyAct
from .line_up import NEAR, step_of

FEW_TOLD = 3
"""Sizes that are told by what they say, where they are changed together."""


def planned(act: AnyAct, drawing: Drawing, acting: ActContext) -> Operation:
    """The operation that does an act, called by what it changes in figures, and puts views back in line that are held so, wherever it
    left them."""
    with lettered(drawing.font):
        return _planned(act, drawing, acting)


def _planned(act: AnyAct, drawing: Drawing, acting: ActContext) -> Operation:
    operation = _with_figures(act.plan(drawing, acting), drawing, acting)
    if not any(v.lined for s in drawing.sheets for v in s.views):
        return operation
    after = apply(drawing, operation)
    moves: list[Operation] = []
    for sheet in after.sheets:
        places = _in_line(after, sheet, acting) if any(v.lined for v in sheet.views) else {}
        if places:
            moves.append(SetSheet(sheet=sheet.id, places=places))
    if not moves:
        return operation
    return Group(label=label(operation, drawing)[:NAME], operations=[operation, *moves])


def _with_figures(operation: Operation, drawing: Drawing, acting: ActContext) -> Operation:
    """The change of a few sizes, under what they say before and after: Ø24 → Ø24 H7 on the front view."""
    group: list[Operation] = list(operation.operations) if isinstance(operation, Group) else [operation]
    changes = [o for o in group if isinstance(o, ChangeAnnotation)]
    if len(changes) != len(group) or len({o.id for o in changes}) > FEW_TOLD:
        return operation
    after, said = apply(drawing, operation), []
    for own in dict.fromkeys(o.id for o in changes):
        sheet = drawing.sheet_of(own)
        was = None if sheet is None else sheet.annotation(own)
        if sheet is None or not isinstance(was, Dimension | HoleNote):
            return operation
        words = []
        for d in (drawing, after):
            here = need_sheet(d, sheet.id)
            now = here.annotation(own)
            assert now is not None
            words.append(solve(now, acting.context(d, here, was.on)[0]).words)
        if words[0] != words[1]:
            said.append(f"{words[0]} → {words[1]}{place_called(drawing, was)}")
    return Group(label="; ".join(said)[:NAME], operations=group) if said else operation


def _in_line(drawing: Drawing, sheet: Sheet, acting: ActContext) -> dict[str, tuple[float, float]]:
    """The places of those views of a sheet that do not stand in line as they are held, and of those that are tied to them."""
    placed_views = acting.projections.placed_views(drawing, sheet)
    places = {v.id: v.place for v in sheet.views}
    for _ in sheet.views:
        moved = False
        for view in (v for v in sheet.views if v.lined):
            for line in view.lined:
                step = step_of(placed_views, view.id, line)
                if step is None:
                    continue
                # by how much both were moved here already
                (ox, oy), (px, py) = (np.subtract(places[n], _place(sheet, n)) for n in (line.other, view.id))
                dx, dy = float(step[0] + ox - px), float(step[1] + oy - py)
                dx, dy = (0.0, dy) if line.way == "level" else (dx, 0.0)
                if abs(dx) + abs(dy) < NEAR:
                    continue
                moved = True
                for own in (view.id, *(v.id for v in drawing.descendants(view.id, tied_only=True))):
                    if own in places:
                        places[own] = (places[own][0] + dx, places[own][1] + dy)
        if not moved:
            break
    return {n: p for n, p in places.items() if p != _place(sheet, n)}


def _place(sheet: Sheet, view: str) -> tuple[float, float]:
    found = sheet.view(view)
    return (0.0, 0.0) if found is None else found.place
