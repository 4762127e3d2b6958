"""Which round features of a view deserve a centre mark (seen face on) or a centre line (seen from the side)."""

from __future__ import annotations

from collections.abc import Iterable
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from ..drawing import AnyAnnotation, CentreLine, CentreMark
from ..features.rings import circles, round_faces
from ..part.model import Face
from ..views.projected_scene import ProjectedScene
from .anchor_geometry import cylinder_reach

Array = NDArray[np.float64]
BEYOND_HALF = 1.01 * np.pi
"""Turn (rad) from which on a round is a hole or boss: a half turn is an end of a slot, less is a fillet."""


Features = tuple[list[str], list[list[str]]]
_known: WeakKeyDictionary[ProjectedScene, Features] = WeakKeyDictionary()


def round_features(projected: ProjectedScene) -> Features:
    """What :func:`_found` finds in a projected scene, looked for once."""
    found = _known.get(projected)
    if found is None:
        found = _known[projected] = _found(projected)
    return found


def _found(projected: ProjectedScene) -> Features:
    """Edges that deserve a centre mark, and groups of faces that share an axis seen from the side.

    One mark stands for all circles about one centre (the largest that shows more than a half turn); fillets and the
    ends of slots get none.
    """
    part, toward = projected.part, projected.view.toward
    near = 1e-5 * part.size
    marks: dict[tuple[int, ...], tuple[float, str]] = {}
    sweep: dict[tuple[int, ...], float] = {}
    cut = projected.scene.is_cut
    # of what is cut only that counts which is seen: hidden lines are left out there
    shown = {s for c in projected.curves if c.visible or not cut for s in (c.source, *c.also)}

    def seen(face: Face) -> bool:
        return not cut or face.ref in shown or any(part.edges[e].ref in shown for e in face.boundary)

    def placed(points: Array) -> list[list[int]]:
        found: list[list[int]] = (
            np.round(projected.flat_each(points) / near / 10).astype(int).tolist() if len(points) else []
        )
        return found

    rows, origins, along, radii, sweeps = circles(part)
    wanted = np.nonzero(np.abs(along @ toward) >= 1 - 1e-9)[0]
    places = placed(origins[wanted])
    depths = np.round(origins[wanted] @ toward / near / 10).tolist()
    for k, place, depth in zip(wanted.tolist(), places, depths, strict=True):
        ref, radius = part.edges[rows[k]].ref, float(radii[k])
        if ref not in shown:
            continue
        here = tuple(place)
        ring = (*here, round(radius / near / 10), round(depth))
        sweep[ring] = sweep.get(ring, 0.0) + float(sweeps[k])
        if sweep[ring] > BEYOND_HALF and (here not in marks or radius > marks[here][0]):
            marks[here] = (radius, ref)
    rows, origins, along, radii, round_ = round_faces(part)
    slope = np.abs(along @ toward)
    wanted = np.nonzero(slope >= 1 - 1e-9)[0]
    places = placed(origins[wanted])
    for k, place in zip(wanted.tolist(), places, strict=True):
        face = part.faces[rows[k]]
        if face.surface.kind != "cylinder" or not seen(face):
            continue
        here = tuple(place)
        turn = (*here, round(float(radii[k]) / near / 10))
        sweep[turn] = sweep.get(turn, 0.0) + float(round_[k])
        if sweep[turn] > BEYOND_HALF and here not in marks:
            marks[here] = (float(radii[k]), face.ref)
    axes: dict[tuple[int, ...], list[int]] = {}
    turns: dict[tuple[int, ...], float] = {}
    wanted = np.nonzero(slope <= 1e-6)[0]
    z = along[wanted]
    # one way for all, the first figure that is not nothing above 0
    lead = np.take_along_axis(z, np.argmax(np.abs(z) > 1e-6, axis=1)[:, None], axis=1) if len(z) else np.zeros((0, 1))
    z = z * np.where(lead > 0, 1.0, -1.0)
    feet = origins[wanted] - np.einsum("ij,ij->i", origins[wanted], z)[:, None] * z
    keys = np.round(np.concatenate([feet / near / 10, z * 1e5], axis=1)).astype(int).tolist()
    for k, own in zip(wanted.tolist(), keys, strict=True):
        face = part.faces[rows[k]]
        if not seen(face):
            continue
        key = tuple(own)
        axes.setdefault(key, []).append(rows[k])
        ring = (*key, round(float(radii[k]) / near / 10))
        turns[ring] = turns.get(ring, 0.0) + float(round_[k])
        turns[key] = max(turns.get(key, 0.0), turns[ring])
    lines = _drawn_once(projected, [own for key, own in axes.items() if turns[key] > BEYOND_HALF])
    return [ref for _, ref in marks.values()], [[part.faces[row].ref for row in own] for own in lines]


def _drawn_once(projected: ProjectedScene, axes: list[list[int]]) -> list[list[int]]:
    """Faces (by row) that share an axis, with those put together whose axes lie on each other in the view."""
    near = 1e-5 * projected.part.size
    alike: dict[tuple[int, ...], list[tuple[float, float, list[int]]]] = {}
    found: list[list[int]] = []
    for own in axes:
        ends = projected.flat_each(np.concatenate([cylinder_reach(projected, row)[0] for row in own]))
        surface = projected.part.faces[own[0]].surface
        way = projected.flat_each(np.stack([surface.origin, surface.origin + surface.axes[2]]))
        u = way[1] - way[0]
        if not np.linalg.norm(u) > 1e-6:
            found.append(own)
            continue
        u *= np.sign(u[np.argmax(np.abs(u) > 1e-6)]) / np.linalg.norm(u)
        along, aside = ends @ u, float(ends[0] @ [-u[1], u[0]])
        key = (round(aside / near / 10), *np.round(u * 1e5).astype(int).tolist())
        alike.setdefault(key, []).append((float(along.min()), float(along.max()), own))
    for spans in alike.values():
        reach = -np.inf
        for low, high, own in sorted(spans):
            if low > reach + near:
                found.append([])
            found[-1].extend(own)
            reach = max(reach, high)
    return found


def existing(annotations: Iterable[AnyAnnotation], view: str) -> tuple[set[str], set[str]]:
    """References that already carry a centre mark or lie on a centre line in a view."""
    marks = {a.ref for a in annotations if isinstance(a, CentreMark) and a.on == view}
    lines = {r for a in annotations if isinstance(a, CentreLine) and a.on == view for r in a.refs}
    return marks, lines
