"""Parts moved and mirrored: all that they hold keeps its name."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .chosen import body_names
from .model import Array, Part

LEFT = np.diag([-1.0, 1.0, 1.0])
"""What mirrors a part left to right."""


def moved_part(part: Part, turn: Array, by: Array) -> Part:
    """A part turned by a rotation or mirrored (3, 3) and then moved by a step (3,), mm.

    Mirrored surfaces have left-handed axes, and their natural normals turn over.
    """
    mirrored = float(np.linalg.det(turn)) < 0
    mesh = part.mesh
    triangles = mesh.triangles[:, ::-1] if mirrored else mesh.triangles
    mesh = replace(mesh, nodes=mesh.nodes @ turn.T + by, normals=mesh.normals @ turn.T, triangles=triangles.copy())
    faces = tuple(
        replace(
            f,
            surface=f.surface.moved(turn, by),
            centre=turn @ f.centre + by,
            reversed=f.reversed != mirrored,
        )
        for f in part.faces
    )
    edges = tuple(
        replace(e, curve=e.curve.moved(turn, by), points=e.points @ turn.T + by, normals=e.normals @ turn.T)
        for e in part.edges
    )
    places = np.concatenate([mesh.nodes, *(e.points for e in edges)]) if faces or edges else np.zeros((1, 3))

    def spot(p: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = (turn @ np.array(p) + by).tolist()
        return x, y, z

    return replace(
        part,
        bodies=tuple(replace(b, centroid=spot(b.centroid)) for b in part.bodies),
        faces=faces,
        edges=edges,
        vertices=part.vertices @ turn.T + by,
        mesh=mesh,
        low=places.min(axis=0),
        high=places.max(axis=0),
    )


def mirrored_part(part: Part) -> Part:
    """A part of the other hand: mirrored along X about the middle of the box around it, which stays where it is."""
    middle = (part.low + part.high) / 2
    return moved_part(part, LEFT, np.array([2 * middle[0], 0.0, 0.0]))


def parted(part: Part, steps: dict[str, tuple[float, float, float]]) -> Part:
    """A part with some of its bodies (by name) moved by steps (mm) from where they stand."""
    by = np.array([steps.get(name, (0.0, 0.0, 0.0)) for name in body_names(part)], float)
    nodes, vertices = part.mesh.nodes.copy(), part.vertices.copy()
    still, done = np.eye(3), set[int]()
    faces, edges = [], []
    for f in part.faces:
        nodes[f.nodes] += by[f.body]
        faces.append(replace(f, surface=f.surface.moved(still, by[f.body]), centre=f.centre + by[f.body]))
    for e in part.edges:
        edges.append(replace(e, curve=e.curve.moved(still, by[e.body]), points=e.points + by[e.body]))
        for v in e.ends:
            if v >= 0 and v not in done:
                vertices[v] += by[e.body]
                done.add(v)
    places = np.concatenate([nodes, *(e.points for e in edges)])
    centres = (np.array(b.centroid) + step for b, step in zip(part.bodies, by, strict=True))
    return replace(
        part,
        bodies=tuple(
            replace(b, centroid=(float(c[0]), float(c[1]), float(c[2])))
            for b, c in zip(part.bodies, centres, strict=True)
        ),
        faces=tuple(faces),
        edges=tuple(edges),
        vertices=vertices,
        mesh=replace(part.mesh, nodes=nodes),
        low=places.min(axis=0),
        high=places.max(axis=0),
        # what is moved from another runs into it no more
        meeting=part.meeting and tuple((a, b) for a, b in part.meeting if np.array_equal(by[a], by[b])),
        apart=tuple((float(x), float(y), float(z)) for x, y, z in by),
    )
