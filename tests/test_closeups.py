"""Details, auxiliary, broken and cropped views, centre lines, and the look at a part in space, in a real browser."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import Page, expect

from .browsing import Services, bring, draw, typed
from .browsing import cover_page as cover_page
from .browsing import page as page


@pytest.fixture
def spindle(server: str, page: Page) -> Services:
    return Services(draw(server, page, "long-pinion-spindle", views=["front", "left"], scale=0.5))


@pytest.fixture
def keeper(server: str, page: Page) -> Services:
    return Services(draw(server, page, "angled-keeper", views=["front", "top"]))


def test_a_ring_is_pulled_and_its_detail_follows(spindle: Services) -> None:
    page, front = spindle.page, spindle.view("front")
    x0, _, x1, y1 = spindle.box(front["id"])
    page.keyboard.press("e")
    spindle.pull((x1 - 6, y1 - 1), (x1 - 1, y1 - 1))
    spindle.move(330, 250)
    expect(page.locator(".word")).to_contain_text("Detail A, ", timeout=20000)
    page.mouse.click(*spindle.paper.at(330, 250))
    made = spindle.settle("detail")
    assert made["place"] == pytest.approx([330, 250], abs=0.5)
    assert made["letter"] == "A" and made["scale"] >= 1.0
    expect(spindle.sentence).to_contain_text("Detail A of the front view")
    # its ring moved and widened, by handles; the detail shows what it holds now
    spindle.handle("Middle of the outline", (x0 + 20, y1))
    after = spindle.view("detail")
    middle = (x0 + x1) / 2
    assert after["outline"]["centre"][0] == pytest.approx((x0 + 20 - middle) / 0.5, abs=2.0)
    spindle.handle("Size of the outline", (x0 + 35, y1))
    assert spindle.view("detail")["outline"]["half"][0] == pytest.approx(30.0, abs=1.5)
    typed(page, re.compile("Size of the outline, mm"), "24")
    spindle.paper.settle()
    assert spindle.view("detail")["outline"]["half"] == [12.0, 12.0]
    for _ in range(3):
        page.keyboard.press("Control+z")
        spindle.paper.settle()
    assert spindle.view("detail")["outline"] == made["outline"]


def test_a_stretch_is_taken_out_moved_and_closed(spindle: Services) -> None:
    page, front = spindle.page, spindle.view("front")
    x0, y0, x1, y1 = spindle.box(front["id"])
    m = (y0 + y1) / 2
    page.keyboard.press("b")
    spindle.move(x0 + 85, m + 3)
    page.mouse.down()
    spindle.move(x0 + 125, m + 3)
    expect(page.locator(".word")).to_contain_text("80 taken out", timeout=20000)
    page.mouse.up()
    spindle.page.wait_for_timeout(300)
    spindle.paper.settle()
    (broken,) = spindle.view("front")["breaks"]
    assert broken["end"] - broken["start"] == pytest.approx(80.0, abs=1.0)
    short = spindle.box(front["id"])
    assert (short[2] - short[0]) == pytest.approx(x1 - x0 - 40 + 4, abs=0.5)
    expect(spindle.sentence).to_contain_text("a stretch taken out with a gap of 4 mm")
    # one of its lines dragged back by 5 mm on the sheet
    at = page.get_by_label("First break line").bounding_box()
    page.mouse.move(at["x"] + 5, at["y"] + 5)
    page.mouse.down()
    a, b = spindle.paper.at(0, 0), spindle.paper.at(5, 0)
    page.mouse.move(at["x"] + 5 + a[0] - b[0], at["y"] + 5, steps=5)
    page.mouse.up()
    page.wait_for_timeout(400)
    spindle.paper.settle()
    assert spindle.view("front")["breaks"][0]["start"] == pytest.approx(broken["start"] - 10.0, abs=1.0)
    spindle.find("Close its breaks")
    spindle.paper.settle()
    assert spindle.view("front")["breaks"] == []
    # and the stretch without features is found by itself
    spindle.find("Break a view where")
    expect(page.locator(".word")).to_contain_text("1:1 becomes possible", timeout=20000)
    page.keyboard.press("Enter")
    page.wait_for_timeout(300)
    spindle.paper.settle()
    expect(spindle.sentence).to_contain_text("held to the")
    assert spindle.view("front")["breaks"]
    spindle.find("Turn a section in between")
    spindle.move(
        *[(p + q) / 2 for p, q in zip(spindle.box(front["id"])[:2], spindle.box(front["id"])[2:], strict=True)]
    )
    page.keyboard.press("Enter")
    made = spindle.settle("section")
    assert made["within"]
    assert max(b["gap"] for b in spindle.view("front")["breaks"]) > 20.0


def slanted(services: Services) -> tuple[float, float]:
    """A place on the keeper's slanted edge, where it is caught."""
    _, _, x1, y1 = services.box(services.view("front")["id"])
    for k in range(60):
        at = x1 - 6 - k * 0.4, y1 - 18
        services.page.mouse.move(*services.paper.at(*at))
        services.page.wait_for_timeout(25)
        if services.page.locator(".word").filter(has_text="edge, ").count():
            return at
    raise AssertionError("no slanted edge was found")


def test_a_view_square_onto_a_slanted_edge_is_pulled_untied_and_turned(keeper: Services) -> None:
    page = keeper.page
    page.keyboard.press("q")
    page.mouse.click(*keeper.paper.at(*slanted(keeper)))
    keeper.move(60, 250)
    expect(page.locator(".word")).to_contain_text("auxiliary view, square onto the slanted face", timeout=20000)
    page.keyboard.press("s")
    keeper.move(62, 250)
    expect(page.locator(".word")).to_contain_text("the rest left out")
    page.mouse.click(*keeper.paper.at(62, 250))
    made = keeper.settle("auxiliary")
    assert made["crop"]["edge"] == "ragged" and made["letter"] == ""
    page.get_by_role("button", name=re.compile("^Alignment")).click()
    page.get_by_role("menuitem", name="untied").click()
    keeper.paper.settle()
    assert keeper.view("auxiliary")["letter"] == "A", "out of line it is known by a letter"
    typed(page, re.compile("^Turned on the sheet"), "30")
    keeper.paper.settle()
    assert keeper.view("auxiliary")["turn"] == 30.0
    expect(page.locator("[data-element$='-sight']")).to_have_count(1)


def test_a_view_is_cropped_halved_and_whole_again(keeper: Services) -> None:
    page, top = keeper.page, keeper.view("top")
    x0, y0, x1, y1 = keeper.box(top["id"])
    page.keyboard.press("k")
    page.keyboard.press("a")
    keeper.pull(((x0 + x1) / 2 + 0.7, (y0 + y1) / 2 + 8), ((x0 + x1) / 2 + 20, (y0 + y1) / 2 + 23))
    keeper.paper.settle()
    crop = keeper.view("top")["crop"]
    assert crop["outline"]["form"] == "rectangle"
    assert crop["outline"]["half"] == pytest.approx([19.3, 15.0], abs=1.0)
    keeper.find("Show all of it")
    keeper.paper.settle()
    assert keeper.view("top")["crop"] is None
    keeper.find("The upper half alone")
    keeper.paper.settle()
    assert keeper.box(top["id"])[1] == pytest.approx((y0 + y1) / 2, abs=0.1)


def test_with_the_keyboard_alone_a_detail_and_an_auxiliary_view_are_made(keeper: Services) -> None:
    page, front = keeper.page, keeper.view("front")
    keeper.find("Front view")
    keeper.step_to("edge, 80 long")
    keeper.find("Look square onto this")
    for _ in range(12):
        page.keyboard.press("Shift+ArrowLeft")
    page.wait_for_timeout(300)
    page.keyboard.press("Enter")
    made = keeper.settle("auxiliary")
    assert made["parent"] == front["id"]
    keeper.find("Front view")
    keeper.step_to("edge, ")
    keeper.find("Enlarge this")
    for _ in range(10):
        page.keyboard.press("Shift+ArrowRight")
    page.wait_for_timeout(300)
    page.keyboard.press("Enter")
    assert keeper.settle("detail")["outline"]["tie"]


def test_with_the_keyboard_alone_views_are_broken_cropped_halved_and_lined_up(spindle: Services) -> None:
    page, front = spindle.page, spindle.view("front")

    def keys(*names: str) -> None:
        for name in names:
            page.keyboard.press(name)
        page.wait_for_timeout(300)

    def chosen(words: str) -> None:
        spindle.find("Front view")
        spindle.find(words)

    # a stretch, from a corner that is stepped to
    page.keyboard.press("b")
    page.keyboard.press("n")
    keys("Enter", *["Shift+ArrowRight"] * 3, "Enter")
    spindle.paper.settle()
    (b,) = spindle.view("front")["breaks"]
    assert b["end"] - b["start"] == pytest.approx(60.0, abs=0.5)
    chosen("Close its breaks")
    spindle.paper.settle()
    chosen("Break it where nothing is")
    expect(page.locator(".hint")).to_contain_text("draw at 1:1", timeout=20000)
    keys("a", "Enter")
    spindle.paper.settle()
    assert spindle.view("front")["breaks"]
    assert spindle.paper.state()["document"]["sheets"][0]["scale"] == 1.0
    page.keyboard.press("Control+z")
    spindle.paper.settle()
    assert not spindle.view("front")["breaks"]
    assert spindle.paper.state()["document"]["sheets"][0]["scale"] == 0.5
    # a section between break lines, where the pointer has been taken by keys
    chosen("Turn a section in between")
    page.keyboard.press("n")
    keys(*["Shift+ArrowRight"] * 2, "Enter")
    assert spindle.settle("section")["within"]
    keys("Control+z")
    spindle.paper.settle()
    # a crop from a corner that is stepped to, then a half
    page.keyboard.press("k")
    page.keyboard.press("n")
    keys("Enter", *["Shift+ArrowRight"] * 2, "Enter")
    spindle.paper.settle()
    assert spindle.view("front")["crop"]["outline"]["half"][0] == pytest.approx(40.0, abs=1.0)
    for words, halves in (("Show all of it", None), ("The right half alone", [1, 0])):
        chosen(words)
        spindle.paper.settle()
        crop = spindle.view("front")["crop"]
        assert (crop and crop["halves"]) == halves
    chosen("Show all of it")
    spindle.paper.settle()
    # the left view lined up by a place of each
    spindle.find("Left view")
    spindle.step_to("centre of")
    spindle.find("Line up with another view")
    page.keyboard.press("n")
    keys("s", "Enter")
    spindle.paper.settle()
    assert not spindle.view("left")["tied"]
    spindle.find("Front view")
    # lines of a face left out, by keys, and seen in grey
    spindle.step_to("edge, ")
    spindle.find("Leave out a whole face")
    expect(page.locator(".word")).to_contain_text("left out", timeout=20000)
    keys("Enter")
    spindle.paper.settle()
    assert len(spindle.view("front")["left_out"]) > 1
    page.get_by_role("button", name=re.compile("^Lines left out")).click()
    page.get_by_role("menuitem", name="show them in grey").click()
    expect(page.locator(f"[data-ghosts='{front['id']}'] path").first).to_be_attached()


def test_pitch_circles_lines_of_symmetry_and_dragged_ends(cover_page: Page) -> None:
    services = Services(cover_page)
    page, front = services.page, services.view("front")
    services.find("Front view")
    page.keyboard.press("p")
    page.wait_for_timeout(300)
    services.paper.settle()
    (ring,) = services.marks("pitch_circle")
    assert len(ring["refs"]) == 6
    services.find("Upright line of symmetry")
    page.wait_for_timeout(300)
    services.paper.settle()
    assert len(services.marks("drawn_line")) == 1
    # the end of a hole's mark, outward along it
    x, y = front["place"]
    hole = x + 50 * math.cos(math.radians(30)), y + 50 * math.sin(math.radians(30))
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    marks = {a["id"] for a in services.marks("centre_mark")}
    page.mouse.click(*services.paper.at(hole[0], hole[1] + 8.3))
    page.wait_for_timeout(300)
    end = page.locator("[data-end]")
    expect(end).to_have_count(4)
    box = min((e.bounding_box() for e in end.all()), key=lambda b: b["y"])
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] + 5, box["y"] - 15, steps=5)
    page.wait_for_timeout(200)
    page.mouse.up()
    page.wait_for_timeout(300)
    services.paper.settle()
    (moved,) = [a for a in services.marks("centre_mark") if any(b is not None for b in a["arms"])]
    assert moved["id"] in marks
    assert moved["arms"][1] > 5.0 and moved["arms"][0] is None and moved["arms"][2:] == [None, None]


def test_a_part_is_looked_at_in_space_and_its_slanted_face_made_the_front(server: str, page: Page) -> None:
    key = bring(server, page, "angled-keeper")
    page.goto(f"{server}/#/look/{key}")
    canvas = page.locator("canvas")
    expect(page.get_by_text("130 × 60 × 74.28 mm", exact=True)).to_be_visible(timeout=60000)
    page.wait_for_timeout(800)
    before = canvas.screenshot()
    box = canvas.bounding_box()
    # from its corner the slanted face lies to the right, below the middle
    spot = box["x"] + 0.62 * box["width"], box["y"] + 0.6 * box["height"]
    page.mouse.move(*spot)
    expect(page.locator(".said")).to_contain_text("plane face: click to look straight at it")
    page.mouse.click(*spot)
    page.wait_for_timeout(500)
    assert canvas.screenshot() != before
    page.get_by_label("Name for this direction").fill("slanted face")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name="slanted face", exact=True)).to_be_visible()
    kept = page.request.get(f"{server}/api/parts/{key}").json()["directions"]
    assert [d["name"] for d in kept] == ["slanted face"]
    assert sorted(abs(x) for x in kept[0]["toward"]) == pytest.approx([0.0, 0.5, math.sqrt(0.75)], abs=1e-6)
    page.get_by_role("button", name="New drawing, this as its front").click()
    expect(page.get_by_text("as it was turned in space")).to_be_visible()
    page.get_by_role("button", name="Place views").click()
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    front = Services(page).view("front")
    assert front["toward"] == pytest.approx(kept[0]["toward"], abs=1e-9)
