"""Parts being read: a job each, in a worker process."""

from __future__ import annotations

import hashlib
import logging
import os
import shutil
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, TimeoutError
from dataclasses import dataclass, field
from pathlib import Path
from uuid import uuid4

from pebble import ProcessExpired

from ..core.errors import BadPartFile, NotFound, OurFault, Unwritable, UserError
from ..core.part.reading import key_as
from .crew import Crew

log = logging.getLogger(__name__)
Reader = Callable[[str, str, str, str, str | None], None]
"""Reads a part: file, its name, where to write the progress, where to write the prepared part, as which unit."""
Keeper = Callable[["Job", Path, Path], object]
"""Is given a job that went well, the file that was brought, and the prepared part."""
REMEMBERED = 200
TOKEN = uuid4().hex[:8]
"""Tells the folders of this process from those of an earlier one of the same number."""


@dataclass
class Job:
    """A part being read."""

    id: str
    name: str
    folder: Path
    key: str
    future: Future | None = None
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


def key_of(path: Path) -> str:
    """Key of a part file by its content, as :func:`barequill.core.part.reading.content_key` gives it."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()[:24]


class Readings:
    """The jobs of one folder, and the crew that does them."""

    def __init__(self, crew: Crew, cache: Path, limit: float) -> None:
        self._crew, self._cache, self._limit = crew, cache, limit
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = threading.Lock()

    def begin(self, source: bytes | Path, name: str, reader: Reader, keep: Keeper, as_unit: str | None = None) -> Job:
        """Read a part file, given by its bytes or where it lies (it is copied)."""
        folder = Path(tempfile.mkdtemp(prefix=f"read-{os.getpid()}-{TOKEN}-", dir=self._cache))
        path = folder / "part"
        try:
            if isinstance(source, Path):
                shutil.copyfile(source, path)
            else:
                path.write_bytes(source)
        except OSError:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        job = Job(uuid4().hex[:12], name, folder, key_as(key_of(path), as_unit))
        with self._lock:
            self._jobs[job.id] = job
            for old in [j for j in self._jobs.values() if j.state != "working"][: max(0, len(self._jobs) - REMEMBERED)]:
                del self._jobs[old.id]
        args = [str(path), name, str(folder / "progress"), str(folder / "prepared"), as_unit]
        job.future = self._crew.schedule(reader, args, timeout=self._limit)
        job.future.add_done_callback(lambda future: self._done(job, future, keep))
        return job

    def _done(self, job: Job, future: Future, keep: Keeper) -> None:
        try:
            future.result()
            keep(job, job.folder / "part", job.folder / "prepared")
            job.state = "done"
        except CancelledError:
            job.state = "cancelled"
        except BaseException as error:
            job.error, job.state = self._told(job.name, error), "failed"
        finally:
            shutil.rmtree(job.folder, ignore_errors=True)
            job.future = None
            job.done.set()

    def _told(self, name: str, error: BaseException) -> UserError:
        """An end of a job that went ill, in words."""
        if isinstance(error, UserError):
            return error
        if isinstance(error, TimeoutError):
            return BadPartFile(
                f"{name} takes too long",
                f"The kernel was stopped after {self._limit:.0f} s. Simplify the part or split it.",
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
