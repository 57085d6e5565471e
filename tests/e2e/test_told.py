"""What one is told, and what colleagues have left, before one answers."""

import re

from playwright.sync_api import expect

from tests.e2e.conftest import Enter, Outside, open_message
from tests.e2e.test_screens import check


def test_colleagues_are_named_answered_and_told_and_what_they_left_stands_above_the_answer(
    enter: Enter, outside: Outside
) -> None:
    outside.say("Where do I park a bus, 8200", name="Bus Driver")
    mara = enter("mara", "/w/1/desk?move=unsorted")
    id = open_message(mara, "Where do I park a bus, 8200")
    expect(mara.get_by_test_id("left")).to_have_count(0)
    mara.keyboard.press("n")
    field = mara.get_by_test_id("composer")
    expect(field).to_be_focused()
    mara.keyboard.type("See the map, @no")
    offered = mara.get_by_role("listbox", name="Colleagues").get_by_role("option")
    expect(offered).to_have_text(["Noor Haddad"])
    expect(field).to_have_attribute("aria-activedescendant", re.compile("mentions-"))
    check(mara, "answer")
    # Escape closes the list and nothing else; the at sign's letters stay.
    mara.keyboard.press("Escape")
    expect(offered).to_have_count(0)
    expect(field).to_be_focused()
    mara.keyboard.type("o")
    mara.keyboard.press("Enter")
    expect(field).to_have_value("See the map, @Noor Haddad ")
    mara.keyboard.type("knows")
    mara.keyboard.press("Control+Enter")
    expect(mara.get_by_test_id("left")).to_contain_text("See the map, @Noor Haddad knows")

    noor = enter("noor", "/w/1/desk?move=settled")
    expect(noor).to_have_title(re.compile(r"Desk, Sorta$"))
    noor.get_by_test_id("bell").click()
    group = noor.get_by_test_id("alert-group").filter(has_text="Bus Driver")
    expect(group).to_contain_text("named you in a note on Bus Driver")
    unread = noor.get_by_test_id("bell").get_attribute("aria-label")
    # Looking at the list is not reading: it stays unread until one goes there, or says so.
    noor.keyboard.press("Escape")
    expect(noor.get_by_test_id("bell")).to_have_attribute("aria-label", str(unread))
    noor.get_by_test_id("bell").click()
    group.get_by_role("link").click()
    noor.wait_for_url(re.compile(rf"/desk/{id}"))
    expect(noor.get_by_role("dialog")).to_have_count(0)
    left = noor.get_by_test_id("left")
    expect(left).to_contain_text(re.compile(r"1 note\s*Mara, \d\d:\d\d: See the map"))
    # On a phone, too, and from there to the margin and back into a note that names her.
    noor.set_viewport_size({"width": 390, "height": 800})
    expect(left).to_be_visible()
    left.click()
    expect(noor.get_by_test_id("team-note")).to_be_visible()
    noor.get_by_test_id("answer-note").click()
    expect(noor.get_by_test_id("composer")).to_have_value("@Mara Okafor ")
    noor.get_by_test_id("composer").press_sequentially("behind the aquarium")
    noor.get_by_test_id("composer").press("Control+Enter")
    expect(left).to_contain_text("2 notes")

    # What comes about one conversation stands together; all of it is read at once.
    mara.get_by_test_id("bell").click()
    driver = mara.get_by_test_id("alert-group").filter(has_text="Bus Driver")
    expect(driver).to_contain_text("behind the aquarium")
    expect(driver).to_contain_text("Unread")
    mara.get_by_test_id("all-read").click()
    # Of another matter something new may have come by then.
    expect(driver).not_to_contain_text("Unread")
    mara.keyboard.press("Escape")
    expect(mara.get_by_test_id("bell")).to_be_focused()


def test_the_tab_counts_what_the_member_wants_counted(enter: Enter, outside: Outside) -> None:
    outside.say("Count this one, 8210", name="Count Me")
    page = enter("sam", "/w/1/desk?move=unsorted")
    expect(page).to_have_title(re.compile(r"^\(\d+\) Desk, Sorta$"))
    everybodys = page.title()
    page.get_by_role("button", name="Sam Whitlock").click()
    page.get_by_role("menuitem", name="Your screen").click()
    page.get_by_label("For me", exact=True).check()
    expect(page).not_to_have_title(everybodys)
    check(page)
    page.keyboard.press("Escape")
    own = int((re.match(r"\((\d+)\)", page.title()) or ["0", "0"])[1])
    open_message(page, "Count this one, 8210")
    page.keyboard.press("t")
    expect(page).to_have_title(f"({own + 1}) Desk, Sorta")
    page.get_by_role("button", name="Sam Whitlock").click()
    page.get_by_role("menuitem", name="Your screen").click()
    page.get_by_label("For everybody", exact=True).check()
    expect(page).to_have_title(re.compile(r"^\(\d+\)"))
    page.goto("/me")
    expect(page).to_have_title("How you sign in, Sorta")


def test_a_browser_that_lets_no_notification_through_says_so(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk")
    page.evaluate("Notification.requestPermission = () => Promise.resolve('denied')")
    page.get_by_role("button", name="Mara Okafor").click()
    page.get_by_role("menuitem", name="Notify me").click()
    expect(page.get_by_test_id("notifications-blocked")).to_contain_text("site settings")
    page.get_by_test_id("notifications-blocked").get_by_role("button").click()
    expect(page.get_by_test_id("notifications-blocked")).to_have_count(0)
