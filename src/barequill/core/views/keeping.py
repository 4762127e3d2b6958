"""Projection results as columns of figures, for keeping."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..projection.columns import Columns, Curves, as_columns
from .projecting import CutRegion, ProjectionResult


def put_away(taken: ProjectionResult) -> Columns:
    """A projection result as columns."""
    columns = as_columns(taken.curves)
    if not taken.regions:
        return columns
    return replace(
        columns,
        bodies=tuple(r.body for r in taken.regions),
        counts=tuple(tuple(len(ring) for ring in r.rings) for r in taken.regions),
        corners=np.concatenate([ring for r in taken.regions for ring in r.rings]),
    )


def taken_out(columns: Columns) -> ProjectionResult:
    """The projection result that :func:`put_away` was given."""
    regions, at = [], 0
    for body, counts in zip(columns.bodies, columns.counts, strict=True):
        rings = []
        for n in counts:
            assert columns.corners is not None
            rings.append(columns.corners[at : at + n])
            at += n
        regions.append(CutRegion(body, tuple(rings)))
    return ProjectionResult(Curves(columns), tuple(regions))
