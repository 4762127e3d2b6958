"""Pitch circles, and lines midway, of symmetry, or from place to place."""

from __future__ import annotations

from contextlib import suppress
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..bounds import FEW, Ref
from ..drawing import Anchor, AnyAnnotation, Drawing, Operation, Tie
from ..drawing.annotations.drawn_line import DrawnLine, LinePlace
from ..drawing.annotations.pitch_circle import PitchCircle
from ..drawing.base import Point
from ..drawing.cutting import tie_of
from ..drawing.operations import Annotate, need_view
from ..errors import Unmeasurable, UserError
from ..geometry.circles import circle_through, gaps_about
from ..kinds import solve
from ..measuring.anchor_geometry import resolve
from ..measuring.centres import round_features
from ..measuring.picking import Pick, anchor_for
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from .base import ActContext, AnyAct, Preview, annotation_shown


class PitchCircles(AnyAct):
    """The pitch circle through the centres of ``refs``, or, without them, those of all rings of holes and bosses of a view
    that have none yet."""

    act: Literal["pitch_circles"] = "pitch_circles"
    view: Ref
    refs: Annotated[list[Ref], Field(max_length=FEW)] = []

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        projected = acting.projections.placed_views(drawing, sheet)[view.id].projected
        have = [set(a.refs) for a in sheet.annotations if isinstance(a, PitchCircle) and a.on == view.id]
        if self.refs:
            if len(set(self.refs)) < 3:
                raise UserError("Three centres are needed", "Choose three circles or more, with Shift.")
            rings = [list(dict.fromkeys(self.refs))]
        else:
            rings = [r for r in hole_rings(projected) if not any(len(set(r) & h) >= 3 for h in have)]
        if not rings:
            raise UserError("There is no ring of holes", "Three holes alike, evenly about a centre, make one.")
        ids = drawing.fresh(len(rings))
        made: list[AnyAnnotation] = [
            PitchCircle(id=i, on=view.id, refs=refs) for i, refs in zip(ids, rings, strict=True)
        ]
        context, _ = acting.context(drawing, sheet, view.id)
        if any(solve(circle, context).loose for circle in made):
            raise UserError("These centres lie on no circle", "Choose circles about one centre, seen face on.")
        return Annotate(sheet=sheet.id, annotations=made)


def hole_rings(projected: ProjectedScene) -> list[list[str]]:
    """Rings of round features alike, three or more evenly about their middle, or about another round feature."""
    marks, _ = round_features(projected)
    spots: list[tuple[str, np.ndarray, float]] = []
    for ref in marks:
        try:
            anchor_geometry = resolve(projected, Anchor(ref=ref, at="round"))
        except Unmeasurable:
            continue
        spots.append((ref, anchor_geometry.points[0], anchor_geometry.radius))
    near = 1e-5 * projected.whole.size
    found: list[list[str]] = []
    sizes = sorted({round(r / near / 10) for _, _, r in spots})
    for size in sizes:
        alike = [(ref, p) for ref, p, r in spots if round(r / near / 10) == size]
        if len(alike) < 3:
            continue
        middles = [p for _, p, r in spots if round(r / near / 10) != size]
        middles.append(np.mean([p for _, p in alike], axis=0))
        used: set[str] = set()
        for middle in middles:
            by_reach: dict[int, list[str]] = {}
            for ref, p in alike:
                if ref not in used:
                    by_reach.setdefault(round(float(np.linalg.norm(p - middle)) / near / 10), []).append(ref)
            for refs in by_reach.values():
                points = np.array([p for ref, p in alike if ref in refs])
                circle = circle_through(points) if len(refs) >= 3 else None
                if circle is not None and np.linalg.norm(circle[0] - middle) < 100 * near and _about(points - middle):
                    found.append(refs)
                    used |= set(refs)
    return found


def _about(points: np.ndarray) -> bool:
    """True where points (n, 2) lie all round zero: no gap between neighbours is half a turn."""
    return bool(gaps_about(points).max() < np.pi * 0.999)


class DrawLine(AnyAct):
    """A line ``midway`` between two edges or axes, from one place ``to`` another, or of ``symmetry`` (without places)."""

    act: Literal["draw_line"] = "draw_line"
    view: Ref
    form: Literal["midway", "to", "symmetry"]
    axis: Literal["x", "y"] = "x"
    refs: Annotated[list[Ref], Field(max_length=2)] = []
    ats: Annotated[list[Ref], Field(max_length=2)] = []
    spots: Annotated[list[Point], Field(max_length=2)] = []
    """Where a hand has pointed (mm of the sheet): a line from place to place may begin and end anywhere."""

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, _ = need_view(drawing, self.view)
        return annotation_shown(drawing, acting, sheet, self._made(drawing, acting))

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, _ = need_view(drawing, self.view)
        return Annotate(sheet=sheet.id, annotations=[self._made(drawing, acting)])

    def _made(self, drawing: Drawing, acting: ActContext) -> DrawnLine:
        sheet, view = need_view(drawing, self.view)
        if self.form != "symmetry" and (len(self.refs) != 2 or len(self.ats) != 2):
            raise UserError("Two places are needed", "Choose two edges, two axes or two points.")
        ties: list[Tie] = []
        places: list[LinePlace] = []
        if self.spots:
            placed_view = acting.projections.placed_views(drawing, sheet)[view.id]
            if self.form != "to" or len(self.spots) != 2:
                raise UserError("Two places are needed", "Show both ends of the line.")
            places = [_place(placed_view, r, a, p) for r, a, p in zip(self.refs, self.ats, self.spots, strict=True)]
        elif self.form != "symmetry":
            ties = [t for t in map(tie_of, self.refs, self.ats) if t is not None]
        (own,) = drawing.fresh()
        line = DrawnLine(id=own, on=view.id, form=self.form, ties=ties, places=places, axis=self.axis)
        context, _ = acting.context(drawing, sheet, view.id)
        if solve(line, context).loose:
            raise UserError(
                "There is no line between these",
                "Choose two straight edges or axes for a line midway, two different points for one between them.",
            )
        return line


def _place(placed_view: PlacedView, ref: str, at: str, spot: Point) -> LinePlace:
    """Where a line begins or ends that a hand has shown: at what it has caught there, else where it is."""
    here = np.array(spot) - placed_view.transform.place
    x, y = placed_view.still().transform.from_sheet(here[None])[0]
    kind, row = placed_view.projected.part.find(ref) or ("", 0)
    if kind == "edge" and not at:
        return LinePlace(anchor=Anchor(ref=ref, at="along", share=_share(placed_view.projected, row, np.array([x, y]))))
    if ref:
        with suppress(Unmeasurable):
            anchor = anchor_for(placed_view, Pick(ref, float(here[0]), float(here[1]), at))
            if anchor.at not in ("line", "outline"):
                resolve(placed_view.projected, anchor)
                return LinePlace(anchor=anchor)
    return LinePlace(at=(round(float(x), 6), round(float(y), 6)))


def _share(projected: ProjectedScene, row: int, place: np.ndarray) -> float:
    """At which share of an edge, by its parameter, it comes nearest to a place (2,) of a view, mm."""
    curve, low, high = projected.part.edges[row].curve, 0.0, 1.0
    for _ in range(6):
        shares = np.linspace(low, high, 65)
        flat = projected.flat_each(curve.points(curve.t0 + shares * (curve.t1 - curve.t0)))
        k = int(np.argmin(np.linalg.norm(flat - place, axis=1)))
        low, high = shares[max(k - 1, 0)], shares[min(k + 1, 64)]
    return round(float(shares[k]), 9)
