"""How long a section takes beside the kernel's cut and projection of the same, and how fast one follows a hand."""

from __future__ import annotations

import json
import math
import tempfile
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

from barequill.core import cut_faces, project, read_part
from barequill.core.cutting import beyond
from barequill.core.part.reading import _read_step
from barequill.core.projection.warming import warm

from .bench import best, kernel_view
from .cuts import cut_by_kernel

VIEWS = {"front": ((0, -1, 0), (0, 0, 1)), "top": ((0, 0, 1), (0, 1, 0)), "right": ((1, 0, 0), (0, 0, 1))}
SHARES = np.linspace(0.3, 0.7, 9)


def sections(names: list[str]) -> None:
    """A table: the uncut view, the section with its cut faces (fresh each time), the kernel's cut and view."""
    warm()
    print(
        f"\n{'sections':28s}{'view':8s}{'uncut ms':>10s}{'section ms':>12s}{'of uncut':>10s}{'kernel ms':>12s}{'times':>8s}"
    )
    ratios, kernel = [], []
    for name in names:
        path = Path(name)
        part = read_part(path)
        shapes = [r.shape for r in _read_step(path, path.name)[0]]
        reach = 3 * part.size + float(np.abs([part.low, part.high]).max())
        for view, (toward, up) in VIEWS.items():
            d = np.array(toward, float)
            uncut = best(lambda part=part, d=d, up=up: project(part, d, up), 5)
            took = []
            for share in SHARES:
                spot = part.low + share * (part.high - part.low)
                cut = beyond([(tuple(spot), tuple(d))])
                start = time.perf_counter()
                project(part, d, up, cut=cut)
                cut_faces(part, cut)
                took.append(time.perf_counter() - start)
            ours = float(np.median(took))
            cut = beyond([(tuple((part.low + part.high) / 2), tuple(d))])
            start = time.perf_counter()
            kernel_view(cut_by_kernel(shapes, cut, reach), d, np.array(up, float))
            theirs = time.perf_counter() - start
            ratios.append(ours / uncut)
            kernel.append(theirs / ours)
            print(
                f"{path.name:28s}{view:8s}{1e3 * uncut:10.1f}{1e3 * ours:12.1f}{ours / uncut:10.2f}"
                f"{1e3 * theirs:12.0f}{theirs / ours:8.0f}",
                flush=True,
            )
    print(
        f"geometric mean: {math.exp(np.mean(np.log(kernel))):.1f} times the kernel, "
        f"{math.exp(np.mean(np.log(ratios))):.2f} of the uncut view (at most {max(ratios):.2f})"
    )


def dragging(names: list[str]) -> None:
    """How long previews take while a cutting line is dragged, through the API."""
    from barequill.web.app import create_app
    from barequill.web.serving import server

    print(f"\n{'dragging a cutting line':28s}{'faces':>8s}{'median ms':>12s}{'p95 ms':>10s}")
    with tempfile.TemporaryDirectory() as home:
        app = create_app(Path(home))
        desk = app.extensions["desk"]
        desk.workshop.warm()
        made = server(app, "127.0.0.1", 0)
        threading.Thread(target=made.run, daemon=True).start()
        base = f"http://127.0.0.1:{made.effective_port}"

        def ask(url: str, body: Any) -> Any:
            head = {"Content-Type": "application/json", "Origin": base}
            request = urllib.request.Request(base + url, json.dumps(body).encode(), head)
            with urllib.request.urlopen(request, timeout=120) as answer:
                return json.load(answer)

        try:
            for name in names:
                path = Path(name)
                job = desk.workshop.read(
                    path, path.name, lambda p, f, path=path: desk.store.keep_part(p.key, path.name, f, p.summary())
                )
                job.done.wait()
                _drag(ask, desk, job.key, path.name)
        finally:
            made.close()
            desk.close()


def _drag(ask: Any, desk: Any, key: str, name: str) -> None:
    state = ask("/api/drawings", {"part": key, "views": ["front", "top"]})
    url, sheet = f"/api/drawings/{state['id']}", state["document"]["sheets"][0]
    top = sheet["views"][1]
    desk.prefetch(desk.store.get(state["id"]).drawing, desk.store.get(state["id"]).drawing.front_sheet)
    x, y = top["place"]
    cut = {"act": "cut_view", "view": top["id"], "points": [{"x": x, "y": y, "at": "box"}], "to": [x, y + 150]}
    state = ask(f"{url}/acts", {"revision": state["revision"], "act": cut})
    part = desk.workshop.part(key)
    reach = 0.4 * float(part.high[1] - part.low[1]) * sheet["scale"]
    took = []
    for k in range(80):
        move = {
            "act": "move_cutting",
            "view": state["created"][-1],
            "to": [x, y + reach * math.sin(k / 7)],
            "start": [x, y],
        }
        start = time.perf_counter()
        ask(f"{url}/preview", {"act": move})
        took.append(1e3 * (time.perf_counter() - start))
    print(f"{name:28s}{len(part.faces):8d}{np.median(took):12.0f}{np.percentile(took, 95):10.0f}", flush=True)


if __name__ == "__main__":
    import sys

    sections(sys.argv[1:])
    dragging(sys.argv[1:])
