"""Keyways of a part: a flat bottom between two flat sides, in a shaft or a bore."""

from __future__ import annotations

import numpy as np

from ..geometry.vectors import cross
from ..part.model import Array, Part
from ..values import value
from .faces import faces_beside, normal_of
from .rings import facing_in

FLAT = 1 - 1e-9


@value
class Keyway:
    """``bottom``, ``sides`` and the ``cylinder`` that it is in are rows of faces; ``inside`` is true of a bore. ``axis`` is that of the
    cylinder, ``out`` the unit way from there to the opening of a shaft's, and to the bottom of a bore's; ``low`` and ``high`` are
    its ends along the axis, mm from the cylinder's origin; ``ends`` the round or flat faces at these, None where it runs out."""

    bottom: int
    sides: tuple[int, int]
    cylinder: int
    inside: bool
    axis: Array
    out: Array
    low: float
    high: float
    ends: tuple[int | None, int | None]
    width: float
    across: float
    """From the bottom to the far side of the cylinder, mm: d − t of a shaft, d + t of a bore."""

    @property
    def length(self) -> float:
        """mm over all."""
        return self.high - self.low


def keyway_at(part: Part, ref: str) -> Keyway | None:
    """The keyway that a face, or an edge beside it, belongs to; None where there is none."""
    for row in faces_beside(part, ref):
        for bottom in (row, *_beside(part, row)):
            found = _with_bottom(part, bottom)
            if found is not None and row in (found.bottom, *found.sides, *found.ends):
                return found
    return None


def _beside(part: Part, row: int) -> list[int]:
    return list(dict.fromkeys(f for e in part.faces[row].boundary for f in part.edges[e].faces if f != row))


def _with_bottom(part: Part, row: int) -> Keyway | None:
    """The keyway whose bottom a face is."""
    if part.faces[row].surface.kind != "plane":
        return None
    up, near = normal_of(part, row), 1e-6 * part.size
    walls = [f for f in _beside(part, row) if part.faces[f].surface.kind == "plane"]
    walls = [f for f in walls if abs(float(normal_of(part, f) @ up)) < 1e-9]
    for k, one in enumerate(walls):
        for two in walls[k + 1 :]:
            n = normal_of(part, one)
            gap = part.faces[two].surface.origin - part.faces[one].surface.origin
            # sides face each other across the bottom
            if float(n @ normal_of(part, two)) > -FLAT or float(gap @ n) <= near:
                continue
            for round_ in _beside(part, one):
                s = part.faces[round_].surface
                if (
                    s.kind == "cylinder"
                    and round_ in _beside(part, two)
                    and abs(float(s.axes[2] @ cross(n, up))) > FLAT
                ):
                    return _keyway(part, row, (one, two), round_)
    return None


def _keyway(part: Part, row: int, sides: tuple[int, int], round_: int) -> Keyway:
    s, mesh = part.faces[round_].surface, part.mesh
    axis, inside = s.axes[2], facing_in(part, round_)
    up = normal_of(part, row)
    out = -up if inside else up
    middle = float((part.faces[row].surface.origin - s.origin) @ up)
    points = [mesh.nodes[part.faces[f].nodes] for f in (row, *sides)]
    reach = np.concatenate(points) @ axis - s.origin @ axis
    ends: list[int | None] = []
    bounds = [float(reach.min()), float(reach.max())]
    for k, sense in enumerate((-1.0, 1.0)):
        own = [f for f in _beside(part, row) if f not in (*sides, round_) and _ends_it(part, f, up, sense * axis)]
        levels = {f: sense * (mesh.nodes[part.faces[f].nodes] @ axis - s.origin @ axis) for f in own}
        at_end = [f for f in own if levels[f].max() >= sense * bounds[k] - 1e-3 * part.size]
        end = max(at_end, key=lambda f: float(levels[f].max()), default=None)
        ends.append(end)
        if end is not None:
            t = part.faces[end].surface
            if t.kind == "cylinder":
                bounds[k] = float((t.origin - s.origin) @ axis) + sense * t.radius
            else:
                bounds[k] = sense * float(levels[end].max())
    gap = part.faces[sides[1]].surface.origin - part.faces[sides[0]].surface.origin
    width = float(gap @ normal_of(part, sides[0]))
    across = s.radius + (-middle if inside else middle)
    return Keyway(
        bottom=row,
        sides=sides,
        cylinder=round_,
        inside=inside,
        axis=axis,
        out=out,
        low=bounds[0],
        high=bounds[1],
        ends=(ends[0], ends[1]),
        width=width,
        across=across,
    )


def _ends_it(part: Part, row: int, up: Array, outward: Array) -> bool:
    """True for what ends a keyway: a hollow half round, or a flat that looks back into it, that stands on its bottom."""
    surface = part.faces[row].surface
    if surface.kind == "cylinder":
        return facing_in(part, row) and abs(float(surface.axes[2] @ up)) > FLAT
    return surface.kind == "plane" and float(normal_of(part, row) @ outward) < -FLAT
