"""Strands parted where they meet others, each piece judged, and what lies under other lines dropped."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..part.model import Part
from .camera import Camera
from .crossings import crossings_of
from .rays import ray_structure
from .strands import Plane, Strands
from .wires import Array, Ints

Flags = NDArray[np.bool_]
NEAR = 4e-5
"""Distance in part sizes within which two lines are one on the sheet."""
CRUMB = 1e-4
SHARES = np.array([0.17, 0.5, 0.83])


class Pieces:
    """n pieces of strands, between which and their ends nothing changes.

    ``owner`` (n,): strand; ``low``, ``high`` (n,): parameters; ``row``, ``share`` (n, 2): where these are on
    the wires; ``parted`` (n,): True where a piece begins a new line (a strand begins there, or folds).
    ``hidden``, ``kept`` (n,): the judgement; ``under`` (n,): the piece under which one that is not kept lies.
    """

    def __init__(self, strands: Strands, near: float) -> None:
        self.strands, self.near = strands, near
        wires = strands.wires
        cross = crossings_of(strands, near / 2)
        n = wires.count
        every = np.arange(n)
        strand = np.concatenate([every, every, strands.folds[0], strands.breaks[0], cross[0]])
        t = np.concatenate([wires.t[wires.first], wires.t[wires.last], strands.folds[1], strands.breaks[1], cross[1]])
        # ends stay, folds go before breaks, and these before crossings
        rank = np.repeat([0, 1, 2, 3], [2 * n, len(strands.folds[0]), len(strands.breaks[0]), len(cross[0])])
        row, share = wires.locate(strand, t)
        flat = strands.flat_at(row, share)
        way = strands.way[row] + np.abs(flat - strands.flat[row])
        order = np.lexsort((rank, t, strand))
        strand, t, rank, row, share, way, flat = (x[order] for x in (strand, t, rank, row, share, way, flat))
        kept = _thinned(strand, way, rank, near)
        strand, t, rank, row, share, way, flat = (x[kept] for x in (strand, t, rank, row, share, way, flat))
        go = np.nonzero(strand[1:] == strand[:-1])[0]
        self.owner: Ints = strand[go]
        self.low, self.high = t[go], t[go + 1]
        self.row, self.share = np.c_[row[go], row[go + 1]], np.c_[share[go], share[go + 1]]
        self.ends: Plane = np.stack([flat[go], flat[go + 1]], axis=1)
        self.way = np.c_[way[go], way[go + 1]]
        self.parted: Flags = rank[go] <= 1
        t = self.low[:, None] + SHARES * (self.high - self.low)[:, None]
        self.at, u = wires.locate(np.repeat(self.owner, len(SHARES)), t.ravel())
        self.at_share = u
        self.points = wires.at(self.at, u).reshape(-1, len(SHARES), 3)
        self.short: Flags = self.way[:, 1] - self.way[:, 0] < CRUMB / NEAR * near

    def classify(self, part: Part, view: Camera) -> None:
        """Set ``hidden`` for each piece, by rays toward the viewer; the majority of its samples decides."""
        strands, u = self.strands, self.at_share[:, None]
        away = (1 - u) * strands.away[self.at] + u * strands.away[self.at + 1]
        free = strands.free[self.at + (self.at_share >= 0.5)]
        lift = np.repeat(strands.lift[self.owner], len(SHARES))[:, None]
        origins = self.points.reshape(-1, 3) + lift * (away + 0.5 * view.toward)
        covered = ~free
        covered[free] = ray_structure(part).blocked(origins[free], view.toward)
        self.hidden: Flags = np.asarray(covered.reshape(-1, len(SHARES)).sum(axis=1) * 2 > len(SHARES))

    def drop_coincident(self, view: Camera) -> None:
        """Set ``kept`` and ``under``: of pieces in one place the visible before the hidden, sharp edges before
        outlines before smooth ones, the nearer before the farther."""
        n = len(self.owner)
        strands = self.strands
        a, b = np.split(_places(self.ends.T.ravel(), self.near), 2)
        # two pieces with common ends are one where they also agree half way and, both ways taken together, at the quarters
        inner = self.way[:, :1] + np.array([0.25, 0.5, 0.75]) * (self.way[:, 1:] - self.way[:, :1])
        row = np.searchsorted(strands.way, inner.ravel(), side="right") - 1
        wires = strands.wires
        owner = np.repeat(self.owner, 3)
        row = np.clip(row, wires.first[owner], wires.last[owner] - 1)
        step = strands.way[row + 1] - strands.way[row]
        u = np.divide(inner.ravel() - strands.way[row], step, out=np.zeros(len(row)), where=step > 0)
        chord = strands.flat[row] + np.clip(u, 0, 1) * (strands.flat[row + 1] - strands.flat[row])
        chord = chord.reshape(n, 3)
        # what is straight in the view is so exactly
        level = strands.level[self.owner]
        half = np.where(level, self.ends.mean(axis=1), chord[:, 1])
        quarters = np.where(level, half, (chord[:, 0] + chord[:, 2]) / 2)
        c, d = np.split(_places(np.concatenate([half, quarters]), 1.5 * self.near), 2)
        names = np.c_[np.minimum(a, b), np.maximum(a, b), c, d]
        depth = self.points[:, 1] @ view.toward
        order = np.lexsort((self.owner, -np.round(depth / self.near), strands.cls[self.owner], self.hidden, *names.T))
        named = names[order]
        new = np.concatenate([[True], (named[1:] != named[:-1]).any(axis=1)]) if n else np.zeros(0, bool)
        self.kept: Flags = np.zeros(n, bool)
        self.kept[order[new]] = True
        self.under: Ints = np.empty(n, np.int64)
        self.under[order] = order[np.nonzero(new)[0][np.cumsum(new) - 1]] if n else 0

    def runs(self) -> tuple[Ints, Ints, Flags]:
        """Neighbouring pieces of one state: first and last piece of each run, and whether it is hidden."""
        n = len(self.owner)
        state = np.where(self.kept, self.hidden.astype(np.int64), 2)
        for i in np.nonzero(self.short)[0]:
            # a crumb goes with its neighbours
            before = state[i - 1] if i > 0 and self.owner[i - 1] == self.owner[i] else -1
            after = state[i + 1] if i + 1 < n and self.owner[i + 1] == self.owner[i] else -1
            if before != after and before != -1 and after != -1:
                continue
            state[i] = max(before, after, state[i] if before == after == -1 else -1)
        start = np.ones(n, bool)
        start[1:] = self.parted[1:] | (self.owner[1:] != self.owner[:-1]) | (state[1:] != state[:-1])
        first = np.nonzero(start)[0]
        last = np.append(first[1:], n) - 1
        drawn = state[first] != 2
        return first[drawn], last[drawn], state[first[drawn]] == 1


def _thinned(strand: Ints, way: Array, rank: Ints, near: float) -> Ints:
    """Rows of those kept of sorted places on strands where several stand closer than ``near``: ends always."""
    n = len(strand)
    if not n:
        return np.zeros(0, np.int64)
    gap = np.diff(way, prepend=way[:1])
    new = (gap >= near) | np.concatenate([[True], strand[1:] != strand[:-1]])
    group = np.cumsum(new) - 1
    # a long row of close places is parted again
    begin = way[np.nonzero(new)[0]][group]
    group = group * 1.0 + np.minimum(np.floor((way - begin) / (2 * near)), 1e6) / 2e6
    order = np.lexsort((np.arange(n), rank, group))
    sorted_group = group[order]
    best = order[np.concatenate([[True], sorted_group[1:] != sorted_group[:-1]])]
    kept = np.zeros(n, bool)
    kept[best] = True
    kept[rank == 0] = True
    return np.nonzero(kept)[0]


def _places(points: Plane, near: float) -> Ints:
    """Numbers (n,) of points (n,), the same for those within about ``near`` of each other."""
    if not len(points):
        return np.zeros(0, np.int64)
    x, y = np.floor(points.real / near).astype(np.int64), np.floor(points.imag / near).astype(np.int64)
    keys, back = np.unique(x * (1 << 30) + y, return_inverse=True)
    count = np.bincount(back)
    middle = np.c_[np.bincount(back, points.real), np.bincount(back, points.imag)] / count[:, None]
    pairs = cKDTree(middle).query_pairs(near, output_type="ndarray")
    if not len(pairs):
        return back
    links = coo_array((np.ones(len(pairs), np.int8), (pairs[:, 0], pairs[:, 1])), shape=(len(keys), len(keys)))
    named: Ints = connected_components(links, directed=False)[1].astype(np.int64)[back]
    return named
