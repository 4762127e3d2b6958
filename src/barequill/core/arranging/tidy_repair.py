"""What is left over when all rows are set down: single dimensions that lie on something go to where they do not."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
import shapely

from ..drawing import Dimension
from ..drawing.annotations import AnyAnnotation
from ..kinds.common.linear import SolvedLinear
from ..measuring.measuring import normal_of
from ..measuring.sets import STACKED
from .clashes import Shapes, drawn, moved
from .obstacles import TOUCH, Obstacles
from .tidy_leaders import led
from .tidy_rows import OVER, Table, farthest

Side = Literal[-1, 1]

ROUNDS = 2
OUT = 9
"""Rows further out that are tried."""
BEST = 10
"""Places that are looked at closely."""
LIGHT = 0.3
"""How much less crossed lines weigh here than where rows are set down."""
SLIDES = (0.0, 6.0, -6.0, 12.0, -12.0, 20.0, -20.0, 30.0, -30.0)
ACROSS = (0.0, -4.0, -8.0, -14.0, -20.0)
"""mm by which what is stacked is moved along and away from what it is stacked under."""
ALONG = (0.0, 9.0, -9.0, 18.0, -18.0)
"""mm by which lettering is moved along its line."""


def repaired(
    tables: dict[str, Table], placed: dict[str, AnyAnnotation], fixed: Obstacles, leaders: set[str]
) -> dict[str, AnyAnnotation]:
    """Annotations by id (``leaders`` among them) with those moved whose lettering or arrows lie on others, or over another
    view; ``fixed`` is what stays."""
    found = dict(placed)
    shapes = {k: tables[a.on].shapes(a) for k, a in found.items()}
    for _ in range(ROUNDS):
        over = [k for k, a in found.items() if tables[a.on].over(shapes[k])]
        clashing = list(dict.fromkeys([*_clashing(shapes, fixed), *over]))
        for k in clashing:
            obstacles = fixed.copy()
            for other, theirs in shapes.items():
                if other != k:
                    obstacles.add(theirs)
            own = found[k]
            now = obstacles.cost(shapes[k]) + tables[own.on].over(shapes[k])
            if now < min(TOUCH / 2, OVER):
                continue
            best = _better(tables[own.on], own, obstacles, now, shapes[k], k in leaders)
            if best is not None:
                found[k], shapes[k] = best, tables[own.on].shapes(best)
        if not clashing:
            break
    return found


def restacked(
    tables: dict[str, Table], placed: dict[str, AnyAnnotation], fixed: Obstacles
) -> dict[str, tuple[float, float]]:
    """What is stacked under annotations moved off from under them, where it lies on something: by the id of each carrier how far along
    its lettering and across (sheet mm)."""
    found: dict[str, tuple[float, float]] = {}
    own = {k: drawn(tables[a.on].put(a), tables[a.on].context.style.lines, tables[a.on].at) for k, a in placed.items()}
    riders = {k: tables[a.on].riders(a) for k, a in placed.items() if k in tables[a.on].stacked}
    for k, shapes in riders.items():
        carrier, table = placed[k], tables[placed[k].on]
        obstacles = fixed.copy()
        for other, theirs in own.items():
            obstacles.add(theirs)
            if other != k and other in riders:
                obstacles.add(riders[other])
        now = obstacles.cost(shapes) + table.over(shapes)
        if now < TOUCH / 2:
            continue
        best, least = (0.0, 0.0), now - TOUCH / 4
        for across in ACROSS:
            for along in SLIDES:
                there = table.riders(carrier, (along, across))
                cost = 0.03 * (abs(along) + abs(across)) + table.over(there)
                if cost < least:
                    cost += obstacles.cost(there)
                if cost < least:
                    best, least = (along, across), cost
        if best != (0.0, 0.0):
            found[k] = best
            riders[k] = table.riders(carrier, best)
    return found


def _better(
    table: Table, own: AnyAnnotation, obstacles: Obstacles, now: float, shapes: Shapes, leads: bool
) -> AnyAnnotation | None:
    """Where an annotation stands better than where it is, at the cost of ``now``."""
    if isinstance(own, Dimension) and _may_move(own):
        return _elsewhere(table, own, obstacles, now + LIGHT * obstacles.crossings(shapes))
    if leads:
        new = led(table, own, obstacles, closely=True)
        there = table.shapes(new)
        return new if obstacles.cost(there) + table.over(there) < now - TOUCH / 4 else None
    return None


def _may_move(own: AnyAnnotation) -> bool:
    """True for a line beside its view that shares it with no other."""
    if not isinstance(own, Dimension) or own.pinned or own.place.frame != "outline":
        return False
    return own.measure in ("length", "distance", "diameter", "chord") and (own.row is None or own.row.form in STACKED)


def _elsewhere(table: Table, own: Dimension, obstacles: Obstacles, now: float) -> Dimension | None:
    """The place beside its view where a dimension stands best; None where none is better than ``now``."""
    style, best, least = table.context.style, None, now - TOUCH / 4
    tries: list[tuple[float, Side, int, float]] = []
    other: Side = -1 if own.place.side == 1 else 1
    for side in (own.place.side, other):
        there = _at(own, side, style.first_row, 0.0)
        first = table.put(there)
        if not isinstance(first, SolvedLinear):
            return None
        shapes = table.shapes(there)
        rows, along = (x.ravel() for x in np.meshgrid(np.arange(OUT), ALONG, indexing="ij"))
        out = normal_of(first.along) * side
        by = rows[:, None] * style.row * out
        near = np.abs(along) <= farthest(first)
        rows, along, by = rows[near], along[near], by[near]
        texts = moved(shapes.texts, by + along[:, None] * first.along)
        marks = moved(shapes.arrows, by)
        costs = _far(own, side, rows, along)
        costs += obstacles.lettering(list(texts.ravel())).reshape(texts.shape).sum(axis=1)
        costs += obstacles.heading(list(marks.ravel())).reshape(marks.shape).sum(axis=1)
        costs += table.over_each(np.hstack([texts, marks]))
        tries += [(c, side, int(r), float(a)) for c, r, a in zip(costs, rows, along, strict=True)]
    # how it stands by its lettering and arrows tells where its lines are asked for too
    for cost, side, row, aside in sorted(tries, key=lambda t: t[0])[:BEST]:
        if cost >= least:
            break
        new = _at(own, side, style.first_row + row * style.row, aside)
        shapes = table.shapes(new)
        cost = float(_far(own, side, row, aside)) + obstacles.cost(shapes) + table.over(shapes)
        if cost < least:
            cost += LIGHT * obstacles.crossings(shapes)
        if cost < least:
            best, least = new, cost
    return best


def _far(own: Dimension, side: int, rows: Any, along: Any) -> Any:
    """What it costs to stand so many rows out, with the lettering so far (mm) along its line."""
    return 0.2 * rows + 0.02 * np.abs(along) + (0.0 if side == own.place.side else 0.8)


def _at(own: Dimension, side: int, offset: float, along: float) -> Dimension:
    more = {"side": side, "offset": offset, "along": along}
    return own.model_copy(update={"place": own.place.model_copy(update=more)})


def _clashing(shapes: dict[str, Shapes], fixed: Obstacles) -> list[str]:
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
