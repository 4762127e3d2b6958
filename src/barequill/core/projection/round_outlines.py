"""Outlines of spheres and tori: arcs of great circles, and the exact curves tan v = -(cos u · dx + sin u · dy) / dz."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from ..geometry.curves3 import Curve3
from ..geometry.surfaces import Surface
from ..geometry.wires import Array, Ints
from ..part.figures import stands_over
from ..part.model import Face, Part
from .arcs import torus_arc
from .camera import Camera
from .outline import CHORD, FIT, Flags, Found, conic, middles, spline

TURN = 2 * np.pi
WIDE = 0.6
"""Gap (rad) between places seen on the mesh beyond which an arc does not go on."""


def _arcs(
    roots: Array, seen: Array, on_face: Callable[[float], bool] = lambda angle: False
) -> list[tuple[float, float]]:
    """The arcs (from, to) of a closed curve between its ``roots`` that hold any of the angles ``seen``, or, where they
    are shorter than a side of the mesh, whose middle lies ``on_face``."""
    if not len(seen):
        return []
    roots = np.sort(roots % TURN)
    roots = roots[np.diff(roots, prepend=roots[-1:] - TURN) > 1e-6] if len(roots) > 1 else roots
    start = float(roots[0]) if len(roots) else 0.0
    seen = np.sort(start + (seen - start) % TURN)
    ends = np.append(roots, start + TURN) if len(roots) else np.array([0.0, TURN])
    arcs: list[tuple[float, float]] = []
    for low, high in zip(ends, ends[1:], strict=False):
        own = seen[(seen >= low) & (seen <= high)]
        if not len(own):
            if high - low < WIDE and on_face((low + high) / 2):
                arcs.append((float(low), float(high)))
            continue
        if high - low > TURN - 1e-6:
            # nothing parts the curve: it is whole, or ends where the boundary only touches it
            gaps = np.diff(own, append=own[0] + TURN)
            wide = int(np.argmax(gaps))
            if gaps[wide] > WIDE:
                low = own[(wide + 1) % len(own)]
                high = low + TURN - gaps[wide]
        else:
            low = own[0] if own[0] - low > WIDE else low
            high = own[-1] if high - own[-1] > WIDE else high
        if high > low:
            arcs.append((float(low), float(high)))
    return arcs


def great_circle(part: Part, face: Face, chains: list[Ints], roots: Array, view: Camera) -> list[Found]:
    sphere = face.surface
    x, y = sphere.radius * view.right, sphere.radius * view.up

    def angles(p: Array) -> Array:
        q = p - sphere.origin
        return np.arctan2(q @ y, q @ x)

    def on_face(angle: float) -> bool:
        """Whether the mesh of the face stands over a point of the great circle."""
        out = np.cos(angle) * x + np.sin(angle) * y
        k = int(np.abs(out).argmax())
        own = part.mesh.triangles[face.triangles]
        return bool(stands_over(part.mesh.nodes, own, sphere.origin + out, k, 3 * part.mesh.deflection))

    return [
        conic(part, face, Curve3("conic", low, high, origin=sphere.origin, x=x, y=y), view)
        for low, high in _arcs(angles(roots), angles(middles(part, chains)), on_face)
    ]


def around_torus(part: Part, face: Face, chains: list[Ints], roots: Array, view: Camera) -> list[Found]:
    torus = face.surface
    d = torus.axes @ view.toward
    mesh_u, mesh_v = _torus_uv(torus, middles(part, chains))
    root_u, root_v = _torus_uv(torus, roots)
    found: list[Found] = []
    for curve, on, round_axis, meets in _torus_branches(torus, d):
        near = on(mesh_u, mesh_v)
        if not near.any():
            continue
        ends = (root_u if round_axis else root_v)[on(root_u, root_v)]
        seen = (mesh_u if round_axis else mesh_v)[near]
        for low, high in _arcs(np.concatenate([ends, meets]), seen):
            found.append(_torus_arc(part, face, curve, low, high, view))
    return found


def _torus_uv(torus: Surface, p: Array) -> tuple[Array, Array]:
    q = (p - torus.origin) @ torus.axes.T
    return np.arctan2(q[:, 1], q[:, 0]), np.arctan2(q[:, 2], np.hypot(q[:, 0], q[:, 1]) - torus.radius)


def _turned(angle: Array) -> Array:
    return (angle + np.pi) % TURN - np.pi


Branch = tuple[Curve3 | float, Callable[[Array, Array], Flags], bool, Array]


def _torus_branches(torus: Surface, d: Array) -> Iterator[Branch]:
    """The closed curves of which a torus's outline consists, seen along ``d`` (3,) in its own frame.

    Each as Curve3, or seen aslant as the side (+1, -1) of the tube; what tells which angles (about the axis,
    round the tube) lie on it; whether it goes round the axis; and the angles at which it meets another.
    """
    x, y, z = torus.axes
    big, small = torus.radius, torus.minor_radius
    phi, square = float(np.arctan2(d[1], d[0])), np.array([-np.pi / 2, np.pi / 2])
    # where a torus that runs through its own axis meets it, round the tube
    poles = np.array([-1.0, 1.0]) * np.arccos(-big / small) if torus.spindle else np.zeros(0)
    if abs(d[2]) < 1e-9:
        # seen from the side: two circles about the axis, and two meridians
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin + s * small * z, x=big * x, y=big * y)

            def on_ring(u: Array, v: Array, s: float = s) -> Flags:
                return np.abs(_turned(v - s * np.pi / 2)) < np.abs(np.cos(u - phi)) * 0.8

            yield ring, on_ring, True, phi + square
            out = np.cos(phi + s * np.pi / 2) * x + np.sin(phi + s * np.pi / 2) * y
            meridian = Curve3("conic", 0.0, TURN, origin=torus.origin + big * out, x=small * out, y=small * z)

            def on_meridian(u: Array, v: Array, s: float = s) -> Flags:
                return np.abs(_turned(u - phi - s * np.pi / 2)) < np.abs(np.cos(v)) * 0.8

            yield meridian, on_meridian, False, np.concatenate([square, poles])
    elif np.hypot(d[0], d[1]) < 1e-9:
        for s in (1.0, -1.0):
            ring = Curve3("conic", 0.0, TURN, origin=torus.origin, x=(big + s * small) * x, y=(big + s * small) * y)

            def on_level(u: Array, v: Array, s: float = s) -> Flags:
                return s * np.cos(v) > 0

            yield ring, on_level, True, np.zeros(0)
    else:
        # the branch on whose side of the tube the axis lies goes through it
        turns = -np.tan(poles) * d[2] / np.hypot(d[0], d[1])
        turns = np.arccos(turns[np.abs(turns) <= 1])
        through = np.concatenate([phi + turns, phi - turns])
        for s in (1.0, -1.0):

            def on(u: Array, v: Array, s: float = s) -> Flags:
                slope = -(np.cos(u) * d[0] + np.sin(u) * d[1]) / d[2]
                return np.abs(_turned(v - np.arctan(slope) - (np.pi if s < 0 else 0.0))) < np.pi / 2

            yield s, on, True, through if s * big < 0 else np.zeros(0)


def _torus_arc(part: Part, face: Face, curve: Curve3 | float, low: float, high: float, view: Camera) -> Found:
    torus = face.surface
    sense = face.sense * torus.hand
    if not isinstance(curve, Curve3):
        return spline(
            part,
            *torus_arc(
                torus.origin,
                torus.axes,
                torus.radius,
                torus.minor_radius,
                sense,
                view.toward,
                curve,
                low,
                high,
                FIT / 4 * part.size,
                CHORD * part.size,
            ),
        )

    return conic(part, face, curve.piece(low, high), view)
