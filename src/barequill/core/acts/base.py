"""What a hand means: an act has its model, its plan (from a drawing to the operation that does it) and its preview."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TypeVar

from ..display import DisplayList, Element
from ..drawing import AnyAnnotation, Dimension, Drawing, Operation, Sheet
from ..drawing.base import Model
from ..errors import BadOperation, UserError
from ..measuring.context import LayoutContext, root_view
from ..sheet.elements import DisplayCache, annotation_element, blank, context_of, scene_key
from ..views.placed_view import ProjectionCache

K = TypeVar("K", bound=AnyAnnotation)


@dataclass(frozen=True)
class ActContext:
    """What acts work with: the projection cache, kept display lists, and whether the shelf holds a part (raises where it does not)."""

    projections: ProjectionCache
    display_cache: DisplayCache = field(default_factory=DisplayCache)
    need_part: Callable[[str], object] = lambda key: None

    def context(self, drawing: Drawing, sheet: Sheet, on: str) -> tuple[LayoutContext, tuple[float, float]]:
        """The layout context of what hangs on a view (or on something that hangs on one), and the view's place."""
        placed_views = self.projections.placed_views(drawing, sheet)
        if on not in placed_views:
            annotation = sheet.annotation(on)
            on = (root_view(sheet, annotation) if annotation is not None else None) or on
        if on not in placed_views:
            raise BadOperation("The view is gone", "Choose another view.")
        return context_of(drawing, sheet, placed_views, on), placed_views[on].transform.place

    def sheet_stage(self, drawing: Drawing, sheet: Sheet) -> LayoutContext:
        """The layout context of what hangs on a sheet itself."""
        return context_of(drawing, sheet, self.projections.placed_views(drawing, sheet), None)


def need_kind(drawing: Drawing, own: str, kind: type[K], gone: str) -> tuple[Sheet, K]:
    """The annotation of that id, of a kind, and its sheet; raises BadOperation (``gone``) where there is none."""
    sheet = drawing.sheet_of(own)
    found = sheet.annotation(own) if sheet is not None else None
    if sheet is None or not isinstance(found, kind):
        raise BadOperation(gone, "It was removed.")
    return sheet, found


def need_dimension(drawing: Drawing, own: str) -> tuple[Sheet, Dimension]:
    """The dimension of that id, and its sheet; raises BadOperation where it is gone."""
    return need_kind(drawing, own, Dimension, "The dimension is gone")


@dataclass(frozen=True)
class Preview:
    """The display list of what an act would make; ``words`` says what it is, ``others`` what else the same hand could mean;
    ``changes``: what becomes of what is there, a line each."""

    ink: DisplayList
    elements: tuple[Element, ...]
    words: str
    others: tuple[str, ...] = ()
    place: tuple[float, float] | None = None
    changes: tuple[str, ...] = ()


class AnyAct(Model):
    """An act."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        """The operation that does it. Raises UserError where it cannot be done; the message says why."""
        raise NotImplementedError

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        """What it would make. Raises UserError where there is none."""
        raise UserError("There is no preview of that", "Do it; it can be undone.")


def annotation_shown(
    drawing: Drawing, acting: ActContext, sheet: Sheet, annotation: AnyAnnotation, words: str = ""
) -> Preview:
    """An annotation as it would be drawn."""
    root = root_view(sheet, annotation)
    if root is None:
        context = acting.sheet_stage(drawing, sheet)
        element = annotation_element(
            annotation, None, context, acting.display_cache, scene_key(context, False), (0.0, 0.0)
        )
    else:
        context, place = acting.context(drawing, sheet, root)
        element = annotation_element(annotation, root, context, acting.display_cache, scene_key(context, False), place)
    return Preview(blank(drawing, sheet), (element,), words or element.words)
