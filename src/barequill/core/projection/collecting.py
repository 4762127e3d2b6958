"""One compiled pass for all strands of a view of a part, where each face's outline is of closed form."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..geometry.compiled import compiled
from ..geometry.forms import Forms
from ..geometry.held import Held
from ..geometry.wires import Ints
from .pieces import pieces_of
from .plane_curves import Origins
from .round_outlines import Turning, round_outlines
from .seen import ROUND, Flags, Outlined, Rows, seen_of, strands_from
from .turning import hem_breaks, places_in


class Gathered(NamedTuple):
    """The strands of a view as ``rows``, edges first: these by their rows (k,) in the part; then outlines: by outline its
    ``face`` (n,), the first ``straight`` of them rulings, and of the others ``forms``, and that none is ``meshed``. ``sound``:
    each has a place everywhere."""

    rows: Rows
    edges: Ints
    face: Ints
    straight: int
    forms: Forms
    meshed: Flags
    sound: bool


@compiled
def _both(one, other):  # type: ignore[no-untyped-def]
    """Outlines of two sets as one."""
    return Outlined(
        start=np.concatenate((one.start, other.start[1:] + one.start[-1])),
        t=np.concatenate((one.t, other.t)),
        points=np.concatenate((one.points, other.points)),
        cubic=np.concatenate((one.cubic, other.cubic), axis=1),
        outward=np.concatenate((one.outward, other.outward)),
        free=np.concatenate((one.free, other.free)),
        face=np.concatenate((one.face, other.face)),
        bent=np.concatenate((one.bent, other.bent)),
    )


@compiled
def gathered(of, eye, smooth, size, point):  # type: ignore[no-untyped-def]
    """All strands of a view of a part of a size (mm), held; what shrinks to less than ``point`` part sizes is left out.

    ``of``, held: the ledger and rounds of the part; its faces in arrays; ``mesh``: normals and the face of each triangle;
    ``turning`` (f,): faces with outlines that are no rulings; ``others``: row, side and face of the pieces of edges along these,
    and the edge of each row; the forms of its edges, and of none.
    """
    ledger, rounds, faces, mesh, turning, others, _, _ = of.it
    e = ledger
    seen, lines = seen_of(ledger=e, eye=eye, smooth=smooth, size=size, point=point)
    hem_edge, hem_t = np.empty(0, np.int64), np.empty(0)
    if len(seen.hems):
        hem_edge, hem_t = hem_breaks(
            hems=seen.hems, ledger=e, faces=faces, toward=eye.toward, size=size, free=seen.free
        )
    straight, found = len(lines.face), np.empty(0, np.int64)
    first = begin = np.empty((0, 2), np.int64)
    mixed, facing, roots = np.empty((0, 3), np.int64), np.empty(0, np.bool_), np.empty((0, 3))
    if turning.any():
        row, side, face, owner = others
        met, mixed, first, facing, roots, begin, _, _, _, _, _ = places_in(
            triangles=rounds.corners,
            face_of=mesh[1],
            wanted=turning,
            normals=mesh[0],
            toward=eye.toward,
            row=row,
            side=side,
            face=face,
            g=seen.g,
            points=e.points,
            cubic=e.cubic,
            owner=owner,
        )
        there = np.empty(len(met), np.bool_)
        for i in range(len(met)):
            there[i] = e.form[met[i]] == ROUND and first[i, 1] > first[i, 0]
        found, first, begin = met[there], first[there], begin[there]
    curves, forms = round_outlines(
        rounds=rounds,
        turning=Turning(face=found, mixed=mixed, first=first, facing=facing, roots=roots, begin=begin),
        g=seen.g,
        start=e.start,
        points=e.points,
        eye=eye,
        size=size,
    )
    n = len(curves.face)
    sound = np.isfinite(curves.points).all()
    if n and sound:
        lines = _both(lines, curves)
    rows, edges = strands_from(
        ledger=e,
        seen=seen,
        outlined=lines,
        hem_edge=hem_edge,
        hem_t=hem_t,
        through=np.empty(0, np.int64),
        through_t=np.empty(0),
    )
    return Held(
        Gathered(
            rows=rows,
            edges=edges,
            face=lines.face,
            straight=straight,
            forms=forms,
            meshed=np.zeros(n, np.bool_),
            sound=sound,
        )
    )


@compiled
def strands_held(of, got, edge_body, face_body):  # type: ignore[no-untyped-def]
    """Of what :func:`gathered` gave ``got``, ``of`` which it was: rows, origins and forms, held, and the body (n,) of each strand
    where those of the edges and faces are given.

    Raises ArithmeticError where some outline has no place.
    """
    ledger, _, _, _, _, _, forms, none = of.it
    found = got.it
    if not found.sound:
        raise ArithmeticError("an outline has no place at some parameter")
    origins = Origins(
        edge=found.edges,
        outline=found.face,
        laid=np.empty(0, np.int64),
        hem=ledger.curved,
        straight=found.straight,
        outline_meshed=found.meshed,
        laid_meshed=np.empty(0, np.bool_),
    )
    bodies = np.empty(0, np.int64)
    if len(face_body):
        bodies = np.concatenate((edge_body[found.edges], face_body[found.face]))
    return Held((found.rows, origins, (forms, found.forms, none))), bodies


@compiled
def parted_held(strands, eye, size):  # type: ignore[no-untyped-def]
    """Strands, as :func:`strands_held` gives them, parted as :func:`pieces_of` does it, their sources as :func:`drawn_of` takes
    them, and the origins of rays.

    Raises NothingSeen where there is nothing to see.
    """
    rows, origins, sets = strands.it
    parted, rays = pieces_of(rows, eye, size)
    return parted, Held((origins, sets)), rays
