"""Bodies as the kernel gave them, on their way from a file to a Part."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass
class RawBody:
    """A body as the kernel gave it."""

    name: str
    shape: Any
    material: str | None = None
    density: float | None = None
