"""Which faces other than cylinders and cones turn away from the viewer somewhere, and where; and which edges hide themselves
there."""

from __future__ import annotations

import numpy as np

from ..cutting.closed_forms import outward_at
from ..geometry.compiled import compiled
from ..geometry.curve_tracing import chains_of
from ..geometry.wires import Array, Ints
from ..part.model import Part
from ..values import value
from .camera import Camera
from .edges import mixed_triangles
from .outline import Flags, Turns
from .round_outlines import Turning
from .table import Table


@value
class Places:
    """The n ``faces`` that turn away, and what belongs to each: ``mixed`` (k, 3), triangles that do so in part, and ``roots``
    (j, 3) on its boundary, ``from_triangle`` and ``from_root`` (n, 2) on and up to; ``facing``: by node of the mesh. Where
    two roots follow each other on one edge: their ``pair`` (i, 2), the point ``between`` (i, 3), how far they are apart,
    ``from_pair`` (n, 2), and the normal toward the viewer half way."""

    faces: Ints
    mixed: Ints
    from_triangle: Ints
    facing: Flags
    roots: Array
    from_root: Ints
    pair: Ints
    between: Array
    span: Array
    halfway: Array
    from_pair: Ints

    def turns(self, k: int) -> Turns:
        """The places of one face, by its row here."""
        (a, b), (c, d), (e, f) = self.from_triangle[k], self.from_root[k], self.from_pair[k]
        chains = chains_of(self.mixed[a:b], self.facing) if a < b else []
        return Turns(chains, self.roots[c:d], self.between[e:f], self.span[e:f], self.halfway[e:f], self.pair[e:f] - c)

    def at(self, rows: Ints) -> Turning:
        """The places of some faces, by their ``rows`` (k,) here."""
        return Turning(
            face=self.faces[rows],
            mixed=self.mixed,
            first=self.from_triangle[rows],
            facing=self.facing,
            roots=self.roots,
            begin=self.from_root[rows],
        )


def places_of(part: Part, table: Table, view: Camera, g: Array) -> Places | None:
    """Where faces turn away; None where none does. ``g`` (2, m): the edges' normals toward the viewer."""
    mesh, o, w = part.mesh, table.others, table.wires
    found = places_in(
        triangles=mesh.triangles,
        face_of=mesh.face_of,
        wanted=table.turning,
        normals=mesh.normals,
        toward=view.toward,
        row=o.row,
        side=o.side,
        face=o.face,
        g=g,
        points=w.points,
        cubic=w.cubic,
        owner=w.owner,
    )
    return Places(*found) if len(found[0]) else None


@compiled
def places_in(triangles, face_of, wanted, normals, toward, row, side, face, g, points, cubic, owner):  # type: ignore[no-untyped-def]
    """The figures of :class:`Places`, in its order: of the mesh's ``triangles`` those that turn away in part, of the pieces
    of edges (``row``, ``side``, ``face``) those along which a face turns away."""
    mixed, facing = mixed_triangles(triangles, face_of, wanted, normals, toward)
    turns, n = np.empty(len(row), np.int64), 0
    for i in range(len(row)):
        if (g[side[i], row[i]] >= 0) != (g[side[i], row[i] + 1] >= 0):
            turns[n] = i
            n += 1
    # pieces come by side, then edge by edge in order: what follows on the same edge follows on the boundary
    first, pairs = np.empty(n, np.int64), 0
    for k in range(n - 1):
        i, j = turns[k], turns[k + 1]
        if owner[row[i]] == owner[row[j]] and side[i] == side[j]:
            first[pairs] = k
            pairs += 1
    # what belongs to a face stands together: counted, then laid out
    count = np.zeros((len(wanted) + 1, 3), np.int64)
    for k in range(len(mixed)):
        count[face_of[mixed[k]] + 1, 0] += 1
    for k in range(n):
        count[face[turns[k]] + 1, 1] += 1
    for k in range(pairs):
        count[face[turns[first[k]]] + 1, 2] += 1
    faces, met = np.empty(len(wanted), np.int64), 0
    for f in range(len(wanted)):
        if count[f + 1, 0] or count[f + 1, 1]:
            faces[met] = f
            met += 1
        for c in range(3):
            count[f + 1, c] += count[f, c]
    begin = np.empty((3, met, 2), np.int64)
    for m in range(met):
        for c in range(3):
            begin[c, m, 0], begin[c, m, 1] = count[faces[m], c], count[faces[m] + 1, c]
    corners = np.empty((len(mixed), 3), np.int64)
    for k in range(len(mixed)):
        f = face_of[mixed[k]]
        for c in range(3):
            corners[count[f, 0], c] = triangles[mixed[k], c]
        count[f, 0] += 1
    roots, place = np.empty((n, 3)), np.empty(n, np.int64)
    for k in range(n):
        i = turns[k]
        r, f = row[i], face[i]
        a, b = g[side[i], r], g[side[i], r + 1]
        u = min(max(a / (a - b), 0.0), 1.0)
        place[k] = count[f, 1]
        for x in range(3):
            roots[place[k], x] = points[r, x] + u * (cubic[0, r, x] + u * (cubic[1, r, x] + u * cubic[2, r, x]))
        count[f, 1] += 1
    pair, between = np.empty((pairs, 2), np.int64), np.empty((pairs, 3))
    span, halfway = np.empty(pairs), np.empty(pairs)
    for k in range(pairs):
        i, j = turns[first[k]], turns[first[k] + 1]
        f = face[i]
        at, middle = count[f, 2], (row[i] + row[j] + 1) // 2
        count[f, 2] += 1
        p, q = place[first[k]], place[first[k] + 1]
        pair[at, 0], pair[at, 1] = p, q
        length = 0.0
        for x in range(3):
            between[at, x] = points[middle, x]
            length += (roots[q, x] - roots[p, x]) ** 2
        span[at], halfway[at] = np.sqrt(length), g[side[i], middle]
    return faces[:met].copy(), corners, begin[0], facing, roots, begin[1], pair, between, span, halfway, begin[2]


@compiled
def hem_breaks(hems, ledger, faces, toward, size, free):  # type: ignore[no-untyped-def]
    """Edges within one sphere or torus that run along its outline (``hems``, by row), such as seams: ``free`` is set False
    where the face bends toward the viewer and so hides its own outline. Edges (k,) and parameters (k,) where that changes.

    ``ledger``: :class:`Ledger` of the part, ``faces``: :class:`Faces`, ``size`` of the part, mm.
    """
    curved, start, t, points = ledger.curved, ledger.start, ledger.t, ledger.points
    edges, at, n = np.empty(len(t), np.int64), np.empty(len(t)), 0
    for e in hems:
        f = curved[e]
        reach = faces.minor[f] if faces.minor[f] != 0 else faces.radius[f] if faces.radius[f] != 0 else size
        step = 1e-3 * reach * toward
        for i in range(start[e], start[e + 1]):
            p, q = points[i] + step, points[i] - step
            near, far = outward_at(faces, f, p[0], p[1], p[2]), outward_at(faces, f, q[0], q[1], q[2])
            rise = 0.0
            for x in range(3):
                rise += (near[x] - far[x]) * toward[x]
            free[i] = rise > -1e-9
            if i > start[e] and free[i] != free[i - 1]:
                edges[n], at[n] = e, (t[i - 1] + t[i]) / 2
                n += 1
    return edges[:n].copy(), at[:n].copy()
