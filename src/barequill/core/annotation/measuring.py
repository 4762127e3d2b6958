"""What a dimension measures: its value from the part, and where its ends lie in the view."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor, Dimension
from ..errors import Unmeasurable
from ..geometry.vectors import cross
from ..part.features.holes import hole_at
from ..views.shot import Shot
from . import in_space
from .measured import Angular, ArcLength, Linear, Measure, Pointed, Round, axis_of
from .seats import Seat, resolve

__all__ = ["Angular", "ArcLength", "Linear", "Measure", "Pointed", "Round", "axis_of", "measure", "opened"]

Array = NDArray[np.float64]


def measure(shot: Shot, dimension: Dimension) -> Measure:
    """Measure a dimension in a view; values in mm or degrees.

    Raises
    ------
    Unmeasurable
        Where its geometry is gone or gives no such measure.
    """
    seats = [resolve(shot, a) for a in dimension.anchors]
    if shot.pictorial:
        in_space.check_anchors(shot, dimension)
        if dimension.measure in ("chamfer", "slope") or (dimension.measure == "depth" and len(seats) > 1):
            raise Unmeasurable(
                f"A {dimension.measure} is not told in a pictorial view", "Take it in a view from the side."
            )
    if dimension.measure in ("diameter", "radius"):
        return _round(shot, dimension, seats[0])
    if dimension.measure == "angle":
        if len(seats) < 2 and shot.pictorial:
            raise Unmeasurable("A pictorial view has no level", "Take the angle to another edge.")
        other = seats[1] if len(seats) > 1 else _level_through(seats[0])
        found = _angle(seats[0], other, dimension.place.angle)
        if shot.pictorial and not dimension.on_paper:
            found = in_space.angle(shot, found, seats[0], other)
        return _reflex(found) if dimension.reflex else found
    if dimension.measure in ("arc", "chord"):
        return _arc(seats[0], dimension.measure)
    if dimension.measure == "chamfer":
        return _chamfer(dimension, seats[0])
    if dimension.measure in ("slope", "taper"):
        return _ratio(shot, dimension, seats)
    if dimension.measure == "depth":
        return _depth(shot, dimension, seats)
    if dimension.measure == "length":
        ends = seats[0].points
        if len(ends) < 2:
            raise Unmeasurable("A length needs a straight edge", "Pull it from a straight edge, or from two points.")
        if shot.pictorial:
            return in_space.between(shot, dimension, seats[0].space[0], seats[0].space[1])
        return _between(ends[:1], ends[1:], seats[0].space[0], seats[0].space[1], dimension, shot)
    if len(seats) < 2:
        raise Unmeasurable("A distance needs two places", "Pull it from one place over another.")
    if shot.pictorial:
        return in_space.distance(shot, dimension, seats[0], seats[1])
    return _distance(shot, dimension, seats[0], seats[1])


def _unit(v: Array) -> Array:
    length = float(np.linalg.norm(v))
    if length < 1e-9:
        raise Unmeasurable("Both ends coincide in this view", "Measure it in a view that shows the distance.")
    return v / length


def _between(first: Array, second: Array, p: Array, q: Array, dimension: Dimension, shot: Shot) -> Linear:
    """Distance between two points in a direction; aligned in a slanting view it is the true one in space."""
    gap = second[0] - first[0]
    if dimension.along:
        axis = axis_of(shot, dimension.along)
        value = float(abs((q - p) @ axis))
        if value < 1e-9:
            raise Unmeasurable("There is no distance along it", "Both places lie square to that edge or axis.")
        return Linear(value, _unit(shot.view.flat(axis[None])[0]), first, second)
    if dimension.direction == "aligned":
        along = _unit(gap)
        value = float(np.linalg.norm(q - p)) if _oblique(shot) else float(abs(gap @ along))
    elif dimension.direction == "inward":
        raise Unmeasurable("There is no distance inward here", "Only pictorial views show what runs along the sight.")
    else:
        along = np.array([1.0, 0.0]) if dimension.direction == "horizontal" else np.array([0.0, 1.0])
        value = float(abs(gap @ along))
        if value < 1e-9:
            raise Unmeasurable(
                f"There is no {dimension.direction} distance", "Both ends lie in one line; pull it the other way."
            )
    return Linear(value, along, first, second)


def _depth(shot: Shot, dimension: Dimension, seats: list[Seat]) -> Pointed:
    """How much deeper one place lies than another, along the sight; of a hole by itself how deep it goes."""
    if len(seats) > 1:
        value = abs(float((seats[1].space[0] - seats[0].space[0]) @ shot.view.toward))
        if value < 1e-9:
            raise Unmeasurable("There is no depth", "Both places lie equally deep in this view.")
        return Pointed(value, seats[0].points[0], "↧ ")
    hole = hole_at(shot.part, dimension.anchors[0].ref)
    if hole is None or hole.depth is None:
        raise Unmeasurable("There is no depth", "Point at a hole with a bottom, or at two places, one after another.")
    spot = seats[0].points[0]
    if seats[0].kind == "round" and seats[0].face_on:
        a = np.radians(dimension.place.angle)
        spot = spot + seats[0].radius * np.array([np.cos(a), np.sin(a)])
    return Pointed(hole.depth, spot, "↧ ")


def _oblique(shot: Shot) -> bool:
    """True where the view is along none of the part's own axes."""
    return float(np.abs(shot.view.toward).max()) < 1 - 1e-9


def _distance(shot: Shot, dimension: Dimension, a: Seat, b: Seat) -> Linear:
    lines = [s for s in (a, b) if s.kind == "line"]
    if len(lines) == 2:
        u, v = _unit(a.points[1] - a.points[0]), _unit(b.points[1] - b.points[0])
        if abs(u[0] * v[1] - u[1] * v[0]) > 1e-6:
            raise Unmeasurable("These edges are not parallel", "Take their angle, or a point of one of them.")
        along = np.array([-u[1], u[0]])
    elif len(lines) == 1:
        u = _unit(lines[0].points[1] - lines[0].points[0])
        along = np.array([-u[1], u[0]])
    else:
        found = _between(a.points[:1], b.points[:1], a.space[0], b.space[0], dimension, shot)
        return replace(found, first=_rims(shot, a), second=_rims(shot, b))
    value = float(abs((b.points[0] - a.points[0]) @ along))
    if value < 1e-9:
        raise Unmeasurable("Both lie in one line", "There is no distance between them in this view.")
    return Linear(value, along, a.points, b.points)


def _rims(shot: Shot, seat: Seat) -> Array:
    """The points that an extension line may start from: of a circle seen edge-on its both ends, as its centre is."""
    if seat.kind != "round" or seat.face_on or seat.axis is None or len(seat.points) != 1:
        return seat.points[:1]
    across = cross(shot.view.toward, seat.axis)
    length = float(np.linalg.norm(across))
    if length < 1e-9 or abs(float(seat.axis @ shot.view.toward)) > 1e-9:
        return seat.points[:1]
    reach = shot.view.flat((seat.radius * across / length)[None])[0]
    return np.concatenate([seat.points - reach, seat.points + reach])


def _round(shot: Shot, dimension: Dimension, seat: Seat) -> Linear | Round | Pointed:
    anchor = dimension.anchors[0]
    ball = "S" if _is_ball(shot, anchor.ref) else ""
    if seat.kind == "line" and seat.axis is not None:
        other = resolve(shot, anchor.model_copy(update={"side": -anchor.side}))
        if dimension.half and opened(shot, other.space) and not opened(shot, seat.space):
            seat, other = other, seat
        # both sides may be there at other heights: across is twice from the axis to one of them
        surface = shot.part.faces[(shot.part.find(anchor.ref) or ("", 0))[1]].surface
        off, axis = seat.space - surface.origin, surface.axes[2]
        across = 2 * shot.view.flat(off - (off @ axis)[:, None] * axis)
        first = other.points if surface.kind == "cylinder" else seat.points - across
        return Linear(float(np.linalg.norm(across[0])), _unit(across[0]), first, seat.points, "Ø")
    if seat.kind != "round":
        raise Unmeasurable("That is not round", "A diameter or radius needs a circle, an arc or a cylinder.")
    if seat.face_on:
        if dimension.measure == "radius":
            return Round(seat.radius, seat.points[0], seat.radius, seat.span, f"{ball}R")
        return Round(2 * seat.radius, seat.points[0], seat.radius, seat.span, f"{ball}Ø")
    spot = _middle_of(shot, anchor)
    assert seat.axis is not None
    if dimension.measure == "radius" and spot is not None and abs(float(seat.axis @ shot.view.toward)) > 1e-6:
        return Pointed(seat.radius, spot, "R")
    if dimension.measure == "radius":
        raise Unmeasurable(
            "A radius needs a true circle", "Take it in the view along the axis, or state the diameter here."
        )
    across = cross(shot.view.toward, seat.axis)
    length = float(np.linalg.norm(across))
    if length < 1e-9:
        raise Unmeasurable("That is not round here", "Take it in the view along the axis.")
    way = seat.radius * across / length
    if dimension.half and opened(shot, seat.space - way) and not opened(shot, seat.space + way):
        way = -way
    reach = shot.view.flat(way[None])[0]
    return Linear(2 * seat.radius, _unit(reach), seat.points - reach, seat.points + reach, "Ø")


def opened(shot: Shot, places: Array) -> bool:
    """True where the cut of a view takes away what stands before places (m, 3): they are laid open."""
    before = places + 1e-5 * shot.whole.size * shot.view.toward
    return any(bool(cut.takes(before, 0.0).all()) for cut in shot.scene.cuts)


def _is_ball(shot: Shot, ref: str) -> bool:
    """True for a sphere, or a round edge of nothing but one."""
    kind, row = shot.part.find(ref) or ("", 0)
    return kind == "face" and shot.part.faces[row].surface.kind == "sphere"


def _middle_of(shot: Shot, anchor: Anchor) -> Array | None:
    """The middle (2,) of an arc in a view; None where the anchor is on no edge."""
    kind, row = shot.part.find(anchor.ref) or ("", 0)
    if kind != "edge":
        return None
    curve = shot.part.edges[row].curve
    return shot.flat(curve.point((curve.t0 + curve.t1) / 2)[None])[0]


def _arc(seat: Seat, what: str) -> ArcLength | Linear:
    """The length of an arc, or of the chord between its ends."""
    sweep = seat.span[1] - seat.span[0]
    if seat.kind != "round" or not seat.face_on or sweep > 2 * np.pi - 1e-9:
        raise Unmeasurable("There is no arc face on", "Point at an arc in the view along its axis.")
    if what == "arc":
        return ArcLength(seat.radius * sweep, seat.points[0], seat.radius, seat.span)
    ends = seat.points[0] + seat.radius * np.array([[np.cos(t), np.sin(t)] for t in seat.span])
    return Linear(2 * seat.radius * float(np.sin(sweep / 2)), _unit(ends[1] - ends[0]), ends[:1], ends[1:])


def _chamfer(dimension: Dimension, seat: Seat) -> Linear:
    """A chamfer along one of its lengths: level, upright, or along the longer one."""
    if seat.kind != "line":
        raise Unmeasurable("That is no chamfer", "Point at the slanting edge of one, seen from the side.")
    gap = np.abs(seat.points[1] - seat.points[0])
    if gap.min() < 1e-9:
        raise Unmeasurable("That edge does not slant", "A chamfer is measured on its slanting edge.")
    axis = {"horizontal": 0, "vertical": 1}.get(dimension.direction, int(np.argmax(gap)))
    slant = float(np.degrees(np.arctan2(gap[1 - axis], gap[axis])))
    along = np.eye(2)[axis]
    return Linear(
        value=float(gap[axis]),
        along=along,
        first=seat.points[:1],
        second=seat.points[1:],
        symbol="",
        slant=slant,
        across=float(gap[1 - axis]),
    )


def _ratio(shot: Shot, dimension: Dimension, seats: list[Seat]) -> Pointed:
    """The slope of one line to another, or to the level; the taper of a cone: 1 to so much."""
    seat = seats[0]
    if any(s.kind != "line" for s in seats):
        raise Unmeasurable("That has no slope", "Point at a slanting straight edge, or at the outline of a cone.")
    spot = seat.points.mean(axis=0)
    if dimension.measure == "taper":
        anchor = dimension.anchors[0]
        kind, row = shot.part.find(anchor.ref) or ("", 0)
        surface = shot.part.faces[row].surface if kind == "face" else None
        if surface is None or surface.kind != "cone":
            raise Unmeasurable("That is no cone", "A taper is that of a cone, pointed at from the side.")
        return Pointed(0.5 / abs(float(np.tan(surface.half_angle))), spot, "⌲", True)
    u = _unit(seat.points[1] - seat.points[0])
    v = _unit(seats[1].points[1] - seats[1].points[0]) if len(seats) > 1 else np.array([1.0, 0.0])
    rise, run = abs(float(u[0] * v[1] - u[1] * v[0])), abs(float(u @ v))
    if rise < 1e-9 or run < 1e-9:
        raise Unmeasurable("There is no slope", "The edge is level or upright; it has none.")
    return Pointed(run / rise, spot, "⌳", True)


def _level_through(a: Seat) -> Seat:
    """The level through the lower end of a line."""
    if a.kind != "line":
        raise Unmeasurable("An angle needs a straight edge", "Pull it from one straight edge over another.")
    low, gap = a.points[int(np.argmin(a.points[:, 1]))], np.abs(a.points[1] - a.points[0])
    if gap[1] <= 1e-9 * gap[0]:
        raise Unmeasurable("The edge is level", "It has no angle to the level; take its angle to another edge.")
    reach = np.array([float(gap.max()), 0.0])
    return Seat("line", np.array([low, low + reach]), a.space)


def _reflex(found: Angular) -> Angular:
    """The same angle the other way round."""
    start, end = found.end, found.start + 2 * np.pi
    return replace(found, value=360.0 - found.value, start=start, end=end)


def _angle(a: Seat, b: Seat, toward: float) -> Angular:
    """The angle between two lines, in the sector that holds the direction ``toward`` (degrees)."""
    if a.kind != "line" or b.kind != "line":
        raise Unmeasurable("An angle needs two straight edges", "Pull it from one straight edge over another.")
    u, v = _unit(a.points[1] - a.points[0]), _unit(b.points[1] - b.points[0])
    cross = u[0] * v[1] - u[1] * v[0]
    if abs(cross) < 1e-9:
        raise Unmeasurable("These edges are parallel", "They have a distance, not an angle.")
    gap = b.points[0] - a.points[0]
    apex = a.points[0] + u * (gap[0] * v[1] - gap[1] * v[0]) / cross
    rays = sorted(float(np.arctan2(d[1], d[0])) % (2 * np.pi) for d in (u, -u, v, -v))
    aim = np.radians(toward) % (2 * np.pi)
    for start, end in zip(rays, [*rays[1:], rays[0] + 2 * np.pi], strict=True):
        if start <= aim < end or start <= aim + 2 * np.pi < end:
            return Angular(float(np.degrees(end - start)), apex, start, end, a.points, b.points)
    raise Unmeasurable("That angle cannot be placed", "Pull it into one of the four sectors between the edges.")
