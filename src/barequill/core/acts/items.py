"""The items of the parts list: listed from a part, changed, numbered anew."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import MANY, Name, Ref, Text
from ..drawing import Drawing, Operation
from ..drawing.annotations.item_number import ItemNumber
from ..drawing.annotations.table import Table
from ..drawing.base import Model
from ..drawing.items import Item
from ..drawing.operations import Group, SetItems, need_sheet, need_view
from ..errors import BadOperation, UserError
from ..kinds import solve
from ..part.model import Body, Part
from ..standards.materials import MATERIALS, material_of
from .base import ActContext, AnyAct
from .state_table import StateListTable

Level = Literal["top", "flat"]


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
    bodies: dict[str, list[Body]] = {}
    for k, body in enumerate(part.bodies):
        bodies.setdefault(product_of(part, k, level), []).append(body)
    by_name = {p.name: p for p in part.products}
    have = {i.product: i for i in drawing.items if i.part == key}
    numbers = {i.number for i in drawing.items}
    found: list[Item] = []
    last = max((int(i.id[1:]) for i in drawing.items), default=0)
    density = use.density if use is not None else None
    for name, own in bodies.items():
        product = by_name.get(name) if len(part.products) > 1 else None
        deep = 2 if level == "top" else None
        quantity = len(own) if product is None else len({b.path[:deep] for b in own})
        materials = {b.material for b in own}
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


def mass_of_one(own: Iterable[Body], quantity: int, density: float) -> float:
    """g of one of so many products of which all together have these bodies, by a density (g/cm³)."""
    return sum(b.volume for b in own) * density / 1000 / max(quantity, 1)


def _mass(item: Item, own: list[Body], given: dict[str, Any], quantity: int) -> float | None:
    """g of one: by the density of the material that was chosen for it, else as the file has it."""
    density = MATERIALS.get(item.material)
    if density is not None and item.material != given["material"]:
        return mass_of_one(own, quantity, density)
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
                changes["mass"] = None if density is None else mass_of_one(bodies, item.quantity, density)
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


def need_item(drawing: Drawing, own: str) -> Item:
    """The item of that id; raises BadOperation where there is none."""
    found = next((i for i in drawing.items if i.id == own), None)
    if found is None:
        raise BadOperation("The item is gone", "List the parts again.")
    return found


def item_by_body(drawing: Drawing, part: Part, key: str) -> list[Item | None]:
    """Of each body of a part the item that it is counted as."""
    own = {i.product: i for i in drawing.items if i.part == key}
    level = level_of(drawing, part, key)
    return [own.get(product_of(part, body, level)) for body in range(len(part.bodies))]


def listed_first(drawing: Drawing, acting: ActContext, key: str) -> tuple[list[Operation], Drawing]:
    """What lists a part of which no item is listed yet, and the drawing with that done."""
    if any(i.part == key for i in drawing.items):
        return [], drawing
    items = [*drawing.items, *items_of(drawing, acting.projections.part(key), key, "top")]
    return [SetItems(items=items, label="List the parts")], drawing.model_copy(update={"items": items})
