"""Where a view can be broken: stretches in which nothing of the part begins or ends, and what their ends are held to."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..drawing import Break, Tie
from ..drawing.windows import Hold
from .cutting_lines import tie_point
from .projected_scene import ProjectedScene

KEEP = 8.0
"""mm on the sheet that are left beside a feature."""
WORTH = 20.0
"""mm on the sheet from which a stretch is worth taking out."""
SLENDER = 4.0
"""How many times as long as wide and deep a part is from which breaks are proposed."""
SHARE = 0.15
"""Of the length of the view, from which on a stretch is worth taking out."""


def proposed(projected: ProjectedScene, scale: float, along: str | None = None) -> list[tuple[str, float, float]]:
    """Stretches of a view in which nothing begins or ends, long enough to be worth taking out: axis, start and end (view
    mm). Only along the longer way of the view, where it is not said along which."""
    box = projected.mesh_box
    lengths = box[:, 1] - box[:, 0]
    axes = [{"x": 0, "y": 1}[along]] if along is not None else [int(np.argmax(lengths))]
    nodes = projected.part.mesh.nodes
    deep = float(np.ptp(nodes @ projected.view.toward)) if len(nodes) else 0.0
    if along is None and lengths.max() < SLENDER * max(float(lengths.min()), deep):
        # what is compact, or a plate seen from its edge, stays whole
        return []
    keep = KEEP / scale
    return [
        ("xy"[axis], a + keep, b - keep)
        for axis in axes
        for a, b in free_stretches(projected, scale, axis)
        if (b - a) * scale >= WORTH + 2 * KEEP and b - a >= SHARE * lengths[axis]
    ]


def free_stretches(projected: ProjectedScene, scale: float, axis: int) -> list[tuple[float, float]]:
    """All stretches (view mm) along an axis between the places where something begins or ends."""
    marks = [projected.mesh_box[axis]]
    for c in projected.strings.curves:
        x0, y0, x1, y1 = c.bounds()
        low, high = (x0, x1) if axis == 0 else (y0, y1)
        other = (y1 - y0) if axis == 0 else (x1 - x0)
        marks.append(np.array([low, high]))
        if c.kind != "line" or (other > 1e-6 * projected.whole.size and high - low > 1e-6 * projected.whole.size):
            # what bends or slants is a feature all along
            marks.append(np.linspace(low, high, max(2, int((high - low) * scale / 4) + 2)))
    at = np.unique(np.concatenate(marks))
    near = 1e-6 * projected.whole.size
    return [(float(a), float(b)) for a, b in zip(at, at[1:], strict=False) if b - a > near]


def holds_for(projected: ProjectedScene, axis: int, start: float, end: float) -> tuple[Hold | None, Hold | None]:
    """What the ends of a stretch are held to: the next place of the part before its start, and beyond its end."""
    at = [(float(p[axis]), tie) for p, tie in _places(projected)]
    near = 1e-6 * projected.whole.size
    before = max(((u, k) for k, (u, _) in enumerate(at) if u <= start + near), default=None)
    beyond = min(((u, k) for k, (u, _) in enumerate(at) if u >= end - near), default=None)
    return (
        None if before is None else Hold(tie=at[before[1]][1], off=start - before[0]),
        None if beyond is None else Hold(tie=at[beyond[1]][1], off=end - beyond[0]),
    )


def _places(projected: ProjectedScene) -> Iterator[tuple[np.ndarray, Tie]]:
    """Places (2,) of a view that the part has names for: centres of circles, and ends of edges."""
    part, seen = projected.whole, set()
    for c in projected.curves:
        kind, row = part.index.get(c.source, ("", 0))
        if kind != "edge" or c.source in seen:
            continue
        seen.add(c.source)
        curve = part.edges[row].curve
        for at in ("centre",) if curve.is_circle else ("start", "end"):
            tie = Tie.model_validate({"ref": c.source, "at": at})
            there = tie_point(part, tie)
            if there is not None:
                yield projected.flat(there[None])[0], tie


def held(b: Break, projected: ProjectedScene) -> Break:
    """A stretch, held to what of the part is next to it."""
    return b.model_copy(update={"holds": holds_for(projected, 0 if b.along == "x" else 1, b.start, b.end)})
