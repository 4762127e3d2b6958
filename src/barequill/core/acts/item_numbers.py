"""The numbers of items on the views: pulled out of a body, of all that a view shows, or several on one leader."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import Ref
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.hung import Foot
from ..drawing.annotations.item_number import ItemNumber
from ..drawing.operations import Annotate, ChangeAnnotation, Group, Remove, need_view
from ..errors import BadOperation, UserError
from ..kinds.common.hanging import hold_of, spot_of
from ..part.model import Part
from ..views.placed_view import PlacedView
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging
from .items import item_by_body, listed_first

RING = 12.0
"""mm from the outline of a view to the numbers about it."""
STEP = 3.0
"""mm between neighbouring numbers, beside their own size."""


class StateItem(AnyHanging):
    """The item number of the body that is pointed at; the body is listed where it is not."""

    act: Literal["state_item"] = "state_item"
    form: Literal["ring", "underline", "bare"] = "ring"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        listed, after = self._listed(drawing, acting)
        sheet, sign, _ = self.made(after, acting)
        stated = Annotate(sheet=sheet.id, annotations=[sign])
        return Group(label="Number an item", operations=[*listed, stated]) if listed else stated

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        _, after = self._listed(drawing, acting)
        return annotation_shown(after, acting, *self.made(after, acting))

    def _listed(self, drawing: Drawing, acting: ActContext) -> tuple[list[Operation], Drawing]:
        _, view = need_view(drawing, self.view)
        return listed_first(drawing, acting, view.part)

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        sheet, context, fields, _ = self.on_sheet(drawing, acting)
        part, key = context.view.projected.whole, context.view.view.part
        foot: Foot = fields["foot"]
        item = item_by_body(drawing, part, key)[body_of(part, foot.ref)]
        if item is None:
            raise UserError("That body is not in the parts list", "List the parts again: the part has changed.")
        return sheet, ItemNumber(id=drawing.fresh()[0], items=[item.id], form=self.form, **fields), ""


class NumberItems(AnyAct):
    """Numbers about a view of all items that it shows and that have none there yet, in lines beside it, their leaders not crossing."""

    act: Literal["number_items"] = "number_items"
    view: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        part = acting.projections.part(view.part)
        operations, drawing = listed_first(drawing, acting, view.part)
        context, _ = acting.context(drawing, sheet, view.id)
        have = {i for a in sheet.annotations if isinstance(a, ItemNumber) and a.on == view.id for i in a.items}
        feet: dict[str, Foot] = {}
        areas: dict[str, float] = {}
        items = item_by_body(drawing, part, view.part)
        for body, (foot, area) in seen_bodies(context.view).items():
            item = items[body]
            if item is not None and item.id not in have and area > areas.get(item.id, 0.0):
                feet[item.id], areas[item.id] = foot, area
        if not feet:
            raise UserError("Nothing is to be numbered", "All items that this view shows have their numbers.")
        radius = 1.3 * context.style.lettering
        places = about(context.view, feet, 2 * radius + STEP)
        ids = drawing.fresh(len(feet))
        made: list[AnyAnnotation] = []
        for own, (item_id, foot) in zip(ids, feet.items(), strict=True):
            tip = hold_of(context.view, foot).tip
            gap = places[item_id] - tip
            made.append(
                ItemNumber(
                    id=own,
                    on=view.id,
                    items=[item_id],
                    foot=foot,
                    angle=round(float(np.degrees(np.arctan2(gap[1], gap[0]))), 3),
                    offset=round(float(np.linalg.norm(gap)), 2),
                )
            )
        operations.append(Annotate(sheet=sheet.id, annotations=made))
        return operations[0] if len(operations) == 1 else Group(label="Number the items", operations=operations)


class StackItems(AnyAct):
    """Item numbers put on one leader, that of the first: a screw with its washer and nut."""

    act: Literal["stack_items"] = "stack_items"
    ids: list[Ref] = Field(min_length=2, max_length=20)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = drawing.sheet_of(self.ids[0])
        own = [sheet.annotation(i) for i in self.ids] if sheet is not None else []
        numbers = [a for a in own if isinstance(a, ItemNumber)]
        if len(numbers) < len(self.ids) or len({a.on for a in numbers}) > 1:
            raise BadOperation("These are no item numbers of one view", "Select two or more of one view.")
        items = list(dict.fromkeys(i for a in numbers for i in a.items))
        return Group(
            label="Put items on one leader",
            operations=[Remove(ids=self.ids[1:]), ChangeAnnotation(id=self.ids[0], changes={"items": items})],
        )


def body_of(part: Part, ref: str) -> int:
    """The row of the body that an edge or a face belongs to."""
    kind, row = part.find(ref) or ("", 0)
    if kind == "face":
        return part.faces[row].body
    if kind == "edge":
        return part.edges[row].body
    raise UserError("That is no body", "Point at a face, or at an edge of one.")


def seen_bodies(placed_view: PlacedView) -> dict[int, tuple[Foot, float]]:
    """Where a leader ends best on each body, by its row in the whole part, that a view shows: a visible edge of it, far out from the middle of the view, and how much
    of the body is seen (mm of its lines)."""
    projected = placed_view.projected
    lengths: dict[int, float] = {}
    best: dict[int, tuple[float, Foot]] = {}
    middle = projected.hull.mean(axis=0)
    for c in projected.curves:
        if not c.visible or c.source not in projected.part.index or c.cls in ("smooth", "adjacent"):
            continue
        # the row in the whole: where a view shows some bodies alone, theirs are others
        body = body_of(projected.whole, c.source)
        points = c.curve.points(1e-3 * projected.whole.size) - projected.centre
        length = float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
        lengths[body] = lengths.get(body, 0.0) + length
        spot = points[len(points) // 2] if len(points) > 2 else points.mean(axis=0)
        out = float(np.linalg.norm(spot - middle)) + 0.2 * length
        if body not in best or out > best[body][0]:
            place = placed_view.transform.to_sheet(spot[None])[0]
            best[body] = out, Foot(ref=c.source, spot=spot_of(placed_view, c.source, place))
    return {body: (foot, lengths[body]) for body, (_, foot) in best.items()}


def about(placed_view: PlacedView, feet: dict[str, Foot], step: float) -> dict[str, Any]:
    """Where numbers stand about a view so that their leaders do not cross: each goes to the nearer side, left or right, in a column that keeps
    the order of their tips from above on; where one side has no room for all of its own, some go to the other."""
    box = placed_view.box
    tips = {own: hold_of(placed_view, foot).tip for own, foot in feet.items()}
    low, high = np.array([box.x0, box.y0]), np.array([box.x1, box.y1])
    room = max(int((high[1] - low[1] + 2 * RING) // step), 1)
    middle = (low[0] + high[0]) / 2
    order = sorted(tips, key=lambda k: float(tips[k][0]))
    half = sum(float(tips[k][0]) < middle for k in order)
    half = min(max(half, len(order) - room), room) if len(order) <= 2 * room else len(order) // 2
    found: dict[str, Any] = {}
    for names, x in ((order[:half], low[0] - RING), (order[half:], high[0] + RING)):
        column = sorted(names, key=lambda k: -float(tips[k][1]))
        levels = [float(tips[k][1]) for k in column]
        ys = _apart(levels, step, float(high[1]) + RING)
        found |= {k: np.array([x, y]) for k, y in zip(column, ys, strict=True)}
    return found


def _apart(levels: list[float], step: float, top: float) -> list[float]:
    """Levels from above on, as near to the wanted ones as may be, at least a step apart, none above the top."""
    ys: list[float] = []
    for level in levels:
        ys.append(min(level, top if not ys else ys[-1] - step))
    if not ys:
        return ys
    # as a whole back up by half of what they were pushed down
    pushed = sum(a - b for a, b in zip(levels, ys, strict=True)) / len(ys)
    return [y + min(pushed, top - ys[0]) for y in ys]
