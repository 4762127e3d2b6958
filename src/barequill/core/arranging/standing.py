"""What lies on the title block, across the frame or on something else of a sheet, whoever put it there."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import shapely

from ..display import DisplayList
from ..drawing import Drawing, SectionView, Sheet
from ..drawing.annotations import AnyAnnotation
from ..standards.sheets import Rectangle
from ..views.occupancy import occupancy
from ..views.placed_view import PlacedView
from .clashes import Held, hull_shape, standing_box
from .remarks import Remark

TOUCHES = 0.05
"""mm by which one may reach into another."""


@dataclass(frozen=True)
class Astray:
    """A view, or what stands on the sheet by itself, that lies on something: by its id, how it is called, and on what."""

    own: str
    words: str
    on: str


def astray_on(drawing: Drawing, sheet: Sheet, ink: DisplayList, placed_views: Mapping[str, PlacedView]) -> list[Astray]:
    """All that lies on something, views first; a section that is drawn within its view belongs there."""
    ground = occupancy(drawing, sheet)
    space, title = _polygon(ground.space).buffer(TOUCHES), _polygon(ground.title).buffer(-TOUCHES)
    found: list[Astray] = []
    hulls: dict[str, tuple[str, Any]] = {}
    for view, placed_view in placed_views.items():
        hull = hull_shape(placed_view).buffer(-TOUCHES)
        own = sheet.view(view)
        if own is None or hull.is_empty:
            continue
        within = isinstance(own, SectionView) and own.within
        words = _capital(ink.names.get(view, "view"))
        found += _off(view, words, hull, space, title, _paper(ink))
        if not within:
            found += [Astray(view, words, _small(w)) for w, other in hulls.values() if other.intersects(hull)]
            hulls[view] = words, hull
    for annotation, box in _blocks(sheet, ink):
        shape = _polygon(box).buffer(-TOUCHES)
        words = _capital(annotation.noun)
        found += _off(annotation.id, words, shape, space, title, _paper(ink))
        found += [Astray(annotation.id, words, _small(w)) for w, other in hulls.values() if other.intersects(shape)]
        hulls[annotation.id] = f"the {annotation.noun}", shape
    return found


def standing_remarks(
    drawing: Drawing, sheet: Sheet, ink: DisplayList, placed_views: Mapping[str, PlacedView]
) -> list[Remark]:
    """What lies on something, in words; also sizes, notes and signs that reach over the frame or the title block."""
    found = [Remark(a.own, f"{a.words} lies {a.on}", True) for a in astray_on(drawing, sheet, ink, placed_views)]
    ground = occupancy(drawing, sheet)
    elements = {e.id: e for e in ink.elements}
    for annotation in sheet.annotations:
        element = elements.get(annotation.id)
        if element is None or annotation.on == sheet.id:
            continue
        box = standing_box(Held(element))
        if box is None:
            continue
        what = f"{_capital(annotation.noun)} {element.words}"
        if not ground.space.grown(TOUCHES).holds(box):
            found.append(Remark(annotation.id, f"{what} reaches over the frame"))
        elif ground.title.grown(-TOUCHES).overlaps(box):
            found.append(Remark(annotation.id, f"{what} lies on the title block"))
    return found


def _blocks(sheet: Sheet, ink: DisplayList) -> Iterator[tuple[AnyAnnotation, Rectangle]]:
    """What stands on the sheet by itself, and the boxes of its ink."""
    for annotation in (a for a in sheet.annotations if a.on == sheet.id):
        element = ink.of(annotation.id)
        box = None if element is None else standing_box(Held(element))
        if box is not None:
            yield annotation, box


def _off(own: str, words: str, shape: Any, space: Any, title: Any, paper: Any) -> Iterator[Astray]:
    if not paper.covers(shape):
        yield Astray(own, words, "beyond the paper")
    elif not space.covers(shape):
        yield Astray(own, words, "across the frame")
    if title.intersects(shape):
        yield Astray(own, words, "on the title block")


def _paper(ink: DisplayList) -> Any:
    return shapely.box(0.0, 0.0, ink.width, ink.height)


def _polygon(box: Rectangle) -> Any:
    return shapely.box(box.x0, box.y0, box.x1, box.y1)


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _small(words: str) -> str:
    """What something lies on, as it is called in the middle of a sentence."""
    plain = words if words[1:2].isupper() or words.startswith("the ") else words[:1].lower() + words[1:]
    return f"on {plain}" if plain.startswith("the ") or " A" in plain else f"on the {plain}"
