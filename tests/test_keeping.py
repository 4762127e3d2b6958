"""What is kept, and where: steps by what they change, old homes, homes that are others', rows that are damaged."""

from __future__ import annotations

import fcntl
import json
import os
import random
import sqlite3
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine

from barequill import store as store_room
from barequill.core.drawing import Drawing, apply
from barequill.core.drawing.differences import changed_by, difference
from barequill.core.drawing.operations import Annotate, ChangeAnnotation, Group, Remove, SetField, SetPart, SetView
from barequill.core.drawing.texts import json_text
from barequill.core.errors import UserError
from barequill.store import Store
from barequill.store.home import MARK
from barequill.web.app import create_app
from tools.common import at_length

from .shared import SUMMARY, dimension, title, two_views
from .shared import base as base_drawing

KEY = "0123456789abcdef01234567"


def changes(count: int, seed: int = 1):
    """Drawings that random operations make of each other, some of them removing, reordering, replacing whole lists."""
    dice, drawing = random.Random(seed), two_views()
    for n in range(count):
        held = [a.id for a in drawing.front_sheet.annotations]
        add = Annotate(sheet="s1", annotations=[dimension(100 + n), dimension(9000 + n, "v2")])
        others = [SetField(field=f"f{n % 7}", value=str(n)), SetView(view="v1", changes={"hidden_lines": n % 2 == 0})]
        if held:
            one = dice.choice(held)
            others += [Remove(ids=[one]), ChangeAnnotation(id=one, changes={"place": {"offset": float(n)}})]
            others += [Group(label="two", operations=[Remove(ids=[one]), add])]
        operation = dice.choice([add, *others])
        after = apply(drawing, operation)
        if n % 11 == 10:
            sheet = after.front_sheet
            after = after.with_sheet(sheet.model_copy(update={"annotations": list(reversed(sheet.annotations))}))
        yield drawing, after
        drawing = after


def test_a_difference_makes_of_the_former_document_the_later_one_and_back() -> None:
    for before, after in changes(120):
        for a, b in ((before, after), (after, before), (before.to_json(), after.to_json())):
            old = a if isinstance(a, dict) else a.to_json()
            told = json.loads(json.dumps(difference(a, b)))
            assert changed_by(old, told) == (b if isinstance(b, dict) else b.to_json())
        assert json.loads(json_text(after)) == json.loads(after.model_dump_json())
    assert difference(after, Drawing.load(after.to_json())) is None
    with pytest.raises(ValueError, match="does not belong"):
        changed_by({"sheets": 3}, {"d": {"sheets": {"e": {"s1": {"v": 1}}}}})


def test_any_step_of_many_is_had_again_also_after_a_restart_and_the_newest_come_first(tmp_path: Path) -> None:
    store = Store(tmp_path)
    snapshot = store.add(base_drawing())
    known = [snapshot.drawing.to_json()]
    for k in range(450):
        value = "".join(random.Random(k).choices("abcdefgh", k=250))
        snapshot = store.act(snapshot.id, snapshot.edit, lambda d, v=value, k=k: SetField(field=f"f{k % 9}", value=v))
        known.append(snapshot.drawing.to_json())
    store.close()
    again = Store(tmp_path)
    now = again.get(snapshot.id)
    stood = 450
    for at in (449, 3, 200, 450, 0, 401):
        by, stood = at - stood, at
        now = again.step(now.id, now.edit, by) if by else now
        assert now.drawing.to_json() == known[at], at
    assert [p for p, _, _ in again.history(now.id)] == list(range(251, 451))
    assert [p for p, _, _ in again.history(now.id, before=251, most=10)] == list(range(241, 251))
    again.close()


def _file_bytes(store: Store) -> int:
    with sqlite3.connect(store.file) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    connection.close()
    return store.file.stat().st_size


def test_a_small_act_takes_little_room_whatever_the_drawing_holds_and_removing_gives_it_back(tmp_path: Path) -> None:
    store = Store(tmp_path)
    empty = _file_bytes(store)
    snapshot = store.add(two_views())
    sizes = [dimension(100 + k) for k in range(400)]
    snapshot = store.act(snapshot.id, snapshot.edit, lambda d: Annotate(sheet="s1", annotations=sizes))
    before = _file_bytes(store)
    for k in range(200):
        change = ChangeAnnotation(id=f"d{100 + k}", changes={"place": {"offset": 10.0 + k / 7}})
        snapshot = store.act(snapshot.id, snapshot.edit, lambda d, c=change: c)
    assert (_file_bytes(store) - before) / 200 < 4000
    store.remove(snapshot.id)
    store.remove_for_good(snapshot.id)
    assert _file_bytes(store) <= empty + 8192
    store.close()


# ---- homes from before


def old_home(folder: Path, steps: int, spoil: bool = False) -> list[dict]:
    """A home as version 3 of the database had it: a drawing with so many steps; the documents of the steps."""
    folder.mkdir(exist_ok=True)
    engine = create_engine(f"sqlite:///{folder / 'barequill.sqlite'}")
    config = Config()
    config.set_main_option("script_location", str(Path(store_room.__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0003")
    engine.dispose()
    documents = [two_views().to_json()] + [after.to_json() for _, after in changes(steps - 1)]
    when, at = "2026-01-02 03:04:05.000006", steps - 3
    with sqlite3.connect(folder / "barequill.sqlite") as connection:
        # two were removed since: their numbers are not given out again
        for number in (7, 9):
            row = (number, steps, at, json.dumps({**documents[at], "last_id": 77_000}), "pawl", when, when)
            connection.execute("INSERT INTO drawings VALUES (?, ?, ?, ?, ?, ?, ?)", row)
        connection.execute("DELETE FROM drawings WHERE id = 9")
        for k, document in enumerate(documents):
            text = "{ damaged" if spoil and k == 5 else json.dumps(document)
            connection.execute(
                "INSERT INTO steps (drawing_id, position, label, operation, document, at) VALUES (7, ?, ?, '{}', ?, ?)",
                (k, f"step {k}", text, when),
            )
            connection.execute("INSERT INTO acts (drawing_id, revision, label) VALUES (7, ?, ?)", (k + 1, f"step {k}"))
    connection.close()
    return documents


def test_an_old_home_with_many_steps_is_brought_over_step_by_step(tmp_path: Path) -> None:
    documents = old_home(tmp_path, count := at_length(120, 500))
    was = (tmp_path / "barequill.sqlite").stat().st_size
    store = Store(tmp_path)
    now = store.get(7)
    at = count - 3
    assert now.edit == count and now.undo == f"step {at}" and now.redo == f"step {at + 1}"
    assert now.drawing.last_id == 77_000, "numbers that were given out stay given out"
    assert now.drawing.to_json() == {**documents[at], "last_id": 77_000}
    for to in (count - 1, 0, count // 2, 64, 63, 65):
        now, at = store.step(7, now.edit, to - at), to
        assert {**now.drawing.to_json(), "last_id": 0} == {**documents[to], "last_id": 0}
    assert [d.title for d in store.drawings("pawl")] == ["Pawl"] or store.drawings("pawl")
    assert store.add(base_drawing()).id == 10, "not the number of one that was removed"
    assert _file_bytes(store) < was / 8
    store.close()


def test_a_damaged_step_of_an_old_home_spoils_only_itself(tmp_path: Path) -> None:
    documents = old_home(tmp_path, 30, spoil=True)
    store = Store(tmp_path)
    now = store.step(7, 30, 4 - 27)
    assert {**now.drawing.to_json(), "last_id": 0} == {**documents[4], "last_id": 0}
    with pytest.raises(UserError, match="step 5 cannot be read"):
        store.step(7, now.edit, 1)
    now = store.step(7, now.edit, 2)
    assert {**now.drawing.to_json(), "last_id": 0} == {**documents[6], "last_id": 0}
    assert store.as_kept(7)["steps"][5]["text"] == "{ damaged"
    store.close()


# ---- homes of others


def test_a_start_removes_nothing_that_it_did_not_write_or_did_not_leave_unfinished(tmp_path: Path) -> None:
    Store(tmp_path).close()
    parts = tmp_path / "parts"
    left = [f"{KEY}.step", "holiday.jpg", f"{'ab' * 16}.partial", f".{'c' * 32}", "notes"]
    for name in left:
        (parts / name).write_text("mine")
        os.utime(parts / name, (1, 1))
    (tmp_path / f".{'x' * 32}").write_text("mine")
    dead, alive = (parts / f"barequill-under-way-{c * 32}" for c in "de")
    dead.write_text("half")
    with alive.open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        for database in ("barequill.sqlite", None):
            if database:
                (tmp_path / database).unlink()
            Store(tmp_path).close()
            assert sorted(p.name for p in parts.iterdir()) == sorted([*left, alive.name])
    assert (tmp_path / f".{'x' * 32}").read_text() == "mine"
    Store(tmp_path).close()
    assert not alive.exists(), "nobody is at work on it any more"


def _holiday(home: Path) -> None:
    (home / "parts").mkdir(parents=True)
    (home / "parts" / "holiday.jpg").write_text("mine")


def _linked(home: Path) -> None:
    home.mkdir()
    (home.parent / "elsewhere").mkdir()
    (home.parent / "elsewhere" / f"{KEY}.step").write_text("mine")
    (home / "parts").symlink_to(home.parent / "elsewhere")


def _project(home: Path) -> None:
    home.mkdir()
    (home / "setup.py").write_text("mine")


@pytest.mark.parametrize(
    ("lay", "words"),
    [
        (_holiday, "not a folder of Bare Quill's.*parts/holiday.jpg"),
        (_linked, "not a folder of Bare Quill's.*link to elsewhere"),
        (_project, "not a folder of Bare Quill's.*setup.py"),
        (lambda home: home.symlink_to(home.parent / "nowhere"), "link to .*nowhere, which is not there"),
        (lambda home: home.write_text("mine"), "is a file"),
        (lambda home: (home.mkdir(), (home / "cache").write_text("mine")), "cache is a file"),
    ],
)
def test_a_folder_that_is_not_ours_is_refused_with_its_reason_and_left_as_it_was(tmp_path: Path, lay, words) -> None:
    home = tmp_path / "home"
    lay(home)
    before = sorted((str(p), p.lstat().st_mode, p.lstat().st_mtime) for p in tmp_path.rglob("*"))
    with pytest.raises(UserError, match=words):
        Store(home)
    assert sorted((str(p), p.lstat().st_mode, p.lstat().st_mtime) for p in tmp_path.rglob("*")) == before


def test_a_home_is_for_its_owner_alone(tmp_path: Path) -> None:
    home = tmp_path / "home"
    Store(home).close()
    assert home.stat().st_mode & 0o777 == 0o700 and (home / "parts").stat().st_mode & 0o077 == 0
    assert all((home / name).stat().st_mode & 0o777 == 0o600 for name in (MARK, "barequill.sqlite"))


# ---- damage

GARBAGE = ["", "x", "{", "[1]", "null", b"\xff\xfe\x00", 2**62, -5, 1e300, '{"a": ' * 3000, "2026-99-99", '"text"']
SOME = at_length(4, 1)


@pytest.mark.parametrize("table", ["drawings", "steps", "acts", "parts"])
def test_whatever_stands_in_a_column_closes_nothing_but_itself(tmp_path: Path, table: str) -> None:
    app = create_app(tmp_path)
    store, client = app.extensions["services"].store, app.test_client()
    source = tmp_path / "cache" / "part"
    source.write_text("data")
    full = {
        "unit": "millimetre",
        "size": [1.0, 2.0, 3.0],
        "volume": 1.0,
        "area": 1.0,
        "centroid": [0, 0, 0],
        "mass": None,
    }
    full |= SUMMARY | {"bodies": [], "faces": 1, "edges": 1, "remarks": []}
    fine = store.add(base_drawing())
    connection = sqlite3.connect(store.file)
    columns = [row[1] for row in connection.execute(f"PRAGMA table_info({table})")]
    for column in [c for c in columns if c not in ("id", "key", "drawing_id")]:
        for value in GARBAGE[::SOME]:
            key = f"{random.getrandbits(96):024x}"
            store.keep_part(key, "part.step", source, full)
            made = store.add(two_views())
            made = store.act(made.id, made.edit, title("Two"))
            which = {"drawings": f"id = {made.id}", "parts": f"key = '{key}'"}.get(table, f"drawing_id = {made.id}")
            connection.execute("PRAGMA foreign_keys=OFF")
            connection.execute(f"UPDATE OR IGNORE {table} SET {column} = ? WHERE {which}", (value,))
            connection.commit()
            store._snapshots.clear()
            shelf = client.get("/api/drawings")
            assert shelf.status_code == 200 and {d["id"] for d in shelf.get_json()} >= {fine.id, made.id}, (
                column,
                value,
            )
            assert client.get("/api/drawings?search=two").status_code == 200
            assert client.get("/api/parts").status_code == client.get("/api/parts?search=pawl").status_code == 200
            for way in ("", "/history", "/kept", "/issue/json"):
                status = client.get(f"/api/drawings/{made.id}{way}").status_code
                assert status in (200, 422), (column, value, way, status)
            assert client.get(f"/api/drawings/{made.id}/kept").status_code == 200
            assert client.post(f"/api/drawings/{made.id}/rescue", json={}).status_code in (200, 422)
            assert client.get(f"/api/parts/{key}/file").status_code == 200
            assert client.get(f"/api/drawings/{fine.id}").status_code == 200
            assert client.delete(f"/api/drawings/{made.id}").status_code == 200
            assert client.delete(f"/api/parts/{key}").status_code == 200, (column, value)
    connection.close()
    app.extensions["services"].close()


@pytest.mark.parametrize("table", ["drawings", "steps", "acts"])
def test_an_old_home_is_brought_over_whatever_stands_in_its_columns(tmp_path: Path, table: str) -> None:
    old_home(tmp_path / "whole", 8)
    whole = (tmp_path / "whole" / "barequill.sqlite").read_bytes()
    with sqlite3.connect(tmp_path / "whole" / "barequill.sqlite") as connection:
        columns = [row[1] for row in connection.execute(f"PRAGMA table_info({table})")]
    for column in [c for c in columns if c not in ("id", "drawing_id")]:
        for k, value in enumerate(GARBAGE[::SOME]):
            home = tmp_path / f"{column}-{k}"
            home.mkdir()
            (home / "barequill.sqlite").write_bytes(whole)
            with sqlite3.connect(home / "barequill.sqlite") as connection:
                which = "" if table == "drawings" else f" WHERE {'position' if table == 'steps' else 'revision'} = 4"
                connection.execute(f"UPDATE OR IGNORE {table} SET {column} = ?{which}", (value,))
            connection.close()
            store = Store(home)
            assert [d.id for d in store.drawings()] == [7], (column, value)
            assert len(store.as_kept(7)["steps"]) >= 8
            assert store.add(base_drawing()).id == 10
            store.close()


def test_a_drawing_of_a_newer_version_is_shown_as_what_it_is_and_a_spoilt_step_is_gone_round(tmp_path: Path) -> None:
    store = Store(tmp_path)
    made = store.add(base_drawing())
    for k in range(4):
        made = store.act(made.id, made.edit, title(f"Title {k}"))
    made = store.act(made.id, made.edit, lambda d: SetPart(part=d.parts[0].model_copy(update={"name": "Pawl 2"})))
    store.close()
    with sqlite3.connect(store.file) as connection:
        connection.execute("UPDATE steps SET data = x'00ff' WHERE position = 4")
        connection.execute("UPDATE drawings SET about = NULL")
    connection.close()
    again = Store(tmp_path)
    assert "step 4 cannot be read" in again.drawings()[0].damaged
    with pytest.raises(UserError, match="damaged"):
        again.get(made.id)
    now = again.rescue(made.id)
    assert now.drawing.fields["title"] == "Title 2" and now.edit == made.edit + 1
    newer = again.add(base_drawing().model_copy(update={"version": 99}))
    again.close()
    third = Store(tmp_path)
    with pytest.raises(UserError, match=r"newer Bare Quill.*version 99"):
        third.get(newer.id)
    assert third.as_kept(newer.id)["document"]["version"] == 99
    third.close()
