"""All that a checker would mark on a sheet."""

from __future__ import annotations

from collections.abc import Mapping

from ..display import DisplayList
from ..drawing import Drawing, Sheet
from ..views.placed_view import PlacedView
from .list_remarks import list_remarks
from .remarks import Remark, remarks_on
from .sign_remarks import sign_remarks
from .size_remarks import size_remarks
from .standing import standing_remarks


def checked(drawing: Drawing, sheet: Sheet, ink: DisplayList, placed_views: Mapping[str, PlacedView]) -> list[Remark]:
    """Remarks on a sheet as it is drawn (``ink``), with its views as they stand."""
    return [
        *standing_remarks(drawing, sheet, ink, placed_views),
        *remarks_on(ink, placed_views),
        *sign_remarks(drawing, sheet),
        *list_remarks(drawing, sheet, placed_views),
        *size_remarks(drawing, sheet, placed_views),
    ]
