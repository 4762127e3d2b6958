"""Laying out: the scale, and where views stand, so that they and their dimensions clear all else."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from ..drawing import Drawing, Sheet
from ..errors import UserError
from ..standards.scales import SERIES
from ..standards.sheets import Rectangle
from .occupancy import MARGINS, Occupancy, occupancy

ROOM = 19.0
"""Room for the first row of dimensions about an orthographic view: 10 to the line, text, and air."""
AIR = 6.0
CROWDED = 2.0
"""What it costs to draw views together by a fifth of what is left beside them."""
ABOVE = 5.0
"""mm from a view to its caption."""


@dataclass(frozen=True)
class Item:
    """A view to lay out: its box about its centre at 1:1, and its cell in the grid of projection.

    ``cell`` is None for a pictorial view, which stands where there is room.
    """

    id: str
    box: Rectangle
    cell: tuple[int, int] | None
    scale: float | None = None


@dataclass(frozen=True)
class Layout:
    """Where views stand, at which scale; ``scales`` are the own scales of pictorial views."""

    scale: float
    places: dict[str, tuple[float, float]]
    scales: dict[str, float] = field(default_factory=dict)


def _scaled(box: Rectangle, s: float) -> Rectangle:
    return Rectangle(box.x0 * s, box.y0 * s, box.x1 * s, box.y1 * s)


def _at(box: Rectangle, x: float, y: float) -> Rectangle:
    return Rectangle(box.x0 + x, box.y0 + y, box.x1 + x, box.y1 + y)


def choose(items: list[Item], drawing: Drawing, sheet: Sheet, scale: float | None = None) -> Layout:
    """The layout at the largest standard scale that fits, or at a given scale.

    Parameters
    ----------
    items : the views
    drawing, sheet : where they are to stand; what stands there is not looked at

    Raises
    ------
    UserError
        Where nothing fits; the message says what to change.
    """
    ground, caption = occupancy(drawing, sheet), ABOVE + drawing.lines_of(sheet).lettering
    scales = [scale] if scale is not None else SERIES
    for s in scales:
        layout = _try(items, ground, caption, s, ROOM)
        if layout is not None:
            return layout
    if scale is not None:
        tight = _try(items, ground, caption, scale, 3.0)
        if tight is not None:
            return tight
    raise UserError(
        "The views do not fit the sheet",
        "Choose a smaller scale, a larger sheet, or fewer views."
        if scale
        else "The part has no size that can be drawn.",
    )


def loose(items: list[Item], drawing: Drawing, sheet: Sheet, scale: float) -> Layout:
    """A layout at a scale even where views overlap or overflow: spread over the drawing space."""
    try:
        return choose(items, drawing, sheet, scale)
    except UserError:
        space = occupancy(drawing, sheet).space
        spread = _spread([i for i in items if i.cell is not None], scale, space, 0.0)
        places = dict(spread)
        for k, item in enumerate(i for i in items if i.cell is None):
            places[item.id] = (space.x1 - 50 - 20 * k, space.y1 - 50)
        return Layout(scale, places, {})


def _try(items: list[Item], ground: Occupancy, caption: float, s: float, room: float) -> Layout | None:
    space, block = ground.space, ground.title.grown(AIR)
    flat = [i for i in items if i.cell is not None]
    free = [i for i in items if i.cell is None]
    areas = [
        space,
        replace(space, y0=block.y1),
        replace(space, x1=block.x0),
    ]
    if flat:
        # where nothing else does: drawn together toward the upper left as far as clears the title block
        across, down = (_needed(flat, s, axis, room) for axis in (0, 1))
        for share in (0.8, 0.6, 0.4, 0.2, 0.0):
            narrow = replace(space, x1=space.x0 + across + share * (space.width - across))
            areas += [narrow, replace(narrow, y0=space.y1 - down)]
    best: tuple[float, Layout] | None = None
    for k, area in enumerate(areas):
        if k == 3 and best is not None:
            break
        places = _spread(flat, s, area, room) if flat else {}
        boxes = {i.id: _at(_scaled(i.box, i.scale or s), *places[i.id]) for i in flat}
        kept = [b.grown(room) for b in boxes.values()]
        if any(not space.grown(1e-6).holds(k) or k.overlaps(block) for k in kept):
            continue
        if any(
            a.grown(-room / 2 + 0.01).overlaps(b.grown(-room / 2 + 0.01)) for i, a in enumerate(kept) for b in kept[:i]
        ):
            continue
        taken = [b.grown(room * 0.75) for b in boxes.values()]
        tries = [_pictorials(free, s, ground.within(m), [*ground.beside(m), *taken], caption) for m in MARGINS]
        known = [t for t in tries if t is not None]
        if not known:
            continue
        # large pictures before wide margins
        more, scales = max(known, key=lambda t: sum(t[1].values()))
        everything = [*boxes.values(), *(_at(_scaled(i.box, scales[i.id]), *more[i.id]) for i in free)]
        low = min((b.x0 for b in everything), default=0), min((b.y0 for b in everything), default=0)
        high = max((b.x1 for b in everything), default=0), max((b.y1 for b in everything), default=0)
        gaps = (low[0] - space.x0, low[1] - space.y0, space.x1 - high[0], space.y1 - high[1])
        worth = (
            sum(scales.values()) / max(1, len(scales)) / s * 80
            - max(abs(gaps[0] - gaps[2]), abs(gaps[1] - gaps[3])) * 0.2
            - CROWDED * max(0, k - 3) // 2
        )
        layout = Layout(s, {**places, **more}, {k: v for k, v in scales.items() if v != s})
        if best is None or worth > best[0]:
            best = (worth, layout)
    return best[1] if best else None


def _bands(items: list[Item], s: float, axis: int) -> dict[int, tuple[float, float]]:
    """How far the views of each column (axis 0) or row reach to either side of its middle."""
    bands: dict[int, tuple[float, float]] = {}
    for item in items:
        assert item.cell is not None
        b = _scaled(item.box, item.scale or s)
        low, high = (b.x0, b.x1) if axis == 0 else (b.y0, b.y1)
        old = bands.get(item.cell[axis], (low, high))
        bands[item.cell[axis]] = min(low, old[0]), max(high, old[1])
    return dict(sorted(bands.items()))


def _needed(items: list[Item], s: float, axis: int, room: float) -> float:
    """Length that the columns or rows take with just their room between and beside them."""
    bands = _bands(items, s, axis).values()
    return sum(high - low for low, high in bands) + (len(bands) + 1) * (room + 0.03)


def _spread(items: list[Item], s: float, area: Rectangle, room: float) -> dict[str, tuple[float, float]]:
    """Columns and rows of the projection grid, spread evenly over an area."""
    centres = []
    for axis in (0, 1):
        bands = _bands(items, s, axis)
        length = area.width if axis == 0 else area.height
        start = area.x0 if axis == 0 else area.y0
        used = sum(high - low for low, high in bands.values())
        # views stand no farther apart than reads well: what is left over goes to the rims
        gap = min((length - used) / (len(bands) + 1), max(2 * room + 8, 100.0))
        rim = (length - used - gap * (len(bands) - 1)) / 2
        at, where = start + rim, {}
        for c, (low, high) in bands.items():
            where[c] = at - low
            at += high - low + gap
        centres.append(where)
    return {i.id: (centres[0][i.cell[0]], centres[1][i.cell[1]]) for i in items}  # type: ignore[index]


def _pictorials(
    items: list[Item], s: float, space: Rectangle, taken: list[Rectangle], caption: float
) -> tuple[dict[str, tuple[float, float]], dict[str, float]] | None:
    """Pictorial views where there is most room: at the main scale, else up to three steps smaller; then with so much room (mm) above
    them for a ``caption`` that says so."""
    taken = list(taken)
    places: dict[str, tuple[float, float]] = {}
    scales: dict[str, float] = {}
    smaller = [x for x in SERIES if x < s * 0.999][:2]
    for item in items:
        options = [item.scale] if item.scale else [s, *smaller]
        for size in options:
            box = _scaled(item.box, size)
            if size != s:
                box = replace(box, y1=box.y1 + caption)
            spot = _roomiest(box, space, taken)
            if spot is not None:
                break
        else:
            return None
        places[item.id], scales[item.id] = spot, size
        taken.append(_at(box, *spot).grown(AIR))
    return places, scales


def _roomiest(box: Rectangle, space: Rectangle, taken: list[Rectangle]) -> tuple[float, float] | None:
    """Where a box is moved to within a space to stand clearest of its border and of what is taken; None where it has no room."""
    width, height = space.width - box.width, space.height - box.height
    if width < 0 or height < 0:
        return None
    share = np.linspace(0.0, 1.0, 41)
    x0 = (space.x0 + width * share)[:, None] + np.zeros(41)
    y0 = np.zeros((41, 1)) + space.y0 + height * share
    x1, y1 = x0 + box.width, y0 + box.height
    clear = np.minimum.reduce([x0 - space.x0, space.x1 - x1, y0 - space.y0, space.y1 - y1])
    for t in taken:
        clear = np.minimum(clear, np.maximum.reduce([t.x0 - x1, x0 - t.x1, t.y0 - y1, y0 - t.y1]))
    if clear.max() < 0:
        return None
    i, j = np.argwhere(clear >= clear.max() - 1e-9)[0]
    return float(x0[i, j] - box.x0), float(y0[i, j] - box.y0)
