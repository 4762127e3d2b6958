"""A dimension pulled out of geometry, and its line or text dragged."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import Coordinate, Name, Ref
from ..drawing import Anchor, AnyAnnotation, DetailView, Dimension, Drawing, Operation, Sheet
from ..drawing.annotations.dimension import Place
from ..drawing.base import Model, Point
from ..drawing.operations import Annotate, ChangeAnnotation, Group, Remove, SetView
from ..errors import BadOperation, Unmeasurable, UserError
from ..features.holes import hole_at
from ..kinds import solve
from ..kinds.common.angular import SolvedAngular
from ..kinds.common.arcs import SolvedArc
from ..kinds.common.linear import SolvedLinear
from ..measuring.anchor_geometry import resolve
from ..measuring.context import LayoutContext, root_view
from ..measuring.inference import DIRECTIONS, infer, moved_text, placed
from ..measuring.measuring import Angular, Linear, Pointed, measure
from ..measuring.picking import Pick, arc_in_line
from ..measuring.sets import STACKED, laid, members_of
from ..sheet.elements import annotation_element, blank, context_of, scene_key, view_words
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from ..views.windows import break_in_view
from .base import ActContext, AnyAct, Preview, need_dimension

ROOM = 1.5
"""mm on the sheet about lettering that stands in a gap."""
NEARBY = 30.0
"""mm on the sheet from a view within which a dimension that is dragged there is taken over."""


class PickJson(Model):
    """Something pointed at, mm from the lower left corner."""

    ref: Ref
    x: Coordinate
    y: Coordinate
    at: Ref = ""


class PullDimension(AnyAct):
    """A dimension pulled out of one or two picks to the pointer; along a third, a straight edge or an axis."""

    act: Literal["pull_dimension"] = "pull_dimension"
    view: Ref
    picks: list[PickJson] = Field(min_length=1, max_length=3)
    pointer: Point
    wish: Name = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, dimension = self._pulled(drawing, acting)
        stated = Annotate(sheet=sheet.id, annotations=[dimension])
        wider = _room_for(drawing, acting, sheet, dimension)
        return Group(label="State a size in a gap", operations=[wider, stated]) if wider else stated

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        return _shown(drawing, acting, *self._pulled(drawing, acting))

    def _pulled(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, Dimension]:
        sheet = drawing.sheet_of(self.view)
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        context, (x, y) = acting.context(drawing, sheet, self.view)
        picks = [Pick(p.ref, p.x - x, p.y - y, p.at) for p in self.picks]
        pointer = (self.pointer[0] - x, self.pointer[1] - y)
        return sheet, infer(context, picks, pointer, drawing.fresh()[0], self.wish)


class MoveDimension(AnyAct):
    """A dimension's line, or its text alone, dragged to the pointer: the text along its line, or ``out`` of it at the end of a
    leader, as it goes on where it is already out; dragged over to a detail of its view, or from a detail
    to the view that it enlarges, it goes there and keeps its look."""

    act: Literal["move_dimension"] = "move_dimension"
    id: Ref
    pointer: Point
    text_only: bool = False
    out: bool = False

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, moved = self._moved(drawing, acting)
        old = sheet.annotation(self.id)
        if isinstance(old, Dimension) and old.row is not None and not self.text_only:
            together = self._row(drawing, acting, sheet, old, moved)
            changes = [ChangeAnnotation(id=d.id, changes={"place": d.place.model_dump()}) for d in together]
            return Group(label="Move a set of dimensions", operations=list(changes))
        if old is None or moved.on == old.on:
            placed_there = ChangeAnnotation(id=self.id, changes={"place": moved.place.model_dump()})
            wider = _room_for(drawing, acting, sheet, moved)
            return Group(label="Move a size into a gap", operations=[wider, placed_there]) if wider else placed_there
        return Group(
            label="Carry a dimension to another view",
            operations=[Remove(ids=[self.id]), Annotate(sheet=sheet.id, annotations=_carried(drawing, sheet, moved))],
        )

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, moved = self._moved(drawing, acting)
        old = sheet.annotation(self.id)
        if isinstance(old, Dimension) and old.row is not None and not self.text_only:
            together = self._row(drawing, acting, sheet, old, moved)
            return shown_all(drawing, acting, sheet, together, f"{len(together)} sizes of a set", ())
        shown = _shown(drawing, acting, sheet, moved)
        why = self._stays(drawing, acting, sheet, moved)
        return replace(shown, words=f"{shown.words}; {why}") if why else shown

    def _row(
        self, drawing: Drawing, acting: ActContext, sheet: Sheet, old: Dimension, moved: Dimension
    ) -> list[Dimension]:
        """All members of a set, moved as one of them is."""
        members = members_of(sheet, old)
        place = moved.place
        context, _ = acting.context(drawing, sheet, old.on)
        if old.row is not None and old.row.form in STACKED:
            k = next(i for i, d in enumerate(members) if d.id == old.id)
            step = context.style.row if place.frame == "outline" else context.style.row / context.view.scale
            place = place.model_copy(update={"offset": place.offset - k * step})
        return laid(context, members, place)

    def _moved(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, Dimension]:
        sheet, found = need_dimension(drawing, self.id)
        if not self.text_only and found.row is None:
            found = self._over(drawing, acting, sheet, found)
        context, (x, y) = acting.context(drawing, sheet, found.on)
        pointer = (self.pointer[0] - x, self.pointer[1] - y)
        if self.text_only and (self.out or found.place.aside != (0.0, 0.0)):
            return sheet, found.model_copy(update={"place": _led_to(context, found, pointer)})
        if self.text_only:
            return sheet, found.model_copy(update={"place": moved_text(context, found, pointer)})
        new = placed(context, found, pointer)
        if found.measure not in ("diameter", "radius", "angle") or new.place.angle == found.place.angle:
            new = new.model_copy(update={"place": new.place.model_copy(update={"along": found.place.along})})
        return sheet, new

    def _over(self, drawing: Drawing, acting: ActContext, sheet: Sheet, dimension: Dimension) -> Dimension:
        """The dimension on the view that it is dragged over to: a detail of its own, what its own enlarges, or another whose middle
        the pointer is in and that shows the same; else as it is."""
        placed_views = acting.projections.placed_views(drawing, sheet)
        own = placed_views.get(dimension.on)
        if own is None:
            return dimension
        others = [p for p in placed_views.values() if _enlarged(p, own) or _enlarged(own, p)]
        best, least = own, min(own.box.away(*self.pointer), NEARBY)
        for other in others:
            away = other.box.away(*self.pointer)
            if away < least and _seen(dimension, other):
                best, least = other, away
        if best is not own:
            return dimension.model_copy(update={"on": best.view.id})
        under = self._under(placed_views, own)
        return dimension if under is None else _alike_on(dimension, own, under) or dimension

    def _under(self, placed_views: dict[str, PlacedView], own: PlacedView) -> PlacedView | None:
        """The other view of the same part whose box the pointer is in; None within its own."""
        if own.box.away(*self.pointer) <= 0:
            return None
        found = (
            p for p in placed_views.values() if p is not own and p.projected.scene.part == own.projected.scene.part
        )
        return next((p for p in found if p.box.away(*self.pointer) <= 0), None)

    def _stays(self, drawing: Drawing, acting: ActContext, sheet: Sheet, moved: Dimension) -> str:
        """Why a dimension does not go to the view that the pointer is in; empty where it does, or is in none."""
        placed_views = acting.projections.placed_views(drawing, sheet)
        own = placed_views.get(moved.on)
        under = None if self.text_only or own is None else self._under(placed_views, own)
        if under is None or own is None or moved.row is not None:
            return "" if under is None or moved.row is None else "a set stays on its view"
        return "" if _alike_on(moved, own, under) else f"the {view_words(under.view).lower()} does not show it"


def _carried(drawing: Drawing, sheet: Sheet, moved: Dimension) -> list[AnyAnnotation]:
    """A dimension under a new id, and what is stacked under it, with all that is stacked under that."""
    names, found = {moved.id: ""}, [moved, *sheet.annotations]
    for a in sheet.annotations:
        if a.on in names:
            names[a.id] = ""
    names = dict(zip(names, drawing.fresh(len(names)), strict=True))
    going = [a for k, a in enumerate(found) if a.id in names and (k == 0 or a.id != moved.id)]
    return [a.model_copy(update={"id": names[a.id], "on": names.get(a.on, a.on)}) for a in going]


def _enlarged(detail: PlacedView, parent: PlacedView) -> bool:
    return isinstance(detail.view, DetailView) and detail.view.parent == parent.view.id


def _alike_on(dimension: Dimension, own: PlacedView, other: PlacedView) -> Dimension | None:
    """A dimension as it is on another view of its part, where that shows the same figure, measured the same way in space."""
    if other.projected.pictorial or own.projected.pictorial:
        return None
    try:
        was = measure(own.projected, dimension)
    except Unmeasurable:
        return None
    ways = dict.fromkeys([dimension.direction, "aligned", "horizontal", "vertical"])
    for way in ways if isinstance(was, Linear) and not dimension.along else [dimension.direction]:
        new = dimension.model_copy(update={"on": other.view.id, "direction": way, "extensions": []})
        if not _seen(new, other):
            continue
        found = measure(other.projected, new)
        if type(found) is not type(was) or abs(found.value - was.value) > 1e-6 * max(abs(was.value), 1.0):
            continue
        if isinstance(found, Linear) and isinstance(was, Linear):
            one, two = _in_space(was, own), _in_space(found, other)
            if abs(float(one @ two)) < 1 - 1e-9:
                continue
        return new
    return None


def _in_space(found: Linear, placed_view: PlacedView) -> Any:
    """The unit way (3,) in which a length is measured."""
    view = placed_view.projected.view
    return found.along[0] * view.right + found.along[1] * view.up


def _led_to(context: LayoutContext, dimension: Dimension, pointer: tuple[float, float]) -> Place:
    """The place of a dimension with its text at the pointer (mm from the view's zero) and a leader from its line; near that the
    text is back in it."""
    solved = solve(
        dimension.model_copy(update={"place": dimension.place.model_copy(update={"aside": (1.0, 1.0)})}), context
    )
    if not isinstance(solved, SolvedLinear | SolvedAngular | SolvedArc) or solved.led is None:
        raise UserError("Its text has a leader already", "Drag it as it is, or choose a length, an angle or an arc.")
    off = np.array(pointer) - solved.led.root - [0.0, solved.run.text.height / 2 + context.style.text_gap]
    near = float(np.hypot(*off)) < 1.5 * context.style.lettering
    return dimension.place.model_copy(update={"aside": (0.0, 0.0) if near else tuple(np.round(off, 2).tolist())})


def _room_for(drawing: Drawing, acting: ActContext, sheet: Sheet, dimension: Dimension) -> SetView | None:
    """The gap of a broken view made as wide as the lettering of a dimension that stands in it; None where there is room."""
    placed_views = acting.projections.placed_views(drawing, sheet)
    placed_view = placed_views.get(dimension.on)
    if placed_view is None or not placed_view.view.breaks:
        return None
    solved = solve(dimension, context_of(drawing, sheet, placed_views, dimension.on))
    if not isinstance(solved, SolvedLinear):
        return None
    corners, middle = solved.run.corners(), np.array([solved.run.middle()])
    transform, low, high = (
        placed_view.still().transform,
        placed_view.projected.hull.min(axis=0),
        placed_view.projected.hull.max(axis=0),
    )
    there = transform.from_sheet(middle)[0]
    changed = False
    breaks = []
    for b in (
        break_in_view(b, placed_view.projected.frame, placed_view.projected.whole) for b in placed_view.view.breaks
    ):
        axis = 0 if b.along == "x" else 1
        need = float(np.ptp(corners @ transform.direction(np.eye(2)[axis]))) + 2 * ROOM
        inside = b.start < there[axis] < b.end and low[1 - axis] < there[1 - axis] < high[1 - axis]
        changed |= inside and need > b.gap
        breaks.append(b.model_copy(update={"gap": max(b.gap, min(need, 200.0))}) if inside else b)
    if not changed:
        return None
    return SetView(view=placed_view.view.id, changes={"breaks": [b.model_dump(mode="json") for b in breaks]})


def _seen(dimension: Dimension, placed_view: PlacedView) -> bool:
    """True where a view shows what a dimension is about."""
    try:
        found = measure(placed_view.projected, dimension)
    except Unmeasurable:
        return False
    if isinstance(found, Linear):
        return bool(placed_view.transform.shows(found.first).any() and placed_view.transform.shows(found.second).any())
    if isinstance(found, Pointed):
        return bool(placed_view.transform.shows(found.spot[None])[0])
    middle = found.apex if isinstance(found, Angular) else found.centre
    rim = 0.0 if isinstance(found, Angular) else found.radius
    turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    return bool(placed_view.transform.shows(middle + rim * np.c_[np.cos(turn), np.sin(turn)]).any())


def shown_all(
    drawing: Drawing, acting: ActContext, sheet: Sheet, dimensions: list[Dimension], words: str, others: tuple[str, ...]
) -> Preview:
    """The ink of several dimensions as they would be."""
    trial = sheet.model_copy(
        update={"annotations": [*(a for a in sheet.annotations if a.id not in {d.id for d in dimensions}), *dimensions]}
    )
    context, place = acting.context(drawing.with_sheet(trial), trial, dimensions[0].on)
    scene, root = scene_key(context, False), root_view(trial, dimensions[0])
    elements = [annotation_element(d, root, context, acting.display_cache, scene, place) for d in dimensions]
    return Preview(blank(drawing, sheet), tuple(elements), words, others)


def _shown(drawing: Drawing, acting: ActContext, sheet: Sheet, dimension: Dimension) -> Preview:
    context, place = acting.context(drawing, sheet, dimension.on)
    element = annotation_element(
        dimension, root_view(sheet, dimension), context, acting.display_cache, scene_key(context, False), place
    )
    direction = f", {dimension.direction}" if dimension.measure in ("length", "distance") else ""
    if dimension.on_paper:
        direction = " as it lies on the paper, not in space"
    if dimension.along:
        direction = ", along what was picked"
    words = f"{element.words}  {dimension.measure}{direction}"
    return Preview(blank(drawing, sheet), (element,), words, tuple(_others(dimension, context)))


def _others(dimension: Dimension, context: LayoutContext) -> list[str]:
    """What else the same picks could mean, likeliest first."""
    projected, anchors = context.view.projected, dimension.anchors
    geometries = [resolve(projected, a) for a in anchors]
    found: list[str] = []
    if dimension.measure in ("length", "distance") and not (
        len(anchors) == 2 and any(a.at in ("line", "outline") for a in anchors)
    ):
        found += [d for d in _directions(dimension, projected) if d != dimension.direction]
    if len(anchors) == 2 and dimension.measure == "distance":
        if any(a.at in ("round", "centre") for a in anchors) and any(_is_rim(projected, a) for a in anchors):
            found += ["to the far sides", "to the near sides"]
        deeper = abs(float((geometries[1].space[0] - geometries[0].space[0]) @ projected.view.toward))
        told = deeper > 1e-6 * projected.whole.size and not projected.pictorial
        return [*found, *(["depth"] if told else [])]
    if dimension.measure == "angle" and not dimension.reflex:
        found.append("the other way round")
    if dimension.measure == "angle" and projected.pictorial:
        found.append("angle" if dimension.on_paper else "angle on the paper")
    anchor_geometry = geometries[0]
    if anchors[0].at == "pitch":
        return [w for w in ("diameter", "radius") if w != dimension.measure]
    if anchors[0].at == "round":
        hole = hole_at(projected.part, anchors[0].ref)
        deep = ["depth"] if hole is not None and hole.depth is not None else []
        found += [w for w in ("diameter", "radius", *deep) if w != dimension.measure]
        if anchor_geometry.face_on and anchor_geometry.span[1] - anchor_geometry.span[0] < 2 * np.pi - 1e-9:
            found += [w for w, k in (("arc length", "arc"), ("chord", "chord")) if k != dimension.measure]
        if not anchor_geometry.face_on and arc_in_line(projected, anchors[0].ref):
            found.append("length")
    if anchor_geometry.kind == "line" and len(anchors) == 1:
        if anchors[0].at == "outline":
            kind, row = projected.part.find(anchors[0].ref) or ("", 0)
            cone = kind == "face" and projected.part.faces[row].surface.kind == "cone"
            found += [w for w in ("diameter", *(["taper"] if cone else []), "length") if w != dimension.measure]
        if anchors[0].at == "line" and arc_in_line(projected, anchors[0].ref):
            return [*found, "diameter"][:5]
        gap = np.abs(anchor_geometry.points[1] - anchor_geometry.points[0])
        if gap.min() > 1e-6 * max(float(gap.max()), 1e-9) and not projected.pictorial:
            found += ["chamfer", "angle to the level", "slope"]
    own = "angle on the paper" if dimension.on_paper else dimension.measure
    return [w for w in dict.fromkeys(found) if w != own][:5]


def _directions(dimension: Dimension, projected: ProjectedScene) -> list[str]:
    """Directions in which a distance of two points can be measured in a view."""
    if not projected.pictorial:
        return ["aligned", "horizontal", "vertical"]
    found, values = [], set()
    for direction in DIRECTIONS:
        with suppress(Unmeasurable):
            value = measure(projected, dimension.model_copy(update={"direction": direction})).value
            # along a gap that runs like it, it says the same as straight
            if direction == "aligned" or round(value, 6) not in values:
                found.append(direction)
            values.add(round(value, 6) if direction == "aligned" else -1.0)
    return found


def _is_rim(projected: ProjectedScene, anchor: Anchor) -> bool:
    """True where an anchor is the centre of a circle that is seen face on."""
    try:
        return resolve(projected, anchor.model_copy(update={"at": "round"})).face_on
    except Unmeasurable:
        return False
