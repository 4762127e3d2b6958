"""How features that are alike stand to each other: on a pitch circle, in a row, in a grid."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..geometry.circles import circle_through, gaps_about
from ..geometry.recognition import frame_about
from ..part.model import Array, Part
from ..values import value
from .feature import Feature
from .holes import Hole, like
from .rings import NEAR


@value
class Pattern:
    """Features that are alike, by row of the list they come from: on a ``circle`` (its diameter; ``even`` where they divide
    it evenly), in a ``row`` (its pitch), in a ``grid`` (both pitches and counts), or ``free``."""

    kind: Literal["circle", "row", "grid", "free"]
    members: tuple[int, ...]
    diameter: float = 0.0
    even: bool = False
    pitches: tuple[float, ...] = ()
    counts: tuple[int, ...] = ()


@value
class Ring:
    """Holes that are alike on a circle of a ``diameter`` (mm): how many, and whether they divide it evenly."""

    count: int
    diameter: float
    even: bool


def ring_of(part: Part, hole: Hole) -> Ring | None:
    """The circle on which a hole lies with others that are made alike, three or more of them; None where
    there is none."""
    alike = like(part, hole)
    frame = frame_about(hole.out)[:2]
    features = np.array([frame @ h.mouth for h in alike])
    own = frame @ hole.mouth
    near = NEAR * part.size
    found = circle_through(features) if len(alike) > 2 else None
    middles = [] if found is None else [found[0]]
    axes = [s for face in part.faces if (s := face.surface).kind in ("cylinder", "cone")]
    middles += [frame @ s.origin for s in axes if abs(float(s.axes[2] @ hole.out)) > 1 - 1e-9]
    best: Ring | None = None
    for middle in middles:
        reach = np.linalg.norm(features - middle, axis=1)
        radius = float(np.linalg.norm(own - middle))
        on = features[np.abs(reach - radius) < 10 * near] - middle
        if radius < 10 * near or len(on) < 3 or (best is not None and len(on) <= best.count):
            continue
        best = Ring(len(on), 2 * radius, bool(np.ptp(gaps_about(on)) < 1e-4))
    return best


def patterns_of(part: Part, features: list[Feature]) -> list[Pattern]:
    """The patterns of round features and slots among some, of two members and more."""
    groups: dict[tuple[object, ...], list[int]] = {}
    for k, f in enumerate(features):
        if f.kind not in ("hole", "boss", "slot"):
            continue
        axis = f.axis if f.kind == "hole" and "through" not in f.more else _upright(f.axis)
        body = part.faces[f.faces[0]].body
        groups.setdefault((body, f.alike(), *(np.round(axis, 6) + 0.0)), []).append(k)
    axes = [s for face in part.faces if (s := face.surface).kind in ("cylinder", "cone")]
    found = []
    for members in groups.values():
        if len(members) < 2:
            continue
        axis = features[members[0]].axis
        frame = frame_about(np.array(axis))[:2]
        places = np.array([features[k].place for k in members]) @ frame.T
        centres = [frame @ s.origin for s in axes if abs(float(s.axes[2] @ axis)) > 1 - 1e-9]
        found.append(_pattern(tuple(members), places, centres, NEAR * part.size))
    return found


def _upright(axis: Array) -> Array:
    """A direction with its greatest component counted up."""
    found: Array = axis * np.sign(axis[int(np.argmax(np.abs(axis)))])
    return found


def _pattern(members: tuple[int, ...], places: Array, centres: list[Array], near: float) -> Pattern:
    count = len(places)
    middle = places.mean(axis=0)
    gaps = np.linalg.norm(places[:, None] - places[None], axis=2)
    if (gaps[np.triu_indices(count, 1)] < near * 10).any():
        # one behind the other about one axis
        return Pattern("free", members)
    ring = _circle(places, [middle, *centres], near) if count > 2 else _circle(places, centres, near)
    carried = ring is not None and any(np.linalg.norm(ring[0] - c) < 10 * near for c in centres)
    lattice = _grid(places, near)
    even = ring is not None and ring[1] and (carried or count > 4)
    if ring is not None and (even or (carried and lattice is None)) and not (lattice and lattice.kind == "row"):
        return Pattern("circle", members, diameter=2 * ring[2], even=ring[1])
    if lattice is not None:
        return Pattern(lattice.kind, members, pitches=lattice.pitches, counts=lattice.counts)
    if ring is not None and count > 2:
        return Pattern("circle", members, diameter=2 * ring[2], even=ring[1])
    return Pattern("free", members)


def _circle(places: Array, centres: list[Array], near: float) -> tuple[Array, bool, float] | None:
    """Centre, whether evenly divided, and radius of a circle through all places."""
    for centre in centres:
        off = places - centre
        radii = np.linalg.norm(off, axis=1)
        if radii.min() < 10 * near or np.ptp(radii) > 10 * near:
            continue
        return centre, bool(np.ptp(gaps_about(off)) < 1e-5), float(radii.mean())
    return None


def _grid(places: Array, near: float) -> Pattern | None:
    """A row of even pitch, or a full grid of two pitches."""
    count = len(places)
    far = np.linalg.norm(places - places[0], axis=1)
    for k in np.argsort(far)[1:]:
        x = (places[k] - places[0]) / far[k]
        along = np.stack([places @ x, places @ np.array([-x[1], x[0]])], axis=1)
        levels = [_levels(along[:, i], near * 10) for i in (0, 1)]
        if any(v is None for v in levels):
            continue
        (n, p), (m, q) = (v for v in levels if v is not None)
        if n * m == count:
            kind: Literal["row", "grid"] = "row" if m == 1 or n == 1 else "grid"
            sides = [(c, pitch) for c, pitch in ((n, p), (m, q)) if c > 1]
            return Pattern(kind, (), pitches=tuple(s[1] for s in sides), counts=tuple(s[0] for s in sides))
    return None


def _levels(values: Array, near: float) -> tuple[int, float] | None:
    """How many levels values lie on, and their even pitch; None where it is not even."""
    ordered = np.sort(values)
    levels = ordered[np.concatenate([[True], np.diff(ordered) > near])]
    if len(levels) == 1:
        return 1, 0.0
    steps = np.diff(levels)
    return (len(levels), float(steps.mean())) if np.ptp(steps) < near else None
