"""Kernel work and projection in processes of their own, with time limits, caching by content.

A bad file may hang or kill the kernel: it costs one job, never the server.
"""

from __future__ import annotations

import logging
import os
import re
import shutil
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import CancelledError, TimeoutError
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from pebble import ProcessExpired

from ..core.errors import Busy, NotFound, UserError
from ..core.features.derived import part_of, source_of
from ..core.part.model import Part
from ..core.projection.shading import Shading
from ..core.recent import Recent
from ..core.views.projecting import ProjectionResult
from ..core.views.scene import Scene
from . import tasks
from .crew import Crew, Task
from .held import curves_of, kept
from .jobs import TOKEN, WALL, Job, Reader, ReadingJobs
from .limits import limits, machine_memory
from .serialisation import packed, unpacked, write_whole

log = logging.getLogger(__name__)
Projector = Callable[[str, Scene, str], bytes]
"""Projects a scene: prepared part, scene, where to keep the curves; gives them as bytes."""
READ_LIMIT = 180.0
PROJECT_LIMIT = 600.0
ENGINE = "22"
"""Raised whenever prepared parts or projections change, so that old cache entries are not used."""
CACHE_LIMIT = 2_000_000_000
KEY = re.compile(r"[0-9a-f]{24}")
"""What a part's key looks like; it becomes part of file names."""
PARTS_HELD, CURVES_HELD = 48_000_000, 24_000_000
"""Bytes, as on disk, of the parts and views that are held in memory."""
APART_KEPT = 40
"""Parts pulled apart whose files are kept."""
WAITERS = 64
"""Requests that may wait for views at once."""
AGAIN = 8
"""How often one who waits for a view begins it again where it is gone before it was fetched."""
RETRIES = 2
"""How often a view is begun again by itself after its worker has died."""


@dataclass(frozen=True)
class Pending:
    """A view that is being projected: share done, what is being done; or that was stopped, and why."""

    share: float
    what: str
    stopped: bool


@dataclass
class Stopped:
    """A view that is not being projected: why, and how often it failed; ``by_hand`` where a hand stopped it."""

    why: str
    times: int
    by_hand: bool = False


def checked_key(key: str) -> str:
    """The key of a part, or of one that is made of it, for use in file names.

    Raises
    ------
    NotFound
        Where it is none.
    """
    if not KEY.fullmatch(source_of(key)):
        raise NotFound("There is no such part", "Its key is not one that Bare Quill gives out. Choose it on the shelf.")
    return key


class Workshop:
    """The crews of workers, the parts and views last used, and the caches on disk."""

    def __init__(self, home: Path, read_limit: float = READ_LIMIT, reader: Reader | None = None) -> None:
        self.home = home
        self.set_reader(reader)
        self.set_projector(None)
        self.read_limit = read_limit
        self.cache = home / "cache"
        for folder in ("parts", "views", "reading"):
            (self.cache / folder).mkdir(parents=True, exist_ok=True)
        _sweep(self.cache)
        most, reading = limits(machine_memory()), self.cache / "reading"
        # a reader of somebody else's lies where one that is confined already could not load it from
        ready = partial(tasks.ready_reader, str(reading)) if reader is None else tasks.load_reading
        # a reader reads one file, beside nothing else, and is replaced: one more stands ready meanwhile
        self.readers = Crew(most.readers + 1, ready, most.reader_memory, most=1)
        self.projectors = Crew(most.projectors, tasks.nothing, most.projector_memory, most=500)
        self._count = most.projectors
        self.readings = ReadingJobs(self.readers, reading, read_limit, most.readers)
        self._parts: Recent[str, Any] = Recent(PARTS_HELD)
        self._curves: Recent[str, Any] = Recent(CURVES_HELD)
        self._projecting: dict[str, Task] = {}
        self._stopped: dict[str, Stopped] = {}
        self._lock, self._taking = threading.RLock(), threading.Lock()
        self._written = CACHE_LIMIT
        self._waiters = threading.BoundedSemaphore(WAITERS)

    def set_projector(self, projector: Projector | None) -> None:
        """What projects a view in its worker; None for the engine."""
        self._projector = projector or tasks.project_to

    def set_reader(self, reader: Reader | None) -> None:
        """What reads a part in its worker; None for the kernel."""
        self._reader = reader or tasks.read_part_to

    def warm(self) -> None:
        """Start the workers, and load machine code, which takes a second, before they are needed."""
        self.readers.start()
        for _ in range(self._count):
            self.projectors.schedule(tasks.nothing)
        threading.Thread(target=tasks.load_loops, daemon=True).start()

    def close(self) -> None:
        """Stop all workers."""
        self.readers.close()
        self.projectors.close()

    @contextmanager
    def waiting(self) -> Iterator[None]:
        """Room for one more who waits for a worker.

        Raises
        ------
        Busy
            Where so many wait that others would have no thread left.
        """
        if not self._waiters.acquire(blocking=False):
            raise Busy("Too much is being waited for", "Other views are being projected. Try again in a moment.")
        try:
            yield
        finally:
            self._waiters.release()

    # ---- parts

    def read(
        self,
        source: bytes | Path,
        name: str,
        keep: Callable[[Part, Path], object] = lambda part, path: None,
        as_unit: str | None = None,
    ) -> Job:
        """Begin to read a part file; ask the job how far it is. ``keep`` gets the part once it is read, and its file."""

        def take(job: Job, path: Path, prepared: Path) -> None:
            own = self._part_path(job.key)
            os.replace(prepared, own)
            for _ in range(self._count):
                self.projectors.schedule(tasks.take_up, [str(own)], timeout=PROJECT_LIMIT)
            keep(self.part(job.key), path)

        return self.readings.begin(source, name, self._reader, take, as_unit)

    @contextmanager
    def incoming(self) -> Iterator[Path]:
        """A folder for what comes in, which goes when this ends, or with the next start."""
        folder = self.readings.make_folder()
        try:
            yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def job(self, job_id: str) -> Job:
        """A job by its id."""
        return self.readings.job(job_id)

    def cancel(self, job_id: str) -> Job:
        """Stop reading a part; nothing of it is kept."""
        return self.readings.cancel(job_id)

    def _part_path(self, key: str) -> Path:
        return self.cache / "parts" / f"{checked_key(key)}-{ENGINE}.part"

    def part(self, key: str) -> Part:
        """A prepared part, read again from its file where the cache does not hold it."""
        part: Part | None = self._parts.get(key)
        if part is None:
            path = self._part_path(key)
            part, size = kept(path)
            if part is None:
                self._prepare_again(key)
                part, size = kept(path)
            if part is None:
                raise NotFound("The part is not there any more", "Bring the part file again.")
            self._parts.keep(key, part, size)
        return part

    def _prepare_again(self, key: str) -> None:
        if source_of(key) != key:
            write_whole(self._part_path(key), packed(part_of(key, self.part)))
            self._few_apart()
            return
        original = next((self.home / "parts").glob(f"{checked_key(key)}.*"), None)
        if original is None:
            raise NotFound("The part's file is gone", "Bring the part file again; drawings of it will find it.")
        told = re.search(r"\.as-(\w+)$", original.stem)
        with self.waiting():
            job = self.read(original, original.name, as_unit=told.group(1) if told else None)
            job.done.wait(WALL * self.read_limit + 60)
        if job.error is not None:
            raise job.error

    def _few_apart(self) -> None:
        """Remove what was pulled apart otherwise a while ago: each way makes a part of its own."""
        files = sorted((self.cache / "parts").glob("*-apart-*.part"), key=lambda p: p.stat().st_mtime)
        for path in files[:-APART_KEPT]:
            path.unlink(missing_ok=True)

    def forget(self, key: str) -> None:
        """Remove what was made of a part that is gone: its prepared form and its views."""
        for folder in ("parts", "views"):
            for path in (self.cache / folder).glob(f"{checked_key(key)}-*"):
                path.unlink(missing_ok=True)

    def drop_views(self) -> None:
        """Remove all views that are kept, in memory and on disk; they are made again when they are asked for."""
        self._curves.clear()
        for path in (self.cache / "views").iterdir():
            path.unlink(missing_ok=True)

    # ---- views

    def _view_name(self, scene: Scene) -> str:
        return f"{checked_key(scene.part)}-{scene.digest}-{ENGINE}"

    def taken(self, scene: Scene) -> ProjectionResult:
        """Projected curves of a scene: from memory, from disk, or made by a worker."""
        return self.many([scene])[0]

    def many(self, scenes: list[Scene]) -> list[ProjectionResult]:
        """Several projections, the missing ones side by side.

        Raises
        ------
        UserError
            Where one was stopped, takes too long, or its worker ended.
        """
        found = {scene: self._begun(scene, again=True) for scene in scenes}
        missing = [scene for scene in found if found[scene] is None]
        if missing:
            with self.waiting():
                for scene in missing:
                    found[scene] = self._awaited(scene)
        return [found[scene] for scene in scenes]  # type: ignore[misc]

    def _awaited(self, scene: Scene) -> ProjectionResult:
        """A view, waited for; begun again where what was made of it is gone already.

        Raises
        ------
        UserError
            Where it was stopped or failed; the message says why.
        """
        name = self._view_name(scene)
        for _ in range(AGAIN):
            task = self._projecting.get(name)
            if task is not None:
                try:
                    task.result()
                except (Exception, CancelledError):
                    log.info("a view was not projected", exc_info=True)
                self._take(name, task)
            found: ProjectionResult | None = self._curves.get(name)
            if found is not None:
                return found
            stopped = self._stopped.get(name)
            if stopped is not None and (stopped.by_hand or stopped.times > RETRIES):
                raise UserError("A view could not be projected", f"It was {stopped.why}. Try again from its offers.")
            # made, and given up again for others before it was fetched; or its worker ended: from disk, or once more
            found = self._begun(scene, again=False)
            if found is not None:
                return found
        raise Busy("A view is not there yet", "Others take all the room for views. Ask again in a moment.")

    def begin(self, scenes: list[Scene], again: bool = False) -> None:
        """Have missing projections made, without waiting; those that a hand has stopped only ``again``."""
        for scene in scenes:
            self._begun(scene, again)

    def _begun(self, scene: Scene, again: bool) -> ProjectionResult | None:
        """The curves of a view where they are there; else a worker has begun, unless the view is stopped."""
        name = self._view_name(scene)
        found: ProjectionResult | None = self._curves.get(name)
        if found is not None:
            return found
        with self._lock:
            stopped = self._stopped.get(name)
            if stopped is not None and (again or (not stopped.by_hand and stopped.times <= RETRIES)):
                stopped.by_hand = False
                stopped.times = 0 if again else stopped.times
                stopped = None
            if name in self._projecting or stopped is not None:
                return None
        path = self.cache / "views" / name
        found, size = kept(path)
        if found is not None:
            self._curves.keep(name, found, size)
            return found
        if not self._part_path(scene.part).exists():
            self._prepare_again(scene.part)
        with self._lock:
            if name not in self._projecting:
                args = [str(self._part_path(scene.part)), scene, str(path)]
                self._projecting[name] = self.projectors.schedule(self._projector, args, timeout=PROJECT_LIMIT)
        return None

    def pending(self, scenes: list[Scene], patience: float = 0.0) -> dict[Scene, Pending]:
        """Those of the projections begun that are not there after ``patience`` (s), and how far each is."""
        end = time.monotonic() + patience
        found: dict[Scene, Pending] = {}
        for scene in scenes:
            name = self._view_name(scene)
            task = self._projecting.get(name)
            if task is not None:
                try:
                    task.result(max(0.0, end - time.monotonic()))
                except TimeoutError:
                    if not task.done():
                        found[scene] = Pending(*self._how_far(name), False)
                        continue
                except (Exception, CancelledError):
                    pass
                self._take(name, task)
            stopped = self._stopped.get(name)
            if stopped is not None and self._curves.get(name) is None:
                found[scene] = Pending(0.0, stopped.why, True)
        return found

    def _how_far(self, name: str) -> tuple[float, str]:
        try:
            share, _, what = (self.cache / "views" / f"{name}.progress").read_text().partition(" ")
            return float(share), what
        except (OSError, ValueError):
            return 0.0, "waiting for a free worker"

    def shading(self, scene: Scene) -> Shading:
        """The shaded picture of a view: from disk, or made by a worker."""
        path = self.cache / "views" / f"{self._view_name(scene)}.tones"
        shading: Shading | None = kept(path)[0]
        if shading is None:
            if not self._part_path(scene.part).exists():
                self._prepare_again(scene.part)
            args = [str(self._part_path(scene.part)), scene, str(path)]
            with self.waiting():
                shading = unpacked(self.projectors.schedule(tasks.shade_to, args, timeout=PROJECT_LIMIT).result())
        return shading

    def stop(self, scene: Scene) -> None:
        """Stop projecting a view; nothing of it is kept."""
        name = self._view_name(scene)
        with self._lock:
            task = self._projecting.pop(name, None)
            if task is not None and not task.done():
                self._stopped[name] = Stopped("stopped by hand", 0, by_hand=True)
        if task is not None:
            task.cancel()
        (self.cache / "views" / f"{name}.progress").unlink(missing_ok=True)

    def _take(self, name: str, task: Task) -> None:
        """Keep what a worker has made, or why it has not; whoever comes meanwhile waits until it is kept."""
        with self._taking:
            if self._projecting.get(name) is not task:
                return
            value, size, why = None, 0, None
            try:
                data = task.result(0)
                value, size = curves_of(unpacked(data)), len(data)
            except (Exception, CancelledError) as error:
                why = error
                log.warning("a view was not projected: %s", _why(error), exc_info=error)
            with self._lock:
                if why is None:
                    self._curves.keep(name, value, size)
                    self._written += size
                    self._stopped.pop(name, None)
                else:
                    earlier = self._stopped.get(name)
                    if earlier is None or not earlier.by_hand:
                        times = earlier.times if earlier else 0
                        # a worker that died may have died of something else; what fails by itself fails again
                        times += 1 if isinstance(why, ProcessExpired | BrokenProcessPool) else 1 + RETRIES
                        self._stopped[name] = Stopped(_why(why), times)
                # only now: it is either under way, or kept, or stopped
                if self._projecting.get(name) is task:
                    del self._projecting[name]
        # a hand that drags a cut makes ten views a second: the folder is not gone through for each
        if self._written > CACHE_LIMIT / 100:
            self._written = 0
            self._trim()

    def _trim(self) -> None:
        """Keep the cache of views within its bound: the oldest go first."""
        files = []
        for path in (self.cache / "views").iterdir():
            if path.suffix in ("", ".tones"):
                try:
                    status = path.stat()
                except FileNotFoundError:
                    continue
                files.append((status.st_mtime, status.st_size, path))
        total = sum(size for _, size, _ in files)
        for _, size, path in sorted(files, key=lambda f: f[0]):
            if total <= CACHE_LIMIT:
                break
            total -= size
            path.unlink(missing_ok=True)


def _why(error: BaseException) -> str:
    if isinstance(error, TimeoutError):
        return f"stopped after {PROJECT_LIMIT:.0f} s"
    if isinstance(error, CancelledError):
        return "stopped"
    if isinstance(error, ProcessExpired | BrokenProcessPool):
        return "given up: its worker ended"
    if isinstance(error, MemoryError):
        return "given up: it needs too much memory"
    return f"given up by a fault of Bare Quill's ({type(error).__name__}), which is logged"


def _sweep(cache: Path) -> None:
    """Remove what processes that are gone have left behind."""
    left = [
        *cache.glob("read-*"),
        *cache.glob("reading/read-*"),
        *cache.glob("*/*.part"),
        *cache.glob("*/*.note"),
        *cache.glob("*/*.progress"),
    ]
    for path in left:
        owner = re.search(r"read-(\d+)-|\.(\d+)\.part$", path.name)
        if path.suffix == ".part" and owner is None:
            continue
        pid = int(next(g for g in owner.groups() if g)) if owner else 0
        mine = pid == os.getpid() and (path.suffix == ".part" or f"-{TOKEN}-" in path.name)
        if mine or (pid and pid != os.getpid() and Path(f"/proc/{pid}").exists()):
            continue
        shutil.rmtree(path, ignore_errors=True) if path.is_dir() else path.unlink(missing_ok=True)
