"""A drawing in one file: out and in again whole; what is spoilt or hostile is refused with its reason."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from barequill.core.drawing import container
from barequill.core.drawing.container import packed, unpacked
from barequill.core.errors import UserError
from barequill.web.app import create_app
from tools.common import demo_file

from .commanding import run
from .shared import act, bring


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[FlaskClient]:
    """A home where nothing has been brought."""
    made = create_app(tmp_path)
    yield made.test_client()
    made.extensions["services"].close()


def test_a_drawing_goes_elsewhere_whole_with_its_part_and_what_was_issued(app, elsewhere, tmp_path: Path) -> None:
    here = app.test_client()
    part = bring(here, "pawl.step", demo_file("pawl").read_bytes())["part"]
    state = here.post("/api/drawings", json={"part": part, "views": ["front", "top"]}).get_json()
    state = act(here, state, act="operation", operation={"op": "set_field", "field": "title", "value": "Pawl ½"})
    said = {"edit": state["edit"], "letter": "A", "date": "2026-12-01", "words": "First"}
    state = here.post(f"/api/drawings/{state['id']}/issues", json=said).get_json()
    data = here.get(f"/api/drawings/{state['id']}/container").data
    assert data == here.get(f"/api/drawings/{state['id']}/container").data, "the same content gives the same bytes"
    answer = elsewhere.post("/api/containers", data={"file": (io.BytesIO(data), "pawl.quill")})
    assert answer.status_code == 201, answer.get_json()
    taken = answer.get_json()
    assert taken["document"] == state["document"]
    for url in ("issue/pdf", "sheets/e1/ink"):
        assert elsewhere.get(f"/api/drawings/{taken['id']}/{url}").status_code == 200
    ours, theirs = (
        c.get(f"/api/drawings/{n}/issues").get_json() for c, n in ((here, state["id"]), (elsewhere, taken["id"]))
    )
    assert [(i["letter"], i["words"], i["files"]) for i in theirs] == [
        (i["letter"], i["words"], i["files"]) for i in ours
    ]
    # the command line draws and checks it, with the part that is within
    path = tmp_path / "sent" / "pawl.quill"
    path.parent.mkdir()
    path.write_bytes(data)
    drawn = run("draw", str(path), "-o", str(tmp_path / "pawl.svg"))
    assert (drawn.returncode, drawn.stdout) == (0, f"{tmp_path / 'pawl.svg'}: 1 sheets, 2 views\n"), drawn
    assert "Pawl ½" in (tmp_path / "pawl.svg").read_text()
    told = run("check", str(path))
    assert told.returncode == 1 and "sheet 1: Created by is empty\n" in told.stdout
    for spoilt, why in ((data[:-200], "cannot be unpacked"), (packed({"version": 7}, {}, {}), "no drawing document")):
        path.write_bytes(spoilt)
        refused = run("draw", str(path), "-o", str(tmp_path / "no.pdf"))
        assert refused.returncode == 2 and why in refused.stderr and not (tmp_path / "no.pdf").exists()
    again = elsewhere.get(f"/api/drawings/{taken['id']}/container").data
    assert unpacked(again).document == unpacked(data).document and unpacked(again).parts == unpacked(data).parts


PARTS = {"0" * 24 + ".step": b"ISO-10303-21;"}
WHOLE = packed({"version": 6}, PARTS, {"A": {"x.pdf": b"%PDF"}})


def changed(spoil: Callable[[dict[str, bytes]], list[tuple[str, bytes]] | None]) -> bytes:
    """The whole file with its entries changed."""
    with zipfile.ZipFile(io.BytesIO(WHOLE)) as archive:
        files = {i.filename: archive.read(i) for i in archive.infolist()}
    more = spoil(files) or []
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in [*files.items(), *more]:
            archive.writestr(name, data)
    return out.getvalue()


def manifest(held: dict[str, bytes], **changes) -> None:
    held["manifest.json"] = json.dumps(json.loads(held["manifest.json"]) | changes).encode()


def other_part(files: dict[str, bytes]) -> None:
    files["parts/" + "0" * 24 + ".step"] = b"something else"


HOSTILE: list[tuple[str, Callable[[dict[str, bytes]], list[tuple[str, bytes]] | None]]] = [
    ("no file of a drawing", lambda f: [("../../evil.json", b"x")]),
    ("no file of a drawing", lambda f: [("/etc/passwd", b"x")]),
    ("no file of a drawing", lambda f: [("parts/../../evil", b"x")]),
    ("no file of a drawing", lambda f: [("parts/a/b.step", b"x")]),
    ("no file of a drawing", lambda f: [("C:\\evil.step", b"x")]),
    ("two times", lambda f: [("drawing.json", b"{}")]),
    ("lacks manifest.json", lambda f: f.pop("manifest.json") and None),
    ("manifest names other files", lambda f: f.pop("drawing.json") and None),
    ("manifest names other files", lambda f: [("parts/more.step", b"x")]),
    ("sound in it is drawing.json", other_part),
    ("does not say so", lambda f: manifest(f, format="another")),
    ("newer", lambda f: manifest(f, version=99)),
    ("manifest names other files", lambda f: manifest(f, files=[1])),
    ("cannot be read", lambda f: f.update({"manifest.json": b"{" * 100_000})),
]


@pytest.mark.filterwarnings("ignore:Duplicate name")
@pytest.mark.parametrize(("reason", "spoil"), HOSTILE, ids=range(len(HOSTILE)))
def test_what_is_spoilt_or_hostile_is_refused_with_its_reason(reason, spoil) -> None:
    assert unpacked(WHOLE).parts == PARTS
    with pytest.raises(UserError) as told:
        unpacked(changed(spoil))
    assert reason in f"{told.value.title} {told.value.detail}"


def test_what_unpacks_to_more_than_there_is_room_for_stops_in_time(monkeypatch) -> None:
    monkeypatch.setattr(container, "MOST_BYTES", 1_000_000)
    with pytest.raises(UserError, match="too much"):
        unpacked(changed(lambda f: [(f"parts/{k}.step", bytes(400_000)) for k in range(9)]))
    for cut in (0, 10, len(WHOLE) // 2, len(WHOLE) - 30):
        with pytest.raises(UserError):
            unpacked(WHOLE[:cut])


def test_a_file_without_its_part_leaves_nothing_behind(elsewhere) -> None:
    document = {"version": 6, "sheets": [{"id": "e1"}], "parts": [{"key": "1" * 24}], "last_id": 1}
    for data, reason in ((packed(document, {}, {}), "does not hold"), (WHOLE, "cannot be read"), (b"PK", "unpacked")):
        answer = elsewhere.post("/api/containers", data={"file": (io.BytesIO(data), "x.quill")})
        assert answer.status_code == 400 and reason in str(answer.get_json())
    assert elsewhere.get("/api/drawings").get_json() == [] and elsewhere.get("/api/parts").get_json() == []
