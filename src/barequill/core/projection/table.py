"""What every view of a part needs, laid out in arrays once: its edges as wires, its faces as figures."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..cutting.closed_forms import SPHERE, Faces
from ..cutting.figures import faces_in_arrays
from ..geometry.forms import Forms, forms_of
from ..geometry.wires import Ints, Wires, from_curves
from ..part.model import Part
from ..values import value
from .piercing import pierced
from .round_outlines import Rounds
from .seen import PLAIN, ROUND, RULED, Ledger

Flags = NDArray[np.bool_]
JOINTS = ("sharp", "smooth", "same", "border")
RULINGS = ("cylinder", "cone")


@value
class Meetings:
    """Pieces of edges (k of them) along faces of some kind: the left row of each, its side and its face."""

    row: Ints
    side: Ints
    face: Ints


@value
class Table:
    """The arrays of a part: the ``ledger``, and of its spheres and tori the ``rounds``; the edges as ``wires``, their exact curves as ``forms``; ``others``: where they
    run along curved faces other than cylinders and cones; ``turning`` (f,): faces with outlines that are no rulings, and
    whether these are all of ``closed`` form; ``refs``: lasting references, those of edges first."""

    ledger: Ledger
    rounds: Rounds
    wires: Wires
    forms: Forms
    others: Meetings
    turning: Flags
    closed: bool
    refs: list[str]


@lru_cache(maxsize=8)
def table_of(part: Part) -> Table:
    """The table of a part, kept for the parts last used."""
    edges, faces = part.edges, part.faces
    wires = from_curves([e.curve for e in edges], [e.t for e in edges])
    # inside a triangle a face rises by up to 4/3 of what it does over the sides
    lifts = 1.5 * part.mesh.strays + 1e-5 * part.size
    curved = np.array([f.surface.kind != "plane" for f in faces], bool)
    # outlines of faces known by their mesh only are drawn from that, not along their edges; a face without one is none
    exact = curved & np.array(
        [f.surface.kind != "facets" and f.triangles.stop > f.triangles.start for f in faces], bool
    )
    pairs = np.array([(e.faces[0], e.faces[-1]) for e in edges], np.int64).reshape(-1, 2)
    joint = np.array([JOINTS.index(e.joint) for e in edges], np.int64)
    first, second = pairs.T if len(pairs) else (np.zeros(0, np.int64),) * 2
    surfaces = [f.surface for f in faces]
    apex = np.zeros(len(faces), bool)
    for row, face in enumerate(faces):
        s = face.surface
        if s.kind == "cone":
            tip = s.origin - s.axes[2] * s.radius / np.tan(s.half_angle)
            nodes = part.mesh.nodes[face.nodes]
            apex[row] = bool(len(nodes)) and bool((np.linalg.norm(nodes - tip, axis=1) < 1e-6 * part.size).any())
    ruled_face = np.array([s.kind in RULINGS for s in surfaces], bool)
    left, owner = wires.left, wires.owner[wires.left]
    seam = (joint == JOINTS.index("same")) & (first == second)
    rows, sides, meets = [], [], []
    for side in (0, 1):
        along = ~seam[owner] & ((side == 0) | (first != second)[owner])
        rows.append(left[along])
        sides.append(np.full(int(along.sum()), side))
        meets.append(pairs[owner[along], side])
    row_of, side_of, face_of = np.concatenate(rows), np.concatenate(sides), np.concatenate(meets)
    on_ruled, on_other = ruled_face[face_of], curved[face_of] & ~ruled_face[face_of]
    sheet = np.array([not b.solid for b in part.bodies], bool)
    pierced_edge, pierced_t = pierced(part, wires, np.array([e.body for e in edges], np.int64), touching=True)
    form = [RULED if s.kind in RULINGS else ROUND if s.elementary and s.kind != "plane" else PLAIN for s in surfaces]
    figures, turning = faces_in_arrays(part), curved & ~ruled_face
    ledger = Ledger(
        start=wires.start,
        t=wires.t,
        points=wires.points,
        cubic=wires.cubic,
        normals=np.concatenate([e.normals for e in edges], axis=1) if edges else np.zeros((2, 0, 3)),
        convex=np.concatenate([e.convex for e in edges]) if edges else np.zeros(0, bool),
        joint=joint,
        lift=np.maximum(lifts[first], lifts[second]),
        sheet=sheet[np.array([e.body for e in edges], np.int64)],
        curved=np.where(exact[first], first, np.where(exact[second], second, -1)),
        bent=np.array([e.curve.kind != "line" for e in edges], bool),
        pierced_edge=pierced_edge,
        pierced_t=pierced_t,
        ruled_row=row_of[on_ruled],
        ruled_side=side_of[on_ruled],
        ruled_face=face_of[on_ruled],
        origin=figures.origin,
        axis=figures.axes[:, 2],
        radius=figures.radius,
        sine=np.sin(figures.half),
        cosine=np.cos(figures.half),
        sense=figures.sense,
        apex=apex,
        face_lift=lifts,
        form=np.array(form, np.int64),
        thin=sheet[np.array([f.body for f in faces], np.int64)],
    )
    return Table(
        # the loops are compiled for arrays that lie in a row
        ledger=Ledger._make(map(np.ascontiguousarray, ledger)),
        rounds=_rounds(part, figures),
        wires=wires,
        forms=forms_of([e.curve for e in edges]),
        others=Meetings(row_of[on_other], side_of[on_other], face_of[on_other]),
        turning=turning,
        closed=all(f == ROUND for f, turns in zip(form, turning.tolist(), strict=True) if turns),
        refs=[e.ref for e in edges] + [f.ref for f in faces],
    )


def _rounds(part: Part, figures: Faces) -> Rounds:
    faces, mesh = part.faces, part.mesh
    bounds = np.cumsum([0, *(len(f.boundary) for f in faces)])
    ball = figures.form == SPHERE
    return Rounds(
        axes=figures.axes,
        origin=figures.origin,
        big=np.where(ball, 0.0, figures.radius),
        small=np.where(ball, figures.radius, figures.minor),
        sense=figures.sense,
        triangles=np.array([(f.triangles.start, f.triangles.stop) for f in faces], np.int64).reshape(-1, 2),
        bounds=bounds.astype(np.int64),
        edges=np.array([row for f in faces for row in f.boundary], np.int64),
        nodes=np.ascontiguousarray(mesh.nodes, float),
        corners=np.ascontiguousarray(mesh.triangles, np.int64),
        deflection=float(mesh.deflection),
    )
