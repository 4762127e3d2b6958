"""What a cut lays open: the boundaries of its faces as strands, and the faces as regions."""

from __future__ import annotations

from functools import lru_cache
from itertools import combinations
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.forms import LINE, forms_of, joined_forms
from ..geometry.held import hold, let_go
from ..geometry.planar import lines_of, seamless
from ..geometry.recognition import frames_of
from ..geometry.vectors import cross
from ..geometry.wires import Wires, joined, straight
from ..part.model import Part
from ..values import value
from .figures import figures_of
from .fitting import Opened
from .holding import behind, through
from .limits import HAIR, Array, Cut, CuttingPlane, Ints
from .region import Region, given
from .rings import Rings, laid_in_plane
from .slicing import CHORD, slices_of

Flags = NDArray[np.bool_]
FINE = 4e-6
"""How far, in part sizes, the loops of a cut face may stray from its boundary."""
GAP = 3e-4
"""Widest gap, in part sizes, over which the boundary of a cut face is closed."""


@value
class CutFace:
    """A face that a cut lays open, of one body in one cutting plane.

    ``loops``: closed polylines (m, 3) without their last point again, the outer boundary first, anticlockwise as one
    looks against the cutting plane's normal. ``area`` mm², of the exact curves.
    """

    body: int
    cutting_plane: int
    area: float
    loops: tuple[Array, ...]


@lru_cache(maxsize=8)
def laid_open(part: Part, cut: Cut, edges: Wires) -> Any:
    """The boundaries of all faces that a cut lays open, and the lines in which two of these meet, held as :class:`Opened`, not yet
    clipped at other cutting planes; ``edges``: those of the part as wires."""
    slices = slices_of(part, cut, edges)
    if len(cut.cutting_planes) == 1 and slices:
        return slices[0][2]
    found = [(row, let_go(held)) for row, held, _ in slices]
    corners = _corners(part, cut, edges)
    a, b = (np.array([c[k] for c in corners]).reshape(-1, 3) for k in range(2))
    cutting_planes = np.array([c[2] for c in corners], np.int64).reshape(-1, 2)
    owner = [c[3] for c in corners]
    faces = np.array([next(k for k, f in enumerate(part.faces) if f.body == o) for o in owner], np.int64)
    none = np.zeros(len(corners), bool)
    forms = joined_forms([*(s.forms for _, s in found), forms_of([None] * len(corners))])
    wires = joined([*(Wires(s.start, s.t, s.points, s.cubic) for _, s in found), straight(a, b)])
    return hold(
        Opened(
            start=wires.start,
            t=wires.t,
            points=wires.points,
            cubic=wires.cubic,
            normals=np.concatenate(
                [*(s.normals for _, s in found), np.repeat(cut.normals[cutting_planes[:, 1]], 2, axis=0)]
            ),
            cutting_plane=np.concatenate([*(np.full(len(s.face), row) for row, s in found), cutting_planes[:, 0]]),
            face=np.concatenate([*(s.face for _, s in found), faces]),
            convex=np.concatenate([*(np.ones(len(s.face), bool) for _, s in found), none]),
            bent=forms.kind != LINE,
            meshed=np.concatenate([*(s.meshed for _, s in found), none]),
            forms=forms,
        )
    )


@lru_cache(maxsize=64)
def _frames(cut: Cut) -> Array:
    """Of each cutting plane a point in it, and two directions in it (w, 3, 3), so that right × up is its normal."""
    return frames_of(cut.normals, cut.offsets)


@lru_cache(maxsize=8)
def _rings(part: Part, cut: Cut, edges: Wires) -> list[tuple[int, Any, Any, bool]]:
    """By cutting plane its row; held, what it meets laid flat in its own frame (see :func:`laid_in_plane`), and the rings of that; and
    whether these are sound."""
    solid = figures_of(part).solid
    return [
        (
            row,
            *laid_in_plane(
                slices=slices, solid=solid, frame=_frames(cut)[row], fine=FINE * part.size, gap=GAP * part.size
            ),
        )
        for row, slices, _ in slices_of(part, cut, edges)
    ]


@lru_cache(maxsize=8)
def _whole_regions(
    part: Part, cut: Cut, edges: Wires
) -> dict[tuple[int, int], tuple[Region, float, list[tuple[Array, float]]]]:
    """By cutting plane and body the region in which the whole cutting plane meets the body, in the cutting plane's own frame; what the exact curves
    hold beyond their polylines; and the polylines, each with its own, where there are several cutting planes."""
    found = {}
    for row, laid, held, _ in _rings(part, cut, edges):
        rings: Rings = let_go(held)
        # by piece only where another cutting plane may part them
        pieces = let_go(laid) if len(cut.cutting_planes) > 1 else None
        bounds, over, sound = rings.of_body.tolist(), rings.over.tolist(), rings.sound.tolist()
        for b, (r, q) in enumerate(zip(bounds, bounds[1:], strict=False)):
            if r == q:
                continue
            from_, to = rings.first[r], rings.first[q]
            region = Region(
                points=rings.points[from_:to],
                spots=rings.spots[from_:to],
                first=rings.first[r : q + 1] - from_,
                turns=rings.turns[r:q],
                around=rings.around[r:q] - r,
                area=sum(rings.turns[r:q].tolist()),
            )
            if not sound[b]:
                region = given(region.shape)
            curves = []
            if pieces is not None:
                flat, begin, bulge, body = pieces
                curves = [(flat[begin[i] : begin[i + 1]], float(bulge[i])) for i in np.nonzero(body == b)[0].tolist()]
            found[row, b] = region, over[b], curves
    return found


def _window(cut: Cut, w: int, frame: Array, reach: float) -> Any:
    """What of a cutting plane, and of those in its plane, lies between the other cutting planes of their cells, and in no other cell."""
    o, x, y = frame
    everything = shapely.box(-reach, -reach, reach, reach)

    def half(other: CuttingPlane, region: Any, hair: float) -> Any:
        """What of a region lies beyond a cutting plane."""
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
        cutting_planes = [
            (k, other)
            for k, other in zip(range(int(cut.first[c]), int(cut.first[c + 1])), cell.cutting_planes, strict=True)
        ]
        own = any(cut.group[k] == w for k, _ in cutting_planes)
        piece = everything
        for k, other in cutting_planes:
            if cut.group[k] != w:
                piece = half(other, piece, hair)
        if not piece.is_empty:
            (mine if own else others).append(piece)
    region = seamless(mine, 1e-6 * reach) if len(mine) > 2 else shapely.union_all(mine)
    return region.difference(shapely.union_all(others)) if others else region


@lru_cache(maxsize=8)
def laid_regions(part: Part, cut: Cut, edges: Wires) -> tuple[tuple[int, int, Region, float], ...]:
    """The regions that a cut lays open: cutting plane, body, region in the cutting plane's own frame, and area with what the exact curves
    hold beyond their polylines."""
    found = []
    windows: dict[int, Any] = {}
    # they come cutting plane by cutting plane, and body by body
    for (w, b), (region, bulge, curves) in _whole_regions(part, cut, edges).items():
        if len(cut.cutting_planes) > 1:
            if w not in windows:
                reach = 2 * part.size + float(np.abs([part.low, part.high]).max())
                windows[w] = _window(cut, w, _frames(cut)[w], reach)
                shapely.prepare(windows[w])
            window = windows[w]
            region = given(region.shape.intersection(window))
            if bulge:
                bulge = sum(over for p, over in curves if over and window.contains(shapely.LineString(p)))
        if region.area > 0:
            found.append((w, b, region, region.area + bulge))
    return tuple(found)


def behind_laid(part: Part, cut: Cut, edges: Wires, origins: Array, toward: Array, found: Flags) -> None:
    """Those rays from origins (m, 3) toward the viewer are ``found`` (m,) too that pass a face that a cut lays open."""
    if len(cut.cutting_planes) == 1:
        sound = True
        for row, _, rings, all_sound in _rings(part, cut, edges):
            behind(
                rings=rings,
                frame=_frames(cut)[row],
                normal=cut.normals[row],
                offset=cut.offsets[row],
                origins=origins,
                toward=toward,
                low=HAIR * part.size,
                found=found,
            )
            sound = sound and all_sound
        if sound:
            return
    for w, _, region, _ in laid_regions(part, cut, edges):
        if region.given is None:
            continue
        high = np.where(found, -np.inf, np.inf)
        rows, _ = passing(
            cut=cut, cutting_plane=w, region=region, origins=origins, direction=toward, low=HAIR * part.size, high=high
        )
        found[rows] = True


def passing(
    cut: Cut, cutting_plane: int, region: Region, origins: Array, direction: Array, low: float, high: Array
) -> tuple[Ints, Array]:
    """The rays from origins (m, 3) that pass a region of a cutting plane farther than ``low`` and nearer than ``high`` (m,; mm), by
    row, and how far from their origins they do."""
    frame = _frames(cut)[cutting_plane]
    if region.given is None:
        return through(
            points=region.points,
            first=region.first,
            frame=frame,
            normal=cut.normals[cutting_plane],
            offset=cut.offsets[cutting_plane],
            origins=origins,
            toward=direction,
            low=low,
            high=high,
        )
    n = cut.normals[cutting_plane]
    slope = float(n @ direction)
    if abs(slope) < 1e-9:
        return np.zeros(0, np.int64), np.zeros(0)
    way = (cut.offsets[cutting_plane] - origins @ n) / slope
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
        # one face for each piece; what the curves hold beyond their polylines goes by size
        pieces = region.faces(_frames(cut)[w], least)
        total = sum([own for own, _ in pieces])
        found += [CutFace(b, w, area * own / total, loops) for own, loops in pieces]
    return tuple(found)


def _corners(part: Part, cut: Cut, edges: Wires) -> list[tuple[Array, Array, tuple[int, int], int]]:
    """Where two cutting planes of a cell that are shown meet within a body: both ends, the cutting planes, the body."""
    shown = [
        [w for w in range(int(a), int(b)) if cut.cutting_planes[w].shown]
        for a, b in zip(cut.first, cut.first[1:], strict=False)
    ]
    pairs = [pair for own in shown for pair in combinations(own, 2)]
    if not pairs:
        return []
    regions = _whole_regions(part, cut, edges)
    reach = 4 * part.size + float(np.abs([part.low, part.high]).max())
    found = []
    for a, b in pairs:
        n, m = np.array(cut.cutting_planes[a].normal), np.array(cut.cutting_planes[b].normal)
        way = cross(n, m)
        if np.linalg.norm(way) < 1e-9:
            continue
        way = way / np.linalg.norm(way)
        spot = np.linalg.solve(np.array([n, m, way]), [cut.cutting_planes[a].offset, cut.cutting_planes[b].offset, 0.0])
        o, x, y = _frames(cut)[a]
        ends = np.array([spot - reach * way, spot + reach * way])
        line = shapely.LineString(np.c_[(ends - o) @ x, (ends - o) @ y])
        for (w, body), (region, _, _) in regions.items():
            if w != a:
                continue
            for c in lines_of(region.shape.intersection(line), CHORD * part.size):
                p = o + c[[0, -1], :1] * x + c[[0, -1], 1:] * y
                found.append((p[0], p[1], (a, b), body))
    return found
