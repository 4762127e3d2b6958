"""Anchor geometry: the geometry of the part that an annotation hangs on, as one view shows it.

All points are view mm (about the centre of the part's box), taken from the part itself, never from ink.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..drawing import Anchor
from ..errors import Unmeasurable
from ..features.sweeps import pieces_along
from ..geometry.circles import circle_through
from ..geometry.curves3 import Curve3
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.box import surface_extreme
from ..part.chosen import named
from ..values import value
from ..views.projected_scene import ProjectedScene

Array = NDArray[np.float64]
OFF_PITCH = 1e-4
"""In part sizes: how far off their pitch circle a centre may lie."""


@value
class AnchorGeometry:
    """A resolved anchor.

    ``point``: one point. ``line``: two ends. ``round``: ``points`` holds the centre, with ``radius``;
    ``axis`` is its axis in space, ``face_on`` tells that it shows as a true circle, ``span`` its angles
    there (radians, counter-clockwise on the sheet). ``space`` are the same points in the part's frame.
    """

    kind: Literal["point", "line", "round"]
    points: Array
    space: Array
    radius: float = 0.0
    axis: Array | None = None
    face_on: bool = False
    span: tuple[float, float] = (0.0, 2 * np.pi)


def resolve(projected: ProjectedScene, anchor: Anchor) -> AnchorGeometry:
    """The geometry of an anchor in a view.

    Raises
    ------
    Unmeasurable
        Where the part holds no such entity, or it is of another kind.
    """
    if anchor.at in ("pitch", "spoke"):
        return _on_pitch_circle(projected, anchor)
    kind, row = resolve_present(projected, anchor.ref)
    if kind == "vertex":
        return _point(projected, projected.part.vertices[row])
    if anchor.at == "farthest":
        return _point(projected, _farthest(projected, kind, row, anchor.angle))
    if kind == "face":
        return _face_seat(projected, row, anchor)
    curve = projected.part.edges[row].curve
    if anchor.at in ("start", "end", "middle"):
        t = {"start": curve.t0, "end": curve.t1, "middle": (curve.t0 + curve.t1) / 2}[anchor.at]
        return _point(projected, curve.points(np.array([t]))[0])
    if anchor.at == "centre" and curve.kind == "conic":
        assert curve.origin is not None
        return _point(projected, curve.origin)
    if anchor.at == "round" and curve.is_circle:
        return _circle(projected, curve)
    if anchor.at == "rim" and curve.is_circle:
        return _rim(projected, _circle(projected, curve), anchor.angle)
    if anchor.at == "cross" and curve.kind == "line":
        return _crossing(projected, anchor)
    if anchor.at == "along":
        return _point(projected, curve.points(np.array([curve.t0 + anchor.share * (curve.t1 - curve.t0)]))[0])
    if anchor.at == "meet":
        return _point(projected, meeting(projected, anchor))
    if anchor.at == "pierced":
        found_at = pierced_at(projected, row)
        if not found_at:
            raise Unmeasurable(
                "The cut does not meet it", f"The section no longer cuts {anchor.ref}; re-seat the size."
            )
        return _point(projected, min(found_at, key=lambda f: abs(f[0] - anchor.share))[1])
    if anchor.at == "line":
        space = (
            curve.points(np.array([curve.t0, curve.t1])) if curve.kind == "line" else straight_here(projected, curve)
        )
        if space is not None:
            return AnchorGeometry("line", projected.flat(space), space)
    raise Unmeasurable("Nothing to measure there", f"{anchor.ref} is not something that has a {anchor.at}.")


def resolve_present(projected: ProjectedScene, ref: str) -> tuple[str, int]:
    """Kind and row of an entity that a view may show; raises Unmeasurable where it is gone, or cut away."""
    found = projected.part.find(ref)
    if found is None:
        raise Unmeasurable("Loose", f"The part no longer holds {ref}. Remove the dimension, or re-seat it.")
    if projected.scene.is_cut and _cut_away(projected, *found):
        raise Unmeasurable(
            "Cut away", "The section takes away what was measured. Move its line, or state the size elsewhere."
        )
    return found


def _cut_away(projected: ProjectedScene, kind: str, row: int) -> bool:
    """True where the cut of a view leaves nothing of an entity."""
    part, scene = projected.part, projected.scene
    if kind == "vertex":
        body, points = -1, part.vertices[row][None]
    elif kind == "edge":
        body, points = part.edges[row].body, part.edges[row].points
        if any(part.faces[f].ref in scene.ribs for f in part.edges[row].faces):
            # a rib is drawn as if the cut went past before it: what bounds it is seen
            return False
        points = np.concatenate([points, (points[1:] + points[:-1]) / 2])
    else:
        face = part.faces[row]
        if face.ref in scene.ribs:
            return False
        body, points = face.body, part.mesh.nodes[face.nodes]
    if body >= 0 and named(part, scene.cuts[0].whole)[body]:
        return False
    # what lies in the cut itself is still there
    return all(bool(cut.takes(points, -1e-6 * part.size).all()) for cut in scene.cuts)


def _side_of_cylinder(surface: Surface, near: Array, way: Array) -> Array | None:
    """The point (3,) of a cylinder that lies farthest in a direction, as high along its axis as one ``near``; None along the axis."""
    axis = surface.axes[2]
    across = way - (way @ axis) * axis
    length = float(np.linalg.norm(across))
    if length < 1e-9:
        return None
    return np.asarray(surface.origin + surface.radius * across / length + ((near - surface.origin) @ axis) * axis)


def _farthest(projected: ProjectedScene, kind: str, row: int, angle: float) -> Array:
    """The point (3,) of a face or edge that lies farthest at so many degrees from the right of the view."""
    a = np.radians(angle)
    way = np.cos(a) * projected.view.right + np.sin(a) * projected.view.up
    if kind == "edge":
        edge = projected.part.edges[row]
        k = int((edge.points @ way).argmax())
        low, high = edge.t[max(k - 1, 0)], edge.t[min(k + 1, len(edge.t) - 1)]
        for _ in range(8):
            ts = np.linspace(low, high, 33)
            points = edge.curve.points(ts)
            k = int((points @ way).argmax())
            low, high = ts[max(k - 1, 0)], ts[min(k + 1, 32)]
        return np.asarray(points[k])
    mesh, face = projected.part.mesh, projected.part.faces[row]
    if face.nodes.start == face.nodes.stop:
        raise Unmeasurable("Nothing to measure there", "This face could not be meshed.")
    heights = mesh.nodes[face.nodes] @ way
    start = face.nodes.start + int(heights.argmax())
    if face.surface.kind == "plane":
        return np.asarray(mesh.nodes[start])
    if face.surface.kind == "cylinder":
        found = _side_of_cylinder(face.surface, mesh.nodes[start], way)
    else:
        found = surface_extreme(face.surface, mesh.nodes[start], mesh.uv[start], way)
    stray = 3 * float(mesh.strays[row]) + 1e-9 * projected.whole.size
    # a surface may bulge where there is nothing of the face
    if found is None or not -1e-9 * projected.whole.size <= found @ way - heights.max() <= stray:
        found = mesh.nodes[start]
    return np.asarray(found)


def _on_pitch_circle(projected: ProjectedScene, anchor: Anchor) -> AnchorGeometry:
    """The circle through the centres of rounds that are seen face on, or the line from its middle to one of them."""
    own = pitch_circle_of(projected, anchor.ring)
    if anchor.at == "pitch":
        return own
    hole = resolve(projected, Anchor(ref=anchor.ref, at="round"))
    if not hole.face_on:
        raise Unmeasurable("Not seen face on", "Take it in the view along its axis.")
    return AnchorGeometry(
        "line",
        np.array([own.points[0], hole.points[0]]),
        np.array([own.space[0], hole.space[0]]),
    )


def pitch_circle_of(projected: ProjectedScene, refs: Sequence[str]) -> AnchorGeometry:
    """The circle through the centres of rounds; raises Unmeasurable where one is gone or not seen face on, or there is none."""
    rounds = [resolve(projected, Anchor(ref=r, at="round")) for r in refs]
    if not rounds or not all(r.face_on for r in rounds):
        raise Unmeasurable("Not seen face on", "Take the pitch circle in the view along its holes.")
    found = circle_through(np.array([r.points[0] for r in rounds]))
    if found is None or found[2] > OFF_PITCH * projected.whole.size:
        raise Unmeasurable("There is no pitch circle", "These centres do not lie on one circle any more.")
    centre, radius, _ = found
    # as deep as its first hole
    step = centre - rounds[0].points[0]
    space = rounds[0].space[:1] + step[0] * projected.view.right + step[1] * projected.view.up
    return AnchorGeometry("round", centre[None], space, radius, projected.view.toward, True)


def _rim(projected: ProjectedScene, anchor_geometry: AnchorGeometry, angle: float) -> AnchorGeometry:
    """The point of a round seen face on at so many degrees from the right of the view."""
    if not anchor_geometry.face_on:
        raise Unmeasurable("Not seen face on", "Take it in the view along its axis.")
    a = np.radians(angle)
    way = np.cos(a) * projected.view.right + np.sin(a) * projected.view.up
    return _point(projected, anchor_geometry.space[0] + anchor_geometry.radius * way)


def _crossing(projected: ProjectedScene, anchor: Anchor) -> AnchorGeometry:
    """Where two straight edges meet in a view, both extended; in space on the first."""
    one, two = (resolve(projected, Anchor(ref=r, at="line")) for r in (anchor.ref, anchor.other))
    u, v = one.points[1] - one.points[0], two.points[1] - two.points[0]
    turn = u[0] * v[1] - u[1] * v[0]
    if abs(turn) < 1e-9 * float(np.linalg.norm(u) * np.linalg.norm(v)):
        raise Unmeasurable("These edges do not meet", "They are parallel in this view.")
    gap = two.points[0] - one.points[0]
    t = (gap[0] * v[1] - gap[1] * v[0]) / turn
    return AnchorGeometry(
        "point", (one.points[0] + t * u)[None], (one.space[0] + t * (one.space[1] - one.space[0]))[None]
    )


def meeting(projected: ProjectedScene, anchor: Anchor) -> Array:
    """The point (3,) of an edge where another crosses it in a view; of several the one nearest to the anchor's share."""
    part = projected.part
    kind, row = part.find(anchor.other) or ("", 0)
    own = part.edges[(part.find(anchor.ref) or ("", 0))[1]]
    if kind != "edge":
        raise Unmeasurable("Loose", f"The part no longer holds {anchor.other}. Remove the dimension, or re-seat it.")
    found = crossings(projected, own.curve, part.edges[row].curve)
    if not found:
        raise Unmeasurable("These edges do not cross", "They do not meet in this view any more.")
    c = own.curve
    t = min(found, key=lambda x: abs((x - c.t0) / (c.t1 - c.t0) - anchor.share))
    return c.points(np.array([t]))[0]


def crossings(projected: ProjectedScene, one: Curve3, other: Curve3) -> list[float]:
    """Parameters of one curve at which another crosses it in a view."""
    ts, us = (np.linspace(c.t0, c.t1, 2 if c.kind == "line" else 129) for c in (one, other))
    p, q = projected.flat_each(one.points(ts)), projected.flat_each(other.points(us))
    d, e = np.diff(p, axis=0), np.diff(q, axis=0)
    turn = d[:, None, 0] * e[None, :, 1] - d[:, None, 1] * e[None, :, 0]
    gap = q[None, :-1] - p[:-1, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        s = (gap[..., 0] * e[None, :, 1] - gap[..., 1] * e[None, :, 0]) / turn
        r = (gap[..., 0] * d[:, None, 1] - gap[..., 1] * d[:, None, 0]) / turn
    near = 1e-6
    met = (s >= -near) & (s <= 1 + near) & (r >= -near) & (r <= 1 + near)
    found: list[float] = []
    for i, j in zip(*np.nonzero(met), strict=True):
        t = ts[i] + s[i, j] * (ts[i + 1] - ts[i])
        u = us[j] + r[i, j] * (us[j + 1] - us[j])
        t = _refined(projected, one, other, float(t), float(u))
        if not any(abs(t - x) < 1e-6 * (one.t1 - one.t0) for x in found):
            found.append(t)
    return found


def _refined(projected: ProjectedScene, one: Curve3, other: Curve3, t: float, u: float) -> float:
    """A crossing of two curves in a view, from near it on (Newton)."""
    view = projected.view
    for _ in range(8):
        (p, dp), (q, dq) = (c.derivatives(np.array([x])) for c, x in ((one, t), (other, u)))
        gap = (view.flat(q) - view.flat(p))[0]
        a, b = view.flat(dp)[0], view.flat(dq)[0]
        turn = a[0] * b[1] - a[1] * b[0]
        if abs(turn) < 1e-12:
            break
        t += (gap[0] * b[1] - gap[1] * b[0]) / turn
        u += (gap[0] * a[1] - gap[1] * a[0]) / turn
    return t


def pierced_at(projected: ProjectedScene, row: int) -> list[tuple[float, Array]]:
    """Where an edge passes through the cut of a view, looked at from before it: shares of its parameter, and points."""
    edge = projected.part.edges[row]
    curve, found = edge.curve, []
    for cut in projected.scene.cuts:
        for cutting_plane in cut.cutting_planes:
            normal = np.array(cutting_plane.normal)
            if not cutting_plane.shown or abs(float(normal @ projected.view.toward)) < 0.05:
                continue
            side = edge.points @ normal - cutting_plane.offset
            for k in np.nonzero((side[:-1] < 0) != (side[1:] < 0))[0]:
                t = float(edge.t[k] + side[k] / (side[k] - side[k + 1]) * (edge.t[k + 1] - edge.t[k]))
                for _ in range(6):
                    p, dp = curve.derivatives(np.array([t]))
                    slope = float(dp[0] @ normal)
                    if abs(slope) < 1e-12:
                        break
                    t -= (float(p[0] @ normal) - cutting_plane.offset) / slope
                point = curve.points(np.array([t]))[0]
                share = float(np.clip((t - curve.t0) / (curve.t1 - curve.t0), 0.0, 1.0))
                found.append((share, point))
    return found


def _point(projected: ProjectedScene, p: Array) -> AnchorGeometry:
    return AnchorGeometry("point", projected.flat(p[None]), p[None])


def _circle(projected: ProjectedScene, curve: Curve3) -> AnchorGeometry:
    assert curve.origin is not None and curve.x is not None and curve.y is not None
    axis = cross(curve.x, curve.y)
    axis /= np.linalg.norm(axis)
    across = float(axis @ projected.view.toward)
    face_on = abs(across) > 1 - 1e-9
    span = (0.0, 2 * np.pi)
    if face_on and not curve.full_turn:
        x = projected.view.flat(curve.x[None])[0]
        base = float(np.arctan2(x[1], x[0]))
        span = (base + curve.t0, base + curve.t1) if across > 0 else (base - curve.t1, base - curve.t0)
    return AnchorGeometry(
        kind="round",
        points=projected.flat(curve.origin[None]),
        space=curve.origin[None],
        radius=curve.radius,
        axis=axis,
        face_on=face_on,
        span=span,
    )


def straight_here(projected: ProjectedScene, curve: Curve3) -> Array | None:
    """The farthest points (2, 3) of a bent curve that a view shows as a straight line, being in line with its plane; None
    where it shows bent."""
    toward, near = projected.view.toward, 1e-6 * projected.whole.size
    if curve.kind == "conic":
        assert curve.x is not None and curve.y is not None
        normal = cross(curve.x, curve.y)
        if abs(float(normal @ toward)) > 1e-9 * float(np.linalg.norm(normal)):
            return None
        along = cross(normal, toward)
        top = float(np.arctan2(curve.y @ along, curve.x @ along))
        turns = top + np.pi * np.arange(-8, 9)
        t = np.concatenate([[curve.t0, curve.t1], turns[(turns > curve.t0) & (turns < curve.t1)]])
        reach = curve.points(t) @ along
        return curve.points(t[[int(reach.argmin()), int(reach.argmax())]])
    t = curve.parameters(near)
    flat = projected.view.flat(curve.points(t))
    off = flat - flat[0]
    along = off[int(np.argmax(np.einsum("ij,ij->i", off, off)))]
    length = float(np.linalg.norm(along))
    if length < near or np.abs(off[:, 0] * along[1] - off[:, 1] * along[0]).max() > near * length:
        return None
    reach = off @ along
    return curve.points(t[[int(reach.argmin()), int(reach.argmax())]])


def bore_of(projected: ProjectedScene, row: int) -> int | None:
    """The cylindrical face beside an edge that is seen along its axis, so that the edge shows as a circle."""
    for face in projected.part.edges[row].faces:
        s = projected.part.faces[face].surface
        if s.kind == "cylinder" and abs(float(s.axes[2] @ projected.view.toward)) > 1 - 1e-9:
            return face
    return None


def cylinder_reach(projected: ProjectedScene, row: int) -> tuple[Array, Array]:
    """Ends (2, 3) of the axis of a cylindrical or conical face, and its radius at each (2,)."""
    face = projected.part.faces[row]
    s = face.surface
    # a face that could not be meshed still reaches as far as its edges
    places = [
        projected.part.mesh.nodes[face.nodes],
        *(projected.part.edges[e].points for e in face.boundary),
        s.origin[None],
    ]
    along = (next(p for p in places if len(p)) - s.origin) @ s.axes[2]
    ends = np.array([along.min(), along.max()])
    radii = np.full(2, s.radius) + (ends * np.tan(s.half_angle) if s.kind == "cone" else 0.0)
    return s.origin + ends[:, None] * s.axes[2], np.abs(radii)


def _face_seat(projected: ProjectedScene, row: int, anchor: Anchor) -> AnchorGeometry:
    s = projected.part.faces[row].surface
    if s.kind == "sphere" and anchor.at in ("round", "outline", "centre", "rim"):
        if anchor.at == "centre":
            return _point(projected, s.origin)
        ball = AnchorGeometry(
            "round", projected.flat(s.origin[None]), s.origin[None], s.radius, projected.view.toward, True
        )
        return _rim(projected, ball, anchor.angle) if anchor.at == "rim" else ball
    if s.kind not in ("cylinder", "cone"):
        raise Unmeasurable(
            "Nothing to measure there", "Only round faces (cylinders, cones, spheres) carry a size of their own."
        )
    ends, radii = cylinder_reach(projected, row)
    axis = s.axes[2]
    if anchor.at in ("round", "rim") and s.kind == "cylinder":
        face_on = abs(float(axis @ projected.view.toward)) > 1 - 1e-9
        anchor_geometry = AnchorGeometry("round", projected.flat(ends), ends, s.radius, axis, face_on)
        return anchor_geometry if anchor.at == "round" else _rim(projected, anchor_geometry, anchor.angle)
    if anchor.at == "outline":
        across = outline_normal(projected, axis, anchor.side)
        pieces = pieces_of_outline(projected, row, anchor.side)
        if pieces:
            shares = np.array(min(pieces, key=lambda p: max(p[0] - anchor.share, anchor.share - p[1], 0.0)))
            ends = ends[0] + shares[:, None] * (ends[1] - ends[0])
            radii = radii[0] + shares * (radii[1] - radii[0])
        off = radii[:, None] * across
        # from its axis, wherever that is shown: the leg of a section that holds it tells
        return AnchorGeometry(
            "line", projected.flat(ends) + projected.view.flat(off), ends + off, radius=s.radius, axis=axis
        )
    if anchor.at == "axis":
        return AnchorGeometry("line", projected.flat(ends), ends)
    if anchor.at == "centre":
        return _point(projected, ends.mean(axis=0))
    raise Unmeasurable("Nothing to measure there", f"A {s.kind} has no {anchor.at}.")


def pieces_of_outline(projected: ProjectedScene, row: int, side: int) -> list[tuple[float, float]]:
    """The pieces of the outline of a cylinder or cone on one side, in shares of how far its axis reaches."""
    s = projected.part.faces[row].surface
    across = outline_normal(projected, s.axes[2], side)
    low, high = ((e - s.origin) @ s.axes[2] for e in cylinder_reach(projected, row)[0])
    found = pieces_along(projected.part, row, (float(across[0]), float(across[1]), float(across[2])))
    return [(float((a - low) / (high - low)), float((b - low) / (high - low))) for a, b in found if high > low]


def outline_normal(projected: ProjectedScene, axis: Array, side: int) -> Array:
    """Unit vector square to an axis and to the direction of view, to its left on the sheet for side +1."""
    across = cross(projected.view.toward, axis)
    length = np.linalg.norm(across)
    if length < 1e-9:
        raise Unmeasurable(
            "Nothing to measure there", "Seen along its axis a cylinder has no outline; take its circle."
        )
    across = across / length
    flat, along = projected.view.flat(across[None])[0], projected.view.flat(axis[None])[0]
    if along[0] < -1e-9 or (abs(along[0]) <= 1e-9 and along[1] < 0):
        along = -along
    left = along[0] * flat[1] - along[1] * flat[0] > 0
    return across * side if left else -across * side
