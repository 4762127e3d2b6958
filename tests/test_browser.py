"""The main path in a real browser, with the mouse, as a user goes it."""

from __future__ import annotations

import io
import re
from pathlib import Path

import ezdxf
import pypdfium2
import pytest
from playwright.sync_api import Browser, Page, expect

from tools.common import demo_file

from .browsing import Paper


def test_from_a_part_file_to_an_issued_sheet(server: str, page: Page, tmp_path: Path) -> None:
    page.goto(server)
    page.get_by_test_id("part-file").set_input_files(str(demo_file("spindle-pedestal")))
    row = page.locator(".part", has_text="Spindle pedestal")
    expect(row).to_be_visible(timeout=30000)
    expect(row).to_contain_text("140 × 80 × 114 mm")

    row.get_by_role("button", name="New drawing").click()
    expect(page.get_by_role("radio")).to_have_count(6, timeout=60000)
    for unwanted in ("top", "left", "isometric"):
        page.get_by_label(unwanted, exact=True).uncheck()
    page.get_by_label("Size").select_option("A3")
    page.get_by_label("Scale").fill("1:2")
    expect(page.locator("main svg")).to_be_visible(timeout=60000)
    expect(page.locator("main")).to_contain_text("A3, scale 1:2, first angle")
    page.get_by_role("button", name="Place views").click()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    paper = Paper(page)
    front = paper.state()["document"]["sheets"][0]["views"][0]
    x, y = front["place"]

    # pull the view from above out of the lower side of the front view (first angle); view mm / 2 on the sheet
    paper.click(x - 25, y + 30)
    expect(page.get_by_label("Sentence line")).to_contain_text("Front view of Spindle pedestal, from −Y")
    tab = page.locator("[data-side=below]").bounding_box()
    assert tab
    page.mouse.move(tab["x"] + tab["width"] / 2, tab["y"] + tab["height"] / 2)
    page.mouse.down()
    page.mouse.move(*paper.at(x + 3, y - 90), steps=8)
    page.wait_for_timeout(300)
    page.mouse.up()
    expect(page.locator("g[data-element]")).not_to_have_count(1)
    paper.settle()
    top = paper.state()["document"]["sheets"][0]["views"][1]
    assert (top["kind"], top["look"], top["parent"]) == ("projected", "top", front["id"])
    assert top["place"][0] == pytest.approx(x), "a projected view stays in line with its parent"
    assert top["place"][1] == pytest.approx(y - 90, abs=1)

    # the foot is 140 long (z = 0 lies 57 mm below the middle of the part), and 16 thick
    page.keyboard.press("Escape")
    paper.drag((x - 20, y - 28.5), (x - 18, y - 38.5))
    assert "140" in paper.texts() or "116" in paper.texts()
    bottom = y - 57 / 2
    paper.drag((x - 32, bottom), (x - 50, bottom + 3), by_way_of=(x - 32, bottom + 8))
    assert "16" in paper.texts()
    # the bore, by a click and an offer
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    paper.click(x + 10 * 0.7071, y + 11.5 + 10 * 0.7071)
    expect(page.get_by_label("Offers").get_by_role("button", name="Diameter")).to_be_visible()
    page.keyboard.press("Space")
    page.mouse.move(*paper.at(x + 40, y + 40), steps=4)
    page.mouse.down()
    page.mouse.up()
    paper.settle()
    assert "Ø40" in paper.texts()

    count = len(paper.texts())
    page.keyboard.press("Control+z")
    paper.settle()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    assert len(paper.texts()) == count - 1
    page.keyboard.press("Control+Shift+z")
    paper.settle()
    expect(page.get_by_role("button", name="Redo")).to_be_disabled()
    assert len(paper.texts()) == count

    # the title block is filled in by clicking on it
    paper.click(230 + 60, 10 + 15)
    box = page.get_by_label("Title", exact=True)
    box.fill("Pedestal for the paddle gear")
    box.press("Enter")
    expect(page.locator("header .title")).to_have_text("Pedestal for the paddle gear")

    issued = {}
    for kind in ("PDF", "SVG", "DXF"):
        page.get_by_role("button", name="Issue sheet").click()
        with page.expect_download() as waiting:
            page.get_by_role("menuitem", name=re.compile(f"^{kind}")).click()
        path = tmp_path / waiting.value.suggested_filename
        waiting.value.save_as(path)
        issued[kind] = path
    document = pypdfium2.PdfDocument(io.BytesIO(issued["PDF"].read_bytes()))
    width, height = document[0].get_size()
    assert (width / 72 * 25.4, height / 72 * 25.4) == pytest.approx((420, 297), abs=0.05)
    words = document[0].get_textpage().get_text_range()
    assert "Pedestal for the paddle gear" in words and "Ø40" in words and "1:2" in words
    svg = issued["SVG"].read_text()
    assert 'width="420mm"' in svg and "front-view-e2" in svg and ">Ø40<" in svg
    drawing = ezdxf.readfile(issued["DXF"])
    assert not drawing.audit().errors
    assert {d.dxf.text for d in drawing.modelspace().query("DIMENSION")} == set(paper.texts())
    assert drawing.modelspace().query("CIRCLE[layer=='VISIBLE']"), "the bore is a real circle"


def test_a_second_window_shows_what_another_changes_and_loses_nothing_that_is_typed(
    server: str, browser: Browser, page: Page
) -> None:
    base = f"{server}/api"
    parts = page.request.get(f"{base}/parts").json()
    made = page.request.post(f"{base}/drawings", data={"part": parts[0]["key"], "views": ["front"]}).json()
    page.goto(f"{server}/#/drawing/{made['id']}")
    other = browser.new_page()
    other.goto(f"{server}/#/drawing/{made['id']}")
    for p in (page, other):
        expect(p.locator(".board > svg")).to_be_visible(timeout=60000)
    # one is typing while the other changes the drawing: within two seconds that is seen, and what is typed stays
    other.keyboard.press("2")
    other.get_by_role("button", name="Fill in the title").click()
    title = other.get_by_label("Title", exact=True)
    title.fill("Mine")
    page.keyboard.press("2")
    page.get_by_role("button", name="First or third angle").click()
    expect(page.get_by_label("Sentence line")).to_contain_text("third angle")
    expect(other.get_by_label("Sentence line")).to_contain_text("third angle", timeout=4000)
    assert title.input_value() == "Mine"
    # two changes at one moment are both done, one on top of the other
    other.route("**/edit", lambda route: route.abort())
    other.wait_for_timeout(1500)
    page.get_by_role("button", name="Sheet lying or upright").click()
    expect(page.get_by_label("Sentence line")).to_contain_text("upright")
    title.press("Enter")
    expect(other.get_by_role("status").first).to_contain_text("Another window changed the drawing")
    expect(other.get_by_label("Sentence line")).to_contain_text("upright")
    state = page.request.get(f"{base}/drawings/{made['id']}").json()
    assert (state["document"]["fields"]["title"], state["document"]["angle"]) == ("Mine", "third")
    other.close()


def test_a_bad_file_is_refused_with_the_reason(server: str, page: Page, tmp_path: Path) -> None:
    bad = tmp_path / "note.step"
    bad.write_text("Dear workshop, the part is in the post.")
    page.goto(server)
    page.get_by_test_id("part-file").set_input_files(str(bad))
    expect(page.get_by_role("status")).to_contain_text("note.step is not a STEP file")


def dimension(paper: Paper) -> dict:
    return next(a for a in paper.state()["document"]["sheets"][0]["annotations"] if a["kind"] == "dimension")


def test_a_dimension_s_line_and_text_are_dragged_nudged_and_toleranced(cover_page: Page) -> None:
    paper = Paper(cover_page)
    x, y = next(v["place"] for v in paper.state()["document"]["sheets"][0]["views"] if v.get("look") == "left")
    # the flange's upper outline, 62 above the axis; the view from the left shows +Y to the left
    right = x + 13
    paper.drag((x - 8, y + 62), (right + 10, y + 30))
    assert paper.texts() == ["Ø124"]
    assert dimension(paper)["place"]["offset"] == 10
    paper.drag((right + 10, y - 20), (right + 24, y - 20))
    assert dimension(paper)["place"]["offset"] == 24, "the line snaps into the third row"
    paper.drag((right + 22, y), (right + 22, y + 25))
    assert dimension(paper)["place"]["along"] == pytest.approx(25, abs=2)
    cover_page.keyboard.press("Escape")
    paper.click(right + 24, y - 20)
    expect(cover_page.get_by_label("Sentence line")).to_contain_text("Diameter Ø124")
    cover_page.get_by_label("Tolerance").first.click()
    box = cover_page.locator(".pop:not([hidden]) input")
    box.fill("+0.2 / -0.1")
    box.press("Enter")
    expect(cover_page.get_by_label("Sentence line")).to_contain_text("Ø124 +0.2/–0.1")
    cover_page.keyboard.press("Delete")
    paper.settle()
    expect(cover_page.get_by_label("Sentence line")).to_contain_text("0 sizes")


def test_all_of_it_goes_by_keys_alone(cover_page: Page) -> None:
    paper = Paper(cover_page)
    keys = cover_page.keyboard
    keys.press("/")
    keys.type("left view")
    keys.press("Enter")
    expect(cover_page.get_by_label("Sentence line")).to_contain_text("Left view")
    before = next(v["place"] for v in paper.state()["document"]["sheets"][0]["views"] if v.get("look") == "left")
    keys.press("Shift+ArrowRight")
    paper.settle()
    after = next(v["place"] for v in paper.state()["document"]["sheets"][0]["views"] if v.get("look") == "left")
    assert after == [pytest.approx(before[0] + 10), pytest.approx(before[1])]
    for _ in range(40):
        keys.press("n")
        word = cover_page.locator(".word")
        if (word.count() and "edge" in word.inner_text()) or "circle" in word.inner_text():
            break
    keys.press("Enter")
    expect(cover_page.get_by_role("group", name="Offers")).to_be_visible()
    keys.press("Space")
    for _ in range(3):
        keys.press("Shift+ArrowUp")
    keys.press("Enter")
    paper.settle()
    assert len(paper.texts()) == 1
    keys.press("Control+z")
    paper.settle()
    assert not paper.texts()


def test_moving_the_parent_takes_its_view_along_and_hidden_lines_come_and_go(cover_page: Page) -> None:
    paper = Paper(cover_page)
    views = paper.state()["document"]["sheets"][0]["views"]
    front, left = views[0]["place"], views[1]["place"]
    # between two holes, on bare paper inside the view
    paper.drag((front[0] - 60, front[1] + 60), (front[0] - 50, front[1] + 52))
    moved = [v["place"] for v in paper.state()["document"]["sheets"][0]["views"]]
    assert moved[0] == [pytest.approx(front[0] + 10, abs=0.5), pytest.approx(front[1] - 8, abs=0.5)]
    assert moved[1] == [pytest.approx(left[0] + 10, abs=0.5), pytest.approx(left[1] - 8, abs=0.5)]
    dashed = cover_page.locator("g[data-element=e2] path[stroke-dasharray]")
    count = dashed.count()
    cover_page.get_by_label("Hidden lines: shown").click()
    cover_page.get_by_role("menuitem", name="left out", exact=True).click()
    paper.settle()
    assert dashed.count() < count
