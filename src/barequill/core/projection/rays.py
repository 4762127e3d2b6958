"""What stands in front of a point: one ray each, all in one call."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore import EmbreeDevice
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from ..cutting.clipping import stretches_ahead
from ..cutting.figures import figures_of
from ..cutting.limits import HAIR, Cut
from ..cutting.regions import behind_laid, laid_regions, passing
from ..geometry.compiled import compiled
from ..geometry.wires import Wires
from ..part.chosen import named
from ..part.model import Mesh, Part
from .camera import Camera

Array = NDArray[np.float64]
Singles = NDArray[np.float32]


@compiled
def scaled(origins, direction, centre, scale):  # type: ignore[no-untyped-def]
    """Rays from origins (m, 3) in one direction as the tracer takes them, in single precision, about ``centre``."""
    o, d = np.empty(origins.shape, np.float32), np.empty(origins.shape, np.float32)
    for i in range(len(origins)):
        for x in range(3):
            o[i, x], d[i, x] = (origins[i, x] - centre[x]) * scale, direction[x]
    return o, d


class RayStructure:
    """Ray tests against a mesh, scaled to unit size about its centre (the tracer works in single precision)."""

    def __init__(self, mesh: Mesh, low: Array, high: Array) -> None:
        self.centre = (low + high) / 2
        self.scale = 1.0 / max(float(np.linalg.norm(high - low)), 1e-300)
        self._scene = EmbreeScene(_device(), robust=True)
        nodes = np.ascontiguousarray((mesh.nodes - self.centre) * self.scale, dtype=np.float32)
        self._mesh = TriangleMesh(self._scene, nodes, np.ascontiguousarray(mesh.triangles, dtype=np.int32))

    def blocked(self, origins: Array, direction: Array) -> NDArray[np.bool_]:
        """True (m,) where something stands between each origin (m, 3; mm) and infinity along ``direction``."""
        if not len(origins):
            return np.zeros(0, bool)
        o, d = scaled(np.ascontiguousarray(origins, float), direction, self.centre, self.scale)
        return self._scene.run(o, d, query="OCCLUDED") == 0

    def blocked_within(self, origins: Singles, directions: Singles, reach: Singles) -> NDArray[np.bool_]:
        """True (m,) where something stands so near (m,) to each origin (m, 3) along its direction, all as the tracer takes it."""
        if not len(origins):
            return np.zeros(0, bool)
        return self._scene.run(origins, directions, dists=reach, query="OCCLUDED") == 0

    def hits(self, origins: Array, direction: Array) -> tuple[NDArray[np.int64], Array, Array]:
        """Triangle (m,) first met by each ray, -1 where there is none, the distance (m,) in mm to it, and the place in
        it as weights (m, 3) of its corners."""
        o = np.ascontiguousarray((origins - self.centre) * self.scale, dtype=np.float32)
        d = np.ascontiguousarray(np.broadcast_to(direction, o.shape), dtype=np.float32)
        found = self._scene.run(o, d, output=1)
        u, v = found["u"].astype(float), found["v"].astype(float)
        return (
            found["primID"].astype(np.int64),
            found["tfar"].astype(float) / self.scale,
            np.stack([1 - u - v, u, v], axis=1),
        )


@lru_cache(maxsize=1)
def _device() -> EmbreeDevice:
    """The tracer, one for all structures of a process."""
    return EmbreeDevice()


@lru_cache(maxsize=8)
def ray_structure(part: Part) -> RayStructure:
    """The ray structure of a part, kept for the parts last used."""
    return RayStructure(part.mesh, part.low, part.high)


def in_front(part: Part, view: Camera, flat: Array) -> Array:
    """Places (m, 3) before all of a part from which a ray away from the viewer meets what is seen at ``flat`` (m, 2) places
    of the view."""
    near = float((part.mesh.nodes @ view.toward).max()) + 0.01 * part.size
    return flat @ np.array([view.right, view.up]) + near * view.toward


@lru_cache(maxsize=8)
def _cut_and_whole(part: Part, whole: tuple[str, ...]) -> tuple[RayStructure | None, RayStructure | None]:
    """The ray structures of the bodies that are cut, and of those that are not."""
    safe = named(part, whole)
    if not safe.any():
        return ray_structure(part), None
    body = figures_of(part).face_body[part.mesh.face_of]
    one, other = (
        RayStructure(replace(part.mesh, triangles=part.mesh.triangles[own]), part.low, part.high) if own.any() else None
        for own in (~safe[body], safe[body])
    )
    return one, other


MARGIN = 2e-6
"""In part sizes: so far before a cutting plane a ray ends."""


def blocked_within(part: Part, cut: Cut, edges: Wires, origins: Array, direction: Array) -> NDArray[np.bool_]:
    """True (m,) where something that a cut leaves stands between each origin (m, 3; mm) and the viewer.

    Whoever comes out of a face that is laid open has gone into the material through another before, unless he begins
    within it, between bodies that touch or beneath a face that is turned away: these faces are asked for last.
    ``edges``: those of the part.
    """
    if not cut:
        return ray_structure(part).blocked(origins, direction)
    below, whole = _cut_and_whole(part, cut.whole)
    if whole is None:
        found, live = np.zeros(len(origins), bool), np.arange(len(origins))
    else:
        found = whole.blocked(origins, direction)
        live = np.nonzero(~found)[0]
    if below is None:
        return found
    gone = np.zeros(len(live))
    for _ in range(len(cut.cells) + 1):
        asked, begin, way, reach, live, gone = stretches_ahead(
            origins=origins,
            live=live,
            gone=gone,
            toward=direction,
            cutting_planes=cut.arrays,
            hair=HAIR * part.size,
            margin=MARGIN * part.size,
            centre=below.centre,
            scale=below.scale,
        )
        found[asked] = below.blocked_within(begin, way, reach)
        if not len(live):
            break
        on = ~found[live]
        live, gone = live[on], gone[on]
    behind_laid(part, cut, edges, origins, direction, found)
    return found


def first_seen(part: Part, cut: Cut, edges: Wires, origins: Array, direction: Array) -> tuple[NDArray[np.int64], Array]:
    """The triangle (m,) of the part that rays from outside it meet first of what a cut leaves, and the place in it as
    weights (m, 3); -1 where there is none, or a face that the cut lays open comes before."""
    rays, m = ray_structure(part), len(origins)
    safe, body = named(part, cut.whole), figures_of(part).face_body[part.mesh.face_of]
    triangle, weights, way = np.full(m, -1), np.zeros((m, 3)), np.full(m, np.inf)
    gone, live = np.zeros(m), np.arange(m)
    hair = 1e-6 * part.size
    for _ in range(200):
        if not len(live):
            break
        start = origins[live] + gone[live][:, None] * direction
        hit, far, at = rays.hits(start, direction)
        met = hit >= 0
        live, hit, far, at, start = live[met], hit[met], far[met], at[met], start[met]
        gone[live] += far
        there = start + far[:, None] * direction
        kept = safe[body[hit]] | ~cut.takes(there, hair)
        own = live[kept]
        triangle[own], weights[own], way[own] = hit[kept], at[kept], gone[own]
        live = live[~kept]
        gone[live] += 2 * hair
    for cutting_plane, _, region, _ in laid_regions(part, cut, edges):
        rows, far = passing(
            cut=cut,
            cutting_plane=cutting_plane,
            region=region,
            origins=origins,
            direction=direction,
            low=0.0,
            high=way - hair,
        )
        triangle[rows], way[rows] = -1, far
    return triangle, weights
