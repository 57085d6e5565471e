"""How each member has the screen, and what it says to who cannot see it."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Enter, Outside
from tests.e2e.test_screens import check

SEEN = """[...document.querySelectorAll('[data-conversation]')].filter((row) => {
  const box = row.getBoundingClientRect()
  return box.top >= 0 && box.bottom <= innerHeight
}).length"""


def keep_screen(page: Page) -> Callable[[], None]:
    """How the member has the screen, to be put back for whoever comes after."""
    session = page.request.get("/api/session").json()

    def put_back() -> None:
        headers = {"X-CSRF-Token": session["csrf"]}
        assert page.request.put("/api/session/screen", headers=headers, data=session["screen"]).status == 204

    return put_back


def choose(page: Page, *labels: str) -> None:
    page.get_by_role("button", name="Mara Okafor").click()
    page.get_by_role("menuitem", name="Your screen").click()
    for label in labels:
        page.get_by_label(label, exact=True).check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_the_screen_is_as_the_member_wants_it_on_every_device(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk?move=settled")
    back = keep_screen(page)
    try:
        expect(page.locator("[data-conversation]").first).to_be_visible()
        page.wait_for_timeout(500)
        assert page.evaluate(SEEN) >= 9
        high = page.locator("[data-conversation]").first.bounding_box()
        choose(page, "One line, more rows", "Dark")
        page.get_by_test_id("fold-strip").click()
        expect(page.locator("[data-slot]")).to_have_count(0)
        page.wait_for_timeout(500)
        assert page.evaluate(SEEN) >= 14
        elsewhere = enter("mara", "/w/1/desk?move=settled")
        row = elsewhere.locator("[data-conversation]").first
        expect(row).to_be_visible()
        expect(elsewhere.locator("body")).to_have_css("background-color", "rgb(26, 28, 24)")
        expect(elsewhere.get_by_test_id("fold-strip")).to_have_attribute("aria-expanded", "false")
        low = row.bounding_box()
        assert high
        assert low
        assert low["height"] < high["height"]
        # Another member of the same team has it as before.
        expect(enter("teo").locator("body")).to_have_css("background-color", "rgb(244, 241, 234)")
        choose(page, "150 %")
        expect(page.locator("html")).to_have_css("font-size", "24px")
        check(page, "queue")
        large = page.locator("[data-conversation]").first.bounding_box()
        assert large
        assert large["height"] > low["height"] * 1.3
    finally:
        back()


def test_what_cannot_be_kept_is_said_and_is_as_before(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk")
    expect(page.get_by_test_id("horizon")).to_be_visible()
    page.route("**/api/session/screen", lambda route: route.fulfill(status=503, json={"detail": "Not now."}))
    page.get_by_role("button", name="Mara Okafor").click()
    page.get_by_role("menuitem", name="Your screen").click()
    page.get_by_label("Dark", exact=True).click()
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("It is as it was before.")
    expect(page.get_by_label("As this device", exact=True)).to_be_checked()
    expect(page.locator("body")).to_have_css("background-color", "rgb(244, 241, 234)")


def test_walking_says_who_it_is_and_where_one_stands(enter: Enter, outside: Outside) -> None:
    for n in range(3):
        outside.say(f"Said aloud 8101 {n}", name=f"Aloud Person {n}", kind="private" if n == 1 else "visitor_post")
    page = enter("mara", "/w/1/desk?move=unsorted&words=8101&order=oldest")
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(3)
    said = page.get_by_test_id("announcer")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(said).to_have_text(
        re.compile(r"^Aloud Person 1, (low|normal|high|urgent), due in .*private message, unread, 2 of 3$")
    )
    expect(rows.nth(1)).to_be_focused()
    expect(rows.nth(1)).to_have_accessible_name(re.compile(r"^Aloud Person 1, .*nobody yet.*Said aloud 8101 1$"))
    item = rows.nth(1).locator("xpath=..")
    expect(item).to_have_attribute("aria-posinset", "2")
    expect(item).to_have_attribute("aria-setsize", "3")
    # The list is one stop for Tab; who comes back is on the row that is open.
    assert [row.get_attribute("tabindex") for row in rows.all()] == ["-1", "0", "-1"]
    # A walk while one writes elsewhere takes nobody's caret away.
    page.keyboard.press("d")
    page.keyboard.type("Hello")
    expect(page.get_by_test_id("composer")).to_be_focused()
    page.keyboard.press("Escape")
    expect(rows.nth(1)).to_be_focused()


def test_at_twice_the_size_nothing_is_cut_and_the_conversation_can_be_read(enter: Enter, outside: Outside) -> None:
    """WCAG 1.4.4 and 1.4.10: a window of 1280 by 800 at 200 %, and of 320 by 640."""
    outside.say("Read me at twice the size 8140", name="Twice Large")
    page = enter("mara", "/w/1/desk?move=unsorted&words=8140")
    page.locator("[data-conversation]").click()
    for width, height in ((640, 400), (320, 640)):
        page.set_viewport_size({"width": width, "height": height})
        said = page.get_by_test_id("script").get_by_text("Read me at twice the size 8140")
        expect(said).to_be_in_viewport()
        expect(page.get_by_role("button", name=re.compile("^Find"))).to_be_in_viewport(ratio=1)
        expect(page.get_by_test_id("bell")).to_be_in_viewport(ratio=1)
        expect(page.get_by_role("button", name="Mara Okafor")).to_be_in_viewport(ratio=1)
        field = page.get_by_test_id("composer")
        field.scroll_into_view_if_needed()
        field.fill("It can be written")
        send = page.get_by_role("button", name="Send publicly")
        send.scroll_into_view_if_needed()
        expect(send).to_be_in_viewport(ratio=0.9)
        field.fill("")
        page.get_by_test_id("script").evaluate("(el) => el.scrollIntoView({ block: 'start' })")


def test_a_first_visit_points_at_five_things_and_never_again(enter: Enter) -> None:
    page = enter("lise", "/w/1/desk?move=our_move")
    card = page.get_by_test_id("first-visit")
    expect(card.get_by_role("listitem")).to_have_count(5)
    check(page)
    # Each number stands at what it is about, on the screen.
    for n in "12345":
        mark = page.locator("span.pointer-events-none").get_by_text(n, exact=True)
        expect(mark).to_be_in_viewport(ratio=1)
    # It stops nobody: the list is walked as ever.
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("script")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_test_id("understood").click()
    expect(card).to_have_count(0)
    page.reload()
    expect(page.locator("[data-conversation]").first).to_be_visible()
    expect(page.get_by_text("Choose a conversation")).to_be_visible()
    expect(card).to_have_count(0)


def test_words_and_seldom_places_are_found_and_the_band_is_skipped(enter: Enter, outside: Outside) -> None:
    outside.say("What is my standing 8160", name="Standa Words")
    page = enter("mara", "/w/1/desk?move=unsorted&words=8160")
    page.locator("[data-conversation]").click()
    expect(page.get_by_test_id("trail")).to_be_visible()
    # By Tab from the top: past the band to what one came for.
    first = "document.querySelector('button, a[href], input, textarea, select').innerText"
    assert page.evaluate(first) == "To the list"
    page.get_by_role("button", name="To the list").focus()
    expect(page.get_by_role("button", name="To the list")).to_be_in_viewport()
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    expect(page.get_by_role("button", name="To the answer")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("composer")).to_be_focused()
    page.get_by_role("link", name="What due means").click()
    line = page.locator("[data-word=due]")
    expect(line).to_be_focused()
    expect(line).to_contain_text("counted in working hours")
    expect(page).to_have_title(re.compile("Words"))
    check(page)
    page.get_by_test_id("more-places").get_by_role("button").click()
    page.get_by_role("menuitem", name="Outgoing").click()
    expect(page).to_have_url(re.compile("/w/1/outgoing"))
    page.get_by_test_id("more-places").get_by_role("button", name="Outgoing").click()
    page.get_by_role("menuitem", name="Draws").click()
    expect(page).to_have_url(re.compile("/w/1/draws"))


def test_in_the_members_own_colours_marks_and_modes_are_told_apart(enter: Enter, outside: Outside) -> None:
    """Forced colours, as a high-contrast mode has them."""
    outside.say("In my own colours 8170", name="Forced Colours")
    page = enter("mara", "/w/1/desk?move=unsorted&words=8170")
    page.emulate_media(forced_colors="active")
    page.locator("[data-conversation]").click()
    expect(page.get_by_test_id("script")).to_contain_text("In my own colours 8170")
    page.keyboard.press("u")
    page.get_by_role("menuitem", name="Normal").click()
    notches = page.locator("[data-conversation] .w-3 > i.block")
    expect(notches).to_have_count(3)
    seen = notches.evaluate_all("(all) => all.map((i) => getComputedStyle(i).backgroundColor)")
    assert len(set(seen)) == 2
    assert seen.count(seen[1]) == 2
    radios = page.get_by_role("radio")
    borders = radios.evaluate_all("(all) => all.map((r) => getComputedStyle(r).borderTopColor)")
    assert borders.count(borders[0]) == 1
    frames = []
    for name in ("Public reply", "Private message", "Team note"):
        page.get_by_role("radio", name=name).click()
        frames.append(page.get_by_test_id("answer").evaluate("(e) => getComputedStyle(e).borderTopStyle"))
    assert frames == ["solid", "dashed", "dotted"]
