"""Parts moved and mirrored: all that they hold keeps its name."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

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
