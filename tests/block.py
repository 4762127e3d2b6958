"""Tolerance frames, datums, textures and notes on a sheet: where they stand, how they are drawn, and how they are read back.

The part is a block of 100 × 60 × 20 with a bore Ø20 through its middle; figures of signs are those of ISO 7083 and ISO 1101.
"""

from __future__ import annotations

import numpy as np
import pytest

from barequill.core.acts.pull_dimension import PickJson, PullDimension
from barequill.core.display import Stroke
from barequill.core.drawing.operations import ChangeAnnotation, apply
from barequill.core.reading import shapes
from tools.made_parts import bodies
from tools.sheets import DrawnPart, drawing_of, id_of, projections_of

BORE = 20.0


class Block(DrawnPart):
    """A drawing of the block at full size, its bore's diameter stated in the top view."""

    def __init__(self) -> None:
        solid = shapes.cut(shapes.box((0, 0, 0), (100, 60, 20)), shapes.cylinder((50, 30, -1), (0, 0, 1), BORE / 2, 22))
        self.part = bodies(solid)
        self.projections = projections_of(self.part)
        self.drawing = drawing_of(
            self.projections, self.part, size="A3", scale=1.0, centres=False, views=["front", "top"]
        )
        self.front, self.top = id_of(self.drawing, "front"), id_of(self.drawing, "top")
        self.size = self.do(
            PullDimension(
                view=self.top, picks=[self.pick(self.top, (50, 40, 20))], pointer=self.at(self.top, (90, 80, 20))
            )
        )

    @property
    def drawn(self):
        """The sheet as it is drawn now."""
        return self.ink(self.drawing)

    def do(self, act) -> str:
        """Do an act; the id of what it made last."""
        self.drawing = apply(self.drawing, act.plan(self.drawing, self.acts))
        return self.sheet.annotations[-1].id if self.sheet.annotations else ""

    def at(self, view: str, place) -> tuple[float, float]:
        """Where a place of the part is on the sheet."""
        placed_view = self.projections.placed_views(self.drawing, self.sheet)[view]
        x, y = placed_view.on_sheet_each(np.array([place], float))[0]
        return float(x), float(y)

    def edge(self, *place) -> str:
        """The edge nearest to a place of the part."""

        def away(e) -> float:
            points = e.curve.points(np.linspace(e.curve.t0, e.curve.t1, 401))
            return float(np.linalg.norm(points - np.array(place), axis=1).min())

        return min(self.part.edges, key=away).ref

    def pick(self, view: str, place) -> PickJson:
        x, y = self.at(view, place)
        return PickJson(ref=self.edge(*place), x=x, y=y)

    def hang(self, act, view: str, place, by: tuple[float, float], **more) -> str:
        """Pull a sign out of the edge at a place, by so many mm on the sheet."""
        x, y = self.at(view, place)
        hung = {"view": view, "ref": self.edge(*place), "at": (x, y), "pointer": (x + by[0], y + by[1])}
        return self.do(act(**hung, **more))

    def marks(self, own: str):
        found = self.drawn.of(own)
        assert found is not None
        return found.on_sheet()

    def points(self, own: str, kind=Stroke) -> np.ndarray:
        """All corners of its strokes, or of what is filled."""
        return np.concatenate(
            [m.curve.points(0.01) if kind is Stroke else m.rings[0] for m in self.marks(own) if isinstance(m, kind)]
        )


@pytest.fixture
def block() -> Block:
    return Block()


class ChangeAnnotationOf:
    """A plain change as an act."""

    def __init__(self, own: str, changes: dict) -> None:
        self.operation = ChangeAnnotation(id=own, changes=changes)

    def plan(self, drawing, acting):
        return self.operation
