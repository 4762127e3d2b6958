"""Fields of the title block: what they are called, and what they show where nobody filled them in (ISO 7200)."""

from __future__ import annotations

import re
from collections.abc import Mapping

from ..standards.scales import scale_text
from ..standards.sheets import size_words
from .document import Drawing, Sheet
from .templates import ISO_7200, TitleCell

LABELS = {cell.field: cell.label.rstrip(".") for cell in ISO_7200.cells}
AUTOMATIC = {"sheet", "size", "scale", "mass", "units", "projection"}
"""Fields that always fill themselves."""
COMPUTED = {
    "mass": "mass of what the sheet shows",
    "scale": "scales of the sheet",
    "size": "size of the sheet",
    "sheet": "sheet n of m",
    "sheet_number": "number of the sheet",
    "sheet_count": "how many sheets there are",
    "sheet_name": "name of the sheet",
    "units": "mm or inch",
    "projection": "first or third angle",
    "standard": "conventions of the drawing",
    "part_name": "name of the part",
    "part_number": "number of the part",
    "part_material": "material of the part",
    "part_count": "how many pieces the parts list has",
}
"""What the drawing knows by itself, by the names by which a cell's text puts it in."""
PUT_IN = re.compile(r"\{([A-Za-z0-9_.:+-]{1,40})\}")


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
    """All fields as they show: what was filled in, what their cells say, and what the drawing knows by itself."""
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
    position = next((i for i, s in enumerate(drawing.sheets) if s.id == sheet.id), 0)
    others = sorted({sheet.scale_of(v) for v in sheet.views} - {sheet.scale}, reverse=True)
    computed = {
        "sheet": f"{position + 1} of {len(drawing.sheets)}",
        "sheet_number": str(position + 1),
        "sheet_count": str(len(drawing.sheets)),
        "sheet_name": sheet.name,
        "size": size_words(sheet.size),
        "scale": scale_text(sheet.scale) + (f" ({', '.join(scale_text(s) for s in others)})" if others else ""),
        "mass": mass_text(mass, drawing.unit),
        "units": "mm" if drawing.unit == "mm" else "inch",
        "projection": f"{drawing.angle} angle",
        "standard": drawing.standard,
        "part_name": part.name if part else "",
        "part_number": part.number if part else "",
        "part_material": part.material if part else "",
        "part_count": str(sum(item.quantity or 0 for item in drawing.items)) if drawing.items else "1",
    }
    # what was emptied stays empty
    values = {**known, **drawing.fields, **computed}
    for cell in drawing.template_of(sheet).cells:
        if cell.text and cell.field and cell.field not in AUTOMATIC and cell.field not in drawing.fields:
            values[cell.field] = filled(cell.text, {**known, **drawing.fields, **computed})
    return values


def filled(text: str, values: Mapping[str, str]) -> str:
    """A text with fields put in where it names them in braces; what there is no field of stays as it is written."""
    return PUT_IN.sub(lambda m: values.get(m[1], m[0] if m[1] not in COMPUTED else ""), text)


def said_in(cell: TitleCell, values: Mapping[str, str]) -> str:
    """What a cell says: its field, or its own text."""
    return values.get(cell.field, "") if cell.field else filled(cell.text, values)
