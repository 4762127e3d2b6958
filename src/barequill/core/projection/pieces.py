"""Compiled passes over all strands of a view: parted where they meet others; judged, and drawn once."""

from __future__ import annotations

import numpy as np

from ..geometry.compiled import compiled
from ..geometry.held import Held
from .crossings import crossed, parted
from .drawn import drawn_once, runs_of, sampled, shadowed
from .flattening import BREAK, END, FOLD, laid_flat, spots_of
from .plane_curves import plane_curves
from .records import Cuts, Parted, Pieces, Runs
from .segments import grid_of, joinings, segments_of

NEAR = 4e-5
"""Distance in part sizes within which two lines are one on the sheet."""
LEVEL = 5e-7
"""How far in part sizes a curve may bend in a view and still count as straight there."""
CRUMB = 3e-4
EDGE = 1
"""The class of edges."""


class NothingSeen(Exception):
    """A view has no strands."""


@compiled
def pieces_of(rows, eye, size):  # type: ignore[no-untyped-def]
    """Strands (``rows``) of a part of a ``size`` (mm) laid flat and parted, held for :func:`drawn_of`; and the origins (k, 3) of rays toward the viewer that tell what
    is hidden: one for each place of a piece that its own faces leave free. Raises NothingSeen where there are no strands."""
    if len(rows.cls) == 0:
        raise NothingSeen("no strands")
    r = rows
    near = NEAR * size
    laid, fold_strand, fold_t = laid_flat((r.start, r.t, r.points, r.cubic), r.bent, eye, LEVEL * size)
    n = len(r.bent)
    places = segments_of(laid, fold_strand, fold_t, near / 2)
    cuts = np.zeros(len(places.first), np.bool_)
    for k in range(len(places.strand)):
        if r.contour[places.strand[k]]:
            cuts[places.place[k]] = True
    grid = grid_of(places.chord, 1.5 * near)
    # curves that touch lie on each other for a while, and are to be parted at both ends of that
    touching = r.bent & ~laid.level & (r.cls > EDGE)
    on, on_t = joinings(laid, places, grid, wanted=touching, near=near / 2)
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
    spots = spots_of(laid, must, must_t)
    found, share = crossed(places, grid, cuts, ends=spots, near=near / 2)
    owner, low, high, new = parted(
        laid, places, bent=r.bent, musts=Cuts(must, must_t, rank), found=found, share=share, near=near
    )
    origins, loose, depth, ends, inner, ways = sampled(rows, laid, owner, low=low, high=high, toward=eye.toward)
    rays = np.empty((3 * len(owner), 3))
    count = 0
    for k in range(len(owner)):
        for c in range(3):
            if loose[k, c]:
                rays[count] = origins[k, c]
                count += 1
    pieces = Pieces(
        owner=owner, low=low, high=high, new=new, ends=ends, inner=inner, depth=depth, ways=ways, loose=loose
    )
    held = Held(Parted(laid=laid, places=places, grid=grid, pieces=pieces, cls=r.cls, whole=r.whole))
    return held, rays[:count]


@compiled
def drawn_of(parted, sources, struck, hidden, faces, eye, size, point):  # type: ignore[no-untyped-def]
    """What is drawn of pieces, as columns (see plane_curves); of the hidden only if they are wanted.

    ``parted``: from :func:`pieces_of`; ``sources``, held: the origins of strands, and the forms of edges, outlines and what is
    laid open; ``struck`` (k,): which of the rays meet something.
    """
    of = parted.it
    p = of.pieces
    near = NEAR * size
    blocked = np.zeros(p.loose.shape, np.bool_)
    count = 0
    for k in range(len(p.owner)):
        for c in range(3):
            if p.loose[k, c]:
                blocked[k, c] = struck[count]
                count += 1
    covered, over = drawn_once(p, blocked, of.cls, near)
    over = shadowed(of.laid, of.places, of.grid, p, hidden=covered, over=over, cls=of.cls, near=near)
    runs = runs_of(p, covered, over, CRUMB * size)
    if not hidden:
        seen = ~runs.covered
        runs = Runs(first=runs.first[seen], last=runs.last[seen], covered=runs.covered[seen])
    return plane_curves(of, over, runs, sources.it, faces=faces, eye=eye, least=point * size)
