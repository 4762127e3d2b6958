"""What acts that cut have in common: the view that a line lies on, what it is tied to, and how a section would look."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from ..display import Element
from ..drawing import Corner, Drawing, SectionView, Sheet, Tie
from ..errors import BadOperation, UserError
from ..geometry.vectors import cross
from ..measuring.pointing import words_of_line
from ..part.chosen import body_names
from ..part.model import Part
from ..sheet.elements import blank, caption_element, drawn_view, view_words
from ..sheet.view_marks import cutting_line_element, title_of
from ..values import value
from ..views.cutting_lines import Frame, left_of, run_of, stretches_of, tie_point
from ..views.placed_view import PlacedView
from ..views.sections import section_scene
from .base import ActContext, Preview

Array = NDArray[np.float64]
CAUGHT = 5.0
"""mm on the sheet within which the middle of an edge, or the origin of an axis, holds what is begun there."""


@value
class LineGround:
    """The view that a cutting line lies on: as it stands on its sheet, its part, and its plane in that."""

    placed_view: PlacedView
    part: Part
    frame: Frame


def ground_of(drawing: Drawing, acting: ActContext, view_id: str) -> LineGround:
    """The view of that id, on whichever sheet; raises BadOperation where it is gone."""
    view, home = drawing.view(view_id), drawing.sheet_of(view_id)
    if view is None or home is None:
        raise BadOperation("The view of the cutting line is gone", "Put it back with undo, or choose another view.")
    placed_view = acting.projections.placed_views(drawing, home)[view_id]
    return LineGround(placed_view, placed_view.projected.whole, placed_view.projected.frame)


def corner_at(
    place: Sequence[float] | Array, tie: Tie | None = None, off: Sequence[float] | Array = (0.0, 0.0)
) -> Corner:
    """A corner of a cutting line at a place (2,) of its view, so far (2,) off what it is tied to."""
    return Corner(place=(float(place[0]), float(place[1])), tie=tie, off=(float(off[0]), float(off[1])))


def caught_at(ground: LineGround, here: Array, tie: Tie | None) -> tuple[Array, Array]:
    """Where a hand at a place (2,) of a view, mm, is held by what it has caught, and how far off the point that it is tied to:
    near that point there, else where it is along the edge or axis."""
    there = None if tie is None else tie_point(ground.part, tie)
    if tie is None or there is None:
        return here, np.zeros(2)
    spot, along = ground.frame.flat(there), _along(ground, tie)
    off = here - spot
    if along is None or np.linalg.norm(off) <= CAUGHT / ground.placed_view.transform.scale:
        return spot, np.zeros(2)
    return spot + float(off @ along) * along, float(off @ along) * along


def crossed(ground: LineGround, tie: Tie, ways: Iterable[Array]) -> bool:
    """Whether legs that run these ways (2,) all cross the axis that they are tied to: then it does not hold them."""
    along = _along(ground, tie)
    return tie.at != "line" and along is not None and all(abs(float(left_of(along) @ w)) > 0.1 for w in ways)


def _along(ground: LineGround, tie: Tie) -> Array | None:
    """The direction (2,) in a view of the straight edge or axis that something is tied to; None for points."""
    kind, row = ground.part.find(tie.ref) or ("", 0)
    way = None
    if kind == "edge" and tie.at in ("line", "axis"):
        curve = ground.part.edges[row].curve
        if curve.kind == "conic" and curve.x is not None and curve.y is not None:
            way = cross(curve.x, curve.y)
        else:
            way = curve.x if curve.kind == "line" else None
    elif kind == "face" and tie.at in ("axis", "outline"):
        surface = ground.part.faces[row].surface
        way = surface.axes[2] if surface.kind in ("cylinder", "cone", "torus", "revolution") else None
    if way is None:
        return None
    flat = np.array([way @ ground.frame.right, way @ ground.frame.up])
    length = float(np.linalg.norm(flat))
    return flat / length if length > 1e-6 * float(np.linalg.norm(way)) else None


def checked(drawing: Drawing, acting: ActContext, view: SectionView) -> None:
    """Raises UserError where a section would show nothing, and says why."""
    ground = ground_of(drawing, acting, view.parent)
    section_scene(view, ground.part, ground.frame)
    hull = ground.placed_view.projected.hull
    stretches = stretches_of(run_of(view.line, ground.frame, ground.part).points)
    across = [(hull - s.start) @ left_of(s.along) for s in stretches]
    if all(a.max() <= 0 or a.min() >= 0 for a in across):
        raise UserError("The cutting line misses the part", "Draw it through the view, best through a centre.")
    need_cut(ground.part, view.bodies, view.whole)


def need_cut(part: Part, bodies: Sequence[str] | None, whole: Sequence[str]) -> None:
    """Raises UserError where all bodies shown (None for all of the part) stay whole."""
    if set(bodies if bodies is not None else body_names(part)) <= set(whole):
        raise UserError("Nothing is left to cut", "All bodies of this view stay whole. Let one be cut.")


def line_words(drawing: Drawing, acting: ActContext, view: SectionView) -> str:
    """A cutting line in words: what it runs through."""
    return words_of_line(acting.projections.part(view.part), view.line, drawing)


def shown(
    drawing: Drawing,
    acting: ActContext,
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
    ink = blank(drawing, sheet)
    elements: list[Element] = []
    if line_only:
        lines = acting.projections.placed_views(drawing, sheet)
        line = cutting_line_element(drawing, sheet, view, lines[view.parent], acting.display_cache)
        return Preview(ink, (line,) if line is not None else (), words, others, view.place)
    placed_views = acting.projections.placed_views(changed, trial)
    if home is not None and home.id == trial.id:
        line = cutting_line_element(changed, trial, view, placed_views[view.parent], acting.display_cache)
        if line is not None:
            elements.append(line)
    own = placed_views[view.id]
    elements += drawn_view(changed, trial, own, ink, acting.display_cache)
    caption = caption_element(own, changed, trial, title_of(view, changed, placed_views))
    if caption is not None:
        elements.append(caption)
    return Preview(ink, tuple(elements), f"{view_words(view)}, {words}", others, view.place)
