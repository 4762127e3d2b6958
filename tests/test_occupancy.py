"""What lays itself out keeps clear of frame and title block."""

from __future__ import annotations

import pytest

from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.tidy import Tidy
from barequill.core.display import box_of
from barequill.core.drawing import apply
from barequill.core.drawing.operations import MoveView
from barequill.core.standards.sheets import Rectangle
from tools.sheets import DrawnPart, done

SHEETS = {"A4": (210, 297), "A3": (297, 420), "A2": (420, 594)}
"""mm, ISO 216; the frame of ISO 5457 leaves 20 at the left for filing, and 10 elsewhere."""
BLOCK = 180.0, 49.0
"""Title block, mm."""


@pytest.mark.parametrize("size", SHEETS)
@pytest.mark.parametrize("stem", ["spindle-pedestal", "long-pinion-spindle", "round-gear-cover", "catch-box", "pawl"])
def test_proposed_views_and_captions_keep_clear_of_frame_and_title_block(stem: str, size: str) -> None:
    acting = DrawnPart(stem, size=size)
    assert _clear(acting, acting.drawing, ("view", "caption")) >= 5.0 - 1e-6


def test_what_is_tidied_and_spread_keeps_five_mm() -> None:
    acting = DrawnPart("spindle-pedestal", size="A3")
    drawing = done(acting.projections, acting.drawing, OverallSizes(views=[v.id for v in acting.sheet.views[:3]]))
    sheet = drawing.front_sheet
    # so far to the left and up that sizes lie over the frame
    drawing = apply(drawing, MoveView(view=sheet.views[0].id, to=(85.0, 225.0)))
    assert _clear(acting, drawing, ("view", "caption", "dimension")) < 0
    drawing = done(acting.projections, drawing, Tidy(sheet=sheet.id, spread=True))
    assert _clear(acting, drawing, ("view", "caption", "dimension")) >= 5.0 - 1e-6


def _clear(acting: DrawnPart, drawing, kinds: tuple[str, ...]) -> float:
    """How near elements of some kinds come to the frame or the title block, mm."""
    short, long = SHEETS[drawing.front_sheet.size]
    wide, high = (long, short) if drawing.front_sheet.landscape else (short, long)
    x0, y0, x1, y1 = 20, 10, wide - 10, high - 10
    nearest = float("inf")
    for e in acting.ink(drawing).elements:
        b = box_of(e.marks)
        if e.kind in kinds and b is not None:
            b = Rectangle(b.x0 + e.at[0], b.y0 + e.at[1], b.x1 + e.at[0], b.y1 + e.at[1])
            beside = max(x1 - BLOCK[0] - b.x1, b.y0 - y0 - BLOCK[1])
            nearest = min(nearest, b.x0 - x0, b.y0 - y0, x1 - b.x1, y1 - b.y1, beside)
    return nearest
