"""What of a view lies between the part and what is not the part: closed contours at true size, for cutting it out of a sheet."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from ..errors import UserError
from ..features.flat_pattern import BENT
from ..geometry.contours import Contours, Piece, points_of
from ..geometry.curves2 import Curve2, polyline
from ..geometry.planar import united
from ..geometry.within import Strings
from .projected_scene import ProjectedScene

Array = NDArray[np.float64]
NEAR = 1e-5
"""In sizes of the part: how near ends lie that are one, and how narrow cracks of the mesh are closed."""
STRAYS = 3.0
"""Of how far the mesh strays from the part, how far from its border a line may lie that is the contour."""
TRUE = 2e-3
"""Of the area by which that within the contours may differ from that of the mesh."""


def contours_of(projected: ProjectedScene) -> Contours:
    """The contours of a view.

    Raises
    ------
    UserError
        Where the view is cut or pictorial, or shows nothing.
    """
    if projected.scene.is_cut or projected.scene.legs:
        raise UserError("A view that is cut has no contour", "Choose the view out of which the section was taken.")
    if projected.pictorial:
        raise UserError("A pictorial view shows nothing at true size", "Choose a view square to what is to be cut.")
    part, size = projected.part, projected.whole.size
    if not len(part.mesh.triangles):
        raise UserError("The view shows nothing", "Choose another view.")
    region = _shadow(projected, NEAR * size)
    width = STRAYS * float(part.mesh.strays.max()) + NEAR * size
    band = region.boundary.buffer(width)
    lines = [c.curve for c in projected.curves if c.visible and c.cls not in ("smooth", "adjacent")]
    curves = [c.moved(1.0, 0.0, tuple(-projected.centre)) for c in lines]
    pieces = Strings(curves, NEAR * size).within(band)
    kept = [c for k, c in pieces if c is curves[k] or c.length() > 4 * width]
    seen = [c.curve for c in projected.curves if c.visible and BENT in c.source]
    bends = tuple(c.moved(1.0, 0.0, tuple(-projected.centre)) for c in seen)
    loops = _loops(kept, NEAR * size, 2.5 * width)
    if loops is not None and abs(_area(loops) - region.area) <= TRUE * region.area + width * region.length:
        return Contours(tuple(loops), True, bends)
    rings = [r for p in getattr(region, "geoms", [region]) for r in (p.exterior, *p.interiors)]
    return Contours(tuple((Piece(polyline(np.asarray(r.coords))),) for r in rings), False, bends)


def _shadow(projected: ProjectedScene, near: float) -> shapely.Geometry:
    """The region that the mesh of a part covers in a view."""
    mesh = projected.part.mesh
    corners = (projected.view.flat(mesh.nodes) - projected.centre)[mesh.triangles]
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    area = np.abs(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])
    seen = corners[area > near * near * 1e-3]
    region = united(shapely.polygons(seen), near * 1e-2)
    return region.buffer(near, join_style="mitre").buffer(-near, join_style="mitre")


def _loops(curves: Sequence[Curve2], near: float, reach: float) -> list[tuple[Piece, ...]] | None:
    """Curves as closed loops, those left out that end nowhere; None where some do not close. Ends within ``reach`` (mm) of each other
    belong together: where one goes on beyond the other it is cut off there."""
    found: list[tuple[Piece, ...]] = []
    open_ = []
    for c in curves:
        if float(np.linalg.norm(np.subtract(*_ends(c)))) < near:
            found.append((Piece(c),))
        else:
            open_.append(c)
    nodes: list[Array] = []

    def node(p: Array) -> int:
        for k, q in enumerate(nodes):
            if float(np.hypot(*(p - q))) < reach:
                return k
        nodes.append(p)
        return len(nodes) - 1

    joined = [(node(a), node(b)) for a, b in map(_ends, open_)]
    alive = {k for k, (a, b) in enumerate(joined) if a != b}
    degree = [0] * len(nodes)
    while True:
        degree = [0] * len(nodes)
        for k in alive:
            for n in joined[k]:
                degree[n] += 1
        loose = {k for k in alive if any(degree[n] < 2 for n in joined[k])}
        if not loose:
            break
        alive -= loose
    if any(degree[n] != 2 for k in alive for n in joined[k]):
        return None
    while alive:
        k = min(alive)
        begin, at = joined[k]
        alive.discard(k)
        loop = [Piece(open_[k])]
        while at != begin:
            k = next(j for j in alive if at in joined[j])
            back = joined[k][1] == at
            at = joined[k][0] if back else joined[k][1]
            alive.discard(k)
            loop.append(Piece(open_[k], back))
        found.append(_trimmed(loop, near))
    return found or None


def _trimmed(loop: list[Piece], near: float) -> tuple[Piece, ...]:
    """A loop whose pieces end where they meet the next."""
    for k in range(len(loop)):
        here, there = loop[k], loop[(k + 1) % len(loop)]
        end, begin = _ends(here.curve)[0 if here.back else 1], _ends(there.curve)[1 if there.back else 0]
        if float(np.hypot(*(end - begin))) < near:
            continue
        fine = near * 0.1
        meeting = shapely.LineString(here.curve.points(fine)).intersection(shapely.LineString(there.curve.points(fine)))
        if meeting.is_empty:
            continue
        spots = shapely.get_coordinates(meeting)
        spot = spots[int(np.hypot(*(spots - (end + begin) / 2).T).argmin())]
        loop[k] = Piece(_cut_off(here.curve, spot, not here.back), here.back)
        loop[(k + 1) % len(loop)] = Piece(_cut_off(there.curve, spot, there.back), there.back)
    return tuple(loop)


def _cut_off(curve: Curve2, spot: Array, at_end: bool) -> Curve2:
    """A curve from its beginning to a spot on it, or from there to its end."""
    ts = curve.parameters(1e-3)
    ts = np.unique(np.concatenate([np.linspace(a, b, 9) for a, b in zip(ts[:-1], ts[1:], strict=True)]))
    k = int(np.hypot(*(curve.evaluate(ts) - spot).T).argmin())
    low, high = float(ts[max(k - 1, 0)]), float(ts[min(k + 1, len(ts) - 1)])
    for _ in range(60):
        one, two = low + (high - low) / 3, high - (high - low) / 3
        away = np.hypot(*(curve.evaluate(np.array([one, two])) - spot).T)
        low, high = (low, two) if away[0] <= away[1] else (one, high)
    t = (low + high) / 2
    first, last = float(ts[0]), float(ts[-1])
    if t - first < 1e-12 or last - t < 1e-12:
        return curve
    return curve.piece(first, t) if at_end else curve.piece(t, last)


def _ends(curve: Curve2) -> tuple[Array, Array]:
    t = curve.parameters(1.0)
    one, two = curve.evaluate(np.array([t[0], t[-1]]))
    return one, two


def _area(loops: Sequence[Sequence[Piece]]) -> float:
    """The area between loops: each lies within an even number of others, or is an opening."""
    rings = [shapely.Polygon(p) for loop in loops if len(p := points_of(loop, 1e-2)) > 2]
    total = 0.0
    for k, ring in enumerate(rings):
        inside = sum(
            1
            for j, other in enumerate(rings)
            if j != k and other.contains(ring.representative_point()) and other.area > ring.area
        )
        total += ring.area if inside % 2 == 0 else -ring.area
    return total
