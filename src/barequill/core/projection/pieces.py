"""Compiled passes over all strands of a view: parted where they meet others; judged, and drawn once."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.held import Held
from ..geometry.wires import Array, Ints
from .crossings import crossed, parted
from .drawn import drawn_once, runs_of, sampled, shadowed
from .flattening import BREAK, END, FOLD, laid_flat, spots_of
from .plane_curves import plane_curves
from .segments import grid_of, joinings, segments_of

Flags = NDArray[np.bool_]
NEAR = 4e-5
"""Distance in part sizes within which two lines are one on the sheet."""
LEVEL = 5e-7
"""How far in part sizes a curve may bend in a view and still count as straight there."""
CRUMB = 3e-4
EDGE = 1
"""The class of edges."""


class NothingSeen(Exception):
    """A view has no strands."""


class Grid(NamedTuple):
    """Origin, size of a cell, columns and rows; and which places run through each cell."""

    x: float
    y: float
    size: float
    columns: int
    rows: int
    begin: Ints
    held: Ints


class Flat(NamedTuple):
    """Strands laid flat, as short pieces: ``flat`` (m, 4, 2), the cubic in the view plane from each row to the next, and by
    strand whether it is ``level``: straight there; of the places where pieces lie the ``chord``; by piece whether it runs
    ``back`` there, strand and parameters; by place its first piece and by piece the one that follows; the ``grid``."""

    flat: Array
    level: Flags
    chord: Array
    back: Flags
    strand: Ints
    t0: Array
    t1: Array
    first: Ints
    follow: Ints
    grid: Grid


class Pieces(NamedTuple):
    """n pieces of strands, between which and their ends nothing changes.

    ``owner`` (n,): strand; ``low``, ``high`` (n,): parameters; ``new`` (n,): True where a new line begins; ``ends``
    (n, 2, 2) in the view; ``inner`` (n, 2, 2): what tells them apart half way; ``depth`` (n,); ``ways`` (n, 2): the length
    of the strand up to both ends; ``loose`` (n, 3): where the faces at the piece leave it free.
    """

    owner: Ints
    low: Array
    high: Array
    new: Flags
    ends: Array
    inner: Array
    depth: Array
    ways: Array
    loose: Flags


@compiled
def pieces_of(rows, right, up, toward, size):  # type: ignore[no-untyped-def]
    """Strands laid flat and parted, held for :func:`drawn_of`; and the origins (k, 3) of rays toward the viewer that tell what
    is hidden: one for each place of a piece that its own faces leave free. Raises NothingSeen where there are no strands."""
    if len(rows.cls) == 0:
        raise NothingSeen("no strands")
    r = rows
    near = NEAR * size
    flat, way, level, fold_strand, fold_t = laid_flat(
        start=r.start, t=r.t, points=r.points, cubic=r.cubic, bent=r.bent, right=right, up=up, flatness=LEVEL * size
    )
    n = len(r.bent)
    cubic, curved, chord, place, back, strand, row, t0, t1, first, follow = segments_of(
        start=r.start, t=r.t, flat=flat, level=level, fold_strand=fold_strand, fold_t=fold_t, near=near / 2
    )
    cuts = np.zeros(len(first), np.bool_)
    for k in range(len(strand)):
        if r.contour[strand[k]]:
            cuts[place[k]] = True
    grid = grid_of(chord, 1.5 * near)
    # curves that touch lie on each other for a while, and are to be parted at both ends of that
    touching = r.bent & ~level & (r.cls > EDGE)
    on, on_t = joinings(
        start=r.start,
        t=r.t,
        flat=flat,
        way=way,
        wanted=touching,
        chord=chord,
        strand=strand,
        first=first,
        follow=follow,
        grid=grid,
        near=near / 2,
    )
    # where strands are parted in any case: their ends, where they fold back, where their faces turn away
    folds, breaks = len(fold_t), len(r.broken)
    must, must_t = np.empty(2 * n + folds + breaks + len(on), np.int64), np.empty(2 * n + folds + breaks + len(on))
    rank = np.full(len(must), BREAK)
    for s in range(n):
        must[s] = must[n + s] = s
        must_t[s], must_t[n + s] = r.t[r.start[s]], r.t[r.start[s + 1] - 1]
    rank[: 2 * n] = END
    at = 2 * n
    must[at : at + folds], must_t[at : at + folds], rank[at : at + folds] = fold_strand, fold_t, FOLD
    at += folds
    must[at : at + breaks], must_t[at : at + breaks] = r.broken, r.at
    at += breaks
    must[at:], must_t[at:] = on, on_t
    spots = spots_of(r.start, r.t, flat, must, must_t)
    found, share = crossed(
        cubic=cubic, curved=curved, chord=chord, cuts=cuts, row=row, first=first, ends=spots, grid=grid, near=near / 2
    )
    owner, low, high, new = parted(
        start=r.start,
        t=r.t,
        flat=flat,
        way=way,
        level=level,
        bent=r.bent,
        musts=must,
        must_t=must_t,
        must_rank=rank,
        found=found,
        share=share,
        place=place,
        back=back,
        strand=strand,
        t0=t0,
        t1=t1,
        first=first,
        follow=follow,
        near=near,
    )
    origins, loose, depth, ends, inner, ways = sampled(
        start=r.start,
        t=r.t,
        points=r.points,
        cubic=r.cubic,
        flat=flat,
        way=way,
        away=r.away,
        free=r.free,
        lift=r.lift,
        level=level,
        owner=owner,
        low=low,
        high=high,
        toward=toward,
    )
    rays = np.empty((3 * len(owner), 3))
    count = 0
    for k in range(len(owner)):
        for c in range(3):
            if loose[k, c]:
                rays[count] = origins[k, c]
                count += 1
    laid = Flat(
        flat=flat,
        level=level,
        chord=chord,
        back=back,
        strand=strand,
        t0=t0,
        t1=t1,
        first=first,
        follow=follow,
        grid=Grid(*grid),
    )
    pieces = Pieces(
        owner=owner, low=low, high=high, new=new, ends=ends, inner=inner, depth=depth, ways=ways, loose=loose
    )
    return Held((r.start, r.t, r.cls, r.whole, laid, pieces)), rays[:count]


@compiled
def drawn_of(parted, sources, struck, hidden, faces, right, up, size, point):  # type: ignore[no-untyped-def]
    """What is drawn of pieces, as columns (see plane_curves); of the hidden only if they are wanted.

    ``parted``: from :func:`pieces_of`; ``sources``, held: the origins of strands, and the forms of edges, outlines and what is
    laid open; ``struck`` (k,): which of the rays meet something.
    """
    start, t, cls, whole, laid, p = parted.it
    origins, sets = sources.it
    near = NEAR * size
    blocked = np.zeros(p.loose.shape, np.bool_)
    count = 0
    for k in range(len(p.owner)):
        for c in range(3):
            if p.loose[k, c]:
                blocked[k, c] = struck[count]
                count += 1
    covered, over = drawn_once(
        owner=p.owner, ends=p.ends, inner=p.inner, depth=p.depth, blocked=blocked, loose=p.loose, cls=cls, near=near
    )
    over = shadowed(
        start=start,
        t=t,
        flat=laid.flat,
        owner=p.owner,
        low=p.low,
        high=p.high,
        hidden=covered,
        over=over,
        cls=cls,
        depth=p.depth,
        chord=laid.chord,
        back=laid.back,
        strand=laid.strand,
        t0=laid.t0,
        t1=laid.t1,
        first=laid.first,
        follow=laid.follow,
        grid=laid.grid,
        near=near,
    )
    first, last, under = runs_of(
        owner=p.owner, ways=p.ways, hidden=covered, over=over, parted=p.new, crumb=CRUMB * size
    )
    if not hidden:
        first, last, under = first[~under], last[~under], under[~under]
    return plane_curves(
        owner=p.owner,
        low=p.low,
        high=p.high,
        ends=p.ends,
        over=over,
        first=first,
        last=last,
        covered=under,
        whole=whole,
        level=laid.level,
        cls=cls,
        origins=origins,
        sets=sets,
        faces=faces,
        right=right,
        up=up,
        least=point * size,
    )
