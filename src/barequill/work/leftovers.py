"""Folders of ours in the system's folder for temporary files: told by their names whose they are, and swept once that
process is gone."""

from __future__ import annotations

import os
import re
import shutil
import stat
import tempfile
from contextlib import suppress
from pathlib import Path

NAMED = re.compile(r"barequill-(\d+)-\w+")


def own_prefix() -> str:
    """What the name of a temporary folder of this process begins with."""
    return f"barequill-{os.getpid()}-"


def sweep() -> None:
    """Remove folders of processes that were killed: by their name, and by who owns them."""
    for path in Path(tempfile.gettempdir()).glob("barequill-*-*"):
        owner = NAMED.fullmatch(path.name)
        with suppress(OSError):
            mine = owner and path.lstat().st_uid == os.getuid() and stat.S_ISDIR(path.lstat().st_mode)
            if mine and owner and not Path(f"/proc/{owner[1]}").exists():
                shutil.rmtree(path)
