"""How long a drawing takes to follow its part, and to go back: ``make bench`` prints it.

A plate of 60 holes, stated by centre marks, positions and diameters on a sheet; one, two, and five such sheets (300 sizes and more).
Its recipe is built anew, longer and with wider holes; the drawing takes that, and undoes it, through the API: from asking to the
last byte, views among it.
"""

from __future__ import annotations

import io
import json
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

from barequill.web.app import create_app


def recipe(columns: int = 12, rows: int = 5) -> bytes:
    """A plate with columns and rows of holes, as a recipe."""
    steps: list[dict[str, Any]] = [
        {
            "name": "plate",
            "do": "extrude",
            "by": 12,
            "profile": {"area": {"corner": [0, 0], "size": ["length", 120], "round": 5}},
        },
        {
            "name": "holes",
            "do": "hole",
            "diameter": "wide",
            "at": [
                [f"length / {columns} * ({k} + 0.5)", 24.0 * j + 12, 12] for k in range(columns) for j in range(rows)
            ],
        },
    ]
    sizes = [{"name": "length", "value": 320}, {"name": "wide", "value": 8}]
    return json.dumps({"recipe": 1, "name": "Plate", "number": "P", "sizes": sizes, "steps": steps}).encode()


def waited(client: Any, job: dict[str, Any]) -> str:
    """The part of a job, once it is there."""
    while job["state"] == "working":
        time.sleep(0.05)
        job = client.get(f"/api/jobs/{job['id']}").get_json()
    assert job["part"], job
    return str(job["part"])


def did(client: Any, state: dict[str, Any], **act: Any) -> dict[str, Any]:
    """The drawing after an act."""
    answer = client.post(f"/api/drawings/{state['id']}/acts", json={"edit": state["edit"], "act": act})
    assert answer.status_code == 200, answer.get_json()
    return dict(answer.get_json())


def ready(client: Any, state: dict[str, Any]) -> dict[str, Any]:
    """The drawing as it stands, once all its views are there."""
    now = client.get(f"/api/drawings/{state['id']}").get_json()
    for sheet in now["document"]["sheets"]:
        while any(
            v["pending"] for v in client.get(f"/api/drawings/{now['id']}/sheets/{sheet['id']}/ink").get_json()["views"]
        ):
            time.sleep(0.05)
    return dict(now)


def drawn(client: Any, key: str, sheets: int) -> dict[str, Any]:
    """A drawing of so many sheets, each with 60 sizes, marks and lines."""
    wish = {"part": key, "size": "A1", "scale": 1.0, "views": ["front", "top"]}
    state = ready(client, client.post("/api/drawings", json=wish).get_json())
    ink = client.get(f"/api/drawings/{state['id']}/sheets/e1/ink").get_json()
    top = next(v for v in ink["views"] if v["name"] == "Top")
    rounds = list(
        dict.fromkeys(line[0] for line in top["pointed"]["lines"] if line[0].startswith("E") and line[1] != "straight")
    )
    sizes = [
        {
            "kind": "dimension",
            "id": f"e{1000 + k}",
            "on": top["id"],
            "measure": "diameter",
            "anchors": [{"ref": ref, "at": "round"}],
            "place": {"angle": 45.0, "offset": 8.0},
        }
        for k, ref in enumerate(rounds[:60])
    ]
    operation = {"op": "annotate", "sheet": "e1", "annotations": sizes}
    state = did(client, state, act="operation", operation=operation)
    for _ in range(sheets - 1):
        state = did(client, state, act="copy_sheet", sheet="e1")
    return ready(client, state)


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as home:
        app = create_app(Path(home))
        client = app.test_client()
        answer = client.post("/api/parts", data={"file": (io.BytesIO(recipe()), "plate.recipe")})
        key = waited(client, answer.get_json())
        made = client.post(f"/api/parts/{key}/sizes", json={"values": {"length": 340, "wide": 9}}).get_json()
        by = waited(client, made)
        print(f"{'sheets':>7}{'annotations':>13}{'taken, s':>10}{'with all views, s':>19}{'undone, s':>11}")
        for sheets in (1, 2, 5):
            state = drawn(client, key, sheets)
            count = sum(len(s["annotations"]) for s in state["document"]["sheets"])
            times: list[tuple[float, float, float]] = []
            for _ in range(3):
                begun = time.perf_counter()
                state = did(client, state, act="take_revision", part=key, by=by)
                taken = time.perf_counter()
                state = ready(client, state)
                shown = time.perf_counter()
                answer = client.post(f"/api/drawings/{state['id']}/undo", json={"edit": state["edit"]})
                undone = time.perf_counter()
                assert answer.status_code == 200, answer.get_json()
                state = ready(client, answer.get_json())
                assert state["document"]["parts"][0]["key"] == key
                times.append((taken - begun, shown - begun, undone - shown))
            a, b, c = (statistics.median(t) for t in zip(*times, strict=True))
            print(f"{sheets:>7}{count:>13}{a:>10.2f}{b:>19.2f}{c:>11.2f}", flush=True)
        app.extensions["services"].close()


if __name__ == "__main__":
    main()
