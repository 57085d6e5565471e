"""Reports as a lead reads them: figures, what is behind them, filters in the address, and who may not."""

import io
import json
import re
from collections.abc import Callable

import openpyxl
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import Outside, open_message
from tests.e2e.test_screens import check

Enter = Callable[..., Page]


def count(text: str | None) -> int:
    return int(re.sub(r"\D", "", text or "") or 0)


def test_a_figure_opens_as_many_conversations_as_it_counts_and_one_works_on_from_there(enter: Enter) -> None:
    page = enter("mara", "/w/1/reports")
    expect(page.get_by_role("heading", name="How we answered")).to_be_visible()
    came_in = page.locator("[data-figure=came_in]")
    n = count(came_in.get_by_role("link").inner_text())
    assert n > 100
    came_in.get_by_role("link").click()
    expect(page.locator("[data-move=any]")).to_contain_text("All")
    expect(page.locator("[data-move=any] b")).to_have_text(str(n))
    expect(page.get_by_text("In a report: came in")).to_be_visible()
    each = page.locator("[data-move]:not([data-move=any]) b").all_inner_texts()
    assert sum(count(one) for one in each) == n
    page.get_by_test_id("queue").get_by_role("link").first.click()
    expect(page.get_by_test_id("script")).to_be_visible()
    # A move within it, and back to all: the report stays.
    page.locator("[data-move=settled]").click()
    expect(page.get_by_text("In a report: came in")).to_be_visible()
    page.go_back()
    page.go_back()
    page.go_back()
    expect(page.get_by_role("heading", name="How we answered")).to_be_visible()


def test_what_a_report_is_about_stands_in_its_address(enter: Enter) -> None:
    page = enter("mara", "/w/1/reports")
    whole = page.locator("[data-figure=came_in] a")
    expect(whole).to_be_visible()
    before = count(whole.inner_text())
    page.get_by_test_id("sentence").get_by_role("button", name="The last 28 days").click()
    page.get_by_role("menuitem", name="The last 7 days").click()
    expect(page).to_have_url(re.compile("period=7_days"))
    page.get_by_role("button", name="Kinds: all kinds").click()
    page.get_by_role("option", name="review").click()
    expect(page).to_have_url(re.compile("kind=review"))
    page.keyboard.press("Escape")
    page.reload()
    expect(page.get_by_role("button", name="Kinds: review")).to_be_visible()
    expect(page.get_by_test_id("sentence").get_by_role("button", name="The last 7 days")).to_be_visible()
    narrowed = count(page.locator("[data-figure=came_in]").locator("a, b").first.inner_text())
    assert narrowed < before
    page.get_by_test_id("definitions").click()
    expect(page.get_by_text("Conversations whose first message of theirs arrived in the period.")).to_be_visible()


def test_a_chart_has_its_table_and_a_day_of_it_opens_its_list(enter: Enter) -> None:
    page = enter("mara", "/w/1/reports?period=7_days")
    chart = page.get_by_role("img", name=re.compile("came in, most on"))
    expect(chart.locator("svg")).to_be_visible()
    page.locator("summary", has_text="as a table").first.click()
    cell = page.get_by_test_id("days-table").locator("tbody tr").nth(3).locator("td").first
    n = count(cell.inner_text())
    assert n > 0
    cell.get_by_role("link").click()
    expect(page.locator("[data-move=any] b")).to_have_text(str(n))
    page.go_back()
    stood = page.get_by_test_id("standing")
    stood.locator("summary").click()
    link = stood.get_by_role("table").get_by_role("link").first
    n = count(link.inner_text())
    link.click()
    expect(page.locator("[data-move=any] b")).to_have_text(str(n))
    expect(page.get_by_text(re.compile("waited at the day’s end, (unsorted|our move)")).first).to_be_visible()


def test_an_answer_shows_in_todays_figures(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/reports?period=today&clock=clock")
    figure = page.locator("[data-figure=came_in]").locator("a, b").first
    expect(figure).to_be_visible()
    before = count(figure.inner_text())
    outside.say("Do the otters sleep in the afternoon, or is there a better time?", name="Report Reader")
    page.wait_for_timeout(1500)
    page.reload()
    expect(figure).to_have_text(str(before + 1))


def test_who_may_not_see_reports_finds_none_and_is_told_why(enter: Enter) -> None:
    page = enter("ilse", "/w/1/reports")
    expect(page.get_by_text("may not see reports")).to_be_visible()
    expect(page.get_by_role("link", name="Reports")).to_have_count(0)
    page.goto("/w/1/desk?report=figure%3Dcame_in")
    expect(page.get_by_text("may not see reports").first).to_be_visible()


def test_a_report_is_kept_opened_again_and_taken_out(enter: Enter) -> None:
    page = enter("mara", "/w/1/reports?period=7_days&kind=review")
    page.get_by_test_id("keep-report").click()
    page.get_by_test_id("name").fill("Reviews of the week")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Kept as Reviews of the week")).to_be_visible()
    page.goto("/w/1/reports")
    page.get_by_role("button", name="Kept").click()
    page.get_by_role("menuitem", name="Reviews of the week").first.click()
    expect(page).to_have_url(re.compile("period=7_days&kind=review"))
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Workbook (XLSX)").click()
    book = openpyxl.load_workbook(io.BytesIO(download.value.path().read_bytes()))
    assert book.sheetnames[:2] == ["About", "Figures"]
    page.get_by_test_id("definitions").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Conversations that came in, as CSV").click()
    rows = download.value.path().read_text(encoding="utf-8-sig").splitlines()
    assert len(rows) - 1 == count(page.locator("[data-figure=came_in] a").inner_text())


def test_reports_are_for_everybody_and_every_width(enter: Enter) -> None:
    page = enter("noor", "/w/1/reports", color_scheme="light")
    expect(page.get_by_role("img", name=re.compile("came in, most on")).locator("svg")).to_be_visible()
    expect(page.get_by_test_id("gaps")).to_be_visible()
    for summary in page.locator("summary").all():
        summary.click()
    page.get_by_role("button", name="10 min").or_(page.get_by_role("button", name="1 h")).first.click()
    page.get_by_role("menuitem", name="10 min").click()
    expect(page.get_by_test_id("staffing")).to_contain_text("assumed, for too few answers were timed")
    check(page)
    page.set_viewport_size({"width": 390, "height": 800})
    fits_a_phone(page, "What changed")
    expect(page.get_by_text("What changed, and why")).to_be_attached()


def test_ones_day_shows_what_is_due_and_done_and_leads_there(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/desk")
    outside.say("Where does the tour begin, 5120", name="Runa Dahl")
    open_message(page, "Where does the tour begin, 5120")
    page.keyboard.press("g")
    page.get_by_test_id("give-to").fill("nak")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Given to Teo")
    page.get_by_role("link", name="Day", exact=True).click()
    expect(page.get_by_role("heading", name="My day", exact=True)).to_be_visible()
    expect(page.get_by_test_id("done")).to_contain_text("Runa Dahl")
    page.get_by_test_id("done").get_by_role("link", name=re.compile("Runa Dahl")).click()
    expect(page.get_by_test_id("script")).to_contain_text("5120")
    page.get_by_role("link", name="Day", exact=True).click()
    page.get_by_role("main").get_by_role("button", name="Mara Okafor").click()
    page.get_by_role("menuitem", name=re.compile("Ilse")).click()
    expect(page.get_by_role("heading", name=re.compile("The day of Ilse"))).to_be_visible()
    page.get_by_test_id("open").get_by_role("link").first.click()
    expect(page).to_have_url(re.compile(r"owner=\d+"))


def test_anothers_day_is_not_for_everybody(enter: Enter) -> None:
    page = enter("ilse", "/w/1/day/1")
    expect(page.get_by_role("alert").or_(page.get_by_test_id("failed"))).to_contain_text("see reports")


def test_accounts_health_is_seen_by_who_sees_reports_and_alarms_are_chosen(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/reports")
    page.get_by_role("button", name=re.compile("one a month")).click()
    page.get_by_role("menuitem", name="one in four months").click()
    expect(page.get_by_role("button", name=re.compile("one in four months"))).to_be_visible()
    page.get_by_role("button", name=re.compile("one in four months")).click()
    page.get_by_role("menuitem", name="one a month").click()
    expect(page.get_by_role("button", name=re.compile("one a month"))).to_be_visible()
    outside.say("Is the tunnel open, 5130", name="Hedda Moen")
    page.get_by_role("link", name="Accounts’ health").click()
    row = page.get_by_test_id("health").get_by_role("row").filter(has_text="Commonfold").first
    expect(row).to_contain_text("connected")
    expect(row).to_contain_text(re.compile(r"\d+ since"))
    check(page)
    page = enter("ilse", "/w/1/reports/accounts")
    expect(page.get_by_text("may not see reports")).to_be_visible()


def test_a_client_reads_a_shared_report_without_signing_in_until_it_is_taken_back(
    enter: Enter, browser: Browser
) -> None:
    page = enter("mara", "/w/1/reports")
    page.get_by_test_id("share-report").click()
    page.get_by_test_id("share-name").fill("For the harbour council")
    page.get_by_label("By kind").check()
    page.get_by_test_id("share-every").select_option("week")
    page.get_by_test_id("share-to").fill("somebody@nowhere.example")
    page.get_by_test_id("share").click()
    expect(page.get_by_test_id("share-problem")).to_contain_text("Nobody at nowhere.example")
    expect(page.get_by_test_id("share-name")).to_have_value("For the harbour council")
    page.get_by_test_id("share-to").fill("mara@brinewick.example")
    page.get_by_test_id("share").click()
    shared = page.get_by_test_id("shared").get_by_role("listitem").filter(has_text="For the harbour council")
    expect(shared).to_contain_text("mailed every week to mara@brinewick.example")
    check(page)
    address = shared.get_by_role("link").get_attribute("href")
    assert address is not None

    # Somebody who is nobody here: no session, no scripts, and no member's name.
    said: list[str] = []
    with_nothing = browser.new_context(java_script_enabled=False)
    theirs = with_nothing.new_page()
    theirs.on("console", lambda message: said.append(message.text))
    answer = theirs.goto(address)
    assert answer is not None
    assert answer.status == 200
    assert "default-src 'none'" in (answer.header_value("content-security-policy") or "")
    expect(theirs.get_by_role("heading", name="For the harbour council")).to_be_visible()
    expect(theirs.get_by_role("row").filter(has_text="Within its target")).to_contain_text("%")
    expect(theirs.get_by_role("heading", name="By kind")).to_be_visible()
    assert "Mara" not in theirs.content()
    # The style is let through by the policy.
    assert theirs.locator("main").evaluate("e => getComputedStyle(e).maxWidth") != "none"
    assert said == []
    page.get_by_role("button", name="Close").click()
    page.get_by_test_id("share-report").click()
    expect(shared).to_contain_text("opened 1 time")
    shared.get_by_role("button", name="Take back").click()
    expect(shared).to_contain_text("leads nowhere any more")
    gone = theirs.goto(address)
    assert gone is not None
    assert gone.status == 404
    with_nothing.close()


def test_how_it_sounded_opens_as_many_as_it_counts_and_more_filters_are_at_hand(enter: Enter) -> None:
    page = enter("mara", "/w/1/reports")
    sounded = page.get_by_test_id("sentiments")
    link = sounded.get_by_role("table").last.get_by_role("link").first
    n = count(link.inner_text())
    assert n > 0
    link.click()
    expect(page.locator("[data-move=any] b")).to_have_text(str(n))
    page.go_back()
    page.get_by_role("button", name="more", exact=True).click()
    page.get_by_role("menuitem", name="Sentiments").click()
    page.get_by_role("button", name=re.compile("^Sentiments")).click()
    page.get_by_role("option", name=re.compile("negative", re.IGNORECASE)).click()
    expect(page).to_have_url(re.compile(r"sentiment=-1"))
    page.keyboard.press("Escape")
    page.reload()
    expect(page.get_by_role("button", name=re.compile("^Sentiments"))).to_be_visible()


def fits_a_phone(page: Page, beside: str) -> None:
    """Nothing sticks out to the side, and what stands beside the page lies below it, not over it."""
    main = page.locator("main")
    assert main.evaluate("m => m.scrollWidth - m.clientWidth") <= 0
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    whole = main.locator("> div").first
    bottom = whole.evaluate("d => d.getBoundingClientRect().top + d.scrollHeight")
    aside = page.get_by_role("complementary", name=beside)
    assert aside.evaluate("a => a.getBoundingClientRect().top") >= bottom - 1


def test_days_are_played_again_with_one_more_person_and_forgotten(enter: Enter) -> None:
    page = enter("mara", "/w/1/reports")
    page.get_by_test_id("to-what-if").click()
    expect(page.get_by_role("heading", name="What if")).to_be_visible()
    form = page.get_by_test_id("what-if-form")
    form.get_by_label("Play again").select_option(label="the last 14 days")
    page.get_by_test_id("more-people").fill("2")
    # What cannot be is said, and nothing that was filled in is lost.
    form.get_by_label("with hours of their own").check()
    page.get_by_test_id("shift-0").fill("9-25")
    page.get_by_test_id("play").click()
    expect(page.get_by_test_id("what-if-problem")).to_contain_text("no clock shows")
    page.get_by_test_id("shift-0").fill("8-18")
    page.get_by_test_id("play").click()
    expect(page.get_by_test_id("what-if-title")).to_have_text("2 more people with hours of their own")
    result = page.get_by_test_id("what-if-result")
    expect(result).to_be_visible(timeout=90_000)
    expect(result).to_contain_text("Played 200 times as it was and 200 times with the change")
    expect(page.get_by_test_id("played-first_half")).to_contain_text(re.compile(r"\d+ (min|s|h)"))
    expect(result.get_by_role("row", name=re.compile("^Somebody new"))).to_have_count(2)
    check(page)
    address = page.url
    page.set_viewport_size({"width": 390, "height": 800})
    fits_a_phone(page, "Asked before")
    page.set_viewport_size({"width": 1280, "height": 800})
    # It stands under its address, for whoever sees reports; others are told.
    other = enter("noor", address)
    expect(other.get_by_test_id("what-if-result")).to_be_visible()
    expect(other.get_by_test_id("what-if-forget")).to_have_count(0)
    page.get_by_test_id("what-if-forget").click()
    expect(page.get_by_test_id("what-if-form")).to_be_visible()
    expect(page.get_by_text("Nothing yet.")).to_be_visible()


def test_what_if_is_for_who_sees_reports(enter: Enter) -> None:
    page = enter("ilse", "/w/1/reports/what-if")
    expect(page.get_by_text("may not see reports")).to_be_visible()
    expect(page.get_by_test_id("play")).to_have_count(0)


def test_conversations_go_out_as_a_file_and_come_in_again_without_change(enter: Enter, outside: Outside) -> None:
    outside.say("Is the cafe open at nine?", kind="private", network="hushline", name="Fay Filing")
    page = enter("noor", "/w/1/desk")
    open_message(page, "Is the cafe open at nine?")
    page.goto("/w/1/reports?period=today")
    page.get_by_test_id("definitions").click()
    with page.expect_download() as taken:
        page.get_by_role("link", name="Conversations that came in, with all that was said, as ActivityStreams").click()
    file = json.loads(taken.value.path().read_text())
    (mine,) = (c for c in file["orderedItems"] if "Is the cafe open" in json.dumps(c))
    assert mine["orderedItems"][0]["object"]["content"] == "Is the cafe open at nine?"
    mine["orderedItems"].append({**mine["orderedItems"][0], "object": {**mine["orderedItems"][0]["object"]}})
    mine["orderedItems"][1]["object"] |= {"id": "https://x.test/more", "content": "Or at eight, by chance?"}
    mine["orderedItems"].append({"type": "Travel"})
    bring_in(page, json.dumps(file).encode())
    result = page.get_by_test_id("import-result")
    expect(result).to_contain_text("1 new messages")
    expect(page.get_by_test_id("import-left-out")).to_contain_text("activity 3: Travel is not a kind of activity")
    bring_in(page, json.dumps(file).encode())
    expect(result).to_contain_text("0 new messages")
    bring_in(page, b"{not json")
    expect(page.get_by_test_id("import-problem")).to_contain_text("cannot be read")
    page.goto("/w/1/desk")
    open_message(page, "Or at eight, by chance?")
    expect(page.get_by_test_id("script")).to_contain_text("Is the cafe open at nine?")


def bring_in(page: Page, file: bytes) -> None:
    if not page.url.endswith("/setup"):
        page.goto("/w/1/setup")
    page.get_by_test_id("import-file").set_input_files(
        {"name": "conversations.json", "mimeType": "application/json", "buffer": file}
    )
