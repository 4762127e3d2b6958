"""The part as plain data: bodies, faces, edges and vertices with lasting references, and the mesh.

Nothing here needs the kernel: a part read once can be kept, sent to another process and projected
without it. Lengths are mm, angles radians, in the frame of the part file.
"""

from __future__ import annotations

import hashlib
from collections import Counter
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3
from ..geometry.surfaces import Surface
from ..values import value
from .named_sizes import NamedSize, NamedThread, sizes_told
from .products import Product, told

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Joint = Literal["sharp", "smooth", "same", "border"]


@dataclass(frozen=True)
class Body:
    """A solid, or a body of surfaces only (then without volume)."""

    name: str
    solid: bool
    volume: float
    area: float
    centroid: tuple[float, float, float]
    material: str | None = None
    density: float | None = None
    """g/cm³, from the file."""
    product: int = 0
    """The row of the product of which it is a body."""
    path: tuple[int, ...] = ()
    """Where that stands in the whole: the row of the top product, then of each use its place among the uses of the one above."""
    colour: str = ""
    """As ``#rrggbb``, where the file gives one."""


@value
class Face:
    """A face: its surface, its sense, and the rows of the mesh that show it."""

    ref: str
    body: int
    surface: Surface
    reversed: bool
    area: float
    centre: Array
    nodes: slice
    triangles: slice
    boundary: tuple[int, ...] = ()

    @property
    def sense(self) -> float:
        """+1 where the outward normal is the surface's natural normal, else -1."""
        return -1.0 if self.reversed else 1.0


@value
class Edge:
    """An edge between two faces (``same``: of one surface, never drawn; ``border``: of one face only).

    ``t`` (m,) are parameters of a fine polyline, ``points`` (m, 3) its points, ``normals`` (2, m, 3) the
    outward normals of both faces there (repeated on a border), ``convex`` (m,) tells where material
    fills less than a half turn about the edge.
    """

    ref: str
    body: int
    curve: Curve3
    joint: Joint
    faces: tuple[int, ...]
    ends: tuple[int, int]
    t: Array
    points: Array
    normals: Array
    convex: NDArray[np.bool_]


@value
class Mesh:
    """Triangles of all faces: nodes (n, 3), their surface parameters and outward normals, triangles (m, 3), each on a
    face; how far (mm) those of each face stray from it (f,)."""

    nodes: Array
    uv: Array
    normals: Array
    triangles: Ints
    face_of: Ints
    deflection: float
    strays: Array


@value
class BendLine:
    """The middle of a bend on a flat pattern, by the reference of its edge: ``radius`` within (mm), ``angle`` (degrees) by which it is
    bent, ``up`` toward the viewer or away."""

    ref: str
    radius: float
    angle: float
    up: bool


@value
class Part:
    """A part read from a file, or made of one."""

    key: str
    name: str
    number: str
    unit: str
    bodies: tuple[Body, ...]
    faces: tuple[Face, ...]
    edges: tuple[Edge, ...]
    vertices: Array
    vertex_refs: tuple[str, ...]
    mesh: Mesh
    low: Array
    high: Array
    remarks: tuple[str, ...] = field(default=())
    meeting: tuple[tuple[int, int], ...] | None = None
    """Bodies that run into each other, by their rows; None where that has not been looked for."""
    products: tuple[Product, ...] = ()
    """What the file says that the whole is put together of."""
    bends: tuple[BendLine, ...] = ()
    """Of a flat pattern."""
    apart: tuple[tuple[float, float, float], ...] = ()
    """Of an exploded view: by how much (mm) each body is moved from its place."""
    sizes: tuple[NamedSize, ...] = ()
    """Those that its file names: of a recipe."""
    threads: tuple[NamedThread, ...] = ()
    """Those that its file says."""

    @cached_property
    def size(self) -> float:
        """Diagonal of the box around the part, mm."""
        return float(np.linalg.norm(self.high - self.low))

    @cached_property
    def volume(self) -> float:
        """Volume of all solids, mm³."""
        return sum(b.volume for b in self.bodies)

    @cached_property
    def area(self) -> float:
        """Surface area of all bodies, mm²."""
        return sum(b.area for b in self.bodies)

    @cached_property
    def centroid(self) -> tuple[float, float, float]:
        """Centroid of volume (of area where there is no solid), mm."""
        weights = [b.volume for b in self.bodies] if self.volume > 0 else [b.area for b in self.bodies]
        c = np.average([b.centroid for b in self.bodies], axis=0, weights=weights)
        return (float(c[0]), float(c[1]), float(c[2]))

    def mass(self, density: float | None = None) -> float | None:
        """Mass in g with the file's densities, or one density (g/cm³) for all; None where one is missing."""
        if self.volume <= 0:
            return None
        densities = [density if density is not None else b.density for b in self.bodies if b.solid]
        if any(d is None for d in densities):
            return None
        solids = [b for b in self.bodies if b.solid]
        return sum(b.volume * d / 1000 for b, d in zip(solids, densities, strict=True) if d is not None)

    @cached_property
    def index(self) -> dict[str, tuple[str, int]]:
        """Lasting reference to kind (``face``, ``edge``, ``vertex``) and row."""
        rows: dict[str, tuple[str, int]] = {f.ref: ("face", i) for i, f in enumerate(self.faces)}
        rows.update({e.ref: ("edge", i) for i, e in enumerate(self.edges)})
        rows.update({r: ("vertex", i) for i, r in enumerate(self.vertex_refs)})
        return rows

    def find(self, ref: str) -> tuple[str, int] | None:
        """Kind and row of a reference, also of one made before references were named as they are now; None where it is
        loose."""
        found = self.index.get(ref)
        return found if found is not None else self._former.get(ref)

    @cached_property
    def _former(self) -> dict[str, tuple[str, int]]:
        return _former_index(self)

    def summary(self) -> dict[str, object]:
        """What was read, as plain JSON values: unit, size, volume, area, centroid, mass, bodies, counts."""
        return {
            "unit": self.unit,
            "size": [round(float(x), 9) for x in self.high - self.low],
            "volume": self.volume,
            "area": self.area,
            "centroid": list(self.centroid),
            "mass": self.mass(),
            "bodies": [
                {
                    "name": b.name,
                    "volume": b.volume,
                    "area": b.area,
                    "centroid": list(b.centroid),
                    "solid": b.solid,
                    "material": b.material,
                    "density": b.density,
                    **({"colour": b.colour} if b.colour else {}),
                }
                for b in self.bodies
            ],
            "faces": len(self.faces),
            "edges": sum(1 for e in self.edges if e.joint != "same"),
            "name": self.name,
            "number": self.number,
            "remarks": list(self.remarks),
            "products": told(self.products, [b.product for b in self.bodies]),
            **({"sizes": sizes_told(self.sizes)} if self.sizes else {}),
        }


def _former_index(part: Part) -> dict[str, tuple[str, int]]:
    """References as they were made before (in shares of the part's size, and of a face by all its edges) to kind and row:
    drawings that were kept then hold them, and they are looked up where a reference is not known otherwise."""
    size = part.size
    digits = 6 - int(np.floor(np.log10(max(size, 1e-9))))
    form = f"%.{max(digits, 0)}f"
    zero = form % -0.0, form % 0.0
    seen: Counter[str] = Counter()

    def mark(letter: str, kind: str, *figures: NDArray[np.float64] | float) -> str:
        flat = [x + 0.318e-7 for f in figures for x in np.ravel(f).tolist()]
        flat = [round(x, digits) for x in flat] if digits < 0 else flat
        text = kind + ":" + (",".join([form] * len(flat)) % tuple(flat)).replace(*zero)
        found = letter + hashlib.sha1(text.encode()).hexdigest()[:9]
        seen[found] += 1
        return found if seen[found] == 1 else f"{found}-{seen[found]}"

    found: dict[str, tuple[str, int]] = {}
    edge_refs: list[str] = [""] * len(part.edges)
    ends = np.array([e.points[[0, -1]] for e in part.edges]).reshape(-1, 2, 3)
    ends = np.sort(np.round(ends / size, 6), axis=1) * size
    for body in range(len(part.bodies)):
        for row, edge in enumerate(part.edges):
            if edge.body == body:
                curve = edge.curve
                middle = curve.point((curve.t0 + curve.t1) / 2)
                edge_refs[row] = mark("E", curve.kind, middle, ends[row], curve.length())
                found[edge_refs[row]] = "edge", row
        for row, face in enumerate(part.faces):
            if face.body == body:
                around = sorted(edge_refs[e].partition("-")[0] for e in face.boundary)
                found[mark("F", " ".join([face.surface.kind, *around]), face.surface.radius)] = "face", row
    for row, vertex in enumerate(part.vertices):
        found[mark("V", "vertex", vertex)] = "vertex", row
    return found
