"""Sections made with the mouse in a real browser."""

from __future__ import annotations

import math

import pytest
from playwright.sync_api import Page, expect

from .browsing import Paper
from .browsing import cover_page as cover_page
from .browsing import page as page


class Front:
    """The gear cover's front view, by places from its axis (mm), and what was made of it."""

    def __init__(self, page: Page) -> None:
        self.page, self.paper = page, Paper(page)
        self.x, self.y = next(v["place"] for v in self.views() if v.get("look") == "front")

    def views(self) -> list[dict]:
        return self.paper.state()["document"]["sheets"][0]["views"]

    def sections(self) -> list[dict]:
        return [v for v in self.views() if v["kind"] == "section"]

    def click(self, dx: float, dy: float, alt: bool = False) -> None:
        self.move(dx, dy, alt)
        self.page.mouse.down()
        self.page.mouse.up()
        if alt:
            self.page.keyboard.up("Alt")
        self.page.wait_for_timeout(80)

    def move(self, dx: float, dy: float, alt: bool = False) -> None:
        if alt:
            self.page.keyboard.down("Alt")
        self.page.mouse.move(*self.paper.at(self.x + dx, self.y + dy), steps=5)
        self.page.wait_for_timeout(120)

    def set_down(self, dx: float, dy: float) -> dict:
        """Pull the section there and set it down; it as it is kept."""
        before = len(self.sections())
        self.move(dx, dy)
        self.click(dx, dy)
        expect(self.page.get_by_label("Sentence line")).to_contain_text("ection", timeout=20000)
        self.paper.settle()
        assert len(self.sections()) == before + 1
        return self.sections()[-1]


@pytest.fixture
def front(cover_page: Page) -> Front:
    found = Front(cover_page)
    # the left view makes room
    left = next(v for v in found.views() if v.get("look") == "left")
    found.paper.click(left["place"][0], left["place"][1] + 40)
    cover_page.get_by_role("button", name="Select the view").click() if cover_page.get_by_role(
        "button", name="Select the view"
    ).count() else None
    cover_page.keyboard.press("Escape")
    return found


def hole(degrees: float) -> tuple[float, float]:
    return 50 * math.cos(math.radians(degrees)), 50 * math.sin(math.radians(degrees))


def test_a_line_through_the_axis_is_clicked_pulled_flipped_dragged_and_undone(front: Front) -> None:
    page = front.page
    page.keyboard.press("x")
    front.move(0, 0)
    expect(page.locator(".word")).to_contain_text("centre of Ø")
    front.click(0, 0)
    front.click(1.5, 75)
    front.move(110, 4)
    expect(page.locator(".word")).to_contain_text("cut upright through the centre of Ø", timeout=20000)
    made = front.set_down(110, 4)
    assert made["letter"] == "A" and made["line"]["corners"][0]["tie"]["at"] == "centre"
    assert made["place"] == [pytest.approx(front.x + 110, abs=1), pytest.approx(front.y)], "level with its view"
    expect(page.get_by_label("Sentence line")).to_contain_text("Section A–A, cut upright through the centre of Ø")
    # its caption, away and back
    page.keyboard.press("Escape")
    caption = page.locator(f"[data-element='{made['id']}-caption']").bounding_box()
    middle = caption["x"] + caption["width"] / 2, caption["y"] + caption["height"] / 2
    for dx, kept in ((60, True), (-60, False)):
        page.mouse.move(*middle)
        page.mouse.down()
        page.mouse.move(middle[0] + dx, middle[1] + (0 if kept else 2), steps=6)
        page.mouse.up()
        middle = middle[0] + dx, middle[1]
        page.wait_for_timeout(600)
        front.paper.settle()
        assert bool(front.sections()[0]["caption_off"]) == kept, "near its own place it snaps back"
    page.keyboard.press("Control+z")
    front.paper.settle()
    page.keyboard.press("Control+z")
    front.paper.settle()
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    page.keyboard.type("section a")
    page.keyboard.press("Enter")
    page.keyboard.press("Space")
    front.paper.settle()
    assert front.sections()[0]["side"] == -made["side"], "Look the other way"
    page.keyboard.press("Control+z")
    front.paper.settle()
    assert front.sections()[0]["side"] == made["side"]
    # the line itself, aside
    page.keyboard.press("Escape")
    front.paper.drag((front.x, front.y + 66), (front.x + 20, front.y + 66))
    moved = front.sections()[0]["line"]["corners"]
    assert moved[0]["tie"] is None and moved[0]["place"][0] == pytest.approx(20, abs=0.7)
    # and its corner back onto a centre
    handle = page.get_by_label("Corner 1 of the cutting line").bounding_box()
    page.mouse.move(handle["x"] + 7, handle["y"] + 7)
    page.mouse.down()
    front.move(*hole(30))
    page.wait_for_timeout(300)
    page.mouse.up()
    front.paper.settle()
    corner = front.sections()[0]["line"]["corners"][0]
    assert corner["tie"]["at"] == "centre", "dropped on a hole it is tied to it"
    for _ in range(3):
        page.keyboard.press("Control+z")
        front.paper.settle()
    assert not front.sections()


def test_legs_and_steps_grow_by_clicks_and_corners_are_taken_back(front: Front) -> None:
    page = front.page
    page.keyboard.press("x")
    front.click(*hole(90))
    front.click(0, 0)
    front.click(30, 30)
    page.keyboard.press("Backspace")
    x, y = hole(-30)
    front.click(x, y, alt=True)
    page.keyboard.press("Enter")
    made = front.set_down(112, 0)
    assert [c["tie"]["at"] for c in made["line"]["corners"]] == ["centre"] * 3
    assert made["line"]["courses"] == ["upright", "lean"]
    page.keyboard.press("Delete")
    front.paper.settle()
    page.keyboard.press("x")
    front.click(*hole(90))
    front.click(0, 0)
    front.click(*hole(-30))
    page.keyboard.press("Enter")
    stepped = front.set_down(112, 0)
    assert stepped["line"]["courses"] == ["upright", "upright", "level", "upright"]


@pytest.mark.parametrize(("key", "check"), [("a", "half"), ("d", "bare"), ("f", "within"), ("s", "short")])
def test_other_forms_are_one_key_away(front: Front, key: str, check: str) -> None:
    page = front.page
    page.keyboard.press("x")
    front.click(0, 75) if check == "half" else front.click(0, 0)
    front.click(0, 0) if check == "half" else front.click(1, 75)
    if check == "half":
        page.keyboard.press("Enter")
    front.move(105, 0)
    expect(page.locator(".hint")).to_contain_text("half section", timeout=20000)
    page.keyboard.press(key)
    page.wait_for_timeout(200)
    made = front.set_down(106, 0)
    if check in ("half", "short"):
        assert check in made["line"]["ends"]
    else:
        assert made[check] is True


def test_cut_here_is_offered_beside_a_centre_and_refuses_with_the_reason(front: Front) -> None:
    page = front.page
    d = 3.3 * math.sqrt(0.5)
    x, y = hole(90)
    front.click(x + d, y + d)
    page.get_by_role("button", name="Cut here").click()
    made = front.set_down(110, 2)
    assert made["line"]["corners"][0]["tie"] is not None
    page.keyboard.press("4")
    expect(page.locator("aside")).to_contain_text("cut upright through the centre of Ø6.6, on Front")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("x")
    front.click(0, 61.5)
    front.click(61, 75)
    page.keyboard.press("Escape")
    assert len(front.sections()) == 1


def test_a_view_is_cut_open_locally_at_a_stroke(front: Front) -> None:
    page = front.page
    front.paper.click(front.x, front.y + 40)
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    page.keyboard.type("front view")
    page.keyboard.press("Enter")
    page.keyboard.press("o")
    start = front.paper.at(front.x + 20, front.y + 40)
    page.mouse.move(*start)
    page.mouse.down()
    for k in range(1, 25):
        a = 2 * math.pi * k / 25
        page.mouse.move(*front.paper.at(front.x + 20 * math.cos(a), front.y + 40 + 12 * math.sin(a)))
    page.mouse.up()
    expect(page.locator(".hint")).to_contain_text("Depth")
    front.click(-80, -80)
    front.paper.settle()
    cut = next(v for v in front.views() if v.get("look") == "front")["local_cuts"]
    assert len(cut) == 1 and cut[0]["tie"]["at"] == "box" and 5 < len(cut[0]["outline"]) <= 40
    expect(page.get_by_label("Sentence line")).to_contain_text("cut open locally")
    page.keyboard.press("Control+z")
    front.paper.settle()
    assert not next(v for v in front.views() if v.get("look") == "front")["local_cuts"]
