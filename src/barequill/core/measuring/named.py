"""Sizes that a part's file names, as dimensions of a view: what lies at their places, and how that is measured."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ..drawing import Dimension
from ..errors import Unmeasurable
from ..features.holes import hole_at, like
from ..features.rings import facing_in
from ..part.model import Part
from ..part.named_sizes import NamedSize
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from .context import LayoutContext
from .inference import infer
from .measured import Linear
from .measuring import measure
from .picking import Pick

Array = NDArray[np.float64]
NEAR = 1e-3
"""mm from a place within which what it names lies."""
MOST = 12
"""Things at a place that are tried."""


def shown_in(context: LayoutContext, size: NamedSize, new_id: str) -> tuple[float, Dimension] | None:
    """A named size as a dimension of a view, and how well the view shows it; None where it does not.

    What is measured is compared with what the size says: nothing is stated that the view measures otherwise.
    """
    placed_view = context.view
    projected = placed_view.projected
    if projected.pictorial or not size.measure:
        return None
    part, whole = projected.part, projected.whole.size
    spots = [projected.flat(np.array([p]))[0] for p in size.places]
    named = [list(_at(part, np.array(p), size.measure))[:MOST] for p in size.places]
    seen = {c.source for c in projected.curves if c.visible and c.cls not in ("smooth", "adjacent")}
    best: tuple[float, Dimension] | None = None
    for chosen in product(*named):
        flat = [placed_view.transform.to_sheet(s[None])[0] for s in spots]
        place = np.array(placed_view.transform.place)
        offs = [f - place for f in flat]
        picks = [Pick(ref, float(o[0]), float(o[1]), at) for (ref, at), o in zip(chosen, offs, strict=True)]
        for wish in _wishes(size):
            try:
                made = infer(context, picks, _pointer(placed_view, picks, wish), new_id, wish)
                found = measure(projected, made)
            except Unmeasurable:
                continue
            right = made.measure in {"between": ("distance", "length"), "angle": ("angle",)}.get(
                size.measure, (size.measure,)
            )
            if not right or abs(float(found.value) - size.value) > 1e-6 * max(whole, size.value):
                continue
            if size.measure == "between" and isinstance(found, Linear) and not _same_way(projected, found, size):
                continue
            good = _good(part, seen, chosen, made)
            if best is None or good > best[0]:
                best = good, made
    if best is None:
        return None
    good, made = best
    hole = hole_at(part, made.anchors[0].ref) if size.measure == "diameter" else None
    count = len(like(part, hole)) if hole is not None else 1
    return good, made.model_copy(update={"size": size.name, "count": max(count, 1)})


def _wishes(size: NamedSize) -> tuple[str, ...]:
    if size.measure == "between":
        return "", "horizontal", "vertical", "aligned"
    return (size.measure,) if size.measure in ("diameter", "radius") else ("",)


def _pointer(placed_view: PlacedView, picks: list[Pick], wish: str) -> tuple[float, float]:
    """Where a hand would pull it to: beside the view, on the nearer side, mm from the view's zero."""
    box = placed_view.box
    x0, y0 = placed_view.transform.place
    x, y = (float(np.mean([getattr(p, a) for p in picks])) for a in ("x", "y"))
    if len(picks) == 1:
        return x + 15.0, y + 12.0
    spread = abs(picks[0].x - picks[-1].x), abs(picks[0].y - picks[-1].y)
    if wish == "horizontal" or (wish != "vertical" and spread[0] >= spread[1]):
        low, high = box.y0 - y0, box.y1 - y0
        return x, low - 10.0 if y - low <= high - y else high + 10.0
    low, high = box.x0 - x0, box.x1 - x0
    return low - 10.0 if x - low <= high - x else high + 10.0, y


def _same_way(projected: ProjectedScene, found: Linear, size: NamedSize) -> bool:
    """True where a distance is measured along the way in space in which its size is: so that one of two equal ones is not taken
    for the other."""
    apart = np.subtract(size.places[1], size.places[0])
    way = found.along[0] * projected.view.right + found.along[1] * projected.view.up
    return bool(abs(abs(float(way @ apart)) - size.value) <= 1e-6 * max(float(np.linalg.norm(apart)), 1.0))


def _good(part: Part, seen: set[str], chosen: tuple[tuple[str, str], ...], made: Dimension) -> float:
    """How well a view shows what a size is of: what is seen before what is hidden, circles as such, shafts from the side."""
    refs = [ref for ref, _ in chosen]
    good = 2.0 * sum(r in seen or _touched(part, r, seen) for r in refs) / len(refs)
    if made.measure in ("diameter", "radius"):
        kind, row = part.find(refs[0]) or ("", 0)
        anchor = made.anchors[0].at
        shaft = kind == "face" and part.faces[row].surface.kind == "cylinder" and not facing_in(part, row)
        full = made.measure == "diameter" and shaft
        good += 1.0 if (anchor == "outline") == full else 0.0
    else:
        # a corner or an edge before the middle of a circle, and that before a line that is only extended
        good += 0.3 * sum(a.at in ("line", "point", "centre", "axis") for a in made.anchors) / len(made.anchors)
    return good


def _touched(part: Part, ref: str, seen: set[str]) -> bool:
    """True for a vertex at the end of an edge that is seen, and for a face with one about it."""
    kind, row = part.find(ref) or ("", 0)
    if kind == "vertex":
        return any(row in e.ends and e.ref in seen for e in part.edges)
    return kind == "face" and any(part.edges[e].ref in seen for e in part.faces[row].boundary)


def _at(part: Part, place: Array, measure: str) -> Iterator[tuple[str, str]]:
    """What a place names, as a hand would point at it: (reference, which point of it)."""
    if measure in ("diameter", "radius"):
        for row in round_faces(part, place):
            face = part.faces[row]
            yield from ((part.edges[e].ref, "") for e in face.boundary if part.edges[e].curve.is_circle)
            yield face.ref, ""
        return
    for row, vertex in enumerate(part.vertices):
        if np.linalg.norm(vertex - place) < NEAR:
            yield part.vertex_refs[row], ""
    for edge in part.edges:
        if edge.joint == "same":
            continue
        if edge.curve.is_circle and np.linalg.norm(np.subtract(edge.curve.origin, place)) < NEAR:  # type: ignore[arg-type]
            yield edge.ref, "centre"
        if _on_polyline(edge.points, place) < NEAR:
            yield edge.ref, ""
            if measure == "between":
                ends = np.linalg.norm(edge.points[[0, -1]] - place, axis=1)
                if ends.min() < NEAR:
                    yield edge.ref, ("start", "end")[int(ends.argmin())]


def round_faces(part: Part, place: Array) -> Iterator[int]:
    """Rows of the round faces on whose surface a place lies, the nearest by their mesh first."""
    found = []
    for row, face in enumerate(part.faces):
        surface = face.surface
        if surface.kind not in ("cylinder", "sphere", "torus"):
            continue
        to = place - surface.origin
        if surface.kind != "sphere":
            to = to - surface.axes[2] * float(to @ surface.axes[2])
        if surface.kind == "torus" or abs(float(np.linalg.norm(to)) - surface.radius) < NEAR:
            nodes = part.mesh.nodes[face.nodes]
            found.append((float(np.linalg.norm(nodes - place, axis=1).min()), row))
    return (row for _, row in sorted(found))


def _on_polyline(points: Array, place: Array) -> float:
    """How far (mm) a place is from a polyline (m, 3)."""
    a, d = points[:-1], np.diff(points, axis=0)
    t = np.clip(((place - a) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-18), 0.0, 1.0)
    return float(np.linalg.norm(a + t[:, None] * d - place, axis=1).min())
