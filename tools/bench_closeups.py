"""How quick close-ups are while a hand is at them: ``make acting`` prints it.

Through the API, on a part of some 340 faces: a detail whose ring is dragged, a broken and a cropped view, each from asking
to the last byte. In the browser: a part of some 20,000 faces opened in space, and frames a second while it is turned.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Browser

from .bench_screen import many_pins, running

TURNED = """() => new Promise((done) => {
  const held = document.querySelector('.picture');
  const at = (type, x) => held.dispatchEvent(new PointerEvent(type, {bubbles: true, pointerId: 1, clientX: x, clientY: 300, button: 0}));
  held.setPointerCapture = () => {};
  let frames = 0, x = 300;
  const start = performance.now();
  at('pointerdown', x);
  const step = () => {
    at('pointermove', x += 3);
    frames++;
    if (performance.now() - start < 3000) requestAnimationFrame(step);
    else { at('pointerup', x); done(frames / (performance.now() - start) * 1000); }
  };
  requestAnimationFrame(step);
})"""


def copies(data: bytes, count: int) -> bytes:
    """So many copies of a part beside each other, as one STEP file."""
    from OCP.BRep import BRep_Builder
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.STEPControl import STEPControl_Reader, STEPControl_StepModelType, STEPControl_Writer
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS_Compound

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "one.step"
        path.write_bytes(data)
        reader = STEPControl_Reader()
        reader.ReadFile(str(path))
        reader.TransferRoots()
        one, whole = reader.OneShape(), TopoDS_Compound()
        BRep_Builder().MakeCompound(whole)
        for k in range(count):
            move = gp_Trsf()
            move.SetTranslation(gp_Vec(30.0 * (k % 7), 30.0 * (k // 7), 0))
            BRep_Builder().Add(whole, one.Moved(TopLoc_Location(move)))
        writer = STEPControl_Writer()
        writer.Transfer(whole, STEPControl_StepModelType.STEPControl_AsIs)
        writer.Write(str(path))
        return path.read_bytes()


def brought(ask: Any, base: str, name: str, data: bytes) -> str:
    """The key of a part that the application has read."""
    form = {"file": {"name": name, "mimeType": "application/step", "buffer": data}}
    job = ask.post(f"{base}/api/parts", multipart=form).json()
    while job["state"] == "working":
        time.sleep(0.05)
        job = ask.get(f"{base}/api/jobs/{job['id']}").json()
    return str(job["part"])


def previews(ask: Any, url: str, name: str, acts: list[dict[str, Any]]) -> None:
    """Print how long previews of acts on a drawing take."""
    took = []
    for each in acts:
        start = time.perf_counter()
        answer = ask.post(f"{url}/preview", data={"act": each})
        answer.body()
        took.append(1000 * (time.perf_counter() - start))
        assert answer.ok, answer.text()
    middle, most = np.percentile(took[3:], [50, 95])
    print(f"{name:52s} {middle:6.0f} ms, p95 {most:6.0f} ms", flush=True)


def dragged(ask: Any, base: str) -> None:
    """Print how long previews of a detail, a break and a crop take while they are dragged."""
    key = brought(ask, base, "pins.step", many_pins(6, 8))
    made = ask.post(f"{base}/api/drawings", data={"part": key, "size": "A3", "views": ["front", "top", "iso"]}).json()
    url = f"{base}/api/drawings/{made['id']}"
    while any(v["pending"] for v in ask.get(f"{url}/sheets/e1/ink").json()["views"]):
        time.sleep(0.1)
    views = ask.get(f"{url}/sheets/e1/ink").json()
    top = next(v for v in views["views"] if v["name"] == "Top")
    x, y = top["x"] + top["width"] / 2, views["height"] - top["y"] - top["height"] / 2
    ring = {"form": "round", "centre": [x, y], "half": [8.0, 8.0]}
    act = {"act": "enlarge", "view": top["id"], "outline": ring, "to": [300.0, 200.0]}
    state = ask.post(f"{url}/acts", data={"edit": made["edit"], "act": act}).json()
    detail = state["created"][-1]

    steps = np.linspace(-6, 6, 60)
    previews(
        ask,
        url,
        "a detail follows its ring, 340 faces",
        [{"act": "move_outline", "view": detail, "to": [x + s, y + s / 2]} for s in steps],
    )
    previews(
        ask,
        url,
        "a break line is dragged",
        [
            {"act": "break_view", "view": top["id"], "first": [x - 6, y], "second": [x + 8 + s, y], "gap": 2.0}
            for s in steps
        ],
    )
    previews(
        ask,
        url,
        "the outline of a crop is pulled wide",
        [{"act": "crop_view", "view": top["id"], "outline": ring | {"half": [9 + s, 9 + s]}} for s in steps + 1],
    )


def looked_at(browser: Browser, base: str, key: str, faces: int) -> None:
    """Print how long a part takes to open in space, and how many frames a second there are while it is turned."""
    page = browser.new_page(viewport={"width": 832, "height": 620})
    try:
        page.goto(f"{base}/#/")
        page.wait_for_timeout(500)
        start = time.perf_counter()
        page.goto(f"{base}/#/look/{key}")
        page.wait_for_selector(".foot span")
        page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
        opened = time.perf_counter() - start
        box = page.locator("canvas").bounding_box()
        frames = page.evaluate(TURNED)
        assert box
        print(
            f"{faces} faces in space, {box['width']:.0f} × {box['height']:.0f}: open in {opened:.2f} s, "
            f"{frames:.0f} frames a second while turned",
            flush=True,
        )
    finally:
        page.close()


def main() -> None:
    """Print the table."""
    with running() as (base, browser, page):
        dragged(page.request, base)
        key = brought(page.request, base, "many.step", copies(many_pins(10, 10), 28))
        faces = page.request.get(f"{base}/api/parts/{key}").json()["summary"]["faces"]
        looked_at(browser, base, key, faces)


if __name__ == "__main__":
    main()
