"""The parts list of an assembly, and the numbers of its items on the views."""

from __future__ import annotations

from collections import Counter
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import MANY, Name, Ref, Text
from ..drawing import AnyAnnotation, Drawing, Operation, Sheet
from ..drawing.annotations.hung import Foot
from ..drawing.annotations.item_number import ItemNumber
from ..drawing.annotations.table import Table
from ..drawing.base import Model
from ..drawing.items import Item
from ..drawing.operations import Annotate, ChangeAnnotation, Group, SetItems, need_sheet, need_view
from ..errors import BadOperation, UserError
from ..kinds import solve
from ..kinds.common.hanging import hold_of, spot_of
from ..part.model import Part
from ..standards.materials import MATERIALS
from ..views.placed_view import PlacedView
from .base import ActContext, AnyAct, Preview, annotation_shown
from .hanging import AnyHanging
from .state_table import StateListTable

Level = Literal["top", "flat"]
RING = 12.0
"""mm from the outline of a view to the numbers about it."""
STEP = 3.0
"""mm between neighbouring numbers, beside their own size."""


def product_of(part: Part, body: int, level: Level) -> str:
    """The name of the product that a body is counted as: its own, or with ``top`` that of which the whole is put together; of a part
    without products the body's."""
    own = part.bodies[body]
    if len(part.products) < 2 or own.product >= len(part.products):
        return own.name
    if level == "top" and len(own.path) > 1:
        return part.products[part.products[own.path[0]].uses[own.path[1]]].name
    return part.products[own.product].name


def level_of(drawing: Drawing, part: Part, key: str) -> Level:
    """How deep the items of a part go that a drawing has already."""
    named = {i.product for i in drawing.items if i.part == key}
    if not named:
        return "top"
    tops = {product_of(part, k, "top") for k in range(len(part.bodies))}
    return "top" if named <= tops else "flat"


def items_of(drawing: Drawing, part: Part, key: str, level: Level) -> list[Item]:
    """The items of a part in the order of its file; what a drawing says of them already is kept."""
    use = drawing.part(key)
    names = [product_of(part, k, level) for k in range(len(part.bodies))]
    by_name = {p.name: p for p in part.products}
    have = {i.product: i for i in drawing.items if i.part == key}
    numbers = {i.number for i in drawing.items}
    found: list[Item] = []
    last = max((int(i.id[1:]) for i in drawing.items), default=0)
    for name, bodies in Counter(names).items():
        own = [part.bodies[k] for k, n in enumerate(names) if n == name]
        product = by_name.get(name) if len(part.products) > 1 else None
        deep = 2 if level == "top" else None
        quantity = bodies if product is None else len({b.path[:deep] for b in own})
        materials = {b.material for b in own}
        density = use.density if use is not None else None
        masses = [b.volume * d / 1000 for b in own if (d := density or b.density) is not None]
        given: dict[str, Any] = {
            "name": name,
            "reference": product.number if product and product.number != name else "",
            "material": next(iter(materials)) or "" if len(materials) == 1 else "",
            "mass": sum(masses) / max(quantity, 1) if len(masses) == len(own) else None,
        }
        if name in have:
            found.append(
                have[name].model_copy(update={"quantity": quantity, "mass": _mass(have[name], own, given, quantity)})
            )
            continue
        number = next(n for n in range(1, 10_000) if n not in numbers)
        numbers.add(number)
        last += 1
        found.append(Item(id=f"i{last}", number=number, part=key, product=name[:200], quantity=quantity, **given))
    return found


def _mass(item: Item, own: list[Any], given: dict[str, Any], quantity: int) -> float | None:
    """g of one: by the density of the material that was chosen for it, else as the file has it."""
    density = MATERIALS.get(item.material)
    if density is not None and item.material != given["material"]:
        return float(sum(b.volume for b in own)) * density / 1000 / max(quantity, 1)
    mass: float | None = given["mass"]
    return mass


class ListParts(AnyAct):
    """The items of the parts list from the part of a sheet: of what the whole is put together (``top``), or all products that have
    bodies (``flat``); what was said of an item already stays. With ``table`` the list is stated too where it is not."""

    act: Literal["list_parts"] = "list_parts"
    sheet: Ref
    level: Level = "top"
    table: bool = True

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        use = drawing.subject(sheet)
        if use is None:
            raise UserError("There is no part yet", "Place its views first.")
        part = acting.projections.part(use.key)
        items = items_of(drawing, part, use.key, self.level)
        others = [i for i in drawing.items if i.part != use.key]
        listed = SetItems(items=[*items, *others], label="List the parts")
        if not self.table or any(
            isinstance(a, Table) and a.follows == "parts" for s in drawing.sheets for a in s.annotations
        ):
            return listed
        after = drawing.model_copy(update={"items": listed.items})
        stated = StateListTable(sheet=sheet.id, follows="parts").plan(after, acting)
        return Group(label="List the parts", operations=[listed, stated])


class ItemChange(Model):
    """What the parts list is to say of an item; a material of the short list, or one with its density (``Own alloy, 8.1``), gives its
    mass."""

    id: Ref
    name: Text | None = None
    reference: Text | None = None
    material: Text | None = None
    quantity: int | None = Field(default=None, ge=0, le=10**6)
    number: int | None = Field(default=None, ge=1, le=9999)
    remarks: Text | None = None
    more: dict[Ref, Name] | None = None

    def changed(self, item: Item, drawing: Drawing, acting: ActContext) -> Item:
        """The item with what is changed."""
        changes = self.model_dump(exclude={"id"}, exclude_none=True)
        if self.more is not None:
            changes["more"] = {**item.more, **self.more}
        if self.material is not None and self.material != item.material:
            changes["material"], density = material_of(self.material)
            if item.part:
                part = acting.projections.part(item.part)
                level = level_of(drawing, part, item.part)
                bodies = [b for k, b in enumerate(part.bodies) if product_of(part, k, level) == item.product]
                volume = sum(b.volume for b in bodies) / max(item.quantity, 1)
                changes["mass"] = volume * density / 1000 if density is not None else None
        return Item.model_validate(item.model_dump() | changes)


class ChangeItem(AnyAct, ItemChange):
    """What the parts list says of an item; an item that has the number that this one gets changes places with it."""

    act: Literal["change_item"] = "change_item"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        own = need_item(drawing, self.id)
        change = ItemChange.model_validate(self.model_dump(exclude={"act"}))
        items = []
        for item in drawing.items:
            if item.id == own.id:
                item = change.changed(item, drawing, acting)
            elif self.number is not None and item.number == self.number:
                item = item.model_copy(update={"number": own.number})
            items.append(item)
        said = self.model_dump(exclude={"act", "id", "more"}, exclude_none=True)
        words = ", ".join(f"{k} {v}" for k, v in said.items())
        return SetItems(items=items, label=f"Item {own.number}: {words}"[:200])


class ChangeItems(AnyAct):
    """What the parts list says of several items."""

    act: Literal["change_items"] = "change_items"
    items: list[ItemChange] = Field(min_length=1, max_length=MANY)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        changes = {c.id: c for c in self.items}
        for own in changes:
            need_item(drawing, own)
        items = [changes[i.id].changed(i, drawing, acting) if i.id in changes else i for i in drawing.items]
        numbers = Counter(i.number for i in items)
        twice = next((n for n, count in numbers.items() if count > 1), None)
        if twice is not None:
            raise UserError(f"Two items have the number {twice}", "Give each its own.")
        label = f"Change {len(changes)} item{'' if len(changes) == 1 else 's'} of the parts list"
        return SetItems(items=items, label=label)


class Renumber(AnyAct):
    """The items numbered anew: in the order of the list, or as their numbers stand about a ``view``, from the upper left corner on clockwise."""

    act: Literal["renumber"] = "renumber"
    view: Ref = ""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        order = [i.id for i in drawing.items]
        if not order:
            raise UserError("There are no items", "List the parts first.")
        if self.view:
            sheet, view = need_view(drawing, self.view)
            shown = [a for a in sheet.annotations if isinstance(a, ItemNumber) and a.on == view.id]
            context, _ = acting.context(drawing, sheet, view.id)
            middle = (context.view.box.x0 + context.view.box.x1) / 2, (context.view.box.y0 + context.view.box.y1) / 2
            placed = []
            for a in shown:
                box = solve(a, context).box
                at = np.array([(box.x0 + box.x1) / 2 - middle[0], (box.y0 + box.y1) / 2 - middle[1]])
                # clockwise from the upper left corner
                placed.append(((np.radians(135.0) - float(np.arctan2(at[1], at[0]))) % (2 * np.pi), a.items))
            first = [i for _, items in sorted(placed, key=lambda p: p[0]) for i in items]
            order = list(dict.fromkeys([*first, *order]))
        by_id = {i.id: i for i in drawing.items}
        items = [by_id[own].model_copy(update={"number": n}) for n, own in enumerate(order, 1)]
        return SetItems(items=items, label="Number the items anew")


class StateItem(AnyHanging):
    """The item number of the body that is pointed at; the body is listed where it is not."""

    act: Literal["state_item"] = "state_item"
    form: Literal["ring", "underline", "bare"] = "ring"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        listed, after = self._listed(drawing, acting)
        sheet, sign, _ = self.made(after, acting)
        stated = Annotate(sheet=sheet.id, annotations=[sign])
        return Group(label="Number an item", operations=[listed, stated]) if listed is not None else stated

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        _, after = self._listed(drawing, acting)
        return annotation_shown(after, acting, *self.made(after, acting))

    def _listed(self, drawing: Drawing, acting: ActContext) -> tuple[Operation | None, Drawing]:
        _, view = need_view(drawing, self.view)
        if any(i.part == view.part for i in drawing.items):
            return None, drawing
        items = [*drawing.items, *items_of(drawing, acting.projections.part(view.part), view.part, "top")]
        return SetItems(items=items, label="List the parts"), drawing.model_copy(update={"items": items})

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, AnyAnnotation, str]:
        sheet, context, fields, _ = self.on_sheet(drawing, acting)
        part, key = context.view.projected.whole, context.view.view.part
        foot: Foot = fields["foot"]
        body = body_of(part, foot.ref)
        item = item_of(drawing, part, key, body)
        if item is None:
            raise UserError("That body is not in the parts list", "List the parts again: the part has changed.")
        return sheet, ItemNumber(id=drawing.fresh()[0], items=[item.id], form=self.form, **fields), ""


class NumberItems(AnyAct):
    """Numbers about a view of all items that it shows and that have none there yet, in lines beside it, their leaders not crossing."""

    act: Literal["number_items"] = "number_items"
    view: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        operations: list[Operation] = []
        part = acting.projections.part(view.part)
        if not any(i.part == view.part for i in drawing.items):
            items = [*drawing.items, *items_of(drawing, part, view.part, "top")]
            operations.append(SetItems(items=items, label="List the parts"))
            drawing = drawing.model_copy(update={"items": items})
        context, _ = acting.context(drawing, sheet, view.id)
        have = {i for a in sheet.annotations if isinstance(a, ItemNumber) and a.on == view.id for i in a.items}
        feet: dict[str, Foot] = {}
        areas: dict[str, float] = {}
        for body, (foot, area) in seen_bodies(context.view).items():
            item = item_of(drawing, part, view.part, body)
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
        from ..drawing.operations import Remove

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


def need_item(drawing: Drawing, own: str) -> Item:
    """The item of that id; raises BadOperation where there is none."""
    found = next((i for i in drawing.items if i.id == own), None)
    if found is None:
        raise BadOperation("The item is gone", "List the parts again.")
    return found


def material_of(text: str) -> tuple[str, float | None]:
    """A material and its density (g/cm³), from its name in the short list, or typed behind it: ``Own alloy, 8.1``."""
    name, _, figure = text.rpartition(",")
    if name.strip():
        try:
            density = float(figure.lower().replace("g/cm³", "").replace("g/cm3", "").strip())
        except ValueError:
            density = 0.0
        if 0 < density < 100:
            return name.strip(), density
    whole = text.strip()
    known = next((n for n in MATERIALS if n.lower() == whole.lower()), None)
    return (known, MATERIALS[known]) if known is not None else (whole, None)


def body_of(part: Part, ref: str) -> int:
    """The row of the body that an edge or a face belongs to."""
    kind, row = part.find(ref) or ("", 0)
    if kind == "face":
        return part.faces[row].body
    if kind == "edge":
        return part.edges[row].body
    raise UserError("That is no body", "Point at a face, or at an edge of one.")


def item_of(drawing: Drawing, part: Part, key: str, body: int) -> Item | None:
    """The item that a body of a part is counted as."""
    own = {i.product: i for i in drawing.items if i.part == key}
    return own.get(product_of(part, body, level_of(drawing, part, key)))


def seen_bodies(placed_view: PlacedView) -> dict[int, tuple[Foot, float]]:
    """Where a leader ends best on each body that a view shows: a visible edge of it, far out from the middle of the view, and how much
    of the body is seen (mm of its lines)."""
    projected, part = placed_view.projected, placed_view.projected.part
    lengths: dict[int, float] = {}
    best: dict[int, tuple[float, Foot]] = {}
    middle = projected.hull.mean(axis=0)
    for c in projected.curves:
        kind, row = part.index.get(c.source, ("", 0))
        if not c.visible or kind not in ("edge", "face") or c.cls in ("smooth", "adjacent"):
            continue
        body = part.edges[row].body if kind == "edge" else part.faces[row].body
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
    the order of their tips from above on; above and below where a column would be longer than the view."""
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
        spread = max(step, 0.0)
        levels = [float(tips[k][1]) for k in column]
        ys = _apart(levels, spread, float(high[1]) + RING)
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
