"""Issuing: what went out stays what it was, byte for byte."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile

import ezdxf
import pypdfium2
import pytest
from flask.testing import FlaskClient

from barequill.core.acts.issuing import what_changed
from barequill.core.standards.revision_letters import next_letter
from tools.common import demo_file

from .shared import act, bring


def test_letters_of_revisions_go_on_as_the_standards_have_them() -> None:
    assert [next_letter(t, "ISO") for t in ((), "A", ("A", "H"), ("A", "N"), "Z")] == ["A", "B", "J", "P", "AA"]
    # ASME Y14.35: a dash first; I, O, Q, S, X and Z are left out
    assert [next_letter(t, "ASME") for t in ((), "-", ("-", "R"), ("-", "W"), "Y")] == ["-", "A", "T", "Y", "AA"]


def test_words_of_a_revision_come_from_what_was_done() -> None:
    done = [
        "New drawing",
        "Move views",
        "Title: Cap",
        "Move views",
        "State a dimension",
        "Tidy the sizes",
        "Set the threads",
    ]
    assert what_changed(done, True) == "First issue"
    assert what_changed(done, False) == "Title: Cap; State a dimension; Tidy the sizes; Set the threads, and 1 more"
    assert what_changed(["Work on revision B"], False) == ""


@pytest.fixture(scope="module")
def client(app) -> FlaskClient:
    return app.test_client()


@pytest.fixture
def drawing(client) -> dict:
    part = bring(client, "pawl.step", demo_file("pawl").read_bytes())["part"]
    return client.post("/api/drawings", json={"part": part, "views": ["front", "top"]}).get_json()


def issue(client, state: dict, **said) -> tuple[int, dict]:
    body = {"edit": state["edit"], "letter": "A", "date": "2026-12-01", "words": "First issue", **said}
    answer = client.post(f"/api/drawings/{state['id']}/issues", json=body)
    return answer.status_code, answer.get_json()


def files_of(client, own: int) -> dict[str, bytes]:
    (latest, *_) = client.get(f"/api/drawings/{own}/issues").get_json()
    url = f"/api/drawings/{own}/issues/{latest['letter']}"
    found = {f["name"]: client.get(f"{url}/{f['name']}").data for f in latest["files"]}
    assert all(hashlib.sha256(found[f["name"]]).hexdigest() == f["sha256"] for f in latest["files"])
    return found


def test_what_was_issued_stays_byte_for_byte_whatever_becomes_of_the_drawing(client, drawing) -> None:
    own = drawing["id"]
    proposed = client.get(f"/api/drawings/{own}/next-issue").get_json()
    assert (proposed["letter"], proposed["words"]) == ("A", "First issue")
    state = act(client, drawing, act="operation", operation={"op": "set_field", "field": "title", "value": "As it was"})
    status, after = issue(client, state, creator="R. Oake", approver="M. Sallow")
    assert status == 201
    # the sheet that went out says so; that which is worked on bears the next letter, and no date
    assert after["document"]["fields"]["revision"] == "B" and "date" not in after["document"]["fields"]
    assert [r["letter"] for r in after["document"]["revisions"]] == ["A"]
    was = files_of(client, own)
    assert sorted(n.split(".")[-1] for n in was) == ["dxf", "json", "pdf", "step", "svg"]
    (document,) = [json.loads(d) for n, d in was.items() if n.endswith(".json")]
    assert (document["fields"]["revision"], document["fields"]["date"]) == ("A", "2026-12-01")
    (page,) = pypdfium2.PdfDocument(next(d for n, d in was.items() if n.endswith(".pdf")))
    words = page.get_textpage().get_text_bounded()
    assert "As it was" in words and "2026-12-01" in words and "M. Sallow" in words
    dxf = ezdxf.read(io.StringIO(next(d for n, d in was.items() if n.endswith(".dxf")).decode()))
    assert not dxf.audit().errors
    part_file = next(d for n, d in was.items() if n.startswith("part-"))
    assert part_file == demo_file("pawl").read_bytes()
    # everything is changed, undone, changed again, and the drawing removed for good
    state = act(client, after, act="operation", operation={"op": "set_field", "field": "title", "value": "Another"})
    again, refused = issue(client, state)
    assert again == 400 and "A was issued already" in refused["title"] and "next letter is B" in refused["detail"]
    proposed = client.get(f"/api/drawings/{own}/next-issue").get_json()
    assert (proposed["letter"], proposed["words"], proposed["creator"]) == ("B", "Title: Another", "R. Oake")
    for _ in range(4):
        state = client.post(f"/api/drawings/{own}/undo", json={"edit": state["edit"]}).get_json()
    assert files_of(client, own) == was
    again, refused = issue(client, state)
    assert again == 400 and "A was issued already" in refused["title"], "undone as it is, it went out"
    client.delete(f"/api/drawings/{own}")
    client.delete(f"/api/drawings/{own}?for_good=1")
    assert files_of(client, own) == was


def test_an_issued_file_that_was_changed_is_not_given_out_as_issued(client, drawing, app) -> None:
    own = drawing["id"]
    assert issue(client, drawing)[0] == 201
    (info,) = client.get(f"/api/drawings/{own}/issues").get_json()
    name = next(f["name"] for f in info["files"] if f["name"].endswith(".svg"))
    path = app.extensions["services"].store.home / "issues" / str(info["id"]) / name
    assert path.stat().st_mode & 0o222 == 0, "nobody may write to it"
    path.chmod(0o600)
    path.write_bytes(path.read_bytes() + b" ")
    answer = client.get(f"/api/drawings/{own}/issues/A/{name}")
    assert answer.status_code >= 400 and "not what was issued" in answer.get_json()["title"]
    for bad in ("B/" + name, "A/none.pdf", "A/..%2f..%2fbarequill.sqlite"):
        assert client.get(f"/api/drawings/{own}/issues/{bad}").status_code == 404


def test_a_stale_issue_keeps_nothing(client, drawing, app) -> None:
    act(client, drawing, act="operation", operation={"op": "set_field", "field": "title", "value": "Since"})
    status, refused = issue(client, drawing)
    assert status == 409 and "Since" in refused["detail"]
    assert client.get(f"/api/drawings/{drawing['id']}/issues").get_json() == []
    folder = app.extensions["services"].store.home / "issues"
    assert not [p for p in folder.iterdir() if p.name.startswith(".laid")]


def test_several_are_issued_at_once_and_given_out_with_a_list(app) -> None:
    client = app.test_client()
    part = bring(client, "pawl.step", demo_file("pawl").read_bytes() + b"\n  \n")["part"]
    made = [
        client.post("/api/drawings", json={"part": part, "views": ["front"], "fields": {"number": f"N-{k}"}}).get_json()
        for k in (1, 2)
    ]
    first, second = made
    act(client, second, act="new_sheet", after=second["document"]["sheets"][0]["id"])
    wish = {"drawings": [second["id"], first["id"], 10**8], "date": "2026-12-02", "approver": "R. Reed"}
    told = client.post("/api/issues", json=wish).get_json()
    assert told["issued"] == [{"drawing": second["id"], "letter": "A"}, {"drawing": first["id"], "letter": "A"}]
    assert [r["drawing"] for r in told["refused"]] == [10**8]
    (issue,) = client.get(f"/api/drawings/{first['id']}/issues").get_json()
    assert (issue["approver"], issue["words"], issue["date"]) == ("R. Reed", "First issue", "2026-12-02")
    assert client.get(f"/api/drawings/{first['id']}").get_json()["document"]["fields"]["revision"] == "B"
    named = f"{second['id']}-A,{first['id']}-A"
    pdf = pypdfium2.PdfDocument(client.get(f"/api/issues/pdf?issues={named}").data)
    assert len(pdf) == 1 + 2 + 1, "the list, two sheets, one sheet"
    words = pdf[0].get_textpage().get_text_range()
    assert all(w in words for w in ("N-1", "N-2", "2026-12-02", "First issue")) and words.index("N-2") < words.index(
        "N-1"
    )
    assert "N-2" in pdf[1].get_textpage().get_text_range() and "N-1" in pdf[3].get_textpage().get_text_range()
    folder = zipfile.ZipFile(io.BytesIO(client.get(f"/api/issues/zip?issues={named}").data))
    rows = list(csv.reader(io.StringIO(folder.read("list.csv").decode())))
    assert [r[:4] for r in rows[1:]] == [["N-2", "A", "2026-12-02", "2"], ["N-1", "A", "2026-12-02", "1"]]
    # byte for byte as they are kept
    for own in (first, second):
        for file in client.get(f"/api/drawings/{own['id']}/issues").get_json()[0]["files"]:
            number = own["document"]["fields"]["number"]
            data = folder.read(f"{number}-A/{file['name']}")
            assert hashlib.sha256(data).hexdigest() == file["sha256"]
    again = client.post("/api/issues", json=wish | {"drawings": [first["id"]], "words": "Hole wider"}).get_json()
    assert again["issued"][0]["letter"] == "B"
    for wrong, status in (("", 400), ("1", 400), (f"{first['id']}-Q", 404), ("x-A", 400)):
        assert client.get(f"/api/issues/pdf?issues={wrong}").status_code == status
    assert client.get(f"/api/issues/gif?issues={named}").status_code == 400
