"""The items of the parts list, and the revisions."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import FEW, MANY, Name
from ...errors import BadOperation
from ..document import Drawing
from ..items import Item
from ..revisions import Revision
from .base import AnyOperation


class SetItems(AnyOperation):
    """All items of the parts list, in its order; ``label`` says what was done to them."""

    op: Literal["set_items"] = "set_items"
    items: Annotated[list[Item], Field(max_length=MANY)]
    label: Name = ""

    def applied(self, drawing: Drawing) -> Drawing:
        if len({i.id for i in self.items}) < len(self.items):
            raise BadOperation("An item is there twice", "Each has an id of its own.")
        return drawing.model_copy(update={"items": list(self.items)})

    def words(self) -> str:
        return self.label or "Set the items of the parts list"


class SetRevisions(AnyOperation):
    """All revisions of the drawing, the latest last; ``label`` says what was done to them."""

    op: Literal["set_revisions"] = "set_revisions"
    revisions: Annotated[list[Revision], Field(max_length=FEW)]
    label: Name = ""

    def applied(self, drawing: Drawing) -> Drawing:
        if len({r.letter for r in self.revisions}) < len(self.revisions):
            raise BadOperation("A revision is there twice", "Each has a letter of its own.")
        return drawing.model_copy(update={"revisions": list(self.revisions)})

    def words(self) -> str:
        return self.label or "Set the revisions"
