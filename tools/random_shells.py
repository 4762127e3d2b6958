"""Thin shells of free form made at random, with seams in the outline of the view from the front, or all but, judged by rays.

``python -m tools.random_shells 20`` makes so many turned and so many lofted ones, of two and of four patches around, with their seams turned
to the view by 0, 1e-9, 1e-6 and 1e-3, and prints the views with a share too low. A loft may pass through itself, and has no inside
then: such shells are counted and left out.
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
from barequill.core.projection import camera
from barequill.core.reading import shapes

from .awkward_parts import solid_of
from .made_parts import bodies, dome, spline_edge
from .truth import LEAST, TITLES, Samples, judge, sample

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


ASTRAY = 2e-4
"""The share of places on a solid, met by rays, at which one goes in where it should come out: more than sides of the mesh explain."""


def crosses_itself(samples: Samples) -> bool:
    """True where the skin of a solid passes through itself: along a ray one goes in and out in turn, and on one and the same face
    always the same way, whichever way that is."""
    rows = []
    for toward, up in LOOKS.values():
        view = camera(toward, up)
        placed_view = samples.placed_view(view)
        flat = placed_view.nodes @ np.array([view.right, view.up]).T
        low, high = flat.min(axis=0), flat.max(axis=0)
        grid = np.meshgrid(*(np.linspace(low[k], high[k], 301)[1:-1] + 1e-5 * k for k in (0, 1)), indexing="ij")
        points = np.stack(grid, axis=-1).reshape(-1, 2)
        depth, before, live = np.ones(len(points)), np.full(len(points), np.inf), np.arange(len(points))
        for layer in range(12):
            at, hit = placed_view.look(points[live], depth[live])
            live, at, hit = live[hit >= 0], at[hit >= 0], hit[hit >= 0]
            inward = np.sign(placed_view.normals[hit] @ view.toward) * (1 - 2 * (layer % 2))
            rows.append(np.stack([placed_view.face[hit], inward, before[live] - at], axis=1))
            before[live], depth[live] = at, at - 1e-6
    face, inward, gap = np.concatenate(rows).T
    wrong = sum(
        int(((inward != np.sign(inward[face == f].sum())) & (gap > 1e-3))[face == f].sum()) for f in np.unique(face)
    )
    return wrong > ASTRAY * len(face)


def shares_of(shell: Any) -> Iterator[tuple[str, dict[str, float]]]:
    """By view the shares that are too low; nothing of a shell that passes through itself."""
    solid = solid_of(shell)
    part, samples = bodies(solid), sample([solid])
    if crosses_itself(samples):
        return
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
    views = low = crossed = 0
    with multiprocessing.get_context("forkserver").Pool(maxtasksperchild=20) as pool:
        for job, found in pool.imap_unordered(_judged, jobs):
            crossed += not found
            for look, short in found:
                views, low = views + 1, low + bool(short)
                if short:
                    print(*job, look, short, flush=True)
    print(
        f"{len(jobs)} shells, {views} views, {low} with a share below {LEAST}; {crossed} shells pass through themselves"
    )
    return int(low > 0)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 20))
