"""The command line takes whatever it is given: one line that says what, where, what to do, and never a trace."""

from __future__ import annotations

import json
import os
import threading
from pathlib import Path

import pytest

from barequill.core.reading.reading import content_key
from tools.common import demo_file

from .commanding import Told, run

KEY = content_key(demo_file("pawl").read_bytes())


def view(name: str, **more: object) -> dict:
    own = {"kind": "principal", "id": name, "part": KEY, "place": [100, 100], "toward": [0, -1, 0], "up": [0, 0, 1]}
    return own | more


def document(*views: dict, **more: object) -> dict:
    return {"version": 5, "parts": [{"key": KEY}], "sheets": [{"id": "e1", "views": list(views)}]} | more


def size(name: str, on: str, ref: str = "E0") -> dict:
    return {"kind": "dimension", "id": name, "on": on, "measure": "length", "anchors": [{"ref": ref, "at": "line"}]}


CIRCLE = [
    view("e2", kind="projected", parent="e3", look="left"),
    view("e3", kind="projected", parent="e2", look="left"),
]
for each in CIRCLE:
    del each["toward"], each["up"]
HANGING = document(view("e2"))
HANGING["sheets"][0]["annotations"] = [size("e3", "e4"), size("e4", "e3")]
BAD = {
    "parents in a circle": (document(*CIRCLE), "hang"),
    "the same id twice": (document(view("e2"), view("e2")), "taken"),
    "an id as that of the sheet": (document(view("e1")), "taken"),
    "sizes that hang on each other": (HANGING, "itself"),
    "a version that is none": (document(view("e2"), version="five"), "version"),
    "a version below": (document(view("e2"), version=0), "version"),
    "a version to come": (document(view("e2"), version=99), "newer"),
    "a part that it does not name": (document(view("e2", part="0" * 24)), "part"),
    "no sheets": (document() | {"sheets": []}, "sheets"),
    "a list": ([1, 2], "no JSON object"),
    "nothing": (None, "no JSON object"),
    "a figure beyond all": (document(view("e2", place=[1e300, 0])), "place"),
}


def refused(done: Told, words: str) -> None:
    lines = done.stderr.strip().splitlines()
    assert done.returncode == 2 and len(lines) == 1 and "Traceback" not in done.stderr, done.stderr[-2000:]
    assert words in lines[0] and lines[0].startswith("barequill: ")


def draw(folder: Path, *more: str) -> Told:
    return run("draw", "it.json", "--parts", ".", "-o", "out.pdf", *more, cwd=folder)


@pytest.mark.parametrize("name", BAD)
def test_a_document_that_does_not_hold_together_is_refused_in_one_line(tmp_path: Path, name: str) -> None:
    found, words = BAD[name]
    (tmp_path / "pawl.step").write_bytes(demo_file("pawl").read_bytes())
    (tmp_path / "it.json").write_text(json.dumps(found))
    refused(draw(tmp_path), words)
    assert not (tmp_path / "out.pdf").exists()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"[" * 100_000, "deep"),
        (b'{"a":' * 50_000 + b"1" + b"}" * 50_000, "deep"),
        (b"\xff\xfe\x00", "no drawing document"),
        (b"", "no drawing document"),
        (b'{"version": 5, "sheets": {"a": 1}}', "sheets"),
    ],
)
def test_a_file_that_is_no_document_is_refused_in_one_line(tmp_path: Path, content: bytes, words: str) -> None:
    (tmp_path / "it.json").write_bytes(content)
    refused(draw(tmp_path), words)


def test_sheets_without_views_are_drawn_and_odd_neighbours_of_parts_are_passed_over(tmp_path: Path) -> None:
    (tmp_path / "a-pipe.step").symlink_to("nowhere")
    os.mkfifo(tmp_path / "b-pipe.step")
    (tmp_path / "c-folder.step").mkdir()
    (tmp_path / "pawl.step").write_bytes(demo_file("pawl").read_bytes())
    sheets = [{"id": "e1"}, {"id": "e9", "views": [view("e2")]}]
    (tmp_path / "it.json").write_text(json.dumps(document() | {"sheets": sheets}))
    done = draw(tmp_path)
    assert done.returncode == 0 and "2 sheets, 1 views" in done.stdout, done.stderr
    assert (tmp_path / "out.pdf").read_bytes().startswith(b"%PDF")


@pytest.mark.parametrize("command", ["part", "draw", "lines", "features"])
def test_what_is_no_part_file_is_refused_in_one_line(tmp_path: Path, command: str) -> None:
    os.mkfifo(tmp_path / "pipe.step")
    (tmp_path / "folder.step").mkdir()
    (tmp_path / "broken.step").symlink_to("nowhere")
    out = {"draw": ["-o", "x.pdf"], "lines": ["-o", "x.json"]}.get(command, [])
    for name, words in (("pipe.step", "no file"), ("folder.step", "no file"), ("broken.step", "broken.step")):
        refused(run(command, name, *out, cwd=tmp_path), words)
    if command == "draw":
        threading.Thread(target=lambda: None).start()
        os.mkfifo(tmp_path / "pipe.json")
        refused(run("draw", "pipe.json", "-o", "x.pdf", cwd=tmp_path), "no file")
        refused(run("draw", "it.json", "-o", "x.pdf", cwd=tmp_path), "it.json")
        refused(run("draw", str(demo_file("pawl")), "-o", "folder.step/x/y.pdf", cwd=tmp_path), "cannot be written")


def test_an_assembly_of_several_files_says_what_is_lacking_and_is_read_whole_as_a_zip(tmp_path: Path) -> None:
    text = demo_file("pawl").read_bytes()
    named = b"#990001=DOCUMENT_FILE('other.stp','',$,#990002,'',$);\n#990002=DOCUMENT_TYPE('');\n"
    (tmp_path / "it.step").write_bytes(text.replace(b"DATA;\n", b"DATA;\n" + named, 1))
    done = run("part", "it.step", cwd=tmp_path)
    assert done.returncode == 0 and "names one file that did not come along: other.stp" in done.stdout
