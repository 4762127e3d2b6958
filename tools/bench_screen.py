"""How long a hand waits for the screen: ``make acting`` prints it for the demo sheets and for a part of many faces.

Each part is brought, proposed and drawn by the running application; then in the real browser a view is moved by keys and
a field filled in, and the time is taken from the key to the frame after the sheet has changed.
"""

from __future__ import annotations

import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from playwright.sync_api import APIRequestContext, Browser, Page, Response, sync_playwright

from .common import DEMO_PARTS, FLAGS

ACTS = 40
MOVED = """(key) => new Promise((done) => {
  const old = [...document.querySelectorAll('.board g.run')].map((g) => g.getAttribute('transform')).join();
  const start = performance.now();
  const watch = new MutationObserver(() => {
    const now = [...document.querySelectorAll('.board g.run')].map((g) => g.getAttribute('transform')).join();
    if (now === old) return;
    watch.disconnect();
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)));
  });
  watch.observe(document.querySelector('.board > svg'), {subtree: true, childList: true, attributes: true});
  document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
})"""


def many_pins(rows: int, columns: int) -> bytes:
    """A connector by code: a housing with so many square pins, each in a round collar; as STEP."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
    from OCP.collections import List_TopoDS_Shape
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    from barequill.core.reading import shapes

    body = shapes.box((-2, -2, 0), (2 * columns + 2, 2 * rows + 2, 5))
    pins = List_TopoDS_Shape()
    for k in range(rows * columns):
        x, y = 2.0 * (k % columns), 2.0 * (k // columns)
        pins.Append(shapes.box((x, y, 5), (0.6, 0.6, 4)))
        pins.Append(shapes.cylinder((x + 0.3, y + 0.3, 5), (0, 0, 1), 0.6, 1.0))
    whole = List_TopoDS_Shape()
    whole.Append(body)
    fuse = BRepAlgoAPI_Fuse()
    fuse.SetArguments(whole)
    fuse.SetTools(pins)
    fuse.Build()
    body = fuse.Shape()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pins.step"
        writer = STEPControl_Writer()
        writer.Transfer(body, STEPControl_StepModelType.STEPControl_AsIs)
        writer.Write(str(path))
        return path.read_bytes()


@contextmanager
def running() -> Iterator[tuple[str, Browser, Page]]:
    """The application served from an empty home: its address, a browser, and a page in it."""
    from barequill.web.app import create_app
    from barequill.web.serving import server

    with tempfile.TemporaryDirectory() as home, sync_playwright() as play:
        app = create_app(Path(home))
        app.extensions["services"].workshop.warm()
        made = server(app, "127.0.0.1", 0)
        threading.Thread(target=made.run, daemon=True).start()
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        try:
            yield f"http://127.0.0.1:{made.effective_port}", browser, browser.new_page()
        finally:
            browser.close()
            made.close()
            app.extensions["services"].close()


def with_signs(base: str, ask: APIRequestContext, made: dict, each: int) -> None:
    """So many tolerance frames and notes on leaders, on edges all over the first view."""
    sheet = made["document"]["sheets"][0]
    view = sheet["views"][0]["id"]
    ink = ask.get(f"{base}/api/drawings/{made['id']}/sheets/{sheet['id']}/ink").json()
    own = next(e for e in ink["elements"] if e["id"] == view)
    refs = list(dict.fromkeys(m["src"] for m in own["marks"] if m["m"] == "s" and m.get("src", "").startswith("E")))
    row = {"characteristic": "profile of a line", "value": 0.1}
    signs = []
    for k in range(2 * each):
        led = {"id": f"e{900000 + k}", "on": view, "foot": {"ref": refs[k * 7 % len(refs)]}, "angle": 37 * k % 360}
        kind = (
            {"kind": "tolerance_frame", "frame": {"rows": [row]}} if k % 2 else {"kind": "text_note", "text": "Deburr"}
        )
        signs.append(led | kind | {"offset": 20 + k % 9 * 4})
    act = {"act": "operation", "operation": {"op": "annotate", "sheet": sheet["id"], "annotations": signs}}
    done = ask.post(f"{base}/api/drawings/{made['id']}/acts", data={"edit": made["edit"], "act": act})
    assert done.ok, done.text()


def measured(base: str, browser: Browser, name: str, data: bytes, signs: int = 0) -> None:
    """Print one line for a part; with so many ``signs`` and as many notes on its sheet."""
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    try:
        ask = page.request
        start = time.perf_counter()
        form = {"file": {"name": name, "mimeType": "application/step", "buffer": data}}
        job = ask.post(f"{base}/api/parts", multipart=form).json()
        while job["state"] == "working":
            time.sleep(0.05)
            job = ask.get(f"{base}/api/jobs/{job['id']}").json()
        read = time.perf_counter() - start
        wish = {"part": job["part"]}
        start = time.perf_counter()
        ink = ask.post(f"{base}/api/proposals", data=wish).json()["ink"]
        while any(v["pending"] for v in ink["views"]):
            ink = ask.post(f"{base}/api/proposals", data=wish).json()["ink"]
        proposal = time.perf_counter() - start
        made = ask.post(f"{base}/api/drawings", data=wish).json()
        if signs:
            with_signs(base, ask, made, signs)
        answers: list[Response] = []
        page.on("response", lambda r: answers.append(r) if "/ink" in r.url else None)
        start = time.perf_counter()
        page.goto(f"{base}/#/drawing/{made['id']}")
        page.wait_for_selector(".board g[data-element] path", state="attached", timeout=60000)
        page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")
        display = time.perf_counter() - start
        sent = len(answers[0].body())
        page.keyboard.press("/")
        page.keyboard.type("front view")
        page.keyboard.press("Enter")
        page.wait_for_timeout(300)
        took = [page.evaluate(MOVED, "ArrowRight" if k % 2 else "ArrowLeft") for k in range(ACTS)]
        middle, most = np.percentile(took[2:], [50, 95])
        marks = sum(len(e["marks"] or []) for e in ink["elements"])
        held = len(made["document"]["sheets"][0]["annotations"])
        print(
            f"{name:34.34s} {marks:6d} marks {held:5d} centres  read {read:5.1f} s  proposal {proposal:5.2f} s  "
            f"display {display:5.2f} s, {sent / 1e6:5.2f} MB  fresh after an act: {middle:4.0f} ms, p95 {most:4.0f} ms",
            flush=True,
        )
    finally:
        page.close()


def screens(names: list[str]) -> None:
    """The demo parts, a connector of many pins, and the files given."""
    with running() as (base, browser, _):
        for stem in ("round-gear-cover", "spindle-pedestal", "long-pinion-spindle"):
            measured(base, browser, stem, (DEMO_PARTS / f"{stem}.step").read_bytes())
        pins = many_pins(10, 40)
        for signs in (0, 40, 0, 40):
            name = f"connector of 400 pins{', 40 + 40 signs' if signs else ''}"
            measured(base, browser, name, pins, signs)
        for name in names:
            measured(base, browser, Path(name).name, Path(name).read_bytes())


if __name__ == "__main__":
    import sys

    screens(sys.argv[1:])
