"""The farthest places of a view, and the sizes over all between them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..drawing import Anchor, Dimension, Place, Sheet
from ..errors import Unmeasurable
from ..views.picture import Picture
from .linear import normal_of
from .measuring import Linear, measure
from .seats import resolve
from .solving import Stage

COARSE = 1e-4
"""In part sizes: how far the mesh of a view may go beyond its edges."""
SHORT = 2e-3
"""The same of how far it may fall short of what bulges."""


def _candidates(picture: Picture, axis: int) -> Iterator[tuple[int, Anchor, float, float]]:
    """Places of a view that may be its farthest along its x (0) or y (1): how good they are to hang a dimension on, the anchor,
    and where it is."""
    part, shot, seen = picture.shot.part, picture.shot, set()
    for c in shot.curves:
        if not c.visible or c.source in seen or c.cls in ("smooth", "adjacent"):
            continue
        seen.add(c.source)
        kind, row = part.index.get(c.source, ("", 0))
        try:
            if kind == "face":
                for side in (1, -1):
                    anchor = Anchor.model_validate({"ref": c.source, "at": "outline", "side": side})
                    seat = resolve(shot, anchor)
                    if seat.kind == "round":
                        for k in range(4):
                            rim = Anchor(ref=c.source, at="rim", angle=90.0 * k)
                            p = resolve(shot, rim).points[0]
                            yield 1, rim, float(p[0]), float(p[1])
                        break
                    # along itself an outline is measured to nothing
                    across = abs(float(seat.points[1, axis] - seat.points[0, axis])) < 1e-6
                    for p in seat.points if across else seat.points[:0]:
                        yield 1, anchor, float(p[0]), float(p[1])
                continue
            curve = part.edges[row].curve
            if curve.is_circle:
                seat = resolve(shot, Anchor(ref=c.source, at="round"))
                along = (shot.view.right, shot.view.up)[axis]
                if seat.axis is not None and abs(float(seat.axis @ along)) > 1 - 1e-9:
                    # seen edge on, it lies across
                    p = seat.points[0]
                    yield 1, Anchor(ref=c.source, at="round"), float(p[0]), float(p[1])
                for k in range(4) if seat.face_on else ():
                    turn = (np.radians(90.0 * k) - seat.span[0]) % (2 * np.pi)
                    if turn <= seat.span[1] - seat.span[0] + 1e-9:
                        anchor = Anchor(ref=c.source, at="rim", angle=90.0 * k)
                        p = resolve(shot, anchor).points[0]
                        yield 1, anchor, float(p[0]), float(p[1])
            names = ("start", "end") if not curve.full_turn else ()
            points = [resolve(shot, Anchor.model_validate({"ref": c.source, "at": at})).points[0] for at in names]
            across = len(points) == 2 and curve.kind == "line" and np.abs(points[1] - points[0]).min() < 1e-6
            for at, p in zip(names, points, strict=True):
                own = Anchor.model_validate({"ref": c.source, "at": "line" if across else at})
                yield (0 if across else 2), own, float(p[0]), float(p[1])
        except Unmeasurable:
            continue


def farthest(picture: Picture, axis: int) -> tuple[Anchor, Anchor]:
    """Anchors at both ends of a view along its x (0) or y (1).

    Raises
    ------
    Unmeasurable
        Where there are none.
    """
    (least, most), size = picture.shot.mesh_box[axis], picture.shot.whole.size
    found = [
        (rank, anchor, (x, y)[axis])
        for rank, anchor, x, y in _candidates(picture, axis)
        # the side of a ball or circle may lie where there is nothing of it
        if least - SHORT * size <= (x, y)[axis] <= most + SHORT * size
        and picture.chart.shows(np.array([[x, y]]))[0]
        and not (anchor.at == "line" and _lies_along(picture, anchor, axis))
    ]
    if not found:
        raise Unmeasurable("There is nothing to measure", "The view shows no edge of the part.")
    near = 1e-6 * picture.shot.whole.size
    low, high = min(f[2] for f in found), max(f[2] for f in found)
    if high - low < near:
        raise Unmeasurable("There is no size", "The view has none along that way.")
    if picture.chart.plain and float(most - least) - (high - low) > COARSE * size:
        # what bulges beyond all edges has no place to measure from
        raise Unmeasurable("Its farthest place has no edge", "Pull the size from the outlines by hand.")
    ends = [min((f for f in found if abs(f[2] - end) < near), key=lambda f: f[0])[1] for end in (low, high)]
    return ends[0], ends[1]


def _lies_along(picture: Picture, anchor: Anchor, axis: int) -> bool:
    points = resolve(picture.shot, anchor).points
    return abs(float(points[1, axis] - points[0, axis])) > 1e-6


def overall(stage: Stage, axis: int, new_id: str) -> Dimension:
    """The size of a view over all along its x (0) or y (1), beyond the dimensions that stand there.

    Raises
    ------
    Unmeasurable
        Where there is none.
    """
    picture = stage.view
    if picture.shot.pictorial:
        raise Unmeasurable("A pictorial view has no size over all", "State it in the views that it is a picture of.")
    first, second = farthest(picture, axis)
    given = {
        "id": new_id,
        "on": picture.view.id,
        "measure": "distance",
        "anchors": [first, second],
        "direction": "horizontal" if axis == 0 else "vertical",
    }
    draft = Dimension.model_validate(given)
    found = measure(picture.shot, draft)
    assert isinstance(found, Linear)
    side, offset = free_row(stage, stage.sheet, found)
    return draft.model_copy(update={"place": Place.model_validate({"side": side, "offset": offset})})


def free_row(stage: Stage, sheet: Sheet, found: Linear) -> tuple[int, float]:
    """The side of a view on which most dimensions that run alike stand already, and the next row there."""
    n = normal_of(stage.view.chart.direction(found.along))
    rows: dict[int, list[float]] = {1: [], -1: []}
    for other in sheet.annotations:
        if not isinstance(other, Dimension) or other.on != stage.view.view.id or other.place.frame != "outline":
            continue
        try:
            theirs = measure(stage.view.shot, other)
        except Unmeasurable:
            continue
        if isinstance(theirs, Linear) and abs(float(normal_of(stage.view.chart.direction(theirs.along)) @ n)) > 0.999:
            rows[other.place.side].append(other.place.offset)
    side = max((-1, 1), key=lambda s: len(rows[s])) if any(rows.values()) else (-1 if n[1] > 0.5 else 1)
    style = stage.style
    return side, round(max(rows[side]) + style.row, 2) if rows[side] else style.first_row
