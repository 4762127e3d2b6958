"""Makes the sloped form of the lettering's font (ISO 3098-1: 75° to the line): ``python -m tools.sloped_font``."""

from __future__ import annotations

import math

from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.pens.transformPen import TransformPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont

from barequill.core.display.lettering import FOLDER

LEAN = math.tan(math.radians(15))


def main() -> None:
    """Write the font beside the upright one."""
    font = TTFont(FOLDER / "osifont.ttf")
    glyphs, made = font.getGlyphSet(), {}
    for name in font.getGlyphOrder():
        record = DecomposingRecordingPen(glyphs)
        glyphs[name].draw(record)
        pen = TTGlyphPen(None)
        record.replay(TransformPen(pen, (1, 0, LEAN, 1, 0, 0)))
        made[name] = pen.glyph()
    for name, glyph in made.items():
        font["glyf"][name] = glyph
        advance, _ = font["hmtx"].metrics[name]
        glyph.recalcBounds(font["glyf"])
        font["hmtx"].metrics[name] = (advance, getattr(glyph, "xMin", 0))
    for tag in ("FFTM", "GPOS", "GSUB", "GDEF", "fpgm", "prep", "cvt ", "gasp"):
        if tag in font:
            del font[tag]
    for record in font["name"].names:
        if record.nameID in (1, 4, 6):
            record.string = "osifont-sloped"
    font["post"].italicAngle = -15
    font.save(FOLDER / "osifont-sloped.ttf")


if __name__ == "__main__":
    main()
