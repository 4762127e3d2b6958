"""The general texture: its sign, and in brackets what is stated otherwise on the drawing, as the sheets have it now."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.general_texture import GeneralTexture
from ..drawing.annotations.surface_texture import SurfaceTexture
from ..drawing.texture_language import texture_of
from ..drawing.title_fields import field_values
from ..errors import UserError
from ..geometry import curves2
from ..measuring.context import LayoutContext
from ..values import value
from .common.solving import Array, Solved
from .common.texture_shape import SHORT, SLOPE, TextureShape

SIZE = 1.4
"""How many times as large as those on the drawing its first sign is."""
GAP = 1.0
"""Lettering heights between signs."""
PLAIN = SurfaceTexture(id="p", on="s", made="any", upper="")


@value
class SolvedGeneral(Solved):
    """Its signs, each with where its corner is; the brackets stand about all but the first."""

    words: str
    stands_on: tuple[str, ...]
    lost: bool
    shapes: tuple[tuple[TextureShape, Array], ...]
    brackets: tuple[float, float, float] | None
    at: Array

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return self.lost

    def occupies(self) -> Array:
        u = np.array([1.0, 0.0])
        found = [shape.corners(at, u) for shape, at in self.shapes] or [self.at[None]]
        if self.brackets:
            found.append(np.array([[x, self.at[1] - 1.0] for x in self.brackets[:2]]))
        return np.concatenate(found)

    def draw(self, sketch: Sketch) -> None:
        for shape, at in self.shapes:
            shape.draw(sketch, at, np.array([1.0, 0.0]))
        if self.brackets is not None:
            low, high, h = self.brackets
            for x, way in ((low, 1.0), (high, -1.0)):
                turns = np.radians(np.linspace(-50, 50, 21))
                bow = np.c_[x - way * 2.6 * h * (np.cos(turns) - 1), self.at[1] + 1.3 * h + 2.6 * h * np.sin(turns)]
                sketch.stroke(curves2.polyline(bow), "dimension")


def solve(general: GeneralTexture, context: LayoutContext) -> Solved:
    """What it says, and where it stands."""
    return placer(general, context)(general)


def placer(general: GeneralTexture, context: LayoutContext) -> Callable[[GeneralTexture], Solved]:
    """What solves it for one place after another."""
    h = context.style.lettering
    said = field_values(context.drawing, context.sheet, None).get("surface", "")
    try:
        own = SurfaceTexture(id="g", on=general.on, **texture_of(said))
    except UserError:
        own = None
    others = [SurfaceTexture(id="o", on=general.on, **texture_of(t)) for t in context.textures()]
    others = [o for o in others if own is None or (o.upper, o.lower, o.made) != (own.upper, own.lower, own.made)]
    if others and not general.each:
        others = [PLAIN]
    words = said or "? no texture in the title block"

    def put(g: GeneralTexture) -> Solved:
        at = np.array(g.at, float)
        shapes: list[tuple[TextureShape, Array]] = []
        x = at[0]
        brackets = None
        for k, texture in enumerate([*([own] if own else []), *others]):
            shape = TextureShape(texture, h * SIZE if k == 0 and own is not None else h)
            if k == (1 if own is not None else 0):
                low = x + GAP * h
                x = low + GAP * h
                brackets = (low, low, h)
            left = SHORT * shape.h * SLOPE
            shapes.append((shape, np.array([x + left, at[1]])))
            x += left + max(shape.bar[1], left) + GAP * h
            if brackets is not None:
                brackets = (brackets[0], x, h)
        return SolvedGeneral(
            words=words, stands_on=(), lost=own is None, shapes=tuple(shapes), brackets=brackets, at=at
        )

    return put
