"""What all operations have."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import lru_cache
from types import UnionType
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin

from pydantic import AfterValidator, create_model

from ...errors import BadOperation
from ..annotations import AnyAnnotation
from ..base import Model
from ..document import Drawing, Sheet
from ..soundness import HIGHEST, number_of
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

    def told(self, before: Drawing) -> str:
        """The same in full, with what and where, by the drawing as it was before."""
        return self.words()


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


def without(sheet: Sheet, gone: set[str]) -> Sheet:
    """A sheet without views and annotations, by id."""
    views = [v for v in sheet.views if v.id not in gone]
    return sheet.model_copy(update={"views": views, "annotations": [a for a in sheet.annotations if a.id not in gone]})


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
    most = max((number_of(n) for n in new), default=0)
    return d.model_copy(update={"last_id": max(d.last_id, min(most, HIGHEST))})


def partial(name: str, kinds: Iterable[type[Model]], allowed: set[str] | None = None) -> type[Model]:
    """A model of changes to values of some kinds: each of their properties (of those that are ``allowed``) may be given, of
    those that hold several some alone; what goes together is for the values themselves to say."""
    types: dict[str, list[Any]] = {}
    for kind in kinds:
        for own, field in kind.model_fields.items():
            if own not in ("id", "kind", "on") and (allowed is None or own in allowed):
                found = types.setdefault(own, [])
                annotation = _loosened(field.rebuild_annotation())
                if annotation not in found:
                    found.append(annotation)
    fields: Any = {own: (Union[(*found, None)], None) for own, found in types.items()}
    return create_model(name, __base__=Model, **fields)


@lru_cache(maxsize=100)
def _part_of(kind: type[Model]) -> type[Model]:
    fields: Any = {own: (Union[_loosened(f.rebuild_annotation()), None], None) for own, f in kind.model_fields.items()}  # noqa: UP007
    return create_model(f"{kind.__name__}Changes", __base__=Model, **fields)


def _loosened(annotation: Any) -> Any:
    """A type with all values in it that hold several given in part, and without what looks at more than one figure."""
    if isinstance(annotation, type) and issubclass(annotation, Model):
        return _part_of(annotation)
    origin, within = get_origin(annotation), get_args(annotation)
    if origin is Annotated:
        own = [m for m in within[1:] if not isinstance(m, AfterValidator)]
        return Annotated[(_loosened(within[0]), *own)] if own else _loosened(within[0])
    if origin in (Union, UnionType):
        return Union[tuple(_loosened(w) for w in within)]  # noqa: UP007
    if origin in (list, tuple):
        return origin[tuple(w if w is Ellipsis else _loosened(w) for w in within)]
    return annotation


def given(changes: Model | dict[str, Any]) -> dict[str, Any]:
    """What of changes is given, by name."""
    if isinstance(changes, dict):
        return changes
    return changes.model_dump(exclude_unset=True)


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
