"""Plates of figures drawn by chance, on a sheet: known sizes of every kind."""

from __future__ import annotations

import math
import random

import pytest

from barequill.core.acts.pull_dimension import PickJson
from barequill.core.drawing import Anchor, Dimension
from barequill.core.drawing.operations import Annotate, apply
from barequill.core.measuring.measuring import measure
from barequill.core.reading import shapes

from .made_parts import bodies
from .sheets import DrawnPart, drawing_of, id_of, projections_of


class Plate(DrawnPart):
    """A drawing of a plate of some figures: one corner rounded, one chamfered, two holes, a wedge and a frustum on it."""

    def __init__(self, seed: int, **wish) -> None:
        dice = random.Random(seed)
        self.long, self.wide, self.high = (round(dice.uniform(a, b), 2) for a, b in ((80, 140), (50, 70), (10, 20)))
        self.corner, self.chamfer = round(dice.uniform(6, 12), 2), round(dice.uniform(4, 9), 2)
        self.hole, self.other = round(dice.uniform(4, 7), 2), round(dice.uniform(2, 4), 2)
        self.at = (round(dice.uniform(20, 30), 2), round(dice.uniform(20, 30), 2))
        self.over = (round(dice.uniform(50, 60), 2), round(dice.uniform(30, 36), 2))
        self.rise, self.run = round(dice.uniform(4, 9), 2), round(dice.uniform(14, 18), 2)
        L, W, H = self.long, self.wide, self.high
        solid = shapes.rounded(shapes.box((0, 0, 0), (L, W, H)), self.corner, [(0, 0, H / 2)])
        solid = shapes.chamfered(solid, self.chamfer, [(L, 0, H / 2)])
        for (x, y), r in ((self.at, self.hole), (self.over, self.other)):
            solid = shapes.cut(solid, shapes.cylinder((x, y, -1), (0, 0, 1), r, H + 2))
        wedge = shapes.prism([(L, W, H), (L - self.run, W, H), (L, W, H + self.rise)], (0, -8, 0))
        frustum = shapes.cone((12, W - 12, H), (0, 0, 1), 8, 8 - self.rise / 5, self.rise)
        self.part = bodies(shapes.fuse(solid, wedge, frustum))
        self.projections = projections_of(self.part)
        self.drawing = drawing_of(
            self.projections, self.part, size="A1", centres=False, views=["front", "top"], scale=1.0, **wish
        )

    def edge(self, *place: float, kind: str = "line") -> str:
        """The edge whose middle is nearest to a place."""
        edges = [e for e in self.part.edges if (e.curve.is_circle if kind == "round" else e.curve.kind == kind)]
        return min(edges, key=lambda e: math.dist(e.curve.point((e.curve.t0 + e.curve.t1) / 2), place)).ref

    def circle(self, x: float, y: float) -> str:
        """The circle on top about a place."""
        rounds = [e for e in self.part.edges if e.curve.is_circle and e.curve.full_turn]
        return min(rounds, key=lambda e: math.dist(e.curve.origin, (x, y, self.high))).ref

    def size(self, look: str, kind: str, *anchors: Anchor, **more) -> float:
        given = {"id": "d1", "on": id_of(self.drawing, look), "measure": kind, "anchors": list(anchors), **more}
        self.made = Dimension.model_validate(given)
        return measure(self.placed_view(look).projected, self.made).value

    def says(self, look: str) -> str:
        """What the last size says on the sheet."""
        stated = apply(self.drawing, Annotate(sheet=self.sheet.id, annotations=[self.made]))
        (element,) = [e for e in self.ink(stated).elements if e.id == "d1"]
        return element.words


@pytest.fixture(scope="module")
def plate() -> Plate:
    return Plate(3)


def on(ref: str, at: str = "line", **more) -> Anchor:
    return Anchor.model_validate({"ref": ref, "at": at, **more})


def picks(p: Plate, *refs: tuple[str, str]) -> list[PickJson]:
    return [PickJson(ref=r, at=a, x=0.0, y=0.0) for r, a in refs]


def of(*solids, views=("front", "top")) -> Plate:
    p = Plate.__new__(Plate)
    p.part = bodies(*solids)
    p.projections = projections_of(p.part)
    p.drawing = drawing_of(p.projections, p.part, size="A2", centres=False, views=list(views), scale=1.0)
    return p
