"""Sections judged: the kernel's own cut of the same part, its areas beside ours, and rays on the solid that is left.

``make truth`` prints a table of this too. ``python -m tools.cuts castings 1 2 3`` cuts castings made at random, by their numbers.
"""

from __future__ import annotations

import multiprocessing
import random
import sys
import time
from collections.abc import Collection
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from barequill.core import read_part
from barequill.core.cutting import Cell, Cut
from barequill.core.cutting.limits import CuttingPlane, cutting_plane
from barequill.core.part.chosen import body_names, body_nodes
from barequill.core.projection import camera, cut_faces
from barequill.core.reading.step import read_step
from barequill.core.views.projecting import take
from barequill.core.views.scene import Scene

from .made_parts import bodies, casting
from .truth import LEAST, TITLES, Samples, bodies_of, judge, sample

AXES = np.eye(3)
UPS = [(0, 0, 1), (0, 0, 1), (0, 1, 0)]
SHARES = (0.5, 0.37)
CLOSE, FINEST = 1e-5, 4e-5
"""How far, as a share, two areas may be apart, and how near a very fine mesh comes."""


def tool(cutting_planes: tuple[CuttingPlane, ...], reach: float) -> Any:
    """The cell beyond some walls as a solid of the kernel's."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    found = None
    for w in cutting_planes:
        n = np.array(w.normal)
        x = np.cross(n, AXES[int(np.argmin(np.abs(n)))])
        x /= np.linalg.norm(x)
        corner = n * w.offset - reach * x - reach * np.cross(n, x)
        frame = gp_Ax2(gp_Pnt(*corner.tolist()), gp_Dir(*n.tolist()), gp_Dir(*x.tolist()))
        box = BRepPrimAPI_MakeBox(frame, 2 * reach, 2 * reach, reach).Shape()
        found = box if found is None else BRepAlgoAPI_Common(found, box).Shape()
    return found


def cut_by_kernel(shapes: list[Any], cut: Cut, reach: float, whole: Collection[int] = ()) -> list[Any]:
    """What the kernel leaves of some bodies; those of which nothing is left are left out. Of the ``whole`` ones, by row,
    nothing is taken."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.TopAbs import TopAbs_ShapeEnum as Kind
    from OCP.TopExp import TopExp_Explorer

    found = []
    for k, shape in enumerate(shapes):
        for cell in () if k in whole else cut.cells:
            shape = BRepAlgoAPI_Cut(shape, tool(cell.cutting_planes, reach)).Shape()
        if TopExp_Explorer(shape, Kind.TopAbs_FACE).More():
            found.append(shape)
    return found


def area_by_kernel(shapes: list[Any], w: CuttingPlane, reach: float, aside: float = 0.0) -> float:
    """The area in which a whole wall meets solids, as the kernel's Boolean has it; ``aside`` mm toward what is kept."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.BRepGProp import BRepGProp
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
    from OCP.GProp import GProp_GProps

    spot = np.array(w.normal) * (w.offset - aside)
    plane = gp_Pln(gp_Pnt(*spot.tolist()), gp_Dir(*w.normal))
    face = BRepBuilderAPI_MakeFace(plane, -reach, reach, -reach, reach).Face()
    total = 0.0
    for shape in shapes:
        figures = GProp_GProps()
        BRepGProp.SurfaceProperties_s(BRepAlgoAPI_Common(face, shape).Shape(), figures)
        total += figures.Mass()
    return total


def wound_alike(corners: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    """Triangles (m, 3) of closed surfaces, all wound anticlockwise as one looks at them from without the material: neighbours
    alike, and by how many of the others a surface lies in. Faces of a file may be mirrored, which turns theirs."""
    _, weld = np.unique(np.round(corners, 9), axis=0, return_inverse=True)
    rows = weld[triangles]
    triangles = triangles[(rows != np.roll(rows, 1, axis=1)).all(axis=1)]
    rows = weld[triangles]
    m = len(rows)
    sides = np.stack([rows, np.roll(rows, -1, axis=1)], axis=2).reshape(-1, 2)
    onward = sides[:, 0] < sides[:, 1]
    _, side, count = np.unique(np.sort(sides, axis=1), axis=0, return_inverse=True, return_counts=True)
    order = np.argsort(side, kind="stable")
    order = order[count[side[order]] == 2].reshape(-1, 2)
    one, other = (order // 3).T
    turned = onward[order[:, 0]] == onward[order[:, 1]]
    # each triangle twice, as it is and turned over
    a = np.concatenate([one, one + m])
    b = np.concatenate([other + m * turned, other + m * ~turned])
    _, label = connected_components(coo_array((np.ones(len(a)), (a, b)), (2 * m, 2 * m)), directed=False)
    as_is = label[:m] < label[m:]
    found = np.where(as_is[:, None], triangles, triangles[:, ::-1])
    piece = np.minimum(label[:m], label[m:])
    p = corners[found] - corners.mean(axis=0)
    volume = np.einsum("ij,ij->i", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6
    pieces = np.unique(piece)
    solid = {k: np.nonzero(piece == k)[0] for k in pieces}
    outward = {k: np.sign(volume[r].sum()) for k, r in solid.items()}
    for k, r in solid.items():
        spot = p[r[0]].mean(axis=0)
        around = [_turns(p[q] - spot) for other, q in solid.items() if other != k]
        if sum(abs(t) > 0.5 for t in around) % 2 != (outward[k] < 0):
            found[r] = found[r][:, ::-1]
    return found


def _turns(p: np.ndarray) -> float:
    """How often triangles (m, 3, 3) of a closed surface surround the origin: their solid angle over that of the whole."""
    a, b, c = p[:, 0], p[:, 1], p[:, 2]
    x, y, z = (np.linalg.norm(q, axis=1) for q in (a, b, c))
    up = np.einsum("ij,ij->i", a, np.cross(b, c))
    along = np.einsum("ij,ij->i", a, b) * z + np.einsum("ij,ij->i", b, c) * x + np.einsum("ij,ij->i", c, a) * y
    return float(np.arctan2(up, x * y * z + along).sum() / (2 * np.pi))


def area_by_mesh(samples: Samples, w: CuttingPlane, aside: float = 0.0) -> float:
    """The same of a fine mesh, by Green's theorem over the sides in which it meets the wall, body after body."""
    n = np.array(w.normal)
    x = np.cross(n, AXES[int(np.argmin(np.abs(n)))])
    x /= np.linalg.norm(x)
    y = np.cross(n, x)
    total = 0.0
    for body in np.unique(samples.body):
        p = samples.corners[wound_alike(samples.corners, samples.triangles[samples.body == body])]
        d = p @ n - w.offset + aside
        mixed = (d < 0).any(axis=1) & (d >= 0).any(axis=1)
        p, d = p[mixed], d[mixed]
        nxt = [1, 2, 0]
        passes = (d < 0) != (d[:, nxt] < 0)
        u = np.where(passes, d / np.where(passes, d - d[:, nxt], 1.0), 0.0)
        q = p + u[..., None] * (p[:, nxt] - p)
        a, b = q[passes & (d >= 0)], q[passes & (d < 0)]
        ax, ay, bx, by = a @ x, a @ y, b @ x, b @ y
        total += float((ax * by - ay * bx).sum()) / 2
    return total


def cuts_of(part: Any) -> dict[str, tuple[Cut, Any, Any]]:
    """Cuts of a part, each with a direction of view and up: six planes, a half section, an offset one, a quarter."""
    low, size = part.low, part.high - part.low
    found: dict[str, tuple[Cut, Any, Any]] = {}
    for k in range(3):
        for share in SHARES:
            cut = Cut((Cell((cutting_plane(low + share * size, AXES[k]),)),))
            found[f"{'xyz'[k]} {share}"] = cut, AXES[k], UPS[k]
    x, y, z = (cutting_plane(low + size / 2, a) for a in AXES)
    middle = low + size / 2
    aside = cutting_plane(middle, AXES[0], shown=False)
    found["half"] = Cut((Cell((y, aside)),)), AXES[1], UPS[1]
    near, far = (cutting_plane(low + share * size, AXES[1]) for share in (0.37, 0.6))
    found["offset"] = (
        Cut((Cell((near, aside)), Cell((far, cutting_plane(middle, -AXES[0], shown=False))))),
        AXES[1],
        UPS[1],
    )
    found["quarter"] = Cut((Cell((x, y)),)), (1, 1, 0.8), (0, 0, 1)
    found["behind"] = Cut((Cell((z,)),)), (1, -1, 0.6), (0, 0, 1)
    # of several bodies every other one stays whole, but what lies before the cut goes all the same
    names = tuple(body_names(part)[::2])
    for name in ("y 0.5", "quarter", "behind") if len(names) < len(part.bodies) else ():
        cut, toward, up = found[name]
        found[f"{name}, some whole"] = replace(cut, whole=names), toward, up
    return found


def through_axes(part: Any, most: int = 6) -> dict[str, tuple[Cut, Any, Any]]:
    """Cuts through the axes of round faces, as drafters choose them, those of cones first, and from both sides."""
    round_faces = [f.surface for f in part.faces if f.surface.kind in ("cone", "torus", "sphere", "cylinder")]
    round_faces.sort(key=lambda s: ("cone", "torus", "sphere", "cylinder").index(s.kind))
    found: dict[tuple[float, ...], Cut] = {}
    for surface in round_faces:
        for other in AXES:
            n = np.cross(surface.axes[2], other)
            if np.linalg.norm(n) > 0.5:
                w = cutting_plane(surface.origin, n)
                plane = np.array([*w.normal, w.offset / part.size])
                if not any(min(np.abs(plane - k).max(), np.abs(plane + k).max()) < 1e-6 for k in map(np.array, found)):
                    for sign in (1, -1):
                        found[tuple((sign * plane).tolist())] = Cut((Cell((cutting_plane(surface.origin, sign * n),)),))
        if len(found) >= most:
            break
    return {f"axis {k}": (cut, None, None) for k, cut in enumerate(list(found.values())[:most])}


def whole_in(part: Any, cut: Cut) -> list[int]:
    """The rows of the bodies that a cut leaves whole and that it reaches."""
    rows = [k for k, name in enumerate(body_names(part)) if name in cut.whole]
    return [k for k in rows if not cut.takes(body_nodes(part, k), 1e-6 * part.size).all()]


def other_area(solids: list[Any], w: CuttingPlane, part: Any, ours: float) -> tuple[float, str]:
    """The area in which a wall meets solids by whom of others comes nearest to ours, and who that is: the kernel, and where
    that is off, which may be its own fault, a very fine mesh."""
    reach = 3 * part.size + float(np.abs([part.low, part.high]).max())
    best = (np.inf, 0.0, "")
    for aside in (0.0, 1e-8 * part.size, 1e-7 * part.size):
        theirs = area_by_kernel(solids, w, reach, aside)
        best = min(best, (abs(theirs - ours), theirs, f"kernel {aside / part.size:.0e}"))
        if best[0] <= CLOSE * max(ours, 1e-9):
            return best[1:]
    for fine in (2e-6, 8e-6):
        # the kernel's mesher may give up a face at one fineness and not at another
        theirs = area_by_mesh(sample(solids, fine), w, 1e-7 * part.size)
        best = min(best, (abs(theirs - ours), theirs, f"mesh {fine:.0e}"))
        if best[0] <= FINEST * max(ours, 1e-9):
            break
    return best[1:]


def areas(path: Path) -> list[tuple[str, float, float, str]]:
    """By cut our area, another's, and whose it is."""
    part = read_part(path)
    shapes = [r.shape for r in read_step(path, path.name)[0]]
    solids = [s for s, b in zip(shapes, part.bodies, strict=True) if b.solid]
    found = []
    for name, (cut, *_) in [*list(cuts_of(part).items())[:6], *through_axes(part).items()]:
        ours = sum(f.area for f in cut_faces(part, cut) if part.bodies[f.body].solid)
        found.append((name, ours, *other_area(solids, cut.cells[0].cutting_planes[0], part, ours)))
    return found


def castings(number: Path) -> list[tuple[str, float, float, str]]:
    """The same of a casting made at random, each cut by six planes, three of them aslant."""
    from OCP.BRepCheck import BRepCheck_Analyzer

    seed = int(str(number))
    solids = bodies_of(casting(seed))
    if not all(BRepCheck_Analyzer(s).IsValid() for s in solids):
        return []
    part, dice, found = bodies(*solids), random.Random(seed + 1), []
    if part.size > 1000:
        return []
    for n in (*AXES, (1, 0.3, 0.2), (0.2, 1, 0.4), (0.1, 0.2, 1)):
        spot = part.low + (part.high - part.low) * np.array([dice.uniform(0.1, 0.9) for _ in range(3)])
        w = cutting_plane(spot, n)
        ours = sum(f.area for f in cut_faces(part, Cut((Cell((w,)),))))
        found.append((f"{np.round(n, 1).tolist()}", ours, *other_area(solids, w, part, ours)))
    return found


def verdicts(path: Path) -> dict[str, tuple[float, ...]]:
    """By cut the judgement of rays on what the kernel leaves."""
    part = read_part(path)
    shapes = [r.shape for r in read_step(path, path.name)[0]]
    reach = 3 * part.size + float(np.abs([part.low, part.high]).max())
    found = {}
    for name, (cut, toward, up) in cuts_of(part).items():
        left = cut_by_kernel(shapes, cut, reach, whole_in(part, cut))
        if not left:
            continue
        scene = Scene("0" * 24, tuple(map(float, toward)), tuple(map(float, up)), cut=cut)
        curves = take(part, scene).curves
        found[name] = judge(sample(left), part, curves, toward, up, steps_in_view(cut, toward, up, reach)).all()
    return found


def steps_in_view(cut: Cut, toward: Any, up: Any, reach: float) -> Any:
    """The lines in which walls that leave none stand in a view, None where there are none."""
    view = camera(toward, up)
    lines = []
    for w in cut.cutting_planes:
        if not w.shown:
            n = np.array([np.array(w.normal) @ view.right, np.array(w.normal) @ view.up])
            spot, way = n * w.offset, np.array([-n[1], n[0]])
            lines.append(shapely.LineString([spot - reach * way, spot + reach * way]))
    return shapely.union_all(lines) if lines else None


def _one(job: tuple[str, str]) -> tuple[str, Any, float]:
    what, path = job
    began = time.perf_counter()
    try:
        answer: Any = {"areas": areas, "castings": castings, "rays": verdicts}[what](Path(path))
    except Exception as error:
        answer = repr(error)
    return path, answer, time.perf_counter() - began


def main(what: str, names: list[str]) -> int:
    """Print the table; the exit code tells whether all holds."""
    good = count = 0
    rows = []
    with multiprocessing.Pool(2, maxtasksperchild=8) as pool:
        for path, answer, took in pool.imap(_one, [(what, n) for n in names]):
            name = Path(path).name
            if isinstance(answer, str):
                print(f"{name}: {answer}", flush=True)
                continue
            if what != "rays":
                for cut, ours, theirs, by in answer:
                    off = abs(ours - theirs) / max(theirs, 1e-9)
                    count += 1
                    good += off < CLOSE
                    if off >= CLOSE:
                        print(f"{name} {cut}: ours {ours:.8g}, {by} {theirs:.8g}, off {off:.1e}", flush=True)
                continue
            for cut, shares in answer.items():
                rows.append(shares)
                low = [f"{t} {s:.4f}" for t, s in zip(TITLES, shares, strict=True) if s < LEAST]
                if low:
                    print(f"{name} {cut}: {', '.join(low)}", flush=True)
            print(
                f"{name}: {len(answer)} cuts, least {min(min(s) for s in answer.values()):.4f}, {took:.0f} s",
                flush=True,
            )
    if what != "rays":
        print(f"areas: {good} of {count} within {CLOSE:.0e}")
        return int(good < count)
    print(f"{'mean of all':28s}" + "".join(f"{m:14.5f}" for m in np.mean(rows, axis=0)))
    return int(min(min(r) for r in rows) < LEAST)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1], sys.argv[2:]))
