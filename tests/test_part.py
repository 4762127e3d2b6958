"""Reading parts: figures from the files' own modellers and from hand calculation."""

from __future__ import annotations

import math
import os
import re
import signal
import time
from pathlib import Path

import numpy as np
import pytest
import shapely

from barequill.core import project, read_part
from barequill.core.errors import BadPartFile
from barequill.core.geometry.evaluation import packed_surface
from barequill.core.geometry.surfaces import Surface
from barequill.core.projection import camera
from barequill.core.reading import shapes
from barequill.core.reading.meshing import read_meshes
from barequill.core.reading.raw import faces_of
from barequill.core.reading.refining import refined
from barequill.work.pools import Workshop
from tools.common import demo_file, part_of
from tools.made_parts import bodies, write_shape

from .conftest import real_file


def crash(*_: str) -> None:
    """A reader that dies as a kernel does on a bad file."""
    os.kill(os.getpid(), signal.SIGSEGV)


def hang(*_: str) -> None:
    """A reader that does not come back."""
    time.sleep(600)


def test_assembly_agrees_with_the_figures_its_modeller_wrote_into_the_file() -> None:
    part = part_of(real_file("as1-tu-203.stp"))
    assert part.volume == pytest.approx(764518.031066584, rel=1e-4)
    assert part.area == pytest.approx(141079.335225521, rel=1e-4)
    assert part.centroid == pytest.approx((90.0, 74.999999986, 18.859468252), rel=1e-4)
    by_name = {b.name: b for b in part.bodies}
    assert by_name["l-bracket"].volume == pytest.approx(96858.893149642, rel=1e-4)
    assert by_name["plate"].area == pytest.approx(70027.709746208, rel=1e-4)
    assert sorted(b.name for b in part.bodies).count("nut") == 8
    assert part.name == "as1"


def test_materials_and_densities_come_from_the_file() -> None:
    part = part_of(real_file("dm1-oc-214.stp"))
    bracket = next(b for b in part.bodies if b.name == "l-bracket")
    assert bracket.material == "AMS 4928; Titanium 6-4"
    assert bracket.density == pytest.approx(4.423001)
    assert part.mass() is None, "the bolts' density is broken in the file, so no mass can be stated"
    assert part.mass(7.85) == pytest.approx(part.volume * 7.85e-3)


@pytest.mark.parametrize("suffix", [".step", ".brep", ".igs"])
def test_each_format_gives_the_same_box_with_a_hole(tmp_path: Path, suffix: str) -> None:
    shape = shapes.cut(shapes.box((0, 0, 0), (40, 30, 20)), shapes.cylinder((20, 15, -1), (0, 0, 1), 5, 30))
    part = read_part(write_shape(tmp_path / f"block{suffix}", shape))
    assert part.volume == pytest.approx(40 * 30 * 20 - math.pi * 25 * 20, rel=1e-6)
    assert part.high - part.low == pytest.approx([40, 30, 20], abs=1e-5)


def test_an_inch_cube_measures_25_4_mm(tmp_path: Path) -> None:
    part = read_part(write_shape(tmp_path / "cube.step", shapes.box((0, 0, 0), (25.4, 25.4, 25.4)), "INCH"))
    assert part.unit == "inch"
    assert part.high - part.low == pytest.approx([25.4] * 3, abs=1e-6)
    assert part.volume == pytest.approx(25.4**3)


def test_surfaces_alone_are_taken_and_said_so(tmp_path: Path) -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt

    face = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 0, 30, 0, 20).Face()
    part = read_part(write_shape(tmp_path / "sheet.step", face))
    assert part.volume == 0 and part.area == pytest.approx(600)
    assert "surfaces only" in part.remarks[0] and part.mass(7.85) is None


def test_circles_written_as_splines_are_known_again() -> None:
    part = part_of(real_file("as1-tu-203.stp"))
    assert {f.surface.kind for f in part.faces} == {"plane", "cylinder"}
    radii = {round(e.curve.radius, 6) for e in part.edges if e.curve.is_circle}
    assert 5.0 in radii, "the rod has radius 5"


def test_references_are_the_same_on_each_import_and_all_different() -> None:
    first, second = (read_part(demo_file("catch-box")) for _ in range(2))
    refs = [*(f.ref for f in first.faces), *(e.ref for e in first.edges), *first.vertex_refs]
    again = [*(f.ref for f in second.faces), *(e.ref for e in second.edges), *second.vertex_refs]
    assert refs == again
    assert len(set(refs)) == len(refs)


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("empty.step", b"", "is empty"),
        ("note.step", b"The part is in the post.", "is not a STEP file"),
        ("parts.step", b"PK\x03\x04" + bytes(40), "zip is damaged"),
        ("picture.png", b"\x89PNG", "not a part file"),
    ],
)
def test_what_is_no_part_is_refused_with_the_reason(tmp_path: Path, name: str, content: bytes, words: str) -> None:
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(BadPartFile, match=words):
        read_part(path)


def test_a_truncated_step_file_is_refused(tmp_path: Path) -> None:
    whole = demo_file("pawl").read_bytes()
    path = tmp_path / "half.step"
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(BadPartFile, match="cut short"):
        read_part(path)


def test_a_step_file_without_geometry_is_refused(tmp_path: Path) -> None:
    text = demo_file("pawl").read_text()
    path = tmp_path / "bare.step"
    path.write_text(text[: text.index("DATA;")] + "DATA;\nENDSEC;\nEND-ISO-10303-21;\n")
    with pytest.raises(BadPartFile):
        read_part(path)


@pytest.mark.parametrize(("reader", "words"), [(crash, "breaks the kernel"), (hang, "takes too long")])
def test_a_reader_that_dies_or_hangs_costs_its_job_only(tmp_path: Path, reader, words: str) -> None:
    workshop = Workshop(tmp_path, read_limit=1, reader=reader)
    try:
        data = demo_file("pawl").read_bytes()
        job = workshop.read(data, "pawl.step")
        assert job.done.wait(40)
        assert job.state == "failed" and words in str(job.error)
        assert not list((tmp_path / "cache" / "parts").iterdir()), "nothing half done is left behind"
        workshop.set_reader(None)
        again = workshop.read(data, "pawl.step")
        assert again.done.wait(60) and again.state == "done", "the next part is read all the same"
    finally:
        workshop.close()


def turned(angle: float, by: tuple[float, float, float]):
    """A move of the kernel: about a slanting axis, then along a vector."""
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

    turn, move = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(3, 2, 1), gp_Dir(1, 2, 3)), angle)
    move.SetTranslation(gp_Vec(*by))
    return move.Multiplied(turn)


def test_one_body_in_three_places_is_prepared_as_three_bodies_are() -> None:
    """Bodies that share their shape are moved from the first; copies of the geometry are each worked out."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.TopLoc import TopLoc_Location

    dome = shapes.fuse(shapes.cylinder((0, 0, 0), (0, 0, 1), 10, 12), shapes.cone((0, 0, 12), (0, 0, 1), 10, 4, 6))
    body = shapes.cut(dome, shapes.box((-2, -20, 2), (4, 40, 5)))
    moves = [turned(0.7, (40, 5, -3)), turned(2.1, (-30, 20, 8))]
    moved = bodies(body, *(body.Moved(TopLoc_Location(m)) for m in moves))
    copied = bodies(body, *(BRepBuilderAPI_Transform(body, m, True).Shape() for m in moves))
    assert len(moved.edges) == len(copied.edges) > 3 * 15
    for one, other in zip(moved.edges, copied.edges, strict=True):
        assert (one.ref, one.joint, one.faces, one.ends) == (other.ref, other.joint, other.faces, other.ends)
        assert one.points == pytest.approx(other.points, abs=1e-9)
        assert one.normals == pytest.approx(other.normals, abs=1e-9)
    for face, again in zip(moved.faces, copied.faces, strict=True):
        assert (face.ref, face.boundary, face.nodes) == (again.ref, again.boundary, again.nodes)
        assert face.surface.same_as(again.surface, moved.size)
        assert moved.mesh.normals[face.nodes] == pytest.approx(
            again.sense * again.surface.normals_at(moved.mesh.nodes[face.nodes]), abs=1e-9
        )
    for a, b in zip(moved.bodies, copied.bodies, strict=True):
        assert (a.volume, a.area) == pytest.approx((b.volume, b.area), rel=1e-9)
        assert a.centroid == pytest.approx(b.centroid, abs=1e-9)


def test_the_box_is_exact_where_faces_bulge_beyond_their_edges() -> None:
    """Half extents along an axis that makes the angle with cosine c with the part's: of a ring R·√(1 - c²) + r, of an
    ellipsoid the root of the sum of squares of its half axes' shares; of a ball cut off at its middle, its plane."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_GTransform, BRepBuilderAPI_Transform
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
    from OCP.gp import gp_GTrsf, gp_Mat, gp_XYZ

    move = turned(0.9, (0, 0, 0))
    turn = np.array([[move.Value(r, c) for c in (1, 2, 3)] for r in (1, 2, 3)])
    ring = bodies(BRepBuilderAPI_Transform(BRepPrimAPI_MakeTorus(30.0, 8.0).Shape(), move, True).Shape())
    assert ring.high - ring.low == pytest.approx(2 * (30 * np.sqrt(1 - turn[:, 2] ** 2) + 8), abs=1e-6)
    flattened = gp_GTrsf(gp_Mat(3, 0, 0, 0, 2, 0, 0, 0, 1), gp_XYZ(0, 0, 0))
    egg = BRepBuilderAPI_GTransform(BRepPrimAPI_MakeSphere(10.0).Shape(), flattened, True).Shape()
    egg = bodies(BRepBuilderAPI_Transform(egg, move, True).Shape())
    assert egg.high - egg.low == pytest.approx(2 * np.linalg.norm(turn * [30, 20, 10], axis=1), abs=1e-5)
    bowl = bodies(shapes.cut(BRepPrimAPI_MakeSphere(10.0).Shape(), shapes.box((-20, -20, 2), (40, 40, 40))))
    assert [*bowl.low, *bowl.high] == pytest.approx([-10, -10, -10, 10, 10, 2], abs=1e-6)


def test_the_box_of_a_turned_part_reaches_no_farther_than_its_points() -> None:
    """The least x among the corners of the part in the file; the rest of its outline bends away from there."""
    assert part_of(real_file("tailturbine.stp")).low[0] == pytest.approx(1.483142428, abs=1e-8)


def test_meshes_read_at_once_are_those_read_node_by_node() -> None:
    from OCP.BRep import BRep_Tool
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.TopLoc import TopLoc_Location

    body = shapes.cut(shapes.box((0, 0, 0), (40, 30, 20)), shapes.cylinder((20, 15, -1), (0, 0, 1), 5, 30))
    body = body.Moved(TopLoc_Location(turned(0.7, (40, 5, -3))))
    BRepMesh_IncrementalMesh(body, 0.05)
    faces = list(faces_of(body))
    for face, (nodes, uv, triangles) in zip(faces, read_meshes(faces), strict=True):
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        alone = [mesh.Node(k + 1).Transformed(place.Transformation()).Coord() for k in range(mesh.NbNodes())]
        assert nodes == pytest.approx(np.array(alone), abs=1e-12)
        assert uv.tolist() == [list(mesh.UVNode(k + 1).Coord()) for k in range(mesh.NbNodes())]
        assert (triangles + 1).tolist() == [list(mesh.Triangle(k + 1).Get()) for k in range(mesh.NbTriangles())]


def test_a_sheet_in_two_places_has_its_area_in_each_and_no_volume() -> None:
    """A rectangle of 40 × 30: area 1200 about (20, 15, 0), and about where the move takes that point."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Pln, gp_Pnt
    from OCP.TopLoc import TopLoc_Location

    face = BRepBuilderAPI_MakeFace(gp_Pln(), 0, 40, 0, 30).Face()
    move = turned(0.7, (40, 5, -3))
    part = bodies(face, face.Moved(TopLoc_Location(move)))
    assert [b.volume for b in part.bodies] == [0, 0] and not any(b.solid for b in part.bodies)
    assert [b.area for b in part.bodies] == pytest.approx([1200, 1200])
    assert part.bodies[0].centroid == pytest.approx((20, 15, 0), abs=1e-9)
    assert part.bodies[1].centroid == pytest.approx(gp_Pnt(20, 15, 0).Transformed(move).Coord(), abs=1e-9)
    assert part.mass(7.85) is None, "what has no volume has no mass"


def test_a_coarse_mesh_of_a_bowl_is_split_until_its_inner_sides_lie_close() -> None:
    """Over the paraboloid z = x² + y² a side (dx, dy) sags by (dx² + dy²)/4, less by the slope along the normal."""
    third = np.array([0.0, 0.5, 1.0])
    poles = np.stack([*np.meshgrid(third, third, indexing="ij"), np.add.outer([0.0, 0, 1], [0.0, 0, 1])], axis=-1)
    knots = np.array([0.0, 0, 0, 1, 1, 1])
    bowl = Surface("nurbs", np.zeros(3), np.eye(3), degrees=(2, 2), knots=(knots, knots), poles=poles)
    step = np.linspace(0, 1, 40, endpoint=False)
    square = np.concatenate([np.c_[step, 0 * step], np.c_[0 * step + 1, step]])
    border = np.concatenate([square, 1 - square])
    around = np.arange(len(border))
    fan = np.c_[around, np.roll(around, -1), np.full(len(border), len(border))]
    start = np.concatenate([border, [[0.5, 0.5]]])
    tolerance = 1e-3
    nodes, uv, triangles, stray = refined(packed_surface(bowl), bowl.points(start), start, fan, tolerance)
    assert nodes[:, :2] == pytest.approx(uv) and nodes[:, 2] == pytest.approx((uv**2).sum(axis=1))
    a, b, c = uv[triangles].transpose(1, 0, 2)
    turns = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    assert turns.min() > 0 and turns.sum() / 2 == pytest.approx(1), "the triangles cover the face once"
    sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    sides, times = np.unique(sides, axis=0, return_counts=True)
    assert times.max() == 2 and np.unique(sides[times == 1]).tolist() == around.tolist()
    p, q = uv[sides[times == 2]].transpose(1, 0, 2)
    sag = ((q - p) ** 2).sum(axis=1) / 4 / np.sqrt(1 + ((p + q) ** 2).sum(axis=1))
    assert tolerance / 8 < sag.max() <= stray <= tolerance


@pytest.mark.parametrize("top", [0.0, 2.0])
def test_a_cone_written_as_splines_is_a_cone_up_to_its_apex(top: float) -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert, BRepBuilderAPI_Transform
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone

    spline = BRepBuilderAPI_NurbsConvert(BRepPrimAPI_MakeCone(5.0, top, 10.0).Shape(), True).Shape()
    move = turned(1.1, (3, 4, 5))
    part = bodies(BRepBuilderAPI_Transform(spline, move, True).Shape())
    (cone,) = [f.surface for f in part.faces if f.surface.kind == "cone"]
    assert sum(f.surface.kind == "plane" for f in part.faces) == (2 if top else 1)
    assert cone.half_angle == pytest.approx(math.atan((5 - top) / 10), abs=1e-9)
    z = np.array([move.Value(r, 3) for r in (1, 2, 3)])
    reach = cone.radius / math.tan(cone.half_angle) * cone.axes[2]
    apex = np.array([move.Value(r, 4) for r in (1, 2, 3)]) + 10 * 5 / (5 - top) * z
    assert min(np.linalg.norm(cone.origin + s * reach - apex) for s in (1, -1)) < 1e-7


def test_a_ball_written_as_splines_is_a_sphere_and_a_ring_is_meshed_as_closely_as_asked() -> None:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    ball = BRepPrimAPI_MakeSphere(gp_Ax2(gp_Pnt(60, 0, 0), gp_Dir(1, 2, 3)), 7.0).Shape()
    ring = BRepPrimAPI_MakeTorus(30.0, 8.0).Shape()
    part = bodies(*(BRepBuilderAPI_NurbsConvert(s, True).Shape() for s in (ball, ring)))
    sphere, torus = part.faces
    assert (sphere.surface.kind, torus.surface.kind) == ("sphere", "nurbs")
    assert sphere.surface.radius == pytest.approx(7, abs=1e-9)
    assert sphere.surface.origin == pytest.approx((60, 0, 0), abs=1e-9)
    assert torus.area == pytest.approx(4 * math.pi**2 * 30 * 8, rel=0.005)
    nodes = part.mesh.nodes[part.mesh.triangles[torus.triangles]]
    middles = np.concatenate([nodes.mean(axis=1), (nodes[:, 0] + nodes[:, 1]) / 2])
    off = np.hypot(np.hypot(middles[:, 0], middles[:, 1]) - 30, middles[:, 2]) - 8
    assert np.abs(off).max() < 1.5 * part.mesh.deflection


@pytest.mark.parametrize("written", [None, "ASSEMBLY", "Part", "the product name", ""])
def test_a_part_without_a_name_of_its_own_is_called_after_its_file(tmp_path: Path, written: str | None) -> None:
    """The translator that writes the file makes up a product's name where it is given none."""
    path = write_shape(tmp_path / "lock lever.step", shapes.box((0, 0, 0), (4, 3, 2)))
    if written is not None:
        path.write_text(re.sub(r"PRODUCT\('[^']*','[^']*'", f"PRODUCT('{written}','{written}'", path.read_text()))
    part = read_part(path)
    assert (part.name, part.number, [b.name for b in part.bodies]) == ("lock lever", "", ["Body 1"])


@pytest.mark.parametrize("gap", [0.0, 0.002, 0.006, 0.012], ids=lambda g: f"gap {g}")
def test_tangent_surfaces_that_nobody_joined_show_no_seam_in_any_view(tmp_path, gap: float) -> None:
    # a plate of 60 by 40 by 20 with corners of R8, each of its ten faces for itself, and moved a little
    from OCP.BRep import BRep_Builder
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
    from OCP.TopoDS import TopoDS_Compound

    corners = [(x, y, 10) for x in (0, 60) for y in (0, 40)]
    plate = shapes.rounded(shapes.box((0, 0, 0), (60, 40, 20)), 8, corners)
    builder, loose = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(loose)
    for k, face in enumerate(faces_of(plate)):
        builder.Add(loose, shapes.moved(BRepBuilderAPI_Copy(face).Shape(), (gap * (k % 3) / 3, gap * (k % 2) / 2, 0)))
    part = read_part(write_shape(tmp_path / "loose.igs", loose))
    assert len(part.faces) == 10
    for toward, up in (((0, 0, 1), (0, 1, 0)), ((0, -1, 0), (0, 0, 1)), ((1, -1, 1), (0, 0, 1))):
        view = camera(toward, up)
        drawn = [c for c in project(part, toward, up) if c.cls == "edge"]
        for x, y in ((8, 0), (52, 0), (8, 40), (52, 40), (0, 8), (60, 8), (0, 32), (60, 32)):
            # no edge is drawn along the middle of the seam, which stands upright here
            seam = shapely.LineString(view.flat(np.array([(x, y, 6.0), (x, y, 14.0)])))
            lines = [shapely.LineString(c.curve.points(1e-3)) for c in drawn]
            along = [line.intersection(seam.buffer(0.05)).length for line in lines] if seam.length > 1 else []
            assert max(along, default=0.0) < 0.5
