"""Where strands cross, touch or end on each other in the view plane (points there are complex numbers)."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from .strands import Plane, Strands
from .wires import Array, Ints

Flags = NDArray[np.bool_]
ALONG = 2e-3
"""Sine of the angle below which two curves that meet only touch."""


class Segments:
    """Short pieces of all strands in the view plane, those in the same place taken together.

    Of each place (n of them): ``p`` (n,) where it begins, ``step`` (n,) from there to its end, ``curved``,
    ``cubic`` (4, n) in the share of the way from p, and ``contour`` where one of those that run there is one.
    """

    def __init__(self, strands: Strands, near: float) -> None:
        wires = strands.wires
        left = wires.left
        bent = left[~strands.level[wires.owner[left]]]
        level = np.nonzero(strands.level)[0]
        at_strand = np.concatenate([level, level, strands.folds[0]])
        at = np.concatenate([wires.t[wires.first[level]], wires.t[wires.last[level]], strands.folds[1]])
        order = np.lexsort((at, at_strand))
        at_strand, at = at_strand[order], at[order]
        row, share = wires.locate(at_strand, at)
        spot = strands.flat_at(row, share)
        go = np.nonzero(at_strand[1:] == at_strand[:-1])[0]
        self.strand: Ints = np.concatenate([wires.owner[bent], at_strand[go]])
        self.t0 = np.concatenate([wires.t[bent], at[go]])
        self.t1 = np.concatenate([wires.t[bent + 1], at[go + 1]])
        rows = np.concatenate([bent, row[go]])
        p = np.concatenate([strands.flat[bent], spot[go]])
        q = np.concatenate([strands.flat[bent + 1], spot[go + 1]])
        curved = np.arange(len(p)) < len(bent)
        # pieces in the same place, whichever way they run
        self.back: Flags = (p.real > q.real) | ((p.real == q.real) & (p.imag > q.imag))
        one = _cells(np.where(self.back, q, p), near / 8)
        two = _cells(np.where(self.back, p, q), near / 8) * 2 + curved
        order = np.lexsort((two, one))
        one, two = one[order], two[order]
        new = np.concatenate([[True], (one[1:] != one[:-1]) | (two[1:] != two[:-1])])
        self.order: Ints = order
        self.bounds: Ints = np.append(np.nonzero(new)[0], len(order))
        first = order[self.bounds[:-1]]
        self.row, self.curved = rows[first], curved[first]
        c1, c2, c3 = strands.flat_cubic[:, self.row]
        c0, turn = p[first], self.back[first]
        c1 = np.where(self.curved, c1, q[first] - p[first])
        c2, c3 = np.where(self.curved, c2, 0), np.where(self.curved, c3, 0)
        c0, c1, c2, c3 = (
            np.where(turn, c0 + c1 + c2 + c3, c0),
            np.where(turn, -c1 - 2 * c2 - 3 * c3, c1),
            np.where(turn, c2 + 3 * c3, c2),
            np.where(turn, -c3, c3),
        )
        self.p, self.step = c0, c1 + c2 + c3
        self.cubic: Plane = np.stack([c0, c1, c2, c3])
        self.contour: Flags = np.logical_or.reduceat(strands.contour[self.strand[order]], self.bounds[:-1])
        self.length = np.abs(self.step)


def crossings_of(strands: Strands, near: float) -> tuple[Ints, Array]:
    """Strands and parameters at which each meets a contour, or an end of another, within ``near`` (mm)."""
    segments = Segments(strands, near)
    p, q = segments.p, segments.p + segments.step
    boxes = shapely.box(
        np.minimum(p.real, q.real),
        np.minimum(p.imag, q.imag),
        np.maximum(p.real, q.real),
        np.maximum(p.imag, q.imag),
    )
    tree = shapely.STRtree(boxes)
    cutters = np.nonzero(segments.contour)[0]
    one, other = tree.query(boxes[cutters])
    one = cutters[one]
    beside = segments.curved[one] & segments.curved[other] & (np.abs(segments.row[one] - segments.row[other]) <= 1)
    keep = (one != other) & ~beside
    place_a, share_a = _cross(segments, one[keep], other[keep], near)
    ends = _ends(strands, near)
    points = shapely.box(ends.real - near, ends.imag - near, ends.real + near, ends.imag + near)
    point, place = tree.query(points)
    place_b, share_b = _touch(segments, ends[point], place, near)
    return _spread(strands, segments, np.concatenate([place_a, place_b]), np.concatenate([share_a, share_b]), near)


def _cells(points: Plane, size: float) -> Ints:
    """Numbers (n,) of the cells of a grid in which points (n,) lie."""
    x, y = np.round(points.real / size).astype(np.int64), np.round(points.imag / size).astype(np.int64)
    return x * (1 << 30) + y


def _ends(strands: Strands, near: float) -> Plane:
    """Points (k,) in the view at which strands end, or may change."""
    wires = strands.wires
    owner = np.concatenate([strands.breaks[0], strands.folds[0]])
    row, share = wires.locate(owner, np.concatenate([strands.breaks[1], strands.folds[1]]))
    points = np.concatenate([strands.flat[wires.first], strands.flat[wires.last], strands.flat_at(row, share)])
    _, first = np.unique(_cells(points, near / 4), return_index=True)
    return points[first]


def _over(a: Plane, b: Plane) -> Array:
    """Cross product (n,)."""
    return a.real * b.imag - a.imag * b.real


def _cross(segments: Segments, cutter: Ints, other: Ints, near: float) -> tuple[Ints, Array]:
    """Places, and shares of the way along them, where pieces are crossed by a contour's."""
    b, d = segments.step[other], segments.step[cutter]
    e = segments.p[cutter] - segments.p[other]
    lb, ld = segments.length[other], segments.length[cutter]
    cross, eb, ed = _over(b, d), _over(e, b), _over(e, d)
    # in range by products, so that nothing is divided that is not kept
    size, sign = np.abs(cross), np.sign(cross)
    slack = near * size
    hit = size > 1e-7 * lb * ld
    hit &= (ed * sign * lb >= -slack) & (ed * sign * lb <= size * lb + slack)
    hit &= (eb * sign * ld >= -slack) & (eb * sign * ld <= size * ld + slack)
    bent = segments.curved[other] | segments.curved[cutter]
    hit &= bent | (np.maximum(np.abs(ed), np.abs(ed - cross)) > near * ld)
    at = np.nonzero(hit)[0]
    cross, other, cutter, bent = cross[at], other[at], cutter[at], bent[at]
    s, r = np.clip(ed[at] / cross, 0, 1), np.clip(eb[at] / cross, 0, 1)
    some = np.nonzero(bent)[0]
    if len(some):
        keep = np.ones(len(s), bool)
        s[some], keep[some] = _sharpened(segments, other[some], cutter[some], s[some], r[some])
        other, s = other[keep], s[keep]
    return other, s


def _sharpened(segments: Segments, one: Ints, other: Ints, s: Array, r: Array) -> tuple[Array, Flags]:
    """Crossings of curves put where the curves cross, not their chords; and which of them are no mere touching."""
    a0, a1, a2, a3 = segments.cubic[:, one]
    b0, b1, b2, b3 = segments.cubic[:, other]
    a0 = a0 - b0
    for _ in range(2):
        e = b1 * r + b2 * r**2 + b3 * r**3 - a0 - s * (a1 + s * (a2 + s * a3))
        dp, dq = a1 + s * (2 * a2 + 3 * a3 * s), b1 + r * (2 * b2 + 3 * b3 * r)
        cross = _over(dp, dq)
        firm = np.abs(cross) > ALONG * np.abs(dp) * np.abs(dq)
        cross = np.where(firm, cross, np.inf)
        step_s, step_r = _over(e, dq) / cross, _over(e, dp) / cross
        s, r = np.clip(s + np.clip(step_s, -0.5, 0.5), 0, 1), np.clip(r + np.clip(step_r, -0.5, 0.5), 0, 1)
    return s, firm


def _touch(segments: Segments, points: Plane, place: Ints, near: float) -> tuple[Ints, Array]:
    d, e = segments.step[place], points - segments.p[place]
    share = np.clip((e * d.conj()).real / np.maximum(segments.length[place] ** 2, 1e-300), 0, 1)
    hit = np.abs(e - share * d) < near
    return place[hit], share[hit]


def _spread(strands: Strands, segments: Segments, place: Ints, share: Array, near: float) -> tuple[Ints, Array]:
    """Shares on places as parameters on all strands that run there."""
    cell = np.round(share * segments.length[place] * (4 / near)).astype(np.int64)
    order = np.lexsort((cell, place))
    place, share, cell = place[order], share[order], cell[order]
    new = np.ones(len(place), bool)
    new[1:] = (place[1:] != place[:-1]) | (cell[1:] != cell[:-1])
    place, share = place[new], share[new]
    counts = segments.bounds[place + 1] - segments.bounds[place]
    total = np.cumsum(counts)
    spot = np.repeat(segments.bounds[place] - (total - counts), counts) + np.arange(int(total[-1]) if len(total) else 0)
    member = segments.order[spot]
    share = np.repeat(share, counts)
    u = np.where(segments.back[member], 1 - share, share)
    t = segments.t0[member] + u * (segments.t1[member] - segments.t0[member])
    # along a curve seen edge-on the parameter does not run evenly
    uneven = np.nonzero(strands.uneven[segments.strand[member]])[0]
    if len(uneven):
        t[uneven] = _evened(strands, segments, member[uneven], u[uneven])
    return segments.strand[member], t


def _evened(strands: Strands, segments: Segments, member: Ints, u: Array) -> Array:
    """Parameters at shares of the way along curves that are straight in the view."""
    wires = strands.wires
    strand, t0, t1 = segments.strand[member], segments.t0[member], segments.t1[member]
    row0, u0 = wires.locate(strand, t0)
    row1, u1 = wires.locate(strand, t1)
    p, q = strands.flat_at(row0, u0), strands.flat_at(row1, u1)
    length = np.maximum(np.abs(q - p), 1e-300)
    back = (q - p).conj() / length
    target = u * length
    anchor = np.minimum(row0 + 1, row1)
    there = ((strands.flat[anchor] - p) * back).real
    row = np.searchsorted(strands.way, strands.way[anchor] + (target - there), side="right") - 1
    row = np.clip(row, row0, row1)
    low, high = np.where(row == row0, u0, 0.0), np.where(row == row1, u1, 1.0)
    # along the way, as a cubic in the share of the row
    c0 = ((strands.flat[row] - p) * back).real - target
    c1, c2, c3 = (strands.flat_cubic[:, row] * back).real

    def along(x: Array) -> Array:
        gone: Array = c0 + x * (c1 + x * (c2 + x * c3))
        return gone

    a, b = along(low), along(high)
    share = low + np.clip(np.divide(-a, b - a, out=np.full(len(a), 0.5), where=b > a), 0, 1) * (high - low)
    for _ in range(6):
        off = along(share)
        low, high = np.where(off < 0, share, low), np.where(off < 0, high, share)
        slope = c1 + share * (2 * c2 + 3 * c3 * share)
        to = share - np.divide(off, slope, out=np.full(len(off), np.inf), where=slope > 1e-12 * length)
        share = np.where((to > low) & (to < high), to, (low + high) / 2)
    found: Array = wires.t[row] + share * (wires.t[row + 1] - wires.t[row])
    return found
