"""What a checker would mark about how the figures of sizes are written."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress

from ..drawing import Dimension, Drawing, Sheet
from ..errors import Unmeasurable
from ..measuring.measuring import Angular, measure
from ..measuring.style import named_style
from ..measuring.wording import FINEST, in_unit, written
from ..views.placed_view import PlacedView
from .remarks import Remark

EXACT = 5e-4
"""inch within which a fraction is the value itself."""


def size_remarks(drawing: Drawing, sheet: Sheet, placed_views: Mapping[str, PlacedView]) -> list[Remark]:
    """Sizes of a sheet whose fractions of an inch are not what they measure, but the nearest that is written."""
    found = []
    for own in (a for a in sheet.annotations if isinstance(a, Dimension)):
        style = named_style(drawing, own.style)
        view = placed_views.get(own.on)
        if view is None or style.inches == "decimal" or not (drawing.unit == "inch" or style.second_unit):
            continue
        with suppress(Unmeasurable):
            size = measure(view.projected, own)
            inches = in_unit(size.value, "inch")
            if isinstance(size, Angular) or abs(inches - round(inches * FINEST) / FINEST) <= EXACT:
                continue
            text = written(size.value, None, "inch", False, drawing.standard, style)
            found.append(Remark(own.id, f"{text} is rounded: it measures {inches:.4f} inch"))
    return found
