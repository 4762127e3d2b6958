"""Compiled loops that gather the lines of a view: what shows of the edges, the straight outlines, and all as strands."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.wires import Array, Ints
from .edges import SAME, edges_in_view, ruled_roots, rulings

Flags = NDArray[np.bool_]
OUTLINE = 2
"""The class of outlines."""
PLAIN, RULED, ROUND = 0, 1, 2
"""Faces along which no edge can be the outline, cylinders and cones, and other faces of closed form."""


class Ledger(NamedTuple):
    """What the loops need of a part.

    Of its n edges, as wires of m rows: ``start``, ``t``, ``points``, ``cubic``; ``normals`` (2, m, 3) and ``convex`` (m,)
    by row; ``joint`` (n,) as a place in JOINTS; ``lift`` (n,) mm; ``sheet`` (n,) True for edges of bodies of surfaces only;
    ``curved`` (n,) a face beside it that is not plane, or -1; ``bent`` (n,) False for lines. ``pierced_edge``,
    ``pierced_t``: where they run into or out of another body. ``ruled_row``, ``ruled_side``, ``ruled_face``: where they run
    along cylinders and cones.

    Of its f faces: ``origin`` (f, 3), ``axis`` (f, 3), ``radius``, ``sine`` and ``cosine`` of the half angle (0 and 1 for
    cylinders), ``sense`` (+1 where the natural normal is the outward one), ``apex`` (f,) True where a face reaches the apex
    of its cone, ``face_lift`` (f,) mm, ``form`` (f,): PLAIN, RULED or ROUND; ``thin`` (f,) True on bodies of surfaces only.
    """

    start: Ints
    t: Array
    points: Array
    cubic: Array
    normals: Array
    convex: Flags
    joint: Ints
    lift: Array
    sheet: Flags
    curved: Ints
    bent: Flags
    pierced_edge: Ints
    pierced_t: Array
    ruled_row: Ints
    ruled_side: Ints
    ruled_face: Ints
    origin: Array
    axis: Array
    radius: Array
    sine: Array
    cosine: Array
    sense: Array
    apex: Flags
    face_lift: Array
    form: Ints
    thin: Flags


class Seen(NamedTuple):
    """The edges in a view: by row ``g`` (2, m), the normals toward the viewer, ``away`` (m, 3) and ``free`` (m,); by edge
    its class, or -1, and whether something may end behind it; ``broken`` edges (k,) and the parameters ``at`` (k,) where
    the state may change; and ``hems`` (j,), outlines along edges within a face of closed form, still to be judged."""

    g: Array
    cls: Ints
    contour: Flags
    away: Array
    free: Flags
    broken: Ints
    at: Array
    hems: Ints


class Outlined(NamedTuple):
    """Outlines as n wires of m rows: by row outward normals (m, 3) and whether the face leaves them free; by outline its
    face, and whether it is bent."""

    start: Ints
    t: Array
    points: Array
    cubic: Array
    outward: Array
    free: Flags
    face: Ints
    bent: Flags


class Rows(NamedTuple):
    """The n strands of a view, of m rows in all.

    ``start``, ``t``, ``points``, ``cubic``: their polylines in space. ``away`` (m, 3): where free space lies, used to lift
    rays off the part's own faces; ``free`` (m,): False where the faces at the curve itself hide it. By strand: ``cls`` as a
    place in CLASSES; ``contour``: True where something may end behind it; ``lift`` (mm) how far to go away; ``bent``: no
    line in space; ``whole``: what it is, or is left of: a row of the edges that are there, then of the outlines, then of
    what is laid open. ``broken``, ``at``: strands and parameters of places where their faces turn away.
    """

    start: Ints
    t: Array
    points: Array
    cubic: Array
    away: Array
    free: Flags
    cls: Ints
    contour: Flags
    lift: Array
    bent: Flags
    whole: Ints
    broken: Ints
    at: Array


@compiled
def seen_of(ledger, eye, smooth, size, point):  # type: ignore[no-untyped-def]
    """The edges of a part of a size (mm) in a view, and the straight outlines of its cylinders and cones; what shrinks to
    less than ``point`` part sizes is left out."""
    e = ledger
    g, cls, contour, away, free, broken, at = edges_in_view(ledger, eye, smooth=smooth, tiny=point * size)
    hems = np.empty(len(cls), np.int64)
    k = 0
    for i in range(len(cls)):
        if cls[i] != OUTLINE or e.joint[i] != SAME or e.sheet[i]:
            continue
        f = e.curved[i]
        if e.form[f] == RULED:
            # where the face bends toward the viewer it hides its own outline
            free[e.start[i] : e.start[i + 1]] = e.sense[f] > 0
        elif e.form[f] == ROUND:
            hems[k] = i
            k += 1
    roots, along, group = ruled_roots(ledger, g, eye.toward)
    t, ends, cubic, outward, face = rulings(ledger, roots, along, group=group, least=1e-7 * size)
    bare = np.empty(2 * len(face), np.bool_)
    for i in range(len(face)):
        bare[2 * i] = bare[2 * i + 1] = e.sense[face[i]] > 0
    own = Outlined(
        start=2 * np.arange(len(face) + 1),
        t=t,
        points=ends,
        cubic=cubic,
        outward=outward,
        free=bare,
        face=face,
        bent=np.zeros(len(face), np.bool_),
    )
    found = Seen(g=g, cls=cls, contour=contour, away=away, free=free, broken=broken, at=at, hems=hems[:k].copy())
    return found, own


@compiled
def _rows_over(own, off, begin, end, to):  # type: ignore[no-untyped-def]
    """Rows (m, 3) into others, from one to before another, from so many rows later on."""
    for j in range(begin, end):
        to[j, 0], to[j, 1], to[j, 2] = own[off + j, 0], own[off + j, 1], own[off + j, 2]


@compiled
def strands_from(ledger, seen, outlined, hem_edge, hem_t, through, through_t):  # type: ignore[no-untyped-def]
    """All strands; ``hem_edge``, ``hem_t``: where hems change; ``through``, ``through_t``: where outlines run into or out of
    another body. And the rows of the edges that are there (k,)."""
    e, o = ledger, outlined
    edges = np.nonzero(seen.cls >= 0)[0]
    k, n = len(edges), len(o.face)
    start = np.zeros(k + n + 1, np.int64)
    own = np.full(len(seen.cls), -1, np.int64)
    for i in range(k):
        own[edges[i]] = i
        start[i + 1] = start[i] + e.start[edges[i] + 1] - e.start[edges[i]]
    for i in range(n):
        start[k + i + 1] = start[k] + o.start[i + 1]
    m = start[k + n]
    t, points, cubic = np.empty(m), np.empty((m, 3)), np.empty((3, m, 3))
    away, free = np.empty((m, 3)), np.empty(m, np.bool_)
    cls, contour = np.empty(k + n, np.int64), np.empty(k + n, np.bool_)
    lift, bent = np.empty(k + n), np.empty(k + n, np.bool_)
    for i in range(k):
        s = edges[i]
        cls[i], contour[i], lift[i], bent[i] = seen.cls[s], seen.contour[s], e.lift[s], e.bent[s]
        off = e.start[s] - start[i]
        for j in range(start[i], start[i + 1]):
            t[j], free[j] = e.t[off + j], seen.free[off + j]
        _rows_over(e.points, off, start[i], start[i + 1], points)
        _rows_over(seen.away, off, start[i], start[i + 1], away)
        for d in range(3):
            _rows_over(e.cubic[d], off, start[i], start[i + 1], cubic[d])
    most = len(seen.broken) + len(hem_edge) + len(e.pierced_edge) + len(through) + len(o.t)
    broken, at = np.empty(most, np.int64), np.empty(most)
    b = 0
    for i in range(len(seen.broken)):
        broken[b], at[b] = own[seen.broken[i]], seen.at[i]
        b += 1
    for i in range(len(hem_edge)):
        broken[b], at[b] = own[hem_edge[i]], hem_t[i]
        b += 1
    for i in range(len(e.pierced_edge)):
        if own[e.pierced_edge[i]] >= 0:
            broken[b], at[b] = own[e.pierced_edge[i]], e.pierced_t[i]
            b += 1
    for i in range(n):
        cls[k + i], contour[k + i], lift[k + i], bent[k + i] = OUTLINE, True, e.face_lift[o.face[i]], o.bent[i]
        thin = e.thin[o.face[i]]
        for r in range(o.start[i], o.start[i + 1]):
            j = start[k] + r
            # a sheet does not hide its own outline; where it bends toward the viewer, free space lies on its other side
            t[j], free[j] = o.t[r], o.free[r] or thin
            sign = -1.0 if thin and not o.free[r] else 1.0
            for x in range(3):
                points[j, x], away[j, x] = o.points[r, x], sign * o.outward[r, x]
                for d in range(3):
                    cubic[d, j, x] = o.cubic[d, r, x]
            if r > o.start[i] and free[j] != free[j - 1]:
                broken[b], at[b] = k + i, (t[j - 1] + t[j]) / 2
                b += 1
    for i in range(len(through)):
        broken[b], at[b] = k + through[i], through_t[i]
        b += 1
    rows = Rows(
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        away=away,
        free=free,
        cls=cls,
        contour=contour,
        lift=lift,
        bent=bent,
        whole=np.arange(k + n),
        broken=broken[:b].copy(),
        at=at[:b].copy(),
    )
    return rows, edges
