"""Dimensions put in order: rows beside their views, the shortest next to it; leaders at good angles; nothing over lettering,
the frame or the title block. What a hand has pinned stays."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from ..drawing import Dimension, Drawing, Place, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.hole_note import HoleNote
from ..errors import Unmeasurable
from ..ink import Ink
from ..standards.sheets import drawing_space, title_block
from ..views.picture import Picture
from .clashes import Shapes, drawn, shapes_of
from .ground import CROSS, TOUCH, Ground
from .kinds import placer
from .linear import level_of, normal_of
from .measuring import Linear, measure
from .rows import STACKED
from .sheet_ink import stage_of
from .solving import Array, Solved, Stage

AIR = 2.0
"""mm between two dimensions in one row."""
ANGLES = [45, 30, 60, 135, 150, 120, -45, -30, -60, -135, -150, -120, 15, 75, 105, 165, -15, -75, -105, -165]
"""Degrees at which leaders are tried."""
LENGTHS = [12.0, 18.0, 26.0, 36.0, 50.0]
"""mm at which the ends of leaders are tried."""
SHIFTS = [0.0, 8.0, -8.0, 14.0, -14.0, 22.0, -22.0, 32.0, -32.0]
"""mm by which lettering is moved along its line, where something lies on it."""
MANY = 24
"""Dimensions that run alike from which on rows further out are not tried: where so many stand, there is no room there."""
LIFTS = 4
"""How many rows further out those of a view are tried, where others are in the way."""


@dataclass
class Table:
    """A view at which annotations are set down: its stage, where its zero is on the sheet, and what solves each of them."""

    stage: Stage
    at: Array
    _placers: dict[str, Callable[[Any], Solved]] = field(default_factory=dict)

    def put(self, own: AnyAnnotation) -> Solved:
        """An annotation where it is set down; measured and worded once."""
        if own.id not in self._placers:
            self._placers[own.id] = placer(own, self.stage)
        return self._placers[own.id](own)

    def shapes(self, own: AnyAnnotation) -> Shapes:
        """What it covers on the sheet."""
        return drawn(self.put(own), self.stage.style.lines, self.at)


@dataclass(frozen=True, eq=False)
class Member:
    """A dimension in a row: where it reaches along the row, how long it is, and what it is in the set with."""

    own: Dimension
    low: float
    high: float
    length: float
    deep: float
    set_: str


def tidied(
    drawing: Drawing, sheet: Sheet, pictures: dict[str, Picture], ink: Ink, views: list[str]
) -> list[AnyAnnotation]:
    """The dimensions and hole notes of some views (all where none are named), where they should stand; those alone that move.

    ``ink`` is the sheet as it is drawn now.
    """
    wanted = set(views or pictures)
    loose: list[AnyAnnotation] = [
        a for a in sheet.annotations if a.on in wanted and isinstance(a, Dimension | HoleNote) and not a.pinned
    ]
    names = {a.id for a in loose}
    r, t = drawing_space(sheet.size, sheet.landscape), title_block(sheet.size, sheet.landscape)
    space = shapely.box(r.x0, r.y0, r.x1, r.y1).difference(shapely.box(t.x0, t.y0, t.x1, t.y1).buffer(1.0))
    ground = Ground(space)
    for e in ink.elements:
        if e.id not in names and e.kind not in ("sheet", "hatch"):
            ground.add(shapes_of(e.on_sheet()))
    found: dict[str, AnyAnnotation] = {}
    for view in (v.id for v in sheet.views if v.id in wanted):
        table = Table(stage_of(drawing, sheet, pictures, view), np.array(pictures[view].chart.place, float))
        own = [a for a in loose if a.on == view]
        for new in _of_view(table, own, ground):
            found[new.id] = new
    before = {a.id: a for a in loose}
    return [a for a in found.values() if a != before[a.id]]


def _of_view(table: Table, own: list[AnyAnnotation], ground: Ground) -> Iterator[AnyAnnotation]:
    """The annotations of a view, one after another as they are set down."""
    rows, leaders, others = _sorted(table.stage, own)
    for group in rows.values():
        yield from _on_sides(table, group, ground)
    for a in others:
        ground.add(table.shapes(a))
        yield a
    for a in leaders:
        best = _led(table, a, ground)
        ground.add(table.shapes(best))
        yield best


def _sorted(
    stage: Stage, own: list[AnyAnnotation]
) -> tuple[dict[tuple[int, int], list[tuple[Dimension, Linear]]], list[AnyAnnotation], list[AnyAnnotation]]:
    """Annotations as rows beside the view (by the direction of their normal), as leaders, and others."""
    rows: dict[tuple[int, int], list[tuple[Dimension, Linear]]] = {}
    leaders: list[AnyAnnotation] = []
    others: list[AnyAnnotation] = []
    for a in own:
        if isinstance(a, HoleNote):
            leaders.append(a)
            continue
        assert isinstance(a, Dimension)
        try:
            found = measure(stage.view.shot, a)
        except Unmeasurable:
            others.append(a)
            continue
        if isinstance(found, Linear):
            n = normal_of(stage.view.chart.direction(found.along))
            a = _outside(stage, a, found, n)
            rows.setdefault((round(n[0] * 1000), round(n[1] * 1000)), []).append((a, found))
        elif a.measure in ("angle", "arc"):
            others.append(a)
        else:
            leaders.append(a)
    return rows, leaders, others


def _outside(stage: Stage, own: Dimension, found: Linear, n: Array) -> Dimension:
    """A dimension whose line is beside its view: one that stands over the view goes to the nearer side."""
    if own.place.frame == "outline":
        return own
    level, hull = level_of(stage, own, found), stage.view.hull @ n
    side = 1 if hull.max() - level <= level - hull.min() else -1
    return own.model_copy(update={"place": Place.model_validate({"side": side, "offset": stage.style.first_row})})


def _on_sides(table: Table, group: list[tuple[Dimension, Linear]], ground: Ground) -> list[Dimension]:
    """Dimensions that run alike, in rows on the sides on which they are, or all on one side where that is clearly better."""
    kept = _as_they_are(table, group, ground)
    if kept is not None:
        ground.take(kept)
        return [d for d, _ in group]
    best: tuple[float, list[Dimension], Ground] | None = None
    tries = [(side, lift) for lift in range(LIFTS if len(group) <= MANY else 1) for side in (0, 1, -1)]
    for side, lift in tries:
        trial, cost, made = ground.copy(), (0.0 if side == 0 else 2.0) + 1.0 * lift, []
        for own in (1, -1):
            there = [(_to(d, side or d.place.side), m) for d, m in group]
            new, more = _rows(table, [(d, m) for d, m in there if d.place.side == own], trial, lift)
            made += new
            cost += more
        # what is moved to the other side is looked for there
        cost += 1.5 * sum(1 for d, _ in group if side and d.place.side != side)
        if side == 0 and lift and best is not None and cost > best[0] + CROSS:
            # farther out is no better
            break
        if best is None or cost < best[0]:
            best = cost, made, trial
        if cost < CROSS + lift:
            break
    assert best is not None
    ground.take(best[2])
    return best[1]


def _as_they_are(table: Table, group: list[tuple[Dimension, Linear]], ground: Ground) -> Ground | None:
    """The ground with dimensions set down as they are, where they are in good order already: nothing on anything, in rows that
    are far enough apart, none within one that it spans."""
    stage = table.stage
    style, trial = stage.style, ground.copy()
    shapes = [table.shapes(d) for d, _ in group]
    for each in shapes:
        trial.add(Shapes(lines=each.lines))
    for each in shapes:
        if trial.cost(each) >= CROSS:
            return None
        trial.add(Shapes(each.texts, [], each.arrows))
    u = stage.view.chart.direction(group[0][1].along)
    spans = [np.sort([(stage.view.chart.to_sheet(p)[:1] @ u)[0] for p in (m.first, m.second)]) for _, m in group]
    for i, (d, _) in enumerate(group):
        if d.place.offset < style.first_row - 0.5:
            return None
        for j, (e, _) in enumerate(group):
            if (
                i == j
                or d.place.side != e.place.side
                or (d.row is not None and e.row is not None and d.row.id == e.row.id)
            ):
                continue
            (a, b), (c, f) = spans[i], spans[j]
            over = min(b, f) - max(a, c)
            if over > AIR and (b - a) > (f - c) + 1e-6 and d.place.offset < e.place.offset + style.row - 0.5:
                return None
    return trial


def _to(own: Dimension, side: int) -> Dimension:
    return (
        own if own.place.side == side else own.model_copy(update={"place": own.place.model_copy(update={"side": side})})
    )


def _rows(
    table: Table, group: list[tuple[Dimension, Linear]], ground: Ground, lift: int
) -> tuple[list[Dimension], float]:
    """Dimensions of one side of a view in rows, so many further out than need be: the shortest nearest, sets together, none
    through the lettering of another; and what it costs where they stand."""
    stage = table.stage
    style, members = stage.style, []
    made: list[Dimension] = []
    put: list[Dimension] = []
    total = 0.0
    shifts = {own.id: own.place.along for own, _ in group}
    for own, found in group:
        solved = table.put(own.model_copy(update={"place": own.place.model_copy(update={"along": 0.0})}))
        u = stage.view.chart.direction(found.along)
        n = normal_of(u)
        points = solved.occupies()
        along, deep = points @ u, float(np.ptp(_text_of(solved, stage) @ n))
        running = own.row is not None and own.row.form == "running"
        feet = np.concatenate([stage.view.chart.to_sheet(p)[:1] for p in (found.first, found.second)]) @ u
        low, high = (feet.min(), feet.max()) if running else (along.min(), along.max())
        name = own.row.id if own.row is not None and own.row.form not in STACKED else ""
        members.append(Member(own, float(low), float(high), float(np.ptp(feet)), deep, name))
    levels = _levels(members)
    offset = style.first_row + lift * style.row
    for level in range(max(levels.values(), default=-1) + 1):
        here = [m for m in members if levels[m.own.id] == level]
        deepest = max((m.deep for m in here), default=style.lettering)
        if (
            level
            and deepest > style.lettering * 1.5
            and not any(m.own.row and m.own.row.form == "running" for m in here)
        ):
            offset += deepest - style.lettering
        for m in here:
            place = m.own.place.model_copy(update={"offset": round(offset, 2), "along": 0.0})
            put.append(m.own.model_copy(update={"place": place}))
        depths = [m.deep for m in here if m.own.row and m.own.row.form == "running"]
        offset += max(style.row, max(depths) + style.overrun + 3.0 if depths else 0.0)
    shapes = [table.shapes(d) for d in put]
    # the extension lines of outer rows pass by the lettering of inner ones
    for each in shapes:
        ground.add(Shapes(lines=each.lines))
    for d, each in zip(put, shapes, strict=True):
        new, cost = _shifted(table, d, each, ground, shifts[d.id])
        ground.add(table.shapes(new) if new is not d else Shapes(each.texts, [], each.arrows))
        made.append(new)
        total += cost
    return made, total


def _text_of(solved: Solved, stage: Stage) -> Array:
    shapes = drawn(solved, stage.style.lines, (0.0, 0.0))
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


def _shifted(table: Table, own: Dimension, shapes: Shapes, ground: Ground, was: float) -> tuple[Dimension, float]:
    """A dimension with its lettering moved along its line, where something lies on it; and what it costs there."""
    best, least = own, np.inf
    for shift in [0.0, *([was] if was else []), *SHIFTS[1:]]:
        new = own if shift == 0.0 else own.model_copy(update={"place": own.place.model_copy(update={"along": shift})})
        there = shapes if shift == 0.0 else table.shapes(new)
        cost = ground.cost(there) + abs(shift) * 0.05
        if cost < least - 1e-9:
            best, least = new, cost
        if cost < TOUCH or (own.row is not None and own.row.form == "running"):
            break
    return best, float(least)


def _led(table: Table, own: AnyAnnotation, ground: Ground) -> AnyAnnotation:
    """A leader at the angle and length where it stands best: outside its view, clear of all else, not far."""
    hull = table.stage.view.hull
    inside = shapely.MultiPoint(hull).convex_hull if len(hull) > 2 else shapely.Point(0.0, 0.0)
    try_at = _placing(own)
    now = (own.angle, own.offset) if isinstance(own, HoleNote) else (own.place.angle, own.place.offset)  # type: ignore[attr-defined]
    shapes = table.shapes(own)
    if ground.cost(shapes) < CROSS and ground.crossings(shapes) < 2 * CROSS:
        # where it is nothing is in its way
        return own
    best, least = own, np.inf
    for angle, length in [now, *((float(a), x) for x in LENGTHS for a in ANGLES)]:
        new = try_at(angle, length)
        shapes = table.shapes(new)
        cost = ground.cost(shapes) + 0.08 * length
        if cost >= least:
            continue
        cost += ground.crossings(shapes)
        local = [shapely.transform(t, lambda p: p - table.at) for t in shapes.texts]
        cost += 4.0 * sum(inside.intersects(t) for t in local)
        if abs(angle) % 90 < 8:
            cost += 2.0
        if (angle, length) != now:
            cost += 0.5
        if cost < least:
            best, least = new, cost
    return best


def _placing(own: AnyAnnotation) -> Callable[[float, float], AnyAnnotation]:
    if isinstance(own, HoleNote):
        return lambda a, x: own.model_copy(update={"angle": a, "offset": x})
    assert isinstance(own, Dimension)
    place: Place = own.place
    return lambda a, x: own.model_copy(update={"place": place.model_copy(update={"angle": a, "offset": x})})
