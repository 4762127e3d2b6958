"""Fields of the title block: their cells (ISO 7200), and what they show where nobody filled them in."""

from __future__ import annotations

from dataclasses import dataclass

from ..standards.scales import scale_text
from .document import Drawing, Sheet


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
LABELS = {cell.field: cell.label.rstrip(".") for cell in CELLS}
NEEDED = {"owner", "number", "title", "creator", "approver"}
"""Fields that a sheet is not issued without (ISO 7200)."""
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


def field_values(drawing: Drawing, sheet: Sheet, mass: float | None) -> dict[str, str]:
    """All fields as they show: what was filled in, and what the drawing knows by itself."""
    part = drawing.subject(sheet)
    known = {
        "number": part.number if part else "",
        "title": part.name if part else "",
        "material": part.material if part else "",
        # empty until it is issued
        "date": "in work" if drawing.revisions else "",
        "language": "en",
        "document_type": "Part drawing",
        "general_tolerance": "ISO 2768-m" if drawing.standard == "ISO" else "",
    }
    # what was emptied stays empty
    values = {**known, **drawing.fields}
    position = next((i for i, s in enumerate(drawing.sheets) if s.id == sheet.id), 0)
    others = sorted({sheet.scale_of(v) for v in sheet.views} - {sheet.scale}, reverse=True)
    values.update(
        sheet=f"{position + 1} of {len(drawing.sheets)}",
        size=sheet.size,
        scale=scale_text(sheet.scale) + (f" ({', '.join(scale_text(s) for s in others)})" if others else ""),
        mass=mass_text(mass, drawing.unit),
        units="mm" if drawing.unit == "mm" else "inch",
        projection=f"{drawing.angle} angle",
    )
    return values
