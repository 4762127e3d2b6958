"""What a section takes away, as values: convex cells of space, each bounded by planes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..errors import UserError

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Vector = tuple[float, float, float]
HAIR = 1e-7
"""In part sizes: what lies so near to a cutting plane counts as beyond it, so that cuts along faces and edges are clear cases."""


@dataclass(frozen=True)
class CuttingPlane:
    """The plane normal · p = offset (mm, part's frame; unit normal): what lies on the side of its normal is beyond it.

    One that is ``shown`` lays open cut faces, with lines about them; another, such as the step of an offset section,
    leaves no line.
    """

    normal: Vector
    offset: float
    shown: bool = True


@dataclass(frozen=True)
class Cell:
    """What lies beyond all of its cutting planes."""

    cutting_planes: tuple[CuttingPlane, ...]


class CuttingPlanes(NamedTuple):
    """The w cutting planes of a cut as the loops take them: ``normals`` (w, 3) and ``offsets`` (w,), mm; the ``first`` (c + 1,) of each
    cell; for each the first of its ``group`` (w,): those in the same plane that lay open faces to the same side."""

    normals: Array
    offsets: Array
    first: Ints
    group: Ints


@dataclass(frozen=True)
class Cut:
    """What lies in any of the ``cells`` is taken away, but of bodies named in ``whole`` nothing.

    With ``bare`` nothing but the cut faces is left.
    """

    cells: tuple[Cell, ...] = ()
    whole: tuple[str, ...] = ()
    bare: bool = False

    def __bool__(self) -> bool:
        return bool(self.cells)

    @cached_property
    def _hash(self) -> int:
        return hash((self.cells, self.whole, self.bare))

    def __hash__(self) -> int:
        return self._hash

    def __reduce__(self) -> tuple[Any, ...]:
        # what is kept of it stays in its process, where alone names have the same hash
        return Cut, (self.cells, self.whole, self.bare)

    @cached_property
    def cutting_planes(self) -> list[CuttingPlane]:
        """All cutting planes, cell after cell."""
        return [w for c in self.cells for w in c.cutting_planes]

    @property
    def normals(self) -> Array:
        """Unit normals (w, 3) of all cutting planes."""
        return self.arrays.normals

    @property
    def offsets(self) -> Array:
        """Offsets (w,) of all cutting planes, mm."""
        return self.arrays.offsets

    @property
    def first(self) -> Ints:
        """The first cutting plane (c + 1,) of each cell."""
        return self.arrays.first

    @property
    def group(self) -> Ints:
        """For each cutting plane (w,) the first of those in the same plane that lay open faces to the same side, itself where it lays
        open none: what lies side by side in one plane is one face."""
        return self.arrays.group

    @cached_property
    def arrays(self) -> CuttingPlanes:
        """All cutting planes as the loops take them."""
        cutting_planes = self.cutting_planes
        alike: dict[tuple[float, ...], int] = {}
        group = [0] * len(cutting_planes)
        for k, w in enumerate(cutting_planes) if len(cutting_planes) > 1 else ():
            plane = tuple(round(x, 9) + 0.0 for x in (*w.normal, w.offset))
            group[k] = alike.setdefault(plane, k) if w.shown else k
        return CuttingPlanes(
            np.array([w.normal for w in cutting_planes], float).reshape(-1, 3),
            np.array([w.offset for w in cutting_planes], float),
            np.array([0, *accumulate(len(c.cutting_planes) for c in self.cells)], np.int64),
            np.array(group, np.int64),
        )

    def text(self) -> str:
        """All of it as one line, for names that go by content."""
        cells = ";".join(
            " ".join(f"{x:.9f}" for w in c.cutting_planes for x in (*w.normal, w.offset, float(w.shown)))
            for c in self.cells
        )
        return f"{cells}|{int(self.bare)}|" + "\n".join(sorted(self.whole))

    def takes(self, points: Array, hair: float) -> NDArray[np.bool_]:
        """True (m,) for points (m, 3) that are taken away, also those within ``hair`` (mm) of being so."""
        found = np.zeros(len(points), bool)
        for cell in self.cells:
            inside = np.ones(len(points), bool)
            for cutting_plane in cell.cutting_planes:
                inside &= points @ np.array(cutting_plane.normal) - cutting_plane.offset > -hair
            found |= inside
        return found


NO_CUT = Cut()


def cutting_plane(point: ArrayLike, normal: ArrayLike, shown: bool = True) -> CuttingPlane:
    """The cutting plane through a point (3,; mm in the frame of the part), which takes away what lies beyond it: on the side to which its
    normal (3,) points. One that is not ``shown`` lays nothing open.

    Raises
    ------
    UserError
        Where the normal has no length.
    """
    p, n = np.asarray(point, float), np.asarray(normal, float)
    if p.shape != (3,) or n.shape != (3,) or not np.isfinite([p, n]).all() or np.linalg.norm(n) < 1e-12:
        raise UserError(
            "The cutting plane has no direction", "Give a point and a normal, three numbers each, such as 0,0,5:0,0,1."
        )
    n = n / np.linalg.norm(n)
    n[np.abs(n) < 1e-15] = 0.0
    return CuttingPlane((float(n[0]), float(n[1]), float(n[2])), float(p @ n), shown)


def beyond(planes: Iterable[tuple[ArrayLike, ArrayLike]]) -> Cut:
    """The cut that takes away what lies beyond all of the planes at once, each told by a point (3,; mm) and a normal (3,)."""
    cutting_planes = tuple(cutting_plane(p, n) for p, n in planes)
    return Cut((Cell(cutting_planes),)) if cutting_planes else NO_CUT
