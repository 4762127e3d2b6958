"""What of a view a hand can take hold of besides its lines: corners of cutting lines, outlines, break lines."""

from __future__ import annotations

import numpy as np

from ..core.display import DisplayList
from ..core.drawing import DetailView, Drawing, View
from ..core.drawing.views import SectionView
from ..core.errors import UserError
from ..core.measuring.pointing import words_of_line, words_of_tie
from ..core.sheet.cuts import marking_of
from ..core.views.placed_view import PlacedView
from ..core.views.windows import break_in_view, foreshortenings, is_loose, lengthened, middle_of, shape_of
from . import schemas as s


def section_of(
    drawing: Drawing, ink: DisplayList, view: View, placed_views: dict[str, PlacedView]
) -> s.SectionJson | None:
    """What the screen has to know of a section's line."""
    parent = placed_views.get(view.parent or "")
    if not isinstance(view, SectionView):
        return None
    if parent is None:
        # its line is drawn on another sheet, and can be taken hold of there
        words = words_of_line(placed_views[view.id].projected.whole, view.line, drawing)
        marked = "full" if view.marked == "auto" else view.marked
        return s.SectionJson(words=words, corners=[], marked=marked, loose=False, fault="")
    try:
        marking = marking_of(view, parent)
    except UserError as error:
        return s.SectionJson(words="cut", corners=[], marked="full", loose=True, fault=error.title)
    corners = [_down(ink, p + parent.transform.place) for p in marking.handles]
    words = words_of_line(parent.projected.whole, view.line, drawing)
    return s.SectionJson(words=words, corners=corners, marked=marking.marked, loose=bool(marking.loose), fault="")


def outline_of(
    drawing: Drawing, ink: DisplayList, own: PlacedView, placed_views: dict[str, PlacedView]
) -> s.OutlineJson | None:
    """The outline of a detail, on its parent, or of a cropped view."""
    view = own.view
    outline = view.outline if isinstance(view, DetailView) else view.crop and view.crop.outline
    ground = placed_views.get(view.parent or "") if isinstance(view, DetailView) else own
    if not outline or ground is None:
        return None
    part = ground.projected.whole
    middle = middle_of(outline, ground.projected.frame, part)
    shape = np.array(shape_of(outline))
    notch = middle + shape[int(np.argmax(shape @ [1.0, 0.4]))]
    about = "" if outline.tie is None else words_of_tie(part, outline.tie, drawing)
    centre, end = ground.transform.to_sheet(np.array([middle, notch]))
    loose = is_loose(outline, part)
    return s.OutlineJson(on=ground.view.id, centre=_down(ink, centre), notch=_down(ink, end), about=about, loose=loose)


def breaks_on(drawing: Drawing, ink: DisplayList, placed_view: PlacedView) -> list[s.BreakJson]:
    """The break lines of a view's own stretches: a place on each."""
    found = []
    hull = placed_view.projected.hull
    middle = (hull.min(axis=0) + hull.max(axis=0)) / 2
    part = placed_view.projected.whole
    for b in (break_in_view(b, placed_view.projected.frame, part) for b in placed_view.view.breaks):
        axis = 0 if b.along == "x" else 1
        spots = np.array([middle, middle])
        spots[:, axis] = b.start, b.end
        first, second = placed_view.transform.to_sheet(spots)
        about = [words_of_tie(part, h.tie, drawing) for h in b.holds if h is not None]
        ends = {"first": _down(ink, first), "second": _down(ink, second)}
        found.append(s.BreakJson(id=b.id, along=b.along, about=about, **ends))
    return found


def local_cuts_on(ink: DisplayList, placed_view: PlacedView) -> list[s.LocalJson]:
    """The corners of the local cuts of a view, where they stand."""
    return [
        s.LocalJson(
            id=c.id, corners=[_down(ink, p) for p in placed_view.transform.to_sheet(np.array(c.outline, float))]
        )
        for c in placed_view.view.local_cuts
    ]


def _down(ink: DisplayList, p: np.ndarray) -> tuple[float, float]:
    """A place of the sheet as the screen takes it, y down."""
    return float(p[0]), float(ink.height - p[1])


def axes_of(placed_view: PlacedView) -> list[s.AxisJson]:
    """How the axes of the part show in a pictorial view; none in others."""
    if not placed_view.view.pictorial:
        return []
    frame = placed_view.projected.frame
    grown = lengthened(placed_view.view, frame)
    found = []
    for k, share in enumerate(foreshortenings(frame)):
        angle = float(np.degrees(np.arctan2(frame.up[k], frame.right[k]))) if share > 1e-9 else 0.0
        found.append(s.AxisJson(name="XYZ"[k], angle=angle, share=share * grown))
    return found
