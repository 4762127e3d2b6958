"""Parts being read: a job each, in a worker process."""

from __future__ import annotations

import hashlib
import logging
import os
import shutil
import signal
import tempfile
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, TimeoutError
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from uuid import uuid4

from pebble import ProcessExpired

from ..core.errors import BadPartFile, NotFound, OurFault, Unwritable, UserError
from ..core.reading.reading import key_as
from .crew import Crew

log = logging.getLogger(__name__)
Reader = Callable[[str, str, str, str, str | None, float], None]
"""Reads a part: file, its name, where to write the progress, where to write the prepared part, as which unit, and for how
many seconds it may work."""
Keeper = Callable[["Job", Path, Path], object]
"""Is given a job that went well, the file that was brought, and the prepared part."""
REMEMBERED = 200
WALL = 5.0
"""How many times its seconds of work a reading may take by the clock: the machine may be busy with something else."""
SLOWER = 0.5
"""Seconds of work more for each MB of a file."""
LARGE = 20_000_000
"""Bytes of a file above which one at a time is read, so that others find a reader free."""
PATIENCE = 60.0
"""Seconds after which a file that waits goes before smaller ones that came later."""
TOKEN = uuid4().hex[:8]
"""Tells the folders of this process from those of an earlier one of the same number."""


@dataclass
class Job:
    """A part being read."""

    id: str
    name: str
    folder: Path
    key: str
    size: int = 0
    begun: float = 0.0
    future: Future | None = None
    before: int = 0
    """How many are read before it, where it waits."""
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
            pass
        if self.future is None and self.before:
            return 0.0, f"waiting: {self.before} {'other is' if self.before == 1 else 'others are'} read before it"
        return 0.0, "waiting for a free reader" if self.future is None else "beginning"


def key_of(path: Path) -> str:
    """Key of a part file by its content, as :func:`barequill.core.reading.reading.content_key` gives it."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()[:24]


class ReadingJobs:
    """The jobs of one folder, and the crew that does them: ``count`` at a time, small files first."""

    def __init__(self, crew: Crew, folder: Path, limit: float, count: int) -> None:
        self._crew, self._folder, self._limit, self._count = crew, folder, limit, count
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._waiting: list[tuple[Job, Callable[[], Future], Keeper]] = []
        self._running: list[Job] = []
        self._lock = threading.RLock()

    def make_folder(self) -> Path:
        """A folder of this process for something that comes in; what is left of it when the process ends is swept."""
        return Path(tempfile.mkdtemp(prefix=f"read-{os.getpid()}-{TOKEN}-", dir=self._folder))

    def begin(
        self,
        source: bytes | Path,
        name: str,
        reader: Reader,
        keep: Keeper,
        as_unit: str | None = None,
    ) -> Job:
        """Read a part file, given by its bytes or where it lies (it is copied)."""
        folder = self.make_folder()
        path = folder / "part"
        try:
            if isinstance(source, Path):
                shutil.copyfile(source, path)
            else:
                path.write_bytes(source)
        except OSError:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        size = path.stat().st_size
        job = Job(uuid4().hex[:12], name, folder, key_as(key_of(path), as_unit), size, time.monotonic())
        seconds = self._limit + SLOWER * size / 1e6
        args = [str(path), name, str(folder / "progress"), str(folder / "prepared"), as_unit, seconds]
        with self._lock:
            self._jobs[job.id] = job
            for old in [j for j in self._jobs.values() if j.state != "working"][: max(0, len(self._jobs) - REMEMBERED)]:
                del self._jobs[old.id]
            begin = partial(self._crew.schedule, reader, args, timeout=WALL * seconds)
            self._waiting.append((job, begin, keep))
        self._next()
        return job

    def _next(self) -> None:
        """Begin with those whose turn it is."""
        begun = []
        with self._lock:
            while self._waiting and len(self._running) < self._count:
                large = self._count > 1 and any(j.size > LARGE for j in self._running)
                now = time.monotonic()
                fit = [w for w in self._waiting if not (large and w[0].size > LARGE)]
                if not fit:
                    break
                late = [w for w in fit if now - w[0].begun > PATIENCE]
                chosen = late[0] if late else min(fit, key=lambda w: w[0].size)
                self._waiting.remove(chosen)
                self._running.append(chosen[0])
                begun.append(chosen)
            for k, (job, _, _) in enumerate(sorted(self._waiting, key=lambda w: w[0].size)):
                job.before = len(self._running) + k
        for job, begin, keep in begun:
            try:
                job.future = begin()
            except RuntimeError as error:
                # the crew is closed: the server is being stopped
                failed: Future = Future()
                failed.set_exception(error)
                job.future = failed
            job.future.add_done_callback(partial(self._done, job, keep))

    def _done(self, job: Job, keep: Keeper, future: Future) -> None:
        try:
            future.result()
            keep(job, job.folder / "part", job.folder / "prepared")
            job.state = "done"
        except CancelledError:
            job.state = "cancelled"
        except BaseException as error:
            job.error, job.state = self._told(job, error), "failed"
        finally:
            shutil.rmtree(job.folder, ignore_errors=True)
            job.future = None
            job.done.set()
            with self._lock:
                self._running.remove(job)
            self._next()

    def _told(self, job: Job, error: BaseException) -> UserError:
        """An end of a job that went ill, in words."""
        name = job.name
        if isinstance(error, UserError):
            return error
        spent = isinstance(error, ProcessExpired) and error.exitcode == -signal.SIGXCPU
        if isinstance(error, TimeoutError) or spent:
            return BadPartFile(
                f"{name} takes too long",
                f"Reading it was stopped after {self._limit + SLOWER * job.size / 1e6:.0f} s of work. Simplify the part "
                "or split it.",
            )
        if isinstance(error, ProcessExpired):
            return BadPartFile(
                f"{name} breaks the kernel",
                "Reading it ended the kernel's process. Heal the part in the modeller and export it again.",
            )
        if isinstance(error, MemoryError):
            return BadPartFile(
                f"{name} needs too much memory",
                "Reading it was stopped. Simplify the part in the modeller or split it, and export it again.",
            )
        if isinstance(error, OSError):
            return full_or_barred(error, f"{name} was not kept")
        log.error("a fault of ours in reading %s", name, exc_info=error)
        return OurFault(
            f"{name} could not be prepared",
            f"The fault is Bare Quill's ({type(error).__name__}), not the file's: it has been logged with its trace. "
            "Export the part in another form, such as B-rep, to get on meanwhile.",
        )

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
        with self._lock:
            waited = [w for w in self._waiting if w[0] is job]
            self._waiting = [w for w in self._waiting if w[0] is not job]
            if waited:
                self._running.append(job)
        if waited:
            gone: Future = Future()
            gone.cancel()
            gone.set_running_or_notify_cancel()
            self._done(job, waited[0][2], gone)
        future = job.future
        if future is not None and job.state == "working":
            future.cancel()
            job.done.wait(5)
        return job


def full_or_barred(error: OSError, title: str) -> UserError:
    """A file that could not be written, in words."""
    return Unwritable(
        title, f"{error.strerror or error}. Free some room or see to the folder's permissions; try again."
    )
