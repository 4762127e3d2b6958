"""References as they were made before: in shares of the part's size, and of a face by all its edges.

Drawings that were kept then hold them; they are looked up where a reference is not known otherwise.
"""

from __future__ import annotations

import hashlib
from collections import Counter
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from .model import Part


def former_index(part: Part) -> dict[str, tuple[str, int]]:
    """Former reference to kind and row, as in :attr:`Part.index`."""
    size = part.size
    digits = 6 - int(np.floor(np.log10(max(size, 1e-9))))
    form = f"%.{max(digits, 0)}f"
    zero = form % -0.0, form % 0.0
    seen: Counter[str] = Counter()

    def mark(letter: str, kind: str, *figures: NDArray[np.float64] | float) -> str:
        flat = [x + 0.318e-7 for f in figures for x in np.ravel(f).tolist()]
        flat = [round(x, digits) for x in flat] if digits < 0 else flat
        text = kind + ":" + (",".join([form] * len(flat)) % tuple(flat)).replace(*zero)
        found = letter + hashlib.sha1(text.encode()).hexdigest()[:9]
        seen[found] += 1
        return found if seen[found] == 1 else f"{found}-{seen[found]}"

    found: dict[str, tuple[str, int]] = {}
    edge_refs: list[str] = [""] * len(part.edges)
    ends = np.array([e.points[[0, -1]] for e in part.edges]).reshape(-1, 2, 3)
    ends = np.sort(np.round(ends / size, 6), axis=1) * size
    for body in range(len(part.bodies)):
        for row, edge in enumerate(part.edges):
            if edge.body == body:
                curve = edge.curve
                middle = curve.point((curve.t0 + curve.t1) / 2)
                edge_refs[row] = mark("E", curve.kind, middle, ends[row], curve.length())
                found[edge_refs[row]] = "edge", row
        for row, face in enumerate(part.faces):
            if face.body == body:
                around = sorted(edge_refs[e].partition("-")[0] for e in face.boundary)
                found[mark("F", " ".join([face.surface.kind, *around]), face.surface.radius)] = "face", row
    for row, vertex in enumerate(part.vertices):
        found[mark("V", "vertex", vertex)] = "vertex", row
    return found
