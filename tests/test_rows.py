"""Rows of sizes, fits, hole notes, looks and tidying, by mouse and by keys in a real browser."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from .browsing import Services, draw, typed
from .browsing import page as page


@pytest.fixture
def pedestal(server: str, page: Page) -> Services:
    return Services(draw(server, page, "spindle-pedestal", views=["front", "top"], scale=0.5, centres=False))


def sizes(services: Services) -> list[dict]:
    return services.marks("dimension")


def clicked_through(pedestal: Services, above: float) -> tuple[float, float, float]:
    """A row begun over the view from above (the left side, the upright on both sides, the right side), the pointer so far
    above it; the view's left, right and top."""
    x0, y0, x1, y1 = pedestal.box(pedestal.view("top")["id"])
    pedestal.page.keyboard.press("r")
    for x in (x0, x0 + 18, x0 + 52, x1):
        pedestal.click(x, (y0 + y1) / 2 + 5)
    pedestal.move((x0 + x1) / 2, y1 + above)
    return x0, x1, y1


def test_a_row_is_clicked_through_set_down_and_made_another(pedestal: Services) -> None:
    page = pedestal.page
    x0, x1, y1 = clicked_through(pedestal, 10)
    expect(page.locator(".word")).to_contain_text("3 sizes, in a chain", timeout=20000)
    page.keyboard.press("s")
    pedestal.move((x0 + x1) / 2 + 1, y1 + 10)
    expect(page.locator(".word")).to_contain_text("running from the first place")
    page.keyboard.press("a")
    page.wait_for_timeout(200)
    page.mouse.click(*pedestal.paper.at((x0 + x1) / 2, y1 + 10))
    pedestal.settled()
    assert {d["row"]["form"] for d in sizes(pedestal)} == {"chain"}
    assert sorted(pedestal.paper.texts()) == ["36", "36", "68"]
    first = sizes(pedestal)[0]["id"]
    pedestal.find("Dimension 68")
    pedestal.find("Row in parallel")
    pedestal.settled()
    assert sorted(pedestal.paper.texts()) == ["104", "140", "36"]
    pedestal.find("Dimension 104")
    pedestal.find("Row as running")
    pedestal.settled()
    assert {d["row"]["form"] for d in sizes(pedestal)} == {"running"}
    for _ in range(3):
        page.keyboard.press("Control+z")
        pedestal.paper.settle()
    assert sizes(pedestal) == []
    assert first


def test_a_window_takes_all_centres_into_a_row(pedestal: Services) -> None:
    page, top = pedestal.page, pedestal.view("top")
    x0, y0, x1, _ = pedestal.box(top["id"])
    page.keyboard.press("r")
    pedestal.pull((x0 + 3, y0 + 2), (x1 - 3, y0 + 8))
    pedestal.move((x0 + x1) / 2, y0 - 10)
    expect(page.locator(".word")).to_contain_text("1 size, in a chain", timeout=20000)
    page.mouse.click(*pedestal.paper.at((x0 + x1) / 2, y0 - 10))
    pedestal.settled()
    # from hole to hole
    assert pedestal.paper.texts() == ["108"]


def test_a_fit_is_typed_and_tells_its_limits(pedestal: Services) -> None:
    page, front = pedestal.page, pedestal.view("front")
    x, y = front["place"]
    # the bore, 40 across, 80 above the foot: from its upper right
    centre = (x, y + (80 - 57) * 0.5)
    spot = (centre[0] + 10 * 0.7071, centre[1] + 10 * 0.7071)
    pedestal.pull(spot, (spot[0] + 25, spot[1] + 20))
    pedestal.settled()
    assert pedestal.paper.texts() == ["Ø40"]
    expect(pedestal.sentence).to_contain_text("±0.3 by ISO 2768-m")
    typed(page, re.compile("^Tolerance"), "H7 with deviations")
    pedestal.settled()
    assert pedestal.paper.texts() == ["Ø40 H7 (+0.025/0)"]
    expect(pedestal.sentence).to_contain_text("40.000 to 40.025")
    typed(page, re.compile("^Tolerance"), "blue")
    expect(page.get_by_text("“blue” is not a tolerance")).to_be_visible()
    assert pedestal.paper.texts() == ["Ø40 H7 (+0.025/0)"]


def note_the_hole(services: Services) -> None:
    """The note of the hole that is pointed at, set down a little up and to the right by keys."""
    services.find("Note the hole")
    for key in ["Shift+ArrowRight", "Shift+ArrowUp"]:
        services.page.keyboard.press(key)
    expect(services.page.locator(".word")).to_contain_text("4× Ø11", timeout=20000)
    services.page.keyboard.press("Enter")
    services.settled()


def test_by_keys_holes_are_noted_threaded_and_sizes_tidied(pedestal: Services) -> None:
    page = pedestal.page
    pedestal.find("Top view")
    pedestal.step_to("circle Ø11")
    note_the_hole(pedestal)
    (note,) = pedestal.marks("hole_note")
    typed(page, re.compile("^Thread:"), "M12")
    pedestal.settled()
    expect(pedestal.sentence).to_contain_text("4× M12×1.75 – 6H")
    expect(page.locator("[data-element*='-thread-']")).to_have_count(8)  # four holes in two views
    pedestal.find("Front view")
    pedestal.find("Sizes over all")
    pedestal.settled()
    assert len(sizes(pedestal)) == 2
    # a size that is pulled far away comes back to its row
    one = sizes(pedestal)[0]["id"]
    act = {"op": "change_annotation", "id": one, "changes": {"place": {"offset": 55.0}}}
    state = pedestal.paper.state()
    base = page.url.split("/#")[0]
    number = re.search(r"drawing/(\d+)", page.url).group(1)
    page.request.post(
        f"{base}/api/drawings/{number}/acts",
        data={"edit": state["edit"], "act": {"act": "operation", "operation": act}},
        headers={"Origin": base},
    )
    page.reload()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    page.keyboard.press("t")
    expect(page.locator(".word, .hint").first).to_be_visible(timeout=20000)
    page.wait_for_timeout(800)
    page.keyboard.press("Enter")
    pedestal.settled()
    assert {d["place"]["offset"] for d in sizes(pedestal)} == {10.0}
    assert note["on"] == pedestal.view("top")["id"]


def test_a_look_is_changed_on_the_drawing_and_swept_over_others(pedestal: Services) -> None:
    page, front = pedestal.page, pedestal.view("front")
    pedestal.find("Front view")
    pedestal.find("Sizes over all")
    pedestal.settled()
    upright, level = sizes(pedestal)[1], sizes(pedestal)[0]
    pedestal.find(f"Dimension {140 if level['direction'] == 'horizontal' else 114}")
    pedestal.find("Change its look")
    pedestal.settled()
    card = page.get_by_label("Look of sizes")
    expect(card).to_contain_text("Own 1")
    card.get_by_role("button", name=re.compile("^Ends of dimension lines")).click()
    page.get_by_role("menuitem", name="oblique strokes").click()
    pedestal.settled()
    card.get_by_role("button", name=re.compile("^Decimals at most")).click()
    page.get_by_role("menuitem", name="2", exact=True).click()
    pedestal.settled()
    card.get_by_role("button", name=re.compile("^Trailing zeros")).click()
    page.get_by_role("menuitem", name="with trailing zeros").click()
    pedestal.settled()
    assert "140.00" in pedestal.paper.texts() and "114" in pedestal.paper.texts()
    card.get_by_role("button", name="Close").click()
    # swept over the other one
    page.keyboard.press("Escape")
    pedestal.find("Dimension 140.00")
    pedestal.find("Give its look to others")
    x0, y0, x1, y1 = pedestal.box(front["id"])
    away = x1 + 10 if upright["place"]["side"] == 1 else x0 - 10
    pedestal.pull((away + 6, (y0 + y1) / 2 - 12), (away - 6, (y0 + y1) / 2 - 12))
    pedestal.settled()
    assert "114.00" in pedestal.paper.texts()
    assert {d["style"] for d in sizes(pedestal)} == {"Own 1"}


def test_a_symmetrical_row_and_its_extension_lines_by_hand(pedestal: Services) -> None:
    page = pedestal.page
    x0, x1, y1 = clicked_through(pedestal, 12)
    expect(page.locator(".word")).to_contain_text("in a chain", timeout=20000)
    page.keyboard.press("f")
    expect(page.locator(".word")).to_contain_text("2 sizes, symmetrical about the middle")
    page.mouse.click(*pedestal.paper.at((x0 + x1) / 2, y1 + 12))
    pedestal.settled()
    assert sorted(pedestal.paper.texts()) == ["140", "68"]
    long = next(d for d in sizes(pedestal) if d["row"]["form"] == "symmetrical" and d["place"]["offset"] > 15)
    pedestal.find("Dimension 140")
    pedestal.find("Leave out an extension line")
    pedestal.click(x0, y1 + 15)
    pedestal.settled()
    (now,) = [d for d in sizes(pedestal) if d["id"] == long["id"]]
    assert [e["shown"] for e in now["extensions"]].count(False) == 1
    pedestal.find("Dimension 140")
    pedestal.find("Move an extension line aside")
    pedestal.click(x1, y1 + 15)
    pedestal.click(x1 + 6, y1 + 15)
    pedestal.settled()
    (now,) = [d for d in sizes(pedestal) if d["id"] == long["id"]]
    assert {round(abs(e["jog"]), 1) for e in now["extensions"]} == {0.0, 6.0}
    pedestal.find("Dimension 140")
    pedestal.find("Extension lines as usual")
    pedestal.settled()
    assert not any(d["extensions"] for d in sizes(pedestal))


def test_what_the_part_has_is_told_and_leads_to_its_sizes(pedestal: Services) -> None:
    page = pedestal.page
    page.get_by_role("button", name=re.compile("^6 ?Sizes")).click()
    page.get_by_role("button", name=re.compile("^What the part has")).click()
    holes = page.get_by_role("button", name="4× hole Ø11")
    expect(holes).to_be_visible(timeout=20000)
    expect(page.get_by_role("button", name=re.compile("unsized"))).to_be_visible()
    holes.click()
    note_the_hole(pedestal)
    assert len(pedestal.marks("hole_note")) == 1
