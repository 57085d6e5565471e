"""The desk sorts itself and says why, in the real interface: rules written, tried, at work, looked at; the horizon,
the team, alerts, holding, holidays from a file."""

import contextlib
import json
import re
import time

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Enter, Outside, open_message
from tests.e2e.test_screens import check


def write_rule(page: Page, name: str, words: str, *actions: str, offer: bool = False) -> None:
    """A new rule that asks for words; the actions are added as they first come, but an answer goes out unless it is an `offer`."""
    page.goto("/w/1/rules")
    page.get_by_test_id("new-rule").click()
    page.get_by_test_id("rule-name").fill(name)
    page.get_by_test_id("add-condition").get_by_role("button").click()
    page.get_by_role("menuitem", name="Words").click()
    page.get_by_test_id("rule-words").fill(words)
    for action in actions:
        page.get_by_test_id("add-action").get_by_role("button").click()
        page.get_by_role("menuitem", name=action, exact=True).click()
        if action == "Answer":
            expect(page.get_by_test_id("rule-offer")).to_be_checked()
            page.get_by_test_id("rule-offer").set_checked(offer)


def save(page: Page, *, on: bool = True) -> None:
    if on:
        page.get_by_test_id("rule-on").check()
    page.get_by_test_id("save-rule").click()
    expect(page.get_by_test_id("rule-editor")).to_have_count(0)


def remove(page: Page, name: str) -> None:
    page.goto("/w/1/rules")
    row = page.locator("[data-rule]").filter(has_text=name)
    row.get_by_role("button", name=re.compile("^More for")).click()
    page.get_by_role("menuitem", name="Remove it").click()
    page.get_by_test_id("confirm-remove").click()
    expect(row).to_have_count(0)


def test_a_rule_is_written_as_a_sentence_tried_and_then_sorts_and_says_why(enter: Enter, outside: Outside) -> None:
    outside.say("The blorple is leaking again", name="Early Bird")
    page = enter("mara")
    write_rule(page, "Leaks", "leak*, cut on", "Set the priority", "Give it to somebody", "Answer", "Alert members")
    page.get_by_label("To whom").select_option(label="Visitor care")
    page.get_by_test_id("rule-reply").fill("Thank you {first name}, we are on our way.")
    page.locator("[data-action=alert]").get_by_role("button", name=re.compile("^Members")).click()
    page.get_by_role("listbox").get_by_role("option", name="Noor Haddad").click()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("rule-sentence")).to_have_text(
        "When anything arrives on any account and it has leak* or cut on, make it Urgent, give it to Visitor care, "
        "acknowledge with “Thank you {first name}, we are on our way.” and alert Noor."
    )
    page.get_by_test_id("try-rule").click()
    trial = page.get_by_test_id("trial")
    expect(trial).to_contain_text("it would have met. Nothing has been changed.")
    expect(trial.locator("mark", has_text="leaking").first).to_be_visible()
    expect(trial.get_by_role("row", name=re.compile("^Urgent"))).to_be_visible()
    save(page)
    outside.say("A pipe LEAKED on my shoe, 4711", name="Wilma Wet")
    open_message(page, "A pipe LEAKED on my shoe, 4711")
    expect(page.get_by_test_id("move")).to_have_text("Our move")
    why = page.get_by_test_id("why")
    expect(why.locator("[data-why=priority]")).to_contain_text("Urgent")
    expect(why.locator("[data-why=priority]")).to_contain_text("by rule: Leaks")
    expect(why.locator("[data-why=priority]")).to_contain_text("“LEAKED”")
    expect(why.locator("[data-why=owner]")).to_contain_text("Visitor care: lightest load")
    expect(page.get_by_test_id("by-rule")).to_contain_text("Answered by the rule “Leaks”")
    expect(page.get_by_test_id("delivery")).to_have_text("Delivered, public")
    assert outside.list_texts().count("Thank you Wilma, we are on our way.") == 1
    noor = enter("noor")
    expect(noor.get_by_test_id("bell")).to_have_attribute("aria-label", re.compile(r"\d+ alerts?"))
    noor.get_by_test_id("bell").click()
    expect(noor.get_by_test_id("alerts")).to_contain_text("Leaks: Wilma Wet, “A pipe LEAKED on my shoe, 4711”")
    for _ in range(40):
        letters = page.request.get(f"{outside.address}/control/mail").json()
        if any("4711" in letter["subject"] for letter in letters):
            break
        page.wait_for_timeout(500)
    (letter,) = [m for m in letters if "4711" in m["subject"]]
    assert letter["to"] == "noor@brinewick.example"
    assert letter["auto_submitted"] == "auto-generated"
    why.locator("[data-why=priority]").get_by_role("link").click()
    expect(page.locator("[data-rule]").filter(has_text="Leaks").get_by_role("button", pressed=True)).to_be_visible()
    remove(page, "Leaks")


def test_each_is_told_as_they_want_here_by_mail_and_by_text_message(enter: Enter, outside: Outside) -> None:
    """The lead sets what applies; a colleague gives a number, says the code, and hears of what is given to them on their phone; and
    notes name people."""
    noor = enter("noor", "/w/1/setup#alerts-title")
    row = noor.get_by_test_id("alert-defaults").locator("[data-occasion=given]")
    expect(row.get_by_role("checkbox")).to_have_count(4)
    row.get_by_role("checkbox", name="by text message").check()
    expect(noor.get_by_test_id("alert-defaults").get_by_role("alert")).to_have_count(0)
    check(noor, "alert-defaults")
    ilse = enter("ilse")
    ilse.get_by_test_id("bell").click()
    ilse.get_by_role("button", name="How you want to be told").click()
    matrix = ilse.get_by_test_id("alert-matrix")
    expect(matrix.get_by_role("columnheader", name="By text message")).to_have_count(0)
    ilse.get_by_test_id("phone-number").fill("12345678")
    ilse.get_by_role("button", name="Send a code there").click()
    expect(ilse.get_by_test_id("phone").get_by_role("alert")).to_contain_text("with its country")
    ilse.get_by_test_id("phone-number").fill("+45 87 65 43 21")
    ilse.get_by_role("button", name="Send a code there").click()
    expect(ilse.get_by_test_id("phone-code")).to_be_visible()
    ilse.get_by_test_id("phone-code").fill(outside.list_text_messages()[0]["text"].split(" ")[0])
    ilse.get_by_role("button", name="That is it").click()
    expect(ilse.get_by_test_id("phone")).to_contain_text("+4587654321")
    given = matrix.locator("[data-occasion=given]")
    expect(given.get_by_role("checkbox", name="by text message")).to_be_checked()
    matrix.locator("[data-occasion=late]").get_by_role("checkbox", name="by mail").uncheck()
    expect(ilse.get_by_test_id("forget-choices")).to_be_visible()
    ilse.get_by_label("Quiet from").fill("23:58")
    ilse.get_by_label("Quiet until").fill("23:59")
    expect(ilse.get_by_role("button", name="No quiet hours")).to_be_visible()
    ilse.get_by_test_id("watch-words").fill("ring me, call me")
    ilse.get_by_role("button", name="Tell me").click()
    expect(ilse.get_by_test_id("watch")).to_contain_text("anything with “ring me” or “call me”")
    check(ilse)
    ilse.get_by_test_id("forget-choices").click()
    expect(matrix.locator("[data-occasion=late]").get_by_role("checkbox", name="by mail")).to_be_checked()
    ilse.get_by_role("button", name="Close").click()
    outside.say("Somebody has to ring me, 8118", name="Tova Text")
    mara = enter("mara")
    open_message(mara, "Somebody has to ring me, 8118")
    mara.keyboard.press("n")
    mara.keyboard.type("@Noor, this is the school from Tuesday")
    mara.keyboard.press("Control+Enter")
    expect(mara.get_by_label("Team note").filter(has_text="the school from Tuesday")).to_be_visible()
    mara.keyboard.press("g")
    expect(mara.get_by_role("dialog").get_by_role("heading")).to_be_visible()
    mara.keyboard.type("Ilse")
    mara.keyboard.press("Enter")
    expect(mara.get_by_role("dialog")).to_have_count(0)
    for _ in range(60):
        texts = [t for t in outside.list_text_messages() if "Tova Text" in t["text"]]
        if texts:
            break
        mara.wait_for_timeout(500)
    assert [t["to"] for t in texts] == ["+4587654321"]
    ilse.get_by_test_id("bell").click()
    expect(ilse.get_by_test_id("alerts")).to_contain_text("gave you Tova Text")
    expect(ilse.get_by_test_id("alerts")).to_contain_text("Tova Text, “Somebody has to ring me, 8118”")
    noor.get_by_test_id("bell").click()
    expect(noor.get_by_test_id("alerts")).to_contain_text("named you in a note on Tova Text: @Noor, this is the school")


def test_what_a_rule_offers_is_sent_with_one_key_and_never_over_words_that_stand_there(
    enter: Enter, outside: Outside
) -> None:
    page = enter("mara")
    write_rule(page, "Puddles", "puddle*", "Answer", offer=True)
    page.get_by_test_id("rule-reply").fill("Sorry for the puddle, {first name}.")
    expect(page.get_by_test_id("rule-sentence")).to_contain_text("offer the answer “Sorry for the puddle")
    save(page)
    outside.say("A puddle by the door, 5150", name="Petra Pfau")
    open_message(page, "A puddle by the door, 5150")
    offer = page.get_by_test_id("offer")
    expect(offer).to_contain_text("The rule “Puddles” offers this")
    assert not any("Sorry for the puddle" in text for text in outside.list_texts())
    page.get_by_test_id("answer").get_by_role("textbox").first.fill("My own words")
    page.keyboard.press("Escape")
    page.keyboard.press("Shift+S")
    box = page.get_by_test_id("answer").get_by_role("textbox").first
    expect(box).to_have_value(re.compile("^Sorry for the puddle, Petra.\n\nMy own words$"))
    box.fill("")
    page.keyboard.press("Escape")
    page.keyboard.press("Shift+S")
    # The desk goes on to the next; this one is theirs now.
    expect(offer).to_have_count(0)
    for _ in range(40):
        if any("Sorry for the puddle, Petra." in text for text in outside.list_texts()):
            break
        page.wait_for_timeout(500)
    assert sum("Sorry for the puddle, Petra." in text for text in outside.list_texts()) == 1
    remove(page, "Puddles")


def test_a_rule_answers_with_a_saved_reply(enter: Enter, outside: Outside) -> None:
    page = enter("mara")
    write_rule(page, "Boots", "wellies", "Answer")
    page.get_by_test_id("rule-saved").select_option(label="Quiet hours")
    expect(page.get_by_test_id("rule-sentence")).to_contain_text("acknowledge with the saved reply “Quiet hours”")
    save(page)
    outside.say("Are wellies needed, 8104", name="Wim Wellington")
    open_message(page, "Are wellies needed, 8104")
    expect(page.get_by_test_id("by-rule")).to_contain_text("Answered by the rule “Boots”")
    expect(page.get_by_test_id("script")).to_contain_text("The quietest hours are weekdays after 14:30.")
    outside.say("And wellies for 8105?", name="Wim Wellington")
    open_message(page, "And wellies for 8105?")
    told = "The rule “Boots” did not answer: they had an automatic answer within a day."
    expect(page.get_by_test_id("not-done")).to_have_text(told)
    remove(page, "Boots")


def test_a_refused_rule_says_what_is_wrong_and_keeps_what_was_written(enter: Enter, outside: Outside) -> None:
    page = enter("mara")
    write_rule(page, "Half a rule", "?!", "Give it to somebody")
    page.get_by_test_id("save-rule").click()
    expect(page.get_by_test_id("rule-problem")).to_contain_text("Say to whom")
    page.get_by_label("To whom").select_option(label="Teo Nakamura")
    page.get_by_test_id("save-rule").click()
    expect(page.get_by_test_id("rule-problem")).to_contain_text("has no letters or digits to look for")
    page.get_by_test_id("rule-words").fill("whatever")
    save(page, on=False)
    remove(page, "Half a rule")


def test_rules_are_moved_switched_copied_and_taken_to_a_file(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/rules")
    rules = page.locator("[data-rule]")
    expect(rules.nth(6)).to_be_visible()
    count = rules.count()
    first = rules.first.get_attribute("data-rule")
    page.get_by_role("button", name=re.compile("^Rule 1, ")).focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(rules.nth(1)).to_have_attribute("data-rule", first or "")
    rules.nth(1).drag_to(rules.first)
    expect(rules.first).to_have_attribute("data-rule", first or "")
    page.get_by_role("switch", name=re.compile("^Rule 7 ")).click()
    expect(page.get_by_role("switch", name="Rule 7 is switched on")).to_be_visible()
    page.get_by_role("switch", name=re.compile("^Rule 7 ")).click()
    expect(page.get_by_role("switch", name="Rule 7 is switched off")).to_be_visible()
    rules.nth(6).get_by_role("button", name=re.compile("^More for")).click()
    page.get_by_role("menuitem", name="Its versions").click()
    expect(page.get_by_role("dialog")).to_contain_text("Version 3, Mara")
    page.keyboard.press("Escape")
    with page.expect_download() as download:
        page.get_by_role("button", name="Export").click()
    file = json.loads(download.value.path().read_text())
    assert len(file["rules"]) == count
    rules.nth(3).get_by_role("button", name=re.compile("^More for")).click()
    page.get_by_role("menuitem", name="Copy it").click()
    expect(rules).to_have_count(count + 1)
    expect(page.get_by_text("Friends named under a picture, copy")).to_be_visible()
    remove(page, "Friends named under a picture, copy")
    file["rules"] = [{**file["rules"][0], "name": "From a file", "on": False}]
    page.get_by_test_id("import-rules").set_input_files(
        {"name": "rules.json", "mimeType": "application/json", "buffer": json.dumps(file).encode()}
    )
    expect(page.get_by_text("1 rule was added at the bottom, switched off")).to_be_visible()
    remove(page, "From a file")
    page.get_by_test_id("import-rules").set_input_files(
        {"name": "x.json", "mimeType": "application/json", "buffer": b"no"}
    )
    expect(page.get_by_role("alert")).to_have_text("This file is not JSON.")
    lise = enter("lise", "/w/1/rules")
    expect(lise.locator("[data-rule]").first).to_be_visible()
    expect(lise.get_by_test_id("new-rule")).to_have_count(0)


def test_what_a_rule_hid_is_shown_again_in_the_morning_review(enter: Enter, outside: Outside) -> None:
    page = enter("mara")
    write_rule(page, "Naughty words", "flibbert", "Hide it")
    save(page)
    said = outside.say("You flibbert, 5150", name="Rude Roger")["object"]["id"]

    def is_hidden() -> bool:
        return next(t for t in outside.control_state()["things"] if t["id"] == said).get("hidden", False)

    page.goto("/w/1/rules/review")
    item = page.get_by_test_id("review-item").filter(has_text="You flibbert, 5150")
    expect(item).to_contain_text("because of “flibbert”")
    for _ in range(40):
        if is_hidden():
            break
        page.wait_for_timeout(250)
    page.reload()
    item.get_by_role("button", name="Show it again").click()
    expect(item).to_have_count(0)
    for _ in range(60):
        if not is_hidden():
            break
        page.wait_for_timeout(250)
    assert not is_hidden()
    # By keys, with the next at once, and taken back.
    for n in (1, 2):
        outside.say(f"You flibbert again, 515{n}", name=f"Rude Rita {n}")
    items = page.get_by_test_id("review-item").filter(has_text="You flibbert again")
    for _ in range(20):
        page.reload()
        expect(page.get_by_test_id("review")).to_be_visible()
        page.wait_for_timeout(500)
        if items.count() == 2:
            break
    expect(items).to_have_count(2)
    page.keyboard.press("ArrowDown")
    expect(page.locator("[data-item]:focus")).to_have_count(1)
    while "flibbert again" not in page.locator("[data-item]:focus").inner_text():
        page.keyboard.press("ArrowDown")
    page.keyboard.press("k")
    expect(items).to_have_count(1)
    expect(page.get_by_test_id("review-left")).to_contain_text("Rude Rita")
    expect(page.locator("[data-item]:focus")).to_have_count(1)
    # What the server never heard can be asked for once more; a key that comes while one act runs loses nothing.
    page.route("**/review", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
    page.keyboard.press("z")
    expect(page.get_by_test_id("review").get_by_role("alert")).to_be_visible()
    expect(page.get_by_test_id("review-left")).to_contain_text("Rude Rita")
    page.unroute("**/review")
    page.keyboard.press("z")
    page.keyboard.press("z")
    expect(items).to_have_count(2)
    expect(page.locator("[data-item]:focus")).to_contain_text("flibbert again")
    check(page, "review")
    page.keyboard.press("k")
    expect(items).to_have_count(1)
    remove(page, "Naughty words")


def test_dragging_over_the_horizon_filters_the_queue(enter: Enter, outside: Outside) -> None:
    outside.say("Due in eight hours", name="Horatio Hour")
    page = enter("mara", "/w/1/desk?move=unsorted")
    strip = page.get_by_test_id("horizon")
    slots = strip.locator("[data-slot]")
    expect(slots.nth(31)).to_be_visible()
    expect(strip).to_contain_text(re.compile(r"(\d+|None) late"))
    a, b = slots.nth(2).bounding_box(), slots.nth(7).bounding_box()
    assert a
    assert b
    page.mouse.move(a["x"] + 3, a["y"] + 20)
    page.mouse.down()
    page.mouse.move(b["x"] + 3, b["y"] + 20, steps=6)
    page.mouse.up()
    expect(page).to_have_url(re.compile("due_from=.+due_until="))
    expect(page.get_by_test_id("chip")).to_have_count(2)
    expect(slots.nth(4)).to_have_attribute("aria-pressed", "true")
    page.get_by_test_id("clear-span").click()
    expect(page).not_to_have_url(re.compile("due_from"))
    slots.first.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("due_from="))


def test_work_is_passed_across_and_evened_out_with_one_undo(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/desk?move=unsorted&words=heavy")
    for n in range(3):
        outside.say(f"HEAVY load {n}", name=f"Loaded Lou{n}")
    until = time.monotonic() + 15
    while len(page.request.get("/api/workspaces/1/conversations?move=unsorted&words=heavy").json()["rows"]) < 3:
        assert time.monotonic() < until
        time.sleep(0.1)
    page.reload()
    expect(page.locator("[data-conversation]")).to_have_count(3)
    page.keyboard.press("Control+a")
    expect(page.get_by_test_id("selected")).to_contain_text("3 selected")
    page.keyboard.press("t")
    expect(page.get_by_test_id("undo-line")).to_contain_text("3:")
    page.goto("/w/1/team")
    teo = page.get_by_role("region", name="Teo Nakamura").or_(page.locator("section[aria-label='Teo Nakamura']")).first
    mara = page.locator("section[aria-label='Mara Okafor']")
    pile = mara.locator("[data-work]").filter(has_text="HEAVY load")
    expect(pile.first).to_be_visible()
    before = teo.locator("[data-work]").count()
    pile.first.get_by_role("checkbox").check()
    page.get_by_test_id("pass-to").get_by_role("button").click()
    page.get_by_role("menuitem", name="Teo Nakamura").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("1 passed to Teo")
    expect(teo.locator("[data-work]")).to_have_count(before + 1)
    page.get_by_test_id("undo-line").get_by_role("button").click()
    expect(teo.locator("[data-work]")).to_have_count(before)
    expect(pile).to_have_count(3)
    # As a hand does it, in steps, and from where it is by then: a jump is no drag to a browser that is busy.
    # And once more when the list was drawn anew under it.
    for _ in range(3):
        pile.first.hover(position={"x": 60, "y": 12})
        page.mouse.down()
        for place in (20, 26, 32):
            teo.hover(position={"x": 60, "y": place})
        page.mouse.up()
        with contextlib.suppress(AssertionError):
            expect(teo.locator("[data-work]")).to_have_count(before + 1, timeout=4000)
            break
    expect(teo.locator("[data-work]")).to_have_count(before + 1)
    page.get_by_test_id("even-out").click()
    expect(page.get_by_role("dialog")).to_contain_text("Even out the load")
    if page.get_by_test_id("do-even").count():
        page.get_by_test_id("do-even").click()
        expect(page.get_by_test_id("undo-line")).to_contain_text("passed across")
    else:
        page.keyboard.press("Escape")


def test_somebody_is_away_and_says_so(enter: Enter, outside: Outside) -> None:
    page = enter("teo", "/w/1/team")
    column = page.locator("section[aria-label='Teo Nakamura']")
    column.get_by_role("button", name="Change").click()
    page.get_by_test_id("away-from").fill("2020-01-01T09:00")
    page.get_by_label("Reason").fill("At sea")
    page.get_by_role("button", name="Save").click()
    expect(column.get_by_test_id("member-state")).to_have_text("away, at sea")
    column.get_by_role("button", name="Change").click()
    page.get_by_role("button", name="Back again").click()
    page.get_by_role("button", name="Save").click()
    expect(column.get_by_test_id("member-state")).to_have_count(0)
    expect(page.locator("section[aria-label='Mara Okafor']").get_by_role("button", name="Change")).to_have_count(0)


def test_everything_that_goes_out_is_held_and_goes_when_released(enter: Enter, outside: Outside) -> None:
    outside.say("Hold me, 8181", name="Holda Holm")
    page = enter("mara", "/w/1/outgoing")
    page.get_by_test_id("hold-reason").fill("the lift has stopped")
    page.get_by_test_id("hold-all").click()
    expect(page.get_by_test_id("held")).to_contain_text("Nothing goes out: the lift has stopped.")
    open_desk = enter("ilse")
    id = open_message(open_desk, "Hold me, 8181")
    open_desk.keyboard.press("r")
    open_desk.keyboard.type("Answer to 8181")
    open_desk.keyboard.press("Control+Enter")
    expect(open_desk.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    open_desk.goto(f"/w/1/desk/{id}")
    expect(open_desk.get_by_test_id("held")).to_be_visible()
    expect(page.get_by_test_id("waiting")).to_contain_text("Held for the whole workspace")
    open_desk.wait_for_timeout(2500)
    assert "Answer to 8181" not in outside.list_texts()
    page.get_by_test_id("release").click()
    expect(page.get_by_test_id("held")).to_have_count(0)
    expect(open_desk.get_by_test_id("delivery")).to_have_text("Delivered, public")
    assert outside.list_texts().count("Answer to 8181") == 1


def test_holidays_come_from_a_calendar_file(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/setup")
    text = (
        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Town//EN\r\nBEGIN:VEVENT\r\nUID:1@town.example\r\n"
        "DTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:20150102\r\nRRULE:FREQ=YEARLY\r\nSUMMARY:Harbour day\r\n"
        "END:VEVENT\r\nEND:VCALENDAR\r\n"
    )
    page.get_by_test_id("read-calendar").set_input_files(
        {"name": "town.ics", "mimeType": "text/calendar", "buffer": text.encode()}
    )
    expect(page.get_by_test_id("calendar-read")).to_contain_text("Harbour day. Save to keep them.")
    expect(page.get_by_label(re.compile("^Hours on .*2 Jan"))).not_to_have_count(0)
    page.get_by_test_id("read-calendar").set_input_files(
        {"name": "bad.ics", "mimeType": "text/calendar", "buffer": b"hello"}
    )
    expect(page.get_by_test_id("hours").get_by_role("alert")).to_contain_text("This is no iCalendar file")


def test_a_rule_is_made_of_an_example_and_its_matches_are_a_list(enter: Enter, outside: Outside) -> None:
    outside.say("The stroller ramp 7720 is icy again", name="Rampa First")
    page = enter("mara")
    open_message(page, "The stroller ramp 7720 is icy again")
    page.keyboard.press("m")
    page.get_by_test_id("name").fill("icy ramp")
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("trail")).to_contain_text("Mara tagged it icy ramp")
    page.get_by_test_id("rule-of-this").click()
    name = page.get_by_test_id("rule-name")
    expect(name).to_be_focused()
    expect(page.get_by_test_id("rule-sentence")).to_contain_text("icy ramp")
    name.fill("Icy ramps")
    page.get_by_test_id("rule-on").check()
    page.get_by_test_id("save-rule").click()
    expect(page.locator("[data-rule-name]").filter(has_text="Icy ramps")).to_be_visible()
    outside.say("The stroller ramp 7721 is icy again", name="Rampa Second")
    open_message(enter("ilse"), "The stroller ramp 7721 is icy again")
    page.goto("/w/1/rules")
    page.get_by_role("link", name="1: where “Icy ramps” was met").click()
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("Rampa Second")
    check(page)
    page.get_by_test_id("clear").click()
    expect(rows.nth(1)).to_be_visible()
    page.goto("/w/1/rules")
    page.locator("[data-rule-name]").filter(has_text="Icy ramps").click()
    expect(page.get_by_test_id("trial")).to_be_visible()
    # What a change made otherwise is marked in its versions.
    rule = page.locator("[data-rule]").filter(has_text="Icy ramps")
    rule.get_by_role("button", name=re.compile("^More for")).click()
    page.get_by_role("menuitem", name="Change it").click()
    page.get_by_test_id("rule-words").fill("icy")
    page.get_by_test_id("save-rule").click()
    expect(page.get_by_test_id("rule-editor")).to_have_count(0)
    rule.get_by_role("button", name=re.compile("^More for")).click()
    page.get_by_role("menuitem", name="Its versions").click()
    newest = page.get_by_test_id("rule-version").first
    expect(newest.locator("ins")).to_have_text("icy")
    expect(newest.locator("del")).to_contain_text("stroller")
    expect(page.get_by_test_id("rule-version").last.locator("ins")).to_have_count(0)
    check(page)
