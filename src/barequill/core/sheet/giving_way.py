"""Thin lines that are interrupted where something is to be read: centre marks and lines give way to the lettering of sizes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from ..display import Element
from ..display.marks import Mark, Stroke, Text
from ..drawing.annotations import declared
from ..geometry.within import Strings
from .display_cache import DisplayCache, key_of

Array = NDArray[np.float64]
APART = 0.7
"""mm between lettering and the line that is interrupted for it."""
LEAST = 0.8
"""mm of a line that is worth to be drawn between two gaps."""
NEAR = 0.005


def given_way(elements: Sequence[Element], display_cache: DisplayCache) -> list[Element]:
    """Elements, the thin lines of each view interrupted where its lettering stands over them."""
    found = list(elements)
    lettered: dict[str, list[Array]] = {}
    for e in found:
        if declared(e.kind).lettered:
            lettered.setdefault(e.group, []).extend(m.corners() + e.at for m in e.marks if isinstance(m, Text))
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
            met = [b for b, o in zip(boxes, over[k].tolist(), strict=True) if o]
            found[row] = _interrupted(found[row], met, display_cache)
    return found


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
        x0, y0, x1, y1 = _reach(element.marks)
        masks = shapely.union_all([shapely.Polygon(o).buffer(APART, join_style="mitre") for o in outlines])
        region = shapely.box(x0 - 1, y0 - 1, x1 + 1, y1 + 1).difference(masks)
        pieces = Strings([s.curve for s in strokes], NEAR).within(region)
        kept: list[Mark] = [m for m in element.marks if not isinstance(m, Stroke)]
        kept += [replace(strokes[k], curve=c) for k, c in pieces if c is strokes[k].curve or c.length() >= LEAST]
        return replace(element, key=key, marks=tuple(kept), at=(0.0, 0.0))

    return display_cache.get(key, made).placed(element.at)
