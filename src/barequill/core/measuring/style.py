"""How annotations look, as a value: figures of ISO 129-1 and ISO 128-2, and of ASME Y14.5 where it differs."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..drawing import DimensionStyle, Drawing, Sheet, View
from ..standards.lines import LineGroup

PLAIN = DimensionStyle(name="")
SIGHT = 1.4
"""How many times as large as those of dimensions arrows are that tell from where one looks."""


@dataclass(frozen=True)
class Style:
    """Lengths in sheet mm.

    ``gap``: between a feature and its extension line. ``level``: lettering reads from below, and stands in a gap of the
    dimension line. ``beyond``: how far centre lines reach beyond their feature, ``beyond_small`` for small circles.
    """

    lines: LineGroup
    standard: str
    arrow: float = 3.5
    overrun: float = 2.0
    text_gap: float = 1.0
    first_row: float = 10.0
    row: float = 7.0
    catch: float = 2.5
    """How near to a row a pulled dimension line snaps into it."""
    beyond: float = 3.0
    beyond_small: float = 2.0
    arrow_form: str = "filled"
    arrow_angle: float = 20.0
    own_gap: float | None = None
    own_lettering: float | None = None
    text: str = "auto"
    own: DimensionStyle = PLAIN
    """How figures are written."""
    cutting_line: str = "chain"
    """How the line of a section is drawn."""

    @property
    def arrow_half(self) -> float:
        """Half the width of an arrowhead."""
        return self.arrow * float(np.tan(np.radians(self.arrow_angle / 2)))

    @property
    def gap(self) -> float:
        """Between a feature and its extension line."""
        if self.own_gap is not None:
            return self.own_gap
        return 1.5 if self.standard == "ASME" else 0.0

    @property
    def level(self) -> bool:
        """True where all lettering of dimensions reads from below."""
        return self.text == "level" or (self.text == "auto" and self.standard == "ASME")

    @property
    def lettering(self) -> float:
        """Height of the lettering of dimensions."""
        return self.own_lettering or self.lines.lettering


READY = [
    DimensionStyle(name="ISO", text="above", gap=0.0),
    DimensionStyle(name="ISO, two decimals", text="above", gap=0.0, decimals=2, trailing_zeros=True),
    DimensionStyle(name="ASME", text="level", gap=1.5),
    DimensionStyle(name="Both units", second_unit=True),
    DimensionStyle(name="Oblique strokes", arrow="stroke"),
]
"""Styles that every drawing has."""


def named_style(drawing: Drawing, name: str) -> DimensionStyle:
    """The style of that name, or the drawing's own; the standard's look where there is none."""
    wanted = name or drawing.style
    return next((s for s in (*drawing.styles, *READY) if s.name == wanted), PLAIN)


def style_of(drawing: Drawing, sheet: Sheet, name: str = "") -> Style:
    """The style of that name on a sheet, or the drawing's own."""
    own, plain = named_style(drawing, name), Style(drawing.lines_of(sheet), drawing.standard)
    return Style(
        lines=plain.lines,
        standard=drawing.standard,
        arrow=plain.lines.lettering if own.arrow_length is None else own.arrow_length,
        overrun=plain.overrun if own.overrun is None else own.overrun,
        text_gap=plain.text_gap,
        first_row=max(plain.first_row, 2.8 * plain.lines.lettering) if own.first_row is None else own.first_row,
        row=2 * plain.lines.lettering if own.row is None else own.row,
        arrow_form=own.arrow,
        arrow_angle=own.arrow_angle,
        own_gap=own.gap,
        own_lettering=own.lettering,
        text=own.text,
        own=own,
    )


def marks_style_of(drawing: Drawing, sheet: Sheet, view: View) -> Style:
    """The style of what marks a view at its parent: its line, ring or arrow, and their letters."""
    own, plain = drawing.look_of(view), style_of(drawing, sheet)
    lines = plain.lines if own.letters is None else replace(plain.lines, caption=own.letters)
    return replace(
        plain,
        lines=lines,
        arrow=plain.arrow if own.arrow_length is None else own.arrow_length / SIGHT,
        arrow_form=own.arrow if plain.arrow_form in ("stroke", "dot") or own.arrow != "filled" else plain.arrow_form,
        cutting_line=own.cutting_line,
    )
