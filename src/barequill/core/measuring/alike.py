"""How many features of a body are as the one that a dimension is about."""

from __future__ import annotations

from ..drawing import Dimension
from ..features.faces import faces_beside, halves_of
from ..features.rings import facing_in
from ..part.model import Part


def alike(part: Part, dimension: Dimension) -> int:
    """For a diameter or radius the cylinders of its body with the same radius and parallel axes, to the same side; otherwise
    1."""
    if dimension.measure not in ("diameter", "radius"):
        return 1
    rows = [r for r in faces_beside(part, dimension.anchors[0].ref) if part.faces[r].surface.kind == "cylinder"]
    if not rows:
        return 1
    own, inward = part.faces[rows[0]].surface, facing_in(part, rows[0])
    taken: set[int] = set()
    count = 0
    for k, face in enumerate(part.faces):
        s = face.surface
        if face.body != part.faces[rows[0]].body:
            continue
        if k in taken or s.kind != "cylinder" or abs(s.radius - own.radius) > 1e-6 * part.size:
            continue
        if abs(float(s.axes[2] @ own.axes[2])) < 1 - 1e-9 or facing_in(part, k) != inward:
            continue
        taken.update(halves_of(part, k))
        count += 1
    return max(count, 1)
