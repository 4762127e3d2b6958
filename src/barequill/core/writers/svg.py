"""A display list to SVG: mm units, a group for each view and for each element in it.

Lettering is drawn by the outlines of its letters, so that every reader shows the same; the text itself lies over them
without ink, to be found and copied.
"""

from __future__ import annotations

from itertools import groupby
from xml.sax.saxutils import escape, quoteattr

from ..bounds import plain
from ..display import DisplayList, Hatch, Region, Stroke, Text, Tint
from ..display.glyphs import glyph_path, units_per_em
from ..display.lettering import FONT_NAME, Font, font_size, laid_out, text_width
from ..display.paths import path_data, picture_data
from ..display.signs import sign_of
from .base import Writer


def write_svg(ink: DisplayList) -> bytes:
    """The sheet as an SVG document in true size."""
    w, h = ink.width, ink.height
    body = _Body(ink)
    for group, elements in groupby(sorted(ink.elements, key=lambda e: e.group), key=lambda e: e.group):
        body.out.append(f"<g id={quoteattr(_identifier(group, ink.names.get(group, group)))}>")
        for element in elements:
            own = _identifier(element.id, element.kind)
            body.out.append(f"<g id={quoteattr(own)} data-owner={quoteattr(element.id)}>")
            body.write(element.on_sheet())
            body.out.append("</g>")
        body.out.append("</g>")
    letters = "".join(
        f'<path id="{_glyph(c, f)}" d="{d}"/>' for c, f in sorted(body.letters) if (d := glyph_path(c, f))
    )
    head = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:g}mm" height="{h:g}mm" viewBox="0 0 {w:g} {h:g}">',
        f"<title>{escape(plain(ink.title))}</title>",
        f"<style>text{{font-family:{FONT_NAME},sans-serif;fill:none;stroke:none}}"
        ".s{fill:none;stroke:#000;stroke-linecap:round;stroke-linejoin:round}</style>",
        f"<defs>{letters}</defs>",
        f'<rect width="{w:g}" height="{h:g}" fill="#fff"/>',
    ]
    return "\n".join([*head, *body.out, "</svg>"]).encode()


def _glyph(letter: str, font: Font) -> str:
    """What a letter is called in the document."""
    return f"{'' if font == 'upright' else font[0]}l{ord(letter):x}"


def _identifier(key: str, label: str) -> str:
    words = "".join(c if c.isalnum() else "-" for c in label.lower()).strip("-")
    return f"{words}-{key}" if words and words != key else key


class _Body(Writer):
    """The lines of the document between its head and its end."""

    def __init__(self, ink: DisplayList) -> None:
        super().__init__(ink)
        self.out: list[str] = []
        self.letters: set[tuple[str, Font]] = set()

    def stroke(self, mark: Stroke) -> None:
        dashes = self.ink.dashes(mark)
        # dashed lines keep butt ends, or each dash would grow by the line's width
        pattern = (
            f' stroke-dasharray="{" ".join(f"{d:.3f}" for d in dashes)}" style="stroke-linecap:butt"' if dashes else ""
        )
        source = f" data-source={quoteattr(mark.source)}" if mark.source else ""
        self.out.append(
            f'<path class="s {mark.pen}" stroke-width="{self.ink.width_of(mark.pen):g}"{pattern}{source} '
            f'd="{path_data(mark.curve, self.ink.height)}"/>'
        )

    def region(self, mark: Region) -> None:
        h = self.ink.height
        d = "".join("M" + "L".join(f"{x:.3f} {h - y:.3f}" for x, y in ring) + "Z" for ring in mark.rings)
        self.out.append(f'<path fill-rule="evenodd" d="{d}"/>')

    def hatch(self, mark: Hatch) -> None:
        h = self.ink.height
        d = "".join(f"M{a:.3f} {h - b:.3f}L{c:.3f} {h - e:.3f}" for (a, b), (c, e) in mark.segments.tolist())
        if d:
            self.out.append(f'<path class="s {mark.pen}" stroke-width="{self.ink.width_of(mark.pen):g}" d="{d}"/>')

    def tint(self, mark: Tint) -> None:
        self.out.append(
            f'<image x="{mark.x0:.3f}" y="{self.ink.height - mark.y1:.3f}" width="{mark.x1 - mark.x0:.3f}" '
            f'height="{mark.y1 - mark.y0:.3f}" preserveAspectRatio="none" href="{picture_data(mark.png)}"/>'
        )

    def text(self, mark: Text) -> None:
        x, y = mark.start
        size = font_size(mark.height)
        turn = f" rotate({-mark.angle:.4f})" if mark.angle else ""
        self.out.append(f'<g transform="translate({x:.3f} {self.ink.height - y:.3f}){turn}">')
        k = size / units_per_em()
        bold = f' stroke="#000" stroke-width="{mark.grown / k:.4g}" stroke-linejoin="round"' if mark.bold else ""
        self.out.append(f'<g transform="scale({k:.6g} {-k:.6g})"{bold}>')
        at = 0.0
        for letter in laid_out(mark.text):
            if sign_of(letter) is None and glyph_path(letter, mark.font):
                self.letters.add((letter, mark.font))
                self.out.append(f'<use href="#{_glyph(letter, mark.font)}" x="{at:g}"/>')
            at += text_width(letter, 1.0, mark.font) / font_size(1.0) * units_per_em()
        self.out.append("</g>")
        self.out.append(
            f'<text font-size="{size:.4f}" textLength="{mark.width:.3f}" lengthAdjust="spacingAndGlyphs" '
            f'xml:space="preserve">{escape(mark.text)}</text></g>'
        )
        strokes, fills = mark.signs()
        if strokes:
            d = "".join(path_data(curve, self.ink.height) for curve in strokes)
            self.out.append(f'<path class="s sign" stroke-width="{mark.stroke:g}" d="{d}"/>')
        for ring in fills:
            self.region(Region((ring,)))
