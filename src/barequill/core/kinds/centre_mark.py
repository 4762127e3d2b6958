"""Centre marks: two lines across a circle, short ones where it is small."""

from __future__ import annotations

import numpy as np

from ..display import Sketch
from ..drawing import Anchor, CentreMark
from ..errors import Unmeasurable
from ..measuring.anchor_geometry import resolve
from ..measuring.context import LayoutContext
from ..values import value
from .common.solving import Array, Solved, draw_line


@value
class SolvedMark(Solved):
    """``arms`` (k, 2, 2) are its lines."""

    words: str
    stands_on: tuple[str, ...]
    arms: Array
    loose: bool = False

    def occupies(self) -> Array:
        return self.arms.reshape(-1, 2) if len(self.arms) else np.zeros((1, 2))

    def draw(self, sketch: Sketch) -> None:
        for p, q in self.arms:
            draw_line(sketch, p, q, "centre", self.stands_on[0])


def solve(mark: CentreMark, context: LayoutContext) -> SolvedMark:
    """Where a centre mark stands; without lines where its circle is gone, or not seen face on."""
    placed_view, style = context.view, context.style
    try:
        anchor_geometry = resolve(placed_view.projected, Anchor(ref=mark.ref, at="round"))
    except Unmeasurable:
        anchor_geometry = None
    if anchor_geometry is None or not anchor_geometry.face_on:
        return SolvedMark("loose centre mark", (mark.ref,), np.zeros((0, 2, 2)), True)
    centre = placed_view.transform.to_sheet(anchor_geometry.points[:1])[0]
    size = anchor_geometry.radius * placed_view.scale
    common = style.beyond if size > 4 else style.beyond_small
    right, up, left, down = (max(size + (common if b is None else b), 0.5) for b in mark.arms)
    if not placed_view.shown(anchor_geometry.space[:1])[0]:
        return SolvedMark("centre mark, beyond what is shown", (mark.ref,), np.zeros((0, 2, 2)))
    x, y = np.eye(2)
    arms = np.array([[centre - left * x, centre + right * x], [centre - down * y, centre + up * y]])
    return SolvedMark("centre mark", (mark.ref,), placed_view.kept(arms))
