"""How annotations look, as a value: figures of ISO 129-1 and ISO 128-2, and of ASME Y14.5 where it differs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..drawing import Drawing, Sheet
from ..standards.lines import LineGroup, line_group


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

    @property
    def arrow_half(self) -> float:
        """Half the width of an arrowhead: its flanks stand at 20°."""
        return self.arrow * float(np.tan(np.radians(10)))

    @property
    def gap(self) -> float:
        """Between a feature and its extension line."""
        return 1.5 if self.level else 0.0

    @property
    def level(self) -> bool:
        """True where all lettering of dimensions reads from below."""
        return self.standard == "ASME"

    @property
    def lettering(self) -> float:
        """Height of the lettering of dimensions."""
        return self.lines.lettering


def style_of(drawing: Drawing, sheet: Sheet) -> Style:
    """The style of a sheet."""
    return Style(line_group(sheet.size), drawing.standard)
