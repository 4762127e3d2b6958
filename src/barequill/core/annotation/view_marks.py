"""What views carry of others: cutting lines, rings of details, arrows of sight; and what stands above each view."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..drawing import AuxiliaryView, DetailView, Drawing, ProjectedView, SectionView, Sheet, View
from ..errors import UserError
from ..ink import Element, Ink, Sketch, Text
from ..views.picture import Picture
from .cut_ink import draw_cutting_line, marked_now, marking_of, section_caption
from .keys import key_of
from .style import style_of
from .window_ink import draw_ring, draw_sight, sight_of

Array = NDArray[np.float64]


def lettering_on(ink: Ink, picture: Picture) -> list[Array]:
    """The boxes of all lettering that hangs on a view, from the view's zero."""
    own = [m for e in ink.elements if e.group == picture.view.id for m in e.marks]
    return [m.corners() for m in own if isinstance(m, Text)]


def cutting_line_elements(drawing: Drawing, sheet: Sheet, pictures: dict[str, Picture], ink: Ink) -> list[Element]:
    """The cutting lines of the sections of a sheet, each on its view, their letters clear of what is in the ink."""
    found = []
    for view in sheet.views:
        parent = pictures.get(view.parent or "")
        if isinstance(view, SectionView) and parent is not None:
            element = cutting_line_element(drawing, sheet, view, parent, lettering_on(ink, parent))
            if element is not None:
                found.append(element)
    return found


def cutting_line_element(
    drawing: Drawing, sheet: Sheet, view: SectionView, parent: Picture, taken: Sequence[Array] = ()
) -> Element | None:
    """The cutting line of a section on its view; None where it cannot be followed."""
    try:
        marking = marking_of(view, parent)
    except UserError:
        return None
    style = style_of(drawing, sheet)
    sketch = Sketch(style.lines)
    draw_cutting_line(sketch, style, marking, view, taken)
    clear = [np.round(t, 2).tolist() for t in taken]
    shown = np.round(marking.points, 3).tolist(), np.round(marking.looks, 6).tolist(), marking.marked, view.letter
    words = f"cutting line {view.letter}–{view.letter}" if view.letter else "cutting line"
    key = key_of("line", view.id, shown, view.line.ends, view.letters_off, clear, style)
    return sketch.element(f"{view.id}-line", "cutting_line", parent.view.id, words, key, parent.chart.place)


def parent_mark_elements(drawing: Drawing, sheet: Sheet, pictures: dict[str, Picture], ink: Ink) -> list[Element]:
    """What tells at views that pieces of them are enlarged elsewhere, or from where they are looked at."""
    found = []
    for view in sheet.views:
        parent = pictures.get(view.parent or "")
        if parent is None:
            continue
        element = parent_mark_element(drawing, sheet, pictures[view.id], parent, lettering_on(ink, parent))
        if element is not None:
            found.append(element)
    return found


def parent_mark_element(
    drawing: Drawing, sheet: Sheet, own: Picture, parent: Picture, taken: Sequence[Array]
) -> Element | None:
    """The ring of a detail on its parent, or the arrow by which another view is looked at; None where there is none."""
    view, style = own.view, style_of(drawing, sheet)
    sketch = Sketch(style.lines)
    scene = parent.shot.scene.digest, parent.chart.name, style
    if isinstance(view, DetailView):
        draw_ring(sketch, style, view, parent, taken, own)
        off = np.round(np.array(view.place) - parent.chart.place, 3).tolist() if view.leader else []
        shown = view.outline.model_dump_json(), view.letter, view.leader, off, [np.round(t, 2).tolist() for t in taken]
        key = key_of("ring", view.id, *scene, shown, own.chart.name if view.leader else "")
        name, words = "ring", f"outline of detail {view.letter}".strip()
    else:
        way = sight_of(view, own, parent)
        if way is None:
            return None
        draw_sight(sketch, style, view, parent, way)
        key = key_of("sight", view.id, *scene, np.round(way, 6).tolist(), view.letter)
        name, words = "sight", f"arrow of view {view.letter}"
    return sketch.element(f"{view.id}-{name}", name, parent.view.id, words, key, parent.chart.place)


def title_of(view: View, drawing: Drawing, pictures: dict[str, Picture]) -> str:
    """What stands above a view, without its scale."""
    if view.caption:
        return view.caption
    if isinstance(view, DetailView):
        return f"DETAIL {view.letter}".strip() if drawing.standard == "ASME" else view.letter
    if isinstance(view, AuxiliaryView | ProjectedView) and view.letter:
        own, parent = pictures.get(view.id), pictures.get(view.parent)
        shown = own is None or parent is None or sight_of(view, own, parent) is not None
        return (f"VIEW {view.letter}" if drawing.standard == "ASME" else view.letter) if shown else ""
    if not isinstance(view, SectionView):
        return ""
    try:
        return section_caption(view, drawing.standard) if marked_now(view, pictures) == "full" else ""
    except UserError:
        return section_caption(view, drawing.standard)
