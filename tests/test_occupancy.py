"""What lays itself out keeps clear of frame and title block."""

from __future__ import annotations

import pytest

from barequill.core.acts.make_room import MakeRoom
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.state_table import StateTable
from barequill.core.acts.tidy import Tidy
from barequill.core.arranging.standing import standing_remarks
from barequill.core.display import box_of
from barequill.core.drawing import apply
from barequill.core.drawing.operations import ChangeAnnotation, MoveView
from barequill.core.errors import UserError
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


def test_what_lies_on_something_is_remarked_and_put_elsewhere_by_one_act() -> None:
    acting = DrawnPart("spindle-pedestal", size="A3")
    sheet = acting.sheet

    def remarks(drawing) -> list[str]:
        placed = acting.projections.placed_views(drawing, drawing.front_sheet)
        return [r.words for r in standing_remarks(drawing, drawing.front_sheet, acting.ink(drawing), placed)]

    assert remarks(acting.drawing) == []
    with pytest.raises(UserError, match="Nothing lies on anything"):
        done(acting.projections, acting.drawing, MakeRoom(sheet=sheet.id))
    front, iso = sheet.views[0], sheet.views[-1]
    # A3: the title block reaches from x = 230 to 410 and from y = 10 to 59
    drawing = apply(acting.drawing, MoveView(view=iso.id, to=front.place))
    drawing = done(acting.projections, drawing, StateTable(sheet=sheet.id, text="Gear\nModule: 2\nTeeth: 24"))
    table = drawing.front_sheet.annotations[-1]
    drawing = apply(drawing, ChangeAnnotation(id=table.id, changes={"at": (300.0, 50.0)}))
    assert sorted(remarks(drawing)) == [
        "Isometric view lies on the front view",
        "Table lies on the title block",
    ]
    mended = done(acting.projections, drawing, MakeRoom(sheet=sheet.id))
    assert remarks(mended) == [] and _clear(acting, mended, ("view", "caption")) >= 5.0 - 1e-6
    x, y = mended.front_sheet.annotation(table.id).at
    assert x < 230 or y - 20 > 59
    beyond = apply(acting.drawing, MoveView(view=iso.id, to=(410.0, 300.0)))
    assert remarks(beyond) == ["Isometric view lies beyond the paper"]
