"""Worker processes, their caches, and the command line."""

from __future__ import annotations

import json
import math
import os
import time
from pathlib import Path

import numpy as np
import pytest

from barequill.core import project, read_part
from barequill.core.errors import UserError
from barequill.core.projection import PRINCIPAL, camera
from barequill.core.views.scene import Scene
from barequill.work import pools
from barequill.work.pools import Workshop
from tools.common import demo_file, part_of

from .commanding import run
from .conftest import real_file


@pytest.fixture(scope="module")
def shop(tmp_path_factory: pytest.TempPathFactory):
    home = tmp_path_factory.mktemp("work")
    workshop = Workshop(home, read_limit=60)
    data = demo_file("pawl").read_bytes()
    job = workshop.read(data, "pawl.step", lambda part, path: (home / "parts").mkdir(exist_ok=True))
    assert job.done.wait(90) and job.state == "done"
    (home / "parts" / f"{job.key}.step").write_bytes(data)
    yield workshop, job.key
    workshop.close()


def views(shop) -> list[Path]:
    return sorted(p for p in (shop.cache / "views").iterdir() if p.suffix == "")


def told(curves) -> list[tuple]:
    return [(c.source, c.visible, c.cls, c.span) for c in curves]


def test_a_view_from_a_worker_is_the_one_projected_here(shop) -> None:
    workshop, key = shop
    for name in ("front", "iso"):
        toward, up = PRINCIPAL[name]
        assert told(workshop.taken(Scene(key, toward, up)).curves) == told(
            project(part_of(demo_file("pawl")), toward, up)
        )


def test_a_view_is_projected_once_and_then_kept_on_disk_and_over_restarts(shop) -> None:
    workshop, key = shop
    workshop.taken(Scene(key, *PRINCIPAL["front"]))
    kept = {p: p.stat().st_mtime_ns for p in views(workshop)}
    workshop.taken(Scene(key, *PRINCIPAL["front"]))
    other = Workshop(workshop.home)
    try:
        start = time.perf_counter()
        curves = other.taken(Scene(key, *PRINCIPAL["front"])).curves
        assert time.perf_counter() - start < 2, "read from the cache, no worker started"
    finally:
        other.close()
    assert told(curves) == told(workshop.taken(Scene(key, *PRINCIPAL["front"])).curves)
    assert {p: p.stat().st_mtime_ns for p in views(workshop)} == kept


def test_views_asked_for_at_once_come_in_the_order_asked(shop) -> None:
    workshop, key = shop
    names = ["top", "left", "front", "top"]
    found = workshop.many([Scene(key, *PRINCIPAL[n]) for n in names])
    alone = [told(workshop.taken(Scene(key, *PRINCIPAL[n])).curves) for n in names]
    assert [told(c.curves) for c in found] == alone


def test_a_lost_or_damaged_cache_is_made_again(shop) -> None:
    workshop, key = shop
    before = told(workshop.taken(Scene(key, *PRINCIPAL["right"])).curves)
    for path in views(workshop):
        path.write_bytes(b"damaged")
    for path in (workshop.cache / "parts").iterdir():
        path.unlink()
    fresh = Workshop(workshop.home)
    try:
        assert told(fresh.taken(Scene(key, *PRINCIPAL["right"])).curves) == before
    finally:
        fresh.close()


def test_the_cache_of_views_is_bounded_and_the_oldest_go_first(shop, monkeypatch) -> None:
    workshop, key = shop
    for k in range(6):
        workshop.taken(Scene(key, (math.cos(k), math.sin(k), 0.3), (0, 0, 1)))
    sizes = [p.stat().st_size for p in views(workshop)]
    oldest = min(views(workshop), key=lambda p: p.stat().st_mtime)
    os.utime(oldest, (1, 1))
    monkeypatch.setattr(pools, "CACHE_LIMIT", sum(sizes) - 1)
    workshop.taken(Scene(key, (0.1, 0.2, 0.97), (0, 1, 0)))
    assert not oldest.exists()
    assert sum(p.stat().st_size for p in views(workshop)) <= sum(sizes)


def test_a_part_that_is_nowhere_is_told(shop) -> None:
    workshop, _ = shop
    with pytest.raises(UserError):
        workshop.part("0" * 40)


def test_a_cancelled_job_leaves_nothing_and_says_so(shop) -> None:
    workshop, _ = shop
    data = demo_file("small-pedestal-assembly").read_bytes()
    job = workshop.read(data + b"\n", "again.step")
    assert workshop.cancel(job.id).state == "cancelled"
    assert job.done.wait(20)
    assert not [p for p in workshop.cache.iterdir() if p.name.startswith("read-")]
    with pytest.raises(UserError):
        workshop.job("unknown")


# ---- the command line


@pytest.mark.parametrize("command", ["serve", "demo", "part", "draw", "lines"])
def test_help_tells_a_stranger_what_each_command_takes(command: str) -> None:
    said = run(command, "--help").stdout
    assert said.startswith(f"Usage: main {command}") and len(said.splitlines()) > 6
    assert command in run("--help").stdout


def test_the_summary_has_the_figures_named_for_scripts() -> None:
    told_ = json.loads(run("part", str(demo_file("small-pedestal-assembly")), "--json").stdout)
    assert {"unit", "size", "volume", "area", "centroid", "mass", "bodies", "faces", "edges", "name", "number"} <= set(
        told_
    )
    assert len(told_["bodies"]) == 6 and told_["volume"] == pytest.approx(sum(b["volume"] for b in told_["bodies"]))
    weighted = np.sum([np.array(b["centroid"]) * b["volume"] for b in told_["bodies"]], axis=0) / told_["volume"]
    assert told_["centroid"] == pytest.approx(weighted)
    assert set(told_["bodies"][0]) >= {"name", "volume", "area", "centroid"}


@pytest.mark.parametrize("name", ["left", "iso"])
def test_lines_are_written_exact_with_sources_and_close_polylines(tmp_path: Path, name: str) -> None:
    out = tmp_path / "lines.json"
    assert run("lines", str(demo_file("round-gear-cover")), "--view", name, "-o", str(out)).returncode == 0
    found = json.loads(out.read_text())
    view = camera(*PRINCIPAL[name])
    for axis in ("right", "up", "toward"):
        assert found[axis] == pytest.approx(getattr(view, axis))
    assert found["unit"] == "mm" and found["curves"]
    part = part_of(demo_file("round-gear-cover"))
    known = set(part.index)
    for c in found["curves"]:
        assert c["class"] in ("edge", "smooth", "outline") and c["source"] in known
        p = np.array(c["points"])
        if c["kind"] == "line":
            assert len(p) == 2
        if c["kind"] in ("circle", "arc"):
            assert np.linalg.norm(p - c["centre"], axis=1) == pytest.approx(np.full(len(p), c["radius"]), abs=1e-9)
            step = np.linalg.norm(np.diff(p, axis=0), axis=1).max()
            assert c["radius"] - math.sqrt(max(c["radius"] ** 2 - step**2 / 4, 0)) < 1e-4 * part.size
        if c["kind"] in ("ellipse", "elliptic_arc"):
            a, q = np.array(c["major"]), p - np.array(c["centre"])
            big = np.linalg.norm(a)
            u, v = q @ a / big, (q[:, 0] * -a[1] + q[:, 1] * a[0]) / big
            assert (u / big) ** 2 + (v / big / c["ratio"]) ** 2 == pytest.approx(np.ones(len(p)), abs=1e-6)


def test_a_free_camera_gives_the_named_view_s_lines(tmp_path: Path) -> None:
    named, free = tmp_path / "named.json", tmp_path / "free.json"
    part = str(demo_file("pawl"))
    run("lines", part, "--view", "left", "-o", str(named))
    assert run("lines", part, "--toward", "-5,0,0", "--up", "0,0,2", "-o", str(free)).returncode == 0
    assert json.loads(named.read_text())["curves"] == json.loads(free.read_text())["curves"]
    run("lines", part, "--view", "left", "--no-hidden", "--no-smooth", "-o", str(free))
    few = json.loads(free.read_text())["curves"]
    assert few and all(c["visible"] and c["class"] != "smooth" for c in few)


@pytest.mark.parametrize("suffix", [".pdf", ".svg", ".dxf", ".png"])
def test_a_sheet_is_drawn_by_the_suffix_of_its_file(tmp_path: Path, suffix: str) -> None:
    out = tmp_path / f"sheet{suffix}"
    words = [
        "--views",
        "front,top,left,iso",
        "--sheet",
        "A3",
        "--angle",
        "first",
        "--scale",
        "auto",
        "--number",
        "WL-1",
    ]
    done = run("draw", str(demo_file("catch-box")), *words, "-o", str(out))
    assert done.returncode == 0, done.stderr
    head = out.read_bytes()[:200]
    assert {".pdf": b"%PDF", ".svg": b"<svg", ".dxf": b"SECTION", ".png": b"\x89PNG"}[suffix] in head


@pytest.mark.parametrize(
    ("words", "part_of_line"),
    [
        (["part", "nowhere.step"], "nowhere.step"),
        (["draw", "PART", "--views", "aslant", "-o", "x.pdf"], "aslant"),
        (["draw", "PART", "--scale", "0", "-o", "x.pdf"], "scale"),
        (["draw", "PART", "-o", "/nowhere/x.pdf"], "/nowhere"),
        (["lines", "PART", "--toward", "a,b,c", "--up", "0,0,1", "-o", "x.json"], "a,b,c"),
    ],
)
def test_bad_input_is_told_in_one_line_that_names_it(tmp_path: Path, monkeypatch, words, part_of_line: str) -> None:
    monkeypatch.chdir(tmp_path)
    done = run(*[str(demo_file("pawl")) if w == "PART" else w for w in words])
    assert done.returncode == 2
    lines = [x for x in done.stderr.strip().splitlines() if x]
    assert len(lines) == 1 and part_of_line in lines[0]
    assert not list(tmp_path.iterdir()), "nothing half written"


def test_from_python_a_projection_leaves_the_part_as_it_was() -> None:
    part = read_part(demo_file("pawl"))
    before = [(e.ref, e.curve.t0, e.points.sum()) for e in part.edges], part.mesh.nodes.sum()
    first = told(project(part, toward=(0, -1, 0), up=(0, 0, 1)))
    project(part, toward=(1, -1, 1), up=(0, 0, 1))
    assert told(project(part, toward=(0, -1, 0), up=(0, 0, 1))) == first
    assert ([(e.ref, e.curve.t0, e.points.sum()) for e in part.edges], part.mesh.nodes.sum()) == before


@pytest.mark.parametrize("name", ["as1-tu-203.stp", "io1-cm-214.stp", "headback.stp"])
def test_real_parts_keep_their_references_on_each_import(name: str) -> None:
    one, two = part_of(real_file(name)), read_part(real_file(name))
    assert [e.ref for e in one.edges] == [e.ref for e in two.edges]
    assert [f.ref for f in one.faces] == [f.ref for f in two.faces]
    assert len({f.ref for f in one.faces} | {e.ref for e in one.edges}) == len(one.faces) + len(one.edges)
