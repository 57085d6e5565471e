"""The next conversation opens before an act's answer is there: what is refused comes back and is said, and what is taken back is the last thing done."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.e2e.conftest import Enter, Outside

pytestmark = pytest.mark.usefixtures("outside")


def three(enter: Enter, outside: Outside, number: int) -> tuple[Page, list[int], str, dict[str, str]]:
    """A desk with three unsorted conversations, the first of them open; their numbers in the list's order, who the first is with, and the messages by name."""
    said = {
        name: outside.say(f"Going on {number}", name=name)["object"]["id"]
        for name in (f"{n} {number}" for n in ("Ada", "Bea", "Cid"))
    }
    page = enter("mara", f"/w/1/desk?move=unsorted&words={number}")
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(3)
    ids = [int(rows.nth(n).get_attribute("data-conversation")) for n in range(3)]
    rows.first.click()
    expect(page.locator(f"[data-sheet='{ids[0]}']").get_by_test_id("script")).to_be_visible()
    return page, ids, re.search(f"(Ada|Bea|Cid) {number}", rows.first.inner_text())[0], said


def hold(page: Page, *ids: int) -> list[Route]:
    """Acts on these are kept back until somebody lets them go on."""
    held: list[Route] = []
    for id in ids:
        page.route(f"**/conversations/{id}/acts", lambda r: held.append(r))
    return held


def wait_held(page: Page, held: list[Route], many: int = 1) -> list[Route]:
    """The page is ahead of what it asks for."""
    for _ in range(100):
        if len(held) >= many:
            break
        page.wait_for_timeout(20)
    assert len(held) == many
    return held


def test_the_next_is_open_before_the_answer_and_undo_takes_back_the_last(enter: Enter, outside: Outside) -> None:
    page, (first, second, third), _, _ = three(enter, outside, 8610)
    held = hold(page, first, second)
    page.keyboard.press("y")
    expect(page.locator(f"[data-sheet='{second}']:not([inert])")).to_be_visible()
    expect(page.locator(f"[data-conversation='{first}']")).to_have_count(0)
    expect(page).to_have_url(re.compile(f"/desk/{second}[?]"))
    page.keyboard.press("j")
    expect(page.locator(f"[data-sheet='{third}']:not([inert])")).to_be_visible()
    # Nothing is said to be done before it is.
    expect(page.get_by_test_id("undo-line")).to_have_count(0)
    wait_held(page, held, 2)
    page.keyboard.press("z")
    # The answers come in the wrong order.
    held[1].continue_()
    page.wait_for_timeout(200)
    held[0].continue_()
    expect(page.get_by_test_id("taken-back")).to_contain_text("Taken back: Settled: junk")
    expect(page.locator(f"[data-sheet='{second}']")).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_test_id("taken-back")).to_contain_text("Taken back: Settled: no reply needed")
    expect(page.locator("[data-conversation]")).to_have_count(3)


def test_what_is_refused_is_back_in_its_place_and_leads_there(enter: Enter, outside: Outside) -> None:
    page, (first, second, third), name, _ = three(enter, outside, 8620)
    page.route(f"**/conversations/{first}/acts", lambda r: r.abort())
    page.keyboard.press("y")
    left = page.get_by_test_id("left-as-it-was")
    expect(left).to_contain_text(f"{name} was left as it was, not “Settled: no reply needed”")
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(3)
    assert [int(rows.nth(n).get_attribute("data-conversation")) for n in range(3)] == [first, second, third]
    # One stays where one is, and what is done there does not take the line away; nor does going elsewhere.
    expect(page.locator(f"[data-sheet='{second}']")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Watched")
    page.get_by_role("link", name="Day").click()
    expect(page).to_have_url(re.compile("/day"))
    page.go_back()
    expect(left).to_contain_text(name)
    page.unroute(f"**/conversations/{first}/acts")
    left.get_by_role("button", name=f"Open {name}").click()
    expect(page.locator(f"[data-sheet='{first}']")).to_be_visible()
    expect(left).to_have_count(0)
    page.keyboard.press("y")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Settled: no reply needed")


def test_who_wrote_again_meanwhile_is_not_settled(enter: Enter, outside: Outside) -> None:
    page, (first, second, _), name, said = three(enter, outside, 8630)
    held = hold(page, first)
    page.keyboard.press("y")
    expect(page.locator(f"[data-sheet='{second}']:not([inert])")).to_be_visible()
    outside.say("And one more thing 8630", name=name, kind="reply", parent=said[name])
    other = enter("ilse", f"/w/1/desk/{first}")
    expect(other.get_by_test_id("script")).to_contain_text("And one more thing 8630")
    wait_held(page, held)[0].continue_()
    left = page.get_by_test_id("left-as-it-was")
    expect(left).to_contain_text(f"{name} was left as it was")
    expect(page.locator(f"[data-conversation='{first}']")).to_contain_text("And one more thing 8630")
    expect(other.get_by_test_id("move")).to_have_text("Unsorted")
    page.locator(f"[data-conversation='{first}']").click()
    expect(left).to_have_count(0)
    expect(page.get_by_test_id("script")).to_contain_text("And one more thing 8630")


def test_undo_of_what_is_refused_takes_back_nothing_else(enter: Enter, outside: Outside) -> None:
    page, (first, second, _), name, _ = three(enter, outside, 8640)
    page.keyboard.press("w")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Watched")
    held = hold(page, first)
    page.keyboard.press("y")
    expect(page.locator(f"[data-sheet='{second}']:not([inert])")).to_be_visible()
    page.keyboard.press("z")
    wait_held(page, held)[0].abort()
    expect(page.get_by_test_id("left-as-it-was")).to_contain_text(f"{name} was left as it was")
    page.wait_for_timeout(800)
    expect(page.get_by_test_id("taken-back")).to_have_count(0)
    page.unroute_all()
    page.get_by_role("button", name=f"Open {name}").click()
    expect(page.locator(f"[data-sheet='{first}']").get_by_role("button", name="Watched")).to_be_visible()
    # Once more, and it is the watching.
    page.keyboard.press("z")
    expect(page.get_by_test_id("taken-back")).to_contain_text("Taken back: Watched")


def test_who_has_it_and_who_watches_is_shown_before_the_answer_and_taken_away_where_it_is_refused(
    enter: Enter, outside: Outside
) -> None:
    page, (first, _, _), _, _ = three(enter, outside, 8650)
    sheet = page.locator(f"[data-sheet='{first}']")
    fields = sheet.locator("header [aria-busy]")
    held = hold(page, first)
    page.keyboard.press("w")
    expect(sheet.get_by_role("button", name="Watched")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("t")
    owner = sheet.get_by_title("Give it to a colleague")
    expect(owner).to_contain_text("Mara")
    expect(sheet.get_by_role("button", name="Take it")).to_have_count(0)
    # Nothing is said to be done, and the trail is the server's.
    expect(fields).to_have_attribute("aria-busy", "true")
    expect(page.get_by_test_id("undo-line")).to_have_count(0)
    expect(sheet.get_by_test_id("trail")).not_to_contain_text("Mara took it")
    # One is refused, which leaves the other as it is.
    wait_held(page, held, 2)[1].abort()
    expect(page.get_by_role("alert")).to_contain_text("Left as it was, not “You took it”")
    expect(owner).to_contain_text("Nobody yet")
    expect(sheet.get_by_role("button", name="Watched")).to_be_visible()
    held[0].continue_()
    expect(page.get_by_test_id("undo-line")).to_contain_text("Watched")
    expect(fields).to_have_attribute("aria-busy", "false")
    expect(sheet.get_by_test_id("trail")).to_contain_text("Mara watches it")


def test_the_other_way_round_goes_after_it_and_undo_waits_for_both(enter: Enter, outside: Outside) -> None:
    page, (first, _, _), _, _ = three(enter, outside, 8660)
    sheet = page.locator(f"[data-sheet='{first}']")
    page.keyboard.press("t")
    expect(page.get_by_test_id("undo-line")).to_contain_text("You took it")
    held = hold(page, first)
    page.keyboard.press("w")
    expect(sheet.get_by_role("button", name="Watched")).to_be_visible()
    page.keyboard.press("w")
    expect(sheet.get_by_role("button", name="Watch", exact=False)).to_have_attribute("aria-pressed", "false")
    page.keyboard.press("z")
    page.wait_for_timeout(200)
    # The second has not gone, or the two might be done in the other order.
    wait_held(page, held)[0].continue_()
    wait_held(page, held, 2)[1].continue_()
    expect(page.get_by_test_id("taken-back")).to_contain_text("Taken back: No longer watched")
    expect(sheet.get_by_role("button", name="Watched")).to_be_visible()
    expect(sheet.get_by_title("Give it to a colleague")).to_contain_text("Mara")


def test_whoever_has_gone_elsewhere_is_not_asked_over_another_one(enter: Enter, outside: Outside) -> None:
    page, _, _, said = three(enter, outside, 8670)
    page.goto("/w/1/desk?move=any&words=8670")
    rows = page.locator("[data-conversation]")
    expect(rows).to_have_count(3)
    ids = [int(rows.nth(n).get_attribute("data-conversation")) for n in range(3)]
    name = re.search("(Ada|Bea|Cid) 8670", rows.first.inner_text())[0]
    rows.first.click()
    expect(page.locator(f"[data-sheet='{ids[0]}']:not([inert])")).to_be_visible()
    held = hold(page, ids[0])
    # In a list over all moves one stays with it; the answer is late, and one walks on.
    page.keyboard.press("y")
    wait_held(page, held)
    page.keyboard.press("ArrowDown")
    expect(page.locator(f"[data-sheet='{ids[1]}']:not([inert])")).to_be_visible()
    outside.say("And one more thing 8670", name=name, kind="reply", parent=said[name])
    expect(page.locator(f"[data-conversation='{ids[0]}']")).to_contain_text("And one more thing 8670")
    held[0].continue_()
    expect(page.get_by_test_id("left-as-it-was")).to_contain_text(f"{name} was left as it was")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.locator(f"[data-sheet='{ids[1]}']")).to_be_visible()
