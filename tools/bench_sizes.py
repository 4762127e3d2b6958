"""How quick sizes are while a hand is at them: ``make acting`` prints it.

Through the API, each from asking to the last byte: a size that is pulled and one that is moved on a sheet of some 2,000
curves with 150 sizes on it, and 60 sizes put in order.
"""

from __future__ import annotations

import time
from typing import Any

import numpy as np

from .bench_closeups import brought, previews
from .bench_screen import many_pins, running


def stated(ask: Any, base: str, key: str, count: int) -> tuple[str, dict[str, Any], dict[str, Any], list[str]]:
    """A drawing with so many sizes on the view from above; its address, its ink, that view and its straight edges."""
    made = ask.post(f"{base}/api/drawings", data={"part": key, "size": "A1", "views": ["front", "top", "left"]}).json()
    url = f"{base}/api/drawings/{made['id']}"
    while any(v["pending"] for v in ask.get(f"{url}/sheets/e1/ink").json()["views"]):
        time.sleep(0.1)
    ink = ask.get(f"{url}/sheets/e1/ink").json()
    top = next(v for v in ink["views"] if v["name"] == "Top")
    edges = [line[0] for line in top["pointed"]["lines"] if line[1] == "straight" and line[0].startswith("E")]
    sizes = [
        {
            "kind": "dimension",
            "id": f"e{1000 + k}",
            "on": top["id"],
            "measure": "length",
            "anchors": [{"ref": edges[k % len(edges)], "at": "line"}],
            "place": {"side": 1 if k % 2 else -1, "offset": 10.0 + 7.0 * (k % 20)},
        }
        for k in range(count)
    ]
    act = {"act": "operation", "operation": {"op": "annotate", "sheet": "e1", "annotations": sizes}}
    answer = ask.post(f"{url}/acts", data={"edit": made["edit"], "act": act})
    assert answer.ok, answer.text()
    return url, ask.get(f"{url}/sheets/e1/ink").json(), top, edges


def main() -> None:
    """Print the table."""
    with running() as (base, _browser, page):
        ask = page.request
        key = brought(ask, base, "pins.step", many_pins(17, 18))
        url, ink, top, edges = stated(ask, base, key, 150)
        curves = sum(len(e["marks"] or []) for e in ink["elements"] if e["kind"] == "view")
        x, y = top["x"] + top["width"] / 2, ink["height"] - top["y"] - top["height"] / 2
        pick = {"ref": edges[3], "x": x, "y": y, "at": ""}
        steps = np.linspace(5, 60, 60)
        previews(
            ask,
            url,
            f"a size is pulled, {curves} curves, 150 sizes",
            [
                {"act": "pull_dimension", "view": top["id"], "picks": [pick], "pointer": [x + s, y + 2 * s]}
                for s in steps
            ],
        )
        previews(
            ask,
            url,
            "a size is moved",
            [{"act": "move_dimension", "id": "e1004", "pointer": [x + s, y + 2 * s]} for s in steps],
        )
        url, ink, *_ = stated(ask, base, key, 60)
        previews(ask, url, "60 sizes put in order, shown", [{"act": "tidy", "sheet": "e1", "views": []}] * 8)
        start = time.perf_counter()
        edit = ask.get(url).json()["edit"]
        done = ask.post(f"{url}/acts", data={"edit": edit, "act": {"act": "tidy", "sheet": "e1", "views": []}})
        assert done.ok, done.text()
        print(f"{'and done':52s} {1000 * (time.perf_counter() - start):6.0f} ms")


if __name__ == "__main__":
    main()
