"""Strands parted where they meet others, each piece judged, and what lies under other lines dropped."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..cutting.limits import Cut
from ..geometry.wires import Array, Ints
from ..values import value
from .camera import Camera
from .crossings import crossed, parted
from .drawn import drawn_once, runs_of, sampled, shadowed
from .flattening import BREAK, spots_of
from .rays import blocked_within
from .segments import grid_of, joinings, segments_of
from .strands import CLASSES, Strands

NEAR = 4e-5
"""Distance in part sizes within which two lines are one on the sheet."""
CRUMB = 3e-4


@value
class Pieces:
    """n pieces of strands, between which and their ends nothing changes, and k runs of those that are drawn.

    ``owner`` (n,): strand; ``low``, ``high`` (n,): parameters; ``ends`` (n, 2, 2) in the view; ``over`` (n,):
    the piece that is drawn in this one's place, itself where it is drawn. ``first``, ``last`` (k,): pieces at
    both ends of a run; ``covered`` (k,): True where it is hidden.
    """

    owner: Ints
    low: Array
    high: Array
    ends: Array
    over: Ints
    first: Ints
    last: Ints
    covered: NDArray[np.bool_]


def pieces_of(
    strands: Strands, view: Camera, cut: Cut, progress: Callable[[float, str], None] = lambda share, what: None
) -> Pieces:
    """Part, judge and drop."""
    progress(0.2, "looking for crossings")
    near = NEAR * strands.part.size
    w, s = strands.wires, strands
    cubic, curved, chord, place, back, strand, row, t0, t1, first, follow = segments_of(
        w.start, w.t, s.flat, s.level, *s.folds, near / 2
    )
    cuts = np.zeros(len(first), bool)
    cuts[place[s.contour[strand]]] = True
    grid = grid_of(chord, 1.5 * near)
    # curves that touch lie on each other for a while, and are to be parted at both ends of that
    touching = s.bent & ~s.level & (s.cls > CLASSES.index("edge"))
    on, on_t = joinings(
        start=w.start,
        t=w.t,
        flat=s.flat,
        way=s.way,
        wanted=touching,
        chord=chord,
        strand=strand,
        first=first,
        follow=follow,
        grid=grid,
        near=near / 2,
    )
    musts = (
        np.concatenate([s.musts[0], on]),
        np.concatenate([s.musts[1], on_t]),
        np.concatenate([s.musts[2], np.full(len(on), BREAK)]),
    )
    spots = spots_of(w.start, w.t, s.flat, *musts[:2])
    found, share = crossed(
        cubic=cubic, curved=curved, chord=chord, cuts=cuts, row=row, first=first, ends=spots, grid=grid, near=near / 2
    )
    owner, low, high, new = parted(
        w.start,
        w.t,
        s.flat,
        s.way,
        s.level,
        s.bent,
        *musts,
        found,
        share,
        place,
        back,
        strand,
        t0,
        t1,
        first,
        follow,
        near,
    )
    origins, loose, depth, ends, inner, ways = sampled(
        start=w.start,
        t=w.t,
        points=w.points,
        cubic=w.cubic,
        flat=s.flat,
        way=s.way,
        away=s.away,
        free=s.free,
        lift=s.lift,
        level=s.level,
        owner=owner,
        low=low,
        high=high,
        toward=view.toward,
    )
    progress(0.5, "asking what stands in front")
    blocked = np.zeros(loose.shape, bool)
    blocked[loose] = blocked_within(strands.part, cut, strands.table.wires, origins[loose], view.toward)
    progress(0.7, "dropping what lies under other lines")
    hidden, over = drawn_once(
        owner=owner, ends=ends, inner=inner, depth=depth, blocked=blocked, loose=loose, cls=s.cls, near=near
    )
    over = shadowed(
        start=w.start,
        t=w.t,
        flat=s.flat,
        owner=owner,
        low=low,
        high=high,
        hidden=hidden,
        over=over,
        cls=s.cls,
        depth=depth,
        chord=chord,
        back=back,
        strand=strand,
        t0=t0,
        t1=t1,
        first=first,
        follow=follow,
        grid=grid,
        near=near,
    )
    begin, last, covered = runs_of(owner, ways, hidden, over, new, CRUMB * strands.part.size)
    return Pieces(owner=owner, low=low, high=high, ends=ends, over=over, first=begin, last=last, covered=covered)
