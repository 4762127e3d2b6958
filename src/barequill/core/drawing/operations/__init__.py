"""Operations: every change of a drawing is one of these, applied by a pure function. A file for each subject."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, ValidationError

from ...bounds import FIELDS, MANY, Name
from ...errors import BadOperation
from ..document import Drawing
from ..soundness import check
from .annotations import Annotate, ChangeAnnotation, Remove
from .base import AnyOperation, need_annotation, need_sheet, need_view
from .cuts import SetHatch, SetLetters
from .lists import SetItems, SetRevisions
from .looks import SetStyles
from .revisions import TakeRevision
from .sheets import AddSheet, MoveSheet, RemoveSheet, SendToSheet, SetField, SetPart, SetSheet, SheetChanges
from .templates import SetTemplates, SetWays
from .threads import SetThreads
from .views import AddViews, MoveView, ReplaceView, SetView

LONGEST = 160
"""Characters of what a step is called."""


class Group(AnyOperation):
    """Several operations as one act."""

    op: Literal["group"] = "group"
    label: Name
    operations: Annotated[list[Operation], Field(max_length=MANY)]

    def applied(self, drawing: Drawing) -> Drawing:
        for part in self.operations:
            drawing = part.applied(drawing)
        return drawing

    def words(self) -> str:
        return self.label.strip() or "Change several things"


Operation = Annotated[
    AddViews
    | MoveView
    | SetView
    | ReplaceView
    | SetSheet
    | AddSheet
    | MoveSheet
    | RemoveSheet
    | SendToSheet
    | SetField
    | SetPart
    | SetHatch
    | SetLetters
    | SetStyles
    | SetThreads
    | SetTemplates
    | SetWays
    | SetItems
    | SetRevisions
    | TakeRevision
    | Annotate
    | ChangeAnnotation
    | Remove
    | Group,
    Field(discriminator="op"),
]
Group.model_rebuild()


def apply(drawing: Drawing, operation: Operation) -> Drawing:
    """The drawing after an operation; the given one is left as it is.

    Raises
    ------
    BadOperation
        Where it does not fit the drawing; the message says why.
    """
    try:
        after = operation.applied(drawing)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"][-2:])
        raise BadOperation("That value cannot be used", f"{where}: {first['msg']}.") from error
    if len(after.fields) > FIELDS:
        raise BadOperation("That is too much", f"A title block holds at most {FIELDS} fields.")
    check(drawing, after)
    return after


def label(operation: Operation, before: Drawing | None = None) -> str:
    """What an operation does, in words for the history; in full where the drawing ``before`` it is given."""
    return operation.words() if before is None else operation.told(before)[:LONGEST]


__all__ = [
    "AddSheet",
    "AddViews",
    "Annotate",
    "AnyOperation",
    "ChangeAnnotation",
    "Group",
    "MoveSheet",
    "MoveView",
    "Operation",
    "Remove",
    "RemoveSheet",
    "ReplaceView",
    "SendToSheet",
    "SetField",
    "SetHatch",
    "SetItems",
    "SetLetters",
    "SetPart",
    "SetRevisions",
    "SetSheet",
    "SetStyles",
    "SetThreads",
    "SetView",
    "SheetChanges",
    "apply",
    "label",
    "need_annotation",
    "need_sheet",
    "need_view",
]
