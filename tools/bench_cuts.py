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
from barequill.core.projection.strands import _kept
from barequill.core.projection.warming import warm
from barequill.core.reading.step import read_step
from barequill.work.collecting import collect_seldom

from .bench import best, kernel_view
from .cuts import cut_by_kernel

VIEWS = {"front": ((0, -1, 0), (0, 0, 1)), "top": ((0, 0, 1), (0, 1, 0)), "right": ((1, 0, 0), (0, 0, 1))}
SHARES = np.linspace(0.3, 0.7, 9)


def sections(names: list[str]) -> None:
    """A table: the uncut view, the section with its cut faces, the kernel's cut and view.

    Each section is at another place. The first in a direction is one for which nothing of that is known; for those that
    follow, as while a cutting line is dragged, what is seen of the part before it is cut is kept.
    """
    warm()
    # as the processes do that draw for the application
    collect_seldom()
    print(
        f"\n{'sections':28s}{'view':8s}{'uncut ms':>10s}{'first ms':>10s}{'of uncut':>10s}{'times':>8s}"
        f"{'next ms':>10s}{'of uncut':>10s}{'times':>8s}{'kernel ms':>12s}"
    )
    found = []
    for name in names:
        path = Path(name)
        part = read_part(path)
        shapes = [r.shape for r in read_step(path, path.name)[0]]
        reach = 3 * part.size + float(np.abs([part.low, part.high]).max())
        for view, (toward, up) in VIEWS.items():
            d = np.array(toward, float)
            uncut = best(lambda part=part, d=d, up=up: project(part, d, up), 5)
            first, following = _sections(part, d, up, fresh=True), _sections(part, d, up, fresh=False)
            cut = beyond([(tuple((part.low + part.high) / 2), tuple(d))])
            start = time.perf_counter()
            kernel_view(cut_by_kernel(shapes, cut, reach), d, np.array(up, float))
            theirs = time.perf_counter() - start
            found.append((first / uncut, theirs / first, following / uncut, theirs / following))
            own, faster, own_next, faster_next = found[-1]
            print(
                f"{path.name:28s}{view:8s}{1e3 * uncut:10.1f}{1e3 * first:10.1f}{own:10.2f}{faster:8.0f}"
                f"{1e3 * following:10.1f}{own_next:10.2f}{faster_next:8.0f}{1e3 * theirs:12.0f}",
                flush=True,
            )
    own, faster, own_next, faster_next = np.exp(np.log(found).mean(axis=0))
    print(
        f"geometric means: the first {faster:.1f} times the kernel, {own:.2f} of the uncut view; the next "
        f"{faster_next:.1f} and {own_next:.2f}"
    )


def _sections(part: Any, toward: Any, up: Any, fresh: bool) -> float:
    """The median time of sections (s), each at another place; all as if they were the first where they are to be ``fresh``."""
    took = []
    for share in SHARES + (0 if fresh else 0.01):
        spot = part.low + share * (part.high - part.low)
        cut = beyond([(tuple(spot), tuple(toward))])
        if fresh:
            _kept.cache_clear()
        start = time.perf_counter()
        project(part, toward, up, cut=cut)
        cut_faces(part, cut)
        took.append(time.perf_counter() - start)
    return float(np.median(took))


def dragging(names: list[str]) -> None:
    """How long previews take while a cutting line is dragged, through the API."""
    from barequill.web.app import create_app
    from barequill.web.serving import server

    print(f"\n{'dragging a cutting line':28s}{'faces':>8s}{'median ms':>12s}{'p95 ms':>10s}")
    with tempfile.TemporaryDirectory() as home:
        app = create_app(Path(home))
        services = app.extensions["services"]
        services.workshop.warm()
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
                job = services.workshop.read(
                    path, path.name, lambda p, f, path=path: services.store.keep_part(p.key, path.name, f, p.summary())
                )
                job.done.wait()
                _drag(ask, services, job.key, path.name)
        finally:
            made.close()
            services.close()


def _drag(ask: Any, services: Any, key: str, name: str) -> None:
    state = ask("/api/drawings", {"part": key, "views": ["front", "top"]})
    url, sheet = f"/api/drawings/{state['id']}", state["document"]["sheets"][0]
    top = sheet["views"][1]
    services.prefetch(services.store.get(state["id"]).drawing, services.store.get(state["id"]).drawing.front_sheet)
    x, y = top["place"]
    cut = {"act": "cut_view", "view": top["id"], "points": [{"x": x, "y": y, "at": "box"}], "to": [x, y + 150]}
    state = ask(f"{url}/acts", {"edit": state["edit"], "act": cut})
    part = services.workshop.part(key)
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
