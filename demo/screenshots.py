"""`make screenshots`: the pictures in docs/screenshots from a fresh demo, at 1280x800."""

import os
import re
import shutil
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Literal

from playwright.sync_api import Locator, Page, sync_playwright

from demo.run import PASSWORD, Demo, run
from dev import cluster
from dev.browser import find_browser

SHOTS: tuple[tuple[Literal["light", "dark"], str], ...] = (("light", "desk"), ("dark", "desk-dark"))
FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def take(page: Page, name: str) -> None:
    """One picture, once everything has come to rest."""
    page.wait_for_timeout(900)
    page.screenshot(path=FOLDER / f"{name}.png")


def days_ago(n: int) -> str:
    """A day of the demo's past, as an address has it."""
    return (datetime.now(UTC).date() - timedelta(days=n)).isoformat()


def open_urgent(page: Page) -> None:
    page.goto("/w/1/desk?move=our_move")
    page.locator("[data-conversation]").first.wait_for()
    longer = page.locator("[data-conversation]", has_text=re.compile(r"\d messages"))
    (longer if longer.count() else page.locator("[data-conversation]")).first.click()
    page.locator("[data-test=composer]").wait_for()


def open_suggested(page: Page) -> None:
    """A question for which saved replies are suggested, with an answer begun from one."""
    page.goto("/w/1/desk?move=unsorted&reads_as=question&kind=comment")
    rows = page.locator("[data-conversation]")
    rows.first.wait_for()
    for n in range(min(rows.count(), 10)):
        rows.nth(n).click()
        page.wait_for_timeout(700)
        if page.locator("[data-test=suggested] button").count():
            return


def bring_up(page: Page, part: Locator) -> None:
    """A part of a long page, at its top."""
    part.locator("[role=img] svg, table").first.wait_for()
    part.evaluate("e => e.scrollIntoView({block: 'start'})")


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="sorta-shots-", dir="/var/lib" if os.geteuid() == 0 else None))
    folder.chmod(0o755)
    demo = Demo(port=cluster.get_free_port(), outside_port=cluster.get_free_port(), folder=folder)
    try:
        run(demo)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=find_browser(), args=["--no-sandbox", "--disable-gpu"])
            for scheme, name in SHOTS:
                context = browser.new_context(
                    base_url=demo.address, viewport={"width": 1280, "height": 800}, color_scheme=scheme, locale="en-GB"
                )
                page = context.new_page()
                context.request.post("/api/session", data={"email": "noor@brinewick.example", "password": PASSWORD})
                # Whoever has been here before is not shown around.
                headers = {"X-CSRF-Token": context.request.get("/api/session").json()["csrf"]}
                context.request.put("/api/session/screen", data={"shown_around": True}, headers=headers)
                open_urgent(page)
                take(page, name)
                if scheme == "light":
                    page.goto("/w/1/overview")
                    page.locator("[data-test=cross]").wait_for()
                    take(page, "overview")
                    page.goto("/w/1/people")
                    page.locator("[data-person]").first.wait_for()
                    page.locator("[data-test=people-words]").fill("jorinde")
                    page.wait_for_timeout(900)
                    page.locator("[data-person]").first.click()
                    page.locator("[data-test=profile]").wait_for()
                    take(page, "person")
                    page.goto("/w/1/rules")
                    page.locator("[data-rule] button").nth(3).click()
                    page.locator("[data-test=trial] table").wait_for()
                    take(page, "rules")
                    page.locator("[data-rule] button").first.press("Enter")
                    page.locator("[data-test=rule-editor]").wait_for()
                    take(page, "rule-editor")
                    page.goto("/w/1/approvals")
                    page.locator("[data-test=proof-diff]").wait_for()
                    take(page, "approvals")
                    open_suggested(page)
                    take(page, "composer")
                    page.goto("/w/1/team")
                    page.locator("[data-member] h2 a", has_text="Ilse").click()
                    page.locator("[data-test=done] li").first.wait_for()
                    take(page, "day")
                    page.goto("/w/1/draws")
                    page.locator("[data-test=draws] button").first.click()
                    page.locator("[data-test=places]").wait_for()
                    take(page, "draw")
                    page.goto("/w/1/team")
                    page.locator("[data-work]").first.wait_for()
                    take(page, "team")
                    page.goto("/w/1/reports?period=exact&since=" + days_ago(11) + "&until=" + days_ago(5))
                    page.locator("[data-figure=came_in] a").wait_for()
                    page.locator("[role=img]").first.locator("svg").wait_for()
                    take(page, "reports")
                    bring_up(page, page.locator("section", has_text="The hours of the week").last)
                    take(page, "reports-week")
                    bring_up(page, page.locator("[data-test=staffing]"))
                    take(page, "staffing")
                    page.locator("[data-figure=kept] a").click()
                    page.locator("[data-conversation]").first.click()
                    page.locator("[data-test=composer]").wait_for()
                    take(page, "reports-list")
                    page.goto("/w/1/reports/what-if")
                    page.locator("[data-test=more-people]").fill("1")
                    page.locator("[data-test=play]").click()
                    page.locator("[data-test=what-if-result]").wait_for(timeout=180_000)
                    take(page, "what-if")
                    page.goto("/w/1/reports/accounts")
                    page.locator("[data-health]").first.wait_for()
                    take(page, "health")
                    page.goto("/w/1/setup#roles-title")
                    page.locator("[data-test=roles] [data-member]").first.wait_for()
                    page.locator("[data-test=roles]").evaluate("e => e.scrollIntoView({block: 'start'})")
                    take(page, "members")
                    page.goto(demo.outside)
                    take(page, "outside")
                context.close()
            browser.close()
    finally:
        demo.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
