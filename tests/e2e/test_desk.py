"""Steps 2 to 6 and 9 of the first slice, in the real interface."""

import re
import time

import pytest
from playwright.sync_api import expect

from demo.run import PASSWORD, Demo
from tests.e2e.conftest import Enter, Outside, open_message
from tests.e2e.test_screens import check


def test_signing_in_and_out(demo: Demo, browser) -> None:
    page = browser.new_context(base_url=demo.address).new_page()
    page.goto("/w/1/desk?move=parked")
    expect(page.get_by_text(PASSWORD)).to_be_visible()
    page.get_by_label("E-mail address").fill("mara@brinewick.example")
    page.get_by_label("Password").fill("high-tide")
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("alert")).to_have_text("E-mail address and password do not belong together.")
    page.get_by_role("button", name="Mara Okafor").click()
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_test_id("queue")).to_be_visible()
    expect(page).to_have_url(f"{demo.address}/w/1/desk?move=parked")
    page.get_by_role("button", name="Mara Okafor").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page).to_have_url(re.compile("/sign-in"))
    page.goto("/w/1/desk")
    expect(page).to_have_url(re.compile("/sign-in"))


def test_from_a_comment_outside_to_an_answer_outside(enter: Enter, demo: Demo, outside: Outside) -> None:
    """Two browsers at the desk, one on the Outside's own page; each step within a second, nothing reloaded."""
    outside.say("Somebody was here before, 1000")
    mara, ilse = enter("mara", "/w/1/desk?move=unsorted"), enter("ilse", "/w/1/desk?move=unsorted")
    for page in (mara, ilse):
        expect(page.locator("[data-conversation]").first).to_be_visible()
    street = mara.context.browser.new_page()
    street.goto(demo.outside)
    street.get_by_role("button", name="Comment", exact=True).first.click()
    street.get_by_label("As").fill("Edda Holt")
    street.get_by_label("Words").fill("Do the jellyfish glow at night?")
    street.get_by_role("button", name="Say it").click()
    for page in (mara, ilse):
        expect(page.get_by_test_id("show-new")).to_have_text("1 new, show")
    mara.keyboard.press(".")
    mara.get_by_text("Do the jellyfish glow at night?").first.click()
    expect(mara.get_by_test_id("move")).to_have_text("Unsorted")
    id = int(re.search(r"/desk/(\d+)", mara.url)[1])
    ilse.goto(f"/w/1/desk/{id}")
    expect(ilse.get_by_test_id("present")).to_contain_text("Mara is reading")
    mara.keyboard.press("t")
    expect(ilse.get_by_test_id("trail")).to_contain_text("Mara took it")
    mara.keyboard.press("r")
    mara.keyboard.type("They do, a little. Come on a Thursday.")
    expect(ilse.get_by_test_id("present")).to_contain_text("Mara is writing")
    mara.keyboard.press("Control+Enter")
    expect(ilse.get_by_test_id("move")).to_have_text("Their move")
    expect(ilse.get_by_test_id("delivery")).to_contain_text("Sending")
    expect(ilse.get_by_test_id("delivery")).to_have_text("Delivered, public")
    answer = street.locator(".thing.us", has_text="They do, a little.")
    expect(answer).to_be_visible()
    thread = street.locator("article", has_text="Do the jellyfish glow at night?")
    expect(thread.locator(".thing.us", has_text="Come on a Thursday.")).to_have_count(1)
    street.close()


def test_a_shared_address_opens_the_conversation_in_its_list(enter: Enter, outside: Outside) -> None:
    outside.say("An address to share, 7781")
    mara = enter("mara")
    id = open_message(mara, "An address to share, 7781")
    ilse = enter("ilse", f"/w/1/desk/{id}")
    expect(ilse.get_by_test_id("script")).to_contain_text("An address to share, 7781")
    expect(ilse).to_have_url(re.compile("move=unsorted"))
    expect(ilse.locator(f"[data-conversation='{id}'][aria-current]")).to_be_visible()
    nobody = enter("mara", "/w/99/desk/1")
    expect(nobody.get_by_role("heading")).to_have_text("There is nothing at this address")


def test_every_act_by_its_key_and_undone(enter: Enter, outside: Outside) -> None:
    outside.say("Acts by key, 5512")
    page = enter("mara")
    id = open_message(page, "Acts by key, 5512")
    move = page.get_by_test_id("move")
    undo = page.get_by_test_id("undo-line")

    page.keyboard.press("k")
    expect(undo).to_contain_text("Kept as our move")
    expect(page).not_to_have_url(re.compile(rf"/desk/{id}\b"))  # sorted: the next one opens
    page.keyboard.press("z")
    expect(page).to_have_url(re.compile(rf"/desk/{id}\b"))
    expect(page.locator(f"[data-sheet='{id}']").get_by_test_id("move")).to_have_text("Unsorted")

    page.keyboard.press("g")
    page.get_by_label("A note with it").fill("You know the reef better.")
    page.get_by_test_id("give-to").fill("nak")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(undo).to_contain_text("Given to Teo")
    page.goto(f"/w/1/desk/{id}")
    expect(page.get_by_label("Team note").filter(has_text="Mara to Teo")).to_contain_text("You know the reef better.")
    expect(move).to_have_text("Our move")

    page.keyboard.press("u")
    page.get_by_role("menuitem", name="Urgent").click()
    expect(page.get_by_test_id("trail")).to_contain_text("Mara made it Urgent")

    page.keyboard.press("n")
    expect(page.get_by_test_id("readers")).to_have_text("Only we can read this")
    page.keyboard.type("Sam knows more about this.")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_label("Team note").filter(has_text="Sam knows more")).to_be_visible()

    page.keyboard.press("p")
    page.get_by_role("menuitem", name="Tomorrow").click()
    expect(undo).to_contain_text("Parked: tomorrow")
    page.keyboard.press("z")
    expect(page).to_have_url(re.compile(rf"/desk/{id}\b"))
    expect(page.get_by_test_id("trail")).to_contain_text("Mara took that back")

    page.keyboard.press("s")
    page.get_by_role("menuitem", name="As no reply needed").click()
    expect(undo).to_contain_text("Settled: no reply needed")
    page.goto(f"/w/1/desk/{id}")
    expect(move).to_have_text("Settled: no reply needed")
    expect(page.get_by_test_id("trail")).to_contain_text("Mara settled it")


def test_an_exact_time_for_parking_must_lie_ahead(enter: Enter, outside: Outside) -> None:
    outside.say("Park me exactly, 9090")
    page = enter("mara")
    open_message(page, "Park me exactly, 9090")
    page.keyboard.press("p")
    page.get_by_role("menuitem", name="Until an exact time").click()
    page.get_by_label("Day and time").fill("2020-01-01T10:00")
    page.get_by_role("button", name="Park", exact=True).last.click()
    expect(page.get_by_role("alert")).to_have_text("Choose a time that lies ahead.")
    page.get_by_label("Day and time").fill(time.strftime("%Y-%m-%dT10:00", time.localtime(time.time() + 5 * 86400)))
    page.get_by_role("button", name="Park", exact=True).last.click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Parked")


def test_arrows_walk_and_news_never_shifts_the_row(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/desk?move=unsorted")
    row = page.locator("[data-conversation][aria-current]")
    expect(page.locator("[data-conversation]").first).to_be_visible()
    for _ in range(3):
        page.keyboard.press("ArrowDown")
    expect(row).to_have_count(1)
    page.keyboard.press("ArrowUp")
    page.wait_for_timeout(300)
    id, place = row.get_attribute("data-conversation"), row.bounding_box()
    for n in range(3):
        outside.say(f"News {n} that must wait", name=f"Newcomer {n}")
    expect(page.get_by_test_id("show-new")).to_have_text("3 new, show")
    bar = page.get_by_test_id("show-new").bounding_box()
    assert row.get_attribute("data-conversation") == id
    assert abs(row.bounding_box()["y"] - place["y"]) <= bar["height"] + 1
    page.get_by_test_id("show-new").click()
    expect(page.get_by_test_id("show-new")).to_have_count(0)
    expect(page.locator("[data-conversation]", has_text="that must wait").first).to_be_visible()
    page.keyboard.press("Escape")
    expect(row).to_have_count(0)


def test_the_overlap_guard_keeps_the_text_and_shows_what_is_new(enter: Enter, outside: Outside) -> None:
    first = outside.say("Is the pool closed, 3141?", name="Rolf Aune")
    mara = enter("mara")
    open_message(mara, "Is the pool closed, 3141?")
    mara.keyboard.press("r")
    mara.keyboard.type("Yes, until tomorrow.")
    outside.say("Never mind, I see the sign", name="Rolf Aune", kind="reply", parent=first["object"]["id"])
    expect(mara.get_by_test_id("moved-on")).to_be_visible()
    expect(mara.get_by_text("New since you began to write")).to_be_visible()
    mara.keyboard.press("Control+Enter")
    expect(mara.get_by_test_id("send-problem")).to_contain_text("moved on while you were writing")
    expect(mara.get_by_test_id("composer")).to_have_value("Yes, until tomorrow.")
    mara.get_by_role("button", name="I have read it").click()
    mara.get_by_test_id("composer").press("Control+Enter")
    expect(mara.get_by_test_id("undo-line")).to_contain_text("Reply sent")


def test_a_reply_is_taken_back_with_its_words(enter: Enter, outside: Outside) -> None:
    outside.say("Undo my answer, 2718")
    page = enter("mara")
    id = open_message(page, "Undo my answer, 2718")
    page.keyboard.press("r")
    page.keyboard.type("Sent too early")
    page.keyboard.press("Control+Enter")
    page.get_by_test_id("undo-line").get_by_role("button", name="Undo").click()
    expect(page).to_have_url(re.compile(rf"/desk/{id}\b"))
    expect(page.get_by_test_id("composer")).to_have_value("Sent too early")
    expect(page.get_by_text("Taken back before it went out")).to_be_visible()
    page.wait_for_timeout(3500)
    assert "Sent too early" not in outside.list_texts()


def test_modes_obey_the_network_and_say_why(enter: Enter, outside: Outside) -> None:
    outside.say("A mention, 1618", network="quillet", kind="mention", name="Tess Tide")
    page = enter("teo")
    open_message(page, "A mention, 1618")
    private = page.get_by_role("radio", name="Private message")
    expect(private).to_have_attribute("aria-disabled", "true")
    expect(private).to_have_attribute("title", re.compile("they have to write first"))
    expect(page.get_by_title("The network wants the handle in front")).to_have_text("@tess.tide")
    page.get_by_test_id("composer").fill("x" * 300)
    expect(page.get_by_text("311 of 300")).to_be_visible()
    expect(page.get_by_test_id("send")).to_be_disabled()
    page.get_by_test_id("composer").fill("Both, at 11 and at 3.")
    page.get_by_test_id("composer").press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    for _ in range(40):
        if "@tess.tide Both, at 11 and at 3." in outside.list_texts("quillet"):
            return
        page.wait_for_timeout(200)
    pytest.fail("the answer never stood on the network")


def test_a_draft_survives_a_reload(enter: Enter, outside: Outside) -> None:
    outside.say("Draft here, 8080")
    page = enter("mara")
    open_message(page, "Draft here, 8080")
    page.keyboard.press("d")
    page.keyboard.type("Half a sentence")
    with page.expect_response(lambda r: r.url.endswith("/draft") and r.request.method == "PUT"):
        pass
    page.reload()
    expect(page.get_by_test_id("composer")).to_have_value("Half a sentence")
    expect(page.get_by_role("radio", name="Private message")).to_have_attribute("aria-checked", "true")


def test_what_a_role_may_not_do_is_not_offered(enter: Enter, outside: Outside) -> None:
    outside.say("For lise to look at")
    page = enter("lise")
    open_message(page, "For lise to look at")
    expect(page.get_by_role("radio")).to_have_count(0)
    expect(page.get_by_text("sees everything and changes nothing")).to_be_visible()


def test_find_or_do_reaches_people_messages_places_and_acts(enter: Enter, outside: Outside) -> None:
    outside.say("Find this needle, 4711", name="Needle Nilsen")
    page = enter("noor")
    expect(page.get_by_role("button", name="Find or do")).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("needle nils")
    expect(page.get_by_role("option").first).to_contain_text("Needle Nilsen")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Needle Nilsen")).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("needle")
    page.get_by_test_id("find-help").click()
    expect(page.get_by_test_id("find")).to_have_value("needle")
    expect(page.get_by_text("one after the other")).to_be_visible()
    check(page)
    page.get_by_test_id("find").fill('"this needle" 47* -haystack')
    found = page.get_by_role("option").filter(has_text="Find this needle, 4711")
    expect(found.locator("mark")).to_have_text(["this needle", "4711"])
    page.get_by_role("option", name="These as a list").click()
    expect(page).to_have_url(re.compile("move=any"))
    expect(page.locator("[data-conversation]")).to_have_count(1)
    page.locator("[data-conversation]").click()
    expect(page.get_by_test_id("script")).to_contain_text("Find this needle, 4711")
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("keep it")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Kept as our move")
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("zzzzqq")
    expect(page.get_by_text("Nothing here has all of these words.")).to_be_visible()
    page.get_by_test_id("find").fill("setup")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Setup")).to_be_visible()


def test_tabs_of_one_browser_share_one_stream(enter: Enter, outside: Outside) -> None:
    first = enter("mara")
    with first.expect_request(re.compile(r"/live(\?|$)")):
        first.goto("/w/1/desk?move=unsorted")
    asked: list[str] = []
    second = first.context.new_page()
    second.on("request", lambda r: asked.append(r.url) if "/live" in r.url else None)
    second.goto("/w/1/desk?move=unsorted")
    expect(second.locator("[data-conversation]").first).to_be_visible()
    outside.say("To both tabs, 6006")
    for page in (first, second):
        expect(page.get_by_test_id("show-new")).to_be_visible()
    assert asked == []
    with second.expect_response(re.compile(r"/live(\?|$)")):
        first.close()
    second.wait_for_timeout(500)
    outside.say("To the tab that is left, 6007", name="Somebody Else")
    expect(second.get_by_test_id("show-new")).to_have_text("2 new, show")
    assert len(asked) == 1


def test_walking_on_and_back_shows_what_was_typed_last(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk?move=unsorted")
    page.locator("[data-conversation]").first.wait_for()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("composer")).to_be_visible()
    for words in ("First words", "Second words"):
        page.keyboard.press("n")
        page.get_by_test_id("composer").fill(words)
        page.keyboard.press("Escape")
        first = page.url
        page.keyboard.press("ArrowDown")
        expect(page).not_to_have_url(first)
        expect(page.get_by_test_id("composer")).to_have_value("")
        page.keyboard.press("ArrowUp")
        expect(page).to_have_url(first)
        expect(page.get_by_test_id("composer")).to_have_value(words)
    page.get_by_test_id("composer").fill("")
