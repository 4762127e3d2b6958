"""The API: parts come in, drawings change, history lasts, errors are clear."""

from __future__ import annotations

import contextlib
import io
import time
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from flask.testing import FlaskClient

from barequill.core.display.lettering import FONT_FILE
from barequill.web.app import create_app
from tools.common import demo_file
from tools.slow import project_slowly

from .shared import act, bring

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="module")
def client(app) -> FlaskClient:
    return app.test_client()


@pytest.fixture(scope="module")
def part(client) -> str:
    return bring(client, "cover.step", demo_file("round-gear-cover").read_bytes())["part"]


@pytest.fixture
def slow_views(app):
    """Within this, views take half a minute."""

    @contextlib.contextmanager
    def slowly():
        workshop = app.extensions["services"].workshop
        workshop.set_projector(project_slowly)
        try:
            yield
        finally:
            workshop.set_projector(None)

    return slowly


@pytest.fixture
def drawing(client, part) -> dict:
    answer = client.post("/api/drawings", json={"part": part, "size": "A3", "face": "+Y", "views": ["front", "left"]})
    assert answer.status_code == 201
    return answer.get_json()


def test_a_part_comes_in_with_what_was_read(client, part) -> None:
    info = client.get(f"/api/parts/{part}").get_json()
    assert (info["name"], info["number"]) == ("Round gear cover", "WL-204")
    assert info["summary"]["size"] == pytest.approx([124, 26, 124], abs=1e-4)
    changed = client.patch(f"/api/parts/{part}", json={"material": "Cast iron EN-GJL-250"}).get_json()
    assert changed["density"] == 7.2
    assert changed["mass"] == pytest.approx(info["summary"]["volume"] * 7.2e-3)
    assert [p["key"] for p in client.get("/api/parts?search=wl-204 cast").get_json()] == [part]


def test_directions_kept_in_two_windows_do_not_overwrite_each_other(client, part) -> None:
    def named(name: str) -> dict:
        return {"name": name, "toward": [0.0, -1.0, 0.0], "up": [0.0, 0.0, 1.0]}

    url = f"/api/parts/{part}"
    seen = client.get(url).get_json()["directions"]
    first = {"directions": [*seen, named("one")], "directions_seen": seen}
    assert [d["name"] for d in client.patch(url, json=first).get_json()["directions"]] == ["one"]
    second = client.patch(url, json={"directions": [*seen, named("two")], "directions_seen": seen})
    assert second.status_code == 409 and "another window" in second.get_json()["title"]
    assert [d["name"] for d in client.get(url).get_json()["directions"]] == ["one"]
    client.patch(url, json={"directions": seen})


def test_bad_files_leave_nothing_behind_and_the_server_lives(client) -> None:
    count = len(client.get("/api/parts").get_json())
    whole = demo_file("pawl").read_bytes()
    for name, data in (("a.step", b""), ("b.step", b"no part"), ("c.zip", b"PK\x03\x04..."), ("d.step", whole[:9000])):
        answer = bring(client, name, data)
        problem = answer.get("problem") or answer
        assert problem["status"] == 422 and name in problem["title"] and problem["detail"]
    broken = whole.replace(b"MANIFOLD_SOLID_BREP", b"MANIFOLD_SOLID_BREQ").replace(b"ADVANCED_FACE", b"ADVANCED_FICE")
    assert bring(client, "e.step", broken)["state"] == "failed"
    assert len(client.get("/api/parts").get_json()) == count
    assert client.get("/api/health").status_code == 200
    home = client.application.extensions["services"].store.home
    assert not list((home / "cache").glob("read-*"))


def marks_of(ink: dict, *owners: str) -> list[dict]:
    return [m for e in ink["elements"] if not owners or e["id"] in owners for m in e["marks"]]


def texts_of(ink: dict) -> dict[str, str]:
    return {e["id"]: e["words"] for e in ink["elements"] if e["kind"] == "dimension"}


def test_reading_can_be_cancelled_while_others_are_served(client) -> None:
    data = demo_file("small-pedestal-assembly").read_bytes().replace(b"Small pedestal", b"Other pedestal")
    job = client.post("/api/parts", data={"file": (io.BytesIO(data), "slow.step")}).get_json()
    assert client.get("/api/parts").status_code == 200
    ended = client.delete(f"/api/jobs/{job['id']}").get_json()
    assert ended["state"] == "cancelled"
    assert "slow.step" not in [p["file_name"] for p in client.get("/api/parts").get_json()]


def test_a_dimension_is_previewed_placed_changed_and_removed(client, drawing) -> None:
    url = f"/api/drawings/{drawing['id']}"
    ink = client.get(f"{url}/sheets/e1/ink").get_json()
    left = next(v for v in ink["views"] if v["name"] == "Left")
    told = left["pointed"]
    flange = next(ref for ref, shape, w in told["lines"] if told["words"][w] == "outline of cylinder Ø124")
    pick = {"ref": flange, "x": left["x"], "y": ink["height"] - left["y"]}
    pull = {
        "act": "pull_dimension",
        "view": left["id"],
        "picks": [pick],
        "pointer": [left["x"] + left["width"] + 11, ink["height"] - left["y"] - 60],
    }
    shown = client.post(f"{url}/preview", json={"act": pull}).get_json()
    assert shown["words"].startswith("Ø124") and shown["elements"][0]["marks"]
    placed = act(client, drawing, **pull)
    made = placed["created"][0]
    change = {"op": "change_annotation", "id": made, "changes": {"tolerance": {"kind": "symmetric", "upper": 0.2}}}
    changed = act(client, placed, act="operation", operation=change)
    assert texts_of(client.get(f"{url}/sheets/e1/ink").get_json()) == {made: "Ø124 ±0.2"}
    gone = act(client, changed, act="operation", operation={"op": "remove", "ids": [made]})
    assert texts_of(client.get(f"{url}/sheets/e1/ink").get_json()) == {}
    assert gone["undo"] == "Remove a dimension"


def test_a_section_comes_with_its_centre_lines_in_one_act(client, drawing) -> None:
    front = next(v for v in drawing["document"]["sheets"][0]["views"] if v["look"] == "front")
    x, y = front["place"]
    points = [{"x": x, "y": y, "ref": "", "at": "box"}]
    made = act(client, drawing, act="cut_view", view=front["id"], points=points, to=[x + 130, y])
    sheet = made["document"]["sheets"][0]
    own = [a for a in sheet["annotations"] if a["on"] == sheet["views"][-1]["id"]]
    assert made["created"] == [sheet["views"][-1]["id"]] and {a["kind"] for a in own} == {"centre_line"}
    url = f"/api/drawings/{drawing['id']}"
    gone = client.post(f"{url}/undo", json={"edit": made["edit"]}).get_json()
    assert gone["document"]["sheets"][0] == drawing["document"]["sheets"][0]


def test_a_stale_writer_is_told_what_changed_and_nothing_is_lost(client, drawing) -> None:
    fill = {"act": "operation", "operation": {"op": "set_field", "field": "title", "value": "Mine"}}
    act(client, drawing, **fill)
    answer = client.post(f"/api/drawings/{drawing['id']}/acts", json={"edit": drawing["edit"], "act": fill})
    assert answer.status_code == 409 and answer.content_type == "application/problem+json"
    assert "Title: Mine" in answer.get_json()["detail"]
    assert client.get(f"/api/drawings/{drawing['id']}").get_json()["document"]["fields"]["title"] == "Mine"


@pytest.mark.parametrize(
    ("what", "status"),
    [
        ({"act": "operation", "operation": {"op": "move_view", "view": "e9", "to": [1, 2]}}, 422),
        ({"act": "operation", "operation": {"op": "dance"}}, 422),
        ({"act": "pull_view", "view": "e2", "side": "sideways", "to": [1, 2]}, 400),
        ({"act": "change_sheet", "sheet": "e1", "scale": -1}, 422),
        ({"act": "centres", "sheet": "e1"}, 422),
    ],
)
def test_acts_that_make_no_sense_are_refused_with_a_reason(client, drawing, what, status) -> None:
    answer = client.post(f"/api/drawings/{drawing['id']}/acts", json={"edit": drawing["edit"], "act": what})
    assert answer.status_code == status and answer.get_json()["title"]
    assert client.get(f"/api/drawings/{drawing['id']}").get_json()["edit"] == drawing["edit"]


def test_undo_and_redo_last_over_a_restart(tmp_path: Path) -> None:
    first = create_app(tmp_path)
    try:
        client = first.test_client()
        part = bring(client, "pawl.step", demo_file("pawl").read_bytes())["part"]
        state = client.post("/api/drawings", json={"part": part, "views": ["front"]}).get_json()
        for k in range(3):
            state = act(
                client, state, act="operation", operation={"op": "set_field", "field": "title", "value": f"Title {k}"}
            )
    finally:
        first.extensions["services"].close()
    second = create_app(tmp_path)
    try:
        client = second.test_client()
        for expected in ("Title 1", "Title 0", None):
            state = client.post(f"/api/drawings/{state['id']}/undo", json={"edit": state["edit"]}).get_json()
            assert state["document"]["fields"].get("title") == expected
        assert client.post(f"/api/drawings/{state['id']}/undo", json={"edit": state["edit"]}).status_code == 422
        state = client.post(f"/api/drawings/{state['id']}/redo", json={"edit": state["edit"]}).get_json()
        assert state["document"]["fields"]["title"] == "Title 0" and state["redo"] == "Title: Title 1"
        assert len(marks_of(client.get(f"/api/drawings/{state['id']}/sheets/e1/ink").get_json())) > 50
    finally:
        second.extensions["services"].close()


def test_a_part_in_use_stays_on_the_shelf(client, part, drawing) -> None:
    answer = client.delete(f"/api/parts/{part}")
    assert answer.status_code == 400 and "in use" in answer.get_json()["title"]


def test_a_new_drawing_can_be_had_empty_and_filled_later(client, part) -> None:
    state = client.post("/api/drawings", json={"part": part, "size": "A2", "views": []}).get_json()
    assert not state["document"]["sheets"][0]["views"]
    state = act(client, state, act="place_set", sheet="e1", views=["front", "left", "iso"], face="+Y")
    looks = [(v["kind"], v.get("look")) for v in state["document"]["sheets"][0]["views"]]
    assert looks == [("principal", "front"), ("projected", "left"), ("pictorial", None)]
    state = act(client, state, act="change_sheet", sheet="e1", size="A4", landscape=False)
    sheet = state["document"]["sheets"][0]
    assert sheet["size"] == "A4" and sheet["scale"] < 1


def test_a_slow_view_is_waited_for_beside_the_sheet_stopped_and_begun_again(client, app, part, slow_views) -> None:
    made = client.post("/api/drawings", json={"part": part, "size": "A3", "face": "+Y", "views": ["front"]}).get_json()
    other = "e90"
    back = {"kind": "principal", "id": other, "part": part, "toward": [0, -1, 0], "up": [0, 0, 1], "place": [330, 200]}
    state = act(client, made, act="operation", operation={"op": "add_views", "sheet": "e1", "views": [back]})
    sheet = f"/api/drawings/{state['id']}/sheets/e1"
    assert not any(v["pending"] for v in client.get(f"{sheet}/ink").get_json()["views"])
    with slow_views():
        # an own direction, which nothing has projected before
        change = {"op": "set_view", "view": "e2", "changes": {"toward": [0.31, 0.9, 0.2], "up": [0, 0, 1]}}
        state = act(client, state, act="operation", operation=change)
        begun = time.monotonic()
        ink = client.get(f"{sheet}/ink").get_json()
        assert time.monotonic() - begun < 3
        assert {v["id"]: v["pending"] for v in ink["views"]} == {"e2": True, other: False}
        assert marks_of(ink, other), "the rest of the sheet is there"
        assert [p["view"] for p in client.get(f"{sheet}/progress").get_json()] == ["e2"]
        assert client.post(f"{sheet}/views/e2/projection", json={"act": "stop"}).status_code == 200
        (stopped,) = client.get(f"{sheet}/progress").get_json()
        assert stopped["stopped"] and "by hand" in stopped["what"]
        assert client.get(f"{sheet}/ink").get_json()["views"][0]["pending"]
    assert client.post(f"{sheet}/views/e2/projection", json={"act": "again"}).status_code == 200
    for _ in range(200):
        if not client.get(f"{sheet}/progress").get_json():
            break
        time.sleep(0.1)
    ink = client.get(f"{sheet}/ink").get_json()
    assert not any(v["pending"] for v in ink["views"])
    assert any(m["m"] == "s" for m in marks_of(ink, "e2"))
    assert client.post(f"{sheet}/views/e99/projection", json={"act": "stop"}).status_code == 404


def test_tones_stand_under_the_lines_of_a_view_in_every_format_that_holds_pictures(client, drawing) -> None:
    change = {"op": "set_view", "view": "e2", "changes": {"shaded": True}}
    state = act(client, drawing, act="operation", operation=change)
    marks = marks_of(client.get(f"/api/drawings/{state['id']}/sheets/e1/ink").get_json(), "e2")
    (tint,) = [k for k, m in enumerate(marks) if m["m"] == "i"]
    assert tint < min(k for k, m in enumerate(marks) if m["m"] == "s")
    issue = f"/api/drawings/{state['id']}/issue"
    svg = client.get(f"{issue}/svg").get_data(as_text=True)
    assert svg.count("<image ") == 1
    pdf = pypdfium2.PdfDocument(client.get(f"{issue}/pdf").get_data())
    placed_views = [o for o in pdf[0].get_objects() if o.type == pypdfium2.raw.FPDF_PAGEOBJ_IMAGE]
    assert len(placed_views) == 1
    left, bottom, right, top = placed_views[0].get_bounds()
    # the cover is 124 mm across
    scale = marks[tint]["w"] / 124
    assert (right - left) / 72 * 25.4 == pytest.approx(124 * scale, rel=0.01)
    assert top > bottom
    assert client.get(f"{issue}/dxf").status_code == 200


def test_a_part_of_an_unusual_size_asks_for_its_unit_and_can_be_read_as_another(client, tmp_path) -> None:
    from barequill.core.reading import shapes
    from tools.made_parts import write_shape

    file = write_shape(tmp_path / "tiny.step", shapes.box((0, 0, 0), (0.3, 0.2, 0.1)))
    key = bring(client, "tiny.step", file.read_bytes())["part"]
    assert client.get(f"/api/parts/{key}").get_json()["doubtful_unit"]
    job = client.post(f"/api/parts/{key}/readings", json={"unit": "inch"}).get_json()
    while job["state"] == "working":
        time.sleep(0.05)
        job = client.get(f"/api/jobs/{job['id']}").get_json()
    again = client.get(f"/api/parts/{job['part']}").get_json()
    assert job["part"] != key and not again["doubtful_unit"]
    assert again["summary"]["size"] == pytest.approx([7.62, 5.08, 2.54])
    # from its file alone, as after a lost cache
    workshop = client.application.extensions["services"].workshop
    for kept in (workshop.cache / "parts").glob(f"{job['part']}-*"):
        kept.unlink()
    workshop._parts = type(workshop._parts)(1)
    assert workshop.part(job["part"]).size == pytest.approx(np.linalg.norm([7.62, 5.08, 2.54]))


def test_a_file_over_the_size_limit_is_refused_before_it_is_read(tmp_path) -> None:
    small = create_app(tmp_path)
    try:
        small.config["MAX_CONTENT_LENGTH"] = 1000
        answer = small.test_client().post("/api/parts", data={"file": (io.BytesIO(bytes(5000)), "big.step")})
        assert answer.status_code == 413 and answer.get_json()["detail"]
    finally:
        small.extensions["services"].close()


def test_the_application_ships_its_own_lettering_and_asks_no_other_host(client) -> None:
    page = client.get("/").get_data(as_text=True)
    assert "http://" not in page.replace("http://www.w3.org", "") and "https://" not in page
    static = ROOT / "src/barequill/web/static"
    sheets = [p.read_text() for p in static.rglob("*.css")]
    assert any("osifont" in s for s in sheets) and not any("url(http" in s for s in sheets)
    assert FONT_FILE.exists()


def test_drawings_are_found_by_what_their_sheets_show_filed_and_issued_together(client, part, drawing) -> None:
    own = f"/api/drawings/{drawing['id']}"

    def found(words: str) -> bool:
        return drawing["id"] in [d["id"] for d in client.get(f"/api/drawings?search={words}").get_json()]

    # the flange is Ø124: no field says so, a size on the sheet does
    state = client.get(own).get_json()
    view = next(v["id"] for v in state["document"]["sheets"][0]["views"] if v["look"] == "left")
    state = act(client, state, act="overall_sizes", views=[view], axes=["y"])
    client.get(f"{own}/thumbnail?edit={state['edit']}")
    assert found("124") and found("iso 2768-m") and not found("blowholes")
    assert client.put(f"{own}/tags", json={"tags": [" spares", "Lock 7", "spares", ""]}).status_code == 200
    assert next(d["tags"] for d in client.get("/api/drawings").get_json() if d["id"] == drawing["id"]) == [
        "Lock 7",
        "spares",
    ]
    assert found("lock 7 124")
    assert client.put("/api/drawings/9999/tags", json={"tags": []}).status_code == 404
    assert client.get(own).get_json()["edit"] == state["edit"], "what a drawing is filed under is none of its steps"
    second = client.post("/api/drawings", json={"part": part, "views": ["front"], "size": "A4"}).get_json()["id"]
    answer = client.get(f"/api/drawings/issue/pdf?drawings={second},{drawing['id']}")
    pages = pypdfium2.PdfDocument(answer.data)
    assert [round(p.get_size()[0] * 25.4 / 72) for p in pages] == [297, 420]
    for wrong in ("", "1;2", f"{drawing['id']},9999"):
        assert client.get(f"/api/drawings/issue/pdf?drawings={wrong}").status_code in (400, 404, 422)


def test_a_step_is_called_by_what_a_size_says_before_and_after(client, drawing) -> None:
    view = next(v["id"] for v in drawing["document"]["sheets"][0]["views"] if v["look"] == "left")
    state = act(client, drawing, act="overall_sizes", views=[view], axes=["y"])
    (size,) = [a for a in state["document"]["sheets"][0]["annotations"] if a["kind"] == "dimension"]
    state = act(client, state, act="state_tolerance", ids=[size["id"]], text="±0.2")
    assert state["undo"] == "124 → 124 ±0.2 on the left view"
    state = act(
        client,
        state,
        act="operation",
        operation={"op": "change_annotation", "id": size["id"], "changes": {"place": {"offset": 18}}},
    )
    assert "→" not in state["undo"], "it says the same in another place"


def test_the_material_given_on_the_shelf_reaches_drawings_that_were_not_told_another(client, part) -> None:
    made = [client.post("/api/drawings", json={"part": part, "views": ["front"]}).get_json() for _ in range(2)]
    told = act(
        client, made[1], act="state_material", sheet=made[1]["document"]["sheets"][0]["id"], text="Own alloy, 8.1"
    )
    before = client.get(f"/api/parts/{part}").get_json()["material"]
    try:
        client.patch(f"/api/parts/{part}", json={"material": "Own bronze", "density": 8.7})
        first, second = (client.get(f"/api/drawings/{d['id']}").get_json() for d in made)
        assert [(p["material"], p["density"]) for p in first["document"]["parts"]] == [("Own bronze", 8.7)]
        assert first["undo"] == "Material as on the shelf: Own bronze"
        assert second["edit"] == told["edit"] and second["document"]["parts"][0]["material"] == "Own alloy"
        back = client.post(f"/api/drawings/{first['id']}/undo", json={"edit": first["edit"]}).get_json()
        assert back["document"]["parts"][0]["material"] != "Own bronze"
    finally:
        client.patch(f"/api/parts/{part}", json={"material": before})
