"""What tests share: the demo parts, a running application, a browser."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect, sync_playwright

from barequill.core import Part
from tools.common import FLAGS, demo_file, part_of

from .block import block  # noqa: F401
from .browsing import cover_page, page  # noqa: F401  (fixtures for all tests)

# a busy machine may be slow, and a wait ends as soon as what is waited for is there
expect.set_options(timeout=30_000)

SHARED = Path(__file__).resolve().parents[2] / "shared" / "parts"


def real_file(name: str) -> Path:
    """A real part's file; the test is skipped where the folder is absent."""
    path = SHARED / name
    if not path.exists():
        pytest.skip(f"the real part {name} is not here (looked in {SHARED})")
    return path


@pytest.fixture
def cover() -> Part:
    return part_of(demo_file("round-gear-cover"))


@pytest.fixture
def pedestal() -> Part:
    return part_of(demo_file("spindle-pedestal"))


@pytest.fixture(scope="session")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator:
    from barequill.web.app import create_app

    made = create_app(tmp_path_factory.mktemp("home"), read_limit=60)
    made.extensions["services"].workshop.warm()
    yield made
    made.extensions["services"].close()


@pytest.fixture(scope="session")
def server(app) -> Iterator[str]:
    from barequill.web.serving import server as serving

    made = serving(app, "127.0.0.1", 0)
    thread = threading.Thread(target=made.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{made.effective_port}"
    made.close()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as play:
        made = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield made
        made.close()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What is tried in a browser waits for another program: where it fails it is tried once more, and told of."""
    for item in items:
        if "browser" in getattr(item, "fixturenames", ()):
            item.add_marker(pytest.mark.flaky(reruns=1))


def pytest_terminal_summary(terminalreporter) -> None:
    """Why a test failed that was tried once more, so that it can be looked into."""
    for report in terminalreporter.getreports("rerun"):
        terminalreporter.write_sep("_", f"first try of {report.nodeid}")
        terminalreporter.write_line(report.longreprtext[-4000:])
