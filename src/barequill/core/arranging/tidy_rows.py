"""Dimensions of one side of a view in rows: the shortest nearest, sets together, figures and lettering clear of each other."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..display import Sketch
from ..drawing import Dimension
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.dimension import Extension, Place
from ..drawing.annotations.hung import AnyHung
from ..kinds import placer, solve
from ..kinds.common.linear import SolvedLinear, SolvedRunning, extensions_of
from ..kinds.common.solving import Array, Solved
from ..measuring.context import LayoutContext
from ..measuring.measuring import Linear, forward, normal_of
from ..measuring.sets import STACKED
from ..values import value
from .clashes import Shapes, drawn, shapes_of
from .obstacles import TOUCH, Obstacles

AIR = 2.0
"""mm between two dimensions in one row."""
SHIFTS = [0.0, 8.0, -8.0, 14.0, -14.0, 22.0, -22.0, 32.0, -32.0]
"""mm by which lettering is moved along its line, where something lies on it."""
LENGTHS = 3.0
"""Of its own lengths how far beyond its extension lines the text of a dimension may stand."""
FREE = 2.0
"""mm beside a dimension line in which nothing of its row nor of the next one stands."""
FIGURES = 0.8
"""mm between the figures of running dimensions."""
OUT_OF_LINE = ((5.0, 8.0), (8.0, 14.0), (14.0, 8.0), (14.0, 20.0))
"""mm to the side and across at which lettering stands out of its line."""
LED = 1.0
"""What a leader costs beside what else lies under lettering."""
OVER = 4.0
"""What it costs where a size stands over a view to which it does not belong."""
Rows = dict[tuple[int, int], list[tuple[Dimension, Linear]]]
"""Dimensions that run alike, by the direction of their normal."""


def key_of(n: Array) -> tuple[int, int]:
    return round(n[0] * 1000), round(n[1] * 1000)


@value
class Member:
    """A dimension in a row: where it reaches along the row, how long it is, what it is in the set with, and how far what is stacked
    under it reaches from its line towards the view (``inner``) and away from it (``outer``)."""

    own: Dimension
    low: float
    high: float
    length: float
    deep: float
    set_: str
    inner: float = 0.0
    outer: float = 0.0


@dataclass
class Table:
    """A view at which annotations are set down: its layout context, where its zero is on the sheet, and what solves each of them."""

    context: LayoutContext
    at: Array
    others: Any
    """What other views take up on the sheet, as a geometry."""
    _placers: dict[str, Callable[[Any], Solved]] = field(default_factory=dict)
    _members: dict[tuple[str, int], Member] = field(default_factory=dict)
    aligned: dict[tuple[int, int, int], float] = field(default_factory=dict)
    """By the direction of their normal and their side, how much further out the first row stands than by the view alone, so
    that it is in one line with that of another view."""

    stacked: dict[str, list[AnyHung]] = field(default_factory=dict)
    """What is stacked under annotations, by the id of that under which all of it stands."""

    def over(self, shapes: Shapes) -> float:
        """What it costs that lettering or arrows stand over other views."""
        return float(self.over_each(np.array([[*shapes.texts, *shapes.arrows]], object))[0])

    def over_each(self, marks: NDArray[np.object_]) -> Array:
        """The same of lettering and arrows (k, n) of each of some places, (k,)."""
        found: Array = OVER * shapely.intersects(self.others, marks).any(axis=1)
        return found

    def first_row(self, own: Dimension, found: Linear) -> float:
        """How far from the view the first row of those like a dimension stands, sheet mm."""
        n = normal_of(self.context.view.transform.direction(found.along))
        return self.context.style.first_row + self.aligned.get((*key_of(n), own.place.side), 0.0)

    def member(self, own: Dimension, found: Linear) -> Member:
        """A dimension as one of a row, wherever that is on its side."""
        known = self._members.get((own.id, own.place.side))
        if known is None:
            known = self._members[own.id, own.place.side] = self._measured(own, found)
        return replace(known, own=own)

    def _measured(self, own: Dimension, found: Linear) -> Member:
        context = self.context
        plain = own.model_copy(update={"place": own.place.model_copy(update={"along": 0.0})})
        solved = self.put(plain)
        # one way for all that run alike, whichever end is their first
        u = forward(context.view.transform.direction(found.along))
        n = normal_of(u)
        points = solved.occupies()
        along, deep = points @ u, float(np.ptp(_text_of(solved, context) @ n))
        running = own.row is not None and own.row.form == "running"
        feet = np.concatenate([context.view.transform.to_sheet(p)[:1] for p in (found.first, found.second)]) @ u
        low, high = (feet.min(), feet.max()) if running else (along.min(), along.max())
        name = own.row.id if own.row is not None and own.row.form not in STACKED else ""
        member = Member(own, float(low), float(high), float(np.ptp(feet)), deep, name)
        if own.id not in self.stacked or not isinstance(solved, SolvedLinear):
            return member
        riders = self.riders(plain)
        parts = [*riders.texts, *riders.lines, *riders.arrows]
        if not parts:
            return member
        x0, y0, x1, y1 = shapely.total_bounds(np.array(parts, object))
        corners = np.array([[x, y] for x in (x0, x1) for y in (y0, y1)]) - self.at
        side = 1.0 if float((solved.feet - solved.starts).sum(axis=0) @ n) >= 0 else -1.0
        out = side * ((corners - solved.feet[0]) @ n)
        spread = corners @ u
        return replace(
            member,
            low=float(min(low, spread.min())),
            high=float(max(high, spread.max())),
            inner=max(0.0, -float(out.min())),
            outer=max(0.0, float(out.max())),
        )

    def put(self, own: AnyAnnotation) -> Solved:
        """An annotation where it is set down; measured and worded once."""
        if own.id not in self._placers:
            self._placers[own.id] = placer(own, self.context)
        return self._placers[own.id](own)

    def shapes(self, own: AnyAnnotation) -> Shapes:
        """What it covers on the sheet, with all that is stacked under it."""
        found = drawn(self.put(own), self.context.style.lines, self.at)
        found.add(self.riders(own))
        return found

    def riders(self, own: AnyAnnotation, shift: tuple[float, float] = (0.0, 0.0)) -> Shapes:
        """What all covers that is stacked under it, moved by so much along and across it."""
        signs = self.stacked.get(own.id)
        if not signs:
            return Shapes()
        tried: dict[str, AnyAnnotation] = {own.id: own}
        for sign in signs:
            if sign.on == own.id and not sign.pinned:
                x, y = sign.shift
                tried[sign.id] = sign.model_copy(update={"shift": (x + shift[0], min(0.0, y + shift[1]))})
        context = replace(self.context, instead=tried)
        sketch = Sketch(context.style.lines)
        for sign in signs:
            solve(tried.get(sign.id, sign), context).draw(sketch)
        return shapes_of(sketch.marks, self.at)


def in_rows(
    table: Table, group: list[tuple[Dimension, Linear]], obstacles: Obstacles, lift: int
) -> tuple[list[Dimension], float]:
    """Dimensions of one side of a view in rows, so many further out than need be: the shortest nearest, sets together, none
    through the lettering of another; and what it costs where they stand."""
    context = table.context
    style = context.style
    made: list[Dimension] = []
    put: list[Dimension] = []
    total = 0.0
    before = {own.id: own.place for own, _ in group}
    members = [table.member(own, found) for own, found in group]
    levels = _levels(members)
    offset = (table.first_row(*group[0]) if group else style.first_row) + lift * style.row
    for level in range(max(levels.values(), default=-1) + 1):
        here = [m for m in members if levels[m.own.id] == level]
        deepest = max((m.deep for m in here), default=style.lettering)
        if (
            level
            and deepest > style.lettering * 1.5
            and not any(m.own.row and m.own.row.form == "running" for m in here)
        ):
            offset += deepest - style.lettering
        free = FREE if level else style.first_row - FREE
        offset += max(0.0, *(m.inner - free for m in here)) if here else 0.0
        for m in here:
            place = m.own.place.model_copy(update={"offset": round(offset, 2), "along": 0.0, "aside": (0.0, 0.0)})
            put.append(m.own.model_copy(update={"place": place}))
        depths = [m.deep for m in here if m.own.row and m.own.row.form == "running"]
        offset += max(style.row, max(depths) + style.overrun + 3.0 if depths else 0.0)
        offset += max(0.0, *(m.outer - FREE for m in here)) if here else 0.0
    put = figures_apart(table, put, {own.id: found for own, found in group})
    solved = [table.put(d) for d in put]
    shapes = [table.shapes(d) for d in put]
    # the extension lines of outer rows pass by the lettering of inner ones
    for each in shapes:
        obstacles.add(Shapes(lines=each.lines))
    for d, own, each in zip(put, solved, shapes, strict=True):
        new, cost = _shifted(table, d, own, each, obstacles, before[d.id])
        there = table.shapes(new) if new is not d else Shapes(each.texts, [], each.arrows)
        obstacles.add(there)
        made.append(new)
        total += cost + table.over(there)
    return made, total


def figures_apart(table: Table, put: list[Dimension], found: dict[str, Linear]) -> list[Dimension]:
    """Running dimensions with the extension lines of those jogged whose figures would stand on each other."""
    transform = table.context.view.transform
    sets: dict[str, list[Dimension]] = {}
    for d in put:
        if d.row is not None and d.row.form == "running":
            sets.setdefault(d.row.id, []).append(d)
    jogged: dict[str, Dimension] = {}
    for members in sets.values():
        u = forward(transform.direction(found[members[0].id].along))
        zero = float((transform.to_sheet(found[members[0].id].first[:1]) @ u)[0])
        feet = {d.id: float((transform.to_sheet(found[d.id].second[:1]) @ u)[0]) - zero for d in members}
        for sense in (1.0, -1.0):
            own = sorted((d for d in members if feet[d.id] * sense > 0), key=lambda d: feet[d.id] * sense)
            gap = max((_thick(table.put(d), u) for d in own), default=0.0) + FIGURES
            wanted = spaced([feet[d.id] * sense for d in own], gap, gap)
            for d, at in zip(own, wanted, strict=True):
                first, second = extensions_of(d)
                jog = round(sense * at - feet[d.id], 2)
                if jog != second.jog:
                    second = second.model_copy(update={"jog": jog})
                    plain = first == Extension() and second == Extension()
                    jogged[d.id] = d.model_copy(update={"extensions": [] if plain else [first, second]})
    return [jogged.get(d.id, d) for d in put]


def _thick(solved: Solved, u: Array) -> float:
    return float(np.ptp(solved.run.corners() @ u)) if isinstance(solved, SolvedRunning) else 0.0


def spaced(places: list[float], gap: float, low: float) -> list[float]:
    """Ordered places moved as little as can be (least squares) so that each is ``gap`` beyond the last, the first not below
    ``low``."""
    blocks: list[tuple[float, int]] = []
    for k, p in enumerate(places):
        mean, count = p - k * gap, 1
        while blocks and blocks[-1][0] > mean:
            before, n = blocks.pop()
            mean, count = (before * n + mean * count) / (n + count), n + count
        blocks.append((mean, count))
    level = [max(mean, low) for mean, count in blocks for _ in range(count)]
    return [x + k * gap for k, x in enumerate(level)]


def _text_of(solved: Solved, context: LayoutContext) -> Array:
    if isinstance(solved, SolvedLinear | SolvedRunning):
        return solved.run.corners()
    shapes = drawn(solved, context.style.lines, (0.0, 0.0))
    return np.concatenate([shapely.get_coordinates(t) for t in shapes.texts]) if shapes.texts else np.zeros((1, 2))


def _levels(members: list[Member]) -> dict[str, int]:
    """The row of each dimension: a set shares one; longer ones go beyond the shorter ones that they span."""
    sets: dict[str, list[Member]] = {}
    for k, m in enumerate(members):
        sets.setdefault(m.set_ or f"#{k}", []).append(m)

    def rank(group: list[Member]) -> tuple[bool, float]:
        running = any(m.own.row is not None and m.own.row.form == "running" for m in group)
        return running, max(m.length for m in group) if len(group) == 1 else min(m.length for m in group)

    taken: list[list[tuple[float, float]]] = []
    found: dict[str, int] = {}
    for group in sorted(sets.values(), key=rank):
        spans = [(m.low, m.high) for m in group]
        level = 0
        for k, row in enumerate(taken):
            # never under what it spans, nor beside what it would run into
            if any(a < d - 1e-6 and c < b - 1e-6 for a, b in spans for c, d in row):
                level = k + 1
        while level < len(taken) and any(a - AIR < d and c < b + AIR for a, b in spans for c, d in taken[level]):
            level += 1
        while len(taken) <= level:
            taken.append([])
        taken[level] += spans
        found |= {m.own.id: level for m in group}
    return found


def farthest(solved: SolvedLinear) -> float:
    """mm along its line, from the middle, at which the text of a dimension may stand at the farthest: three of its own lengths
    beyond its extension lines."""
    room = float(np.linalg.norm(solved.feet[1] - solved.feet[0]))
    return room / 2 + LENGTHS * solved.run.text.width


def _shifted(
    table: Table, own: Dimension, solved: Solved, shapes: Shapes, obstacles: Obstacles, was: Place
) -> tuple[Dimension, float]:
    """A dimension with its lettering moved along its line, or out of it at the end of a short leader, where something lies on it;
    and what it costs there."""
    best, least = own, obstacles.cost(shapes)
    if least < TOUCH or (own.row is not None and own.row.form == "running"):
        return best, least
    shifts = np.array([*([was.along] if was.along else []), *SHIFTS[1:]])
    if isinstance(solved, SolvedLinear):
        shifts = shifts[np.abs(shifts) <= farthest(solved)]
        # only where its lettering stands better, or its lines may, the rest is asked for
        now = float(obstacles.lettering(shapes.texts).sum()) + obstacles.struck(shapes.lines)
        ways = np.outer(shifts - solved.shift, solved.along)
        there = [shapely.transform(t, lambda p, by=by: p + by) for by in ways for t in shapes.texts]
        each = obstacles.lettering(there).reshape(len(shifts), len(shapes.texts))
        costs = each.sum(axis=1) + 0.05 * np.abs(shifts)
        shifts = shifts[np.argsort(costs, kind="stable")][: int((costs < now).sum())]
    for shift in shifts.tolist():
        new = own.model_copy(update={"place": own.place.model_copy(update={"along": shift})})
        cost = obstacles.cost(table.shapes(new)) + abs(shift) * 0.05
        if cost < least - 1e-9:
            best, least = new, cost
        if least < TOUCH:
            return best, least
    if not isinstance(solved, SolvedLinear):
        return best, least
    asides = [*([was.aside] if was.aside != (0.0, 0.0) else []), *_asides(solved)]
    for aside in asides:
        new = own.model_copy(update={"place": own.place.model_copy(update={"aside": aside})})
        cost = obstacles.cost(table.shapes(new)) + LED
        if cost < least - 1e-9:
            best, least = new, cost
        if least < LED + TOUCH:
            break
    return best, least


def _asides(solved: SolvedLinear) -> list[tuple[float, float]]:
    """Places (mm to the right and up of its line) for the text of a dimension at the end of a leader, the nearest first: none
    farther than three of its lengths."""
    wide, most = solved.run.text.width, LENGTHS * solved.run.text.width
    found = [(sx * (wide / 2 + dx), sy * dy) for dx, dy in OUT_OF_LINE for sx in (1, -1) for sy in (1, -1)]
    return [(round(x, 2), y) for x, y in found if np.hypot(x, y) <= most]
