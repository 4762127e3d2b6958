"""One outline of a face, and where a face turns away."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3
from ..geometry.splines import fitted_spline
from ..geometry.wires import Array, Ints, Wires
from ..part.model import Face, Part
from ..values import value
from .arcs import conic_arc
from .camera import Camera

Flags = NDArray[np.bool_]
FIT = 4e-6
"""How far a fitted outline may stray, in part sizes."""
CHORD = 2e-5


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


def conic(part: Part, face: Face, curve: Curve3, view: Camera) -> Found:
    """An arc on a sphere or torus."""
    torus = face.surface
    ball = torus.kind == "sphere"
    t, points, cubic, outward, free = conic_arc(
        origin=curve.origin,
        x=curve.x,
        y=curve.y,
        t0=curve.t0,
        t1=curve.t1,
        centre=torus.origin,
        axis=torus.axes[2],
        big=0.0 if ball else torus.radius,
        small=torus.radius if ball else torus.minor_radius,
        sense=face.sense * torus.hand,
        toward=view.toward,
        chord=CHORD * part.size,
    )
    return Found(curve, Wires(np.array([0, len(t)]), t, points, cubic), outward, free)


def spline(part: Part, t: Array, p: Array, d: Array, normals: Array, convex: Flags) -> Found:
    """The piecewise cubic through points with slopes."""
    return Found(*fitted_spline(t, p, d, normals, convex, CHORD * part.size))


def middles(part: Part, chains: list[Ints]) -> Array:
    both = np.concatenate(chains)
    return (part.mesh.nodes[both[:, 0]] + part.mesh.nodes[both[:, 1]]) / 2
