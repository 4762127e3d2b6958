"""Tolerance frames: on a leader square to the surface, or stacked under a size (ISO 1101)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.tolerance_frame import ToleranceFrame
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..values import value
from .common.frame_cells import FrameLayout, frame_words, laid_out
from .common.hanging import Hold, carried, draw_leader, hold_of, leader_path, lost
from .common.solving import Array, Solved, Under, draw_line, way_at

OUT = 3.0
"""mm by which a dimension line goes on to a frame."""
RING = 0.5
"""Radius of the circle for all around, in lettering heights."""


@value
class SolvedFrame(Solved):
    """Its cells from ``low``, the lower left corner, along ``u``; ``path`` (n, 2): its leader from the tip on, if it has one."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    layout: FrameLayout
    low: Array
    u: Array
    path: Array
    dot: bool
    around: str
    plain: bool = False
    """Its leader goes on from a dimension line, without an arrow."""

    def occupies(self) -> Array:
        return np.concatenate([self.layout.corners(self.low, self.u), self.path])

    def under(self) -> Under:
        more = 0.0 if not self.layout.below else 1.6 * self.layout.lettering
        return Under(self.low - more * np.array([-self.u[1], self.u[0]]), self.u, self.layout.width, gap=0.0)

    def draw(self, sketch: Sketch) -> None:
        self.layout.draw(sketch, self.low, self.u)
        if self.plain and len(self.path):
            for p, q in zip(self.path, self.path[1:], strict=False):
                draw_line(sketch, p, q)
        elif len(self.path) > 1:
            draw_leader(sketch, self.style, self.path, self.dot)
            for k in range({"around": 1, "over": 2}.get(self.around, 0)):
                radius = (RING - 0.2 * k) * self.layout.lettering
                sketch.stroke(curves2.circle(self.path[-2 if len(self.path) > 2 else -1], radius), "dimension")


def solve(frame: ToleranceFrame, context: LayoutContext) -> Solved:
    """What a frame says, and where it stands."""
    return placer(frame, context)(frame)


def placer(frame: ToleranceFrame, context: LayoutContext) -> Callable[[ToleranceFrame], Solved]:
    """What solves a frame for one place after another."""
    h = context.style.lettering
    layout = laid_out(frame.frame, h, frame.derived)
    words = frame_words(frame.frame, frame.derived)
    try:
        if frame.foot is not None:
            hold = hold_of(context.view, frame.foot)
            return lambda f: _led(f, hold, layout, words, context.style)
        under, _, _, refs = carried(context, frame)
    except Unmeasurable as error:
        return lost(context, frame, frame_words(frame.frame), error)

    def stacked(f: ToleranceFrame) -> Solved:
        n = under.across
        over = layout.lettering * 1.6 if layout.above else 0.0
        low = under.at(f.shift) - (layout.height + over) * n
        path = np.zeros((0, 2))
        if under.ends and layout.full + 2 > under.room and abs(under.along @ under.ends[0][1]) > 0.9:
            # between the extension lines is no room: in line with the dimension line
            end, way = max(under.ends, key=lambda e: float(e[1] @ under.along))
            to = end + (OUT + max(0.0, f.shift[0])) * way + f.shift[1] * n
            knee = [end + OUT / 2 * way] if f.shift[1] else []
            low, path = to - layout.height / 2 * n, np.array([end, *knee, to])
        return SolvedFrame(
            words=words,
            stands_on=refs,
            style=context.style,
            layout=layout,
            low=low,
            u=under.along,
            path=path,
            dot=False,
            around=f.frame.around,
            plain=True,
        )

    return stacked


def _led(frame: ToleranceFrame, hold: Hold, layout: FrameLayout, words: str, style: Style) -> SolvedFrame:
    """A frame on a leader to geometry."""
    to = hold.tip + max(frame.offset, 2 * style.arrow) * way_at(frame.angle)
    path = leader_path(hold, to, style, square=True)
    # it stands on the side of the leader's end, with all that stands beside it
    aside = 0.0 if to[0] >= path[-2][0] - 1e-9 else layout.full
    low = to - np.array([aside, layout.height / 2])
    return SolvedFrame(
        words=words,
        stands_on=hold.stands_on,
        style=style,
        layout=layout,
        low=low,
        u=np.array([1.0, 0.0]),
        path=path,
        dot=hold.dot,
        around=frame.frame.around,
    )
