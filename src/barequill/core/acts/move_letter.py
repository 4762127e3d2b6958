"""The letter at an end of a cutting line dragged."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation, SectionView, Sheet
from ..drawing.base import Point
from ..drawing.operations import SetView, need_view
from ..errors import BadOperation
from ..measuring.style import style_of
from ..sheet.cuts import letter_places, marking_of
from ..sheet.elements import blank
from ..sheet.view_marks import cutting_line_element
from ..views.placed_view import PlacedView
from .base import ActContext, AnyAct, Preview

SNAP = 3.0
"""mm on the sheet within which a letter goes back to its own place."""


class MoveLetter(AnyAct):
    """The letter of a cutting line that is nearest to where the hand took hold (``start``) dragged ``to`` a place; near its
    own place it snaps back to it."""

    act: Literal["move_letter"] = "move_letter"
    view: Ref
    start: Point
    to: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, view, _ = self._moved(drawing, acting)
        return SetView(view=view.id, changes={"letters_off": view.letters_off})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view, parent = self._moved(drawing, acting)
        element = cutting_line_element(drawing, sheet, view, parent, acting.display_cache)
        return Preview(blank(drawing, sheet), (element,) if element is not None else (), f"letter {view.letter}")

    def _moved(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, SectionView, PlacedView]:
        sheet, view = need_view(drawing, self.view)
        parent = acting.projections.placed_views(drawing, sheet).get(view.parent or "")
        if not isinstance(view, SectionView) or parent is None:
            raise BadOperation("There is no letter", "Drag a letter at the end of a cutting line.")
        places = letter_places(style_of(drawing, sheet), marking_of(view, parent), view) + parent.transform.place
        stood = [p if off is None else p + off for p, off in zip(places, view.letters_off, strict=True)]
        end = int(np.argmin([np.linalg.norm(s - self.start) for s in stood]))
        off = stood[end] + np.subtract(self.to, self.start) - places[end]
        offs = list(view.letters_off)
        near = float(np.linalg.norm(off)) < SNAP
        offs[end] = None if near else (round(float(off[0]), 2), round(float(off[1]), 2))
        return sheet, view.model_copy(update={"letters_off": tuple(offs)}), parent
