"""Centre marks on circles seen face on, centre lines on round features seen from the side."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..drawing.document import CentreLine, CentreMark
from ..geometry import curves2
from ..geometry.vectors import cross
from ..ink import Ink
from ..views.picture import Picture, Shot
from .seats import cylinder_reach, turn_of

Array = NDArray[np.float64]
BEYOND = 3.0
"""How far centre lines reach beyond the feature, mm."""


def round_features(shot: Shot) -> tuple[list[str], list[list[str]]]:
    """Edges that deserve a centre mark, and groups of faces that share an axis seen from the side.

    One mark stands for all circles about one centre (the largest that shows a half turn or more); fillets
    and other rounds of less than a half turn get none.
    """
    part, toward = shot.part, shot.view.toward
    near = 1e-5 * part.size
    marks: dict[tuple[int, ...], tuple[float, str]] = {}
    sweep: dict[tuple[int, ...], float] = {}
    shown = {s for c in shot.curves for s in (c.source, *c.also)}
    for edge in part.edges:
        if edge.ref not in shown or not edge.curve.is_circle:
            continue
        curve = edge.curve
        assert curve.origin is not None and curve.x is not None and curve.y is not None
        axis = cross(curve.x, curve.y)
        if abs(float(axis @ toward)) < (1 - 1e-9) * float(np.linalg.norm(axis)):
            continue
        centre = shot.flat(curve.origin[None])[0]
        here = tuple(np.round(centre / near / 10).astype(int).tolist())
        ring = (*here, round(curve.radius / near / 10), round(float(curve.origin @ toward) / near / 10))
        sweep[ring] = sweep.get(ring, 0.0) + curve.t1 - curve.t0
        if sweep[ring] > np.pi - 1e-6 and (here not in marks or curve.radius > marks[here][0]):
            marks[here] = (curve.radius, edge.ref)
    for face in part.faces:
        s = face.surface
        if s.kind != "cylinder" or abs(float(s.axes[2] @ toward)) < 1 - 1e-9:
            continue
        here = tuple(np.round(shot.flat(s.origin[None])[0] / near / 10).astype(int).tolist())
        turn = (*here, round(s.radius / near / 10))
        sweep[turn] = sweep.get(turn, 0.0) + turn_of(part.mesh.normals[face.nodes], s.axes[2])
        if sweep[turn] > np.pi * 0.99 and here not in marks:
            marks[here] = (s.radius, face.ref)
    axes: dict[tuple[int, ...], list[str]] = {}
    turns: dict[tuple[int, ...], float] = {}
    for face in part.faces:
        s = face.surface
        if s.kind not in ("cylinder", "cone") or abs(float(s.axes[2] @ toward)) > 1e-6:
            continue
        z = s.axes[2]
        first = int(np.argmax(np.abs(z) > 1e-6))
        z = z if z[first] > 0 else -z
        foot = s.origin - (s.origin @ z) * z
        key = tuple(np.round(np.concatenate([foot / near / 10, z * 1e5])).astype(int).tolist())
        axes.setdefault(key, []).append(face.ref)
        ring = (*key, round(s.radius / near / 10))
        turns[ring] = turns.get(ring, 0.0) + turn_of(part.mesh.normals[face.nodes], z)
        turns[key] = max(turns.get(key, 0.0), turns[ring])
    return [ref for _, ref in marks.values()], [refs for key, refs in axes.items() if turns[key] > np.pi * 0.99]


def draw_centre_mark(ink: Ink, picture: Picture, mark: CentreMark) -> None:
    """Two centre lines across a circle; short ones where the circle is small."""
    ink.group_of[mark.id] = mark.view
    found = picture.shot.part.find(mark.ref)
    if found is None:
        return
    if found[0] == "face":
        surface = picture.shot.part.faces[found[1]].surface
        origin, radius = surface.origin, surface.radius
    else:
        curve = picture.shot.part.edges[found[1]].curve if found[0] == "edge" else None
        if curve is None or curve.kind != "conic" or curve.origin is None:
            return
        origin, radius = curve.origin, curve.radius
    centre = picture.to_sheet(picture.shot.flat(origin[None]))[0]
    reach = radius * picture.scale + (BEYOND if radius * picture.scale > 4 else 2.0)
    for d in (np.array([1.0, 0.0]), np.array([0.0, 1.0])):
        ink.stroke(curves2.line(centre - reach * d, centre + reach * d), "centre", mark.id, mark.ref)


def draw_centre_line(ink: Ink, picture: Picture, line: CentreLine) -> None:
    """One centre line along an axis, a little beyond the features on it."""
    ink.group_of[line.id] = line.view
    part = picture.shot.part
    rows = [f[1] for f in map(part.find, line.refs) if f is not None and f[0] == "face"]
    ends = [
        picture.to_sheet(picture.shot.flat(cylinder_reach(picture.shot, r)[0]))
        for r in rows
        if part.faces[r].surface.kind in ("cylinder", "cone")
    ]
    if not ends:
        return
    points = np.concatenate(ends)
    span = (
        points[-1] - points[0]
        if len(points) < 3
        else points[int(np.argmax(np.linalg.norm(points - points[0], axis=1)))] - points[0]
    )
    length = float(np.linalg.norm(span))
    if length < 1e-9:
        return
    u = span / length
    along = (points - points[0]) @ u
    p, q = points[0] + (along.min() - BEYOND) * u, points[0] + (along.max() + BEYOND) * u
    ink.stroke(curves2.line(p, q), "centre", line.id, line.refs[0])


def existing(annotations: list, view: str) -> tuple[set[str], set[str]]:
    """References that already carry a centre mark or lie on a centre line in a view."""
    marks = {a.ref for a in annotations if isinstance(a, CentreMark) and a.view == view}
    lines = {r for a in annotations if isinstance(a, CentreLine) and a.view == view for r in a.refs}
    return marks, lines


__all__ = ["draw_centre_line", "draw_centre_mark", "existing", "round_features"]
