"""Templates: what gives sheets their frame and their title block."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import FEW, Name, Ref
from ...errors import BadOperation
from ..document import Drawing
from ..templates import Template
from ..ways import NamedWays
from .base import AnyOperation


class SetWays(AnyOperation):
    """The ways of a house that the drawing is told to have; by itself it changes nothing that is drawn."""

    op: Literal["set_ways"] = "set_ways"
    ways: NamedWays | None

    def applied(self, drawing: Drawing) -> Drawing:
        return drawing.model_copy(update={"ways": self.ways})

    def words(self) -> str:
        return f"Take the ways of {self.ways.name}" if self.ways is not None else "Leave the ways of the house"


class SetTemplates(AnyOperation):
    """The templates of the drawing, and by their ids which sheets take which (none: that of ISO 7200); ``label`` says what was done."""

    op: Literal["set_templates"] = "set_templates"
    templates: Annotated[list[Template], Field(max_length=20)]
    sheets: Annotated[dict[Ref, Name], Field(max_length=FEW)] = {}
    label: Name = ""

    def applied(self, drawing: Drawing) -> Drawing:
        names = [t.name for t in self.templates]
        if "" in names or len(set(names)) < len(names):
            raise BadOperation("Each template has a name of its own", f"These are called {', '.join(names)[:200]}.")
        sheets = [
            s if s.id not in self.sheets else s.model_copy(update={"template": self.sheets[s.id]})
            for s in drawing.sheets
        ]
        return drawing.model_copy(update={"templates": list(self.templates), "sheets": sheets})

    def words(self) -> str:
        return self.label or "Set the templates of the sheets"
