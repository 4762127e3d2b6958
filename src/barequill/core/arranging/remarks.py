"""What a checker would mark on a sheet as it is drawn."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import shapely

from ..display import DisplayList, Region, Stroke, Text
from ..drawing.annotations import declared
from ..drawing.cutting import tie_of
from ..views.cutting_lines import tie_point
from ..views.placed_view import PlacedView
from .clashes import Held, over_others

SMALL = 1.75
"""mm of lettering below which nobody reads it."""


@dataclass(frozen=True)
class Remark:
    """Something to look at: the element that it is about, and what is wrong with it; ``lies`` where it lies on something and
    *Make room* puts it elsewhere."""

    on: str
    words: str
    lies: bool = False


def remarks_on(ink: DisplayList, placed_views: Mapping[str, PlacedView]) -> list[Remark]:
    """What has come loose, rings of details that lie on sizes of their view, and sizes that stand over other views."""
    found = []
    for e in (e for e in ink.elements if e.loose):
        what = declared(e.kind).counts_as
        if e.words.startswith("loose ") and declared(e.kind).lettered:
            found.append(Remark(e.id, f"The {what} {e.words.removeprefix('loose ')} is loose: what it hung on is gone"))
        elif declared(e.kind).lettered:
            why = (
                "is loose: what it hung on is gone" if e.words == "? Loose" else f"cannot be had: {e.words[2:].lower()}"
            )
            found.append(Remark(e.id, f"A {what} {why}"))
        else:
            found.append(Remark(e.id, f"A {e.words.removeprefix('loose ')} is loose: what it hung on is gone"))
    for e in ink.elements:
        for text in (m for m in e.marks if isinstance(m, Text)):
            if "[U+" in text.text:
                found.append(
                    Remark(e.id, f"“{text.text[:40]}” has a sign that no lettering has: its number stands for it")
                )
            if e.kind == "sheet" and text.height < SMALL:
                found.append(
                    Remark(e.id, f"“{text.text[:40]}” is too long for its cell: it is {text.height:.1f} mm high")
                )
    for p in placed_views.values():
        for held in p.view.lined:
            other = placed_views.get(held.other)
            places = ((p, held.ref, held.at), (other, held.other_ref, held.other_at))
            if any(o is None or _is_gone(o, ref, at) for o, ref, at in places):
                found.append(Remark(p.view.id, "A view is no longer held in line: what it was lined up by is gone"))
        flat = getattr(p.view, "flat", None)
        if flat is not None and p.projected.scene.part == p.view.part:
            found.append(Remark(p.view.id, "A flat pattern shows the part as it is: it is no bent sheet any more"))
    found += [Remark(e.id, f"{e.words} stands over another view") for e in over_others(ink, placed_views)]
    for ring in (e for e in ink.elements if e.kind == "ring"):
        line = _shape(Held(ring))
        for size in (e for e in ink.elements if declared(e.kind).counts_as == "size" and e.group == ring.group):
            if line[0] is not None and shapely.intersects(line[0], _shape(Held(size))[1]):
                found.append(Remark(ring.id, f"{ring.words} lies on the size {size.words}"))
    return found


def _is_gone(placed_view: PlacedView, ref: str, at: str) -> bool:
    """Whether a place of a view is not there any more."""
    tie = tie_of(ref, at)
    return tie is None or tie_point(placed_view.projected.whole, tie) is None


@lru_cache(maxsize=2000)
def _shape(held: Held) -> tuple[Any, Any]:
    """The first line of an element, and all that it covers, on the sheet."""
    marks = held.element.on_sheet()
    strokes = [shapely.LineString(m.curve.points(0.02)) for m in marks if isinstance(m, Stroke)]
    filled = [shapely.Polygon(m.rings[0]) for m in marks if isinstance(m, Region)]
    written = [shapely.Polygon(m.corners()) for m in marks if isinstance(m, Text)]
    return (strokes or [None])[0], shapely.union_all([*strokes, *filled, *written])
