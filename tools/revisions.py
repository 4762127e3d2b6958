"""Pairs of revisions of a part, and which entity of the old one is which of the new by a second method: the kernel's own
history of what it did, or, of parts built anew with another figure, the map of places from one to the other."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from barequill.core import Part
from barequill.core.part.box import exact_boxes
from barequill.core.reading import shapes
from barequill.core.reading.topology import topology_of

from .made_parts import bodies

Rows = dict[tuple[str, int], tuple[str, int]]
BASES = ("plate", "bracket", "shaft", "cover", "catch", "ribbed")


@dataclass
class Pair:
    """Two revisions; ``true``: rows of entities (face, edge) of the old one that are in the new one, and where;
    ``same``: those of them that did not change at all."""

    name: str
    old: Part
    new: Part
    true: Rows
    same: set[tuple[str, int]]


def built(base: str, length: float = 90.0, hole: float = 20.0, radius: float = 5.0, pocket: bool = True) -> Any:
    """A part of some figures: its length, the place of one hole, that hole's radius, and whether it has a pocket."""
    if base == "shaft":
        steps = [(0, 0), (0, 12), (20, 12), (20, 18), (60, 18), (60, 10), (length, 10), (length, 0)]
        solid = shapes.turned(steps)
        tools = [shapes.cylinder((20 + hole, -30, 0), (0, 1, 0), radius, 60)]
        tools += [shapes.box((length - 8, -4, -20), (20, 8, 40))] if pocket else []
        return shapes.cut(solid, *tools)
    if base == "cover":
        solid = shapes.fuse(
            shapes.cylinder((0, 0, 0), (0, 0, 1), 60, 10), shapes.cylinder((0, 0, 10), (0, 0, 1), 35, length - 10)
        )
        tools = [shapes.cylinder((0, 0, -1), (0, 0, 1), 15, length + 2)]
        tools += [
            shapes.cylinder((28 + hole, 0, -1), (0, 0, 1), radius, 12),
            shapes.cylinder((-48, 3, -1), (0, 0, 1), 4, 12),
        ]
        tools += [shapes.box((-5, 20, -1), (10, 60, 5))] if pocket else []
        return shapes.cut(solid, *tools)
    wide, high = {"plate": (40, 12), "bracket": (50, 10), "catch": (36, 30), "ribbed": (44, 9)}[base]
    solid = shapes.box((0, 0, 0), (length, wide, high))
    if base == "bracket":
        solid = shapes.fuse(solid, shapes.box((0, 0, 0), (11, wide, 45)))
        solid = shapes.rounded(solid, 6, [(11, wide / 2, 10)])
    if base == "ribbed":
        solid = shapes.fuse(solid, shapes.box((4, 19, 9), (length - 14, 6, 13)))
    if base == "plate":
        solid = shapes.rounded(solid, 8, [(0, 0, 6), (0, wide, 6)])
    tools = [
        shapes.cylinder((20 + hole, 9, -1), (0, 0, 1), radius, 60),
        shapes.cylinder((length - 9, 27, -1), (0, 0, 1), 3, 60),
    ]
    tools += [shapes.box((22, 26, high - 4), (17, 8, 40))] if pocket and base != "ribbed" else []
    tools += [shapes.box((60, 34, high - 4), (12, 30, 20))] if pocket and base == "ribbed" else []
    return shapes.cut(solid, *tools)


def pairs(base: str) -> Iterator[Pair]:
    """A base part, changed in each of the ways in which parts are."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
    from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet

    whole = built(base)
    low, high = (np.array(x) for x in (bodies(whole).low, bodies(whole).high))
    middle, size = (low + high) / 2, high - low
    end = (float(low[0] - 15), float(low[1] - 15), float(low[2] - 15))

    # what is added stands at one end, off the middle, and reaches beyond the part, so that its size changes
    foot, axis = (float(high[0] - 6), float(middle[1] + 1), 4.5), (1, 0, 0)
    if base == "shaft":
        foot = (float(high[0] - 6), 1.0, 6.0)
    if base == "cover":
        foot, axis = (25.0, 1.0, float(high[2] - 6)), (0, 0, 1)
    boss = shapes.cylinder(foot, axis, 3.2, 30)
    yield _by_history(f"{base}: boss added", whole, BRepAlgoAPI_Fuse(whole, boss))
    drill = shapes.cylinder((float(high[0] - 25), float(middle[1] - 4), -50), (0, 0, 1), 2.2, 200)
    if base == "shaft":
        drill = shapes.cylinder((12, 1.5, -50), (0, 0, 1), 2.2, 200)
    if base == "cover":
        drill = shapes.cylinder((30, 37, -50), (0, 0, 1), 2.2, 200)
    yield _by_history(f"{base}: hole added", whole, BRepAlgoAPI_Cut(whole, drill))
    half = shapes.box(end, (float(15 + size[0] * 0.62), *(float(x) for x in size[1:] + 60)))
    if base == "cover":
        half = shapes.box(end, (*(float(x) for x in size[:2] + 60), float(15 + size[2] * 0.62)))
    yield _by_history(f"{base}: cut in half", whole, BRepAlgoAPI_Cut(whole, half))
    fillet = BRepFilletAPI_MakeFillet(whole)
    topology = topology_of(whole)
    fillet.Add(
        2.0, max((e for e, f in zip(topology.edges, topology.beside, strict=True) if len(f) == 2), key=_straight)
    )
    yield _by_history(f"{base}: fillet added", whole, fillet)

    def stretched(p: np.ndarray) -> np.ndarray:
        k = 2 if base == "cover" else 0
        q = p.copy()
        q[..., k] += np.where(q[..., k] > 76, 25.0, 0.0)
        return q

    yield _by_places(f"{base}: stretched", whole, built(base, length=115.0), stretched)

    at = {"shaft": (40.0, 0.0), "cover": (48.0, 0.0)}.get(base, (40.0, 9.0))
    across = 2 if base == "shaft" else 1

    def from_hole(q: np.ndarray) -> np.ndarray:
        """Places from the axis of the one hole, within the square about it; none of others."""
        off = np.stack([q[..., 0] - at[0], q[..., across] - at[1]], axis=-1)
        off[np.abs(off).max(axis=-1) > 5.001] = np.nan
        return off

    def shifted(p: np.ndarray) -> np.ndarray:
        q = p.copy()
        q[..., 0] += np.where(np.isnan(from_hole(q)[..., 0]), 0.0, 1.7)
        return q

    yield _by_places(f"{base}: hole moved", whole, built(base, hole=21.7), shifted)
    yield _by_places(f"{base}: pocket removed", whole, built(base, pocket=False), lambda p: p)

    def widened(p: np.ndarray) -> np.ndarray:
        q, off = p.copy(), np.nan_to_num(from_hole(p)) * 0.2
        q[..., 0] += off[..., 0]
        q[..., across] += off[..., 1]
        return q

    if base != "shaft":
        yield _by_places(f"{base}: hole widened", whole, built(base, radius=6.0), widened)


def _straight(edge: Any) -> float:
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.GeomAbs import GeomAbs_CurveType

    curve = BRepAdaptor_Curve(edge)
    # a line by its length; an edge of no straight part by how far round it goes, less than any line
    scale = (
        1.0 if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line and abs(curve.Line().Direction().Z()) < 0.5 else 0.01
    )
    return float(curve.LastParameter() - curve.FirstParameter()) * scale


def _entities(shape: Any) -> list[tuple[tuple[str, int], Any]]:
    """The kernel's faces and edges of a shape, with their rows in the part made of it."""
    from OCP.BRep import BRep_Tool

    topology = topology_of(shape)
    found: list[tuple[tuple[str, int], Any]] = [(("face", k), f) for k, f in enumerate(topology.faces)]
    edges = [
        e
        for e, owners in zip(topology.edges, topology.beside, strict=True)
        if owners and not BRep_Tool.Degenerated_s(e)
    ]
    return found + [(("edge", k), e) for k, e in enumerate(edges)]


def _by_history(name: str, whole: Any, work: Any) -> Pair:
    work.Build()
    (before,), (after,) = _solids(whole), _solids(work.Shape())
    old, new = bodies(before), bodies(after)
    rows = _entities(after)
    true = _in_place(_figures(old, lambda p: p), _figures(new, lambda p: p))
    for row, entity in _entities(before):
        into = [] if work.IsDeleted(entity) else list(work.Modified(entity))
        targets = [r for r, e in rows if r[0] == row[0] and any(e.IsSame(x) for x in into)]
        if len(targets) == 1:
            true[row] = targets[0]
    return Pair(name, old, new, true, {row for row, to in true.items() if _alike(old, row, new, to)})


def _solids(shape: Any) -> list[Any]:
    from OCP.TopAbs import TopAbs_ShapeEnum

    from .truth import _explore

    return list(_explore(shape, TopAbs_ShapeEnum.TopAbs_SOLID))


def _figures(part: Part, move: Callable[[np.ndarray], np.ndarray]) -> dict[tuple[str, int], np.ndarray]:
    """What tells each entity: the box about it and a few points along it, moved."""
    low, high = exact_boxes([e.curve for e in part.edges])
    found = {}
    for k, e in enumerate(part.edges):
        places = np.linspace(e.curve.t0, e.curve.t1, 2 if e.curve.kind == "line" else 5)[
            [0, -1, -1 if e.curve.kind == "line" else 2]
        ]
        points = move(e.curve.points(places if not e.curve.full_turn else places[:1]))
        points = (
            np.resize(points, (3, 3))
            if not e.curve.full_turn
            else np.repeat(move(np.array([low[k], high[k]])).mean(axis=0)[None], 3, axis=0)
        )
        box = move(np.array([low[k], high[k]]))
        found["edge", k] = np.concatenate(
            [[0.0 if e.curve.full_turn else 1.0], box.ravel(), np.sort(points, axis=0).ravel()]
        )
    for k, f in enumerate(part.faces):
        own = list(f.boundary)
        box = move(np.array([low[own].min(axis=0), high[own].max(axis=0)]))
        found["face", k] = np.concatenate([box.ravel(), [len(f.surface.kind), f.sense * f.surface.hand]])
    return found


def _alike(old: Part, a: tuple[str, int], new: Part, b: tuple[str, int]) -> bool:
    one, two = _figures(old, lambda p: p)[a], _figures(new, lambda p: p)[b]
    alike = bool(np.abs(one - two).max() < 1e-6)
    if a[0] == "face":
        alike = alike and abs(old.faces[a[1]].area - new.faces[b[1]].area) < 1e-6 * old.faces[a[1]].area
    return alike


def _in_place(moved: dict[tuple[str, int], np.ndarray], there: dict[tuple[str, int], np.ndarray]) -> Rows:
    """Entities that stand where others were moved to."""
    found: Rows = {}
    for row, figures in moved.items():
        near = [r for r, g in there.items() if r[0] == row[0] and np.abs(figures - g).max() < 1e-5]
        if len(near) == 1:
            found[row] = near[0]
    return found


def _by_places(name: str, one: Any, other: Any, move: Callable[[np.ndarray], np.ndarray]) -> Pair:
    old, new = bodies(one), bodies(other)
    true = _in_place(_figures(old, move), _figures(new, lambda p: p))
    return Pair(name, old, new, true, {row for row, to in true.items() if _alike(old, row, new, to)})
