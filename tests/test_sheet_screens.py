"""Several sheets of a drawing, by mouse and by keys in a real browser."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from .browsing import Services, draw
from .browsing import page as page


def captions(services: Services, sheet: int) -> set[str]:
    """What is written on a sheet of the drawing."""
    base, number = services.page.url.split("/#")[0], services.page.url.rsplit("/", 1)[1]
    own = services.paper.state()["document"]["sheets"][sheet - 1]["id"]
    ink = services.page.request.get(f"{base}/api/drawings/{number}/sheets/{own}/ink").json()
    return {m["text"] for e in ink["elements"] for m in e["marks"] or [] if m["m"] == "t"}


def test_a_view_is_pulled_onto_the_tag_of_a_new_sheet_and_undone(server: str, page: Page) -> None:
    services = Services(draw(server, page, "spindle-pedestal", views=["front", "top"], scale=0.5, centres=False))
    tags = page.get_by_role("group", name="Sheets").get_by_role("button")
    expect(tags).to_have_count(2)
    x0, y0, x1, y1 = services.box(services.view("projected")["id"])
    x, y = services.paper.at(x0 + 0.16 * (x1 - x0), y0 + 0.45 * (y1 - y0))
    plus = page.get_by_role("button", name="Add a sheet").bounding_box()
    assert plus
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(plus["x"] + 30, plus["y"] + 60, steps=4)
    page.mouse.move(plus["x"] + 8, plus["y"] + 12, steps=4)
    page.mouse.up()
    expect(tags).to_have_count(3)
    expect(page.get_by_role("group", name="Sheets").locator("[aria-current=page]")).to_contain_text("Sheet 2")
    expect(services.sentence).to_contain_text("sheet 2")
    assert [len(s["views"]) for s in services.paper.state()["document"]["sheets"]] == [1, 1]
    assert "A (sheet 2)" in captions(services, 1) and "A (sheet 1)" in captions(services, 2)
    # nothing holds it in line there: it goes where the hand goes
    was = services.paper.state()["document"]["sheets"][1]["views"][0]["place"]
    page.keyboard.press("ArrowRight")
    page.wait_for_timeout(1500)
    (moved,) = services.paper.state()["document"]["sheets"][1]["views"]
    assert moved["place"] == [was[0] + 1, was[1]]
    page.keyboard.press("Control+z")
    page.wait_for_timeout(1500)
    page.keyboard.press("Control+z")
    expect(tags).to_have_count(2)
    assert "A (sheet 2)" not in captions(services, 1)


def test_sheets_are_made_named_ordered_and_removed_by_keys_alone(server: str, page: Page) -> None:
    services = Services(draw(server, page, "spindle-pedestal", views=["front"], scale=0.5, centres=False))
    shown = page.get_by_role("group", name="Sheets").locator("[aria-current=page]")
    services.find("Copy this sheet")
    expect(shown).to_contain_text("Sheet 2")
    first, second = (s["id"] for s in services.paper.state()["document"]["sheets"])
    page.keyboard.press("PageUp")
    expect(shown).to_contain_text("Sheet 1")
    page.keyboard.press("Shift+PageDown")
    expect(shown).to_contain_text("Sheet 2")
    assert [s["id"] for s in services.paper.state()["document"]["sheets"]] == [second, first]
    name = page.get_by_role("button", name=re.compile("^Name of the sheet"))
    name.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("Machining")
    page.keyboard.press("Enter")
    expect(shown).to_contain_text("Machining")
    page.keyboard.press("Escape")
    services.find("Remove this sheet")
    expect(page.get_by_role("group", name="Sheets").get_by_role("button")).to_have_count(2)
    assert [s["id"] for s in services.paper.state()["document"]["sheets"]] == [second]


def test_it_is_asked_what_becomes_of_views_that_hang_on_one_that_is_removed(server: str, page: Page) -> None:
    services = Services(draw(server, page, "spindle-pedestal", views=["front", "top", "iso"], scale=0.5, centres=False))
    services.find("Front view")
    page.keyboard.press("Delete")
    slip = page.get_by_role("dialog")
    expect(slip.get_by_role("listitem")).to_have_count(2)
    page.keyboard.press("Escape")
    assert len(services.views()) == 3
    page.keyboard.press("Delete")
    slip.get_by_role("button", name="Keep what can stay").click()
    services.settled()
    assert sorted(v["kind"] for v in services.views()) == ["free", "principal"]
    page.keyboard.press("Control+z")
    services.settled()
    assert sorted(v["kind"] for v in services.views()) == ["pictorial", "principal", "projected"]
