"""The whole of a drawing by keys alone, and screens that readers and keys can use."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pypdfium2
import pytest
from playwright.sync_api import Page, expect

from .browsing import Paper, bring

AXE = Path(__file__).parents[1] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"


def faults(page: Page) -> list[str]:
    """What axe finds on the page as it is."""
    page.evaluate(f"{AXE.read_text()}\n;0")
    found = page.evaluate("() => axe.run(document, {resultTypes: ['violations']})")
    return [f"{v['id']}: {n['html'][:120]}" for v in found["violations"] for n in v["nodes"]]


def focused(page: Page) -> str:
    """What has the focus, in words; and it is seen to have it."""
    return page.evaluate(
        """() => { const e = document.activeElement; if (!e || e === document.body) return '';
        return e.getAttribute('aria-label') || e.innerText || e.value || e.tagName; }"""
    )


def tab_to(page: Page, words: str, most: int = 600) -> None:
    for _ in range(most):
        page.keyboard.press("Tab")
        if re.search(words, focused(page)):
            ring = page.evaluate(
                "() => { const s = getComputedStyle(document.activeElement); return parseFloat(s.outlineWidth) + (s.boxShadow === 'none' ? 0 : 1); }"
            )
            assert ring > 0, f"{words} has the focus, and nothing shows it"
            return
    raise AssertionError(f"Tab does not come to {words}")


def find(page: Page, words: str) -> None:
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    expect(page.get_by_label("Find", exact=True)).to_be_focused()
    page.keyboard.type(words)
    page.keyboard.press("Enter")


def go_to(page: Page, words: str) -> None:
    """Go through the geometry until the pointer says so."""
    for _ in range(300):
        page.keyboard.press("n")
        word = page.locator(".word")
        if word.count() and re.search(words, word.inner_text()):
            return
    raise AssertionError(f"going through the geometry does not come to {words}")


def state_size(page: Page, paper: Paper, view: str, words: str, keys: list[str]) -> None:
    find(page, f"{view} view")
    go_to(page, words)
    page.keyboard.press("Enter")
    page.keyboard.press("Space")
    for key in keys:
        page.keyboard.press(key)
    page.keyboard.press("Enter")
    paper.settle()


def test_a_whole_drawing_is_made_by_keys_alone(server: str, page: Page) -> None:
    key = bring(server, page, "spindle-pedestal")
    page.goto(server)
    expect(page.get_by_role("heading", name="Parts")).to_be_visible()
    assert not faults(page)
    page.get_by_text("Spindle pedestal").first.wait_for()
    # what comes later would take the focus away, and other tests may have filled the shelf
    page.wait_for_load_state("networkidle")
    tab_to(page, "New drawing")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("#/new/"))
    page.goto(f"{server}/#/new/{key}")
    expect(page.locator("main svg")).to_be_visible(timeout=60000)
    assert not faults(page)
    tab_to(page, "Place views")
    page.keyboard.press("Enter")
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    paper = Paper(page)
    assert not faults(page)

    find(page, "front view")
    assert not faults(page)
    before = len(paper.state()["document"]["sheets"][0]["views"])
    tab_to(page, "Pull a projected view, left")
    page.keyboard.press("Enter")
    expect(page.locator(".word")).to_contain_text("Right view")
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("Enter")
    paper.settle()
    views = paper.state()["document"]["sheets"][0]["views"]
    assert len(views) == before + 1 and views[-1]["look"] == "right"

    state_size(page, paper, "front", "^edge, 116 long", ["Shift+ArrowDown"] * 2)
    state_size(page, paper, "front", "^circle Ø40", ["Shift+ArrowUp"] * 4 + ["Shift+ArrowRight"] * 3)
    state_size(page, paper, "front", "^arc R34", ["Shift+ArrowUp", "Shift+ArrowLeft"])
    state_size(page, paper, "left", "^edge, 40 long", ["Shift+ArrowUp"] * 2)
    state_size(page, paper, "top", "^circle Ø11", ["Shift+ArrowUp", "Shift+ArrowRight"])
    assert sorted(paper.texts()) == ["116", "40", "R34", "Ø11", "Ø40"]
    assert not faults(page)

    find(page, "fill in title")
    page.keyboard.press("Control+a")
    page.keyboard.type("Pedestal by keys")
    page.keyboard.press("Enter")
    paper.settle()
    expect(page.locator("header .title")).to_have_text("Pedestal by keys")

    page.keyboard.press("/")
    assert not faults(page)
    page.keyboard.type("issue as pdf")
    with page.expect_download() as waiting:
        page.keyboard.press("Enter")
    words = (
        pypdfium2.PdfDocument(io.BytesIO(Path(waiting.value.path()).read_bytes()))[0].get_textpage().get_text_range()
    )
    assert "Pedestal by keys" in words and "Ø40" in words


def test_several_things_are_chosen_moved_changed_and_removed_in_one_step_each(cover_page: Page) -> None:
    paper = Paper(cover_page)
    views = {v["id"]: v["place"] for v in paper.state()["document"]["sheets"][0]["views"]}
    marks = len(paper.state()["document"]["sheets"][0]["annotations"])
    cover_page.keyboard.press("Control+a")
    expect(cover_page.get_by_label("Sentence line")).to_contain_text("2 views")
    cover_page.keyboard.press("Shift+ArrowUp")
    paper.settle()
    after = {v["id"]: v["place"] for v in paper.state()["document"]["sheets"][0]["views"]}
    assert after == {k: [pytest.approx(x), pytest.approx(y + 10)] for k, (x, y) in views.items()}
    cover_page.keyboard.press("Control+z")
    paper.settle()
    assert {v["id"]: v["place"] for v in paper.state()["document"]["sheets"][0]["views"]} == {
        k: pytest.approx(p) for k, p in views.items()
    }
    # a window over the left view takes its centre lines, not the view
    cover_page.keyboard.press("Escape")
    box = next(
        v
        for v in cover_page.request.get(
            f"{cover_page.url.split('/#')[0]}/api/drawings/{cover_page.url.split('/')[-1]}/sheets/e1/ink"
        ).json()["views"]
        if v["name"] == "Left"
    )
    height = 297
    cover_page.keyboard.down("Shift")
    paper.drag(
        (box["x"] - 12, height - box["y"] + 12), (box["x"] + box["width"] + 12, height - box["y"] - box["height"] - 12)
    )
    cover_page.keyboard.up("Shift")
    expect(cover_page.get_by_label("Sentence line")).to_contain_text("centre lines")
    cover_page.keyboard.press("Delete")
    paper.settle()
    left = paper.state()["document"]["sheets"][0]["annotations"]
    assert 0 < len(left) < marks and all(a["kind"] == "centre_mark" for a in left)
    cover_page.get_by_role("button", name="Steps").click()
    cover_page.get_by_role("button", name="New drawing").click()
    paper.settle()
    assert len(paper.state()["document"]["sheets"][0]["annotations"]) == marks


def test_a_section_and_three_sizes_take_fewer_than_sixty_keys(server: str, page: Page) -> None:
    """What is pointed at is found by its name, and what hangs on it stands beside its view without an arrow key."""
    wish = {
        "part": bring(server, page, "spindle-pedestal"),
        "size": "A2",
        "scale": 1.0,
        "views": ["front", "top"],
        "centres": False,
    }
    made = page.request.post(f"{server}/api/drawings", data=wish).json()
    page.goto(f"{server}/#/drawing/{made['id']}")
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    paper = Paper(page)
    paper.settle()
    count = 0

    def press(*keys: str) -> None:
        nonlocal count
        for key in keys:
            page.keyboard.press(key if key != " " else "Space")
            count += 1

    def looked_for(opener: str, words: str) -> None:
        press(opener)
        expect(page.get_by_label("Find", exact=True)).to_be_focused()
        # no key has the sign: what is called Ø40 is found as o40 too
        press(*words, "Enter")

    looked_for("/", "front")
    looked_for("/", "cut thr")
    expect(page.locator(".word")).to_contain_text("ection")
    press("Shift+ArrowRight", "Shift+ArrowRight", "Shift+ArrowRight", "Enter")
    paper.settle()
    for words in ("o40", "left", "lower"):
        looked_for(".", words)
        press("Space")
        expect(page.locator(".word")).to_contain_text(re.compile("diameter|length"))
        press("Enter")
        paper.settle()
    sheet = paper.state()["document"]["sheets"][0]
    assert [v["kind"] for v in sheet["views"]].count("section") == 1
    sizes = [a for a in sheet["annotations"] if a["kind"] == "dimension"]
    assert [a["measure"] for a in sizes] == ["diameter", "length", "length"]
    assert count < 60, f"{count} keys"
