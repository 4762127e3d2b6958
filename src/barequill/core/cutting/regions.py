"""What a cut lays open: the boundaries of its faces as strands, and the faces as regions."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property, lru_cache
from itertools import combinations
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.forms import LINE, Forms, forms_of, joined_forms
from ..geometry.planar import lines_of, polygons_of, rings_of, seamless
from ..geometry.recognition import frame_about
from ..geometry.vectors import cross
from ..geometry.wires import Wires, joined, straight
from ..part.model import Part
from ..values import value
from .limits import HAIR, Array, Cut, Ints, Wall
from .rings import held_by, in_wall, through
from .rings import rings_of as closed_rings
from .slicing import CHORD, figures_of, slices_of

Flags = NDArray[np.bool_]
FINE = 4e-6
"""How far, in part sizes, the loops of a cut face may stray from its boundary."""
GAP = 3e-4
"""Widest gap, in part sizes, over which the boundary of a cut face is closed."""


@value
class CutFace:
    """A face that a cut lays open, of one body in one wall.

    ``loops``: closed polylines (m, 3) without their last point again, the outer boundary first, anticlockwise as one
    looks against the wall's normal. ``area`` mm², of the exact curves.
    """

    body: int
    wall: int
    area: float
    loops: tuple[Array, ...]


@value
class Laid:
    """The boundaries (n) of all faces that a cut lays open, and the lines in which two of these meet.

    ``wires``, ``forms``; by boundary its ``face``, ``wall``, and whether it is ``meshed``, ``bent`` (no line) and ``convex``:
    not where two laid open faces meet. By row the outward ``normals`` (m, 3) of the face, or of the other wall.
    """

    wires: Wires
    forms: Forms
    face: Ints
    wall: Ints
    meshed: Flags
    bent: Flags
    convex: Flags
    normals: Array


@lru_cache(maxsize=8)
def laid_open(part: Part, cut: Cut, edges: Wires) -> Laid:
    """The boundaries of what a cut lays open, not yet clipped at other walls; ``edges``: those of the part as wires."""
    s = slices_of(part, cut, edges)
    bent, convex = s.forms.kind != LINE, np.ones(len(s.face), bool)
    corners = _corners(part, cut, edges) if len(cut.walls) > 1 else []
    if not corners:
        return Laid(
            wires=s.wires,
            forms=s.forms,
            face=s.face,
            wall=s.wall,
            meshed=s.meshed,
            bent=bent,
            convex=convex,
            normals=s.normals,
        )
    a, b = np.array([c[0] for c in corners]), np.array([c[1] for c in corners])
    walls = np.array([c[2] for c in corners], np.int64)
    lines = forms_of([None] * len(corners))
    owner = [c[3] for c in corners]
    faces = np.array([next(k for k, f in enumerate(part.faces) if f.body == o) for o in owner], np.int64)
    none = np.zeros(len(corners), bool)
    return Laid(
        wires=joined([s.wires, straight(a, b)]),
        forms=joined_forms([s.forms, lines]),
        face=np.concatenate([s.face, faces]),
        wall=np.concatenate([s.wall, walls[:, 0]]),
        meshed=np.concatenate([s.meshed, none]),
        bent=np.concatenate([bent, none]),
        convex=np.concatenate([convex, none]),
        normals=np.concatenate([s.normals, np.repeat(cut.normals[walls[:, 1]], 2, axis=0)]),
    )


@lru_cache(maxsize=64)
def _frame(wall: Wall) -> Array:
    """A point in a wall, and two directions in it (3, 3), so that right × up is its normal."""
    x, y, n = frame_about(np.array(wall.normal))
    return np.array([n * wall.offset, x, y])


@value
class Region:
    """A region of a wall with rings about it, in the wall's own frame: ``points`` (k, 2), from where in them each ring begins
    (r + 1,), their boxes (r, 4) and the areas (r,) that they hold, below 0 for holes; or one that is ``given`` as a shape, where
    rings are not sound, or it is cut off."""

    points: Array
    first: Ints
    boxes: Array
    turns: Array
    given: Any = None

    @cached_property
    def rings(self) -> list[Array]:
        """Its rings one by one."""
        ends = self.first.tolist()
        return [self.points[a:b] for a, b in zip(ends, ends[1:], strict=False)]

    @cached_property
    def shape(self) -> Any:
        """The region as a shape."""
        return _region(self.rings, self.turns) if self.given is None else self.given

    @cached_property
    def area(self) -> float:
        """Its area, mm²."""
        return float(self.turns.sum() if self.given is None else self.given.area)

    def faces(self, least: float) -> list[tuple[float, list[Array]]]:
        """Its pieces larger than ``least`` (mm²): the area of each and its rings, the outer one first and anticlockwise."""
        if self.given is not None:
            polygons = polygons_of(self.given, least)
            return [(g.area, rings_of(o)) for g, o in zip(polygons, shapely.orient_polygons(polygons), strict=True)]
        around = held_by(self.points, self.first, self.boxes, self.turns)
        found = []
        for r in np.nonzero(self.turns > 0)[0].tolist():
            mine = np.nonzero(around == r)[0]
            area = float(self.turns[r] + self.turns[mine].sum())
            if area > least:
                found.append((area, [self.rings[k] for k in (r, *mine.tolist())]))
        return found


def _given(shape: Any) -> Region:
    none = np.zeros((0, 2))
    return Region(none, np.zeros(1, np.int64), np.zeros((0, 4)), np.zeros(0), shape)


def _region(rings: list[Array], turns: Array) -> Any:
    """The region with rings (m, 2) about it, those that run clockwise as holes."""
    outer = [shapely.Polygon(r) for r, t in zip(rings, turns, strict=True) if t > 0]
    holes = [shapely.Polygon(r) for r, t in zip(rings, turns, strict=True) if t < 0]
    outer = [p if p.is_valid else p.buffer(0) for p in outer]
    holes = [p if p.is_valid else p.buffer(0) for p in holes]
    if not outer:
        return shapely.Polygon()
    if len(outer) == 1 and not holes:
        return outer[0]
    if len(outer) == 1:
        whole = (
            shapely.Polygon(outer[0].exterior, [h.exterior for h in holes if isinstance(h, shapely.Polygon)])
            if (isinstance(outer[0], shapely.Polygon))
            else outer[0]
        )
        if whole.is_valid:
            return whole
    # each hole out of the smallest that holds it
    outer.sort(key=lambda p: p.area)
    mine: dict[int, list[Any]] = defaultdict(list)
    for hole in holes:
        spot = hole.representative_point()
        for k, p in enumerate(outer):
            if p.area >= hole.area and p.contains(spot):
                mine[k].append(hole)
                break
    return shapely.union_all(
        [p.difference(shapely.union_all(mine[k])) if k in mine else p for k, p in enumerate(outer)]
    )


@lru_cache(maxsize=8)
def _whole_regions(
    part: Part, cut: Cut, edges: Wires
) -> dict[tuple[int, int], tuple[Region, float, list[tuple[Array, float]]]]:
    """By wall and body the region in which the whole wall meets the body, in the wall's own frame; what the exact curves
    hold beyond their polylines; and the polylines, each with its own, where there are several walls."""
    s, solid = slices_of(part, cut, edges), figures_of(part).solid
    n, k = len(s.ends), len(s.ends) + len(s.conic)
    found = {}
    walls = sorted(set(s.wall.tolist()))
    for w in walls:
        ends, conic, span, fitted, own = s.ends, s.conic, s.span, np.arange(k, len(s.wall)), slice(None)
        if len(walls) > 1:
            own = s.wall == w
            ends, conic, span, fitted = ends[own[:n]], conic[own[n:k]], span[own[n:k]], fitted[own[k:]]
        flat, begin, bulge = in_wall(
            ends=ends,
            conic=conic,
            span=span,
            wires=(s.wires.start, s.wires.points, s.wires.cubic),
            fitted=fitted,
            frame=_frame(cut.walls[w]),
            fine=FINE * part.size,
        )
        body = s.body[own]
        points, first, of_body, over, turns, boxes, sound = closed_rings(
            flat, begin, bulge, body, solid, GAP * part.size
        )
        bounds = of_body.tolist()
        for b, (r, q) in enumerate(zip(bounds, bounds[1:], strict=False)):
            if r == q:
                continue
            from_, to = int(first[r]), int(first[q])
            region = Region(points[from_:to], first[r : q + 1] - from_, boxes[r:q], turns[r:q])
            if not sound[b]:
                region = _given(region.shape)
            curves = []
            if len(cut.walls) > 1:
                curves = [(flat[begin[i] : begin[i + 1]], float(bulge[i])) for i in np.nonzero(body == b)[0].tolist()]
            found[w, b] = region, float(over[b]), curves
    return found


def _window(cut: Cut, w: int, frame: Array, reach: float) -> Any:
    """What of a wall, and of those in its plane, lies between the other walls of their cells, and in no other cell."""
    o, x, y = frame
    everything = shapely.box(-reach, -reach, reach, reach)

    def half(other: Wall, region: Any, hair: float) -> Any:
        """What of a region lies beyond a wall."""
        n = np.array(other.normal)
        a, b, c = float(n @ x), float(n @ y), float(n @ o) - other.offset
        size = np.hypot(a, b)
        if size < 1e-9:
            return region if c > -hair else shapely.Polygon()
        spot, way = -c / size**2 * np.array([a, b]), np.array([-b, a]) / size
        far, out = 4 * reach, np.array([a, b]) / size
        corners = [spot - far * way, spot + far * way, spot + far * way + far * out, spot - far * way + far * out]
        return region.intersection(shapely.Polygon(corners))

    hair = HAIR * reach / 4
    mine: list[Any] = []
    others: list[Any] = []
    for c, cell in enumerate(cut.cells):
        walls = [
            (k, other) for k, other in zip(range(int(cut.first[c]), int(cut.first[c + 1])), cell.walls, strict=True)
        ]
        own = any(cut.group[k] == w for k, _ in walls)
        piece = everything
        for k, other in walls:
            if cut.group[k] != w:
                piece = half(other, piece, hair)
        if not piece.is_empty:
            (mine if own else others).append(piece)
    region = seamless(mine, 1e-6 * reach) if len(mine) > 2 else shapely.union_all(mine)
    return region.difference(shapely.union_all(others)) if others else region


@lru_cache(maxsize=8)
def laid_regions(part: Part, cut: Cut, edges: Wires) -> tuple[tuple[int, int, Region, float], ...]:
    """The regions that a cut lays open: wall, body, region in the wall's own frame, and area with what the exact curves
    hold beyond their polylines."""
    found = []
    windows: dict[int, Any] = {}
    reach = 2 * part.size + float(np.abs([part.low, part.high]).max())
    # they come wall by wall, and body by body
    for (w, b), (region, bulge, curves) in _whole_regions(part, cut, edges).items():
        if len(cut.walls) > 1:
            if w not in windows:
                windows[w] = _window(cut, w, _frame(cut.walls[w]), reach)
                shapely.prepare(windows[w])
            window = windows[w]
            region = _given(region.shape.intersection(window))
            if bulge:
                bulge = sum(over for p, over in curves if over and window.contains(shapely.LineString(p)))
        if region.area > 0:
            found.append((w, b, region, region.area + bulge))
    return tuple(found)


def behind_laid(part: Part, cut: Cut, edges: Wires, origins: Array, toward: Array) -> Flags:
    """True (m,) where a ray from an origin (m, 3) toward the viewer passes a face that a cut lays open."""
    high = np.full(len(origins), np.inf)
    for w, _, region, _ in laid_regions(part, cut, edges):
        rows, _ = passing(
            cut=cut, wall=w, region=region, origins=origins, direction=toward, low=HAIR * part.size, high=high
        )
        high[rows] = -np.inf
    return high < 0


def passing(
    cut: Cut, wall: int, region: Region, origins: Array, direction: Array, low: float, high: Array
) -> tuple[Ints, Array]:
    """The rays from origins (m, 3) that pass a region of a wall farther than ``low`` and nearer than ``high`` (m,; mm), by
    row, and how far from their origins they do."""
    frame = _frame(cut.walls[wall])
    if region.given is None:
        return through(
            points=region.points,
            first=region.first,
            boxes=region.boxes,
            frame=frame,
            normal=cut.normals[wall],
            offset=cut.offsets[wall],
            origins=origins,
            toward=direction,
            low=low,
            high=high,
        )
    n = cut.normals[wall]
    slope = float(n @ direction)
    if abs(slope) < 1e-9:
        return np.zeros(0, np.int64), np.zeros(0)
    way = (cut.offsets[wall] - origins @ n) / slope
    rows = np.nonzero((way > low) & (way < high))[0]
    if len(rows):
        o, x, y = frame
        points = origins[rows] + way[rows][:, None] * direction
        shapely.prepare(region.given)
        rows = rows[shapely.contains_xy(region.given, (points - o) @ x, (points - o) @ y)]
    return rows, way[rows]


@lru_cache(maxsize=8)
def cut_faces(part: Part, cut: Cut, edges: Wires) -> tuple[CutFace, ...]:
    """The faces that a cut lays open; ``edges``: those of the part as wires."""
    found: list[CutFace] = []
    least = (1e-6 * part.size) ** 2
    for w, b, region, area in laid_regions(part, cut, edges):
        frame = _frame(cut.walls[w])
        # one face for each piece; what the curves hold beyond their polylines goes by size
        pieces = region.faces(least)
        total = sum(own for own, _ in pieces)
        for own, rings in pieces:
            loops = tuple(r @ frame[1:] + frame[0] for r in rings)
            found.append(CutFace(b, w, area * own / total, loops))
    return tuple(found)


def _corners(part: Part, cut: Cut, edges: Wires) -> list[tuple[Array, Array, tuple[int, int], int]]:
    """Where two walls of a cell that are shown meet within a body: both ends, the walls, the body."""
    shown = [
        [w for w in range(int(a), int(b)) if cut.walls[w].shown] for a, b in zip(cut.first, cut.first[1:], strict=False)
    ]
    pairs = [pair for own in shown for pair in combinations(own, 2)]
    if not pairs:
        return []
    regions = _whole_regions(part, cut, edges)
    reach = 4 * part.size + float(np.abs([part.low, part.high]).max())
    found = []
    for a, b in pairs:
        n, m = np.array(cut.walls[a].normal), np.array(cut.walls[b].normal)
        way = cross(n, m)
        if np.linalg.norm(way) < 1e-9:
            continue
        way = way / np.linalg.norm(way)
        spot = np.linalg.solve(np.array([n, m, way]), [cut.walls[a].offset, cut.walls[b].offset, 0.0])
        o, x, y = _frame(cut.walls[a])
        ends = np.array([spot - reach * way, spot + reach * way])
        line = shapely.LineString(np.c_[(ends - o) @ x, (ends - o) @ y])
        for (w, body), (region, _, _) in regions.items():
            if w != a:
                continue
            for c in lines_of(region.shape.intersection(line), CHORD * part.size):
                p = o + c[[0, -1], :1] * x + c[[0, -1], 1:] * y
                found.append((p[0], p[1], (a, b), body))
    return found
