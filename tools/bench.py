"""How long a view takes: the projection beside the kernel's exact hidden-line algorithm, in one run.

``make acting`` prints a table over the real parts beside the project, view by view, then a plate that grows.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from barequill.core import project
from barequill.core.projection import camera
from barequill.core.projection.rays import ray_structure
from barequill.core.projection.table import table_of
from barequill.core.projection.warming import warm
from barequill.core.reading.preparing import prepare
from barequill.core.reading.raw import RawBody
from barequill.core.reading.step import read_step
from barequill.core.reading.warming import warm as warm_reading
from barequill.core.reading.weighing import weigh
from barequill.work.collecting import collect_seldom

from .truth import VIEWS

COMPOUNDS = ("VCompound", "Rg1LineVCompound", "RgNLineVCompound", "OutLineVCompound")


def best(work: Callable[[], Any], times: int) -> float:
    """The shortest of so many runs, s."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def kernel_view(shapes: list[Any], toward: Any, up: Any) -> list[tuple[str, Any]]:
    """What the kernel's own algorithm shows and hides, extracted as curves in the plane of the view, by its own names."""
    from OCP.BRepLib import BRepLib
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.HLRAlgo import HLRAlgo_Projector
    from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

    view = camera(toward, up)
    algorithm = HLRBRep_Algo()
    for shape in shapes:
        algorithm.Add(shape, 0)
    axes = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*view.toward), gp_Dir(*view.right))
    algorithm.Projector(HLRAlgo_Projector(axes))
    algorithm.Update()
    algorithm.Hide()
    extraction = HLRBRep_HLRToShape(algorithm)
    found = []
    for name in COMPOUNDS + tuple(c.replace("VCompound", "HCompound") for c in COMPOUNDS):
        shape = getattr(extraction, name)()
        if shape is not None and not shape.IsNull():
            BRepLib.BuildCurves3d_s(shape)
            found.append((name, shape))
    return found


def prepared(raw: list[RawBody]) -> tuple[Any, float]:
    """The part ready to be projected, and how long that took (s): mesh, identity, tables, ray structure.

    What the bodies weigh is worked out before, and not counted: no view needs it.
    """
    bodies = weigh(raw)
    start = time.perf_counter()
    part = prepare(
        raw, lambda: bodies, key="", name="", number="", unit="millimetre", progress=lambda share, what: None
    )
    table_of(part)
    ray_structure(part)
    return part, time.perf_counter() - start


def read_and_prepared(path: Path, times: int = 3) -> tuple[list[RawBody], Any, list[float]]:
    """The bodies of a file, the part, and how long preparing it took each of so many times (s): the file is newly read
    for each, since the kernel keeps the mesh with its shapes."""
    seconds = []
    for _ in range(times):
        raw, *_ = read_step(path, path.name)
        part, took = prepared(raw)
        seconds.append(took)
    return raw, part, seconds


def plate(rows: int, columns: int) -> Any:
    """A plate with a hole and a boss with a dimple in each of its cells: 5 faces each, and 6 of the plate."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
    from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pln, gp_Pnt, gp_Vec
    from OCP.TopAbs import TopAbs_ShapeEnum as Kind
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS, TopoDS_Shell, TopoDS_Solid

    pitch, thick, high = 10.0, 6.0, 4.0
    builder, shell = BRep_Builder(), TopoDS_Shell()
    builder.MakeShell(shell)

    def ring(x: float, y: float, z: float, r: float) -> Any:
        return BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)), r)).Edge()

    def wire(*edges: Any) -> Any:
        made = BRepBuilderAPI_MakeWire()
        for e in edges:
            made.Add(e)
        return made.Wire()

    def add(face: Any, outward: Callable[[Any, Any], float]) -> None:
        surface = BRepAdaptor_Surface(face)
        u = (surface.FirstUParameter() + surface.LastUParameter()) / 2
        v = (surface.FirstVParameter() + surface.LastVParameter()) / 2
        p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        surface.D1(u, v, p, du, dv)
        normal = du.Crossed(dv)
        builder.Add(shell, face.Oriented(face.Orientation()) if outward(p, normal) > 0 else face.Reversed())

    def risen(edge: Any, by: float, outward: Callable[[Any, Any], float]) -> Any:
        """Wall over an edge; gives the edge at its other end."""
        prism = BRepPrimAPI_MakePrism(edge, gp_Vec(0, 0, by))
        explorer = TopExp_Explorer(prism.Shape(), Kind.TopAbs_FACE)
        add(TopoDS.Face(explorer.Current()), outward)
        return TopoDS.Edge(prism.LastShape())

    corners = [(0, 0), (columns * pitch, 0), (columns * pitch, rows * pitch), (0, rows * pitch)]
    sides = [BRepBuilderAPI_MakeEdge(gp_Pnt(*corners[k], 0), gp_Pnt(*corners[(k + 1) % 4], 0)).Edge() for k in range(4)]
    outer = wire(*sides)
    cutting_planes = BRepPrimAPI_MakePrism(outer, gp_Vec(0, 0, thick))
    middle = np.array([columns * pitch / 2, rows * pitch / 2])
    explorer = TopExp_Explorer(cutting_planes.Shape(), Kind.TopAbs_FACE)
    while explorer.More():
        add(
            TopoDS.Face(explorer.Current()),
            lambda p, n: n.X() * (p.X() - middle[0]) + n.Y() * (p.Y() - middle[1]),
        )
        explorer.Next()
    down = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), outer)
    top = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, thick), gp_Dir(0, 0, 1)), TopoDS.Wire(cutting_planes.LastShape()))
    for row in range(rows):
        for column in range(columns):
            x, y = (column + 0.3) * pitch, (row + 0.35) * pitch
            bore = ring(x, y, 0, 1.5)
            upper = risen(bore, thick, lambda p, n, x=x, y=y: -n.X() * (p.X() - x) - n.Y() * (p.Y() - y))
            down.Add(TopoDS.Wire(wire(bore).Reversed()))
            top.Add(TopoDS.Wire(wire(upper).Reversed()))
            x, y = (column + 0.7) * pitch, (row + 0.7) * pitch
            foot = ring(x, y, thick, 2.0)
            rim = risen(foot, high, lambda p, n, x=x, y=y: n.X() * (p.X() - x) + n.Y() * (p.Y() - y))
            top.Add(TopoDS.Wire(wire(foot).Reversed()))
            # a blind dimple in the boss: wall and floor
            dimple = ring(x, y, thick + high, 1.0)
            floor = risen(dimple, -1.5, lambda p, n, x=x, y=y: -n.X() * (p.X() - x) - n.Y() * (p.Y() - y))
            land = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(x, y, thick + high), gp_Dir(0, 0, 1)), wire(rim))
            land.Add(TopoDS.Wire(wire(dimple).Reversed()))
            add(land.Face(), lambda p, n: n.Z())
            add(
                BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(x, y, thick + high - 1.5), gp_Dir(0, 0, 1)), wire(floor)).Face(),
                lambda p, n: n.Z(),
            )
    add(down.Face(), lambda p, n: -n.Z())
    add(top.Face(), lambda p, n: n.Z())
    shell.Closed(True)
    solid = TopoDS_Solid()
    builder.MakeSolid(solid)
    builder.Add(solid, shell)
    return solid


def real_parts(names: list[str]) -> None:
    """Part by part and view by view, beside the kernel."""
    ratios: list[float] = []
    slower: list[str] = []
    faces = 0
    spent = at_first = 0.0
    print(f"{'part':26s} {'edges':>5s} {'view':7s} {'kernel ms':>10s} {'ours ms':>8s} {'times':>7s}")
    for path in map(Path, names):
        raw, part, seconds = read_and_prepared(path)
        edges = sum(1 for e in part.edges if e.joint != "same")
        shapes = [r.shape for r in raw]
        own: list[float] = []
        for name, (toward, up) in VIEWS.items():
            ours = best(lambda: project(part, toward, up), 5)  # noqa: B023
            start = time.perf_counter()
            kernel_view(shapes, toward, up)
            theirs = time.perf_counter() - start
            # what is short is measured again, so that both are at their best
            if theirs < 0.5:
                theirs = min(theirs, best(lambda: kernel_view(shapes, toward, up), 3))  # noqa: B023
            own.append(theirs / ours)
            if own[-1] < 1 and edges > 20:
                slower.append(f"{path.name} {name}")
            print(
                f"{path.name:26s} {edges:5d} {name:7s} {1e3 * theirs:10.1f} {1e3 * ours:8.2f} {own[-1]:7.1f}",
                flush=True,
            )
        mean = np.exp(np.mean(np.log(own)))
        print(
            f"{path.name:26s} geometric mean {mean:6.1f}; preparation {min(seconds):.3f} s, the first of three times "
            f"{seconds[0]:.3f} s, for {len(part.faces)} faces",
            flush=True,
        )
        ratios += own
        faces += len(part.faces)
        spent += min(seconds)
        at_first += seconds[0]
    print(f"all views: {np.exp(np.mean(np.log(ratios))):.1f} times faster in the geometric mean; ", end="")
    print(f"slower on {', '.join(slower) or 'none'} of more than 20 edges")
    print(
        f"preparation: {1000 * spent / faces:.2f} s per 1,000 faces over {faces} faces at the best of three times, "
        f"{1000 * at_first / faces:.2f} s at the first"
    )


def peak() -> float:
    """The most memory that this process has held since the last reset, GB (Linux)."""
    status = Path("/proc/self/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1e6


def reset_peak() -> None:
    """Begin anew to watch the memory held."""
    Path("/proc/self/clear_refs").write_text("5")


def plates() -> None:
    """The plate of about 1,300, 5,000 and 20,000 faces."""
    before: tuple[int, float] | None = None
    for rows, columns in ((13, 20), (25, 40), (50, 80)):
        table_of.cache_clear()
        ray_structure.cache_clear()
        reset_peak()
        part, seconds = prepared([RawBody("plate", plate(rows, columns))])
        n = len(part.faces)
        before_views = peak()
        reset_peak()
        took = {name: best(lambda: project(part, *VIEWS[name]), 2) for name in ("front", "top", "iso", "aslant")}  # noqa: B023
        views = "  ".join(f"{name} {1e3 * t:.0f}" for name, t in took.items())
        mean = float(np.exp(np.mean(np.log(list(took.values())))))
        growth = ""
        if before:
            power = np.log(mean / before[1]) / np.log(n / before[0])
            even = np.log(n * np.log(n) / (before[0] * np.log(before[0]))) / np.log(n / before[0])
            growth = f"; grows as n^{power:.2f} (n log n: {even:.2f})"
        before = n, mean
        print(
            f"plate of {n} faces: views in ms: {views}{growth}; preparation {1000 * seconds / n:.2f} s per "
            f"1,000 faces; at most {before_views:.2f} GB of memory up to there, {peak():.2f} GB in the views",
            flush=True,
        )


def main(names: list[str]) -> int:
    """Print both tables."""
    warm()
    warm_reading()
    # as the processes do that draw for the application
    collect_seldom()
    plates()
    real_parts(names)
    from .bench_cuts import dragging, sections

    sections(names)
    dragging(names)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
