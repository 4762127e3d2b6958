"""Tables, item numbers, issuing, threads and pitch circles, by mouse and by keys in a real browser."""

from __future__ import annotations

import hashlib
import math

import pytest
from playwright.sync_api import Page, expect

from .browsing import Services, draw
from .browsing import page as page


@pytest.fixture
def assembly(server: str, page: Page) -> Services:
    return Services(draw(server, page, "small-pedestal-assembly", views=["front", "top"], scale=1.0, centres=False))


@pytest.fixture
def cover(server: str, page: Page) -> Services:
    return Services(draw(server, page, "round-gear-cover", views=["front"], face="+Y", scale=1.0, centres=False))


def items(services: Services) -> list[tuple[int, int, str, str]]:
    return [(i["number"], i["quantity"], i["name"], i["material"]) for i in services.paper.state()["document"]["items"]]


def test_parts_are_listed_numbered_and_their_cells_edited_in_one_step(assembly: Services) -> None:
    page = assembly.page
    assembly.find("Front view")
    assembly.find("Number the items")
    assembly.settled()
    numbers = assembly.marks("item_number")
    assert [i[:3] for i in items(assembly)] == [
        (1, 1, "Base"),
        (2, 1, "Cap"),
        (3, 1, "Bush"),
        (4, 1, "Stub spindle"),
        (5, 2, "Stud"),
    ]
    assert len(numbers) == 5
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    assembly.find("Parts list")
    assembly.settled()
    (table,) = assembly.marks("table")
    assert (table["follows"], table["tied"]) == ("parts", "title block")
    # its cells where it stands, on the title block of an A3 sheet
    assembly.click(320, 63)
    page.get_by_role("button", name="edit its cells").click()
    grid = page.get_by_role("group", name="Cells of Parts list")
    expect(grid.get_by_label("Item, row 1")).to_be_focused()
    for _ in range(4):
        page.keyboard.press("Tab")
    page.keyboard.type("Cast iron EN-GJL-250")
    page.keyboard.press("ArrowDown")
    page.keyboard.type("Steel C45")
    page.keyboard.press("Control+Enter")
    expect(grid).to_have_count(0)
    assembly.settled()
    assert [i[3] for i in items(assembly)][:2] == ["Cast iron EN-GJL-250", "Steel C45"]
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    assembly.settled()
    assert [i[3] for i in items(assembly)][:2] == ["", ""], "all of it was one step"


def test_a_table_is_written_pasted_into_and_sorted(cover: Services) -> None:
    page = cover.page
    page.keyboard.press("7")
    page.get_by_role("button", name="Table", exact=True).click()
    page.get_by_role("region", name="What it says").locator("textarea").fill("Sizes\nName | L1 | L2\nLong | 40 | 60")
    page.keyboard.press("Control+Enter")
    cover.settled()
    (table,) = cover.marks("table")
    assert table["rows"] == [["Long", "40", "60"]]
    cover.click(table["at"][0] + 4, table["at"][1] - 3)
    page.get_by_role("button", name="edit its cells").click()
    page.keyboard.press("ArrowDown")
    page.evaluate(
        """() => { const data = new DataTransfer(); data.setData('text/plain', 'Short\\t9\\t12\\nMiddle\\t25\\t30');
        document.activeElement.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true})); }"""
    )
    page.get_by_label("L1, row 1").click()
    page.get_by_role("button", name="Row below").click()
    page.get_by_label("Name, row 2").fill("Longest")
    page.get_by_label("L1, row 2").fill("100")
    page.get_by_role("button", name="Sort by this column").click()
    page.get_by_role("button", name="Keep").click()
    cover.settled()
    (table,) = cover.marks("table")
    assert [r[:2] for r in table["rows"]] == [["Short", "9"], ["Middle", "25"], ["Longest", "100"]]
    cover.find("Front view")
    cover.find("Table of holes")
    cover.settled()
    assert [t["follows"] for t in cover.marks("table")] == ["", "holes"] and len(cover.marks("hole_letter")) == 7


def test_a_diameter_and_an_angle_are_pulled_out_of_a_pitch_circle(cover: Services) -> None:
    page = cover.page
    x, y = cover.view("front")["place"]

    def at(degrees: float, reach: float = 50.0) -> tuple[float, float]:
        return x + reach * math.cos(math.radians(degrees)), y + reach * math.sin(math.radians(degrees))

    cover.find("Front view")
    page.keyboard.press("p")
    cover.settled()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    cover.pull(at(10), at(8, 85))
    cover.settled()
    assert "Ø100" in cover.paper.texts()
    # from one hole over the next, and over the circle that both lie on
    page.keyboard.press("Escape")
    cover.move(*at(210))
    page.mouse.down()
    cover.move(*at(235, 48))
    cover.move(*at(270))
    page.wait_for_timeout(500)
    cover.move(*at(245))
    expect(page.locator(".word")).to_contain_text("60° angle")
    cover.move(*at(240, 80))
    page.wait_for_timeout(400)
    page.mouse.up()
    cover.settled()
    assert "60°" in cover.paper.texts()


def test_a_drawing_is_issued_and_its_files_are_given_out_as_they_were(cover: Services) -> None:
    page = cover.page
    page.get_by_role("button", name="Issue sheet").click()
    page.get_by_role("menuitem", name="As a revision").click()
    slip = page.get_by_role("dialog", name="Issue as a revision")
    expect(slip.get_by_label("What changed")).to_have_value("First issue")
    slip.get_by_label("Approved by").fill("M. Sallow")
    slip.get_by_role("button", name="Issue revision A").click()
    expect(slip.get_by_label("Issued revisions")).to_contain_text("First issue", timeout=60_000)
    with page.expect_download() as coming:
        slip.get_by_role("link", name="PDF").click()
    told = slip.get_by_role("link", name="PDF").get_attribute("title")
    assert hashlib.sha256(coming.value.path().read_bytes()).hexdigest() in told
    page.keyboard.press("Escape")
    expect(slip).to_have_count(0)
    cover.settled()
    fields = cover.paper.state()["document"]["fields"]
    assert (fields["revision"], fields["approver"]) == ("B", "M. Sallow")
    cover.find("Table of revisions")
    cover.settled()
    (table,) = cover.marks("table")
    assert (table["follows"], table["tied"]) == ("revisions", "frame")


def test_a_thread_is_told_in_its_sentence(cover: Services) -> None:
    page = cover.page
    x, y = cover.view("front")["place"]
    # the rim of a hole of Ø6.6, where it is clear of all else
    turn = math.radians(25)
    cover.click(x + 50 * math.cos(math.radians(30)) + 3.3 * math.cos(turn), y + 25 + 3.3 * math.sin(turn))
    cover.find("Threaded, by its diameter")
    cover.settled()
    (first, *_) = threads = cover.paper.state()["document"]["threads"]
    assert len(threads) == 6 and first["size"] == "M8×1.25"
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    # three quarters of a circle of Ø8, a narrow line
    turn = math.radians(220)
    cover.click(x + 50 * math.cos(math.radians(30)) + 4 * math.cos(turn), y + 25 + 4 * math.sin(turn))
    page.get_by_role("button", name="right hand").click()
    page.get_by_role("menuitem", name="left hand").click()
    cover.settled()
    page.get_by_role("button", name="M8×1.25").click()
    page.keyboard.type("M12")
    page.keyboard.press("Enter")
    expect(page.get_by_text("M12×1.75 does not fit Ø6.6")).to_be_visible()
    assert {t["hand"] for t in cover.paper.state()["document"]["threads"]} == {"left"}
