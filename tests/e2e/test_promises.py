"""What is promised of matters, thanks, rules, hours and draws, as somebody sees it in the real interface."""

import json
import re
from datetime import UTC, datetime, timedelta

from playwright.sync_api import expect

from tests.e2e.conftest import Enter, Outside, open_message
from tests.e2e.test_rules import remove, save, write_rule


def test_a_matter_that_goes_on_in_private_shows_both_and_links_both_ways(enter: Enter, outside: Outside) -> None:
    post = outside.publish("Gate news 9101", "The gate has a new reader.")
    outside.say("My pass does not open the gate, 9102", kind="comment", name="Gitte Gate", parent=post)
    page = enter("ilse")
    public = open_message(page, "My pass does not open the gate, 9102")
    page.keyboard.press("t")
    page.get_by_role("radio", name="Private message").click()
    page.get_by_test_id("composer").fill("Which number is on it, 9103?")
    page.get_by_test_id("send").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    page.wait_for_timeout(3500)
    outside.say("Number forty eight, 9104", kind="private", name="Gitte Gate")
    private = open_message(page, "Number forty eight, 9104")
    assert private != public
    card = page.get_by_test_id("linked")
    expect(card).to_contain_text("Began in public, under “Gate news 9101”")
    expect(card).to_contain_text("My pass does not open the gate, 9102")
    expect(card).to_contain_text("Which number is on it, 9103?")
    expect(page.get_by_test_id("move")).to_have_text("Our move")
    expect(page.get_by_test_id("trail")).to_contain_text("It began in public; we went on here")
    card.get_by_role("button", name="Open the public one").click()
    page.wait_for_url(re.compile(f"/desk/{public}"))
    expect(page.get_by_test_id("linked")).to_contain_text("Goes on in private")
    expect(page.get_by_test_id("linked")).to_contain_text("Number forty eight, 9104")


def test_thanks_for_what_is_settled_stay_settled_and_are_seen(enter: Enter, outside: Outside) -> None:
    said = outside.say("Is the cafe open, 9201", kind="private", network="hushline", name="Tove Tak")
    page = enter("mara")
    id = open_message(page, "Is the cafe open, 9201")
    page.keyboard.press("s")
    page.get_by_role("menuitem", name="As answered").click()
    expect(page.get_by_test_id("undo-line")).to_be_visible()
    assert said
    outside.say("Great, thank you so much!", kind="private", network="hushline", name="Tove Tak")
    page.goto(f"/w/1/desk/{id}?move=settled")
    expect(page.get_by_test_id("script")).to_contain_text("Great, thank you so much!")
    expect(page.get_by_test_id("move")).to_contain_text("Settled")
    expect(page.get_by_test_id("thanked")).to_contain_text("They thanked you: it stays settled.")
    expect(page.locator(f"[data-conversation='{id}']").get_by_test_id("row-thanked")).to_be_visible()


def test_a_trial_lists_what_would_come_out_differently_and_a_slip_in_a_file_is_said(
    enter: Enter, outside: Outside
) -> None:
    outside.say("The zorgle squeaks, 9301", name="Zita Zorg")
    page = enter("mara")
    write_rule(page, "Squeaks", "zorgle", "Set the priority", "Answer")
    page.get_by_test_id("rule-reply").fill("Thank you for telling us about the squeaking noise.")
    page.get_by_test_id("rule-language").select_option("en")
    page.get_by_test_id("try-rule").click()
    trial = page.get_by_test_id("trial")
    example = trial.get_by_test_id("trial-example").filter(has_text="9301")
    expect(example).to_contain_text("New: Urgent")
    trial.get_by_role("button", name="these, and all that it meets").click()
    expect(example).to_be_visible()
    save(page, on=False)
    remove(page, "Squeaks")
    with page.expect_download() as download:
        page.get_by_role("button", name="Export").click()
    file = json.loads(download.value.path().read_text())
    rule = {**file["rules"][0], "name": "Slip"}
    rule["when"] = {"type": "group", "of": "all", "part": rule["when"]["parts"]}
    page.get_by_test_id("import-rules").set_input_files(
        {"name": "rules.json", "mimeType": "application/json", "buffer": json.dumps({**file, "rules": [rule]}).encode()}
    )
    expect(page.get_by_role("alert")).to_contain_text("‘part’ is nothing that stands in the rule. Is it spelt right?")
    page.get_by_test_id("import-rules").set_input_files(
        {"name": "rules.json", "mimeType": "application/json", "buffer": json.dumps(file).encode()}
    )
    expect(page.get_by_role("status").filter(has_text="Nothing was added.")).to_contain_text("were here already")


def test_hours_that_look_like_a_slip_are_asked_about_and_a_file_tells_what_it_left_out(
    enter: Enter, outside: Outside
) -> None:
    page = enter("mara", "/w/1/setup")
    page.get_by_test_id("hours-0").fill("17-9")
    page.get_by_test_id("save-hours").click()
    question = page.get_by_test_id("hours-question")
    expect(question).to_contain_text("Monday: 17:00-09:00 is open through the night, for 16 hours. Is that meant?")
    page.get_by_test_id("hours-0").fill("9-17")
    expect(question).to_have_count(0)
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Town//EN"]
    year = datetime.now(UTC).year + 1
    for uid, more in (
        ("1", f"DTSTART:{year}0107T130000|DTEND:{year}0107T200000|SUMMARY:Half day"),
        ("2", f"DTSTART;VALUE=DATE:{year}0108|SUMMARY:Name day|TRANSP:TRANSPARENT"),
    ):
        lines += ["BEGIN:VEVENT", f"UID:{uid}@t.example", "DTSTAMP:20260101T000000Z", *more.split("|"), "END:VEVENT"]
    page.get_by_test_id("read-calendar").set_input_files(
        {"name": "t.ics", "mimeType": "text/calendar", "buffer": "\r\n".join([*lines, "END:VCALENDAR", ""]).encode()}
    )
    left = page.get_by_test_id("calendar-left-out")
    expect(left).to_contain_text("1 event of the file")
    left.locator("summary").click()
    expect(left).to_contain_text(re.compile(f"Name day, .*{year}: the calendar marks that time as free"))
    expect(page.get_by_label(re.compile(f"^Hours on .*7 Jan {year}"))).not_to_have_count(0)


def test_a_draws_list_is_closed_at_its_deadline_before_it_can_be_drawn(enter: Enter, outside: Outside) -> None:
    post = outside.publish("Walrus 9501", "Guess its age.")
    for name, text in (("Ada Vals", "12 years 9502"), ("Bo Vals", "14 years")):
        outside.say(text, kind="comment", name=name, parent=post)
    page = enter("mara")
    open_message(page, "12 years 9502")
    found = page.request.get("/api/workspaces/1/posts?words=Walrus 9501").json()
    csrf = page.request.get("/api/session").json()["csrf"]
    deadline = (datetime.now(UTC) + timedelta(seconds=3)).isoformat()
    rules = {"name": "Walrus", "deadline": deadline, "public_source": "The lottery of Saturday"}
    headers = {"X-CSRF-Token": csrf}
    made = page.request.post(
        "/api/workspaces/1/draws", data={"post_id": found[0]["id"], "rules": rules}, headers=headers
    )
    assert made.status == 201, made.text()
    page.goto(f"/w/1/draws/{made.json()['id']}")
    expect(page.get_by_test_id("list-digest")).to_have_text(re.compile("^[0-9a-f]{64}$"))
    expect(page.get_by_test_id("draw")).to_contain_text("whatever is said or hidden now changes it no more")
    expect(page.get_by_test_id("draw-now")).to_be_disabled()
    page.get_by_test_id("public-value").fill("4 8 15 16 23 42")
    page.get_by_test_id("draw-now").click()
    expect(page.get_by_test_id("places").locator("li").first).to_contain_text("Winner 1")
    expect(page.get_by_test_id("draw")).to_contain_text("The lottery of Saturday: 4 8 15 16 23 42")
