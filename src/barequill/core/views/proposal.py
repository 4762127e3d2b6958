"""A set of views proposed for a part, and its arrangement on a sheet."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..drawing.document import Drawing, Sheet
from ..drawing.views import (
    AuxiliaryView,
    DetailView,
    FreeView,
    PictorialView,
    PrincipalView,
    ProjectedView,
    SectionView,
    Side,
    View,
)
from ..errors import UserError
from ..standards.scales import SERIES
from ..standards.sheets import Rectangle
from .cutting_lines import frame_of
from .directions import Vector, camera_of, side_of
from .layout import Item, Layout, choose, loose
from .occupancy import LEAST, occupancy
from .placed_view import ProjectionCache
from .scene import Scene
from .windows import view_transform_of

Array = NDArray[np.float64]
SMALLER = 3
"""How many smaller scales are tried so that views beside the grid have room."""


def cell_of(look: str, angle: str) -> tuple[int, int] | None:
    """Cell of a view in the grid of projection about the front view; None for a pictorial one."""
    if look == "front":
        return (0, 0)
    if look == "corner":
        return None
    return side_of(look, angle)


def views_for(
    key: str, names: list[str], toward: Vector, up: Vector, ids: list[str], corner: tuple[Side, Side] = (1, 1)
) -> list[View]:
    """Views of a part by name about a front direction, unplaced; the front view is the parent of all others."""
    names = list(dict.fromkeys(names))
    if "front" in names:
        names.remove("front")
        names.insert(0, "front")
    views: list[View] = []
    for own, name in zip(ids, names, strict=False):
        parent = views[0].id if views and "front" in names else None
        common = {"id": own, "part": key, "place": (0, 0), "hidden_lines": name != "iso"}
        if name == "iso":
            d, u = camera_of("corner", toward, up, corner)
            views.append(
                FreeView.model_validate(common | {"toward": d, "up": u})
                if parent is None
                else PictorialView.model_validate(common | {"parent": parent, "corner": corner})
            )
        elif parent is not None:
            views.append(ProjectedView.model_validate(common | {"parent": parent, "look": name}))
        else:
            d, u = camera_of(name, toward, up)  # type: ignore[arg-type]
            views.append(PrincipalView.model_validate(common | {"look": name, "toward": d, "up": u}))
    return views


def items_for(projections: ProjectionCache, drawing: Drawing, sheet: Sheet) -> list[Item]:
    """Layout items of a sheet's views: cells follow the chain of parents."""
    views, angle, scenes = sheet.views, drawing.angle, projections.scenes(drawing, sheet)
    cells: dict[str, tuple[int, int] | None] = {}
    by_id = {v.id: v for v in views}
    taken: set[tuple[int, int]] = set()
    for view in views:
        parent = by_id.get(view.parent or "")
        cell: tuple[int, int] | None
        if isinstance(view, SectionView):
            if view.bare or view.within:
                continue
            cell = _beside(view, parent)
        elif isinstance(view, AuxiliaryView):
            continue
        elif isinstance(view, DetailView):
            cells[view.id] = None
            continue
        else:
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
    return [
        Item(v.id, _extent(projections, drawing, sheet, v, scenes[v.id]), cells[v.id], v.scale)
        for v in views
        if v.id in cells
    ]


def _extent(projections: ProjectionCache, drawing: Drawing, sheet: Sheet, view: View, scene: Scene) -> Rectangle:
    """Box of a view about its place at 1:1, as far as it is kept, without projecting it."""
    whole, part = projections.extent(scene), projections.part(view.part)
    frame = frame_of(part, scene.toward, scene.up)
    transform = view_transform_of(drawing, sheet, view, frame, part, lambda b: "zigzag")
    scale = sheet.scale_of(view)
    corners = np.array([[whole.x0, whole.y0], [whole.x1, whole.y0], [whole.x1, whole.y1], [whole.x0, whole.y1]])
    if transform.window:
        low, high = np.array(transform.window).min(axis=0), np.array(transform.window).max(axis=0)
        corners = np.clip(corners, low, high)
    flat = (transform.to_sheet(corners) - transform.place) / scale
    (x0, y0), (x1, y1) = flat.min(axis=0).tolist(), flat.max(axis=0).tolist()
    return Rectangle(x0, y0, x1, y1)


def _beside(view: View, parent: View | None) -> tuple[int, int]:
    """On which side of its parent a section stands: column and row from it."""
    if parent is None:
        return 0, 0
    dx, dy = view.place[0] - parent.place[0], view.place[1] - parent.place[1]
    if abs(dx) >= abs(dy):
        return (1 if dx >= 0 else -1), 0
    return 0, (1 if dy >= 0 else -1)


def apply_layout(views: list[View], layout: Layout) -> list[View]:
    """The views at their places, pictorial ones with their own scale where they need one."""
    return [
        v.model_copy(update={"place": layout.places[v.id], "scale": layout.scales.get(v.id, v.scale)}) for v in views
    ]


def propose_sheet(items: list[Item], drawing: Drawing) -> tuple[str, Layout]:
    """Sheet size and layout: the smallest usual sheet on which the part stands at a readable scale."""
    usual = ["A3", "A2", "A1"] if drawing.standard == "ISO" else ["B", "C", "D"]
    lying = drawing.front_sheet.model_copy(update={"landscape": True})
    found = [(size, choose(items, drawing, lying.model_copy(update={"size": size}))) for size in usual]
    for least in (1.0, 0.5, 0.2):
        for size, layout in found:
            if layout.scale >= least:
                return size, layout
    return found[-1]


def rearranged(
    projections: ProjectionCache, drawing: Drawing, sheet: Sheet, scale: float | None, before: float | None = None
) -> Layout:
    """A fresh layout of the views of a sheet, at a scale or at the largest that fits; ``before``: the sheet's scale at which
    its views stand now, where that is another already."""
    views = [v.model_copy(update={"scale": None}) if v.pictorial and scale is None else v for v in sheet.views]
    trial = sheet.model_copy(update={"views": views})
    items = items_for(projections, drawing.with_sheet(trial), trial)

    def settled(found: Layout) -> tuple[float, Layout]:
        places = _with_attached(sheet, found, before or sheet.scale).places
        scaled = trial.model_copy(update={"scale": found.scale})
        off, places = _settled(projections, drawing.with_sheet(scaled), scaled, places, set(found.places))
        return off, Layout(found.scale, places, found.scales)

    if scale is not None:
        return settled(loose(items, drawing, sheet, scale))[1]
    largest = choose(items, drawing, sheet)
    off, best = settled(largest)
    for smaller in [s for s in SERIES if s < largest.scale - 1e-9][:SMALLER]:
        if off <= 0.0:
            break
        try:
            less, tried = settled(choose(items, drawing, sheet, smaller))
        except UserError:
            break
        if less < 0.5 * off:
            off, best = less, tried
    return best


def _settled(
    projections: ProjectionCache,
    drawing: Drawing,
    sheet: Sheet,
    places: dict[str, tuple[float, float]],
    standing: set[str],
) -> tuple[float, dict[str, tuple[float, float]]]:
    """Places at which auxiliary views, which are beside the grid of projection, lie on nothing: nearer to their parent or farther off in
    the same direction, or all views but the pictorial ones moved together; and how much (mm²) of them lies on something
    nevertheless. Those that are ``standing`` were laid out."""
    beside = [v for v in sheet.views if isinstance(v, AuxiliaryView) and v.id in places and v.id not in standing]
    if not beside:
        return 0.0, places
    ground, scenes = occupancy(drawing, sheet), projections.scenes(drawing, sheet)
    found, off = dict(places), 0.0

    def about(view: View) -> Array:
        r, k = _extent(projections, drawing, sheet, view, scenes[view.id]), sheet.scale_of(view)
        x, y = found[view.id]
        return np.array([k * r.x0 + x, k * r.y0 + y, k * r.x1 + x, k * r.y1 + y])

    free = [about(v) for v in sheet.views if v.id in standing and v.pictorial]
    group = [about(v) for v in sheet.views if v.id in standing and not v.pictorial]
    inner = _row(ground.within(LEAST))
    fixed = np.array([*(_row(b) for b in ground.beside(LEAST)), *(f + _AIR for f in free)])
    steps = np.arange(-15.0, 16.0) * 10.0
    shifts = np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2)
    shifts = shifts[np.argsort(np.linalg.norm(shifts, axis=1), kind="stable")]
    for view in beside:
        parent = sheet.view(view.parent)
        root = np.array(found.get(view.parent or "", parent.place if parent is not None else (0.0, 0.0)))
        own, away = about(view), np.array(found[view.id]) - root
        least, best, by = np.inf, 1.0, np.zeros(2)
        for t in np.r_[1.0, 0.95:0.2:-0.05, 1.05:2.0:0.05].tolist():
            box = own + np.tile((t - 1.0) * away, 2)
            boxes = np.array([*group, box])
            lies = _over(box[None], np.array(group) + _AIR).sum() if group else 0.0
            # as it is, then all together, as little as may be
            for tried in (shifts[:1], shifts):
                there = boxes[None] + np.tile(tried, 2)[:, None]
                outside = (_area(boxes) - _over(there, inner)).sum(axis=1)
                cost = (
                    lies
                    + outside
                    + _over(there[:, :, None], fixed).sum(axis=(1, 2))
                    + 0.01 * np.linalg.norm(tried, axis=1)
                )
                k = int(np.argmin(cost))
                if cost[k] < least - 1e-6:
                    least, best, by = float(cost[k]), t, tried[k]
                if least < 0.5:
                    break
            if least < 0.5:
                break
        x, y = (root + best * away).tolist()
        found[view.id] = x, y
        group.append(about(view))
        group = [g + np.tile(by, 2) for g in group]
        still = {v.id for v in sheet.views if v.pictorial and v.id in standing}
        found = {own: at if own in still else (at[0] + by[0], at[1] + by[1]) for own, at in found.items()}
        off += max(least - 5.0, 0.0)
    # not rounded: a tied view stays on its line
    return off, {own: (float(x), float(y)) for own, (x, y) in found.items()}


_AIR = np.array([-LEAST, -LEAST, LEAST, LEAST])


def _row(box: Rectangle) -> Array:
    return np.array([box.x0, box.y0, box.x1, box.y1])


def _area(boxes: Array) -> Array:
    area: Array = (boxes[..., 2] - boxes[..., 0]) * (boxes[..., 3] - boxes[..., 1])
    return area


def _over(boxes: Array, others: Array) -> Array:
    """mm² that boxes (..., 4) share with others, as they are broadcast."""
    low, high = np.maximum(boxes[..., :2], others[..., :2]), np.minimum(boxes[..., 2:], others[..., 2:])
    shared: Array = np.clip(high - low, 0.0, None).prod(axis=-1)
    return shared


def _with_attached(sheet: Sheet, found: Layout, before: float) -> Layout:
    """A layout with the removed and revolved sections where they stood from their views at the scale ``before``."""
    places = dict(found.places)
    for view in sheet.views:
        parent = sheet.view(view.parent)
        if view.id in places or parent is None or parent.id not in places:
            continue
        factor = found.scale / before
        at = places[parent.id]
        off = [(a - b) * factor for a, b in zip(view.place, parent.place, strict=True)]
        places[view.id] = at[0] + off[0], at[1] + off[1]
    return Layout(found.scale, places, found.scales)
