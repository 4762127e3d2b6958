"""Bent sheet: bodies of one thickness that are made of flats and round bends, and how each of their broad faces comes to lie in the flat.

One broad side is gone through from a flat across each bend to the next; the other side likewise. Where a sheet bends by an angle b
(rad) its neutral line, which keeps its length, is an arc of radius r + K · t about the bend's axis, with r the radius within, t the
thickness and K the share of the thickness at which it lies; by DIN 6935 K = (0.65 + 0.5 · log10(r / t)) / 2 up to r = 5 t, and 1/2
from there on.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import lru_cache

import numpy as np

from ..errors import UserError
from ..geometry.vectors import cross
from ..part.model import Array, Edge, Part
from ..values import value
from .faces import coaxial, normal_of, off_axis

NEAR = 1e-5
"""Of the part's size: how near lengths are that are one."""
THIN = 0.35
"""Of the root of a broad face's area: how thick a sheet is at most."""
FULL = 0.06
"""Of a body's volume: by how much its broad faces times its thickness may differ from it; sunk holes take some."""
TURNED = 2 * math.pi - 0.02


@value
class Rule:
    """Where the neutral line of a bend lies: at a share ``k`` of the thickness from within, or by DIN 6935 where that is None."""

    k: float | None = None

    def neutral(self, radius: float, thickness: float) -> float:
        """The radius (mm) of the neutral line of a bend of a ``radius`` within."""
        k = self.k
        if k is None:
            ratio = radius / thickness
            k = min(max(0.65 + 0.5 * math.log10(max(ratio, 1e-9)), 0.0), 1.0) / 2
        return radius + k * thickness


@value
class Rigid:
    """A rotation (3, 3) and a step (3,), mm: p becomes turn · p + by."""

    turn: Array
    by: Array

    def places(self, points: Array, angles: Array | None = None) -> Array:
        """Points (m, 3) of the part in the flat."""
        found: Array = points @ self.turn.T + self.by
        return found

    def ways(self, directions: Array, points: Array) -> Array:
        """Directions (m, 3) at points of the part, in the flat."""
        found: Array = directions @ self.turn.T
        return found


@value
class Rolled:
    """What a bend does: it begins at a line in the direction ``out`` from its axis (``origin``, unit ``axis``), where it hangs on what
    lies as ``start`` tells; by a turn of ``angle`` about its axis it is over. ``radius`` within, and of its ``neutral`` line."""

    start: Rigid
    origin: Array
    axis: Array
    out: Array
    angle: float
    radius: float
    neutral: float

    def angles(self, points: Array) -> Array:
        """By how much (m,) points (m, 3) are turned from where the bend begins; before it below 0."""
        off = points - self.origin
        found = np.arctan2(off @ cross(self.axis, self.out), off @ self.out)
        # half way round the gap it is no more behind the bend, but before it
        back = self.angle / 2 - math.pi
        return np.where(found < back, found + 2 * math.pi, found)

    def places(self, points: Array, angles: Array | None = None) -> Array:
        """Points (m, 3) of the part in the flat, those beyond the bend as what hangs on it; ``angles`` (m,) where they are known."""
        turned = np.clip(self.angles(points) if angles is None else angles, 0.0, self.angle)
        off = self._back(points - self.origin, turned) + self.origin
        along = cross(self.axis, self.out)
        return self.start.places(off + (turned * self.neutral)[:, None] * along)

    def ways(self, directions: Array, points: Array) -> Array:
        """Directions (m, 3) at points (m, 3) of the part, in the flat."""
        return self.start.ways(self._back(directions, np.clip(self.angles(points), 0.0, self.angle)), points)

    def _back(self, v: Array, turned: Array) -> Array:
        """Vectors (m, 3) turned back about the axis by angles (m,)."""
        c, s = np.cos(turned)[:, None], np.sin(turned)[:, None]
        along = (v @ self.axis)[:, None] * self.axis
        found: Array = c * (v - along) - s * cross(self.axis[None], v) + along
        return found

    def end(self) -> Rigid:
        """How what hangs on its end lies."""
        spots = np.vstack([np.zeros(3), np.eye(3)])
        first, *rest = self.places(self.origin + spots, np.full(4, self.angle))
        turn = np.array([r - first for r in rest]).T
        return Rigid(turn, first - turn @ self.origin)


Laid = Rigid | Rolled


@value
class Bend:
    """A bend of a sheet: its faces (rows), ``radius`` within (mm), ``angle`` (degrees) by which the sheet is turned, its ``length`` (mm)
    along its axis; ``up``: toward the viewer of the flat."""

    faces: tuple[int, ...]
    radius: float
    angle: float
    length: float
    up: bool
    place: Array
    axis: Array


@value
class BentSheet:
    """A body (row) that is a bent sheet, its ``thickness`` (mm); ``laid``: how each of its broad faces comes to lie in the flat, which is
    seen from +z, its upper side at z = thickness; ``upper``: the rows of those on that side."""

    body: int
    thickness: float
    laid: dict[int, Laid]
    upper: frozenset[int]
    bends: tuple[Bend, ...]


def bent_sheet_of(part: Part, body: int, rule: Rule, own: list[int] | None = None) -> BentSheet:
    """A body as a bent sheet; ``own``: the rows of its faces, where they are known.

    Raises
    ------
    UserError
        Where it is none; the message says why.
    """
    rows = own if own is not None else [k for k, f in enumerate(part.faces) if f.body == body]
    broad = sorted(
        (k for k in rows if part.faces[k].surface.kind in ("plane", "cylinder")), key=lambda k: -part.faces[k].area
    )
    if not part.bodies[body].solid or not broad:
        raise UserError("It is no bent sheet", "A sheet is a solid of flat and round faces.")
    flats = [k for k in broad if part.faces[k].surface.kind == "plane"]
    # a rolled sheet has no broad flat
    round_first = not flats or part.faces[broad[0]].area > 4 * part.faces[flats[0]].area
    candidates = (
        broad[:1] if round_first else [k for k in flats if part.faces[k].area > 0.9 * part.faces[flats[0]].area]
    )
    best: BentSheet | None = None
    why: UserError | None = None
    for base in candidates[:6]:
        try:
            found = _from(part, body, rows, base, rule)
        except UserError as error:
            why = why or error
            continue
        if best is None or sum(b.up for b in found.bends) > sum(b.up for b in best.bends):
            best = found
    if best is None:
        raise why or UserError("It is no bent sheet", "It has no broad face with another behind it.")
    return best


def _from(part: Part, body: int, rows: list[int], base: int, rule: Rule) -> BentSheet:
    """The sheet whose upper side holds a face."""
    near = NEAR * part.size
    behind, thickness = _behind(part, rows, base)
    start = _start(part, base, thickness)
    upper = _flood(part, base, start, thickness, rule)
    lower = _flood(part, behind, start, thickness, rule)
    both = set(upper) & set(lower)
    if both:
        raise UserError("It is no bent sheet", "Its two sides run into each other without an edge between them.")
    for own, others in ((upper, lower), (lower, upper)):
        for row in own:
            depths = (_depth(part, row, other) for other in others)
            if not any(deep is not None and abs(deep - thickness) < near for deep in depths):
                raise UserError(
                    "It is no bent sheet", f"It is not {thickness:.4g} thick behind its face {part.faces[row].ref}."
                )
    area = sum(part.faces[k].area for k in (*upper, *lower)) / 2
    volume = part.bodies[body].volume
    if abs(area * thickness - volume) > FULL * volume:
        raise UserError(
            "It is no bent sheet",
            f"Sides of {area:.4g} mm² and {thickness:.4g} mm thick would be {area * thickness:.4g} mm³; it has {volume:.4g}.",
        )
    laid = upper | lower
    bends = tuple(_bends(part, laid, frozenset(upper), near))
    return BentSheet(body, thickness, laid, frozenset(upper), bends)


def _behind(part: Part, rows: list[int], base: int) -> tuple[int, float]:
    """The face behind a broad one, and how far it is."""
    depths = ((_depth(part, base, k), k) for k in rows if k != base)
    found = [(deep, k) for deep, k in depths if deep is not None and deep > 1e-9 * part.size]
    if not found:
        raise UserError("It is no bent sheet", "It has no broad face with another behind it.")
    deep, behind = min(found)
    if deep > THIN * math.sqrt(part.faces[base].area):
        raise UserError("It is no bent sheet", f"It is {deep:.4g} thick, as wide as it is.")
    return behind, deep


def _depth(part: Part, row: int, other: int) -> float | None:
    """How far (mm) behind a face another lies that looks the other way, or is round about the same axis; None where it does neither."""
    face, s, t = part.faces[row], part.faces[row].surface, part.faces[other].surface
    if s.kind != t.kind:
        return None
    if s.kind == "plane":
        n = normal_of(part, row)
        facing = float(n @ normal_of(part, other)) < -1 + 1e-9
        return -float((t.origin - s.origin) @ n) if facing and _overlap(part, row, other, n) else None
    return face.sense * s.hand * (s.radius - t.radius) if coaxial(s, t, NEAR * part.size) else None


def _overlap(part: Part, one: int, two: int, n: Array) -> bool:
    """True where a face lies behind another along n, by boxes of both."""
    axes = [cross(n, np.eye(3)[int(np.argmin(np.abs(n)))])]
    axes.append(cross(n, axes[0]))
    a, b = (part.mesh.nodes[part.faces[k].nodes] @ np.array(axes).T for k in (one, two))
    return bool((np.minimum(a.max(axis=0), b.max(axis=0)) > np.maximum(a.min(axis=0), b.min(axis=0))).all())


def _start(part: Part, base: int, thickness: float) -> Rigid:
    """How the first face lies: flat at z = thickness, its longest straight edge along x."""
    face, s = part.faces[base], part.faces[base].surface
    lines = [e for e in (part.edges[k] for k in face.boundary) if e.curve.kind == "line"]
    if s.kind == "plane":
        n, spot = normal_of(part, base), face.centre
    else:
        # it begins at an edge along its axis
        ends = [e for e in lines if e.joint == "sharp" and abs(float(_way(e) @ s.axes[2])) > 1 - 1e-6]
        if not ends:
            raise UserError("A closed tube has no flat pattern", "Cut a slit along it where it is to be joined.")
        spot = ends[0].points[0]
        n = face.sense * s.normals_at(spot[None])[0]
    longest = max(lines, key=lambda e: e.curve.length(), default=None)
    x = cross(n, np.eye(3)[int(np.argmin(np.abs(n)))]) if longest is None else _way(longest)
    x = x - (x @ n) * n
    x = x / np.linalg.norm(x)
    if x[int(np.argmax(np.abs(np.round(x, 9))))] < 0:
        x = -x
    turn = np.array([x, cross(n, x), n])
    return Rigid(turn, np.array([0.0, 0.0, thickness]) - turn @ spot)


def _way(edge: Edge) -> Array:
    d = edge.points[-1] - edge.points[0]
    found: Array = d / max(float(np.linalg.norm(d)), 1e-300)
    return found


def _flood(part: Part, base: int, start: Rigid, thickness: float, rule: Rule) -> dict[int, Laid]:
    """One side of a sheet, from a face on, each as it lies."""
    near = NEAR * part.size
    found: dict[int, Laid] = {}
    face = part.faces[base]
    if face.surface.kind == "plane":
        found[base] = start
    else:
        ends = [e for e in _beside(part, base, ("sharp",)) if abs(float(_way(e) @ face.surface.axes[2])) > 1 - 1e-6]
        edge = min(ends, key=lambda e: abs(float((start.places(e.points[:1])[0])[2])), default=None)
        if edge is None:
            raise UserError("A closed tube has no flat pattern", "Cut a slit along it where it is to be joined.")
        found[base] = _rolled(part, base, edge, start, thickness, rule)
    waiting = [base]
    while waiting:
        row = waiting.pop()
        for edge in _beside(part, row, ("smooth", "same")):
            other = edge.faces[0] if edge.faces[1] == row else edge.faces[1]
            kind = part.faces[other].surface.kind
            if kind not in ("plane", "cylinder"):
                raise UserError(
                    "It is no bent sheet", f"Its face {part.faces[other].ref} is neither flat nor a round bend."
                )
            own = found[row]
            middle = edge.curve.points(np.array([(edge.curve.t0 + edge.curve.t1) / 2]))
            if isinstance(own, Rolled):
                at = float(own.angles(middle)[0])
                hangs = own.start if at < own.angle / 2 else own.end()
            else:
                hangs = own
            if edge.joint == "same" and kind == "cylinder" and isinstance(own, Rolled) and 1e-6 < at < own.angle - 1e-6:
                laid: Laid = own
            else:
                laid = hangs if kind == "plane" else _rolled(part, other, edge, hangs, thickness, rule)
            known = found.get(other)
            if known is None:
                found[other] = laid
                waiting.append(other)
            elif float(np.abs(known.places(edge.points) - own.places(edge.points)).max()) > 10 * near:
                raise UserError(
                    "It cannot be laid flat", f"It closes on itself at the edge {edge.ref}: one joint has to be open."
                )
    return found


def _beside(part: Part, row: int, joints: tuple[str, ...]) -> Iterator[Edge]:
    for k in part.faces[row].boundary:
        edge = part.edges[k]
        if edge.joint in joints and len(edge.faces) == 2 and edge.faces[0] != edge.faces[1]:
            yield edge


def _rolled(part: Part, row: int, edge: Edge, hangs: Rigid, thickness: float, rule: Rule) -> Rolled:
    """How a round face unrolls that hangs by an edge on what lies already."""
    face, s = part.faces[row], part.faces[row].surface
    axis = s.axes[2]
    if edge.curve.kind != "line" or abs(float(_way(edge) @ axis)) < 1 - 1e-6:
        raise UserError("It is no bent sheet", f"Its round face {face.ref} does not begin at a line along its axis.")
    off = edge.points[0] - s.origin
    out = off - (off @ axis) * axis
    out = out / np.linalg.norm(out)
    u = part.mesh.uv[face.nodes, 0]
    at = float(np.arctan2(out @ s.axes[1], out @ s.axes[0]))
    low, high = float(u.min()), float(u.max())
    if high - low > TURNED:
        raise UserError("A closed tube has no flat pattern", "Cut a slit along it where it is to be joined.")
    from_low = abs(math.remainder(at - low, 2 * math.pi)) <= abs(math.remainder(at - high, 2 * math.pi))
    axis = axis * s.hand * (1 if from_low else -1)
    outward = face.sense * s.hand > 0
    radius = s.radius - thickness if outward else s.radius
    if radius < -NEAR * part.size:
        raise UserError("It is no bent sheet", f"Its round face {face.ref} is narrower than the sheet is thick.")
    radius = max(radius, 0.0)
    return Rolled(
        start=hangs,
        origin=s.origin,
        axis=axis,
        out=out,
        angle=high - low,
        radius=radius,
        neutral=rule.neutral(radius, thickness),
    )


def _bends(part: Part, laid: dict[int, Laid], upper: frozenset[int], near: float) -> Iterator[Bend]:
    """The bends, each with its faces on both sides; pieces of one that follow each other are one."""
    groups: list[tuple[Rolled, list[int]]] = []
    for row in sorted(laid):
        own = laid[row]
        if isinstance(own, Rolled):
            reach = _reach(part, row, own)
            beside = [
                g for g in groups if _one_bend(g[0], own, near) and _meet(_reach(part, g[1][-1], own), reach, near)
            ]
            if beside:
                beside[0][1].append(row)
            else:
                groups.append((own, [row]))
    for first, rows in groups:
        # both sides turn by the same; pieces of one side follow each other
        pieces = {tuple(np.round(r.out, 6)): r.angle for k in rows if isinstance(r := laid[k], Rolled)}
        reach = np.concatenate([_reach(part, k, first) for k in rows])
        own_side = part.faces[rows[0]]
        hollow = own_side.sense * own_side.surface.hand < 0
        yield Bend(
            faces=tuple(rows),
            radius=first.radius,
            angle=math.degrees(sum(pieces.values())),
            length=float(np.ptp(reach)),
            up=hollow == (rows[0] in upper),
            place=first.origin + (reach.min() + reach.max()) / 2 * first.axis,
            axis=first.axis,
        )


def _reach(part: Part, row: int, rolled: Rolled) -> Array:
    """From where to where (2,), mm along a bend's axis, a face reaches."""
    along = (part.mesh.nodes[part.faces[row].nodes] - rolled.origin) @ rolled.axis
    return np.array([along.min(), along.max()])


def _meet(one: Array, two: Array, near: float) -> bool:
    return bool(min(one[1], two[1]) > max(one[0], two[0]) + near)


def _one_bend(one: Rolled, two: Rolled, near: float) -> bool:
    """True for pieces of one bend, or its two sides: about one axis, by one radius, turned the same way."""
    if float(one.axis @ two.axis) < 1 - 1e-9 or abs(one.radius - two.radius) >= near:
        return False
    return off_axis(one.origin, one.axis, two.origin) <= near


@lru_cache(maxsize=32)
def bent_sheets(part: Part) -> dict[int, BentSheet]:
    """The bodies of a part that are bent sheets, by row; those without a bend are plates, and none."""
    rows: list[list[int]] = [[] for _ in part.bodies]
    for k, f in enumerate(part.faces):
        rows[f.body].append(k)
    found = {}
    for body, own in enumerate(rows):
        if sum(part.faces[k].surface.kind == "cylinder" for k in own) < 2:
            continue
        try:
            sheet = bent_sheet_of(part, body, Rule(), own)
        except UserError:
            continue
        if sheet.bends:
            found[body] = sheet
    return found
