"""The scene: what a view shows, as one value with a lasting name."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256

from ..cutting.limits import NO_CUT, Cut

Vector = tuple[float, float, float]


@dataclass(frozen=True)
class Leg:
    """One leg of an aligned section: its own camera and cut, and how far (mm) its picture is moved along the view."""

    toward: Vector
    up: Vector
    cut: Cut
    shift: tuple[float, float]

    def text(self) -> str:
        """All of it as one line."""
        figures = ",".join(f"{x:.9f}" for x in (*self.toward, *self.up, *self.shift))
        return f"{figures} {self.cut.text()}"


@dataclass(frozen=True)
class Scene:
    """A part, by its key, as a camera sees it: ``toward`` the viewer and ``up``, in the part's frame.

    ``bodies`` are the names of those that are shown, None for all. ``cut`` is what is taken away; an aligned section
    has ``legs`` in its place. ``ribs`` are faces of ribs and webs that are cut without hatch.
    """

    part: str
    toward: Vector
    up: Vector
    bodies: tuple[str, ...] | None = None
    cut: Cut = NO_CUT
    legs: tuple[Leg, ...] = ()
    ribs: tuple[str, ...] = ()
    limits: tuple[tuple[tuple[float, float], ...], ...] = ()
    """Outlines of local cuts, mm of the view about the middle of the part."""
    adjacent: tuple[str, ...] = ()
    """Bodies among those shown that are there only to tell what the others stand beside: they hide nothing."""
    own: tuple[Vector, Vector, Vector] | None = None
    """Of a pictorial view its directions in the part: level, upright and toward the viewer of what it is a picture of. They
    tell how it is measured, not what it shows."""

    oblique: tuple[Vector, Vector] | None = None
    """Of an oblique projection what of the part counts to the right and upward on its plane, which is not square to the sight: the
    place of a point is its products with both."""

    @property
    def is_cut(self) -> bool:
        """True where anything is taken away."""
        return bool(self.cut or self.legs)

    @property
    def takes(self) -> tuple[Leg, ...]:
        """What is projected: each of its legs, or all of it where it stands."""
        return self.legs or (Leg(self.toward, self.up, self.cut, (0.0, 0.0)),)

    @property
    def cuts(self) -> list[Cut]:
        """What is taken away, of each leg where it has legs."""
        return [leg.cut for leg in self.takes]

    @cached_property
    def digest(self) -> str:
        """A name (32 hexadecimal digits), the same wherever and whenever the scene is the same."""
        figures = ",".join(f"{x:.9f}" for x in (*self.toward, *self.up))
        bodies = "" if self.bodies is None else "|" + "\n".join(sorted(self.bodies))
        taken = ""
        if self.is_cut:
            taken = "|".join(["", self.cut.text(), *(leg.text() for leg in self.legs), "\n".join(sorted(self.ribs))])
            taken += "".join(f"|{x:.6f},{y:.6f}" for limit in self.limits for x, y in limit)
        if self.adjacent:
            taken += "|beside:" + "\n".join(sorted(self.adjacent))
        if self.oblique is not None:
            taken += "|oblique:" + ",".join(f"{x:.9f}" for way in self.oblique for x in way)
        return sha256(f"{self.part}|{figures}{bodies}{taken}".encode()).hexdigest()[:32]
