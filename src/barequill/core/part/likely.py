"""Where in a revision an entity may be that is not certainly there: places in order of likelihood, each with what speaks for it.

Nothing is tied by it: matching takes what is certain, and a hand decides on these.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from .matching import matching
from .model import Array, Edge, Face, Part

PLACES = 3
"""How many places are named at most."""
LEAST = 2.5
"""What must speak for a place for it to be named."""
SAME = 1e-6
"""mm within which sizes and places are the same."""
NEARBY = 0.1
"""Of the diagonal of the part: a place that far away is a third as likely as one where it was."""


@dataclass(frozen=True)
class Likely:
    """A reference in the new revision; ``weight``: the sum of what speaks for it; ``words``: that in words; ``step`` (3,): how far it
    stands from where it was, mm; ``ratio``: how many times as large it is."""

    ref: str
    weight: float
    words: str
    step: tuple[float, float, float]
    ratio: float


@dataclass(frozen=True)
class _Look:
    """What can be said of an entity: its form, its middle (3,), the rows of the faces beside it, its direction (3,) if it has one (of
    a plane outward), its size (mm), and what that is called."""

    form: str
    middle: Array
    beside: frozenset[int]
    way: Array | None = None
    size: float = 0.0
    called: str = ""


@lru_cache(maxsize=500)
def likely_places(old: Part, new: Part, ref: str, most: int = PLACES) -> tuple[Likely, ...]:
    """The places of the new revision at which an entity of the old one may be, the likeliest first.

    Parameters
    ----------
    old, new : two prepared revisions of a part
    ref : a face, edge or corner of the old one
    most : how many are named
    """
    found = old.find(ref)
    if found is None:
        return ()
    kind, row = found
    matched, own = matching(old, new), _looks(old, kind)[row]
    motion, taken = matched.motion, {m.ref for m in matched.found.values()}
    beside = (matched.found.get(old.faces[f].ref) for f in own.beside)
    # as it would stand in the new file
    before = replace(
        own,
        middle=motion.places(own.middle),
        beside=frozenset(new.index[m.ref][1] for m in beside if m is not None and m.ref in new.index),
        way=None if own.way is None else motion.turn @ own.way,
        size=own.size * motion.scale,
    )
    diagonal = max(float(np.linalg.norm(new.high - new.low)), SAME)
    named = []
    for k in _of_form(new, kind).get(own.form, ()):
        now, name = _looks(new, kind)[k], _refs(new, kind)[k]
        weight, said = _weighed(before, now, diagonal)
        if name in taken:
            weight -= 1.5
            said.append("which something else has become")
        if weight >= LEAST:
            x, y, z = (float(v) for v in now.middle - before.middle)
            ratio = now.size / before.size if before.size > SAME else 1.0
            named.append(Likely(ref=name, weight=weight, words=", ".join(said), step=(x, y, z), ratio=ratio))
    return tuple(sorted(named, key=lambda p: (-p.weight, p.ref))[:most])


def _weighed(before: _Look, now: _Look, diagonal: float) -> tuple[float, list[str]]:
    """What speaks for one being the other, and that in words; ``diagonal``: of the part, mm."""
    weight, said = 0.0, []
    if abs(now.size - before.size) <= SAME:
        weight += 2.0
        said.append(f"{now.called}{_figure(now.size)}" if now.called else "as large")
    else:
        ratio = now.size / max(before.size, SAME)
        weight += 1.5 * min(ratio, 1 / max(ratio, SAME))
        if now.called:
            said.append(f"{before.called}{_figure(before.size)} → {now.called}{_figure(now.size)}")
    if before.way is not None and now.way is not None:
        along = float(before.way @ now.way)
        level = (along if now.form == "plane" else abs(along)) > 1 - SAME
        weight += 1.0 if level else -2.0
        if not level:
            said.append("turned")
    step = now.middle - before.middle
    far = float(np.linalg.norm(step))
    weight += 2.0 * float(np.exp(-far / (NEARBY * diagonal)))
    said.append("where it was" if far <= 1e-3 else f"moved {_along(step)}")
    if before.beside:
        share = len(before.beside & now.beside) / len(before.beside)
        weight += 2.0 * share
        if share == 1.0:
            said.append("same faces beside it")
    return weight, said


@lru_cache(maxsize=12)
def _looks(part: Part, kind: str) -> list[_Look]:
    """What can be said of all faces, edges or corners of a part, by row."""
    if kind == "face":
        return [_face_look(part, f) for f in part.faces]
    if kind == "edge":
        return [_edge_look(e) for e in part.edges]
    meeting: list[set[int]] = [set() for _ in part.vertices]
    for edge in part.edges:
        for v in edge.ends:
            if v >= 0:
                meeting[v] |= set(edge.faces)
    return [_Look("corner", p, frozenset(m)) for p, m in zip(part.vertices, meeting, strict=True)]


@lru_cache(maxsize=12)
def _of_form(part: Part, kind: str) -> dict[str, list[int]]:
    """By form the rows of what can be hung on; seams within a face are not."""
    found: dict[str, list[int]] = defaultdict(list)
    for k, look in enumerate(_looks(part, kind)):
        if kind != "edge" or part.edges[k].joint != "same":
            found[look.form].append(k)
    return found


@lru_cache(maxsize=12)
def _refs(part: Part, kind: str) -> tuple[str, ...]:
    return (
        part.vertex_refs if kind == "vertex" else tuple(e.ref for e in (part.faces if kind == "face" else part.edges))
    )


def _face_look(part: Part, face: Face) -> _Look:
    s = face.surface
    beside = frozenset(f for e in face.boundary for f in part.edges[e].faces if part.faces[f] is not face)
    sense = face.sense * s.hand
    if s.kind == "plane":
        return _Look("plane", face.centre, beside, way=sense * s.axes[2], size=float(np.sqrt(face.area)))
    form = f"{s.kind} {sense:+.0f}"
    way = s.axes[2] if s.kind in ("cylinder", "cone", "torus") else None
    if s.radius > 0:
        return _Look(form, face.centre, beside, way=way, size=2 * s.radius, called="Ø")
    return _Look(form, face.centre, beside, way=way, size=float(np.sqrt(face.area)))


def _edge_look(edge: Edge) -> _Look:
    curve, beside = edge.curve, frozenset(edge.faces)
    if curve.is_circle and curve.origin is not None and curve.x is not None and curve.y is not None:
        normal = np.cross(curve.x, curve.y)
        way = normal / max(float(np.linalg.norm(normal)), SAME)
        form, called = ("circle", "Ø") if curve.full_turn else ("arc", "R")
        return _Look(
            form, curve.origin, beside, way=way, size=curve.radius * (2 if curve.full_turn else 1), called=called
        )
    run = edge.points[-1] - edge.points[0]
    size = float(np.linalg.norm(run))
    middle = (edge.points[0] + edge.points[-1]) / 2
    if curve.kind == "line" and size > SAME:
        return _Look("line", middle, beside, way=run / size, size=size, called="length ")
    return _Look(curve.kind, middle, beside, size=size)


def _along(step: Array) -> str:
    """A step (3,) in words: ``X 3, Y −7.4``."""
    told = [
        f"{axis} {_figure(float(s))}".replace("-", "−") for s, axis in zip(step, "XYZ", strict=True) if abs(s) >= 0.005
    ]
    return ", ".join(told) or "next to nothing"


def _figure(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")
