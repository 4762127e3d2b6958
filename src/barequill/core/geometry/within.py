"""Pieces of plane curves within a region."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..values import value
from .curves2 import TURN, Curve2

Array = NDArray[np.float64]
HALVINGS = 24
"""How often the piece of a curve between two corners of its polyline is halved to find where it crosses a border."""


@value
class Strings:
    """Curves with polylines that lie within ``near`` (mm) of them, made once to be asked often."""

    curves: Sequence[Curve2]
    near: float

    @cached_property
    def parameters(self) -> list[Array]:
        """Where on its curve each corner of a polyline lies."""
        return [c.parameters(self.near) for c in self.curves]

    @cached_property
    def lines(self) -> NDArray[Any]:
        """The polylines, as shapes."""
        points = [c.evaluate(t) for c, t in zip(self.curves, self.parameters, strict=True)]
        if not points:
            return np.zeros(0, object)
        rows = np.repeat(np.arange(len(points)), [len(p) for p in points])
        return np.asarray(shapely.linestrings(np.concatenate(points), indices=rows))

    def within(self, region: Any) -> list[tuple[int, Curve2]]:
        """The pieces of the curves in a region, each with the row of its curve; whole curves as they are."""
        shapely.prepare(region)
        whole = shapely.covers(region, self.lines)
        touched = ~whole & shapely.intersects(region, self.lines)
        found = [(k, self.curves[k]) for k in np.nonzero(whole)[0].tolist()]
        for k in np.nonzero(touched)[0].tolist():
            found += [(k, piece) for piece in self._pieces(k, region)]
        return sorted(found, key=lambda f: f[0])

    def _pieces(self, k: int, region: Any) -> list[Curve2]:
        curve, line = self.curves[k], self.lines[k]
        corners = shapely.get_coordinates(line)
        run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(corners, axis=0), axis=1))])
        if run[-1] <= 0:
            return []
        spans = []
        for g in getattr(inside := line.intersection(region), "geoms", [inside]):
            if not isinstance(g, shapely.LineString) or g.is_empty:
                continue
            # by its middle: the ends of a closed curve are one place
            middle = float(shapely.line_locate_point(line, g.interpolate(0.5, normalized=True)))
            if g.length > 1e-9 * run[-1]:
                spans.append((max(0.0, middle - g.length / 2), min(float(run[-1]), middle + g.length / 2)))
        spans = _run_together(sorted(spans), 1e-9 * run[-1])
        ends = [(self._crossing(k, region, run, a), self._crossing(k, region, run, b)) for a, b in spans]
        if curve.full_turn and len(ends) > 1 and spans[0][0] <= 1e-9 * run[-1] and spans[-1][1] >= run[-1] * (1 - 1e-9):
            # one piece runs through where the curve begins
            ends = [*ends[1:-1], (ends[-1][0], ends[0][1] + TURN)]
        return [curve.piece(a, b) for a, b in ends if b > a]

    def _crossing(self, k: int, region: Any, run: Array, at: float) -> float:
        """The parameter of a curve where it crosses the border of a region, so far along its polyline."""
        curve, t = self.curves[k], self.parameters[k]
        found = float(np.interp(at, run, t))
        if curve.kind in ("line", "polyline") or at <= 1e-9 * run[-1] or at >= run[-1] * (1 - 1e-9):
            return found
        # between two corners the curve itself is halved until the place is found
        row = int(np.clip(np.searchsorted(run, at) - 1, 0, len(t) - 2))
        low, high = float(t[row]), float(t[row + 1])
        sides = shapely.contains_xy(region, curve.evaluate(np.array([low, high])))
        if sides[0] == sides[1]:
            return found
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            if bool(shapely.contains_xy(region, curve.evaluate(np.array([middle])))[0]) == bool(sides[0]):
                low = middle
            else:
                high = middle
        return (low + high) / 2


def _run_together(spans: list[tuple[float, float]], near: float) -> list[tuple[float, float]]:
    """Spans in order, as one where they meet."""
    found: list[tuple[float, float]] = []
    for low, high in spans:
        if found and low <= found[-1][1] + near:
            found[-1] = found[-1][0], max(high, found[-1][1])
        else:
            found.append((low, high))
    return found
