"""Answers in the real interface: saved replies, suggestions, links."""

import re

from playwright.sync_api import expect

from tests.core.test_attachments import picture
from tests.e2e.conftest import HTTP, Demo, Enter, Outside, open_message
from tests.e2e.test_screens import check

BROWSER = {"User-Agent": "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"}


def test_a_saved_reply_is_written_found_sent_with_a_short_link_and_suggested(
    enter: Enter, outside: Outside, demo: Demo
) -> None:
    page = enter("mara", "/w/1/setup")
    # What stands above has come, and moves nothing any more.
    for part in ("accounts", "roles", "groups"):
        expect(page.get_by_test_id(part).locator("li, tr, [data-test=group]").first).to_be_visible()
    links = page.get_by_test_id("links")
    links.get_by_test_id("link-name").fill("umbrella")
    links.get_by_test_id("link-target").fill("http://10.0.0.7/secret")
    links.get_by_role("button", name="Keep").click()
    expect(links.get_by_role("alert")).to_contain_text("leads inside")
    links.get_by_test_id("link-target").fill("https://www.brinewick.example/umbrellas?from=desk")
    links.get_by_role("button", name="Keep").click()
    expect(links.get_by_test_id("kept-link").filter(has_text="umbrella")).to_be_visible()

    saved = page.get_by_test_id("saved-replies")
    saved.get_by_test_id("new-saved").click()
    saved.get_by_test_id("saved-name").fill("Umbrella stand")
    saved.get_by_test_id("saved-shortcut").fill("brolly")
    saved.get_by_test_id("saved-text").fill("It waits in the stand, {firstname}. {link:umbrella}")
    saved.get_by_test_id("save-saved").click()
    expect(saved.get_by_role("alert")).to_contain_text("{firstname}")
    saved.get_by_test_id("saved-text").fill("It waits in the stand, {first name}. {link:umbrella}")
    saved.get_by_test_id("save-saved").click()
    expect(saved.get_by_test_id("saved").filter(has_text="Umbrella stand")).to_contain_text("Not used yet")

    outside.say("Did anybody find my striped umbrella, 8101", name="Petra Lindqvist")
    open_message(page, "Did anybody find my striped umbrella, 8101")
    page.keyboard.press("r")
    page.keyboard.type("/")
    page.get_by_test_id("find-reply").fill("brolly")
    expect(page.get_by_test_id("offered").first).to_contain_text("Umbrella stand")
    page.keyboard.press("Enter")
    box = page.get_by_test_id("composer")
    expect(box).to_have_value("It waits in the stand, Petra. https://www.brinewick.example/umbrellas?from=desk")
    # Counted as it will be once the link is short.
    length = len("It waits in the stand, Petra. ") + len(f"{demo.address}/l/") + 8
    expect(page.get_by_test_id("answer")).to_contain_text(f"{length} of 2,000")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    expect(page.get_by_test_id("undo-line")).to_have_count(0, timeout=20_000)
    open_message(page, "Did anybody find my striped umbrella, 8101")
    expect(page.get_by_test_id("delivery")).to_have_text("Delivered, public")
    said = next(t for t in outside.list_texts() if t.startswith("It waits in the stand, Petra."))
    short = re.search(r"http\S+/l/\w{8}$", said)
    assert short, said
    answer = HTTP.get(short[0], headers=BROWSER)
    assert answer.status_code == 302
    assert answer.headers["location"].startswith(
        "https://www.brinewick.example/umbrellas?from=desk&utm_source=commonfold"
    )
    assert HTTP.get(f"{demo.address}/l/nothing0").status_code == 404

    outside.say("Did anybody find my blue umbrella, 8102", name="Rolf Arden")
    open_message(page, "Did anybody find my blue umbrella, 8102")
    page.keyboard.press("r")
    expect(page.get_by_test_id("suggested")).to_contain_text("Umbrella stand")
    page.keyboard.press("Alt+1")
    expect(box).to_have_value(re.compile("It waits in the stand, Rolf"))
    # A second one takes the place of the first while that is unchanged; once words were added both stand.
    first = box.input_value()
    page.get_by_test_id("pick-reply").click()
    page.get_by_test_id("offered").filter(has_not_text="Umbrella stand").first.click()
    expect(box).not_to_have_value(re.compile("It waits in the stand"))
    page.get_by_test_id("pick-reply").click()
    page.get_by_test_id("offered").filter(has_text="Umbrella stand").first.click()
    expect(box).to_have_value(first)
    page.goto("/w/1/setup")
    expect(page.get_by_test_id("short-link").filter(has_text="umbrellas")).to_contain_text("Commonfold1")
    row = page.get_by_test_id("saved").filter(has_text="Umbrella stand")
    expect(row).to_contain_text("Used once")
    row.get_by_role("button", name="Change").click()
    expect(page.get_by_test_id("concerns")).to_contain_text("Mara (1)")


def test_an_answer_is_sent_later_changed_stopped_by_what_they_write_and_taken_back(
    enter: Enter, outside: Outside
) -> None:
    said = outside.say("Is there parking, 8301", name="Otto Lund")
    page = enter("mara", "/w/1/desk")
    id = open_message(page, "Is there parking, 8301")
    page.keyboard.press("r")
    page.keyboard.type("Behind the east pier, 8301.")
    page.get_by_test_id("send-later").click()
    page.get_by_test_id("when").fill("2020-01-01T09:00")
    page.get_by_test_id("pick-when").click()
    expect(page.get_by_role("alert")).to_contain_text("lies ahead")
    page.get_by_role("button", name="In an hour").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("To be sent later")
    page.goto(f"/w/1/desk/{id}")
    expect(page.get_by_test_id("move")).to_contain_text("Parked until")
    strip = page.get_by_test_id("later")
    expect(strip).to_contain_text("Behind the east pier, 8301.")

    outgoing = enter("ilse", "/w/1/outgoing")
    row = outgoing.get_by_test_id("scheduled").locator("li").filter(has_text="8301")
    expect(row).to_contain_text("public reply by Mara")
    assert row.get_by_role("button").count() == 0

    outside.say("And for bicycles, 8302", kind="reply", name="Otto Lund", parent=said["object"]["id"])
    expect(strip).to_contain_text("They have written since")
    expect(row).to_contain_text("They have written since")
    strip.get_by_role("button", name="It is still right").click()
    expect(strip).not_to_contain_text("They have written since")
    strip.get_by_test_id("later-back").click()
    expect(strip).to_have_count(0)
    expect(page.get_by_test_id("composer")).to_have_value("Behind the east pier, 8301.")
    expect(row).to_have_count(0)
    assert "Behind the east pier, 8301." not in outside.list_texts()


def test_a_draft_is_shown_to_a_colleague_who_writes_it_on(enter: Enter, outside: Outside) -> None:
    outside.say("Which fish is that, 8311", name="Ture Falk")
    mara, ilse = enter("mara", "/w/1/desk"), enter("ilse", "/w/1/desk")
    for page in (mara, ilse):
        open_message(page, "Which fish is that, 8311")
    mara.keyboard.press("r")
    mara.keyboard.type("I think it is a wolffish")
    expect(ilse.get_by_test_id("shared-draft")).to_have_count(0)
    mara.get_by_test_id("share-draft").check()
    shown = ilse.get_by_test_id("shared-draft")
    expect(shown).to_contain_text("Mara is writing a public reply")
    shown.get_by_role("button", name="Write it on").click()
    expect(ilse.get_by_test_id("composer")).to_have_value("I think it is a wolffish")
    mara.get_by_test_id("emoji").click()
    face = mara.locator("emoji-picker button.emoji").nth(3)
    expect(face).to_be_visible()
    face.click()
    expect(mara.get_by_test_id("composer")).not_to_have_value("I think it is a wolffish")
    mara.get_by_test_id("share-draft").uncheck()
    expect(shown).to_have_count(0)


def test_a_picture_goes_along_survives_a_reload_and_a_lying_file_is_refused(enter: Enter, outside: Outside) -> None:
    outside.say("Where is the quiet room, 8104", network="hushline", kind="private", name="Lotte Brink")
    page = enter("mara")
    open_message(page, "Where is the quiet room, 8104")
    page.keyboard.press("d")
    page.keyboard.type("Behind the touch pool, see the map")
    files = page.get_by_test_id("answer").get_by_test_id("files")
    lying = {"name": "lying.png", "mimeType": "image/png", "buffer": b"<html><script>alert(1)</script></html>"}
    page.get_by_test_id("choose-file").set_input_files(
        [{"name": "map.png", "mimeType": "image/png", "buffer": picture("PNG")}, lying]
    )
    expect(page.get_by_test_id("file-problem")).to_contain_text("calls itself a PNG picture, but is plain text")
    expect(files.get_by_role("listitem")).to_have_count(1)
    expect(files.get_by_role("img", name="Picture map.png")).to_be_visible()
    with page.expect_response(re.compile(r"/draft$")):
        page.get_by_test_id("choose-file").set_input_files(
            {"name": "hours.txt", "mimeType": "text/plain", "buffer": b"Sunday 9 to 10"}
        )
    page.reload()
    expect(files.get_by_role("listitem")).to_have_count(2)
    files.get_by_role("button", name="Take hours.txt away").click()
    expect(files.get_by_role("listitem")).to_have_count(1)
    page.get_by_test_id("composer").focus()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    page.get_by_test_id("undo-line").get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("composer")).to_have_value("Behind the touch pool, see the map")
    expect(files).to_contain_text("map.png")
    page.get_by_test_id("composer").focus()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    open_message(page, "Where is the quiet room, 8104")
    expect(page.get_by_test_id("script").get_by_role("img", name="Picture map.png").last).to_be_visible()
    expect(page.get_by_test_id("delivery").last).to_have_text("Delivered, private")
    [sent] = [
        t for t in outside.control_state("hushline")["things"] if t["content"] == "Behind the touch pool, see the map"
    ]
    assert [a["name"] for a in sent["attachment"]] == ["map.png"]
    assert HTTP.get(sent["attachment"][0]["url"]).content == picture("PNG")
    # Networks that take no files offer none.
    outside.say("No files here, 8105", name="Lotte Brink")
    open_message(page, "No files here, 8105")
    page.keyboard.press("r")
    expect(page.get_by_test_id("add-file")).to_have_count(0)


def test_a_file_goes_alone_with_what_it_shows_from_the_library_too(enter: Enter, outside: Outside) -> None:
    setup = enter("mara", "/w/1/setup")
    library = setup.get_by_test_id("library")
    expect(library.get_by_test_id("library-file")).to_have_count(3)
    with setup.expect_file_chooser() as choosing:
        library.get_by_role("button", name="Add a picture or a file").click()
    choosing.value.set_files({"name": "crab.gif", "mimeType": "image/gif", "buffer": picture("GIF")})
    expect(setup.get_by_test_id("library-name")).to_be_focused()
    setup.get_by_test_id("library-description").fill(" ")
    library.get_by_role("button", name="Keep").click()
    expect(setup.get_by_test_id("library-problem")).to_contain_text("Say what the picture shows")
    setup.get_by_test_id("library-description").fill("A crab waves")
    check(setup, "library")
    setup.keyboard.press("Enter")
    crab = library.get_by_test_id("library-file").filter(has_text="crab.gif")
    expect(crab).to_contain_text("not sent yet")

    outside.say("A picture please, 8131", network="hushline", kind="private", name="Pia Pic")
    page = enter("ilse")
    expect(page.get_by_test_id("library")).to_have_count(0)
    open_message(page, "A picture please, 8131")
    page.keyboard.press("d")
    expect(page.get_by_test_id("send")).to_be_disabled()
    page.get_by_test_id("choose-file").set_input_files(
        {"name": "ray.png", "mimeType": "image/png", "buffer": picture("PNG")}
    )
    files = page.get_by_test_id("answer").get_by_test_id("files")
    page.get_by_label("What ray.png shows, for whoever cannot see it").fill("A ray glides")
    page.get_by_test_id("pick-kept").click()
    expect(page.get_by_test_id("find-kept")).to_be_focused()
    check(page, "library-picker")
    page.keyboard.type("waves nowhere")
    expect(page.get_by_test_id("library-picker")).to_contain_text("Nothing in the library has all")
    page.get_by_test_id("find-kept").fill("waves crab")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("composer")).to_be_focused()
    expect(files.get_by_role("img", name="A crab waves")).to_be_visible()
    check(page, "answer")
    # Said a moment before it is sent, and it goes along all the same; no word is needed.
    page.get_by_label("What ray.png shows, for whoever cannot see it").fill("A ray glides by")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    page.get_by_test_id("undo-line").get_by_role("button", name="Undo").click()
    # What an answer held is told otherwise in a copy.
    page.get_by_label("What ray.png shows, for whoever cannot see it").fill("A ray glides past")
    page.get_by_test_id("composer").focus()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    open_message(page, "A picture please, 8131")
    script = page.get_by_test_id("script")
    expect(script.get_by_role("img", name="A ray glides past").last).to_be_visible()
    expect(script).to_contain_text("Shows: A crab waves")
    expect(page.get_by_test_id("delivery").last).to_have_text("Delivered, private")
    [sent] = [t for t in outside.control_state("hushline")["things"] if t.get("attachment") and not t["content"]]
    assert sorted(a["summary"] for a in sent["attachment"]) == ["A crab waves", "A ray glides past"]
    setup.reload()
    expect(crab).to_contain_text("sent once")
    library.get_by_role("button", name="Take out crab.gif").click()
    expect(crab).to_have_count(0)


def test_an_answer_is_closed_and_settles_as_the_workspace_has_it(enter: Enter, outside: Outside) -> None:
    page = enter("noor", "/w/1/setup")
    account = page.get_by_test_id("accounts").get_by_role("listitem").filter(has_text="on Commonfold").first
    account.get_by_role("button", name="Change").click()
    page.get_by_role("menuitem", name="Sign-off …").click()
    page.get_by_role("button", name="The initials of whoever writes").click()
    check(page)
    page.get_by_test_id("save-sign-off").click()
    expect(account).to_contain_text("Answers close with “– {initials}”")
    page.get_by_test_id("about-settles").check()
    page.get_by_test_id("about").get_by_role("button", name="Save").click()
    expect(page.get_by_test_id("about").get_by_role("button", name="Save")).to_be_disabled()

    outside.say("Is the lagoon SIGNED tomorrow, 8301", name="Signe Lagoon")
    open_message(page, "Is the lagoon SIGNED tomorrow, 8301")
    page.keyboard.press("r")
    box = page.get_by_test_id("composer")
    closing = page.get_by_test_id("sign-off")
    expect(closing).to_have_text(re.compile("^– [A-Z]{2}$"))
    # It counts; and the field tells of it and of how much fits.
    box.fill("Yes")
    expect(page.locator("#composer-length")).to_have_text("8 of 2,000")
    assert box.get_attribute("aria-describedby") == "composer-length composer-sign-off"
    # What was put in is taken back by the field's own undo; Enter takes the first that is offered.
    page.get_by_test_id("pick-reply").click()
    expect(page.get_by_test_id("offered").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(box).not_to_have_value("Yes")
    page.keyboard.press("Control+z")
    expect(box).to_have_value("Yes")
    # Who can read it is a choice of three, by arrows too; what is not possible is passed over.
    page.keyboard.press("Escape")
    public = page.get_by_role("radio", name="Public reply")
    public.focus()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("radio", name="Team note")).to_have_attribute("aria-checked", "true")
    expect(page.get_by_role("radio", name="Team note")).to_be_focused()
    page.keyboard.press("ArrowRight")
    expect(public).to_have_attribute("aria-checked", "true")
    # A table that is copied is words and a picture of them: the words are meant, and nothing is said of a file.
    box.evaluate(
        """(at) => {
            const data = new DataTransfer()
            data.setData('text/plain', 'a\\tb')
            data.items.add(new File(['x'], 'x.png', { type: 'image/png' }))
            const event = new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })
            at.dispatchEvent(event)
            at.dataset.taken = String(event.defaultPrevented)
        }"""
    )
    expect(box).to_have_attribute("data-taken", "false")
    expect(page.get_by_test_id("file-problem")).to_have_count(0)
    # A file dropped anywhere on the sheet is taken, or it is said why not.
    page.get_by_test_id("script").evaluate(
        """(at) => {
            const data = new DataTransfer()
            data.items.add(new File(['x'], 'x.txt', { type: 'text/plain' }))
            at.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
        }"""
    )
    expect(page.get_by_test_id("file-problem")).to_contain_text("No file can go along with an answer here")
    expect(page.get_by_test_id("send")).to_have_text("Send publicly, settle")
    check(page, "answer")
    box.focus()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent, settled")
    page.keyboard.press("z")
    # It comes back as it was written, without what closes it.
    expect(box).to_have_value("Yes")
    box.focus()
    page.keyboard.press("Control+Shift+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    page.goto("/w/1/desk?move=their_move&words=8301")
    page.locator("[data-conversation]").first.click()
    expect(page.get_by_test_id("script")).to_contain_text(re.compile("Yes\\s+– [A-Z]{2}"))

    page.goto("/w/1/setup")
    page.get_by_test_id("about-settles").uncheck()
    page.get_by_test_id("about").get_by_role("button", name="Save").click()
    account.get_by_role("button", name="Change").click()
    page.get_by_role("menuitem", name="Sign-off …").click()
    page.get_by_role("button", name="None", exact=True).click()
    page.get_by_test_id("save-sign-off").click()
    expect(account).not_to_contain_text("Answers close with")


def test_letters_that_wait_are_tried_at_once_by_one_button(enter: Enter) -> None:
    page = enter("noor", "/w/1/desk")
    letter = {
        "what": "report", "to_whom": "council@harbour.example", "about": "For the council", "conversation_id": None, "many": 1,
        "problem": "The mail server does not answer.", "tries": 2, "next_at": "2031-03-01T09:00:00Z", "since": "2026-03-01T07:00:00Z",
    }  # fmt: skip
    told = {**page.request.get("/api/workspaces/1/outgoing").json(), "letters": [letter]}
    page.route(re.compile(r"/api/workspaces/1/outgoing$"), lambda route: route.fulfill(json=told))
    page.goto("/w/1/outgoing")
    row = page.get_by_test_id("letters").get_by_role("listitem")
    expect(row).to_contain_text("Report by mail to council@harbour.example")
    expect(row).to_contain_text("The mail server does not answer. Try 3 at")
    check(page)
    page.get_by_role("button", name="Try all now").click()
    expect(page.get_by_text("Tried again within a minute.")).to_be_visible()
    assert page.get_by_role("button", name="Try all now").count() == 0
