"""Where a cutting plane all but touches what is bent: the mesh is made finer there until it tells how often they meet."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from ..geometry.curves3 import Curve3
from ..geometry.surfaces import Surface
from ..geometry.wires import Wires
from ..part.model import Part
from .figures import NEAR, figures_of, held_with
from .records import Array, Ints

GRAZED, LYING, MANY = 2.0, 0.95, 40_000
"""Within how many deflections a cutting plane grazes a face, whose normal lies along its own by more than so much (as a cosine); and
up to how many triangles such a face has in a finer mesh."""
ALONG = 0.3
"""Sine of the angle within which an edge runs along a cutting plane that it is near to."""


def grazed(part: Part, edges: Wires, normal: Array, offset: float) -> dict[int, int]:
    """The faces that a cutting plane all but touches along, or whose edges it does, so that the mesh does not tell how often it meets
    them, or whether at all: where it passes within a few deflections of what lies all but in it. Of each, how often its mesh is to
    be made twice as fine until that tells; of one body all as often, so that they agree about their edges."""
    known, mesh = figures_of(part), part.mesh
    # what each face strays from its mesh, not what the whole part may: in a large assembly that is more than small bodies are thick
    reach = GRAZED * mesh.strays
    nodes, _, face_of = known.mesh
    height = np.abs(nodes @ normal - offset)
    # what lies in the cutting plane itself is met as the mesh has it
    least = NEAR * part.size
    rows = np.nonzero(known.curved[known.node_face] & (least < height) & (height <= reach[known.node_face]))[0]
    rows = rows[np.abs(mesh.normals[rows] @ normal) > LYING]
    faces = set(known.node_face[rows].tolist())
    # how much finer each body is wanted: what strays by a quarter each time is to be told from how far the plane is
    finer = np.zeros(len(part.bodies))
    of_body = known.face_body[known.node_face[rows]]
    np.maximum.at(finer, of_body, reach[known.node_face[rows]] / height[rows])
    bent = np.repeat(np.diff(edges.start) > 2, np.diff(edges.start))
    height = np.abs(edges.points @ normal - offset)
    # an edge strays from its mesh as the faces beside it do: of small bodies of a large part much less than a deflection
    beside = mesh.strays[known.pairs].max(axis=1) if len(known.pairs) else np.zeros(0)
    stray = np.repeat(beside, np.diff(edges.start))
    close = np.nonzero(bent & (least < height) & (height <= GRAZED * stray))[0]
    way = edges.cubic[0][close]
    along = np.abs(way @ normal) < ALONG * np.maximum(np.linalg.norm(way, axis=1), 1e-300)
    near = np.searchsorted(edges.start, close, side="right") - 1
    faces |= set(known.pairs[near[along]].ravel().tolist())
    np.maximum.at(finer, known.edge_body[near[along]], (GRAZED * stray / np.maximum(height, least))[close][along])
    # an edge is met as often on both of its sides
    for a, b in known.pairs[np.unique(near)].tolist():
        if a in faces or b in faces:
            faces |= {a, b}
    if not faces:
        return {}
    counts = np.bincount(face_of, minlength=len(part.faces))
    levels = np.clip(np.ceil(np.log2(np.maximum(finer, 1.0)) / 2) + 1, 1, 3).astype(int)
    wanted = sorted(f for f in faces if 0 < counts[f] < MANY and part.faces[f].surface.kind != "facets")
    return {f: int(levels[known.face_body[f]]) for f in wanted}


def refined(part: Part, wanted: dict[int, int], edges: Wires) -> Any:
    """What every cut of a part needs, held, with some of its faces in a mesh that is as often made twice as fine as is ``wanted``."""
    faces = list(wanted)
    known, mesh = figures_of(part), part.mesh
    nodes, triangles, face_of = known.mesh
    uv, node_face, strays = [mesh.uv], [known.node_face], mesh.strays.copy()
    rest = ~np.isin(face_of, faces)
    order = np.argsort(face_of, kind="stable")
    begin, end = (np.searchsorted(face_of[order], faces, side=side) for side in ("left", "right"))
    more_nodes, more_triangles, more_of = [nodes], [triangles[rest]], [face_of[rest]]
    count, made = len(nodes), dict[Any, tuple[Surface, Array, tuple[Array, Array, Ints]]]()
    for f, first, last in zip(faces, begin.tolist(), end.tolist(), strict=True):
        face, own = part.faces[f], triangles[order[first:last]]
        places, at, rows = mesh.uv[face.nodes], nodes[face.nodes], own - face.nodes.start
        levels = min(wanted[f], 3 if len(own) < MANY / 64 else 2 if len(own) < MANY / 16 else 1)
        key = levels, face.surface.kind, places.tobytes(), rows.tobytes()
        # bodies that are placed copies of one have their faces meshed alike
        finer = _placed_like(made.get(key), face.surface, at, NEAR * part.size)
        if finer is None:
            finer = places, at, rows
            for _ in range(levels):
                finer = _quartered(part, f, *finer)
            made[key] = face.surface, at, finer
        places, at, rows = finer
        uv.append(places)
        more_nodes.append(at)
        node_face.append(np.full(len(at), f))
        more_triangles.append(rows + count)
        more_of.append(np.full(len(rows), f))
        strays[f] /= 4**levels
        count += len(at)
    whole = np.concatenate(more_nodes), np.concatenate(more_triangles), np.concatenate(more_of)
    return held_with(part, edges, whole, uv=np.concatenate(uv), strays=strays, node_face=np.concatenate(node_face))


def _placed_like(
    known: tuple[Surface, Array, tuple[Array, Array, Ints]] | None, surface: Surface, nodes: Array, near: float
) -> tuple[Array, Array, Ints] | None:
    """The finer mesh of a face (places, points, triangles) moved to where another of the same shape lies, whose ``nodes`` (n, 3) are these;
    None where it is another shape."""
    if known is None:
        return None
    base, before, (places, at, rows) = known
    turn = surface.axes.T @ base.axes
    if len(before) != len(nodes) or np.abs((before - base.origin) @ turn.T + surface.origin - nodes).max() > near:
        return None
    return places, (at - base.origin) @ turn.T + surface.origin, rows


def _quartered(part: Part, f: int, places: Array, at: Array, triangles: Ints) -> tuple[Array, Array, Ints]:
    """Triangles (m, 3) of a face, each as four by the middles of its sides: places (n, 2) on the surface, points (n, 3) and
    triangles. Middles on the border lie on the edge there."""
    face = part.faces[f]
    sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    many = len(places)
    names, row, count = np.unique(sides[:, 0] * many + sides[:, 1], return_inverse=True, return_counts=True)
    unlike = np.stack(np.divmod(names, many), axis=1)
    row = row.reshape(-1, 3) + len(places)
    (a, b, c), (x, y, z) = triangles.T, row.T
    found = np.concatenate([np.stack(t, axis=1) for t in ((a, x, z), (x, b, y), (z, y, c), (x, y, z))])
    middles = places[unlike].mean(axis=1)
    points = face.surface.points(middles)
    border = np.nonzero(count == 1)[0]
    if len(border):
        chord = at[unlike[border]].mean(axis=1)
        points[border] = _on_edges(part, face.boundary, chord)
    return np.concatenate([places, middles]), np.concatenate([at, points]), found


def _on_edges(part: Part, rows: tuple[int, ...], points: Array) -> Array:
    """The places (m, 3) of some edges that are nearest to points (m, 3) beside them; points far from all stay."""
    best, found = np.full(len(points), np.inf), points.copy()
    straight = [part.edges[e].points[[0, -1]] for e in rows if part.edges[e].curve.kind == "line"]
    if straight:
        # what is beside a straight edge lies on it already, and goes to no other
        ends = np.array(straight)
        way = ends[:, 1] - ends[:, 0]
        off = points[:, None] - ends[:, 0]
        share = np.einsum("mlk,lk->ml", off, way) / np.maximum(np.einsum("lk,lk->l", way, way), 1e-300)
        best = np.linalg.norm(off - np.clip(share, 0.0, 1.0)[..., None] * way, axis=2).min(axis=1)
    for e in rows:
        curve = part.edges[e].curve
        if curve.kind == "line":
            continue
        own = _nearest(curve, points)
        p = curve.points(own)
        gap = np.linalg.norm(points - p, axis=1)
        nearer = (gap < best) & (gap < 4 * part.mesh.deflection)
        best[nearer], found[nearer] = gap[nearer], p[nearer]
    return found


def _nearest(curve: Curve3, points: Array) -> Array:
    """The parameters (m,) of a bent curve at which it is nearest to points (m, 3) beside it."""
    if curve.is_circle:
        assert curve.origin is not None and curve.x is not None and curve.y is not None
        off = points - curve.origin
        turn = np.arctan2(off @ curve.y, off @ curve.x)
        # as far round as the curve goes, the nearer of its ends beyond that
        middle = (curve.t0 + curve.t1) / 2
        turn = middle + (turn - middle + np.pi) % (2 * np.pi) - np.pi
        return np.clip(turn, curve.t0, curve.t1)
    t = np.linspace(curve.t0, curve.t1, 513)
    own = t[cKDTree(curve.points(t)).query(points)[1]]
    for _ in range(3):
        p, way = curve.derivatives(own)
        own = own + np.einsum("ij,ij->i", points - p, way) / np.maximum(np.einsum("ij,ij->i", way, way), 1e-300)
        own = np.clip(own, curve.t0, curve.t1)
    return own
