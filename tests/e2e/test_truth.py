"""What the screen says is true, whatever is cut: the server, the stream, the session, the network of the browser, the tab."""

import contextlib
import re
import time
from collections.abc import Callable

import httpx
import pytest
from playwright.sync_api import Page, Request, Route, expect

from demo.run import PASSWORD, Demo
from tests.e2e.conftest import Enter, Outside, open_message

pytestmark = pytest.mark.usefixtures("outside")
PLACES = [
    "desk",
    "overview",
    "approvals",
    "team",
    "people",
    "rules",
    "rules/review",
    "setup",
    "cases",
    "outgoing",
    "draws",
]
#: What a place says when it is empty: never to be read while something failed.
EMPTY = re.compile(
    "Nothing to decide|Nothing waits for approval|Everything is sorted|No rules yet|Nothing is kept aside|None yet"
    "|No link has gone out|No policies yet|Nothing passes|Nobody yet|Nothing has been handed over|Nothing waits"
)


def break_all(page: Page, but: str = "/api/session") -> Callable[[Route], None]:
    """Every look-up fails from now on, as it does when a server is ill."""

    def fail(route: Route) -> None:
        if but in route.request.url or route.request.method != "GET" or "/live" in route.request.url:
            route.continue_()
        else:
            route.fulfill(
                status=503,
                content_type="application/problem+json",
                body='{"type":"/problems/unavailable","title":"x","status":503,"detail":"Sorta cannot reach its database.","instance":"","reference":"ref-77"}',
            )

    page.route("**/api/**", fail)
    return fail


def test_a_failure_never_looks_like_an_empty_list(enter: Enter) -> None:
    """Every place with every look-up failing: it says so with another try, and no word of emptiness."""
    page = enter("noor", "/w/1/desk")
    expect(page.get_by_test_id("queue")).to_be_visible()
    fail = break_all(page)
    for place in PLACES:
        page.goto(f"/w/1/{place}")
        expect(page.get_by_test_id("failed").first).to_be_visible()
        expect(page.get_by_test_id("retry").first).to_be_visible()
        found = EMPTY.search(page.locator("main").inner_text())
        assert found is None, f"{place} says “{found[0]}” though nothing was loaded"
    page.goto("/w/1/approvals")
    expect(page.get_by_test_id("failed").first).to_contain_text("ref-77")
    page.unroute("**/api/**", fail)
    # In one step, if it is there still: what fails asks again by itself too, and its button then moves or goes.
    page.evaluate("document.querySelector('[data-test=retry]')?.click()")
    expect(page.locator("main")).to_contain_text(re.compile("soonest due first"))


def test_one_part_that_fails_is_said_beside_those_that_did_not(enter: Enter) -> None:
    page = enter("noor", "/w/1/desk")
    looked: dict[str, set[str]] = {}
    for place in ("setup", "team"):
        seen: set[str] = set()

        def note(request: Request, seen: set[str] = seen) -> None:
            if request.method == "GET" and "/api/workspaces/" in request.url:
                seen.add(re.sub(r"\?.*", "", request.url))

        # What the place before still asks for on a slow machine is not this one's.
        page.goto("about:blank")
        page.on("request", note)
        page.goto(f"/w/1/{place}")
        # Until it has asked for something and then for a while for nothing more.
        for _ in range(40):
            before = len(seen)
            page.wait_for_timeout(700)
            if seen and len(seen) == before:
                break
        page.remove_listener("request", note)
        looked[place] = {u for u in seen if not re.search("/(live|waiting|presence)$", u)}
    assert len(looked["setup"]) > 8
    for place, urls in looked.items():
        for url in sorted(urls):
            page.route(url + "*", lambda route: route.fulfill(status=500, body="{}"))
            page.goto(f"/w/1/{place}")
            expect(page.locator("[role=alert]").first).to_be_visible()
            page.unroute(url + "*")


def test_the_stream_comes_back_after_an_error_and_says_since_when(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/desk?move=unsorted")
    expect(page.get_by_test_id("queue")).to_be_visible()
    page.route("**/live*", lambda route: route.fulfill(status=500, body="ill"))
    page.reload()
    lost = page.get_by_test_id("lost")
    expect(lost).to_have_text(re.compile(r"Connection lost since \d\d:\d\d, trying again"))
    outside.say("Said into the gap 5110", name="Gap Speaker")
    page.wait_for_timeout(1000)
    page.unroute("**/live*")
    expect(lost).to_have_count(0)
    expect(page.get_by_test_id("show-new").or_(page.get_by_text("Said into the gap 5110"))).to_be_visible()


def stop_web(demo: Demo) -> None:
    web = demo.running["web"]
    web.terminate()
    web.wait(10)


def test_a_restart_of_the_server_loses_no_word(enter: Enter, outside: Outside, demo: Demo) -> None:
    outside.say("Restart under me 5120", name="Rita Restart")
    page = enter("mara")
    open_message(page, "Restart under me 5120")
    page.keyboard.press("r")
    page.keyboard.type("Before, ")
    stop_web(demo)
    expect(page.get_by_test_id("lost")).to_be_visible()
    page.keyboard.type("and while it was away")
    expect(page.get_by_test_id("unkept")).to_be_visible()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("send-problem")).to_contain_text("cannot be reached")
    demo.start_web()
    expect(page.get_by_test_id("lost")).to_have_count(0, timeout=25_000)
    expect(page.get_by_test_id("composer")).to_have_value("Before, and while it was away")
    page.get_by_test_id("composer").press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")


def end_sessions(demo: Demo, name: str) -> None:
    with demo.cluster.admin("sorta") as conn:
        conn.execute(
            "delete from session s using member m where m.id = s.member_id and m.email = %s",
            (f"{name}@brinewick.example",),
        )
        conn.commit()


def test_a_session_that_ended_is_renewed_over_the_page(enter: Enter, outside: Outside, demo: Demo) -> None:
    outside.say("My session ends 5130", name="Sess Ion")
    page = enter("mara")
    id = open_message(page, "My session ends 5130")
    page.keyboard.press("r")
    expect(page.get_by_test_id("composer")).to_be_focused()
    # At once, for the gate takes the keys as soon as the page hears that the session ended; what was written is kept a moment after the last key.
    page.keyboard.insert_text("Typed without a session")
    end_sessions(demo, "mara")
    gate = page.get_by_test_id("gate")
    expect(gate).to_contain_text("Sign in again to go on")
    gate.get_by_label("Password").fill(PASSWORD)
    gate.get_by_role("button", name="Sign in", exact=True).click()
    expect(gate).to_have_count(0)
    expect(page.get_by_test_id("composer")).to_have_value("Typed without a session")
    expect(page.get_by_test_id("unkept")).to_have_count(0, timeout=25_000)
    other = enter("mara", f"/w/1/desk/{id}")
    expect(other.get_by_test_id("composer")).to_have_value("Typed without a session")
    page.get_by_test_id("composer").press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")


def test_another_member_in_a_second_tab_acts_in_nobodys_name(enter: Enter, outside: Outside) -> None:
    outside.say("Two people one browser 5140", name="Twin Browser")
    first = enter("mara")
    id = open_message(first, "Two people one browser 5140")
    first.keyboard.press("r")
    first.keyboard.type("Words of Mara")
    second = first.context.new_page()
    second.goto("/w/1/desk")
    second.get_by_role("button", name="Mara Okafor").click()
    second.get_by_role("menuitem", name="Sign out").click()
    expect(first.get_by_test_id("gate")).to_contain_text("You signed out in another tab")
    second.get_by_role("button", name="Ilse Brandt").click()
    second.get_by_role("button", name="Sign in", exact=True).click()
    expect(second.get_by_test_id("queue")).to_be_visible()
    expect(first.get_by_test_id("gate")).to_contain_text("Somebody else is signed in now")
    answer = first.request.get("/api/workspaces/1/counts", headers={"X-Member": "999"})
    assert (answer.status, answer.json()["type"]) == (409, "/problems/another-member")
    first.get_by_role("button", name="Go on as whoever is signed in now").click()
    expect(first.get_by_role("button", name="Ilse Brandt")).to_be_visible()
    expect(first.locator(f"[data-sheet='{id}']").get_by_test_id("composer")).to_have_value("")
    again = enter("mara", f"/w/1/desk/{id}")
    expect(again.get_by_test_id("composer")).to_have_value("Words of Mara")


def test_two_tabs_write_one_text_and_two_devices_are_told_of_each_other(enter: Enter, outside: Outside) -> None:
    outside.say("Write me twice 5150", name="Duo Tabs")
    one = enter("mara")
    id = open_message(one, "Write me twice 5150")
    two = one.context.new_page()
    two.goto(f"/w/1/desk/{id}")
    expect(two.get_by_test_id("composer")).to_be_visible()
    one.bring_to_front()
    one.keyboard.press("r")
    with one.expect_response(lambda r: r.url.endswith("/draft")):
        one.keyboard.type("From tab one")
    expect(two.get_by_test_id("composer")).to_have_value("From tab one")
    device = enter("mara", f"/w/1/desk/{id}")
    expect(device.get_by_test_id("composer")).to_have_value("From tab one")
    with device.expect_response(lambda r: r.url.endswith("/draft")):
        device.get_by_test_id("composer").fill("From the other device")
    with one.expect_response(lambda r: r.url.endswith("/draft")):
        one.get_by_test_id("composer").press_sequentially(", and more")
    strip = one.get_by_test_id("elsewhere")
    expect(strip).to_contain_text("From the other device")
    expect(one.get_by_test_id("composer")).to_have_value("From tab one, and more")
    strip.get_by_role("button", name="Keep what is here").click()
    expect(strip).to_have_count(0)
    one.get_by_test_id("composer").press("Control+Enter")
    expect(one.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    expect(two.get_by_test_id("composer")).to_have_value("")


def test_a_new_version_is_loaded_when_a_part_is_gone(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk?move=our_move")
    expect(page.get_by_test_id("queue")).to_be_visible()
    gone = {"left": 1}

    def once(route: Route) -> None:
        if gone["left"]:
            gone["left"] -= 1
            route.fulfill(status=404, body="")
        else:
            route.continue_()

    page.route(re.compile(r"/assets/(OverviewView|PeopleView).*\.js"), once)
    page.get_by_role("link", name="Overview").click()
    expect(page.get_by_test_id("cross")).to_be_visible()
    gone["left"] = 99
    page.get_by_label("Places").get_by_role("link", name=re.compile("^People")).click()
    expect(page.get_by_test_id("failed").first).to_contain_text("That place could not be loaded.")
    gone["left"] = 0
    page.get_by_test_id("retry").first.click()
    expect(page.get_by_test_id("people")).to_be_visible()


def test_the_last_words_survive_a_reload_at_once(enter: Enter, outside: Outside) -> None:
    outside.say("Reload me 5160", name="Rel Oad")
    page = enter("mara")
    open_message(page, "Reload me 5160")
    page.keyboard.press("r")
    page.keyboard.type("The very last letters")
    page.reload()
    expect(page.get_by_test_id("composer")).to_have_value("The very last letters")


def test_what_is_not_outside_is_no_answer(enter: Enter, outside: Outside, demo: Demo) -> None:
    """An expired token: on row, sheet and desk, with what to do; with a new one all goes out and the lines are gone."""
    outside.say("Is my answer out? 5170", network="quillet", kind="mention", name="Tok Ken")
    page = enter("mara", "/w/1/desk?move=unsorted")
    id = open_message(page, "Is my answer out? 5170")
    token = outside.control("expire", network="quillet", page="brinewick")["token"]
    try:
        page.keyboard.press("r")
        page.keyboard.type("Not yet 5170")
        page.keyboard.press("Control+Enter")
        expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
        page.goto(f"/w/1/desk/{id}?move=our_move")
        sheet = page.locator(f"[data-sheet='{id}']")
        expect(sheet.get_by_test_id("move")).to_have_text("Our move", timeout=25_000)
        expect(sheet.get_by_test_id("stuck")).to_contain_text("Not out yet, since")
        page.keyboard.press(".")
        expect(page.locator(f"[data-conversation='{id}']").get_by_test_id("row-way")).to_have_text("not out yet")
        line = page.get_by_test_id("stuck-account").filter(has_text="Quillet")
        expect(line).to_contain_text("An answer from Brinewick Aquarium on Quillet is not out since")
        expect(line).to_contain_text("A new token is given in Setup")
    finally:
        noor = enter("noor", "/w/1/setup")
        noor.get_by_role("listitem").filter(has_text="on Quillet").get_by_role("button", name="Change").click()
        noor.get_by_role("menuitem", name="New token").click()
        noor.get_by_role("textbox", name="Access token").fill(token)
        noor.get_by_role("button", name="Use it").click()
    expect(sheet.get_by_test_id("move")).to_have_text("Their move", timeout=25_000)
    expect(sheet.get_by_test_id("stuck")).to_have_count(0)
    expect(line).to_have_count(0)


def test_times_are_the_workspaces_and_say_so(enter: Enter, outside: Outside) -> None:
    outside.say("What time is it 5180", name="Zone Traveller")
    page = enter("mara", "/w/1/desk?move=unsorted", timezone_id="America/New_York")
    open_message(page, "What time is it 5180")
    expect(page.get_by_test_id("zone")).to_have_text("times of Copenhagen")
    expect(page.locator("[data-conversation]").first.get_by_test_id("row-time")).to_have_attribute(
        "title", re.compile(r"^Came .*\d\d:\d\d")
    )
    page.keyboard.press("p")
    page.get_by_role("menuitem", name="Until an exact time").click()
    expect(page.get_by_text("Day and time, times of Copenhagen")).to_be_visible()
    page.get_by_test_id("when").fill("2027-03-03T15:30")
    page.get_by_test_id("pick-when").click()
    page.goto(page.url.replace("unsorted", "parked"))
    open_message(page, "What time is it 5180")
    expect(page.get_by_test_id("move")).to_have_text("Parked until 3 Mar 2027 15:30")
    # A time that a clock change skips is taken by the offset before it, one that comes twice is the first (RFC 5545 3.3.5).
    id = int(re.search(r"/desk/(\d+)", page.url)[1])
    for said, instant in (("2027-03-28T02:30", "2027-03-28T01:30:00Z"), ("2027-10-31T02:30", "2027-10-31T00:30:00Z")):
        page.keyboard.press("p")
        page.get_by_role("menuitem", name="Until an exact time").click()
        page.get_by_test_id("when").fill(said)
        with page.expect_response(lambda r: r.url.endswith("/acts")):
            page.get_by_test_id("pick-when").click()
        sheet = page.request.get(f"/api/workspaces/1/conversations/{id}").json()
        assert sheet["conversation"]["parked_until"] == instant
    home = enter("mara", "/w/1/desk?move=unsorted", timezone_id="Europe/Copenhagen")
    expect(home.get_by_test_id("queue")).to_be_visible()
    expect(home.get_by_test_id("zone")).to_have_count(0)
    home.goto("/w/1/desk?move=settled")
    expect(home.locator("[data-conversation]").first).to_be_visible()
    today = home.evaluate("new Date().toISOString().slice(0, 10)")
    home.goto(f"/w/1/desk?move=settled&until={today}")
    expect(home.locator("[data-conversation]").first).to_be_visible()
    expect(home.get_by_test_id("chip").filter(has_text="Until")).to_contain_text(str(int(today[-2:])))


def test_taking_on_shown_words_puts_the_caret_into_them(enter: Enter, outside: Outside) -> None:
    outside.say("Show me your words 5190", name="Sha Red")
    ilse = enter("ilse")
    id = open_message(ilse, "Show me your words 5190")
    ilse.keyboard.press("r")
    ilse.keyboard.type("Half an answer")
    ilse.get_by_test_id("share-draft").check()
    mara = enter("mara", f"/w/1/desk/{id}")
    mara.get_by_test_id("shared-draft").get_by_role("button", name="Write it on").click()
    expect(mara.get_by_test_id("composer")).to_be_focused()
    mara.keyboard.press("End")
    mara.keyboard.type(" killed")
    expect(mara.get_by_test_id("composer")).to_have_value(re.compile("Half an answer killed"))


def test_placeholders_that_nothing_fills_are_marked_and_stay(enter: Enter, outside: Outside) -> None:
    outside.say("Braces 5200", name="Bra Ces")
    page = enter("mara")
    open_message(page, "Braces 5200")
    page.keyboard.press("r")
    page.keyboard.type("Hello {first name}, see {link:…}")
    expect(page.get_by_test_id("unfilled")).to_contain_text("{link:…}")
    expect(page.get_by_test_id("send")).to_be_disabled()
    page.get_by_test_id("composer").fill("Hello {first name}, see {link:nowhere-at-all}")
    page.get_by_test_id("composer").press("Control+Enter")
    expect(page.get_by_test_id("send-problem")).to_contain_text("{link:nowhere-at-all}")
    page.get_by_test_id("composer").fill("Hello {first name} 5200")
    page.get_by_test_id("composer").press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    until = time.monotonic() + 15
    while "Hello Bra 5200" not in outside.list_texts() and time.monotonic() < until:
        time.sleep(0.2)
    assert "Hello Bra 5200" in outside.list_texts()


def answer_unseen(ilse: Page, mara: Page, words: str) -> None:
    """What Mara sees stands still: her look-ups and notices are held up. Meanwhile Ilse answers."""
    mara.route(
        re.compile(r"/api/workspaces/1/(live|rows|conversations)"),
        lambda route: route.abort() if route.request.method == "GET" else route.continue_(),
    )
    ilse.keyboard.press("r")
    ilse.keyboard.type(words)
    ilse.keyboard.press("Control+Enter")
    expect(ilse.get_by_test_id("undo-line")).to_contain_text("Reply sent")


def test_who_settles_over_a_fresh_answer_is_told_and_looks_first(enter: Enter, outside: Outside) -> None:
    outside.say("At the same instant 5210", name="Sam Instant")
    mara, ilse = enter("mara"), enter("ilse")
    id = open_message(mara, "At the same instant 5210")
    open_message(ilse, "At the same instant 5210")
    answer_unseen(ilse, mara, "Answered first 5210")
    mara.keyboard.press("j")
    left = mara.get_by_test_id("left-as-it-was")
    expect(left).to_contain_text("Sam Instant was left as it was, not “Settled: junk”")
    expect(left).to_contain_text("a colleague or a rule answered")
    mara.unroute_all()
    left.get_by_role("button", name="Open Sam Instant").click()
    expect(mara.get_by_test_id("script")).to_contain_text("Answered first 5210")
    ilse.goto(f"/w/1/desk/{id}")
    expect(ilse.get_by_test_id("move")).to_have_text("Their move")


def test_who_stays_with_what_they_settle_over_a_fresh_answer_is_asked(enter: Enter, outside: Outside) -> None:
    """In a list over all moves the conversation stays open, and so does the question."""
    outside.say("At the same instant 5215", name="Sue Instant")
    mara, ilse = enter("mara"), enter("ilse")
    id = open_message(mara, "At the same instant 5215")
    mara.goto(f"/w/1/desk/{id}?move=any&words=5215")
    expect(mara.get_by_test_id("script")).to_contain_text("At the same instant 5215")
    open_message(ilse, "At the same instant 5215")
    answer_unseen(ilse, mara, "Answered first 5215")
    mara.keyboard.press("j")
    dialog = mara.get_by_role("dialog")
    expect(dialog).to_contain_text("a colleague or a rule answered")
    dialog.get_by_role("button", name="Leave it").click()
    mara.unroute_all()
    ilse.goto(f"/w/1/desk/{id}")
    expect(ilse.get_by_test_id("move")).to_have_text("Their move")


def test_who_comes_second_is_told_of_the_first(enter: Enter, demo: Demo) -> None:
    mara, noor = enter("mara", "/w/2/outgoing"), enter("noor", "/w/2/outgoing")
    for page in (mara, noor):
        expect(page.get_by_test_id("waiting")).to_be_visible()
    asked = []
    for page, reason in ((noor, "First reason"), (mara, "Second reason")):
        csrf = page.request.get("/api/session").json()["csrf"]
        asked.append(
            page.request.put("/api/workspaces/2/outgoing/hold", data={"reason": reason}, headers={"X-CSRF-Token": csrf})
        )
        if page is mara:
            page.request.delete("/api/workspaces/2/outgoing/hold", headers={"X-CSRF-Token": csrf})
    assert [a.status for a in asked] == [204, 409]
    assert "Noor Haddad holds it already: First reason" in asked[1].json()["detail"]


def test_losing_a_right_while_writing_keeps_the_words_and_says_for_whom(
    enter: Enter, outside: Outside, demo: Demo
) -> None:
    outside.say("May I still? 5220", name="Per Mission")
    teo = enter("teo")
    open_message(teo, "May I still? 5220")
    teo.keyboard.press("r")
    teo.keyboard.type("Half of what I meant")

    def set_role(role: str) -> None:
        with demo.cluster.admin("sorta") as conn:
            conn.execute(
                "update membership set role = %s from member m where m.id = member_id and m.name = 'Teo Nakamura' and workspace_id = 1",
                (role,),
            )
            conn.execute('select pg_notify(\'sorta_live\', \'{"workspace": 1, "kind": "roles"}\')')
            conn.commit()

    set_role("observer")
    try:
        teo.reload()
        expect(teo.get_by_test_id("kept-words")).to_contain_text("Half of what I meant")
        expect(teo.get_by_test_id("kept-words")).to_contain_text("for you alone")
    finally:
        set_role("responder")
    with contextlib.suppress(httpx.HTTPError):
        teo.reload()
    expect(teo.get_by_test_id("composer")).to_have_value("Half of what I meant")


def test_the_list_is_there_before_what_it_opens_and_no_key_goes_astray(enter: Enter, outside: Outside) -> None:
    outside.say("Who comes late 5170", name="Late Part")
    page = enter("mara", "/w/1/account")
    held: list[Route] = []
    page.route("**/assets/opened-*.js", lambda route: held.append(route))
    page.goto("/w/1/desk?move=any&words=5170")
    row = page.locator("[data-conversation]").filter(has_text="Who comes late 5170")
    page.get_by_role("checkbox", name="Select Late Part").check()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Control+k")
    page.keyboard.type("ykj")
    expect(page.get_by_test_id("find")).to_have_count(0)
    assert len(held) == 1
    held[0].continue_()
    # What was typed meanwhile is what is looked for.
    expect(page.get_by_test_id("find")).to_be_focused()
    expect(page.get_by_test_id("find")).to_have_value("ykj")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("find")).to_have_count(0)
    expect(row).to_be_visible()
    expect(page.get_by_test_id("undo-line")).to_have_count(0)
    page.unroute("**/assets/opened-*.js")

    page.route("**/assets/opened-*.js", lambda route: route.abort())
    page.goto("/w/1/desk?move=any&words=5170")
    # Fetched unasked it does not come: nobody needs it yet, and the page stays as it is.
    expect(row).to_be_visible()
    page.evaluate("window.stays = true")
    page.wait_for_timeout(3500)
    assert page.evaluate("window.stays") is True
    expect(page.get_by_role("alert").filter(has_text="A part of Sorta does not load")).to_have_count(0)
    # Without a line nothing is loaded anew: what is on the page stays.
    page.context.set_offline(True)
    row.click()
    expect(page.get_by_role("alert").filter(has_text="This device is offline. What you wrote is kept.")).to_be_visible()
    assert page.evaluate("window.stays") is True
    page.context.set_offline(False)
    page.goto("/w/1/desk?move=any&words=5170")
    row.click()
    # Once the page is loaded anew by itself; then it says what is missing, and the list is there all the same.
    expect(page.get_by_role("alert").filter(has_text="A part of Sorta does not load")).to_be_visible()
    expect(row).to_be_visible()
    page.unroute("**/assets/opened-*.js")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_test_id("script")).to_contain_text("Who comes late 5170")
    id = int(re.search(r"/desk/(\d+)", page.url)[1])
    assert page.request.get(f"/api/workspaces/1/conversations/{id}").json()["conversation"]["move"] == "unsorted"


def test_the_top_band_stays_on_the_screen_whatever_place_is_open(enter: Enter) -> None:
    page = enter("mara", "/w/1/outgoing")
    for place in ("outgoing", "cases", "draws"):
        page.goto(f"/w/1/{place}")
        expect(page.get_by_test_id("bell")).to_be_visible()
        over = page.locator("header").first.evaluate("band => band.scrollWidth - band.clientWidth")
        assert over <= 0, place
