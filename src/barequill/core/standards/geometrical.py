"""Geometrical tolerances: what each characteristic may say (ISO 1101, ISO 2692, ISO 5458, ISO 5459, ISO 1660)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Characteristic = Literal[
    "straightness",
    "flatness",
    "roundness",
    "cylindricity",
    "profile of a line",
    "profile of a surface",
    "parallelism",
    "perpendicularity",
    "angularity",
    "position",
    "coaxiality",
    "symmetry",
    "circular run-out",
    "total run-out",
]
Zone = Literal["width", "diameter", "sphere"]
Modifier = Literal["M", "L", "R", "P", "F", "U", "E", "G", "N", "C", "X", "T", "CZ", "SZ", "UZ", "OZ", "VA"]
DatumModifier = Literal["M", "L", "P", "DV", "PT", "SL", "PL", "LD", "CF", "ACS", "><"]
Feature = Literal["surface", "axis", "middle plane", "centre"]
"""What a frame is about: an integral feature, or what is derived from a feature of size (ISO 17450-1)."""
Group = Literal["form", "profile", "orientation", "location", "run-out"]


@dataclass(frozen=True)
class Rule:
    """What one characteristic may say: its sign, how few and how many datums it refers to, the zones that it has, whether
    its value may go with the size of the feature (Ⓜ, Ⓛ), and along what it may be limited: a length (1) or an area (2)."""

    sign: str
    group: Group
    least: int
    most: int
    zones: tuple[Zone, ...]
    material: bool
    per: tuple[int, ...] = ()


CHARACTERISTICS: dict[Characteristic, Rule] = {
    "straightness": Rule("⏤", "form", 0, 0, ("width", "diameter"), True, per=(1,)),
    "flatness": Rule("⏥", "form", 0, 0, ("width",), True, per=(1, 2)),
    "roundness": Rule("○", "form", 0, 0, ("width",), False),
    "cylindricity": Rule("⌭", "form", 0, 0, ("width",), False, per=(1,)),
    "profile of a line": Rule("⌒", "profile", 0, 3, ("width",), False, per=(1,)),
    "profile of a surface": Rule("⌓", "profile", 0, 3, ("width",), False, per=(1, 2)),
    "parallelism": Rule("∥", "orientation", 1, 3, ("width", "diameter"), True, per=(1, 2)),
    "perpendicularity": Rule("⊥", "orientation", 1, 3, ("width", "diameter"), True, per=(1, 2)),
    "angularity": Rule("∠", "orientation", 1, 3, ("width", "diameter"), True, per=(1, 2)),
    "position": Rule("⌖", "location", 0, 3, ("width", "diameter", "sphere"), True),
    "coaxiality": Rule("◎", "location", 1, 3, ("diameter", "sphere"), True),
    "symmetry": Rule("⌯", "location", 1, 3, ("width",), True),
    "circular run-out": Rule("↗", "run-out", 1, 3, ("width",), False),
    "total run-out": Rule("⌰", "run-out", 1, 3, ("width",), False),
}
RANKS: dict[Group, int] = {"form": 0, "profile": 1, "orientation": 1, "location": 2, "run-out": 2}
"""The tolerance of form is to be smaller than that of orientation, that smaller than that of location (ISO 8015)."""
NO_DATUM = frozenset("IOQX")
"""Letters that datums do not have: they are taken for figures, or for a times sign (ISO 5459)."""
ZONES: dict[Zone, str] = {"width": "", "diameter": "Ø", "sphere": "SØ"}
"""What stands before a value."""
CIRCLED = {
    "M": "Ⓜ", "L": "Ⓛ", "R": "Ⓡ", "P": "Ⓟ", "F": "Ⓕ", "U": "Ⓤ", "E": "Ⓔ", "G": "Ⓖ", "N": "Ⓝ", "C": "Ⓒ", "X": "Ⓧ", "T": "Ⓣ",
}  # fmt: skip
"""Modifiers that stand in a circle; the others are written as they are."""
SAYS: dict[str, str] = {
    "M": "at maximum material",
    "L": "at least material",
    "R": "with the size free to use what the place leaves (reciprocity)",
    "P": "in the projected zone outside the part",
    "F": "in the free state",
    "U": "with an unequal zone",
    "E": "within the envelope of perfect form",
    "G": "by the least-squares feature",
    "N": "by the smallest circumscribed feature",
    "C": "by the feature of least deviation (minimax)",
    "X": "by the largest inscribed feature",
    "T": "by the tangent feature outside the material",
    "CZ": "all in one combined zone",
    "SZ": "each in a zone of its own",
    "UZ": "with its zone moved",
    "OZ": "with a zone free to move off",
    "VA": "with its angle free",
    "DV": "its distance free",
    "PT": "by a point of it",
    "SL": "by a line of it",
    "PL": "by a plane of it",
    "LD": "by its local diameter",
    "CF": "by a contacting feature",
    "ACS": "in any cross section",
    "><": "for direction only",
}
PLANES = {"intersection": "◁", "orientation": "◁▷", "direction": "←", "collection": "○"}
"""Kinds of plane and feature indicators (ISO 1101), with what encloses them."""
