"""Whether a part as a whole, or most of it, only stands elsewhere in another file: moved, turned, mirrored or scaled.

Motions are proposed by edges that are alike on both sides: each straight edge or arc, with the outward normals of its
faces, fixes one; a whole circle does with a second one off its axis. What many propose is judged by how many edges of
the one part stand, moved so, on edges of the other.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..geometry.vectors import cross
from .model import Array, Edge, Part

Ints = NDArray[np.int64]
NEAR = 1e-3
"""mm within which places and radii are the same."""
PAIRS = 30_000
"""Of so many pairs of edges motions are proposed, the rarest first."""
JUDGED = 80
"""Motions that are judged, the most proposed first."""
LEVEL = 1e-6
"""Sine of the angle within which directions are the same."""


@dataclass(frozen=True)
class Motion:
    """Where a point p (3,) of the old part stands in the new one: ``scale`` · ``turn`` (3, 3) · p + ``by`` (3,), mm."""

    turn: Array = field(default_factory=lambda: np.eye(3))
    by: Array = field(default_factory=lambda: np.zeros(3))
    scale: float = 1.0

    def places(self, points: Array) -> Array:
        """Points (..., 3), moved."""
        moved: Array = self.scale * (points @ self.turn.T) + self.by
        return moved

    @cached_property
    def mirrors(self) -> bool:
        return bool(np.linalg.det(self.turn) < 0)

    @cached_property
    def angle(self) -> float:
        """Degrees by which it turns, 0 to 180; of a mirroring, by which it turns after mirroring in the middle."""
        turn = -self.turn if self.mirrors else self.turn
        axis = np.array([turn[2, 1] - turn[1, 2], turn[0, 2] - turn[2, 0], turn[1, 0] - turn[0, 1]])
        return float(np.degrees(np.arctan2(np.linalg.norm(axis), np.trace(turn) - 1)))

    @property
    def reflects(self) -> bool:
        """Whether it mirrors in a plane, and does not turn besides."""
        return self.mirrors and self.angle > 180 - 1e-3

    @cached_property
    def axis(self) -> Array:
        """The direction (3,) about which it turns."""
        turn = -self.turn if self.mirrors else self.turn
        own, vectors = np.linalg.eigh((turn + turn.T) / 2)
        axis: Array = vectors[:, int(np.argmax(own))]
        return axis

    @property
    def stands(self) -> bool:
        """Whether all stays where it is."""
        return not self.turns and self.scale == 1.0 and bool(np.abs(self.by).max() <= NEAR)

    @property
    def turns(self) -> bool:
        """Whether directions change."""
        return bool(np.abs(self.turn - np.eye(3)).max() > LEVEL)

    def words(self) -> str:
        """What it does, to follow "was": ``turned by 90° about Z``."""
        if self.mirrors:
            return "mirrored"
        told = []
        if self.scale != 1.0:
            told.append(f"made {self.scale:.6g} times as large")
        if self.turns:
            named = [n for n, v in zip("XYZ", np.eye(3), strict=True) if abs(abs(self.axis @ v) - 1) < LEVEL]
            told.append(f"turned by {self.angle:.4g}°" + (f" about {named[0]}" if named else ""))
        if not told and np.abs(self.by).max() > NEAR:
            told.append("moved by " + ", ".join(f"{x:.6g}" for x in np.round(self.by, 4) + 0.0) + " mm")
        return " and ".join(told) or "left where it was"

    @property
    def plainness(self) -> tuple[bool, int, float]:
        """Which of several motions that explain as much is the likeliest, the least first: none is mirrored that need not
        be, one about an axis of the file before one about any, and the least turn before others."""
        named = not self.turns or bool((np.abs(np.abs(self.axis) - 1) < LEVEL).any())
        return self.mirrors, 0 if named else 1, round(self.angle, 3)


class Marks:
    """The edges of a part by what tells them: those that are drawn, and where they stand.

    ``rows`` (n,): their rows in the part; ``kind`` (n,): line, arc, whole circle or ellipse, free form; ``middle`` (n, 3):
    half way along, of whole ones the centre; ``ends`` (n, 2, 3); ``run`` (n, 3): chord, of whole ones the axis; ``figures``
    (n, 2): length of the chord and radius.
    """

    def __init__(self, part: Part, scale: float = 1.0) -> None:
        kept = [(k, e) for k, e in enumerate(part.edges) if e.joint != "same"]
        self.part, self.edges = part, [e for _, e in kept]
        self.rows: Ints = np.array([k for k, _ in kept], np.int64)
        n = len(kept)
        self.kind = np.zeros(n, np.int64)
        self.middle, self.run, self.figures = np.zeros((n, 3)), np.zeros((n, 3)), np.zeros((n, 2))
        self.ends = np.zeros((n, 2, 3))
        for k, e in enumerate(self.edges):
            c = e.curve
            ends = e.points[[0, -1]]
            if c.full_turn:
                assert c.origin is not None and c.x is not None and c.y is not None
                self.kind[k], self.middle[k], self.run[k] = 2, c.origin, cross(c.x, c.y)
                self.ends[k] = c.origin
                self.figures[k] = sorted((float(np.linalg.norm(c.x)), float(np.linalg.norm(c.y))))
                continue
            self.kind[k] = 0 if c.kind == "line" else 1 if c.kind == "conic" else 3
            self.middle[k], self.ends[k] = c.point((c.t0 + c.t1) / 2), ends
            self.run[k] = ends[1] - ends[0]
            self.figures[k] = float(np.linalg.norm(self.run[k])), c.radius if c.kind == "conic" else 0.0
        if scale != 1.0:
            self.middle, self.run, self.figures, self.ends = (
                scale * a for a in (self.middle, self.run, self.figures, self.ends)
            )

    @cached_property
    def tree(self) -> cKDTree:
        return cKDTree(self.middle) if len(self.middle) else cKDTree(np.zeros((0, 3)))

    @cached_property
    def classes(self) -> dict[tuple[int, ...], list[int]]:
        """Edges that look alike wherever they stand, by what they look like."""
        found: dict[tuple[int, ...], list[int]] = defaultdict(list)
        for k, e in enumerate(self.edges):
            figures = np.floor(self.figures[k] / NEAR + 0.318).astype(int).tolist()
            beside = sorted(
                ["plane", "cylinder", "cone", "sphere", "torus"].index(s.kind) if s.elementary else 9
                for s in (self.part.faces[f].surface for f in e.faces)
            )
            convex = int(np.mean(e.convex) > 0.5) if len(e.convex) else 0
            found[(int(self.kind[k]), *figures, convex, *beside)].append(k)
        return found


def explained(motion: Motion, one: Marks, two: Marks) -> Ints:
    """For each edge of the old part the one of the new on which it stands, moved, or -1 (n,), by their rows among the marks.

    The marks of the old part are scaled already.
    """
    found = np.full(len(one.rows), -1, np.int64)
    if not len(one.rows) or not len(two.rows):
        return found
    rigid = Motion(motion.turn, motion.by)
    middle, ends, run = rigid.places(one.middle), rigid.places(one.ends), one.run @ motion.turn.T
    near = max(NEAR, 1e-6 * two.part.size)
    reach = min(8, len(two.rows))
    gaps, rows = two.tree.query(middle, k=reach, distance_upper_bound=near)
    gaps, rows = gaps.reshape(len(middle), reach), rows.reshape(len(middle), reach)
    taken = np.zeros(len(two.rows), bool)
    for c in range(reach):
        own = np.flatnonzero((found < 0) & np.isfinite(gaps[:, c]))
        to = rows[own, c]
        good = (one.kind[own] == two.kind[to]) & (np.abs(one.figures[own] - two.figures[to]).max(axis=1) < near)
        straight = np.abs(ends[own] - two.ends[to]).max(axis=(1, 2))
        crossed = np.abs(ends[own] - two.ends[to][:, ::-1]).max(axis=(1, 2))
        whole = one.kind[own] == 2
        a, b = run[own], two.run[to]
        lengths = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
        level = np.linalg.norm(cross(a, b), axis=1) < 1e-5 * np.maximum(lengths, 1e-300)
        good &= np.where(whole, level, np.minimum(straight, crossed) < near)
        good &= ~taken[to]
        found[own[good]] = to[good]
        taken[to[good]] = True
    return found


@dataclass(frozen=True)
class Judged:
    """A motion, and what it explains: for each edge that is drawn of the old part one of the new or -1 (n,), and the share
    of them, of the part with fewer edges."""

    motion: Motion
    to: Ints
    share: float

    @property
    def count(self) -> int:
        return int((self.to >= 0).sum())


def judged_motions(old: Part, new: Part) -> list[Judged]:
    """The motions that explain most, the likeliest first; that which leaves all where it is is always among them."""
    scale, two = _scale(old, new), Marks(new)
    found = []
    for size in (1.0, scale) if scale != 1.0 else (1.0,):
        one = Marks(old, size)
        least = max(1, min(len(one.rows), len(two.rows)))
        motions = [Motion()] if size == 1.0 else []
        motions += [Motion(turn, by, size) for turn, by in _proposed(one, two)]
        for k, motion in enumerate(motions):
            to = explained(motion, one, two)
            if k or size != 1.0:
                motion = _settled(motion, one, two, to)
                to = explained(motion, one, two)
                if (to >= 0).sum() < 2:
                    continue
            found.append(Judged(motion, to, float((to >= 0).sum()) / least))
    found.sort(key=lambda j: (-j.count, not j.motion.stands, j.motion.plainness, float(np.abs(j.motion.by).sum())))
    kept: list[Judged] = []
    for judged in found:
        if judged.motion.stands or not any(_alike(judged.motion, k.motion, old) for k in kept):
            kept.append(judged)
    return kept


def _alike(a: Motion, b: Motion, part: Part) -> bool:
    corners = np.array([part.low, part.high, [part.low[0], part.high[1], part.low[2]], [*part.high[:2], part.low[2]]])
    return a.mirrors == b.mirrors and bool(
        np.abs(a.places(corners) - b.places(corners)).max() < max(3 * NEAR, 1e-5 * part.size)
    )


def _scale(old: Part, new: Part) -> float:
    """By how much the whole part is larger, where volume and surface agree on it; else 1."""
    if min(old.volume, new.volume, old.area, new.area) <= 0:
        return 1.0
    by_volume, by_area = (new.volume / old.volume) ** (1 / 3), (new.area / old.area) ** (1 / 2)
    if abs(by_volume - 1) < 1e-5 or abs(by_volume / by_area - 1) > 1e-5:
        return 1.0
    # a figure as people give it, or one by such a figure, where it is one
    plain, part = float(f"{by_volume:.6g}"), 1 / float(f"{1 / by_volume:.6g}")
    return min((plain, part, by_volume), key=lambda k: (abs(k / by_volume - 1) > 1e-8, len(f"{k:.12g}")))


def _settled(motion: Motion, one: Marks, two: Marks, to: Ints) -> Motion:
    """A motion as all the edges that it explains have it, by least squares."""
    own = np.flatnonzero(to >= 0)
    if len(own) < 3:
        return motion
    a, b = one.middle[own], two.middle[to[own]]
    middle_a, middle_b = a.mean(axis=0), b.mean(axis=0)
    u, s, v = np.linalg.svd((a - middle_a).T @ (b - middle_b))
    if s[1] < 1e-6 * max(s[0], 1e-300):
        return motion
    sign = np.diag([1.0, 1.0, np.sign(np.linalg.det(v.T @ u.T)) * (-1.0 if motion.mirrors else 1.0)])
    turn = v.T @ sign @ u.T
    plain = np.round(turn)
    if np.abs(turn - plain).max() < 1e-7:
        turn = plain
    return Motion(turn, middle_b - turn @ middle_a, motion.scale)


def _proposed(one: Marks, two: Marks) -> list[tuple[Array, Array]]:
    """Turns (3, 3) and moves (3,) that edges alike on both sides propose, those of most first."""
    size = max(one.part.size, two.part.size, 1e-9)
    votes: dict[tuple[int, ...], list[tuple[Array, Array]]] = defaultdict(list)
    middle = one.middle.mean(axis=0) if len(one.rows) else np.zeros(3)
    probes = middle + 0.5 * size * np.eye(3)
    turns, moves = [], []
    for turn, by in _proposals(one, two):
        turns.append(turn)
        moves.append(by)
    if not turns:
        return []
    t, m = np.concatenate(turns), np.concatenate(moves)
    # three probes (k, 9) tell a motion that does not mirror from others, and a sign tells one that does
    there = (np.einsum("kij,pj->kpi", t, probes) + m[:, None]).reshape(len(t), -1)
    keys = np.column_stack([np.floor(there / (0.004 * size) + 0.318), np.sign(np.linalg.det(t))]).astype(np.int64)
    for k, key in enumerate(map(tuple, keys.tolist())):
        votes[key].append((t[k], m[k]))
    most = sorted(votes.values(), key=lambda v: (-len(v), Motion(v[0][0], v[0][1]).plainness))[:JUDGED]
    return [v[0] for v in most]


def _proposals(one: Marks, two: Marks) -> Iterator[tuple[Array, Array]]:
    """Turns (k, 3, 3) and moves (k, 3) by pairs of edges that look alike."""
    shared = [(own, two.classes[look]) for look, own in one.classes.items() if look in two.classes]
    shared.sort(key=lambda pair: len(pair[0]) * len(pair[1]))
    left = PAIRS
    round_ones: list[tuple[list[int], list[int]]] = []
    for own, others in shared:
        if len(own) * len(others) > left:
            continue
        kind = one.kind[own[0]]
        if kind == 2:
            round_ones.append((own, others))
            continue
        left -= len(own) * len(others)
        a, b = _frames(one, own), _frames(two, others)
        if not len(a) or not len(b):
            continue
        # each frame of the new one with either sense of its run, and its mirror image
        for along in (1.0, -1.0):
            for across in (1.0, -1.0):
                turned = b[:, :3].copy()
                turned[:, 1] *= along
                turned[:, 2] *= along * across
                turns = np.einsum("bki,akj->baij", turned, a[:, :3])
                moves = b[:, None, 3] - np.einsum("baij,aj->bai", turns, a[:, 3])
                yield turns.reshape(-1, 3, 3), moves.reshape(-1, 3)
    yield from _by_circles(one, two, round_ones)
    # where all only was put elsewhere, whatever its edges are
    for own, others in shared[:40]:
        if len(own) * len(others) <= 400:
            moves = (two.middle[others][:, None] - one.middle[own][None]).reshape(-1, 3)
            yield np.repeat(np.eye(3)[None], len(moves), axis=0), moves


def _frames(marks: Marks, rows: list[int]) -> Array:
    """Of each edge, as far as it has one, its frame and place (n, 4, 3): between the outward normals of its faces, along it,
    across both, and its middle."""
    found = []
    for k in rows:
        e: Edge = marks.edges[k]
        half = int(np.argmin(np.abs(e.t - (e.t[0] + e.t[-1]) / 2)))
        between = e.normals[0, half] + e.normals[1, half]
        run = marks.run[k]
        if e.curve.kind != "line":
            run = e.curve.derivatives(np.array([(e.t[0] + e.t[-1]) / 2]))[1][0]
        along = run / max(float(np.linalg.norm(run)), 1e-300)
        x = between - (between @ along) * along
        if float(np.linalg.norm(x)) < 0.05 or not along.any():
            continue
        x /= np.linalg.norm(x)
        found.append([x, along, np.cross(x, along), marks.middle[k]])
    return np.array(found) if found else np.zeros((0, 4, 3))


def _by_circles(one: Marks, two: Marks, shared: list[tuple[list[int], list[int]]]) -> Iterator[tuple[Array, Array]]:
    """Motions by whole circles: two of them that are off each other's axis, or, where all have one axis, the least turn."""
    first = [(k, others) for own, others in shared for k in own[:6]][:6]
    second = [(k, others) for own, others in shared for k in own[:4]][:16]
    eye = np.eye(3)
    for a, to_a in first:
        for b, to_b in second:
            if b == a or (side := _off(one, a, b)) is None:
                continue
            axis, away, high, far = side
            for p in to_a[:8]:
                for q in to_b[:48]:
                    if q == p or (there := _off(two, p, q)) is None:
                        continue
                    if abs(there[3] - far) > NEAR or abs(abs(there[2]) - abs(high)) > NEAR:
                        continue
                    turns = []
                    for sense in (1.0, -1.0):
                        if abs(high) > NEAR and sense * high * there[2] < 0:
                            continue
                        for hand in (1.0, -1.0):
                            frame = np.stack([sense * there[0], there[1], hand * sense * np.cross(there[0], there[1])])
                            turns.append(frame.T @ np.stack([axis, away, np.cross(axis, away)]))
                    t = np.array(turns)
                    yield t, two.middle[p] - t @ one.middle[a]
    for a, to_a in first:
        for p in to_a[:24]:
            u, v = (m.run[k] / max(float(np.linalg.norm(m.run[k])), 1e-300) for m, k in ((one, a), (two, p)))
            for w in (v, -v):
                turn = _least_turn(u, w)
                for t in (turn, turn @ (eye - 2 * np.outer(u, u))):
                    yield t[None], (two.middle[p] - t @ one.middle[a])[None]


def _off(marks: Marks, a: int, b: int) -> tuple[Array, Array, float, float] | None:
    """The axis (3,) of a circle, the direction (3,) square to it in which another stands, how far along and how far off."""
    axis = marks.run[a] / max(float(np.linalg.norm(marks.run[a])), 1e-300)
    gap = marks.middle[b] - marks.middle[a]
    high = float(gap @ axis)
    away = gap - high * axis
    far = float(np.linalg.norm(away))
    return (axis, away / far, high, far) if far > 0.01 * marks.part.size else None


def _least_turn(u: Array, v: Array) -> Array:
    """The turn (3, 3) that takes one direction to another by the least angle."""
    c = float(u @ v)
    if c < -1 + 1e-12:
        square = np.eye(3)[int(np.argmin(np.abs(u)))]
        square = square - (square @ u) * u
        square /= np.linalg.norm(square)
        return 2 * np.outer(square, square) - np.eye(3)
    w = np.cross(u, v)
    k = np.array([[0, -w[2], w[1]], [w[2], 0, -w[0]], [-w[1], w[0], 0]])
    turn: Array = np.eye(3) + k + k @ k / (1 + c)
    return turn
