"""Reading one part in a process of its own, for the command line: as soon as possible, and beside what else is loaded."""

from __future__ import annotations

import json
import os
import shutil
import stat
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import BadPartFile, OurFault, UserError
from .collecting import begin_seldom
from .leftovers import own_prefix, sweep

if TYPE_CHECKING:
    from ..core.part.model import Part

LIMIT = 180.0
"""Seconds that reading may take."""
CODE = "import sys; from barequill.work.reading import _read_here; _read_here(*sys.argv[1:])"
BAD, OURS = 3, 4
"""Exit codes of the process: what was told stands in the file, or on its error stream."""


class Reading:
    """A part being read by another process, so that a bad file cannot end this one."""

    def __init__(self, path: Path, name: str, limit: float = LIMIT, unit: str = "") -> None:
        if not os.path.lexists(path):
            raise BadPartFile(f"{name} cannot be opened", f"There is no file {path}. Check the path.")
        try:
            plain = stat.S_ISREG(path.stat().st_mode)
        except OSError as error:
            raise BadPartFile(
                f"{name} cannot be opened", f"{error.strerror}: {path}. Check its permissions."
            ) from error
        if not plain:
            raise BadPartFile(f"{name} is no file", f"{path} is a folder, pipe or device. Give a part file.")
        self.name, self.limit = name, limit
        sweep()
        self._folder = tempfile.TemporaryDirectory(prefix=own_prefix())
        self._target = Path(self._folder.name) / "prepared"
        # the process that reads sees this folder alone
        own = self._target.with_name("part")
        try:
            shutil.copyfile(path, own)
        except OSError as error:
            self._folder.cleanup()
            raise BadPartFile(
                f"{name} cannot be opened", f"{error.strerror}: {path}. Check its permissions."
            ) from error
        self._process = subprocess.Popen(
            [sys.executable, "-c", CODE, str(own), name, str(self._target), unit], stderr=subprocess.PIPE
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
        from .serialisation import unpacked

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
                if os.environ.get("BAREQUILL_TRACE"):
                    sys.stderr.write(said.decode(errors="replace"))
                last = said.decode(errors="replace").strip().rpartition("\n")[2][:200]
                raise OurFault(
                    f"{self.name} could not be prepared",
                    f"The fault is Bare Quill's, not the file's ({last}). Export the part in another form.",
                )
            raise BadPartFile(
                f"{self.name} breaks the kernel",
                "Reading it ended the kernel's process. Heal the part in the modeller and export it again.",
            )


def _read_here(path: str, name: str, target: str, unit: str = "") -> None:
    """What the other process does, with the unit in which lengths of the file are taken where that is said; it ends at once, since taking the kernel down takes half a second."""
    import resource
    import traceback

    begin_seldom()
    from .limits import limits, machine_memory
    from .tasks import read_part_to

    code, memory = 0, limits(machine_memory()).reader_memory
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    try:
        read_part_to(path, name, f"{target}.progress", target, unit or None)
    except UserError as error:
        Path(target).write_text(json.dumps({"title": error.title, "detail": error.detail}))
        code = BAD
    except Exception:
        traceback.print_exc()
        code = OURS
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)
