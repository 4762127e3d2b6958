"""What stands in front of a point: one ray each, all in one call."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore import EmbreeDevice
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from ..part.model import Mesh, Part

Array = NDArray[np.float64]


class RayStructure:
    """Ray tests against a mesh, scaled to unit size about its centre (the tracer works in single precision)."""

    def __init__(self, mesh: Mesh, low: Array, high: Array) -> None:
        self._centre = (low + high) / 2
        self._scale = 1.0 / max(float(np.linalg.norm(high - low)), 1e-300)
        self._scene = EmbreeScene(_device(), robust=True)
        nodes = np.ascontiguousarray((mesh.nodes - self._centre) * self._scale, dtype=np.float32)
        self._mesh = TriangleMesh(self._scene, nodes, np.ascontiguousarray(mesh.triangles, dtype=np.int32))

    def blocked(self, origins: Array, direction: Array) -> NDArray[np.bool_]:
        """True (m,) where something stands between each origin (m, 3; mm) and infinity along ``direction``."""
        if not len(origins):
            return np.zeros(0, bool)
        o = np.ascontiguousarray((origins - self._centre) * self._scale, dtype=np.float32)
        d = np.ascontiguousarray(np.broadcast_to(direction, o.shape), dtype=np.float32)
        return self._scene.run(o, d, query="OCCLUDED") == 0

    def hits(self, origins: Array, direction: Array) -> tuple[NDArray[np.int64], Array, Array]:
        """Triangle (m,) first met by each ray, -1 where there is none, the distance (m,) in mm to it, and the place in
        it as weights (m, 3) of its corners."""
        o = np.ascontiguousarray((origins - self._centre) * self._scale, dtype=np.float32)
        d = np.ascontiguousarray(np.broadcast_to(direction, o.shape), dtype=np.float32)
        found = self._scene.run(o, d, output=1)
        u, v = found["u"].astype(float), found["v"].astype(float)
        return (
            found["primID"].astype(np.int64),
            found["tfar"].astype(float) / self._scale,
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
