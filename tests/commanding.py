"""The command line as tests call it: within their own process, which has its packages loaded."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import NamedTuple

from click.testing import CliRunner

from barequill import cli


class Told(NamedTuple):
    """How a command ended, and what it wrote."""

    returncode: int
    stdout: str
    stderr: str


def run(*words: str, cwd: Path | None = None) -> Told:
    """A command with its words, in a folder."""
    with contextlib.chdir(cwd or Path.cwd()):
        done = CliRunner().invoke(cli.main, list(words))
    return Told(done.exit_code, done.stdout, done.stderr)
