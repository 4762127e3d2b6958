"""Line types and widths (ISO 128-2:2020), lettering heights (ISO 3098-1)."""

from __future__ import annotations

from dataclasses import dataclass

from .sheets import like


@dataclass(frozen=True)
class Pen:
    """A line type: its width class, its pattern in line widths (dash, gap, …), its number in ISO 128-2."""

    name: str
    wide: bool
    pattern: tuple[float, ...] = ()
    number: str = "01.1"
    layer: str = ""


LETTERING, HEADING = 1 / 10, 1 / 7
"""Widths of lettering's lines, in its heights: type B of ISO 3098, and half as wide again for headings."""
DASHED = (12.0, 3.0)
LONG_DASHED_DOTTED = (24.0, 3.0, 0.5, 3.0)
LONG_DASHED_DOUBLE_DOTTED = (24.0, 3.0, 0.5, 3.0, 0.5, 3.0)

PENS: dict[str, Pen] = {
    p.name: p
    for p in (
        Pen("visible", True, (), "01.2", "VISIBLE"),
        Pen("tangent", False, (), "01.1", "TANGENT"),
        Pen("hidden", False, DASHED, "02.1", "HIDDEN"),
        Pen("centre", False, LONG_DASHED_DOTTED, "04.1", "CENTRE"),
        Pen("dimension", False, (), "01.1", "DIMENSION"),
        Pen("hatch", False, (), "01.1", "HATCH"),
        Pen("limit", False, (), "01.1", "LIMIT"),
        Pen("adjacent", False, LONG_DASHED_DOUBLE_DOTTED, "05.1", "ADJACENT"),
        Pen("cutting", False, LONG_DASHED_DOTTED, "04.1", "CUTTING"),
        Pen("cutting-end", True, (), "04.2", "CUTTING_WIDE"),
        Pen("treated", True, LONG_DASHED_DOTTED, "04.2", "TREATED"),
        Pen("revolved", False, (), "01.1", "REVOLVED"),
        Pen("frame", True, (), "01.2", "FRAME"),
        Pen("frame-narrow", False, (), "01.1", "FRAME_NARROW"),
        Pen("sign", False, (), "01.1", "SIGN"),
        Pen("text", False, (), "01.1", "TEXT"),
    )
}


@dataclass(frozen=True)
class LineGroup:
    """Widths in mm of wide and narrow lines, and lettering heights that go with them. Signs have lines as their lettering has,
    a tenth of its height (ISO 7083)."""

    wide: float
    narrow: float
    lettering: float
    caption: float
    font: str = "upright"

    def width(self, pen: str) -> float:
        """Width in mm of a pen."""
        if pen == "frame":
            return 0.7
        if pen in ("sign", "text"):
            return self.lettering * LETTERING
        return self.wide if PENS[pen].wide else self.narrow


GROUPS = {0.25: 0.13, 0.35: 0.18, 0.5: 0.25, 0.7: 0.35, 1.0: 0.5}
"""Narrow lines by the wide ones, mm: the groups of ISO 128-2."""
HEIGHTS = (2.5, 3.5, 5.0, 7.0, 10.0)
"""Heights of lettering, mm (ISO 3098-1)."""


def line_group(
    size: str, wide: float | None = None, lettering: float | None = None, font: str = "upright"
) -> LineGroup:
    """The group of a sheet, its ``wide`` line and its ``lettering`` (mm) where these are chosen; else what is fit for it: 0.5/0.25
    on small sheets, 0.7/0.35 on large ones, lettering of 5 mm on A0, A1 and their like and of 3.5 on others. Captions are a step
    higher."""
    size = like(size)
    if wide is None:
        wide = 0.5 if size in ("A3", "A4", "A", "B") else 0.7
    if lettering is None:
        lettering = 5.0 if size in ("A0", "A1", "D", "E") else 3.5
    caption = next((h for h in HEIGHTS if h > lettering + 1e-9), round(1.4 * lettering, 1))
    return LineGroup(wide, GROUPS.get(wide, wide / 2), lettering, caption, font)


def fitted_pattern(pen: str, width: float, length: float) -> list[float]:
    """Dashes and gaps in mm for one stroke, so that it starts and ends with a (long) dash.

    Empty for a continuous line, or where the stroke is too short for one gap.
    """
    pattern = PENS[pen].pattern
    if not pattern:
        return []
    dash = pattern[0] * width
    period = sum(pattern) * width
    repeats = round((length - dash) / period)
    if repeats < 1:
        if length < 1.2 * (period - dash) + 1.0:
            return []
        repeats = 1
    factor = length / (repeats * period + dash)
    return [p * width * factor for p in pattern]
