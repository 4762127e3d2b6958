"""A set of views proposed for a part, and its arrangement on a sheet."""

from __future__ import annotations

from ..drawing.document import Drawing, Sheet, View
from .directions import Look, Vector, camera_of, side_of
from .layout import Item, Layout, choose, loose
from .picture import Studio

SET_NAMES = ("front", "back", "top", "bottom", "left", "right", "iso")


def cell_of(look: str, angle: str) -> tuple[int, int] | None:
    """Cell of a view in the grid of projection about the front view; None for a pictorial one."""
    if look == "front":
        return (0, 0)
    if look == "corner":
        return None
    return side_of(look, angle)


def views_for(
    key: str, names: list[str], toward: Vector, up: Vector, first_id: int, corner: tuple[int, int] = (1, 1)
) -> list[View]:
    """Views of a part by name about a front direction, unplaced; the first named is the parent of all."""
    names = list(dict.fromkeys(names))
    if "front" in names:
        names.remove("front")
        names.insert(0, "front")
    views: list[View] = []
    for k, name in enumerate(names):
        look: Look = "corner" if name == "iso" else name  # type: ignore[assignment]
        d, u = camera_of(look, toward, up, corner)
        pictorial = look == "corner"
        views.append(
            View(
                id=f"v{first_id + k}",
                part=key,
                parent=views[0].id if views and names[0] == "front" else None,
                look=look,
                toward=d,
                up=u,
                place=(0, 0),
                hidden_lines=not pictorial,
            )
        )
    return views


def items_for(studio: Studio, views: list[View], angle: str) -> list[Item]:
    """Layout items of views: cells follow the chain of parents."""
    cells: dict[str, tuple[int, int] | None] = {}
    by_id = {v.id: v for v in views}
    taken: set[tuple[int, int]] = set()
    for view in views:
        parent = by_id.get(view.parent or "")
        cell = cell_of(view.look, angle)
        if parent is None and not view.pictorial:
            cell = (0, 0)
        if cell is not None and parent is not None:
            base = cells.get(parent.id) or (0, 0)
            cell = (base[0] + cell[0], base[1] + cell[1])
        while cell is not None and cell in taken:
            cell = (cell[0] + 1, cell[1])
        cells[view.id] = cell
        if cell is not None:
            taken.add(cell)
    return [Item(v.id, studio.extent(v.part, v.toward, v.up), cells[v.id], v.scale) for v in views]


def apply_layout(views: list[View], layout: Layout) -> list[View]:
    """The views at their places, pictorial ones with their own scale where they need one."""
    return [
        v.model_copy(update={"place": layout.places[v.id], "scale": layout.scales.get(v.id, v.scale)}) for v in views
    ]


def propose_sheet(items: list[Item], standard: str) -> tuple[str, Layout]:
    """Sheet size and layout: the smallest usual sheet on which the part stands at a readable scale."""
    usual = ["A3", "A2", "A1"] if standard == "ISO" else ["B", "C", "D"]
    found = [(size, choose(items, size, True)) for size in usual]
    for least in (1.0, 0.5, 0.2):
        for size, layout in found:
            if layout.scale >= least:
                return size, layout
    return found[-1]


def rearranged(studio: Studio, drawing: Drawing, sheet: Sheet, scale: float | None) -> Layout:
    """A fresh layout of the views of a sheet, at a scale or at the largest that fits."""
    views = [v.model_copy(update={"scale": None}) if v.pictorial and scale is None else v for v in sheet.views]
    items = items_for(studio, views, drawing.angle)
    if scale is None:
        return choose(items, sheet.size, sheet.landscape)
    return loose(items, sheet.size, sheet.landscape, scale)


__all__ = [
    "SET_NAMES",
    "apply_layout",
    "cell_of",
    "items_for",
    "propose_sheet",
    "rearranged",
    "views_for",
]
