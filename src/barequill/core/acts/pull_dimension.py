"""A dimension pulled out of geometry, and its line or text dragged."""

from __future__ import annotations

from contextlib import suppress
from typing import Literal

import numpy as np
from pydantic import Field

from ..annotation.inference import DIRECTIONS, infer, moved_text, placed
from ..annotation.kinds import solve
from ..annotation.linear import SolvedLinear
from ..annotation.measuring import Angular, Linear, Pointed, measure
from ..annotation.picking import Pick, arc_in_line
from ..annotation.rows import STACKED, laid, members_of
from ..annotation.seats import resolve
from ..annotation.sheet_ink import annotation_element, blank, scene_key, stage_of
from ..annotation.solving import Stage, root_view
from ..bounds import Coordinate, Name, Ref
from ..drawing import Anchor, DetailView, Dimension, Drawing, Operation, Sheet
from ..drawing.base import Model, Point
from ..drawing.operations import Annotate, ChangeAnnotation, Group, Remove, SetView
from ..errors import BadOperation, Unmeasurable
from ..part.features.holes import hole_at
from ..views.picture import Picture
from ..views.shot import Shot
from ..views.windows import standing
from .base import AnyAct, Bench, Preview, need_dimension

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

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, dimension = self._pulled(drawing, bench)
        stated = Annotate(sheet=sheet.id, annotations=[dimension])
        wider = _room_for(drawing, bench, sheet, dimension)
        return Group(label="State a size in a gap", operations=[wider, stated]) if wider else stated

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        return _shown(drawing, bench, *self._pulled(drawing, bench))

    def _pulled(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, Dimension]:
        sheet = drawing.sheet_of(self.view)
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        stage, (x, y) = bench.stage(drawing, sheet, self.view)
        picks = [Pick(p.ref, p.x - x, p.y - y, p.at) for p in self.picks]
        pointer = (self.pointer[0] - x, self.pointer[1] - y)
        return sheet, infer(stage, picks, pointer, drawing.fresh()[0], self.wish)


class MoveDimension(AnyAct):
    """A dimension's line, or its text alone, dragged to the pointer; dragged over to a detail of its view, or from a detail
    to the view that it enlarges, it goes there and keeps its look."""

    act: Literal["move_dimension"] = "move_dimension"
    id: Ref
    pointer: Point
    text_only: bool = False

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, moved = self._moved(drawing, bench)
        old = sheet.annotation(self.id)
        if isinstance(old, Dimension) and old.row is not None and not self.text_only:
            together = self._row(drawing, bench, sheet, old, moved)
            changes = [ChangeAnnotation(id=d.id, changes={"place": d.place.model_dump()}) for d in together]
            return Group(label="Move a set of dimensions", operations=list(changes))
        if old is None or moved.on == old.on:
            placed_there = ChangeAnnotation(id=self.id, changes={"place": moved.place.model_dump()})
            wider = _room_for(drawing, bench, sheet, moved)
            return Group(label="Move a size into a gap", operations=[wider, placed_there]) if wider else placed_there
        carried = moved.model_copy(update={"id": drawing.fresh()[0]})
        return Group(
            label="Carry a dimension to another view",
            operations=[Remove(ids=[self.id]), Annotate(sheet=sheet.id, annotations=[carried])],
        )

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, moved = self._moved(drawing, bench)
        old = sheet.annotation(self.id)
        if isinstance(old, Dimension) and old.row is not None and not self.text_only:
            together = self._row(drawing, bench, sheet, old, moved)
            return shown_all(drawing, bench, sheet, together, f"{len(together)} sizes of a set", ())
        return _shown(drawing, bench, sheet, moved)

    def _row(self, drawing: Drawing, bench: Bench, sheet: Sheet, old: Dimension, moved: Dimension) -> list[Dimension]:
        """All members of a set, moved as one of them is."""
        members = members_of(sheet, old)
        place = moved.place
        stage, _ = bench.stage(drawing, sheet, old.on)
        if old.row is not None and old.row.form in STACKED:
            k = next(i for i, d in enumerate(members) if d.id == old.id)
            step = stage.style.row if place.frame == "outline" else stage.style.row / stage.view.scale
            place = place.model_copy(update={"offset": place.offset - k * step})
        return laid(stage, members, place)

    def _moved(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, Dimension]:
        sheet, found = need_dimension(drawing, self.id)
        if not self.text_only and found.row is None:
            found = found.model_copy(update={"on": self._over(drawing, bench, sheet, found)})
        stage, (x, y) = bench.stage(drawing, sheet, found.on)
        pointer = (self.pointer[0] - x, self.pointer[1] - y)
        if self.text_only:
            return sheet, found.model_copy(update={"place": moved_text(stage, found, pointer)})
        new = placed(stage, found, pointer)
        if found.measure not in ("diameter", "radius", "angle") or new.place.angle == found.place.angle:
            new = new.model_copy(update={"place": new.place.model_copy(update={"along": found.place.along})})
        return sheet, new

    def _over(self, drawing: Drawing, bench: Bench, sheet: Sheet, dimension: Dimension) -> str:
        """The view that the dimension is dragged over to: a detail of its own, or what its own enlarges; else its own."""
        pictures = bench.studio.pictures(drawing, sheet)
        own = pictures.get(dimension.on)
        if own is None:
            return dimension.on
        others = [
            p
            for p in pictures.values()
            if (isinstance(p.view, DetailView) and p.view.parent == own.view.id)
            or (isinstance(own.view, DetailView) and own.view.parent == p.view.id)
        ]
        best, least = own, min(own.box.away(*self.pointer), NEARBY)
        for other in others:
            away = other.box.away(*self.pointer)
            if away < least and _seen(dimension, other):
                best, least = other, away
        return best.view.id


def _room_for(drawing: Drawing, bench: Bench, sheet: Sheet, dimension: Dimension) -> SetView | None:
    """The gap of a broken view made as wide as the lettering of a dimension that stands in it; None where there is room."""
    pictures = bench.studio.pictures(drawing, sheet)
    picture = pictures.get(dimension.on)
    if picture is None or not picture.view.breaks:
        return None
    solved = solve(dimension, stage_of(drawing, sheet, pictures, dimension.on))
    if not isinstance(solved, SolvedLinear):
        return None
    corners, middle = solved.run.corners(), np.array([solved.run.middle()])
    chart, low, high = picture.still().chart, picture.shot.hull.min(axis=0), picture.shot.hull.max(axis=0)
    there = chart.from_sheet(middle)[0]
    changed = False
    breaks = []
    for b in (standing(b, picture.shot.frame, picture.shot.whole) for b in picture.view.breaks):
        axis = 0 if b.along == "x" else 1
        need = float(np.ptp(corners @ chart.direction(np.eye(2)[axis]))) + 2 * ROOM
        inside = b.start < there[axis] < b.end and low[1 - axis] < there[1 - axis] < high[1 - axis]
        changed |= inside and need > b.gap
        breaks.append(b.model_copy(update={"gap": max(b.gap, min(need, 200.0))}) if inside else b)
    if not changed:
        return None
    return SetView(view=picture.view.id, changes={"breaks": [b.model_dump(mode="json") for b in breaks]})


def _seen(dimension: Dimension, picture: Picture) -> bool:
    """True where a view shows what a dimension is about."""
    try:
        found = measure(picture.shot, dimension)
    except Unmeasurable:
        return False
    if isinstance(found, Linear):
        return bool(picture.chart.shows(found.first).any() and picture.chart.shows(found.second).any())
    if isinstance(found, Pointed):
        return bool(picture.chart.shows(found.spot[None])[0])
    middle = found.apex if isinstance(found, Angular) else found.centre
    rim = 0.0 if isinstance(found, Angular) else found.radius
    turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    return bool(picture.chart.shows(middle + rim * np.c_[np.cos(turn), np.sin(turn)]).any())


def shown_all(
    drawing: Drawing, bench: Bench, sheet: Sheet, dimensions: list[Dimension], words: str, others: tuple[str, ...]
) -> Preview:
    """The ink of several dimensions as they would be."""
    trial = sheet.model_copy(
        update={"annotations": [*(a for a in sheet.annotations if a.id not in {d.id for d in dimensions}), *dimensions]}
    )
    stage, place = bench.stage(drawing.with_sheet(trial), trial, dimensions[0].on)
    scene, root = scene_key(stage, False), root_view(trial, dimensions[0])
    elements = [annotation_element(d, root, stage, bench.well, scene, place) for d in dimensions]
    return Preview(blank(sheet), tuple(elements), words, others)


def _shown(drawing: Drawing, bench: Bench, sheet: Sheet, dimension: Dimension) -> Preview:
    stage, place = bench.stage(drawing, sheet, dimension.on)
    element = annotation_element(
        dimension, root_view(sheet, dimension), stage, bench.well, scene_key(stage, False), place
    )
    direction = f", {dimension.direction}" if dimension.measure in ("length", "distance") else ""
    if dimension.on_paper:
        direction = " as it lies on the paper, not in space"
    if dimension.along:
        direction = ", along what was picked"
    words = f"{element.words}  {dimension.measure}{direction}"
    return Preview(blank(sheet), (element,), words, tuple(_others(dimension, stage)))


def _others(dimension: Dimension, stage: Stage) -> list[str]:
    """What else the same picks could mean, likeliest first."""
    shot, anchors = stage.view.shot, dimension.anchors
    seats = [resolve(shot, a) for a in anchors]
    found: list[str] = []
    if dimension.measure in ("length", "distance") and not (
        len(anchors) == 2 and any(a.at in ("line", "outline") for a in anchors)
    ):
        found += [d for d in _directions(dimension, shot) if d != dimension.direction]
    if len(anchors) == 2 and dimension.measure == "distance":
        if any(a.at in ("round", "centre") for a in anchors) and any(_is_rim(shot, a) for a in anchors):
            found += ["to the far sides", "to the near sides"]
        deeper = abs(float((seats[1].space[0] - seats[0].space[0]) @ shot.view.toward))
        told = deeper > 1e-6 * shot.whole.size and not shot.pictorial
        return [*found, *(["depth"] if told else [])]
    if dimension.measure == "angle" and not dimension.reflex:
        found.append("the other way round")
    if dimension.measure == "angle" and shot.pictorial:
        found.append("angle" if dimension.on_paper else "angle on the paper")
    seat = seats[0]
    if anchors[0].at == "round":
        hole = hole_at(shot.part, anchors[0].ref)
        deep = ["depth"] if hole is not None and hole.depth is not None else []
        found += [w for w in ("diameter", "radius", *deep) if w != dimension.measure]
        if seat.face_on and seat.span[1] - seat.span[0] < 2 * np.pi - 1e-9:
            found += [w for w, k in (("arc length", "arc"), ("chord", "chord")) if k != dimension.measure]
        if not seat.face_on and arc_in_line(shot, anchors[0].ref):
            found.append("length")
    if seat.kind == "line" and len(anchors) == 1:
        if anchors[0].at == "outline":
            kind, row = shot.part.find(anchors[0].ref) or ("", 0)
            cone = kind == "face" and shot.part.faces[row].surface.kind == "cone"
            found += [w for w in ("diameter", *(["taper"] if cone else []), "length") if w != dimension.measure]
        if anchors[0].at == "line" and arc_in_line(shot, anchors[0].ref):
            return [*found, "diameter"][:5]
        gap = np.abs(seat.points[1] - seat.points[0])
        if gap.min() > 1e-6 * max(float(gap.max()), 1e-9) and not shot.pictorial:
            found += ["chamfer", "angle to the level", "slope"]
    own = "angle on the paper" if dimension.on_paper else dimension.measure
    return [w for w in dict.fromkeys(found) if w != own][:5]


def _directions(dimension: Dimension, shot: Shot) -> list[str]:
    """Directions in which a distance of two points can be measured in a view."""
    if not shot.pictorial:
        return ["aligned", "horizontal", "vertical"]
    found, values = [], set()
    for direction in DIRECTIONS:
        with suppress(Unmeasurable):
            value = measure(shot, dimension.model_copy(update={"direction": direction})).value
            # along a gap that runs like it, it says the same as straight
            if direction == "aligned" or round(value, 6) not in values:
                found.append(direction)
            values.add(round(value, 6) if direction == "aligned" else -1.0)
    return found


def _is_rim(shot: Shot, anchor: Anchor) -> bool:
    """True where an anchor is the centre of a circle that is seen face on."""
    try:
        return resolve(shot, anchor.model_copy(update={"at": "round"})).face_on
    except Unmeasurable:
        return False
