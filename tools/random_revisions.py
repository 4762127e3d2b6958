"""Pairs of revisions at random, of which the maker knows where each entity went: parts of named features, each of whose
surfaces has a name, changed in one of the ways in which parts and their files are."""

from __future__ import annotations

import random
import sys
from collections import defaultdict
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from barequill.core import Part
from barequill.core.reading import shapes

from .made_parts import bodies
from .revisions import _solids

LONG, WIDE, HIGH = 144.0, 64.0, 14.0
KINDS = (
    "moved",
    "turned by 90",
    "turned by 180",
    "turned a little",
    "turned and a hole widened",
    "mirrored",
    "scaled",
    "swapped",
    "alike added",
    "alike taken away",
    "split",
    "merged",
)


@dataclass(frozen=True)
class Feature:
    """A round hole, a boss or a pocket: its middle, sizes across and, from the top, depth (of a boss: height)."""

    name: str
    kind: str
    x: float
    y: float
    across: float
    along: float
    deep: float

    def solid(self) -> Any:
        if self.kind == "boss":
            return shapes.cylinder((self.x, self.y, HIGH - 1), (0, 0, 1), self.across, self.deep + 1)
        if self.kind == "hole":
            return shapes.cylinder((self.x, self.y, HIGH - self.deep), (0, 0, 1), self.across, self.deep + 1)
        low = (self.x - self.along / 2, self.y - self.across / 2, HIGH - self.deep)
        return shapes.box(low, (self.along, self.across, self.deep + 1))

    def named(self, kind: str, at: np.ndarray, normal: np.ndarray, radius: float) -> str | None:
        """The name of a surface of its own, by kind, a place on it, its axis or outward normal, and radius."""
        off = at - (self.x, self.y, HIGH)
        if kind == "cylinder" and self.kind != "pocket":
            own = np.hypot(*off[:2]) < 1e-6 and abs(radius - self.across) < 1e-6
            return f"{self.name}/round" if own else None
        if kind != "plane":
            return None
        level = self.deep if self.kind == "boss" else -self.deep
        half = np.array([self.along, self.across]) / 2 if self.kind == "pocket" else np.full(2, self.across)
        through = self.kind == "hole" and self.deep >= HIGH
        if (
            not through
            and abs(abs(normal[2]) - 1) < 1e-6
            and abs(off[2] - level) < 1e-6
            and (np.abs(off[:2]) < half + 1e-6).all()
        ):
            return f"{self.name}/floor"
        if self.kind == "pocket" and (np.abs(off[:2]) < half + 1e-6).all() and off[2] < 1e-6:
            k = int(np.argmax(np.abs(normal)))
            if k < 2 and abs(abs(off[k]) - half[k]) < 1e-6:
                return f"{self.name}/side {k} {off[k] > 0}"
        return None


@dataclass(frozen=True)
class Recipe:
    """A plate with a rib on one end, and its features; ``length``, where its own is asked."""

    features: tuple[Feature, ...]
    rib: bool = True

    def solid(self) -> Any:
        base = shapes.box((0, 0, 0), (LONG, WIDE, HIGH))
        if self.rib:
            base = shapes.fuse(base, shapes.box((0, 0, 0), (9, WIDE - 20, HIGH + 17)))
        for f in self.features:
            base = shapes.fuse(base, f.solid()) if f.kind == "boss" else shapes.cut(base, f.solid())
        return base

    def names(self, part: Part, turn: np.ndarray, by: np.ndarray, scale: float) -> dict[str, list[str]]:
        """References of faces and edges by their names; ``turn``, ``by``, ``scale``: how the part stands in its file."""
        own = []
        for f in part.faces:
            at = ((f.centre - by) @ turn) / scale
            axis = f.surface.axes[2] @ turn
            foot = ((f.surface.origin - by) @ turn) / scale if f.surface.kind == "cylinder" else at
            radius = f.surface.radius / scale
            name = next((n for g in self.features if (n := g.named(f.surface.kind, foot, axis, radius))), None)
            if name is None:
                k = int(np.argmax(np.abs(axis)))
                name = f"base {k} {round(float(at[k]), 3) + 0.0:.3f}"
            own.append(name)
        found: dict[str, list[str]] = defaultdict(list)
        for f, name in zip(part.faces, own, strict=True):
            found[name].append(f.ref)
        edges: dict[str, list[tuple[tuple[float, ...], str]]] = defaultdict(list)
        for e in part.edges:
            if e.joint == "same":
                continue
            middle = ((e.curve.point((e.curve.t0 + e.curve.t1) / 2) - by) @ turn) / scale
            edges[" | ".join(sorted(own[k] for k in e.faces))].append((tuple(np.round(middle, 3).tolist()), e.ref))
        for name, several in edges.items():
            # several between the same faces are told apart by their order along the part
            for k, (_, ref) in enumerate(sorted(several)):
                found[f"{name} #{k} of {len(several)}"].append(ref)
        return found


def plate(dice: random.Random) -> Recipe:
    """A plate with features off each other, some alike, most in no order."""
    cells = [(x, y) for x in (26, 50, 74, 98, 122) for y in (18, 46)]
    dice.shuffle(cells)
    features = []
    alike = dice.choice([3.0, 3.5, 4.0])
    for k, (x, y) in enumerate(cells[: dice.randint(5, 9)]):
        x, y = x + dice.uniform(-2, 2), y + dice.uniform(-2, 2)
        what = "hole" if k < 3 else dice.choice(["hole", "boss", "pocket", "hole"])
        across = alike if k < 3 else dice.uniform(2.5, 7)
        deep = HIGH if k < 3 else dice.uniform(3, 9)
        if what == "pocket":
            features.append(Feature(f"f{k}", what, x, y, 1.6 * across, dice.uniform(5, 16), deep))
        else:
            features.append(Feature(f"f{k}", what, x, y, across, 0.0, deep))
    return Recipe(tuple(features))


@dataclass
class Pair:
    """Two revisions and, by reference of the old one, what each entity is in the new; ``none``: entities of the old one that
    are no one entity there."""

    kind: str
    old: Part
    new: Part
    true: dict[str, str]
    none: set[str]


def random_pair(kind: str, seed: int) -> Pair:
    """A plate and what becomes of it."""
    dice = random.Random(seed)
    one = plate(dice)
    two, turn, by, scale = one, np.eye(3), np.zeros(3), 1.0
    if kind == "moved":
        by = np.array([dice.choice([0, 10, dice.uniform(-80, 80)]) for _ in range(3)]) + [0, 0, 5.0]
    if kind.startswith("turned"):
        angle = {"turned by 180": 180.0, "turned a little": 0.3}.get(kind, 90.0)
        turn = _turn(dice.choice(np.eye(3).tolist()), np.radians(angle))
        by = np.array([dice.choice([0, dice.uniform(-50, 50)]) for _ in range(3)])
    if kind == "turned and a hole widened":
        two = _other(two, 1, across=two.features[1].across + 0.7)
    if kind == "mirrored":
        turn = np.diag([-1.0, 1.0, 1.0])
        by = np.array([dice.choice([0.0, LONG]), 0, 0])
    if kind == "scaled":
        scale = dice.choice([25.4, 1 / 25.4, 1.1, 2.0])
    if kind == "swapped":
        a, b = 1, len(one.features) - 1
        f, g = one.features[a], one.features[b]
        if dice.random() < 0.5:
            # both round and through, of two sizes: they look like two that were resized
            g = replace(f, name=g.name, x=g.x, y=g.y, across=f.across + 1.2)
            one = _with(one, b, g)
        two = _with(_with(one, a, replace(f, x=g.x, y=g.y)), b, replace(g, x=f.x, y=f.y))
    if kind == "alike added":
        f = one.features[0]
        two = Recipe((*one.features, replace(f, name="more", x=dice.uniform(20, 130), y=32.0)))
    if kind == "alike taken away":
        two = Recipe(one.features[1:])
    slot = Feature("slot", "pocket", dice.uniform(60, 90), WIDE / 2, WIDE + 10, 4.0, dice.uniform(2, 8))
    if kind == "split":
        two = Recipe((*one.features, slot))
    if kind == "merged":
        one = Recipe((*one.features, slot))
    old, new = bodies(*_solids(one.solid())), bodies(*_solids(_put(two.solid(), turn, by, scale)))
    a, b = one.names(old, np.eye(3), np.zeros(3), 1.0), two.names(new, turn, by, scale)
    true = {refs[0]: b[n][0] for n, refs in a.items() if len(refs) == 1 and len(b.get(n, [])) == 1}
    return Pair(kind, old, new, true, {ref for refs in a.values() for ref in refs} - set(true))


def _with(recipe: Recipe, k: int, feature: Feature) -> Recipe:
    features = list(recipe.features)
    features[k] = feature
    return replace(recipe, features=tuple(features))


def _other(recipe: Recipe, k: int, **figures: float) -> Recipe:
    return _with(recipe, k, replace(recipe.features[k], **figures))


def _turn(axis: list[float], angle: float) -> np.ndarray:
    k = np.cross(np.eye(3), axis) * -1
    return np.eye(3) + np.sin(angle) * k + (1 - np.cos(angle)) * (k @ k)


def _put(solid: Any, turn: np.ndarray, by: np.ndarray, scale: float) -> Any:
    """A solid of the kernel elsewhere: by its geometry, not by a place in its file."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf

    place, mirror, size = gp_Trsf(), gp_Trsf(), gp_Trsf()
    if np.linalg.det(turn) < 0:
        mirror.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
        turn = turn @ np.diag([-1.0, 1.0, 1.0])
    place.SetValues(*[x for row, d in zip(turn.tolist(), by.tolist(), strict=True) for x in (*row, d)])
    size.SetScale(gp_Pnt(0, 0, 0), scale)
    place.Multiply(mirror)
    place.Multiply(size)
    return BRepBuilderAPI_Transform(solid, place, True).Shape()


def main() -> None:
    """``python -m tools.random_revisions 200``: so many pairs, told by kind, and of what is loose, of how much its place is among
    the three that are named; exit code 1 where one is tied wrongly."""
    from barequill.core.part.likely import likely_places
    from barequill.core.part.matching import matching

    most, wrong = int(sys.argv[1]) if len(sys.argv) > 1 else 200, 0
    for k, kind in enumerate(KINDS):
        right = total = bad = loose = named = 0
        for seed in range(100, 100 + (most + len(KINDS) - 1 - k) // len(KINDS)):
            pair = random_pair(kind, seed)
            found = matching(pair.old, pair.new).found
            total += len(pair.true)
            right += sum(found[a].ref == b for a, b in pair.true.items() if a in found)
            bad += sum(found[a].ref != b for a, b in pair.true.items() if a in found) + len(pair.none & set(found))
            left = {a: b for a, b in pair.true.items() if a not in found}
            loose += len(left)
            named += sum(b in [p.ref for p in likely_places(pair.old, pair.new, a)] for a, b in left.items())
        print(f"{kind:28} {right} of {total} follow, {bad} tied wrongly; of {loose} loose {named} named", flush=True)
        wrong += bad
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
