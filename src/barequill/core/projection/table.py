"""What every view of a part needs, laid out in arrays once: its edges as wires, its faces as figures."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.wires import Array, Ints, Wires, from_curves
from ..part.model import Part
from ..values import value
from .piercing import pierced

Flags = NDArray[np.bool_]
JOINTS = ("sharp", "smooth", "same", "border")
RULED = ("cylinder", "cone")


@value
class Meetings:
    """Pieces of edges (k of them) along faces of some kind: the left row of each, its side and its face."""

    row: Ints
    side: Ints
    face: Ints


@value
class Table:
    """The arrays of a part.

    Of edges: ``wires``, ``normals`` (2, m, 3) and ``convex`` (m,) by rows of the wires; ``joint`` (n,) as
    a place in JOINTS; ``lift`` (n,) mm; ``sheet`` (n,) True for edges of bodies
    of surfaces only; ``curved_face`` (n,) a face beside it that is not plane, or -1;
    ``bent`` (n,) False for lines. Of faces: ``origin`` (f, 3), ``axis`` (f, 3), ``radius``, ``sine`` and
    ``cosine`` of the half angle (0 and 1 for cylinders), ``sense`` (+1 where the natural normal is the
    outward one), ``apex`` (f,) True where a face reaches the apex of its cone, ``face_lift`` (f,) mm.
    ``turning`` (f,): faces
    with outlines that are no rulings. ``ruled`` and ``others``: where edges run along cylinders and cones, and
    along other curved faces. ``pierced``: edges and parameters at which they
    run into or out of another body. ``edge_refs``, ``face_refs``: lasting references.
    """

    wires: Wires
    normals: Array
    convex: Flags
    joint: Ints
    lift: Array
    sheet: Flags
    curved_face: Ints
    bent: Flags
    origin: Array
    axis: Array
    radius: Array
    sine: Array
    cosine: Array
    sense: Array
    apex: Flags
    face_lift: Array
    ruled: Meetings
    others: Meetings
    turning: Flags
    pierced: tuple[Ints, Array]
    edge_refs: list[str]
    face_refs: list[str]


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
    ruled_face = np.array([s.kind in RULED for s in surfaces], bool)
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
    return Table(
        wires=wires,
        normals=np.concatenate([e.normals for e in edges], axis=1) if edges else np.zeros((2, 0, 3)),
        convex=np.concatenate([e.convex for e in edges]) if edges else np.zeros(0, bool),
        joint=joint,
        lift=np.maximum(lifts[first], lifts[second]),
        sheet=np.array([not part.bodies[e.body].solid for e in edges], bool),
        curved_face=np.where(exact[first], first, np.where(exact[second], second, -1)),
        bent=np.array([e.curve.kind != "line" for e in edges], bool),
        origin=np.array([s.origin for s in surfaces]).reshape(-1, 3),
        axis=np.array([s.axes[2] for s in surfaces]).reshape(-1, 3),
        radius=np.array([s.radius for s in surfaces]),
        sine=np.array([np.sin(s.half_angle) for s in surfaces]),
        cosine=np.array([np.cos(s.half_angle) for s in surfaces]),
        sense=np.array([f.sense * f.surface.hand for f in faces]),
        apex=apex,
        face_lift=lifts,
        ruled=Meetings(row_of[on_ruled], side_of[on_ruled], face_of[on_ruled]),
        others=Meetings(row_of[on_other], side_of[on_other], face_of[on_other]),
        turning=curved & ~ruled_face,
        pierced=pierced(part, wires, np.array([e.body for e in edges], np.int64), touching=True),
        edge_refs=[e.ref for e in edges],
        face_refs=[f.ref for f in faces],
    )
