"""Hatching of cut faces (ISO 128-3): angles, spacings, and what is too thin to be hatched."""

from __future__ import annotations

ANGLES = (45.0, 135.0, 60.0, 120.0, 30.0, 150.0)
"""Degrees, in the order in which neighbours get them."""
SPACINGS = (1.0, 0.7, 1.4)
"""Factors of the spacing, for neighbours that no angle is left for."""
LEAST, MOST = 2.0, 6.0
"""mm between lines on usual sheets."""
SHARE = 0.4
"""The spacing in thicknesses of what is hatched."""
THIN = 0.9
"""mm of width on the sheet below which a cut is filled."""

_BY_WORD = (
    (("steel", "iron"), "steel"),
    (("alu", "light", "magnes", "titan"), "light"),
    (("bronze", "brass", "copper"), "copper"),
    (("poly", "plastic", "rubber", "nylon", "pom"), "plastic"),
)


def spacing_for(size: float) -> float:
    """mm between lines for something so thick on the sheet (mm), in steps of a quarter."""
    return min(max(round(size * SHARE * 4) / 4, LEAST), MOST)


def pattern_of(material: str) -> str:
    """The pattern of a material by its name; the general one for those that have none."""
    name = material.lower()
    return next((pattern for words, pattern in _BY_WORD if any(w in name for w in words)), "general")
