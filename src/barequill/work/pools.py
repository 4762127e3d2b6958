"""Worker processes: one reads part files with the kernel, others project views.

A process that hangs is stopped at its time limit, one that dies costs its job only.
"""

from __future__ import annotations

import hashlib
import logging
import multiprocessing
import os
import pickle
import shutil
import tempfile
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, TimeoutError
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import uuid4

from pebble import ProcessExpired, ProcessPool

from ..core.errors import BadPartFile, NotFound, UserError
from ..core.part.model import Part
from ..core.part.reading import content_key
from ..core.projection.engine import ProjectedCurve
from ..core.projection.shading import Shading
from . import tasks

log = logging.getLogger(__name__)
Vector = tuple[float, float, float]
Shot = tuple[str, Vector, Vector]
"""A part's key, and the directions toward the viewer and up."""
Reader = Callable[[str, str, str, str], None]
"""Reads a part: file, its name, where to write the progress, where to write the prepared part."""
Projector = Callable[[str, Vector, Vector, str], bytes]
"""Projects a view: prepared part, toward, up, where to keep the curves; gives them pickled."""
READ_LIMIT = 180.0
PROJECT_LIMIT = 600.0
ENGINE = "11"
"""Raised whenever prepared parts or projections change, so that old cache entries are not used."""
CACHE_LIMIT = 2_000_000_000


@dataclass(frozen=True)
class Pending:
    """A view that is being projected: share done, what is being done; or that was stopped, and why."""

    share: float
    what: str
    stopped: bool


@dataclass
class Job:
    """A part being read."""

    id: str
    name: str
    folder: Path
    future: Future | None = None
    part: Part | None = None
    key: str = ""
    error: UserError | None = None
    state: str = "working"
    done: threading.Event = field(default_factory=threading.Event)

    def progress(self) -> tuple[float, str]:
        """Share done, and what is being done."""
        if self.state != "working":
            return 1.0, self.state
        try:
            share, _, what = (self.folder / "progress").read_text().partition(" ")
            return float(share), what
        except (OSError, ValueError):
            return 0.0, "waiting for a free worker"


def kept(path: Path) -> Any:
    """What a file of the cache holds; None where there is none, or it is damaged: then it is removed."""
    try:
        return pickle.loads(path.read_bytes())
    except FileNotFoundError:
        return None
    except Exception:
        log.warning("the cached %s is damaged and is made again", path.name)
        path.unlink(missing_ok=True)
        return None


class Workshop:
    """The pools, the parts last used, and the caches on disk."""

    def __init__(self, home: Path, read_limit: float = READ_LIMIT, reader: Reader | None = None) -> None:
        self.home = home
        self.set_reader(reader)
        self.set_projector(None)
        self.read_limit = read_limit
        self.cache = home / "cache"
        for folder in ("parts", "views"):
            (self.cache / folder).mkdir(parents=True, exist_ok=True)
        context = multiprocessing.get_context("spawn")
        self._readers = ProcessPool(max_workers=1, context=context, initializer=tasks.warm_reader)
        self._projectors = ProcessPool(max_workers=2, context=context, max_tasks=500, initializer=tasks.warm_projector)
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._parts: OrderedDict[str, Part] = OrderedDict()
        self._curves: OrderedDict[str, list[ProjectedCurve]] = OrderedDict()
        self._projecting: dict[str, Future] = {}
        self._stopped: dict[str, str] = {}
        self._lock = threading.RLock()

    def set_projector(self, projector: Projector | None) -> None:
        """What projects a view in its worker; None for the engine."""
        self._projector = projector or tasks.project_to

    def set_reader(self, reader: Reader | None) -> None:
        """What reads a part in its worker; None for the kernel."""
        self._reader = reader or tasks.read_part_to

    def warm(self) -> None:
        """Start the workers before they are needed."""
        self._readers.schedule(tasks.nothing)
        self._projectors.schedule(tasks.nothing)
        self._projectors.schedule(tasks.nothing)

    def close(self) -> None:
        """Stop all workers."""
        for pool in (self._readers, self._projectors):
            pool.stop()
            pool.join(5)

    def read(self, data: bytes, name: str, keep: Callable[[Part], object] | None = None) -> Job:
        """Begin to read a part file; ask the job how far it is. ``keep`` gets the part once it is read."""
        folder = Path(tempfile.mkdtemp(prefix="read-", dir=self.cache))
        job = Job(uuid4().hex[:12], name, folder, key=content_key(data))
        (folder / "part").write_bytes(data)
        with self._lock:
            self._jobs[job.id] = job
            while len(self._jobs) > 200:
                self._jobs.popitem(last=False)
        job.future = self._readers.schedule(
            self._reader,
            args=[str(folder / "part"), name, str(folder / "progress"), str(folder / "prepared")],
            timeout=self.read_limit,
        )
        job.future.add_done_callback(lambda f: self._read_done(job, f, keep))
        return job

    def _read_done(self, job: Job, future: Future, keep: Callable[[Part], object] | None) -> None:
        try:
            future.result()
            path = self._part_path(job.key)
            os.replace(job.folder / "prepared", path)
            with self._lock:
                job.part = self.part(job.key)
            if keep is not None:
                keep(job.part)
            job.state = "done"
        except UserError as error:
            job.error, job.state = error, "failed"
        except TimeoutError:
            job.error = BadPartFile(
                f"{job.name} takes too long",
                f"The kernel was stopped after {self.read_limit:.0f} s. Simplify the part or split it.",
            )
            job.state = "failed"
        except ProcessExpired:
            job.error = BadPartFile(
                f"{job.name} breaks the kernel",
                "Reading it ended the kernel's process. Heal the part in the modeller and export it again.",
            )
            job.state = "failed"
        except CancelledError:
            job.state = "cancelled"
        except Exception as error:
            job.error = BadPartFile(
                f"{job.name} cannot be read",
                f"The kernel refused it ({type(error).__name__}). Heal the part in the modeller and export it again.",
            )
            job.state = "failed"
        finally:
            shutil.rmtree(job.folder, ignore_errors=True)
            job.done.set()

    def job(self, job_id: str) -> Job:
        """A job by its id."""
        with self._lock:
            if job_id not in self._jobs:
                raise NotFound(
                    "There is no such job", "It ended long ago, or the server was restarted. Bring the part again."
                )
            return self._jobs[job_id]

    def cancel(self, job_id: str) -> Job:
        """Stop reading a part; nothing of it is kept."""
        job = self.job(job_id)
        if job.future is not None and job.state == "working":
            job.future.cancel()
            job.done.wait(5)
        return job

    def _part_path(self, key: str) -> Path:
        return self.cache / "parts" / f"{key}-{ENGINE}.part"

    def part(self, key: str) -> Part:
        """A prepared part, read again from its file where the cache does not hold it."""
        with self._lock:
            if key in self._parts:
                self._parts.move_to_end(key)
                return self._parts[key]
        path = self._part_path(key)
        part = kept(path)
        if part is None:
            self._prepare_again(key)
            part = pickle.loads(path.read_bytes())
        with self._lock:
            self._parts[key] = part
            while len(self._parts) > 12:
                self._parts.popitem(last=False)
        return part

    def _prepare_again(self, key: str) -> None:
        original = next((self.home / "parts").glob(f"{key}.*"), None)
        if original is None:
            raise NotFound("The part's file is gone", "Bring the part file again; drawings of it will find it.")
        job = self.read(original.read_bytes(), original.name)
        job.done.wait(self.read_limit + 10)
        if job.error is not None:
            raise job.error

    def _view_name(self, key: str, toward: Vector, up: Vector) -> str:
        text = f"{ENGINE}|{key}|{','.join(f'{x:.9f}' for x in (*toward, *up))}"
        return hashlib.sha256(text.encode()).hexdigest()[:32]

    def curves(self, key: str, toward: Vector, up: Vector) -> list[ProjectedCurve]:
        """Projected curves of a part: from memory, from disk, or made by a worker."""
        return self.many([(key, toward, up)])[0]

    def many(self, shots: list[Shot]) -> list[list[ProjectedCurve]]:
        """Several projections, the missing ones side by side."""
        self.begin(shots, again=True)
        names = [self._view_name(*s) for s in shots]
        for name in dict.fromkeys(names):
            future = self._projecting.get(name)
            if future is None:
                continue
            try:
                future.result()
            except CancelledError:
                raise UserError("A view was stopped", "Project it again from its offers.") from None
            except TimeoutError:
                raise UserError(
                    "A view takes too long",
                    f"Projecting it was stopped after {PROJECT_LIMIT:.0f} s. Leave out small bodies or split the part.",
                ) from None
            except ProcessExpired:
                raise UserError(
                    "A view could not be projected",
                    "Its worker ended. Try again; if it recurs, heal the part in the modeller.",
                ) from None
            self._take(name, future)
        lost = [n for n in names if n not in self._curves]
        if lost:
            raise UserError("A view could not be projected", f"It was {self._stopped.get(lost[0], 'lost')}. Try again.")
        return [self._curves[n] for n in names]

    def begin(self, shots: list[Shot], again: bool = False) -> None:
        """Have missing projections made, without waiting; those that a hand has stopped only ``again``."""
        for shot in shots:
            name = self._view_name(*shot)
            with self._lock:
                if again:
                    self._stopped.pop(name, None)
                if name in self._curves or name in self._projecting or name in self._stopped:
                    continue
            key, toward, up = shot
            path = self.cache / "views" / name
            curves = kept(path)
            if curves is not None:
                self._keep(name, curves)
                continue
            if not self._part_path(key).exists():
                self._prepare_again(key)
            with self._lock:
                if name not in self._projecting:
                    self._projecting[name] = self._projectors.schedule(
                        self._projector, args=[str(self._part_path(key)), toward, up, str(path)], timeout=PROJECT_LIMIT
                    )

    def pending(self, shots: list[Shot], patience: float = 0.0) -> dict[Shot, Pending]:
        """Those of the projections begun that are not there after ``patience`` (s), and how far each is."""
        end = time.monotonic() + patience
        found: dict[Shot, Pending] = {}
        for shot in shots:
            name = self._view_name(*shot)
            if name in self._stopped:
                found[shot] = Pending(0.0, self._stopped[name], True)
            future = self._projecting.get(name)
            if future is None:
                continue
            try:
                future.result(max(0.0, end - time.monotonic()))
            except TimeoutError:
                if not future.done():
                    found[shot] = Pending(*self._how_far(name), False)
                    continue
            except Exception:
                pass
            self._take(name, future)
            if name in self._stopped:
                found[shot] = Pending(0.0, self._stopped[name], True)
        return found

    def _how_far(self, name: str) -> tuple[float, str]:
        try:
            share, _, what = (self.cache / "views" / f"{name}.progress").read_text().partition(" ")
            return float(share), what
        except (OSError, ValueError):
            return 0.0, "waiting for a free worker"

    def shading(self, key: str, toward: Vector, up: Vector) -> Shading:
        """The shaded picture of a view: from disk, or made by a worker."""
        path = self.cache / "views" / f"{self._view_name(key, toward, up)}.tones"
        shading: Shading | None = kept(path)
        if shading is None:
            if not self._part_path(key).exists():
                self._prepare_again(key)
            args = [str(self._part_path(key)), toward, up, str(path)]
            shading = pickle.loads(self._projectors.schedule(tasks.shade_to, args=args, timeout=PROJECT_LIMIT).result())
        return shading

    def stop(self, shot: Shot) -> None:
        """Stop projecting a view; nothing of it is kept."""
        name = self._view_name(*shot)
        with self._lock:
            future = self._projecting.pop(name, None)
            if future is not None and not future.done():
                self._stopped[name] = "stopped by hand"
                future.cancel()
        (self.cache / "views" / f"{name}.progress").unlink(missing_ok=True)

    def _take(self, name: str, future: Future) -> None:
        """Keep what a worker has made, or why it has not."""
        with self._lock:
            self._projecting.pop(name, None)
        try:
            self._keep(name, pickle.loads(future.result(0)))
        except TimeoutError:
            self._stopped[name] = f"stopped after {PROJECT_LIMIT:.0f} s"
        except Exception as error:
            self._stopped[name] = f"failed ({type(error).__name__})"
        self._trim()

    def _keep(self, name: str, curves: list[ProjectedCurve]) -> None:
        with self._lock:
            self._curves[name] = curves
            while len(self._curves) > 300:
                self._curves.popitem(last=False)

    def _trim(self) -> None:
        """Keep the cache of views within its bound: the oldest go first."""
        files = sorted(
            (p for p in (self.cache / "views").iterdir() if p.suffix in ("", ".tones")), key=lambda p: p.stat().st_mtime
        )
        total = sum(p.stat().st_size for p in files)
        for path in files:
            if total <= CACHE_LIMIT:
                break
            total -= path.stat().st_size
            path.unlink(missing_ok=True)
