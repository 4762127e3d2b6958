"""How views lie on their sheet: what is kept of them, what is taken out, and where outlines stand."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely

from ..drawing import AuxiliaryView, Break, Drawing, Outline, ProjectedView, SectionView, Sheet, View
from ..drawing.views import DetailView
from ..drawing.windows import Hold
from ..part.model import Part
from .cutting_lines import Frame, tie_point
from .sections import smooth_outline
from .view_transform import Array, Gap, Place, ViewTransform, wave

WIDE = 1e6
"""mm by which halves reach beyond the part."""
STEP = 0.9
"""mm on the sheet between the corners of irregular outlines."""
MOST = 4000
"""Corners of an irregular outline."""


def middle_of(outline: Outline, frame: Frame, part: Part) -> Array:
    """Where the centre (2,) of an outline stands, mm of its view from the middle of the part."""
    there = None if outline.tie is None else tie_point(part, outline.tie)
    return np.array(outline.centre) if there is None else frame.flat(there) + outline.off


def is_loose(outline: Outline, part: Part) -> bool:
    """True where what an outline was tied to is gone."""
    return outline.tie is not None and tie_point(part, outline.tie) is None


def shape_of(outline: Outline) -> tuple[Place, ...]:
    """The corners of an outline about its centre, view mm."""
    a, b = outline.half
    if outline.form == "rectangle":
        points = np.array([[-a, -b], [a, -b], [a, b], [-a, b]])
    elif outline.form == "corners":
        points = np.array(outline.points, float)
    elif outline.form == "free":
        points = smooth_outline(np.array(outline.points, float))
    else:
        t = np.linspace(0, 2 * np.pi, 512, endpoint=False)
        points = np.c_[a * np.cos(t), b * np.sin(t)]
    return tuple(map(tuple, points.tolist()))


def ragged(points: Array, scale: float) -> Array:
    """A closed outline (n, 2) as an irregular line (m, 2) that strays from it by less than a mm on the sheet."""
    line = shapely.LinearRing(points)
    count = min(max(12, int(line.length * scale / STEP)), MOST)
    at = np.arange(count) / count
    p = shapely.get_coordinates(shapely.line_interpolate_point(line, at, normalized=True))
    way = np.roll(p, -1, axis=0) - np.roll(p, 1, axis=0)
    way /= np.maximum(np.linalg.norm(way, axis=1), 1e-12)[:, None]
    run = at * line.length * scale
    fade = np.minimum(1.0, np.minimum(run, run[::-1]) / 6.0)
    found: Array = p + np.c_[-way[:, 1], way[:, 0]] * (wave(run) * fade / scale)[:, None]
    return found


def _halves(halves: tuple[int, int]) -> Array:
    """The half or quarter of the view to which signs point, as corners."""
    x0, x1 = (0.0 if halves[0] > 0 else -WIDE), (0.0 if halves[0] < 0 else WIDE)
    y0, y1 = (0.0 if halves[1] > 0 else -WIDE), (0.0 if halves[1] < 0 else WIDE)
    return np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])


def window_of(view: View, scale: float, frame: Frame, part: Part) -> Array | None:
    """The corners (n, 2) of the outline within which a view is drawn, mm of the view from the middle of the part; None
    where all of it is. ``frame`` is that of the view, and of its parent for a detail, which are one."""
    if isinstance(view, DetailView):
        outline, edge = view.outline, view.edge
    elif view.crop is None:
        return None
    elif view.crop.outline is None:
        return _halves(view.crop.halves)
    else:
        outline, edge = view.crop.outline, view.crop.edge
    points = np.array(shape_of(outline)) + middle_of(outline, frame, part)
    return ragged(points, scale) if edge == "ragged" else points


def breaks_of(drawing: Drawing, view: View, seen: int = 0) -> list[Break]:
    """The stretches taken out of a view: its own, and those of the view with which it is in line along them."""
    found = list(view.breaks)
    parent = drawing.view(view.parent)
    if parent is None or not view.tied or seen > 20 or isinstance(view, DetailView | AuxiliaryView):
        return found
    shared = None
    if isinstance(view, ProjectedView):
        shared = {"top": "x", "bottom": "x", "left": "y", "right": "y", "back": "both"}[view.look]
    elif isinstance(view, SectionView) and not (view.bare or view.within):
        shared = {"level": "x", "upright": "y"}.get(view.line.courses[0])
    for b in breaks_of(drawing, parent, seen + 1) if shared else []:
        if shared == "both" and b.along == "x":
            # seen from behind
            holds = tuple(h and Hold(tie=h.tie, off=-h.off) for h in reversed(b.holds))
            found.append(b.model_copy(update={"start": -b.end, "end": -b.start, "holds": holds}))
        elif shared in ("both", b.along):
            found.append(b)
    return found


def break_in_view(b: Break, frame: Frame, part: Part) -> Break:
    """A stretch between where its ends stand in a view: at their distance from what holds them, where that is there."""
    axis, ends = (0 if b.along == "x" else 1), [b.start, b.end]
    for k, hold in enumerate(b.holds):
        there = None if hold is None else tie_point(part, hold.tie)
        if hold is not None and there is not None:
            ends[k] = float(frame.flat(there)[axis]) + hold.off
    # a part that shrank may leave nothing between
    return b.model_copy(update={"start": ends[0], "end": ends[1]}) if ends[1] > ends[0] else b


def gaps_of(breaks: list[Break], form: Callable[[Break], str] = lambda b: "zigzag") -> tuple[Gap, ...]:
    """Breaks as gaps of a view; those that run into each other are one."""
    found: list[Gap] = []
    for b in sorted(breaks, key=lambda b: (b.along, b.start)):
        axis = 0 if b.along == "x" else 1
        if found and found[-1].axis == axis and b.start <= found[-1].end:
            last = found[-1]
            found[-1] = Gap(axis, last.start, max(last.end, b.end), last.width, last.form)
        else:
            found.append(Gap(axis, b.start, b.end, b.gap, b.form if b.form != "auto" else form(b)))
    return tuple(found)


def lengthened(view: View, frame: Frame) -> float:
    """By how much a pictorial view is enlarged so that its least foreshortened axis of the part shows in full length."""
    if not getattr(view, "full", False):
        return 1.0
    return 1.0 / max(foreshortenings(frame))


def foreshortenings(frame: Frame) -> list[float]:
    """How long a mm along the part's X, Y and Z shows in a view, mm."""
    return [float(np.hypot(frame.right[k], frame.up[k])) for k in range(3)]


def view_transform_of(
    drawing: Drawing, sheet: Sheet, view: View, frame: Frame, part: Part, form: Callable[[Break], str]
) -> ViewTransform:
    """How a view lies on its sheet; ``form`` tells how the ends of a stretch are drawn where that is left open."""
    scale = sheet.scale_of(view) * lengthened(view, frame)
    window = window_of(view, scale, frame, part)
    corners = () if window is None else tuple(map(tuple, window.tolist()))
    if isinstance(view, DetailView):
        x, y = middle_of(view.outline, frame, part)
        return ViewTransform(
            place=view.place,
            scale=scale,
            turn=view.turn,
            about=(float(x), float(y)),
            gaps=(),
            window=corners,
            reach=part.size,
        )
    gaps = gaps_of([break_in_view(b, frame, part) for b in breaks_of(drawing, view)], form)
    return ViewTransform(
        place=view.place, scale=scale, turn=view.turn, about=(0.0, 0.0), gaps=gaps, window=corners, reach=part.size
    )
