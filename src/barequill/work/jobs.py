"""Reading one part in a process of its own, for the command line."""

from __future__ import annotations

import tempfile
from pathlib import Path

from ..core.errors import BadPartFile
from ..core.part.model import Part
from ..core.part.reading import check_file
from .pools import READ_LIMIT, Workshop


def read_apart(path: Path, name: str, limit: float = READ_LIMIT) -> Part:
    """Read a part in another process, so that a bad file cannot end this one.

    Raises
    ------
    BadPartFile
        Where the file is bad, takes longer than ``limit`` seconds, or kills the kernel.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise BadPartFile(f"{name} cannot be opened", f"{error.strerror}. Check the path.") from error
    check_file(name, data)
    with tempfile.TemporaryDirectory() as folder:
        workshop = Workshop(Path(folder), limit)
        try:
            job = workshop.read(data, name)
            job.done.wait(limit + 30)
            if job.error is not None:
                raise job.error
            return workshop.part(job.key)
        finally:
            workshop.close()
