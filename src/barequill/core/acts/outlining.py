"""What acts that outline have in common: an outline by a hand, one that is proposed about a feature, and how its view
would look."""

from __future__ import annotations

from typing import Annotated

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from ..bounds import Coordinate, Ref
from ..display import Element
from ..drawing import Drawing, Outline, Sheet, View
from ..drawing.base import Model, Point
from ..drawing.cutting import tie_of
from ..drawing.windows import Extent
from ..errors import UserError
from ..measuring.pointing import words_of_tie
from ..sheet.elements import blank, caption_element, drawn_view
from ..sheet.view_marks import parent_mark_element, title_of
from ..standards.scales import SERIES
from ..views.cutting_lines import tie_point
from ..views.placed_view import PlacedView
from .base import ActContext, Preview

Array = NDArray[np.float64]
ROOM = 1.25
"""How much wider an outline is than what it must hold."""
LEAST = 3.0
"""mm on the sheet that the smallest feature of a detail becomes."""
WIDE = 20.0
"""mm on the sheet that a detail is wide at least, so that there is room for sizes in it."""
LARGEST = 110.0
"""mm on the sheet up to which a detail is proposed."""


class DrawnOutline(Model):
    """An outline as a hand draws it on a view, sheet mm: about ``centre`` (or what ``ref`` and ``at`` name there), of
    ``half`` a width and height; a ``free`` one through ``points``. Without ``half`` it is made about what is named."""

    form: Ref = "round"
    centre: tuple[Coordinate, Coordinate]
    ref: Ref = ""
    at: Ref = ""
    half: tuple[Extent, Extent] | None = None
    points: Annotated[list[Point], Field(max_length=2000)] = []


def outline_by(drawn: DrawnOutline, placed_view: PlacedView) -> Outline:
    """The outline in its view.

    Raises
    ------
    UserError
        Where it has no size, or misses the part.
    """
    transform, part = placed_view.transform, placed_view.projected.whole
    if drawn.half is None and not drawn.points:
        found = outline_about(drawn.ref, placed_view)
        if found is None:
            raise UserError(
                "There is nothing to put an outline around", "Draw it round the place, or point at an edge."
            )
        return found
    if drawn.form == "free":
        if len(drawn.points) < 3:
            raise UserError("The outline has no area", "Draw it round the place.")
        corners = thinned(transform.from_sheet(np.array(drawn.points, float)), 0.4 / transform.scale)
        if not shapely.Polygon(corners).is_valid:
            raise UserError("The outline crosses itself", "Draw it round the place, without a loop.")
        middle = (corners.min(axis=0) + corners.max(axis=0)) / 2
        return Outline(form="free", centre=_pair(middle), points=[_pair(p) for p in corners - middle])
    assert drawn.half is not None
    here = transform.from_sheet(np.array([drawn.centre]))[0]
    tie = tie_of(drawn.ref, drawn.at)
    there = None if tie is None else tie_point(part, tie)
    if there is None:
        tie = None
    else:
        here = placed_view.projected.flat_each(there[None])[0]
    half = (drawn.half[0] / transform.scale, drawn.half[1] / transform.scale)
    if min(half) * transform.scale < 0.5:
        raise UserError("The outline has no size", "Pull it wider.")
    form = "rectangle" if drawn.form == "rectangle" else "round"
    return Outline.model_validate({"form": form, "centre": _pair(here), "tie": tie, "half": half})


def outline_about(ref: str, placed_view: PlacedView) -> Outline | None:
    """The smallest ring that holds an entity with some room, tied to it."""
    projected = placed_view.projected
    kind, row = projected.whole.find(ref) or ("", 0)
    if kind == "edge":
        curve = projected.whole.edges[row].curve
        spots, at = curve.points(np.linspace(curve.t0, curve.t1, 33)), "centre" if curve.is_circle else "middle"
    elif kind == "face":
        spots, at = projected.whole.mesh.nodes[projected.whole.faces[row].nodes], "axis"
    else:
        return None
    flat = projected.flat_each(spots)
    middle = (flat.min(axis=0) + flat.max(axis=0)) / 2
    radius = ROOM * float(np.linalg.norm(flat - middle, axis=1).max()) + 1.5 / placed_view.scale
    tie = tie_of(ref, at)
    there = None if tie is None else tie_point(projected.whole, tie)
    off = (0.0, 0.0) if there is None else _pair(middle - projected.flat_each(there[None])[0])
    return Outline(centre=_pair(middle), tie=tie, off=off, half=(radius, radius))


def scale_for(outline: Outline, placed_view: PlacedView) -> float:
    """The scale of the standard series at which the smallest feature within an outline becomes large enough to be read,
    but the detail no larger than fits a sheet."""
    projected = placed_view.projected
    centre, reach = np.array(outline.centre), max(outline.half)
    if outline.points:
        reach = float(np.linalg.norm(np.array(outline.points), axis=1).max())
    least = np.inf
    for curve in projected.strings.curves:
        x0, y0, x1, y1 = curve.bounds()
        middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
        size = max(x1 - x0, y1 - y0)
        if size > 1e-3 * projected.whole.size and float(np.linalg.norm(middle - centre)) <= reach:
            least = min(least, size)
    larger = [s for s in reversed(SERIES) if s > placed_view.scale * 1.01] or [placed_view.scale * 2]
    fitting = [s for s in larger if 2 * reach * s <= LARGEST] or larger[:1]
    return next((s for s in fitting if least * s >= LEAST and 2 * reach * s >= WIDE), fitting[-1])


def words_of_outline(outline: Outline, drawing: Drawing, placed_view: PlacedView) -> str:
    """What an outline is drawn about, in words."""
    if outline.tie is None:
        return "drawn by hand"
    return f"about the {words_of_tie(placed_view.projected.whole, outline.tie, drawing)}"


def view_shown(
    drawing: Drawing, acting: ActContext, sheet: Sheet, view: View, words: str, mark_only: bool = False
) -> Preview:
    """The ink of a view as it would be, with what tells of it at its parent."""
    rest = [v for v in sheet.views if v.id != view.id]
    trial = sheet.model_copy(update={"views": [*rest, view]})
    changed = drawing.with_sheet(trial)
    ink = blank(drawing, sheet)
    placed_views = acting.projections.placed_views(changed, trial)
    own, parent = placed_views[view.id], placed_views.get(view.parent or "")
    mark = None if parent is None else parent_mark_element(changed, trial, own, parent, acting.display_cache)
    elements: list[Element | None] = [mark]
    if not mark_only:
        elements += drawn_view(changed, trial, own, ink, acting.display_cache)
        elements.append(caption_element(own, changed, trial, title_of(view, changed, placed_views)))
    return Preview(ink, tuple(e for e in elements if e is not None), words, (), view.place)


def _pair(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def thinned(points: Array, near: float) -> Array:
    """Of a free line as few corners as keep it within ``near`` (mm), 40 at the most."""
    ring = shapely.LinearRing(points) if len(points) > 3 else shapely.LinearRing([*points, points[0]])
    for factor in (1, 2, 4, 8, 16):
        found = np.asarray(ring.simplify(near * factor).coords)[:-1]
        if len(found) <= 40:
            break
    return found if len(found) >= 3 else points
