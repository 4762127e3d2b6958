"""What a dimension measures: its value from the part, and where its ends lie in the view."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor, Dimension
from ..errors import Unmeasurable
from ..features.holes import hole_at
from ..geometry.vectors import cross
from ..views.projected_scene import ProjectedScene
from . import in_space
from .anchor_geometry import AnchorGeometry, resolve
from .context import LayoutContext
from .measured import Angular, ArcLength, Linear, Measure, Pointed, Round, axis_of

__all__ = ["Angular", "ArcLength", "Linear", "Measure", "Pointed", "Round", "axis_of", "measure", "opened"]

Array = NDArray[np.float64]


def measure(projected: ProjectedScene, dimension: Dimension) -> Measure:
    """Measure a dimension in a view; values in mm or degrees.

    Raises
    ------
    Unmeasurable
        Where its geometry is gone or gives no such measure.
    """
    geometries = [resolve(projected, a) for a in dimension.anchors]
    if projected.part.apart:
        _check_apart(projected, dimension)
    if projected.pictorial:
        in_space.check_anchors(projected, dimension)
        if dimension.measure in ("chamfer", "slope") or (dimension.measure == "depth" and len(geometries) > 1):
            raise Unmeasurable(
                f"A {dimension.measure} is not told in a pictorial view", "Take it in a view from the side."
            )
    if dimension.measure in ("diameter", "radius"):
        return _round(projected, dimension, geometries[0])
    if dimension.measure == "angle":
        if len(geometries) < 2 and projected.pictorial:
            raise Unmeasurable("A pictorial view has no level", "Take the angle to another edge.")
        other = geometries[1] if len(geometries) > 1 else _level_through(geometries[0])
        found = _angle(geometries[0], other, dimension.place.angle)
        if projected.pictorial and not dimension.on_paper:
            found = in_space.angle(projected, found, geometries[0], other)
        return _reflex(found) if dimension.reflex else found
    if dimension.measure in ("arc", "chord"):
        return _arc(geometries[0], dimension.measure)
    if dimension.measure == "chamfer":
        return _chamfer(dimension, geometries[0])
    if dimension.measure in ("slope", "taper"):
        return _ratio(projected, dimension, geometries)
    if dimension.measure == "depth":
        return _depth(projected, dimension, geometries)
    if dimension.measure == "length":
        ends = geometries[0].points
        if len(ends) < 2:
            raise Unmeasurable("A length needs a straight edge", "Pull it from a straight edge, or from two points.")
        if projected.pictorial:
            return in_space.between(projected, dimension, geometries[0].space[0], geometries[0].space[1])
        return _between(ends[:1], ends[1:], geometries[0].space[0], geometries[0].space[1], dimension, projected)
    if len(geometries) < 2:
        raise Unmeasurable("A distance needs two places", "Pull it from one place over another.")
    if projected.pictorial:
        return in_space.distance(projected, dimension, geometries[0], geometries[1])
    return _distance(projected, dimension, geometries[0], geometries[1])


def _check_apart(projected: ProjectedScene, dimension: Dimension) -> None:
    """Raises Unmeasurable where the ends of a dimension are on bodies that an exploded view has moved from each other."""
    part, steps = projected.part, set()
    for anchor in dimension.anchors:
        kind, row = part.find(anchor.ref) or ("", 0)
        if kind in ("edge", "face"):
            body = part.edges[row].body if kind == "edge" else part.faces[row].body
        else:
            body = next((e.body for e in part.edges if row in e.ends), 0)
        steps.add(part.apart[body])
    if len(steps) > 1:
        raise Unmeasurable(
            "These bodies are pulled apart here", "What is between them is not as it stands: take it in another view."
        )


def _unit(v: Array) -> Array:
    length = float(np.linalg.norm(v))
    if length < 1e-9:
        raise Unmeasurable("Both ends coincide in this view", "Measure it in a view that shows the distance.")
    return v / length


def _between(
    first: Array, second: Array, p: Array, q: Array, dimension: Dimension, projected: ProjectedScene
) -> Linear:
    """Distance between two points in a direction; aligned in a slanting view it is the true one in space."""
    gap = second[0] - first[0]
    if dimension.along:
        axis = axis_of(projected, dimension.along)
        value = float(abs((q - p) @ axis))
        if value < 1e-9:
            raise Unmeasurable("There is no distance along it", "Both places lie square to that edge or axis.")
        return Linear(value, _unit(projected.view.flat(axis[None])[0]), first, second)
    if dimension.direction == "aligned":
        along = _unit(gap)
        value = float(np.linalg.norm(q - p)) if _oblique(projected) else float(abs(gap @ along))
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


def _depth(projected: ProjectedScene, dimension: Dimension, geometries: list[AnchorGeometry]) -> Pointed:
    """How much deeper one place lies than another, along the sight; of a hole by itself how deep it goes."""
    if len(geometries) > 1:
        value = abs(float((geometries[1].space[0] - geometries[0].space[0]) @ projected.view.toward))
        if value < 1e-9:
            raise Unmeasurable("There is no depth", "Both places lie equally deep in this view.")
        return Pointed(value, geometries[0].points[0], "↧ ")
    hole = hole_at(projected.part, dimension.anchors[0].ref)
    if hole is None or hole.depth is None:
        raise Unmeasurable("There is no depth", "Point at a hole with a bottom, or at two places, one after another.")
    spot = geometries[0].points[0]
    if geometries[0].kind == "round" and geometries[0].face_on:
        a = np.radians(dimension.place.angle)
        spot = spot + geometries[0].radius * np.array([np.cos(a), np.sin(a)])
    return Pointed(hole.depth, spot, "↧ ")


def _oblique(projected: ProjectedScene) -> bool:
    """True where the view is along none of the part's own axes."""
    return float(np.abs(projected.view.toward).max()) < 1 - 1e-9


def _distance(projected: ProjectedScene, dimension: Dimension, a: AnchorGeometry, b: AnchorGeometry) -> Linear:
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
        found = _between(a.points[:1], b.points[:1], a.space[0], b.space[0], dimension, projected)
        return replace(found, first=_rims(projected, a), second=_rims(projected, b))
    value = float(abs((b.points[0] - a.points[0]) @ along))
    if value < 1e-9:
        raise Unmeasurable("Both lie in one line", "There is no distance between them in this view.")
    return Linear(value, along, a.points, b.points)


def _rims(projected: ProjectedScene, anchor_geometry: AnchorGeometry) -> Array:
    """The points that an extension line may start from: of a circle seen edge-on its both ends, as its centre is."""
    if (
        anchor_geometry.kind != "round"
        or anchor_geometry.face_on
        or anchor_geometry.axis is None
        or len(anchor_geometry.points) != 1
    ):
        return anchor_geometry.points[:1]
    across = cross(projected.view.toward, anchor_geometry.axis)
    length = float(np.linalg.norm(across))
    if length < 1e-9 or abs(float(anchor_geometry.axis @ projected.view.toward)) > 1e-9:
        return anchor_geometry.points[:1]
    reach = projected.view.flat((anchor_geometry.radius * across / length)[None])[0]
    return np.concatenate([anchor_geometry.points - reach, anchor_geometry.points + reach])


def _round(
    projected: ProjectedScene, dimension: Dimension, anchor_geometry: AnchorGeometry
) -> Linear | Round | Pointed:
    anchor = dimension.anchors[0]
    ball = "S" if _is_ball(projected, anchor.ref) else ""
    if anchor_geometry.kind == "line" and anchor_geometry.axis is not None:
        other = resolve(projected, anchor.model_copy(update={"side": -anchor.side}))
        if dimension.half and opened(projected, other.space) and not opened(projected, anchor_geometry.space):
            anchor_geometry, other = other, anchor_geometry
        # both sides may be there at other heights: across is twice from the axis to one of them
        surface = projected.part.faces[(projected.part.find(anchor.ref) or ("", 0))[1]].surface
        off, axis = anchor_geometry.space - surface.origin, surface.axes[2]
        across = 2 * projected.view.flat(off - (off @ axis)[:, None] * axis)
        first = other.points if surface.kind == "cylinder" else anchor_geometry.points - across
        return Linear(float(np.linalg.norm(across[0])), _unit(across[0]), first, anchor_geometry.points, "Ø")
    if anchor_geometry.kind != "round":
        raise Unmeasurable("That is not round", "A diameter or radius needs a circle, an arc or a cylinder.")
    if anchor_geometry.face_on:
        if dimension.measure == "radius":
            return Round(
                anchor_geometry.radius,
                anchor_geometry.points[0],
                anchor_geometry.radius,
                anchor_geometry.span,
                f"{ball}R",
            )
        return Round(
            2 * anchor_geometry.radius,
            anchor_geometry.points[0],
            anchor_geometry.radius,
            anchor_geometry.span,
            f"{ball}Ø",
        )
    spot = _middle_of(projected, anchor)
    assert anchor_geometry.axis is not None
    if (
        dimension.measure == "radius"
        and spot is not None
        and abs(float(anchor_geometry.axis @ projected.view.toward)) > 1e-6
    ):
        return Pointed(anchor_geometry.radius, spot, "R")
    if dimension.measure == "radius":
        raise Unmeasurable(
            "A radius needs a true circle", "Take it in the view along the axis, or state the diameter here."
        )
    across = cross(projected.view.toward, anchor_geometry.axis)
    length = float(np.linalg.norm(across))
    if length < 1e-9:
        raise Unmeasurable("That is not round here", "Take it in the view along the axis.")
    way = anchor_geometry.radius * across / length
    if (
        dimension.half
        and opened(projected, anchor_geometry.space - way)
        and not opened(projected, anchor_geometry.space + way)
    ):
        way = -way
    reach = projected.view.flat(way[None])[0]
    return Linear(
        2 * anchor_geometry.radius, _unit(reach), anchor_geometry.points - reach, anchor_geometry.points + reach, "Ø"
    )


def opened(projected: ProjectedScene, places: Array) -> bool:
    """True where the cut of a view takes away what stands before places (m, 3): they are laid open."""
    before = places + 1e-5 * projected.whole.size * projected.view.toward
    return any(bool(cut.takes(before, 0.0).all()) for cut in projected.scene.cuts)


def _is_ball(projected: ProjectedScene, ref: str) -> bool:
    """True for a sphere, or a round edge of nothing but one."""
    kind, row = projected.part.find(ref) or ("", 0)
    return kind == "face" and projected.part.faces[row].surface.kind == "sphere"


def _middle_of(projected: ProjectedScene, anchor: Anchor) -> Array | None:
    """The middle (2,) of an arc in a view; None where the anchor is on no edge."""
    kind, row = projected.part.find(anchor.ref) or ("", 0)
    if kind != "edge":
        return None
    curve = projected.part.edges[row].curve
    return projected.flat(curve.point((curve.t0 + curve.t1) / 2)[None])[0]


def _arc(anchor_geometry: AnchorGeometry, what: str) -> ArcLength | Linear:
    """The length of an arc, or of the chord between its ends."""
    sweep = anchor_geometry.span[1] - anchor_geometry.span[0]
    if anchor_geometry.kind != "round" or not anchor_geometry.face_on or sweep > 2 * np.pi - 1e-9:
        raise Unmeasurable("There is no arc face on", "Point at an arc in the view along its axis.")
    if what == "arc":
        return ArcLength(
            anchor_geometry.radius * sweep, anchor_geometry.points[0], anchor_geometry.radius, anchor_geometry.span
        )
    ends = anchor_geometry.points[0] + anchor_geometry.radius * np.array(
        [[np.cos(t), np.sin(t)] for t in anchor_geometry.span]
    )
    return Linear(2 * anchor_geometry.radius * float(np.sin(sweep / 2)), _unit(ends[1] - ends[0]), ends[:1], ends[1:])


def _chamfer(dimension: Dimension, anchor_geometry: AnchorGeometry) -> Linear:
    """A chamfer along one of its lengths: level, upright, or along the longer one."""
    if anchor_geometry.kind != "line":
        raise Unmeasurable("That is no chamfer", "Point at the slanting edge of one, seen from the side.")
    gap = np.abs(anchor_geometry.points[1] - anchor_geometry.points[0])
    if gap.min() < 1e-9:
        raise Unmeasurable("That edge does not slant", "A chamfer is measured on its slanting edge.")
    axis = {"horizontal": 0, "vertical": 1}.get(dimension.direction, int(np.argmax(gap)))
    slant = float(np.degrees(np.arctan2(gap[1 - axis], gap[axis])))
    along = np.eye(2)[axis]
    return Linear(
        value=float(gap[axis]),
        along=along,
        first=anchor_geometry.points[:1],
        second=anchor_geometry.points[1:],
        symbol="",
        slant=slant,
        across=float(gap[1 - axis]),
    )


def _ratio(projected: ProjectedScene, dimension: Dimension, geometries: list[AnchorGeometry]) -> Pointed:
    """The slope of one line to another, or to the level; the taper of a cone: 1 to so much."""
    anchor_geometry = geometries[0]
    if any(s.kind != "line" for s in geometries):
        raise Unmeasurable("That has no slope", "Point at a slanting straight edge, or at the outline of a cone.")
    spot = anchor_geometry.points.mean(axis=0)
    if dimension.measure == "taper":
        anchor = dimension.anchors[0]
        kind, row = projected.part.find(anchor.ref) or ("", 0)
        surface = projected.part.faces[row].surface if kind == "face" else None
        if surface is None or surface.kind != "cone":
            raise Unmeasurable("That is no cone", "A taper is that of a cone, pointed at from the side.")
        return Pointed(0.5 / abs(float(np.tan(surface.half_angle))), spot, "⌲", True)
    u = _unit(anchor_geometry.points[1] - anchor_geometry.points[0])
    v = _unit(geometries[1].points[1] - geometries[1].points[0]) if len(geometries) > 1 else np.array([1.0, 0.0])
    rise, run = abs(float(u[0] * v[1] - u[1] * v[0])), abs(float(u @ v))
    if rise < 1e-9 or run < 1e-9:
        raise Unmeasurable("There is no slope", "The edge is level or upright; it has none.")
    return Pointed(run / rise, spot, "⌳", True)


def _level_through(a: AnchorGeometry) -> AnchorGeometry:
    """The level through the lower end of a line."""
    if a.kind != "line":
        raise Unmeasurable("An angle needs a straight edge", "Pull it from one straight edge over another.")
    low, gap = a.points[int(np.argmin(a.points[:, 1]))], np.abs(a.points[1] - a.points[0])
    if gap[1] <= 1e-9 * gap[0]:
        raise Unmeasurable("The edge is level", "It has no angle to the level; take its angle to another edge.")
    reach = np.array([float(gap.max()), 0.0])
    return AnchorGeometry("line", np.array([low, low + reach]), a.space)


def _reflex(found: Angular) -> Angular:
    """The same angle the other way round."""
    start, end = found.end, found.start + 2 * np.pi
    return replace(found, value=360.0 - found.value, start=start, end=end)


def _angle(a: AnchorGeometry, b: AnchorGeometry, toward: float) -> Angular:
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


def normal_of(along: Array) -> Array:
    """The direction square to a measured one in which its dimension line is set off (up, or to the right)."""
    n = np.array([-along[1], along[0]])
    return -n if n[1] < -1e-9 or (abs(n[1]) <= 1e-9 and n[0] < 0) else n


def forward(u: Array) -> Array:
    """A direction turned to the right, or up: along it the jogs of running dimensions are told, one way for all of a set."""
    return -u if u[0] < -1e-9 or (abs(u[0]) <= 1e-9 and u[1] < 0) else u


def level_of(context: LayoutContext, dimension: Dimension, linear: Linear) -> float:
    """Where the dimension line stands along its normal, sheet mm from the view's zero."""
    transform = context.view.transform
    n = normal_of(transform.direction(linear.along))
    place = dimension.place
    if place.frame == "model":
        return float(transform.to_sheet(linear.first[:1])[0] @ n + place.offset * transform.scale)
    return place.side * (context.view.reach(place.side * n) + place.offset)
