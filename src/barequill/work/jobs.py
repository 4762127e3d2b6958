"""Reading one part in a process of its own, for the command line: as soon as possible, and beside what else is loaded."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import BadPartFile, OurFault, UserError
from .collecting import begin_seldom

if TYPE_CHECKING:
    from ..core.part.model import Part

LIMIT = 180.0
"""Seconds that reading may take."""
CODE = "import sys; from barequill.work.jobs import _read_here; _read_here(*sys.argv[1:])"
BAD, OURS = 3, 4
"""Exit codes of the process: what was told stands in the file, or on its error stream."""


class Reading:
    """A part being read by another process, so that a bad file cannot end this one."""

    def __init__(self, path: Path, name: str, limit: float = LIMIT) -> None:
        if not path.is_file():
            raise BadPartFile(f"{name} cannot be opened", f"There is no file {path}. Check the path.")
        self.name, self.limit = name, limit
        self._folder = tempfile.TemporaryDirectory(prefix="barequill-")
        self._target = Path(self._folder.name) / "prepared"
        self._process = subprocess.Popen(
            [sys.executable, "-c", CODE, str(path.absolute()), name, str(self._target)], stderr=subprocess.PIPE
        )

    def part(self) -> Part:
        """The part, once it is read.

        Raises
        ------
        BadPartFile
            Where the file is bad, takes longer than the limit, or kills the kernel.
        OurFault
            Where preparing it failed.
        """
        from .plain import unpacked

        with self._folder:
            try:
                _, said = self._process.communicate(timeout=self.limit)
            except subprocess.TimeoutExpired:
                self._process.kill()
                raise BadPartFile(
                    f"{self.name} takes too long",
                    f"The kernel was stopped after {self.limit:.0f} s. Simplify the part or split it.",
                ) from None
            code = self._process.returncode
            if code == 0:
                part: Part = unpacked(self._target.read_bytes())
                return part
            if code == BAD:
                told: dict[str, Any] = json.loads(self._target.read_text())
                raise BadPartFile(told["title"], told["detail"])
            if code == OURS:
                sys.stderr.write(said.decode(errors="replace"))
                raise OurFault(
                    f"{self.name} could not be prepared",
                    "The fault is Bare Quill's, not the file's; its trace stands above. Export the part in another form.",
                )
            raise BadPartFile(
                f"{self.name} breaks the kernel",
                "Reading it ended the kernel's process. Heal the part in the modeller and export it again.",
            )


def _read_here(path: str, name: str, target: str) -> None:
    """What the other process does; it ends at once, since taking the kernel down takes half a second."""
    import os
    import resource
    import traceback

    begin_seldom()
    from .tasks import READER_MEMORY, read_part_to

    code = 0
    resource.setrlimit(resource.RLIMIT_AS, (READER_MEMORY, READER_MEMORY))
    try:
        read_part_to(path, name, f"{target}.progress", target)
    except UserError as error:
        Path(target).write_text(json.dumps({"title": error.title, "detail": error.detail}))
        code = BAD
    except Exception:
        traceback.print_exc()
        code = OURS
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)
