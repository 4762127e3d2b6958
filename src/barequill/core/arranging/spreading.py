"""Views moved apart for what is written beside them: rows and columns keep their order, and stay in line."""

from __future__ import annotations

from collections.abc import Callable

from ..display import DisplayList, box_of
from ..drawing import Drawing, SectionView, Sheet
from ..errors import UserError
from ..standards.sheets import Rectangle
from ..views.occupancy import MARGINS, occupancy

AIR = 6.0
"""mm between views with all that is written beside them."""
SAME = 0.05
"""mm within which the places of two views are in line."""


def spread(drawing: Drawing, sheet: Sheet, ink: DisplayList) -> dict[str, tuple[float, float]]:
    """Places of views (by id; none where all may stay) at which nothing of one, its sizes and captions among it, is nearer
    than :data:`AIR` to anything of another; ``ink`` is the sheet as it is drawn.

    Raises
    ------
    UserError
        Where the sheet has no room for that.
    """
    boxes = _boxes(sheet, ink)
    for margin in MARGINS:
        places = _placed(drawing, sheet, boxes, margin)
        if places is not None:
            break
    else:
        raise UserError(
            "The views have no room beside each other",
            "Take a larger sheet or a smaller scale, or move sizes to other sides.",
        )
    before = {v.id: v.place for v in sheet.views}
    if all(abs(x - before[v][0]) < SAME and abs(y - before[v][1]) < SAME for v, (x, y) in places.items()):
        return {}
    return {v: (round(x, 3), round(y, 3)) for v, (x, y) in places.items()}


def shifted(drawing: Drawing, sheet: Sheet, ink: DisplayList) -> dict[str, tuple[float, float]]:
    """Places of views where all are moved together until what is written beside them is within the frame; none where it is, or they
    reach from side to side of it."""
    boxes = _boxes(sheet, ink)
    places = {v.id: v.place for v in sheet.views if v.id in boxes}
    if not places:
        return {}
    all_ = [_at(boxes[v], places[v]) for v in places]
    low = min(b.x0 for b in all_), min(b.y0 for b in all_)
    high = max(b.x1 for b in all_), max(b.y1 for b in all_)
    r = occupancy(drawing, sheet).within(MARGINS[-1])
    by = []
    for start, end, first, last in zip(low, high, (r.x0, r.y0), (r.x1, r.y1), strict=True):
        if end - start > last - first:
            return {}
        by.append(first - start if start < first else min(last - end, 0.0))
    if max(abs(b) for b in by) < SAME:
        return {}
    return {v: (round(x + by[0], 3), round(y + by[1], 3)) for v, (x, y) in places.items()}


def _placed(
    drawing: Drawing, sheet: Sheet, boxes: dict[str, Rectangle], margin: float
) -> dict[str, tuple[float, float]] | None:
    """Such places, so far (mm) from frame and title block; None where there is no room for that."""
    places = {v.id: v.place for v in sheet.views if v.id in boxes}
    obstacles = occupancy(drawing, sheet)
    r, t = obstacles.within(margin), obstacles.title.grown(margin)
    for axis in (0, 1):
        # where it is in the way, columns stay beside the title block, rows above it
        groups = _groups(places, axis)
        bands = [_band(boxes, places, g, axis) for g in groups]
        low = [r.x0 if axis == 0 else r.y0] * len(groups)
        high = [r.x1 if axis == 0 else r.y1] * len(groups)
        if axis == 1:
            for k, g in enumerate(groups):
                if any(_at(boxes[v], places[v]).x1 > t.x0 for v in g):
                    low[k] = t.y1
        need = _needs(boxes, places, groups, axis)
        starts = _solved([places[g[0]][axis] for g in groups], bands, need, low, high)
        if starts is None:
            return None
        for g, at in zip(groups, starts, strict=True):
            for v in g:
                x, y = places[v]
                places[v] = (at, y) if axis == 0 else (x, at)
    return places


def _boxes(sheet: Sheet, ink: DisplayList) -> dict[str, Rectangle]:
    """How far each view reaches with what is written beside it, from its place; those drawn within another belong to it."""
    owner = {v.id: v.parent if isinstance(v, SectionView) and v.within and v.parent else v.id for v in sheet.views}
    found: dict[str, Rectangle] = {}
    for e in ink.elements:
        view = owner.get(e.group)
        box = box_of(e.marks)
        own = sheet.view(view) if view else None
        if view is None or own is None or box is None:
            continue
        by = e.at[0] - own.place[0], e.at[1] - own.place[1]
        box = Rectangle(box.x0 + by[0], box.y0 + by[1], box.x1 + by[0], box.y1 + by[1])
        old = found.get(view, box)
        found[view] = Rectangle(min(old.x0, box.x0), min(old.y0, box.y0), max(old.x1, box.x1), max(old.y1, box.y1))
    return found


def _at(box: Rectangle, place: tuple[float, float]) -> Rectangle:
    return Rectangle(box.x0 + place[0], box.y0 + place[1], box.x1 + place[0], box.y1 + place[1])


def _groups(places: dict[str, tuple[float, float]], axis: int) -> list[list[str]]:
    """Views in columns (axis 0) or rows, from the lowest place on."""
    groups: list[list[str]] = []
    for v in sorted(places, key=lambda v: places[v][axis]):
        if groups and abs(places[v][axis] - places[groups[-1][0]][axis]) < SAME:
            groups[-1].append(v)
        else:
            groups.append([v])
    return groups


def _band(
    boxes: dict[str, Rectangle], places: dict[str, tuple[float, float]], group: list[str], axis: int
) -> tuple[float, float]:
    lows = [boxes[v].x0 if axis == 0 else boxes[v].y0 for v in group]
    highs = [boxes[v].x1 if axis == 0 else boxes[v].y1 for v in group]
    return min(lows), max(highs)


def _needs(
    boxes: dict[str, Rectangle], places: dict[str, tuple[float, float]], groups: list[list[str]], axis: int
) -> Callable[[int, int], float]:
    """How far a later group must be beyond an earlier one: as far as their views are beside each other across the axis."""

    def need(i: int, j: int) -> float:
        most = -float("inf")
        for a in groups[i]:
            for b in groups[j]:
                p, q = _at(boxes[a], places[a]), _at(boxes[b], places[b])
                beside = (
                    (p.y0 < q.y1 + AIR and q.y0 < p.y1 + AIR)
                    if axis == 0
                    else (p.x0 < q.x1 + AIR and q.x0 < p.x1 + AIR)
                )
                # those that stand well apart along the other axis are parted along that one
                if beside and (axis == 1 or _parted(p, q)):
                    high, low = (boxes[a].x1, boxes[b].x0) if axis == 0 else (boxes[a].y1, boxes[b].y0)
                    most = max(most, high - low + AIR)
        return most

    return need


def _parted(p: Rectangle, q: Rectangle) -> bool:
    """True where two boxes lie beside rather than above each other."""
    across = min(p.x1, q.x1) - max(p.x0, q.x0)
    along = min(p.y1, q.y1) - max(p.y0, q.y0)
    return across <= along


def _solved(
    now: list[float],
    bands: list[tuple[float, float]],
    need: Callable[[int, int], float],
    low: list[float],
    high: list[float],
) -> list[float] | None:
    """Places in their order, as far apart as they must be and within their bounds, near to where they are; None where there
    is no room."""
    n = len(now)
    least = [low[k] - bands[k][0] for k in range(n)]
    most = [high[k] - bands[k][1] for k in range(n)]
    for j in range(n):
        for i in range(j):
            least[j] = max(least[j], least[i] + need(i, j))
    for i in reversed(range(n)):
        for j in range(i + 1, n):
            most[i] = min(most[i], most[j] - need(i, j))
    if any(a > b + 1e-6 for a, b in zip(least, most, strict=True)):
        return None
    found: list[float] = []
    for j in range(n):
        at = max([now[j], least[j], *(found[i] + need(i, j) for i in range(j))])
        found.append(min(at, most[j]))
    return found
