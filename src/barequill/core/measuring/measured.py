"""What was measured: values from the part, and where the ends lie in a view."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..errors import Unmeasurable
from ..values import value
from ..views.projected_scene import ProjectedScene

Array = NDArray[np.float64]


@value
class Linear:
    """A measure along ``along`` (2,): ``first`` and ``second`` are the points (k, 2) it may start from."""

    value: float
    along: Array
    first: Array
    second: Array
    symbol: str = ""
    slant: float | None = None
    """Of a chamfer its angle (degrees) from the measured direction."""
    across: float = 0.0
    """Of a chamfer its other length."""
    out: Array | None = None
    """The direction (2,) of its extension lines, where they are not square to it: in pictorial views."""


@value
class Round:
    """A diameter or radius of a circle seen face on."""

    value: float
    centre: Array
    radius: float
    span: tuple[float, float]
    symbol: str


@value
class Angular:
    """An angle about ``apex`` between two directions (radians, from ``start`` counter-clockwise to ``end``)."""

    value: float
    apex: Array
    start: float
    end: float
    first: Array
    second: Array


@value
class ArcLength:
    """The length of an arc seen face on, along itself."""

    value: float
    centre: Array
    radius: float
    span: tuple[float, float]
    symbol: str = "⌒"


@value
class Pointed:
    """What is said with a leader to a ``spot`` (2,): a slope or taper (1 to ``value``), a radius seen foreshortened."""

    value: float
    spot: Array
    symbol: str
    ratio: bool = False


Measure = Linear | Round | Angular | ArcLength | Pointed


def axis_of(projected: ProjectedScene, ref: str) -> Array:
    """The direction (3,) of a straight edge, or of the axis of a round face.

    Raises
    ------
    Unmeasurable
        Where the entity is gone, or has none.
    """
    kind, row = projected.part.find(ref) or ("", 0)
    if kind == "edge" and projected.part.edges[row].curve.kind == "line":
        ends = projected.part.edges[row].points[[0, -1]]
        found: Array = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        return found
    if kind == "face" and projected.part.faces[row].surface.kind in ("cylinder", "cone", "torus"):
        return projected.part.faces[row].surface.axes[2]
    raise Unmeasurable("That has no direction", "A distance is measured along a straight edge, or along an axis.")
