"""The truth about a view, found by rays alone: a judge of the projection that knows nothing of how it works.

``make truth`` prints a table over the demo parts, the real parts beside the project, and parts made at random.
"""

from __future__ import annotations

import multiprocessing
import sys
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene

from barequill.core import project, read_part
from barequill.core.projection import PRINCIPAL, ProjectedCurve, camera
from barequill.core.reading.splitting import split_bodies
from barequill.core.reading.step import read_step

from .line_shares import on_lines, once, rim, share_of, turning
from .made_parts import bodies, random_shape
from .ray_pictures import PlacedView, share_on, without_border

VIEWS: dict[str, tuple] = {
    **PRINCIPAL,
    "aslant": ((0.37, -0.81, 0.45), (0, 0, 1)),
    "below": ((-0.62, 0.13, -0.33), (0, 0.2, 1)),
}

FINE = 5e-5
"""How far the mesh for the rays may stray, in part sizes."""


@dataclass
class Samples:
    """Points on the sharp edges of a part (n, 3), by the kernel's own evaluation, and rays against a finer mesh."""

    points: np.ndarray
    corners: np.ndarray
    size: float
    centre: np.ndarray
    scene: Any
    keep: Any
    triangles: np.ndarray
    body: np.ndarray
    face: np.ndarray

    def placed_view(self, view: Any) -> PlacedView:
        """What rays see in a view."""
        flat = (self.corners - self.centre) / self.size
        found = self.triangles, self.body, self.face, self.centre, self.size, view, self.closed
        return PlacedView(self.scene, flat, *found)

    @cached_property
    def closed(self) -> bool:
        """True where no surface has a border."""
        return without_border((self.corners - self.centre) / self.size, self.triangles)

    def blocked(self, points: np.ndarray, toward: np.ndarray, offset: np.ndarray) -> np.ndarray:
        """True where a ray from a point moved by ``offset`` toward the viewer hits the part."""
        origins = ((points + offset - self.centre) / self.size).astype(np.float32)
        rays = np.ascontiguousarray(np.broadcast_to(toward, origins.shape), dtype=np.float32)
        return self.scene.run(origins, rays, query="OCCLUDED") == 0


def _explore(shape: Any, kind: Any) -> Iterable[Any]:
    from OCP.TopExp import TopExp_Explorer

    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()


def sample(shapes: list[Any], fine: float = FINE) -> Samples:
    """Sample all edges whose faces clearly differ in direction, and mesh the shapes for rays."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRep import BRep_Tool
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.TopAbs import TopAbs_ShapeEnum as Kind
    from OCP.TopoDS import TopoDS

    from barequill.core.reading.meshing import read_meshes

    box = Bnd_Box()
    for shape in shapes:
        BRepBndLib.AddOptimal_s(shape, box, True, False)
    low, high = (np.array(p.Coord()) for p in (box.CornerMin(), box.CornerMax()))
    size, centre = float(np.linalg.norm(high - low)), (low + high) / 2
    nodes: list[np.ndarray] = []
    triangles: list[np.ndarray] = []
    bodies: list[np.ndarray] = []
    faces: list[np.ndarray] = []
    count = 0
    normals: dict[tuple, list[np.ndarray]] = {}
    curves: dict[tuple, np.ndarray] = {}
    for body, shape in enumerate(shapes):
        BRepMesh_IncrementalMesh(shape, fine * size, False, 0.1, True)
        found = [TopoDS.Face(f) for f in _explore(shape, Kind.TopAbs_FACE)]
        for face, (corners, _uv, own) in zip(found, read_meshes(found), strict=True):
            if not len(own):
                corners, own = _meshed_alone(face, fine * size)
            if not len(own):
                continue
            nodes.append(corners)
            triangles.append(own + count)
            count += len(corners)
            bodies.append(np.full(len(own), body))
            faces.append(np.full(len(own), len(faces)))
            for edge in (TopoDS.Edge(e) for e in _explore(face, Kind.TopAbs_EDGE)):
                if BRep_Tool.Degenerated_s(edge):
                    continue
                curve = BRepAdaptor_Curve(edge)
                t = np.linspace(curve.FirstParameter(), curve.LastParameter(), 49)[1::2]
                points = np.array([(p.X(), p.Y(), p.Z()) for p in (curve.Value(float(x)) for x in t)])
                key = tuple(np.round(np.sort(points[[0, 12, -1]], axis=0).ravel() / size, 5))
                curves.setdefault(key, points)
                normals.setdefault(key, []).append(_normal(face, edge, float(t[12])))
    sharp = [k for k, n in normals.items() if len(n) > 1 and abs(n[0] @ n[1]) < 0.95]
    scene = EmbreeScene(robust=True)
    every, rows = np.concatenate(nodes), np.concatenate(triangles)
    flat = ((every - centre) / size).astype(np.float32)
    keep = TriangleMesh(scene, flat, rows.astype(np.int32))
    points = np.concatenate([curves[k] for k in sharp]) if sharp else np.zeros((0, 3))
    return Samples(points, every, size, centre, scene, keep, rows, np.concatenate(bodies), np.concatenate(faces))


def _meshed_alone(face: Any, stray: float) -> tuple[np.ndarray, np.ndarray]:
    """Nodes and triangles of a face that the kernel's mesher gave up: a rectangle of its surface, where that has its area."""
    from OCP.BRep import BRep_Tool
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.BRepGProp import BRepGProp
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.BRepTools import BRepTools
    from OCP.GProp import GProp_GProps

    from barequill.core.reading.meshing import read_meshes

    surface, (u, to, v, up) = BRep_Tool.Surface_s(face), BRepTools.UVBounds_s(face)
    if surface.IsUPeriodic():
        to = min(to, u + surface.UPeriod())
    whole = BRepBuilderAPI_MakeFace(surface, u, to, v, up, 1e-7).Face()
    areas = []
    for f in (face, whole):
        figures = GProp_GProps()
        BRepGProp.SurfaceProperties_s(f, figures)
        areas.append(figures.Mass())
    if abs(areas[0] - areas[1]) < 1e-3 * areas[0]:
        BRepMesh_IncrementalMesh(whole, stray, False, 0.1)
        corners, _uv, own = read_meshes([whole])[0]
        return corners, own
    return np.zeros((0, 3)), np.zeros((0, 3), np.int64)


def _normal(face: Any, edge: Any, t: float) -> np.ndarray:
    """The normal of a face at a parameter of one of its edges, by the kernel's own slopes."""
    from OCP.BRep import BRep_Tool
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.gp import gp_Pnt, gp_Vec

    point, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    place = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0).Value(t)
    BRepAdaptor_Surface(face).D1(place.X(), place.Y(), point, du, dv)
    n = np.cross(du.Coord(), dv.Coord())
    return n / max(float(np.linalg.norm(n)), 1e-300)


@dataclass
class Shares:
    """What a view is judged by, each 1 at best.

    ``visible``: certainly visible samples of edges drawn visible. ``hidden``: certainly hidden ones drawn.
    ``visible_true``: the length of visible edges that is not certainly hidden. ``hidden_true``: that of hidden ones
    that is not certainly visible. ``rim``: rim of the part's shadow closed by visible lines. ``once``: lines drawn once.
    ``jumps``: places where what is seen jumps in depth or direction that a visible line marks. ``folds``: places
    where the number of surfaces one behind the other changes that any line marks. ``outlines``: the length of outlines
    across which what a ray passes changes.
    """

    visible: float
    hidden: float
    visible_true: float
    hidden_true: float
    rim: float
    once: float
    jumps: float
    folds: float
    outlines: float

    def all(self) -> tuple[float, ...]:
        """All of them."""
        return (
            self.visible,
            self.hidden,
            self.visible_true,
            self.hidden_true,
            self.rim,
            self.once,
            self.jumps,
            self.folds,
            self.outlines,
        )


def judge(samples: Samples, part: Any, curves: list[ProjectedCurve], toward: Any, up: Any, steps: Any = None) -> Shares:
    """The judgement of one view; ``steps``: places (a geometry) where what jumps is not to be marked."""
    view, size = camera(toward, up), samples.size

    def rays(points: np.ndarray, spread: float, lift: float, tilt: tuple[float, float] = (0.0, 0.0)) -> np.ndarray:
        aim = view.toward + tilt[0] * view.right + tilt[1] * view.up
        steps = [(a * view.right + b * view.up) * spread + view.toward * lift for a in (-1, 0, 1) for b in (-1, 0, 1)]
        return np.array([samples.blocked(points, aim, s * size) for s in steps])

    def surely_hidden(points: np.ndarray) -> np.ndarray:
        return rays(points, 1.5e-3, 4.5e-3).all(axis=0) if len(points) else np.zeros(0, bool)

    def surely_visible(points: np.ndarray) -> np.ndarray:
        # by wide rays and by narrow ones, so that no sliver is looked past; and from a little aside, so that
        # nothing counts that lies on a horizon, where a mesh cannot tell
        if not len(points):
            return np.zeros(0, bool)
        ways = [((0.0, 0.0), 4.5e-4, 1.5e-4), ((0.0, 0.0), 1e-4, 4e-5)]
        ways += [(tilt, 1e-4, 4e-5) for tilt in ((0.03, 0.0), (-0.03, 0.0), (0.0, 0.03), (0.0, -0.03))]
        return np.all([(~rays(points, *scale, tilt)).sum(axis=0) >= 5 for tilt, *scale in ways], axis=0)

    lines = [shapely.LineString(c.curve.points(size * 1e-5)) for c in curves]
    seen = [line for c, line in zip(curves, lines, strict=True) if c.visible]
    flat = view.flat(samples.points)
    visible, hidden = surely_visible(samples.points), surely_hidden(samples.points)

    def followed(shown: bool) -> tuple[np.ndarray, np.ndarray]:
        """Points along the drawn edges, on the part itself where the curves say that they run, and how long a piece
        each stands for."""
        spans = [
            part.edges[part.index[c.source][1]].curve.points(np.linspace(*c.span, 27))
            for c in curves
            if c.visible == shown and c.cls == "edge"
        ]
        if not spans:
            return np.zeros((0, 3)), np.zeros(0)
        way = [np.linalg.norm(np.diff(p, axis=0), axis=1).sum() / 25 for p in spans]
        return np.concatenate([p[1:-1] for p in spans]), np.repeat(way, 25)

    def true(shown: bool, wrong: Any) -> float:
        points, way = followed(shown)
        return 1.0 - float(way[wrong(points)].sum() / way.sum()) if way.sum() > 0 else 1.0

    def wanted(points: np.ndarray) -> np.ndarray:
        return points if steps is None else points[shapely.distance(shapely.points(points), steps) > size * 2e-3]

    if steps is not None:
        off = shapely.distance(shapely.points(flat), steps) > size * 1e-6
        visible, hidden = visible & off, hidden & off
    placed_view = samples.placed_view(view)
    return Shares(
        share_of(on_lines(flat, seen, size * 2e-4)[visible]),
        share_of(on_lines(flat, lines, size * 2e-4)[hidden]),
        true(True, surely_hidden),
        true(False, surely_visible),
        rim(samples, view, seen, steps),
        once(lines, size),
        share_on(wanted(placed_view.jumps()), seen, size * 5e-4),
        share_on(wanted(placed_view.folds()), lines, size * 5e-4),
        turning(placed_view, [line for c, line in zip(curves, lines, strict=True) if c.cls == "outline"], size),
    )


def bodies_of(shape: Any) -> list[Any]:
    """The bodies of a shape."""
    return [body for _, body in split_bodies(shape, "random")]


def random_part(shape: Any) -> Any:
    """A shape made into a Part."""
    return bodies(*bodies_of(shape))


def verdict(shapes: list[Any], part: Any, views: Iterable[str] = VIEWS) -> dict[str, Shares]:
    """The judgement of a part in some or all of the views."""
    samples = sample(shapes)
    found = {name: judge(samples, part, project(part, *VIEWS[name]), *VIEWS[name]) for name in views}
    doubtful = [name for name, shares in found.items() if min(shares.jumps, shares.folds) < LEAST]
    if doubtful:
        # the mesh of the judge may have folds of its own: a finer one decides
        samples = sample(shapes, FINE / 5)
        found |= {name: judge(samples, part, project(part, *VIEWS[name]), *VIEWS[name]) for name in doubtful}
    return found


LEAST, MEAN = 0.995, 0.9995
"""What each share has to be on every part, and in the mean of all."""
TITLES = ("visible", "hidden drawn", "visible true", "hidden true", "rim", "once", "jumps", "folds", "outlines")


def judged(what: str | int) -> tuple[str, dict[str, tuple[float, ...]]] | None:
    """The verdict on a part file, or on the random part of a number; None where the kernel makes none of it."""
    if isinstance(what, int):
        shape = random_shape(what)
        if shape is None:
            return None
        found = verdict(bodies_of(shape), random_part(shape))
        return f"random {what}", {view: shares.all() for view, shares in found.items()}
    path = Path(what)
    found = verdict([r.shape for r in read_step(path, path.name)[0]], read_part(path))
    return path.name, {view: shares.all() for view, shares in found.items()}


def main(names: list[str], wanted: int = 200) -> int:
    """Print the table, a part a row, each share the mean of nine views; the exit code tells whether every one holds."""
    rows: list[tuple[float, ...]] = []
    below: list[tuple[float, str]] = []
    made = 0
    print(f"{'part':28s}" + "".join(f"{t:>14s}" for t in TITLES), flush=True)
    with multiprocessing.Pool() as pool:
        for answer in pool.imap(judged, [*names, *range(1, 2 * wanted)]):
            if answer is None:
                continue
            name, views = answer
            rows.append(tuple(np.mean(list(views.values()), axis=0)))
            below += [
                (share, f"{name} {view}: {title}")
                for view, shares in views.items()
                for title, share in zip(TITLES, shares, strict=True)
                if share < LEAST
            ]
            print(f"{name:28s}" + "".join(f"{x:14.4f}" for x in rows[-1]), flush=True)
            made += name.startswith("random ")
            if made >= wanted:
                break
        pool.terminate()
    means = np.mean(rows, axis=0)
    print(f"{f'mean of {len(rows)} parts':28s}" + "".join(f"{x:14.5f}" for x in means))
    short = int((np.array(rows) < LEAST).any(axis=1).sum())
    print(f"parts with a share below {LEAST}: {short}; single views with one: {len(below)} of {9 * len(rows)}")
    for share, where in sorted(below)[:40]:
        print(f"  {share:.4f}  {where}")
    return 0 if not short and means.min() >= MEAN else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
