"""Every screen for everybody: axe without serious findings in both themes, narrow widths, long lists."""

import asyncio
import os
import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from playwright.sync_api import Page, expect

from demo.run import Demo
from sorta.core.ports import IdentitySeen, Judgement, Kind, MessageSeen
from sorta.main import make_house
from sorta.services import accounts, ingest
from sorta.settings import Settings
from sorta.store.accounts import list_accounts
from tests.e2e.conftest import Enter, Outside, open_message

#: `make fuzz` has ten thousand.
ROWS = int(os.environ.get("SORTA_ROWS", "2500"))
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def check(page: Page, part: str | None = None) -> None:
    """No finding of axe-core on what is shown now, its best practices and the size of targets (WCAG 2.2, 2.5.8) among them, in either
    theme: only the contrast differs. An open dialog is looked at alone, for nothing else can be reached; and of a long page the `part`
    that is new, by its data-test."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text())
    where = f"document.querySelector('[data-test={part}]')" if part else "document"
    where = f"document.querySelector('[role=dialog]') ?? {where}"
    run = f"(() => axe.run({where}, {{resultTypes: ['violations']%s}}))()"
    found = page.evaluate(run % ", rules: {'target-size': {enabled: true}}")["violations"]
    page.emulate_media(color_scheme="dark")
    found += page.evaluate(run % ", runOnly: ['color-contrast']")["violations"]
    page.emulate_media(color_scheme="light")
    # Parts scroll, the page never does: a focus would push the frame out of sight.
    if page.locator("#app").count():
        assert page.evaluate("document.scrollingElement.scrollHeight - innerHeight") <= 0
    bad = [f"{v['id']}: {n['target']} {n['failureSummary']}" for v in found for n in v["nodes"]]
    assert bad == []


def test_axe_finds_nothing_serious_in_either_theme(enter: Enter, demo: Demo, outside: Outside) -> None:
    outside.say("Look at me by night", network="hushline", kind="private")
    page = enter("noor", "/w/1/desk?move=our_move", color_scheme="light")
    expect(page.locator("[data-conversation]").first).to_be_visible()
    check(page)
    open_message(page, "Look at me by night")
    page.keyboard.press("n")
    page.keyboard.type("A note on screen")
    check(page)
    page.keyboard.press("Control+Enter")
    expect(page.get_by_label("Team note").filter(has_text="A note on screen")).to_be_visible()
    check(page)
    page.keyboard.press("s")
    expect(page.get_by_role("menu")).to_be_visible()
    check(page)
    page.keyboard.press("Escape")
    page.keyboard.press("g")
    expect(page.get_by_role("dialog").get_by_role("heading")).to_be_visible()
    check(page)
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog").get_by_role("heading")).to_be_visible()
    check(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("ray")
    expect(page.get_by_role("option").nth(2)).to_be_visible()
    check(page)
    page.goto("/w/1/desk?move=settled&network=commonfold&kind=comment")
    page.locator("[data-conversation]").first.click()
    expect(page.get_by_test_id("composer")).to_be_visible()
    page.keyboard.press("l")
    expect(page.get_by_test_id("thread")).to_be_visible()
    check(page)
    page.keyboard.press("Escape")
    page.keyboard.press("f")
    expect(page.get_by_test_id("filter-panel")).to_be_visible()
    check(page)
    for path, shown in (
        ("/w/1/setup", "aside-title"),
        ("/w/1/overview", "cross"),
        ("/w/1/rules", "rules"),
        ("/w/1/rules/review", "review"),
        ("/w/1/team", "teams"),
        ("/w/1/approvals", "approvals"),
        ("/w/1/cases", "case-words"),
        ("/w/1/outgoing", "waiting"),
        ("/w/1/draws", "draws"),
        ("/w/1/people", "people"),
    ):
        page.goto(path)
        expect(page.locator(f"[data-test={shown}], #{shown}")).to_be_visible()
        check(page)
    page.locator("[data-person]").first.click()
    expect(page.get_by_test_id("profile")).to_be_visible()
    check(page)
    for path, heading in (("/nowhere", "There is nothing at this address"), ("/sign-in", "Sign in")):
        page.goto(path)
        expect(page.get_by_role("heading", name=heading)).to_be_visible()
        check(page)


def test_the_outsides_page_is_accessible_too(enter: Enter, demo: Demo, outside: Outside) -> None:
    # It shows the newest things only: whatever was said before, a post is among them now.
    outside.publish("Seen by all", "Two new rays")
    page = enter("mara")
    page.goto(demo.outside)
    expect(page.get_by_role("button", name="Comment", exact=True).first).to_be_visible()
    check(page)
    for name in ("Commonfold", "Pixfern", "Quillet", "Loopreel", "Workbarn", "Verdica", "Hushline"):
        page.get_by_label("Networks").get_by_role("button", name=name).click()
        expect(page.locator("#network-name")).to_have_text(f"on {name}")
        kinds = page.locator("[name=kind] option").all_inner_texts()
        assert kinds
        assert "undefined" not in kinds, name


def test_at_1024_the_margin_folds_into_a_tab(enter: Enter, outside: Outside) -> None:
    outside.say("Narrow desk, 1024")
    page = enter("mara")
    page.set_viewport_size({"width": 1024, "height": 768})
    open_message(page, "Narrow desk, 1024")
    expect(page.get_by_test_id("trail")).to_be_hidden()
    page.get_by_role("button", name="Margin").click()
    expect(page.get_by_test_id("trail")).to_be_visible()
    page.get_by_role("button", name="Back to the conversation").click()
    expect(page.get_by_test_id("composer")).to_be_visible()


def test_on_a_phone_one_can_answer(enter: Enter, outside: Outside) -> None:
    outside.say("From a phone, 390", network="hushline", kind="private", name="Pocket Petersen")
    page = enter("mara")
    page.set_viewport_size({"width": 390, "height": 844})
    open_message(page, "From a phone, 390")
    expect(page.get_by_test_id("queue")).to_be_hidden()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_test_id("composer").fill("Answered from a phone")
    page.get_by_test_id("send").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    page.goto("/w/1/desk?move=our_move")
    expect(page.get_by_test_id("queue")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


class Unreading:
    """An engine that finds nothing in any text."""

    def judge(self, text: str) -> Judgement:
        return Judgement(language=None)


async def _fill(demo: Demo, count: int) -> None:
    """Many conversations in the garden's workspace, by the function that takes in live traffic."""
    # What they read as does not matter here, and takes a third of the time.
    house = replace(
        make_house(
            Settings(database=demo.environment["SORTA_DATABASE"], keys_file=demo.environment["SORTA_KEYS_FILE"])
        ),
        reader=Unreading(),
    )
    await house.open()
    try:
        async with house.db.transact(2) as tx:
            first = (await list_accounts(tx))[0]
        account = await accounts.get_account(house, 2, first.id)
        now = datetime.now(UTC)
        for start in range(0, count, 500):
            seens = [
                MessageSeen(
                    external_id=f"many:{n}",
                    kind=Kind.VISITOR_POST,
                    public=True,
                    by_us=False,
                    body=f"One of many, {n}",
                    partner=IdentitySeen(external_id=f"who:{n}", handle=f"who{n}", name=f"Who {n}"),
                    sent_at=now - timedelta(seconds=count - n),
                    thread_root=f"many:{n}",
                )
                for n in range(start, start + 500)
            ]
            await ingest.take_in(house, account, seens, now)
    finally:
        await house.close()


def test_thousands_of_rows_scroll_with_few_elements(enter: Enter, demo: Demo) -> None:
    # Playwright keeps a loop running in this thread, so the filling has one of its own.
    import threading

    filling = threading.Thread(target=lambda: asyncio.run(_fill(demo, ROWS)))
    filling.start()
    filling.join()
    page = enter("mara", "/w/2/desk?move=unsorted")
    rows = page.locator("[data-conversation]")
    expect(rows.first).to_be_visible()
    total = int(re.search(r"\d+", page.locator("[data-move=unsorted]").inner_text())[0])
    assert total >= ROWS
    queue = page.get_by_test_id("queue")
    # To its end at once, by one page of it; what lies between is there when one comes to it, in its order and only once.
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url) if "/conversations?" in request.url else None)
    rows.first.focus()
    page.keyboard.press("End")
    expect(page.locator(f"[aria-posinset='{total}'] [data-conversation]:focus")).to_have_count(1)
    expect(page.get_by_test_id("between")).to_have_count(0)
    assert len(asked) == 1
    for n in range(1, 140):
        page.keyboard.press("ArrowUp")
        expect(page.locator(f"[aria-posinset='{total - n}'] [data-conversation]:focus")).to_have_count(1)
    # What nobody has looked at is said to be there, until it has come.
    assert queue.evaluate(
        """async e => {
          e.scrollTop = e.scrollHeight / 2
          for (let n = 0; n < 30; n++) {
            await new Promise(requestAnimationFrame)
            if (document.querySelector('[data-test=between]')) return true
          }
          return false
        }"""
    )
    page.keyboard.press("Home")
    expect(page.locator("[aria-posinset='1'] [data-conversation]:focus")).to_have_count(1)
    page.reload()
    expect(rows.first).to_be_visible()
    enough = 97 * 0.3 * ROWS
    for _ in range(1200):
        height = queue.evaluate("e => { e.scrollTop = e.scrollHeight; return e.scrollHeight }")
        page.wait_for_timeout(20)
        assert rows.count() < 40
        if height > enough:
            break
    assert height > enough, "a third of them could be scrolled through"
    longest = page.evaluate(
        """async () => {
          const queue = document.querySelector('[data-test=queue]')
          const gaps = []
          let last = performance.now()
          for (let step = 0; step < 120; step++) {
            queue.scrollTop -= 400
            await new Promise(requestAnimationFrame)
            gaps.push(performance.now() - last)
            last = performance.now()
          }
          return gaps.sort((a, b) => b - a)[5]
        }"""
    )
    print(f"sixth longest frame while scrolling: {longest:.0f} ms")


def test_an_own_role_is_made_and_given_and_what_it_lacks_goes_at_once(enter: Enter, outside: Outside) -> None:
    lise = enter("lise", "/w/1/desk")
    expect(lise.locator("[data-conversation]").first).to_be_visible()
    page = enter("noor", "/w/1/setup")
    table = page.get_by_test_id("roles")
    table.get_by_test_id("new-role").click()
    table.get_by_test_id("role-name").fill("Weekend")
    table.get_by_label("Sort", exact=True).check()
    table.get_by_test_id("save-role").click()
    role = table.get_by_test_id("role").filter(has=page.get_by_role("button", name="Change Weekend"))
    expect(role).to_be_visible()
    outside.say("Is the lift working, 9301")
    open_message(lise, "Is the lift working, 9301")
    expect(lise.get_by_text("changes nothing")).to_be_visible()
    table.get_by_label("Role of Lise Dahl").select_option(label="Weekend")
    expect(role).to_contain_text("Lise Dahl")
    # Without a reload she may sort now, and still not answer.
    expect(lise.get_by_role("button", name="Take it")).to_be_visible()
    table.get_by_label("Role of Lise Dahl").select_option(label="Observer")
    expect(lise.get_by_role("button", name="Take it")).to_have_count(0)
    table.get_by_role("button", name="Remove Weekend").click()
    expect(role).to_have_count(0)
    table.get_by_label("Role of Noor Haddad").select_option(label="Lead")
    expect(table.get_by_role("alert")).to_contain_text("at least one Owner")
    expect(table.get_by_label("Role of Noor Haddad")).to_have_value("owner")
    lead = enter("mara", "/w/1/setup").get_by_test_id("roles")
    expect(lead.get_by_label("Role of Ilse Brandt")).to_be_visible()
    assert lead.get_by_label("Role of Noor Haddad").count() == 0
    assert enter("ilse", "/w/1/setup").get_by_label("Role of Ana Reis").count() == 0


def test_who_is_limited_to_a_group_sees_its_accounts_alone_at_once(enter: Enter, outside: Outside) -> None:
    outside.say("Is the otter pool open, 9317")
    teo = enter("teo", "/w/1/desk")
    id = open_message(teo, "Is the otter pool open, 9317")
    page = enter("noor", "/w/1/setup")
    table = page.get_by_test_id("roles")
    table.get_by_role("button", name="What Teo Nakamura sees").click()
    dialog = page.get_by_test_id("sight")
    for group, wanted in (("Public pages", False), ("Private lines", False), ("Reviews", True)):
        dialog.get_by_label(group).set_checked(wanted)
    dialog.get_by_test_id("limited").check()
    check(page)
    dialog.get_by_test_id("save-sight").click()
    expect(page.get_by_test_id("gone-said")).to_contain_text("sees the accounts of Reviews from now on")
    expect(table.locator("[data-member]").filter(has_text="Teo Nakamura")).to_contain_text("sees only Reviews")
    # Without a reload: the sheet that was open is there no more, nor its row.
    expect(teo.get_by_test_id("script")).to_have_count(0)
    expect(teo.locator(f"[data-conversation='{id}']")).to_have_count(0)
    expect(teo.get_by_test_id("inbox")).to_have_count(1)
    teo.keyboard.press("Control+k")
    teo.get_by_test_id("find").fill("otter pool open, 9317")
    expect(teo.get_by_text("Nothing here has all of these words")).to_be_visible()
    # It is given to nobody who does not see it.
    mara = enter("mara", f"/w/1/desk/{id}")
    mara.get_by_title("Give it to a colleague").click()
    mara.get_by_role("combobox").fill("Il")
    expect(mara.get_by_role("option", name=re.compile("Ilse Brandt"))).to_be_visible()
    mara.get_by_role("combobox").fill("Te")
    expect(mara.get_by_role("option", name=re.compile("Teo Nakamura"))).to_have_count(0)
    mara.keyboard.press("Escape")
    # One group's inbox at a time, in the address.
    mara.get_by_test_id("inbox").get_by_role("button").click()
    mara.get_by_role("menuitem", name="Reviews").click()
    mara.wait_for_url(re.compile("group="))
    expect(mara.locator(f"[data-conversation='{id}']")).to_have_count(0)
    table.get_by_role("button", name="What Teo Nakamura sees").click()
    dialog.get_by_label("Every account").check()
    dialog.get_by_label("Public pages").check()
    dialog.get_by_label("Private lines").check()
    dialog.get_by_label("Reviews").uncheck()
    dialog.get_by_test_id("save-sight").click()
    expect(page.get_by_test_id("gone-said")).to_contain_text("sees every account from now on")
    teo.goto(f"/w/1/desk/{id}")
    expect(teo.get_by_test_id("script")).to_contain_text("9317")


def test_a_group_is_made_changed_and_removed_in_setup(enter: Enter) -> None:
    page = enter("noor", "/w/1/setup")
    part = page.get_by_test_id("groups")
    expect(part.get_by_test_id("group")).to_have_count(3)
    page.get_by_test_id("new-group").click()
    page.get_by_test_id("group-name").fill("Reviews")
    page.get_by_test_id("save-group").click()
    expect(page.get_by_test_id("group-problem")).to_contain_text("called Reviews already")
    page.get_by_test_id("group-name").fill("Night tours")
    page.get_by_role("button", name=re.compile("^Accounts:")).click()
    page.get_by_role("option", name="Brinewick Nights on Commonfold").click()
    page.keyboard.press("Escape")
    check(page, "groups")
    page.get_by_test_id("save-group").click()
    row = part.get_by_test_id("group").filter(has_text="Night tours")
    expect(row).to_contain_text("Brinewick Nights on Commonfold")
    expect(row).to_contain_text("nobody looks after it")
    row.get_by_role("button", name="Remove Night tours").click()
    expect(part.get_by_test_id("group")).to_have_count(3)


#: What is pressed and shown, lower than so many points: its height and its words.
LOW = """(least) => [...document.querySelectorAll('button, summary, select')]
  .filter((e) => e.checkVisibility() && !e.closest('.sr-only'))
  .map((e) => [e.getBoundingClientRect().height, (e.getAttribute('aria-label') ?? e.innerText).slice(0, 40)])
  .filter(([high]) => high > 0 && high < least)"""


def test_under_a_finger_everything_is_large_and_the_conversation_is_read(enter: Enter, outside: Outside) -> None:
    outside.say("Can I read you on a phone, 6701?", name="Phoebe Phone")
    page = enter("mara", "/", has_touch=True, is_mobile=True)
    page.set_viewport_size({"width": 390, "height": 800})
    for path, shown in (
        ("/w/1/desk?move=unsorted&words=6701", "[data-conversation]"),
        ("/w/1/approvals", "[data-test=approvals]"),
        ("/w/1/people", "[data-test=people]"),
        ("/w/1/setup", "[data-test=accounts] li"),
        ("/w/1/rules", "[data-test=rules]"),
    ):
        page.goto(path)
        expect(page.locator(shown).first).to_be_visible()
        assert page.evaluate(LOW, 40) == [], path
    page.goto("/w/1/desk?move=unsorted&words=6701")
    page.locator("[data-conversation]").first.tap()
    said = page.locator("[data-message]")
    expect(said).to_be_in_viewport(ratio=1)
    expect(page.get_by_test_id("composer")).to_be_visible()
    assert page.evaluate(LOW, 40) == []


def test_the_focus_comes_back_from_every_dialog(enter: Enter, outside: Outside) -> None:
    outside.say("Where was I, 6702?", name="Fiona Focus")
    page = enter("mara", "/w/1/desk?move=unsorted&words=6702")
    page.locator("[data-conversation]").first.wait_for()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("composer")).to_be_visible()
    row = page.locator("a[data-conversation]:focus")
    expect(row).to_have_count(1)
    over = page.locator("[role=dialog], [role=menu], [data-test=filter-panel]")
    for key in ("g", "m", "b", "u", "p", "s", "c", "f", "v", "?", "Shift+N", "Shift+W", "Control+k"):
        page.keyboard.press(key)
        expect(over, key).not_to_have_count(0)
        expect(row, f"{key}: the focus goes in").to_have_count(0)
        page.keyboard.press("Escape")
        expect(over, key).to_have_count(0)
        expect(row, f"{key}: the focus comes back").to_have_count(1)


def test_one_triage_as_it_is_heard(enter: Enter, outside: Outside) -> None:
    """The accessibility tree of a conversation that is taken up and answered, as a screen reader walks it."""
    outside.say("Do you open on Sundays, 6703?", name="Tessa Tree")
    page = enter("mara", "/w/1/desk?move=unsorted&words=6703")
    page.locator("[data-conversation]").first.wait_for()
    expect(page.get_by_label("Queue")).to_match_aria_snapshot(
        """
        - region "Queue":
          - heading "Unsorted" [level=1]
          - navigation "Moves":
            - button /\\d+ Unsorted/
          - list:
            - listitem:
              - heading /.+ 1/ [level=2]
            - listitem:
              - checkbox "Select Tessa Tree"
              - link /Tessa Tree, normal, due in .+, visitor post, unread, nobody yet\\. Do you open on Sundays, 6703\\?/
        """
    )
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("composer")).to_be_visible()
    expect(page.get_by_role("region", name="Conversation")).to_match_aria_snapshot(
        """
        - region "Conversation":
          - heading "Tessa Tree" [level=1]
          - button "Take it"
          - button "Keep"
          - button "Park"
          - button "Settle"
          - paragraph: /Public visitor post/
          - button /Normal due/
          - button "Nobody yet"
          - button "Tag"
          - button "Watch"
          - region "What was said":
            - article:
              - text: Tessa
              - time
              - paragraph: Do you open on Sundays, 6703?
          - region "Answer":
            - radiogroup "Who can read it":
              - radio "Public reply" [checked]
              - radio "Private message"
              - radio "Team note"
            - textbox "Public reply"
            - button "Send and settle" [disabled]
            - button "Send publicly" [disabled]
        """
    )
    page.keyboard.press("t")
    page.keyboard.press("r")
    page.keyboard.type("Yes, from ten")
    box = page.get_by_role("textbox", name="Public reply")
    expect(box).to_be_focused()
    expect(box).to_have_accessible_description(re.compile("13 of 2,000"))
    page.keyboard.press("Control+Shift+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent, settled")
