"""What lies on what: lettering, lines and arrows of a sheet, and where they meet that should not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..display import DisplayList, Element, Mark, Region, Sketch, Stroke, Text, box_of
from ..drawing.annotations import declared
from ..kinds.common.solving import Array, Solved
from ..standards.lines import LineGroup
from ..standards.sheets import Rectangle
from ..views.placed_view import PlacedView

SHRUNK = 0.25
"""mm by which lettering may be touched."""


def standing_clear(ink: DisplayList) -> list[Element]:
    """The elements of a sheet that others are to stay clear of: all but the frame and what lies under the lines."""
    return [e for e in ink.elements if e.kind not in ("sheet", "hatch")]


@dataclass
class Shapes:
    """What annotations cover on the sheet, as geometries."""

    texts: list[Any] = field(default_factory=list)
    lines: list[Any] = field(default_factory=list)
    arrows: list[Any] = field(default_factory=list)

    def add(self, other: Shapes) -> None:
        """Add those of another."""
        self.texts += other.texts
        self.lines += other.lines
        self.arrows += other.arrows


def shapes_of(marks: Iterable[Mark], by: Array | None = None) -> Shapes:
    """The geometries of marks, moved."""
    texts, lines, arrows = [], [], []
    for m in marks:
        if isinstance(m, Text):
            texts.append(_within(m.corners()))
        elif isinstance(m, Stroke):
            lines.append(m.curve.points(0.05))
        elif isinstance(m, Region):
            arrows.append(m.rings[0])
    off = np.zeros(2) if by is None else by
    return Shapes(
        *(
            _built(parts, off, make)
            for parts, make in ((texts, _polygons), (lines, shapely.linestrings), (arrows, _polygons))
        )
    )


def moved(shapes: list[Any], by: Array) -> NDArray[np.object_]:
    """Geometries (n,) moved by each of some ways (k, 2), (k, n)."""
    every = np.tile(np.array(shapes, object), (len(by), 1))
    ways = np.repeat(by, shapely.get_num_coordinates(every).sum(axis=1), axis=0)
    found: NDArray[np.object_] = shapely.transform(every, lambda p: p + ways) if shapes else every
    return found


def _built(parts: list[Array], off: Array, make: Any) -> list[Any]:
    """Geometries of points (m, 2) each, moved; all at once: made one by one, most of the time goes into the calls."""
    if not parts:
        return []
    places = np.concatenate(parts) + off
    return list(make(places, indices=np.repeat(np.arange(len(parts)), [len(p) for p in parts])))


def _polygons(places: Array, indices: Array) -> Any:
    return shapely.polygons(shapely.linearrings(places, indices=indices))


def _within(corners: Array) -> Array:
    """The corners of lettering, drawn in a little."""
    middle = corners.mean(axis=0)
    u, v = corners[1] - corners[0], corners[3] - corners[0]
    wide, high = max(float(np.linalg.norm(u)), 1e-9), max(float(np.linalg.norm(v)), 1e-9)
    a, b = max(1 - 2 * SHRUNK / wide, 0.1), max(1 - 2 * SHRUNK / high, 0.1)
    rel = corners - middle
    along = np.outer(rel @ u / wide, u / wide) * a + np.outer(rel @ v / high, v / high) * b
    found: Array = middle + along
    return found


def drawn(solved: Solved, lines: LineGroup, at: Array | Sequence[float]) -> Shapes:
    """What a solved annotation covers, its zero at a place."""
    sketch = Sketch(lines)
    solved.draw(sketch)
    return shapes_of(sketch.marks, np.array(at, float))


def hull_shape(placed_view: PlacedView) -> Any:
    """What a view takes up on the sheet, as a geometry."""
    return shapely.MultiPoint(placed_view.hull).convex_hull


def others_of(placed_views: Mapping[str, PlacedView]) -> dict[str, Any]:
    """For each view what the others take up on the sheet that stand clear of it, as one geometry."""
    hulls = {k: hull_shape(p) for k, p in placed_views.items()}
    return {
        k: shapely.union_all([other for other in hulls.values() if not other.intersects(own)])
        for k, own in hulls.items()
    }


@dataclass(frozen=True)
class Held:
    """An element, alike to another with the same ink in the same place."""

    element: Element

    def __hash__(self) -> int:
        return hash((self.element.key, self.element.at))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Held) and self.element.like(other.element)


@lru_cache(maxsize=2000)
def _standing(held: Held) -> NDArray[np.object_]:
    """The lettering and arrows of an element on the sheet, as geometries."""
    shapes = shapes_of((m for m in held.element.marks if not isinstance(m, Stroke)), np.array(held.element.at))
    return np.array([*shapes.texts, *shapes.arrows], object)


@lru_cache(maxsize=2000)
def standing_box(held: Held) -> Rectangle | None:
    """The box of an element on the sheet; None where it has no ink."""
    return box_of(held.element.on_sheet())


def over_others(ink: DisplayList, placed_views: Mapping[str, PlacedView]) -> list[Element]:
    """Sizes and notes whose lettering or arrows stand over a view to which they do not belong."""
    sizes = [e for e in ink.elements if declared(e.kind).lettered]
    others = others_of(placed_views) if sizes else {}
    return [e for e in sizes if e.group in others and shapely.intersects(others[e.group], _standing(Held(e))).any()]


def clashes(ink: DisplayList) -> Counter[str]:
    """How often on a sheet lettering of sizes lies on other lettering (``text on text``) or on lines (``text on line``), and
    arrows on arrows of others (``arrow on arrow``)."""
    own: list[tuple[str, Shapes, bool]] = []
    for e in standing_clear(ink):
        own.append((e.id, shapes_of(e.marks, np.array(e.at)), declared(e.kind).lettered))
    texts = [(k, t) for k, (_, s, _) in enumerate(own) for t in s.texts]
    lines = [(k, g) for k, (_, s, _) in enumerate(own) for g in s.lines]
    arrows = [(k, g) for k, (_, s, size) in enumerate(own) for g in s.arrows if size]
    found: Counter[str] = Counter()

    def meet(a: list[tuple[int, Any]], b: list[tuple[int, Any]], name: str, twice: bool) -> None:
        if not a or not b:
            return
        tree = shapely.STRtree([g for _, g in b])
        rows, others = tree.query([g for _, g in a], predicate="intersects")
        pairs = {
            tuple(sorted((i, j))) if twice else (i, j)
            for i, j in zip(rows.tolist(), others.tolist(), strict=True)
            if a[i][0] != b[j][0] and (own[a[i][0]][2] or own[b[j][0]][2])
        }
        found[name] += len(pairs)

    meet(texts, texts, "text on text", True)
    meet([t for t in texts if own[t[0]][2]], lines, "text on line", False)
    meet(arrows, arrows, "arrow on arrow", True)
    return found
