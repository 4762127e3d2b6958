"""The scene: what a view shows, as one value with a lasting name."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256

Vector = tuple[float, float, float]


@dataclass(frozen=True)
class Scene:
    """A part, by its key, as a camera sees it: ``toward`` the viewer and ``up``, in the part's frame.

    ``bodies`` are the names of those that are shown, None for all.
    """

    part: str
    toward: Vector
    up: Vector
    bodies: tuple[str, ...] | None = None

    @cached_property
    def digest(self) -> str:
        """A name (32 hexadecimal digits), the same wherever and whenever the scene is the same."""
        figures = ",".join(f"{x:.9f}" for x in (*self.toward, *self.up))
        bodies = "" if self.bodies is None else "|" + "\n".join(sorted(self.bodies))
        return sha256(f"{self.part}|{figures}{bodies}".encode()).hexdigest()[:32]
