"""Have all compiled loops ready before the first view is wanted: compiled once for a machine, then only loaded.

``python -m barequill.core.projection.warming`` does so when the application is set up; ``... pack`` then writes what comes
along compiled.
"""

from __future__ import annotations

import subprocess
import sys

import numpy as np

from ..cutting import beyond
from ..geometry.compiled import pack, tell_complete, unpack
from ..geometry.curve_tracing import followed, overlooked, parameters_on, spline_slopes, turning_from
from ..geometry.curves3 import Curve3
from ..geometry.evaluation import packed_surface
from ..geometry.nurbs import highest
from ..geometry.recognition import recognise_curve, recognise_surface
from ..geometry.splines import fitted_spline, wire_of
from ..geometry.surfaces import Surface
from ..geometry.wires import Array
from ..part.figures import area_of, edge_figures, normals_on, packed, stands_over, strays_of
from ..part.model import Body, Edge, Face, Mesh, Part
from ..reading.facing import against_winding
from ..reading.refining import refined
from .camera import camera
from .engine import cut_faces, project
from .strands import by_faces

ASLANT = beyond([((0, 0, 5), (0, 0.2, 1))])
QUARTER = beyond([((0, 0, 5), (0, 0.2, 1)), ((0.5, 0, 0), (1, 0, 0))])


def warm_views() -> None:
    """Run the loops of a plain projection once, on a short round bar."""
    bar = _bar()
    project(bar, (0, -1, 0), (0, 0, 1))
    project(bar, (1, -1, 1), (0, 0, 1))


def warm() -> None:
    """Run each loop once, on a short round bar and on two small curved surfaces."""
    warm_views()
    _warm_others()
    bar = _bar()
    project(bar, (1, -1, 1), (0, 0, 1), cut=QUARTER)
    project(bar, (1, -1, 1), (0, 0, 1), cut=ASLANT)


def _warm_others() -> None:
    """Run the loops that a plain projection does not need."""
    bar = _bar()
    by_faces(bar, camera((1, -1, 1), (0, 0, 1)), True)
    cut_faces(bar, QUARTER)
    cut_faces(bar, ASLANT)
    shell = packed(bar.faces[2].surface, 1.0)
    x, y, z = np.eye(3)
    edge_figures(bent=True, t0=0.0, t1=1.0, origin=z, x=x, y=y, rows=2, one=shell, two=shell, sense=1.0)
    normals_on(shell, bar.mesh.nodes, np.empty_like(bar.mesh.nodes))
    area_of(bar.mesh.nodes, bar.mesh.triangles)
    against_winding(bar.mesh.nodes, bar.mesh.normals, bar.mesh.triangles)
    strays_of(bar.mesh.nodes, bar.mesh.normals, bar.mesh.triangles, bar.mesh.face_of, 4)
    stands_over(bar.mesh.nodes, bar.mesh.triangles, bar.mesh.nodes[0], 0, 1.0)
    toward = np.array([1.0, -1.0, 1.0]) / np.sqrt(3)
    t = np.linspace(0.0, 1.0, 5)
    p = np.c_[t, t**2, 0 * t]
    wire_of(t, p, p, p, t > 0, 1e-3)
    fitted_spline(t, p, p, p, t > 0, 1e-3)
    spline_slopes(t, p)
    knots = np.array([0.0, 0.0, 1.0, 1.0])
    net = np.ones((2, 2, 4))
    net[..., 0], net[..., 1], net[..., 2] = [[0, 0], [1, 1]], [[0, 1], [0, 1]], [[0, 1], [1, 0]]
    side = np.array([[0.0, 0.1], [0.0, 0.9]])
    line = Curve3("nurbs", 0.0, 1.0, degree=1, knots=knots, poles=np.eye(3)[:2])
    recognise_curve(line, 1e-6)
    line.piece(0.2, 0.8)
    highest(1, knots, net[0], 0.0, 1.0, 0)
    flat = Surface("nurbs", z, np.eye(3), degrees=(1, 1), knots=(knots, knots), poles=net[..., :3])
    recognise_surface(flat, side, 1e-6)
    corners = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])
    refined(packed_surface(flat), flat.points(corners), corners, np.array([[0, 1, 2]]), 1.0)
    overlooked(
        middle=z[None],
        span=np.ones(1),
        facing=np.ones(1),
        triangles=bar.mesh.triangles,
        nodes=bar.mesh.nodes,
        normals=bar.mesh.normals,
        toward=toward,
        near=1.0,
    )
    packed_flat = packed_surface(flat)
    parameters_on(packed_flat, side[0], z, 1e-3)
    followed(
        surface=packed_flat,
        uva=side,
        uvb=1 - side,
        ends=side[:, :1] * np.ones(3),
        sense=1.0,
        aim=turning_from(toward),
        fit=1e-3,
        most=10,
    )


def _bar() -> Part:
    """A round bar of 10 by 20 mm with a ball on it, in a mesh just good enough to be looked at."""
    z, count = np.array([0.0, 0.0, 20.0]), 16
    angle = np.linspace(0, 2 * np.pi, count + 1)
    around = np.c_[np.cos(angle), np.sin(angle), np.zeros(count + 1)]
    planes = [Surface("plane", z * k, np.diag([1.0, 2.0 * k - 1, 2.0 * k - 1])) for k in (0, 1)]
    shells = [Surface("cylinder", np.zeros(3), np.eye(3), radius=5.0), Surface("sphere", 2 * z, np.eye(3), radius=5.0)]
    edges = []
    for k in (0, 1):
        circle = Curve3("conic", 0.0, 2 * np.pi, origin=z * k, x=np.array([5.0, 0, 0]), y=np.array([0, 5.0, 0]))
        normals = np.stack([np.tile(planes[k].axes[2], (count + 1, 1)), around])
        flags = np.ones(count + 1, bool)
        edges.append(
            Edge(
                ref=f"E{k}",
                body=0,
                curve=circle,
                joint="sharp",
                faces=(k, 2),
                ends=(k, k),
                t=angle,
                points=circle.points(angle),
                normals=normals,
                convex=flags,
            )
        )
    low, high = 5 * around, 5 * around + z
    level = np.linspace(-1.4, 1.4, 9)
    grid = np.stack(np.meshgrid(angle, level, indexing="ij"), axis=-1).reshape(-1, 2)
    ball = shells[1].points(grid)
    nodes = [np.r_[z[None] * 0, low], np.r_[z[None], high], np.r_[low, high], ball]
    normal: list[Array] = [
        np.tile([0, 0, -1.0], (count + 2, 1)),
        np.tile([0, 0, 1.0], (count + 2, 1)),
        np.r_[around, around],
        (ball - 2 * z) / 5,
    ]
    i = np.arange(count)
    fan, rows = np.c_[0 * i, i + 1, i + 2], np.arange(count * 9).reshape(count, 9)[:, :8].ravel()
    side = np.r_[np.c_[i, i + 1, i + count + 1], np.c_[i + 1, i + count + 2, i + count + 1]]
    skin = np.r_[np.c_[rows, rows + 9, rows + 1], np.c_[rows + 9, rows + 10, rows + 1]]
    faces, triangles, owner = [], [], []
    first = done = 0
    for row, (own, tri) in enumerate(zip(nodes, (fan[:, ::-1], fan, side, skin), strict=True)):
        surface = [*planes, *shells][row]
        place = slice(first, first + len(own)), slice(done, done + len(tri))
        faces.append(Face(f"F{row}", 0, surface, False, 1.0, own.mean(axis=0), *place))
        triangles.append(tri + first)
        owner.append(np.full(len(tri), row))
        first, done = first + len(own), done + len(tri)
    every = np.concatenate(nodes)
    uv = np.zeros((len(every), 2))
    mesh = Mesh(
        nodes=every,
        uv=uv,
        normals=np.concatenate(normal),
        triangles=np.concatenate(triangles),
        face_of=np.concatenate(owner),
        deflection=0.1,
        strays=np.full(4, 0.1),
    )
    box = np.array([-5.0, -5, 0]), np.array([5.0, 5, 45])
    body = Body("bar", True, 1.0, 1.0, (0.0, 0.0, 10.0))
    return Part("", "bar", "", "millimetre", (body,), tuple(faces), tuple(edges), z[None] * 0, ("V0",), mesh, *box)


def main(what: str) -> None:
    """Have all loops ready, by two processes at once; or, of what is ready, do one half, or pack it."""
    if what == "others":
        _warm_others()
    elif what == "pack":
        warm()
        print(f"{pack()} loops come along compiled")
    else:
        unpack()
        with subprocess.Popen([sys.executable, "-m", "barequill.core.projection.warming", "others"]):
            warm_views()
        warm()
        tell_complete()


if __name__ == "__main__":
    main(*sys.argv[1:2] or [""])
