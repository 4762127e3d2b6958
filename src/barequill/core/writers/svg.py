"""Ink to SVG: mm units, a group for each view and for each element in it, the lettering embedded."""

from __future__ import annotations

import base64
import io
from collections.abc import Iterable
from itertools import groupby
from xml.sax.saxutils import escape, quoteattr

from fontTools import subset

from ..bounds import plain
from ..ink import Fill, Ink, Mark, Stroke, Text, Tint
from ..ink.lettering import FONT_FILE, FONT_NAME, font_size
from ..ink.marks import picture_data
from ..ink.paths import path_data

INK = "#17232C"


def write_svg(ink: Ink) -> bytes:
    """The sheet as an SVG document in true size."""
    w, h = ink.width, ink.height
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:g}mm" height="{h:g}mm" viewBox="0 0 {w:g} {h:g}">',
        f"<title>{escape(plain(ink.title))}</title>",
        f"<defs><style>@font-face{{font-family:{FONT_NAME};src:url(data:font/ttf;base64,{_font(ink)})}}"
        f"text{{font-family:{FONT_NAME};fill:#000}}path{{fill:none;stroke:#000;stroke-linecap:round;stroke-linejoin:round}}"
        "polygon{fill:#000}</style></defs>",
        f'<rect width="{w:g}" height="{h:g}" fill="#fff"/>',
    ]

    def group(mark: Mark) -> str:
        return ink.group_of.get(mark.owner, mark.owner)

    for view, marks in groupby(sorted(ink.marks, key=group), key=group):
        label = ink.names.get(view, view)
        out.append(f"<g id={quoteattr(_identifier(view, label))}>")
        for owner, owned in groupby(sorted(marks, key=lambda m: m.owner), key=lambda m: m.owner):
            out.append(
                f"<g id={quoteattr(_identifier(owner, 'lines' if owner == view else ''))} data-owner={quoteattr(owner)}>"
                if owner != view
                else "<g>"
            )
            out += [_mark(ink, m) for m in owned]
            out.append("</g>")
        out.append("</g>")
    out.append("</svg>")
    return "\n".join(out).encode()


def _identifier(key: str, label: str) -> str:
    words = "".join(c if c.isalnum() else "-" for c in label.lower()).strip("-")
    return f"{words}-{key}" if words and words != key else key


def _mark(ink: Ink, mark: Mark) -> str:
    if isinstance(mark, Stroke):
        dashes = ink.dashes(mark)
        # dashed lines keep butt ends, or each dash would grow by the line's width
        pattern = f' stroke-dasharray="{" ".join(f"{d:.3f}" for d in dashes)}" stroke-linecap="butt"' if dashes else ""
        source = f" data-source={quoteattr(mark.source)}" if mark.source else ""
        return f'<path class="{mark.pen}" stroke-width="{ink.width_of(mark.pen):g}"{pattern}{source} d="{path_data(mark.curve, ink.height)}"/>'
    if isinstance(mark, Fill):
        return f'<polygon points="{" ".join(f"{x:.3f},{ink.height - y:.3f}" for x, y in mark.points)}"/>'
    if isinstance(mark, Tint):
        return (
            f'<image x="{mark.x0:.3f}" y="{ink.height - mark.y1:.3f}" width="{mark.x1 - mark.x0:.3f}" '
            f'height="{mark.y1 - mark.y0:.3f}" preserveAspectRatio="none" href="{picture_data(mark.png)}"/>'
        )
    assert isinstance(mark, Text)
    x, y = mark.x, ink.height - mark.y
    turn = f' transform="rotate({-mark.angle:.4f} {x:.3f} {y:.3f})"' if mark.angle else ""
    return f'<text x="{x:.3f}" y="{y:.3f}" font-size="{font_size(mark.height):.4f}" text-anchor="{mark.anchor}"{turn}>{escape(mark.text)}</text>'


def _font(ink: Ink) -> str:
    texts: Iterable[str] = (m.text for m in ink.marks if isinstance(m, Text))
    options = subset.Options()
    font = subset.load_font(str(FONT_FILE), options)
    cutter = subset.Subsetter(options)
    cutter.populate(text="".join(texts) or " ")
    cutter.subset(font)
    buffer = io.BytesIO()
    font.save(buffer)
    return base64.b64encode(buffer.getvalue()).decode()
