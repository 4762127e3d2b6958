"""Features of two plane walls: keyways and channels, where they face each other, and ribs, where they look away."""

from __future__ import annotations

import numpy as np

from ..geometry.recognition import frame_about
from ..geometry.vectors import cross
from ..part.model import Array, Part
from .faces import normal_of
from .feature import Feature, middle_of
from .rings import NEAR, all_pierced, facing_in
from .slots import Slot, slots_of
from .turned import profiles_of

SLIM, STOUT = 0.35, 0.7
"""The greatest thickness of a rib that stands on one face, and of one in a corner, as a share of its lesser extent."""


def _beside(part: Part, row: int) -> list[tuple[int, bool]]:
    """The faces along the edges of one, with whether they meet outward."""
    found = []
    for k in part.faces[row].boundary:
        e = part.edges[k]
        other = next((f for f in e.faces if f != row), None)
        if other is not None and e.joint != "border":
            found.append((other, bool(e.convex.mean() > 0.5) if e.joint == "sharp" else _bulges(part, row, other)))
    return found


def _bulges(part: Part, row: int, other: int) -> bool:
    """True where the face that a plane goes over into turns away from its outside."""
    nodes = part.mesh.nodes[part.faces[other].nodes]
    if not len(nodes):
        return True
    own = part.faces[row].surface
    return float(((nodes - own.origin) @ normal_of(part, row)).mean()) < 0


def _planes(part: Part) -> list[int]:
    return [k for k, f in enumerate(part.faces) if f.surface.kind == "plane" and len(part.mesh.nodes[f.nodes])]


def _gap(part: Part, a: int, b: int) -> float:
    """How far the plane of one face lies before that of another, mm."""
    return float((part.faces[b].surface.origin - part.faces[a].surface.origin) @ normal_of(part, a))


def channels_of(part: Part) -> list[Feature]:
    """Open ended slots with a flat floor; keyways where their walls come out of a round face along its axis."""
    rounded = {f for s in slots_of(part) for f in s.sides}
    found = []
    for floor in _planes(part):
        up = normal_of(part, floor)
        walls = [
            f
            for f, out in _beside(part, floor)
            if not out and part.faces[f].surface.kind == "plane" and f not in rounded
        ]
        walls = [f for f in dict.fromkeys(walls) if abs(float(normal_of(part, f) @ up)) < 1e-9]
        for i, a in enumerate(walls):
            opposed = [b for b in walls[i + 1 :] if normal_of(part, a) @ normal_of(part, b) < -1 + 1e-9]
            facing = [b for b in opposed if _gap(part, a, b) > NEAR * part.size]
            if len(facing) != 1 or len(walls) > 3:
                continue
            b = facing[0]
            made = _channel(part, floor, a, b, up, _gap(part, a, b))
            if _between(part, made.place + 0.3 * made.figure("depth") * up, a, b):
                found.append(made)
            break
    return found


def _between(part: Part, place: Array, a: int, b: int) -> bool:
    """True where the line through a place square to two planes passes through both faces, and nothing lies between."""
    way = normal_of(part, a)
    found = all_pierced(part, part.faces[a].body, place, way)
    walls = [[h for f, h in found if f == k] for k in (a, b)]
    if not all(walls):
        return False
    low, high = sorted((min(walls[0], key=abs), min(walls[1], key=abs)))
    slack = 1e-3 * (high - low)
    return not any(low + slack < h < high - slack for f, h in found if f not in (a, b))


def _channel(part: Part, floor: int, a: int, b: int, up: Array, width: float) -> Feature:
    nodes, place = part.mesh.nodes[part.faces[floor].nodes], middle_of(part, floor)
    along = cross(up, normal_of(part, a))
    length = float(np.ptp(nodes @ along))
    rounds = [{f for f, _ in _beside(part, w) if part.faces[f].surface.kind == "cylinder"} for w in (a, b)]
    for r in sorted(rounds[0] & rounds[1]):
        s = part.faces[r].surface
        if abs(float(s.axes[2] @ along)) > 1 - 1e-6:
            from_axis = float((place - s.origin) @ up)
            inside = facing_in(part, r)
            depth = abs(from_axis) - s.radius if inside else s.radius - abs(from_axis)
            if depth > 0:
                figures = (("width", width), ("depth", depth), ("length", length))
                return Feature("keyway", (floor, a, b), place, up, figures, ("in a bore",) if inside else ())
    tops = [float(((part.mesh.nodes[part.faces[w].nodes] - place) @ up).max()) for w in (a, b)]
    return Feature("channel", (floor, a, b), place, up, (("width", width), ("depth", min(tops)), ("length", length)))


def slot_feature(part: Part, slot: Slot) -> Feature:
    """A slot with round ends as a feature; a keyway where it stands in a round face."""
    floors = [
        f
        for f, out in _beside(part, slot.sides[0])
        if not out and part.faces[f].surface.kind == "plane" and abs(float(normal_of(part, f) @ slot.axis)) > 1 - 1e-9
    ]
    sides = part.mesh.nodes[part.faces[slot.sides[0]].nodes]
    deep = float(np.ptp(sides @ slot.axis))
    place = slot.middles.mean(axis=0)
    width, length = 2 * slot.radius, slot.length + 2 * slot.radius
    figures = [("width", width), ("length", length)]
    if not floors:
        return Feature("slot", (*slot.ends, *slot.sides), place, slot.axis, tuple(figures), ("through",))
    rounds = {
        f
        for k in slot.ends
        for f, out in _beside(part, k)
        if part.faces[f].surface.kind == "cylinder" and f not in slot.ends
    }
    up = normal_of(part, floors[0])
    for r in sorted(rounds):
        s = part.faces[r].surface
        if abs(float(s.axes[2] @ slot.axis)) < 1e-6 and not facing_in(part, r):
            floor = part.faces[floors[0]].surface.origin
            depth = s.radius - abs(float((floor - s.origin) @ up))
            return Feature(
                "keyway", (*slot.ends, *slot.sides, floors[0]), place, up, (*figures, ("depth", depth)), ("round ends",)
            )
    return Feature("slot", (*slot.ends, *slot.sides, floors[0]), place, up, (*figures, ("depth", deep)))


def ribs_of(part: Part) -> list[Feature]:
    """Thin walls that stand on something: two planes that look away from each other, joined by a narrow face, each with a
    foot where it meets what it stands on inward."""
    collars = {f.row for _, own in profiles_of(part) for f in own.flats}
    planes = [k for k in _planes(part) if k not in collars]
    beside = {k: _beside(part, k) for k in planes}
    found, taken = [], set[int]()
    for top in range(len(part.faces)):
        around = set(_neighbours(part, top))
        sides = [f for f in sorted(around) if f in beside and f not in taken]
        for i, a in enumerate(sides):
            for b in sides[i + 1 :]:
                if normal_of(part, a) @ normal_of(part, b) > -1 + 1e-9:
                    continue
                thick = -_gap(part, a, b)
                if thick <= NEAR * part.size or {a, b} & taken:
                    continue
                if not all((top, True) in beside[k] for k in (a, b)):
                    continue
                feet = [{f for f, out in beside[k] if not out} for k in (a, b)]
                if not all(feet) or not _stands(part, feet, thick):
                    continue
                extents = _extents(part, a)
                corner = _slants(part, top, feet[0])
                if thick > (STOUT if corner else SLIM) * extents[0]:
                    continue
                place = middle_of(part, a) - normal_of(part, a) * thick / 2
                if not _between(part, place, a, b):
                    continue
                taken |= {a, b}
                figures = (("thickness", thick), ("height", extents[0]), ("length", extents[1]))
                found.append(Feature("rib", (a, b, top), place, normal_of(part, a), figures))
    return found


def _slants(part: Part, top: int, feet: set[int]) -> bool:
    """True where the narrow face of a rib is a plane aslant to what the rib stands on: it fills a corner."""
    if part.faces[top].surface.kind != "plane":
        return False
    own = normal_of(part, top)
    grounds = [normal_of(part, f) for f in feet if part.faces[f].surface.kind == "plane"]
    return any(0.05 < abs(float(own @ n)) < 0.95 for n in grounds)


def _stands(part: Part, feet: list[set[int]], thick: float) -> bool:
    """True where both sides stand on one thing: a common face, coplanar ones, or fillets down to such."""
    grounds = []
    for foot in feet:
        own = set(foot)
        for f in foot:
            if part.faces[f].surface.kind != "plane":
                own |= set(_neighbours(part, f))
        grounds.append(own)
    if grounds[0] & grounds[1]:
        return True
    return any(part.faces[f].surface.same_as(part.faces[g].surface, part.size) for f in grounds[0] for g in grounds[1])


def _neighbours(part: Part, row: int) -> list[int]:
    return [f for k in part.faces[row].boundary for f in part.edges[k].faces if f != row]


def _extents(part: Part, row: int) -> tuple[float, float]:
    """The lesser and the greater side of the box about a plane face, turned as its longest edge."""
    face = part.faces[row]
    nodes = part.mesh.nodes[face.nodes]
    straight = [part.edges[k] for k in face.boundary if part.edges[k].curve.kind == "line"]
    # along what it stands on, where that is straight
    straight = [e for e in straight if e.joint == "sharp" and not e.convex.any()] or straight
    own = normal_of(part, row)
    if straight:
        longest = max(straight, key=lambda e: float(np.linalg.norm(e.points[-1] - e.points[0])))
        x = longest.points[-1] - longest.points[0]
        x = x / np.linalg.norm(x)
    else:
        x = frame_about(np.array(own))[0]
    a, b = sorted((float(np.ptp(nodes @ x)), float(np.ptp(nodes @ cross(own, x)))))
    return a, b
