"""Operations: every change of a drawing is one of these, applied by a pure function."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from ..bounds import FEW, MANY, Name, Ref, Scale, Text
from ..errors import BadOperation
from ..standards.scales import scale_text
from .document import Annotation, CentreLine, CentreMark, Dimension, Drawing, Model, PartUse, Point, Sheet, Size, View


class AddViews(Model):
    """Place views."""

    op: Literal["add_views"] = "add_views"
    sheet: Ref
    views: Annotated[list[View], Field(max_length=FEW)]


class MoveView(Model):
    """Move a view; views tied to it go along, and its own tie holds it in line with its parent."""

    op: Literal["move_view"] = "move_view"
    view: Ref
    to: Point


class SetView(Model):
    """Change properties of a view: scale, tied, hidden_lines, shaded, tangent_edges, caption."""

    op: Literal["set_view"] = "set_view"
    view: Ref
    changes: Annotated[dict[Ref, Any], Field(max_length=50)]


class SetSheet(Model):
    """Change a sheet and the conventions; ``places`` are the new places of its views."""

    op: Literal["set_sheet"] = "set_sheet"
    sheet: Ref
    size: Size | None = None
    landscape: bool | None = None
    scale: Scale | None = None
    angle: Literal["first", "third"] | None = None
    standard: Literal["ISO", "ASME"] | None = None
    unit: Literal["mm", "inch"] | None = None
    places: Annotated[dict[Ref, Point], Field(max_length=MANY)] = {}


class SetField(Model):
    """Fill in a field of the title block."""

    op: Literal["set_field"] = "set_field"
    field: Ref = Field(min_length=1)
    value: Text


class SetPart(Model):
    """Take a part into the drawing, or change its material."""

    op: Literal["set_part"] = "set_part"
    part: PartUse


class Annotate(Model):
    """Add annotations to a sheet."""

    op: Literal["annotate"] = "annotate"
    sheet: Ref
    annotations: Annotated[list[Annotation], Field(max_length=MANY)]


class ChangeAnnotation(Model):
    """Change an annotation."""

    op: Literal["change_annotation"] = "change_annotation"
    id: Ref
    changes: Annotated[dict[Ref, Any], Field(max_length=50)]


class Remove(Model):
    """Remove views and annotations, with all that hangs on them."""

    op: Literal["remove"] = "remove"
    ids: list[Ref] = Field(min_length=1, max_length=MANY)


class Group(Model):
    """Several operations as one act."""

    op: Literal["group"] = "group"
    label: Name
    operations: Annotated[list[Operation], Field(max_length=MANY)]


Operation = Annotated[
    AddViews | MoveView | SetView | SetSheet | SetField | SetPart | Annotate | ChangeAnnotation | Remove | Group,
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
    after = drawing.model_copy(deep=True)
    try:
        _apply(after, operation)
        return Drawing.model_validate(after.model_dump())
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"][-2:])
        raise BadOperation("That value cannot be used", f"{where}: {first['msg']}.") from error


def _apply(d: Drawing, o: Operation) -> None:
    match o:
        case Group():
            for part in o.operations:
                _apply(d, part)
        case AddViews():
            _add_views(d, o)
        case MoveView():
            _move_view(d, o)
        case SetView():
            _set_view(d, o)
        case SetSheet():
            _set_sheet(d, o)
        case SetField():
            d.fields[o.field] = o.value
        case SetPart():
            d.parts = [p for p in d.parts if p.key != o.part.key] + [o.part]
        case Annotate():
            sheet = _sheet(d, o.sheet)
            for annotation in o.annotations:
                if sheet.view(annotation.view) is None:
                    raise BadOperation(
                        "The view is gone", f"{annotation.view} is not on this sheet any more; take another view."
                    )
                _new_id(d, annotation.id)
                sheet.annotations.append(annotation)
        case ChangeAnnotation():
            sheet, annotation = _annotation(d, o.id)
            allowed = set(type(annotation).model_fields) - {"id", "kind", "view"}
            _known(o.changes, allowed, "annotation")
            changed = type(annotation).model_validate(_merged(annotation.model_dump(), o.changes))
            sheet.annotations = [changed if a.id == o.id else a for a in sheet.annotations]
        case Remove():
            _remove(d, o)


def _merged(old: dict[str, Any], new: dict[str, Any]) -> dict[str, Any]:
    out = dict(old)
    for key, value in new.items():
        both = isinstance(value, dict) and isinstance(out.get(key), dict)
        out[key] = {**out[key], **value} if both else value
    return out


def _known(changes: dict[str, Any], allowed: set[str], what: str) -> None:
    unknown = set(changes) - allowed
    if unknown:
        raise BadOperation(
            f"No such property of this {what}",
            f"{', '.join(sorted(unknown))}; there are: {', '.join(sorted(allowed))}.",
        )


def _sheet(d: Drawing, sheet_id: str) -> Sheet:
    sheet = d.sheet(sheet_id)
    if sheet is None:
        raise BadOperation(
            "The sheet is gone", f"There is no sheet {sheet_id} in this drawing any more; choose another."
        )
    return sheet


def find_view(d: Drawing, view_id: str) -> tuple[Sheet, View]:
    """A view and its sheet; raises BadOperation where it is gone."""
    sheet = d.sheet_of(view_id)
    view = sheet.view(view_id) if sheet else None
    if sheet is None or view is None:
        raise BadOperation("The view is gone", f"There is no view {view_id} in this drawing any more; choose another.")
    return sheet, view


def _annotation(d: Drawing, annotation_id: str) -> tuple[Sheet, Dimension | CentreMark | CentreLine]:
    for sheet in d.sheets:
        for annotation in sheet.annotations:
            if annotation.id == annotation_id:
                return sheet, annotation
    raise BadOperation("That is gone", f"There is no annotation {annotation_id} in this drawing any more.")


def _new_id(d: Drawing, new: str) -> None:
    if d.sheet_of(new) is not None:
        raise BadOperation("That name is taken", f"The drawing already holds {new}; load it again.")
    digits = "".join(c for c in new if c.isdigit())
    d.last_id = max(d.last_id, int(digits or 0))


def _add_views(d: Drawing, o: AddViews) -> None:
    sheet = _sheet(d, o.sheet)
    for view in o.views:
        if d.part(view.part) is None:
            raise BadOperation("The part is not in this drawing", "Take the part into the drawing first.")
        if view.parent is not None and sheet.view(view.parent) is None:
            raise BadOperation("The parent view is gone", "Choose another view to project from.")
        _new_id(d, view.id)
        sheet.views.append(view)


def _shift(sheet: Sheet, view: View, dx: float, dy: float) -> None:
    for v in [view, *sheet.descendants(view.id, tied_only=True)]:
        v.place = (v.place[0] + dx, v.place[1] + dy)


def _move_view(d: Drawing, o: MoveView) -> None:
    sheet, view = find_view(d, o.view)
    dx, dy = o.to[0] - view.place[0], o.to[1] - view.place[1]
    if view.tied and view.parent is not None and not view.pictorial:
        if aligned_axis(view) == "x":
            dy = 0.0
        else:
            dx = 0.0
    _shift(sheet, view, dx, dy)


def aligned_axis(view: View) -> Literal["x", "y"]:
    """The direction in which a tied projected view can move."""
    return "x" if view.look in ("left", "right", "back") else "y"


def _set_view(d: Drawing, o: SetView) -> None:
    sheet, view = find_view(d, o.view)
    _known(o.changes, {"scale", "tied", "hidden_lines", "shaded", "tangent_edges", "caption", "toward", "up"}, "view")
    changed = View.model_validate({**view.model_dump(), **o.changes})
    if o.changes.get("tied") and view.parent is None:
        raise BadOperation("This view has no parent", "Only a view that was pulled out of another can be tied to it.")
    sheet.views = [changed if v.id == view.id else v for v in sheet.views]
    if o.changes.get("tied") and changed.parent and not changed.pictorial:
        parent = sheet.view(changed.parent)
        assert parent is not None
        dx, dy = parent.place[0] - changed.place[0], parent.place[1] - changed.place[1]
        _shift(sheet, changed, 0.0 if aligned_axis(changed) == "x" else dx, dy if aligned_axis(changed) == "x" else 0.0)


def _set_sheet(d: Drawing, o: SetSheet) -> None:
    sheet = _sheet(d, o.sheet)
    for name in ("size", "landscape", "scale"):
        value = getattr(o, name)
        if value is not None:
            setattr(sheet, name, value)
    if o.angle is not None and o.angle != d.angle:
        for each in d.sheets:
            _mirror(each)
        d.angle = o.angle
    d.standard = o.standard or d.standard
    d.unit = o.unit or d.unit
    for view_id, place in o.places.items():
        view = sheet.view(view_id)
        if view is not None:
            view.place = place


def _mirror(sheet: Sheet) -> None:
    """Put every tied projected view on the other side of its parent."""
    for root in [v for v in sheet.views if v.parent is None or not v.tied]:
        level = [root]
        while level:
            following: list[View] = []
            for parent in level:
                for child in [v for v in sheet.views if v.parent == parent.id and v.tied]:
                    if not child.pictorial:
                        dx, dy = parent.place[0] - child.place[0], parent.place[1] - child.place[1]
                        _shift(sheet, child, 2 * dx, 2 * dy)
                    following.append(child)
            level = following


def _remove(d: Drawing, o: Remove) -> None:
    for element in o.ids:
        sheet = d.sheet_of(element)
        if sheet is None:
            raise BadOperation("That is gone already", f"{element} is not in this drawing any more.")
        gone = {element} | {v.id for v in sheet.descendants(element)}
        sheet.views = [v for v in sheet.views if v.id not in gone]
        sheet.annotations = [a for a in sheet.annotations if a.id not in gone and a.view not in gone]


def label(operation: Operation) -> str:
    """What an operation does, in words for the history."""
    match operation:
        case Group():
            return operation.label
        case AddViews():
            n = len(operation.views)
            return "Place a view" if n == 1 else f"Place {n} views"
        case MoveView():
            return "Move a view"
        case SetView():
            names = {
                "scale": "scale",
                "tied": "alignment",
                "hidden_lines": "hidden lines",
                "shaded": "tones",
                "tangent_edges": "tangent edges",
                "caption": "caption",
            }
            return "Change " + ", ".join(names.get(k, k) for k in operation.changes) + " of a view"
        case SetSheet():
            what = [
                text
                for text in (
                    operation.size,
                    scale_text(operation.scale) if operation.scale else None,
                    f"{operation.angle} angle" if operation.angle else None,
                    operation.standard,
                    operation.unit,
                )
                if text
            ]
            return "Set the sheet" + (f": {', '.join(what)}" if what else "")
        case SetField():
            return f"Fill in {operation.field.replace('_', ' ')}"
        case SetPart():
            return "Set the part's material"
        case Annotate():
            n = len(operation.annotations)
            kinds = {"dimension": "dimension", "centre_mark": "centre mark", "centre_line": "centre line"}
            return f"Add a {kinds[operation.annotations[0].kind]}" if n == 1 else f"Add {n} annotations"
        case ChangeAnnotation():
            return "Change a dimension" if "place" not in operation.changes else "Move a dimension"
        case Remove():
            return "Remove" if len(operation.ids) == 1 else f"Remove {len(operation.ids)} elements"
