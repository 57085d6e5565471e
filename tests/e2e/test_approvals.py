"""Approval in the real interface: asked for, changed, approved, sent back, overtaken; policies as sentences."""

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Enter, Outside, open_message


def ask(page: Page, text: str, words: str) -> int:
    """Open the conversation with `text` and ask for approval of an answer."""
    id = open_message(page, text)
    page.keyboard.press("r")
    page.keyboard.type(words)
    expect(page.get_by_test_id("send")).to_have_text("Ask for approval")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_test_id("undo-line")).to_contain_text("Asked for approval")
    return id


def test_a_trainees_answer_is_changed_approved_and_goes_out_once(enter: Enter, outside: Outside) -> None:
    outside.say("Train me, 6100", name="Tilda Train")
    ana = enter("ana")
    id = ask(ana, "Train me, 6100", "We opens at nine")
    assert "We opens at nine" not in outside.list_texts()
    noor = enter("noor", "/w/1/approvals")
    row = noor.locator("[data-proposal]").filter(has_text="Tilda Train")
    row.click()
    expect(noor.get_by_test_id("proof-need")).to_contain_text("Replies of a Trainee")
    noor.get_by_test_id("proof-edit").click()
    noor.get_by_test_id("proof-text").fill("We open at nine")
    noor.get_by_test_id("proof-edit").click()
    expect(noor.get_by_test_id("proof-diff").locator("del")).to_have_text("opens")
    expect(noor.get_by_test_id("proof-diff").locator("ins")).to_have_text("open")
    noor.get_by_test_id("approve").click()
    expect(noor.get_by_test_id("undo-line")).to_contain_text("goes out")
    expect(row).to_have_count(0)
    ana.goto(f"/w/1/desk/{id}")
    expect(ana.get_by_test_id("delivery")).to_have_text("Delivered, public")
    expect(ana.get_by_test_id("trail")).to_contain_text("Noor approved it, with a change")
    assert outside.list_texts().count("We open at nine") == 1
    assert "We opens at nine" not in outside.list_texts()


def test_sent_back_with_a_reason_and_written_on(enter: Enter, outside: Outside) -> None:
    outside.say("Back to me, 6200", name="Bea Back")
    ana = enter("ana")
    id = ask(ana, "Back to me, 6200", "Dunno")
    mara = enter("mara", "/w/1/approvals")
    mara.locator("[data-proposal]").filter(has_text="Bea Back").click()
    expect(mara.get_by_test_id("proof-need")).to_be_visible()
    mara.keyboard.press("b")
    mara.get_by_test_id("reason").fill("Ask the keeper first")
    mara.get_by_role("button", name="Send back", exact=True).click()
    expect(mara.get_by_test_id("approval-said")).to_contain_text("Sent back to Ana")
    ana.goto(f"/w/1/desk/{id}")
    expect(ana.get_by_test_id("move")).to_have_text("Our move")
    expect(ana.get_by_test_id("proposal")).to_contain_text("Ask the keeper first")
    ana.get_by_test_id("write-on").click()
    expect(ana.get_by_test_id("composer")).to_have_value("Dunno")
    ana.get_by_test_id("composer").press("Control+Enter")
    expect(ana.get_by_test_id("undo-line")).to_contain_text("Asked for approval")
    ana.keyboard.press("Escape")
    ana.keyboard.press("z")
    expect(ana.get_by_test_id("composer")).to_have_value("Dunno")


def test_they_write_again_and_the_approver_must_look(enter: Enter, outside: Outside) -> None:
    said = outside.say("Wait for it, 6300", name="Olga Over")["object"]
    ana = enter("ana")
    ask(ana, "Wait for it, 6300", "All is well")
    noor = enter("noor", "/w/1/approvals")
    noor.locator("[data-proposal]").filter(has_text="Olga Over").click()
    expect(noor.get_by_test_id("proof-diff")).to_have_text("All is well")
    outside.say("No it is not, 6301", kind="reply", parent=said["id"], name="Olga Over")
    expect(noor.get_by_test_id("overtaken")).to_be_visible()
    noor.get_by_test_id("approve").click()
    expect(noor.get_by_test_id("approval-problem")).to_contain_text("moved on")
    expect(noor.get_by_text("No it is not, 6301")).to_be_visible()
    noor.get_by_role("button", name="I have read it").click()
    noor.keyboard.press("b")
    noor.get_by_test_id("reason").fill("It is not")
    noor.get_by_role("button", name="Send back", exact=True).click()
    expect(noor.locator("[data-proposal]").filter(has_text="Olga Over")).to_have_count(0)
    assert "All is well" not in outside.list_texts()


def test_a_policy_asks_for_approval_of_words(enter: Enter, outside: Outside) -> None:
    page = enter("mara", "/w/1/setup")
    page.get_by_test_id("new-policy").click()
    page.get_by_test_id("policy-name").fill("Presents")
    page.get_by_test_id("policy-words").fill("voucher*")
    page.get_by_test_id("save-policy").click()
    expect(page.get_by_test_id("policies").get_by_role("alert")).to_contain_text("Say who may consent")
    page.get_by_role("button", name=re.compile("^Members who approve")).click()
    page.get_by_role("listbox").get_by_role("option", name="Noor Haddad").click()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("policy-sentence")).to_have_text(
        "When anybody writes an answer with the words voucher*, Noor must approve it."
    )
    page.get_by_test_id("save-policy").click()
    policy = page.get_by_test_id("policy").filter(has_text="Presents")
    expect(policy).to_be_visible()
    outside.say("Say sorry, 6400", name="Vera Voucher")
    ilse = enter("ilse")
    open_message(ilse, "Say sorry, 6400")
    ilse.keyboard.press("r")
    ilse.keyboard.type("Take this VOUCHER")
    ilse.keyboard.press("Control+Enter")
    expect(ilse.get_by_test_id("send-problem")).to_contain_text("It needs approval first: Presents")
    expect(ilse.get_by_test_id("composer")).to_have_value("Take this VOUCHER")
    ilse.keyboard.press("Control+Enter")
    expect(ilse.get_by_test_id("undo-line")).to_contain_text("Asked for approval")
    mara = enter("mara", "/w/1/approvals")
    mara.locator("[data-proposal]").filter(has_text="Vera Voucher").click()
    expect(mara.get_by_test_id("proof-need")).to_contain_text("because of “VOUCHER”")
    expect(mara.get_by_test_id("approve")).to_have_count(0)
    policy.get_by_role("button", name="Remove").click()
    expect(policy).to_have_count(0)


def test_an_approver_reads_what_is_foreign_what_closes_it_and_goes_on_by_keys(enter: Enter, outside: Outside) -> None:
    noor = enter("noor", "/w/1/setup")
    account = noor.get_by_test_id("accounts").get_by_role("listitem").filter(has_text="on Commonfold").first

    def sign_off(words: str) -> None:
        account.get_by_role("button", name="Change").click()
        noor.get_by_role("menuitem", name="Sign-off …").click()
        noor.get_by_test_id("sign-off-line").fill(words)
        noor.get_by_test_id("save-sign-off").click()
        expect(noor.get_by_role("dialog")).to_have_count(0)

    sign_off("– {initials}")
    outside.say("Gilt die Jahreskarte auch an Feiertagen?", name="Foreign Franka")
    outside.say("Is the cafe open, 6502?", name="Second Sara")
    ana = enter("ana")
    ask(ana, "Gilt die Jahreskarte auch an Feiertagen?", "Ja, an beiden Orten.")
    ask(ana, "Is the cafe open, 6502?", "Until five")
    noor.goto("/w/1/approvals")
    noor.locator("[data-proposal]").filter(has_text="Foreign Franka").click()
    expect(noor.get_by_test_id("proof-sign-off")).to_have_text("– AR")
    expect(noor.get_by_label("Proof")).to_contain_text("25 of")
    asked: list[str] = []
    noor.on("request", lambda request: asked.append(request.url) if request.url.endswith("/translation") else None)
    noor.keyboard.press("q")
    noor.keyboard.press("q")
    expect(noor.get_by_test_id("proof-translation")).to_contain_text("Is the annual pass valid on public holidays too")
    expect(noor.get_by_test_id("proof-in-ours")).to_contain_text("Yes, at both places.")
    expect(noor.get_by_test_id("approvals-translate")).to_have_count(0)
    assert len(asked) == len(set(asked)) == 2, "their message and our answer, each asked about once"
    noor.keyboard.press("n")
    expect(noor.get_by_role("heading", name="An answer to Second Sara")).to_be_visible()
    expect(noor.get_by_test_id("proof-in-ours")).to_have_count(0)
    noor.keyboard.press("Control+Enter")
    expect(noor.get_by_test_id("undo-line")).to_contain_text("The answer to Second Sara goes out")
    # Another is open at once, whoever it is.
    expect(noor.get_by_role("heading", name="An answer to Second Sara")).to_have_count(0)
    expect(noor.get_by_role("heading", name="An answer to")).to_be_visible()
    noor.goto("/w/1/setup")
    sign_off("")
