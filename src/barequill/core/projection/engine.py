"""From a part and a camera to exact curves: what is seen, and what is hidden.

All strands are parted where a contour crosses them in the view; between two such places nothing changes,
so a few rays toward the viewer tell whether the piece is hidden. Pieces that lie under others are dropped
by the precedence of ISO 128-2, neighbours of one state are joined, and what is left is projected exactly.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

from ..geometry import curves2
from ..geometry.curves2 import Curve2
from ..geometry.curves3 import Curve3
from ..part.model import Part
from .camera import Camera, camera
from .crossings import crossing_parameters
from .outlines import outline_strands
from .rays import ray_structure
from .strands import LineClass, Strand, edge_strands

Array = NDArray[np.float64]
NEAR = 4e-5
"""Distance in part sizes within which two lines are one on the sheet."""
CRUMB = 1e-4
SHARES = np.array([0.17, 0.5, 0.83])
_RANK = {"edge": 0, "outline": 1, "smooth": 2}


@dataclass(frozen=True, eq=False)
class ProjectedCurve:
    """A curve of a view, in model mm: x along the camera's right, y along its up.

    ``source`` is the lasting reference of its edge, or of the face whose outline it is; ``span`` the
    parameter range on that source; ``also`` are the sources of other lines that lie in the same place.
    """

    curve: Curve2
    visible: bool
    cls: LineClass
    source: str
    span: tuple[float, float]
    also: tuple[str, ...] = field(default=())


def project(
    part: Part, toward: ArrayLike, up: ArrayLike, *, hidden: bool = True, smooth: bool = True
) -> list[ProjectedCurve]:
    """Project a part.

    Parameters
    ----------
    part : the prepared part
    toward : direction from the part to the viewer, in the part's frame
    up : direction that points up on the sheet
    hidden : give hidden curves too
    smooth : give tangent edges too

    Raises
    ------
    UserError
        Where the directions do not make a camera.
    """
    view = camera(toward, up)
    strands = edge_strands(part, view, smooth) + outline_strands(part, view)
    if not strands:
        return []
    flats = [view.flat(s.points) for s in strands]
    near = NEAR * part.size
    pieces = _Pieces(strands, flats, crossing_parameters(strands, flats, near / 2), near)
    pieces.classify(part, view)
    pieces.drop_coincident(view, near)
    return pieces.joined(view, hidden, part.size)


class _Pieces:
    """Strands parted at their crossings; one row a piece."""

    def __init__(self, strands: list[Strand], flats: list[Array], crossings: list[Array], near: float) -> None:
        self.strands = strands
        owners, lows, highs = [], [], []
        for row, (strand, flat, cross) in enumerate(zip(strands, flats, crossings, strict=True)):
            steps = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(flat, axis=0), axis=1))])
            must = np.unique(np.concatenate([strand.t[[0, -1]], strand.breaks, strand.folds]))
            t = np.sort(np.concatenate([cross, must]))
            t = t[(t >= strand.t[0]) & (t <= strand.t[-1])]
            way = np.interp(t, strand.t, steps)
            firm = np.isin(t, must)
            kept = _thinned(t, way, firm, near)
            owners.append(np.full(len(kept) - 1, row))
            lows.append(kept[:-1])
            highs.append(kept[1:])
        self.owner = np.concatenate(owners)
        self.low, self.high = np.concatenate(lows), np.concatenate(highs)
        self._sample()

    def _sample(self) -> None:
        """Three points on each piece, in space, with the free direction and whether the faces there hide it."""
        n, k = len(self.owner), len(SHARES)
        t = self.low[:, None] + SHARES * (self.high - self.low)[:, None]
        self.points, self.away = np.empty((n, k, 3)), np.empty((n, k, 3))
        self.free, self.lift = np.empty((n, k), bool), np.empty(n)
        bounds = np.searchsorted(self.owner, np.arange(len(self.strands) + 1))
        for strand, a, b in zip(self.strands, bounds, bounds[1:], strict=False):
            at = t[a:b].ravel()
            self.points[a:b] = strand.curve.points(at).reshape(-1, k, 3)
            i = np.clip(np.searchsorted(strand.t, at, side="right") - 1, 0, len(strand.t) - 2)
            share = ((at - strand.t[i]) / np.maximum(strand.t[i + 1] - strand.t[i], 1e-300))[:, None]
            away = (1 - share) * strand.away[i] + share * strand.away[i + 1]
            self.away[a:b] = away.reshape(-1, k, 3)
            nearest = np.where(share[:, 0] < 0.5, i, i + 1)
            self.free[a:b] = strand.free[nearest].reshape(-1, k)
            self.lift[a:b] = strand.lift

    def classify(self, part: Part, view: Camera) -> None:
        """Set ``hidden`` for each piece, by rays toward the viewer; the majority of its samples decides."""
        rays = ray_structure(part)
        lift = self.lift[:, None, None]
        origins = self.points + lift * self.away + 0.5 * lift * view.toward
        blocked = rays.blocked(origins.reshape(-1, 3), view.toward).reshape(self.free.shape)
        covered = blocked | ~self.free
        self.hidden: NDArray[np.bool_] = np.asarray(covered.sum(axis=1) * 2 > covered.shape[1])

    def drop_coincident(self, view: Camera, near: float) -> None:
        """Set ``kept``; give ``also`` the sources that lie under a kept piece."""
        n = len(self.owner)
        depth = np.array([s.points.mean(axis=0) @ view.toward for s in self.strands])[self.owner]
        rank = np.array([_RANK[self.strands[s].cls] for s in self.owner])
        order = np.lexsort((self.owner, -np.round(depth / near), rank, self.hidden))
        place = np.empty(n, int)
        place[order] = np.arange(n)
        samples = view.flat(self.points.reshape(-1, 3))
        lines, owners = self._polylines(view)
        tree = shapely.STRtree(lines)
        sample, row = tree.query(shapely.points(samples), predicate="dwithin", distance=near)
        mine, over = sample // len(SHARES), owners[row]
        earlier = place[over] < place[mine]
        sample, mine, over = sample[earlier], mine[earlier], over[earlier]
        hit = np.zeros(n * len(SHARES), bool)
        hit[sample] = True
        self.kept: NDArray[np.bool_] = ~np.asarray(hit.reshape(n, -1).all(axis=1))
        self.also: dict[int, set[str]] = {}
        for a, b in {(int(a), int(b)) for a, b in zip(mine, over, strict=True) if not self.kept[a] and self.kept[b]}:
            self.also.setdefault(b, set()).add(self.strands[self.owner[a]].source)

    def _polylines(self, view: Camera) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
        coords, index = [], []
        bounds = np.searchsorted(self.owner, np.arange(len(self.strands) + 1))
        for strand, a, b in zip(self.strands, bounds, bounds[1:], strict=False):
            t = np.unique(np.concatenate([strand.t, self.low[a:b], self.high[a:b]]))
            flat = view.flat(strand.curve.points(t))
            for piece in range(a, b):
                rows = flat[np.searchsorted(t, self.low[piece]) : np.searchsorted(t, self.high[piece]) + 1]
                coords.append(rows)
                index.append(np.full(len(rows), piece))
        lines = shapely.linestrings(np.concatenate(coords), indices=np.concatenate(index))
        return lines, np.arange(len(self.owner))

    def joined(self, view: Camera, hidden: bool, size: float) -> list[ProjectedCurve]:
        """Neighbouring pieces of one state as one exact curve."""
        found: list[ProjectedCurve] = []
        bounds = np.searchsorted(self.owner, np.arange(len(self.strands) + 1))
        for strand, a, b in zip(self.strands, bounds, bounds[1:], strict=False):
            for low, high, covered, rows in self._runs(strand, int(a), int(b), size):
                if covered and not hidden:
                    continue
                flat = flattened(strand.curve, low, high, view, size)
                if flat is None:
                    continue
                also = sorted(set().union(*(self.also.get(r, set()) for r in rows)) - {strand.source})
                found.append(ProjectedCurve(flat, not covered, strand.cls, strand.source, (low, high), tuple(also)))
        return found

    def _runs(self, strand: Strand, a: int, b: int, size: float) -> list[tuple[float, float, bool, list[int]]]:
        state = np.where(self.kept[a:b], self.hidden[a:b].astype(int), 2)
        spans = (
            np.abs(
                np.einsum(
                    "ij,ij->i", self.points[a:b, 2] - self.points[a:b, 0], self.points[a:b, 2] - self.points[a:b, 0]
                )
            )
            ** 0.5
        )
        for i in range(b - a):
            if spans[i] < CRUMB * size * 0.6 and b - a > 1:
                before = state[i - 1] if i > 0 else -1
                after = state[i + 1] if i + 1 < b - a else -1
                if before == after or before == -1 or after == -1:
                    state[i] = max(before, after)
        folds, reach = strand.folds, 3 * NEAR * size / max(strand.curve.radius, 1e-300) if len(strand.folds) else 0.0
        runs: list[tuple[float, float, bool, list[int]]] = []
        last = 2
        for i in range(b - a):
            low, high, now = float(self.low[a + i]), float(self.high[a + i]), int(state[i])
            if now != 2:
                if runs and last == now and not (len(folds) and np.abs(folds - low).min() < reach):
                    start, _, covered, rows = runs[-1]
                    runs[-1] = (start, high, covered, [*rows, a + i])
                else:
                    runs.append((low, high, bool(now), [a + i]))
            last = now
        if len(runs) > 1 and strand.curve.full_turn and state[0] == state[-1] != 2 and not len(folds):
            low, _, covered, rows = runs.pop()
            _, high, _, more = runs.pop(0)
            runs.append((low - 2 * np.pi, high, covered, rows + more))
        return runs


def _thinned(t: Array, way: Array, firm: NDArray[np.bool_], near: float) -> Array:
    """Parameters with those closer than ``near`` along the way left out; firm ones stay."""
    kept = [0]
    for i in range(1, len(t)):
        if way[i] - way[kept[-1]] < near:
            if firm[i] and not firm[kept[-1]]:
                kept[-1] = i
            elif firm[i] and i == len(t) - 1:
                if len(kept) > 1:
                    kept[-1] = i
                else:
                    kept.append(i)
            continue
        kept.append(i)
    if len(kept) == 1:
        kept.append(len(t) - 1)
    return t[kept]


def flattened(curve: Curve3, low: float, high: float, view: Camera, size: float) -> Curve2 | None:
    """The exact plane curve of a piece of a curve in space, None where it shrinks to a point."""
    if curve.kind == "conic":
        assert curve.origin is not None and curve.x is not None and curve.y is not None
        c, x, y = view.flat(np.array([curve.origin, curve.x, curve.y]))
        if abs(x[0] * y[1] - x[1] * y[0]) > 1e-9 * curve.radius**2:
            return curves2.conic(c, x, y, low, high)
        ends = view.flat(curve.points(np.array([low, high])))
    elif curve.kind == "line":
        ends = view.flat(curve.points(np.array([low, high])))
    else:
        piece = curve.piece(max(low, curve.t0), min(high, curve.t1))
        assert piece.poles is not None and piece.knots is not None
        poles = view.flat(piece.poles)
        span = poles[-1] - poles[0]
        length = float(np.linalg.norm(span))
        if length > 0:
            off = (poles - poles[0]) @ np.array([-span[1], span[0]]) / length
            along = (poles - poles[0]) @ span / length
            if np.abs(off).max() < 1e-9 * size and (np.diff(along) >= -1e-12 * size).all():
                return curves2.line(poles[0], poles[-1])
        if np.ptp(poles, axis=0).max() < 1e-7 * size:
            return None
        return Curve2("nurbs", poles, degree=piece.degree, knots=piece.knots, weights=piece.weights, t0=low, t1=high)
    if np.linalg.norm(ends[1] - ends[0]) < 1e-7 * size:
        return None
    return curves2.line(ends[0], ends[1])
