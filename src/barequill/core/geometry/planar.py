"""Regions of the plane in pieces."""

from __future__ import annotations

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
