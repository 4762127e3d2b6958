"""Strands: every curve in space that may be drawn in a view, with what is known along it."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..cutting.limits import HAIR, Cut
from ..cutting.regions import Laid, laid_open
from ..cutting.slicing import faces_in_arrays, figures_of
from ..geometry.forms import NO_FORMS, Forms
from ..geometry.wires import Array, Ints, Wires
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .camera import Camera
from .leaving import Opened, leave
from .outlines import outlines_of
from .piercing import pierced
from .plane_curves import Origins
from .seen import Rows, seen_of, strands_from
from .table import Table, table_of
from .turning import hem_breaks

Flags = NDArray[np.bool_]
POINT = 1e-7
"""Extent in part sizes below which a line shrinks to a point."""
STRAY = 1e-4
"""In part sizes: no strand strays so far from its rows; all are laid out much closer."""
NONE: Ints = np.zeros(0, np.int64)
NOWHERE: Array = np.zeros(0)
NO_FLAGS: Flags = np.zeros(0, bool)


@value
class Strands:
    """The strands of a view as ``rows``: those of edges first, then outlines, then boundaries of cut faces; where a cut
    takes something away, what is left of them. ``origins``: what they come from, and ``forms``, their exact curves."""

    table: Table
    rows: Rows
    origins: Origins
    forms: tuple[Forms, Forms, Forms]


def strands_of(part: Part, view: Camera, smooth: bool, cut: Cut) -> Strands:
    """All strands of a view of a part; without the smooth edges where they are not wanted."""
    if not cut:
        return _uncut(part, view, smooth)
    uncut = _kept(part, view, smooth)
    rows, laid = _cut_open(part, view, cut, uncut)
    own, (edges, outlines, _) = uncut.origins, uncut.forms
    return Strands(
        table=uncut.table,
        rows=rows,
        origins=own._replace(laid=laid.face, laid_meshed=laid.meshed),
        forms=(edges, outlines, laid.forms),
    )


@lru_cache(maxsize=2)
def _kept(part: Part, view: Camera, smooth: bool) -> Strands:
    """The strands of a view before it is cut: while a cut is moved they stay the same."""
    return _uncut(part, view, smooth)


def _uncut(part: Part, view: Camera, smooth: bool) -> Strands:
    table = table_of(part)
    seen, ruled = seen_of(
        ledger=table.ledger,
        right=view.right,
        up=view.up,
        toward=view.toward,
        smooth=smooth,
        size=part.size,
        point=POINT,
    )
    hem_edge, hem_t = NONE, NOWHERE
    if len(seen.hems):
        hem_edge, hem_t = hem_breaks(
            hems=seen.hems,
            curved=table.ledger.curved,
            start=table.ledger.start,
            t=table.ledger.t,
            points=table.ledger.points,
            faces=faces_in_arrays(part),
            toward=view.toward,
            size=part.size,
            free=seen.free,
        )
    outlines = outlines_of(part, table, view, seen.g, ruled)
    lines = outlines.lines
    through, through_t = NONE, NOWHERE
    if len(part.bodies) > 1 and len(lines.face):
        body = np.array([part.faces[f].body for f in lines.face.tolist()], np.int64)
        wires = Wires(lines.start, lines.t, lines.points, lines.cubic)
        through, through_t = pierced(part, wires, body, touching=False)
    rows, edges = strands_from(
        ledger=table.ledger,
        seen=seen,
        outlined=lines,
        hem_edge=hem_edge,
        hem_t=hem_t,
        through=through,
        through_t=through_t,
    )
    return Strands(
        table=table,
        rows=rows,
        origins=Origins(
            edge=edges,
            outline=lines.face,
            laid=NONE,
            hem=table.ledger.curved,
            straight=outlines.straight,
            outline_meshed=outlines.meshed,
            laid_meshed=NO_FLAGS,
        ),
        forms=(table.forms, outlines.forms, NO_FORMS),
    )


def _cut_open(part: Part, view: Camera, cut: Cut, uncut: Strands) -> tuple[Rows, Laid]:
    """The strands of a view without what a cut takes away, and with the boundaries of the faces that it lays open; and
    these."""
    table, known, own = uncut.table, figures_of(part), uncut.origins
    laid = laid_open(part, cut, table.wires)
    w = laid.wires
    left = leave(
        rows=uncut.rows,
        opened=Opened(
            start=w.start,
            t=w.t,
            points=w.points,
            cubic=w.cubic,
            normals=laid.normals,
            wall=laid.wall,
            face=laid.face,
            convex=laid.convex,
            bent=laid.bent,
        ),
        walls=cut.arrays,
        bodies=np.concatenate([known.edge_body[own.edge], known.face_body[own.outline]]),
        safe=named(part, cut.whole),
        face_lift=table.ledger.face_lift,
        bare=cut.bare,
        toward=view.toward,
        right=view.right,
        up=view.up,
        hair=HAIR * part.size,
        point=POINT * part.size,
        reach=STRAY * part.size,
    )
    return left, laid
