"""What browser tests share: a page that lets no error pass, the sheet on the screen, a drawing to begin with."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from barequill.demo.filling import FOLDER as DEMO_PARTS


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    made = context.new_page()
    troubles: list[str] = []
    made.on("pageerror", lambda e: troubles.append(f"{e} {e.stack}"))
    # what the content security policy forbids is told on the console
    made.on("console", lambda m: troubles.append(m.text) if "Content Security Policy" in m.text else None)
    yield made
    context.close()
    assert not troubles, troubles


class Paper:
    """The sheet on the screen: from sheet mm (y up) to pixels."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def at(self, x: float, y: float) -> tuple[float, float]:
        return tuple(
            self.page.evaluate(
                """([x, y]) => { const s = document.querySelector('.board > svg'); const h = +s.querySelector('rect').getAttribute('height');
                const p = new DOMPoint(x, h - y).matrixTransform(s.getScreenCTM()); return [p.x, p.y]; }""",
                [x, y],
            )
        )

    def drag(
        self, start: tuple[float, float], end: tuple[float, float], by_way_of: tuple[float, float] | None = None
    ) -> None:
        mouse = self.page.mouse
        mouse.move(*self.at(*start))
        mouse.down()
        if by_way_of:
            mouse.move(*self.at(*by_way_of), steps=6)
            self.page.wait_for_timeout(350)
        mouse.move(*self.at(*end), steps=8)
        self.page.wait_for_timeout(150)
        mouse.up()
        self.settle()

    def click(self, x: float, y: float) -> None:
        self.page.mouse.click(*self.at(x, y))

    def settle(self) -> None:
        expect(self.page.locator(".busy")).to_have_count(0)

    def state(self) -> dict:
        number = re.search(r"drawing/(\d+)", self.page.url)
        assert number
        return self.page.request.get(f"{self.page.url.split('/#')[0]}/api/drawings/{number.group(1)}").json()

    def texts(self) -> list[str]:
        number = re.search(r"drawing/(\d+)", self.page.url)
        assert number
        ink = self.page.request.get(
            f"{self.page.url.split('/#')[0]}/api/drawings/{number.group(1)}/sheets/e1/ink"
        ).json()
        return [e["words"] for e in ink["elements"] if e["kind"] == "dimension"]


class Services:
    """A drawing on the screen: its views, and acts on them by places of the sheet."""

    def __init__(self, page: Page) -> None:
        self.page, self.paper = page, Paper(page)

    def views(self) -> list[dict]:
        return self.paper.state()["document"]["sheets"][0]["views"]

    def view(self, kind: str) -> dict:
        return next(v for v in self.views() if kind in (v["kind"], v.get("look")))

    def marks(self, kind: str) -> list[dict]:
        return [a for a in self.paper.state()["document"]["sheets"][0]["annotations"] if a["kind"] == kind]

    def box(self, view: str) -> tuple[float, float, float, float]:
        """A view's box on the sheet, y up."""
        number = re.search(r"drawing/(\d+)", self.page.url).group(1)
        base = self.page.url.split("/#")[0]
        ink = self.page.request.get(f"{base}/api/drawings/{number}/sheets/e1/ink").json()
        v = next(v for v in ink["views"] if v["id"] == view)
        return v["x"], ink["height"] - v["y"] - v["height"], v["x"] + v["width"], ink["height"] - v["y"]

    def move(self, x: float, y: float) -> None:
        self.page.mouse.move(*self.paper.at(x, y), steps=5)
        self.page.wait_for_timeout(150)

    def click(self, x: float, y: float) -> None:
        """The pointer led to a place, and pressed there."""
        self.move(x, y)
        self.page.mouse.click(*self.paper.at(x, y))
        self.page.wait_for_timeout(200)

    def settled(self) -> None:
        """Wait until what was begun is done."""
        self.page.wait_for_timeout(400)
        self.paper.settle()

    def pull(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.move(*start)
        self.page.mouse.down()
        self.move(*end)
        self.page.mouse.up()
        self.page.wait_for_timeout(150)

    def handle(self, name: str, to: tuple[float, float]) -> None:
        """Drag a handle to a place."""
        box = self.page.get_by_label(name, exact=True).bounding_box()
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.move(*to)
        self.page.mouse.up()
        self.page.wait_for_timeout(300)
        self.paper.settle()

    def find(self, words: str) -> None:
        """Choose an act in the finder."""
        self.page.keyboard.press("/")
        self.page.keyboard.type(words)
        self.page.keyboard.press("Enter")

    def step_to(self, words: str) -> None:
        """Go through the geometry by keys to what is called so, and press it."""
        for _ in range(40):
            self.page.keyboard.press("n")
            if self.page.locator(".word").filter(has_text=words).count():
                break
        self.page.keyboard.press("Enter")

    def settle(self, kind: str, count: int = 1) -> dict:
        self.page.wait_for_timeout(300)
        self.paper.settle()
        found = [v for v in self.views() if v["kind"] == kind]
        assert len(found) == count
        return found[-1]

    @property
    def sentence(self):
        return self.page.get_by_label("Sentence line")


def typed(page: Page, name: re.Pattern[str], text: str) -> None:
    """Type into a part of the sentence, once it takes what is typed."""
    page.get_by_role("button", name=name).click()
    expect(page.locator(".pop input")).to_be_focused()
    page.keyboard.type(text)
    page.keyboard.press("Enter")


def bring(server: str, page: Page, stem: str) -> str:
    """The key of a demo part, brought to the shelf."""
    return bring_file(server, page, DEMO_PARTS / f"{stem}.step")


def bring_file(server: str, page: Page, path: Path) -> str:
    """The key of a part file, brought to the shelf."""
    base = f"{server}/api"
    data = {"file": {"name": path.name, "mimeType": "application/octet-stream", "buffer": path.read_bytes()}}
    job = page.request.post(f"{base}/parts", multipart=data).json()
    for _ in range(200):
        job = page.request.get(f"{base}/jobs/{job['id']}").json()
        if job["state"] != "working":
            break
        page.wait_for_timeout(100)
    return job["part"]


def draw(server: str, page: Page, stem: str, **wish: object) -> Page:
    """A new drawing of a demo part, opened."""
    wish = {"part": bring(server, page, stem), "size": "A3", "scale": 1.0, **wish}
    made = page.request.post(f"{server}/api/drawings", data=wish).json()
    page.goto(f"{server}/#/drawing/{made['id']}")
    expect(page.locator(".board > svg")).to_be_visible(timeout=60000)
    return page


@pytest.fixture
def cover_page(server: str, page: Page) -> Page:
    """The gear cover's front and left view on a sheet at 1:1, without dimensions."""
    return draw(server, page, "round-gear-cover", views=["front", "left"], face="+Y")
