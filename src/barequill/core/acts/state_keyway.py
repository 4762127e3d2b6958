"""The sizes of a keyway, each in the view that shows it best."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import Any, Literal

import numpy as np

from ..bounds import Ref
from ..drawing import Anchor, Dimension, Drawing, Operation, Place, SectionView, Sheet
from ..drawing.operations import Annotate, Group
from ..errors import BadOperation, Unmeasurable, UserError
from ..features.faces import normal_of
from ..features.keyways import Keyway, keyway_at
from ..features.rings import facing_in
from ..geometry.vectors import cross
from ..measuring.anchor_geometry import pierced_at
from ..measuring.context import LayoutContext
from ..measuring.extremes import free_row
from ..measuring.measuring import Linear, measure
from ..part.model import Array, Part
from ..standards.keys import WIDTHS, Seat, depth_tolerance
from ..values import value
from .base import ActContext, AnyAct

Changes = dict[str, Any]


@value
class _Shown:
    """A keyway as a view shows it: the view lies along its ``axis``, looks into it (``into``), or sees it from the ``side``; ``cut`` where
    a section goes across it."""

    context: LayoutContext
    lies: Literal["axis", "into", "side"]
    front: bool
    cut: bool


class StateKeyway(AnyAct):
    """The sizes of the keyway that an edge or face of it names: its width with the class of its ``seat``, its depth from the far side
    (ISO 773: d − t of a shaft, d + t of a bore), its length, and its place from the nearest end or shoulder; each in that view of the sheet
    which shows it best."""

    act: Literal["state_keyway"] = "state_keyway"
    view: Ref
    ref: Ref
    seat: Seat = "normal"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = drawing.sheet_of(self.view)
        view = None if sheet is None else sheet.view(self.view)
        if sheet is None or view is None:
            raise BadOperation("The view is gone", "Choose another view.")
        part = acting.projections.part(view.part)
        way = keyway_at(part, self.ref)
        if way is None:
            raise UserError("That is no keyway", "Point at the bottom, a side or an end of one.")
        contexts = [acting.context(drawing, sheet, v.id)[0] for v in sheet.views if v.part == view.part]
        contexts.sort(key=lambda c: c.view.view.id != self.view)
        shown = [s for c in contexts if (s := _shown(c, way)) is not None]
        ids = drawing.fresh(4)
        made: list[Dimension] = []
        left: list[str] = []
        for name, order, wish in _wishes(part, way, self.seat):
            found = self._stated(sheet, sorted(shown, key=order), order, wish, ids[len(made)], made)
            if found is None:
                left.append(name)
            else:
                made.append(found)
        if not made:
            raise UserError("No view shows its sizes", "Place a view onto the keyway, or a section across it.")
        new = [d for d in made if not any(_same(d, a) for a in sheet.annotations)]
        if not new:
            raise UserError("Its sizes are there already", "Nothing was added.")
        operation = Annotate(sheet=sheet.id, annotations=list(new))
        label = "State the sizes of a keyway" + (f", but not its {' and its '.join(left)}" if left else "")
        return Group(label=label, operations=[operation])

    def _stated(
        self,
        sheet: Sheet,
        shown: list[_Shown],
        order: Callable[[_Shown], float],
        wish: Callable[[_Shown], Changes | None],
        own: str,
        before: list[Dimension],
    ) -> Dimension | None:
        """A size in the first of the views that can show it."""
        for s in (s for s in shown if order(s) < np.inf):
            changes = wish(s)
            if changes is None:
                continue
            made = Dimension.model_validate({"id": own, "on": s.context.view.view.id, "measure": "distance"} | changes)
            with suppress(Unmeasurable):
                found = measure(s.context.view.projected, made)
                assert isinstance(found, Linear)
                there = sheet.model_copy(update={"annotations": [*sheet.annotations, *before]})
                side, offset = free_row(s.context, there, found)
                return made.model_copy(update={"place": Place.model_validate({"side": side, "offset": offset})})
        return None


def _shown(context: LayoutContext, way: Keyway) -> _Shown | None:
    """How a view shows a keyway; None where it shows it aslant."""
    projected = context.view.projected
    toward, n = projected.view.toward, cross(way.axis, way.out)
    if projected.pictorial:
        return None
    section = isinstance(context.view.view, SectionView)
    edges = [e for f in way.sides for e in projected.whole.faces[f].boundary]
    cut = section and any(
        projected.whole.edges[e].curve.kind == "line" and pierced_at(projected, e) for e in dict.fromkeys(edges)
    )
    if abs(float(toward @ way.axis)) > 1 - 1e-9:
        return _Shown(context, "axis", True, cut)
    if abs(float(toward @ way.out)) > 1 - 1e-9:
        return _Shown(context, "into", float(toward @ way.out) * (-1 if way.inside else 1) > 0, cut)
    return _Shown(context, "side", True, cut) if abs(float(toward @ n)) > 1 - 1e-9 else None


def _wishes(
    part: Part, way: Keyway, seat: Seat
) -> list[tuple[str, Callable[[_Shown], float], Callable[[_Shown], Changes | None]]]:
    """Each size by name, how well a view shows it (the less the better, infinite where not at all), and what it is there."""
    side_of: Literal["shaft", "hub"] = "hub" if way.inside else "shaft"
    along_out = _edge_along(part, way.sides, way.out)
    deeper = depth_tolerance(way.width)
    found: list[tuple[str, Callable[[_Shown], float], Callable[[_Shown], Changes | None]]] = []

    def rank(axis: float, into: float, side: float) -> Callable[[_Shown], float]:
        def of(s: _Shown) -> float:
            base = {"axis": axis, "into": into, "side": side}[s.lies]
            # along the axis a cut across it, or where it runs out, shows it without hidden lines
            seen = s.cut or None in way.ends or s.lies != "axis"
            return base + (0 if seen else 10) + (0 if s.front else 5)

        return of

    def width(s: _Shown) -> Changes | None:
        across = s.lies == "axis" and s.cut
        seen = way.out if across else s.context.view.projected.view.toward
        run = way.out if s.lies == "axis" and not s.cut else way.axis
        refs = [_edge_in(part, f, run, seen) for f in way.sides]
        anchors = [Anchor(ref=r, at="pierced" if across else "line") for r in refs if r]
        fit = {"kind": "fit", "fit": WIDTHS[side_of, seat]}
        return {"anchors": anchors, "tolerance": fit} if len(anchors) == 2 else None

    def depth(s: _Shown) -> Changes | None:
        if along_out is None:
            return None
        angle = _angle(s, way.out)
        ends = (way.bottom, angle), (_far_side(part, way), angle + 180)
        anchors = [Anchor(ref=part.faces[f].ref, at="farthest", angle=a % 360) for f, a in ends]
        changes: Changes = {"anchors": anchors, "along": along_out}
        if deeper is not None:
            upper, lower = (deeper, 0.0) if way.inside else (0.0, -deeper)
            changes["tolerance"] = {"kind": "unequal", "upper": upper, "lower": lower}
        return changes

    found.append(("width", rank(0, 1, np.inf), width))
    found.append(("depth", rank(0, np.inf, 1), depth))
    near = _near_end(part, way)
    closed = [e for e in way.ends if e is not None]
    if closed and not (way.inside and len(closed) < 2):

        def length(s: _Shown) -> Changes | None:
            return _along_axis(s, part, way, (_end(part, way, 0), _end(part, way, 1)))

        found.append(("length", rank(np.inf, 0, 1), length))
    if len(closed) == 2 and near is not None:
        shoulder, k = near

        def place(s: _Shown) -> Changes | None:
            return _along_axis(s, part, way, (shoulder, _end(part, way, k)), (2 * k - 1, 2 * k - 1))

        found.append(("place", rank(np.inf, 0, 1), place))
    return found


def _along_axis(
    s: _Shown, part: Part, way: Keyway, faces: tuple[int, int], senses: tuple[int, int] = (-1, 1)
) -> Changes:
    """A distance along the axis between the farthest places of two faces, each in its sense."""
    angle = _angle(s, way.axis)
    ends = [(f, angle if sense > 0 else angle + 180) for f, sense in zip(faces, senses, strict=True)]
    anchors = [Anchor(ref=part.faces[f].ref, at="farthest", angle=a % 360) for f, a in ends]
    return {"anchors": anchors, "along": part.faces[way.cylinder].ref}


def _angle(s: _Shown, way: Array) -> float:
    """A way in space as degrees from the right of a view."""
    view = s.context.view.projected.view
    return round(float(np.degrees(np.arctan2(way @ view.up, way @ view.right))), 6)


def _end(part: Part, way: Keyway, k: int) -> int:
    """The face at an end of a keyway: its own, or a side where it runs out."""
    own = way.ends[k]
    return way.sides[0] if own is None else own


def _far_side(part: Part, way: Keyway) -> int:
    """The face of the cylinder across from the bottom: a cylinder may be in halves."""
    s = part.faces[way.cylinder].surface
    alike = [
        k
        for k, f in enumerate(part.faces)
        if f.surface.kind == "cylinder"
        and abs(f.surface.radius - s.radius) < 1e-6 * part.size
        and facing_in(part, k) == way.inside
        and np.linalg.norm(cross(way.axis, f.surface.origin - s.origin)) < 1e-6 * part.size
        and _spans(part, k, way)
    ]
    return min(alike, key=lambda k: float((part.mesh.nodes[part.faces[k].nodes] @ way.out).min()), default=way.cylinder)


def _spans(part: Part, row: int, way: Keyway) -> bool:
    """True for a face that lies, along the axis, where the keyway does."""
    heights = (part.mesh.nodes[part.faces[row].nodes] - part.faces[way.cylinder].surface.origin) @ way.axis
    return bool(len(heights) and heights.min() < way.high and heights.max() > way.low)


def _near_end(part: Part, way: Keyway) -> tuple[int, int] | None:
    """The flat end or shoulder next to the keyway on its cylinder, and at which of its ends (0, 1) that is."""
    found = []
    for k, (level, sense) in enumerate(((way.low, -1.0), (way.high, 1.0))):
        for e in part.faces[way.cylinder].boundary:
            for f in part.edges[e].faces:
                if part.faces[f].surface.kind != "plane" or abs(float(normal_of(part, f) @ way.axis)) < 1 - 1e-9:
                    continue
                gap = sense * (
                    float((part.faces[f].surface.origin - part.faces[way.cylinder].surface.origin) @ way.axis) - level
                )
                if gap > 1e-6 * part.size:
                    found.append((gap, f, k))
    return min(found)[1:] if found else None


def _edge_along(part: Part, faces: tuple[int, ...], way: Array) -> str | None:
    """A straight edge of faces along a way."""
    rows = (e for f in faces for e in part.faces[f].boundary)
    return next((part.edges[e].ref for e in rows if _runs(part, e, way)), None)


def _runs(part: Part, edge: int, way: Array) -> bool:
    curve, points = part.edges[edge].curve, part.edges[edge].points
    gap = points[-1] - points[0]
    return curve.kind == "line" and abs(float(gap @ way)) > (1 - 1e-9) * float(np.linalg.norm(gap))


def _edge_in(part: Part, face: int, way: Array, out: Array) -> str | None:
    """Of the straight edges of a side along a way the one farthest out."""
    rows = [e for e in part.faces[face].boundary if _runs(part, e, way)]
    return part.edges[max(rows, key=lambda e: float(part.edges[e].points.mean(axis=0) @ out))].ref if rows else None


def _same(made: Dimension, other: object) -> bool:
    return isinstance(other, Dimension) and other.on == made.on and other.anchors == made.anchors
