"""Centre marks: two lines across a circle, short ones where it is small."""

from __future__ import annotations

import numpy as np

from ..display import Sketch
from ..drawing import Anchor, CentreMark
from ..errors import Unmeasurable
from ..measuring.anchor_geometry import resolve
from ..measuring.context import LayoutContext
from ..values import value
from ..views.placed_view import PlacedView
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


def arms_of(placed_view: PlacedView) -> tuple[Array, Array]:
    """The unit ways (2,) of the sheet along which the arms of a mark lie, that nearest to the right first: as the view is turned,
    and in a slanting one along the axis of the part that lies in its plane."""
    view = placed_view.projected.view
    level = [k for k in range(3) if abs(float(view.toward[k])) < 1e-9]
    own = view.flat(np.eye(3)[level[:1]])[0] if level else np.array([1.0, 0.0])
    x = placed_view.transform.direction(own / np.linalg.norm(own))
    x = x if abs(x[0]) >= abs(x[1]) - 1e-9 else np.array([x[1], -x[0]])
    x = x if x[0] > 0 else -x
    return x, np.array([-x[1], x[0]])


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
    x, y = arms_of(placed_view)
    arms = np.array([[centre - left * x, centre + right * x], [centre - down * y, centre + up * y]])
    return SolvedMark("centre mark", (mark.ref,), placed_view.kept(arms))
