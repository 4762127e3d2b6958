"""A whole sheet, drawn in stages: what each reads of the others, and in which order they lie on the paper."""

from __future__ import annotations

from collections.abc import Callable, Collection

from ..display import DisplayList, Element
from ..display.lettering import lettered
from ..drawing import Dimension, Drawing, Sheet
from ..drawing.title_fields import field_values
from ..measuring.context import LayoutContext, root_view
from ..measuring.style import named_style
from ..standards.lines import LineGroup
from ..values import value
from ..views.conventions import Conventions
from ..views.placed_view import PlacedView, ProjectionCache
from .display_cache import DisplayCache
from .elements import (
    annotation_element,
    blank,
    caption_element,
    context_of,
    frame_element,
    hatch_element,
    mass_told,
    scene_key,
    view_element,
    view_words,
)
from .giving_way import crossings_broken, given_way
from .threading import conventions_of, thread_elements
from .title_block import title_zones
from .view_marks import cutting_line_elements, parent_mark_elements, title_of


@value
class Setting:
    """What the stages of a sheet work with: of each view where it is placed, and what is drawn ``instead`` of some of its lines, of
    views ``elsewhere`` that belong to them their pictures too, the
    ``values`` of the title block, and the views that are ``pending``, whose lines are not there yet."""

    drawing: Drawing
    sheet: Sheet
    placed_views: dict[str, PlacedView]
    elsewhere: dict[str, PlacedView]
    instead: dict[str, Conventions]
    values: dict[str, str]
    lines: LineGroup
    display_cache: DisplayCache
    pending: frozenset[str]


@value
class SheetStage:
    """A stage of drawing a sheet: from the elements of those that it ``reads`` it makes its own."""

    name: str
    reads: tuple[str, ...]
    make: Callable[[Setting, list[Element]], list[Element]]


def _frame(s: Setting, _: list[Element]) -> list[Element]:
    return [frame_element(s.drawing, s.sheet, s.values, s.lines, s.display_cache)]


def _views(s: Setting, _: list[Element]) -> list[Element]:
    return [
        view_element(p, s.lines, s.display_cache, view in s.pending, s.instead[view])
        for view, p in s.placed_views.items()
    ]


def _annotations(s: Setting, _: list[Element]) -> list[Element]:
    stages: dict[str | None, tuple[LayoutContext, str, tuple[float, float]]] = {}
    found = []
    for annotation in s.sheet.annotations:
        root = annotation.on if annotation.on in s.placed_views else root_view(s.sheet, annotation)
        if root not in stages:
            context = context_of(s.drawing, s.sheet, s.placed_views, root)
            place = s.placed_views[root].transform.place if root is not None else (0.0, 0.0)
            stages[root] = context, scene_key(context, root in s.pending), place
        context, scene, place = stages[root]
        found.append(annotation_element(annotation, root, context, s.display_cache, scene, place))
    return found


def _threads(s: Setting, _: list[Element]) -> list[Element]:
    found = (thread_elements(s.drawing, s.sheet, p, s.display_cache) for p in s.placed_views.values())
    return [e for own in found for e in own]


def _cutting_lines(s: Setting, written: list[Element]) -> list[Element]:
    return cutting_line_elements(s.drawing, s.sheet, s.placed_views, written, s.display_cache)


def _parent_marks(s: Setting, written: list[Element]) -> list[Element]:
    return parent_mark_elements(s.drawing, s.sheet, s.placed_views, s.elsewhere, written, s.display_cache)


def _captions(s: Setting, written: list[Element]) -> list[Element]:
    found = []
    for placed_view in s.placed_views.values():
        title = title_of(placed_view.view, s.drawing, s.placed_views | s.elsewhere)
        own = [e for e in written if e.group == placed_view.view.id]
        found.append(caption_element(placed_view, s.drawing, s.sheet, title, own))
    return [e for e in found if e is not None]


def _given_way(s: Setting, written: list[Element]) -> list[Element]:
    sizes = (a for a in s.sheet.annotations if isinstance(a, Dimension))
    ways = {a.id: named_style(s.drawing, a.style).crossings for a in sizes}
    broken = {own: how for own, how in ways.items() if how != "whole"}
    return crossings_broken(given_way(written, s.display_cache), broken, s.display_cache)


def _hatch(s: Setting, written: list[Element]) -> list[Element]:
    found = [
        hatch_element(s.drawing, placed_view, s.lines, s.display_cache, written, s.instead[view])
        for view, placed_view in s.placed_views.items()
        if placed_view.projected.scene.is_cut and view not in s.pending
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
    projections: ProjectionCache,
    display_cache: DisplayCache | None = None,
    pending: Collection[str] = (),
) -> DisplayList:
    """All ink of a sheet.

    Parameters
    ----------
    display_cache : the display cache, which holds elements from before
    pending : views whose lines are not there yet
    """
    display_cache = display_cache or DisplayCache()
    ink = blank(drawing, sheet)
    mass, weighed = mass_told(drawing, sheet, projections)
    values = field_values(drawing, sheet, mass)
    ink.title = " ".join(x for x in (values.get("number", ""), values.get("title", "")) if x) or "Drawing"
    ink.fields = title_zones(drawing.template_of(sheet), sheet, values, {"mass": weighed})
    placed_views = projections.placed_views(drawing, sheet)
    ink.names |= {view: view_words(placed_view.view) for view, placed_view in placed_views.items()}
    instead = {view: conventions_of(drawing, placed_view) for view, placed_view in placed_views.items()}
    setting = Setting(
        drawing=drawing,
        sheet=sheet,
        placed_views=placed_views,
        elsewhere=projections.elsewhere(drawing, sheet) if len(drawing.sheets) > 1 else {},
        instead=instead,
        values=values,
        lines=ink.lines,
        display_cache=display_cache,
        pending=frozenset(pending),
    )
    made: dict[str, list[Element]] = {}
    with lettered(drawing.font):
        for stage in STAGES:
            made[stage.name] = stage.make(setting, [e for name in stage.reads for e in made[name]])
    ink.elements = [e for name in ON_PAPER for e in made[name]]
    return ink
