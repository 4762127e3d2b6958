"""What views carry of others: cutting lines, rings of details, arrows of sight; and what stands above each view."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from ..display import Element, Sketch, Text
from ..drawing import AuxiliaryView, DetailView, Drawing, ProjectedView, SectionView, Sheet, View
from ..errors import UserError
from ..measuring.style import marks_style_of
from ..views.placed_view import PlacedView
from .cuts import draw_cutting_line, marked_now, marking_of, section_caption
from .display_cache import DisplayCache, drawn_watching, key_of
from .windows import draw_ring, draw_sight, sight_of

Array = NDArray[np.float64]


def lettering_on(written: Iterable[Element], placed_view: PlacedView) -> list[Array]:
    """The boxes of all lettering that hangs on a view, from the view's zero."""
    own = [m for e in written if e.group == placed_view.view.id for m in e.marks]
    return [m.corners() for m in own if isinstance(m, Text)]


def cutting_line_elements(
    drawing: Drawing,
    sheet: Sheet,
    placed_views: dict[str, PlacedView],
    written: Sequence[Element],
    display_cache: DisplayCache,
) -> list[Element]:
    """The cutting lines of sections of the views of a sheet, each on its view, their letters clear of what is ``written``."""
    views = [*sheet.views, *(v for s in drawing.sheets if s.id != sheet.id for v in s.views)]
    pairs = [(v, p) for v in views if isinstance(v, SectionView) and (p := placed_views.get(v.parent)) is not None]
    found = [cutting_line_element(drawing, sheet, v, p, display_cache, lettering_on(written, p)) for v, p in pairs]
    return [e for e in found if e is not None]


def cutting_line_element(
    drawing: Drawing,
    sheet: Sheet,
    view: SectionView,
    parent: PlacedView,
    display_cache: DisplayCache,
    taken: Sequence[Array] = (),
) -> Element | None:
    """The cutting line of a section on its view; None where it cannot be followed."""
    try:
        marking = marking_of(view, parent)
    except UserError:
        return None
    style, beyond = marks_style_of(drawing, sheet, view), drawing.elsewhere(sheet, view.id)
    shown = np.round(marking.points, 9).tolist(), np.round(marking.looks, 9).tolist(), marking.marked, marking.loose
    words = f"cutting line {view.letter}–{view.letter}" if view.letter else "cutting line"
    said = key_of("line", view.id, shown, _rounded(taken), style, beyond)

    def drawn(seen: SectionView, key: Callable[[], str]) -> Element:
        sketch = Sketch(style.lines)
        draw_cutting_line(sketch, style, marking, seen, taken, beyond=beyond)
        at = 0.0, 0.0
        return sketch.element(f"{view.id}-line", "cutting_line", parent.view.id, words, key(), at, view=view.id)

    return drawn_watching(display_cache, said, view, drawn).placed(parent.transform.place)


def parent_mark_elements(
    drawing: Drawing,
    sheet: Sheet,
    placed_views: dict[str, PlacedView],
    elsewhere: dict[str, PlacedView],
    written: Sequence[Element],
    display_cache: DisplayCache,
) -> list[Element]:
    """What tells at views that pieces of them are enlarged elsewhere, or from where they are looked at; ``elsewhere``: views
    on other sheets that have their parent here."""
    own = [placed_views[v.id] for v in sheet.views]
    pairs = [(o, p) for o in (*own, *elsewhere.values()) if (p := placed_views.get(o.view.parent or "")) is not None]
    # only the ring of a detail gives way to what is written
    taken = [lettering_on(written, p) if isinstance(own.view, DetailView) else [] for own, p in pairs]
    found = [
        parent_mark_element(drawing, sheet, own, p, display_cache, boxes)
        for (own, p), boxes in zip(pairs, taken, strict=True)
    ]
    return [e for e in found if e is not None]


def parent_mark_element(
    drawing: Drawing,
    sheet: Sheet,
    own: PlacedView,
    parent: PlacedView,
    display_cache: DisplayCache,
    taken: Sequence[Array] = (),
) -> Element | None:
    """The ring of a detail on its parent, or the arrow by which another view is looked at; None where there is none."""
    view, beyond = own.view, drawing.elsewhere(sheet, own.view.id)
    style = marks_style_of(drawing, sheet, view)
    way = sight_of(view, own, parent, apart=bool(beyond))
    if isinstance(view, DetailView):
        name, words = "ring", f"outline of detail {view.letter}".strip()
        there = (
            [own.transform.name, np.round(np.array(view.place) - parent.transform.place, 3).tolist()]
            if view.leader and not beyond
            else []
        )
        shown = view.outline.model_dump_json(), view.leader, there, _rounded(taken)
    elif way is not None:
        name, words, shown = "sight", f"arrow of view {view.letter}", np.round(way, 6).tolist()
    else:
        return None
    said = key_of(name, view.id, parent.projected.scene.digest, parent.transform.name, style, shown, beyond)

    def drawn(seen: View, key: Callable[[], str]) -> Element:
        sketch = Sketch(style.lines)
        if isinstance(seen, DetailView):
            draw_ring(sketch, style, seen, parent, taken, None if beyond else own, beyond=beyond)
        elif way is not None:
            draw_sight(sketch, style, seen, parent, way, beyond=beyond)
        return sketch.element(f"{view.id}-{name}", name, parent.view.id, words, key(), (0.0, 0.0), view=view.id)

    return drawn_watching(display_cache, said, view, drawn).placed(parent.transform.place)


def _rounded(boxes: Sequence[Array]) -> list[object]:
    return [np.round(b, 2).tolist() for b in boxes]


def title_of(view: View, drawing: Drawing, placed_views: dict[str, PlacedView]) -> str:
    """What stands above a view, without its scale: with the sheet of the view that it belongs to, where that is another."""
    sheet = drawing.sheet_of(view.id)
    beyond = drawing.elsewhere(sheet, view.parent) if sheet is not None and view.parent is not None else ""
    title = _title(view, drawing, placed_views, bool(beyond))
    return title + beyond if title and not view.caption else title


def _title(view: View, drawing: Drawing, placed_views: dict[str, PlacedView], apart: bool) -> str:
    if view.caption:
        return view.caption
    look = drawing.look_of(view).words
    standard = {"letters": "ISO", "named": "ASME"}.get(look, drawing.standard)
    if isinstance(view, DetailView):
        return f"DETAIL {view.letter}".strip() if standard == "ASME" else view.letter
    if isinstance(view, AuxiliaryView | ProjectedView) and view.letter:
        own, parent = placed_views.get(view.id), placed_views.get(view.parent)
        shown = own is None or parent is None or sight_of(view, own, parent, apart=apart) is not None
        return (f"VIEW {view.letter}" if standard == "ASME" else view.letter) if shown else ""
    if not isinstance(view, SectionView):
        return ""
    try:
        return section_caption(view, standard) if marked_now(view, placed_views) == "full" else ""
    except UserError:
        return section_caption(view, standard)
