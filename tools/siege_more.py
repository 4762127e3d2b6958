"""Further attacks of ``make siege``: homes, files that name others, growth, damage, pictures, connections, operations, readers,
the disk, the command line, names."""

from __future__ import annotations

import json
import os
import random
import resource
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from barequill.core.errors import UserError
from barequill.core.reading import references
from barequill.core.reading.step_text import decoded
from barequill.demo.filling import FOLDER
from barequill.store import Store

from .siege import BROKEN, FORM, PART, Server, ask, bring, form, running

NAMES = [
    "holiday.jpg",
    f"{'ab' * 12}.step",
    f"{'c' * 32}.partial",
    f".{'d' * 32}",
    "notes",
    "x.part",
    "read-1-x",
    "a.note",
]


def homes(home: Path, rounds: int) -> dict[str, int]:
    """Starts over homes laid out at random, some of them not ours: nothing that lay there before is gone."""
    dice, ends = random.Random(3), Counter()
    for k in range(rounds):
        folder = home / f"{k}"
        folder.mkdir(parents=True)
        if dice.random() < 0.5:
            Store(folder).close()
            if dice.random() < 0.5:
                (folder / "barequill.sqlite").unlink()
        for name in dice.sample(NAMES, 4):
            where = folder / dice.choice(["", "parts", "parts"])
            where.mkdir(exist_ok=True)
            (where / name).write_text("mine")
            os.utime(where / name, (1, 1))
        before = {p: p.read_text() for p in folder.rglob("*") if p.is_file() and p.stat().st_mtime < 2}
        try:
            Store(folder).close()
            ends["opened"] += 1
        except UserError:
            ends["refused"] += 1
        ends["lost"] += sum(not p.exists() or p.read_text() != text for p, text in before.items())
    return dict(ends)


def reaching(url: str, count: int) -> dict[str, Any]:
    """Part files that name others in many ways, brought to a server: nothing of those is ever on the shelf."""
    dice, ends = random.Random(5), Counter()
    pawl, bait = PART.read_bytes(), tempfile.mkdtemp()
    other = Path(bait) / "bait.stp"
    other.write_bytes((FOLDER / "catch-box.step").read_bytes())
    os.mkfifo(Path(bait) / "pipe.stp")
    for k in range(count):
        name = dice.choice(
            [str(other), "../" * dice.randrange(1, 12) + str(other)[1:], f"{bait}/pipe.stp", "/etc/passwd"]
        )
        word = dice.choice(["DOCUMENT_FILE", "DOCUMENT_FILE ", "DOCUMENT_FILE/**/", "DOCUMENT_FILE\n"])
        text = f"#990001={word}('{name}','{name}',$,#990002,'',$);\n#990002=DOCUMENT_TYPE('');\n"
        text += f"#990003=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('{name}',#990004,#990005,(#990001));\n"
        text += "#990004=IDENTIFICATION_ROLE('external document id and location',$);\n"
        text += f"#990005=EXTERNAL_SOURCE(IDENTIFIER('{name}'));\n/* {k} */\n"
        data = pawl.replace(b"DATA;\n", b"DATA;\n" + text.encode(), 1)
        job = ask(f"{url}/api/parts", "POST", data=form(data, "it.step"), Content_Type=FORM).body
        start = time.monotonic()
        while job["state"] == "working":
            time.sleep(0.03)
            job = ask(f"{url}/api/jobs/{job['id']}").body
        ends["slowest"] = max(ends["slowest"], int(time.monotonic() - start))
        if job["state"] != "done":
            ends["refused"] += 1
            continue
        info = ask(f"{url}/api/parts/{job['part']}").body["summary"]
        ends["followed"] += len(info["bodies"]) != 1
        ends["not said"] += not any("did not come along" in r for r in info["remarks"])
        ends["read alone"] += 1
    return dict(ends)


def growth(home: Path, sizes: int, acts: int) -> dict[str, float]:
    """Many acts on a drawing of many sizes: bytes that each takes, how long, how long its history and any step of it take."""
    with running(home) as server:
        part = bring(server.url)
        seconds: dict[int, list[float]] = {}
        for count in (0, sizes):
            made = ask(f"{server.url}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
            where, edit = f"{server.url}/api/drawings/{made['id']}", made["edit"]
            for k in range(0, count, 250):
                more = [_size(100 + k + i) for i in range(min(250, count - k))]
                edit = _act(where, edit, {"op": "annotate", "sheet": "e1", "annotations": more})[0]
            before, seconds[count] = _bytes(home), []
            for k in range(acts if count else 200):
                change: dict[str, Any] = {"op": "set_field", "field": "owner", "value": f"W {k}"}
                if count and k % 2:
                    place = {"place": {"offset": 10 + k % 50}}
                    change = {"op": "change_annotation", "id": f"e{100 + k % count}", "changes": place}
                edit, took = _act(where, edit, change)
                seconds[count].append(took)
        after, memory = _bytes(home), server.memory()
        with ThreadPoolExecutor(5) as five:
            history = max(a.seconds for a in five.map(lambda _: ask(f"{where}/history"), range(5)))
        slowest = 0.0
        for by in (acts // 2, acts // 3):
            answer = ask(f"{where}/undo", "POST", {"edit": edit, "by": by})
            edit, slowest = answer.body["edit"], max(slowest, answer.seconds)
        middle = {count: sorted(found)[len(found) // 2] for count, found in seconds.items()}
        return {
            "bytes an act": (after - before) / acts,
            "MB": after / 1e6,
            "ms an act": 1e3 * middle[sizes],
            "ms on none": 1e3 * middle[0],
            "history": history,
            "any step": slowest,
            "more memory": server.memory() - memory,
        }


def _size(number: int) -> dict[str, Any]:
    anchor = {"ref": f"E{number:010x}", "at": "line"}
    return {"kind": "dimension", "id": f"e{number}", "on": "e2", "measure": "length", "anchors": [anchor]}


def _act(where: str, edit: int, operation: dict[str, Any]) -> tuple[int, float]:
    answer = ask(f"{where}/acts", "POST", {"edit": edit, "act": {"act": "operation", "operation": operation}})
    assert answer.status == 200, answer
    return answer.body["edit"], answer.seconds


def _bytes(home: Path) -> int:
    with sqlite3.connect(home / "barequill.sqlite") as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    connection.close()
    return (home / "barequill.sqlite").stat().st_size


def damage(home: Path, rounds: int) -> dict[str, int]:
    """Bytes of rows spoilt at random while a server runs: the shelf, search and other drawings go on."""
    dice, ends = random.Random(9), Counter()
    with running(home) as server:
        part = bring(server.url)
        fine = ask(f"{server.url}/api/drawings", "POST", {"part": part, "views": ["front"]}).body["id"]
        for _ in range(rounds):
            made = ask(f"{server.url}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
            where = f"{server.url}/api/drawings/{made['id']}"
            _act(where, made["edit"], {"op": "set_field", "field": "owner", "value": "x"})
            with sqlite3.connect(home / "barequill.sqlite", timeout=30) as connection:
                table = dice.choice(["drawings", "steps", "acts"])
                columns = [
                    r[1] for r in connection.execute(f"PRAGMA table_info({table})") if r[1] not in ("id", "drawing_id")
                ]
                value = dice.choice(["", "x", dice.randbytes(20), -1, 2**60, "[]", "{", None, 1e300])
                which = "id" if table == "drawings" else "drawing_id"
                try:
                    connection.execute(
                        f"UPDATE {table} SET {dice.choice(columns)} = ? WHERE {which} = ?", (value, made["id"])
                    )
                except sqlite3.Error:
                    ends["not to be spoilt"] += 1
            connection.close()
            for way in ("", "/history", "/kept", "/sheets/e1/ink"):
                ends["faults"] += ask(where + way).status == 500
            ends["shelf closed"] += ask(f"{server.url}/api/drawings?search=").status != 200
            ends["others closed"] += ask(f"{server.url}/api/drawings/{fine}").status != 200
            ends["not removed"] += ask(where, "DELETE").status != 200
            ends["rounds"] += 1
    return dict(ends)


def placed_views(url: str, part: str, count: int) -> dict[str, float]:
    """Many pictures asked for at once, and acts meanwhile."""
    made = ask(f"{url}/api/drawings", "POST", {"part": part, "views": ["front", "top", "iso"]}).body
    where, ends = f"{url}/api/drawings/{made['id']}", Counter()

    def one() -> None:
        try:
            ends[ask(f"{where}/issue/png").status] += 1
        except BROKEN:
            ends[0] += 1

    threads = [threading.Thread(target=one) for _ in range(count)]
    for t in threads:
        t.start()
    edit, slowest = made["edit"], 0.0
    for k in range(40):
        edit, took = _act(where, edit, {"op": "set_field", "field": "owner", "value": f"{k}"})
        slowest = max(slowest, took)
    for t in threads:
        t.join()
    return {
        "made": float(ends[200]),
        "told to wait": float(ends[503]),
        "other": float(ends[0] + ends[500]),
        "act": slowest,
    }


def connections(home: Path, count: int) -> dict[str, float]:
    """Idle connections, more than the descriptors of a usual process."""
    server, held = Server(home), []
    server.start(before=lambda: resource.setrlimit(resource.RLIMIT_NOFILE, (1024, 1024)))
    try:
        for _ in range(count):
            held.append(socket.create_connection(("127.0.0.1", server.port), timeout=30))
        first = ask(f"{server.url}/api/health").seconds
        return {"held": float(count), "first": first, "then": ask(f"{server.url}/api/health").seconds}
    finally:
        for each in held:
            each.close()
        server.kill()


def operations(batches: int) -> dict[str, int]:
    """Operations at random, in two processes."""
    words = [[sys.executable, "-m", "tools.made_operations", f"{batches // 2}", f"{first}"] for first in (1, 1001)]
    running_ = [subprocess.Popen(w, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True) for w in words]
    said = [p.communicate()[0].strip().splitlines() for p in running_]
    ends: Counter = Counter()
    for line in (x for lines in said for x in lines if "{'" in x and "Error" not in x):
        ends.update(json.loads(line[line.index("{") :].replace("'", '"')))
    return {**ends, "bad": sum(int(lines[-1]) for lines in said)}


def readers(url: str) -> dict[str, float]:
    """Small files that come while large ones are read."""
    filler = b"/* " + b"x" * 30_000_000 + b" */\n"
    for k in range(3):
        text = PART.read_bytes().replace(b"DATA;\n", b"DATA;\n" + b"/* %d */" % k + filler, 1)
        ask(f"{url}/api/parts", "POST", data=form(text, f"large-{k}.step"), Content_Type=FORM)
    start = time.monotonic()
    small = PART.read_bytes().replace(b"DATA;\n", b"DATA;\n/* small */\n", 1)
    job = ask(f"{url}/api/parts", "POST", data=form(small, "small.step"), Content_Type=FORM).body
    while job["state"] == "working":
        time.sleep(0.03)
        job = ask(f"{url}/api/jobs/{job['id']}").body
    return {"small": time.monotonic() - start}


def command_line(count: int) -> dict[str, int]:
    """Documents spoilt at random, drawn by the command: one line, no trace."""
    dice, ends = random.Random(11), Counter()
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([sys.executable, "-c", _DOCUMENT.format(folder=folder, pawl=str(PART))], check=True)
        whole = (Path(folder) / "whole.json").read_text()
        for k in range(count):
            text = _spoilt(whole, dice)
            (Path(folder) / "it.json").write_text(text)
            words = [sys.executable, "-m", "barequill.cli", "draw", "it.json", "--parts", ".", "-o", f"{k}.svg"]
            done = subprocess.run(words, cwd=folder, capture_output=True, text=True, timeout=300)
            ends["drawn" if done.returncode == 0 else "refused" if done.returncode == 2 else "faults"] += 1
            ends["traces"] += "Traceback" in done.stderr or len(done.stderr.strip().splitlines()) > 1
    return dict(ends)


_DOCUMENT = """
import json, shutil
from pathlib import Path
from barequill.core.reading.reading import content_key
folder, pawl = Path({folder!r}), Path({pawl!r})
shutil.copy(pawl, folder / "pawl.step")
key = content_key(pawl.read_bytes())
views = [{{"kind": "principal", "id": "e2", "part": key, "place": [100, 100], "toward": [0, -1, 0], "up": [0, 0, 1]}},
         {{"kind": "projected", "id": "e3", "part": key, "place": [200, 100], "parent": "e2", "look": "left"}}]
sizes = [{{"kind": "centre_mark", "id": "e4", "on": "e2", "ref": "E1"}}]
sheet = {{"id": "e1", "views": views, "annotations": sizes}}
(folder / "whole.json").write_text(json.dumps({{"version": 5, "parts": [{{"key": key}}], "sheets": [sheet], "last_id": 4}}))
"""


def _spoilt(text: str, dice: random.Random) -> str:
    value = json.loads(text)
    places: list[tuple[Any, Any]] = list(_places(value))
    for _ in range(dice.choice([0, 1, 1, 2])):
        holder, key = dice.choice(places)
        made = dice.choice([None, -1, 1e300, "", "e2", "e3", [], {}, True, "x" * 999, [[[]]], holder])
        holder[key] = json.loads(json.dumps(made)) if made is not holder else "e1"
    return json.dumps(value)


def _places(value: Any) -> Iterator[tuple[Any, Any]]:
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, inner in items:
        yield value, key
        yield from _places(inner)


def names(count: int) -> dict[str, float]:
    """Strings of STEP files put together at random, and long ones: none takes long, none is a fault."""
    dice, slowest = random.Random(13), 0.0
    pieces = [
        b"\\X2\\",
        b"\\X0\\",
        b"\\X4\\",
        b"\\S\\",
        b"\\P",
        b"\\X\\",
        b"00E4",
        b"''",
        b"\\",
        b"A",
        b"\xe4",
        b" " * 50,
        b"/*",
        b"*/",
    ]
    for _ in range(count):
        raw = b"".join(dice.choices(pieces, k=dice.choice([3, 10, 2000])))
        start = time.process_time()
        decoded(raw)
        references.standing_alone(b"DOCUMENT_FILE('" + raw, {})
        slowest = max(slowest, time.process_time() - start)
    return {"names": float(count), "slowest": slowest}
