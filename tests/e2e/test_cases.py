"""Hand over in the real interface: by hand, in bulk, undone, and what the desk says."""

from playwright.sync_api import expect

from tests.e2e.conftest import HTTP, Demo, Enter, Outside, open_message


def list_cases(demo: Demo, name: str) -> list[dict]:
    found = HTTP.get(f"{demo.outside}/control/desk").json()["cases"]
    return [c for c in found if c["customer"]["name"] == name]


def test_handed_over_the_desk_answers_and_gives_it_back(enter: Enter, outside: Outside, demo: Demo) -> None:
    page = enter("mara", "/w/1/desk")
    outside.say("I want my money back, 8201", name="Gerda Holm")
    open_message(page, "I want my money back, 8201")
    page.keyboard.press("s")
    page.get_by_role("menuitem", name="Hand over to Ticket office …").click()
    page.get_by_test_id("desk-note").fill("Paid twice")
    page.get_by_test_id("hand-over").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Handed over to Ticket office")

    open_message(page, "I want my money back, 8201")
    expect(page.get_by_test_id("move")).to_have_text("Settled: handed over")
    box = page.get_by_test_id("case-box")
    expect(box.get_by_test_id("case-state")).to_have_text("Open")
    (case,) = list_cases(demo, "Gerda Holm")
    expect(box).to_contain_text(case["reference"])
    expect(box).to_contain_text("Paid twice")
    assert [m["text"] for m in case["messages"]] == ["I want my money back, 8201"]

    desk = page.context.new_page()
    desk.goto(f"{demo.outside}/#desk")
    card = desk.locator(f"[data-case='{case['id']}']")
    card.get_by_label("State").select_option("waiting")
    card.get_by_label("Remark").fill("Which card was it?")
    card.get_by_role("button", name="Tell them").click()
    expect(box.get_by_test_id("case-state")).to_have_text("Waiting")
    expect(box).to_contain_text("Which card was it?")
    card.get_by_label("State").select_option("returned")
    card.get_by_role("button", name="Tell them").click()
    expect(page.get_by_test_id("move")).to_have_text("Our move")
    expect(box.get_by_test_id("case-state")).to_have_text("Given back")

    page.goto("/w/1/overview")
    page.get_by_test_id("to-cases").click()
    page.get_by_test_id("case-words").fill("gerda")
    row = page.get_by_test_id("cases").locator("li")
    expect(row).to_have_count(1)
    expect(row).to_contain_text("Given back")
    page.get_by_role("button", name="Solved").click()
    expect(page.get_by_text("No case fits these filters.")).to_be_visible()


def test_several_are_handed_over_and_taken_back_as_one(enter: Enter, outside: Outside, demo: Demo) -> None:
    page = enter("mara", "/w/1/desk?move=unsorted")
    for n in range(2):
        outside.say(f"Roofing samples, 821{n}", name="Hasse Birk")
    # Both are here: one that came while the list is fetched would wait above it.
    expect(page.get_by_test_id("show-new")).to_have_text("2 new, show")
    page.goto("/w/1/desk?move=unsorted&words=roofing")
    expect(page.locator("[data-conversation]")).to_have_count(2)
    page.keyboard.press("Control+a")
    bar = page.get_by_test_id("selected")
    expect(bar).to_contain_text("2 selected")
    bar.get_by_role("button", name="Settle").click()
    page.get_by_role("menuitem", name="Hand over to Ticket office …").click()
    page.get_by_test_id("hand-over").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("2: handed over to Ticket office")
    page.keyboard.press("z")
    expect(page.locator("[data-conversation]")).to_have_count(2)
    page.wait_for_timeout(3000)
    assert list_cases(demo, "Hasse Birk") == []


def test_a_desk_that_breaks_is_tried_again(enter: Enter, outside: Outside, demo: Demo) -> None:
    outside.control("mischief/desk", fail=1)
    page = enter("mara", "/w/1/desk")
    outside.say("The turnstile ate my ticket, 8221", name="Nils Ask")
    open_message(page, "The turnstile ate my ticket, 8221")
    page.keyboard.press("s")
    page.get_by_role("menuitem", name="Hand over to Ticket office …").click()
    page.get_by_test_id("hand-over").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Handed over")
    open_message(page, "The turnstile ate my ticket, 8221")
    waits = page.get_by_test_id("case-waits")
    expect(waits).to_contain_text("Something broke at the desk.")
    # Where the pause is short it has gone by itself before anybody can press.
    again = waits.get_by_role("button", name="Try now")
    if again.is_visible():
        again.dispatch_event("click")
    expect(page.get_by_test_id("case-state")).to_have_text("Open")
    assert len(list_cases(demo, "Nils Ask")) == 1


def test_the_window_is_set_in_setup(enter: Enter) -> None:
    page = enter("noor", "/w/1/setup")
    desks = page.get_by_test_id("desks")
    desks.get_by_label("hours joins").fill("48")
    desks.get_by_role("button", name="Save").click()
    expect(desks.get_by_role("status")).to_have_text("Saved")
    page.reload()
    expect(desks.get_by_label("hours joins")).to_have_value("48")
    assert enter("ilse", "/w/1/setup").get_by_test_id("desks").get_by_role("button", name="Save").count() == 0


def test_somebody_without_a_login_is_asked_by_mail_and_answers_into_the_margin(
    enter: Enter, outside: Outside, demo: Demo
) -> None:
    outside.say("Is the octopus really three hearts rich, 8301", name="Petra Lindqvist")
    page = enter("mara")
    # Nobody is asked anywhere that is not listed.
    word = {"X-CSRF-Token": page.request.get("/api/session").json()["csrf"]}
    listed = {"domains": ["castellund.example"]}
    assert page.request.put("/api/workspaces/1/advice-domains", data=listed, headers=word).status == 204
    open_message(page, "Is the octopus really three hearts rich, 8301")
    page.keyboard.press("Shift+N")
    page.get_by_test_id("advice-address").fill("nobody@castellund.example")
    page.get_by_test_id("advice-name").fill("Dr. Lund")
    page.get_by_test_id("advice-question").fill("Three hearts, is that right? 8301")
    page.get_by_test_id("advice-ask").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Asked Dr. Lund by mail")
    box = page.get_by_test_id("advice").last
    expect(box).to_contain_text("could not be sent: 550")
    # Beside what networks would not have, Outgoing says what nobody's mailbox would.
    away = page.context.new_page()
    away.goto("/w/1/outgoing")
    letter = away.get_by_test_id("letters").get_by_role("listitem").filter(has_text="Three hearts, is that right? 8301")
    expect(letter).to_contain_text("Question outside to Dr. Lund")
    expect(letter).to_contain_text("550")
    # What was given up is not tried again.
    expect(letter).not_to_contain_text("Try ")
    away.close()
    page.get_by_test_id("ask-outside").click()
    page.get_by_test_id("advice-address").fill("lund@castellund.example")
    page.get_by_test_id("advice-name").fill("Dr. Lund")
    page.get_by_test_id("advice-question").fill("Three hearts, is that right? 8301")
    page.get_by_test_id("advice-ask").click()
    expect(box).to_contain_text("waits for an answer until")
    expect(page.get_by_test_id("move")).to_have_text("Their move")

    there = page.context.new_page()
    there.goto(f"{demo.outside}/")
    letter = there.locator(".letter:has(form)").filter(has_text="Three hearts, is that right? 8301").first
    expect(letter).to_contain_text("Is the octopus really three hearts rich, 8301")
    letter.get_by_role("button", name="Be away").click()
    expect(box).to_contain_text("an automatic reply")
    expect(page.get_by_test_id("move")).to_have_text("Their move")
    letter.get_by_label("Answer").fill("Yes: one for the body, two for the gills.")
    letter.get_by_role("button", name="Answer", exact=True).click()
    expect(box).to_contain_text("Yes: one for the body, two for the gills.")
    expect(page.get_by_test_id("move")).to_have_text("Our move")
    # What was quoted is folded away, and none of it stands among what was said.
    expect(box.locator("details p")).not_to_be_visible()
    expect(page.get_by_test_id("script")).not_to_contain_text("two for the gills")
    assert not [t for t in outside.list_texts() if "two for the gills" in t]
