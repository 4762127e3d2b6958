"""Bodies as the kernel gave them, on their way from a file to a Part."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..values import value

Array = NDArray[np.float64]


@dataclass
class RawBody:
    """A body as the kernel gave it."""

    name: str
    shape: Any
    material: str | None = None
    density: float | None = None
    product: int = 0
    path: tuple[int, ...] = ()
    colour: str = ""
    """As ``#rrggbb``, where the file gives one."""


@value
class Twin:
    """An earlier body of the same shape, by its row, and the rotation (3, 3) and move (3,) from it to the later one."""

    row: int
    turn: Array
    by: Array


class Twins:
    """Finds bodies of one shape in several places, such as the bolts of an assembly: one is worked out, the rest moved."""

    def __init__(self) -> None:
        self._known: list[tuple[int, Any]] = []
        self._count = 0

    def find(self, shape: Any) -> Twin | None:
        """The first of the bodies asked for so far that this one repeats, None where it is new."""
        row, self._count = self._count, self._count + 1
        for earlier, first in self._known:
            if shape.IsPartner(first) and shape.Orientation() == first.Orientation():
                turn, by = placed(shape.Location().Multiplied(first.Location().Inverted()))
                if np.abs(turn @ turn.T - np.eye(3)).max() < 1e-12 and np.linalg.det(turn) > 0:
                    return Twin(earlier, turn, by)
        self._known.append((row, shape))
        return None


def placed(location: Any) -> tuple[Array, Array]:
    """Matrix (3, 3) and offset (3,) of a location."""
    return matrix_of(location.Transformation())


def moved(points: Array, trsf: Any) -> Array:
    """Points (..., 3) moved by a kernel transformation, or as they are where that is None or moves nothing."""
    from OCP.gp import gp_TrsfForm

    if trsf is None or trsf.Form() == gp_TrsfForm.gp_Identity:
        return points
    turn, by = matrix_of(trsf)
    return points @ turn.T + by


def matrix_of(trsf: Any) -> tuple[Array, Array]:
    """Matrix (3, 3) and offset (3,) of a kernel transformation."""
    matrix = np.array([[trsf.Value(r + 1, c + 1) for c in range(4)] for r in range(3)])
    return matrix[:, :3], matrix[:, 3]


def faces_of(shape: Any) -> Iterator[Any]:
    """The faces of a shape, one by one."""
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopoDS import TopoDS

    return (TopoDS.Face(found) for found in within(shape, TopAbs_ShapeEnum.TopAbs_FACE))


def within(shape: Any, kind: Any) -> Iterator[Any]:
    """What a shape holds of a kind, in order, as often as it holds it."""
    from OCP.TopExp import TopExp_Explorer

    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()
