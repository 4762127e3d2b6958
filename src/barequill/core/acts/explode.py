"""An assembly pulled apart in a pictorial view, along the axes on which its bodies are put together."""

from __future__ import annotations

from collections import Counter
from typing import Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import SetView, need_view
from ..drawing.views import BodyStep, PictorialView
from ..errors import UserError
from ..part.chosen import body_names, body_nodes
from ..part.model import Array, Part
from ..part.transforming import parted
from ..views.occupancy import occupancy
from .base import ActContext, AnyAct

EDGE = 10.0
"""mm that it keeps from the frame."""
AIR = 0.3
"""Of the size of what is pulled apart: how far bodies stand from each other then."""


class Explode(AnyAct):
    """The bodies of a pictorial view pulled apart: the largest stays, the others go along their axes in the order in which they are
    taken off, each clear of those before it."""

    act: Literal["explode"] = "explode"
    view: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        if not isinstance(view, PictorialView):
            raise UserError("Only a picture is pulled apart", "Choose a pictorial view, or pull one out of a view.")
        part = acting.projections.part(view.part)
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
        steps = steps_apart(part, view.bodies, placed_view.projected.view.toward)
        if not any(any(s.by) for s in steps):
            raise UserError("There is nothing to pull apart", "The view shows one body alone.")
        # what stays, stays where it is: a view stands by the middle of all that it shows
        later = parted(part, {s.body: s.by for s in steps})
        gap = (later.low + later.high - part.low - part.high) / 2
        x, y = placed_view.transform.direction(placed_view.projected.view.flat(gap[None])[0]) * placed_view.scale
        # but it is kept on the sheet where it has room there
        flat = placed_view.projected.view.flat(later.mesh.nodes - (later.low + later.high) / 2)
        spread = placed_view.transform.direction(flat) * placed_view.scale
        space = occupancy(sheet.size, sheet.landscape).space
        place = (
            _within(view.place[0] + float(x), spread[:, 0], space.x0, space.x1),
            _within(view.place[1] + float(y), spread[:, 1], space.y0, space.y1),
        )
        changes = {"apart": [s.model_dump() for s in steps], "hidden_lines": False, "place": place}
        return SetView(view=view.id, changes=changes)


def _within(at: float, spread: Array, low: float, high: float) -> float:
    """A place moved so far that what spreads about it lies between two limits, where it can."""
    low, high = low + EDGE - float(spread.min()), high - EDGE - float(spread.max())
    return round(at if low > high else min(max(at, low), high), 3)


def axis_of_body(part: Part, body: int) -> Array | None:
    """The direction about which most of a body is round; None of one that is not."""
    areas: Counter[tuple[float, ...]] = Counter()
    for f in part.faces:
        if f.body == body and f.surface.kind in ("cylinder", "cone"):
            axis = f.surface.axes[2] * (1 if f.surface.axes[2][int(np.argmax(np.abs(f.surface.axes[2])))] > 0 else -1)
            areas[tuple(np.round(axis, 4).tolist())] += f.area  # type: ignore[assignment]
    return np.array(areas.most_common(1)[0][0]) if areas else None


def steps_apart(part: Part, shown: list[str] | None, toward: Array) -> list[BodyStep]:
    """By how much each body is to be moved: along its own axis, where it is round about one, else along that which most have; out of
    the middle ``toward`` the viewer."""
    names = body_names(part)
    bodies = [k for k, n in enumerate(names) if (shown is None or n in shown) and len(body_nodes(part, k))]
    if len(bodies) < 2:
        return []
    own = {k: axis_of_body(part, k) for k in bodies}
    boxes = {k: body_nodes(part, k) for k in bodies}
    common = Counter(tuple(a.tolist()) for a in own.values() if a is not None).most_common(1)
    main = np.array(common[0][0]) if common else np.array([0.0, 0.0, 1.0])
    base = max(bodies, key=lambda k: (part.bodies[k].volume, -k))
    heart = (boxes[base].min(axis=0) + boxes[base].max(axis=0)) / 2
    air = AIR * float(np.linalg.norm(part.high - part.low)) / max(1.0, np.sqrt(len(bodies) / 6))
    steps = {base: np.zeros(3)}
    # what is farther out along its axis is taken off first, and stands farther out then
    order: dict[int, tuple[Array, float]] = {}
    for k in bodies:
        if k == base:
            continue
        middle = (boxes[k].min(axis=0) + boxes[k].max(axis=0)) / 2 - heart
        axis = own[k]
        if axis is None or not _beside(boxes[k], boxes[base], axis):
            # what lies on the largest, not in it, is lifted off it
            axes = [main, *np.eye(3)]
            on = [a for a in axes if _beside(boxes[k], boxes[base], a)]
            axis = max(on or axes, key=lambda a: abs(float(middle @ a)))
        off = float(middle @ axis)
        if abs(off) < 1e-6 * part.size:
            off = 1.0 if float(axis @ toward) >= 0 else -1.0
        way = axis if off >= 0 else -axis
        order[k] = way, float((boxes[k] @ way).max() - heart @ way)
    for k in sorted(order, key=lambda k: (order[k][1], k)):
        way, _ = order[k]
        along = boxes[k] @ way
        before = [
            boxes[j] @ way + float(steps[j] @ way)
            for j in steps
            if _beside(boxes[k], boxes[j] + steps[j], way) and (j == base or float(order[j][0] @ way) > 0.99)
        ]
        far = max((float(b.max()) for b in before), default=float(along.min()) - air)
        steps[k] = max(far + air - float(along.min()), 0.0) * way
    told = {k: tuple(round(float(x), 4) + 0.0 for x in s) for k, s in sorted(steps.items())}
    return [BodyStep(body=names[k], by=(x, y, z)) for k, (x, y, z) in told.items() if x or y or z]


def _beside(one: Array, two: Array, way: Array) -> bool:
    """True where two bodies would meet if one were moved along a way: their boxes across it overlap."""
    x = np.cross(way, np.eye(3)[int(np.argmin(np.abs(way)))])
    axes = np.array([x / np.linalg.norm(x), np.cross(way, x) / np.linalg.norm(x)]).T
    a, b = one @ axes, two @ axes
    return bool((np.minimum(a.max(axis=0), b.max(axis=0)) > np.maximum(a.min(axis=0), b.min(axis=0)) + 1e-9).all())
