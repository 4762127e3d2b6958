"""Sheet sizes (ISO 5457:1999, ASME Y14.1), those of one's own, and rectangles on a sheet."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..errors import UserError

INCH = 25.4

SIZES: dict[str, tuple[float, float]] = {
    "A0": (841, 1189),
    "A1": (594, 841),
    "A2": (420, 594),
    "A3": (297, 420),
    "A4": (210, 297),
    "A": (8.5 * INCH, 11 * INCH),
    "B": (11 * INCH, 17 * INCH),
    "C": (17 * INCH, 22 * INCH),
    "D": (22 * INCH, 34 * INCH),
    "E": (34 * INCH, 44 * INCH),
}
"""Trimmed sizes in mm, short side first."""

OWN = re.compile(r"(\d{2,4}(?:\.\d)?)x(\d{2,4}(?:\.\d)?)")
"""How a size of one's own is called: both sides in mm."""
SHORTEST, LONGEST = 100.0, 4000.0
"""mm that a side of a sheet may have."""
ZONE_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"
CENTRING_MARK = 10.0


def paper(size: str) -> tuple[float, float]:
    """Both sides of a trimmed sheet in mm, the short one first; ``size`` by its name, or as ``420x1200``.

    Raises
    ------
    UserError
        Where there is no such size.
    """
    if size in SIZES:
        return SIZES[size]
    own = OWN.fullmatch(size)
    sides = sorted((float(own[1]), float(own[2]))) if own else []
    if not sides or not SHORTEST <= sides[0] <= sides[1] <= LONGEST:
        raise UserError(
            f"There is no sheet {size[:40]}",
            f"Choose one of {', '.join(SIZES)}, or say both sides in mm, such as 420x1200, each {SHORTEST:g} to {LONGEST:g}.",
        )
    return sides[0], sides[1]


def size_words(size: str) -> str:
    """A size as it is written in the title block: A3, or 420 × 1200."""
    return size if size in SIZES else " × ".join(f"{side:g}" for side in paper(size))


def like(size: str) -> str:
    """The ISO size that a sheet is nearest to by its area: its own where it has a name."""
    if size in SIZES:
        return size
    area = paper(size)[0] * paper(size)[1]
    return min(("A0", "A1", "A2", "A3", "A4"), key=lambda n: abs(SIZES[n][0] * SIZES[n][1] / area - 1))


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle on the sheet, mm from its lower left corner."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        return self.y1 - self.y0

    def grown(self, by: float) -> Rectangle:
        """The rectangle with a margin all round."""
        return Rectangle(self.x0 - by, self.y0 - by, self.x1 + by, self.y1 + by)

    def moved(self, x: float, y: float) -> Rectangle:
        """The rectangle elsewhere, by so much."""
        return Rectangle(self.x0 + x, self.y0 + y, self.x1 + x, self.y1 + y)

    def overlaps(self, other: Rectangle) -> bool:
        """True where both share area."""
        return self.x0 < other.x1 and other.x0 < self.x1 and self.y0 < other.y1 and other.y0 < self.y1

    def away(self, x: float, y: float) -> float:
        """How far a place lies from it, mm; 0 inside."""
        dx, dy = max(self.x0 - x, 0.0, x - self.x1), max(self.y0 - y, 0.0, y - self.y1)
        return float((dx * dx + dy * dy) ** 0.5)

    def holds(self, other: Rectangle) -> bool:
        """True where the other lies wholly inside."""
        return self.x0 <= other.x0 and self.y0 <= other.y0 and self.x1 >= other.x1 and self.y1 >= other.y1


def sheet_rectangle(size: str, landscape: bool) -> Rectangle:
    """The trimmed sheet."""
    short, long = paper(size)
    return Rectangle(0, 0, long, short) if landscape else Rectangle(0, 0, short, long)
