"""Outlines of spheres and tori: arcs of great circles, and the exact curves tan v = -(cos u · dx + sin u · dy) / dz."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..geometry.curves3 import Curve3
from ..geometry.surfaces import Surface
from ..geometry.wires import Array, Ints
from ..part.figures import stands_over
from ..part.model import Face, Part
from .arcs import ASLANT, LEVEL, MERIDIAN, RING, TURN, arcs_between, branch_arcs, round_torus, torus_arc, torus_point
from .camera import Camera
from .outline import CHORD, FIT, Flags, Found, conic, middles, spline

NOWHERE = np.zeros(0)
LEAN = 2e-6
"""Slope to an axis below which a torus is seen from the side, or along its axis: less than an outline may stray by."""
SQUARE = np.array([-np.pi / 2, np.pi / 2])


def great_circle(part: Part, face: Face, chains: list[Ints], roots: Array, view: Camera) -> list[Found]:
    """The outlines of a face of a sphere."""
    sphere = face.surface
    x, y = sphere.radius * view.right, sphere.radius * view.up

    def angles(p: Array) -> Array:
        q = p - sphere.origin
        return np.arctan2(q @ y, q @ x)

    arcs, held = arcs_between(angles(roots), angles(middles(part, chains)))
    return [
        conic(part, face, Curve3("conic", low, high, origin=sphere.origin, x=x, y=y), view)
        for (low, high), seen in zip(arcs.tolist(), held.tolist(), strict=True)
        if seen or _on_face(part, face, sphere.origin + np.cos((low + high) / 2) * x + np.sin((low + high) / 2) * y)
    ]


def around_torus(part: Part, face: Face, chains: list[Ints], roots: Array, view: Camera) -> list[Found]:
    """The outlines of a face of a torus."""
    torus = face.surface
    d = torus.axes @ view.toward
    if torus.spindle:
        chains = [chain[~_on_axis(part, torus, chain)] for chain in chains]
    seen = round_torus(torus.origin, torus.axes, torus.radius, middles(part, chains))
    ends = round_torus(torus.origin, torus.axes, torus.radius, roots)
    found: list[Found] = []
    for form, side, curve, meets in _torus_branches(torus, d):
        arcs, held = branch_arcs(form, side, d, seen, ends, meets)
        for (low, high), sure in zip(arcs.tolist(), held.tolist(), strict=True):
            if sure or _on_face(part, face, _half_way(torus, d, curve, (low + high) / 2)):
                found.append(_torus_arc(part, face, curve, low, high, view))
    return found


def _half_way(torus: Surface, d: Array, curve: Curve3 | float, angle: float) -> Array:
    """The point (3,) of a branch of a torus's outline at an angle."""
    if isinstance(curve, Curve3):
        return curve.point(angle)
    point = np.empty(3)
    torus_point(torus.origin, torus.axes, torus.radius, torus.minor_radius, d, curve, angle, point, *np.empty((2, 3)))
    return point


def _on_face(part: Part, face: Face, point: Array) -> bool:
    """Whether the mesh of a face stands over a point of its surface."""
    k = int(np.abs(face.surface.normals_at(point[None])[0]).argmax())
    own = part.mesh.triangles[face.triangles]
    return bool(stands_over(part.mesh.nodes, own, point, k, 3 * part.mesh.deflection))


def _on_axis(part: Part, torus: Surface, chain: Ints) -> Flags:
    """Which sides of a chain (k, 2) end where a torus meets its axis: it has no one normal there."""
    q = part.mesh.nodes[chain] - torus.origin
    off = q - (q @ torus.axes[2])[..., None] * torus.axes[2]
    return (np.linalg.norm(off, axis=-1) < 1e-6 * part.size).any(axis=1)


Branch = tuple[int, float, Curve3 | float, Array]


def _torus_branches(torus: Surface, d: Array) -> Iterator[Branch]:
    """The closed curves of which a torus's outline consists, seen along ``d`` (3,) in its own frame.

    Each by its form and side (+1, -1), as Curve3, or seen aslant as the side of the tube; and the angles at which it meets
    another: round the tube for meridians, else about the axis.
    """
    x, y, z = torus.axes
    big, small = torus.radius, torus.minor_radius
    phi, level = float(np.arctan2(d[1], d[0])), float(np.hypot(d[0], d[1]))
    # where a torus that runs through its own axis meets it, round the tube
    poles = np.array([-1.0, 1.0]) * np.arccos(-big / small) if torus.spindle else NOWHERE
    if abs(d[2]) < LEAN:
        # seen from the side: two circles about the axis, and two meridians
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin + s * small * z, x=big * x, y=big * y)
            yield RING, s, ring, phi + SQUARE
            out = np.cos(phi + s * np.pi / 2) * x + np.sin(phi + s * np.pi / 2) * y
            meridian = Curve3("conic", 0.0, TURN, origin=torus.origin + big * out, x=small * out, y=small * z)
            yield MERIDIAN, s, meridian, np.concatenate([SQUARE, poles])
    elif level < LEAN:
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin, x=(big + s * small) * x, y=(big + s * small) * y)
            yield LEVEL, s, ring, NOWHERE
    else:
        through = NOWHERE
        if torus.spindle:
            # the branch on whose side of the tube the axis lies goes through it
            turns = -np.tan(poles) * d[2] / level
            turns = np.arccos(turns[np.abs(turns) <= 1])
            through = np.concatenate([phi + turns, phi - turns])
        for s in (1.0, -1.0):
            yield ASLANT, s, s, through if s * big < 0 else NOWHERE


def _torus_arc(part: Part, face: Face, curve: Curve3 | float, low: float, high: float, view: Camera) -> Found:
    torus = face.surface
    sense = face.sense * torus.hand
    if not isinstance(curve, Curve3):
        return spline(
            part,
            *torus_arc(
                origin=torus.origin,
                axes=torus.axes,
                big=torus.radius,
                small=torus.minor_radius,
                sense=sense,
                toward=view.toward,
                branch=curve,
                low=low,
                high=high,
                fit=FIT / 4 * part.size,
                chord=CHORD * part.size,
            ),
        )

    return conic(part, face, curve.piece(low, high), view)
