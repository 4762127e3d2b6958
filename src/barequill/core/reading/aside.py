"""Work done aside, in a process of its own that begins with all that this one holds: for what the kernel computes alone."""

from __future__ import annotations

import ctypes
import os
import pickle
import signal
import sys
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")
PR_SET_PDEATHSIG = 1


def begun(work: Callable[[], T]) -> Callable[[], T]:
    """Begin some work aside; what is given back waits for it, and does it here where that was not possible.

    What the work needs it must hold already; its result is sent back, nothing else of it is seen here.
    """
    if sys.platform != "linux" or (os.cpu_count() or 1) < 2:
        return work
    reading, writing = os.pipe()
    try:
        child = os.fork()
    except OSError:
        os.close(reading)
        os.close(writing)
        return work
    if not child:
        # whatever happens, this process ends here, without what its parent would do at its end
        try:
            os.close(reading)
            # where its parent is ended it ends too
            ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
            with os.fdopen(writing, "wb") as pipe:
                pickle.dump(work(), pipe)
        finally:
            os._exit(0)
    os.close(writing)

    def result() -> T:
        with os.fdopen(reading, "rb") as pipe:
            sent = pipe.read()
        os.waitpid(child, 0)
        try:
            found: T = pickle.loads(sent)
        except (EOFError, pickle.UnpicklingError):
            return work()
        return found

    return result
