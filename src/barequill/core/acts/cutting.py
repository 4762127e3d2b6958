"""What acts that cut have in common: the view that a line lies on, what it is tied to, and how a section would look."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..annotation.pointing import words_of_line
from ..annotation.sheet_ink import blank, caption_element, drawn_view, view_words
from ..annotation.view_marks import cutting_line_element, title_of
from ..drawing import Corner, Drawing, SectionView, Sheet, Tie
from ..errors import BadOperation, UserError
from ..ink import Element
from ..part.chosen import body_names
from ..part.model import Part
from ..values import value
from ..views.cutting_lines import Frame, left_of, run_of, stretches_of
from ..views.picture import Picture
from ..views.sections import section_scene
from .base import Bench, Preview


@value
class Ground:
    """The view that a cutting line lies on: as it stands on its sheet, its part, and its plane in that."""

    picture: Picture
    part: Part
    frame: Frame


def ground_of(drawing: Drawing, bench: Bench, view_id: str) -> Ground:
    """The view of that id, on whichever sheet; raises BadOperation where it is gone."""
    view, home = drawing.view(view_id), drawing.sheet_of(view_id)
    if view is None or home is None:
        raise BadOperation("The view of the cutting line is gone", "Put it back with undo, or choose another view.")
    picture = bench.studio.pictures(drawing, home)[view_id]
    part = bench.studio.part(view.part)
    return Ground(picture, part, picture.shot.frame)


def tie_of(ref: str, at: str) -> Tie | None:
    """What a hand has caught, by reference and which of its points; None for nothing."""
    if at == "box":
        return Tie(ref="", at="box")
    return Tie.model_validate({"ref": ref, "at": at or "middle"}) if ref else None


def corner_at(place: Sequence[float] | NDArray[np.float64], tie: Tie | None = None) -> Corner:
    """A corner of a cutting line at a place (2,) of its view."""
    return Corner(place=(float(place[0]), float(place[1])), tie=tie)


def checked(drawing: Drawing, bench: Bench, view: SectionView) -> None:
    """Raises UserError where a section would show nothing, and says why."""
    ground = ground_of(drawing, bench, view.parent)
    section_scene(view, ground.part, ground.frame)
    hull = ground.picture.shot.hull
    stretches = stretches_of(run_of(view.line, ground.frame, ground.part).points)
    across = [(hull - s.start) @ left_of(s.along) for s in stretches]
    if all(a.max() <= 0 or a.min() >= 0 for a in across):
        raise UserError("The cutting line misses the part", "Draw it through the view, best through a centre.")
    need_cut(ground.part, view.bodies, view.whole)


def need_cut(part: Part, bodies: Sequence[str] | None, whole: Sequence[str]) -> None:
    """Raises UserError where all bodies shown (None for all of the part) stay whole."""
    if set(bodies if bodies is not None else body_names(part)) <= set(whole):
        raise UserError("Nothing is left to cut", "All bodies of this view stay whole. Let one be cut.")


def line_words(drawing: Drawing, bench: Bench, view: SectionView) -> str:
    """A cutting line in words: what it runs through."""
    return words_of_line(bench.studio.part(view.part), view.line, drawing)


def shown(
    drawing: Drawing,
    bench: Bench,
    sheet: Sheet,
    view: SectionView,
    words: str,
    others: tuple[str, ...] = (),
    line_only: bool = False,
) -> Preview:
    """The ink of a section and its line as they would be."""
    rest = [v for v in sheet.views if v.id != view.id]
    trial = sheet.model_copy(update={"views": [*rest, view]})
    changed = drawing.with_sheet(trial)
    home = changed.sheet_of(view.parent)
    ink = blank(sheet)
    elements: list[Element] = []
    if line_only:
        lines = bench.studio.pictures(drawing, sheet)
        line = cutting_line_element(drawing, sheet, view, lines[view.parent], bench.well)
        return Preview(ink, (line,) if line is not None else (), words, others, view.place)
    pictures = bench.studio.pictures(changed, trial)
    if home is not None and home.id == trial.id:
        line = cutting_line_element(changed, trial, view, pictures[view.parent], bench.well)
        if line is not None:
            elements.append(line)
    own = pictures[view.id]
    elements += drawn_view(changed, trial, own, ink, bench.well)
    caption = caption_element(own, trial, ink.lines, title_of(view, changed, pictures))
    if caption is not None:
        elements.append(caption)
    return Preview(ink, tuple(elements), f"{view_words(view)}, {words}", others, view.place)
