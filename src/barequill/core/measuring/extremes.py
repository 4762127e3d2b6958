"""The farthest places of a view, and the sizes over all between them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..drawing import Anchor, Dimension, Place, Sheet
from ..errors import Unmeasurable
from ..part.model import Part
from ..views.placed_view import PlacedView
from .anchor_geometry import resolve
from .context import LayoutContext
from .measuring import Linear, measure, normal_of

COARSE = 1e-4
"""In part sizes: how far the mesh of a view may go beyond its edges."""
SHORT = 2e-3
"""The same of how far it may fall short of what bulges."""


def _candidates(placed_view: PlacedView, axis: int) -> Iterator[tuple[int, Anchor, float, float]]:
    """Places of a view that may be its farthest along its x (0) or y (1): how good they are to hang a dimension on, the anchor,
    and where it is."""
    part, projected, seen = placed_view.projected.part, placed_view.projected, set()
    ways = (0.0, 180.0) if axis == 0 else (90.0, 270.0)
    for c in projected.curves:
        if not c.visible or c.source in seen or c.cls in ("smooth", "adjacent"):
            continue
        seen.add(c.source)
        kind, row = part.index.get(c.source, ("", 0))
        try:
            if bulges(part, kind, row) and not projected.scene.is_cut:
                for angle in ways:
                    bulge = Anchor(ref=c.source, at="farthest", angle=angle)
                    p = resolve(projected, bulge).points[0]
                    yield 3, bulge, float(p[0]), float(p[1])
            if kind == "face":
                for side in (1, -1):
                    anchor = Anchor.model_validate({"ref": c.source, "at": "outline", "side": side})
                    anchor_geometry = resolve(projected, anchor)
                    if anchor_geometry.kind == "round":
                        for k in range(4):
                            rim = Anchor(ref=c.source, at="rim", angle=90.0 * k)
                            p = resolve(projected, rim).points[0]
                            yield 1, rim, float(p[0]), float(p[1])
                        break
                    # along itself an outline is measured to nothing
                    across = abs(float(anchor_geometry.points[1, axis] - anchor_geometry.points[0, axis])) < 1e-6
                    for p in anchor_geometry.points if across else anchor_geometry.points[:0]:
                        yield 1, anchor, float(p[0]), float(p[1])
                continue
            curve = part.edges[row].curve
            if curve.is_circle:
                anchor_geometry = resolve(projected, Anchor(ref=c.source, at="round"))
                along = (projected.view.right, projected.view.up)[axis]
                if anchor_geometry.axis is not None and abs(float(anchor_geometry.axis @ along)) > 1 - 1e-9:
                    # seen edge on, it lies across
                    p = anchor_geometry.points[0]
                    yield 1, Anchor(ref=c.source, at="round"), float(p[0]), float(p[1])
                for k in range(4) if anchor_geometry.face_on else ():
                    turn = (np.radians(90.0 * k) - anchor_geometry.span[0]) % (2 * np.pi)
                    if turn <= anchor_geometry.span[1] - anchor_geometry.span[0] + 1e-9:
                        anchor = Anchor(ref=c.source, at="rim", angle=90.0 * k)
                        p = resolve(projected, anchor).points[0]
                        yield 1, anchor, float(p[0]), float(p[1])
            names = ("start", "end") if not curve.full_turn else ()
            points = [resolve(projected, Anchor.model_validate({"ref": c.source, "at": at})).points[0] for at in names]
            across = len(points) == 2 and curve.kind == "line" and np.abs(points[1] - points[0]).min() < 1e-6
            for at, p in zip(names, points, strict=True):
                own = Anchor.model_validate({"ref": c.source, "at": "line" if across else at})
                yield (0 if across else 2), own, float(p[0]), float(p[1])
        except Unmeasurable:
            continue


def bulges(part: Part, kind: str, row: int) -> bool:
    """True for a face or edge that may reach farther between its own edges or ends than there, and has no side of its own to measure
    from: free forms, rings, surfaces of revolution."""
    if kind == "face":
        return part.faces[row].surface.kind not in ("plane", "cylinder", "cone", "sphere", "extrusion")
    return kind == "edge" and part.edges[row].curve.kind != "line" and not part.edges[row].curve.is_circle


def farthest(placed_view: PlacedView, axis: int) -> tuple[Anchor, Anchor]:
    """Anchors at both ends of a view along its x (0) or y (1).

    Raises
    ------
    Unmeasurable
        Where there are none.
    """
    (least, most), size = placed_view.projected.mesh_box[axis], placed_view.projected.whole.size
    found = [
        (rank, anchor, (x, y)[axis])
        for rank, anchor, x, y in _candidates(placed_view, axis)
        # the side of a ball or circle may lie where there is nothing of it
        if least - SHORT * size <= (x, y)[axis] <= most + SHORT * size
        and placed_view.transform.shows(np.array([[x, y]]))[0]
        and not (anchor.at == "line" and _lies_along(placed_view, anchor, axis))
    ]
    if not found:
        raise Unmeasurable("There is nothing to measure", "The view shows no edge of the part.")
    near = 1e-6 * placed_view.projected.whole.size
    low, high = min(f[2] for f in found), max(f[2] for f in found)
    if high - low < near:
        raise Unmeasurable("There is no size", "The view has none along that way.")
    if placed_view.transform.plain and float(most - least) - (high - low) > COARSE * size:
        # what bulges beyond all edges has no place to measure from
        raise Unmeasurable("Its farthest place has no edge", "Pull the size from the outlines by hand.")
    ends = [min((f for f in found if abs(f[2] - end) < near), key=lambda f: f[0])[1] for end in (low, high)]
    return ends[0], ends[1]


def _lies_along(placed_view: PlacedView, anchor: Anchor, axis: int) -> bool:
    points = resolve(placed_view.projected, anchor).points
    return abs(float(points[1, axis] - points[0, axis])) > 1e-6


def overall(context: LayoutContext, axis: int, new_id: str) -> Dimension:
    """The size of a view over all along its x (0) or y (1), beyond the dimensions that stand there.

    Raises
    ------
    Unmeasurable
        Where there is none.
    """
    placed_view = context.view
    if placed_view.projected.pictorial:
        raise Unmeasurable("A pictorial view has no size over all", "State it in the views that it is a picture of.")
    first, second = farthest(placed_view, axis)
    given = {
        "id": new_id,
        "on": placed_view.view.id,
        "measure": "distance",
        "anchors": [first, second],
        "direction": "horizontal" if axis == 0 else "vertical",
    }
    draft = Dimension.model_validate(given)
    found = measure(placed_view.projected, draft)
    assert isinstance(found, Linear)
    side, offset = free_row(context, context.sheet, found)
    return draft.model_copy(update={"place": Place.model_validate({"side": side, "offset": offset})})


def free_row(context: LayoutContext, sheet: Sheet, found: Linear) -> tuple[int, float]:
    """The side of a view on which most dimensions that run alike stand already, and the next row there."""
    n = normal_of(context.view.transform.direction(found.along))
    rows: dict[int, list[float]] = {1: [], -1: []}
    for other in sheet.annotations:
        if not isinstance(other, Dimension) or other.on != context.view.view.id or other.place.frame != "outline":
            continue
        try:
            theirs = measure(context.view.projected, other)
        except Unmeasurable:
            continue
        if (
            isinstance(theirs, Linear)
            and abs(float(normal_of(context.view.transform.direction(theirs.along)) @ n)) > 0.999
        ):
            rows[other.place.side].append(other.place.offset)
    side = max((-1, 1), key=lambda s: len(rows[s])) if any(rows.values()) else (-1 if n[1] > 0.5 else 1)
    style = context.style
    return side, round(max(rows[side]) + style.row, 2) if rows[side] else style.first_row
