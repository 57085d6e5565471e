"""A prize draw in the real interface, and its certificate checked by the command."""

import json
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import expect

from tests.e2e.conftest import Enter, Outside, open_message


def test_a_draw_is_announced_under_a_post_and_who_takes_part_is_seen(enter: Enter, outside: Outside) -> None:
    post = outside.publish("Sturgeon 8401", "Guess its weight.")
    for name, text in (("Ada Berg", "41 kilos 8402"), ("Bo Lind", "38 kilos"), ("Ada Berg", "no, 39 kilos")):
        outside.say(text, kind="comment", name=name, parent=post)
    page = enter("mara", "/w/1/desk")
    open_message(page, "41 kilos 8402")
    page.keyboard.press("l")
    page.get_by_role("link", name="Draw a prize among them").click()
    form = page.get_by_test_id("draw-form")
    form.get_by_test_id("post-words").fill("Sturgeon 8401")
    expect(form.get_by_role("radio")).to_have_count(1)
    form.get_by_role("radio").check()
    form.get_by_test_id("draw-deadline").fill("2020-01-01T12:00")
    form.get_by_test_id("draw-name").fill("Sturgeon")
    form.get_by_test_id("announce").click()
    expect(form.get_by_role("alert")).to_contain_text("lie ahead")
    form.get_by_test_id("draw-deadline").fill("2099-01-01T12:00")
    form.get_by_test_id("announce").click()
    draw = page.get_by_test_id("draw")
    expect(draw.get_by_test_id("entries").locator("li")).to_have_count(2)
    expect(draw.get_by_test_id("excluded")).to_contain_text("entered already, as 1")
    expect(draw.get_by_test_id("draw-now")).to_be_disabled()
    draw.get_by_test_id("cancel-draw").click()
    expect(draw).to_contain_text("it will not be drawn")


def test_winners_are_seen_certified_and_written_to(enter: Enter, outside: Outside, tmp_path: Path) -> None:
    page = enter("mara", "/w/1/draws")
    page.get_by_test_id("draws").get_by_role("button", name="Octopus naming week").click()
    places = page.get_by_test_id("places")
    expect(places.locator("li").first).to_contain_text("Winner 1")
    with page.expect_download() as got:
        page.get_by_test_id("certificate").click()
    file = tmp_path / "draw.json"
    got.value.save_as(file)
    command = [sys.executable, "-m", "sorta.main", "check-draw", str(file)]
    checked = subprocess.run(command, capture_output=True, text=True)
    assert (checked.returncode, "holds" in checked.stdout) == (0, True), checked.stdout + checked.stderr
    told = json.loads(file.read_text())
    told["entries"][0]["name"] = "Somebody else"
    file.write_text(json.dumps(told))
    assert subprocess.run(command, capture_output=True, text=True).returncode == 1

    page.get_by_test_id("winner-reply").select_option(index=1)
    page.get_by_test_id("write-winners").click()
    expect(places).to_contain_text("by Mara")
    assert enter("ilse", "/w/1/draws").get_by_test_id("new-draw").count() == 0
