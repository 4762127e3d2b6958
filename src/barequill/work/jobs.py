"""Kernel work in processes of its own, with a time limit."""

from __future__ import annotations

import multiprocessing
import pickle
from concurrent.futures import TimeoutError
from pathlib import Path

from pebble import ProcessExpired, ProcessPool

from ..core.errors import BadPartFile, UserError
from ..core.part.model import Part

READ_LIMIT = 180.0
"""Seconds that reading a part may take."""


def _read_to(path: str, name: str, target: str | None) -> bytes:
    from ..core.part import read_part

    def say(share: float, what: str) -> None:
        if target:
            Path(target).write_text(f"{share:.3f} {what}")

    return pickle.dumps(read_part(path, name, say), protocol=5)


def read_apart(path: Path, name: str, limit: float = READ_LIMIT) -> Part:
    """Read a part in another process.

    Raises
    ------
    BadPartFile
        Where the file is bad, takes longer than ``limit`` seconds, or kills the kernel.
    """
    if not path.is_file():
        raise BadPartFile(f"{name} cannot be opened", "There is no such file. Check the path.")
    with ProcessPool(max_workers=1, context=multiprocessing.get_context("spawn")) as pool:
        future = pool.schedule(_read_to, args=[str(path), name, None], timeout=limit)
        try:
            return pickle.loads(future.result())
        except UserError:
            raise
        except TimeoutError as error:
            raise BadPartFile(f"{name} takes too long", f"The kernel was stopped after {limit:.0f} s. Simplify the part or split it.") from error
        except ProcessExpired as error:
            raise BadPartFile(f"{name} breaks the kernel", "Reading it ended the kernel's process. Heal the part in the modeller and export it again.") from error
