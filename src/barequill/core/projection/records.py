"""What the compiled passes over a view hand on to each other: tuples of arrays, by name."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.wires import Array, Ints

Flags = NDArray[np.bool_]


class Eye(NamedTuple):
    """Of a camera the unit vectors (3,) ``right`` and ``up`` on the sheet and ``toward`` the viewer, in the part's frame."""

    right: Array
    up: Array
    toward: Array


class Laid(NamedTuple):
    """The n strands of a view laid flat in it, of m rows in all.

    ``start`` (n + 1,): where each begins; ``t`` (m,): parameters; ``flat`` (m, 4, 2): the cubic in the view plane (mm) from each
    row to the next; ``way`` (m,): the length (mm) of the polyline from the strand's first row; ``level`` (n,): True where
    a strand is straight in the view.
    """

    start: Ints
    t: Array
    flat: Array
    way: Array
    level: Flags


class Cuts(NamedTuple):
    """Where strands are parted in any case: ``strand`` (k,), parameter ``t`` (k,), and the ``rank`` (k,) of the reason."""

    strand: Ints
    t: Array
    rank: Ints


class Grid(NamedTuple):
    """A grid over all places: its origin ``x``, ``y`` and the ``size`` of a cell (mm), its ``columns`` and ``rows``; the places in
    cell c are ``held[begin[c] : begin[c + 1]]``."""

    x: float
    y: float
    size: float
    columns: int
    rows: int
    begin: Ints
    held: Ints


class Places(NamedTuple):
    """Short pieces of all strands (k), those in one place (p) taken together.

    By place: ``cubic`` (p, 4, 2) in the share of the way along it, whether it is ``curved`` (p,), ``chord`` (p, 4): both ends (mm),
    and its ``first`` piece (p,). By piece: its ``place`` (k,), whether it runs ``back`` there, its ``strand``, first ``row`` and
    parameters ``t0`` and ``t1``, and the piece that is to ``follow`` in its place (-1 at the end).
    """

    cubic: Array
    curved: Flags
    chord: Array
    place: Ints
    back: Flags
    strand: Ints
    row: Ints
    t0: Array
    t1: Array
    first: Ints
    follow: Ints


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


class Runs(NamedTuple):
    """Neighbouring pieces of one state: the ``first`` and the ``last`` piece (k,) of each run, and whether it is ``covered``."""

    first: Ints
    last: Ints
    covered: Flags


class Parted(NamedTuple):
    """The n strands of a view parted: ``laid`` flat, their ``places`` in the ``grid``, what they are in ``pieces``; by strand its
    class ``cls`` (n,) and ``whole`` (n,), as the rows of the view have them."""

    laid: Laid
    places: Places
    grid: Grid
    pieces: Pieces
    cls: Ints
    whole: Ints


class Lengths(NamedTuple):
    """What a cut goes by (mm): within ``hair`` a point lies in a cutting plane; what reaches less far than ``point`` is one; and no
    strand strays farther than ``stray`` from its rows."""

    hair: float
    point: float
    stray: float
