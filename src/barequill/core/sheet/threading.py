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
from ..geometry.curves2 import Curve2, circle, line
from ..geometry.within import Strings
from ..measuring.style import style_of
from ..part.model import Array, Part
from ..standards.threads import ThreadSize
from ..views.conventions import NONE, Conventions
from ..views.placed_view import PlacedView
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
    elif abs(across) < 1e-6:
        way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
        side = np.array([-way[1], way[0]])
        for sign in (1.0, -1.0):
            off = sign * radius * side
            curves.append((line(a + off, b + off), "dimension" if seen else "hidden"))
            if helix is not None:
                off = sign * own * side
                curves.append((line(a + off, b + off), "visible" if seen else "hidden"))
        if helix is not None:
            # its free end, as far as the part's own edge there is not as wide
            wide = own * side
            curves.append((line(a - wide, a + wide), "visible" if seen else "hidden"))
        if thread.length is not None or helix is not None:
            wide = max(radius, own) * side
            curves.append((line(b - wide, b + wide), "visible" if seen else "hidden"))
    if not curves:
        return []
    strings = Strings([c for c, _ in curves], 3e-6 * projected.whole.size)
    return [(flat, curves[k][1]) for k, flat in placed_view.transform.laid(strings)]


def _between(points: Array, ends: Array) -> bool:
    """Whether any of some points (m, 2) lies between the levels of two ends (2, 2)."""
    way = ends[1] - ends[0]
    share = (points - ends[0]) @ way / float(way @ way)
    return bool(((share > 0) & (share < 1)).any())


def thread_element(
    drawing: Drawing, sheet: Sheet, placed_view: PlacedView, display_cache: DisplayCache
) -> Element | None:
    """The threads that a view shows."""
    view = placed_view.view
    own = [t for t in drawing.threads if t.part == view.part]
    if not own:
        return None
    lines = style_of(drawing, sheet).lines
    looks = view.hidden_lines, [t.model_dump_json() for t in own]
    key = key_of("threads", view.id, placed_view.projected.scene.digest, placed_view.transform.name, looks, lines)

    def made() -> Element:
        sketch = Sketch(lines)
        for thread in own:
            for curve, pen in thread_lines(placed_view.still(), thread):
                sketch.stroke(curve, pen)
        return sketch.element(f"{view.id}-threads", "thread", view.id, "threads", key, (0.0, 0.0), view=view.id)

    element = display_cache.get(key, made).placed(placed_view.transform.place)
    return element if element.marks else None
