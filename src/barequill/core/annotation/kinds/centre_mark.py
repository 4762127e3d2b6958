"""Centre marks: two lines across a circle, short ones where it is small."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...drawing import CentreMark
from ...geometry.vectors import cross
from ...ink import Sketch
from ...views.picture import Picture
from ..solving import Array, Solved, Stage, draw_line


@dataclass(frozen=True, eq=False)
class SolvedMark(Solved):
    """``arms`` (k, 2, 2) are its lines."""

    words: str
    stands_on: tuple[str, ...]
    arms: Array

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return not len(self.arms)

    def occupies(self) -> Array:
        return self.arms.reshape(-1, 2) if len(self.arms) else np.zeros((1, 2))

    def draw(self, sketch: Sketch) -> None:
        for p, q in self.arms:
            draw_line(sketch, p, q, "centre", self.stands_on[0])


def solve(mark: CentreMark, stage: Stage) -> SolvedMark:
    """Where a centre mark stands; without lines where its circle is gone."""
    picture, style = stage.view, stage.style
    part = picture.shot.part
    found = part.find(mark.ref)
    middle = radius = None
    if found is not None and found[0] == "face":
        middle, radius = part.faces[found[1]].surface.origin, part.faces[found[1]].surface.radius
    elif found is not None and found[0] == "edge" and part.edges[found[1]].curve.kind == "conic":
        middle, radius = part.edges[found[1]].curve.origin, part.edges[found[1]].curve.radius
    if middle is not None and not _face_on(picture, found):
        middle = None
    if middle is None or radius is None:
        return SolvedMark("loose centre mark", (mark.ref,), np.zeros((0, 2, 2)))
    centre = picture.seat(middle[None])[0]
    size = radius * picture.scale
    reach = size + (style.beyond if size > 4 else style.beyond_small)
    arms = [[centre - reach * d, centre + reach * d] for d in np.eye(2)]
    return SolvedMark("centre mark", (mark.ref,), np.array(arms))


def _face_on(picture: Picture, found: tuple[str, int] | None) -> bool:
    """True where a circle or cylinder is seen along its axis."""
    assert found is not None
    part, toward = picture.shot.part, picture.shot.view.toward
    if found[0] == "face":
        axis = part.faces[found[1]].surface.axes[2]
    else:
        curve = part.edges[found[1]].curve
        assert curve.x is not None and curve.y is not None
        axis = cross(curve.x, curve.y)
    return abs(float(axis @ toward)) > (1 - 1e-6) * float(np.linalg.norm(axis))
