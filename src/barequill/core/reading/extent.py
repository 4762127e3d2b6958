"""How large the shapes of the kernel are, before anything is made of them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from ..errors import BadPartFile
from ..part.model import Array
from .kernel_geometry import xyz

WIDE = 2.5
"""How many times as large as their vertices are apart a box of shapes is taken as it is."""


def rough_box(shapes: list[Any]) -> tuple[Array, Array]:
    """The corners (3,) of a box that holds shapes, and may be larger than they are, but not by much: the poles of a face of free form
    may lie many times as far out as the face itself, and the mesh goes by the size.

    Raises
    ------
    BadPartFile
        Where there is nothing in them.
    """
    box = Bnd_Box()
    for shape in shapes:
        BRepBndLib.Add_s(shape, box, False)
    if not box.IsVoid() and _widely(box, shapes):
        box = _close_box(shapes)
    if box.IsVoid():
        raise BadPartFile("The part has no extent", "There is no geometry in it. Check the export.")
    box.SetGap(0.0)
    return xyz(box.CornerMin()), xyz(box.CornerMax())


def _corners_of(box: Any) -> tuple[Array, Array]:
    return xyz(box.CornerMin()), xyz(box.CornerMax())


def _widely(box: Any, shapes: list[Any]) -> bool:
    """True where a box is much larger than the vertices of shapes are apart."""
    points = Bnd_Box()
    for shape in shapes:
        for vertex in _explored(shape, TopAbs_ShapeEnum.TopAbs_VERTEX):
            points.Add(BRep_Tool.Pnt_s(TopoDS.Vertex(vertex)))
    if points.IsVoid():
        return False
    (low, high), (near, far) = _corners_of(box), _corners_of(points)
    return bool(np.linalg.norm(high - low) > WIDE * np.linalg.norm(far - near))


def _close_box(shapes: list[Any]) -> Any:
    """A box of shapes in which that of each face that is not plane is worked out by its surface and not by its poles."""
    box = Bnd_Box()
    for shape in shapes:
        for face in _explored(shape, TopAbs_ShapeEnum.TopAbs_FACE):
            BRepBndLib.AddOptimal_s(face, box, False, False)
    return box


def _explored(shape: Any, kind: Any) -> Iterator[Any]:
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()
