"""Some bodies of a part, as a part of their own."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection
from dataclasses import replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .model import Array, Mesh, Part


def body_names(part: Part) -> list[str]:
    """A name for each body, no two alike: further bodies of one name are counted."""
    seen: Counter[str] = Counter()
    names: list[str] = []
    for body in part.bodies:
        seen[body.name] += 1
        names.append(body.name if seen[body.name] == 1 else f"{body.name} ({seen[body.name]})")
    return names


def named(part: Part, names: Collection[str]) -> NDArray[np.bool_]:
    """Which bodies (b,) are called by one of these names."""
    if not names:
        return np.zeros(len(part.bodies), bool)
    wanted = set(names)
    return np.array([name in wanted for name in body_names(part)], bool)


def body_nodes(part: Part, body: int) -> Array:
    """The nodes (m, 3) of a body's mesh."""
    return np.concatenate([np.zeros((0, 3)), *(part.mesh.nodes[f.nodes] for f in part.faces if f.body == body)])


def only(part: Part, bodies: Collection[str] | None) -> Part:
    """The part with these bodies alone, by name (None for all); their faces and edges keep their references.

    Names that it does not hold are passed over; where none is left, it has no faces.
    """
    if bodies is None:
        return part
    kept = tuple(np.nonzero(named(part, bodies))[0].tolist())
    return part if len(kept) == len(part.bodies) else _only(part, kept)


@lru_cache(maxsize=8)
def _only(part: Part, kept: tuple[int, ...]) -> Part:
    names = body_names(part)
    new_body = {old: new for new, old in enumerate(kept)}
    rows = [k for k, f in enumerate(part.faces) if f.body in new_body]
    edge_rows = [k for k, e in enumerate(part.edges) if e.body in new_body]
    new_face = {old: new for new, old in enumerate(rows)}
    new_edge = {old: new for new, old in enumerate(edge_rows)}
    corners = sorted({v for k in edge_rows for v in part.edges[k].ends if v >= 0})
    new_corner = {old: new for new, old in enumerate(corners)} | {-1: -1}
    nodes, triangles = [], []
    slices: list[tuple[slice, slice]] = []
    node_count = triangle_count = 0
    for old in rows:
        face = part.faces[old]
        own = part.mesh.triangles[face.triangles]
        count = face.nodes.stop - face.nodes.start
        nodes.append(np.arange(face.nodes.start, face.nodes.stop))
        triangles.append(own - face.nodes.start + node_count)
        slices.append((slice(node_count, node_count + count), slice(triangle_count, triangle_count + len(own))))
        node_count += count
        triangle_count += len(own)
    every = np.concatenate([np.zeros(0, np.int64), *nodes])
    m = part.mesh
    mesh = Mesh(
        nodes=m.nodes[every],
        uv=m.uv[every],
        normals=m.normals[every],
        triangles=np.concatenate([np.zeros((0, 3), np.int64), *triangles]),
        face_of=np.repeat(np.arange(len(rows)), [s.stop - s.start for _, s in slices]).astype(np.int64),
        deflection=m.deflection,
        strays=m.strays[rows],
    )
    faces = tuple(
        replace(
            part.faces[old],
            body=new_body[part.faces[old].body],
            nodes=own[0],
            triangles=own[1],
            boundary=tuple(new_edge[e] for e in part.faces[old].boundary if e in new_edge),
        )
        for old, own in zip(rows, slices, strict=True)
    )
    edges = tuple(
        replace(
            part.edges[k],
            body=new_body[part.edges[k].body],
            faces=tuple(new_face[f] for f in part.edges[k].faces),
            ends=(new_corner[part.edges[k].ends[0]], new_corner[part.edges[k].ends[1]]),
        )
        for k in edge_rows
    )
    places = [mesh.nodes, *(e.points for e in edges)]
    points = np.concatenate(places) if len(rows) or len(edges) else np.zeros((1, 3))
    return replace(
        part,
        # called as in the whole part, in which others of the same name may come before them
        bodies=tuple(replace(part.bodies[k], name=names[k]) for k in kept),
        faces=faces,
        edges=edges,
        vertices=part.vertices[corners],
        vertex_refs=tuple(part.vertex_refs[k] for k in corners),
        mesh=mesh,
        low=points.min(axis=0),
        high=points.max(axis=0),
        apart=tuple(part.apart[k] for k in kept) if part.apart else (),
        meeting=part.meeting
        and tuple((new_body[a], new_body[b]) for a, b in part.meeting if a in new_body and b in new_body),
    )
