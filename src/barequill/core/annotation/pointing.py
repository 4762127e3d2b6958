"""What can be pointed at on a sheet, in words: lines, and the points that the pointer catches."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..drawing.document import Drawing
from ..geometry.curves3 import Curve3
from ..views.picture import Picture
from .seats import bore_of
from .wording import figure


def words_of(picture: Picture, drawing: Drawing) -> dict[str, str]:
    """A few words for each source that shows in a view."""
    part = picture.shot.part
    found: dict[str, str] = {}

    def size(value: float) -> str:
        return figure(value, None, drawing.unit, False, drawing.standard)

    for curve in picture.shot.curves:
        for ref in (curve.source, *curve.also):
            if ref in found or ref not in part.index:
                continue
            kind, row = part.index[ref]
            if kind == "edge":
                bore = None if part.edges[row].curve.is_circle else bore_of(picture.shot, row)
                found[ref] = (
                    _edge_words(part.edges[row].curve, size)
                    if bore is None
                    else f"rim of bore Ø{size(2 * part.faces[bore].surface.radius)}"
                )
            else:
                s = part.faces[row].surface
                names = {
                    "cylinder": f"outline of cylinder Ø{size(2 * s.radius)}",
                    "cone": "outline of a cone",
                    "sphere": f"outline of sphere Ø{size(2 * s.radius)}",
                }
                found[ref] = names.get(s.kind, "outline of a curved face")
    return found


def _edge_words(curve: Curve3, size: Any) -> str:
    if curve.kind == "line":
        return f"edge, {size(curve.length())} long"
    if curve.is_circle:
        return f"circle Ø{size(2 * curve.radius)}" if curve.full_turn else f"arc R{size(curve.radius)}"
    return "elliptic edge" if curve.kind == "conic" else "curved edge"


def snaps_of(picture: Picture, drawing: Drawing, height: float) -> list[dict[str, Any]]:
    """Points that the pointer catches in a view: ends, middles and centres of edges; y down, mm."""
    part = picture.shot.part
    refs, ats, spaces, words = [], [], [], []
    seen: set[str] = set()
    for curve in picture.shot.curves:
        if not curve.visible and not picture.view.hidden_lines:
            continue
        for ref in (curve.source, *curve.also):
            if ref in seen or part.index.get(ref, ("", 0))[0] != "edge":
                continue
            seen.add(ref)
            edge = part.edges[part.index[ref][1]].curve
            if not edge.closed:
                for at, t, word in (
                    ("start", edge.t0, "end point"),
                    ("end", edge.t1, "end point"),
                    ("middle", (edge.t0 + edge.t1) / 2, "midpoint"),
                ):
                    refs.append(ref)
                    ats.append(at)
                    spaces.append(edge.points(np.array([t]))[0])
                    words.append(word)
            middle: tuple[Any, float] | None = None
            if edge.is_circle:
                middle = (edge.origin, edge.radius)
            else:
                bore = bore_of(picture.shot, part.index[ref][1])
                if bore is not None:
                    middle = (part.faces[bore].surface.origin, part.faces[bore].surface.radius)
            if middle is not None:
                refs.append(ref)
                ats.append("centre")
                spaces.append(middle[0])
                words.append(f"centre of Ø{figure(2 * middle[1], None, drawing.unit, False, drawing.standard)}")
    if not refs:
        return []
    points = picture.to_sheet(picture.shot.flat(np.array(spaces)))
    found: dict[tuple[float, float], dict[str, Any]] = {}
    rank = {"end point": 0, "midpoint": 2}
    for ref, at, p, word in zip(refs, ats, points, words, strict=True):
        key = (round(float(p[0]), 2), round(float(p[1]), 2))
        if key not in found or rank.get(word, 1) < rank.get(found[key]["word"], 1):
            found[key] = {"ref": ref, "at": at, "x": key[0], "y": round(height - key[1], 2), "word": word}
    return list(found.values())
