"""The screens in a real browser: shelf, new drawing, and the sheet's sentences, tabs, finder and keys."""

from __future__ import annotations

import math
import re
import sqlite3

import pytest
from playwright.sync_api import Page, expect

from barequill.core.reading import shapes
from barequill.demo import building
from tools.common import demo_file

from .browsing import Paper, Services, bring, draw, typed


def sentence(page: Page):
    return page.get_by_label("Sentence line")


def change(page: Page, label: str, value: str) -> None:
    """Change a part of the sentence by typing or by choosing."""
    sentence(page).get_by_label(re.compile(f"^{label}: ")).click()
    typed = page.locator(".pop:not([hidden]) input")
    if typed.count():
        typed.fill(value)
        typed.press("Enter")
    else:
        page.locator(
            ".pop:not([hidden]) :is(button, [role=menuitem])", has_text=re.compile(f"^{re.escape(value)}$")
        ).click()
    expect(page.locator(".busy")).to_have_count(0)


def select_view(page: Page, name: str) -> None:
    page.keyboard.press("/")
    page.keyboard.type(f"{name} view")
    page.keyboard.press("Enter")
    expect(sentence(page)).to_contain_text(f"{name.capitalize()} view of")


# ---- shelf


def test_the_shelf_finds_shows_and_keeps_what_is_set(server: str, page: Page) -> None:
    bring(server, page, "pawl")
    bring(server, page, "catch-box")
    page.goto(server)
    expect(page.locator(".part", has_text="Catch box")).to_be_visible()
    page.keyboard.press("/")
    expect(page.get_by_label("Find drawings and parts")).to_be_focused()
    page.keyboard.type("wl-205")
    expect(page.locator(".part")).to_have_count(1)
    expect(page.locator(".part")).to_contain_text("Pawl")
    page.get_by_label("Find drawings and parts").fill("xyzzy")
    expect(page.locator(".drop")).to_contain_text("No part answers to “xyzzy”")
    page.get_by_label("Find drawings and parts").fill("pawl")
    page.locator(".part .name").click()
    slip = page.get_by_role("dialog")
    expect(slip).to_contain_text("110 × 16 × 36 mm")
    slip.get_by_label("Material").fill("Brass CW614N")
    slip.get_by_label("Material").press("Tab")
    expect(slip.get_by_label("Density, g/cm³")).to_have_value("8.4")
    slip.get_by_label("Density, g/cm³").fill("-3")
    slip.get_by_label("Density, g/cm³").press("Tab")
    expect(page.locator(".notice")).to_contain_text("not a density")
    slip.get_by_role("button", name="Close").click()
    expect(page.locator(".part")).to_contain_text("Brass CW614N")


def test_the_answer_to_the_last_search_is_shown_whatever_order_answers_come_in(server: str, page: Page) -> None:
    bring(server, page, "pawl")
    bring(server, page, "catch-box")
    page.goto(server)
    expect(page.locator(".part", has_text="Catch box")).to_be_visible()

    def late(route) -> None:
        page.wait_for_timeout(700)
        route.continue_()

    page.route(re.compile(r"/api/parts\?search=wl$"), late)
    page.get_by_label("Find drawings and parts").press_sequentially("wl-205")
    page.wait_for_timeout(1200)
    expect(page.locator(".part")).to_have_count(1)


def test_a_drawing_is_copied_put_into_the_basket_and_back_and_removed_for_good_after_a_word(
    server: str, page: Page
) -> None:
    key = bring(server, page, "catch-box")
    wish = {"part": key, "views": ["front"], "fields": {"title": "Doomed sheet", "number": "WL-D"}}
    page.request.post(f"{server}/api/drawings", data=wish)
    page.goto(server)
    card = page.locator(".sheet", has_text="Doomed sheet")
    expect(card.locator("img")).to_be_visible()
    card.get_by_role("button", name="Copy").click()
    card.get_by_role("button", name="With its part").click()
    expect(card).to_have_count(2)
    expect(card.first).to_contain_text("WL-D (copy)")
    card.first.get_by_role("button", name="Remove").click()
    expect(card).to_have_count(1)
    lying = page.get_by_role("list", name="Drawings that were removed").get_by_role("listitem")
    mine = lying.filter(has_text="WL-D (copy)")
    mine.get_by_role("button", name="Put").click()
    expect(card).to_have_count(2)
    card.first.get_by_role("button", name="Remove").click()
    mine.get_by_role("button", name="for good").click()
    page.get_by_role("button", name="Keep it").click()
    expect(mine).to_have_count(1)
    mine.get_by_role("button", name="for good").click()
    page.get_by_role("dialog").get_by_role("button", name="Remove for good").click()
    expect(mine).to_have_count(0)
    expect(card).to_have_count(1)


def test_a_drawing_is_renamed_on_the_shelf_by_keys_in_one_undo_and_all_are_put_in_order(
    server: str, page: Page
) -> None:
    made = draw(server, page, "pawl", views=["front"], centres=False).url.rsplit("/", 1)[1]
    other = draw(server, page, "pawl", views=["front"], centres=False).url.rsplit("/", 1)[1]
    page.goto(f"{server}/#/")
    mine = page.locator(".sheet", has=page.locator(f"a[href='#/drawing/{made}']"))
    rename = mine.get_by_role("button", name=re.compile("^Rename"))
    rename.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("ZZ-10")
    page.keyboard.press("Tab")
    page.keyboard.type("Pawl of the lower gate")
    page.keyboard.press("Enter")
    expect(mine).to_contain_text("ZZ-10 Pawl of the lower gate")
    expect(rename).to_be_focused()
    page.keyboard.press("Enter")
    page.keyboard.type("never kept")
    page.keyboard.press("Escape")
    expect(mine).to_contain_text("ZZ-10 Pawl of the lower gate")
    fields = page.request.get(f"{server}/api/drawings/{made}").json()
    assert (fields["document"]["fields"]["number"], fields["undo"]) == ("ZZ-10", "Rename the drawing")
    page.request.post(
        f"{server}/api/drawings/{other}/acts",
        data={
            "edit": 1,
            "act": {"act": "operation", "operation": {"op": "set_field", "field": "number", "value": "ZZ-9"}},
        },
    )
    page.get_by_label("Order of the drawings").select_option("number")
    page.reload()
    numbers = page.locator(".sheet .called b")
    expect(numbers.filter(has_text="ZZ-9")).to_have_count(1)
    shown = [n for n in numbers.all_inner_texts() if n.startswith("ZZ-")]
    assert shown == ["ZZ-9", "ZZ-10"], "kept for the next time, and figures count as numbers"


def test_the_night_desk_darkens_the_desk_and_leaves_the_paper(server: str, page: Page) -> None:
    def ground(of: str) -> int:
        colour = page.locator(of).first.evaluate("e => getComputedStyle(e).backgroundColor")
        return sum(int(x) for x in re.findall(r"\d+", colour)[:3])

    page.goto(server)
    day = ground("header")
    page.get_by_role("button", name="Night desk").click()
    assert ground("header") < day / 2
    page.reload()
    assert ground("header") < day / 2, "it is kept"
    page.get_by_role("button", name=re.compile("desk")).click()


# ---- new drawing


def test_a_new_drawing_shows_what_each_choice_means(server: str, page: Page) -> None:
    key = bring(server, page, "spindle-pedestal")
    page.goto(f"{server}/#/new/{key}")
    expect(page.get_by_role("radio")).to_have_count(6, timeout=60000)
    main = page.locator("main")
    expect(main).to_contain_text("first angle. All of it can be changed later", timeout=60000)
    page.get_by_label("Front from +Z").click()
    expect(page.get_by_label("Front from +Z")).to_have_attribute("aria-checked", "true")
    page.get_by_role("button", name="Turn by 90°").click()
    expect(page.locator("aside")).to_contain_text("turned 90°")
    page.get_by_label("Conventions").select_option("ASME")
    expect(main).to_contain_text("third angle", timeout=60000)
    assert page.get_by_label("Size").locator("option").all_inner_texts()[1:] == ["A", "B", "C", "D", "E"]
    page.get_by_label("Scale").fill("big")
    expect(page.locator("aside")).to_contain_text("Write a scale as 1:2 or 2:1")
    page.get_by_label("Scale").fill("20:1")
    expect(main).to_contain_text("do not fit", timeout=60000)
    expect(page.get_by_role("button", name="Place views")).to_be_disabled()
    page.get_by_label("Scale").fill("1:4")
    expect(main).to_contain_text("scale 1:4", timeout=60000)
    page.get_by_role("button", name="Place views").click()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    expect(sentence(page)).to_contain_text("third angle, ASME conventions, in")


def test_an_empty_sheet_offers_its_first_views_and_takes_them_back(server: str, page: Page) -> None:
    key = bring(server, page, "pawl")
    page.goto(f"{server}/#/new/{key}")
    page.get_by_role("button", name="Start with an empty sheet").click()
    expect(page.locator(".empty")).to_contain_text("This sheet is empty", timeout=60000)
    page.get_by_role("button", name="Place a set of views").click()
    expect(sentence(page)).to_contain_text("4 views", timeout=60000)
    page.keyboard.press("Control+z")
    expect(page.locator(".empty")).to_be_visible()


# ---- the sheet at work


def test_a_view_says_in_a_sentence_what_it_is_and_is_changed_there(cover_page: Page) -> None:
    paper = Paper(cover_page)
    select_view(cover_page, "left")
    change(cover_page, "Scale of this view", "2:1")
    change(cover_page, "Caption", "Seen from the lock")
    change(cover_page, "Tangent edges", "off")
    change(cover_page, "Alignment", "untied")
    view = paper.state()["document"]["sheets"][0]["views"][1]
    assert (view["scale"], view["caption"], view["tangent_edges"], view["tied"]) == (
        2,
        "Seen from the lock",
        "off",
        False,
    )
    expect(cover_page.locator("text", has_text="Seen from the lock (2:1)")).to_be_visible()
    change(cover_page, "Scale of this view", "enormous")
    expect(cover_page.get_by_role("status").first).to_contain_text("is not a scale")
    assert paper.state()["document"]["sheets"][0]["views"][1]["scale"] == 2


def test_the_sheet_s_own_sentence_changes_size_angle_and_units(cover_page: Page) -> None:
    paper = Paper(cover_page)
    typed(cover_page, re.compile("^Sheet size"), "A2")
    paper.settle()
    expect(cover_page.get_by_role("button", name=re.compile("^Sheet size.*: A2"))).to_be_visible()
    change(cover_page, "Projection", "third angle")
    change(cover_page, "Units", "inch")
    document = paper.state()["document"]
    assert (document["sheets"][0]["size"], document["angle"], document["unit"]) == ("A2", "third", "inch")
    front, left = (v["place"] for v in document["sheets"][0]["views"])
    assert left[0] < front[0], "in third angle the view from the left stands on the left"
    for _ in range(3):
        cover_page.keyboard.press("Control+z")
        paper.settle()
    document = paper.state()["document"]
    assert (document["sheets"][0]["size"], document["angle"], document["unit"]) == ("A3", "first", "mm")


def test_a_pictorial_view_is_pulled_out_of_a_corner_and_removed_with_one_undo(cover_page: Page) -> None:
    paper = Paper(cover_page)
    select_view(cover_page, "front")
    tab = cover_page.locator("[data-side=below-left]").bounding_box()
    assert tab
    cover_page.mouse.move(tab["x"] + tab["width"] / 2, tab["y"] + tab["height"] / 2)
    cover_page.mouse.down()
    cover_page.mouse.move(*paper.at(70, 60), steps=6)
    expect(cover_page.locator(".word")).to_contain_text("Isometric view")
    cover_page.mouse.up()
    expect(sentence(cover_page)).to_contain_text("Isometric view of")
    views = paper.state()["document"]["sheets"][0]["views"]
    assert [v.get("look", v["kind"]) for v in views] == ["front", "left", "pictorial"] and views[2][
        "place"
    ] == pytest.approx([70, 60], abs=1)
    select_view(cover_page, "front")
    cover_page.keyboard.press("Delete")
    cover_page.get_by_role("button", name="Remove all of it").click()
    expect(sentence(cover_page)).to_contain_text("0 views")
    cover_page.keyboard.press("Control+z")
    paper.settle()
    assert len(paper.state()["document"]["sheets"][0]["views"]) == 3


def test_the_title_block_is_walked_through_with_tab(cover_page: Page) -> None:
    cover_page.keyboard.press("2")
    cover_page.get_by_role("button", name="Fill in the title").click()
    cover_page.get_by_label("Title", exact=True).fill("Cover")
    cover_page.keyboard.press("Tab")
    box = cover_page.get_by_label("Identification number")
    expect(box).to_be_focused()
    box.fill("WL-9")
    cover_page.keyboard.press("Enter")
    expect(cover_page.locator("header h1 b")).to_have_text("WL-9")
    cover_page.get_by_role("button", name="Fill in the title").click()
    cover_page.get_by_label("Title", exact=True).fill("Never mind")
    cover_page.keyboard.press("Escape")
    expect(cover_page.locator("header .title")).to_have_text("Cover")


def test_the_first_click_on_a_cell_opens_it_also_right_after_other_acts(cover_page: Page) -> None:
    paper = Paper(cover_page)
    for k in range(6):
        cover_page.keyboard.press("Control+z" if k % 2 else "w")
        paper.settle()
        paper.click(230 + 60, 10 + 15)
        box = cover_page.get_by_label("Title", exact=True)
        expect(box).to_be_focused()
        box.press("Escape")
        expect(box).to_have_count(0)


def test_what_was_typed_into_a_cell_is_kept_when_the_hand_goes_on_to_another(cover_page: Page) -> None:
    paper = Paper(cover_page)
    paper.click(230 + 60, 10 + 15)
    cover_page.get_by_label("Title", exact=True).fill("Kept")
    paper.click(230 + 140, 10 + 15)
    expect(cover_page.get_by_label("Identification number")).to_be_focused()
    paper.settle()
    assert paper.state()["document"]["fields"]["title"] == "Kept"


def test_the_wheel_zooms_at_the_pointer_and_nought_shows_the_whole_sheet(cover_page: Page) -> None:
    paper = Paper(cover_page)
    px, py = (round(v) for v in paper.at(150, 200))
    (x0, y0), (x1, y1) = paper.at(0, 0), paper.at(420, 297)
    spot = (px - x0) / (x1 - x0) * 420, (py - y0) / (y1 - y0) * 297
    before = (px, py)
    whole = paper.at(0, 0), paper.at(420, 297)
    cover_page.mouse.move(*before)
    for _ in range(4):
        cover_page.mouse.wheel(0, -240)
        cover_page.wait_for_timeout(60)
    assert paper.at(*spot) == pytest.approx(before, abs=0.6), "what lies under the pointer stays there"
    assert abs(paper.at(160, 200)[0] - paper.at(150, 200)[0]) > 3 * abs(whole[1][0] - whole[0][0]) / 42
    cover_page.keyboard.press("0")
    expect(cover_page.locator(".board > svg")).to_be_visible()
    assert paper.at(420, 297) == pytest.approx(whole[1], abs=1)


def test_thin_lines_are_caught_within_six_pixels_and_said(cover_page: Page) -> None:
    paper = Paper(cover_page)
    x, y = next(v["place"] for v in paper.state()["document"]["sheets"][0]["views"] if v.get("look") == "left")
    px, py = paper.at(x - 4, y + 62)
    cover_page.mouse.move(px, py - 5)
    expect(cover_page.locator(".word")).to_contain_text("Ø124")
    cover_page.mouse.move(px, py - 30)
    expect(cover_page.locator(".word", has_text="Ø124")).to_have_count(0)


def test_two_clicks_and_a_third_set_a_distance_down_and_escape_leaves_nothing(cover_page: Page) -> None:
    paper = Paper(cover_page)
    x, y = next(v["place"] for v in paper.state()["document"]["sheets"][0]["views"] if v.get("look") == "front")
    # two of the holes of 6.6 on the circle of 100; their rims at 45° from their centres
    d = 3.3 * 0.7071
    for centre in ((0, 50), (0, -50)):
        paper.click(x + centre[0] + d, y + centre[1] + d)
    cover_page.mouse.move(*paper.at(x + 78, y), steps=4)
    expect(cover_page.locator(".word")).to_contain_text("100")
    cover_page.keyboard.press("Escape")
    assert not paper.texts()
    cover_page.keyboard.press("Escape")
    for centre in ((0, 50), (0, -50)):
        paper.click(x + centre[0] + d, y + centre[1] + d)
    cover_page.mouse.move(*paper.at(x + 78, y), steps=4)
    cover_page.mouse.down()
    cover_page.mouse.up()
    paper.settle()
    assert paper.texts() == ["100"]
    cover_page.get_by_role("button", name="As a reference").click()
    paper.settle()
    assert paper.texts() == ["(100)"]


def test_the_route_card_tells_how_far_each_step_is_and_says_why_not(cover_page: Page) -> None:
    card = cover_page.locator("aside")
    expect(card).to_contain_text("A3, 1:1, first angle")
    expect(card).to_contain_text("2 views")
    cover_page.keyboard.press("3")
    expect(card.get_by_role("button", name="Place a set of views")).to_be_disabled()
    expect(card).to_contain_text("There are views already")
    cover_page.keyboard.press("5")
    marked = len(Paper(cover_page).state()["document"]["sheets"][0]["annotations"])
    assert marked, "marks and lines were set with the views"
    card.get_by_role("button", name=re.compile("All centre marks")).click()
    expect(cover_page.locator(".notice")).to_contain_text("Nothing to mark")
    cover_page.keyboard.press("8")
    expect(card).to_contain_text("is empty")


def test_another_revision_of_the_part_is_taken_out_of_a_file_and_taken_back(cover_page: Page, tmp_path) -> None:
    """A gear cover with one more hole through its rim, in place of the one that the drawing shows."""
    paper = Paper(cover_page)
    more = shapes.cut(building.gear_cover(), shapes.cylinder((0, -50, 50), (0, 1, 0), 2.5, 100))
    building.write_step(tmp_path / "cover-b.step", "WL-204", "Round gear cover", [("Round gear cover", more)])
    before = paper.state()["document"]
    cover_page.keyboard.press("1")
    cover_page.get_by_role("button", name="Take another revision of the part").click()
    slip = cover_page.get_by_role("dialog", name="Take another revision of the part")
    expect(slip.get_by_role("button", name="Take it")).to_be_disabled()
    cover_page.get_by_test_id("revision-file").set_input_files(tmp_path / "cover-b.step")
    expect(slip).to_contain_text(re.compile(r"Of \d+ edges and faces .* are there"), timeout=60000)
    slip.get_by_role("button", name="Take it").click()
    expect(cover_page.locator(".notice")).to_contain_text("The revision is taken")
    expect(slip).to_have_count(0)
    after = paper.state()["document"]
    assert after["parts"][0]["key"] != before["parts"][0]["key"]
    assert len(after["sheets"][0]["annotations"]) == len(before["sheets"][0]["annotations"])
    # the part that can be gone back to is not removed
    gone = "key => fetch(`/api/parts/${key}`, {method: 'DELETE'}).then(r => r.text())"
    assert "The part is in use" in cover_page.evaluate(gone, before["parts"][0]["key"])
    cover_page.get_by_role("button", name="Undo").click()
    expect(cover_page.locator(".busy")).to_have_count(0)
    assert paper.state()["document"]["parts"] == before["parts"]


def test_the_keys_are_shown_and_the_finder_says_when_nothing_answers(cover_page: Page) -> None:
    cover_page.keyboard.press("?")
    expect(cover_page.get_by_role("dialog")).to_contain_text("go through the geometry of a view")
    cover_page.keyboard.press("Escape")
    cover_page.keyboard.press("/")
    cover_page.keyboard.type("xyzzy")
    expect(cover_page.get_by_role("dialog", name="Finder")).to_contain_text("Nothing answers to “xyzzy”")
    cover_page.keyboard.press("Escape")
    expect(cover_page.get_by_role("dialog", name="Finder")).to_have_count(0)


def test_the_sheet_is_usable_in_a_small_window(cover_page: Page) -> None:
    cover_page.set_viewport_size({"width": 1024, "height": 700})
    paper = Paper(cover_page)
    cover_page.wait_for_timeout(200)
    for corner in ((0, 0), (420, 297)):
        x, y = paper.at(*corner)
        assert 0 < x < 1024 and 44 < y < 700 - 52
    overflow = cover_page.evaluate("document.documentElement.scrollWidth > innerWidth")
    assert not overflow
    expect(cover_page.get_by_role("button", name="Issue sheet")).to_be_in_viewport()


# ---- what came in damaged, or in pieces


def test_a_damaged_drawing_is_shown_as_that_taken_out_and_brought_back_to_what_can_be_read(
    app, server: str, page: Page
) -> None:
    key, store = bring(server, page, "pawl"), app.extensions["services"].store
    made = page.request.post(f"{server}/api/drawings", data={"part": key, "views": ["front"]}).json()
    where = f"{server}/api/drawings/{made['id']}"
    for k in range(3):
        act = {"act": "operation", "operation": {"op": "set_field", "field": "title", "value": f"Pawl {k}"}}
        made = page.request.post(f"{where}/acts", data={"edit": made["edit"], "act": act}).json()
    with sqlite3.connect(store.file) as connection:
        connection.execute("UPDATE steps SET data = x'00' WHERE drawing_id = ? AND position = 3", (made["id"],))
        connection.execute("UPDATE drawings SET about = NULL WHERE id = ?", (made["id"],))
    connection.close()
    store._snapshots.clear()
    page.goto(server)
    card = page.locator(".sheet", has_text=f"Drawing {made['id']}")
    expect(card).to_contain_text("Its step 3 cannot be read")
    with page.expect_download() as download:
        card.get_by_role("link", name="Take it out as a file").click()
    assert '"damaged"' in download.value.path().read_text()
    card.get_by_role("button", name="Go back to what can be read").click()
    expect(page.locator(".board svg").first).to_be_visible()
    expect(page.get_by_text("Pawl 1").first).to_be_visible()


def test_files_dropped_together_are_one_part_where_they_name_each_other(server: str, page: Page, tmp_path) -> None:
    text = demo_file("pawl").read_bytes()
    named = b"#990001=DOCUMENT_FILE('%s','',$,#990002,'',$);\n#990002=DOCUMENT_TYPE('');\n"
    for name, other in (("whole.step", b"piece.step"), ("piece.step", b"lost.step")):
        (tmp_path / name).write_bytes(text.replace(b"DATA;\n", b"DATA;\n" + named % other, 1))
    page.goto(server)
    page.get_by_test_id("part-file").set_input_files([tmp_path / "whole.step", tmp_path / "piece.step"])
    expect(page.locator(".part", has_text="whole.zip")).to_be_visible()
    expect(page.get_by_text("names one file that did not come along: lost.step")).to_be_visible()
    expect(page.locator(".part", has_text="piece.step")).to_have_count(0)


def test_of_many_steps_any_is_gone_to_also_those_on_earlier_pages_and_back(server: str, page: Page) -> None:
    made = page.request.post(
        f"{server}/api/drawings", data={"part": bring(server, page, "pawl"), "views": ["front"]}
    ).json()
    where = f"{server}/api/drawings/{made['id']}"
    for k in range(1, 231):
        act = {"act": "operation", "operation": {"op": "set_field", "field": "revision", "value": f"{k}"}}
        made = page.request.post(f"{where}/acts", data={"edit": made["edit"], "act": act}).json()

    def stands_at(value: str | None) -> None:
        for _ in range(100):
            if page.request.get(where).json()["document"]["fields"].get("revision") == value:
                return
            page.wait_for_timeout(100)
        raise AssertionError(f"it does not stand at {value}")

    page.goto(f"{server}/#/drawing/{made['id']}")
    page.get_by_role("button", name="Steps").click()
    steps = page.locator("ol li button")
    expect(steps).to_have_count(201)
    page.get_by_text("Earlier steps").click()
    expect(steps).to_have_count(231)
    # the newest stands first, step 0 last
    steps.nth(230 - 5).click()
    stands_at("5")
    expect(page.locator("ol [aria-current=step]")).to_have_count(1)
    steps.nth(0).click()
    stands_at("230")


def test_a_first_sheet_is_guided_where_its_gestures_happen_and_left_at_any_step(server: str, page: Page) -> None:
    key = bring(server, page, "spindle-pedestal")
    page.goto(server)
    page.evaluate("localStorage.setItem('guide', 'on')")
    page.goto(f"{server}/#/new/{key}")
    page.reload()
    card, mark = page.get_by_label("A first sheet"), page.get_by_test_id("guide-mark")
    expect(card).to_contain_text("Turn the part until its front looks at you")
    page.get_by_role("button", name="Place views").click()
    expect(card).to_contain_text("press X", timeout=30000)
    expect(page.locator(".board > svg")).to_be_visible(timeout=30000)
    page.wait_for_timeout(500)
    page.keyboard.press("x")
    for count in (2, 1):
        expect(mark).to_have_count(count)
        for box in [m.bounding_box() for m in mark.all()]:
            assert box is not None
            page.mouse.move(box["x"] + 60, box["y"] + 60, steps=4)
            page.wait_for_timeout(300)
            page.mouse.click(box["x"] + 60, box["y"] + 60)
    expect(card).to_contain_text("Three sizes")
    expect(page.locator(".busy")).to_have_count(0)
    box = mark.first.bounding_box()
    assert box is not None
    x, y = box["x"] + 60, box["y"] + 60
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 60, steps=8)
    page.wait_for_timeout(300)
    page.mouse.up()
    expect(card).to_contain_text("Two sizes more")
    page.get_by_role("button", name="Leave it here").click()
    expect(card).to_have_count(0)
    page.reload()
    expect(page.locator(".board > svg")).to_be_visible(timeout=30000)
    expect(card).to_have_count(0)


def test_of_many_bodies_equal_ones_are_one_row_and_any_is_left_out(server: str, page: Page, tmp_path) -> None:
    """Fourteen pins and a plate: more than a menu holds; one pin is shown with the plate as an adjacent part."""
    pins = [(f"pin {k + 1}", shapes.cylinder((10 * k, 0, 0), (0, 0, 1), 3, 20)) for k in range(14)]
    file = tmp_path / "pins.step"
    plate = ("plate", shapes.box((-5, -5, -8), (140, 10, 8)))
    building.write_step(file, "WL-9", "pins", [*pins, plate])
    page.goto(server)
    page.get_by_test_id("part-file").set_input_files(file)
    expect(page.locator(".part.fresh")).to_contain_text("15 bodies", timeout=30000)
    page.locator(".part.fresh").get_by_role("button", name="New drawing").click()
    page.get_by_role("button", name="Place views").click()
    expect(page.locator(".board > svg")).to_be_visible(timeout=30000)
    page.wait_for_timeout(500)
    select_view(page, "front")
    page.get_by_role("button", name="all 15 bodies").click()
    slip = page.get_by_role("dialog", name="Bodies that the view shows")
    expect(slip.get_by_role("status")).to_have_text("15 bodies, of 2 kinds")
    slip.get_by_role("button", name="All left out").click()
    slip.get_by_role("button", name="14 × pin").click()
    slip.get_by_role("radiogroup", name="pin 9", exact=True).get_by_role("radio", name="shown").click()
    slip.get_by_label("Find a body").fill("plate")
    slip.get_by_role("radio", name="adjacent").click()
    slip.get_by_role("button", name="Show 2 of 15").click()
    expect(sentence(page)).to_contain_text("2 of 15 bodies, 1 as adjacent")
    (view,) = [v for v in Paper(page).state()["document"]["sheets"][0]["views"] if v.get("look") == "front"]
    assert view["bodies"] == ["pin 9", "plate"] and view["adjacent"] == ["plate"]


def test_a_bent_sheet_is_laid_flat_by_keys_its_bends_noted_and_its_neutral_line_chosen(server: str, page: Page) -> None:
    services = Services(draw(server, page, "rack-guard", views=["front", "iso"], centres=False))
    services.find("Lay the sheet flat")
    services.move(290, 170)
    expect(page.locator(".word")).to_contain_text("flat pattern", timeout=30000)
    services.click(290, 170)
    services.settled()
    services.find("Flat pattern")
    sentence = page.get_by_role("contentinfo", name="Sentence line")
    expect(sentence).to_contain_text("neutral line by DIN 6935")
    flat = services.views()[-1]
    box = services.box(flat["id"])
    # hand: flats of 172, four bends of 90° and R4 in 2 mm: 0.65 + 0.5 · log10 2 halves of the thickness
    assert box[2] - box[0] == pytest.approx(172 + 2 * math.pi * 4.80051, abs=1e-3)
    services.find("Note the bends")
    services.settled()
    notes = services.marks("text_note")
    ink = page.request.get(f"{server}/api/drawings/{page.url.rsplit('/', 1)[1]}/sheets/e1/ink").json()
    said = sorted(e["words"] for e in ink["elements"] if e["kind"] == "text_note")
    assert len(notes) == 4 and said == ["DOWN 90° R4"] * 2 + ["UP 90° R4"] * 2
    page.keyboard.press("Escape")
    services.find("Flat pattern")
    sentence.get_by_role("button", name=re.compile("neutral line")).click()
    expect(page.locator(".pop input")).to_be_focused()
    page.keyboard.type("0.5")
    page.keyboard.press("Enter")
    services.settled()
    box = services.box(flat["id"])
    assert box[2] - box[0] == pytest.approx(172 + 2 * math.pi * 5, abs=1e-3)
    for _ in range(3):
        page.keyboard.press("Control+z")
        services.settled()
    assert len(services.views()) == 2 and not services.marks("text_note")


def test_views_are_mirrored_slanted_and_coloured_and_lettering_slopes(server: str, page: Page) -> None:
    services = Services(draw(server, page, "catch-box", views=["front", "iso"], centres=False))
    services.find("Front view")
    services.find("Mirror a view")
    services.move(300, 200)
    services.click(300, 200)
    services.settled()
    assert [v.get("mirrored") for v in services.views() if v["kind"] == "principal"] == [False, True]
    services.find("Isometric")
    sentence = page.get_by_role("contentinfo", name="Sentence line")
    sentence.get_by_role("button", name=re.compile("^Axes")).click()
    page.locator(".pop").get_by_text("cabinet: front true").click()
    services.settled()
    expect(sentence).to_contain_text("Cabinet view")
    sentence.get_by_role("button", name=re.compile("^Tones")).click()
    page.locator(".pop").get_by_text("in colours of the bodies").click()
    services.settled()
    page.get_by_label(re.compile("^Colour of")).fill("#c03020")
    services.settled()
    own = services.view("pictorial")
    assert own["form"] == "cabinet" and own["coloured"] and own["colours"][0]["colour"] == "#c03020"
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    sentence.get_by_role("button", name=re.compile("^Form of lettering")).click()
    page.get_by_role("menuitem", name=re.compile("sloped")).click()
    services.settled()
    assert services.paper.state()["document"]["font"] == "sloped"
    family = page.locator(".board text").first.evaluate("e => getComputedStyle(e).fontFamily")
    assert family.startswith("osifont-sloped")


def test_a_drawing_is_copied_for_another_part_from_its_card(server: str, page: Page) -> None:
    bring(server, page, "pawl")
    key = bring(server, page, "catch-box")
    wish = {"part": key, "views": ["front", "top"], "fields": {"title": "Box of its own"}}
    page.request.post(f"{server}/api/drawings", data=wish)
    page.goto(f"{server}/#/")
    card = page.locator(".sheet", has_text="Box of its own")
    before = len(page.request.get(f"{server}/api/drawings").json())
    card.get_by_role("button", name="Copy").focus()
    page.keyboard.press("Enter")
    expect(card.get_by_role("button", name="With its part")).to_be_focused()
    page.keyboard.press("Escape")
    expect(card.get_by_role("button", name="Copy")).to_be_focused()
    page.keyboard.press("Enter")
    choice = card.get_by_role("combobox")
    choice.select_option(label=next(t for t in choice.locator("option").all_inner_texts() if "awl" in t))
    expect(page.locator(".sheet")).to_have_count(before + 1)
    newest = max(page.request.get(f"{server}/api/drawings").json(), key=lambda d: d["id"])
    assert newest["title"] == "Pawl"
