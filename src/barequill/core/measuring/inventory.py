"""What a part is made of, and which of it has sizes on a drawing."""

from __future__ import annotations

from dataclasses import dataclass

from ..drawing import Drawing
from ..features.listing import alike_of, features_of, words_of, words_of_pattern
from ..part.model import Part
from .wording import figure


@dataclass(frozen=True)
class Stock:
    """Features that are alike: what they are, how they stand, how many, whether a size or note is on one of them; and
    the references of the faces and edges of the first, by which it is found in a view."""

    words: str
    stands: str
    count: int
    sized: bool
    refs: tuple[str, ...]


def inventory(part: Part, drawing: Drawing) -> list[Stock]:
    """The features of a part, those alike together."""
    features = features_of(part)
    on: dict[str, set[str]] = {}
    for sheet in drawing.sheets:
        for a in sheet.annotations:
            for ref, what in a.says_of().items():
                on.setdefault(ref, set()).add(what)

    def size(value: float) -> str:
        return figure(value, None, drawing.unit, False, drawing.standard)

    found = []
    for group in alike_of(part):
        first = features[group.members[0]]
        refs = [_refs(part, features[k].faces) for k in group.members]
        stands = words_of_pattern(group.pattern, size) if group.pattern else ""
        sized = any(_says(first.kind, on.get(r, set())) for own in refs for r in own)
        found.append(Stock(words_of(first, size), stands, len(group.members), sized, tuple(refs[0])))
    return found


ROUND = ("hole", "boss", "step", "groove", "recess", "fillet", "round")


def _says(kind: str, measures: set[str]) -> bool:
    """True where sizes on a feature say what it is: of a round one its diameter or radius."""
    return bool(measures & {"diameter", "radius"}) if kind in ROUND else bool(measures)


def _refs(part: Part, faces: tuple[int, ...]) -> list[str]:
    """The faces of a feature, and the edges that belong to nothing else or bound it."""
    edges = [e for f in faces for e in part.faces[f].boundary]
    return [*(part.faces[f].ref for f in faces), *(part.edges[e].ref for e in dict.fromkeys(edges))]
