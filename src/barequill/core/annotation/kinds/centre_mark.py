"""Centre marks: two lines across a circle, short ones where it is small."""

from __future__ import annotations

import numpy as np

from ...drawing import Anchor, CentreMark
from ...errors import Unmeasurable
from ...ink import Sketch
from ...values import value
from ..seats import resolve
from ..solving import Array, Solved, Stage, draw_line


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


def solve(mark: CentreMark, stage: Stage) -> SolvedMark:
    """Where a centre mark stands; without lines where its circle is gone, or not seen face on."""
    picture, style = stage.view, stage.style
    try:
        seat = resolve(picture.shot, Anchor(ref=mark.ref, at="round"))
    except Unmeasurable:
        seat = None
    if seat is None or not seat.face_on:
        return SolvedMark("loose centre mark", (mark.ref,), np.zeros((0, 2, 2)), True)
    centre = picture.chart.to_sheet(seat.points[:1])[0]
    size = seat.radius * picture.scale
    common = style.beyond if size > 4 else style.beyond_small
    right, up, left, down = (max(size + (common if b is None else b), 0.5) for b in mark.arms)
    if not picture.shown(seat.space[:1])[0]:
        return SolvedMark("centre mark, beyond what is shown", (mark.ref,), np.zeros((0, 2, 2)))
    x, y = np.eye(2)
    arms = np.array([[centre - left * x, centre + right * x], [centre - down * y, centre + up * y]])
    return SolvedMark("centre mark", (mark.ref,), picture.kept(arms))
