"""What tools and tests share: the demo parts, each read once, and how the browser is started."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import Any

from barequill.core import Part, read_part
from barequill.demo.filling import FOLDER as DEMO_PARTS

COMMAND = str(Path(sys.executable).with_name("barequill"))
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


AT_LENGTH = bool(os.environ.get("BAREQUILL_AT_LENGTH"))
"""Whether tests go as far as they can: ``make proof`` wants that, ``make test`` is to be quick."""


def at_length(few: Any, many: Any) -> Any:
    """What of a kind a test tries, or how many: a few, or where proof is wanted all."""
    return many if AT_LENGTH else few


def demo_file(stem: str) -> Path:
    """A demo part's file."""
    return DEMO_PARTS / f"{stem}.step"


_read: dict[Path, Part] = {}


def part_of(path: Path) -> Part:
    """A part, read once for all tests."""
    if path not in _read:
        _read[path] = read_part(path)
    return _read[path]
