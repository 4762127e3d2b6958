"""The view transform: the way from a view's own mm to the sheet's, and back, and which pieces of the view are drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2, moved_all
from ..geometry.planar import polygons_of
from ..geometry.within import Strings

Array = NDArray[np.float64]
Place = tuple[float, float]
FAR = 1e7
"""mm beyond which nothing is."""
WAVE = 0.9
"""mm on the sheet by which an irregular line strays."""


@dataclass(frozen=True)
class Gap:
    """A stretch taken out along the view's x (0) or y (1), from ``start`` to ``end`` (view mm): ``width`` mm of the sheet are
    left of it; ``form``: how its ends are drawn, wavy ones as ``freehand``."""

    axis: int
    start: float
    end: float
    width: float
    form: str = "zigzag"


def wave(run: Array) -> Array:
    """How far (mm on the sheet) an irregular line strays to its left, so far (mm) along it."""
    found: Array = WAVE * (0.62 * np.sin(run * 0.61 + 0.4) + 0.38 * np.sin(run * 1.37 + 2.1))
    return found


@dataclass(frozen=True)
class Cell:
    """A piece of the view that moves as one when stretches are taken out: where it lies (None: everywhere), and by how much
    (view mm) it is moved."""

    region: Any
    shift: Place


@dataclass(frozen=True)
class ViewTransform:
    """View mm times ``scale``, turned counter-clockwise by ``turn`` degrees, ``about`` (view mm) put at ``place``.

    ``gaps`` are stretches that are taken out; ``window`` (view mm) are the corners of the outline within which is drawn.
    """

    place: Place
    scale: float
    turn: float = 0.0
    about: Place = (0.0, 0.0)
    gaps: tuple[Gap, ...] = ()
    window: tuple[Place, ...] = ()
    reach: float = 1000.0
    """View mm about the middle of the part within which anything is drawn."""

    @cached_property
    def matrix(self) -> Array:
        """Rows (2, 2) by which a view's directions become the sheet's."""
        a = np.radians(self.turn)
        return np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]]) if self.turn else np.eye(2)

    @cached_property
    def name(self) -> str:
        """All but its place as a short text: what is drawn through transforms of one name is alike."""
        text = repr((self.scale, self.turn, self.about, self.gaps, self.window))
        return blake2b(text.encode(), digest_size=12).hexdigest()

    @cached_property
    def _knots(self) -> list[tuple[Array, Array]]:
        """For both axes, view mm and what becomes of them where stretches are taken out; the middle stays in the middle."""
        found = []
        for axis in (0, 1):
            own = sorted((g for g in self.gaps if g.axis == axis), key=lambda g: g.start)
            gone = [g.end - g.start - g.width / self.scale for g in own]
            u, v, moved = [-FAR], [-FAR + sum(gone) / 2], sum(gone) / 2
            for g, less in zip(own, gone, strict=True):
                u += [g.start, g.end]
                v.append(g.start + moved)
                moved -= less
                v.append(g.end + moved)
            found.append((np.array([*u, FAR]), np.array([*v, FAR + moved])))
        return found

    def _through(self, points: Array, back: bool = False) -> Array:
        p = np.asarray(points, float)
        if not self.gaps:
            return p
        pairs = [(v, u) if back else (u, v) for u, v in self._knots]
        return np.stack([np.interp(p[..., k], *pairs[k]) for k in (0, 1)], axis=-1)

    def laid_down(self, points: Array, shift: Place | Array = (0.0, 0.0)) -> Array:
        """View mm (m, 2) of a piece that moves as one, by a ``shift``, to sheet mm, whether it is drawn or not."""
        return ((np.asarray(points) + shift - self.about) * self.scale) @ self.matrix + self.place

    def curve(self, curve: Curve2, shift: Place = (0.0, 0.0)) -> Curve2:
        """A curve of such a piece on the sheet."""
        return curve.moved(self.scale, *self._laying(shift))

    def _laying(self, shift: Place) -> tuple[float, Array]:
        """The angle and the offset by which curves of such a piece come to the sheet."""
        return float(np.radians(self.turn)), self.laid_down(np.zeros(2), shift)

    def to_sheet(self, points: Array) -> Array:
        """View mm (m, 2) to sheet mm."""
        return self.laid_down(self._through(points))

    def at_end(self, points: Array, gap: Gap, first: bool) -> Array:
        """View mm (m, 2) about an end of a gap to sheet mm, also beyond it: moved as the piece that ends there."""
        end = np.asarray(points, float).copy()
        end[:, gap.axis] = gap.start if first else gap.end
        return self.laid_down(points, self._through(end) - end)

    def stands(self, points: Array) -> Array:
        """The same of places that something is put at: those in a stretch that is taken out stand in the middle of its gap."""
        p = np.array(points, float)
        for g in self.gaps:
            inside = (p[:, g.axis] > g.start) & (p[:, g.axis] < g.end)
            p[inside, g.axis] = (g.start + g.end) / 2
        return self.to_sheet(p)

    def from_sheet(self, points: Array) -> Array:
        """Sheet mm (m, 2) to view mm."""
        return self._through((np.asarray(points) - self.place) @ self.matrix.T / self.scale + self.about, back=True)

    def direction(self, along: Array) -> Array:
        """A direction (2,) of the view as the sheet has it."""
        return np.asarray(along) @ self.matrix

    @cached_property
    def cells(self) -> tuple[Cell, ...]:
        """The pieces of the view that are drawn."""
        window = shapely.Polygon(self.window) if self.window else None
        if window is not None and not window.is_valid:
            window = window.buffer(0)
        if not self.gaps:
            return (Cell(window, (0.0, 0.0)),)
        found = []
        for x0, x1 in self._stays(0):
            for y0, y1 in self._stays(1):
                region = self._between(x0, x1, 0).intersection(self._between(y0, y1, 1))
                if window is not None:
                    region = region.intersection(window)
                if region.is_empty:
                    continue
                at = np.array([_inner(x0, x1), _inner(y0, y1)])
                shift = self._through(at) - at
                found.append(Cell(region, (float(shift[0]), float(shift[1]))))
        return tuple(found)

    def _stays(self, axis: int) -> list[tuple[tuple[float, str], tuple[float, str]]]:
        """The stretches along an axis that stay, each between two ends and their forms."""
        low, found = (-FAR, ""), []
        for g in sorted((g for g in self.gaps if g.axis == axis), key=lambda g: g.start):
            found.append((low, (g.start, g.form)))
            low = (g.end, g.form)
        return [*found, (low, (FAR, ""))]

    def _between(self, low: tuple[float, str], high: tuple[float, str], axis: int) -> Any:
        """The strip between two ends, irregular ones as they are drawn."""
        sides = [self.end_line(at, form, axis) for at, form in (low, high)]
        return shapely.Polygon(np.concatenate([sides[0], sides[1][::-1]]))

    def end_line(self, at: float, form: str, axis: int, low: float = -FAR, high: float = FAR) -> Array:
        """The end (n, 2) of a stretch across the view, from ``low`` to ``high`` (view mm)."""
        if form != "freehand":
            return swapped(np.array([[at, low], [at, high]]), axis)
        step = max(0.8 / self.scale, self.reach / 2000)
        inner = np.arange(max(low, -self.reach), min(high, self.reach), step)
        run = np.unique(np.concatenate([[low], inner, [high]]))
        strays = np.where(np.abs(run) < FAR, wave(run * self.scale), 0.0) / self.scale
        return swapped(np.c_[at + strays, run], axis)

    @property
    def plain(self) -> bool:
        """True where all of the view is drawn, and nothing taken out."""
        return not (self.gaps or self.window)

    def laid(self, strings: Strings) -> list[tuple[int, Curve2]]:
        """Curves of a view on the sheet, in pieces where the transform has it so, each with its row."""
        found: list[tuple[int, Curve2]] = []
        for cell in self.cells:
            own = list(enumerate(strings.curves)) if cell.region is None else strings.within(cell.region)
            laid = moved_all([c for _, c in own], self.scale, *self._laying(cell.shift))
            found += [(k, c) for (k, _), c in zip(own, laid, strict=True)]
        return found if self.plain else sorted(found, key=lambda f: f[0])

    def areas(self, rings: Sequence[Array]) -> list[Any]:
        """A region of the view (outlines (m, 2), those after the first holes) on the sheet: its pieces as polygons."""
        if self.plain:
            own = [self.to_sheet(r) for r in rings]
            return [shapely.Polygon(own[0], own[1:])]
        whole = shapely.Polygon(rings[0], rings[1:])
        if not whole.is_valid:
            whole = whole.buffer(0)
        found = []
        for cell in self.cells:
            kept = whole if cell.region is None else whole.intersection(cell.region)
            found += polygons_of(shapely.transform(kept, lambda p, cell=cell: self.laid_down(p, cell.shift)))
        return found

    def shows(self, points: Array) -> NDArray[np.bool_]:
        """True (m,) where points (m, 2; view mm) lie in a piece that is drawn."""
        p = np.atleast_2d(points)
        if self.plain:
            return np.ones(len(p), bool)
        regions = [c.region for c in self.cells if c.region is not None]
        spots = shapely.points(p)
        return np.any([shapely.dwithin(r, spots, 1e-6) for r in regions] or [np.zeros(len(p), bool)], axis=0)


def _inner(low: tuple[float, str], high: tuple[float, str]) -> float:
    """A place between two ends, next to the one that is not far away."""
    a, b = low[0], high[0]
    if a <= -FAR and b >= FAR:
        return 0.0
    if a <= -FAR:
        return b - 1e-6 * max(1.0, abs(b))
    return a + 1e-6 * max(1.0, abs(a)) if b >= FAR else (a + b) / 2


def swapped(points: Array, axis: int) -> Array:
    """Points (m, 2) given along and across an axis as x and y."""
    return points if axis == 0 else points[:, ::-1]
