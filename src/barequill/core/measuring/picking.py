"""What is pointed at in a view, as an anchor: an edge or outline as a whole, or one of its points."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor
from ..errors import Unmeasurable
from ..features.sweeps import Sweep, sweep_beside, sweep_of_edge
from ..geometry.vectors import cross
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from .anchor_geometry import bore_of, cylinder_reach, outline_normal, pieces_of_outline, straight_here

Array = NDArray[np.float64]
WHOLE = 0.9995
NEARLY = 0.97
"""In diameters: how far a cylinder must reach across to be measured by its diameter, and its rim; a keyway that runs out
at the end of a shaft takes less from it than a flat."""


@dataclass(frozen=True)
class Pick:
    """Something pointed at: a lasting reference, where on it (sheet mm), and a point of it if one was caught."""

    ref: str
    x: float
    y: float
    at: str = ""


def anchor_for(placed_view: PlacedView, pick: Pick) -> Anchor:
    """The anchor that a pick means in a view.

    Raises
    ------
    Unmeasurable
        Where the picked entity carries no dimension.
    """
    projected = placed_view.projected
    found = projected.part.find(pick.ref)
    if found is None:
        raise Unmeasurable("Nothing there", "The part holds no such geometry any more.")
    kind, row = found
    if kind == "vertex":
        return Anchor(ref=pick.ref, at="point")
    where, _, detail = pick.at.partition(":")
    if where == "rim":
        try:
            return Anchor(ref=pick.ref, at="rim", angle=float(detail))
        except ValueError:
            raise Unmeasurable("Nothing there", f"{detail} is no angle; point at the circle again.") from None
    if where == "cross":
        return Anchor(ref=pick.ref, at="cross", other=detail)
    if where in ("meet", "pierced", "along"):
        share, _, other = detail.partition(":")
        try:
            return Anchor(ref=pick.ref, at=where, other=other, share=float(share))  # type: ignore[arg-type]
        except ValueError:
            raise Unmeasurable("Nothing there", f"{share} is no place on it; point at it again.") from None
    if kind == "edge" and not projected.part.edges[row].curve.is_circle and pick.at in ("", "centre"):
        bore = bore_of(projected, row)
        if bore is not None:
            return Anchor(ref=projected.part.faces[bore].ref, at="round" if pick.at == "" else "centre")
    if pick.at in ("start", "end", "middle", "centre"):
        return Anchor(ref=pick.ref, at=pick.at)  # type: ignore[arg-type]
    if kind == "edge":
        curve = projected.part.edges[row].curve
        if curve.kind == "line" or shows_as_side(projected, row):
            return Anchor(ref=pick.ref, at="line")
        if curve.is_circle:
            return Anchor(ref=pick.ref, at="round")
        raise Unmeasurable("No size of its own", "This edge is neither straight nor round; take its end points.")
    surface = projected.part.faces[row].surface
    if pick.at in ("axis", "centre") and surface.kind in ("cylinder", "cone"):
        return Anchor(ref=pick.ref, at=pick.at)  # type: ignore[arg-type]
    if surface.kind == "sphere":
        return Anchor(ref=pick.ref, at="round")
    if surface.kind not in ("cylinder", "cone"):
        raise Unmeasurable("No size of its own", "This outline is neither straight nor round.")
    ends, radii = cylinder_reach(projected, row)
    there = {side: pieces_of_outline(projected, row, side) for side in (1, -1)}

    def line(side: int) -> Array:
        return ends + radii[:, None] * outline_normal(projected, surface.axes[2], side)

    # of one that is there on one side only it is that, however fine it is
    sides = [side for side, pieces in there.items() if pieces] or [1, -1]
    best = min(sides, key=lambda side: _gap(placed_view, line(side), pick))
    at = 0.0
    if len(there[best]) > 1:
        a, b = placed_view.on_sheet(line(best))
        along = float((np.array([pick.x, pick.y]) - a) @ (b - a)) / max(float((b - a) @ (b - a)), 1e-12)
        at = round(min(max(along, 0.0), 1.0), 4)
    return Anchor(ref=pick.ref, at="outline", side=best, share=at)  # type: ignore[arg-type]


def arc_in_line(projected: ProjectedScene, ref: str) -> bool:
    """True for an arc or circle that a view shows as a straight line."""
    kind, row = projected.part.find(ref) or ("", 0)
    if kind != "edge" or not projected.part.edges[row].curve.is_circle:
        return False
    return straight_here(projected, projected.part.edges[row].curve) is not None


def shows_as_side(projected: ProjectedScene, row: int) -> bool:
    """True for a bent edge that a view shows as a straight side of the part: what lies in line with the sight, but for
    circles, and arcs beyond half a turn of which both ends of the diameter are there."""
    curve = projected.part.edges[row].curve
    if curve.kind == "line" or straight_here(projected, curve) is None:
        return False
    return not curve.is_circle or not rim_across(projected, row)


def rim_across(projected: ProjectedScene, row: int) -> bool:
    """True for a circle or arc that is told by its diameter where it is not seen face on: with what lies on the same circle
    it goes beyond half a turn and nearly reaches both ends of the diameter, at which its cylinder, if not itself, is there."""
    part = projected.part
    own, beside = sweep_of_edge(part, row), sweep_beside(part, row)
    return own.beyond_half and reach_across(projected, own) > NEARLY and reach_across(projected, beside) > WHOLE


def reach_across(projected: ProjectedScene, sweep: Sweep) -> float:
    """How much (of 1) of the diameter that a view shows something round reaches over, to both sides of its axis."""
    across = cross(projected.view.toward, sweep.frame[2])
    if float(np.linalg.norm(across)) < 1e-9:
        return 1.0
    return (sweep.reach(across) + sweep.reach(-across)) / 2


def _gap(placed_view: PlacedView, space: Array, pick: Pick) -> float:
    a, b = placed_view.on_sheet(space)
    u = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
    p = np.array([pick.x, pick.y]) - a
    return float(abs(u[0] * p[1] - u[1] * p[0]))
