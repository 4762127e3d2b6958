"""What the mesh says of a cutting plane, face by face, against which the exact curves are checked as they are made."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled

Array = NDArray[np.float64]
FLATTEST = 1e-3
"""Least sine of the angle between cutting plane and triangle by which the strip is told in which both may meet."""
SLIPPED = 4e-3
"""How far, in part sizes, the ends of what a cutting plane meets of a face may lie from those of the mesh together, beside how far the mesh
strays: edges are bent between the nodes of their mesh."""
OPEN = 1e-5
"""How far, in part sizes, what a cutting plane meets of a body may be from closed where its mesh is closed."""


class Outline(NamedTuple):
    """What a cutting plane meets of the mesh, by face (f,): whether it does at all; from a place ``base`` (f, 3) of it on the signed
    ``area`` (mm²), positive about material as one looks against the cutting plane's normal; how much of that the mesh may be wrong by
    (``slack``, mm²); how far aside of it the surface may run (``reach``, mm), how far from the base it comes (``far``, mm), and the sum
    of its ways from begin to end (f, 3; mm)."""

    met: NDArray[np.bool_]
    base: Array
    area: Array
    slack: Array
    reach: Array
    far: Array
    way: Array


@compiled
def outline_of(nodes, face_of, strays, mixed, corners, height, over, normal):  # type: ignore[no-untyped-def]
    """What a cutting plane meets of the triangles ``mixed`` (k,), by their ``corners`` (k, 3), with the height (n,) of all nodes, and whether
    they count as ``over`` it; ``strays`` (f,): how far the mesh of a face strays (mm)."""
    count = len(strays)
    met, base, area, slack = np.zeros(count, np.bool_), np.zeros((count, 3)), np.zeros(count), np.zeros(count)
    reach, far, way = np.zeros(count), np.zeros(count), np.zeros((count, 3))
    ends, sides, square = np.empty((2, 3)), np.empty((2, 3)), np.empty(3)
    for k in range(len(mixed)):
        f = face_of[mixed[k]]
        for x in range(3):
            a, b = corners[k, x], corners[k, (x + 1) % 3]
            if over[a] == over[b]:
                continue
            gap = height[a] - height[b]
            u = min(max(height[a] / gap, 0.0), 1.0) if gap != 0.0 else 0.5
            for y in range(3):
                ends[0 if over[a] else 1, y] = nodes[a, y] + u * (nodes[b, y] - nodes[a, y])
        if not met[f]:
            met[f] = True
            for y in range(3):
                base[f, y] = ends[0, y]
        area[f] += swept(ends[0], ends[1], base[f], normal)
        length = aside = 0.0
        for y in range(3):
            sides[0, y] = nodes[corners[k, 1], y] - nodes[corners[k, 0], y]
            sides[1, y] = nodes[corners[k, 2], y] - nodes[corners[k, 0], y]
            length += (ends[1, y] - ends[0, y]) ** 2
            aside += (ends[1, y] - base[f, y]) ** 2
            way[f, y] += ends[1, y] - ends[0, y]
        square[0] = sides[0, 1] * sides[1, 2] - sides[0, 2] * sides[1, 1]
        square[1] = sides[0, 2] * sides[1, 0] - sides[0, 0] * sides[1, 2]
        square[2] = sides[0, 0] * sides[1, 1] - sides[0, 1] * sides[1, 0]
        size = np.sqrt(square[0] ** 2 + square[1] ** 2 + square[2] ** 2)
        slope = (square[0] * normal[0] + square[1] * normal[1] + square[2] * normal[2]) / max(size, 1e-300)
        own = strays[f] / max(np.sqrt(max(1.0 - slope * slope, 0.0)), FLATTEST)
        slack[f] += np.sqrt(length) * own
        reach[f], far[f] = max(reach[f], own), max(far[f], np.sqrt(aside))
    return Outline(met=met, base=base, area=area, slack=slack, reach=reach, far=far, way=way)


@compiled
def swept(a, b, base, normal):  # type: ignore[no-untyped-def]
    """The signed area (mm²) of the triangle from ``base`` to a and b (3,) as one looks against a normal."""
    x0, x1, x2 = a[0] - base[0], a[1] - base[1], a[2] - base[2]
    y0, y1, y2 = b[0] - base[0], b[1] - base[1], b[2] - base[2]
    return ((x1 * y2 - x2 * y1) * normal[0] + (x2 * y0 - x0 * y2) * normal[1] + (x0 * y1 - x1 * y0) * normal[2]) / 2


@compiled
def astray(outline, face, start, points, cubic, lost, face_body, solid, normal, size):  # type: ignore[no-untyped-def]
    """The bodies (b,) of which what a cutting plane meets, as wires of faces (n,), is not what it meets of their mesh, by face and as a
    whole; only of those that are ``solid`` (b,) and of which no chain of a face is ``lost`` (j,)."""
    count = len(face_body)
    area, way, long = np.zeros(count), np.zeros((count, 3)), np.zeros(count)
    here = np.empty(3)
    before = np.empty(3)
    for k in range(len(face)):
        f = face[k]
        for i in range(start[k], start[k + 1] - 1):
            bent = 0.0
            for x in range(3):
                bent += abs(cubic[1, i, x]) + abs(cubic[2, i, x])
                before[x] = points[i, x]
            steps = 8 if bent > 0.0 else 1
            for s in range(1, steps + 1):
                u = s / steps
                for x in range(3):
                    here[x] = points[i, x] + u * (cubic[0, i, x] + u * (cubic[1, i, x] + u * cubic[2, i, x]))
                area[f] += swept(before, here, outline.base[f], normal)
                far = 0.0
                for x in range(3):
                    far += (here[x] - before[x]) ** 2
                    before[x] = here[x]
                long[f] += np.sqrt(far)
        a, b = start[k], start[k + 1] - 1
        for x in range(3):
            way[f, x] += points[b, x] - points[a, x]
    skipped = ~solid
    for j in range(len(lost)):
        skipped[face_body[lost[j]]] = True
    found = np.zeros(len(solid), np.bool_)
    open_exact, open_mesh = np.zeros((len(solid), 3)), np.zeros((len(solid), 3))
    for f in range(count):
        b = face_body[f]
        if skipped[b] or (not outline.met[f] and long[f] == 0.0):
            continue
        slip = 0.0
        for x in range(3):
            slip += (way[f, x] - outline.way[f, x]) ** 2
            open_exact[b, x] += way[f, x]
            open_mesh[b, x] += outline.way[f, x]
        slip = np.sqrt(slip)
        far = max(outline.far[f], long[f])
        most = 2 * outline.slack[f] + (outline.reach[f] + slip + 1e-6 * size) * far
        if abs(area[f] - outline.area[f]) > most or slip > 4 * outline.reach[f] + SLIPPED * size:
            found[b] = True
    for b in range(len(solid)):
        gap = np.abs(open_exact[b]).max()
        if gap > OPEN * size and gap > 4 * np.abs(open_mesh[b]).max():
            found[b] = True
    return found
