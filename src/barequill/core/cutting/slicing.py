"""Where cutting planes meet faces: the mesh tells how the pieces hang together, the exact surfaces where they run."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import polyline
from ..geometry.forms import forms_of, joined_forms
from ..geometry.held import hold, let_go
from ..geometry.wires import Wires, joined
from ..part.chosen import named
from ..part.model import Part
from .figures import NEAR, figures_of, known_of
from .fitting import Sliced, opened_by, sliced
from .grazing import grazed, refined
from .limits import HAIR, Array, Cut, Ints
from .records import Fine

log = logging.getLogger(__name__)
Flags = NDArray[np.bool_]
FIT = 2e-7
"""How far a fitted curve may stray, in part sizes."""
CHORD = 2e-5


@lru_cache(maxsize=8)
def slices_of(part: Part, cut: Cut, edges: Wires) -> list[tuple[int, Any, Any]]:
    """Where the cutting planes of a cut that are shown meet the faces of a part, by cutting plane: its row, and held what it meets
    (:class:`Sliced`), and that as boundaries of what is laid open (:class:`Opened`); ``edges``: those of the part as wires."""
    group = cut.group.tolist()
    cutting_planes = [
        row for row, cutting_plane in enumerate(cut.cutting_planes) if cutting_plane.shown and group[row] == row
    ]
    return [(row, *_sliced_by(part, edges, cut, row)) for row in cutting_planes]


def _sliced_by(part: Part, edges: Wires, cut: Cut, row: int) -> tuple[Any, Any]:
    """Where one cutting plane meets the faces: exactly, but for chains that cannot be followed, and for bodies of which what was found is not what
    the mesh has; these are as the mesh has them."""
    figures = figures_of(part)
    known, safe, size = known_of(part, edges), named(part, cut.whole), part.size
    normal, offset = cut.normals[row], float(cut.offsets[row])
    finer = grazed(part, edges, normal, offset)
    if finer:
        known = refined(part, finer, edges)

    fine = Fine(size=size, hair=HAIR * size, near=NEAR * size, fit=FIT * size, chord=CHORD * size)

    def run(trusted: Flags, safe: Flags = safe) -> tuple[Any, Any, int, Flags]:
        return sliced(  # type: ignore[no-any-return]
            known=known, safe=safe, trusted=trusted, solid=figures.solid, normal=normal, offset=offset, fine=fine
        )

    trusted = figures.curved
    try:
        found, opened, lost, wrong = run(trusted)
    except Exception:
        log.exception("where a cutting plane meets %s", part.name)
        trusted = _sound(trusted, run)
        found, opened, lost, wrong = run(trusted)
    if not lost and not wrong.any():
        return found, opened
    chains: list[tuple[int, Array]] = []
    if wrong.any():
        log.warning(
            "where a cutting plane meets bodies %s of %s, as their mesh has it", np.nonzero(wrong)[0], part.name
        )
        found = run(trusted, safe | wrong)[0]
        chains = chains_of(figures.mesh, wrong[figures.face_body], normal, offset, HAIR * size)
    it: Sliced = let_go(found)
    chains += [(int(f), it.chains[a:b]) for f, a, b in zip(it.lost, it.lost_begin, it.lost_begin[1:], strict=False)]
    whole = _with_chains(part, it, chains)
    return hold(whole), hold(opened_by(whole))


def chains_of(
    mesh: tuple[Array, Ints, Ints], wanted: Flags, normal: Array, offset: float, hair: float
) -> list[tuple[int, Array]]:
    """Where a cutting plane meets a mesh (nodes, triangles, the face of each), of the faces ``wanted`` (f,): each chain of sides (m, 3)
    with its face, with the material at its left as one looks against the cutting plane's normal. What lies within ``hair`` (mm) of the cutting plane counts as beyond
    it."""
    nodes, triangles, face_of = mesh
    height = nodes @ normal - offset
    over = (height > -hair)[triangles]
    mixed = over.any(axis=1) & ~over.all(axis=1) & wanted[face_of]
    corners, over, face = triangles[mixed], over[mixed], face_of[mixed]
    after, over_after = np.roll(corners, -1, axis=1), np.roll(over, -1, axis=1)
    sides = np.sort(np.stack([corners, after], axis=2), axis=2)
    # each triangle is entered over one side and left over another
    entry, leave = sides[over & ~over_after], sides[~over & over_after]
    gap = height[entry[:, 0]] - height[entry[:, 1]]
    share = np.clip(height[entry[:, 0]] / np.where(gap != 0, gap, 1.0), 0, 1)
    follows = {(f, *side): k for k, (f, side) in enumerate(zip(face.tolist(), map(tuple, entry.tolist()), strict=True))}
    after_row = [follows.get((f, *side)) for f, side in zip(face.tolist(), leave.tolist(), strict=True)]
    gap = height[leave[:, 0]] - height[leave[:, 1]]
    share_out = np.clip(height[leave[:, 0]] / np.where(gap != 0, gap, 1.0), 0, 1)
    begin = nodes[entry[:, 0]] + share[:, None] * (nodes[entry[:, 1]] - nodes[entry[:, 0]])
    end = nodes[leave[:, 0]] + share_out[:, None] * (nodes[leave[:, 1]] - nodes[leave[:, 0]])
    led = {k for k in after_row if k is not None}
    found, left = [], set(range(len(face)))
    for first in [*(k for k in range(len(face)) if k not in led), *range(len(face))]:
        if first not in left:
            continue
        rows, k = [], first
        while k is not None and k in left:
            left.discard(k)
            rows.append(k)
            k = after_row[k]  # type: ignore[assignment]
        found.append((int(face[first]), np.concatenate([begin[rows], end[rows[-1:]]])))
    return found


def _sound(curved: Flags, run: Callable[[Flags], Any]) -> Flags:
    """Which of the ``curved`` faces can be followed."""
    sound = np.zeros(len(curved), bool)
    for face in np.nonzero(curved)[0]:
        alone = np.zeros(len(curved), bool)
        alone[face] = True
        try:
            run(alone)
            sound[face] = True
        except Exception:
            log.exception("where a cutting plane meets face %s", face)
    return sound


def _with_chains(part: Part, s: Sliced, chains: list[tuple[int, Array]]) -> Sliced:
    """What a cutting plane meets, with chains (m, 3) of faces as the mesh has them."""
    curves, wires, faces, normals = [], [], [], []
    for face, p in chains:
        p = p[np.concatenate([[True], np.linalg.norm(np.diff(p, axis=0), axis=1) > 1e-7 * part.size])]
        if len(p) < 2:
            continue
        curve = polyline(p)
        assert curve.knots is not None
        cubic = np.zeros((3, len(p), 3))
        cubic[0, :-1] = np.diff(p, axis=0)
        own = part.faces[face].nodes
        near = np.argmin(((part.mesh.nodes[own][None] - p[:, None]) ** 2).sum(axis=2), axis=1)
        curves.append(curve)
        wires.append(Wires(np.array([0, len(p)]), curve.knots[1:-1], p, cubic))
        faces.append(face)
        normals.append(part.mesh.normals[own][near])
    every = np.concatenate([s.face, np.array(faces, np.int64)])
    laid = joined([Wires(s.start, s.t, s.points, s.cubic), *wires])
    return s._replace(
        face=every,
        body=figures_of(part).face_body[every],
        meshed=np.arange(len(every)) >= len(s.face),
        forms=joined_forms([s.forms, forms_of(curves)]),
        start=laid.start,
        t=laid.t,
        points=laid.points,
        cubic=laid.cubic,
        normals=np.concatenate([s.normals, *normals]),
    )
