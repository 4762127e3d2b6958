"""Regions and lines of the plane in pieces."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

Array = NDArray[np.float64]


def polygons_of(region: Any, least: float = 0.0) -> list[Any]:
    """The polygons of a region that are larger than ``least`` (mm²)."""
    return [g for g in getattr(region, "geoms", [region]) if isinstance(g, shapely.Polygon) and g.area > least]


def rings_of(polygon: Any) -> list[Array]:
    """The outlines (m, 2) of a polygon, the outer one first, each without its first point again."""
    return [np.asarray(r.coords)[:-1] for r in (polygon.exterior, *polygon.interiors)]


def lines_of(figure: Any, least: float = 0.0) -> list[Array]:
    """The corners (m, 2) of the lines of a figure that are longer than ``least`` (mm)."""
    pieces = getattr(figure, "geoms", [figure])
    return [np.asarray(g.coords) for g in pieces if isinstance(g, shapely.LineString) and g.length > least]


def seamless(regions: Sequence[Any], near: float) -> Any:
    """Regions as one, with no seam left between those that are ``near`` (mm) to each other."""
    wide = shapely.union_all([g.buffer(near, join_style="mitre") for g in regions])
    return wide.buffer(-near, join_style="mitre")


def united(pieces: Any, grid: float) -> Any:
    """The union of many pieces of a plane, their corners caught on a ``grid`` (mm). Where thin ones make that fail, it is had without the
    grid, or on coarser ones."""
    for size in (grid, None, 10 * grid, 100 * grid):
        try:
            return shapely.union_all(pieces, grid_size=size)
        except shapely.errors.GEOSException:
            continue
    return shapely.union_all([p.buffer(grid) for p in pieces])
