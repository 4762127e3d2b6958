"""What must hold when a server is attacked, killed, crowded or out of room. Longer: ``make siege``."""

from __future__ import annotations

import json
import os
import pickle
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest

from barequill.core.errors import NotFound, UserError
from barequill.core.views.scene import Scene
from barequill.store import Store
from barequill.web.serving import server as serving
from barequill.work.pools import Workshop
from barequill.work.serialisation import MAGIC, Damaged, packed, unpacked
from tools import siege
from tools.common import at_length, demo_file, part_of
from tools.siege import ask, bring, form
from tools.slow import fail_once

from .commanding import run
from .shared import long


@pytest.fixture(scope="module")
def part(server: str) -> str:
    return bring(server)


# ---- who may ask, and how


@pytest.mark.parametrize(
    ("method", "path", "data", "headers", "status"),
    [
        ("POST", "/api/proposals", b"{}", {"Content_Type": "text/plain"}, 415),
        ("POST", "/api/proposals", b"{}", {"Content_Type": "application/x-www-form-urlencoded"}, 415),
        ("POST", "/api/proposals", b"{}", {"Content_Type": "application/json", "Origin": "http://evil.example"}, 403),
        ("POST", "/api/proposals", b"{}", {"Content_Type": "application/json", "Origin": "null"}, 403),
        ("POST", "/api/proposals", b"{}", {"Content_Type": "application/json", "Sec_Fetch_Site": "cross-site"}, 403),
        (
            "POST",
            "/api/parts",
            form(b"x", "a.step"),
            {"Content_Type": siege.FORM, "Origin": "http://evil.example"},
            403,
        ),
        ("DELETE", "/api/drawings/1", None, {"Origin": "http://127.0.0.1:1"}, 403),
        ("GET", "/api/parts", None, {"Host": "evil.example"}, 403),
        ("GET", "/api/parts", None, {"Host": "127.0.0.1.evil.example:80"}, 403),
        ("POST", "/api/proposals", b'{"part": NaN}', {"Content_Type": "application/json"}, 400),
        ("POST", "/api/proposals", b"[" * 60 + b"]" * 60, {"Content_Type": "application/json"}, 400),
        ("POST", "/api/proposals", b"[" * 200_000, {"Content_Type": "application/json"}, 400),
        ("POST", "/api/proposals", b'"' + b"x" * 1_100_000 + b'"', {"Content_Type": "application/json"}, 413),
        ("POST", "/api/drawings", b'{"part": "../../../etc/x"}', {"Content_Type": "application/json"}, 422),
        ("GET", "/api/parts/..%2f..%2fx/faces", None, {}, 404),
        ("GET", "/api/parts/nowhere/file", None, {}, 404),
        ("GET", "/../../../../etc/passwd", None, {}, 200),
    ],
)
def test_a_request_that_should_not_be_is_answered_so(server, part, method, path, data, headers, status) -> None:
    try:
        answer = ask(server + path, method, data=data, **headers)
    except siege.BROKEN:
        assert status == 413, "refused before it was all sent"
        return
    assert answer.status == status, answer
    if status >= 400:
        # what the server under the application refuses comes as plain words
        assert isinstance(answer.body, bytes) or (answer.body["title"] and answer.body["status"] == status)
    else:
        assert b"root:" not in answer.body, "the page, not the file"


def test_answers_forbid_the_browser_what_they_do_not_need(app) -> None:
    headers = app.test_client().get("/").headers
    policy = headers["Content-Security-Policy"]
    assert "frame-ancestors 'none'" in policy and "unsafe" not in policy and "*" not in policy
    assert headers["X-Content-Type-Options"] == "nosniff" and headers["Referrer-Policy"] == "no-referrer"


def test_a_page_of_another_site_changes_nothing(page, server, part, tmp_path: Path) -> None:
    made = ask(f"{server}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
    where = f"{server}/api/drawings/{made['id']}"
    act = {"act": "operation", "operation": {"op": "set_field", "field": "owner", "value": "evil"}}
    other = tmp_path / "index.html"
    other.write_text(
        f"<script>const b = {json.dumps(json.dumps({'edit': made['edit'], 'act': act}))};"
        f"for (const [type, mode] of [['text/plain', 'no-cors'], ['application/json', 'cors']]) "
        f"fetch('{where}/acts', {{method: 'POST', mode, body: b, headers: {{'Content-Type': type}}}}).catch(() => 0);"
        "document.title = 'sent';</script>"
    )
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    site = subprocess.Popen(
        [sys.executable, "-m", "http.server", str(port), "--bind", "127.0.0.1", "-d", str(tmp_path)],
        stderr=subprocess.DEVNULL,
    )
    try:
        for _ in range(100):
            try:
                page.goto(f"http://127.0.0.1:{port}/")
                break
            except Exception:
                time.sleep(0.1)
        page.wait_for_timeout(800)
    finally:
        site.kill()
    now = ask(where).body
    assert now["edit"] == made["edit"] and "owner" not in now["document"]["fields"]


def test_connections_that_say_nothing_or_drip_lock_nobody_out(server) -> None:
    port = int(server.rsplit(":", 1)[1])
    held = [socket.create_connection(("127.0.0.1", port)) for _ in range(150)]
    try:
        for k, one in enumerate(held):
            one.sendall(b"POST /api/proposals HTTP/1.1\r\nHost: 127.0.0.1\r\n" if k % 2 else b"")
        assert ask(f"{server}/api/health").seconds < 2
    finally:
        for one in held:
            one.close()


def test_without_a_sign_in_nobody_beyond_this_machine_is_listened_to() -> None:
    app = SimpleNamespace()
    for host in ("0.0.0.0", "192.168.1.4", "::"):
        with pytest.raises(UserError, match="sign-in"):
            serving(app, host, 0)  # type: ignore[arg-type]
    with pytest.raises(UserError, match="port"):
        serving(app, "127.0.0.1", 70_000)  # type: ignore[arg-type]


# ---- what is kept in caches


def test_a_cache_entry_runs_nothing_and_is_whole_or_made_again(tmp_path: Path) -> None:
    part = part_of(demo_file("pawl"))
    data = packed(part)
    again = unpacked(data)
    assert packed(again) == data and again.index == part.index
    assert np.array_equal(again.mesh.normals, part.mesh.normals)
    for spoilt in (data[:-1], data[:200] + bytes([data[200] ^ 1]) + data[201:], pickle.dumps(print), b"", MAGIC):
        with pytest.raises(Damaged):
            unpacked(spoilt)


@pytest.mark.parametrize("key", ["../../../evil", "/etc/passwd", "a" * 25, "", "0123456789abcdef0123456/"])
def test_a_key_from_outside_never_becomes_a_path(tmp_path: Path, key: str) -> None:
    workshop = Workshop(tmp_path)
    try:
        for use in (workshop.part, lambda k: workshop.taken(Scene(k, (0, -1, 0), (0, 0, 1)))):
            with pytest.raises(NotFound):
                use(key)
    finally:
        workshop.close()


# ---- processes that die


def test_workers_that_are_killed_come_back_and_views_with_them(tmp_path: Path) -> None:
    import multiprocessing

    workshop = Workshop(tmp_path)
    try:
        job = workshop.read(demo_file("pawl"), "pawl.step")
        assert job.done.wait(120) and job.state == "done", job.error
        workshop.taken(Scene(job.key, (0, -1, 0), (0, 0, 1)))
        # idle ones
        for child in multiprocessing.active_children():
            os.kill(child.pid or 0, signal.SIGKILL)
        assert len(workshop.taken(Scene(job.key, (0.3, -1, 0.2), (0, 0, 1))).curves) > 5
        again = workshop.read(demo_file("pawl").read_bytes() + b"\n", "again.step")
        assert again.done.wait(120) and again.state == "done", again.error
        # one at work: it dies with its view, which is begun again when asked for
        workshop.set_projector(fail_once)
        scene = Scene(job.key, (0.1, -1, 0.4), (0.0, 0.0, 1.0))
        workshop.begin([scene])
        for _ in range(600):
            workshop.begin([scene])
            if not workshop.pending([scene], 0.1):
                break
        assert len(workshop.taken(scene).curves) > 5
    finally:
        workshop.close()


@long
def test_nothing_acknowledged_is_lost_and_nothing_left_behind_when_a_server_is_killed(tmp_path: Path) -> None:
    found = siege.kills(tmp_path, at_length(1, 12))
    assert found["acts"] > 1
    assert not found["lost"] and not found["left behind"] and not found["half stored"]


def test_spoilt_part_files_are_refused_with_a_reason_or_drawn(app) -> None:
    found = siege.mutants(app.extensions["services"], range(2000, 2000 + (count := at_length(16, 320))))
    assert sum(found.values()) == count and found["drawn"] > 1 and found["refused with a reason"] > 1
    assert not found["our fault"]


# ---- many at once


def test_those_who_wait_hold_up_nobody_else(app, server, part) -> None:
    found = siege.waiters(app, server, part, 64)
    assert found["waiting"] >= 60, "they do wait"
    assert found["health"] < 1 and found["act"] < 1, "of what would be half a minute"


def test_writers_to_one_drawing_lose_nothing(server, part) -> None:
    found = siege.writers(server, part, 4, 8)
    assert found["kept"] == 4 and found["edit"] == found["acts"]


def test_numbers_are_given_out_once(server, part) -> None:
    wish = {"part": part, "views": ["front"], "centres": False}
    one = ask(f"{server}/api/drawings", "POST", wish).body
    assert ask(f"{server}/api/drawings/{one['id']}", "DELETE").status == 200
    two = ask(f"{server}/api/drawings", "POST", wish).body
    assert two["id"] > one["id"]
    where, last = f"{server}/api/drawings/{two['id']}", two["document"]["last_id"]
    view = {**two["document"]["sheets"][0]["views"][0], "id": f"e{last + 1}", "parent": None}
    body = {
        "edit": two["edit"],
        "act": {"act": "operation", "operation": {"op": "add_views", "sheet": "e1", "views": [view]}},
    }
    state = ask(f"{where}/acts", "POST", body).body
    state = ask(f"{where}/undo", "POST", {"edit": state["edit"]}).body
    assert state["document"]["last_id"] == last + 1, "a number that was taken back is not given out again"


# ---- no room, no right, another version


@long
@pytest.mark.skipif(os.geteuid() != 0, reason="mounting a small disk needs root")
def test_a_full_disk_is_told_and_loses_nothing(tmp_path: Path) -> None:
    if subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=9m", "tmpfs", str(tmp_path)], capture_output=True
    ).returncode:
        pytest.skip("no small disk can be mounted here")
    try:
        with siege.running(tmp_path) as server:
            key = bring(server.url)
            made = ask(f"{server.url}/api/drawings", "POST", {"part": key, "views": ["front"], "centres": False}).body
            filler = tmp_path / "filler"
            with filler.open("wb", buffering=0) as file:
                while True:
                    try:
                        file.write(b"x" * 4096)
                    except OSError:
                        break
            edit, refused = made["edit"], None
            for k in range(400):
                change = {"op": "set_field", "field": "owner", "value": f"{k}" * 60}
                body = {"edit": edit, "act": {"act": "operation", "operation": change}}
                answer = ask(f"{server.url}/api/drawings/{made['id']}/acts", "POST", body)
                if answer.status != 200:
                    refused = answer
                    break
                edit = answer.body["edit"]
            assert refused is not None and refused.status == 507 and "not kept" in refused.body["title"], refused
            assert ask(f"{server.url}/api/health").status == 503
            filler.unlink()
            assert ask(f"{server.url}/api/drawings/{made['id']}").body["edit"] == edit
            assert ask(f"{server.url}/api/drawings/{made['id']}/acts", "POST", body).status == 200
    finally:
        subprocess.run(["umount", "-l", str(tmp_path)], check=False)


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda file: file.write_bytes(b"no database at all" * 100), "damaged"),
        (lambda file: file.write_bytes(file.read_bytes()[:6000] + b"\xff" * 9000), "damaged"),
        (lambda file: subprocess.run(["true"]), "newer"),
    ],
)
def test_a_database_that_cannot_be_used_is_told_in_one_line(tmp_path: Path, monkeypatch, spoil, words: str) -> None:
    import sqlite3

    store = Store(tmp_path)
    store.close()
    with sqlite3.connect(store.file) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        if words == "newer":
            connection.execute("UPDATE alembic_version SET version_num = '9999'")
    connection.close()
    spoil(store.file)
    monkeypatch.setenv("BAREQUILL_HOME", str(tmp_path))
    done = run("serve", "--port", "0")
    assert done.returncode == 2 and words in done.stderr and len(done.stderr.strip().splitlines()) == 1, done.stderr
