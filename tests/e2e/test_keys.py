"""Keys and words go only where the person is looking: every line of it, in the real interface."""

import json
import re

import pytest
from playwright.sync_api import Page, Route, expect

from demo.run import Demo
from tests.e2e.conftest import Enter, Outside, open_message

pytestmark = pytest.mark.usefixtures("outside")


def acts_of(page: Page) -> list[str]:
    """From now on: what is asked of the server that changes something (drafts, presence and read marks aside)."""
    asked: list[str] = []

    def on_request(request) -> None:
        said = request.url.split("/api/")[-1]
        if request.method != "GET" and not re.search(r"/(draft|presence|read)$", said):
            asked.append(f"{said} {request.post_data or ''}")

    page.on("request", on_request)
    return asked


def focused(page: Page) -> str:
    return page.evaluate(
        "document.activeElement?.closest('[data-test]')?.dataset.test ?? document.activeElement?.tagName"
    )


def propose(enter: Enter, outside: Outside, text: str, words: str, name: str) -> tuple[int, Page]:
    """A trainee's answer that waits for consent; the conversation, and the Owner's page of approvals."""
    outside.say(text, name=name)
    ana = enter("ana")
    id = open_message(ana, text)
    ana.keyboard.press("r")
    ana.keyboard.type(words)
    ana.keyboard.press("Control+Enter")
    expect(ana.get_by_test_id("undo-line")).to_contain_text("Asked for approval")
    noor = enter("noor", "/w/1/approvals")
    noor.locator("[data-proposal]").filter(has_text=name).click()
    expect(noor.get_by_test_id("approve")).to_be_visible()
    return id, noor


def test_a_chord_in_a_dialog_is_the_dialogs(enter: Enter, outside: Outside) -> None:
    _, noor = propose(enter, outside, "Send me back 4101", "Not like this 4101", "Bo Dialog")
    asked = acts_of(noor)
    noor.keyboard.press("b")
    noor.get_by_test_id("reason").fill("Say when")
    noor.keyboard.press("Control+Enter")
    expect(noor.get_by_test_id("approval-said")).to_contain_text("Sent back")
    assert [a.split(" ")[0].split("/")[-1] for a in asked] == ["send-back"]
    assert "Not like this 4101" not in outside.list_texts()


def test_an_approval_has_the_same_seconds_as_a_reply(enter: Enter, outside: Outside) -> None:
    id, noor = propose(enter, outside, "Approve me 4102", "Too fast 4102", "Cy Grace")
    noor.keyboard.press("Control+Enter")
    expect(noor.get_by_test_id("undo-line")).to_contain_text("goes out")
    noor.keyboard.press("z")
    expect(noor.get_by_test_id("taken-back")).to_be_visible()
    noor.locator("[data-proposal]").filter(has_text="Cy Grace").click()
    expect(noor.get_by_test_id("approve")).to_be_visible()
    noor.goto(f"/w/1/desk/{id}")
    expect(noor.get_by_test_id("move")).to_have_text("In review")
    noor.wait_for_timeout(2500)
    assert "Too fast 4102" not in outside.list_texts()


def test_what_is_open_hears_the_key_and_nothing_below(enter: Enter, outside: Outside) -> None:
    for n in (1, 2):
        outside.say(f"Below 4110 {n}", name=f"Below {n}")
    page = enter("mara", "/w/1/desk?move=unsorted")
    open_message(page, "Below 4110 1")
    here, asked = page.url, acts_of(page)
    # The filter panel: the caret is in its field; elsewhere in it keys are lost.
    page.keyboard.press("f")
    expect(page.get_by_label("Words in a message")).to_be_focused()
    page.keyboard.type("wjk")
    expect(page.get_by_label("Words in a message")).to_have_value("wjk")
    page.get_by_label("Words in a message").fill("")
    page.get_by_test_id("filter-panel").get_by_text("I watch").focus()
    for key in ("w", "j", "ArrowDown", "ArrowUp"):
        page.keyboard.press(key)
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("filter-panel")).to_have_count(0)
    # A menu, a dialog and its list.
    for opener, role in (("p", "menu"), ("g", "dialog"), ("m", "dialog"), ("?", "dialog")):
        page.keyboard.press(opener)
        expect(page.get_by_role(role)).to_have_count(1)
        inside = ", ".join(f"[role={role}]{where}:focus" for where in ("", " "))
        expect(page.locator(inside)).to_have_count(1)
        if opener == "?":
            for key in ("k", "y", "ArrowDown"):
                page.keyboard.press(key)
        page.keyboard.press("Escape")
        expect(page.get_by_role(role)).to_have_count(0)
    # A native select chooses by letters itself.
    page.get_by_test_id("sender").focus()
    for key in ("k", "y", "j", "w"):
        page.keyboard.press(key)
    assert page.url == here
    assert asked == []


def test_a_mode_that_is_not_possible_says_why_and_swallows_the_words(enter: Enter, outside: Outside) -> None:
    outside.say("Three stars 4120", network="verdica", kind="review", name="Rev Viewer", rating=3)
    page = enter("mara", "/w/1/desk")
    open_message(page, "Three stars 4120")
    here, asked = page.url, acts_of(page)
    page.keyboard.press("d")
    page.keyboard.type("kny just say it")
    expect(page.get_by_test_id("impossible")).to_contain_text("Private message is not possible here")
    assert (page.url, asked) == (here, [])
    page.wait_for_timeout(1100)
    page.keyboard.press("w")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Watched")


def test_a_held_key_acts_once_and_an_input_method_never(enter: Enter, outside: Outside) -> None:
    for n in range(3):
        outside.say(f"Held 4130 {n}", name=f"Held {n}")
    page = enter("mara", "/w/1/desk?move=unsorted")
    id = open_message(page, "Held 4130 0")
    asked = acts_of(page)
    page.evaluate("""
      for (const how of [{ isComposing: true }, { keyCode: 229 }])
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'y', code: 'KeyY', bubbles: true, ...how }))
    """)
    for _ in range(6):
        page.keyboard.down("w")
    page.keyboard.up("w")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Watched")
    # Held Enter on a button that stays under the focus presses it once.
    page.get_by_role("button", name="Watched").focus()
    for _ in range(6):
        page.keyboard.down("Enter")
    page.keyboard.up("Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("No longer watched")
    assert [json.loads(a.split(" ", 1)[1])["act"]["on"] for a in asked if "/acts" in a] == [True, False]
    assert f"/desk/{id}" in page.url


def test_a_conversation_that_does_not_load_leaves_nothing_of_the_one_before(enter: Enter, outside: Outside) -> None:
    outside.say("First of two 4140", name="Ann First")
    outside.say("Second of two 4140", name="Ben Second")
    page = enter("mara", "/w/1/desk?move=unsorted")
    second = open_message(page, "Second of two 4140")
    first = open_message(page, "First of two 4140")
    page.keyboard.press("r")
    page.keyboard.type("Only for Ann")
    asked = acts_of(page)

    def fail(route: Route) -> None:
        route.fulfill(
            status=500,
            content_type="application/problem+json",
            body='{"type":"/problems/unforeseen","title":"x","status":500,"detail":"Something went wrong here.","instance":"","reference":"ref-4140"}',
        )

    page.route(f"**/conversations/{second}", fail)
    page.goto(f"/w/1/desk/{first}?move=unsorted&words=4140")
    expect(page.get_by_test_id("composer")).to_have_value("Only for Ann")
    page.locator(f"[data-conversation='{second}']").click()
    failed = page.get_by_test_id("failed")
    expect(failed).to_contain_text("The conversation with Ben Second could not be loaded.")
    expect(failed).to_contain_text("Reference ref-4140")
    expect(page.get_by_test_id("composer")).to_have_count(0)
    for key in ("Control+Enter", "y", "k", "j"):
        page.keyboard.press(key)
    assert asked == []
    page.unroute(f"**/conversations/{second}")
    page.get_by_test_id("retry").click()
    expect(page.locator(f"[data-sheet='{second}']").get_by_test_id("composer")).to_have_value("")
    page.locator(f"[data-conversation='{first}']").click()
    expect(page.locator(f"[data-sheet='{first}']").get_by_test_id("composer")).to_have_value("Only for Ann")


def test_while_one_is_being_opened_the_other_is_inert_and_typed_words_wait(enter: Enter, outside: Outside) -> None:
    outside.say("Quick one 4150", name="Quinn Quick")
    outside.say("Slow one 4150", name="Sly Slow")
    page = enter("mara", "/w/1/desk?move=unsorted")
    slow = open_message(page, "Slow one 4150")
    quick = open_message(page, "Quick one 4150")
    held: list[Route] = []
    page.route(f"**/conversations/{slow}", lambda r: held.append(r))
    page.goto(f"/w/1/desk/{quick}?move=unsorted&words=4150")
    expect(page.get_by_test_id("composer")).to_be_visible()
    asked = acts_of(page)
    page.locator(f"[data-conversation='{slow}']").click()
    expect(page.locator(f"[data-sheet='{quick}']")).to_have_attribute("inert", "")
    page.keyboard.press("y")
    page.keyboard.press("r")
    page.keyboard.type("kept for the slow one")
    for route in held:
        route.continue_()
    page.unroute(f"**/conversations/{slow}")
    expect(page.locator(f"[data-sheet='{slow}']").get_by_test_id("composer")).to_have_value("kept for the slow one")
    assert asked == []


def test_after_sending_the_keys_are_the_queues(enter: Enter, outside: Outside) -> None:
    outside.say("Send and go on 4160", name="Sen Der")
    outside.say("Next in line 4160", name="Nex Tone")
    page = enter("mara", "/w/1/desk?move=unsorted")
    id = open_message(page, "Send and go on 4160")
    page.keyboard.press("r")
    page.keyboard.type("On its way 4160")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    assert focused(page) == "queue"
    page.keyboard.press("z")
    expect(page.locator(f"[data-sheet='{id}']").get_by_test_id("composer")).to_have_value("On its way 4160")
    page.wait_for_timeout(2500)
    assert "On its way 4160" not in outside.list_texts()


def test_each_mode_has_its_own_text(enter: Enter, outside: Outside) -> None:
    outside.say("Two texts 4170", name="Tess Modes")
    page = enter("mara", "/w/1/desk?move=unsorted")
    open_message(page, "Two texts 4170")
    text = page.get_by_test_id("composer")
    page.keyboard.press("n")
    page.keyboard.type("She has been rude before")
    page.keyboard.press("Escape")
    page.keyboard.press("r")
    expect(text).to_have_value("")
    expect(page.get_by_test_id("carry")).to_contain_text("Team note not sent: “She has been rude before”")
    page.keyboard.type("Dear Tess")
    page.reload()
    expect(text).to_have_value("Dear Tess")
    page.get_by_role("radio", name="Team note").click()
    expect(text).to_have_value("She has been rude before")
    page.get_by_role("radio", name="Private message").click()
    expect(text).to_have_value("")
    page.get_by_test_id("carry").filter(has_text="Public reply").get_by_role("button").click()
    expect(text).to_have_value("Dear Tess")
    expect(page.get_by_test_id("carried")).to_contain_text("Brought over from the public reply")
    page.get_by_role("radio", name="Public reply").click()
    expect(text).to_have_value("")


def test_select_all_is_the_fields_or_the_queues(enter: Enter, outside: Outside) -> None:
    outside.say("Select 4180", name="Sel Ect")
    page = enter("mara", "/w/1/desk?move=unsorted")
    open_message(page, "Select 4180")
    page.keyboard.press("r")
    page.keyboard.type("all of this")
    page.keyboard.press("Control+a")
    page.keyboard.type("x")
    expect(page.get_by_test_id("composer")).to_have_value("x")
    expect(page.get_by_test_id("selected")).to_have_count(0)
    page.get_by_test_id("script").focus()
    page.keyboard.press("Control+a")
    expect(page.get_by_test_id("selected")).to_have_count(0)
    page.get_by_test_id("queue").focus()
    page.keyboard.press("Control+a")
    expect(page.get_by_test_id("selected")).to_contain_text("selected")


def test_with_several_selected_keys_act_on_all_of_them(enter: Enter, outside: Outside) -> None:
    for n in range(3):
        outside.say(f"Several 4190 {n}", name=f"Several {n}")
    page = enter("mara", "/w/1/desk?move=unsorted&words=4190")
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(3)
    rows.first.click()
    page.keyboard.press("Space")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_test_id("selected")).to_contain_text("2 selected")
    asked = acts_of(page)
    page.keyboard.press("d")
    expect(page.get_by_role("alert").filter(has_text="one conversation at a time")).to_be_visible()
    page.wait_for_timeout(1100)
    page.keyboard.press("u")
    page.get_by_role("menuitem", name="Urgent").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("2: made Urgent")
    assert len(asked) == 1
    assert len(json.loads(asked[0].split(" ", 1)[1])["on"]) == 2
    page.keyboard.press("z")
    expect(page.get_by_test_id("taken-back")).to_be_visible()


def test_single_keys_are_the_members_choice_and_the_layouts(enter: Enter, outside: Outside) -> None:
    outside.say("Whose keys 4200", name="Kay Layout")
    page = enter("teo", "/w/1/desk?move=unsorted")
    open_message(page, "Whose keys 4200")
    undo, asked = page.get_by_test_id("undo-line"), acts_of(page)
    # The key that says ц on a layout without Latin letters stands where W does.
    page.evaluate(
        "document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'ц', code: 'KeyW', bubbles: true }))"
    )
    expect(undo).to_contain_text("Watched")
    # The key does the opposite of what the button shows.
    expect(page.get_by_role("button", name="Watched", pressed=True)).to_be_visible()
    page.keyboard.press("?")
    page.get_by_label("Only together with Alt").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    del asked[:]
    page.keyboard.press("w")
    page.keyboard.press("Alt+w")
    expect(undo).to_contain_text("No longer watched")
    page.reload()
    expect(page.get_by_test_id("composer")).to_be_visible()
    page.keyboard.press("Alt+Shift+?")
    page.get_by_label("Are switched off").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    for key in ("w", "Alt+w", "k"):
        page.keyboard.press(key)
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("Show the keys")
    page.keyboard.press("Enter")
    page.get_by_label("Act as they are").check()
    assert [a for a in asked if "/acts" in a and '"watch"' in a] == [a for a in asked if '"on":false' in a]


def test_the_address_follows_what_is_open(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk?move=our_move")
    rows = page.locator("[data-conversation]")
    expect(rows.nth(3)).to_be_visible()
    ids = [rows.nth(n).get_attribute("data-conversation") for n in range(4)]
    # Faster than anything is painted, as a key that is held down.
    page.evaluate(
        "for (let n = 0; n < 3; n++)"
        " window.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', code: 'ArrowDown', bubbles: true }))"
    )
    expect(page.locator("[data-sheet]")).to_have_attribute("data-sheet", str(ids[2]))
    expect(page).to_have_url(re.compile(f"/desk/{ids[2]}[?]move=our_move$"))
    page.keyboard.press("ArrowDown")
    expect(page).to_have_url(re.compile(f"/desk/{ids[3]}[?]"))
    page.go_back()
    expect(page.locator("[data-sheet]")).to_have_attribute("data-sheet", str(ids[2]))
    expect(page.locator("[aria-current=true][data-conversation]")).to_have_attribute("data-conversation", str(ids[2]))
    # What was only passed by is no place to go back to.
    page.go_back()
    expect(page).to_have_url(re.compile("/desk[?]move=our_move$"))
    expect(page.locator("[data-sheet]")).to_have_count(0)
    # Whoever goes elsewhere in the very moment goes there.
    page.evaluate(
        "window.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', code: 'ArrowDown', bubbles: true }));"
        "[...document.querySelectorAll('nav[aria-label=Places] a')].find((a) => a.textContent.includes('Day')).click()"
    )
    expect(page).to_have_url(re.compile("/w/1/day"))
    page.wait_for_timeout(200)
    expect(page).to_have_url(re.compile("/w/1/day"))


def test_undo_is_a_stack_and_stands_in_the_trail(enter: Enter, outside: Outside, demo: Demo) -> None:
    outside.say("Back step by step 4210", name="Una Stack")
    page = enter("mara", "/w/1/desk?move=unsorted")
    id = open_message(page, "Back step by step 4210")
    undo, trail = page.get_by_test_id("undo-line"), page.get_by_test_id("trail")
    looked: list[str] = []
    page.on(
        "requestfinished", lambda r: looked.append(r.url) if r.method == "GET" and r.url.endswith(f"s/{id}") else None
    )
    for key, words in (("w", "Watched"), ("t", "You took it"), ("w", "No longer watched")):
        page.keyboard.press(key)
        expect(undo).to_contain_text(words)
        # A key does the opposite of what the button shows, so what was done has to stand there first.
        expect(trail).to_contain_text({"w": "Mara watches it", "t": "Mara took it"}[key])
        page.wait_for_timeout(300)
    assert not looked, "an act brings what it made, and the notice of it looks up nothing"
    page.reload()
    expect(trail).to_contain_text("Mara took it")
    for words in ("No longer watched", "You took it", "Watched"):
        page.keyboard.press("z")
        expect(page.get_by_test_id("taken-back")).to_contain_text(f"Taken back: {words}")
    expect(page.get_by_test_id("move")).to_have_text("Unsorted")
    page.keyboard.press("t")
    expect(undo).to_contain_text("You took it")
    other = enter("ilse", f"/w/1/desk/{id}")
    expect(other.get_by_test_id("trail")).to_contain_text("Mara took it")
    expect(other.get_by_test_id("undo-at")).to_have_count(0)
    page.get_by_label("Undo: Mara took it").click()
    expect(page.get_by_test_id("move")).to_have_text("Unsorted")
    page.keyboard.press("r")
    page.keyboard.type("Out it goes 4210")
    page.keyboard.press("Control+Enter")
    expect(undo).to_contain_text("Reply sent")
    page.goto(f"/w/1/desk/{id}")
    expect(page.get_by_test_id("delivery")).to_have_text("Delivered, public")
    expect(trail.get_by_test_id("no-undo").last).to_have_attribute("title", re.compile("stands outside"))
