"""Where in a view anything of the part is, by rays; and how the ends of stretches taken out are drawn for that."""

from __future__ import annotations

import numpy as np
import shapely

from ..drawing import Break
from ..projection.rays import first_seen, in_front, ray_structure
from ..projection.table import table_of
from .projected_scene import ProjectedScene
from .view_transform import Array

FREE = 90.0
"""mm on the sheet up to which an end is drawn freehand rather than with a zigzag."""
SAMPLES = 400


def covered(projected: ProjectedScene, points: Array) -> np.ndarray:
    """True (m,) where anything of what a projected scene shows lies behind points (m, 2; view mm)."""
    p = np.atleast_2d(points) + projected.centre
    part, view = projected.part, projected.view
    if not len(part.mesh.nodes) or not len(p):
        return np.zeros(len(p), bool)
    origins = in_front(part, view, p)
    if not projected.scene.is_cut:
        return ray_structure(part).blocked(origins, -view.toward)
    found = np.zeros(len(p), bool)
    for region in projected.taken.regions:
        found |= shapely.contains_xy(shapely.Polygon(region.rings[0], region.rings[1:]), p[:, 0], p[:, 1])
    if not projected.scene.legs:
        found |= first_seen(part, projected.scene.cut, table_of(part).wires, origins, -view.toward)[0] >= 0
    return found


def runs_across(projected: ProjectedScene, at: float, axis: int) -> list[tuple[float, float]]:
    """From where to where (view mm) the part is met along the line ``at`` a place of an axis, square to it."""
    other = 1 - axis
    low, high = projected.mesh_box[other]
    v = np.linspace(low, high, SAMPLES + 2)

    def on(values: Array) -> np.ndarray:
        points = np.empty((len(values), 2))
        points[:, axis], points[:, other] = at, values
        return covered(projected, points)

    inside = on(v)
    inside[[0, -1]] = False
    turns = np.nonzero(np.diff(inside))[0]
    a, b, rising = v[turns], v[turns + 1], inside[turns + 1]
    for _ in range(16):
        middle = (a + b) / 2
        up = on(middle) == rising
        a, b = np.where(up, a, middle), np.where(up, middle, b)
    ends = (a + b) / 2
    return [(float(p), float(q)) for p, q in zip(ends[::2], ends[1::2], strict=False)]


def form_of(b: Break, projected: ProjectedScene, scale: float) -> str:
    """How the ends of a stretch are drawn: as those of a round bar or tube where the part is one there, else freehand,
    or with a zigzag where they are long."""
    axis = 0 if b.along == "x" else 1
    runs = runs_across(projected, b.start, axis)
    if not runs:
        return "zigzag"
    low, high = runs[0][0], runs[-1][1]
    way = projected.view.right if axis == 0 else projected.view.up
    part, near = projected.part, 1e-3 * projected.part.size
    bore = outer = False
    for face in part.faces:
        s = face.surface
        if s.kind != "cylinder" or abs(float(s.axes[2] @ way)) < 1 - 1e-6:
            continue
        flat = projected.flat_each(part.mesh.nodes[face.nodes])
        if not flat[:, axis].min() - near <= b.start <= flat[:, axis].max() + near:
            continue
        centre = float(projected.flat_each(s.origin[None])[0][1 - axis])
        if abs(centre - (low + high) / 2) > near:
            continue
        if abs(2 * s.radius - (high - low)) < near:
            outer = True
        elif 2 * s.radius < high - low:
            normals = part.mesh.normals[face.nodes]
            outward = part.mesh.nodes[face.nodes] - s.origin
            bore |= float(np.einsum("ij,ij->i", normals, outward).mean()) < 0
    if outer and len(runs) == 1:
        return "tube" if bore else "round"
    return "freehand" if (high - low) * scale < FREE else "zigzag"
