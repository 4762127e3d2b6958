"""Looks of cutting lines, rings, arrows and captions: for one view, for all, by the standard where nothing is told."""

from __future__ import annotations

import numpy as np
import pytest

from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.display import Region, Stroke, Text
from barequill.core.drawing import Drawing
from barequill.core.drawing.operations import SetStyles, SetView, apply
from barequill.core.drawing.styles import ViewStyle
from tools.sheets import DrawnPart, done, id_of


@pytest.fixture(scope="module")
def cut() -> DrawnPart:
    """The pedestal from the front, cut through the middle to the right of it."""
    p = DrawnPart("spindle-pedestal", views=["front"], size="A2", scale=1.0)
    view = p.placed_view("front").view
    points = [CutPoint(x=0, y=0, at="box")]
    act = CutView(view=view.id, points=points, to=(view.place[0] + 150, view.place[1]))
    p.drawing = done(p.projections, p.drawing, act)
    return p


def looked(p: DrawnPart, whole: bool = False, **look) -> Drawing:
    """The drawing with a look, of the section alone or of all views."""
    section = p.drawing.front_sheet.views[-1]
    drawing = apply(
        p.drawing, SetStyles(view_styles=[ViewStyle(name="own", **look)], view_style="own" if whole else None)
    )
    return drawing if whole else apply(drawing, SetView(view=section.id, changes={"style": "own"}))


def of_kind(p: DrawnPart, drawing: Drawing, kind: str):
    return next(e for e in p.ink(drawing).elements if e.kind == kind)


@pytest.mark.parametrize(("line", "wide", "narrow"), [("chain", 2, 1), ("ends", 2, 0), ("wide", 1, 0)])
def test_a_cutting_line_is_drawn_whole_by_its_ends_or_wide(cut: DrawnPart, line: str, wide: int, narrow: int) -> None:
    found = of_kind(cut, looked(cut, cutting_line=line), "cutting_line")
    pens = [m.pen for m in found.marks if isinstance(m, Stroke)]
    # the shafts of both arrows are wide too
    assert (pens.count("cutting-end") - 2, pens.count("cutting")) == (wide, narrow)


def test_letters_arrows_and_captions_are_as_large_as_told(cut: DrawnPart) -> None:
    plain = of_kind(cut, cut.drawing, "cutting_line")
    own = of_kind(cut, looked(cut, letters=10.0, arrow_length=9.0), "cutting_line")
    assert {m.height for m in plain.marks if isinstance(m, Text)} == {5.0}
    assert {m.height for m in own.marks if isinstance(m, Text)} == {10.0}

    def long(found) -> float:
        tip, one, two = next(m for m in found.marks if isinstance(m, Region)).rings[0]
        return float(np.linalg.norm((one + two) / 2 - tip))

    assert long(plain) == pytest.approx(1.4 * 3.5) and long(own) == pytest.approx(9.0)
    assert [m.height for m in of_kind(cut, looked(cut, letters=10.0), "caption").marks if isinstance(m, Text)] == [10.0]
    closed = of_kind(cut, looked(cut, arrow="closed"), "cutting_line")
    assert not [m for m in closed.marks if isinstance(m, Region)]


@pytest.mark.parametrize(
    ("look", "text"),
    [
        ({}, "A–A"),
        ({"words": "named"}, "SECTION A–A"),
        ({"scale": "always"}, "A–A (1:1)"),
        ({"words": "named", "scale": "always"}, "SECTION A–A (1:1)"),
    ],
)
def test_captions_say_what_is_told(cut: DrawnPart, look: dict, text: str) -> None:
    assert of_kind(cut, looked(cut, **look), "caption").words == f"caption {text}"


def test_captions_stand_below_where_told_and_a_scale_is_left_out(cut: DrawnPart) -> None:
    section = cut.drawing.front_sheet.views[-1]
    drawing = looked(cut, caption="below", scale="never")
    box = cut.projections.placed_views(drawing, drawing.front_sheet)[section.id].box
    (text,) = [m for m in of_kind(cut, drawing, "caption").on_sheet() if isinstance(m, Text)]
    assert text.corners()[:, 1].max() < box.y0
    scaled = apply(drawing, SetView(view=section.id, changes={"scale": 0.5}))
    assert of_kind(cut, scaled, "caption").words == "caption A–A"
    # one look for all, but for a view that has its own
    both = looked(cut, whole=True, words="named")
    assert of_kind(cut, both, "caption").words == "caption SECTION A–A"
    assert id_of(both, "front")
