"""Reading parts: figures from the files' own modellers and from hand calculation."""

from __future__ import annotations

import math
import os
import signal
import time
from pathlib import Path

import pytest

from barequill.core import read_part
from barequill.core.errors import BadPartFile
from barequill.demo import shapes
from barequill.work.pools import Workshop

from .conftest import demo_file, part_of, real_file


def write_shape(path: Path, shape, unit: str = "MM") -> Path:
    """Write a kernel shape in the format that the path's suffix tells."""
    from OCP.BRepTools import BRepTools
    from OCP.IGESControl import IGESControl_Writer
    from OCP.Interface import Interface_Static
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    if path.suffix == ".brep":
        BRepTools.Write_s(shape, str(path))
    elif path.suffix == ".igs":
        writer = IGESControl_Writer(unit, 1)
        writer.AddShape(shape)
        writer.Write(str(path))
    else:
        step = STEPControl_Writer()
        Interface_Static.SetCVal_s("write.step.unit", unit)
        step.Transfer(shape, STEPControl_StepModelType.STEPControl_AsIs)
        step.Write(str(path))
        Interface_Static.SetCVal_s("write.step.unit", "MM")
    return path


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
        ("parts.step", b"PK\x03\x04" + bytes(40), "ZIP archive"),
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
    workshop = Workshop(tmp_path, read_limit=3, reader=reader)
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
