"""Several sheets of a drawing, by mouse and by keys in a real browser."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from barequill.core.reading import shapes
from tools.made_parts import write_shape

from .browsing import DEMO_PARTS, Services, bring_file, draw, typed
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
    expect(slip).to_have_count(0)
    assert len(services.views()) == 3
    page.keyboard.press("Delete")
    slip.get_by_role("button", name="Keep what can stay").click()
    services.settled()
    assert sorted(v["kind"] for v in services.views()) == ["free", "principal"]
    page.keyboard.press("Control+z")
    services.settled()
    assert sorted(v["kind"] for v in services.views()) == ["pictorial", "principal", "projected"]


def test_a_newer_file_of_a_part_is_offered_shown_beforehand_taken_by_keys_and_undone(server: str, page: Page) -> None:
    """From the shelf by its row; the drawing tells what changes, both stand over each other in space."""
    services = Services(draw(server, page, "spindle-pedestal", views=["front", "top"], scale=0.5))
    drawing = page.url
    part = services.paper.state()["document"]["parts"][0]["key"]
    expect(page.get_by_role("status").filter(has_text="newer revision")).to_have_count(0)
    page.goto(f"{server}/")
    page.locator(f"[data-part='{part}'] input[type=file]").set_input_files(
        DEMO_PARTS / "later" / "spindle-pedestal-b.step"
    )
    since = page.get_by_role("link", name="what has changed since")
    expect(since).to_be_visible(timeout=60000)
    since.click()
    told = page.get_by_role("complementary", name="What differs")
    expect(told).to_contain_text("cylinder Ø40 → Ø45")
    expect(told).to_contain_text("4 × cylinder Ø11 by 8 mm")
    later = page.url.split("/look/")[1].split("/")[0]
    try:
        page.goto(drawing)
        page.reload()
        offer = page.get_by_role("button", name="See what would change")
        offer.focus()
        page.keyboard.press("Enter")
        changes = page.get_by_role("list", name="What would change on the sheets")
        expect(changes).to_contain_text("new: centre mark on the top view", timeout=60000)
        take = page.get_by_role("button", name="Take it")
        take.focus()
        page.keyboard.press("Enter")
        expect(offer).to_have_count(0)
        assert services.paper.state()["document"]["parts"][0]["key"] == later
        page.keyboard.press("Control+z")
        expect(offer).to_be_visible()
        assert services.paper.state()["document"]["parts"][0]["key"] == part
        page.get_by_role("button", name="Not now").click()
        expect(offer).to_have_count(0)
    finally:
        page.request.patch(f"{server}/api/parts/{later}", data={"former": ""})


def test_sizes_of_a_recipe_are_stated_and_typed_on_the_sheet_and_in_their_table(
    server: str, page: Page, tmp_path: Path
) -> None:
    """What cannot be built is told by its step; what can is the next revision, which the drawing takes in one step."""
    file = tmp_path / "hub.recipe"
    file.write_bytes((DEMO_PARTS / "round-gear-cover.recipe").read_bytes() + b"\n \n  \n")
    part = bring_file(server, page, file)
    made = page.request.post(
        f"{server}/api/drawings", data={"part": part, "size": "A3", "scale": 1.0, "views": ["front"], "face": "+Y"}
    ).json()
    page.goto(f"{server}/#/drawing/{made['id']}")
    services = Services(page)
    expect(page.locator(".board > svg")).to_be_visible()
    services.find("sizes of the recipe")
    services.settled()
    services.find("o40 h7")
    built = page.get_by_role("button", name="seat of the part")
    expect(built).to_have_text("40")
    built.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("42,5")
    page.keyboard.press("Enter")
    expect(built).to_have_text("42.5", timeout=60000)
    assert services.paper.state()["document"]["parts"][0]["key"] != part
    later = services.paper.state()["document"]["parts"][0]["key"]
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    services.settled()
    assert services.paper.state()["document"]["parts"][0]["key"] == part
    page.goto(f"{server}/#/look/{later}")
    table = page.get_by_role("table", name="Sizes of the recipe")
    expect(table).to_be_visible(timeout=60000)
    table.get_by_label("seat: seat of the seal").fill("30")
    page.get_by_role("button", name="Build it anew").click()
    expect(page.get_by_text("step bore: its counterbore is no wider than the hole")).to_be_visible(timeout=60000)
    assert later in page.url
    holes = table.get_by_label("holes: how many holes")
    table.get_by_label("seat: seat of the seal").fill("42.5")
    holes.fill("8")
    holes.press("Enter")
    expect(page.get_by_label("holes: how many holes")).to_have_value("8", timeout=60000)
    page.wait_for_url(lambda url: later not in url, timeout=60000)


def test_what_a_revision_left_loose_is_seated_on_what_is_named_or_pointed_at(
    server: str, page: Page, tmp_path: Path
) -> None:
    """Two bores of three move each its own way: nobody can say which is which."""

    def plate(name: str, *bores: tuple[float, float]) -> Path:
        cuts = [shapes.cylinder((x, y, -1), (0, 0, 1), 5, 12) for x, y in bores]
        return write_shape(tmp_path / name, shapes.cut(shapes.box((0, 0, 0), (120, 60, 10)), *cuts))

    old = bring_file(server, page, plate("a.step", (20, 20), (50, 40), (90, 15)))
    new = bring_file(server, page, plate("b.step", (20, 20), (60, 25), (96, 41)))
    wish = {"part": old, "size": "A3", "scale": 1.0, "views": ["front", "top"]}
    made = page.request.post(f"{server}/api/drawings", data=wish).json()
    taken = {"edit": made["edit"], "act": {"act": "take_revision", "part": old, "by": new}}
    page.request.post(f"{server}/api/drawings/{made['id']}/acts", data=taken)
    page.goto(f"{server}/#/drawing/{made['id']}")
    services = Services(page)
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)

    def loose() -> list[dict]:
        return page.request.get(f"{server}/api/drawings/{made['id']}/loose").json()

    before = loose()
    assert {a["words"] for a in before} == {"centre line", "centre mark"} and len(before) == 4
    page.get_by_role("button", name="Check").click()
    flags = page.get_by_role("button", name=re.compile("is loose$"))
    expect(flags).to_have_count(4)
    # by keys: the likeliest place, and the line in the other view that went the same way
    seat = page.get_by_role("button", name=re.compile("^Ø10, moved X 10, Y −15")).first
    seat.focus()
    expect(page.locator(".board [data-element]").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(flags).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(flags).to_have_count(4)
    page.keyboard.press("Control+Shift+z")
    expect(flags).to_have_count(2)
    # by the mouse: the rim of the other bore, 5 to the right of its middle
    mark = next(a for a in loose() if a["words"] == "centre mark")
    view = next(a["on"] for a in services.marks("centre_mark") if a["id"] == mark["id"])
    page.get_by_role("button", name="Point at another place").nth([a["id"] for a in loose()].index(mark["id"])).click()
    x0, y0, _, _ = services.box(view)
    services.click(x0 + 96 + 5, y0 + 41)
    expect(flags).to_have_count(1)
    assert mark["id"] not in {a["id"] for a in loose()}


def test_a_title_block_is_changed_where_it_stands_kept_and_given_to_another(
    server: str, page: Page, tmp_path: Path
) -> None:
    services = Services(draw(server, page, "pawl", views=["front"], centres=False))

    def cells() -> dict[str, dict]:
        document = services.paper.state()["document"]
        own = document["sheets"][0].get("template", "")
        found = next((t for t in document["templates"] if t["name"] == own), None)
        return {c["id"]: c for c in found["cells"]} if found else {}

    services.find("Change the title block")
    # by keys: the cell at its foot, then the one over it; split, and made a field of one's own
    page.get_by_role("button", name="Cell Created by", exact=True).click()
    page.keyboard.press("ArrowRight")
    expect(services.sentence).to_contain_text("The cell Approved by shows Approved by")
    page.keyboard.press("s")
    expect(services.sentence).to_contain_text("The cell without a label shows its text")
    typed(page, re.compile("^The field that it shows"), "Checked by")
    expect(services.sentence).to_contain_text("The cell Checked by shows checked by")
    typed(page, re.compile("^A list to choose from"), "A. Reed; B. Rush")
    expect(services.sentence).to_contain_text("offers A. Reed; B. Rush")
    # by the mouse: the border between the two is pulled 9 mm to the left
    made = next(c for c in cells().values() if c.get("field") == "checked_by")
    assert (made["x"], made["width"], made["choices"]) == (87, 29, ["A. Reed", "B. Rush"])
    edge = page.locator("[data-edge='approver right']").bounding_box()
    assert edge
    x, y = edge["x"] + edge["width"] / 2, edge["y"] + edge["height"] / 2
    paper = services.paper
    mm = (paper.at(100, 0)[0] - paper.at(0, 0)[0]) / 100
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 9 * mm, y, steps=5)
    page.mouse.up()
    expect(services.sentence).to_contain_text("38 wide")
    # what cannot be done says why
    page.keyboard.press("Shift+ArrowUp")
    page.keyboard.press("Shift+ArrowUp")
    page.get_by_role("button", name="Join them").click()
    expect(page.get_by_text("Those cells do not make a rectangle")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(services.sentence).to_contain_text("Sheet A3")
    # kept, and given to another drawing; the field is filled in there where it stands
    services.find("Fill in the title")
    page.keyboard.press("Escape")
    page.keyboard.press("2")
    page.get_by_label("Keep the title block under a name").fill("Reed & Rush")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Reed & Rush kept")).to_be_visible()
    page.keyboard.press("Escape")
    other = Services(draw(server, page, "pawl", views=["front"], centres=False))
    # step 2 is open still
    page.get_by_role("button", name="Reed & Rush kept").click()
    expect(page.get_by_text("Border and title block: Reed & Rush")).to_be_visible()
    # the block of A3 begins at 230, 10; the cell at 78, 23
    other.paper.click(230 + 78 + 5, 10 + 23 + 4)
    box = page.get_by_label("Checked by")
    expect(box).to_be_focused()
    assert page.locator("#field-choices option").evaluate_all("all => all.map((o) => o.value)") == [
        "A. Reed",
        "B. Rush",
    ]
    page.keyboard.type("B. Rush")
    page.keyboard.press("Enter")
    page.wait_for_timeout(900)
    assert other.paper.state()["document"]["fields"]["checked_by"] == "B. Rush"
    page.keyboard.press("Control+z")
    page.wait_for_timeout(700)
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Border and title block: ISO 7200")).to_be_visible()


def test_ways_of_the_house_are_kept_what_departs_is_shown_and_set_back(server: str, page: Page) -> None:
    services = Services(draw(server, page, "pawl", views=["front"], centres=False))
    if not page.get_by_label("Keep the ways of this drawing under a name").count():
        page.keyboard.press("2")
    page.get_by_label("Keep the ways of this drawing under a name").fill("Of Reed")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Ways of the house: Of Reed, nothing departs")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Form of lettering")).click()
    page.get_by_role("menuitem", name="sloped").click()
    told = page.get_by_role("button", name="Lettering sloped, not upright")
    expect(told).to_be_visible()
    told.click()
    expect(told).to_have_count(0)
    assert services.paper.state()["document"]["font"] == "upright"
    # a new drawing begins with them
    part = services.paper.state()["document"]["parts"][0]["key"]
    page.goto(f"{server}/#/new/{part}")
    page.get_by_label("Lines, lettering, looks, title block").select_option("Of Reed")
    page.get_by_role("button", name="Place views").click()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    page.wait_for_timeout(800)
    assert services.paper.state()["document"]["ways"]["name"] == "Of Reed"


def test_what_changed_since_an_issue_is_seen_walked_through_and_marked(server: str, page: Page) -> None:
    services = Services(draw(server, page, "pawl", views=["front"], centres=False))
    base, number = f"{server}/api/drawings", page.url.rsplit("/", 1)[1]
    state = services.paper.state()
    said = {"edit": state["edit"], "letter": "A", "date": "2026-12-02", "words": "First"}
    assert page.request.post(f"{base}/{number}/issues", data=said).ok
    state = services.paper.state()
    notes = {"act": "state_notes", "sheet": state["document"]["sheets"][0]["id"], "text": "Deburr all over."}
    assert page.request.post(f"{base}/{number}/acts", data={"edit": state["edit"], "act": notes}).ok
    page.reload()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    services.find("Compare with an earlier state")
    differs = page.get_by_role("list", name="What differs").get_by_role("button")
    expect(differs.filter(has_text="Rev: A → B")).to_be_visible(timeout=30000)
    expect(page.get_by_label("State before")).to_have_value("issue-A")
    added = differs.filter(has_text="is new")
    expect(added).to_have_count(1)
    for _ in range(differs.count()):
        page.keyboard.press("n")
    expect(page.locator("[aria-pressed=true]")).to_have_count(1)
    page.get_by_label("State after").select_option("issue-A")
    expect(page.get_by_text("Nothing differs")).to_be_visible(timeout=30000)
    page.get_by_label("State after").select_option("now")
    expect(added).to_have_count(1, timeout=30000)
    page.get_by_role("button", name="Mark on the drawing").click()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    page.wait_for_timeout(800)
    (mark,) = services.marks("revision_mark")
    assert mark["letter"] == "B"
    page.keyboard.press("Control+z")
    page.wait_for_timeout(900)
    assert not services.marks("revision_mark")
