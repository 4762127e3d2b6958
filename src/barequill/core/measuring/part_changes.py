"""What differs between two revisions of a part: its figures, and which faces are gone, new, moved or resized."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import numpy as np

from ..drawing.geometrical.language import figure_text
from ..features.faces import words_of_face
from ..part.matching import Matching
from ..part.model import Array, Part
from ..values import value

Change = Literal["gone", "new", "moved", "resized"]
ORDER: tuple[Change, ...] = ("resized", "moved", "new", "gone")
NEAR = 1e-6
"""mm: less than that is no move."""


@value
class FaceChange:
    """Faces that changed alike: what became of them, in words, and their rows ``before`` and ``after``."""

    change: Change
    words: str
    before: tuple[int, ...]
    after: tuple[int, ...]


@value
class PartChanges:
    """What differs. ``faces``: those that changed, alike ones together; ``edges_before``, ``edges_after``: the rows of edges of either
    that are not in the other as they are; ``turn`` (3, 3) and ``by`` (3,), mm: where a point p of the old
    revision stands in the new one's file: turn · p + by; ``words``: how the whole was moved there, nothing where it was not."""

    faces: tuple[FaceChange, ...]
    edges_before: tuple[int, ...]
    edges_after: tuple[int, ...]
    turn: Array
    by: Array
    words: str


def changes_of(old: Part, new: Part, found: Matching) -> PartChanges:
    """What differs between two revisions of which it is ``found`` what of the one is what of the other."""
    motion = found.motion
    told: dict[tuple[Change, str], tuple[list[int], list[int]]] = {}

    def tell(change: Change, words: str, before: Iterable[int], after: Iterable[int]) -> None:
        own = told.setdefault((change, words), ([], []))
        own[0].extend(before)
        own[1].extend(after)

    known = set()
    for row, face in enumerate(old.faces):
        match = found.found.get(face.ref)
        if match is None:
            tell("gone", words_of_face(old, row, _length), [row], [])
            continue
        other = new.index[match.ref][1]
        known.add(other)
        was, now = words_of_face(old, row, _length), words_of_face(new, other, _length)
        if match.how == "resized":
            tell("resized", f"{was} → {now.rpartition(' ')[2]}" if was != now else was, [row], [other])
        elif match.how == "moved":
            by = _moved_by(old, new, row, other, found)
            tell("moved", f"{was} by {_length(by)} mm" if by > NEAR else was, [row], [other])
    for row in range(len(new.faces)):
        if row not in known:
            tell("new", words_of_face(new, row, _length), [], [row])
    faces = [
        FaceChange(change, words, tuple(before), tuple(after)) for (change, words), (before, after) in told.items()
    ]
    faces.sort(key=lambda f: (ORDER.index(f.change), f.words))
    stayed = {
        e.ref: found.found[e.ref].ref
        for e in old.edges
        if e.ref in found.found and found.found[e.ref].how == "unchanged"
    }
    there = set(stayed.values())
    return PartChanges(
        faces=tuple(faces),
        edges_before=tuple(k for k, e in enumerate(old.edges) if e.ref not in stayed),
        edges_after=tuple(k for k, e in enumerate(new.edges) if e.ref not in there),
        turn=motion.scale * np.asarray(motion.turn, float),
        by=np.asarray(motion.by, float),
        words="" if motion.stands else motion.words(),
    )


def _moved_by(old: Part, new: Part, row: int, other: int, found: Matching) -> float:
    """How far (mm) a face was moved: a plane along its normal, any other by its axis or middle."""
    one, two = old.faces[row].surface, new.faces[other].surface
    gap = two.origin - found.motion.places(one.origin)
    axis = two.axes[2]
    if two.kind == "plane":
        return float(abs(gap @ axis))
    return float(np.linalg.norm(gap - (gap @ axis) * axis if two.kind in ("cylinder", "cone") else gap))


def _length(mm: float) -> str:
    return figure_text(round(mm, 3))
