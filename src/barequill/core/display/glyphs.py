"""The letters of the sheet's lettering as outlines, for readers that would take another font."""

from __future__ import annotations

from functools import lru_cache

from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.pens.transformPen import TransformPen

from .lettering import FACES, Font, face_of


@lru_cache(maxsize=4096)
def glyph_path(letter: str, font: Font = "upright") -> str:
    """SVG path data of a letter of a lettering in osifont's units, y up; empty for a blank."""
    face = face_of(letter, font) or FACES[0]
    glyphs = face.font.getGlyphSet()
    pen = SVGPathPen(glyphs, ntos=lambda x: f"{x:g}")
    scale = face.share * units_per_em() / face.em
    own = TransformPen(pen, (scale, 0, 0, scale, 0, 0)) if scale != 1 else pen
    glyphs[face.glyphs.get(ord(letter)) or face.glyphs[ord("0")]].draw(own)
    return str(pen.getCommands())


def units_per_em() -> int:
    """osifont's units of an em."""
    return FACES[0].em
