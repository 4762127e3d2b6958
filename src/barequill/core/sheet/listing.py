"""A list of drawings on sheets of its own: what was issued together."""

from __future__ import annotations

from collections.abc import Sequence

from ..display import DisplayList, Sketch
from ..display.lettering import text_width
from ..geometry import curves2
from ..standards.lines import line_group
from ..standards.sheets import sheet_rectangle

MARGIN, TOP, ROW = 20.0, 25.0, 7.0
"""mm: about the list, over its heading, and of a row."""
LETTERING, HEADING = 2.5, 5.0
NARROW = 40.0
"""mm up to which a column keeps what it needs."""
PAD = 2.0


def listed(heading: str, titles: Sequence[str], rows: Sequence[Sequence[str]]) -> list[DisplayList]:
    """A table on as many sheets (A4, upright) as it takes; columns are as wide as what is in them, the last as what is left. What is too
    long is cut, and marked so."""
    page = sheet_rectangle("A4", False)
    lines = line_group("A4")
    room = page.x1 - 2 * MARGIN
    wide = [max(text_width(t, LETTERING) for t in column) + 2 * PAD for column in zip(titles, *rows, strict=True)]
    kept, rest = sum(w for w in wide[:-1] if w <= NARROW), sum(w for w in wide[:-1] if w > NARROW)
    left = max(0.7 * room - kept, NARROW)
    if rest > left:
        wide = [w if w <= NARROW else w * left / rest for w in wide]
    edges = [MARGIN]
    for w in wide[:-1]:
        edges.append(edges[-1] + w)
    edges.append(MARGIN + room)
    most = int((page.y1 - TOP - 3 * ROW - MARGIN) // ROW)
    parts = [rows[k : k + most] for k in range(0, len(rows), most)] or [[]]
    found = []
    for number, part in enumerate(parts, 1):
        sketch = Sketch(lines)
        y = page.y1 - TOP
        sketch.text(heading, MARGIN, y, HEADING, bold=True)
        sketch.text(f"{number} of {len(parts)}", page.x1 - MARGIN, y, LETTERING, "end")
        y -= 2 * ROW
        for k, row in enumerate([titles, *part]):
            for text, left, right in zip(row, edges, edges[1:], strict=False):
                sketch.text(_fitted(text, right - left - PAD), left, y, LETTERING, bold=k == 0)
            sketch.stroke(
                curves2.line((MARGIN, y - 2.0), (page.x1 - MARGIN, y - 2.0)), "visible" if k == 0 else "dimension"
            )
            y -= ROW
        ink = DisplayList(page.x1, page.y1, lines, title=heading)
        ink.elements.append(sketch.element("list", "table", "list", heading, f"list-{number}", (0.0, 0.0)))
        found.append(ink)
    return found


def _fitted(text: str, room: float) -> str:
    while len(text) > 1 and text_width(text, LETTERING) > room:
        text = text[:-2].rstrip() + "…"
    return text
