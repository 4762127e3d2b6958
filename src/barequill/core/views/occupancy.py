"""What of a sheet is free: the space within the frame less the title block, and how far what lays itself out keeps from both."""

from __future__ import annotations

from typing import Any

import shapely

from ..drawing import Drawing, Sheet
from ..standards.sheets import Rectangle
from ..values import value

CLEAR, LEAST = 10.0, 5.0
"""mm that are kept from frame and title block where there is room, and that are kept in any case."""
MARGINS = CLEAR, LEAST
"""Both, in the order in which they are tried."""


@value
class Occupancy:
    """The space within the frame of a sheet, and the boxes in it that are taken: the title block, and whatever else stands there."""

    space: Rectangle
    taken: tuple[Rectangle, ...]

    @property
    def title(self) -> Rectangle:
        """The title block."""
        return self.taken[0]

    def within(self, margin: float) -> Rectangle:
        """The space that is so far (mm) from the frame."""
        return self.space.grown(-margin)

    def beside(self, margin: float) -> tuple[Rectangle, ...]:
        """What is taken, with so much (mm) around it."""
        return tuple(b.grown(margin) for b in self.taken)

    def with_more(self, *boxes: Rectangle) -> Occupancy:
        """The same with more boxes taken."""
        return Occupancy(self.space, (*self.taken, *boxes))

    def clear_of_all(self, box: Rectangle, margin: float) -> bool:
        """True where a box keeps so far (mm) from the frame and from all that is taken."""
        return self.within(margin).grown(1e-6).holds(box) and not any(b.overlaps(box) for b in self.beside(margin))

    def free(self, margin: float) -> Any:
        """What is free, so far (mm) from the frame and from all that is taken, as a geometry."""
        s = self.within(margin)
        return shapely.box(s.x0, s.y0, s.x1, s.y1).difference(
            shapely.union_all([shapely.box(b.x0, b.y0, b.x1, b.y1) for b in self.beside(margin)])
        )


def occupancy(drawing: Drawing, sheet: Sheet) -> Occupancy:
    """That of an empty sheet: its title block is taken."""
    template = drawing.template_of(sheet)
    return Occupancy(template.space(sheet.size, sheet.landscape), (template.block(sheet.size, sheet.landscape),))
