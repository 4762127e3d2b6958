"""What a cut lays open: the boundaries of its faces as strands, and the faces as regions."""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property, lru_cache
from itertools import combinations
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.forms import LINE, joined_forms, plain_forms
from ..geometry.planar import lines_of, polygons_of, rings_of, seamless
from ..geometry.recognition import frame_about
from ..geometry.vectors import cross
from ..geometry.wires import Wires, joined, straight
from ..part.model import Part
from ..values import value
from .chains import linked
from .clipping import seen_from
from .closed_forms import in_wall, wires_in_wall
from .limits import HAIR, Array, Cut, Ints, Wall
from .slicing import CHORD, Slices, slices_of

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
class InView:
    """The state of boundaries in a view, as the rows of its strands have it; ``drawn`` (n,): False for those seen end-on."""

    away: Array
    free: Flags
    contour: Flags
    drawn: Flags
    breaks: tuple[Ints, Array]


@value
class Laid(Slices):
    """The boundaries (n) of all faces that a cut lays open, and the lines in which two of these meet.

    By row the outward ``normals`` (2, m, 3) on both sides; ``convex`` (n,) is False where two laid open faces meet.
    """

    convex: Flags

    @cached_property
    def bent(self) -> Flags:
        """Which are no lines."""
        return self.forms.kind != LINE

    def in_view(self, view: Any, tiny: float) -> InView:
        """Their state in a view."""
        w = self.wires
        away, free, contour, drawn, broken, at = seen_from(
            start=w.start,
            t=w.t,
            points=w.points,
            normals=self.normals,
            convex=self.convex,
            toward=view.toward,
            right=view.right,
            up=view.up,
            tiny=tiny,
        )
        return InView(away, free, contour, drawn, (broken, at))


@lru_cache(maxsize=8)
def laid_open(part: Part, cut: Cut, edges: Wires) -> Laid:
    """The boundaries of what a cut lays open, not yet clipped at other walls; ``edges``: those of the part as wires."""
    s = slices_of(part, cut, edges)
    normals = [np.repeat(cut.normals[s.wall], np.diff(s.wires.start), axis=0)] if s.wires.count else []
    other = [s.normals] if s.wires.count else []
    wires, forms = s.wires, s.forms
    face, body, wall, meshed = s.face, s.body, s.wall, s.meshed
    convex = np.ones(len(face), bool)
    corners = _corners(part, cut, edges)
    if corners:
        a, b = np.array([c[0] for c in corners]), np.array([c[1] for c in corners])
        walls = np.array([c[2] for c in corners], np.int64)
        wires = joined([wires, straight(a, b)])
        forms = joined_forms([forms, plain_forms(len(corners), np.zeros((0, 3, 3)), np.zeros((0, 2)))])
        owner = np.array([c[3] for c in corners], np.int64)
        faces = np.array([next(k for k, f in enumerate(part.faces) if f.body == o) for o in owner.tolist()], np.int64)
        face, body = np.concatenate([face, faces]), np.concatenate([body, owner])
        wall = np.concatenate([wall, walls[:, 0]])
        none = np.zeros(len(corners), bool)
        meshed, convex = np.append(meshed, none), np.append(convex, none)
        normals.append(np.repeat(cut.normals[walls[:, 0]], 2, axis=0))
        other.append(np.repeat(cut.normals[walls[:, 1]], 2, axis=0))
    both = np.array([np.concatenate([np.zeros((0, 3)), *normals]), np.concatenate([np.zeros((0, 3)), *other])])
    return Laid(
        ends=s.ends,
        conic=s.conic,
        span=s.span,
        fitted=s.fitted,
        forms=forms,
        wires=wires,
        face=face,
        body=body,
        wall=wall,
        meshed=meshed,
        normals=both,
        convex=convex,
    )


@lru_cache(maxsize=64)
def _frame(wall: Wall) -> tuple[Array, Array, Array]:
    """A point in a wall, and two directions in it, so that right × up is its normal."""
    x, y, n = frame_about(np.array(wall.normal))
    return n * wall.offset, x, y


def _rings(pieces: list[Array], gap: float) -> list[Array]:
    """Closed polylines of pieces (m, 2) that end where others begin; a gap is closed straight."""
    closed = [p[:-1] for p in pieces if len(p) > 3 and abs(p[-1] - p[0]).max() < 1e-3 * gap]
    rest = [p for p in pieces if not (len(p) > 3 and abs(p[-1] - p[0]).max() < 1e-3 * gap)]
    if not rest:
        return closed
    starts, ends = np.array([p[0] for p in rest]), np.array([p[-1] for p in rest])
    order, first = linked(starts, ends, gap)
    for a, b in zip(first.tolist(), first[1:].tolist(), strict=False):
        run = [rest[k] for k in order[a:b].tolist()]
        ring = np.concatenate([*(p[:-1] for p in run), run[-1][-1:]])
        if len(ring) > 2 and abs(ring[-1] - ring[0]).max() < gap:
            ring = ring[:-1]
        if len(ring) > 2:
            closed.append(ring)
    return closed


def _signed(p: Array) -> float:
    x, y = p[:, 0], p[:, 1]
    return float((x[:-1] @ y[1:] - x[1:] @ y[:-1] + x[-1] * y[0] - x[0] * y[-1]) / 2)


def _region(rings: list[Array]) -> Any:
    """The region with rings (m, 2) about it, those that run clockwise as holes."""
    turns = [_signed(r) for r in rings]
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
) -> dict[tuple[int, int], tuple[Any, float, list[tuple[Array, float]]]]:
    """By wall and body the region in which the whole wall meets the body, in the wall's own frame; what the exact curves
    hold beyond their polylines; and the polylines, each with its own."""
    s = slices_of(part, cut, edges)
    solid = np.array([b.solid for b in part.bodies], bool)
    n, k = len(s.ends), len(s.ends) + len(s.conic)
    found = {}
    for w in np.unique(s.wall).tolist():
        o, x, y = _frame(cut.walls[w])
        lines, conics, fitted = (
            a + np.nonzero(s.wall[a:b] == w)[0] for a, b in ((0, n), (n, k), (k, k + len(s.fitted)))
        )
        flat, begin, bulge = in_wall(
            ends=s.ends[lines],
            conic=s.conic[conics - n],
            span=s.span[conics - n],
            origin=o,
            right=x,
            up=y,
            fine=FINE * part.size,
        )
        curves = _parts(flat, begin, bulge)
        if len(fitted):
            along = wires_in_wall(
                start=s.wires.start,
                points=s.wires.points,
                cubic=s.wires.cubic,
                which=fitted,
                origin=o,
                right=x,
                up=y,
                fine=FINE / 4 * part.size,
            )
            curves += _parts(*along)
        groups: dict[int, list[tuple[Array, float]]] = defaultdict(list)
        for b, own in zip(s.body[np.concatenate([lines, conics, fitted])].tolist(), curves, strict=True):
            if solid[b]:
                groups[b].append(own)
        for b, mine in groups.items():
            region = _region(_rings([p for p, _ in mine], GAP * part.size))
            found[w, b] = region, sum(over for _, over in mine), mine
    return found


def _parts(flat: Array, begin: Ints, bulge: Array) -> list[tuple[Array, float]]:
    """Polylines one by one, each with what its curve holds beyond it."""
    ends = begin.tolist()
    return [(flat[a:b], over) for a, b, over in zip(ends, ends[1:], bulge.tolist(), strict=False)]


def _window(cut: Cut, w: int, frame: tuple[Array, Array, Array], reach: float) -> Any:
    """What of a wall, and of those in its plane, lies between the other walls of their cells, and in no other cell; None for
    all of it."""
    if len(cut.cells) == 1 and len(cut.cells[0].walls) == 1:
        return None
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
def laid_regions(part: Part, cut: Cut, edges: Wires) -> tuple[tuple[int, int, Any, float], ...]:
    """The regions that a cut lays open: wall, body, region in the wall's own frame, and area with what the exact curves
    hold beyond their polylines."""
    found = []
    reach = 2 * part.size + float(np.abs([part.low, part.high]).max())
    for (w, b), (region, bulge, curves) in sorted(_whole_regions(part, cut, edges).items()):
        window = _window(cut, w, _frame(cut.walls[w]), reach)
        if window is not None:
            region = region.intersection(window)
            if bulge:
                shapely.prepare(window)
                bulge = sum(over for p, over in curves if over and window.contains(shapely.LineString(p)))
        if not region.is_empty:
            found.append((w, b, region, float(region.area) + bulge))
    return tuple(found)


def behind_laid(part: Part, cut: Cut, edges: Wires, origins: Array, toward: Array) -> Flags:
    """True (m,) where a ray from an origin (m, 3) toward the viewer passes a face that a cut lays open."""
    found = np.zeros(len(origins), bool)
    for w, _, region, _ in laid_regions(part, cut, edges):
        rows, _ = passing(
            cut=cut,
            wall=w,
            region=region,
            origins=origins,
            direction=toward,
            low=HAIR * part.size,
            high=np.where(found, -np.inf, np.inf),
        )
        found[rows] = True
    return found


def passing(
    cut: Cut, wall: int, region: Any, origins: Array, direction: Array, low: float, high: Array
) -> tuple[Ints, Array]:
    """The rays from origins (m, 3) that pass a region of a wall farther than ``low`` and nearer than ``high`` (m,; mm), by
    row, and how far from their origins they do."""
    n = cut.normals[wall]
    slope = float(n @ direction)
    if abs(slope) < 1e-9:
        return np.zeros(0, np.int64), np.zeros(0)
    way = (cut.offsets[wall] - origins @ n) / slope
    rows = np.nonzero((way > low) & (way < high))[0]
    if len(rows):
        o, x, y = _frame(cut.walls[wall])
        points = origins[rows] + way[rows][:, None] * direction
        shapely.prepare(region)
        rows = rows[shapely.contains_xy(region, (points - o) @ x, (points - o) @ y)]
    return rows, way[rows]


@lru_cache(maxsize=8)
def cut_faces(part: Part, cut: Cut, edges: Wires) -> tuple[CutFace, ...]:
    """The faces that a cut lays open; ``edges``: those of the part as wires."""
    found: list[CutFace] = []
    least = (1e-6 * part.size) ** 2
    for w, b, region, area in laid_regions(part, cut, edges):
        o, x, y = _frame(cut.walls[w])
        polygons = polygons_of(region, least)
        # one face for each piece; what the curves hold beyond their polylines goes by size
        total = sum(g.area for g in polygons)
        for g in shapely.orient_polygons(polygons):
            loops = tuple(o + r[:, :1] * x + r[:, 1:] * y for r in rings_of(g))
            found.append(CutFace(b, w, area * g.area / total, loops))
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
            for c in lines_of(region.intersection(line), CHORD * part.size):
                p = o + c[[0, -1], :1] * x + c[[0, -1], 1:] * y
                found.append((p[0], p[1], (a, b), body))
    return found
