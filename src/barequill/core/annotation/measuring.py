"""What a dimension measures: its value from the part, and where its ends lie in the view."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..drawing import Dimension
from ..errors import Unmeasurable
from ..geometry.vectors import cross
from ..views.shot import Shot
from .seats import Seat, resolve

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Linear:
    """A measure along ``along`` (2,): ``first`` and ``second`` are the points (k, 2) it may start from."""

    value: float
    along: Array
    first: Array
    second: Array
    symbol: str = ""


@dataclass(frozen=True, eq=False)
class Round:
    """A diameter or radius of a circle seen face on."""

    value: float
    centre: Array
    radius: float
    span: tuple[float, float]
    symbol: str


@dataclass(frozen=True, eq=False)
class Angular:
    """An angle about ``apex`` between two directions (radians, from ``start`` counter-clockwise to ``end``)."""

    value: float
    apex: Array
    start: float
    end: float
    first: Array
    second: Array


Measure = Linear | Round | Angular


def measure(shot: Shot, dimension: Dimension) -> Measure:
    """Measure a dimension in a view; values in mm or degrees.

    Raises
    ------
    Unmeasurable
        Where its geometry is gone or gives no such measure.
    """
    seats = [resolve(shot, a) for a in dimension.anchors]
    if dimension.measure in ("diameter", "radius"):
        return _round(shot, dimension, seats[0])
    if dimension.measure == "angle":
        if len(seats) < 2:
            raise Unmeasurable("An angle needs two lines", "Pull it from one straight edge over another.")
        return _angle(seats[0], seats[1], dimension.place.angle)
    if dimension.measure == "length":
        ends = seats[0].points
        if len(ends) < 2:
            raise Unmeasurable("A length needs a straight edge", "Pull it from a straight edge, or from two points.")
        return _between(ends[:1], ends[1:], seats[0].space[0], seats[0].space[1], dimension, shot)
    if len(seats) < 2:
        raise Unmeasurable("A distance needs two places", "Pull it from one place over another.")
    return _distance(shot, dimension, seats[0], seats[1])


def _unit(v: Array) -> Array:
    length = float(np.linalg.norm(v))
    if length < 1e-9:
        raise Unmeasurable("Both ends coincide in this view", "Measure it in a view that shows the distance.")
    return v / length


def _between(first: Array, second: Array, p: Array, q: Array, dimension: Dimension, shot: Shot) -> Linear:
    """Distance between two points in a direction; aligned in a pictorial view it is the true one in space."""
    gap = second[0] - first[0]
    if dimension.direction == "aligned":
        along = _unit(gap)
        value = float(np.linalg.norm(q - p)) if _oblique(shot) else float(abs(gap @ along))
    else:
        along = np.array([1.0, 0.0]) if dimension.direction == "horizontal" else np.array([0.0, 1.0])
        value = float(abs(gap @ along))
        if value < 1e-9:
            raise Unmeasurable(
                f"There is no {dimension.direction} distance", "Both ends lie in one line; pull it the other way."
            )
    return Linear(value, along, first, second)


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


def _round(shot: Shot, dimension: Dimension, seat: Seat) -> Linear | Round:
    anchor = dimension.anchors[0]
    if seat.kind == "line" and seat.axis is not None:
        other = resolve(shot, anchor.model_copy(update={"side": -anchor.side}))
        along = _unit(seat.points[0] - other.points[0])
        value = float(abs((seat.points[0] - other.points[0]) @ along))
        return Linear(value, along, other.points, seat.points, "Ø")
    if seat.kind != "round":
        raise Unmeasurable("That is not round", "A diameter or radius needs a circle, an arc or a cylinder.")
    if seat.face_on:
        if dimension.measure == "radius":
            return Round(seat.radius, seat.points[0], seat.radius, seat.span, "R")
        return Round(2 * seat.radius, seat.points[0], seat.radius, seat.span, "Ø")
    if dimension.measure == "radius":
        raise Unmeasurable(
            "A radius needs a true circle", "Take it in the view along the axis, or state the diameter here."
        )
    assert seat.axis is not None
    across = cross(shot.view.toward, seat.axis)
    length = float(np.linalg.norm(across))
    if length < 1e-9:
        raise Unmeasurable("That is not round here", "Take it in the view along the axis.")
    reach = shot.view.flat((seat.radius * across / length)[None])[0]
    return Linear(2 * seat.radius, _unit(reach), seat.points - reach, seat.points + reach, "Ø")


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
