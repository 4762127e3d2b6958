"""Dimensions put in order: rows beside their views, the shortest next to it; leaders at good angles; nothing over lettering,
the frame or the title block. What a hand has pinned stays."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..display import DisplayList
from ..drawing import Dimension, Drawing, Place, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.hung import AnyHung
from ..errors import Unmeasurable
from ..kinds.common.solving import Array
from ..measuring.context import LayoutContext
from ..measuring.measuring import Linear, level_of, measure, normal_of
from ..sheet.elements import context_of
from ..views.occupancy import LEAST, occupancy
from ..views.placed_view import PlacedView
from .clashes import Shapes, others_of, shapes_of, standing_clear
from .obstacles import CROSS, Obstacles
from .tidy_leaders import led
from .tidy_repair import repaired, restacked
from .tidy_rows import AIR, Rows, Table, figures_apart, in_rows, key_of

MANY = 24
"""Dimensions that run alike from which on rows further out are not tried: where so many stand, there is no room there."""
NEARLY = 15.0
"""mm by which the first row of one view stands further out at most, to be in one line with that of another."""
LIFTS = 4
"""How many rows further out those of a view are tried, where others are in the way."""


def tidied(
    drawing: Drawing, sheet: Sheet, placed_views: dict[str, PlacedView], ink: DisplayList, views: list[str]
) -> list[AnyAnnotation]:
    """What is tidied of some views (all where none are named), where they should stand; those alone that move.

    ``ink`` is the sheet as it is drawn now.
    """
    wanted = set(views or placed_views)
    loose: list[AnyAnnotation] = [
        a for a in sheet.annotations if a.on in wanted and a.tidied != "stays" and not a.fixed
    ]
    stacked = stacked_under(sheet, {a.id for a in loose})
    names = {a.id for a in loose} | {sign.id for signs in stacked.values() for sign in signs}
    obstacles = Obstacles(occupancy(drawing, sheet).free(LEAST))
    for e in standing_clear(ink):
        if e.id not in names:
            obstacles.add(shapes_of(e.marks, np.array(e.at)))
    found: dict[str, AnyAnnotation] = {}
    fixed = obstacles.copy()
    others = others_of(placed_views)
    tables = {
        v.id: Table(
            context_of(drawing, sheet, placed_views, v.id),
            np.array(placed_views[v.id].transform.place, float),
            others[v.id],
            stacked=stacked,
        )
        for v in sheet.views
        if v.id in wanted
    }
    sorted_ = {view: _sorted(table.context, [a for a in loose if a.on == view]) for view, table in tables.items()}
    _align(tables, {view: rows for view, (rows, _, _) in sorted_.items()})
    for view, table in tables.items():
        for new in _of_view(table, *sorted_[view], obstacles):
            found[new.id] = new
    found = repaired(tables, found, fixed, {a.id for _, leaders, _ in sorted_.values() for a in leaders})
    before = {a.id: a for a in loose}
    changed: list[AnyAnnotation] = [a for a in found.values() if a != before[a.id]]
    for carrier, (along, across) in restacked(tables, found, fixed).items():
        for sign in stacked[carrier]:
            if sign.on == carrier and not sign.pinned:
                x, y = sign.shift
                changed.append(sign.model_copy(update={"shift": (round(x + along, 2), round(min(0.0, y + across), 2))}))
    return changed


def stacked_under(sheet: Sheet, carriers: set[str]) -> dict[str, list[AnyHung]]:
    """All signs that are stacked under some annotations, directly or under each other, by those."""
    found: dict[str, list[AnyHung]] = {}
    root = {c: c for c in carriers}
    for _ in sheet.annotations:
        more = [a for a in sheet.annotations if isinstance(a, AnyHung) and a.on in root and a.id not in root]
        if not more:
            break
        for a in more:
            root[a.id] = root[a.on]
            found.setdefault(root[a.on], []).append(a)
    return found


def _align(tables: dict[str, Table], rows: dict[str, Rows]) -> None:
    """First rows of views that stand in line with each other put in one line."""
    levels: dict[tuple[int, ...], list[tuple[Table, tuple[int, int, int], float]]] = {}
    for view, table in tables.items():
        for key, group in rows[view].items():
            n = np.array(key) / 1000
            for side in {d.place.side for d, _ in group}:
                level = side * float(table.at @ n) + table.context.view.reach(side * n)
                line = (*key, side, round(float(table.at @ n) * 10))
                levels.setdefault(line, []).append((table, (*key, side), level))
    for together in levels.values():
        if len(together) < 2:
            continue
        furthest = max(level for _, _, level in together)
        for table, where, level in together:
            table.aligned[where] = furthest - level if furthest - level <= NEARLY else 0.0


def _of_view(
    table: Table, rows: Rows, leaders: list[AnyAnnotation], others: list[AnyAnnotation], obstacles: Obstacles
) -> Iterator[AnyAnnotation]:
    """The annotations of a view, one after another as they are set down."""
    for group in rows.values():
        yield from _on_sides(table, group, obstacles)
    for a in others:
        obstacles.add(table.shapes(a))
        yield a
    for a in leaders:
        best = led(table, a, obstacles)
        obstacles.add(table.shapes(best))
        yield best


def _sorted(context: LayoutContext, own: list[AnyAnnotation]) -> tuple[Rows, list[AnyAnnotation], list[AnyAnnotation]]:
    """Annotations as rows beside the view (by the direction of their normal), as leaders, and others."""
    rows: Rows = {}
    leaders: list[AnyAnnotation] = []
    others: list[AnyAnnotation] = []
    for a in own:
        if a.tidied == "leader" or not isinstance(a, Dimension):
            leaders.append(a)
            continue
        try:
            found = measure(context.view.projected, a)
        except Unmeasurable:
            others.append(a)
            continue
        if isinstance(found, Linear):
            n = normal_of(context.view.transform.direction(found.along))
            a = _outside(context, a, found, n)
            rows.setdefault(key_of(n), []).append((a, found))
        elif a.measure in ("angle", "arc"):
            others.append(a)
        else:
            leaders.append(a)
    return rows, leaders, others


def _outside(context: LayoutContext, own: Dimension, found: Linear, n: Array) -> Dimension:
    """A dimension whose line is beside its view: one that stands over the view goes to the nearer side."""
    if own.place.frame == "outline":
        return own
    level, hull = level_of(context, own, found), context.view.hull @ n
    side = 1 if hull.max() - level <= level - hull.min() else -1
    return own.model_copy(update={"place": Place.model_validate({"side": side, "offset": context.style.first_row})})


def _on_sides(table: Table, group: list[tuple[Dimension, Linear]], obstacles: Obstacles) -> list[Dimension]:
    """Dimensions that run alike, in rows on the sides on which they are, or all on one side where that is clearly better."""
    kept = _as_they_are(table, group, obstacles)
    if kept is not None:
        obstacles.take(kept)
        return [d for d, _ in group]
    best: tuple[float, list[Dimension], Obstacles] | None = None
    tries = [(side, lift) for lift in range(LIFTS if len(group) <= MANY else 1) for side in (0, 1, -1)]
    for side, lift in tries:
        # what is moved to the other side is looked for there
        cost = (0.0 if side == 0 else 2.0) + 1.0 * lift
        cost += 1.5 * sum(1 for d, _ in group if side and d.place.side != side)
        if best is not None and cost >= best[0]:
            continue
        trial, made = obstacles.copy(), list[Dimension]()
        for own in (1, -1):
            there = [(_to(d, side or d.place.side), m) for d, m in group]
            new, more = in_rows(table, [(d, m) for d, m in there if d.place.side == own], trial, lift)
            made += new
            cost += more
        if side == 0 and lift and best is not None and cost > best[0] + CROSS:
            # farther out is no better
            break
        if best is None or cost < best[0]:
            best = cost, made, trial
        if cost < CROSS + lift:
            break
    assert best is not None
    obstacles.take(best[2])
    return best[1]


def _as_they_are(table: Table, group: list[tuple[Dimension, Linear]], obstacles: Obstacles) -> Obstacles | None:
    """The obstacles with dimensions set down where they stand, if these are in good order already: nothing on anything, in rows that
    are far enough apart, none within one that it spans."""
    context = table.context
    if any(
        a is not d
        for a, (d, _) in zip(
            figures_apart(table, [d for d, _ in group], {d.id: m for d, m in group}), group, strict=True
        )
    ):
        return None
    style, trial = context.style, obstacles.copy()
    shapes = [table.shapes(d) for d, _ in group]
    for each in shapes:
        trial.add(Shapes(lines=each.lines))
    for each in shapes:
        if trial.cost(each) + table.over(each) >= CROSS:
            return None
        trial.add(Shapes(each.texts, [], each.arrows))
    key = key_of(normal_of(context.view.transform.direction(group[0][1].along)))
    for side in {d.place.side for d, _ in group if (*key, d.place.side) in table.aligned}:
        there = [(d, m) for d, m in group if d.place.side == side]
        if abs(min(d.place.offset for d, _ in there) - table.first_row(*there[0])) > 0.5:
            return None
    u = context.view.transform.direction(group[0][1].along)
    spans = [np.sort([(context.view.transform.to_sheet(p)[:1] @ u)[0] for p in (m.first, m.second)]) for _, m in group]
    for i, (d, _) in enumerate(group):
        if d.place.offset < table.first_row(*group[i]) - 0.5:
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
