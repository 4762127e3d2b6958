"""Sheet sizes, borders, zones and title block (ISO 5457:1999, ISO 7200:2004, ASME Y14.1)."""

from __future__ import annotations

from dataclasses import dataclass

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

FILING_MARGIN = 20.0
MARGIN = 10.0
ZONE = 50.0
ZONE_STRIP = 5.0
ZONE_LETTERING = 3.5
ZONE_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"
CENTRING_MARK = 10.0
TITLE_BLOCK_WIDTH = 180.0
TITLE_BLOCK_HEIGHT = 49.0


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
    short, long = SIZES[size]
    return Rectangle(0, 0, long, short) if landscape else Rectangle(0, 0, short, long)


def drawing_space(size: str, landscape: bool) -> Rectangle:
    """The space inside the frame."""
    r = sheet_rectangle(size, landscape)
    return Rectangle(FILING_MARGIN, MARGIN, r.x1 - MARGIN, r.y1 - MARGIN)


def title_block(size: str, landscape: bool) -> Rectangle:
    """Where the title block stands: at the lower right of the drawing space."""
    space = drawing_space(size, landscape)
    return Rectangle(space.x1 - TITLE_BLOCK_WIDTH, space.y0, space.x1, space.y0 + TITLE_BLOCK_HEIGHT)
