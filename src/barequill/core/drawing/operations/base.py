"""What all operations have."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from ...errors import BadOperation
from ..annotations import AnyAnnotation
from ..base import Model
from ..document import Drawing, Sheet
from ..views import View

Found = TypeVar("Found", bound=Model)


class AnyOperation(Model):
    """A change of a drawing."""

    def applied(self, drawing: Drawing) -> Drawing:
        """The drawing after it; the given one is left as it is. Raises BadOperation where it does not fit."""
        raise NotImplementedError

    def words(self) -> str:
        """What it does, for the history."""
        raise NotImplementedError


def need_sheet(d: Drawing, sheet_id: str) -> Sheet:
    """A sheet; raises BadOperation where it is gone."""
    sheet = d.sheet(sheet_id)
    if sheet is None:
        raise BadOperation(
            "The sheet is gone", f"There is no sheet {sheet_id} in this drawing any more; choose another."
        )
    return sheet


def need_view(d: Drawing, view_id: str) -> tuple[Sheet, View]:
    """A view and its sheet; raises BadOperation where it is gone."""
    for sheet in d.sheets:
        view = sheet.view(view_id)
        if view is not None:
            return sheet, view
    raise BadOperation("The view is gone", f"There is no view {view_id} in this drawing any more; choose another.")


def need_annotation(d: Drawing, annotation_id: str) -> tuple[Sheet, AnyAnnotation]:
    """An annotation and its sheet; raises BadOperation where it is gone."""
    for sheet in d.sheets:
        annotation = sheet.annotation(annotation_id)
        if annotation is not None:
            return sheet, annotation
    raise BadOperation("That is gone", f"There is no annotation {annotation_id} in this drawing any more.")


def with_views(d: Drawing, change: Callable[[View], View]) -> Drawing:
    """The drawing with each of its views changed."""
    sheets = [s.model_copy(update={"views": [change(v) for v in s.views]}) for s in d.sheets]
    return d.model_copy(update={"sheets": sheets})


def shifted(d: Drawing, by: dict[str, tuple[float, float]]) -> Drawing:
    """The drawing with views moved by so much, by id."""

    def moved(v: View) -> View:
        step = by.get(v.id)
        return v if step is None else v.model_copy(update={"place": (v.place[0] + step[0], v.place[1] + step[1])})

    return with_views(d, moved)


def numbered(d: Drawing, new: list[str]) -> Drawing:
    """The drawing that has given out these ids; raises BadOperation where it has given out one of them before."""
    held = {e.id for s in d.sheets for e in (*s.views, *s.annotations)}
    for k, each in enumerate(new):
        if each in held or each in new[:k]:
            raise BadOperation("That name is taken", f"The drawing already holds {each}; load it again.")
    most = max((int("".join(c for c in n if c.isdigit()) or 0) for n in new), default=0)
    return d.model_copy(update={"last_id": max(d.last_id, min(most, 10**9))})


def changed(old: Found, changes: dict[str, Any], allowed: set[str], what: str) -> Found:
    """A value with some of its properties changed; those that hold several are changed in part.

    Raises
    ------
    BadOperation
        Where it has no such property.
    """
    unknown = set(changes) - allowed
    if unknown:
        raise BadOperation(
            f"No such property of this {what}",
            f"{', '.join(sorted(unknown))}; there are: {', '.join(sorted(allowed))}.",
        )
    values = old.model_dump()
    for key, value in changes.items():
        both = isinstance(value, dict) and isinstance(values.get(key), dict)
        values[key] = {**values[key], **value} if both else value
    return type(old).model_validate(values)
