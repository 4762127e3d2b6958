"""Scales (ISO 5455:1979)."""

from __future__ import annotations

from fractions import Fraction

_ENLARGING = [50, 20, 10, 5, 2]
_REDUCING = [2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000]
SERIES: list[float] = [float(n) for n in _ENLARGING] + [1.0] + [1.0 / n for n in _REDUCING]
"""Standard scales, largest first."""


def scale_text(scale: float) -> str:
    """A scale as written: ``2:1``, ``1:1``, ``1:2.5``."""
    if scale >= 1:
        return f"{_plain(scale)}:1"
    return f"1:{_plain(1 / scale)}"


def _plain(x: float) -> str:
    return f"{round(x, 4):g}"


def parse_scale(text: str) -> float | None:
    """The scale written as ``1:2``, ``2:1``, ``1/2`` or ``0.5``; None where it is not one."""
    cleaned = text.strip().lower().removeprefix("scale").strip().replace("/", ":").replace(",", ".")
    try:
        if ":" in cleaned:
            a, b = cleaned.split(":")
            value = float(Fraction(a.strip()) / Fraction(b.strip()))
        else:
            value = float(cleaned)
    except (ValueError, ZeroDivisionError):
        return None
    return value if 1e-5 <= value <= 1e4 else None
