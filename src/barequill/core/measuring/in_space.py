"""What dimensions measure in a pictorial view: the part in space, where their ends lie in it, never the paper.

A pictorial view has directions of its own: level, upright and inward as the view has them that it is a picture of. Distances
are measured along one of them or straight from end to end; extension lines run along another, or along what is measured
from, so that a dimension lies in a plane of the part. What has no true meaning there is refused.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor, Dimension
from ..errors import Unmeasurable
from ..geometry.curves3 import Curve3
from ..geometry.vectors import cross
from ..views.projected_scene import ProjectedScene
from .anchor_geometry import AnchorGeometry
from .measured import Angular, Linear, axis_of

Array = NDArray[np.float64]
AXES = {"horizontal": 0, "vertical": 1, "inward": 2}
"""The directions of a pictorial view, by their rows among its own."""
LEVEL = 1e-6
"""Sine of the angle within which directions are the same."""
SHORT = 0.02
"""What is foreshortened more than to this share is not measured: its ends lie all but behind each other."""


def own_axes(projected: ProjectedScene) -> Array:
    """The directions (3, 3) of a pictorial view in the part: level, upright, inward."""
    return np.array(projected.scene.own, float)


def check_anchors(projected: ProjectedScene, dimension: Dimension) -> None:
    """Refuse ends that are on the paper alone: where lines cross in the view that do not meet in space, and outlines.

    Raises
    ------
    Unmeasurable
    """
    for anchor in dimension.anchors:
        if anchor.at == "outline" and dimension.measure not in ("diameter", "radius", "length", "taper"):
            raise Unmeasurable(
                "An outline is no line of the part",
                "Where it lies is a matter of the view. Measure from an edge or an axis.",
            )
        if anchor.at == "line" and dimension.measure != "depth" and not _is_straight(projected, anchor):
            raise Unmeasurable("That edge is not straight", "It only looks so from here. Take its radius or diameter.")
        if anchor.at in ("cross", "meet") and not _meet(projected, anchor):
            raise Unmeasurable("These edges do not meet", "They only cross in this view. Measure from one of them.")


def _curve(projected: ProjectedScene, ref: str) -> Curve3 | None:
    kind, row = projected.part.find(ref) or ("", 0)
    return projected.part.edges[row].curve if kind == "edge" else None


def _is_straight(projected: ProjectedScene, anchor: Anchor) -> bool:
    curve = _curve(projected, anchor.ref)
    return curve is None or curve.kind == "line"


def _meet(projected: ProjectedScene, anchor: Anchor) -> bool:
    """Whether two edges come together in space, extended where they are to be (``cross``)."""
    one, two = _curve(projected, anchor.ref), _curve(projected, anchor.other)
    near = 1e-5 * projected.whole.size
    if one is None or two is None:
        return False
    if anchor.at == "cross":
        (p, u), (q, v) = ((c.point(c.t0), c.point(c.t1) - c.point(c.t0)) for c in (one, two))
        across = cross(u, v)
        length = float(np.linalg.norm(across))
        return length > 0 and abs(float((q - p) @ across)) / length < near
    # between places of both that are nearest to each other, ever closer
    spans = [(c.t0, c.t1) for c in (one, two)]
    for _ in range(6):
        ts, us = (np.linspace(a, b, 65) for a, b in spans)
        gaps = np.linalg.norm(one.points(ts)[:, None] - two.points(us)[None], axis=2)
        i, j = np.unravel_index(int(gaps.argmin()), gaps.shape)
        if gaps[i, j] < near:
            return True
        spans = [
            (max(c.t0, t[k] - 2 * (t[1] - t[0])), min(c.t1, t[k] + 2 * (t[1] - t[0])))
            for c, t, k in ((one, ts, i), (two, us, j))
        ]
    return False


def between(projected: ProjectedScene, dimension: Dimension, p: Array, q: Array) -> Linear:
    """The distance of two points (3,) of the part: straight, along a direction of the view, or along what was picked.

    Raises
    ------
    Unmeasurable
        Where there is none along it, or it cannot be shown.
    """
    gap, size = q - p, projected.whole.size
    if dimension.along:
        axis = axis_of(projected, dimension.along)
    elif dimension.direction == "aligned":
        axis = gap / max(float(np.linalg.norm(gap)), 1e-300)
    else:
        axis = own_axes(projected)[AXES[dimension.direction]]
    value = abs(float(gap @ axis))
    if value < 1e-9 * max(size, 1.0):
        raise Unmeasurable("There is no distance along it", "Both ends lie square to it; pull it another way.")
    rest = gap - (gap @ axis) * axis
    if float(np.linalg.norm(rest)) > 1e-7 * size:
        outs = [rest / np.linalg.norm(rest)]
    else:
        outs = [a for a in own_axes(projected) if np.linalg.norm(cross(a, axis)) > LEVEL]
    ends = projected.flat(p[None]), projected.flat(q[None])
    return _drawn(projected, value, axis, outs, aim=dimension.place.angle, ends=ends)


def _drawn(
    projected: ProjectedScene, value: float, axis: Array, outs: list[Array], aim: float, ends: tuple[Array, Array]
) -> Linear:
    """A measure along a direction (3,) with extension lines along that of some (3,) which lies nearest to ``aim`` (degrees)
    on the paper."""
    along = projected.view.flat(axis[None])[0]
    if float(np.linalg.norm(along)) < SHORT:
        raise Unmeasurable(
            "It runs along the sight", "Its ends lie behind each other here. Measure it in another view."
        )
    along = along / np.linalg.norm(along)
    found: list[tuple[float, Array]] = []
    for out in outs:
        flat = projected.view.flat(out[None])[0]
        length = float(np.linalg.norm(flat))
        if length < SHORT or abs(float(along[0] * flat[1] - along[1] * flat[0])) < 0.05 * length:
            continue
        way = np.radians(aim)
        found.append((abs(float(flat @ [np.cos(way), np.sin(way)])) / length, flat / length))
    if not found:
        raise Unmeasurable("It lies on edge here", "Its extension lines would lie in it. Measure it in another view.")
    return Linear(value, along, *ends, out=max(found, key=lambda f: f[0])[1])


def distance(projected: ProjectedScene, dimension: Dimension, a: AnchorGeometry, b: AnchorGeometry) -> Linear:
    """The distance in space of two points, of a point from a line, or of two lines that are parallel.

    Raises
    ------
    Unmeasurable
        Where there is none.
    """
    lines = [s for s in (a, b) if s.kind == "line"]
    if not lines:
        return between(projected, dimension, a.space[0], b.space[0])
    ways = [s.space[1] - s.space[0] for s in lines]
    ways = [w / max(float(np.linalg.norm(w)), 1e-300) for w in ways]
    if len(ways) == 2 and float(np.linalg.norm(cross(ways[0], ways[1]))) > LEVEL:
        raise Unmeasurable(
            "These edges are not parallel", "In space they are not. Take their angle, or a point of one of them."
        )
    gap = b.space[0] - a.space[0]
    gap = gap - (gap @ ways[0]) * ways[0]
    value = float(np.linalg.norm(gap))
    if value < 1e-9 * max(projected.whole.size, 1.0):
        raise Unmeasurable("Both lie in one line", "There is no distance between them.")
    return _drawn(projected, value, gap / value, [ways[0]], aim=0.0, ends=(a.points, b.points))


def angle(projected: ProjectedScene, found: Angular, a: AnchorGeometry, b: AnchorGeometry) -> Angular:
    """An angle as a view has it on the paper, with what it is between the edges in space.

    Raises
    ------
    Unmeasurable
        Where the edges do not lie in one plane.
    """
    (p, u), (q, v) = ((s.space[0], s.space[1] - s.space[0]) for s in (a, b))
    across = cross(u, v)
    length = float(np.linalg.norm(across))
    if length < LEVEL * float(np.linalg.norm(u) * np.linalg.norm(v)):
        raise Unmeasurable("These edges are parallel", "They have a distance, not an angle.")
    if abs(float((q - p) @ across)) / length > 1e-5 * projected.whole.size:
        raise Unmeasurable(
            "These edges do not meet", "They only cross in this view. Measure the angle in a view along both."
        )
    rays = [np.array([np.cos(t), np.sin(t)]) for t in (found.start, found.end)]
    turned = []
    for ray in rays:
        # the edge whose picture the ray is, in its sense
        flats = [projected.view.flat(w[None])[0] for w in (u, v)]
        k = int(np.argmax([abs(float(f @ ray)) / max(float(np.linalg.norm(f)), 1e-300) for f in flats]))
        way = (u, v)[k] * np.sign(float(flats[k] @ ray))
        turned.append(way / np.linalg.norm(way))
    value = float(np.degrees(np.arctan2(np.linalg.norm(cross(*turned)), float(turned[0] @ turned[1]))))
    return Angular(value, found.apex, found.start, found.end, found.first, found.second)
