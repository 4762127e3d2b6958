"""Two revisions of a part: which entity of the old one is which of the new.

First it is looked whether the whole, or most of it, only stands elsewhere in the new file; what then coincides is the same.
From there on certainty spreads: a face that lies on the same surface, that was moved or resized between neighbours that are
known, an edge between two known faces, a corner where known faces meet. Every step takes only what is the one possibility in
both directions and what nothing near contradicts; where two motions explain much, only what is the same by both. All else is
left unmatched, to be told as loose.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.surfaces import Surface
from .model import Array, Edge, Face, Part
from .motions import NEAR, Judged, Motion, judged_motions
from .side import Side

How = Literal["unchanged", "same surface", "moved", "resized", "between the same faces", "where the same faces meet"]
Choice = Literal["moved", "stayed"]
MOST, FEW = 0.5, 0.5
"""A motion that explains MOST of the edges is taken where leaving all where it is explains less than FEW of what it does."""
WIDEST = 2.0
"""So many times as wide, or as narrow, a pattern may become that is still taken for the same."""
MARGIN = 0.1
"""Of motions whose shares are so near each other none is certain, unless one explains all."""


@dataclass(frozen=True)
class Match:
    """The reference in the new revision, and how it was found."""

    ref: str
    how: How


@dataclass(frozen=True)
class Matching:
    """What is certain of two revisions.

    ``found``: by references of the old one, what they are in the new. ``motion``: how the whole stands in the new file.
    ``sure``: False where another motion explains as much, so that only what is the same by both was taken, or where the
    whole is mirrored, so that nothing was; ``other``: that motion.
    """

    found: dict[str, Match]
    motion: Motion = field(default_factory=Motion)
    sure: bool = True
    other: Motion | None = None


def matched(old: Part, new: Part) -> dict[str, Match]:
    """The references of the old revision for which one in the new is certain."""
    return matching(old, new).found


def matching(old: Part, new: Part, choice: Choice | None = None) -> Matching:
    """What of the old revision is certainly what of the new one.

    Parameters
    ----------
    old, new : two prepared revisions of a part
    choice : where that is not certain, whether the whole was ``moved`` or ``stayed`` where it was in its file
    """
    return _matching(old, new, choice)


@lru_cache(maxsize=8)
def _matching(old: Part, new: Part, choice: Choice | None) -> Matching:
    motions = judged_motions(old, new)
    stays = next(j for j in motions if j.motion.stands)
    best = motions[0]
    if choice == "stayed" or best.motion.stands or best.count == stays.count:
        told: Judged | None = best if choice == "stayed" and not best.motion.stands else None
        return Matching(_by(old, new, stays), stays.motion, other=told.motion if told else None)
    if choice == "moved":
        return Matching(_by(old, new, best), best.motion, other=stays.motion)
    if best.motion.mirrors:
        proper = next(j for j in motions if not j.motion.mirrors)
        if proper.count < best.count:
            return Matching({}, stays.motion, False, best.motion)
        best = proper
    rivals = [
        j
        for j in motions
        if j is not best and not _same_map(j, best) and j.count < best.count and j.share > best.share - MARGIN
    ]
    whole = best.count == len(best.to) == sum(e.joint != "same" for e in new.edges)
    certain = best.share >= MOST and stays.count < FEW * best.count
    # a flat part turned over is also its mirror image
    images = [j for j in motions if j.motion.reflects and j.count == best.count and best.motion.angle > 180 - 1e-3]
    rivals = images + rivals
    if certain and not images and (whole or not rivals):
        return Matching(_by(old, new, best), best.motion)
    # only what is the same by all that explain much; where none turns, also what only one finds and none contradicts
    found = _by(old, new, best)
    for rival in [stays, *rivals[:3]]:
        found = _agreed(found, _by(old, new, rival), not best.motion.turns and not rival.motion.turns)
    return Matching(found, stays.motion, False, best.motion)


def _agreed(one: dict[str, Match], two: dict[str, Match], alone: bool) -> dict[str, Match]:
    """What both say; with ``alone`` also what one says and the other does not contradict."""
    both = {a: m for a, m in one.items() if a in two and two[a].ref == m.ref}
    if not alone:
        return both
    for own, other in ((one, two), (two, one)):
        taken = {m.ref for m in other.values()}
        both |= {a: m for a, m in own.items() if a not in other and m.ref not in taken}
    return both


def _same_map(a: Judged, b: Judged) -> bool:
    return bool((a.to == b.to).all())


def _by(old: Part, new: Part, judged: Judged) -> dict[str, Match]:
    """What is certain where the whole stands in the new file as a motion says."""
    motion = judged.motion
    there = old if motion.stands else _standing(old, motion)
    one, two = Side(there), Side(new)
    found = _coinciding(old, one, two, judged)
    for row, face in enumerate(old.faces):
        if face.ref in found:
            _join(one, two, row, new.index[found[face.ref].ref][1])
    ways: list[tuple[Callable[[Side, int], Hashable], How]] = [
        (Side.on_surface, "same surface"),
        (Side.resized, "resized"),
        (Side.moved, "moved"),
    ]
    grown = True
    while grown:
        grown = False
        told = [(how, pair) for tell, how in ways for pair in _only_ones(one, two, tell)]
        partners, of = defaultdict(set), defaultdict(set)
        for _, (a, b) in told:
            partners[a].add(b)
            of[b].add(a)
        looks = Counter(two.look(k) for k in two.free)
        for level in ("same surface", "resized", "moved"):
            for how, (a, b) in told:
                if how != level or a not in one.free or b not in two.free:
                    continue
                if len(partners[a]) > 1 or len(of[b]) > 1:
                    continue
                # what it looked like stands elsewhere, while this looks otherwise
                if one.look(a) != two.look(b) and looks[one.look(a)]:
                    continue
                if how == "moved" and not _really_moved(one, two, a, b):
                    continue
                _join(one, two, a, b)
                found[old.faces[a].ref] = Match(new.faces[b].ref, how)
                grown = True
            if grown:
                break
        if not grown:
            for a, b in _pattern_moved(one, two, old.size):
                _join(one, two, a, b)
                found[old.faces[a].ref] = Match(new.faces[b].ref, "moved")
                grown = True
    for tell_edge in (Side.edge_between, Side.edge_at):
        taken = {m.ref for m in found.values()}
        names = _unique(
            {e.ref: tell_edge(one, k) for k, e in enumerate(old.edges) if e.ref not in found},
            {e.ref: tell_edge(two, k) for k, e in enumerate(new.edges) if e.ref not in taken},
        )
        found |= {a: Match(b, "between the same faces") for a, b in names}
    taken = {m.ref for m in found.values()}
    corners = _unique(
        {r: one.corner(k) for k, r in enumerate(old.vertex_refs) if r not in found},
        {r: two.corner(k) for k, r in enumerate(new.vertex_refs) if r not in taken},
    )
    return found | {a: Match(b, "where the same faces meet") for a, b in corners}


def _pattern_moved(one: Side, two: Side, size: float) -> list[tuple[int, int]]:
    """Members of a pattern that was moved as a whole, or made wider or narrower: faces alike beside the same known faces, as many in
    both revisions, whose places differ by a step and a stretch along the part's axes that leaves them in their order. Of two, which any
    stretch fits, only those that went the same way, or kept their middle; beside members that are known already only those that went
    less than half way to the next."""
    of: dict[Hashable, tuple[list[int], list[int]]] = {}
    for k, side in enumerate((one, two)):
        for face in sorted(side.free):
            key = side.member(face)
            if key is not None:
                of.setdefault(key, ([], []))[k].append(face)
    known = {side.member(f) for side in (one, two) for f in side.name}
    for key, (rows, into) in of.items():
        if len(rows) < 2 or len(rows) != len(into):
            continue
        p, q = (np.array([side.middle(f) for f in own]) for side, own in ((one, rows), (two, into)))
        step = q.mean(axis=0) - p.mean(axis=0)
        a, b = p - p.mean(axis=0), q - q.mean(axis=0)
        stretch = np.array([_stretch(a[:, k], b[:, k], NEAR) for k in range(3)])
        if np.isnan(stretch).any() or (stretch > WIDEST).any() or (stretch < 1 / WIDEST).any():
            continue
        to = np.linalg.norm((a * stretch)[:, None] - b[None], axis=2)
        best = to.argmin(axis=1)
        if len(set(best.tolist())) < len(rows) or to.min(axis=1).max() > 1e-6 * size:
            continue
        if len(rows) == 2 and np.abs(stretch - 1).max() > 1e-9 and np.abs(step).max() > NEAR:
            continue
        far = np.linalg.norm(q[best] - p, axis=1).max()
        apart = np.linalg.norm(p[:, None] - p[None], axis=2) + np.where(np.eye(len(p)), np.inf, 0.0)
        if key in known and far >= apart.min() / 2:
            continue
        return [(rows[k], into[int(best[k])]) for k in range(len(rows))]
    return []


def _stretch(a: Array, b: Array, near: float) -> float:
    """By how much b (n,) are wider spread than a (n,), each about its mean; 1 where both are in one place, NaN where one is."""
    wide = [float(x.max() - x.min()) for x in (a, b)]
    if max(wide) < near:
        return 1.0
    return wide[1] / wide[0] if min(wide) > near else float("nan")


def _coinciding(old: Part, one: Side, two: Side, judged: Judged) -> dict[str, Match]:
    """What stands, moved as the one side has it, where the new part has the like of it: by its reference where nothing moves,
    else by place."""
    there, new = one.part, two.part
    if judged.motion.stands:
        return {ref: Match(ref, "unchanged") for ref in old.index if ref in new.index}
    found: dict[str, Match] = {}
    rows = [k for k, e in enumerate(old.edges) if e.joint != "same"]
    into = [k for k, e in enumerate(new.edges) if e.joint != "same"]
    edges = {rows[k]: into[int(to)] for k, to in enumerate(judged.to) if to >= 0}
    for a, b in edges.items():
        found[old.edges[a].ref] = Match(new.edges[b].ref, "unchanged")
    beside = {k: set(e.faces) for k, e in enumerate(new.edges)}
    taken: set[int] = set()
    for k, face in enumerate(there.faces):
        own = [e for e in face.boundary if old.edges[e].joint != "same"]
        if not own or any(e not in edges for e in own):
            continue
        meet = set.intersection(*(beside[edges[e]] for e in own))
        alike = [
            f
            for f in meet
            if f not in taken
            and sum(new.edges[e].joint != "same" for e in new.faces[f].boundary) == len(own)
            and one.on_surface(k) == two.on_surface(f)
            and new.faces[f].surface.kind == face.surface.kind
        ]
        if len(alike) == 1:
            found[face.ref] = Match(new.faces[alike[0]].ref, "unchanged")
            taken.add(alike[0])
    for k, ref in enumerate(old.vertex_refs):
        near, back = (np.flatnonzero(_close(places, there.vertices[k])) for places in (new.vertices, there.vertices))
        if len(near) == 1 and len(back) == 1:
            found[ref] = Match(new.vertex_refs[int(near[0])], "unchanged")
    return found


def _close(places: Array, to: Array) -> NDArray[np.bool_]:
    close: NDArray[np.bool_] = np.abs(places.reshape(-1, 3) - to).max(axis=1, initial=0.0) < NEAR
    return close


def _standing(part: Part, motion: Motion) -> Part:
    """A part as a motion has it, as far as matching looks at it: without its mesh."""
    turn, scale = motion.turn * motion.scale, motion.scale

    def surface(s: Surface) -> Surface:
        return Surface(
            s.kind,
            turn @ s.origin + motion.by,
            s.axes @ motion.turn.T,
            scale * s.radius,
            scale * s.minor_radius,
            s.half_angle,
        )

    def face(f: Face) -> Face:
        # a mirror image of right-handed axes is left-handed: its natural normal points to the other side
        return replace(
            f,
            surface=surface(f.surface),
            centre=motion.places(f.centre),
            reversed=f.reversed != motion.mirrors,
            area=f.area * scale**2,
        )

    def edge(e: Edge) -> Edge:
        return replace(
            e,
            curve=e.curve.moved(turn, motion.by),
            points=motion.places(e.points),
            normals=e.normals @ motion.turn.T,
        )

    return replace(
        part,
        faces=tuple(face(f) for f in part.faces),
        edges=tuple(edge(e) for e in part.edges),
        vertices=motion.places(part.vertices),
    )


def _unique(old: dict[str, Hashable], new: dict[str, Hashable]) -> list[tuple[str, str]]:
    """Pairs of names that alone on both sides are told in the same way (None tells nothing)."""
    sides = []
    for named in (old, new):
        by: dict[Hashable, list[str]] = defaultdict(list)
        for name, told in named.items():
            if told is not None:
                by[told].append(name)
        sides.append(by)
    return [(a[0], b[0]) for told, a in sides[0].items() if len(a) == 1 and len(b := sides[1].get(told, [])) == 1]


def _only_ones(one: Side, two: Side, tell: Callable[[Side, int], Hashable]) -> list[tuple[int, int]]:
    """Unmatched faces, by row, that alone on both sides are told in the same way."""
    old, new = ({str(k): tell(side, k) for k in side.free} for side in (one, two))
    return [(int(a), int(b)) for a, b in _unique(old, new)]


def _join(one: Side, two: Side, a: int, b: int) -> None:
    name = len(one.name)
    one.name[a], two.name[b] = name, name
    one.free.discard(a)
    two.free.discard(b)


def _really_moved(one: Side, two: Side, a: int, b: int) -> bool:
    """Whether a face that stands elsewhere, between the same neighbours, was moved there, and is not another.

    A plane that closes the part further in may be what a cut left: it was moved only where something else that is
    known of it went along. One further out cannot be.
    """
    f, g = one.part.faces[a], two.part.faces[b]
    if f.surface.kind != "plane":
        return True
    outward = f.sense * f.surface.hand * f.surface.axes[2]
    further = float((one.middle(a) - two.middle(b)) @ outward) < -NEAR
    if further and (abs(one.reach(a) - two.reach(b)) < NEAR or one.shape(a) == two.shape(b)):
        return True
    # loops within the face of the same shape went along with it
    return bool(one.holes(a)) and one.holes(a) == two.holes(b) and f.ref != g.ref
