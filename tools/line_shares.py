"""Shares of lines: those that stand where something turns, that close the part's rim, that are drawn once."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from .ray_pictures import PlacedView


def share_of(flags: np.ndarray) -> float:
    """The share of what is true, 1 of nothing."""
    return float(flags.mean()) if len(flags) else 1.0


def on_lines(points: np.ndarray, lines: list, reach: float) -> np.ndarray:
    """True where a point (n, 2) lies within ``reach`` of one of the geometries."""
    found = np.zeros(len(points), bool)
    if len(lines) and len(points):
        rows, _ = shapely.STRtree(lines).query(shapely.points(points), predicate="dwithin", distance=reach)
        found[rows] = True
    return found


def turning(placed_view: PlacedView, outlines: list, size: float, count: int = 15) -> float:
    """The share of the length of outlines across which depth, or the number of surfaces that a ray passes, changes."""
    if not outlines:
        return 1.0
    share = (np.arange(count) + 0.5) / count
    lengths = np.array([line.length for line in outlines])
    middle = placed_view.centre @ np.array([placed_view.view.right, placed_view.view.up]).T

    def at(shares: np.ndarray) -> np.ndarray:
        places = lengths[:, None] * shares
        found = shapely.line_interpolate_point(np.array(outlines)[:, None], places)
        return (shapely.get_coordinates(found) - middle) / size

    points, along = at(share), at(share + 0.01) - at(share - 0.01)
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    across /= np.maximum(np.linalg.norm(across, axis=1), 1e-300)[:, None]
    turns = np.zeros(len(points), bool)
    for step in (2e-5, 5e-5, 2e-4, 6e-4):
        left = np.nonzero(~turns)[0]
        p, q = points[left] - step * across[left], points[left] + step * across[left]
        turns[left] = placed_view.turns(p, q, 10 * step)
    weight = np.repeat(lengths, count)
    return float(weight[turns].sum() / weight.sum())


def rim(samples: Any, view: Any, seen: list, steps: Any) -> float:
    """The share of the rim of the part's shadow beside which a visible line runs.

    The shadow is cast on a fine raster by rays; its rim lies between neighbours of which one only is in it.
    """
    count = 220
    flat = view.flat(samples.corners)
    low, high = flat.min(axis=0), flat.max(axis=0)
    step = float((high - low).max()) * 1.04 / count
    x, y = (np.arange(low[k] - 2 * step, high[k] + 2 * step, step) for k in (0, 1))
    grid = np.stack(np.meshgrid(x, y, indexing="ij"), axis=-1)
    far = float((samples.corners @ view.toward).min()) - samples.size * 0.01
    origins = grid.reshape(-1, 2) @ np.array([view.right, view.up]) + far * view.toward
    dark = samples.blocked(origins, view.toward, np.zeros(3)).reshape(grid.shape[:2])
    rim = []
    for axis in (0, 1):
        a, b = (dark[:-1], dark[1:]) if axis == 0 else (dark[:, :-1], dark[:, 1:])
        at = np.argwhere(a != b)
        other = at + ([1, 0] if axis == 0 else [0, 1])
        rim.append((grid[tuple(at.T)] + grid[tuple(other.T)]) / 2)
    points = np.concatenate(rim)
    if steps is not None:
        points = points[shapely.distance(shapely.points(points), steps) > step]
    return share_of(on_lines(points, seen, step * 0.75))


def once(lines: list, size: float) -> float:
    """The share of the drawn length that lies under no other line."""
    total = sum(line.length for line in lines)
    if not total:
        return 1.0
    tree = shapely.STRtree(lines)
    double = 0.0
    for k, line in enumerate(lines):
        parts = np.linspace(0, line.length, max(3, int(line.length / (size * 2e-3)) + 1))
        places = (parts[1:] + parts[:-1]) / 2
        points = shapely.line_interpolate_point(line, places)
        mine, other = tree.query(points, predicate="dwithin", distance=size * 5e-6)
        # a place counts where its neighbours a little before and after lie under the same line too: no mere crossing
        under = np.zeros(len(points), bool)
        for o in np.unique(other[other != k]):
            near = np.zeros(len(points), bool)
            near[mine[other == o]] = True
            ends = shapely.line_interpolate_point(
                line, np.clip(places[near][:, None] + np.array([-1, 1]) * size * 5e-4, 0, line.length)
            )
            under[np.nonzero(near)[0]] |= (shapely.distance(ends, lines[o]) < size * 5e-6).all(axis=1)
        double += float(under.sum()) * (parts[1] - parts[0])
    return 1.0 - double / 2 / total
