"""Which faces of a solid look inward: by the mesh as the kernel made it, and by rays that count what they pass."""

from __future__ import annotations

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore import EmbreeDevice
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.vectors import cross

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
SAMPLES = 3
"""Triangles of each face from which rays are cast."""
LAYERS = 64
LEAST = 0.6
"""Share of its rays that must find a face turned round, with none that finds it right."""
START = 1e-4
"""How far off its face a ray starts, in sizes of the body."""


@compiled
def against_winding(nodes, normals, triangles):  # type: ignore[no-untyped-def]
    """True where normals (n, 3) at the nodes of a face point against the way its triangles (m, 3) are wound."""
    total = 0.0
    for i in range(len(triangles)):
        a, b, c = triangles[i]
        for x in range(3):
            y, z = (x + 1) % 3, (x + 2) % 3
            n = (nodes[b, y] - nodes[a, y]) * (nodes[c, z] - nodes[a, z])
            n -= (nodes[b, z] - nodes[a, z]) * (nodes[c, y] - nodes[a, y])
            total += n * (normals[a, x] + normals[b, x] + normals[c, x])
    return total < 0


def unlike(beside: list[dict[int, float]], faces: int) -> list[int]:
    """The faces of an open shell to turn round so that neighbours look to one side, as far as can be: the fewer of each piece.

    ``beside``: of each edge its faces, with +1 where it runs in its curve's sense along their boundary: twice the same sense
    means that one of them is the wrong way round.
    """
    near: list[list[tuple[int, bool]]] = [[] for _ in range(faces)]
    for owners in beside:
        if len(owners) == 2:
            (a, x), (b, y) = owners.items()
            near[a].append((b, x == y))
            near[b].append((a, x == y))
    turned: dict[int, bool] = {}
    found: list[int] = []
    for first in range(faces):
        if first in turned:
            continue
        turned[first], piece = False, [first]
        for f in piece:
            for other, flips in near[f]:
                if other not in turned:
                    turned[other] = turned[f] != flips
                    piece.append(other)
        odd = [f for f in piece if turned[f]]
        found += odd if 2 * len(odd) <= len(piece) else [f for f in piece if not turned[f]]
    return found


def inward(nodes: Array, triangles: Ints, face_of: Ints, faces: int) -> Flags:
    """Which of the ``faces`` of a closed body look into it (f,), by the winding of their triangles (m, 3).

    From a few places of each face rays go out to both sides: one that leaves the body passes an even number of
    triangles, one that goes into it an odd one. Only where most find so, and none the contrary, is a face taken for turned round.
    """
    found = np.zeros(faces, bool)
    if not len(triangles):
        return found
    low, high = nodes.min(axis=0), nodes.max(axis=0)
    size = max(float(np.linalg.norm(high - low)), 1e-300)
    flat = (nodes - (low + high) / 2) / size
    a, b, c = (flat[triangles[:, k]] for k in range(3))
    normals = cross(b - a, c - a)
    length = np.linalg.norm(normals, axis=1)
    # the largest triangles of each face
    order = np.lexsort((-length, face_of))
    first = np.searchsorted(face_of[order], np.arange(faces))
    place = np.arange(len(order)) - first[face_of[order]]
    own = order[(place < SAMPLES) & (length[order] > 1e-14)]
    if not len(own):
        return found
    normal = normals[own] / length[own, None]
    middle = (a[own] + b[own] + c[own]) / 3
    scene = EmbreeScene(EmbreeDevice(), robust=True)
    keep = TriangleMesh(scene, flat.astype(np.float32), triangles.astype(np.int32))
    # a little aside, so that rays do not run along faces that stand square to each other, and to three sides, so
    # that none slips through where others touch
    across = cross(normal, np.array([0.36, 0.48, 0.8]))
    drift = 0.03 * np.array([0.8, -0.6, 0.1])
    wrong, right = np.zeros(len(own)), np.zeros(len(own))
    for aside in (0.05 * across + drift, -0.08 * across - drift, 0.11 * cross(normal, across) + drift):
        out, into = (
            _passed(scene, middle + sign * START * normal, sign * normal + aside) % 2 == 1 for sign in (1.0, -1.0)
        )
        wrong += out & ~into
        right += into & ~out
    del keep
    asked, ill, display_cache = (
        np.bincount(face_of[own], weights=w, minlength=faces) for w in (np.ones(len(own)), wrong, right)
    )
    found[:] = (asked > 0) & (ill >= LEAST * 3 * asked) & (display_cache == 0)
    return found


def _passed(scene: EmbreeScene, origins: Array, rays: Array) -> Ints:
    """How many triangles each ray (n, 3) passes."""
    count = np.zeros(len(origins), np.int64)
    rays = np.ascontiguousarray(rays / np.linalg.norm(rays, axis=1)[:, None], np.float32)
    origins = np.ascontiguousarray(origins, np.float32)
    live = np.arange(len(origins))
    for _ in range(LAYERS):
        found = scene.run(origins[live], rays[live], output=1)
        met = found["primID"] >= 0
        live = live[met]
        if not len(live):
            break
        count[live] += 1
        origins[live] += (found["tfar"][met] + np.float32(2e-6))[:, None] * rays[live]
    return count
