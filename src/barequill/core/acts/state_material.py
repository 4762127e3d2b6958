"""The material of the part that a sheet is about: chosen in the title block, it is chosen for the part, and gives its mass."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref, Text
from ..drawing import Drawing, Operation
from ..drawing.operations import Group, SetField, SetPart, need_sheet
from ..errors import UserError
from ..standards.materials import material_of
from .base import ActContext, AnyAct


class StateMaterial(AnyAct):
    """The material of a sheet's part by its name, of the short list or with its density (``Own alloy, 8.1``); empty: none is stated."""

    act: Literal["state_material"] = "state_material"
    sheet: Ref
    text: Text

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        use = drawing.subject(sheet)
        name, density = material_of(self.text)
        if use is None:
            raise UserError("There is no part yet", "Place its views first.")
        told = use.model_copy(update={"material": name[:200], "density": density, "told": True})
        operations: list[Operation] = [SetPart(part=told)]
        if "material" in drawing.fields:
            operations.append(SetField(field="material", value=None))
        said = f"Material: {name}" if name else "State no material"
        return Group(label=said[:200], operations=operations)
