"""A region that a cutting plane lays open of a body: by its rings, or as a shape."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from ..geometry.planar import polygons_of, rings_of
from ..values import value
from .limits import Array, Ints


@value
class Region:
    """A region of a cutting plane with rings about it, in the cutting plane's own frame: ``points`` (k, 2), in space ``spots`` (k, 3), from where in
    them each ring begins (r + 1,), the areas (r,) that they hold, below 0 for holes, and for these the ring ``around`` them; or one that is ``given``
    as a shape, where rings are not sound, or it is cut off. ``area``: mm²."""

    points: Array
    spots: Array
    first: Ints
    turns: Array
    around: Ints
    area: float
    given: Any = None

    @cached_property
    def shape(self) -> Any:
        """The region as a shape."""
        return _region(_parts(self.points, self.first), self.turns) if self.given is None else self.given

    def faces(self, frame: Array, least: float) -> list[tuple[float, tuple[Array, ...]]]:
        """Its pieces larger than ``least`` (mm²): the area of each and its rings (m, 3), the outer one first and anticlockwise;
        ``frame`` (3, 3): a point in the cutting plane and its two directions."""
        if self.given is not None:
            polygons = polygons_of(self.given, least)
            return [
                (g.area, tuple([r @ frame[1:] + frame[0] for r in rings_of(o)]))
                for g, o in zip(polygons, shapely.orient_polygons(polygons), strict=True)
            ]
        rings = _parts(self.spots, self.first)
        if len(rings) == 1:
            return [(self.area, (rings[0],))] if self.area > least else []
        held: dict[int, list[int]] = {}
        turns, around = self.turns.tolist(), self.around.tolist()
        for k, r in enumerate(around):
            held.setdefault(k if turns[k] > 0 else r, []).append(k)
        found = []
        for r, own in held.items():
            area = sum([turns[k] for k in own])
            if r >= 0 and area > least:
                found.append((area, (rings[r], *[rings[k] for k in own if k != r])))
        return found


def _parts(points: Array, first: Ints) -> list[Array]:
    """Rings one by one."""
    ends = first.tolist()
    return [points[a:b] for a, b in zip(ends, ends[1:], strict=False)]


def given(shape: Any) -> Region:
    """A region by its shape."""
    none = np.zeros(0, np.int64)
    return Region(
        points=np.zeros((0, 2)),
        spots=np.zeros((0, 3)),
        first=none,
        turns=np.zeros(0),
        around=none,
        area=float(shape.area),
        given=shape,
    )


def _region(rings: list[Array], turns: Array) -> Any:
    """The region with rings (m, 2) about it, those that run clockwise as holes."""
    outer = [shapely.Polygon(r) for r, t in zip(rings, turns, strict=True) if t > 0]
    holes = [shapely.Polygon(r) for r, t in zip(rings, turns, strict=True) if t < 0]
    outer = [p if p.is_valid else p.buffer(0) for p in outer]
    holes = [p if p.is_valid else p.buffer(0) for p in holes]
    if not outer:
        return shapely.Polygon()
    if len(outer) == 1 and not holes:
        return outer[0]
    if len(outer) == 1:
        whole = (
            shapely.Polygon(outer[0].exterior, [h.exterior for h in holes if isinstance(h, shapely.Polygon)])
            if (isinstance(outer[0], shapely.Polygon))
            else outer[0]
        )
        if whole.is_valid:
            return whole
    # each hole out of the smallest that holds it
    outer.sort(key=lambda p: p.area)
    mine: dict[int, list[Any]] = defaultdict(list)
    for hole in holes:
        spot = hole.representative_point()
        for k, p in enumerate(outer):
            if p.area >= hole.area and p.contains(spot):
                mine[k].append(hole)
                break
    return shapely.union_all(
        [p.difference(shapely.union_all(mine[k])) if k in mine else p for k, p in enumerate(outer)]
    )
