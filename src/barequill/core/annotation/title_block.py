"""Border, zones, centring marks (ISO 5457) and title block (ISO 7200)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..drawing import Drawing, Sheet
from ..geometry import curves2
from ..ink import FieldZone, Sketch
from ..ink.lettering import text_width
from ..standards import sheets
from ..standards.scales import scale_text

LABEL = 1.8


@dataclass(frozen=True)
class Cell:
    """A cell: its field, label, place from the block's lower left corner, size, height of its lettering."""

    field: str
    label: str
    x: float
    y: float
    width: float
    height: float
    lettering: float = 3.5


CELLS = (
    Cell("owner", "Legal owner", 0, 0, 74, 10),
    Cell("revision", "Rev.", 74, 0, 18, 10),
    Cell("date", "Date of issue", 92, 0, 40, 10),
    Cell("language", "Lang.", 132, 0, 16, 10),
    Cell("sheet", "Sheet", 148, 0, 32, 10),
    Cell(field="title", label="Title", x=0, y=10, width=116, height=13, lettering=5.0),
    Cell(field="number", label="Identification number", x=116, y=10, width=64, height=13, lettering=5.0),
    Cell("creator", "Created by", 0, 23, 58, 9),
    Cell("approver", "Approved by", 58, 23, 58, 9),
    Cell("document_type", "Document type", 116, 23, 64, 9),
    Cell("general_tolerance", "General tolerances", 0, 32, 58, 8.5),
    Cell("surface", "Surface texture", 58, 32, 34, 8.5),
    Cell("units", "Units", 92, 32, 24, 8.5),
    Cell("size", "Size", 116, 32, 16, 8.5),
    Cell("projection", "Projection", 132, 32, 48, 17),
    Cell("material", "Material", 0, 40.5, 58, 8.5),
    Cell("mass", "Mass", 58, 40.5, 34, 8.5),
    Cell("scale", "Scale", 92, 40.5, 40, 8.5),
)
NEEDED = {"owner", "number", "title", "creator", "approver"}
"""Fields that a sheet is not issued without (ISO 7200)."""
LEAST = 1.8
"""mm of the lowest lettering (ISO 3098)."""
AUTOMATIC = {"sheet", "size", "scale", "mass", "units", "projection"}


def mass_text(grams: float | None, unit: str) -> str:
    """Mass as written: g, kg or t, three figures; pounds for inch drawings."""
    if grams is None:
        return ""
    if unit == "inch":
        return f"{grams / 453.59237:.3g} lb"
    if grams >= 1e6:
        return f"{grams / 1e6:.3g} t"
    return f"{grams / 1000:.3g} kg" if grams >= 1000 else f"{grams:.3g} g"


def field_values(drawing: Drawing, sheet: Sheet, mass: float | None, today: str) -> dict[str, str]:
    """All fields as they show: what was filled in, and what the drawing knows by itself."""
    part = drawing.subject(sheet)
    known = {
        "number": part.number if part else "",
        "title": part.name if part else "",
        "material": part.material if part else "",
        "date": today,
        "language": "en",
        "document_type": "Part drawing",
        "general_tolerance": "ISO 2768-m" if drawing.standard == "ISO" else "",
    }
    values = {**known, **{k: v for k, v in drawing.fields.items() if v}}
    position = next((i for i, s in enumerate(drawing.sheets) if s.id == sheet.id), 0)
    others = sorted({sheet.scale_of(v) for v in sheet.views} - {sheet.scale}, reverse=True)
    values.update(
        sheet=f"{position + 1} of {len(drawing.sheets)}",
        size=sheet.size,
        scale=scale_text(sheet.scale) + (f" ({', '.join(scale_text(s) for s in others[:2])})" if others else ""),
        mass=mass_text(mass, drawing.unit),
        units="mm" if drawing.unit == "mm" else "inch",
        projection=f"{drawing.angle} angle",
    )
    return values


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


def title_zones(sheet: Sheet, values: dict[str, str]) -> list[FieldZone]:
    """The fields of the title block where they can be clicked on."""
    block = sheets.title_block(sheet.size, sheet.landscape)
    return [
        FieldZone(
            field=cell.field,
            label=cell.label,
            value=values.get(cell.field, ""),
            auto=cell.field in AUTOMATIC,
            needed=cell.field in NEEDED,
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
