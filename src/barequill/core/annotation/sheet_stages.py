"""A whole sheet, drawn in stages: what each reads of the others, and in which order they lie on the paper."""

from __future__ import annotations

from collections.abc import Callable, Collection

from ..drawing import Drawing, Sheet
from ..ink import Element, Ink
from ..standards.lines import LineGroup
from ..values import value
from ..views.conventions import Conventions
from ..views.picture import Picture, Studio
from .giving_way import given_way
from .inkwell import Inkwell
from .sheet_ink import (
    annotation_element,
    blank,
    caption_element,
    frame_element,
    hatch_element,
    mass_of,
    scene_key,
    stage_of,
    view_element,
    view_words,
)
from .solving import Stage, root_view
from .threading import conventions_of, thread_element
from .title_block import field_values, title_zones
from .view_marks import cutting_line_elements, parent_mark_elements, title_of


@value
class Setting:
    """What the stages of a sheet work with: of each view its picture and what is drawn ``instead`` of some of its lines, of
    views ``elsewhere`` that belong to them their pictures too, the
    ``values`` of the title block, and the views that are ``pending``, whose lines are not there yet."""

    drawing: Drawing
    sheet: Sheet
    pictures: dict[str, Picture]
    elsewhere: dict[str, Picture]
    instead: dict[str, Conventions]
    values: dict[str, str]
    lines: LineGroup
    well: Inkwell
    pending: frozenset[str]


@value
class SheetStage:
    """A stage of drawing a sheet: from the elements of those that it ``reads`` it makes its own."""

    name: str
    reads: tuple[str, ...]
    make: Callable[[Setting, list[Element]], list[Element]]


def _frame(s: Setting, _: list[Element]) -> list[Element]:
    return [frame_element(s.drawing, s.sheet, s.values, s.lines, s.well)]


def _views(s: Setting, _: list[Element]) -> list[Element]:
    return [view_element(p, s.lines, s.well, view in s.pending, s.instead[view]) for view, p in s.pictures.items()]


def _annotations(s: Setting, _: list[Element]) -> list[Element]:
    stages: dict[str | None, tuple[Stage, str, tuple[float, float]]] = {}
    found = []
    for annotation in s.sheet.annotations:
        root = annotation.on if annotation.on in s.pictures else root_view(s.sheet, annotation)
        if root not in stages:
            stage = stage_of(s.drawing, s.sheet, s.pictures, root)
            place = s.pictures[root].chart.place if root is not None else (0.0, 0.0)
            stages[root] = stage, scene_key(stage, root in s.pending), place
        stage, scene, place = stages[root]
        found.append(annotation_element(annotation, root, stage, s.well, scene, place))
    return found


def _threads(s: Setting, _: list[Element]) -> list[Element]:
    found = (thread_element(s.drawing, s.sheet, picture, s.well) for picture in s.pictures.values())
    return [e for e in found if e is not None]


def _cutting_lines(s: Setting, written: list[Element]) -> list[Element]:
    return cutting_line_elements(s.drawing, s.sheet, s.pictures, written, s.well)


def _parent_marks(s: Setting, written: list[Element]) -> list[Element]:
    return parent_mark_elements(s.drawing, s.sheet, s.pictures, s.elsewhere, written, s.well)


def _captions(s: Setting, written: list[Element]) -> list[Element]:
    found = []
    for picture in s.pictures.values():
        title = title_of(picture.view, s.drawing, s.pictures | s.elsewhere)
        own = [e for e in written if e.group == picture.view.id]
        found.append(caption_element(picture, s.sheet, s.lines, title, own))
    return [e for e in found if e is not None]


def _given_way(s: Setting, written: list[Element]) -> list[Element]:
    return given_way(written, s.well)


def _hatch(s: Setting, written: list[Element]) -> list[Element]:
    found = [
        hatch_element(s.drawing, picture, s.lines, s.well, written, s.instead[view])
        for view, picture in s.pictures.items()
        if picture.shot.scene.is_cut and view not in s.pending
    ]
    return [e for e in found if e is not None]


STAGES = (
    SheetStage("frame", (), _frame),
    SheetStage("views", (), _views),
    SheetStage("annotations", (), _annotations),
    SheetStage("threads", (), _threads),
    SheetStage("cutting lines", ("annotations", "threads"), _cutting_lines),
    SheetStage("marks of parents", ("annotations", "threads", "cutting lines"), _parent_marks),
    SheetStage("captions", ("annotations", "threads", "cutting lines", "marks of parents"), _captions),
    SheetStage("annotations, thin lines giving way", ("annotations",), _given_way),
    SheetStage("hatch", ("annotations", "threads", "cutting lines", "marks of parents"), _hatch),
)
"""All stages, in their order: each reads earlier ones only."""
ON_PAPER = (
    "frame",
    "hatch",
    "views",
    "annotations, thin lines giving way",
    "threads",
    "cutting lines",
    "marks of parents",
    "captions",
)
"""What of them is drawn, one over the other."""


def draw_sheet(
    drawing: Drawing,
    sheet: Sheet,
    studio: Studio,
    today: str,
    well: Inkwell | None = None,
    pending: Collection[str] = (),
) -> Ink:
    """All ink of a sheet.

    Parameters
    ----------
    today : the date (ISO 8601) where none was filled in
    well : holds ink from before, by what it depends on
    pending : views whose lines are not there yet
    """
    well = well or Inkwell()
    ink = blank(sheet)
    values = field_values(drawing, sheet, mass_of(drawing, sheet, studio), today)
    ink.title = " ".join(x for x in (values.get("number", ""), values.get("title", "")) if x) or "Drawing"
    ink.fields = title_zones(sheet, values)
    pictures = studio.pictures(drawing, sheet)
    ink.names |= {view: view_words(picture.view) for view, picture in pictures.items()}
    instead = {view: conventions_of(drawing, picture) for view, picture in pictures.items()}
    setting = Setting(
        drawing=drawing,
        sheet=sheet,
        pictures=pictures,
        elsewhere=studio.elsewhere(drawing, sheet) if len(drawing.sheets) > 1 else {},
        instead=instead,
        values=values,
        lines=ink.lines,
        well=well,
        pending=frozenset(pending),
    )
    made: dict[str, list[Element]] = {}
    for stage in STAGES:
        made[stage.name] = stage.make(setting, [e for name in stage.reads for e in made[name]])
    ink.elements = [e for name in ON_PAPER for e in made[name]]
    return ink
