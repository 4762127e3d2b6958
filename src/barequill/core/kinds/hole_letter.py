"""Letters of holes, beside them: by which name a table of holes calls each."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.hole_letter import HoleLetter
from ..errors import Unmeasurable
from ..measuring.context import LayoutContext
from ..values import value
from .common.hanging import lost
from .common.solving import Array, Solved, draw_line, way_at
from .common.table_rows import hole_called
from .hole_note import tip_of

NEAR = 6.0
"""mm from the rim of a hole up to which its name stands there without a line."""


@value
class SolvedLetter(Solved):
    """The name, with the middle of its box, and a line to the hole where it stands away from that."""

    words: str
    stands_on: tuple[str, ...]
    text: str
    middle: Array
    h: float
    path: Array

    def occupies(self) -> Array:
        half = np.array([text_width(self.text, self.h) / 2, self.h / 2])
        return np.concatenate([np.array([self.middle - half, self.middle + half]), self.path])

    def draw(self, sketch: Sketch) -> None:
        sketch.text(self.text, float(self.middle[0]), float(self.middle[1]) - self.h / 2, self.h, "middle")
        if len(self.path) > 1:
            draw_line(sketch, self.path[0], self.path[1])


def solve(own: HoleLetter, context: LayoutContext) -> Solved:
    """Which name a hole has, and where it stands."""
    return placer(own, context)(own)


def placer(own: HoleLetter, context: LayoutContext) -> Callable[[HoleLetter], Solved]:
    """What solves a hole's name for one place after another."""
    placed_view, h = context.view, context.style.lettering
    called = hole_called(placed_view, own.hole)
    if called is None:
        return lost(context, own, "Hole", Unmeasurable("No hole there", "The part has none there any more."))
    hole, name = called.hole, called.name
    half = np.array([text_width(name, h) / 2, h / 2])

    def put(n: HoleLetter) -> Solved:
        way = way_at(n.angle)
        tip = tip_of(context, hole, n.angle)
        end = tip + max(n.offset, 1.0) * way
        # the name stands beyond the end, its box touching it
        reach = min(half[0] / max(abs(way[0]), 1e-9), half[1] / max(abs(way[1]), 1e-9))
        path = np.array([tip, end]) if n.offset > NEAR else np.zeros((0, 2))
        return SolvedLetter(f"hole {name}", (own.hole,), name, end + (reach + 0.3) * way, h, path)

    return put
