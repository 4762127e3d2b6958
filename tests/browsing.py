"""What browser tests share: a page that lets no error pass, the sheet on the screen, a drawing to begin with."""

from __future__ import annotations

import re
from collections.abc import Iterator

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


def typed(page: Page, name: re.Pattern[str], text: str) -> None:
    """Type into a part of the sentence, once it takes what is typed."""
    page.get_by_role("button", name=name).click()
    expect(page.locator(".pop input")).to_be_focused()
    page.keyboard.type(text)
    page.keyboard.press("Enter")


def bring(server: str, page: Page, stem: str) -> str:
    """The key of a demo part, brought to the shelf."""
    base = f"{server}/api"
    name = {"name": f"{stem}.step", "mimeType": "application/step"}
    data = {"file": name | {"buffer": (DEMO_PARTS / f"{stem}.step").read_bytes()}}
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
