"""The sheet's lettering: osifont (ISO 3098), measured."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from fontTools.ttLib import TTFont

FONT_FILE = Path(__file__).parent / "fonts" / "osifont.ttf"
FONT_NAME = "osifont"
CAPITAL = 1510 / 2048
"""Height of capitals in ems."""
SWAPS = {
    "−": "–",
    "⌀": "Ø",
    "’": "'",
    "‘": "'",
    "“": '"',
    "”": '"',
    "\u00a0": " ",
    "→": "-",
    "…": "...",
}


@lru_cache(maxsize=1)
def _metrics() -> tuple[dict[int, int], int]:
    font = TTFont(FONT_FILE)
    widths = font["hmtx"].metrics
    table = {code: widths[name][0] for code, name in font.getBestCmap().items()}
    return table, font["head"].unitsPerEm


def font_size(height: float) -> float:
    """Font size (ems, mm) that makes capitals ``height`` mm high."""
    return height / CAPITAL


def text_width(text: str, height: float) -> float:
    """Width in mm of a text with capitals ``height`` mm high."""
    table, em = _metrics()
    units = sum(table.get(ord(c), table[ord("0")]) for c in text)
    return units / em * font_size(height)


def drawable(text: str) -> str:
    """The text with characters that the lettering lacks replaced by their nearest."""
    table, _ = _metrics()
    text = "".join(SWAPS.get(c, c) for c in text)
    return "".join(c if ord(c) in table else "?" if c.isprintable() else " " for c in text)
