"""Drawings of parts for the tests, pointed at by places of the part (mm)."""

from __future__ import annotations

import numpy as np

from barequill.core.acts import ActContext as Tools
from barequill.core.acts import NewDrawing, new_drawing
from barequill.core.acts.planning import planned
from barequill.core.drawing import Dimension, Drawing, Sheet, apply
from barequill.core.measuring.inference import infer
from barequill.core.measuring.measuring import measure
from barequill.core.measuring.picking import Pick
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.placed_view import ProjectionCache

from .common import demo_file, part_of

TODAY = "2026-11-24"


def projections_of(part) -> ProjectionCache:
    return ProjectionCache(lambda key: part)


def drawing_of(projections: ProjectionCache, part, **wish) -> Drawing:
    return new_drawing(projections, NewDrawing(part=part.key, **wish))


def empty(size: str = "A3", landscape: bool = True, **named) -> Drawing:
    return Drawing(sheets=[Sheet(id="e1", size=size, landscape=landscape)], last_id=1, **named)


def id_of(drawing: Drawing, look: str) -> str:
    return next(v.id for v in drawing.front_sheet.views if v.look == look)


def places(drawing: Drawing) -> dict[str, tuple[float, float]]:
    return {v.look: v.place for v in drawing.front_sheet.views}


def done(projections: ProjectionCache, drawing: Drawing, act) -> Drawing:
    """The drawing after an act."""
    return apply(drawing, planned(act, drawing, Tools(projections)))


class DrawnPart:
    """A drawing of a part, or of the demo part of that name."""

    def __init__(self, stem, **wish) -> None:
        self.part = part_of(demo_file(stem)) if isinstance(stem, str) else stem
        self.projections = projections_of(self.part)
        self.drawing = drawing_of(self.projections, self.part, **{"size": "A3", "centres": False, **wish})

    @property
    def acts(self) -> Tools:
        """What acts work with."""
        return Tools(self.projections)

    @property
    def sheet(self) -> Sheet:
        return self.drawing.front_sheet

    def placed_view(self, look: str):
        return self.projections.placed_views(self.drawing, self.sheet)[id_of(self.drawing, look)]

    def context(self, look: str, drawing: Drawing | None = None):
        drawing = drawing or self.drawing
        return Tools(self.projections).context(drawing, drawing.front_sheet, id_of(drawing, look))[0]

    def ink(self, drawing: Drawing):
        return draw_sheet(drawing, drawing.front_sheet, self.projections)

    def pick(self, look: str, place, at: str = "") -> Pick:
        placed_view = self.placed_view(look)
        aim = placed_view.projected.flat(np.array([place], float))[0] + placed_view.projected.centre
        nearest = min(
            placed_view.projected.curves,
            key=lambda c: (round(float(np.linalg.norm(_nearest(c.curve.points(0.01), aim))), 6), not c.visible),
        )
        x, y = placed_view.transform.to_sheet((aim - placed_view.projected.centre)[None])[0]
        return Pick(nearest.source, x, y, at)

    def infer(self, look: str, picks, pointer, new_id: str = "d900", wish: str = "", drawing=None) -> Dimension:
        """What picks mean with the pointer at a place of the sheet."""
        x, y = self.placed_view(look).transform.place
        picks = [Pick(p.ref, p.x - x, p.y - y, p.at) for p in picks]
        return infer(self.context(look, drawing), picks, (pointer[0] - x, pointer[1] - y), new_id, wish)

    def pull(self, look: str, picks, pointer, wish: str = "") -> Dimension:
        """Pull to a pointer given in mm from the lower left of the view's box."""
        box = self.placed_view(look).box
        at = (box.x0 + pointer[0], box.y0 + pointer[1])
        return self.infer(look, [self.pick(look, *p) for p in picks], at, "d900", wish)

    def value(self, look: str, dimension: Dimension) -> float:
        return measure(self.placed_view(look).projected, dimension).value


def _nearest(points, aim):
    d = points[1:] - points[:-1]
    t = np.clip(((aim - points[:-1]) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-30), 0, 1)
    gaps = points[:-1] + t[:, None] * d - aim
    return gaps[np.argmin(np.linalg.norm(gaps, axis=1))]
