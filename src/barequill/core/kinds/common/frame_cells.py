"""A tolerance frame laid out in cells (ISO 1101: lines h/10, twice the lettering high), and drawn."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ...display import Sketch
from ...display.lettering import text_width
from ...drawing.geometrical import DatumCell, Frame, FrameRow
from ...drawing.geometrical.language import figure_text
from ...geometry import curves2
from ...standards.geometrical import CHARACTERISTICS, CIRCLED, ZONES
from ...values import value
from .hanging import rectangle
from .solving import Array, draw_line

HIGH = 2.0
"""Lettering heights of a row, and least width of a cell."""
PAD = 0.4
"""Lettering heights between what is written in a cell and its sides."""
ABOVE = 0.6
"""Lettering heights between a frame and the text above or below it."""
TIP = 1.0
"""Lettering heights that the triangles of indicators stick out."""
RELATIONS = {"parallel": "∥", "perpendicular": "⊥", "angle": "∠", "symmetrical": "⌯", "run-out": "↗"}


@value
class Cell:
    """What stands in a cell, and the box of it: from the frame's lower left corner, in its own directions."""

    text: str
    x: float
    y: float
    width: float
    height: float


@value
class FrameLayout:
    """All cells of a frame, its size with what stands beside it, the texts above and below, and its ``indicators``: each
    the kind of a plane, where its cells begin and end, and what they say."""

    cells: tuple[Cell, ...]
    width: float
    full: float
    height: float
    lettering: float
    above: str
    below: str
    indicators: tuple[tuple[str, float, float, str, str], ...]

    def corners(self, low: Array, u: Array) -> Array:
        """Corners (n, 2) of all that is drawn, from its lower left corner on."""
        n = np.array([-u[1], u[0]])
        more = (1 + ABOVE) * self.lettering
        y0, y1 = -more if self.below else 0.0, self.height + (more if self.above else 0.0)
        wide = max(self.full, *(text_width(t, self.lettering) for t in (self.above, self.below)))
        return np.array([low + x * u + y * n for x, y in ((0, y0), (wide, y0), (wide, y1), (0, y1))])

    def draw(self, sketch: Sketch, low: Array, u: Array) -> None:
        """Draw it from its lower left corner on, along a unit way."""
        n, h = np.array([-u[1], u[0]]), self.lettering
        angle = float(np.degrees(np.arctan2(u[1], u[0])))

        def at(x: float, y: float) -> Array:
            return np.asarray(low + x * u + y * n)

        def text(words: str, x: float, y: float, anchor: str = "middle") -> None:
            place = at(x, y)
            sketch.text(words, place[0], place[1], h, anchor, angle)  # type: ignore[arg-type]

        for cell in self.cells:
            sketch.stroke(rectangle(at(cell.x, cell.y), u, cell.width, cell.height), "sign")
            text(cell.text, cell.x + cell.width / 2, cell.y + (cell.height - h) / 2)
        if self.above:
            text(self.above, 0.0, self.height + ABOVE * h, "start")
        if self.below:
            text(self.below, 0.0, -(1 + ABOVE) * h, "start")
        middle = self.height / 2
        for kind, x0, x1, relation, datum in self.indicators:
            self._indicator(sketch, at, kind, (x0, x1), middle)
            split = x0 + HIGH * h + (TIP * h if kind != "collection" else 0.0)
            text(relation, (x0 + TIP * h / 2 + split) / 2, middle - h / 2)
            draw_line(sketch, at(split, middle - h), at(split, middle + h), "sign")
            text(datum, (split + (x1 - (TIP * h if kind == "orientation" else 0.0))) / 2, middle - h / 2)

    def _indicator(
        self, sketch: Sketch, place: Callable[[float, float], Array], kind: str, ends: tuple[float, float], y: float
    ) -> None:
        """The outline of a plane or feature indicator."""
        h, (x0, x1) = self.lettering, ends
        tip, half = TIP * h, h
        if kind == "collection":
            corners = [(x0 + half, y + half), (x1 - half, y + half), (x1 - half, y - half), (x0 + half, y - half)]
            sketch.stroke(curves2.polyline(np.array([place(*c) for c in corners[:2]])), "sign")
            sketch.stroke(curves2.polyline(np.array([place(*c) for c in corners[2:]])), "sign")
            for x, way in ((x0 + half, 1.0), (x1 - half, -1.0)):
                turns = np.radians(np.linspace(90, 270, 19))
                arc = [place(x + way * half * np.cos(t), y + half * np.sin(t)) for t in turns]
                sketch.stroke(curves2.polyline(np.array(arc)), "sign")
            return
        left = [(x0 + tip, y + half), (x0, y), (x0 + tip, y - half)]
        right = [(x1, y - half), (x1, y + half)]
        if kind == "orientation":
            right = [(x1 - tip, y - half), (x1, y), (x1 - tip, y + half)]
        outline = [*left, *right, left[0]]
        sketch.stroke(curves2.polyline(np.array([place(*c) for c in outline])), "sign")
        if kind == "direction":
            sketch.fill(*[[place(*c) for c in left]])


def value_cell(row: FrameRow, derived: bool) -> str:
    """What stands in the cell of the value."""
    found = ZONES[row.zone] + figure_text(row.value)
    if row.per:
        found += "/" + ("Ø" if row.per_round else "") + "×".join(figure_text(p) for p in row.per)
    for m in row.modifiers:
        found += CIRCLED.get(m, f" {m}")
        if m == "P" and row.projected is not None:
            found += figure_text(row.projected)
        if m in ("U", "UZ") and row.offset is not None:
            found += f"{'+' if row.offset >= 0 else '–'}{figure_text(abs(row.offset))}"
    return found + ("Ⓐ" if derived else "")


def datum_cell(cell: DatumCell) -> str:
    """What stands in a cell of a datum."""
    return "–".join(cell.letters) + "".join(CIRCLED.get(m, m if m == "><" else f"[{m}]") for m in cell.modifiers)


def frame_words(frame: Frame, derived: bool = False) -> str:
    """A frame in its signs, as one reads it."""
    rows = []
    for row in frame.rows:
        rows.append(
            " ".join([CHARACTERISTICS[row.characteristic].sign, value_cell(row, derived), *map(datum_cell, row.datums)])
        )
    return (f"{frame.count}× " if frame.count > 1 else "") + "; ".join(rows)


def laid_out(frame: Frame, h: float, derived: bool = False) -> FrameLayout:
    """A frame in its cells, for lettering of a height (mm)."""
    rows, high = frame.rows, HIGH * h

    def wide(text: str) -> float:
        return max(high, text_width(text, h) + 2 * PAD * h)

    cells, top = [], len(rows) * high
    groups = _groups(rows)
    sign = max(wide(CHARACTERISTICS[rows[a].characteristic].sign) for a, _ in groups)
    for a, b in groups:
        cells.append(Cell(CHARACTERISTICS[rows[a].characteristic].sign, 0.0, top - b * high, sign, (b - a) * high))
    columns = [[value_cell(r, derived), *map(datum_cell, r.datums)] for r in rows]
    widths = [max(wide(c[k]) for c in columns if k < len(c)) for k in range(max(map(len, columns)))]
    full = sign
    for k, row in enumerate(columns):
        x = sign
        for text, width in zip(row, widths, strict=False):
            cells.append(Cell(text, x, top - (k + 1) * high, width, high))
            x += width
        full = max(full, x)
    width, indicators = full, []
    for plane in frame.planes:
        datum, relation = datum_cell(plane.datum), RELATIONS[plane.relation]
        begin = full + 0.4 * h
        own = 2 * high if plane.kind == "collection" else TIP * h + high + wide(datum)
        own += TIP * h if plane.kind == "orientation" else 0.0
        indicators.append((plane.kind, begin, begin + own, relation, datum))
        full = begin + own
    above = " ".join(t for t in (f"{frame.count}×" if frame.count > 1 else "", frame.above, _between(frame)) if t)
    return FrameLayout(
        cells=tuple(cells),
        width=width,
        full=full,
        height=top,
        lettering=h,
        above=above,
        below=frame.below,
        indicators=tuple(indicators),
    )


def _between(frame: Frame) -> str:
    return f"{frame.between[0]}↔{frame.between[1]}" if frame.between else ""


def _groups(rows: Sequence[FrameRow]) -> list[tuple[int, int]]:
    """Rows that share a characteristic, from where to where."""
    found: list[tuple[int, int]] = []
    for k, row in enumerate(rows):
        if found and rows[found[-1][0]].characteristic == row.characteristic:
            found[-1] = (found[-1][0], k + 1)
        else:
            found.append((k, k + 1))
    return found
