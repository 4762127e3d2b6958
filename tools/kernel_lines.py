"""The kernel's own hidden-line algorithm as another that the judge of the projection may judge."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np

from .bench import kernel_view

UNJUDGED = ("visible true", "hidden true", "once")
"""Shares that ask from which edge in space a line comes, which the kernel does not tell, and whether lines coincide, which it does not look
for."""


def kernel_lines(shapes: list[Any], toward: Any, up: Any) -> list[Any]:
    """What it shows and hides in a view, as curves that the judge takes: polylines in the view's plane."""
    from OCP.TopAbs import TopAbs_ShapeEnum as Kind
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    found = []
    for name, shape in kernel_view(shapes, toward, up):
        explorer = TopExp_Explorer(shape, Kind.TopAbs_EDGE)
        while explorer.More():
            edge = TopoDS.Edge(explorer.Current())
            visible, outline = name.endswith("VCompound"), name.startswith("OutLine")
            found.append(SimpleNamespace(curve=_Laid(edge), visible=visible, cls="outline" if outline else "line"))
            explorer.Next()
    return found


class _Laid:
    """An edge laid out as points."""

    def __init__(self, edge: Any) -> None:
        self.edge = edge

    def points(self, stray: float) -> np.ndarray:
        """Points (n, 2) along it, whose chords stray by so much (mm)."""
        from OCP.BRepAdaptor import BRepAdaptor_Curve
        from OCP.GCPnts import GCPnts_TangentialDeflection

        curve = BRepAdaptor_Curve(self.edge)
        laid = GCPnts_TangentialDeflection(curve, 0.1, stray)
        return np.array([laid.Value(i + 1).Coord()[:2] for i in range(laid.NbPoints())])
