"""What the compiled passes over a cutting plane hand on to each other: tuples of arrays, by name."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


class Lines(NamedTuple):
    """Curves in space as wires of m rows in all: where each begins, ``start`` (n + 1,), parameters ``t`` (m,), ``points`` (m, 3) and
    the ``cubic`` (3, m, 3) from each row to the next."""

    start: Ints
    t: Array
    points: Array
    cubic: Array


class Known(NamedTuple):
    """What every cut of a part needs.

    Its mesh: ``nodes`` (n, 3), ``triangles`` (k, 3), ``face_of`` (k,), the face of each node ``node_face`` (n,), their parameters ``uv``
    (n, 2), how far each face strays from it, ``strays`` (f,), and all of them, ``deflection`` (mm). Of faces their body,
    ``face_body`` (f,), whether they are ``flat`` (f,), ``faces`` of closed form and ``surfaces`` packed; of edges the ``pairs`` (e, 2) of
    faces that they lie between, and what they are as ``wires``.
    """

    nodes: Array
    triangles: Ints
    face_of: Ints
    uv: Array
    node_face: Ints
    strays: Array
    deflection: float
    face_body: Ints
    flat: Flags
    pairs: Ints
    faces: Any
    surfaces: Any
    wires: Lines


class Fine(NamedTuple):
    """How fine a cut of a part of a ``size`` is made (all mm): what lies within ``hair`` of its plane counts as beyond it; what is
    ``near`` to a special case is one; curves are fitted within ``fit`` and laid out within ``chord``."""

    size: float
    hair: float
    near: float
    fit: float
    chord: float


class Chains(NamedTuple):
    """Chains (c) in which a plane meets the mesh of one face each: their ``face`` (c,), ``points`` (k, 3) from ``begin`` (c + 1,) on, whether
    they are ``closed`` (c,), whether they run with what lies beyond the plane at their left on the face, ``leftward`` (c,);
    and of both ends of each the row of a ``place`` (p, 3) on an edge to which it belongs, ``snaps`` (c, 2), or -1."""

    face: Ints
    begin: Ints
    points: Array
    closed: Flags
    leftward: Flags
    snaps: Ints
    place: Array
