"""Where strands cross, touch or end on each other in the view plane."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from .strands import Strand

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


class Segments:
    """All pieces of the fine polylines of strands, in the view plane.

    ``p``, ``q`` (n, 2): ends; ``strand`` (n,): row of the strand; ``t0``, ``t1`` (n,): its parameters there.
    """

    def __init__(self, strands: list[Strand], flats: list[Array]) -> None:
        counts = [len(f) - 1 for f in flats]
        self.p = np.concatenate([f[:-1] for f in flats])
        self.q = np.concatenate([f[1:] for f in flats])
        self.t0 = np.concatenate([s.t[:-1] for s in strands])
        self.t1 = np.concatenate([s.t[1:] for s in strands])
        self.strand: Ints = np.repeat(np.arange(len(strands)), counts)
        self.contour = np.repeat(np.array([s.contour for s in strands]), counts)
        low, high = np.minimum(self.p, self.q), np.maximum(self.p, self.q)
        self.boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])


def crossing_parameters(strands: list[Strand], flats: list[Array], near: float) -> list[Array]:
    """Parameters at which each strand meets a contour, or an end of another strand, within ``near`` (mm)."""
    segments = Segments(strands, flats)
    rows, values = [], []
    contours = np.nonzero(segments.contour)[0]
    if len(contours):
        tree = shapely.STRtree(segments.boxes[contours])
        one, other = tree.query(segments.boxes)
        other = contours[other]
        keep = (segments.strand[one] != segments.strand[other]) | (np.abs(one - other) > 1)
        one, other = one[keep], other[keep]
        at, t = _cross(segments, one, other, near)
        rows.append(at)
        values.append(t)
    at, t = _touch(segments, strands, flats, near)
    rows.append(at)
    values.append(t)
    strand, t = np.concatenate(rows), np.concatenate(values)
    order = np.argsort(strand, kind="stable")
    bounds = np.searchsorted(strand[order], np.arange(len(strands) + 1))
    return [t[order[a:b]] for a, b in zip(bounds, bounds[1:], strict=False)]


def _cross(segments: Segments, one: Ints, other: Ints, near: float) -> tuple[Ints, Array]:
    a, b = segments.p[one], segments.q[one] - segments.p[one]
    c, d = segments.p[other], segments.q[other] - segments.p[other]
    cross = b[:, 0] * d[:, 1] - b[:, 1] * d[:, 0]
    lb, ld = np.linalg.norm(b, axis=1), np.linalg.norm(d, axis=1)
    ok = np.abs(cross) > 1e-7 * lb * ld
    one, other, a, b, c, d, cross, lb, ld = (x[ok] for x in (one, other, a, b, c, d, cross, lb, ld))
    e = c - a
    s = (e[:, 0] * d[:, 1] - e[:, 1] * d[:, 0]) / cross
    r = (e[:, 0] * b[:, 1] - e[:, 1] * b[:, 0]) / cross
    slack_s, slack_r = near / np.maximum(lb, 1e-300), near / np.maximum(ld, 1e-300)
    hit = (s >= -slack_s) & (s <= 1 + slack_s) & (r >= -slack_r) & (r <= 1 + slack_r)
    off = np.maximum(np.abs(_across(e, d, ld)), np.abs(_across(e - b, d, ld)))
    hit &= off > near
    one, s = one[hit], np.clip(s[hit], 0, 1)
    return segments.strand[one], segments.t0[one] + s * (segments.t1[one] - segments.t0[one])


def _across(e: Array, d: Array, length: Array) -> Array:
    return (e[:, 0] * d[:, 1] - e[:, 1] * d[:, 0]) / np.maximum(length, 1e-300)


def _touch(segments: Segments, strands: list[Strand], flats: list[Array], near: float) -> tuple[Ints, Array]:
    ends = np.concatenate([f[[0, -1]] for f in flats])
    owner = np.repeat(np.arange(len(flats)), 2)
    lines = shapely.linestrings(np.stack([segments.p, segments.q], axis=1))
    point, row = shapely.STRtree(lines).query(shapely.points(ends), predicate="dwithin", distance=near)
    keep = owner[point] != segments.strand[row]
    point, row = point[keep], row[keep]
    p, d = segments.p[row], segments.q[row] - segments.p[row]
    share = np.clip(((ends[point] - p) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-300), 0, 1)
    return segments.strand[row], segments.t0[row] + share * (segments.t1[row] - segments.t0[row])
