"""The API from outside: its own description, each resource, and how it answers to what it did not ask for."""

from __future__ import annotations

import io
import json
import random
import re
from pathlib import Path

import ezdxf
import numpy as np
import pypdfium2
import pytest
from flask.testing import FlaskClient
from PIL import Image

from barequill.core.drawing import Drawing
from barequill.core.views.directions import cameras
from barequill.web.schemas import SheetInk
from tools.common import demo_file

from .shared import act, bring

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="module")
def client(app) -> FlaskClient:
    return app.test_client()


@pytest.fixture(scope="module")
def pedestal(client) -> str:
    return bring(client, "pedestal.step", demo_file("spindle-pedestal").read_bytes())["part"]


@pytest.fixture
def drawing(client, pedestal) -> dict:
    wish = {"part": pedestal, "size": "A3", "views": ["front", "top", "left", "iso"]}
    return client.post("/api/drawings", json=wish).get_json()


def ink_of(client, state: dict) -> dict:
    return client.get(f"/api/drawings/{state['id']}/sheets/e1/ink").get_json()


def views_of(state: dict) -> dict[str, dict]:
    return {v.get("look", "corner"): v for v in state["document"]["sheets"][0]["views"]}


def overlap(a: dict, b: dict) -> bool:
    return (
        a["x"] < b["x"] + b["width"]
        and b["x"] < a["x"] + a["width"]
        and a["y"] < b["y"] + b["height"]
        and b["y"] < a["y"] + a["height"]
    )


# ---- its own description


def test_the_types_of_the_front_end_are_those_of_the_server(client) -> None:
    served = client.get("/api/openapi.json").get_json()
    kept = json.loads((ROOT / "frontend/src/api/openapi.json").read_text())
    assert served == kept, "run make types"
    types = (ROOT / "frontend/src/api/schema.ts").read_text()
    for name in served["components"]["schemas"]:
        assert re.search(rf"\b{re.escape(name)}\b", types), f"{name} is not in schema.ts: run make types"


def test_every_route_is_described_and_nothing_else(client) -> None:
    described = {
        (method.upper(), re.sub(r"\{[^}]+\}", "*", path))
        for path, methods in client.get("/api/openapi.json").get_json()["paths"].items()
        for method in methods
    }
    there = {
        (method, re.sub(r"<[^>]+>", "*", rule.rule))
        for rule in client.application.url_map.iter_rules()
        if rule.rule.startswith("/api/")
        for method in rule.methods - {"HEAD", "OPTIONS"}
    }
    assert there - described <= {("GET", "/api/openapi.json"), ("GET", "/api/health")}
    assert described <= there


@pytest.mark.parametrize("path", ["/api/nothing", "/api/drawings/9999", "/api/parts/nope", "/api/jobs/nope"])
def test_what_is_not_there_is_told_as_a_problem(client, path) -> None:
    answer = client.get(path)
    assert answer.status_code == 404 and answer.content_type == "application/problem+json"
    problem = answer.get_json()
    assert problem["title"] and problem["status"] == 404


@pytest.mark.parametrize(
    "body",
    [b"", b"{", b"[]", b'"x"', b'{"edit": "one", "act": {}}', b'{"act": {"act": "centres", "sheet": "e1"}}'],
)
def test_a_body_that_is_not_asked_for_is_refused_with_what_is_wrong_in_it(client, drawing, body) -> None:
    answer = client.post(f"/api/drawings/{drawing['id']}/acts", data=body, content_type="application/json")
    assert answer.status_code in (400, 415, 422) and answer.get_json()["detail"]


def test_a_hundred_acts_made_of_noise_break_nothing(client, drawing) -> None:
    dice = random.Random(7)
    junk = [None, -1, 1e308, "", "v1", "d1", [], {}, [1, 2], "½", "x" * 3000, True]
    names = ["operation", "pull_view", "place_set", "centres", "change_sheet", "spread", "pull_dimension", "x"]
    keys = ["view", "sheet", "side", "to", "picks", "pointer", "size", "scale", "operation", "views", "wish"]
    for _ in range(100):
        what = {"act": dice.choice(names), **{dice.choice(keys): dice.choice(junk) for _ in range(3)}}
        answer = client.post(f"/api/drawings/{drawing['id']}/acts", json={"edit": drawing["edit"], "act": what})
        assert 400 <= answer.status_code < 500, (what, answer.status_code)
        assert answer.get_json()["title"]
    assert client.get(f"/api/drawings/{drawing['id']}").get_json()["edit"] == drawing["edit"]


# ---- parts


@pytest.mark.parametrize("data", [{}, {"file": (io.BytesIO(b"x"), "")}])
def test_bringing_nothing_is_refused(client, data) -> None:
    answer = client.post("/api/parts", data=data)
    assert answer.status_code in (400, 415, 422) and answer.get_json()["title"]


def test_names_of_files_do_no_harm(client) -> None:
    for name in ("../../etc/passwd.step", "a\x00b.step", "<script>.step", "Ü ½.STEP", "x" * 400 + ".step"):
        answer = bring(client, name, b"no part")
        assert (answer.get("problem") or answer)["status"] == 422
    home = client.application.extensions["services"].store.home
    assert not [p for p in home.parent.rglob("*passwd*")]


def test_a_part_s_figures_can_be_set_and_nonsense_is_refused(client, pedestal) -> None:
    url = f"/api/parts/{pedestal}"
    found = client.patch(url, json={"density": 7.1, "name": "Pedestal", "number": "X-1"}).get_json()
    assert (found["name"], found["number"], found["density"]) == ("Pedestal", "X-1", 7.1)
    for bad in ({"density": -1}, {"density": "heavy"}, {"name": "x" * 201}, {"colour": "red"}):
        assert client.patch(url, json=bad).status_code == 422
    assert client.patch(url, json={"material": "Oak"}).get_json()["density"] == 0.7
    client.patch(url, json={"name": "Spindle pedestal", "number": "WL-201"})
    assert {m["name"]: m["density"] for m in client.get("/api/materials").get_json()}["Steel C45"] == 7.85


def test_the_six_faces_are_small_true_pictures(client, pedestal) -> None:
    faces = {f["face"]: f for f in client.get(f"/api/parts/{pedestal}/faces").get_json()}
    assert set(faces) == {"-Y", "+Y", "+Z", "-Z", "-X", "+X"}
    size = {f: (round(p["width"], 3), round(p["height"], 3)) for f, p in faces.items()}
    assert size["-Y"] == size["+Y"] == (140, 114) and size["-X"] == (80, 114) and size["+Z"] == (140, 80)
    assert faces["-Y"]["visible"].count("A") >= 2, "the bore is a real circle"
    assert faces["-Y"]["hidden"], "the holes of the foot"


# ---- drawings


def test_the_proposed_sheet_holds_all_views_clear_of_each_other_and_of_the_title_block(client, pedestal) -> None:
    for wish in (
        {},
        {"size": "A2"},
        {"size": "A4", "landscape": False, "views": ["front", "left"]},
        {"standard": "ASME"},
    ):
        proposal = client.post("/api/proposals", json={"part": pedestal, **wish}).get_json()
        ink = proposal["ink"]
        for k, v in enumerate(ink["views"]):
            assert v["x"] > 20 and v["x"] + v["width"] < ink["width"] - 10
            assert v["y"] > 10 and v["y"] + v["height"] < ink["height"] - 10
            assert not any(overlap(v, other) for other in ink["views"][:k])
            assert not any(overlap(v, f) for f in ink["fields"])
    assert not client.get("/api/drawings?search=nothing").get_json()


@pytest.mark.parametrize(
    ("wish", "status"),
    [
        ({"size": "A9"}, 422),
        ({"scale": 50, "size": "A4"}, 400),
        ({"views": ["aslant"]}, 422),
        ({"face": "up"}, 422),
        ({"quarter_turns": 5}, 422),
    ],
)
def test_a_drawing_that_cannot_be_is_refused_with_the_reason(client, pedestal, wish, status) -> None:
    answer = client.post("/api/drawings", json={"part": pedestal, **wish})
    assert answer.status_code == status and answer.get_json()["detail"]
    assert client.post("/api/drawings", json={"part": "unknown"}).status_code == 404


@pytest.mark.parametrize(("turns", "size"), [(0, (140, 114)), (1, (114, 140)), (2, (140, 114))])
def test_the_front_can_be_turned_by_quarters(client, pedestal, turns, size) -> None:
    wish = {"part": pedestal, "size": "A3", "scale": 0.5, "views": ["front"], "quarter_turns": turns}
    (front,) = client.post("/api/proposals", json=wish).get_json()["ink"]["views"]
    assert (front["width"] * 2, front["height"] * 2) == pytest.approx(size, abs=1e-3)


def test_an_empty_drawing_takes_its_views_later_in_one_act(client, pedestal) -> None:
    state = client.post("/api/drawings", json={"part": pedestal, "views": []}).get_json()
    assert not views_of(state)
    placed = act(client, state, act="place_set", sheet="e1", views=["front", "right", "iso"])
    assert set(views_of(placed)) == {"front", "right", "corner"}
    undone = client.post(f"/api/drawings/{state['id']}/undo", json={"edit": placed["edit"]}).get_json()
    assert not views_of(undone), "one act, one undo"


@pytest.mark.parametrize(
    ("side", "look", "toward"),
    [
        ("left", "right", [1, 0, 0]),
        ("right", "left", [-1, 0, 0]),
        ("above", "bottom", [0, 0, -1]),
        ("below", "top", [0, 0, 1]),
    ],
)
def test_pulling_to_a_side_gives_the_view_of_first_angle_in_line_with_its_parent(
    client, pedestal, side, look, toward
) -> None:
    wish = {"part": pedestal, "size": "A2", "scale": 0.5, "views": ["front"]}
    state = client.post("/api/drawings", json=wish).get_json()
    x, y = views_of(state)["front"]["place"]
    to = {"left": (x - 120, y + 9), "right": (x + 120, y - 9), "above": (x + 9, y + 110), "below": (x - 9, y - 110)}[
        side
    ]
    shown = client.post(
        f"/api/drawings/{state['id']}/preview", json={"act": {"act": "pull_view", "view": "e2", "side": side, "to": to}}
    ).get_json()
    assert shown["elements"][0]["marks"] and shown["place"]
    state = act(client, state, act="pull_view", view="e2", side=side, to=to)
    view = views_of(state)[look]
    assert cameras(Drawing.load(state["document"]))[view["id"]][0] == tuple(toward)
    held = 1 if side in ("left", "right") else 0
    assert view["place"][held] == pytest.approx((x, y)[held]) and shown["place"] == pytest.approx(view["place"])


@pytest.mark.parametrize("corner", ["above-left", "above-right", "below-left", "below-right"])
def test_pulling_out_of_a_corner_gives_a_pictorial_view_from_there(client, pedestal, corner) -> None:
    state = client.post("/api/drawings", json={"part": pedestal, "size": "A3", "views": ["front"]}).get_json()
    state = act(client, state, act="pull_view", view="e2", side=corner, to=[300, 200])
    view = views_of(state)["corner"]
    toward = cameras(Drawing.load(state["document"]))[view["id"]][0]
    across, along = (1 if w in corner else -1 for w in ("right", "above"))
    assert toward == (across, -1, along) and not view["hidden_lines"]


def test_a_change_of_sheet_rearranges_the_views_and_one_undo_brings_them_back(client, drawing) -> None:
    before = {look: v["place"] for look, v in views_of(drawing).items()}
    changed = act(client, drawing, act="change_sheet", sheet="e1", size="A4", landscape=False)
    ink = ink_of(client, changed)
    assert (ink["width"], ink["height"]) == (210, 297)
    for v in ink["views"]:
        assert v["x"] > 20 and v["x"] + v["width"] < 200 and not any(overlap(v, f) for f in ink["fields"])
    back = client.post(f"/api/drawings/{drawing['id']}/undo", json={"edit": changed["edit"]}).get_json()
    assert {look: v["place"] for look, v in views_of(back).items()} == before


def test_a_moved_or_rescaled_view_is_never_projected_anew(app, client, drawing) -> None:
    ink_of(client, drawing)
    workshop = app.extensions["services"].workshop
    before = {p: p.stat().st_mtime_ns for p in (workshop.home / "cache" / "views").rglob("*") if p.is_file()}
    assert before, "views are kept"
    state = act(client, drawing, act="operation", operation={"op": "move_view", "view": "e2", "to": [120, 180]})
    changes = {"op": "set_view", "view": "e2", "changes": {"scale": 0.2}}
    state = act(client, state, act="operation", operation=changes)
    act(client, state, act="change_sheet", sheet="e1", angle="third")
    ink_of(client, drawing)
    after = {p: p.stat().st_mtime_ns for p in (workshop.home / "cache" / "views").rglob("*") if p.is_file()}
    assert after == before


def test_marks_of_the_ink_tell_whose_they_are_and_what_they_show(client, drawing) -> None:
    ink = ink_of(client, drawing)
    SheetInk.model_validate(ink)
    ids = {v["id"] for v in ink["views"]}
    strokes = [m for e in ink["elements"] if e["kind"] == "view" for m in e["marks"] if m["m"] == "s"]
    assert strokes and all(re.fullmatch(r"[EF][0-9a-f]{9}(-\d+)?", m["src"]) for m in strokes)
    for view in ink["views"]:
        told = view["pointed"]
        assert all(0 <= line < len(told["lines"]) for line, *_ in told["snaps"]) and told["lines"]
        assert any("Ø40" in told["words"][w] for *_, w in told["lines"]) or view["name"] == "Isometric"
    assert {e["group"] for e in ink["elements"]} == ids | {"sheet"}


def test_ink_that_the_screen_has_is_not_sent_again(client, drawing) -> None:
    first = ink_of(client, drawing)
    url = f"/api/drawings/{drawing['id']}/sheets/e1/ink?since="
    again = client.get(url + first["token"]).get_json()
    assert again["elements"] == [] and again["order"] == [e["id"] for e in first["elements"]]
    x, y = views_of(drawing)["front"]["place"]
    move = {"op": "move_view", "view": "e2", "to": [x + 3, y + 2]}
    act(client, drawing, act="operation", operation=move)
    moved = client.get(url + first["token"]).get_json()
    assert not any("marks" in e and e["marks"] is not None for e in moved["elements"]), "moved, not drawn anew"
    before, after = ({e["id"]: (e["x"], e["y"]) for e in ink["elements"]} for ink in (first, moved))
    assert after["e2"] == pytest.approx((before["e2"][0] + 3, before["e2"][1] - 2))
    # what stood at the place of its view went along with it: the screen then has all where a new one would
    there = dict(before)
    for e in first["elements"]:
        stood = before.get(e["group"]) == before[e["id"]] and e["group"] in after
        there[e["id"]] = after.get(e["id"], after[e["group"]] if stood else before[e["id"]])
    assert there == {e["id"]: (e["x"], e["y"]) for e in ink_of(client, drawing)["elements"]}
    assert "sheet" not in after and len(after) < len(before) / 2
    fill = {"op": "set_field", "field": "title", "value": "Anew"}
    act(client, client.get(f"/api/drawings/{drawing['id']}").get_json(), act="operation", operation=fill)
    filled = client.get(url + first["token"]).get_json()
    assert [e["id"] for e in filled["elements"] if e.get("marks") is not None] == ["sheet"]
    unknown = client.get(url + "0" * 24).get_json()
    assert all(e["marks"] for e in unknown["elements"]), "what was sent is forgotten: all is sent"


def test_words_of_what_is_pointed_at_are_in_the_drawing_s_unit(client, drawing) -> None:
    inch = act(client, drawing, act="change_sheet", sheet="e1", unit="inch", standard="ASME")
    words = " ".join(w for v in ink_of(client, inch)["views"] for w in v["pointed"]["words"])
    assert "Ø1.575" in words and "Ø40" not in words


def test_history_tells_all_steps_and_where_the_drawing_stands(client, drawing) -> None:
    fill = {"op": "set_field", "field": "title", "value": "One"}
    state = act(client, drawing, act="operation", operation=fill)
    state = act(client, state, act="spread", sheet="e1")
    client.post(f"/api/drawings/{state['id']}/undo", json={"edit": state["edit"]})
    steps = client.get(f"/api/drawings/{state['id']}/history").get_json()
    assert [(s["label"], s["done"]) for s in steps[:2]] == [("New drawing", True), ("Title: One", True)]
    assert steps[2]["done"] is False


def test_an_act_is_answered_with_the_sheet_as_it_is_when_asked_for(client, drawing) -> None:
    sheet = drawing["document"]["sheets"][0]
    url = f"/api/drawings/{drawing['id']}/sheets/{sheet['id']}/ink"
    had = client.get(url).get_json()
    x, y = sheet["views"][0]["place"]
    move = {"op": "move_view", "view": sheet["views"][0]["id"], "to": [x + 3, y]}
    wish = {"edit": drawing["edit"], "act": {"act": "operation", "operation": move}}
    shown = {"sheet": sheet["id"], "since": had["token"]}
    answer = client.post(f"/api/drawings/{drawing['id']}/acts", json=wish | {"shown": shown}).get_json()
    assert answer["ink"]["token"] != had["token"]
    assert answer["ink"] == client.get(f"{url}?since={had['token']}").get_json()
    undone = client.post(f"/api/drawings/{drawing['id']}/undo", json={"edit": answer["edit"]}).get_json()
    assert "ink" not in undone, "where no sheet is named, none is drawn"


def test_a_removed_drawing_is_gone_and_frees_its_part(client) -> None:
    # a file of its own: other tests may have drawn the pawl, and leave that
    key = bring(client, "pawl.step", demo_file("pawl").read_bytes() + b"\n")["part"]
    state = client.post("/api/drawings", json={"part": key, "views": ["front"]}).get_json()
    refused = client.delete(f"/api/parts/{key}")
    assert refused.status_code == 400 and "in use" in refused.get_json()["title"]
    assert client.delete(f"/api/drawings/{state['id']}").status_code == 200
    assert client.get(f"/api/drawings/{state['id']}").status_code == 404
    (lying,) = [d for d in client.get("/api/drawings?removed=1").get_json() if d["id"] == state["id"]]
    assert (
        lying["removed"]
        and client.post(f"/api/drawings/{state['id']}/put-back", json={}).get_json()["id"] == state["id"]
    )
    copy = client.post(f"/api/drawings/{state['id']}/copy", json={}).get_json()
    assert (
        copy["id"] != state["id"] and copy["document"]["fields"]["number"].endswith("(copy)") and copy["undo"] is None
    )
    for own in (state["id"], copy["id"]):
        assert client.delete(f"/api/drawings/{own}?for_good=1").status_code == 404, "only out of the basket"
        client.delete(f"/api/drawings/{own}")
        assert client.delete(f"/api/drawings/{own}?for_good=1").status_code == 200
    gone = client.delete(f"/api/parts/{key}")
    assert gone.status_code == 200, gone.get_json()
    assert client.get(f"/api/parts/{key}").status_code == 404


def test_a_drawing_is_copied_for_another_part_without_what_hung_on_its_own(client) -> None:
    keys = {stem: bring(client, f"{stem}.step", demo_file(stem).read_bytes())["part"] for stem in ("catch-box", "pawl")}
    fields = {"owner": "Withy Lock Trust", "title": "Box", "number": "WL-9"}
    wish = {"part": keys["catch-box"], "views": ["front", "top", "iso"], "size": "A3", "fields": fields}
    state = client.post("/api/drawings", json=wish).get_json()
    front = next(v["id"] for v in state["document"]["sheets"][0]["views"] if v.get("look") == "front")
    for one in (
        {"act": "overall_sizes", "views": [front], "axes": ["x", "y"]},
        {"act": "state_note", "sheet": "e1", "pointer": [150, 150], "text": "Withy Lock works\nall round"},
        {"act": "operation", "operation": {"op": "set_sheet", "sheet": "e1", "wide": 0.35}},
    ):
        url = f"/api/drawings/{state['id']}/acts"
        state = client.post(url, json={"edit": state["edit"], "act": one}).get_json()
    made = client.post(f"/api/drawings/{state['id']}/copy", json={"part": keys["pawl"]}).get_json()
    document, sheet = made["document"], made["document"]["sheets"][0]
    assert made["id"] != state["id"] and document["wide"] == 0.35
    assert [(v["kind"], v["part"]) for v in sheet["views"]] == [
        (kind, keys["pawl"]) for kind in ("principal", "projected", "pictorial")
    ]
    assert {a["kind"] for a in sheet["annotations"]} <= {"text_note", "centre_mark", "centre_line"}
    assert [a["text"] for a in sheet["annotations"] if a["kind"] == "text_note"] == ["Withy Lock works\nall round"]
    assert document["fields"].get("owner") == "Withy Lock Trust" and "title" not in document["fields"]
    ink = client.get(f"/api/drawings/{made['id']}/sheets/e1/ink").get_json()
    zones = {z["field"]: z["value"] for z in ink["fields"]}
    assert zones["title"] == "Pawl" and zones["number"] != "WL-9"
    assert not [r for r in ink["remarks"] if "lies" in r["words"]]
    assert client.post(f"/api/drawings/{state['id']}/copy", json={"part": "0" * 24}).status_code == 404


def test_a_new_drawing_begins_as_the_last_one_did(client) -> None:
    key = bring(client, "pawl.step", demo_file("pawl").read_bytes())["part"]
    fields = {"owner": "Withy Lock Trust", "creator": "R. Oake", "number": "WL-77", "title": "Nose"}
    wish = {"part": key, "views": ["front"], "standard": "ASME", "size": "B", "unit": "inch", "fields": fields}
    state = client.post("/api/drawings", json=wish).get_json()
    style = {"name": "ours", "arrow": "stroke"}
    for one in (
        {"op": "set_sheet", "sheet": "e1", "wide": 0.35, "font": "sloped"},
        {"op": "set_styles", "styles": [style], "style": "ours"},
    ):
        answer = client.post(
            f"/api/drawings/{state['id']}/acts",
            json={"edit": state["edit"], "act": {"act": "operation", "operation": one}},
        )
        state = answer.get_json()
        assert answer.status_code == 200, state
    last = client.get("/api/ways").get_json()
    assert last["drawing"] == state["id"] and last["called"] == "WL-77"
    assert last["ways"]["fields"] == {"owner": "Withy Lock Trust", "creator": "R. Oake"}
    told = {"part": key, "views": ["front"], "ways": last["ways"], "fields": {"creator": "M. Sallow"}}
    made = client.post("/api/drawings", json=told).get_json()["document"]
    assert (made["standard"], made["angle"], made["wide"], made["font"], made["style"]) == (
        "ASME",
        "third",
        0.35,
        "sloped",
        "ours",
    )
    assert made["fields"] == {"owner": "Withy Lock Trust", "creator": "M. Sallow"}, "what is told goes before"
    other = client.post("/api/drawings", json={**told, "standard": "ISO"}).get_json()["document"]
    assert (other["standard"], other["angle"]) == ("ISO", "first")


# ---- issue


def test_all_formats_are_issued_under_the_drawing_s_number_and_hold_the_same_words(client, drawing) -> None:
    fill = {"op": "set_field", "field": "title", "value": "Pedestal ½ & <more>"}
    state = act(client, drawing, act="operation", operation=fill)
    base = f"/api/drawings/{state['id']}/issue"
    answers = {kind: client.get(f"{base}/{kind}") for kind in ("pdf", "svg", "dxf", "png")}
    for kind, answer in answers.items():
        assert answer.status_code == 200 and "WL-201" in answer.headers["Content-Disposition"]
        assert answer.headers["Content-Disposition"].rstrip('"').endswith(f".{kind}")
    assert "Pedestal ½ &amp; &lt;more&gt;" in answers["svg"].get_data(as_text=True)
    text = pypdfium2.PdfDocument(answers["pdf"].get_data())[0].get_textpage().get_text_range()
    assert "Pedestal ½ & <more>" in text
    document = ezdxf.read(io.StringIO(answers["dxf"].get_data().decode()))
    assert "Pedestal ½ & <more>" in {t.dxf.text for t in document.modelspace().query("TEXT")}
    assert not document.audit().errors
    assert answers["png"].get_data().startswith(b"\x89PNG")
    assert client.get(f"{base}/doc").status_code in (400, 404, 422)
    assert client.get(f"{base}/svg?sheet=s9").status_code == 404


def test_the_thumbnail_is_kept_until_the_drawing_changes(client, drawing) -> None:
    url = f"/api/drawings/{drawing['id']}/thumbnail?edit={drawing['edit']}"
    first = client.get(url)
    assert first.status_code == 200 and first.content_type.startswith("image/")
    assert "max-age" in first.headers.get("Cache-Control", "")
    assert client.get(url).data == first.data
    changes = {"op": "set_view", "view": "e2", "changes": {"hidden_lines": False}}
    state = act(client, drawing, act="operation", operation=changes)
    second = client.get(f"/api/drawings/{drawing['id']}/thumbnail?edit={state['edit']}")
    before, after = (np.asarray(Image.open(io.BytesIO(p.data)).convert("L"), float) for p in (first, second))
    assert before.shape == after.shape and after.sum() > before.sum(), "with less ink the paper is brighter"
