"""Sizes and threads that a part's own file names: what they are, and whether the part has them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..values import value

Array = NDArray[np.float64]
Measure = Literal["", "between", "diameter", "radius", "angle"]


@value
class NamedSize:
    """A size by its name: what it comes to (mm, degrees), how it is ``written`` where it is worked out of others, its tolerance as
    one types it, what it is in words; which ``measure`` it is of one or two ``places`` (k, 3), none where it is not shown."""

    name: str
    value: float
    written: str = ""
    tolerance: str = ""
    says: str = ""
    measure: Measure = ""
    places: tuple[tuple[float, float, float], ...] = ()


@value
class NamedThread:
    """The thread of the round face on which a place lies: its size as one types it, its length (mm), whole where that is 0."""

    place: tuple[float, float, float]
    size: str
    length: float = 0.0


def misses(size: NamedSize, near: float) -> str:
    """How far a distance of two places is from what its size says, in words; nothing where it is that within ``near`` mm, along
    the line between them or along X, Y or Z."""
    if size.measure != "between":
        return ""
    apart = np.abs(np.subtract(*np.array(size.places)))
    ways = [float(np.linalg.norm(apart)), *apart.tolist()]
    best = min(ways, key=lambda d: abs(d - abs(size.value)))
    return "" if abs(best - abs(size.value)) <= near else f"the places that it names are {best:.6g} mm apart"


def sizes_told(sizes: Sequence[NamedSize]) -> list[dict[str, object]]:
    """Sizes as plain JSON values."""
    return [
        {
            "name": s.name,
            "value": s.value,
            "written": s.written,
            "tolerance": s.tolerance,
            "says": s.says,
            "measure": s.measure,
        }
        for s in sizes
    ]
