"""A rib or web of a section left without hatch, pointed at in the section; pointed at again it is cut like all else."""

from __future__ import annotations

from typing import Literal

import numpy as np
import shapely

from ..bounds import Ref
from ..drawing import Drawing, Operation
from ..drawing.base import Point
from ..drawing.operations import SetView, need_view
from ..errors import BadOperation
from .base import ActContext, AnyAct


class LeaveRib(AnyAct):
    """The rib that lies under a place of a section: the smallest flat side of the part there that runs along the cut."""

    act: Literal["leave_rib"] = "leave_rib"
    view: Ref
    to: Point

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
        projected = placed_view.projected
        if not projected.scene.is_cut:
            raise BadOperation("This view is not cut", "Point at a rib in a section.")
        part, spot = projected.whole, shapely.Point(placed_view.transform.from_sheet(np.array([self.to]))[0])
        best: tuple[float, str] | None = None
        for face in part.faces:
            s = face.surface
            if s.kind != "plane" or abs(float(s.axes[2] @ projected.view.toward)) < 1 - 1e-6:
                continue
            triangles = shapely.polygons(projected.flat_each(part.mesh.nodes)[part.mesh.triangles[face.triangles]])
            if shapely.intersects(triangles, spot).any() and (best is None or face.area < best[0] - 1e-9):
                best = face.area, face.ref
        if best is None:
            raise BadOperation(
                "There is no rib there", "Point at the middle of a rib or web whose flat sides run along the cut."
            )
        ref = best[1]
        ribs = [r for r in view.ribs if r != ref] if ref in view.ribs else [*view.ribs, ref]
        return SetView(view=view.id, changes={"ribs": ribs})
