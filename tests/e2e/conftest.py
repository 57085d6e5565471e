"""The demo as a user has it, running for real: PostgreSQL, the Outside, worker and web as processes; Chromium in front."""

import re
import shutil
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from demo.run import PASSWORD, Demo, run
from dev import cluster
from dev.browser import find_browser

CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # One process fewer to begin and to talk to for each page; nothing here goes to another site.
    "--in-process-gpu",
    "--disable-site-isolation-trials",
    "--disable-features=Translate,OptimizationHints,MediaRouter,SpareRendererForSitePerProcess",
]

#: One for all: making one reads the certificates of the world, which takes longer than most of what is asked with it.
HTTP = httpx.Client()


@pytest.fixture(scope="session")
def demo() -> Iterator[Demo]:
    """Undo is short and a dead worker's lease shorter than in life, so that the tests need not wait."""
    folder = cluster.make_folder()
    more = {"SORTA_UNDO_SECONDS": "2", "SORTA_LEASE_SECONDS": "4", "SORTA_NETWORK_TIMEOUT": "2"}
    running = Demo(
        port=cluster.get_free_port(), outside_port=cluster.get_free_port(), folder=folder, more=more, size=0.08
    )
    try:
        run(running)
        HTTP.post(f"{running.outside}/control/settings", json={"pace": "paused"})
        yield running
    finally:
        running.stop()
        HTTP.close()
        shutil.rmtree(folder, ignore_errors=True)


class Outside:
    """The stand-in networks, told what to do."""

    def __init__(self, address: str) -> None:
        self.address = address

    def control(self, path: str, **body: object) -> dict:
        answer = HTTP.post(f"{self.address}/control/{path}", json=body, timeout=20)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def say(
        self,
        text: str,
        *,
        network: str = "commonfold",
        kind: str = "visitor_post",
        name: str = "Wilma Sund",
        **more: object,
    ) -> dict:
        """Somebody says something. It has come in when this is over, where somebody listens."""
        to = {"to": "brinewick"} if kind == "private" else {}
        handle = name.lower().replace(" ", ".")
        said = self.control(
            "say", network=network, kind=kind, handle=handle, name=name, text=text, page="brinewick", **to, **more
        )
        self.control("heard", seconds=2)
        return said

    def publish(self, title: str, text: str) -> str:
        """A post of the aquarium's page on Commonfold; its id."""
        ours = {"network": "commonfold", "handle": "brinewick", "name": "Brinewick Aquarium", "page": "brinewick"}
        id: str = self.control("say", **ours, kind="post", title=title, text=text)["object"]["id"]
        return id

    def control_state(self, network: str = "commonfold") -> dict:
        return HTTP.get(f"{self.address}/control/state/{network}").json()

    def list_text_messages(self) -> list[dict]:
        """What the gateway took, the newest first."""
        return HTTP.get(f"{self.address}/control/texts").json()

    def list_texts(self, network: str = "commonfold") -> list[str]:
        return [t["content"] for t in self.control_state(network)["things"]]


@pytest.fixture
def outside(demo: Demo) -> Iterator[Outside]:
    yield Outside(demo.outside)
    for network in ("commonfold", "pixfern", "quillet", "loopreel", "workbarn", "verdica", "hushline"):
        calm = {
            "slow_ms": 0,
            "fail": 0,
            "limit": 0,
            "lose": 0,
            "refuse": 0,
            "drop": 0,
            "duplicate": False,
            "reorder": False,
        }
        HTTP.post(f"{demo.outside}/control/mischief/{network}", json=calm)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        playwright.selectors.set_test_id_attribute("data-test")
        opened = playwright.chromium.launch(executable_path=find_browser(), args=CHROMIUM)
        yield opened
        opened.close()


#: The files that take longest, by what they took: begun first, or the machine ends with one process waiting for another's last file.
LONGEST = ("test_coming_in", "test_screens", "test_truth", "test_outside_world", "test_reports")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    order = {name: n for n, name in enumerate(LONGEST)}
    items.sort(key=lambda item: order.get(item.path.stem, len(order)))


#: How fast things are is for `make bench`; here they must come, without a reload, also on a machine that is busy.
expect.set_options(timeout=15_000)

Enter = Callable[..., Page]


@pytest.fixture(scope="session")
def kept() -> dict[str, Any]:
    """By name: the cookies of a session that goes on from test to test. A password takes a sixth of a second of both cores, on purpose."""
    return {}


@pytest.fixture
def enter(demo: Demo, browser: Browser, kept: dict[str, Any]) -> Iterator[Enter]:
    """Somebody, signed in, in a browser of their own; a page's error fails the test."""
    contexts: list[BrowserContext] = []
    errors: list[str] = []
    entered: set[str] = set()

    def sign_in(name: str, context: BrowserContext) -> None:
        # Who comes a second time within a test does so on another device.
        if name not in entered and name in kept:
            context.add_cookies(kept[name])
            if context.request.get("/api/session").ok:
                return
            context.clear_cookies()
        answer = context.request.post("/api/session", data={"email": f"{name}@brinewick.example", "password": PASSWORD})
        assert answer.status == 204, answer.text()
        if name not in entered:
            kept[name] = context.cookies()

    def open_as(name: str, path: str = "/", **options: object) -> Page:
        context = browser.new_context(
            base_url=demo.address, viewport={"width": 1280, "height": 800}, locale="en-GB", **options
        )
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(20_000)
        page.on("pageerror", lambda error: errors.append(str(error)))
        sign_in(name, context)
        entered.add(name)
        page.goto(path)
        return page

    yield open_as
    for context in contexts:
        context.close()
    assert errors == []


def open_message(page: Page, text: str) -> int:
    """Open the conversation with these words through find-or-do; its number."""
    expect(page.get_by_role("button", name=re.compile("^Find"))).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill(text)
    page.get_by_role("option").filter(has_text=text).first.click()
    page.wait_for_url(re.compile(r"/desk/\d+\?move="))
    expect(page.get_by_test_id("script")).to_contain_text(text)
    return int(re.search(r"/desk/(\d+)", page.url)[1])
