"""One outline of a face, and where a face turns away."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3
from ..geometry.splines import fitted_spline
from ..geometry.wires import Array, Ints, Wires
from ..part.model import Part
from ..values import value
from .round_outlines import CHORD

Flags = NDArray[np.bool_]


@value
class Found:
    """One outline: its curve, and by rows of its wire (m,) outward normals and where the face leaves it free."""

    curve: Curve3
    wire: Wires
    outward: Array
    free: Flags
    meshed: bool = False


@value
class Turns:
    """Where a face turns away: chains of mesh sides (k, 2) crossed; points (j, 3) on its boundary; and between two of
    these on one edge the point (i, 3) half way, how far they are apart (i,), the normal toward the viewer there (i,),
    and the two points by row (i, 2)."""

    chains: list[Ints]
    roots: Array
    between: Array
    span: Array
    facing: Array
    pair: Ints


def spline(part: Part, t: Array, p: Array, d: Array, normals: Array, convex: Flags) -> Found:
    """The piecewise cubic through points ``p`` (n, 3) with slopes ``d`` (n, 3) at rising parameters ``t`` (n,), with the ``normals`` (n, 3) of
    the face there and whether it is ``convex`` (n,)."""
    return Found(*fitted_spline(t, p, d, normals, convex, CHORD * part.size))
