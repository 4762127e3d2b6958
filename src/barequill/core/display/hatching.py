"""Hatch as lines: parallel ones clipped by the region, in the patterns of the trade."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..values import value

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Strand:
    """Lines of a pattern: turned from its angle (degrees), aside (spacings), so far apart (spacings), with dashes and gaps
    (spacings) where they are not continuous."""

    turn: float = 0.0
    aside: float = 0.0
    apart: float = 1.0
    dashes: tuple[float, ...] = ()


PATTERNS: dict[str, tuple[Strand, ...]] = {
    "general": (Strand(),),
    "steel": (Strand(), Strand(aside=0.3)),
    "light": (Strand(apart=2.0), Strand(aside=1.0, apart=2.0, dashes=(1.6, 0.6))),
    "copper": (Strand(apart=2.0), Strand(aside=0.35, apart=2.0), Strand(aside=1.2, apart=2.0, dashes=(1.6, 0.6))),
    "plastic": (Strand(), Strand(turn=90.0)),
}


@value
class Hatch:
    """A region filled with parallel lines: closed outlines (n, 2), those after the first holes; ``angle`` in degrees
    counter-clockwise, ``spacing`` in mm. Lines of one angle and spacing run on from region to region."""

    rings: tuple[Array, ...]
    angle: float
    spacing: float
    pattern: str = "general"
    pen: str = "hatch"

    def moved(self, by: tuple[float, float]) -> Hatch:
        """The same elsewhere; its lines go along."""
        found = replace(self, rings=tuple(r + by for r in self.rings))
        # what was clipped once is only moved
        if "segments" in self.__dict__:
            found.__dict__["segments"] = self.segments + np.asarray(by)
        return found

    @cached_property
    def segments(self) -> Array:
        """Its lines (n, 2, 2)."""
        return np.concatenate([np.zeros((0, 2, 2)), *(_clipped(self, s) for s in PATTERNS[self.pattern])])


def _clipped(hatch: Hatch, strand: Strand) -> Array:
    """The lines of one strand of a pattern within the outlines, by the even-odd rule."""
    a = np.radians(hatch.angle + strand.turn)
    turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    step, base = strand.apart * hatch.spacing, strand.aside * hatch.spacing
    starts, ends = [], []
    for ring in hatch.rings:
        flat = ring @ turn
        starts.append(flat)
        ends.append(np.roll(flat, -1, axis=0))
    p, q = np.concatenate(starts), np.concatenate(ends)
    low, high = np.minimum(p[:, 1], q[:, 1]), np.maximum(p[:, 1], q[:, 1])
    first = np.ceil((low - base) / step).astype(int)
    last = np.ceil((high - base) / step).astype(int)
    count = last - first
    side = np.repeat(np.arange(len(p)), count)
    if not len(side):
        return np.zeros((0, 2, 2))
    row = np.arange(len(side)) - np.repeat(np.cumsum(count) - count, count) + first[side]
    y = base + row * step
    rise = q[side, 1] - p[side, 1]
    x = p[side, 0] + (y - p[side, 1]) / np.where(rise == 0, 1.0, rise) * (q[side, 0] - p[side, 0])
    order = np.lexsort((x, row))
    x, y = x[order], y[order]
    pairs = (
        np.stack([np.c_[x[::2], y[::2]], np.c_[x[1::2], y[1::2]]], axis=1) if len(x) % 2 == 0 else np.zeros((0, 2, 2))
    )
    pairs = pairs[pairs[:, 1, 0] - pairs[:, 0, 0] > 0.02]
    if strand.dashes:
        pairs = _dashed(pairs, np.array(strand.dashes) * hatch.spacing)
    return pairs @ turn.T


def _dashed(pairs: Array, dashes: Array) -> Array:
    """Level lines (n, 2, 2) as dashes."""
    period = float(dashes.sum())
    found = []
    for (x0, y), (x1, _) in pairs.tolist():
        k = np.arange(np.floor(x0 / period), np.ceil(x1 / period))
        begin, end = np.maximum(k * period, x0), np.minimum(k * period + dashes[0], x1)
        keep = end - begin > 0.02
        own = np.empty((int(keep.sum()), 2, 2))
        own[:, 0, 0], own[:, 1, 0], own[:, :, 1] = begin[keep], end[keep], y
        found.append(own)
    return np.concatenate([np.zeros((0, 2, 2)), *found])
