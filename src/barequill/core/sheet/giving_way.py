"""Thin lines that are interrupted where something is to be read: centre marks and lines give way to the lettering of sizes, and
extension lines, where their style has it, to the arrows and dimension lines of other sizes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..display import Element
from ..display.marks import Mark, Region, Stroke, Text
from ..drawing.annotations import declared
from ..geometry.within import Strings
from .display_cache import DisplayCache, key_of

Array = NDArray[np.float64]
BESIDE = 1.0
"""mm beside an arrowhead or line at which an extension line that is broken there begins again."""
APART = 0.7
"""mm between lettering and the line that is interrupted for it."""
LEAST = 0.8
"""mm of a line that is worth to be drawn between two gaps."""
NEAR = 0.005


def given_way(elements: Sequence[Element], display_cache: DisplayCache) -> list[Element]:
    """Elements, the thin lines of each view interrupted where its lettering stands over them."""
    found = list(elements)
    lettered: dict[str, list[Array]] = {}
    giving = {e.group for e in found if declared(e.kind).gives_way}
    for e in found:
        if e.group in giving and declared(e.kind).lettered:
            lettered.setdefault(e.group, []).extend(corners + e.at for corners in _lettering(e.marks))
    rows = [k for k, e in enumerate(found) if declared(e.kind).gives_way and e.group in lettered]
    if not rows:
        return found
    reach = np.array([_reach(found[k].marks) for k in rows])
    at = np.array([found[k].at for k in rows])
    reach += np.concatenate([at, at], axis=1)
    groups = np.array([found[k].group for k in rows])
    for group, boxes in lettered.items():
        own = np.nonzero(groups == group)[0]
        if not len(own) or not boxes:
            continue
        low, high = np.array([b.min(axis=0) for b in boxes]), np.array([b.max(axis=0) for b in boxes])
        near = (reach[own, None, :2] < high + APART) & (reach[own, None, 2:] > low - APART)
        over = np.asarray(near.all(axis=2), bool)
        for k in np.nonzero(np.any(over, axis=1))[0].tolist():
            row = rows[own[k]]
            met = [boxes[b] for b in np.nonzero(over[k])[0].tolist()]
            found[row] = _interrupted(found[row], met, display_cache)
    return found


@lru_cache(maxsize=20_000)
def _lettering(marks: tuple[Mark, ...]) -> tuple[Array, ...]:
    """The corners (4, 2) of all that is written."""
    return tuple(m.corners() for m in marks if isinstance(m, Text))


@lru_cache(maxsize=20_000)
def _reach(marks: tuple[Mark, ...]) -> tuple[float, float, float, float]:
    """Box of strokes: x0, y0, x1, y1."""
    points = [m.curve.points(0.05) for m in marks if isinstance(m, Stroke)]
    if not points:
        return (np.inf, np.inf, -np.inf, -np.inf)
    every = np.concatenate(points)
    return (*every.min(axis=0).tolist(), *every.max(axis=0).tolist())


def _interrupted(element: Element, boxes: list[Array], display_cache: DisplayCache) -> Element:
    outlines = [np.round(b - element.at, 3) for b in boxes]
    key = key_of("interrupted", element.key, [o.tolist() for o in outlines])

    def made() -> Element:
        strokes = [m for m in element.marks if isinstance(m, Stroke)]
        masks = [shapely.Polygon(o).buffer(APART, join_style="mitre") for o in outlines]
        kept: list[Mark] = [m for m in element.marks if not isinstance(m, Stroke)]
        return replace(element, key=key, marks=(*kept, *_outside(strokes, masks)), at=(0.0, 0.0))

    return display_cache.get(key, made).placed(element.at)


def _outside(strokes: Sequence[Stroke], masks: Sequence[Any]) -> list[Stroke]:
    """The pieces of strokes outside shapes."""
    x0, y0, x1, y1 = _reach(tuple(strokes))
    region = shapely.box(x0 - 1, y0 - 1, x1 + 1, y1 + 1).difference(shapely.union_all(masks))
    pieces = Strings([s.curve for s in strokes], NEAR).within(region)
    return [replace(strokes[k], curve=c) for k, c in pieces if c is strokes[k].curve or c.length() >= LEAST]


def crossings_broken(
    elements: Sequence[Element], wanted: Mapping[str, str], display_cache: DisplayCache
) -> list[Element]:
    """Elements, with the extension lines of those sizes broken that are ``wanted`` so, by id: where they cross the arrowheads of
    others of the view (``arrows``), or their dimension lines as well (``lines``)."""
    sizes = [(k, e) for k, e in enumerate(elements) if e.record is not None]
    found = list(elements)
    if not wanted:
        return found
    heads = {e.id: [shapely.Polygon(m.rings[0] + e.at) for m in e.marks if isinstance(m, Region)] for _, e in sizes}
    lines = {e.id: [_path(s, e.at) for s in e.marks if isinstance(s, Stroke) and _is_line(s, e)] for _, e in sizes}
    for k, e in sizes:
        how = wanted.get(e.id, "whole")
        others = [o for _, o in sizes if o.id != e.id and o.group == e.group]
        masks = [h.buffer(BESIDE) for o in others for h in heads[o.id]] if how != "whole" else []
        if how == "lines":
            masks += [p.buffer(BESIDE, cap_style="flat") for o in others for p in lines[o.id]]
        own = [m for m in e.marks if isinstance(m, Stroke) and not _is_line(m, e)]
        met = [m for m in masks if any(m.intersects(_path(s, e.at)) for s in own)]
        if met:
            found[k] = _broken(e, met, display_cache)
    return found


def _broken(element: Element, masks: Sequence[Any], display_cache: DisplayCache) -> Element:
    """A size with its extension lines outside shapes (sheet mm)."""
    there = [shapely.transform(m, lambda p: np.round(p - element.at, 3)) for m in masks]
    key = key_of("broken", element.key, [m.wkt for m in there])

    def made() -> Element:
        lines = [m for m in element.marks if isinstance(m, Stroke) and not _is_line(m, element)]
        kept = [m for m in element.marks if not any(m is own for own in lines)]
        return replace(element, key=key, marks=(*kept, *_outside(lines, there)), at=(0.0, 0.0))

    return display_cache.get(key, made).placed(element.at)


def _path(stroke: Stroke, at: tuple[float, float]) -> Any:
    return shapely.LineString(stroke.curve.points(0.05) + at)


def _is_line(stroke: Stroke, element: Element) -> bool:
    """Whether a stroke of a size is no extension line of it, but its dimension line or what belongs to that."""
    if stroke.curve.kind != "line" or element.record is None:
        return True
    points = stroke.curve.points(0.05)
    record = element.record
    if record.form == "angular":
        return False
    if record.form != "linear":
        return True
    turn = np.radians(record.angle)
    across = np.array([-np.sin(turn), np.cos(turn)])
    return bool(np.abs((points - record.points["line"]) @ across).max() < 0.05)
