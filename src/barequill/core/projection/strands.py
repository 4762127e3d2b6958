"""Strands: every curve in space that may be drawn in a view, with what is known along it."""

from __future__ import annotations

import logging
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..cutting.figures import faces_in_arrays, figures_of
from ..cutting.limits import HAIR, Cut
from ..cutting.regions import laid_open
from ..geometry.forms import NO_FORMS, Forms
from ..geometry.held import hold, let_go
from ..geometry.wires import Array, Ints, Wires
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .camera import Camera
from .clipping import left_parted
from .collecting import gathered, parted_held, strands_held
from .creases import crease_outlines, spans_of
from .edges import SAME
from .outlines import outlines_of, with_more
from .pieces import NothingSeen, pieces_of
from .piercing import pierced, runs_into
from .plane_curves import Origins
from .records import Lengths
from .seen import OUTLINE, Rows, seen_of, strands_from
from .table import Table, table_of
from .turning import hem_breaks

log = logging.getLogger(__name__)
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
    """The strands of a view as ``rows``: those of edges first, then outlines. ``origins``: what they come from, and ``forms``,
    their exact curves."""

    table: Table
    rows: Rows
    origins: Origins
    forms: tuple[Forms, Forms, Forms]


def strands_of(part: Part, view: Camera, smooth: bool) -> Strands:
    """All strands of a view of a part; without the smooth edges where they are not wanted."""
    table = table_of(part)
    if table.closed and not spans_of(part, view):
        try:
            return _gathered(part, table, view, smooth)
        except Exception:
            log.exception("strands of %s, seen from %s", part.name, view.toward)
    return by_faces(part, view, smooth)


def by_faces(part: Part, view: Camera, smooth: bool) -> Strands:
    """The strands of a view before it is cut, of its outlines those of free form one by one: one face never costs a view."""
    table = table_of(part)
    seen, ruled = seen_of(
        ledger=table.ledger,
        eye=view.eye,
        smooth=smooth,
        size=part.size,
        point=POINT,
    )
    hem_edge, hem_t = NONE, NOWHERE
    if len(seen.hems):
        hem_edge, hem_t = hem_breaks(
            hems=seen.hems,
            ledger=table.ledger,
            faces=faces_in_arrays(part),
            toward=view.toward,
            size=part.size,
            free=seen.free,
        )
    hems = np.nonzero((seen.cls == OUTLINE) & (table.ledger.joint == SAME))[0]
    outlines = with_more(
        outlines_of(part, table, view, seen.g, ruled, hems), crease_outlines(part, table, view, seen.cls)
    )
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


def _look(part: Part, view: Camera, smooth: bool) -> dict[str, Any]:
    """What of a view :func:`gathered` takes."""
    return {"eye": view.eye, "smooth": smooth, "size": part.size, "point": POINT}


@lru_cache(maxsize=8)
def _figures(part: Part) -> Any:
    """What of a part whose outlines are all of closed form :func:`gathered` takes, held for the parts last used."""
    table, mesh = table_of(part), part.mesh
    o = table.others
    others = (o.row, o.side, o.face, table.wires.owner)
    arrays = faces_in_arrays(part), (mesh.normals, mesh.face_of), table.turning, others
    return hold((table.ledger, table.rounds, *arrays, table.forms, NO_FORMS))


def _in_one_pass(part: Part, view: Camera) -> bool:
    """Whether outlines are all of closed form, run along no edge that is all but tangent, and into no body."""
    return _closed_forms(part) and not spans_of(part, view)


@lru_cache(maxsize=64)
def _closed_forms(part: Part) -> bool:
    return table_of(part).closed and not (len(part.bodies) > 1 and any(runs_into(part).values()))


def parted_of(part: Part, view: Camera, smooth: bool, cut: Cut) -> tuple[Any, Any, Array] | None:
    """The strands of a view parted, and what they come from, as :func:`drawn_of` takes them, and the origins (k, 3) of rays
    that tell what is hidden; None where there is nothing to see."""
    try:
        if cut:
            return _cut_open(part, view, smooth, cut)
        if _in_one_pass(part, view):
            try:
                uncut, _ = _all_held(part, view, smooth, NONE, NONE)
                found: tuple[Any, Any, Array] = parted_held(uncut, view.eye, part.size)
                return found
            except NothingSeen:
                raise
            except Exception:
                log.exception("strands of %s, seen from %s", part.name, view.toward)
        strands = strands_of(part, view, smooth)
        parted, rays = pieces_of(strands.rows, view.eye, part.size)
        return parted, hold((strands.origins, strands.forms)), rays
    except NothingSeen:
        return None


def _all_held(part: Part, view: Camera, smooth: bool, edge_body: Ints, face_body: Ints) -> tuple[Any, Ints]:
    """The strands of a view, held, by one pass over all that is held of a part, and the body of each where those are given."""
    of = _figures(part)
    found: tuple[Any, Ints] = strands_held(of, gathered(of=of, **_look(part, view, smooth)), edge_body, face_body)
    return found


def _gathered(part: Part, table: Table, view: Camera, smooth: bool) -> Strands:
    """The strands of a part whose outlines are all of closed form."""
    got = let_go(gathered(of=_figures(part), **_look(part, view, smooth)))
    if not got.sound:
        raise ArithmeticError("an outline has no place at some parameter")
    rows = got.rows
    if len(part.bodies) > 1 and len(got.face):
        k = len(got.edges)
        first = rows.start[k]
        wires = Wires(rows.start[k:] - first, rows.t[first:], rows.points[first:], rows.cubic[:, first:])
        through, through_t = pierced(part, wires, figures_of(part).face_body[got.face], touching=False)
        if len(through):
            rows = rows._replace(
                broken=np.concatenate([rows.broken, through + k]), at=np.concatenate([rows.at, through_t])
            )
    return Strands(
        table=table,
        rows=rows,
        origins=Origins(
            edge=got.edges,
            outline=got.face,
            laid=NONE,
            hem=table.ledger.curved,
            straight=got.straight,
            outline_meshed=got.meshed,
            laid_meshed=NO_FLAGS,
        ),
        forms=(table.forms, got.forms, NO_FORMS),
    )


@lru_cache(maxsize=2)
def _kept(part: Part, view: Camera, smooth: bool) -> tuple[Any, Ints]:
    """The strands of a view before it is cut, as :func:`left_parted` takes them, and the body (n,) of each: while a cut is moved
    they stay the same."""
    known = figures_of(part)
    if _in_one_pass(part, view):
        try:
            return _all_held(part, view, smooth, known.edge_body, known.face_body)
        except Exception:
            log.exception("strands of %s, seen from %s", part.name, view.toward)
    strands = strands_of(part, view, smooth)
    own = strands.origins
    bodies = np.concatenate([known.edge_body[own.edge], known.face_body[own.outline]])
    return hold((strands.rows, own, strands.forms)), bodies


def _cut_open(part: Part, view: Camera, smooth: bool, cut: Cut) -> tuple[Any, Any, Array]:
    """The strands of a view without what a cut takes away, and with the boundaries of the faces that it lays open, parted."""
    table = table_of(part)
    uncut, bodies = _kept(part, view, smooth)
    found: tuple[Any, Any, Array] = left_parted(
        uncut=uncut,
        laid=laid_open(part, cut, table.wires),
        cutting_planes=cut.arrays,
        bodies=bodies,
        safe=named(part, cut.whole),
        face_lift=table.ledger.face_lift,
        bare=cut.bare,
        eye=view.eye,
        size=part.size,
        lengths=Lengths(hair=HAIR * part.size, point=POINT * part.size, stray=STRAY * part.size),
    )
    return found
