"""Rules that hold in every drawing: after each operation they are checked for what it has changed, before anything is kept."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from ..errors import BadOperation
from .annotations import AnyAnnotation
from .base import Model
from .document import NUMBERS, Drawing, Sheet
from .views import AnyView, SectionView

HIGHEST = NUMBERS
"""The highest number of an id: above that few would be left to be given out."""
DEEPEST = 40
"""How many views may stand above each other, each the parent of the next."""
VIEWS, ANNOTATIONS = 100, 2000
"""How many of a kind a sheet holds: what more would take is not quick any more."""


def check(before: Drawing, after: Drawing) -> None:
    """See that a drawing is one that can be kept, loaded and drawn, where the former was.

    Raises
    ------
    BadOperation
        Where it is not; the message says what, and where.
    """
    fresh = list(_changed(before, after))
    try:
        _valid(before, after, [e for _, e, _ in fresh])
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"][-2:])
        raise BadOperation("That value cannot be used", f"{where}: {first['msg']}.") from error
    _framed(before, after)
    if before.sheets is after.sheets:
        return
    if len(before.sheets) != len(after.sheets) or not all(named for _, _, named in fresh):
        _named_once(before, after)
    for sheet, element, _ in fresh:
        if isinstance(element, AnyView):
            _view(after, element)
        else:
            _annotation(sheet, element)
    for sheet in after.sheets:
        old = before.sheet(sheet.id)
        for what, found, most, earlier in (
            ("views", sheet.views, VIEWS, old.views if old else []),
            ("annotations", sheet.annotations, ANNOTATIONS, old.annotations if old else []),
        ):
            if len(found) > max(most, len(earlier)):
                raise BadOperation(
                    "That is too much for one sheet",
                    f"A sheet holds at most {most} {what}; this one would have {len(found)}.",
                )


def check_all(drawing: Drawing) -> None:
    """See the same of a whole drawing that comes from outside."""
    check(drawing.model_copy(update={"sheets": []}), drawing)


def _changed(before: Drawing, after: Drawing) -> Iterator[tuple[Sheet, Any, bool]]:
    """The views and annotations that an operation has added or changed, with their sheets, and whether they are called as
    what stood in their place."""
    for sheet in after.sheets:
        old = before.sheet(sheet.id)
        if old is sheet:
            continue
        for now, was in ((sheet.views, old.views if old else []), (sheet.annotations, old.annotations if old else [])):
            if now is was:
                continue
            if len(now) == len(was):
                yield from ((sheet, e, e.id == w.id) for e, w in zip(now, was, strict=True) if e is not w)
                continue
            known = set(map(id, was))
            yield from ((sheet, e, False) for e in now if id(e) not in known)


def _valid(before: Drawing, after: Drawing, fresh: list[Any]) -> None:
    """A value that was made by changing copies is checked as if it came from outside; raises ValidationError."""
    for element in fresh:
        type(element).model_validate(element.model_dump())
    for name in type(after).model_fields:
        value = getattr(after, name)
        if value is not getattr(before, name) and name != "sheets":
            bare = {"sheets": [{"id": "e1"}], name: _plain(value)}
            Drawing.model_validate(bare)
    for sheet in after.sheets:
        if before.sheet(sheet.id) is not sheet:
            names = ("id", "name", "size", "landscape", "template", "scale")
            Sheet.model_validate({n: getattr(sheet, n) for n in names})


def _framed(before: Drawing, after: Drawing) -> None:
    """Each sheet has a template that is there, and room for its title block."""
    named = {"", *(t.name for t in after.templates)}
    for sheet in after.sheets:
        if sheet is before.sheet(sheet.id) and before.templates is after.templates:
            continue
        if sheet.template not in named:
            raise BadOperation("That template is not in this drawing", f"There is none called {sheet.template[:60]}.")
        template = after.template_of(sheet)
        if not template.fits(sheet.size, sheet.landscape):
            space = template.space(sheet.size, sheet.landscape)
            raise BadOperation(
                "The title block has no room on that sheet",
                f"It is {template.width:g} × {template.height:g} mm, the space within the frame {space.width:g} × {space.height:g}. "
                "Take a larger sheet or a smaller title block, such as the small one for A4.",
            )


def _plain(value: Any) -> Any:
    if isinstance(value, Model):
        return value.model_dump()
    return [v.model_dump() for v in value] if _models(value) else value


def _models(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and isinstance(value[0], Model)


def _named_once(before: Drawing, after: Drawing) -> None:
    seen: set[str] = set()
    for sheet in after.sheets:
        for name in (sheet.id, *(v.id for v in sheet.views), *(a.id for a in sheet.annotations)):
            if name in seen or not name:
                raise BadOperation(
                    "That name is taken", f"The drawing already holds {name or 'one without a name'}; load it again."
                )
            seen.add(name)
    old = {e.id for s in before.sheets for e in (s, *s.views, *s.annotations)}
    for name in seen - old:
        if number_of(name) > HIGHEST:
            raise BadOperation(
                "That name cannot be used", f"{name} is beyond {HIGHEST}; numbers are given out one by one."
            )


def number_of(name: str) -> int:
    """The number in an id, 0 where it has none."""
    return int("".join(c for c in name if c in "0123456789")[:40] or 0)


def _view(drawing: Drawing, view: AnyView) -> None:
    if drawing.part(view.part) is None:
        raise BadOperation("The part is not in this drawing", "Take the part into the drawing first.")
    way, current = [view.id], view.parent
    while current is not None:
        parent = drawing.view(current)
        if parent is None:
            raise BadOperation("The parent view is gone", "Choose another view to project from.")
        if current in way:
            raise BadOperation("A view cannot hang on itself", f"{' hangs on '.join([*way, current])}.")
        way.append(current)
        if len(way) > DEEPEST:
            raise BadOperation(
                "Too many views hang on each other",
                f"At most {DEEPEST} may, each on the next. Choose one nearer to the first view.",
            )
        current = parent.parent
    if isinstance(view, SectionView) and len(view.line.courses) != len(view.line.corners) - 1:
        raise BadOperation(
            "That cutting line cannot be used", "Between each two corners it runs one way: give as many ways."
        )
    for what, things in (("stretch", view.breaks), ("local cut", view.local_cuts)):
        names = [t.id for t in things]
        if len(set(names)) != len(names):
            raise BadOperation("That name is taken", f"Two of this view's have the same name: each {what} has its own.")


def _annotation(sheet: Sheet, annotation: AnyAnnotation) -> None:
    """An annotation hangs on a view of its sheet or on another annotation that does in the end, or, if its kind may, on the sheet;
    and says no nonsense."""
    annotation.check()
    way, current, own = [annotation.id], annotation.on, annotation
    while True:
        above = sheet.annotation(current)
        what = "view" if sheet.view(current) else "annotation" if above else "sheet" if current == sheet.id else ""
        if what in own.hangs_on and what != "annotation":
            return
        if what not in own.hangs_on or above is None or current in way or len(way) > DEEPEST:
            why = "itself" if current in way else "the sheet" if current == sheet.id else "what is not on this sheet"
            raise BadOperation(
                "It has to hang on a view",
                f"{annotation.id} would hang on {why}. Take a view of this sheet, or what hangs on one.",
            )
        way.append(current)
        current, own = above.on, above
