"""What worker processes do. Each function here runs in a process of its own."""

from __future__ import annotations

import os
import pickle
import signal
from functools import lru_cache
from pathlib import Path

from ..core.part.model import Part

Vector = tuple[float, float, float]


def nothing() -> None:
    """Only start the worker."""


def warm_reader() -> None:
    """Load the kernel once."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    from ..core.part import reading  # noqa: F401
    from ..core.part.warming import warm

    warm()


def warm_projector() -> None:
    """Load the projection once."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    from ..core.projection.warming import warm

    warm()


def write_whole(path: str, data: bytes) -> None:
    """Write a file so that it is there whole or not at all."""
    partial = f"{path}.{os.getpid()}.part"
    Path(partial).write_bytes(data)
    os.replace(partial, path)


def read_part_to(path: str, name: str, progress: str, target: str) -> None:
    """Read and prepare a part into a file."""
    from ..core.part import read_part

    def say(share: float, what: str) -> None:
        write_whole(progress, f"{share:.3f} {what}".encode())

    write_whole(target, pickle.dumps(read_part(path, name, say), protocol=5))


@lru_cache(maxsize=4)
def _part(path: str) -> Part:
    return pickle.loads(Path(path).read_bytes())


def shade_to(part_path: str, toward: Vector, up: Vector, target: str) -> bytes:
    """Shade a prepared part; the picture, pickled, which is kept in a file too."""
    from ..core.projection.shading import shade

    data = pickle.dumps(shade(_part(part_path), toward, up), protocol=5)
    write_whole(target, data)
    return data


def project_to(part_path: str, toward: Vector, up: Vector, target: str) -> bytes:
    """Project a prepared part; the curves, pickled, which are kept in a file too. How far it is stands beside it."""
    from ..core.projection import project

    note = Path(f"{target}.progress")

    def say(share: float, what: str) -> None:
        note.write_text(f"{share:.3f} {what}")

    try:
        say(0.0, "taking up the part")
        data = pickle.dumps(project(_part(part_path), toward, up, progress=say), protocol=5)
        write_whole(target, data)
    finally:
        note.unlink(missing_ok=True)
    return data
