"""Sorting in the real interface: filters, views, tags, several at once, acts on networks, reading, thread,
people, overview, listening, translating; and the whole pass from a full list to none by keys alone."""

import csv
import io
import re
import time

from playwright.sync_api import Page, expect

from demo.run import Demo
from tests.e2e.conftest import Enter, Outside, open_message
from tests.e2e.test_screens import check


def chips(page: Page) -> list[str]:
    return [c.replace("×", "").strip() for c in page.get_by_test_id("chip").all_inner_texts()]


def test_filters_act_at_once_stand_in_the_address_and_make_views(enter: Enter, outside: Outside) -> None:
    outside.say("Is the FILTERED lift running? It is awful", name="Filippa Filter")
    page = enter("mara", "/w/1/desk?move=unsorted")
    expect(page.locator("[data-conversation]").first).to_be_visible()
    page.keyboard.press("f")
    page.locator("[data-filter='network=commonfold']").click()
    page.locator("[data-filter='reads_as=complaint']").click()
    page.get_by_label("Words in a message, or a filter").fill("filtered")
    page.get_by_role("button", name="Find", exact=True).click()
    expect(page.locator("[data-conversation]")).to_have_count(1)
    expect(page.locator("[data-conversation]")).to_contain_text("Filippa Filter")
    assert chips(page) == ["Commonfold", "Reads as: complaint", "Words: filtered"]
    assert all(part in page.url for part in ("network=commonfold", "reads_as=complaint", "words=filtered"))
    page.keyboard.press("v")
    page.get_by_role("menuitem", name="Keep this as a view").click()
    page.get_by_test_id("name").fill("Lifts")
    page.get_by_label("Everybody here can use it").check()
    page.keyboard.press("Enter")
    page.get_by_test_id("clear").click()
    expect(page.locator("[data-conversation]").nth(3)).to_be_visible()
    other = enter("ilse", "/w/1/desk?move=our_move")
    expect(other.get_by_test_id("queue")).to_be_visible()
    other.keyboard.press("v")
    other.get_by_role("menuitem", name="Lifts").click()
    expect(other.locator("[data-conversation]")).to_have_count(1)
    expect(other).to_have_url(re.compile("move=unsorted"))
    other.reload()
    expect(other.locator("[data-conversation]")).to_have_count(1)


def test_tag_by_key_filter_by_it_and_undo(enter: Enter, outside: Outside) -> None:
    outside.say("Tag me please", name="Tage Tagg")
    page = enter("mara")
    open_message(page, "Tag me please")
    page.keyboard.press("m")
    # A slip of the finger makes no tag: a new one is asked about.
    page.get_by_test_id("name").fill("lift trouble")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("new-name")).to_contain_text("There is no tag called “lift trouble” yet")
    check(page)
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("trail")).to_contain_text("Mara tagged it lift trouble")
    expect(page.get_by_test_id("move")).to_have_text("Our move")
    page.keyboard.press("z")
    expect(page.get_by_test_id("trail")).to_contain_text("Mara took that back")
    expect(page.get_by_test_id("move")).to_have_text("Unsorted")


def test_the_teams_words_are_made_renamed_merged_and_retired(enter: Enter, outside: Outside) -> None:
    outside.say("MERGE me please", name="Merle Merge")
    page = enter("mara")
    open_message(page, "MERGE me please")
    # Several at once: a comma goes on to the next, and what is on shows as on.
    page.keyboard.press("m")
    name = page.get_by_test_id("name")
    for slip in ("gift card", "giftcrad"):
        name.fill(slip)
        name.press("Enter")
        expect(page.get_by_test_id("new-name")).to_contain_text(slip)
        name.press(",")
        expect(name).to_have_value("")
    expect(page.get_by_test_id("tag-changes")).to_have_text("On: gift card, giftcrad")
    name.press("Enter")
    expect(page.get_by_test_id("trail")).to_contain_text("Mara tagged it giftcrad")
    page.goto("/w/1/setup")
    tags = page.get_by_test_id("tags")
    line = tags.get_by_test_id("tag-line").filter(has_text="giftcrad")
    expect(line).to_contain_text("1 conversation, 1 open")
    line.get_by_role("button", name="Merge giftcrad into another").click()
    check(page)
    page.get_by_test_id("merge-into").select_option(label="gift card")
    page.get_by_test_id("merge").click()
    expect(line).to_have_count(0)
    line = tags.get_by_test_id("tag-line").filter(has_text="gift card")
    line.get_by_role("button", name="Change gift card").click()
    page.get_by_test_id("tag-name").fill("Gift cards")
    page.get_by_test_id("tag-heading").fill("Shop")
    page.get_by_test_id("save-tag").click()
    expect(tags.get_by_role("heading", name="Shop")).to_be_visible()
    line = tags.get_by_test_id("tag-line").filter(has_text="Gift cards")
    line.get_by_role("button", name="Retire Gift cards").click()
    expect(line).to_have_count(0)
    tags.get_by_label("Show 1 retired").check()
    line.get_by_role("button", name="Bring Gift cards back").click()
    expect(line.get_by_role("button", name="Retire Gift cards")).to_be_visible()
    check(page, "tags")
    # Each figure leads to its list, and the trail says what became of the tag.
    line.get_by_role("link", name="1 conversation, 1 open").click()
    page.locator("[data-conversation]").filter(has_text="Merle Merge").click()
    expect(page.get_by_test_id("trail")).to_contain_text("The tag giftcrad became Gift cards")
    page.goto("/w/1/setup")
    teams = page.get_by_test_id("teams")
    teams.get_by_test_id("new-team").click()
    page.get_by_test_id("team-name").fill("Shop desk")
    teams.get_by_role("button", name="Members of the team").click()
    page.get_by_role("option", name="Ilse").click()
    page.keyboard.press("Escape")
    page.get_by_test_id("save-team").click()
    team = teams.get_by_test_id("team").filter(has_text="Shop desk")
    expect(team).to_contain_text("Ilse")
    team.get_by_label("How Shop desk chooses").select_option(label="to the lightest load")
    check(page, "teams")
    page.reload()
    expect(team.get_by_label("How Shop desk chooses")).to_have_value("lightest")


def test_several_at_once_and_one_undo(enter: Enter, outside: Outside) -> None:
    for n in range(4):
        outside.say(f"BULKY question {n}", name=f"Bulk Number{n}")
    page = enter("mara", "/w/1/desk?move=unsorted&words=bulky")
    expect(page.locator("[data-conversation]")).to_have_count(4)
    page.keyboard.press("Control+a")
    bar = page.get_by_test_id("selected")
    expect(bar).to_contain_text("4 selected")
    bar.get_by_role("button", name="Keep").click()
    expect(page.locator("[data-conversation]")).to_have_count(0)
    expect(page.get_by_test_id("undo-line")).to_contain_text("4:")
    page.keyboard.press("z")
    expect(page.locator("[data-conversation]")).to_have_count(4)
    page.locator("[data-conversation]").first.click()
    page.keyboard.press("Space")
    page.keyboard.press("Shift+ArrowDown")
    expect(bar).to_contain_text("2 selected")
    page.keyboard.press("m")
    page.get_by_test_id("name").fill("bulky")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Make the tag").click()
    expect(page.locator("[data-conversation]")).to_have_count(2)
    page.goto("/w/1/desk?move=our_move&words=bulky")
    expect(page.locator("[data-conversation]")).to_have_count(2)
    # By mouse or touch: a box at each row, with Shift all up to it; and a row is a link like any.
    page.goto("/w/1/desk?move=unsorted&words=bulky")
    boxes = page.get_by_test_id("row-box")
    boxes.first.check()
    expect(bar).to_contain_text("1 selected")
    boxes.nth(1).click(modifiers=["Shift"])
    expect(bar).to_contain_text("2 selected")
    boxes.first.uncheck()
    expect(bar).to_contain_text("1 selected")
    check(page)
    row = page.locator("[data-conversation]").first
    id = row.get_attribute("data-conversation")
    with page.context.expect_page() as opened:
        row.click(modifiers=["ControlOrMeta"])
    expect(opened.value).to_have_url(re.compile(rf"/w/1/desk/{id}\?move=unsorted&words=bulky"))
    expect(opened.value.get_by_test_id("script")).to_contain_text("BULKY question")
    expect(page).to_have_url(re.compile(r"/desk\?move=unsorted"))


def test_several_are_answered_liked_and_taken_along_at_once(enter: Enter, outside: Outside) -> None:
    for n in range(3):
        outside.say(f"SHUTGATE again {n}", name=f"Gatti Number{n}")
    outside.say("SHUTGATE privately", network="hushline", kind="private", name="Gatti Private")
    page = enter("mara", "/w/1/setup")
    saved = page.get_by_test_id("saved-replies")
    saved.get_by_test_id("new-saved").click()
    saved.get_by_test_id("saved-name").fill("Gate shut")
    saved.get_by_test_id("saved-text").fill("Sorry about the gate, {first name}.")
    saved.get_by_test_id("save-saved").click()
    expect(saved.get_by_test_id("saved").filter(has_text="Gate shut")).to_be_visible()
    page.goto("/w/1/desk?move=unsorted&words=shutgate")
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(4)
    page.keyboard.press("Control+a")
    bar = page.get_by_test_id("selected")
    expect(bar).to_contain_text("4 selected")
    with page.expect_download() as taken:
        bar.get_by_role("button", name="More").click()
        page.get_by_role("menuitem", name="Take these out as CSV").click()
    assert taken.value.suggested_filename == "selected.csv"
    table = list(csv.reader(taken.value.path().read_text(encoding="utf-8-sig").splitlines()))
    assert len(table) == 5
    # A like goes to three of four: the private one is left, with its reason.
    page.keyboard.press("i")
    expect(page.get_by_role("alert").filter(has_text="1 of 4 were left as they were")).to_be_visible()
    page.keyboard.press("Control+a")
    expect(bar).to_contain_text("4 selected")
    page.keyboard.press("r")
    page.get_by_test_id("bulk-reply").fill("gate shut")
    page.get_by_label("And settle them").check()
    check(page)
    page.get_by_test_id("bulk-send").click()
    expect(page.get_by_test_id("undo-line")).to_contain_text("4: answered with “Gate shut”, settled")
    expect(rows).to_have_count(0)
    page.keyboard.press("z")
    expect(rows).to_have_count(4)
    page.keyboard.press("Control+a")
    expect(bar).to_contain_text("4 selected")
    page.keyboard.press("r")
    page.get_by_test_id("bulk-reply").fill("gate shut")
    page.keyboard.press("Enter")
    expect(rows).to_have_count(0)
    page.goto("/w/1/desk?move=their_move&words=shutgate")
    expect(rows).to_have_count(4)
    rows.filter(has_text="Gatti Private").click()
    expect(page.get_by_test_id("script")).to_contain_text("Sorry about the gate, Gatti.")


def test_what_happens_on_the_network_happens_there_and_deleting_asks_first(enter: Enter, outside: Outside) -> None:
    said = outside.say("HIDE this one", name="Hidde Berg")["object"]
    page = enter("mara")
    open_message(page, "HIDE this one")
    expect(page.get_by_test_id("missing")).to_have_text("no repost here")
    page.keyboard.press("a")
    expect(page.get_by_role("alert")).to_contain_text("Commonfold")
    page.keyboard.press("h")
    expect(page.get_by_test_id("moderated")).to_have_text("On Commonfold: hidden")

    def get(id: str) -> dict:
        things = page.request.get(f"{outside.address}/control/state/commonfold").json()["things"]
        return next(t for t in things if t["id"] == id)

    assert get(said["id"])["hidden"]
    page.keyboard.press("Delete")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("cannot be undone")
    dialog.get_by_role("button", name="Leave it").click()
    page.keyboard.press("Delete")
    page.get_by_test_id("confirm").click()
    expect(page.get_by_test_id("script")).to_contain_text("Deleted on Commonfold by Mara")
    expect(page.get_by_test_id("script")).to_contain_text("HIDE this one")
    assert "deleted" in get(said["id"])


def test_a_reading_is_corrected_and_counted(enter: Enter, outside: Outside) -> None:
    outside.say("Great. Just great. Wet socks again.", name="Iro Nie")
    page = enter("mara")
    open_message(page, "Wet socks again")
    page.keyboard.press("c")
    dialog = page.get_by_role("dialog")
    for pressed in dialog.locator("[aria-pressed=true]").all():
        pressed.click()
    dialog.get_by_role("button", name="complaint", exact=True).click()
    dialog.get_by_role("button", name="thanks", exact=True).click()
    dialog.get_by_test_id("save-labels").click()
    expect(page.get_by_test_id("reading").last).to_contain_text("reads as a complaint and thanks")
    expect(page.get_by_test_id("evidence")).to_contain_text("said by a member")
    page.goto("/w/1/setup")
    expect(page.get_by_text("to complaint thanks")).to_be_visible()


def test_how_sure_a_reading_is_stands_in_words_and_on_request_in_numbers(enter: Enter, outside: Outside) -> None:
    outside.say("When do you open on Sunday, and where do I park?", name="Odd Hagen")
    page = enter("mara")
    open_message(page, "where do I park")
    box = page.get_by_test_id("evidence")
    expect(box.locator("[data-label=question]")).to_contain_text("A question, sure")
    box.get_by_test_id("chances").click()
    expect(box.locator("[data-label=question]")).to_contain_text("%")


def test_the_whole_thread_shows_what_is_answered(enter: Enter, outside: Outside) -> None:
    post = outside.publish("Feeding 5521", "At noon, every day.")
    outside.say("Also on Sundays, 5521?", kind="comment", name="Rolf Aune", parent=post)
    outside.say("We were there, 5521, lovely", kind="comment", name="Ida Vang", parent=post)
    page = enter("mara")
    open_message(page, "Also on Sundays, 5521?")
    page.keyboard.press("r")
    page.keyboard.type("Yes, Sundays too.")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Reply sent")
    page.keyboard.press("Escape")
    open_message(page, "We were there, 5521, lovely")
    page.keyboard.press("l")
    thread = page.get_by_test_id("thread")
    expect(thread.locator("[data-mine=true]")).to_have_count(1)
    expect(thread).to_contain_text("answered")
    expect(thread).to_contain_text("Yes, Sundays too.")
    before = page.url
    thread.locator("button").filter(has_text="Also on Sundays, 5521?").click()
    expect(page).not_to_have_url(before)
    expect(page.get_by_test_id("script")).to_contain_text("Also on Sundays, 5521?")


def test_translating_keeps_both(enter: Enter, outside: Outside) -> None:
    outside.say("Gilt die Jahreskarte auch an Feiertagen?", network="hushline", kind="private", name="Dorte Dahl")
    page = enter("mara")
    open_message(page, "Gilt die Jahreskarte")
    page.keyboard.press("q")
    expect(page.get_by_test_id("translation")).to_contain_text("Is the annual pass valid on public holidays too?")
    page.keyboard.press("d")
    page.keyboard.type("Yes, at both places.")
    page.get_by_test_id("translate-reply").click()
    expect(page.get_by_test_id("composer")).to_have_value("Ja, an beiden Orten.")
    with page.expect_response(lambda answer: answer.request.method == "POST" and "/repl" in answer.url):
        page.get_by_test_id("send").click()
    page.goto(page.url)
    expect(page.get_by_test_id("translation").last).to_contain_text("Yes, at both places.")
    expect(page.get_by_test_id("delivery")).to_have_text("Delivered, private")
    assert "Ja, an beiden Orten." in outside.list_texts("hushline")


def test_one_customer_on_three_networks_becomes_one_person(enter: Enter) -> None:
    page = enter("mara", "/w/1/people")
    page.get_by_test_id("people-words").fill("jorinde")
    expect(page.get_by_test_id("people-total")).to_have_text("3 people")
    page.locator("[data-person]").first.click()
    for left in (1, 0):
        page.get_by_test_id("suggestions").get_by_role("button").first.click()
        expect(page.get_by_test_id("suggestions").get_by_role("button")).to_have_count(left)
    expect(page.get_by_test_id("contact")).to_have_count(3)
    expect(page.get_by_test_id("people-total")).to_have_text("1 person")
    page.get_by_test_id("fact-value").fill("prefers mornings")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("fact").filter(has_text="prefers mornings")).to_be_visible()
    # Two values under one name are marked, wherever they are shown.
    page.get_by_label("What it is").fill("Pass")
    page.get_by_test_id("fact-value").fill("single")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("fact-conflict")).to_have_count(2)
    check(page, "profile")
    page.get_by_test_id("follow-up-words").fill("Ring her back")
    page.get_by_role("button", name="Remind").click()
    expect(page.get_by_test_id("follow-up").filter(has_text="Ring her back")).to_be_visible()
    page.get_by_role("button", name="Separate again").first.click()
    expect(page.get_by_test_id("people-total")).to_have_text("2 people")
    with page.expect_download() as got:
        page.get_by_test_id("export").click()
    table = list(csv.DictReader(io.StringIO(got.value.path().read_text("utf-8-sig"))))
    assert {row["Name"] for row in table} == {"Jorinde Castell"}
    page.keyboard.press("Escape")
    page.goto("/w/1/people")
    expect(page.get_by_test_id("my-follow-up").filter(has_text="Ring her back")).to_be_visible()


def test_somebody_is_erased_at_their_wish(enter: Enter, outside: Outside) -> None:
    """Refused while an answer leaves; then by their name, said again; a colleague who has it open sees it go, and reads what stays."""
    outside.say("Please forget that I was ever here", kind="visitor_post", name="Wendel Obst")
    colleague = enter("mara")
    id = open_message(colleague, "Please forget that I was ever here")
    page = enter("noor", f"/w/1/desk/{id}")
    person = page.request.get(f"/api/workspaces/1/conversations/{id}").json()["conversation"]["person_id"]
    expect(page.get_by_test_id("script")).to_contain_text("Please forget")
    # It stays on its way until the network takes it.
    outside.control("mischief/commonfold", fail=50)
    page.keyboard.press("r")
    page.keyboard.type("We will")
    with page.expect_response(lambda answer: answer.request.method == "POST" and "/repl" in answer.url):
        page.keyboard.press("Control+Enter")
    page.goto(f"/w/1/people/{person}")
    page.get_by_test_id("erase").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_test_id("unfinished")).to_contain_text("An answer is on its way to them")
    expect(dialog.get_by_role("button", name="Erase for good")).to_be_disabled()
    outside.control("mischief/commonfold", fail=0)
    expect(colleague.get_by_test_id("delivery")).to_have_text("Delivered, public", timeout=30_000)
    dialog.get_by_role("button", name="Look again").click()
    expect(dialog.get_by_test_id("erase-name")).to_be_visible()
    check(page)
    dialog.get_by_test_id("erase-name").fill("Wendel")
    expect(dialog.get_by_role("button", name="Erase for good")).to_be_disabled()
    dialog.get_by_test_id("erase-name").fill("Wendel Obst")
    dialog.get_by_role("button", name="Erase for good").click()
    expect(dialog).to_have_count(0)
    expect(page).to_have_url(re.compile("/people$"))
    expect(colleague.get_by_test_id("erased")).to_contain_text("was erased")
    expect(colleague.get_by_test_id("script")).not_to_contain_text("forget that I was ever here")
    expect(colleague.get_by_test_id("composer")).to_have_count(0)
    colleague.keyboard.press("s")
    expect(colleague.get_by_role("menu")).to_have_count(0)
    check(colleague, "script")
    # An Owner's alone.
    expect(enter("mara", "/w/1/people").get_by_test_id("erase")).to_have_count(0)


def test_how_long_people_are_kept_is_chosen_knowing_what_would_go(enter: Enter) -> None:
    page = enter("noor", "/w/1/setup#clock-title")
    line = page.get_by_test_id("periods").locator("li").filter(has_text="People, and all that was said")
    expect(line).to_contain_text("never")
    line.get_by_role("button", name="Change").click()
    dialog = page.get_by_test_id("period-dialog")
    dialog.get_by_label("Days", exact=True).fill("5")
    expect(dialog.get_by_test_id("would-go")).to_contain_text(re.compile(r"\d+ of them would go, for good"))
    check(page)
    dialog.get_by_label("Days", exact=True).fill("0")
    expect(dialog.get_by_role("alert")).to_contain_text("from 1 to 36,500")
    dialog.get_by_label("Days", exact=True).fill("3650")
    expect(dialog.get_by_test_id("would-go")).to_have_text("Nothing would go now.")
    dialog.get_by_role("button", name="Keep it so").click()
    expect(line).to_contain_text("after 3650 days")
    line.get_by_role("button", name="Change").click()
    dialog.get_by_label("For good").check()
    dialog.get_by_role("button", name="Keep it so").click()
    expect(line).to_contain_text("never")


def test_the_overview_opens_queues_and_the_feed_is_live(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/overview?rows=kind&columns=move")
    cell = page.locator("[data-cell='comment unsorted']")
    expect(cell).to_be_visible()
    count = int(re.search(r"\d+", cell.inner_text())[0])
    said = outside.say("Straight into the FEED", kind="form_entry", name="Fee Dahl")
    feed = page.get_by_test_id("feed")
    expect(feed.locator("li").first).to_contain_text("Straight into the FEED")
    expect(page).to_have_title(re.compile(r"^\(\d+\) Overview, Sorta$"))
    post = next(
        t for t in outside.control_state()["things"] if t.get("name") and t["attributedTo"]["id"].endswith("/brinewick")
    )
    outside.control("like", network="commonfold", handle="li.ke", name="Li Kejsen", id=post["id"])
    expect(feed.locator("li").first).to_contain_text("Li Kejsen")
    assert said
    cell.click()
    expect(page.locator("[data-move=unsorted]")).to_contain_text(str(count))
    page.goto("/w/1/overview?rows=tag&columns=owner")
    expect(page.get_by_text("standing at")).to_be_visible()
    expect(page.get_by_text("the sums count it once")).to_be_visible()


def test_listening_brings_what_nobody_addressed_to_us(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/setup")
    page.get_by_test_id("listen-for").fill("xylophone eel")
    page.get_by_role("button", name="Listen", exact=True).click()
    expect(page.get_by_test_id("listening").filter(has_text="xylophone eel")).to_be_visible()
    # The account that was chosen is the first that can be searched.
    outside.control("say", network="pixfern", kind="talk", handle="eel.fan", name="Eel Fan", text="A xylophone eel!")
    page.goto("/w/1/desk?move=unsorted&kind=found&words=xylophone")
    expect(page.locator("[data-conversation]")).to_contain_text("A xylophone eel!", timeout=60_000)


def test_what_is_due_follows_hours_and_targets(enter: Enter, outside: Outside) -> None:
    """In the garden's workspace, open round the clock in tests, so that the hour of the day does not matter."""
    actor = {"handle": "hedda.hag", "name": "Hedda Hag"}
    outside.control("say", network="hushline", kind="private", text="When is it DUE?", page="mossgate", to="mossgate", **actor)  # fmt: skip
    desk = enter("mara", "/w/2/desk?move=unsorted&words=due")
    row = desk.locator("[data-conversation]").filter(has_text="Hedda Hag")
    expect(row).to_contain_text(re.compile(r"[78] h"))
    setup = enter("noor", "/w/2/setup")
    for n in range(7):
        setup.get_by_test_id(f"hours-{n}").fill("0-12, 12-24")
    setup.get_by_test_id("hours-3").fill("nine to five")
    setup.get_by_test_id("target-private-normal").fill("55")
    setup.get_by_test_id("save-hours").click()
    expect(setup.get_by_role("alert")).to_contain_text("nine to five")
    expect(setup.get_by_test_id("target-private-normal")).to_have_value("55")
    setup.get_by_test_id("hours-3").fill("0-24")
    setup.get_by_test_id("save-hours").click()
    expect(setup.get_by_test_id("hours-question")).to_contain_text(
        "In private High would be answered within 120 minutes"
    )
    setup.get_by_test_id("hours-sure").click()
    expect(row).to_contain_text(re.compile(r"5\d min"), timeout=60_000)
    expect(setup.get_by_text("What is due has followed")).to_be_visible()


def test_from_all_unsorted_to_none_by_keys_alone(enter: Enter, demo: Demo) -> None:
    """One decision each, then the next opens by itself; each is in the trail afterwards. Prints keys and seconds."""
    with demo.cluster.admin("sorta") as conn:
        before = conn.execute("select count(*) from trail where member_id is not null").fetchone()[0]
    page = enter("mara", "/w/1/desk?move=unsorted")
    expect(page.locator("[data-conversation]").first).to_be_visible()
    tab = page.locator("[data-move=unsorted]")

    begun = int(re.search(r"\d+", tab.inner_text())[0])
    assert begun >= 50
    decisions = ("y", "k", "j", "y", "k", "y")
    keys, began = 1, time.monotonic()
    page.keyboard.press("ArrowDown")
    # It is open at once; the address follows.
    page.wait_for_url(re.compile(r"/desk/\d+"))
    for n in range(begun + 20):
        opened = re.search(r"/desk/(\d+)", page.url)
        if not opened:
            break
        # What cannot be seen yet is not decided about.
        expect(page.locator(f"[data-sheet='{opened[1]}']").get_by_test_id("move")).to_have_text("Unsorted")
        here = page.url
        page.keyboard.press(decisions[n % len(decisions)])
        keys += 1
        # Told by the page at once; asking again and again would be slower than the desk is.
        page.wait_for_function("here => location.href !== here", arg=here)
    took = time.monotonic() - began
    expect(tab).to_contain_text("0")
    expect(page.get_by_test_id("queue")).to_contain_text("sorted")
    with demo.cluster.admin("sorta") as conn:
        after = conn.execute("select count(*) from trail where member_id is not null").fetchone()[0]
        undecided = conn.execute("select count(*) from conversation where workspace_id = 1 and move = 'unsorted'")
        assert undecided.fetchone()[0] == 0
    assert after - before == keys - 1
    print(f"\n{begun} unsorted to none: {keys / begun:.2f} keys and {took / begun:.2f} s per decision")
