"""Which faces of a part are declared to have a thread."""

from __future__ import annotations

from collections.abc import Iterable

from ..drawing import Drawing
from ..drawing.threads import Thread
from ..part.model import Part


def thread_of(drawing: Drawing, key: str, part: Part, faces: Iterable[int]) -> Thread | None:
    """The thread that one of some faces of a part is declared to have."""
    refs = {part.faces[f].ref for f in faces}
    return next((t for t in drawing.threads if t.part == key and t.ref in refs), None)
