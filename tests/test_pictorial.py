"""Sizes in pictorial views say what is so on the part: judged in space, by points of its edges alone."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace

import numpy as np
import pytest

from barequill.core.acts import NewDrawing, PickJson, PullDimension, new_drawing
from barequill.core.acts.base import ActContext
from barequill.core.drawing import apply
from barequill.core.errors import UserError
from barequill.core.kinds import solve
from barequill.core.kinds.common.linear import SolvedLinear
from barequill.core.measuring.measuring import measure
from barequill.core.reading import shapes
from barequill.core.sheet.elements import context_of
from barequill.core.views.placed_view import ProjectionCache
from tools.common import at_length, demo_file, part_of
from tools.made_parts import bodies
from tools.sheets import id_of

DEMO = (
    "angled-keeper",
    "catch-box",
    "long-pinion-spindle",
    "pawl",
    "round-gear-cover",
    "small-pedestal-assembly",
    "spindle-pedestal",
)


class Pictorial:
    """A part on a sheet, in a pictorial view."""

    def __init__(self, part, face: str = "-Y") -> None:
        self.part = replace(part, key="0" * 32)
        self.projections = ProjectionCache(lambda key: self.part)
        wish = NewDrawing(part=self.part.key, views=["front", "iso"], face=face, size="A2", scale=1.0)
        self.drawing = new_drawing(self.projections, wish)
        self.view = id_of(self.drawing, "corner")

    @property
    def placed_view(self):
        return self.projections.placed_views(self.drawing, self.drawing.front_sheet)[self.view]

    def pulled(self, picks, off=(60.0, 30.0), wish=""):
        """A dimension, its value, and where it stands."""
        x, y = self.placed_view.transform.place
        own = [PickJson(ref=r, at=at, x=x, y=y) for r, at in picks]
        act = PullDimension(view=self.view, picks=own, pointer=(x + off[0], y + off[1]), wish=wish)
        after = apply(self.drawing, act.plan(self.drawing, ActContext(self.projections)))
        made = after.front_sheet.annotations[-1]
        placed_views = self.projections.placed_views(after, after.front_sheet)
        solved = solve(made, context_of(after, after.front_sheet, placed_views, self.view))
        return made, measure(self.placed_view.projected, made), solved


def ends_of(edge) -> np.ndarray:
    return edge.points[[0, -1]]


def said_truly(shown: Pictorial, made, value: float) -> bool:
    """Whether a size is so on the part: every distance or angle in space that its ends could mean, by nothing but points."""
    edges = {e.ref: e for e in shown.part.edges}
    own = []
    for a in made.anchors:
        e = edges[a.ref]
        if a.at in ("start", "end"):
            own.append(e.points[0 if a.at == "start" else -1])
        elif a.at == "centre":
            # by three points of the circle
            p, q, r = (e.points[k] for k in (0, len(e.points) // 3, 2 * len(e.points) // 3))
            u, v = q - p, r - p
            n = np.cross(u, v)
            own.append(p + (np.cross(n, u) * (v @ v) + np.cross(v, n) * (u @ u)) / (2 * n @ n))
        else:
            own.append(ends_of(e))
    if made.measure in ("diameter", "radius"):
        e = edges[made.anchors[0].ref]
        across = np.linalg.norm(e.points[:, None] - e.points[None], axis=2).max()
        return abs(value - across * (1.0 if made.measure == "diameter" else 0.5)) < 1e-3 * across
    if len(own) == 1:
        own = list(own[0])
    lines = [p for p in own if p.ndim == 2]
    if made.measure == "angle":
        u, v = (p[1] - p[0] for p in lines)
        one = np.degrees(np.arccos(np.clip(u @ v / np.linalg.norm(u) / np.linalg.norm(v), -1, 1)))
        return min(abs(value - one), abs(value - (180 - one))) < 1e-5
    if lines:
        line = lines[0]
        other = own[1] if own[0] is line else own[0]
        point = other if other.ndim == 1 else other[0]
        u = (line[1] - line[0]) / np.linalg.norm(line[1] - line[0])
        gap = point - line[0]
        true = [np.linalg.norm(gap - (gap @ u) * u)]
    else:
        gap = own[1] - own[0]
        way = {"aligned": gap / np.linalg.norm(gap), "horizontal": np.eye(3)[0], "inward": np.eye(3)[1]}
        true = [abs(gap @ way.get(made.direction, np.eye(3)[2]))]
    return min(abs(value - t) for t in true) < 1e-6 * max(1.0, value)


def parts():
    yield from (part_of(demo_file(name)) for name in DEMO)
    dice = random.Random(7)
    for _ in range(at_length(10, 33)):
        size = [dice.choice([20, 30, 40, dice.uniform(15, 60)]) for _ in range(3)]
        solid = shapes.box((0, 0, 0), tuple(size))
        hole = shapes.cylinder((size[0] / 2, size[1] / 2, -1), (0, 0, 1), dice.uniform(2, 6), size[2] + 2)
        wedge = shapes.prism(
            [(0, 0, 0), (dice.uniform(5, 12), 0, 0), (0, dice.uniform(4, 11), 0), (0, 0, 0)], (0, 0, size[2])
        )
        yield bodies(shapes.cut(solid, hole, wedge))


def test_whatever_is_pulled_in_pictorial_views_is_so_on_the_part() -> None:
    told = refused = 0
    for k, part in enumerate(parts()):
        shown, dice = Pictorial(part), random.Random(k)
        straight = [e for e in part.edges if e.curve.kind == "line" and e.joint != "same"]
        full = [e for e in part.edges if e.curve.full_turn and e.curve.is_circle]
        places = [(e.ref, at) for e in straight for at in ("start", "end")] + [(e.ref, "centre") for e in full]
        picks = [[(e.ref, "")] for e in straight + full]
        picks += [[(a.ref, ""), (b.ref, "")] for a, b in itertools.combinations(straight, 2)]
        picks += [list(pair) for pair in itertools.combinations(places, 2)]
        picks += [[(e.ref, ""), place] for e in straight for place in places]
        for several in dice.sample(picks, min(60, len(picks))):
            off = (dice.uniform(-90, 90), dice.uniform(-90, 90))
            wish = dice.choice(["", "", "horizontal", "vertical", "inward", "aligned"])
            try:
                made, found, solved = shown.pulled(several, off, wish)
            except UserError:
                refused += 1
                continue
            told += 1
            assert said_truly(shown, made, found.value), (k, several, made, found.value)
            if isinstance(solved, SolvedLinear) and found.out is not None:
                # as long on the paper as such a length is there
                along = shown.placed_view.projected.view
                flat = np.linalg.norm(along.flat(np.eye(3)), axis=1)
                drawn = np.linalg.norm(solved.feet[1] - solved.feet[0]) / shown.placed_view.scale
                assert drawn <= found.value * 1.0000001
                if made.direction == "horizontal":
                    assert drawn == pytest.approx(found.value * flat[0], rel=1e-6)
    assert told > at_length(350, 900) and refused < told, (told, refused)


def test_right_angles_and_slants_of_a_block_read_what_they_are() -> None:
    """A block of 64 × 40 × 12 in an isometric view: 90° reads 120° or 60° on the paper, by choice alone."""
    shown = Pictorial(bodies(shapes.box((0, 0, 0), (64, 40, 12))))
    top = [e for e in shown.part.edges if (e.points[:, 2] > 11.9).all()]
    long = next(e for e in top if np.ptp(e.points[:, 0]) > 63 and e.points[0, 1] < 1)
    short = next(e for e in top if np.ptp(e.points[:, 1]) > 39 and e.points[0, 0] < 1)
    made, found, _ = shown.pulled([(long.ref, ""), (short.ref, "")])
    assert (made.measure, found.value) == ("angle", pytest.approx(90.0))
    _, on_paper, _ = shown.pulled([(long.ref, ""), (short.ref, "")], wish="angle on the paper")
    assert on_paper.value == pytest.approx(60.0) or on_paper.value == pytest.approx(120.0)
    for off in ((0, 90), (0, -90), (90, 0), (-90, 0)):
        assert shown.pulled([(long.ref, "")], off)[1].value == pytest.approx(64.0)
    upright = next(e for e in shown.part.edges if np.ptp(e.points[:, 2]) > 11 and e.points[0, :2].tolist() == [64, 40])
    for wish, why in (("angle to the level", "no level"), ("slope", "not told"), ("chamfer", "not told")):
        with pytest.raises(UserError, match=why):
            shown.pulled([(long.ref, "")], wish=wish)
    with pytest.raises(UserError, match="do not meet"):
        shown.pulled([(long.ref, ""), (upright.ref, "")])
    corner = [(long.ref, "start"), (upright.ref, "end")]
    ends = ends_of(long)[0], ends_of(upright)[1]
    for wish, k in (("horizontal", 0), ("inward", 1), ("vertical", 2)):
        gap = abs(float(ends[0][k] - ends[1][k]))
        if gap:
            assert shown.pulled(corner, wish=wish)[1].value == pytest.approx(gap)
