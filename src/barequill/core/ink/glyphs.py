"""The letters of the sheet's lettering as outlines, for readers that would take another font."""

from __future__ import annotations

from functools import lru_cache

from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.ttLib import TTFont

from .lettering import FONT_FILE


@lru_cache(maxsize=1)
def _font() -> TTFont:
    return TTFont(FONT_FILE)


@lru_cache(maxsize=2048)
def glyph_path(letter: str) -> str:
    """SVG path data of a letter in font units, y up; empty for a blank."""
    glyphs = _font().getGlyphSet()
    name = _font().getBestCmap().get(ord(letter)) or _font().getBestCmap()[ord("0")]
    pen = SVGPathPen(glyphs, ntos=lambda x: f"{x:g}")
    glyphs[name].draw(pen)
    return str(pen.getCommands())


def advance(letter: str) -> float:
    """How far the next letter stands from this one, font units."""
    name = _font().getBestCmap().get(ord(letter)) or _font().getBestCmap()[ord("0")]
    return float(_font()["hmtx"].metrics[name][0])


def units_per_em() -> int:
    """Font units of an em."""
    return int(_font()["head"].unitsPerEm)
