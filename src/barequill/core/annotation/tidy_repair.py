"""What is left over when all rows are set down: single dimensions that lie on something go to where they do not."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from ..drawing import Dimension
from ..drawing.annotations import AnyAnnotation
from .clashes import Shapes
from .ground import TOUCH, Ground
from .rows import STACKED
from .tidy_rows import OVER, Table

ROUNDS = 2
OUT = 9
"""Rows further out that are tried."""
LIGHT = 0.3
"""How much less crossed lines weigh here than where rows are set down."""
ALONG = (0.0, 9.0, -9.0, 18.0, -18.0)
"""mm by which lettering is moved along its line."""


def repaired(tables: dict[str, Table], placed: dict[str, AnyAnnotation], fixed: Ground) -> dict[str, AnyAnnotation]:
    """Annotations by id with those moved whose lettering or arrows lie on others, or over another view; ``fixed`` is what stays."""
    found = dict(placed)
    shapes = {k: tables[a.on].shapes(a) for k, a in found.items()}
    for _ in range(ROUNDS):
        over = [k for k, a in found.items() if tables[a.on].over(shapes[k])]
        clashing = [k for k in dict.fromkeys([*_clashing(shapes, fixed), *over]) if _may_move(found[k])]
        for k in clashing:
            ground = fixed.copy()
            for other, theirs in shapes.items():
                if other != k:
                    ground.add(theirs)
            own = found[k]
            now = ground.cost(shapes[k]) + tables[own.on].over(shapes[k])
            if now < min(TOUCH / 2, OVER):
                continue
            assert isinstance(own, Dimension)
            best = _elsewhere(tables[own.on], own, ground, now + LIGHT * ground.crossings(shapes[k]))
            if best is not None:
                found[k], shapes[k] = best, tables[own.on].shapes(best)
        if not clashing:
            break
    return found


def _may_move(own: AnyAnnotation) -> bool:
    """True for a line beside its view that shares it with no other."""
    if not isinstance(own, Dimension) or own.pinned or own.place.frame != "outline":
        return False
    return own.measure in ("length", "distance", "diameter", "chord") and (own.row is None or own.row.form in STACKED)


def _elsewhere(table: Table, own: Dimension, ground: Ground, now: float) -> Dimension | None:
    """The place beside its view where a dimension stands best; None where none is better than ``now``."""
    style, best, least = table.stage.style, None, now - TOUCH / 4
    for side in (own.place.side, -own.place.side):
        for row in range(OUT):
            for along in ALONG:
                offset = style.first_row + row * style.row
                more = {"side": side, "offset": offset, "along": along}
                new = own.model_copy(update={"place": own.place.model_copy(update=more)})
                cost = 0.2 * row + 0.02 * abs(along) + (0.0 if side == own.place.side else 0.8)
                if cost >= least:
                    break
                shapes = table.shapes(new)
                cost += ground.cost(shapes) + table.over(shapes)
                if cost < least:
                    cost += LIGHT * ground.crossings(shapes)
                if cost < least:
                    best, least = new, cost
    return best


def _clashing(shapes: dict[str, Shapes], fixed: Ground) -> list[str]:
    """Whose lettering lies on anything, or whose arrows lie on others', in their order."""
    ids = list(shapes)
    texts, of_text = _each(shapes, "texts")
    lines, of_line = _each(shapes, "lines")
    arrows, of_arrow = _each(shapes, "arrows")
    found: set[int] = set()
    for own, of_own, other, of_other in (
        (texts, of_text, texts, of_text),
        (texts, of_text, lines, of_line),
        (lines, of_line, texts, of_text),
        (arrows, of_arrow, arrows, of_arrow),
    ):
        if len(own) and len(other):
            a, b = shapely.STRtree(other).query(own, predicate="intersects")
            apart = of_own[a] != of_other[b]
            found |= set(of_own[a[apart]].tolist())
    for own, of_own, there in (
        (texts, of_text, fixed.texts),
        (texts, of_text, fixed.lines),
        (lines, of_line, fixed.texts),
    ):
        if len(own) and there:
            a, _ = shapely.STRtree(there).query(own, predicate="intersects")
            found |= set(of_own[a].tolist())
    return [ids[k] for k in sorted(found)]


def _each(shapes: dict[str, Shapes], what: str) -> tuple[Any, Any]:
    every: list[Any] = []
    owner: list[int] = []
    for k, each in enumerate(shapes.values()):
        own = getattr(each, what)
        every += own
        owner += [k] * len(own)
    return np.array(every, object), np.array(owner, int)
