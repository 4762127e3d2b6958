"""What a hand means: an act has its model, its plan (from a drawing to the operation that does it) and its preview."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TypeVar

from ..annotation.sheet_ink import Inkwell, annotation_element, blank, scene_key, stage_of
from ..annotation.solving import Stage, root_view
from ..drawing import AnyAnnotation, Dimension, Drawing, Operation, Sheet
from ..drawing.base import Model
from ..errors import BadOperation, UserError
from ..ink import Element, Ink
from ..views.picture import Studio

K = TypeVar("K", bound=AnyAnnotation)


@dataclass(frozen=True)
class Bench:
    """What acts work with: the studio, kept ink, and whether the shelf holds a part (raises where it does not)."""

    studio: Studio
    well: Inkwell = field(default_factory=Inkwell)
    need_part: Callable[[str], object] = lambda key: None

    def stage(self, drawing: Drawing, sheet: Sheet, on: str) -> tuple[Stage, tuple[float, float]]:
        """The stage of what hangs on a view (or on something that hangs on one), and the view's place."""
        pictures = self.studio.pictures(drawing, sheet)
        if on not in pictures:
            annotation = sheet.annotation(on)
            on = (root_view(sheet, annotation) if annotation is not None else None) or on
        if on not in pictures:
            raise BadOperation("The view is gone", "Choose another view.")
        return stage_of(drawing, sheet, pictures, on), pictures[on].chart.place

    def sheet_stage(self, drawing: Drawing, sheet: Sheet) -> Stage:
        """The stage of what hangs on a sheet itself."""
        return stage_of(drawing, sheet, self.studio.pictures(drawing, sheet), None)


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
    """Ink of what an act would make; ``words`` says what it is, ``others`` what else the same hand could mean."""

    ink: Ink
    elements: tuple[Element, ...]
    words: str
    others: tuple[str, ...] = ()
    place: tuple[float, float] | None = None


class AnyAct(Model):
    """An act."""

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        """The operation that does it. Raises UserError where it cannot be done; the message says why."""
        raise NotImplementedError

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        """What it would make. Raises UserError where there is none."""
        raise UserError("There is no preview of that", "Do it; it can be undone.")


def annotation_shown(
    drawing: Drawing, bench: Bench, sheet: Sheet, annotation: AnyAnnotation, words: str = ""
) -> Preview:
    """An annotation as it would be drawn."""
    root = root_view(sheet, annotation)
    if root is None:
        stage = bench.sheet_stage(drawing, sheet)
        element = annotation_element(annotation, None, stage, bench.well, scene_key(stage, False), (0.0, 0.0))
    else:
        stage, place = bench.stage(drawing, sheet, root)
        element = annotation_element(annotation, root, stage, bench.well, scene_key(stage, False), place)
    return Preview(blank(sheet), (element,), words or element.words)
