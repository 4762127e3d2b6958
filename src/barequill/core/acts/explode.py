"""An assembly pulled apart in a pictorial view, along the axes on which its bodies are put together."""

from __future__ import annotations

from collections import Counter
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import SetView, need_view
from ..drawing.views import BodyStep, PictorialView
from ..errors import UserError
from ..geometry.vectors import cross
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
        space = occupancy(drawing, sheet).space
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


def axes_of_bodies(part: Part) -> dict[int, Array]:
    """The direction about which most of each body is round; without those that are not."""
    areas: dict[int, Counter[tuple[float, ...]]] = {}
    for f in part.faces:
        if f.surface.kind in ("cylinder", "cone"):
            axis = f.surface.axes[2] * (1 if f.surface.axes[2][int(np.argmax(np.abs(f.surface.axes[2])))] > 0 else -1)
            areas.setdefault(f.body, Counter())[tuple(np.round(axis, 4).tolist())] += f.area  # type: ignore[assignment]
    return {body: np.array(own.most_common(1)[0][0]) for body, own in areas.items()}


class _Spans:
    """How far bodies reach along a way and across it, worked out once for each way."""

    def __init__(self, part: Part, bodies: list[int]) -> None:
        self._nodes = [body_nodes(part, k) for k in bodies]
        self._known: dict[tuple[float, ...], Array] = {}

    def of(self, way: Array) -> Array:
        """From where to where (n, 3, 2) each body reaches along a way and along two directions across it."""
        name = tuple(np.round(way, 6).tolist())
        if name not in self._known:
            x = cross(way, np.eye(3)[int(np.argmin(np.abs(way)))])
            x = x / np.linalg.norm(x)
            axes = np.array([way, x, cross(way, x)]).T
            flat = [nodes @ axes for nodes in self._nodes]
            self._known[name] = np.array([[f.min(axis=0), f.max(axis=0)] for f in flat]).transpose(0, 2, 1)
        return self._known[name]

    def beside(self, k: int, way: Array) -> NDArray[np.bool_]:
        """Which bodies (n,) one would meet if it were moved along a way: their boxes across it overlap."""
        across = self.of(way)[:, 1:]
        low, high = np.maximum(across[k, :, 0], across[..., 0]), np.minimum(across[k, :, 1], across[..., 1])
        return np.asarray((high > low + 1e-9).all(axis=1), bool)


def steps_apart(part: Part, shown: list[str] | None, toward: Array) -> list[BodyStep]:
    """By how much each body is to be moved: along its own axis, where it is round about one, else along that which most have; out of
    the middle ``toward`` the viewer."""
    names = body_names(part)
    wanted = None if shown is None else set(shown)
    filled = {f.body for f in part.faces}
    bodies = [k for k, n in enumerate(names) if k in filled and (wanted is None or n in wanted)]
    if len(bodies) < 2:
        return []
    round_about, spans = axes_of_bodies(part), _Spans(part, bodies)
    own = [round_about.get(k) for k in bodies]
    common = Counter(tuple(a.tolist()) for a in own if a is not None).most_common(1)
    main = np.array(common[0][0]) if common else np.array([0.0, 0.0, 1.0])
    middles = np.stack([spans.of(a)[:, 0].mean(axis=1) for a in np.eye(3)], axis=1)
    base = max(range(len(bodies)), key=lambda k: (part.bodies[bodies[k]].volume, -k))
    heart = middles[base]
    air = AIR * float(np.linalg.norm(part.high - part.low)) / max(1.0, np.sqrt(len(bodies) / 6))
    ways: dict[int, Array] = {}
    for k in range(len(bodies)):
        if k == base:
            continue
        middle, axis = middles[k] - heart, own[k]
        if axis is None or not spans.beside(k, axis)[base]:
            # what lies on the largest, not in it, is lifted off it
            axes = [main, *np.eye(3)]
            on = [a for a in axes if spans.beside(k, a)[base]]
            axis = max(on or axes, key=lambda a: abs(float(middle @ a)))
        off = float(middle @ axis)
        if abs(off) < 1e-6 * part.size:
            off = 1.0 if float(axis @ toward) >= 0 else -1.0
        ways[k] = axis if off >= 0 else -axis
    # what reaches farther out along its axis is taken off first, and stands farther out then
    out = {k: float(spans.of(way)[k, 0, 1] - heart @ way) for k, way in ways.items()}
    directions = np.array([ways.get(k, np.zeros(3)) for k in range(len(bodies))])
    moved = np.zeros(len(bodies))
    there = np.zeros(len(bodies), bool)
    there[base] = True
    for k in sorted(ways, key=lambda k: (out[k], k)):
        way, reach = ways[k], spans.of(ways[k])[:, 0]
        alike = directions @ way > 0.99
        alike[base] = True
        before = there & alike & spans.beside(k, way)
        far = float((reach[before, 1] + moved[before]).max()) if before.any() else float(reach[k, 0]) - air
        moved[k] = max(far + air - float(reach[k, 0]), 0.0)
        there[k] = True
    steps = np.round(moved[:, None] * directions, 4) + 0.0
    return [
        BodyStep(body=names[k], by=(float(x), float(y), float(z)))
        for k, (x, y, z) in zip(bodies, steps, strict=True)
        if x or y or z
    ]
