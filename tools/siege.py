"""Attacks on a running server: what the suite does a little of, ``make siege`` does at length, and prints a table.

Kills while acts and uploads run, broken part files, many writers, many who wait, memory after much use.
"""

from __future__ import annotations

import http.client
import json
import multiprocessing
import os
import random
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from barequill.core.errors import OurFault, UserError
from barequill.demo.filling import FOLDER

from .slow import project_slowly

PART = FOLDER / "pawl.step"
BROKEN = (OSError, http.client.HTTPException)
"""What a client is told where the server ends an answer early, or dies."""


@dataclass
class Answer:
    """What a server said."""

    status: int
    body: Any
    seconds: float


def ask(url: str, method: str = "GET", value: Any = None, data: bytes | None = None, **headers: str) -> Answer:
    """One request; JSON where there is a value."""
    if value is not None:
        data, headers = json.dumps(value).encode(), {"Content-Type": "application/json"} | headers
    request = urllib.request.Request(url, data, {k.replace("_", "-"): v for k, v in headers.items()}, method=method)
    start = time.perf_counter()
    try:
        with urllib.request.urlopen(request, timeout=120) as answer:
            status, text = answer.status, answer.read()
    except urllib.error.HTTPError as error:
        status, text = error.code, error.read()
    took = time.perf_counter() - start
    try:
        return Answer(status, json.loads(text), took)
    except ValueError:
        return Answer(status, text, took)


def bring(url: str, path: Path = PART, name: str = "") -> str:
    """Bring a part and wait for it; its key."""
    job = ask(f"{url}/api/parts", "POST", data=form(path.read_bytes(), name or path.name), Content_Type=FORM).body
    while job["state"] == "working":
        time.sleep(0.05)
        job = ask(f"{url}/api/jobs/{job['id']}").body
    assert job["state"] == "done", job
    return str(job["part"])


FORM = "multipart/form-data; boundary=edge"


def form(data: bytes, name: str) -> bytes:
    """A part file as a form."""
    head = f'--edge\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    return head.encode() + data + b"\r\n--edge--\r\n"


class Server:
    """A server in a process of its own, over one folder."""

    def __init__(self, home: Path) -> None:
        self.home = home
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen | None = None

    def start(self, before: Callable[[], object] | None = None) -> None:
        words = [sys.executable, "-m", "barequill.cli", "serve", "--port", str(self.port)]
        self.process = subprocess.Popen(
            words,
            env={**os.environ, "BAREQUILL_HOME": str(self.home)},
            stdout=subprocess.DEVNULL,
            start_new_session=True,
            preexec_fn=before,
        )
        for _ in range(600):
            try:
                ask(f"{self.url}/api/health")
                return
            except OSError:
                time.sleep(0.05)
        raise AssertionError("the server did not start")

    def kill(self) -> None:
        """End it, and all its workers, at once."""
        assert self.process is not None
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def memory(self) -> float:
        """MB that the server itself holds."""
        assert self.process is not None
        lines = Path(f"/proc/{self.process.pid}/status").read_text().splitlines()
        return next(int(x.split()[1]) for x in lines if x.startswith("VmRSS")) / 1000


@contextmanager
def running(home: Path) -> Iterator[Server]:
    """A server that runs within this."""
    server = Server(home)
    server.start()
    try:
        yield server
    finally:
        server.kill()


def kills(home: Path, rounds: int, seed: int = 1) -> dict[str, int]:
    """Kill a server while it takes acts and uploads; after each start all that it acknowledged must be there."""
    dice = random.Random(seed)
    server = Server(home)
    server.start()
    key = bring(server.url)
    made = ask(f"{server.url}/api/drawings", "POST", {"part": key, "views": ["front"], "centres": False}).body
    known, edit = {}, made["edit"]
    acts = lost = 0
    for turn in range(rounds):
        end = time.monotonic() + dice.uniform(0.05, 0.6)
        upload = threading.Thread(target=_quietly, args=(server.url, turn))
        upload.start()
        killer = threading.Timer(end - time.monotonic(), server.kill)
        killer.start()
        try:
            while True:
                value = f"turn {turn}, act {acts}"
                change = {"op": "set_field", "field": "creator", "value": value}
                answer = ask(
                    f"{server.url}/api/drawings/{made['id']}/acts",
                    "POST",
                    {"edit": edit, "act": {"act": "operation", "operation": change}},
                )
                assert answer.status == 200, answer
                edit, acts = answer.body["edit"], acts + 1
                known = {"value": value, "edit": edit}
        except BROKEN:
            pass
        killer.join()
        upload.join()
        server.start()
        now = ask(f"{server.url}/api/drawings/{made['id']}").body
        # an act that was kept but not acknowledged any more is no loss
        kept = now["document"]["fields"].get("creator"), now["edit"]
        if known and not known["edit"] <= now["edit"] <= known["edit"] + 1:
            lost += 1
            print(f"lost: acknowledged {known}, there is {kept}", flush=True)
        edit = now["edit"]
        known = {"value": kept[0], "edit": edit}
        assert ask(f"{server.url}/api/drawings/{made['id']}/sheets/e1/ink").status == 200
    left = [*(home / "cache" / "reading").glob("read-*"), *(home / "parts").glob("barequill-under-way-*")]
    dead = [
        p
        for p in Path(tempfile.gettempdir()).glob("barequill-*-*")
        if not Path(f"/proc/{p.name.split('-')[1]}").exists()
    ]
    half = [r["key"] for r in ask(f"{server.url}/api/parts").body if not list((home / "parts").glob(f"{r['key']}.*"))]
    server.kill()
    return {"kills": rounds, "acts": acts, "lost": lost, "left behind": len(left) + len(dead), "half stored": len(half)}


def _quietly(url: str, turn: int) -> None:
    with suppress(*BROKEN):
        data = PART.read_bytes().replace(b"WL-205", b"WL-%03d" % (turn % 1000))
        ask(f"{url}/api/parts", "POST", data=form(data, "other.step"), Content_Type=FORM)


def mutated(seed: int) -> bytes:
    """A part file with some of its figures, words or lines spoilt."""
    dice = random.Random(seed)
    names = ["pawl", "catch-box", "round-gear-cover", "angled-keeper"]
    data = bytearray((FOLDER / f"{dice.choice(names)}.step").read_bytes())
    for _ in range(dice.choice([1, 1, 2, 5, 20])):
        at = dice.randrange(200, len(data) - 200)
        way = dice.randrange(4)
        if way == 0:
            data[at] = dice.randrange(256)
        elif way == 1:
            # a figure far off
            digits = [k for k in range(at, min(at + 400, len(data))) if chr(data[k]).isdigit()]
            if digits:
                data[digits[0]] = ord(dice.choice("0123456789"))
        elif way == 2:
            end = data.find(b"\n", at)
            del data[at : end if 0 < end < at + 300 else at + 30]
        else:
            data[at:at] = data[at - 60 : at]
    return bytes(data)


def mutants(services: Any, seeds: range) -> Counter:
    """Spoilt part files read, and those that are accepted drawn; how each ended."""
    from barequill.web import schemas as s

    ends: Counter = Counter()
    for seed in seeds:
        data = mutated(seed)
        job = services.workshop.read(data, f"mutant-{seed}.step", lambda part, path: _kept(services, part, path))
        assert job.done.wait(200), "a job that never ends"
        if job.state != "done":
            ends["our fault" if isinstance(job.error, OurFault) else "refused with a reason"] += 1
            continue
        try:
            drawing = services.propose(s.NewDrawing(part=job.key))
            services.ink(drawing, drawing.sheets[0])
            ends["drawn"] += 1
        except UserError as error:
            ends["our fault" if isinstance(error, OurFault) else "drawing refused with a reason"] += 1
    return ends


def _kept(services: Any, part: Any, path: Path) -> None:
    services.store.keep_part(part.key, "mutant.step", path, part.summary())


def waiters(app: Any, url: str, part: str, count: int) -> dict[str, float]:
    """Many who wait for slow views: how long health, and acts on another drawing, take meanwhile (s, the slowest of all)."""
    workshop = app.extensions["services"].workshop
    made = ask(f"{url}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
    wide = ask(f"{url}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
    change = {"op": "set_view", "view": "e2", "changes": {"toward": [0.11, 0.9, random.random()], "up": [0, 0, 1]}}
    act = {"act": "operation", "operation": change}
    wide = ask(f"{url}/api/drawings/{wide['id']}/acts", "POST", {"edit": wide["edit"], "act": act}).body
    workshop.set_projector(project_slowly)
    try:
        threads = [
            threading.Thread(target=_patiently, args=(f"{url}/api/drawings/{wide['id']}/issue/svg",), daemon=True)
            for _ in range(count)
        ]
        for t in threads:
            t.start()
        time.sleep(2)
        found = {"waiting": float(sum(t.is_alive() for t in threads)), "health": 0.0, "act": 0.0}
        edit = made["edit"]
        for k in range(30):
            found["health"] = max(found["health"], ask(f"{url}/api/health").seconds)
            change = {"op": "set_field", "field": "owner", "value": f"W {k}"}
            body = {"edit": edit, "act": {"act": "operation", "operation": change}}
            answer = ask(f"{url}/api/drawings/{made['id']}/acts", "POST", body)
            assert answer.status == 200
            edit = answer.body["edit"]
            found["act"] = max(found["act"], answer.seconds)
        stopping = f"{url}/api/drawings/{wide['id']}/sheets/e1/views/e2/projection"
        ask(stopping, "POST", {"act": "stop"})
        for t in threads:
            t.join(30)
        return found
    finally:
        workshop.set_projector(None)


def _patiently(url: str) -> None:
    with suppress(*BROKEN):
        ask(url)


def writers(url: str, part: str, count: int, acts: int) -> dict[str, int]:
    """Many who write to one drawing at once: what is refused as stale is done again, and nothing gets lost."""
    made = ask(f"{url}/api/drawings", "POST", {"part": part, "views": ["front"], "centres": False}).body
    where, stale = f"{url}/api/drawings/{made['id']}", Counter()

    def write(own: int) -> None:
        done = 0
        while done < acts:
            edit = ask(where).body["edit"]
            change = {"op": "set_field", "field": f"own_{own}", "value": str(done)}
            body = {"edit": edit, "act": {"act": "operation", "operation": change}}
            status = ask(f"{where}/acts", "POST", body).status
            assert status in (200, 409), status
            done += status == 200
            stale["refused"] += status == 409

    threads = [threading.Thread(target=write, args=(k,)) for k in range(count)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    now = ask(where).body
    kept = sum(now["document"]["fields"].get(f"own_{k}") == str(acts - 1) for k in range(count))
    return {"writers": count, "acts": count * acts, "edit": now["edit"] - 1, "kept": kept, **stale}


def askers(app: Any, url: str, part: str, rounds: int, count: int = 8) -> dict[str, int]:
    """Many who ask at once for the six faces and for proposals of a part of which no view is there: each gets them."""
    services, ends = app.extensions["services"], Counter()
    gate = threading.Barrier(count + 1)
    wish = json.dumps({"part": part, "views": ["front", "top", "left"]})

    def one(own: int) -> None:
        connection = http.client.HTTPConnection(url.removeprefix("http://"))
        for _ in range(rounds):
            gate.wait()
            if own % 2:
                connection.request("GET", f"/api/parts/{part}/faces")
            else:
                connection.request("POST", "/api/proposals", wish, {"Content-Type": "application/json"})
            answer = connection.getresponse()
            said = answer.read()
            ends["had" if answer.status == 200 else said[:80].decode()] += 1
            gate.wait()

    threads = [threading.Thread(target=one, args=(k,), daemon=True) for k in range(count)]
    for t in threads:
        t.start()
    for _ in range(rounds):
        services.workshop.drop_views()
        services.projections.drop()
        gate.wait()
        gate.wait()
    for t in threads:
        t.join()
    return {"rounds": rounds, **ends}


def memory(home: Path, uploads: int, views: int, size: int = 40_000_000) -> dict[str, float]:
    """MB that the server holds after large uploads, half of them cancelled, and many projections."""
    with running(home) as server:
        key = bring(server.url)
        before = server.memory()
        filler = b"/* " + b"x" * 997 + b" */\n"
        for k in range(uploads):
            data = PART.read_bytes().replace(
                b"DATA;\n", b"DATA;\n" + filler * (size // len(filler)) + b"/* %d */\n" % k, 1
            )
            job = ask(f"{server.url}/api/parts", "POST", data=form(data, f"large-{k}.step"), Content_Type=FORM).body
            if k % 2:
                ask(f"{server.url}/api/jobs/{job['id']}", "DELETE")
        made = ask(f"{server.url}/api/drawings", "POST", {"part": key, "views": ["front"], "centres": False}).body
        edit, dice = made["edit"], random.Random(7)
        for _ in range(views):
            toward = [dice.uniform(-1, 1), dice.uniform(-1, 1), dice.uniform(0.1, 0.9)]
            change = {"op": "set_view", "view": "e2", "changes": {"toward": toward, "up": [0.01, 0.02, 1]}}
            body = {"edit": edit, "act": {"act": "operation", "operation": change}}
            edit = ask(f"{server.url}/api/drawings/{made['id']}/acts", "POST", body).body["edit"]
            ask(f"{server.url}/api/drawings/{made['id']}/sheets/e1/ink")
        return {"uploads": uploads, "views": views, "before": before, "after": server.memory()}


def main() -> int:
    """All of it at length."""
    from barequill.web.app import create_app
    from barequill.web.serving import server

    from . import siege_more as more

    bad = 0

    def told(name: str, run: Callable[[], Any], fine: Callable[[Any], bool]) -> None:
        nonlocal bad
        start = time.monotonic()
        found = dict(run())
        good = fine(found)
        bad += not good
        words = ", ".join(f"{k} {v:.3g}" if isinstance(v, float) else f"{k} {v}" for k, v in found.items())
        print(f"{'holds' if good else 'FAILS':6s} {name:16s} {words}   ({time.monotonic() - start:.0f} s)", flush=True)

    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        app = create_app(home / "served")
        listening = server(app, "127.0.0.1", 0)
        threading.Thread(target=listening.run, daemon=True).start()
        url = f"http://127.0.0.1:{listening.effective_port}"
        services = app.extensions["services"]
        part = bring(url)
        told("homes", lambda: more.homes(home / "homes", 150), lambda f: not f["lost"] and f["refused"] > 20)
        told("other files", lambda: more.reaching(url, 40), lambda f: not (f.get("followed") or f.get("not said")))
        told("64 who wait", lambda: waiters(app, url, part, 64), lambda f: f["health"] < 0.2 and f["act"] < 0.2)
        told("8 writers", lambda: writers(url, part, 8, 40), lambda f: f["kept"] == 8 and f["edit"] == f["acts"])
        told("8 askers", lambda: askers(app, url, part, 1000), lambda f: f["had"] == 8000)
        told("96 pictures", lambda: more.placed_views(url, part, 96), lambda f: not f["other"] and f["act"] < 1.5)
        told("readers", lambda: more.readers(url), lambda f: f["small"] < 8)
        told("100 mutants", lambda: mutants(services, range(100)), lambda f: not f.get("our fault"))
        services.close()
        told(
            "growth",
            lambda: more.growth(home / "growth", 1000, 1000),
            lambda f: (
                f["bytes an act"] < 4000
                and f["MB"] < 40
                and f["any step"] < 0.2
                and f["history"] < 0.5
                and f["ms an act"] < 2.2 * f["ms on none"] + 2
            ),
        )
        told(
            "damage",
            lambda: more.damage(home / "damage", 120),
            lambda f: not (f["faults"] or f["shelf closed"] or f["others closed"] or f["not removed"]),
        )
        told("connections", lambda: more.connections(home / "many", 1300), lambda f: f["then"] < 2)
        # what follows does not time anything: operations go on beside it
        beside = ProcessPoolExecutor(1, multiprocessing.get_context("spawn"))
        operations = beside.submit(more.operations, 80)
        told("command line", lambda: more.command_line(15), lambda f: not (f.get("faults") or f["traces"]))
        told("names", lambda: more.names(2000), lambda f: f["slowest"] < 1)
        told("memory", lambda: memory(home / "memory", 30, 120), lambda f: f["after"] < 400)
        told(
            "25 kills",
            lambda: kills(home / "killed", 25),
            lambda f: not f["lost"] and not f["left behind"] and not f["half stored"],
        )
        told("20,000 operations", operations.result, lambda f: not f["bad"])
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())


__all__ = ["Answer", "Server", "ask", "bring", "form", "kills", "memory", "mutants", "running", "waiters", "writers"]
