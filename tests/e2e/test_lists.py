"""Finding on the desk: the filter panel, views, lists over all moves, on paper and as tables."""

import csv
import re
from pathlib import Path

from playwright.sync_api import expect

from tests.e2e.conftest import Enter, Outside
from tests.e2e.test_screens import check


def test_the_filter_panel_is_short_and_found_in_and_an_empty_list_can_be_left(enter: Enter, outside: Outside) -> None:
    outside.say("Panel walrus 8301", name="Panel Person")
    page = enter("mara", "/w/1/desk?move=unsorted")
    expect(page.locator("[data-conversation]").first).to_be_visible()
    page.keyboard.press("f")
    panel, field = page.get_by_test_id("filter-panel"), page.get_by_test_id("filter-words")
    expect(field).to_be_focused()
    assert panel.get_by_role("button").count() < 80
    check(page, "filter-panel")
    # What is typed narrows the choices; Enter finds it in messages.
    field.fill("hushl")
    expect(panel.locator("[data-filter='network=hushline']")).to_be_visible()
    expect(panel.locator("[data-filter^='priority=']")).to_have_count(0)
    field.fill("panel 8301")
    field.press("Enter")
    expect(page.locator("[data-conversation]")).to_have_count(1)
    page.keyboard.press("f")
    page.locator("[data-filter='priority=3']").click()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("queue")).to_contain_text("Nothing here passes the filters.")
    page.get_by_test_id("clear-empty").click()
    expect(page.locator("[data-conversation]").nth(1)).to_be_visible()


def test_a_list_over_all_moves_finds_what_is_settled_too_and_what_was_mistyped(enter: Enter, outside: Outside) -> None:
    outside.say("Quokkafeast 8310 tonight", name="Quo Kka")
    page = enter("mara", "/w/1/desk?move=unsorted&words=quokkafeast")
    page.locator("[data-conversation]").click()
    expect(page.get_by_test_id("composer")).to_be_visible()
    page.keyboard.press("y")
    expect(page.get_by_test_id("undo-line")).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_test_id("find").fill("quokkafaest")
    page.get_by_role("option").filter(has_text="stands here").click()
    expect(page.get_by_test_id("find")).to_have_value("quokkafeast")
    page.get_by_role("option").filter(has_text="as a list").click()
    row = page.locator("[data-conversation]")
    expect(row).to_have_count(1)
    expect(row).to_contain_text("no reply needed")
    expect(page.get_by_role("button", name=re.compile("All$"))).to_have_attribute("aria-current", "page")
    # The same help in the list itself, and the words stay from move to move.
    page.goto("/w/1/desk?move=any&words=quokkafaest")
    page.get_by_test_id("meant").click()
    expect(row).to_have_count(1)
    page.locator("[data-move=settled]").click()
    expect(page).to_have_url(re.compile("move=settled"))
    expect(row).to_have_count(1)


def test_what_an_address_cannot_mean_is_said_and_left_out(enter: Enter) -> None:
    page = enter("mara", "/w/1/desk?move=settled&priority=9&since=garbage&owner=x&language=!!&network=commonfold")
    expect(page.locator("[data-conversation]").first).to_be_visible()
    said = page.get_by_test_id("unread-filters")
    for part in ("Owner “x”", "Language “!!”", "Priority “9”", "Since “garbage”"):
        expect(said).to_contain_text(part)
    expect(page.get_by_test_id("chip")).to_have_count(1)


def test_views_stand_ready_and_count_and_the_desk_is_where_one_left_it(enter: Enter, outside: Outside) -> None:
    outside.say("Mine to do 8320", name="My Own")
    page = enter("teo", "/w/1/desk?move=unsorted&words=8320")
    page.locator("[data-conversation]").click()
    expect(page.get_by_test_id("composer")).to_be_visible()
    page.keyboard.press("t")
    expect(page.get_by_test_id("undo-line")).to_be_visible()
    page.keyboard.press("v")
    mine = page.get_by_role("menuitem", name=re.compile("^Mine"))
    expect(mine).to_contain_text(re.compile(r"Mine\s*\d+"))
    mine.click()
    expect(page.get_by_test_id("chip")).to_have_text([re.compile("Owner: Me")])
    page.keyboard.press("ArrowDown")
    page.wait_for_url(re.compile(r"/desk/\d+\?.*owner=me"))
    left = page.url
    page.get_by_role("link", name="Team", exact=True).click()
    expect(page).to_have_title(re.compile("Team, Sorta$"))
    page.get_by_role("link", name="Desk", exact=True).click()
    expect(page).to_have_url(left)


def test_a_list_goes_on_paper_and_into_tables(enter: Enter, outside: Outside, tmp_path: Path) -> None:
    outside.say("Paper trail 8330", name="Paper Person")
    page = enter("noor", "/w/1/desk?move=unsorted&words=8330")
    expect(page.locator("[data-conversation]")).to_have_count(1)
    page.keyboard.press("v")
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Take this list out as CSV").click()
    download.value.save_as(tmp_path / "list.csv")
    (row,) = csv.DictReader((tmp_path / "list.csv").read_text("utf-8-sig").splitlines())
    assert row["Person"] == "Paper Person"
    page.keyboard.press("v")
    with page.context.expect_page() as opened:
        page.get_by_role("menuitem", name="Print this list").click()
    paper = opened.value
    expect(paper.get_by_test_id("printed")).to_have_count(1)
    expect(paper.get_by_test_id("printed")).to_contain_text("Paper trail 8330")
    check(paper)
    # Who may not take anything out is not offered it.
    ilse = enter("ilse", "/w/1/desk?move=unsorted&words=8330")
    expect(ilse.locator("[data-conversation]")).to_have_count(1)
    ilse.keyboard.press("v")
    expect(ilse.get_by_role("menuitem", name="Print this list")).to_be_visible()
    expect(ilse.get_by_role("menuitem", name="Take this list out as CSV")).to_have_count(0)
