"""Which round features of a view deserve a centre mark (seen face on) or a centre line (seen from the side)."""

from __future__ import annotations

from collections.abc import Iterable
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from ..drawing import AnyAnnotation, CentreLine, CentreMark
from ..geometry.vectors import cross
from ..part.model import Face
from ..views.shot import Shot
from .seats import turn_of

Array = NDArray[np.float64]
BEYOND_HALF = 1.01 * np.pi
"""Turn (rad) from which on a round is a hole or boss: a half turn is an end of a slot, less is a fillet."""


Features = tuple[list[str], list[list[str]]]
_known: WeakKeyDictionary[Shot, Features] = WeakKeyDictionary()


def round_features(shot: Shot) -> Features:
    """What :func:`_found` finds in a shot, looked for once."""
    found = _known.get(shot)
    if found is None:
        found = _known[shot] = _found(shot)
    return found


def _found(shot: Shot) -> Features:
    """Edges that deserve a centre mark, and groups of faces that share an axis seen from the side.

    One mark stands for all circles about one centre (the largest that shows more than a half turn); fillets and the
    ends of slots get none.
    """
    part, toward = shot.part, shot.view.toward
    near = 1e-5 * part.size
    marks: dict[tuple[int, ...], tuple[float, str]] = {}
    sweep: dict[tuple[int, ...], float] = {}
    cut = shot.scene.is_cut
    # of what is cut only that counts which is seen: hidden lines are left out there
    shown = {s for c in shot.curves if c.visible or not cut for s in (c.source, *c.also)}

    def seen(face: Face) -> bool:
        return not cut or face.ref in shown or any(part.edges[e].ref in shown for e in face.boundary)

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
        if sweep[ring] > BEYOND_HALF and (here not in marks or curve.radius > marks[here][0]):
            marks[here] = (curve.radius, edge.ref)
    for face in part.faces:
        s = face.surface
        if s.kind != "cylinder" or abs(float(s.axes[2] @ toward)) < 1 - 1e-9 or not seen(face):
            continue
        here = tuple(np.round(shot.flat(s.origin[None])[0] / near / 10).astype(int).tolist())
        turn = (*here, round(s.radius / near / 10))
        sweep[turn] = sweep.get(turn, 0.0) + turn_of(part.mesh.normals[face.nodes], s.axes[2])
        if sweep[turn] > BEYOND_HALF and here not in marks:
            marks[here] = (s.radius, face.ref)
    axes: dict[tuple[int, ...], list[str]] = {}
    turns: dict[tuple[int, ...], float] = {}
    for face in part.faces:
        s = face.surface
        if s.kind not in ("cylinder", "cone") or abs(float(s.axes[2] @ toward)) > 1e-6 or not seen(face):
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
    return [ref for _, ref in marks.values()], [refs for key, refs in axes.items() if turns[key] > BEYOND_HALF]


def existing(annotations: Iterable[AnyAnnotation], view: str) -> tuple[set[str], set[str]]:
    """References that already carry a centre mark or lie on a centre line in a view."""
    marks = {a.ref for a in annotations if isinstance(a, CentreMark) and a.on == view}
    lines = {r for a in annotations if isinstance(a, CentreLine) and a.on == view for r in a.refs}
    return marks, lines
