"""A scene taken: projected curves, and the regions that its cut lays open."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..cutting.limits import Cut
from ..geometry.curves2 import Curve2
from ..geometry.planar import lines_of, polygons_of, rings_of, seamless
from ..part.chosen import body_names, body_nodes, named, only
from ..part.model import Part
from ..projection import Camera, ProjectedCurve, camera, cut_faces, project
from ..projection.rays import in_front, ray_structure
from ..values import value
from .scene import Scene

Array = NDArray[np.float64]
Progress = Callable[[float, str], None]
SAME = 1e-6
"""In part sizes: regions so near to each other are one."""


@value
class CutRegion:
    """A region of a view that is hatched: the name of its body, and closed outlines (m, 2), those after the first holes."""

    body: str
    rings: tuple[Array, ...]


@value
class Taken:
    """What a scene shows, in the part's mm along right and up of its camera."""

    curves: Sequence[ProjectedCurve]
    regions: tuple[CutRegion, ...] = ()


NOTHING = Taken(())


def take(part: Part, scene: Scene, progress: Progress = lambda share, what: None) -> Taken:
    """Project what a scene shows of a whole part.

    Raises
    ------
    UserError
        Where its directions do not make a camera.
    """
    if scene.adjacent:
        return _beside(part, scene, progress)
    shown = only(part, _left_over(part, scene))
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
        curves = [*curves, *_limit(shown, part, scene, np.array(limit))]
    if not pieces:
        return Taken(curves)
    regions = _joined(pieces, shown.size)
    regions = _beneath_whole(shown, scene, regions)
    if scene.ribs:
        regions, borders = _without_ribs(shown, scene, regions)
        curves = [*curves, *borders]
    return Taken(curves, tuple(CutRegion(body, rings) for body, g in regions for rings in _rings(g)))


def _beside(part: Part, scene: Scene, progress: Progress) -> Taken:
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
    return Taken((*main.curves, *lines), main.regions)


def _left_over(part: Part, scene: Scene) -> list[str] | None:
    """The bodies of which the cut leaves anything; None for all. One that stays whole and does not reach the cut is taken
    away with what lies before it."""
    cuts, whole = scene.cuts, set(scene.cuts[0].whole)
    if not whole:
        return None if scene.bodies is None else list(scene.bodies)
    found = []
    for body, name in enumerate(body_names(part)):
        if scene.bodies is not None and name not in scene.bodies:
            continue
        nodes = body_nodes(part, body) if name in whole else np.zeros((0, 3))
        if not len(nodes) or not all(bool(cut.takes(nodes, 1e-6 * part.size).all()) for cut in cuts):
            found.append(name)
    return found


def _known_edges(part: Part, cut: Cut, view: Camera, curves: Sequence[ProjectedCurve]) -> Sequence[ProjectedCurve]:
    """The curves, but boundaries of cut faces are known by an edge of their face that lies in the same place: sizes are
    taken from edges, and that edge is there also where the part is not cut. The face is named beside it."""
    if not cut:
        return curves
    held: dict[str, str] = {}
    found = []
    for c in curves:
        if c.cls == "cut":
            if c.source not in held:
                held[c.source] = _edge_in_place(part, cut, view, c.source)
            if held[c.source]:
                c = replace(c, source=held[c.source], also=(c.source, *c.also))
        found.append(c)
    return found


def _edge_in_place(part: Part, cut: Cut, view: Camera, ref: str) -> str:
    """The longest edge of a face seen edge-on that the cut leaves, by its reference; empty where there is none."""
    kind, row = part.index.get(ref, ("", 0))
    if kind != "face":
        return ""
    face = part.faces[row]
    s, best = face.surface, (0.0, "")
    if s.kind not in ("plane", "cylinder"):
        return ""
    on_edge = abs(float(s.axes[2] @ view.toward))
    if (on_edge > 1e-6) if s.kind == "plane" else (on_edge < 1 - 1e-9):
        return ""
    for k in face.boundary:
        edge = part.edges[k]
        straight = s.kind == "plane" and edge.curve.kind == "line"
        if edge.joint == "same" or not (straight or edge.curve.is_circle):
            continue
        p = edge.points
        gone = cut.takes(np.concatenate([p, (p[1:] + p[:-1]) / 2]), 1e-7 * part.size)
        flat = view.flat(edge.points)
        length = float(np.linalg.norm(flat.max(axis=0) - flat.min(axis=0)))
        if not gone.all() and length > best[0]:
            best = (length, edge.ref)
    return best[1] if best[0] > 1e-3 * part.size else ""


def _regions(part: Part, cut: Cut, view: Camera, shift: tuple[float, float]) -> list[tuple[str, Any]]:
    """The regions that a cut lays open to a viewer, by the name of their body."""
    if not cut:
        return []
    names, found = body_names(part), []
    for face in cut_faces(part, cut):
        if float(cut.normals[face.wall] @ view.toward) < 1e-6:
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
    view = camera(scene.toward, scene.up)
    triangles = []
    for face in part.faces:
        if whole[face.body]:
            own = part.mesh.triangles[face.triangles]
            ahead = scene.cut.takes(part.mesh.nodes[own.ravel()], 0.0).reshape(-1, 3).any(axis=1)
            triangles.append(view.flat(part.mesh.nodes)[own[ahead]])
    if not triangles:
        return regions
    pieces = [t for t in shapely.polygons(np.concatenate(triangles)) if t.area > 0]
    shadow = shapely.union_all(pieces, grid_size=1e-6 * part.size) if pieces else shapely.Polygon()
    left = [(body, g.difference(shadow)) for body, g in regions]
    return [(body, g) for body, g in left if not g.is_empty]


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
