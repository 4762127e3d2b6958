"""Worker processes that heal: a pool that broke is built anew, and what it was given is given again."""

from __future__ import annotations

import logging
import multiprocessing
import multiprocessing.process
import multiprocessing.util
import resource
import shutil
import signal
import tempfile
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from pebble import ProcessPool

from .leftovers import own_prefix, sweep

log = logging.getLogger(__name__)
CONTEXT = multiprocessing.get_context("forkserver")
CONTEXT.set_forkserver_preload(["barequill.work.ready"])
TRIES = 3
"""How often a task is given to a pool that breaks for reasons of its own."""


def _name_temporary_folder() -> None:
    """Have what workers are reached by lie in a folder that tells whose it is: a kill leaves it behind."""
    own = multiprocessing.process.current_process()
    if own._config.get("tempdir") is None:  # type: ignore[attr-defined]
        sweep()
        folder = tempfile.mkdtemp(prefix=own_prefix())
        own._config["tempdir"] = folder  # type: ignore[attr-defined]
        multiprocessing.util.Finalize(None, shutil.rmtree, args=(folder, True), exitpriority=-100)  # type: ignore[attr-defined]


def bounded(memory: int, initializer: Callable[[], None]) -> None:
    """What a worker does first: leave it to the server to be stopped, limit its memory (bytes), then what is to be ready."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    initializer()


class Task(Future):
    """What a crew was given; cancelling it ends the process that works on it."""

    def __init__(self) -> None:
        super().__init__()
        self.inner: Future | None = None

    def cancel(self) -> bool:
        """Stop it, also where it is under way."""
        inner = self.inner
        if inner is not None:
            inner.cancel()
        return super().cancel() or self.cancelled()


class Crew:
    """So many worker processes, each with a limit of memory.

    Parameters
    ----------
    count : how many
    initializer : what each does first
    memory : bytes that each may take
    most : tasks after which a worker is replaced; 0 for never
    """

    def __init__(self, count: int, initializer: Callable[[], None], memory: int, most: int = 0) -> None:
        _name_temporary_folder()
        self._make = lambda: ProcessPool(
            max_workers=count,
            max_tasks=most,
            context=CONTEXT,
            initializer=bounded,
            initargs=(memory, initializer),
        )
        self._pool = self._make()
        self._lock = threading.Lock()
        self._closed = False

    @property
    def alive(self) -> bool:
        """True where the pool takes tasks; one that does not is built anew with the next task."""
        return bool(self._pool.active)

    def start(self) -> None:
        """Have the workers begin, before there is something to do."""
        with self._lock:
            self.alive  # noqa: B018  (a pool that is asked begins)

    def schedule(self, function: Callable[..., Any], args: Sequence[Any] = (), timeout: float | None = None) -> Task:
        """Have a worker run a function; after ``timeout`` (s) it is ended."""
        task = Task()
        self._give(task, function, list(args), timeout, 1)
        return task

    def _give(
        self, task: Task, function: Callable[..., Any], args: list[Any], timeout: float | None, turn: int
    ) -> None:
        def done(inner: Future) -> None:
            if inner.cancelled():
                Future.cancel(task)
                task.set_running_or_notify_cancel() if task.cancelled() else None
                return
            error = inner.exception()
            if isinstance(error, BrokenProcessPool) and turn < TRIES and not self._closed:
                log.warning("a pool of workers broke (%s): it is built anew", error)
                self._give(task, function, args, timeout, turn + 1)
            elif error is not None:
                task.set_exception(error)
            else:
                task.set_result(inner.result())

        with self._lock:
            if not self._pool.active and not self._closed:
                self._pool = self._make()
            try:
                task.inner = self._pool.schedule(function, args=args, timeout=timeout)
            except RuntimeError:
                if self._closed:
                    raise
                self._pool = self._make()
                task.inner = self._pool.schedule(function, args=args, timeout=timeout)
        task.inner.add_done_callback(done)

    def close(self) -> None:
        """End all workers."""
        self._closed = True
        self._pool.stop()
        self._pool.join(5)
