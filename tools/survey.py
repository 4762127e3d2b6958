"""A survey over many part files: what is refused, how true each view is by the judge of ``make truth``, how long it takes.

``make survey PARTS=FOLDER`` reads each STEP file of a folder, in a process of its own with limits of time and memory,
projects it in four directions, cuts it twice, and has the kernel's own algorithm do the same four views. Results lie in ``FOLDER/.survey`` and hold as long as neither the core nor the judge
changes, so a survey that was stopped goes on where it was. ``ONLY=words`` takes the files with one of these in the name.
"""

from __future__ import annotations

import hashlib
import json
import multiprocessing
import os
import resource
import sys
import threading
import time
import traceback
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from barequill import core
from barequill.core import project, read_part
from barequill.core.errors import UserError
from barequill.core.projection import cut_faces
from barequill.core.reading.step import read_step
from barequill.core.views.projecting import take
from barequill.core.views.scene import Scene

from .cuts import CLOSE, cuts_of, other_area, through_axes
from .kernel_lines import UNJUDGED, kernel_lines
from .truth import LEAST, MEAN, TITLES, VIEWS, Shares, judge, sample

DIRECTIONS = ("front", "top", "iso", "aslant")
SECONDS, MEMORY, PATIENCE = 600, 8 << 30, 60
"""Limits of a file, and for how long the kernel is waited for."""
FLOOR = 0.97
"""What no share of any view may fall below."""
FINER, MANY = 1.5e-5, 300_000
"""How far the judge's mesh may stray, in part sizes, where a first judgement is in doubt, and up to how many triangles
of the first mesh such a finer one is asked for."""

Row = dict[str, Any]


def fingerprint() -> str:
    """A name for the state of the core and the judge: results of another state do not count."""
    found = hashlib.sha256()
    files = sorted(Path(core.__file__).parent.glob("*/*.py"))
    for path in [*files, *sorted(Path(__file__).parent.glob("*.py"))]:
        if path.parent.name in ("part", "reading", "cutting", "projection", "geometry") or path.name in (
            "truth.py",
            "ray_pictures.py",
            "line_shares.py",
        ):
            found.update(path.read_bytes())
    return found.hexdigest()[:16]


def surveyed(path: Path) -> Iterator[Row]:
    """One file: what was read, how long it took, and the judgement of each view; then of the cuts, then of the kernel's views."""
    row: Row = {"name": path.name, "bytes": path.stat().st_size}
    told: dict[str, float] = {"": time.perf_counter()}
    part = read_part(path, progress=lambda share, what: told.setdefault(what, time.perf_counter()) and None)
    end = time.perf_counter()
    row |= {"seconds": end - told[""], "preparing": end - told["meshing"], "bodies": len(part.bodies)}
    row |= {"faces": len(part.faces), "edges": len(part.edges), "remarks": list(part.remarks), "views": {}}
    shapes = [raw.shape for raw in read_step(path, path.name)[0]]
    samples, finer = sample(shapes), None
    for view in DIRECTIONS:
        start = time.perf_counter()
        try:
            curves = project(part, *VIEWS[view])
        except Exception:
            row["views"][view] = {"error": traceback.format_exc()}
            continue
        took = time.perf_counter() - start
        shares = judge(samples, part, curves, *VIEWS[view])
        if min(shares.all()) < LEAST and len(samples.triangles) < MANY:
            # the mesh of the judge may have folds of its own: a finer one decides
            finer = finer or sample(shapes, FINER)
            shares = Shares(*np.maximum(shares.all(), judge(finer, part, curves, *VIEWS[view]).all()))
        row["views"][view] = {"seconds": took, "shares": shares.all(), "curves": len(curves)}
    yield row
    row["cuts"] = dict(_cuts(part, shapes))
    yield row
    row["kernel"] = {}
    for view in DIRECTIONS:
        lines = kernel_lines(shapes, *VIEWS[view])
        shares = judge(samples, part, lines, *VIEWS[view])
        if _wrong([shares.all()]) and len(samples.triangles) < MANY:
            finer = finer or sample(shapes, FINER)
            shares = Shares(*np.maximum(shares.all(), judge(finer, part, lines, *VIEWS[view]).all()))
        row["kernel"][view] = shares.all()
        yield row


def _cuts(part: Any, shapes: list[Any]) -> Iterator[tuple[str, Row]]:
    """Two cuts: through the axis of a round face if there is one, and beside the middle. Their areas, and another's."""
    solids = [s for s, b in zip(shapes, part.bodies, strict=True) if b.solid]
    every = cuts_of(part)
    axes = list(through_axes(part, 1).items())
    for name, (cut, *_) in [axes[0] if axes else ("x 0.5", every["x 0.5"]), ("z 0.37", every["z 0.37"])]:
        try:
            ours = sum(f.area for f in cut_faces(part, cut) if part.bodies[f.body].solid)
            n = cut.normals[0]
            take(part, Scene("0" * 24, tuple(n), tuple(np.eye(3)[int(np.argmin(np.abs(n)))]), cut=cut))
        except Exception:
            yield name, {"error": traceback.format_exc()}
            continue
        theirs, by = other_area(solids, cut.cells[0].cutting_planes[0], part, ours) if solids else (ours, "nobody")
        yield name, {"ours": ours, "theirs": theirs, "by": by}


def _in_process(path: Path, answer: Any) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    os.environ["OMP_NUM_THREADS"] = "1"
    try:
        for row in surveyed(path):
            answer.send(row)
        return
    except UserError as error:
        row = {"name": path.name, "refused": f"{error}"}
    except BaseException:
        row = {"name": path.name, "failed": traceback.format_exc()}
    answer.send(row)


def apart(path: Path) -> Row:
    """The same in a process of its own that may take long or die."""
    context = multiprocessing.get_context("forkserver")
    receive, send = context.Pipe(duplex=False)
    process = context.Process(target=_in_process, args=(path, send))
    start = time.perf_counter()
    process.start()
    send.close()
    row: Row = {}
    try:
        while receive.poll(PATIENCE if "cuts" in row else SECONDS):
            row = row | receive.recv()
        return row if "cuts" in row else row | {"name": path.name, "failed": f"not done after {SECONDS} s"}
    except EOFError:
        if row:
            return row
        process.join(10)
        seconds = time.perf_counter() - start
        return {"name": path.name, "failed": f"the process died (code {process.exitcode}) after {seconds:.0f} s"}
    finally:
        process.kill()
        process.join()


def survey(files: list[Path], store: Path) -> list[Row]:
    """The rows of all files: those that are kept from a run of the same state, and the others worked out now."""
    state = fingerprint()
    store.mkdir(exist_ok=True)
    lock, done = threading.Lock(), [0]

    def one(path: Path) -> Row:
        kept = store / f"{path.name}.json"
        if kept.exists():
            row = json.loads(kept.read_text())
            if row.get("state") == state:
                return dict(row)
        row = apart(path) | {"state": state}
        temporary = kept.with_suffix(".part")
        temporary.write_text(json.dumps(row))
        temporary.replace(kept)
        with lock:
            done[0] += 1
            print(f"{done[0]:4d}  {_line(row)}", flush=True)
        return row

    with ThreadPoolExecutor(os.cpu_count() or 2) as pool:
        return list(pool.map(one, files))


def _line(row: Row) -> str:
    """A file in one line."""
    for kind in ("refused", "failed"):
        if kind in row:
            return f"{row['name'][:60]:60s} {kind}: {row[kind].strip().splitlines()[-1]}"
    shares = [min(v["shares"]) for v in row["views"].values() if "shares" in v]
    lost = sum("error" in v for v in row["views"].values())
    said = f"worst share {min(shares):.4f}" if shares else ""
    return f"{row['name'][:60]:60s} {row['faces']:6d} faces {said}" + (f", {lost} views LOST" if lost else "")


def report(rows: list[Row]) -> bool:
    """Print the tables; True where all that is wanted holds."""
    read = [r for r in rows if "views" in r]
    judged = [(v["shares"], r["name"], view) for r in read for view, v in r["views"].items() if "shares" in v]
    lost = [(v["error"], r["name"], view) for r in read for view, v in r["views"].items() if "error" in v]
    refused = [r for r in rows if "refused" in r]
    failed = [r for r in rows if "failed" in r]
    print(f"\n{len(rows)} files: {len(read)} read, {len(refused)} refused, {len(failed)} failed")
    for row in [*refused, *failed]:
        print(f"  {_line(row)}")
    for error, name, view in lost:
        print(f"  view lost: {name} {view}: {error.strip().splitlines()[-1]}")
    remarked = [(r["name"], m) for r in read for m in r["remarks"]]
    if remarked:
        print(f"\nremarks on {len({n for n, _ in remarked})} files:")
        for name, said in remarked:
            print(f"  {name[:56]:56s} {said}")
    if not judged:
        return False
    shares = np.array([s for s, _, _ in judged])
    print(f"\n{len(judged)} views" + "".join(f"{t:>14s}" for t in TITLES))
    for title, figures in (
        ("mean", shares.mean(axis=0)),
        ("least", shares.min(axis=0)),
        (f"% of {LEAST}", 100 * (shares >= LEAST).mean(axis=0)),
    ):
        print(f"{title:>10s}" + "".join(f"{x:14.5f}" for x in figures))
    whole = (shares >= LEAST).all(axis=1)
    print(
        f"views with every share at {LEAST}: {100 * whole.mean():.2f} %; under {FLOOR}: {(shares < FLOOR).any(axis=1).sum()}"
    )
    order = np.argsort(shares.min(axis=1))
    print("\nthe worst views:")
    for k in order[:40]:
        if not whole[k]:
            least = int(shares[k].argmin())
            said = ", ".join(f"{t} {x:.4f}" for t, x in zip(TITLES, shares[k], strict=True) if x < LEAST)
            print(f"  {shares[k][least]:.4f}  {judged[k][1][:56]:56s} {judged[k][2]:8s} {said}")
    _told_of_cuts(read)
    _told_of_kernel(read)
    _times(read)
    good = not failed and not lost and shares.mean(axis=0).min() >= MEAN
    return bool(good and whole.mean() >= 0.99 and shares.min() >= FLOOR)


def _told_of_cuts(read: list[Row]) -> None:
    """How far the areas of cuts are from another's."""
    cuts = [(r["name"], name, c) for r in read for name, c in r.get("cuts", {}).items()]
    lost = [(file, name, c["error"]) for file, name, c in cuts if "error" in c]
    off = [
        (abs(c["ours"] - c["theirs"]) / max(c["ours"], c["theirs"], 1e-9), f, n, c) for f, n, c in cuts if "ours" in c
    ]
    far = sorted((o for o in off if o[0] > CLOSE), key=lambda o: -o[0])
    print(
        f"\n{len(cuts)} cuts: {len(off) - len(far)} areas within {CLOSE:.0e} of another's, {len(far)} not, {len(lost)} lost"
    )
    for share, file, name, c in far[:40]:
        print(f"  {share:.1e}  {file[:56]:56s} {name:8s} ours {c['ours']:.7g}, {c['by']} {c['theirs']:.7g}")
    for file, name, error in lost:
        print(f"  cut lost: {file} {name}: {error.strip().splitlines()[-1]}")


def _wrong(views: list[Any]) -> bool:
    """True where a share is too low by which the kernel can be judged too."""
    judged = [k for k, t in enumerate(TITLES) if t not in UNJUDGED]
    return bool(min(shares[k] for shares in views for k in judged) < LEAST)


def _told_of_kernel(read: list[Row]) -> None:
    """How many files the kernel's own algorithm gets wrong, by the same judge, and how many we do by the same shares."""
    done = [r for r in read if len(r.get("kernel", {})) == len(DIRECTIONS)]

    theirs = sum(_wrong(list(r["kernel"].values())) for r in done)
    ours = sum(_wrong([v["shares"] for v in r["views"].values() if "shares" in v]) for r in done)
    print(
        f"\nthe kernel's algorithm: {len(done)} files done, {len(read) - len(done)} not within {PATIENCE} s a view;",
        end=" ",
    )
    print(f"with a share below {LEAST} in some view: {theirs} of these, and {ours} of ours")


def _times(read: list[Row]) -> None:
    faces = np.array([r["faces"] for r in read])
    preparing = np.array([r["preparing"] for r in read])
    views = np.array([np.mean([v["seconds"] for v in r["views"].values() if "seconds" in v] or [0]) for r in read])
    print(
        f"\npreparation: {1000 * preparing.sum() / faces.sum():.2f} s per 1,000 faces over all; median of files ",
        end="",
    )
    print(f"{1000 * np.median(preparing / faces):.2f}; a view: median {1000 * np.median(views):.1f} ms,", end=" ")
    print(f"{1e6 * views.sum() / faces.sum():.0f} µs a face")
    print("the longest preparations:")
    for k in np.argsort(-preparing)[:12]:
        print(f"  {preparing[k]:7.2f} s {faces[k]:6d} faces, view {views[k]:6.3f} s  {read[k]['name']}")


def main(folder: str) -> int:
    """Survey a folder; the exit code tells whether all that is wanted holds."""
    where = Path(folder)
    files = [p for p in where.iterdir() if p.suffix.lower() in (".step", ".stp")]
    # a survey that is stopped has seen some of everything
    files.sort(key=lambda p: hashlib.sha256(p.name.encode()).hexdigest())
    only = os.environ.get("ONLY", "").split()
    files = [p for p in files if not only or any(word in p.name for word in only)]
    if not files:
        print(f"No STEP files in {where}. Say which folder: make survey PARTS=FOLDER")
        return 2
    multiprocessing.get_context("forkserver").set_forkserver_preload(["tools.survey_load"])
    return 0 if report(survey(files, where / ".survey")) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1] if len(sys.argv) > 1 else "."))
