"""Border, zones, centring marks (ISO 5457) and title block (ISO 7200)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..display import FieldZone, Sketch
from ..display.lettering import text_width
from ..drawing import Sheet
from ..drawing.title_fields import AUTOMATIC, CELLS, NEEDED, Cell
from ..geometry import curves2
from ..standards import sheets

LABEL = 1.8


LEAST = 1.8
"""mm of the lowest lettering (ISO 3098)."""


def draw_frame(ink: Sketch, sheet: Sheet) -> None:
    """Trimmed edge, frame, zone strip with letters and figures, centring marks."""
    outer = sheets.sheet_rectangle(sheet.size, sheet.landscape)
    space = sheets.drawing_space(sheet.size, sheet.landscape)
    _box(ink, space, "frame")
    strip = space.grown(sheets.ZONE_STRIP)
    _box(ink, strip, "frame-narrow")
    for horizontal in (True, False):
        centre = outer.x1 / 2 if horizontal else outer.y1 / 2
        low, high = (space.x0, space.x1) if horizontal else (space.y0, space.y1)
        cuts = _fields(centre, low, high)
        names = [str(k + 1) for k in range(len(cuts) - 1)]
        if not horizontal:
            names = list(reversed(sheets.ZONE_LETTERS[: len(cuts) - 1]))
        bands = (
            ((space.y1, strip.y1), (strip.y0, space.y0)) if horizontal else ((strip.x0, space.x0), (space.x1, strip.x1))
        )
        for near, far in bands:
            for cut in cuts[1:-1]:
                ends = [(cut, near), (cut, far)] if horizontal else [(near, cut), (far, cut)]
                ink.stroke(curves2.line(*ends), "frame-narrow")
            for name, a, b in zip(names, cuts, cuts[1:], strict=False):
                x, y = ((a + b) / 2, (near + far) / 2) if horizontal else ((near + far) / 2, (a + b) / 2)
                ink.text(name, x, y - sheets.ZONE_LETTERING / 2, sheets.ZONE_LETTERING, "middle")
        reach = sheets.CENTRING_MARK / 2
        for edge, inward in ((low, 1), (high, -1)):
            start = edge - inward * sheets.ZONE_STRIP
            end = edge + inward * reach
            ends = (
                [(start, outer.y1 / 2), (end, outer.y1 / 2)]
                if horizontal
                else [(outer.x1 / 2, start), (outer.x1 / 2, end)]
            )
            ink.stroke(curves2.line(*ends), "frame")


def _fields(centre: float, low: float, high: float) -> list[float]:
    """Boundaries of the zones: every 50 mm from the symmetry axis; rests at the ends join a field."""
    cuts = [centre]
    k = 1
    while centre + k * sheets.ZONE < high - sheets.ZONE / 4 or centre - k * sheets.ZONE > low + sheets.ZONE / 4:
        if centre + k * sheets.ZONE < high - sheets.ZONE / 4:
            cuts.append(centre + k * sheets.ZONE)
        if centre - k * sheets.ZONE > low + sheets.ZONE / 4:
            cuts.append(centre - k * sheets.ZONE)
        k += 1
    return [low, *sorted(cuts), high]


def _box(ink: Sketch, r: sheets.Rectangle, pen: str) -> None:
    corners = [(r.x0, r.y0), (r.x1, r.y0), (r.x1, r.y1), (r.x0, r.y1), (r.x0, r.y0)]
    for p, q in zip(corners, corners[1:], strict=False):
        ink.stroke(curves2.line(p, q), pen)


def title_zones(sheet: Sheet, values: dict[str, str], says: Mapping[str, str] | None = None) -> list[FieldZone]:
    """The fields of the title block where they can be clicked on; ``says`` from what some of them follow."""
    block = sheets.title_block(sheet.size, sheet.landscape)
    return [
        FieldZone(
            field=cell.field,
            label=cell.label,
            value=values.get(cell.field, ""),
            auto=cell.field in AUTOMATIC,
            needed=cell.field in NEEDED,
            says=(says or {}).get(cell.field, ""),
            x0=block.x0 + cell.x,
            y0=block.y0 + cell.y,
            x1=block.x0 + cell.x + cell.width,
            y1=block.y0 + cell.y + cell.height,
        )
        for cell in CELLS
    ]


def draw_title_block(ink: Sketch, angle: str, sheet: Sheet, values: dict[str, str]) -> None:
    """The title block with all its fields; ``angle`` is that of the projection, first or third."""
    block = sheets.title_block(sheet.size, sheet.landscape)
    _box(ink, block, "visible")
    for cell in CELLS:
        x, y = block.x0 + cell.x, block.y0 + cell.y
        if cell.y + cell.height < block.height - 1e-6:
            top = y + cell.height
            ink.stroke(curves2.line((x, top), (x + cell.width, top)), "frame-narrow")
        if cell.x + cell.width < block.width - 1e-6:
            ink.stroke(curves2.line((x + cell.width, y), (x + cell.width, y + cell.height)), "frame-narrow")
        ink.text(cell.label, x + 1.2, y + cell.height - LABEL - 0.7, LABEL)
        value = values.get(cell.field, "")
        if cell.field == "projection":
            _projection_symbol(ink, x + cell.width / 2, y + 6.2, angle)
        elif value:
            _fitted(ink, value, x + 1.2, y + 1.3, cell)


def _fitted(ink: Sketch, value: str, x: float, y: float, cell: Cell) -> None:
    """Lettering that steps down until it fits its cell, in two lines at last; it is never cut."""
    lines, height = fitted(value, cell)
    for k, line in enumerate(reversed(lines)):
        ink.text(line, x, y + 1.4 * height * k, height)


def fitted(value: str, cell: Cell) -> tuple[list[str], float]:
    """A text in lines for a cell, and the height of its lettering, mm; below :data:`LEAST` it is too long for the cell."""
    room = cell.width - 2.2
    for height in np.arange(cell.lettering, 2.4, -0.5).tolist():
        if text_width(value, height) <= room:
            return [value], height
    # two lines, as wide as each other
    breaks = [k for k, c in enumerate(value) if c == " " and 0 < k < len(value) - 1] or [len(value) // 2]
    halves = [(value[:k].rstrip(), value[k:].lstrip()) for k in breaks]
    wide, lines = min((max(text_width(a, 1.0), text_width(b, 1.0)), [a, b]) for a, b in halves)
    if cell.height > 12 and 2.5 * wide <= room:
        return lines, 2.5
    if text_width(value, LEAST) <= room:
        return [value], LEAST
    return lines, min(LEAST, room / wide)


def _projection_symbol(ink: Sketch, x: float, y: float, angle: str) -> None:
    """Truncated cone: side view and end view, on the side that the projection puts it (ISO 5456-2)."""
    h = 3.5
    side, end = (x - 8.0, x + 6.5) if angle == "first" else (x + 6.5, x - 8.0)
    length = 2 * h
    left, right = side - length / 2, side + length / 2
    small, big = h * 0.5, h * 1.0
    # the end view stands on the side of the small end in third angle, opposite to it in first
    corners = np.array([(left, y - small), (right, y - big), (right, y + big), (left, y + small), (left, y - small)])
    for p, q in zip(corners, corners[1:], strict=False):
        ink.stroke(curves2.line(p, q), "visible")
    ink.stroke(curves2.circle((end, y), big), "visible")
    ink.stroke(curves2.circle((end, y), small), "visible")
    reach = big + 1.2
    ink.stroke(curves2.line((left - 1.5, y), (right + 1.5, y)), "centre")
    ink.stroke(curves2.line((end - reach, y), (end + reach, y)), "centre")
    ink.stroke(curves2.line((end, y - reach), (end, y + reach)), "centre")
