"""General tolerances (ISO 2768-1:1989), and how title blocks name them (ISO 2768, ISO 22081, ASME block tolerances)."""

from __future__ import annotations

import re
from bisect import bisect_left

_LENGTHS = [3, 6, 30, 120, 400, 1000, 2000, 4000]
_LINEAR: dict[str, list[float | None]] = {
    "f": [0.05, 0.05, 0.1, 0.15, 0.2, 0.3, 0.5, None],
    "m": [0.1, 0.1, 0.2, 0.3, 0.5, 0.8, 1.2, 2.0],
    "c": [0.2, 0.3, 0.5, 0.8, 1.2, 2.0, 3.0, 4.0],
    "v": [None, 0.5, 1.0, 1.5, 2.5, 4.0, 6.0, 8.0],
}
_EDGES = [3, 6]
_EDGE: dict[str, list[float]] = {"f": [0.2, 0.5, 1.0], "m": [0.2, 0.5, 1.0], "c": [0.4, 1.0, 2.0], "v": [0.4, 1.0, 2.0]}
_LEGS = [10, 50, 120, 400]
_ANGLE: dict[str, list[float]] = {
    "f": [60, 30, 20, 10, 5],
    "m": [60, 30, 20, 10, 5],
    "c": [90, 60, 30, 15, 10],
    "v": [180, 120, 60, 30, 20],
}
"""Minutes."""
LEAST = 0.5
"""mm below which the deviation is to be stated at the size."""
NAMED = re.compile(r"ISO\s*2768\s*[-–]\s*(?:1\s*[-–]\s*)?([fmcv])", re.IGNORECASE)
BLOCK = re.compile(r"\.(X{1,4})\s*(?:=\s*)?±\s*(\.?\d+(?:\.\d+)?)", re.IGNORECASE)
PROFILE = re.compile(r"ISO\s*22081", re.IGNORECASE)


def class_of(field: str) -> str | None:
    """The class (f, m, c, v) that a title block names; None where it names none."""
    found = NAMED.search(field)
    return found[1].lower() if found else None


def linear(value: float, name: str) -> float | None:
    """± of a length (mm) in a class, mm; None where the standard leaves it to be stated."""
    if value < LEAST:
        return None
    row = bisect_left(_LENGTHS, value - 1e-9)
    return _LINEAR[name][row] if row < len(_LENGTHS) else None


def linear_ranges(name: str) -> list[tuple[float, float, float]]:
    """The ranges of lengths (over, up to) and their ± in a class, mm."""
    lows = [LEAST, *_LENGTHS[:-1]]
    return [(a, float(b), d) for a, b, d in zip(lows, _LENGTHS, _LINEAR[name], strict=True) if d is not None]


def edge(value: float, name: str) -> float | None:
    """± of a radius or chamfer (mm) in a class, mm."""
    return _EDGE[name][bisect_left(_EDGES, value - 1e-9)] if value >= LEAST else None


def angle(leg: float, name: str) -> float:
    """± of an angle whose shorter leg is so long (mm), in minutes."""
    return _ANGLE[name][bisect_left(_LEGS, leg - 1e-9)]


def block(field: str, decimals: int) -> float | None:
    """± that a block by decimals (``.XX ±.01  .XXX ±.005``) gives a figure with so many decimals, in its unit."""
    found = {len(m[1]): float(m[2]) for m in BLOCK.finditer(field)}
    return found.get(decimals)


def general(field: str, measure: str, value: float, leg: float, decimals: int) -> str:
    """What a dimension without a tolerance gets from the title block, in words; nothing where that says nothing.

    ``measure``: ``length``, ``edge`` (radii, chamfers) or ``angle``; ``value`` mm or degrees; ``leg``: the shorter leg of
    an angle, mm; ``decimals`` that are written.
    """
    name = class_of(field)
    if name is not None:
        if measure == "angle":
            minutes = angle(leg, name)
            shown = f"{minutes / 60:g}°" if minutes % 60 == 0 else f"{minutes // 60:g}°{minutes % 60:g}′"
            return f"±{shown} by ISO 2768-{name}"
        found = edge(value, name) if measure == "edge" else linear(value, name)
        return "" if found is None else f"±{found:g} by ISO 2768-{name}"
    if PROFILE.search(field):
        return "by the profile of ISO 22081"
    if measure != "angle" and (found := block(field, decimals)) is not None:
        return f"±{found:g} by the block of {decimals} decimals"
    return ""
