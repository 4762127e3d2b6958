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
