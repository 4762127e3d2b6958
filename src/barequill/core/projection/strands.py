"""Strands: every curve in space that may be drawn in a view, with what is known along it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..cutting.clipping import clipped, stretches
from ..cutting.limits import HAIR, Cut
from ..cutting.regions import Laid, laid_open
from ..cutting.slicing import faces_in_arrays, figures_of
from ..geometry.forms import NO_FORMS, Forms
from ..geometry.wires import Array, Ints, Wires
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .camera import Camera
from .columns import CLASSES
from .outlines import outlines_of
from .piercing import pierced
from .plane_curves import Origins
from .seen import Rows, seen_of, strands_from
from .table import Table, table_of
from .turning import hem_breaks

Flags = NDArray[np.bool_]
POINT = 1e-7
"""Extent in part sizes below which a line shrinks to a point."""
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
    laid = None
    if cut:
        rows, laid = _cut_open(part=part, view=view, cut=cut, edges=edges, outlined=lines.face, rows=rows)
    return Strands(
        table=table,
        rows=rows,
        origins=Origins(
            edge=edges,
            outline=lines.face,
            laid=NONE if laid is None else laid.face,
            hem=table.ledger.curved,
            straight=outlines.straight,
            outline_meshed=outlines.meshed,
            laid_meshed=NO_FLAGS if laid is None else laid.meshed,
        ),
        forms=(table.forms, outlines.forms, NO_FORMS if laid is None else laid.forms),
    )


def _cut_open(part: Part, view: Camera, cut: Cut, edges: Ints, outlined: Ints, rows: Rows) -> tuple[Rows, Laid]:
    """The strands without what a cut takes away, and with the boundaries of the faces that it lays open; and these.

    ``edges``: the rows of those that are there; ``outlined``: the faces of the outlines.
    """
    table = table_of(part)
    laid = laid_open(part, cut, table.wires)
    known = figures_of(part)
    body = np.concatenate([known.edge_body[edges], known.face_body[outlined]])
    safe = np.concatenate([named(part, cut.whole)[body], np.zeros(len(laid.body), bool)])
    start, t, points, cubic, away, free, cls, contour, lift, bent, _, breaks, breaks_t = rows
    n = len(cls)
    w = laid.wires
    if w.count:
        state = laid.in_view(view, POINT * part.size)
        start = np.concatenate([start, w.start[1:] + start[-1]])
        t, points = np.concatenate([t, w.t]), np.concatenate([points, w.points])
        cubic = np.concatenate([cubic, w.cubic], axis=1)
        away, free = np.concatenate([away, state.away]), np.concatenate([free, state.free])
        cls = np.concatenate([cls, np.full(w.count, CLASSES.index("cut"))])
        contour, bent = np.concatenate([contour, state.contour]), np.concatenate([bent, laid.bent])
        lift = np.concatenate([lift, table.ledger.face_lift[laid.face]])
        breaks = np.concatenate([breaks, state.breaks[0] + n])
        breaks_t = np.concatenate([breaks_t, state.breaks[1]])
    own = np.concatenate([np.full(n, -1), laid.wall])
    hair = HAIR * part.size
    wire, low, high, broken, at = clipped(
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        own=own,
        safe=safe,
        normals=cut.normals,
        offsets=cut.offsets,
        first=cut.first,
        group=cut.group,
        hair=hair,
        short=POINT * part.size,
    )
    keep = wire >= n if cut.bare else np.ones(len(wire), bool)
    if w.count:
        keep &= (wire < n) | state.drawn[np.maximum(wire - n, 0)]
    wire, low, high = wire[keep], low[keep], high[keep]
    start, t, points, cubic, away, free = stretches(
        start=start, t=t, points=points, cubic=cubic, away=away, free=free, wire=wire, low=low, high=high
    )
    # breaks go to the stretch that they lie in
    broken, at = np.concatenate([breaks, broken]), np.concatenate([breaks_t, at])
    new: list[Ints] = [np.zeros(0, np.int64)]
    new_t: list[Array] = [np.zeros(0)]
    first = np.searchsorted(wire, broken)
    for step in range(int(np.bincount(wire).max(initial=0))):
        row = first + step
        fits = row < len(wire)
        fits[fits] = wire[row[fits]] == broken[fits]
        fits[fits] &= (at[fits] > low[row[fits]]) & (at[fits] < high[row[fits]])
        new.append(row[fits])
        new_t.append(at[fits])
    left = Rows(
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        away=away,
        free=free,
        cls=cls[wire],
        contour=contour[wire],
        lift=lift[wire],
        bent=bent[wire],
        whole=wire,
        broken=np.concatenate(new),
        at=np.concatenate(new_t),
    )
    return left, laid
