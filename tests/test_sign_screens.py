"""Tolerance frames, datums, textures and notes, set by mouse and by keys in a real browser."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from .browsing import Services, draw
from .browsing import page as page


class Signs(Services):
    """A drawing on the screen, with what is drawn of its elements."""

    def sheet_ink(self) -> dict:
        base, number = self.page.url.split("/#")[0], self.page.url.rsplit("/", 1)[1]
        return self.page.request.get(f"{base}/api/drawings/{number}/sheets/e1/ink").json()

    def ink(self, own: str) -> dict:
        """What is drawn of an element."""
        return next(e for e in self.sheet_ink()["elements"] if e["id"] == own)

    def height(self) -> float:
        """mm that the sheet is high."""
        return self.sheet_ink()["height"]


@pytest.fixture
def pedestal(server: str, page: Page) -> Signs:
    return Signs(draw(server, page, "spindle-pedestal", views=["front", "top"], scale=0.5, centres=False))


def state_bore(services: Signs) -> tuple[float, float]:
    """The diameter of the pedestal's bore pulled out; where its lettering stands."""
    x0, y0, x1, _ = services.box(services.view("front")["id"])
    middle, rim = (x0 + x1) / 2, y0 + 40 + 7.07
    services.paper.drag((middle + 7.07, rim), (middle + 28, rim + 20))
    services.settled()
    (size,) = services.marks("dimension")
    ink = services.ink(size["id"])
    x, y = ink["x"], ink["y"]
    text = next(m for m in ink["marks"] if m["m"] == "t")
    return x + text["x"] + 3, services.height() - (y + text["y"]) + 1


def slip(services: Signs):
    return services.page.get_by_role("region", name="What it says")


def test_a_datum_and_a_frame_are_set_typed_chosen_and_refused_where_they_are_nonsense(pedestal: Signs) -> None:
    page = pedestal.page
    x, y = state_bore(pedestal)
    x0, y0, _, _ = pedestal.box(pedestal.view("front")["id"])
    page.keyboard.press("Escape")
    page.keyboard.press("7")
    page.get_by_role("button", name="Datum J").click()
    pedestal.click(x0 + 12, y0)
    pedestal.move(x0 + 12, y0 - 14)
    page.keyboard.press("Enter")
    pedestal.settled()
    assert [d["letter"] for d in pedestal.marks("datum_feature")] == ["A"]
    page.keyboard.press("Escape")
    page.keyboard.press("g")
    pedestal.click(x, y)
    expect(slip(pedestal).locator("input")).to_have_value("position Ø0.1 A")
    page.keyboard.type("flatness 0.1 A")
    expect(slip(pedestal)).to_contain_text("Flatness has no datum", timeout=10000)
    page.keyboard.press("Control+a")
    page.keyboard.type("perpendicularity 0.05 dia M to A")
    expect(slip(pedestal)).to_contain_text("The axis must lie within a cylinder 0.05 mm across", timeout=10000)
    slip(pedestal).get_by_role("button", name=re.compile("^Value")).click()
    page.get_by_role("menuitem", name="0.2", exact=True).click()
    expect(slip(pedestal).locator("input")).to_have_value("perpendicularity Ø0.2(M) A")
    slip(pedestal).locator("input").press("Enter")
    pedestal.settled()
    (frame,) = pedestal.marks("tolerance_frame")
    assert frame["frame"]["rows"][0]["value"] == 0.2 and frame["frame"]["rows"][0]["modifiers"] == ["M"]
    sentence = page.get_by_role("contentinfo", name="Sentence line")
    expect(sentence).to_contain_text("axis of Ø40")
    sentence.get_by_role("button", name=re.compile("^Characteristic")).click()
    expect(page.get_by_role("menuitem", name="parallelism")).to_be_visible()
    expect(page.get_by_role("menuitem", name="roundness")).to_have_count(0)
    page.get_by_role("menuitem", name="parallelism").click()
    pedestal.settled()
    assert pedestal.marks("tolerance_frame")[0]["frame"]["rows"][0]["characteristic"] == "parallelism"
    page.keyboard.press("Control+z")
    pedestal.settled()
    assert pedestal.marks("tolerance_frame")[0]["frame"]["rows"][0]["characteristic"] == "perpendicularity"


def test_textures_are_set_one_after_the_other_and_a_note_takes_a_figure_that_is_pointed_at(pedestal: Signs) -> None:
    page = pedestal.page
    x, y = state_bore(pedestal)
    x0, y0, x1, _ = pedestal.box(pedestal.view("front")["id"])
    page.keyboard.press("Escape")
    page.keyboard.press("u")
    page.keyboard.type("Ra 1.6")
    for at in (x0 + 5, x1 - 5):
        pedestal.click(at, y0 + 8)
        pedestal.settled()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    assert [(t["upper"], t["seated"]) for t in pedestal.marks("surface_texture")] == [("Ra 1.6", True)] * 2
    page.keyboard.press("i")
    pedestal.click(300, 120)
    page.keyboard.type("Bore dia ")
    expect(slip(pedestal).locator("textarea")).to_have_value("Bore Ø")
    pedestal.click(x, y)
    expect(slip(pedestal).locator("textarea")).to_have_value(re.compile(r"Bore Ø\{size e\d+\}"))
    slip(pedestal).locator("textarea").press("Enter")
    pedestal.settled()
    (note,) = pedestal.marks("text_note")
    assert pedestal.ink(note["id"])["words"] == "Bore ØØ40" and note["at"] == pytest.approx((300, 120), abs=1)
    pedestal.paper.drag((303, 118), (323, 128))
    pedestal.settled()
    assert pedestal.marks("text_note")[0]["at"] == pytest.approx((320, 130), abs=1.5)


def test_signs_are_set_by_keys_alone(pedestal: Signs) -> None:
    page = pedestal.page
    pedestal.find("Front view")
    page.keyboard.press("n")
    page.keyboard.press("Enter")
    page.keyboard.press("g")
    expect(slip(pedestal).locator("input")).to_have_value(re.compile("flatness"))
    for _ in range(8):
        page.keyboard.press("Alt+ArrowUp")
    page.keyboard.press("Control+a")
    page.keyboard.type("profile of a line 0.2")
    expect(slip(pedestal)).to_contain_text("Profile of a line within 0.2", timeout=10000)
    page.keyboard.press("Enter")
    pedestal.settled()
    (frame,) = pedestal.marks("tolerance_frame")
    assert frame["foot"]["ref"]
    before = frame["offset"], frame["angle"]
    page.keyboard.press("Shift+ArrowUp")
    pedestal.settled()
    after = pedestal.marks("tolerance_frame")[0]
    assert (after["offset"], after["angle"]) != before
    page.keyboard.press("Delete")
    pedestal.settled()
    assert not pedestal.marks("tolerance_frame")


def test_general_notes_are_proposed_written_and_flagged(pedestal: Signs) -> None:
    page = pedestal.page
    page.keyboard.press("7")
    page.get_by_role("button", name="Propose general notes").click()
    pedestal.settled()
    (block,) = pedestal.marks("notes_block")
    assert block["notes"][0]["text"] == "Sizes without tolerances: {general_tolerance}."
    page.get_by_role("button", name="General notes", exact=True).click()
    area = slip(pedestal).locator("textarea")
    lines = area.input_value().split("\n")
    area.fill("\n".join(["Fettle the casting.", *lines]))
    area.press("Control+Enter")
    pedestal.settled()
    (after,) = pedestal.marks("notes_block")
    assert after["notes"][1]["id"] == block["notes"][0]["id"], "a note keeps its name when another comes before it"
    sentence = page.get_by_role("contentinfo", name="Sentence line")
    sentence.get_by_role("button", name=re.compile("^Note 2")).click()
    page.get_by_role("button", name="set a flag for it").click()
    x0, y0, _, _ = pedestal.box(pedestal.view("front")["id"])
    pedestal.click(x0 + 6, y0 + 8)
    pedestal.click(x0 + 16, y0 + 24)
    pedestal.settled()
    (flag,) = pedestal.marks("note_flag")
    assert flag["line"] == block["notes"][0]["id"] and pedestal.ink(flag["id"])["words"] == "flag 2"
