"""Compiled loops for the outlines of spheres and tori: arcs of great circles, and the exact curves
tan v = -(cos u · dx + sin u · dy) / dz."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.forms import CONIC, SPLINE, Forms
from ..geometry.splines import bezier_poles, wire_of
from ..geometry.wires import Array, Ints
from ..part.figures import stands_over
from .arcs import (
    ASLANT,
    LEVEL,
    MERIDIAN,
    RING,
    arcs_between,
    branch_arcs,
    conic_arc,
    round_torus,
    three,
    torus_arc,
    torus_at,
)
from .seen import Outlined

Flags = NDArray[np.bool_]
FIT = 4e-6
"""How far a fitted outline may stray, in part sizes."""
CHORD = 2e-5
LEAN = 2e-6
"""Slope to an axis below which a torus is seen from the side, or along its axis: less than an outline may stray by."""
ON_AXIS = 1e-6


class Rounds(NamedTuple):
    """What the loops need of a part's f faces, of which only spheres and tori are looked at: ``axes`` (f, 3, 3), ``origin``
    (f, 3), ``big`` (0 for spheres, below 0 for the inner sheet of one that runs
    through its axis) and ``small`` radius, ``sense`` (+1 where the natural normal is the outward one), first
    and last of its ``triangles`` (f, 2), and which edges bound it: ``edges``, from ``bounds`` (f + 1,) on. And of the mesh."""

    axes: Array
    origin: Array
    big: Array
    small: Array
    sense: Array
    triangles: Ints
    bounds: Ints
    edges: Ints
    nodes: Array
    corners: Ints
    deflection: float


class Turning(NamedTuple):
    """Where n faces turn away: the ``face`` of each; ``mixed`` (k, 3), triangles that do so in part, from and up to
    ``first`` (n, 2), and by node of the mesh whether it is ``facing``; ``roots`` (j, 3) on its boundary, from and up to
    ``begin`` (n, 2)."""

    face: Ints
    mixed: Ints
    first: Ints
    facing: Flags
    roots: Array
    begin: Ints


@compiled
def _middles(nodes, mixed, facing, origin, axes, bare):  # type: ignore[no-untyped-def]
    """The middles (m, 3) of sides of triangles that turn away; not of those that end on the axis, if that is wanted
    ``bare``."""
    found = np.empty((2 * len(mixed), 3))
    n = 0
    for i in range(len(mixed)):
        for k in range(3):
            a, b = mixed[i, k], mixed[i, (k + 1) % 3]
            if facing[a] == facing[b]:
                continue
            if bare > 0 and (_off_axis(nodes[a], origin, axes) < bare or _off_axis(nodes[b], origin, axes) < bare):
                continue
            for x in range(3):
                found[n, x] = (nodes[a, x] + nodes[b, x]) / 2
            n += 1
    return found[:n]


@compiled
def _off_axis(p, origin, axes):  # type: ignore[no-untyped-def]
    q = p[0] - origin[0], p[1] - origin[1], p[2] - origin[2]
    x = q[0] * axes[0, 0] + q[1] * axes[0, 1] + q[2] * axes[0, 2]
    y = q[0] * axes[1, 0] + q[1] * axes[1, 1] + q[2] * axes[1, 2]
    return np.sqrt(x * x + y * y)


@compiled
def _bounding(rounds, face, g, start, points, roots):  # type: ignore[no-untyped-def]
    """The roots (m, 3) on a face's boundary, with the ends of those of its edges that lie on its outline all along, as
    seams may: it goes on there."""
    edges = rounds.edges[rounds.bounds[face] : rounds.bounds[face + 1]]
    found = np.empty((len(roots) + 2 * len(edges), 3))
    found[: len(roots)] = roots
    n = len(roots)
    for e in edges:
        along = True
        for i in range(start[e], start[e + 1]):
            along = along and g[0, i] == 0.0
        if along:
            found[n], found[n + 1] = points[start[e]], points[start[e + 1] - 1]
            n += 2
    return found[:n]


@compiled
def _on_face(rounds, face, point):  # type: ignore[no-untyped-def]
    """Whether the mesh of a face stands over a point of its surface."""
    axis = rounds.axes[face, 2]
    p = point - rounds.origin[face]
    if rounds.big[face] != 0:
        along = p[0] * axis[0] + p[1] * axis[1] + p[2] * axis[2]
        ring = p - along * axis
        p = p - rounds.big[face] / max(np.sqrt((ring**2).sum()), 1e-300) * ring
    k = 0
    for x in range(1, 3):
        if abs(p[x]) > abs(p[k]):
            k = x
    own = rounds.corners[rounds.triangles[face, 0] : rounds.triangles[face, 1]]
    return stands_over(rounds.nodes, own, point, k, 3 * rounds.deflection)


@compiled
def _angles(points, origin, x, y):  # type: ignore[no-untyped-def]
    found = np.empty(len(points))
    for i in range(len(points)):
        q = points[i, 0] - origin[0], points[i, 1] - origin[1], points[i, 2] - origin[2]
        found[i] = np.arctan2(q[0] * y[0] + q[1] * y[1] + q[2] * y[2], q[0] * x[0] + q[1] * x[1] + q[2] * x[2])
    return found


@compiled
def _branches(axes, big, small, d, phi):  # type: ignore[no-untyped-def]
    """The closed curves of which a torus's outline consists, seen along ``d`` (3,) in its own frame: form and side of four
    at most, the angles (4, 4) at which each meets another, round the tube for meridians, else about the axis, and how
    many."""
    form, side, meets, count = np.full(4, -1), np.empty(4), np.empty((4, 4)), np.zeros(4, np.int64)
    level = np.hypot(d[0], d[1])
    # where a torus that runs through its own axis meets it, round the tube
    spindle = small >= abs(big)
    pole = np.arccos(-big / small) if spindle else 0.0
    n = 0
    for k in range(2):
        s = 1.0 if k == 0 else -1.0
        if abs(d[2]) < LEAN:
            # seen from the side: two circles about the axis, and two meridians
            form[n], side[n], count[n] = RING, s, 2
            meets[n, 0], meets[n, 1] = phi - np.pi / 2, phi + np.pi / 2
            n += 1
            form[n], side[n], count[n] = MERIDIAN, s, 4 if spindle else 2
            meets[n, 0], meets[n, 1], meets[n, 2], meets[n, 3] = -np.pi / 2, np.pi / 2, -pole, pole
        elif level < LEAN:
            form[n], side[n] = LEVEL, s
        else:
            form[n], side[n] = ASLANT, s
            if spindle and s * big < 0:
                # the branch on whose side of the tube the axis lies goes through it
                for p in (-pole, pole):
                    turn = -np.tan(p) * d[2] / level
                    if abs(turn) <= 1:
                        meets[n, count[n]], meets[n, count[n] + 1] = phi + np.arccos(turn), phi - np.arccos(turn)
                        count[n] += 2
        n += 1
    return form[:n], side[:n], meets, count


@compiled
def _conic(axes, origin, big, small, form, side, phi, out):  # type: ignore[no-untyped-def]
    """The circle (3, 3: centre, x, y) that a branch of a torus is, into ``out``."""
    x, y, z = axes[0], axes[1], axes[2]
    if form == RING:
        out[0], out[1], out[2] = origin + side * small * z, big * x, big * y
    elif form == LEVEL:
        out[0], out[1], out[2] = origin, (big + side * small) * x, (big + side * small) * y
    else:
        a = phi + side * np.pi / 2
        way = np.cos(a) * x + np.sin(a) * y
        out[0], out[1], out[2] = origin + big * way, small * way, small * z


@compiled
def round_outlines(rounds, turning, g, start, points, eye, size):  # type: ignore[no-untyped-def]
    """The outlines of spheres and tori that turn away; ``g``, ``start`` and ``points``: the edges' normals toward the viewer,
    first rows and rows.

    Returns these, and their exact curves.
    """
    right, up, toward = eye
    faces = []
    kinds = []
    ends = []
    conics = []
    wires = [(np.empty(0), np.empty((0, 3)), np.empty((3, 0, 3)), np.empty((0, 3)), np.empty(0, np.bool_))]
    nets = [(np.empty((0, 3)), np.empty(0))]
    own = np.empty((3, 3))
    none, nowhere = np.empty((0, 3)), np.empty(0)
    point = np.empty(3)
    for i in range(len(turning.face)):
        face = turning.face[i]
        axes, origin, big, small = rounds.axes[face], rounds.origin[face], rounds.big[face], rounds.small[face]
        sense = rounds.sense[face]
        torus = three(origin), three(axes[0]), three(axes[1]), three(axes[2]), big, small
        seen = _middles(
            nodes=rounds.nodes,
            mixed=turning.mixed[turning.first[i, 0] : turning.first[i, 1]],
            facing=turning.facing,
            origin=origin,
            axes=axes,
            bare=ON_AXIS * size if 0 < abs(big) <= small else 0.0,
        )
        roots = _bounding(
            rounds=rounds,
            face=face,
            g=g,
            start=start,
            points=points,
            roots=turning.roots[turning.begin[i, 0] : turning.begin[i, 1]],
        )
        d = np.empty(3)
        for x in range(3):
            d[x] = (axes[x] * toward).sum()
        phi = np.arctan2(d[1], d[0])
        if big == 0.0:
            form, side, meets, count = np.full(1, -1), np.zeros(1), np.empty((1, 4)), np.zeros(1, np.int64)
        else:
            form, side, meets, count = _branches(axes, big, small, d, phi)
            near, met = round_torus(origin, axes, big, seen), round_torus(origin, axes, big, roots)
        for b in range(len(form)):
            if big == 0.0:
                own[0], own[1], own[2] = origin, small * right, small * up
                arcs, held = arcs_between(_angles(roots, origin, own[1], own[2]), _angles(seen, origin, own[1], own[2]))
            else:
                arcs, held = branch_arcs(
                    form=form[b], side=side[b], d=d, seen=near, roots=met, meets=meets[b, : count[b]].copy()
                )
                if form[b] != ASLANT:
                    _conic(axes=axes, origin=origin, big=big, small=small, form=form[b], side=side[b], phi=phi, out=own)
            for k in range(len(arcs)):
                low, high = arcs[k]
                if not held[k]:
                    middle = (low + high) / 2
                    if form[b] == ASLANT:
                        point[0], point[1], point[2] = torus_at(torus, three(d), side[b], middle)[0]
                    else:
                        point[:] = own[0] + np.cos(middle) * own[1] + np.sin(middle) * own[2]
                    if not _on_face(rounds, face, point):
                        continue
                faces.append(face)
                if form[b] == ASLANT:
                    t, p, s, normal, convex = torus_arc(
                        torus=torus,
                        sense=sense,
                        toward=toward,
                        branch=side[b],
                        low=low,
                        high=high,
                        fit=FIT / 4 * size,
                        chord=CHORD * size,
                    )
                    nets.append(bezier_poles(t, p, s))
                    wires.append(wire_of(t, p, s, normal, convex, CHORD * size))
                    kinds.append(SPLINE)
                    conics.append(np.zeros((3, 3)))
                    low, high = t[0], t[-1]
                else:
                    wires.append(
                        conic_arc(
                            conic=own,
                            span=np.array([low, high]),
                            centre=origin,
                            axis=axes[2],
                            big=big,
                            small=small,
                            sense=sense,
                            toward=toward,
                            chord=CHORD * size,
                        )
                    )
                    nets.append((none, nowhere))
                    kinds.append(CONIC)
                    conics.append(own.copy())
                ends.append((low, high))
    n = len(faces)
    rows, pole, knot = np.zeros(n + 1, np.int64), np.zeros(n + 1, np.int64), np.zeros(n + 1, np.int64)
    for k in range(n):
        rows[k + 1] = rows[k] + len(wires[k + 1][0])
        pole[k + 1], knot[k + 1] = pole[k] + len(nets[k + 1][0]), knot[k] + len(nets[k + 1][1])
    m = rows[n]
    t, p, cubic = np.empty(m), np.empty((m, 3)), np.empty((3, m, 3))
    outward, free = np.empty((m, 3)), np.empty(m, np.bool_)
    net, knots = np.ones((pole[n], 4)), np.empty(knot[n])
    face_of, kind = np.empty(n, np.int64), np.empty(n, np.int64)
    span, conic = np.empty((n, 2)), np.empty((n, 3, 3))
    for k in range(n):
        a, b = rows[k], rows[k + 1]
        t[a:b], p[a:b], outward[a:b], free[a:b] = wires[k + 1][0], wires[k + 1][1], wires[k + 1][3], wires[k + 1][4]
        for x in range(3):
            cubic[x, a:b] = wires[k + 1][2][x]
        net[pole[k] : pole[k + 1], :3], knots[knot[k] : knot[k + 1]] = nets[k + 1]
        face_of[k], kind[k], conic[k] = faces[k], kinds[k], conics[k]
        span[k, 0], span[k, 1] = ends[k]
    lines = Outlined(
        start=rows,
        t=t,
        points=p,
        cubic=cubic,
        outward=outward,
        free=free,
        face=face_of,
        bent=np.ones(n, np.bool_),
    )
    forms = Forms(
        kind=kind,
        ends=span,
        conic=conic,
        degree=np.where(kind == SPLINE, 3, 0),
        rational=np.zeros(n, np.bool_),
        poles=pole,
        net=net,
        turns=knot,
        knots=knots,
    )
    return lines, forms
