"""Part files reach no other file: what they name is found, followed only where it came along, and readers see one folder."""

from __future__ import annotations

import io
import os
import resource
import threading
import time
import zipfile
from pathlib import Path

import pytest

from barequill.core import read_part
from barequill.core.errors import BadPartFile
from barequill.core.reading import references
from barequill.core.reading.references import Along
from barequill.core.reading.step_text import decoded, encoded
from barequill.work import confining
from barequill.work.crew import CONTEXT
from barequill.work.limits import limits
from barequill.work.pools import Workshop
from tools.common import demo_file
from tools.siege import FORM, ask, form

from .shared import long

PLATE, PIN = 10 * 20 * 5, 3.141592653589793 * 2 * 2 * 30
"""mm³ of the two bodies of the assembly, by hand."""


@pytest.fixture(scope="module")
def assembly(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with an assembly of a plate and two pins, each shape in a file of its own, as the kernel writes them."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.STEPControl import STEPControl_StepModelType
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopLoc import TopLoc_Location
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    folder = tmp_path_factory.mktemp("assembly")
    document = TDocStd_Document(TCollection_ExtendedString("assembly"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top = shapes.NewShape()
    TDataStd_Name.Set_s(top, TCollection_ExtendedString("Frame"))
    bodies = [
        ("Plate", BRepPrimAPI_MakeBox(10, 20, 5).Shape(), [0]),
        ("Pin", BRepPrimAPI_MakeCylinder(2, 30).Shape(), [40, 80]),
    ]
    for name, shape, places in bodies:
        label = shapes.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))
        for x in places:
            move = gp_Trsf()
            move.SetTranslation(gp_Vec(x, 0, 0))
            shapes.AddComponent(top, label, TopLoc_Location(move))
    shapes.UpdateAssemblies()
    writer, here = STEPCAFControl_Writer(), os.getcwd()
    try:
        os.chdir(folder)
        writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs, "part-")
        writer.Write("frame.stp")
    finally:
        os.chdir(here)
    return folder


def files_of(folder: Path) -> list[Along]:
    return [Along(p.name, p.read_bytes()) for p in sorted(folder.iterdir())]


def test_files_that_a_part_names_are_followed_only_where_they_came_along(assembly: Path, tmp_path: Path) -> None:
    with pytest.raises(BadPartFile, match=r"two files that did not come along: part-Plate.stp and part-Pin.stp"):
        read_part(assembly / "frame.stp")
    (whole,) = references.parted(files_of(assembly))
    assert [f.name for f in whole] == ["frame.stp", "part-Plate.stp", "part-Pin.stp"]
    path = tmp_path / "frame.zip"
    path.write_bytes(references.bundle(whole))
    part = read_part(path)
    assert part.volume == pytest.approx(PLATE + 2 * PIN, rel=1e-9) and not part.remarks
    assert [b.name for b in part.bodies] == ["Plate", "Pin", "Pin"] and part.name == "Frame"
    assert references.bundle([whole[0], whole[2], whole[1]]) == path.read_bytes(), "in whichever order they come"
    path.write_bytes(references.bundle([f for f in whole if "Plate" not in f.name]))
    short = read_part(path)
    assert short.volume == pytest.approx(2 * PIN, rel=1e-9) and short.key != part.key
    assert short.remarks[0].startswith("This assembly names one file that did not come along: part-Plate.stp.")


@pytest.mark.parametrize("name", ["{}", "file://{}", "../../{}", "part-Pin.stp'/*'*/", "..\\\\..\\\\part-Pin.stp"])
def test_however_a_file_is_named_the_kernel_never_opens_it(assembly: Path, tmp_path: Path, name: str) -> None:
    bait = tmp_path / "bait.stp"
    bait.write_bytes((assembly / "part-Pin.stp").read_bytes())
    pipe = tmp_path / "pipe.stp"
    os.mkfifo(pipe)
    for target in (bait, pipe):
        text = (assembly / "frame.stp").read_bytes().replace(b"part-Pin.stp", name.format(target).encode())
        text = text.replace(b"part-Plate.stp", str(assembly / "part-Plate.stp").encode())
        path = tmp_path / "deep" / "er" / "frame.stp"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text)
        for file in (bait, assembly / "part-Plate.stp"):
            os.utime(file, (1, 1))
        done = []

        def read(path: Path = path, done: list = done) -> None:
            with pytest.raises(BadPartFile, match="did not come along"):
                read_part(path)
            done.append(True)

        reading = threading.Thread(target=read, daemon=True)
        reading.start()
        reading.join(20)
        assert done, "it waits for a pipe, or read what it named"


def test_an_assembly_that_is_in_itself_is_read_without_going_round(assembly: Path, tmp_path: Path) -> None:
    files = files_of(assembly)
    frame = next(f for f in files if f.name == "frame.stp")
    # the plate's file becomes an assembly that names the frame
    ring = Along("part-Plate.stp", frame.data.replace(b"part-Plate.stp", b"frame.stp"))
    path = tmp_path / "ring.zip"
    path.write_bytes(references.bundle([frame, ring, *(f for f in files if f.name == "part-Pin.stp")]))
    part = read_part(path)
    assert part.volume == pytest.approx(4 * PIN, rel=1e-9)


def test_what_a_spoilt_file_says_is_looked_through_once() -> None:
    for piece in (
        b"/*",
        b"'",
        b"#1=DOCUMENT_FILE('",
        b"APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('a'",
        b"#" * 9,
        b"( \n" * 9,
    ):
        data = b"DOCUMENT_FILE " + piece * (1_000_000 // len(piece))
        start = time.process_time()
        alone = references.standing_alone(data, {"a": "file-1.stp"})
        assert time.process_time() - start < 3 and b"DOCUMENT_FILE" not in alone


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (rb"Geh\X2\00E4\X0\use", "Gehäuse"),
        ("Gehäuse".encode(), "Gehäuse"),
        ("Gehäuse".encode("latin-1"), "Gehäuse"),
        (rb"Geh\S\duse", "Gehäuse"),
        (rb"Geh\X\E4use", "Gehäuse"),
        (rb"\PE\\S\1\S\P", "Ба"),
        (rb"\X2\6C346CF5\X0\ 5", "水泵 5"),
        (rb"\X4\0001F527\X0\ O''Hara C:\\x", "🔧 O'Hara C:\\x"),
        (b" " * 10_000 + b"a", "a"),
    ],
)
def test_names_say_what_the_standard_has_them_say(raw: bytes, said: str) -> None:
    assert decoded(raw) == said and decoded(encoded(said)) == said


def test_names_of_a_file_are_read_so_by_the_shelf_and_by_the_kernel_alike(tmp_path: Path) -> None:
    text = demo_file("pawl").read_bytes()
    for raw in (rb"Geh\X2\00E4\X0\use", "Gehäuse".encode(), rb"Geh\X\E4use", rb"Geh\S\duse"):
        path = tmp_path / "named.step"
        path.write_bytes(text.replace(b"'Pawl'", b"'" + raw + b"'"))
        part = read_part(path)
        assert part.name == "Gehäuse" and part.bodies[0].name == "Gehäuse", raw
    path.write_bytes(text.replace(b"'Pawl'", b"'" + b" " * 10_000 + b"'"))
    assert read_part(path).name


# ---- brought over the network


def several(files: list[Along]) -> bytes:
    head = b'--edge\r\nContent-Disposition: form-data; name="file"; filename="%s"\r\n\r\n'
    return b"".join(head % f.name.encode() + f.data + b"\r\n" for f in files) + b"--edge--\r\n"


def wait(server: str, job: dict) -> dict:
    while job["state"] == "working":
        time.sleep(0.05)
        job = ask(f"{server}/api/jobs/{job['id']}").body
    return job


def test_several_files_at_once_and_a_zip_of_them_are_one_part_of_one_key(server: str, assembly: Path) -> None:
    files = files_of(assembly)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for file in reversed(files):
            archive.writestr(f"some/folder/{file.name}", file.data)
        archive.writestr("__MACOSX/some/folder/._frame.stp", b"x")
        archive.writestr("read me.txt", b"x")
    both = [several(files), form(packed.getvalue(), "all.zip")]
    jobs = [ask(f"{server}/api/parts", "POST", data=data, Content_Type=FORM).body for data in both]
    assert all(j["more"] == [] for j in jobs)
    keys = {wait(server, j)["part"] for j in jobs}
    assert len(keys) == 1
    (key,) = keys
    info = ask(f"{server}/api/parts/{key}").body
    assert info["summary"]["volume"] == pytest.approx(PLATE + 2 * PIN, rel=1e-9) and info["file_name"] == "frame.zip"
    other = Along("pawl.step", demo_file("pawl").read_bytes())
    job = ask(f"{server}/api/parts", "POST", data=several([*files, other]), Content_Type=FORM).body
    assert {wait(server, j)["name"] for j in (job, *job["more"])} == {"frame.zip", "pawl.step"}
    again = ask(f"{server}/api/parts/{key}/readings", "POST", {"unit": "inch"}).body
    assert wait(server, again)["state"] == "done", "and it is read again from what is kept"
    for data, words in (
        (b"PK\x03\x04" + bytes(99), "cannot be unpacked"),
        (packed.getvalue()[:-300], "cannot be unpacked"),
        (several([files[0], files[0]]), "two files named"),
    ):
        body = data if data.startswith(b"--edge") else form(data, "bad.zip")
        refused = ask(f"{server}/api/parts", "POST", data=body, Content_Type=FORM)
        assert refused.status == 422 and words in f"{refused.body['title']} {refused.body['detail']}"


# ---- readers


def spy(folder: str, results) -> None:
    """What a process can still do once it is confined."""
    import socket
    import subprocess

    confining.confine_files(confining.programs(), [Path(folder) / "own"])
    confining.bar_calls()

    def tried(act) -> str:
        try:
            act()
            return "done"
        except OSError:
            return "refused"

    results.put(
        {
            "own": tried((Path(folder) / "own" / "file").read_bytes),
            "write own": tried(lambda: (Path(folder) / "own" / "new").write_text("x")),
            "other": tried((Path(folder) / "other").read_bytes),
            "write other": tried(lambda: (Path(folder) / "other").write_text("x")),
            "list": tried(lambda: os.listdir(folder)),
            "passwords": tried(Path("/etc/passwd").read_bytes),
            "network": tried(socket.socket),
            "program": tried(lambda: subprocess.run(["true"], check=True)),
        }
    )


@pytest.mark.skipif(not confining.landlock_version(), reason="this system has no Landlock")
def test_a_process_that_reads_a_part_can_use_its_own_folder_and_nothing_else(tmp_path: Path) -> None:
    (tmp_path / "own").mkdir()
    (tmp_path / "own" / "file").write_text("x")
    (tmp_path / "other").write_text("x")
    results = CONTEXT.Queue()
    process = CONTEXT.Process(target=spy, args=(str(tmp_path), results))
    process.start()
    found = results.get(timeout=60)
    process.join(20)
    assert {k for k, v in found.items() if v == "done"} == {"own", "write own"}


def slow(path: str, name: str, *_: object) -> None:
    """A reader that takes a while, without working."""
    time.sleep(3 if name.startswith("slow") else 0.1)


def busy(path: str, name: str, progress: str, target: str, unit: str | None, seconds: float) -> None:
    """A reader that works for ever, as far as it is let."""
    resource.setrlimit(resource.RLIMIT_CPU, (2, 9))
    while True:
        pass


@long
def test_small_files_are_read_first_and_who_waits_is_told_after_how_many(tmp_path: Path) -> None:
    workshop = Workshop(tmp_path, read_limit=60, reader=slow)
    ended: list[str] = []
    try:
        begun = [workshop.read(bytes(9), "slow 1"), workshop.read(bytes(9), "slow 2")]
        sizes = {"large": 3000, "middle": 200, "small": 10, "gone": 5}
        jobs = {name: workshop.read(bytes(size), name) for name, size in sizes.items()}
        deadline = time.monotonic() + 20
        while "others are read before it" not in jobs["large"].progress()[1] and time.monotonic() < deadline:
            time.sleep(0.01)
        assert jobs["large"].progress()[1] == "waiting: 5 others are read before it"
        assert workshop.cancel(jobs["gone"].id).state == "cancelled"
        for name in ("small", "middle", "large"):
            threading.Thread(target=lambda n=name: (jobs[n].done.wait(60), ended.append(n)), daemon=True).start()
        for job in [*begun, *(jobs[n] for n in ("small", "middle", "large"))]:
            assert job.done.wait(60)
        time.sleep(0.1)
        assert ended.index("small") < ended.index("large")
    finally:
        workshop.close()


def test_a_reader_is_stopped_by_the_work_it_did(tmp_path: Path) -> None:
    workshop = Workshop(tmp_path, read_limit=60, reader=busy)
    try:
        job = workshop.read(bytes(9), "busy.step")
        assert job.done.wait(60) and "takes too long" in str(job.error)
    finally:
        workshop.close()


@pytest.mark.parametrize("gigabytes", [1, 2, 4, 8, 12, 16, 24, 32, 64, 512])
def test_workers_together_take_less_than_the_machine_has(gigabytes: int) -> None:
    memory = gigabytes << 30
    found = limits(memory)
    total = found.readers * found.reader_memory + found.projectors * found.projector_memory
    assert total < memory or gigabytes <= 2, "below 3 GB there is one of each, with what it needs at least"
    assert found.reader_memory >= 1 << 30 and found.projector_memory >= 1 << 30


def compiling(folder: str, results) -> None:
    """Call a loop with figures of a kind for which no machine code is kept, once confined."""
    import numpy as np

    from barequill.work import tasks

    tasks._confine(Path(folder))
    from barequill.core.part.figures import area_of

    area, _ = area_of(np.eye(3, dtype=np.float32) * 2, np.array([[0, 1, 2]], np.int16))
    results.put(float(area))


def test_a_confined_reader_compiles_what_is_not_kept_and_needs_to_write_nothing(tmp_path: Path) -> None:
    results = CONTEXT.Queue()
    process = CONTEXT.Process(target=compiling, args=(str(tmp_path), results))
    process.start()
    # a triangle with corners 2 mm out on each axis: sides of 2√2, so √3/4 · 8
    assert results.get(timeout=120) == pytest.approx(3**0.5 * 2, rel=1e-5)
    process.join(20)
