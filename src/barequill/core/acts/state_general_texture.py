"""The general texture of a sheet: what the title block says, with what is stated otherwise."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.annotations.general_texture import GeneralTexture
from ..drawing.operations import Annotate, need_sheet
from ..errors import UserError
from ..kinds import solve
from ..views.occupancy import occupancy
from .base import ActContext, AnyAct
from .state_notes import room_for


class StateGeneralTexture(AnyAct):
    """The general texture above the title block; it says what the title block's field says."""

    act: Literal["state_general_texture"] = "state_general_texture"
    sheet: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        if any(isinstance(a, GeneralTexture) for a in sheet.annotations):
            raise UserError("It is there already", "It follows the title block and what is stated on the sheets.")
        title = occupancy(drawing, sheet).title
        own = GeneralTexture(id=drawing.fresh()[0], on=sheet.id, at=(round(title.x0 + 4, 2), round(title.y1 + 6, 2)))
        solved = solve(own, acting.sheet_stage(drawing, sheet))
        if solved.loose:
            raise UserError("The title block says no texture", "Fill in its field first, such as Ra 6.3.")
        box = solved.box
        found = room_for(drawing, acting, sheet, [(box.x1 - box.x0, box.y1 - box.y0)])
        if found is not None:
            _, x, y = found
            at = (round(own.at[0] + x - box.x0, 2), round(own.at[1] + y - box.y0, 2))
            own = own.model_copy(update={"at": at})
        return Annotate(sheet=sheet.id, annotations=[own])
