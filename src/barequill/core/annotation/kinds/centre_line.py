"""Centre lines: one along an axis, a little beyond the features on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...drawing import CentreLine
from ...ink import Sketch
from ..seats import cylinder_reach
from ..solving import Array, Solved, Stage, draw_line


@dataclass(frozen=True, eq=False)
class SolvedAxis(Solved):
    """``ends`` (2, 2), or none where its features are gone."""

    words: str
    stands_on: tuple[str, ...]
    ends: Array

    @property
    def loose(self) -> bool:  # type: ignore[override]
        return not len(self.ends)

    def occupies(self) -> Array:
        return self.ends if len(self.ends) else np.zeros((1, 2))

    def draw(self, sketch: Sketch) -> None:
        if len(self.ends):
            draw_line(sketch, self.ends[0], self.ends[1], "centre", self.stands_on[0])


def solve(line: CentreLine, stage: Stage) -> SolvedAxis:
    """Where a centre line stands."""
    picture, refs = stage.view, tuple(line.refs)
    part = picture.shot.part
    rows = [f[1] for f in map(part.find, refs) if f is not None and f[0] == "face"]
    reaches = [
        picture.seat(cylinder_reach(picture.shot, r)[0])
        for r in rows
        if part.faces[r].surface.kind in ("cylinder", "cone")
    ]
    points = np.concatenate([np.zeros((0, 2)), *reaches])
    spans = np.linalg.norm(points - points[:1], axis=1) if len(points) else np.zeros(1)
    length = float(spans.max())
    if length < 1e-9:
        return SolvedAxis("loose centre line", refs, np.zeros((0, 2)))
    u = (points[int(spans.argmax())] - points[0]) / length
    along = (points - points[0]) @ u
    low, high = along.min() - stage.style.beyond, along.max() + stage.style.beyond
    return SolvedAxis("centre line", refs, points[0] + np.outer([low, high], u))
