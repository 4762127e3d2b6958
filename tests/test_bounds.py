"""What a server gives to strangers, and how much at once: other sites, many connections, many pictures, a disk with no room,
operations at random."""

from __future__ import annotations

import resource
import shutil
import socket
import subprocess
import sys
import threading
import time
from collections import Counter
from pathlib import Path

import pytest

from barequill.core.drawing import Drawing, PrincipalView, ProjectedView, Sheet, apply
from barequill.core.drawing.operations import AddViews, Annotate, SetField
from barequill.core.errors import BadOperation
from barequill.store import Store
from barequill.web.app import create_app
from tools import siege
from tools.common import at_length, demo_file, part_of
from tools.made_operations import tried
from tools.siege import ask, bring

from .shared import long


@pytest.fixture(scope="module")
def part(server: str) -> str:
    return bring(server)


FOREIGN = {"Sec_Fetch_Site": "cross-site"}
PICTURE = FOREIGN | {"Sec_Fetch_Mode": "no-cors", "Sec_Fetch_Dest": "image"}
LINK = FOREIGN | {"Sec_Fetch_Mode": "navigate", "Sec_Fetch_Dest": "document"}


@pytest.mark.parametrize(
    ("path", "headers", "status"),
    [
        ("/api/drawings", PICTURE, 403),
        ("/api/drawings/1/history", PICTURE, 403),
        ("/api/drawings/1/issue/png", LINK, 403),
        ("/api/health", FOREIGN | {"Sec_Fetch_Site": "same-site"}, 403),
        ("/", LINK, 200),
        ("/", PICTURE, 403),
        ("/", LINK | {"Sec_Fetch_Dest": "iframe"}, 403),
        ("/api/drawings", {"Sec_Fetch_Site": "same-origin"}, 200),
        ("/api/drawings", {"Sec_Fetch_Site": "none"}, 200),
        ("/api/drawings", {"Origin": "http://evil.example"}, 403),
        ("/api/drawings", {"Origin": "http://[::1"}, 403),
        ("/api/drawings", {"Origin": "http://a:b:c@:99999999"}, 403),
        ("/api/drawings", {"Host": "[::1"}, 403),
        ("/api/drawings", {"Host": "127.0.0.1:99999999999"}, 403),
        (f"/api/drawings/{2**63}", {}, 404),
        (f"/api/drawings/{10**60}", {}, 404),
        (f"/api/drawings/{10**60}/thumbnail", {}, 404),
        (f"/api/drawings/1/history?before={10**30}", {}, 400),
        ("/api/drawings/1/history?before=x", {}, 400),
    ],
)
def test_other_sites_get_nothing_and_odd_addresses_are_refused(server: str, part: str, path, headers, status) -> None:
    answer = ask(server + path, **headers)
    assert answer.status == status, answer


def test_files_outside_the_pages_are_told_nothing_of(server: str) -> None:
    here = Path(sys.modules["barequill"].__file__).parent
    there = [f"/assets/..%2f..%2f{name}" for name in ("serving.py", "nothing.py")]
    answers = [ask(server + path) for path in (*there, "/..%2f..%2fserving.py", "/%00", "/assets/%2e%2e/%2e%2e/app.py")]
    assert (here / "web" / "serving.py").exists()
    assert len({(a.status, bytes(a.body)) for a in answers[:2]}) == 1, "there or not: the same answer"
    assert all(b"import" not in a.body[:2000] for a in answers)


@pytest.mark.parametrize("value", [2**63, 2**64, 10**400, -(2**70)])
def test_numbers_beyond_64_bits_in_a_request_are_no_fault(server: str, part: str, value: int) -> None:
    made = ask(f"{server}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
    act = {"act": "operation", "operation": {"op": "set_field", "field": "owner", "value": "x"}}
    for way, body in (
        ("acts", {"edit": value, "act": act}),
        ("undo", {"edit": value}),
        ("redo", {"edit": 1, "by": value}),
    ):
        assert ask(f"{server}/api/drawings/{made['id']}/{way}", "POST", body).status in (400, 409, 422)


def test_of_many_pictures_at_once_some_are_made_and_acts_go_before_them(server: str, part: str) -> None:
    made = ask(f"{server}/api/drawings", "POST", {"part": part, "views": ["front", "top", "left", "iso"]}).body
    where, ends = f"{server}/api/drawings/{made['id']}", Counter()
    assert ask(f"{where}/issue/png").status == 200

    def placed_view() -> None:
        try:
            ends[ask(f"{where}/issue/png").status] += 1
        except siege.BROKEN:
            ends["broken"] += 1

    threads = [threading.Thread(target=placed_view) for _ in range(60)]
    for t in threads:
        t.start()
    edit, slowest = made["edit"], 0.0
    for k in range(20):
        act = {"act": "operation", "operation": {"op": "set_field", "field": "owner", "value": f"{k}"}}
        answer = ask(f"{where}/acts", "POST", {"edit": edit, "act": act})
        edit, slowest = answer.body["edit"], max(slowest, answer.seconds)
    for t in threads:
        t.join()
    assert set(ends) <= {200, 503} and ends[200] >= 10 and slowest < 3, (ends, slowest)
    assert ask(f"{where}/issue/png").status == 200


def test_of_many_who_ask_for_the_same_views_at_once_each_gets_them(app, server: str, part: str) -> None:
    rounds = at_length(10, 40)
    assert siege.askers(app, server, part, rounds) == {"rounds": rounds, "had": 8 * rounds}


@long
def test_with_1024_descriptors_idle_connections_go_first_and_nobody_is_locked_out(tmp_path: Path) -> None:
    server = siege.Server(tmp_path / "home")
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if hard < 3000:
        pytest.skip("this machine has too few descriptors to try")
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(soft, 20_000), hard))
    server.start(before=lambda: resource.setrlimit(resource.RLIMIT_NOFILE, (1024, 1024)))
    held = []
    try:
        for _ in range(1300):
            held.append(socket.create_connection(("127.0.0.1", server.port), timeout=20))
        time.sleep(1)
        assert ask(f"{server.url}/api/health").status == 200
        assert ask(f"{server.url}/api/health").seconds < 2
    finally:
        for one in held:
            one.close()
        server.kill()


# ---- room on the disk


@pytest.fixture
def small_disk(tmp_path: Path):
    folder = tmp_path / "disk"
    folder.mkdir()
    mounted = ["mount", "-t", "tmpfs", "-o", "size=80m", "tmpfs", str(folder)]
    if subprocess.run(mounted, capture_output=True).returncode:
        pytest.skip("no small disk can be mounted here")
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=False)


@long
def test_uploads_leave_room_for_acts_and_views_are_shown_that_cannot_be_kept(small_disk: Path) -> None:
    with siege.running(small_disk) as server:
        key = bring(server.url)
        made = ask(f"{server.url}/api/drawings", "POST", {"part": key, "views": ["front"], "centres": False}).body
        where = f"{server.url}/api/drawings/{made['id']}"
        filler = demo_file("pawl").read_bytes().replace(b"DATA;\n", b"DATA;\n" + b"/* %s */\n" % (b"x" * 25_000_000), 1)
        refused = ask(f"{server.url}/api/parts", "POST", data=siege.form(filler, "large.step"), Content_Type=siege.FORM)
        assert refused.status == 507 and "room" in refused.body["title"], refused
        # and now all of it is taken by others
        with (small_disk / "filler").open("wb", buffering=0) as file, pytest.raises(OSError):
            while True:
                file.write(b"x" * 65536)
        change = {"op": "set_view", "view": "e2", "changes": {"toward": [0.3, 0.9, 0.2], "up": [0, 0, 1]}}
        after = ask(f"{where}/acts", "POST", {"edit": made["edit"], "act": {"act": "operation", "operation": change}})
        assert after.status in (200, 507)
        (small_disk / "filler").unlink()
        if after.status == 507:
            after = ask(
                f"{where}/acts",
                "POST",
                {"edit": made["edit"], "act": {"act": "operation", "operation": change}},
            )
        with (small_disk / "filler").open("wb", buffering=0) as file, pytest.raises(OSError):
            while True:
                file.write(b"x" * 4096)
        ink = ask(f"{where}/sheets/e1/ink")
        for _ in range(100):
            if ink.status == 200 and not ink.body["views"][0].get("pending"):
                break
            time.sleep(0.1)
            ink = ask(f"{where}/sheets/e1/ink")
        assert ink.status == 200 and not ink.body["views"][0].get("pending"), "shown, though it cannot be kept"


def test_what_belongs_to_a_part_or_drawing_goes_with_it_and_parts_without_a_row_come_back(tmp_path: Path) -> None:
    app = create_app(tmp_path / "home")
    services, client = app.extensions["services"], app.test_client()
    job = services.read("pawl.step", demo_file("pawl"))
    assert job.done.wait(120) and job.state == "done"
    made = client.post("/api/drawings", json={"part": job.key, "views": ["front"]}).get_json()
    client.get(f"/api/drawings/{made['id']}/issue/png")
    for _ in range(50):
        if client.get(f"/api/drawings/{made['id']}/thumbnail").status_code == 200:
            break
        time.sleep(0.2)
    cache = tmp_path / "home" / "cache"
    assert list((cache / "thumbnails").iterdir()) and list((cache / "views").iterdir())
    assert client.delete(f"/api/parts/{job.key}").status_code == 400
    client.delete(f"/api/drawings/{made['id']}")
    client.delete(f"/api/drawings/{made['id']}?for_good=1")
    assert not list((cache / "thumbnails").iterdir())
    file = tmp_path / "home" / "parts" / f"{job.key}.step"
    kept = shutil.copy(file, tmp_path / "kept.step")
    client.delete(f"/api/parts/{job.key}")
    assert not [p for f in ("parts", "views") for p in (cache / f).iterdir() if p.name.startswith(job.key)]
    assert not file.exists()
    services.close()
    # as when the database was moved away: the file is there, and no row tells of it; another is not what it is called
    shutil.copy(kept, file)
    (file.parent / f"{'0' * 24}.step").write_text("not this")
    again = create_app(tmp_path / "home")
    client = again.test_client()
    for _ in range(300):
        if client.get("/api/parts").get_json():
            break
        time.sleep(0.1)
    (found,) = client.get("/api/parts").get_json()
    assert found["key"] == job.key and found["name"] == "Pawl" and found["file_name"] == f"found-{job.key[:8]}.step"
    assert (file.parent / f"{'0' * 24}.step").exists()
    again.extensions["services"].close()


# ---- operations


def test_operations_at_random_are_refused_or_can_be_drawn_written_and_taken_back() -> None:
    ends = tried(part_of(demo_file("pawl")), 250, seed=7, every=6)
    assert ends["taken"] > 80 and ends["refused"] > 20 and ends["malformed"] > 20


def chain(count: int) -> Drawing:
    first = PrincipalView(id="e2", part="k1", place=(100, 100), toward=(0, -1, 0), up=(0, 0, 1))
    others = [
        ProjectedView(id=f"e{k + 3}", part="k1", place=(100, 100), parent=f"e{k + 2}", look="left")
        for k in range(count)
    ]
    return apply(Drawing(parts=[{"key": "k1"}], sheets=[Sheet(id="e1")]), AddViews(sheet="e1", views=[first, *others]))


def size(number: int, on: str = "e2", **more: object) -> dict:
    own = {
        "kind": "dimension",
        "id": f"e{number}",
        "on": on,
        "measure": "length",
        "anchors": [{"ref": "E0", "at": "line"}],
    }
    return own | more


@pytest.mark.parametrize(
    ("sizes", "words"),
    [
        ([size(10, "e1")], "hang on a view"),
        ([size(10, "e10")], "not on this sheet"),
        ([size(10, "e11"), size(11, "e10")], "hang on|not on this sheet"),
        ([size(10, "nowhere")], "not on this sheet"),
        ([size(2)], "taken"),
        ([size(10), size(10)], "taken"),
        ([size(10**9)], "beyond"),
        ([size(10**30)], "beyond"),
        ([size(k) for k in range(100, 2101)], "at most 2000"),
    ],
)
def test_what_could_not_be_drawn_is_refused_with_its_reason(sizes: list[dict], words: str) -> None:
    with pytest.raises(BadOperation, match=words):
        apply(chain(1), Annotate.model_validate({"sheet": "e1", "annotations": sizes}))


def test_long_chains_of_parents_are_refused_and_a_drawing_that_took_a_huge_number_goes_on(tmp_path: Path) -> None:
    with pytest.raises(BadOperation, match="At most 40"):
        chain(60)
    old = chain(1).model_copy(update={"last_id": 10**9})
    made = Store(tmp_path).add(old)
    for _ in range(3):
        (name,) = made.drawing.fresh()
        number = int(name[1:])
        after = apply(made.drawing, Annotate.model_validate({"sheet": "e1", "annotations": [size(number)]}))
        made = Store(tmp_path).act(
            made.id,
            made.edit,
            lambda d, n=number: Annotate.model_validate({"sheet": "e1", "annotations": [size(n)]}),
        )
        assert made.drawing == after
    assert len(made.drawing.front_sheet.annotations) == 3
    far = apply(old, SetField(field="owner", value="x"))
    assert far.fields["owner"] == "x"
