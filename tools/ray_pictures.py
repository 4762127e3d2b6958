"""What a view must show, found from a picture cast by rays: where depth or direction jumps, a line must be.

It knows no edges and no outlines: it looks at neighbouring points of the picture, halves the way between two that
differ until the place of the jump is found, and asks whether a line runs there. Counting all surfaces that a ray
passes, it finds the outlines that are hidden, too.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

Array = np.ndarray
JUMP = 4e-3
"""In part sizes: depths that differ more over next to no distance are a jump."""
CREASE = 0.94
"""Cosine between directions of faces (20 degrees) below which they meet in a sharp edge."""
LAYERS = 32
STEP = 5e-6
ASIDE = 4e-4
TOUCH = 2e-4
"""In part sizes: how near surfaces are along a ray, next to an outline, between whose faces it stands."""
THIN = 2e-4
"""In part sizes: surfaces nearer to each other along a ray may count as none."""


@dataclass
class PlacedView:
    """Rays through a fine mesh (nodes (n, 3), triangles (m, 3), the body and the face (m,) of each) in one view, all in part
    sizes about its centre; ``closed`` where no surface has a border."""

    scene: Any
    nodes: Array
    triangles: Array
    body: Array
    face: Array
    centre: Array
    size: float
    view: Any
    closed: bool

    def __post_init__(self) -> None:
        a, b, c = (self.nodes[self.triangles[:, k]] for k in range(3))
        n = np.cross(b - a, c - a)
        self.normals = n / np.maximum(np.linalg.norm(n, axis=1), 1e-300)[:, None]

    def look(self, flat: Array, depth: Array | None = None) -> tuple[Array, Array]:
        """Depth (n,) along the view of what is first met (minus infinity where nothing is), and triangles (n,)."""
        v = self.view
        top = np.full(len(flat), 1.0) if depth is None else depth
        origins = flat[:, :1] * v.right + flat[:, 1:] * v.up + top[:, None] * v.toward
        rays = np.broadcast_to(-v.toward, origins.shape)
        found = self.scene.run(
            np.ascontiguousarray(origins, np.float32), np.ascontiguousarray(rays, np.float32), output=1
        )
        hit = found["primID"]
        return np.where(hit >= 0, top - found["tfar"], -np.inf), hit

    def layers(self, flat: Array) -> tuple[Array, Array]:
        """Depths (n, LAYERS) of all surfaces that a ray through each point (n, 2) passes, minus infinity beyond the last, and
        the face of each (n, LAYERS)."""
        found, faces = np.full((len(flat), LAYERS), -np.inf), np.full((len(flat), LAYERS), -1)
        depth, live = np.full(len(flat), 1.0), np.arange(len(flat))
        for layer in range(LAYERS):
            at, hit = self.look(flat[live], depth[live])
            live, at, hit = live[hit >= 0], at[hit >= 0], hit[hit >= 0]
            if not len(live):
                break
            found[live, layer], faces[live, layer] = at, self.face[hit]
            depth[live] = at - STEP
        return found, faces

    def count(self, flat: Array) -> Array:
        """How many surfaces a ray through each point (n, 2) passes (n, 2): all, and without those so close behind each
        other that rays may or may not tell them apart."""
        layers, _ = self.layers(flat)
        n = np.zeros((len(flat), 2), int)
        n[:, 0] = np.isfinite(layers).sum(axis=1)
        before = np.full(len(flat), np.inf)
        for at in layers.T:
            met = np.isfinite(at)
            close = met & (np.where(np.isfinite(before), before, 9.0) - np.where(met, at, 0.0) < THIN)
            n[:, 1] += np.where(close, -1, met)
            before = np.where(close, np.inf, np.where(met, at, before))
        # a ray through a closed body that passes an odd number has stepped over one of two that all but touch
        n[:, 1] -= n[:, 1] % 2 if self.closed else 0
        return n

    def turns(self, p: Array, q: Array, gap: float) -> Array:
        """True where some surface that a ray through p or q (n, 2) passes has none beside it within ``gap``, where other
        faces touch between them, and where there are more of them than are asked for."""
        (a, one), (b, other) = self.layers(p), self.layers(q)
        with np.errstate(invalid="ignore"):
            turned = (~(np.abs(a - b) < gap) & (np.isfinite(a) | np.isfinite(b))).any(axis=1)
        touch = (one != other).any(axis=1) if gap <= TOUCH else False
        return turned | touch | np.isfinite(a[:, -1]) | np.isfinite(b[:, -1])

    def differ(self, p: Array, q: Array) -> Array:
        """True where what is seen at points p and q (n, 2) differs by more than a smooth surface does."""
        (dp, hp), (dq, hq) = self.look(p), self.look(q)
        one = (hp >= 0) != (hq >= 0)
        both = (hp >= 0) & (hq >= 0)
        np_, nq = self.normals[hp], self.normals[hq]
        gap = np.zeros(len(p))
        gap[both] = np.abs(dp[both] - dq[both])
        # where one body runs into another is no edge of either, and within a face only its mesh can have creases
        turn = (
            both
            & (self.body[hp] == self.body[hq])
            & (self.face[hp] != self.face[hq])
            & (np.abs((np_ * nq).sum(axis=1)) < CREASE)
        )
        return one | (gap > JUMP) | turn

    def jumps(self, cells: int = 160) -> Array:
        """Places (n, 2), in mm of the view, where a visible line must run."""
        return self._found(self.differ, cells)

    def folds(self, cells: int = 110) -> Array:
        """Places (n, 2), in mm of the view, where some outline or rim must run, visible or hidden.

        Of one body only: where two touch, the meshes of both faces run through each other."""
        if self.body.any():
            return np.zeros((0, 2))
        # where a gap runs out to nothing, as in a groove, rays tell two surfaces from one by chance: a little to both
        # sides nothing has changed
        return self._found(
            lambda p, q: self.count(p)[:, 0] != self.count(q)[:, 0],
            cells,
            lambda p, q: self.count(p)[:, 1] != self.count(q)[:, 1],
        )

    def _found(self, differ: Any, cells: int, firmly: Any = None) -> Array:
        v = self.view
        flat = self.nodes @ np.array([v.right, v.up]).T
        low, high = flat.min(axis=0), flat.max(axis=0)
        step = float((high - low).max()) * 1.03 / cells
        # an odd part of a step aside, so that rays do not run along faces that stand at round figures
        x, y = (np.arange(low[k] - 1.377 * step, high[k] + 2 * step, step) for k in (0, 1))
        grid = np.stack(np.meshgrid(x, y, indexing="ij"), axis=-1)
        p = np.concatenate([grid[:-1].reshape(-1, 2), grid[:, :-1].reshape(-1, 2)])
        q = np.concatenate([grid[1:].reshape(-1, 2), grid[:, 1:].reshape(-1, 2)])
        for _ in range(13):
            m = (p + q) / 2
            left, right = differ(p, m), differ(m, q)
            keep = left | right
            p, m, q, left = p[keep], m[keep], q[keep], left[keep]
            p, q = np.where(left[:, None], p, m), np.where(left[:, None], m, q)
        if len(p):
            # what a hand's breadth of rays confirms on both sides is no speck of the mesh
            across = q - p
            across /= np.maximum(np.linalg.norm(across, axis=1), 1e-300)[:, None]
            firm = np.all([differ(p - k * across, q + k * across) for k in (2e-5, 6e-5)], axis=0)
            if firmly is not None:
                firm &= firmly(p - ASIDE * across, q + ASIDE * across)
            p, q = p[firm], q[firm]
        return (p + q) / 2 * self.size + self.centre @ np.array([v.right, v.up]).T


def without_border(nodes: Array, triangles: Array) -> bool:
    """True where every side of a mesh belongs to two triangles: nodes (n, 3) in part sizes, triangles (m, 3)."""
    cells = np.round(nodes * 1e7).astype(np.int64)
    _, name = np.unique(cells @ np.array([1, 100_000_007, 10_000_000_000_051]), return_inverse=True)
    corners = name.reshape(-1)[triangles]
    sides = np.sort(np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]]), axis=1)
    sides = sides[sides[:, 0] != sides[:, 1]]
    _, count = np.unique(sides[:, 0] * len(nodes) + sides[:, 1], return_counts=True)
    return bool((count % 2 == 0).mean() > 0.999)


def share_on(points: Array, lines: list, reach: float) -> float:
    """The share of points (n, 2) within ``reach`` of a line."""
    if not len(points):
        return 1.0
    if not lines:
        return 0.0
    rows, _ = shapely.STRtree(lines).query(shapely.points(points), predicate="dwithin", distance=reach)
    return len(np.unique(rows)) / len(points)
