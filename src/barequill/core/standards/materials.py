"""A short list of common materials with densities in g/cm³ (usual handbook values)."""

from __future__ import annotations

MATERIALS: dict[str, float] = {
    "Steel S235JR": 7.85,
    "Steel C45": 7.85,
    "Steel 42CrMo4": 7.85,
    "Stainless steel 1.4301": 7.9,
    "Stainless steel 1.4401": 8.0,
    "Cast iron EN-GJL-250": 7.2,
    "Ductile iron EN-GJS-400-15": 7.1,
    "Cast steel GS-45": 7.85,
    "Aluminium EN AW-6082": 2.7,
    "Aluminium EN AW-2024": 2.78,
    "Brass CW614N": 8.4,
    "Bronze CuSn12": 8.7,
    "Copper Cu-ETP": 8.93,
    "Titanium Ti-6Al-4V": 4.43,
    "Polyamide PA 6": 1.14,
    "Polyoxymethylene POM": 1.41,
    "Oak": 0.7,
}


def material_of(text: str) -> tuple[str, float | None]:
    """A material and its density (g/cm³), from its name in the short list, or typed behind it: ``Own alloy, 8.1``."""
    name, _, figure = text.rpartition(",")
    if name.strip():
        try:
            density = float(figure.lower().replace("g/cm³", "").replace("g/cm3", "").strip())
        except ValueError:
            density = 0.0
        if 0 < density < 100:
            return name.strip(), density
    whole = text.strip()
    known = next((n for n in MATERIALS if n.lower() == whole.lower()), None)
    return (known, MATERIALS[known]) if known is not None else (whole, None)
