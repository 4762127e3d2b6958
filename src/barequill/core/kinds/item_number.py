"""Item numbers: in rings, underlined or bare, at the end of a leader (ISO 6433)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..display.lettering import text_width
from ..drawing.annotations.item_number import ItemNumber
from ..errors import Unmeasurable
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..values import value
from .common.hanging import Hold, carried, draw_leader, hold_of, lost
from .common.solving import Array, Solved, draw_line, way_at

LARGER = float(np.sqrt(2))
"""An item number is larger than the lettering of sizes by this (ISO 6433)."""
AIR = 0.5
"""Heights of the number between it and its ring."""


@value
class SolvedNumbers(Solved):
    """Numbers with their middles (n, 2), and the leader from its tip to the first of them (k, 2)."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    texts: tuple[str, ...]
    middles: Array
    radius: float
    height: float
    form: str
    path: Array
    dot: bool

    def occupies(self) -> Array:
        reach = np.array([[self.radius, self.radius], [-self.radius, -self.radius]])
        return np.concatenate([(self.middles[:, None] + reach).reshape(-1, 2), self.path])

    def draw(self, sketch: Sketch) -> None:
        if len(self.path) > 1:
            draw_leader(sketch, self.style, self.path, self.dot)
        for text, middle in zip(self.texts, self.middles, strict=True):
            sketch.text(text, float(middle[0]), float(middle[1]) - self.height / 2, self.height, "middle")
            if self.form == "ring":
                sketch.stroke(curves2.circle(middle, self.radius), "sign")
            elif self.form == "underline":
                low = middle - [0.0, self.height / 2 + 1.0]
                half = np.array([self.radius, 0.0])
                draw_line(sketch, low - half, low + half)


def solve(own: ItemNumber, context: LayoutContext) -> Solved:
    """Which numbers are shown, and where."""
    return placer(own, context)(own)


def placer(own: ItemNumber, context: LayoutContext) -> Callable[[ItemNumber], Solved]:
    """What solves item numbers for one place after another."""
    style, height = context.style, context.style.lettering * LARGER
    by_id = {item.id: item for item in context.drawing.items}
    texts = tuple(str(by_id[i].number) for i in own.items if i in by_id)
    try:
        if len(texts) < len(own.items):
            raise Unmeasurable("Its item is gone", "Number it again, or remove it.")
        hold = hold_of(context.view, own.foot) if own.foot is not None else None
        under = carried(context, own)[0] if own.foot is None else None
    except Unmeasurable as error:
        return lost(context, own, "Item number", error)
    radius = max(max(text_width(t, height) for t in texts) / 2, height / 2) + AIR * height
    named = ", ".join(f"{by_id[i].number} {by_id[i].name}".strip() for i in own.items)
    words = f"item {named}"
    refs = hold.stands_on if hold is not None else ()

    def put(n: ItemNumber) -> Solved:
        if hold is not None:
            to, path, sense = _led(n, hold, style, radius)
        else:
            assert under is not None
            to, path, sense = under.at((n.shift[0] + radius, n.shift[1] - radius)), np.zeros((0, 2)), 1.0
        step = np.array([sense * 2 * radius, 0.0]) if n.stack == "beside" else np.array([0.0, -2 * radius])
        middles = to + np.arange(len(texts))[:, None] * step
        return SolvedNumbers(
            words=words,
            stands_on=refs,
            style=style,
            texts=texts,
            middles=middles,
            radius=radius,
            height=height,
            form=n.form,
            path=path,
            dot=hold is not None and hold.dot,
        )

    return put


def _led(n: ItemNumber, hold: Hold, style: Style, radius: float) -> tuple[Array, Array, float]:
    """The middle of the first number, its leader, and on which side of that the others follow."""
    way = way_at(n.angle)
    far = max(n.offset, 2 * style.arrow + radius)
    middle = hold.tip + far * way
    sense = 1.0 if way[0] >= -1e-9 else -1.0
    if n.form == "ring":
        return middle, np.array([hold.tip, middle - radius * way]), sense
    # to the end of the line under it, or to where that would be
    low = 0.5 * style.lettering * LARGER + 1.0
    return middle, np.array([hold.tip, middle - [sense * radius, low if n.form == "underline" else 0.0]]), sense
