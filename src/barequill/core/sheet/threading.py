"""Threads as views show them (ISO 6410-1): narrow lines at the root or crest, a three-quarter circle end on."""

from __future__ import annotations

import numpy as np

from ..display import Element, Sketch
from ..drawing import Drawing, Sheet
from ..drawing.threads import Thread
from ..features.faces import halves_of
from ..features.helices import helix_at
from ..features.holes import hole_at
from ..features.rings import facing_in
from ..geometry.curves2 import Curve2, circle, conic, line
from ..geometry.within import Strings
from ..measuring.style import style_of
from ..part.model import Array, Part
from ..standards.threads import ThreadSize
from ..values import value
from ..views.conventions import ALL, NONE, Conventions
from ..views.placed_view import PlacedView
from ..views.projected_scene import ProjectedScene
from .display_cache import DisplayCache, key_of

OPEN = np.radians([80.0, 350.0])
"""From where to where the three-quarter circle goes: open in the upper right."""


def stretch_of(part: Part, thread: Thread) -> tuple[Array, Array, list[int], bool] | None:
    """From where (3,) to where a thread goes along its axis, the faces that it is on, and whether it is a hole's."""
    helix = helix_at(part, thread.ref)
    if helix is not None:
        ends = helix.origin + helix.axis * np.array([[helix.low], [helix.high]])
        along = (part.mesh.nodes - helix.origin) @ helix.axis
        # from the free end on
        up = float(along.max()) - helix.high <= helix.low - float(along.min())
        begin, end = (ends[1], ends[0]) if up else (ends[0], ends[1])
        if thread.length is not None:
            end = begin + (end - begin) * min(thread.length / float(np.linalg.norm(end - begin)), 1.0)
        return begin, end, list(helix.faces), helix.internal
    kind, row = part.find(thread.ref) or ("", 0)
    if kind != "face" or part.faces[row].surface.kind != "cylinder":
        return None
    faces = halves_of(part, row)
    s, internal = part.faces[row].surface, facing_in(part, row)
    nodes = np.concatenate([part.mesh.nodes[part.faces[f].nodes] for f in faces])
    z = (nodes - s.origin) @ s.axes[2]
    low, high = float(z.min()), float(z.max())
    hole = hole_at(part, thread.ref) if internal else None
    if hole is not None:
        up = float(hole.out @ s.axes[2]) > 0
    else:
        # the free end of a shaft: the one next to the end of the part
        along = (part.mesh.nodes - s.origin) @ s.axes[2]
        up = float(along.max()) - high <= low - float(along.min())
    begin, end = (high, low) if up else (low, high)
    if thread.length is not None:
        end = begin + np.sign(end - begin) * min(thread.length, abs(end - begin))
    return s.origin + begin * s.axes[2], s.origin + end * s.axes[2], faces, internal


def conventions_of(drawing: Drawing, placed_view: PlacedView) -> Conventions:
    """What of the threads of a view's part is not drawn as it is modelled, since lines stand in its place."""
    part, key = placed_view.projected.part, placed_view.view.part
    found = [h for t in drawing.threads if t.part == key and (h := helix_at(part, t.ref)) is not None]
    return Conventions(placed_view.projected, tuple(found)) if found else NONE


def thread_lines(placed_view: PlacedView, thread: Thread) -> list[tuple[Curve2, str]]:
    """What shows a thread in a view: curves on the sheet, and the pens to draw them with."""
    projected, part = placed_view.projected, placed_view.projected.part
    found = stretch_of(part, thread)
    if found is None:
        return []
    begin, end, faces, internal = found
    sizes = ThreadSize(thread.size, thread.diameter, thread.pitch)
    helix = helix_at(part, thread.ref)
    radius = (thread.diameter if internal else sizes.inner) / 2
    own = part.faces[faces[0]].surface.radius
    if helix is not None:
        # what the model has in its place is not drawn: both its lines are, its crests where they are
        radius, own = (thread.diameter / 2, helix.minor / 2) if internal else (sizes.inner / 2, helix.major / 2)
    elif internal == (radius <= own + 1e-9):
        # it is modelled at its nominal diameter, or the hole at less: the other line shows it
        radius = sizes.inner / 2 if internal else thread.diameter / 2 - 0.5 * sizes.pitch
    axis = end - begin
    length = float(np.linalg.norm(axis))
    across = float(axis @ projected.view.toward) / length
    sides = {part.faces[f].ref for f in faces}
    rims = {part.edges[e].ref for f in faces for e in part.faces[f].boundary}
    # from the side its outlines tell whether it is seen, end on its circles
    refs = rims if abs(across) > 0.5 else sides
    if helix is not None:
        refs = sides | rims
    near = [c for c in projected.curves if c.source in sides | rims or (sides | rims) & set(c.also)]
    if helix is not None and abs(across) < 1e-6:
        # what shows at its ends alone is no sight of it
        inner = projected.flat(np.array([begin + 0.1 * axis, end - 0.1 * axis]))
        near = [c for c in near if _between(c.curve.points(1e-3 * projected.whole.size) - projected.centre, inner)]
    seen = any(c.visible and (c.source in refs or refs & set(c.also)) for c in near)
    if not near or not (seen or placed_view.view.hidden_lines):
        return []
    a, b = projected.flat(np.array([begin, end]))
    curves: list[tuple[Curve2, str]] = []
    if abs(across) > 1 - 1e-6:
        curves.append((circle(a, radius, *OPEN), "dimension" if seen else "hidden"))
        if helix is not None:
            curves.append((circle(a, own), "visible" if seen else "hidden"))
    elif abs(across) < 1e-6 or (projected.pictorial and helix is None):
        way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
        run = _Run(a, way, np.array([-way[1], way[0]]), float(np.linalg.norm(b - a)))
        hidden = placed_view.view.hidden_lines
        outlines = [(c.curve.points(1e-3 * projected.whole.size) - projected.centre, c.visible) for c in near]
        for sign in (1.0, -1.0):
            stretches = ALL if helix is not None else _stretches(outlines, run, sign, own)
            if stretches is None:
                stretches = ALL if seen else []
            curves += run.pieces(stretches if seen else [], sign * radius, "dimension", hidden)
            if thread.runout is not None and helix is None and stretches and stretches[-1][1] > 1 - 1e-9 and seen:
                reach = thread.runout * float(np.linalg.norm(b - a)) / length
                tip = run.at(1.0, sign * own) + reach * way
                curves.append((line(run.at(1.0, sign * radius), tip), "dimension"))
            if helix is not None:
                curves += run.pieces(ALL if seen else [], sign * own, "visible", True)
        wide = max(radius, own)
        if abs(across) > 1e-6:
            curves += _ends_in_space(projected, (begin, end), radius, wide if thread.length is not None else 0.0, seen)
        else:
            if helix is not None:
                # its free end, as far as the part's own edge there is not as wide
                curves.append((line(run.at(0.0, -own), run.at(0.0, own)), "visible" if seen else "hidden"))
            if thread.length is not None or helix is not None:
                curves.append((line(run.at(1.0, -wide), run.at(1.0, wide)), "visible" if seen else "hidden"))
    if not curves:
        return []
    strings = Strings([c for c, _ in curves], 3e-6 * projected.whole.size)
    return [(flat, curves[k][1]) for k, flat in placed_view.transform.laid(strings)]


@value
class _Run:
    """How a thread runs in a view: from ``start`` (2,) along a unit ``way`` for ``length``, ``side`` square to it; view mm."""

    start: Array
    way: Array
    side: Array
    length: float

    def at(self, share: float, off: float) -> Array:
        """The place at a share of its length, so far off its axis."""
        return np.asarray(self.start + share * self.length * self.way + off * self.side)

    def pieces(self, seen: list[tuple[float, float]], off: float, pen: str, hidden: bool) -> list[tuple[Curve2, str]]:
        """A line along it, so far off its axis, in stretches that are seen, and between them hidden where that is shown."""
        found = [(line(self.at(s, off), self.at(e, off)), pen) for s, e in seen]
        if hidden:
            ends = [0.0, *(x for stretch in seen for x in stretch), 1.0]
            gaps = [(s, e) for s, e in zip(ends[::2], ends[1::2], strict=True) if e - s > 1e-6]
            found += [(line(self.at(s, off), self.at(e, off)), "hidden") for s, e in gaps]
        return found


def _stretches(
    outlines: list[tuple[Array, bool]], run: _Run, sign: float, own: float
) -> list[tuple[float, float]] | None:
    """Where along a thread (shares of its length) its outline on one side is seen, from lines of it as points (m, 2) and whether
    they are seen; None where it has none there."""
    found: list[tuple[float, float]] = []
    any_there = False
    for points, visible in outlines:
        off, along = sign * ((points - run.start) @ run.side), ((points - run.start) @ run.way) / run.length
        if off.min() < 0.3 * own or np.ptp(along) < 1e-6:
            continue
        any_there = True
        if visible:
            found.append((float(along.min()), float(along.max())))
    if not any_there:
        return None
    merged: list[tuple[float, float]] = []
    for low, high in sorted(found):
        low, high = max(low, 0.0), min(high, 1.0)
        # what ends next to an end, at a chamfer or a rim, goes on to it
        low, high = (0.0 if low < 0.02 else low), (1.0 if high > 0.98 else high)
        if merged and low <= merged[-1][1] + 1e-3:
            merged[-1] = merged[-1][0], max(merged[-1][1], high)
        elif high - low > 1e-6:
            merged.append((low, high))
    return merged


def _ends_in_space(
    projected: ProjectedScene, ends: tuple[Array, Array], radius: float, wide: float, seen: bool
) -> list[tuple[Curve2, str]]:
    """The circles of a thread in a slanting view: at its free end, where that faces the viewer, and as far as is seen of it where
    it ends on the way (``wide``: how wide that is; 0 for none)."""
    if not seen:
        return []
    begin, end = ends
    axis = (end - begin) / float(np.linalg.norm(end - begin))
    toward = projected.view.toward
    level = np.cross(axis, toward)
    level /= float(np.linalg.norm(level))
    front = np.cross(level, axis)
    front *= np.sign(float(front @ toward)) or 1.0
    x, y = projected.view.flat(np.array([level, front]))
    found = []
    if float(axis @ toward) < 0:
        found.append((conic(projected.flat(begin[None])[0], radius * x, radius * y, *OPEN), "dimension"))
    if wide:
        found.append((conic(projected.flat(end[None])[0], wide * x, wide * y, 0.0, np.pi), "visible"))
    return found


def _between(points: Array, ends: Array) -> bool:
    """Whether any of some points (m, 2) lies between the levels of two ends (2, 2)."""
    way = ends[1] - ends[0]
    share = (points - ends[0]) @ way / float(way @ way)
    return bool(((share > 0) & (share < 1)).any())


def thread_elements(
    drawing: Drawing, sheet: Sheet, placed_view: PlacedView, display_cache: DisplayCache
) -> list[Element]:
    """The threads that a view shows, each by itself."""
    view = placed_view.view
    lines = style_of(drawing, sheet).lines
    found = []
    for k, thread in enumerate(drawing.threads):
        if thread.part != view.part:
            continue
        looks = view.hidden_lines, thread.model_dump_json()
        key = key_of(
            "threads", view.id, placed_view.projected.scene.digest, placed_view.transform.name, looks, lines, k
        )

        def made(thread: Thread = thread, k: int = k, key: str = key) -> Element:
            sketch = Sketch(lines)
            for curve, pen in thread_lines(placed_view.still(), thread):
                sketch.stroke(curve, pen, thread.ref)
            words = f"thread {thread.size}" + (f" {thread.tolerance}" if thread.tolerance else "")
            return sketch.element(f"{view.id}-thread-{k}", "thread", view.id, words, key, (0.0, 0.0), view=view.id)

        element = display_cache.get(key, made).placed(placed_view.transform.place)
        if element.marks:
            found.append(element)
    return found
