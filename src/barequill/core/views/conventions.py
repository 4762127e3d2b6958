"""What is drawn otherwise than it is modelled: threads that are shown by lines."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..geometry.planar import lines_of, polygons_of, rings_of
from ..projection.engine import ProjectedCurve
from ..values import value
from .shot import Array

SHARE = 0.05
"""Share of a band that lies in a cut face at least where the cut goes through the thread."""
NEAR = 1e-4
"""In part sizes: how far what lies in a band may stray from it."""


ALL = [(0.0, 1.0)]


@value
class Band:
    """Where a modelled thread lies in a view, between its roots and its crests (a region in view mm about the part's centre);
    its body, and the faces about its axis that are drawn only beyond it."""

    body: str
    region: BaseGeometry
    cores: frozenset[str]


@value
class Conventions:
    """The references of what is not drawn, and the bands of threads."""

    refs: frozenset[str] = frozenset()
    bands: tuple[Band, ...] = ()

    def kept(self, curve: ProjectedCurve, centre: Array, size: float) -> list[tuple[float, float]]:
        """What is drawn of a line of a view, as shares of its way: none of one in whose place something else is drawn."""
        if curve.source in self.refs:
            return []
        bands = [b.region for b in self.bands if curve.source in b.cores]
        if not bands:
            return ALL
        near = NEAR * size
        points = curve.curve.points(1e-3 * size) - centre
        band = shapely.union_all(bands).buffer(near)
        if curve.curve.kind != "line":
            return [] if shapely.contains(band, shapely.LineString(points)) else ALL
        whole = shapely.LineString(points)
        ends = [
            [whole.project(shapely.Point(q)) / whole.length for q in p[[0, -1]]]
            for p in lines_of(whole.difference(band), near)
        ]
        return [(min(a, b), max(a, b)) for a, b in ends]

    def filled(self, body: str, rings: Sequence[Array]) -> list[list[Array]]:
        """A cut face of a body (outlines in view mm about the part's centre, those after the first holes) without the grooves
        of its threads: such faces."""
        bands = [b for b in self.bands if b.body == body]
        if not bands:
            return [list(rings)]
        shape = shapely.Polygon(rings[0], rings[1:]).buffer(0)
        for band in bands:
            for region in polygons_of(band.region):
                met = region.intersection(shape)
                if met.area > SHARE * region.area:
                    # as far as its teeth reach
                    shape = shape.union(met.convex_hull.intersection(region))
        return [[np.asarray(r) for r in rings_of(g)] for g in polygons_of(shape)]


NONE = Conventions()
