"""Border, zones, centring marks (ISO 5457) and title block (ISO 7200)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

import numpy as np

from ..display import FieldZone, Sketch
from ..display.lettering import text_width
from ..drawing import Sheet
from ..drawing.pictures import Picture, corners_of
from ..drawing.templates import Template, TitleCell, Zones
from ..drawing.title_fields import AUTOMATIC, said_in
from ..geometry import curves2
from ..standards import sheets

LABEL = 1.8


LEAST = 1.8
"""mm of the lowest lettering (ISO 3098)."""


def draw_frame(ink: Sketch, template: Template, sheet: Sheet) -> None:
    """Frame, zone strip with letters and figures, centring marks."""
    outer = sheets.sheet_rectangle(sheet.size, sheet.landscape)
    space = template.space(sheet.size, sheet.landscape)
    _box(ink, space, "frame")
    zones = template.zones
    if zones is not None:
        _draw_zones(ink, zones, outer, space)
    if not template.centring:
        return
    strip, reach = zones.strip if zones is not None else sheets.CENTRING_MARK / 2, sheets.CENTRING_MARK / 2
    for horizontal, middle in ((True, outer.y1 / 2), (False, outer.x1 / 2)):
        low, high = (space.x0, space.x1) if horizontal else (space.y0, space.y1)
        for edge, inward in ((low, 1), (high, -1)):
            start, end = edge - inward * strip, edge + inward * reach
            ends = [(start, middle), (end, middle)] if horizontal else [(middle, start), (middle, end)]
            ink.stroke(curves2.line(*ends), "frame")


def _draw_zones(ink: Sketch, zones: Zones, outer: sheets.Rectangle, space: sheets.Rectangle) -> None:
    strip = space.grown(zones.strip)
    _box(ink, strip, "frame-narrow")
    for horizontal in (True, False):
        low, high = (space.x0, space.x1) if horizontal else (space.y0, space.y1)
        whole = outer.x1 if horizontal else outer.y1
        cuts = _even_fields(zones.field, whole, low, high) if zones.even else _fields(zones.field, whole / 2, low, high)
        names = [str(k + 1) for k in range(len(cuts) - 1)]
        if not horizontal:
            names = _letters(len(cuts) - 1)
        # the first stands at the left, or at the bottom
        if (zones.numbers == "leftward") if horizontal else (zones.letters == "downward"):
            names.reverse()
        bands = (
            ((space.y1, strip.y1), (strip.y0, space.y0)) if horizontal else ((strip.x0, space.x0), (space.x1, strip.x1))
        )
        for near, far in bands:
            for cut in cuts[1:-1]:
                ends = [(cut, near), (cut, far)] if horizontal else [(near, cut), (far, cut)]
                ink.stroke(curves2.line(*ends), "frame-narrow")
            for name, a, b in zip(names, cuts, cuts[1:], strict=False):
                x, y = ((a + b) / 2, (near + far) / 2) if horizontal else ((near + far) / 2, (a + b) / 2)
                ink.text(name, x, y - zones.lettering / 2, zones.lettering, "middle")


def _letters(count: int) -> list[str]:
    """Letters of zones: I and O are left out, after Z they go on with two."""
    one = sheets.ZONE_LETTERS
    return [*one, *(a + b for a in one for b in one)][:count]


def _even_fields(field: float, whole: float, low: float, high: float) -> list[float]:
    """Boundaries of an even number of zones that share the side of the trimmed sheet equally, each about so wide."""
    count = 2 * max(round(whole / field / 2), 1)
    return [low, *(whole * k / count for k in range(1, count) if low < whole * k / count < high), high]


def _fields(zone: float, centre: float, low: float, high: float) -> list[float]:
    """Boundaries of the zones: each so wide from the symmetry axis; rests at the ends join a field."""
    cuts = [centre]
    k = 1
    while centre + k * zone < high - zone / 4 or centre - k * zone > low + zone / 4:
        if centre + k * zone < high - zone / 4:
            cuts.append(centre + k * zone)
        if centre - k * zone > low + zone / 4:
            cuts.append(centre - k * zone)
        k += 1
    return [low, *sorted(cuts), high]


def _box(ink: Sketch, r: sheets.Rectangle, pen: str) -> None:
    corners = [(r.x0, r.y0), (r.x1, r.y0), (r.x1, r.y1), (r.x0, r.y1), (r.x0, r.y0)]
    for p, q in zip(corners, corners[1:], strict=False):
        ink.stroke(curves2.line(p, q), pen)


def title_zones(
    template: Template, sheet: Sheet, values: dict[str, str], says: Mapping[str, str] | None = None
) -> list[FieldZone]:
    """The cells of the title block where they can be clicked on; ``says`` from what some of them follow."""
    block = template.block(sheet.size, sheet.landscape)
    return [
        FieldZone(
            cell=cell.id,
            field=cell.field,
            label=cell.label or cell.field.replace("_", " ").capitalize(),
            value=said_in(cell, values),
            auto=not cell.field or cell.field in AUTOMATIC,
            needed=cell.needed and bool(cell.field),
            choices=tuple(cell.choices),
            says=(says or {}).get(cell.field, ""),
            x0=block.x0 + cell.x,
            y0=block.y0 + cell.y,
            x1=block.x0 + cell.x + cell.width,
            y1=block.y0 + cell.y + cell.height,
        )
        for cell in template.cells
    ]


def draw_title_block(ink: Sketch, angle: str, template: Template, sheet: Sheet, values: dict[str, str]) -> None:
    """The title block with all its fields; ``angle`` is that of the projection, first or third."""
    block = template.block(sheet.size, sheet.landscape)
    _box(ink, block, "visible")
    for cell in template.cells:
        x, y = block.x0 + cell.x, block.y0 + cell.y
        if cell.y + cell.height < block.height - 1e-6:
            top = y + cell.height
            ink.stroke(curves2.line((x, top), (x + cell.width, top)), "frame-narrow")
        if cell.x + cell.width < block.width - 1e-6:
            ink.stroke(curves2.line((x + cell.width, y), (x + cell.width, y + cell.height)), "frame-narrow")
        if cell.label:
            label = _shortened(cell.label, cell.width - 1.8)
            ink.text(label, x + 1.2, y + cell.height - LABEL - 0.7, LABEL)
        room = cell.height - (LABEL + 1.2 if cell.label else 0.0)
        if cell.shows == "projection":
            at = y + (6.2 if room > 12.4 else room / 2)
            _projection_symbol(ink, x + cell.width / 2, at, angle, min(3.5, (room - 0.8) / 2.7, (cell.width - 3) / 7))
        elif cell.shows == "picture" and cell.picture is not None:
            _picture(ink, cell.picture, sheets.Rectangle(x, y, x + cell.width, y + room).grown(-0.8))
        elif value := said_in(cell, values):
            _fitted(ink, value, x, y, cell)


def _shortened(label: str, room: float) -> str:
    """A label as far as its cell is wide."""
    while len(label) > 1 and text_width(label, LABEL) > room:
        label = label[:-2].rstrip() + "…" if len(label) > 2 else label[:1]
    return label


def _picture(ink: Sketch, picture: Picture, room: sheets.Rectangle) -> None:
    """A picture as large as goes into a place, in its middle."""
    k = min(room.width / picture.width, room.height / picture.height)
    if k <= 0:
        return
    corner = np.array([room.x0 + room.x1 - k * picture.width, room.y0 + room.y1 - k * picture.height]) / 2
    for path in picture.paths:
        outlines = [(corner + k * np.array(corners), closed) for corners, closed in corners_of(path.outlines)]
        if path.filled:
            ink.fill(*(corners for corners, _ in outlines if len(corners) > 2))
        else:
            for corners, closed in outlines:
                run = np.vstack([corners, corners[:1]]) if closed else corners
                for p, q in zip(run, run[1:], strict=False):
                    ink.stroke(curves2.line(p, q), "sign")


def _fitted(ink: Sketch, value: str, x: float, y: float, cell: TitleCell) -> None:
    """Lettering that steps down until it fits its cell, in two lines at last; it is never cut."""
    lines, height = fitted(value, cell)
    at = {"left": x + 1.2, "middle": x + cell.width / 2, "right": x + cell.width - 1.2}[cell.align]
    anchor: Literal["start", "middle", "end"] = (
        "start" if cell.align == "left" else "middle" if cell.align == "middle" else "end"
    )
    # in a cell without a label what it says stands in the middle
    low = 1.3 if cell.label else max(1.3, (cell.height - height * (1.4 * len(lines) - 0.4)) / 2)
    for k, line in enumerate(reversed(lines)):
        ink.text(line, at, y + low + 1.4 * height * k, height, anchor)


def fitted(value: str, cell: TitleCell) -> tuple[list[str], float]:
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


def _projection_symbol(ink: Sketch, x: float, y: float, angle: str, h: float) -> None:
    """Truncated cone: side view and end view, on the side that the projection puts it (ISO 5456-2); ``h`` half its height, mm."""
    near, far = 6.5 * h / 3.5, 8.0 * h / 3.5
    side, end = (x - far, x + near) if angle == "first" else (x + near, x - far)
    length = 2 * h
    left, right = side - length / 2, side + length / 2
    small, big = h * 0.5, h * 1.0
    # the end view stands on the side of the small end in third angle, opposite to it in first
    corners = np.array([(left, y - small), (right, y - big), (right, y + big), (left, y + small), (left, y - small)])
    for p, q in zip(corners, corners[1:], strict=False):
        ink.stroke(curves2.line(p, q), "visible")
    ink.stroke(curves2.circle((end, y), big), "visible")
    ink.stroke(curves2.circle((end, y), small), "visible")
    reach = big + 1.2 * h / 3.5
    ink.stroke(curves2.line((left - 1.5 * h / 3.5, y), (right + 1.5 * h / 3.5, y)), "centre")
    ink.stroke(curves2.line((end - reach, y), (end + reach, y)), "centre")
    ink.stroke(curves2.line((end, y - reach), (end, y + reach)), "centre")
