"""What is drawn otherwise than it is modelled: threads that are shown by lines."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..features.helices import Helix
from ..geometry.planar import lines_of, polygons_of, rings_of
from ..part.chosen import body_names
from ..projection.columns import ProjectedCurve
from ..values import value
from .projected_scene import Array, ProjectedScene

SHARE = 0.05
"""Share of a band that lies in a cut face at least where the cut goes through the thread."""
NEAR = 1e-4
"""In part sizes: how far what lies in a band may stray from it."""


ROOT = 0.2
"""In pitches: how far a face about the axis of a thread may be beyond its roots and crests to be one of them."""
ALL = [(0.0, 1.0)]
"""The whole of a line."""


@value
class Band:
    """Where a modelled thread lies in a view, between its roots and its crests (a region in view mm about the part's centre);
    its body, and the faces about its axis that are drawn only beyond it."""

    body: str
    region: BaseGeometry
    cores: frozenset[str]


@value
class Conventions:
    """Modelled threads that are shown by lines in a view."""

    projected: ProjectedScene | None = None
    threads: tuple[Helix, ...] = ()

    @cached_property
    def refs(self) -> frozenset[str]:
        """The references of what is not drawn."""
        found: frozenset[str] = frozenset()
        return (
            found.union(*(h.refs(self.projected.part) for h in self.threads)) if self.projected is not None else found
        )

    @cached_property
    def bands(self) -> tuple[Band, ...]:
        """The bands of those that are seen along their axis or square to it."""
        if self.projected is None:
            return ()
        found = (_band(self.projected, h) for h in self.threads)
        return tuple(band for band in found if band is not None)

    def kept(self, curve: ProjectedCurve) -> list[tuple[float, float]]:
        """What is drawn of a line of a view, as shares of its way: none of one in whose place something else is drawn."""
        if curve.source in self.refs:
            return []
        bands = [b.region for b in self.bands if curve.source in b.cores]
        if not bands or self.projected is None:
            return ALL
        size = self.projected.whole.size
        near = NEAR * size
        points = curve.curve.points(1e-3 * size) - self.projected.centre
        band = shapely.union_all(bands).buffer(near)
        if curve.curve.kind != "line":
            return [] if shapely.contains(band, shapely.LineString(points)) else ALL
        whole = shapely.LineString(points)
        ends = [
            [whole.project(shapely.Point(q)) / whole.length for q in p[[0, -1]]]
            for p in lines_of(whole.difference(band), near)
        ]
        return [(min(a, b), max(a, b)) for a, b in ends]

    def filled(self, body: str, rings: Sequence[Array]) -> list[list[Array]]:
        """A cut face of a body (outlines in view mm about the part's centre, those after the first holes) without the grooves
        of its threads: such faces."""
        bands = [b for b in self.bands if b.body == body]
        if not bands:
            return [list(rings)]
        shape = shapely.Polygon(rings[0], rings[1:]).buffer(0)
        for band in bands:
            for region in polygons_of(band.region):
                met = region.intersection(shape)
                if met.area > SHARE * region.area:
                    # as far as its teeth reach
                    shape = shape.union(met.convex_hull.intersection(region))
        return [[np.asarray(r) for r in rings_of(g)] for g in polygons_of(shape)]


def _band(projected: ProjectedScene, helix: Helix) -> Band | None:
    """Where a modelled thread lies in a view along its axis or square to it."""
    part = projected.part
    cores = [
        f
        for f in part.faces
        if f.surface.kind == "cylinder"
        and helix.minor / 2 - ROOT * helix.pitch < f.surface.radius < helix.major / 2 + ROOT * helix.pitch
        and helix.about(f.surface)
    ]
    across = float(helix.axis @ projected.view.toward)
    a, b = projected.flat(helix.origin + helix.axis * np.array([[helix.low], [helix.high]]))
    root, crest = helix.minor / 2, helix.major / 2
    refs = {f.ref for f in cores}
    region: BaseGeometry
    if abs(across) > 1 - 1e-6:
        centre = shapely.Point(a)
        region = centre.buffer(crest, 64).difference(centre.buffer(root, 64))
        # end on, the circle of a thread stands for those of what it is cut on
        refs |= {part.edges[e].ref for f in cores for e in f.boundary}
    elif abs(across) < 1e-6:
        way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-12)
        side = np.array([-way[1], way[0]])
        region = shapely.MultiPolygon(
            [
                shapely.Polygon([a + s * root * side, b + s * root * side, b + s * crest * side, a + s * crest * side])
                for s in (1.0, -1.0)
            ]
        )
    else:
        return None
    return Band(body_names(part)[part.faces[helix.faces[0]].body], region, frozenset(refs))


NONE = Conventions()
