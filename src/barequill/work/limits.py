"""How much of the machine the workers may take: together less than it has."""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

LEAST, READER_MOST, PROJECTOR_MOST = 2 << 30, 10 << 30, 8 << 30
"""Bytes that a worker needs at least (libraries and machine code take half of them), and may have at most."""
SHARE = 0.8
"""Of the machine's memory that all workers may have together."""
GROUP = "/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes"


@dataclass(frozen=True)
class Limits:
    """How many readers and projectors there are, and how much memory (bytes) each may take."""

    readers: int
    projectors: int
    reader_memory: int
    projector_memory: int


def machine_memory() -> int:
    """Bytes of memory that this machine has, or the group of processes that this one is in."""
    found = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    for name in GROUP:
        with suppress(OSError, ValueError):
            found = min(found, int(Path(name).read_text()))
    return found


def limits(memory: int) -> Limits:
    """What the workers may take on a machine with so much memory, bytes."""
    room = int(SHARE * memory)
    count = 2 if room >= 4 * LEAST else 1
    each = room / (2 * count)
    # readers take more: kernel, mesh and arrays stand beside each other in them
    reader = int(min(READER_MOST, max(1.1 * each, 1 << 30)))
    return Limits(count, count, reader, int(min(PROJECTOR_MOST, max(2 * each - reader, 1 << 30))))
