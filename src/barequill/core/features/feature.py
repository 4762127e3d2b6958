"""A feature of a part as plain data: what it is, its faces, where it stands and its figures."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..geometry.vectors import cross
from ..part.model import Array, Part
from ..values import value

Kind = Literal[
    "hole",
    "slot",
    "keyway",
    "channel",
    "boss",
    "step",
    "groove",
    "recess",
    "chamfer",
    "fillet",
    "round",
    "rib",
    "thread",
    "bend",
]


@value
class Feature:
    """A feature by its ``faces`` (rows). ``place`` is a point of it, ``axis`` a unit direction (of a round one its axis, of
    a flat one the direction square to its floor or sides); ``figures`` are lengths (mm) and angles (degrees) by name."""

    kind: Kind
    faces: tuple[int, ...]
    place: Array
    axis: Array
    figures: tuple[tuple[str, float], ...]
    more: tuple[str, ...] = ()
    """What else is to be said of it: ``through``, ``counterbored``…"""

    def figure(self, name: str) -> float:
        """The figure of that name; KeyError where it has none."""
        return dict(self.figures)[name]

    def alike(self) -> tuple[object, ...]:
        """The same for features that are made alike."""
        return (self.kind, self.more, *((n, round(v, 3)) for n, v in self.figures))


def middle_of(part: Part, row: int) -> Array:
    """The point on a face near the middle of the box about it: the middle of one of its triangles."""
    nodes = part.mesh.nodes[part.faces[row].nodes]
    corners = part.mesh.nodes[part.mesh.triangles[part.faces[row].triangles]]
    middle = (nodes.min(axis=0) + nodes.max(axis=0)) / 2
    places = corners.mean(axis=1)
    wide = np.linalg.norm(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    off = np.linalg.norm(places - middle, axis=1)
    # slivers at the rim give way to what lies well within
    off = np.where(wide < 0.05 * wide.max(), off + float(np.linalg.norm(np.ptp(nodes, axis=0))), off)
    found: Array = places[int(np.argmin(off))]
    return found
