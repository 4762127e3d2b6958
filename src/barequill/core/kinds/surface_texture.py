"""Texture signs: seated on the outline from outside, else on a leader (ISO 21920-1)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..display import Sketch
from ..drawing.annotations.hung import Foot
from ..drawing.annotations.surface_texture import SurfaceTexture
from ..drawing.texture_language import texture_text
from ..errors import Unmeasurable
from ..measuring.context import LayoutContext
from ..measuring.style import Style
from ..values import value
from .common.hanging import Hold, carried, draw_leader, hold_of, leader_path, lost
from .common.solving import Array, Solved, way_at
from .common.texture_shape import SHORT, SLOPE, TextureShape

READABLE = -15.0, 105.0
"""Degrees of lettering that is read from below or from the right."""


@value
class SolvedTexture(Solved):
    """Its corner ``at`` a place, along ``u``; ``path`` (n, 2): its leader from the tip on, its last stretch under the sign."""

    words: str
    stands_on: tuple[str, ...]
    style: Style
    shape: TextureShape
    at: Array
    u: Array
    path: Array
    dot: bool

    def occupies(self) -> Array:
        return np.concatenate([self.shape.corners(self.at, self.u), self.path])

    def draw(self, sketch: Sketch) -> None:
        self.shape.draw(sketch, self.at, self.u)
        if len(self.path) > 1:
            draw_leader(sketch, self.style, self.path, self.dot)


def solve(texture: SurfaceTexture, context: LayoutContext) -> Solved:
    """Where a texture stands."""
    return placer(texture, context)(texture)


def placer(texture: SurfaceTexture, context: LayoutContext) -> Callable[[SurfaceTexture], Solved]:
    """What solves a texture for one place after another."""
    style = context.style
    words = texture_text(texture)
    shape = TextureShape(texture, style.lettering)
    holds: dict[Foot, Hold] = {}

    def led(t: SurfaceTexture) -> Solved:
        assert t.foot is not None
        if t.foot not in holds:
            holds[t.foot] = hold_of(context.view, t.foot)
        return _put(t, holds[t.foot], shape, words, style)

    try:
        if texture.foot is not None:
            led(texture)
            return led
        under, _, _, refs = carried(context, texture)
    except Unmeasurable as error:
        return lost(context, texture, f"Texture {words}", error)

    def stacked(t: SurfaceTexture) -> Solved:
        at = under.at((1.5 * style.lettering + t.shift[0], t.shift[1] - shape.high - 1.0))
        return SolvedTexture(
            words=words,
            stands_on=refs,
            style=style,
            shape=shape,
            at=at,
            u=under.along,
            path=np.zeros((0, 2)),
            dot=False,
        )

    return stacked


def seat_angle(hold: Hold) -> float | None:
    """The angle (degrees) at which a sign sits on an outline so that it can be read; None where it cannot."""
    if hold.out is None or hold.dot:
        return None
    angle = float(np.degrees(np.arctan2(hold.out[1], hold.out[0]))) - 90
    angle = (angle + 180) % 360 - 180
    return angle if READABLE[0] <= angle <= READABLE[1] else None


def _put(texture: SurfaceTexture, hold: Hold, shape: TextureShape, words: str, style: Style) -> SolvedTexture:
    seat = seat_angle(hold) if texture.seated else None
    if seat is not None:
        u = way_at(seat)
        return _made(words, hold, style, shape, (hold.tip, u, np.zeros((0, 2))))
    way = way_at(texture.angle)
    to = hold.tip + max(texture.offset, 2 * style.arrow) * way
    path = leader_path(hold, to, style, square=False)
    # the sign stands on a shelf at the end of the leader
    long = (SHORT * SLOPE + 0.4) * shape.h
    sense = 1.0 if way[0] >= -1e-9 else -1.0
    at = to + np.array([sense * long, 0.0]) if sense > 0 else to - np.array([shape.bar[1], 0.0])
    far = at + np.array([0.3 * shape.h, 0.0]) if sense > 0 else at - np.array([long, 0.0])
    return _made(words, hold, style, shape, (at, np.array([1.0, 0.0]), np.concatenate([path, far[None]])))


def _made(
    words: str, hold: Hold, style: Style, shape: TextureShape, place: tuple[Array, Array, Array]
) -> SolvedTexture:
    at, u, path = place
    return SolvedTexture(
        words=words, stands_on=hold.stands_on, style=style, shape=shape, at=at, u=u, path=path, dot=hold.dot
    )
