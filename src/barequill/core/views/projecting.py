"""Scenes projected: curves, and the regions that its cut lays open."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..cutting.figures import figures_of
from ..cutting.limits import Cut
from ..geometry.curves2 import Curve2
from ..geometry.planar import lines_of, polygons_of, rings_of, seamless, united
from ..part.chosen import body_names, body_nodes, named, only
from ..part.model import Part
from ..projection import Camera, ProjectedCurve, camera, cut_faces, project
from ..projection.rays import in_front, ray_structure
from ..values import value
from .scene import Scene

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Progress = Callable[[float, str], None]
SAME = 1e-6
"""In part sizes: regions so near to each other are one."""


@value
class CutRegion:
    """A region of a view that is hatched: the name of its body, and closed outlines (m, 2), those after the first holes."""

    body: str
    rings: tuple[Array, ...]


@value
class ProjectionResult:
    """What a scene shows, in the part's mm along right and up of its camera."""

    curves: Sequence[ProjectedCurve]
    regions: tuple[CutRegion, ...] = ()


NOTHING = ProjectionResult(())


def camera_of_scene(scene: Scene) -> Camera:
    """The camera of a scene; of an oblique projection right and up tell the place on its plane, and are not square to the sight."""
    seen = camera(scene.toward, scene.up)
    if scene.oblique is None:
        return seen
    right, up = (np.array(way) for way in scene.oblique)
    return Camera(right, up, seen.toward)


def take(part: Part, scene: Scene, progress: Progress = lambda share, what: None) -> ProjectionResult:
    """Project what a scene shows of a whole part.

    Raises
    ------
    UserError
        Where its directions do not make a camera.
    """
    if scene.oblique is not None:
        return _slanted(take(part, replace(scene, oblique=None), progress), scene)
    if scene.adjacent:
        return _beside(part, scene, progress)
    gone = _gone(part, scene)
    # cut away like all else, they leave the others as they are: what is known of these is kept while a cut is moved
    scene = _without(scene, gone)
    shown = only(part, scene.bodies)
    if not shown.faces:
        return NOTHING
    curves: Sequence[ProjectedCurve] = []
    pieces: list[tuple[str, Any]] = []
    takes = scene.takes
    for k, leg in enumerate(takes):

        def on(share: float, what: str, k: int = k) -> None:
            progress((k + share) / len(takes), what if len(takes) == 1 else f"leg {k + 1} of {len(takes)}")

        view = camera(leg.toward, leg.up)
        own: Sequence[ProjectedCurve] = project(shown, leg.toward, leg.up, cut=leg.cut, progress=on)
        own = _known_edges(shown, leg.cut, view, own)
        if leg.shift != (0.0, 0.0):
            own = [replace(c, curve=c.curve.moved(1.0, 0.0, leg.shift)) for c in own]
        curves = [*curves, *own] if len(takes) > 1 else own
        pieces += _regions(shown, leg.cut, view, leg.shift)
    for limit in scene.limits:
        left = only(shown, [b for b in body_names(shown) if b not in gone]) if gone else shown
        # where all of it is taken away nothing limits the cut
        curves = [*curves, *(_limit(left, part, scene, np.array(limit)) if left.faces else ())]
    if not pieces:
        return ProjectionResult(curves)
    regions = _joined(pieces, shown.size)
    regions = _beneath_whole(shown, scene, regions)
    if scene.ribs:
        regions, borders = _without_ribs(shown, scene, regions)
        curves = [*curves, *borders]
    return ProjectionResult(curves, tuple(CutRegion(body, rings) for body, g in regions for rings in _rings(g)))


def _slanted(found: ProjectionResult, scene: Scene) -> ProjectionResult:
    """What is seen square to the sight of an oblique projection, as it lies on its plane."""
    square, own = camera(scene.toward, scene.up), camera_of_scene(scene)
    matrix = np.array([[way @ square.right, way @ square.up] for way in (own.right, own.up)])
    curves = [replace(c, curve=c.curve.mapped(matrix)) for c in found.curves]
    regions = tuple(CutRegion(r.body, tuple(ring @ matrix.T for ring in r.rings)) for r in found.regions)
    return ProjectionResult(curves, regions)


def _beside(part: Part, scene: Scene, progress: Progress) -> ProjectionResult:
    """A scene with adjacent parts: the others as if those were not there, and of those what the others leave to be seen."""
    shown = scene.bodies if scene.bodies is not None else tuple(body_names(part))
    own = tuple(b for b in shown if b not in scene.adjacent)
    main = take(part, replace(scene, bodies=own, adjacent=()), progress) if own else NOTHING
    whole = tuple(sorted({*scene.cuts[0].whole, *scene.adjacent}))
    legs = tuple(replace(leg, cut=replace(leg.cut, whole=whole)) for leg in scene.legs)
    cut = replace(scene.cut, whole=whole) if scene.cut else scene.cut
    rest = take(part, replace(scene, cut=cut, legs=legs, adjacent=(), limits=()), progress)
    beside = named(part, scene.adjacent)
    refs = {e.ref for e in part.edges if beside[e.body]} | {f.ref for f in part.faces if beside[f.body]}
    lines = [replace(c, cls="adjacent") for c in rest.curves if c.visible and c.cls != "smooth" and c.source in refs]
    return ProjectionResult((*main.curves, *lines), main.regions)


def _gone(part: Part, scene: Scene) -> set[str]:
    """The bodies that stay whole and do not reach the cut: they are taken away with what lies before it."""
    cuts, whole = scene.cuts, set(scene.cuts[0].whole)
    if not whole:
        return set()
    return {
        name
        for body, name in enumerate(body_names(part))
        if name in whole
        and len(nodes := body_nodes(part, body))
        and all(bool(cut.takes(nodes, 1e-6 * part.size).all()) for cut in cuts)
    }


def _without(scene: Scene, gone: set[str]) -> Scene:
    """A scene of which some bodies do not stay whole."""
    if not gone:
        return scene

    def less(cut: Cut) -> Cut:
        return replace(cut, whole=tuple(name for name in cut.whole if name not in gone))

    legs = tuple(replace(leg, cut=less(leg.cut)) for leg in scene.legs)
    return replace(scene, cut=less(scene.cut), legs=legs)


def _known_edges(part: Part, cut: Cut, view: Camera, curves: Sequence[ProjectedCurve]) -> Sequence[ProjectedCurve]:
    """The curves, but boundaries of cut faces are known by an edge of their face that lies in the same place: sizes are
    taken from edges, and that edge is there also where the part is not cut. The face is named beside it."""
    if not cut:
        return curves
    sources = {c.source for c in curves if c.cls == "cut"}
    held = _edges_in_place(part, cut, view, sources) if sources else {}
    return [
        replace(c, source=held[c.source], also=(c.source, *c.also)) if c.cls == "cut" and c.source in held else c
        for c in curves
    ]


@lru_cache(maxsize=8)
def _along_edges(part: Part) -> tuple[Array, Ints]:
    """Points (m, 3) along all edges of a part, and with which one each begins."""
    found = [np.concatenate([e.points, (e.points[1:] + e.points[:-1]) / 2]) for e in part.edges]
    return np.concatenate(found), np.cumsum([0, *(len(p) for p in found)])[:-1]


def _edges_in_place(part: Part, cut: Cut, view: Camera, refs: Collection[str]) -> dict[str, str]:
    """By reference of faces seen edge-on: the longest edge of each that the cut leaves, by its reference."""
    if not part.edges:
        return {}
    points, start = _along_edges(part)
    left = np.logical_or.reduceat(~cut.takes(points, 1e-7 * part.size), start)
    flat = view.flat(points)
    reach = np.maximum.reduceat(flat, start) - np.minimum.reduceat(flat, start)
    length = np.where(left, np.linalg.norm(reach, axis=1), 0.0).tolist()
    found = {}
    for ref in refs:
        kind, row = part.index.get(ref, ("", 0))
        if kind != "face":
            continue
        face = part.faces[row]
        s, best = face.surface, (1e-3 * part.size, "")
        if s.kind not in ("plane", "cylinder"):
            continue
        on_edge = abs(float(s.axes[2] @ view.toward))
        if (on_edge > 1e-6) if s.kind == "plane" else (on_edge < 1 - 1e-9):
            continue
        for k in face.boundary:
            edge = part.edges[k]
            straight = s.kind == "plane" and edge.curve.kind == "line"
            if length[k] > best[0] and edge.joint != "same" and (straight or edge.curve.is_circle):
                best = (length[k], edge.ref)
        if best[1]:
            found[ref] = best[1]
    return found


def _regions(part: Part, cut: Cut, view: Camera, shift: tuple[float, float]) -> list[tuple[str, Any]]:
    """The regions that a cut lays open to a viewer, by the name of their body."""
    if not cut:
        return []
    names, found = body_names(part), []
    for face in cut_faces(part, cut):
        if float(cut.normals[face.cutting_plane] @ view.toward) < 1e-6:
            continue
        rings = [view.flat(loop) + shift for loop in face.loops]
        found.append((names[face.body], shapely.Polygon(rings[0], rings[1:])))
    return found


def _joined(pieces: list[tuple[str, Any]], size: float) -> list[tuple[str, Any]]:
    """One region a body: what lies side by side in several planes is one."""
    found = []
    for body in dict.fromkeys(name for name, _ in pieces):
        own = [g if g.is_valid else g.buffer(0) for name, g in pieces if name == body]
        if len(own) == 1:
            found.append((body, own[0]))
            continue
        found.append((body, seamless(own, SAME * size)))
    return found


def _rings(region: Any) -> list[tuple[Array, ...]]:
    """The outlines of the pieces of a region."""
    return [tuple(rings_of(g)) for g in polygons_of(region)]


def _beneath_whole(part: Part, scene: Scene, regions: list[tuple[str, Any]]) -> list[tuple[str, Any]]:
    """The regions without what lies beneath bodies that stay whole and reach through the cut toward the viewer."""
    whole = named(part, scene.cut.whole)
    if not whole.any() or scene.legs:
        return regions
    view, mesh = camera(scene.toward, scene.up), part.mesh
    body = figures_of(part).face_body[mesh.face_of]
    flat = view.flat(mesh.nodes)
    own = mesh.triangles[whole[body]]
    sides = flat[own[:, 1:]] - flat[own[:, :1]]
    area = sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0]
    # whatever of a solid reaches out toward the viewer has a side that faces him
    solid = np.array([b.solid for b in part.bodies], bool)[body[whole[body]]]
    own = own[(area > 0) | ((area < 0) & ~solid)]
    pieces = np.array(
        [p for p in (shapely.Polygon(view.flat(q)) for q in _ahead(mesh.nodes[own], scene.cut)) if p.area > 0], object
    )
    tree, left = shapely.STRtree(pieces), []
    for name, g in regions:
        over = pieces[tree.query(g, predicate="intersects")]
        if len(over):
            rest = g.difference(united(over, 1e-6 * part.size))
            # no slivers between the mesh and the curves that it follows
            g = shapely.MultiPolygon([p for p in polygons_of(rest) if not p.buffer(-2 * mesh.deflection).is_empty])
        if not g.is_empty:
            left.append((name, g))
    return left


def _ahead(triangles: Array, cut: Cut) -> list[Array]:
    """What of triangles (t, 3, 3) lies in what is taken away: corners (k, 3) of their pieces."""
    found: list[Array] = []
    for cell in cut.cells:
        cutting_planes = [(np.array(w.normal), w.offset) for w in cell.cutting_planes]
        off = np.array([triangles @ n - o for n, o in cutting_planes])
        there = ~(off <= 0).all(axis=2).any(axis=0)
        inside = there & (off > 0).all(axis=(0, 2))
        found += list(triangles[inside])
        for corners in triangles[there & ~inside]:
            for n, o in cutting_planes:
                corners = _beyond(corners, corners @ n - o)
            if len(corners) > 2:
                found.append(corners)
    return found


def _beyond(corners: Array, off: Array) -> Array:
    """What of a convex polygon (k, 3) lies beyond a plane, from which its corners are so far ``off`` (k,)."""
    found = []
    for k in range(len(corners)):
        p, q, a, b = corners[k - 1], corners[k], off[k - 1], off[k]
        if (a > 0) != (b > 0):
            found.append(p + a / (a - b) * (q - p))
        if b > 0:
            found.append(q)
    return np.array(found).reshape(-1, 3)


def _without_ribs(
    part: Part, scene: Scene, regions: list[tuple[str, Any]]
) -> tuple[list[tuple[str, Any]], list[ProjectedCurve]]:
    """The regions without those of ribs, and where these end: lines within the cut."""
    view, names = camera(scene.toward, scene.up), body_names(part)
    left = list(regions)
    borders: list[ProjectedCurve] = []
    for ref in scene.ribs:
        kind, row = part.find(ref) or ("", 0)
        if kind != "face":
            continue
        face = part.faces[row]
        nodes = view.flat(part.mesh.nodes)
        triangles = nodes[part.mesh.triangles[face.triangles]]
        rib = shapely.union_all([t for t in shapely.polygons(triangles) if t.area > 0])
        for k, (body, region) in enumerate(left):
            if body != names[face.body]:
                continue
            inner = region.buffer(-1e-5 * part.size)
            for edge_row in face.boundary:
                edge = part.edges[edge_row]
                borders += _within(_flat(edge.curve, view), inner, edge.ref)
            left[k] = (body, region.difference(rib.buffer(1e-5 * part.size)))
    return [(b, g) for b, g in left if not g.is_empty], borders


def _flat(curve: Any, view: Camera) -> Curve2:
    if curve.kind == "line":
        return Curve2("line", view.flat(curve.points(np.array([curve.t0, curve.t1]))))
    return Curve2("polyline", view.flat(curve.points(np.linspace(curve.t0, curve.t1, 97))))


def _within(curve: Curve2, region: Any, source: str) -> list[ProjectedCurve]:
    """The pieces of a line or polyline within a region, as visible edges."""
    line = shapely.LineString(curve.poles)
    if line.length == 0:
        return []
    pieces = lines_of(line.intersection(region), 1e-3 * line.length)
    flats = [Curve2("line" if len(p) == 2 else "polyline", p) for p in pieces]
    return [ProjectedCurve(flat, True, "edge", source, (0.0, 1.0)) for flat in flats]


def _limit(shown: Part, whole: Part, scene: Scene, outline: Array) -> list[ProjectedCurve]:
    """The stretches of a local cut's outline that run over the part."""
    view = camera(scene.toward, scene.up)
    closed = np.concatenate([outline, outline[:1]]) + view.flat(((whole.low + whole.high) / 2)[None])
    line = shapely.LineString(closed)
    count = max(len(closed), int(np.ceil(line.length / (2e-3 * whole.size))))
    p = np.array([c.coords[0] for c in shapely.line_interpolate_point(line, np.linspace(0, 1, count), normalized=True)])
    over = ray_structure(shown).blocked(in_front(shown, view, p), -view.toward)
    bounds = np.nonzero(np.diff(over))[0] + 1
    runs = [(int(a), int(b)) for a, b in zip([0, *bounds], [*bounds, len(p)], strict=True) if over[a] and b - a > 1]
    if len(runs) > 1 and over[0] and over[-1]:
        # the run through its first point is one
        (a, b), (c, d) = runs[0], runs[-1]
        pieces = [np.concatenate([p[c:d], p[a + 1 : b]]), *(p[x:y] for x, y in runs[1:-1])]
    else:
        pieces = [p[a:b] for a, b in runs]
    return [ProjectedCurve(Curve2("polyline", q), True, "limit", "", (0.0, 1.0)) for q in pieces if len(q) > 1]
