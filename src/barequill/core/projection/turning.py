"""Which faces other than cylinders and cones turn away from the viewer somewhere, and where."""

from __future__ import annotations

import numpy as np

from ..geometry.following import chains_of
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
        """The places of some faces, by their rows here."""
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
    mesh = part.mesh
    mixed, facing = mixed_triangles(mesh.triangles, mesh.face_of, table.turning, mesh.normals, view.toward)
    o, w = table.others, table.wires
    g0, g1 = g[o.side, o.row], g[o.side, o.row + 1]
    turns = np.nonzero((g0 >= 0) != (g1 >= 0))[0]
    if not len(mixed) and not len(turns):
        return None
    rows, sides = o.row[turns], o.side[turns]
    roots = w.at(rows, np.clip(g0[turns] / (g0[turns] - g1[turns]), 0, 1))
    # rows come by side, then edge by edge in order: what follows on the same edge follows on the boundary
    next_on = (w.owner[rows[1:]] == w.owner[rows[:-1]]) & (sides[1:] == sides[:-1]) if len(rows) else np.zeros(0, bool)
    first = np.nonzero(next_on)[0]
    middle = (rows[first] + rows[first + 1] + 1) // 2
    # what belongs to a face stands together
    order = np.argsort(o.face[turns], kind="stable")
    place = np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    pairs = np.argsort(o.face[turns][first], kind="stable")
    first, middle = first[pairs], middle[pairs]
    by_face = np.argsort(mesh.face_of[mixed], kind="stable")
    mixed, meets, paired = mixed[by_face], o.face[turns][order], o.face[turns][first]
    faces = np.union1d(mesh.face_of[mixed], meets)
    return Places(
        faces=faces,
        mixed=mesh.triangles[mixed],
        from_triangle=_from(mesh.face_of[mixed], faces),
        facing=facing,
        roots=roots[order],
        from_root=_from(meets, faces),
        pair=place[np.stack([first, first + 1], axis=1)],
        between=w.points[middle],
        span=np.linalg.norm(roots[first + 1] - roots[first], axis=1),
        halfway=g[sides[first], middle],
        from_pair=_from(paired, faces),
    )


def _from(own: Ints, faces: Ints) -> Ints:
    """From where and up to where (n, 2) each face stands in a row (k,) that is in order."""
    return np.stack([np.searchsorted(own, faces), np.searchsorted(own, faces, side="right")], axis=1)
