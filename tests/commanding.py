"""The command line as tests call it: within their own process, which has its packages loaded."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import Any, NamedTuple
from unittest.mock import patch

from click.testing import CliRunner

from barequill import cli, issuing, watching
from barequill.core import Part, read_part


class Told(NamedTuple):
    """How a command ended, and what it wrote."""

    returncode: int
    stdout: str
    stderr: str


class _Here:
    """A part read in this process; each state of a file once."""

    known: dict[tuple[str, int], Part] = {}

    def __init__(self, path: Path) -> None:
        self._path = path

    def part(self) -> Part:
        key = (str(self._path.resolve()), self._path.stat().st_mtime_ns)
        if key not in self.known:
            self.known[key] = read_part(self._path)
        return self.known[key]


def _reading(path: str, unit: str = "") -> Any:
    """What is no plain file, or is read in another unit, is for the process that reads."""
    own = Path(path)
    return _Here(own) if own.is_file() and not own.is_symlink() and not unit else _apart(path, unit)


_apart = issuing.reading


def run(*words: str, cwd: Path | None = None) -> Told:
    """A command with its words, in a folder. Plain files are read in this process; that they are read in one of their own is
    tried where commands are started."""
    with (
        contextlib.chdir(cwd or Path.cwd()),
        patch.object(issuing, "reading", _reading),
        patch.object(cli, "reading", _reading),
        patch.object(watching, "Reading", lambda path, _: _reading(str(path))),
    ):
        done = CliRunner().invoke(cli.main, list(words))
    return Told(done.exit_code, done.stdout, done.stderr)
