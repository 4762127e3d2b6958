"""Thin shells of free form made at random, with seams in the outline of the view from the front, or all but, judged by rays.

``python -m tests.random_shells 20`` makes so many turned and so many lofted ones, of two and of four patches around, with their seams turned
to the view by 0, 1e-9, 1e-6 and 1e-3, and prints the views with a share too low.
"""

from __future__ import annotations

import math
import multiprocessing
import random
import sys
from collections.abc import Iterator
from typing import Any

import numpy as np

from barequill.core import project
from barequill.demo import shapes

from .awkward_parts import solid_of
from .made_parts import bodies, dome, spline_edge
from .truth import LEAST, TITLES, judge, sample

TURNS = (0.0, 1e-9, 1e-6, 1e-3)
LOOKS: dict[str, tuple[Any, Any]] = {
    "front": ((0, -1, 0), (0, 0, 1)),
    "top": ((0, 0, 1), (0, 1, 0)),
    "below": ((0, 0, -1), (0, 1, 0)),
    "iso": ((1, -1, 1), (0, 0, 1)),
    "tilted": ((0, -1, 0.2), (0, 0, 1)),
}


def turned(seed: int, turn: float, patches: int) -> Any:
    """A dome of 20 to 60 mm about z, 0.5 to 3 mm thick, of so many patches around."""
    dice = random.Random(seed)
    radius, height, thick = dice.uniform(20, 60), dice.uniform(10, 40), dice.uniform(0.5, 3)
    bulge = dice.uniform(0.8, 1.2)
    skins = [
        [
            ((radius - t) * math.cos(a) ** bulge, 0.0, (height - t) * math.sin(a) ** bulge)
            for a in np.linspace(0, math.pi / 2, 7)
        ]
        for t in (0.0, thick)
    ]
    for skin in skins:
        skin[-1] = 0.0, 0.0, skin[-1][2]
    return dome(skins[0], skins[1], turn, patches)


def lofted(seed: int, turn: float, patches: int) -> Any:
    """A leaning cap of oval sections, open below, 0.5 to 3 mm thick, of so many patches around that meet at small angles."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeWire
    from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
    from OCP.gp import gp_Pnt

    dice = random.Random(seed)
    radius, height, thick = dice.uniform(20, 60), dice.uniform(15, 40), dice.uniform(0.5, 3)
    oval, lean = dice.uniform(0.6, 1.4), dice.uniform(-8, 8)
    shares = [1, dice.uniform(0.9, 1.05), dice.uniform(0.7, 0.9), dice.uniform(0.4, 0.65), dice.uniform(0.08, 0.25)]

    def skin(t: float) -> Any:
        loft = BRepOffsetAPI_ThruSections(True, False, 1e-6)
        for level, share in zip((0, 0.3, 0.6, 0.85, 1), shares, strict=True):
            a, b = max(share * radius - t, 0.5), max(share * radius * oval - t, 0.5)
            z = level * (height - t) - (1.0 if t and level == 0 else 0.0)
            around = np.linspace(turn, turn + 2 * math.pi, 8 * patches + 1)
            points = [gp_Pnt(a * math.cos(x) + lean * level, b * math.sin(x), z) for x in around]
            points[-1] = points[0]
            wire = BRepBuilderAPI_MakeWire()
            for k in range(patches):
                wire.Add(spline_edge(points[8 * k : 8 * k + 9]))
            loft.AddWire(wire.Wire())
        loft.Build()
        return loft.Shape()

    return shapes.cut(skin(0.0), skin(thick))


def shares_of(shell: Any) -> Iterator[tuple[str, dict[str, float]]]:
    """By view the shares that are too low."""
    solid = solid_of(shell)
    part, samples = bodies(solid), sample([solid])
    for look, (toward, up) in LOOKS.items():
        shares = judge(samples, part, project(part, toward, up), toward, up).all()
        yield look, {t: round(s, 4) for t, s in zip(TITLES, shares, strict=True) if s < LEAST}


def _judged(job: tuple[str, int, float, int]) -> tuple[Any, list[tuple[str, dict[str, float]]]]:
    kind, *how = job
    return job, list(shares_of({"turned": turned, "lofted": lofted}[kind](*how)))


def main(count: int) -> int:
    """Judge so many of each kind; the exit code tells whether every share of every view holds."""
    every = range(1, count + 1)
    jobs = [(kind, s, t, n) for kind in ("turned", "lofted") for s in every for t in TURNS for n in (2, 4)]
    views = low = 0
    with multiprocessing.get_context("forkserver").Pool(maxtasksperchild=20) as pool:
        for job, found in pool.imap_unordered(_judged, jobs):
            for look, short in found:
                views, low = views + 1, low + bool(short)
                if short:
                    print(*job, look, short, flush=True)
    print(f"{len(jobs)} shells, {views} views, {low} with a share below {LEAST}")
    return int(low > 0)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 20))
