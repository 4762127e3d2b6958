"""An auxiliary view: square onto a slanted edge or face of a view, which it shows in true size."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from ..bounds import Ref
from ..drawing import AuxiliaryView, Crop, Drawing, Operation, Outline, Sheet
from ..drawing.base import Point
from ..drawing.operations import AddViews, need_view
from ..errors import UserError
from ..part.model import Part
from ..views.cutting_lines import left_of, slant_of
from ..views.placed_view import PlacedView
from .base import ActContext, AnyAct, Preview
from .centres import with_centres
from .cutting import ground_of
from .outlining import view_shown

MARGIN = 3.0
"""mm on the sheet that a partial view shows around the slanted face."""
SAME = 1e-5
"""How far off square a face may be seen to be in true size."""


class LookSquare(AnyAct):
    """A view square onto what ``ref`` names in another, pulled ``to`` a side of it; of the slanted face alone where it is
    ``partial``, or, where that is left open, where most of the rest is foreshortened."""

    act: Literal["look_square"] = "look_square"
    view: Ref
    ref: Ref
    to: Point
    partial: bool | None = None

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view, _ = self._made(drawing, acting)
        plan = AddViews(sheet=sheet.id, views=[view])
        return with_centres(acting, drawing, plan, view)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view, words = self._made(drawing, acting)
        return view_shown(drawing, acting, sheet, view, words)

    def _made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AuxiliaryView, str]:
        sheet, parent = need_view(drawing, self.view)
        ground = ground_of(drawing, acting, parent.id)
        part, frame, transform = ground.part, ground.frame, ground.placed_view.transform
        (own,) = drawing.fresh()
        kind, row = part.find(self.ref) or ("", 0)
        straight = kind == "edge" and part.edges[row].curve.kind == "line"
        flat = kind == "face" and part.faces[row].surface.kind == "plane"
        if not (straight or flat):
            raise UserError(
                "That has no direction of its own", "Point at a straight edge, or at a plane face seen edge-on."
            )
        trial = AuxiliaryView(
            id=own, part=parent.part, parent=parent.id, place=parent.place, onto=self.ref, along=(1, 0)
        )
        way = slant_of(trial, part, frame)
        gone = np.zeros(2)
        if straight:
            curve = part.edges[row].curve
            gone = frame.flat(curve.point(curve.t1)) - frame.flat(curve.point(curve.t0))
        if straight and float(np.linalg.norm(gone)) < 1e-6 * part.size:
            raise UserError("This edge is seen end-on", "Point at one that is seen in its length.")
        look = transform.direction(left_of(way))
        out = float((np.array(self.to) - parent.place) @ look)
        # in first angle a view stands where one looks to, in third angle where one looks from
        side: Any = 1 if (out >= 0) == (drawing.angle == "first") else -1
        at = np.array(parent.place) + out * look
        view = trial.model_copy(
            update={
                "along": (float(way[0]), float(way[1])),
                "side": side,
                "place": (float(at[0]), float(at[1])),
                "bodies": parent.bodies,
            }
        )
        shown = sheet.model_copy(update={"views": [*sheet.views, view]})
        placed_view = acting.projections.placed_views(drawing.with_sheet(shown), shown)[own]
        face = _slanted(part, kind, row, placed_view)
        words = (
            "auxiliary view, square onto the slanted face"
            if face is not None
            else "auxiliary view, square onto the edge"
        )
        if face is not None and self.partial is not False:
            crop, share = _about(part, face, placed_view, way)
            if self.partial or share < 0.5:
                view = view.model_copy(update={"crop": crop})
                words += ", the rest left out"
        return sheet, view, words


def _slanted(part: Part, kind: str, row: int, placed_view: PlacedView) -> int | None:
    """The plane face that an auxiliary view shows in true size: what was pointed at, or the larger at the edge."""
    toward = placed_view.projected.view.toward
    rows = [row] if kind == "face" else [k for k, f in enumerate(part.faces) if row in f.boundary]
    rows = [k for k in rows if part.faces[k].surface.kind == "plane"]
    square = [k for k in rows if abs(float(part.faces[k].surface.axes[2] @ toward)) > 1 - SAME]
    return max(square, key=lambda k: float(np.ptp(part.mesh.nodes[part.faces[k].nodes], axis=0).sum()), default=None)


def _about(part: Part, face: int, placed_view: PlacedView, way: np.ndarray) -> tuple[Crop, float]:
    """A crop to a face with some room, along ``way`` (2,) and across it, and the share of the view that it keeps."""
    axes = np.array([way, left_of(way)])
    flat = placed_view.projected.flat_each(part.mesh.nodes[part.faces[face].nodes]) @ axes.T
    low, high = flat.min(axis=0) - MARGIN / placed_view.scale, flat.max(axis=0) + MARGIN / placed_view.scale
    whole = placed_view.projected.flat_each(part.mesh.nodes) @ axes.T
    share = float(np.prod(high - low) / max(float(np.prod(np.ptp(whole, axis=0))), 1e-12))
    middle, half = (low + high) / 2 @ axes, (high - low) / 2
    corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * half @ axes
    points = [(float(x), float(y)) for x, y in corners]
    return Crop(outline=Outline(form="corners", centre=(float(middle[0]), float(middle[1])), points=points)), share
