"""Reports as a lead reads them: figures, what is behind them, filters in the address, and who may not."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Outside

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
