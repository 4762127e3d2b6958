"""Centre lines: one along an axis, a little beyond the features on it."""

from __future__ import annotations

import numpy as np

from ..display import Sketch
from ..drawing import CentreLine
from ..measuring.anchor_geometry import cylinder_reach
from ..measuring.context import LayoutContext
from ..values import value
from .common.solving import Array, Solved, draw_line


@value
class SolvedAxis(Solved):
    """``pieces`` (k, 2, 2), none where its features are gone or not in what is shown."""

    words: str
    stands_on: tuple[str, ...]
    pieces: Array
    loose: bool = False

    def occupies(self) -> Array:
        return self.pieces.reshape(-1, 2) if len(self.pieces) else np.zeros((1, 2))

    def draw(self, sketch: Sketch) -> None:
        for p, q in self.pieces:
            draw_line(sketch, p, q, "centre", self.stands_on[0])


def solve(line: CentreLine, context: LayoutContext) -> SolvedAxis:
    """Where a centre line stands."""
    placed_view, refs = context.view, tuple(line.refs)
    part = placed_view.projected.part
    rows = [f[1] for f in map(part.find, refs) if f is not None and f[0] == "face"]
    reaches = [
        placed_view.on_sheet(cylinder_reach(placed_view.projected, r)[0])
        for r in rows
        if part.faces[r].surface.kind in ("cylinder", "cone")
    ]
    points = np.concatenate([np.zeros((0, 2)), *reaches])
    spans = np.linalg.norm(points - points[:1], axis=1) if len(points) else np.zeros(1)
    length = float(spans.max())
    if length < 1e-9:
        return SolvedAxis("loose centre line", refs, np.zeros((0, 2, 2)), True)
    u = (points[int(spans.argmax())] - points[0]) / length
    along = (points - points[0]) @ u
    before, after = (context.style.beyond if b is None else b for b in line.beyond)
    low, high = along.min() - before, along.max() + after
    return SolvedAxis("centre line", refs, placed_view.kept((points[0] + np.outer([low, high], u))[None]))
