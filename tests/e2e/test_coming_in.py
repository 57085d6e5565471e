"""Coming in: from an empty database to the first Owner's desk and a colleague's; and into a workspace that works already."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pyotp
import pytest
from playwright.sync_api import Browser, Page, expect

from demo.run import PASSWORD, Demo
from tests.e2e.conftest import HTTP, Outside
from tests.e2e.installation import Installation, install
from tests.e2e.test_screens import check
from tests.services.test_looks import draw

Enter = Callable[..., Page]
WORDS = "turnstile-otter-eleven"


@pytest.fixture
def installation(demo: Demo, tmp_path: Path) -> Iterator[Installation]:
    """With nothing of the demo's but the networks outside."""
    with install(tmp_path) as made:
        yield made
        assert "Somebody has an account already" in made.init()


def test_from_an_empty_database_to_a_colleague_and_the_first_answer(
    installation: Installation, browser: Browser, outside: Outside
) -> None:
    owner = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/Lisbon")
    page = owner.new_page()
    page.goto(installation.before)
    expect(page.get_by_test_id("gone")).to_contain_text("leads nowhere")
    page.goto(installation.link)
    expect(page.get_by_role("heading", name="Your organisation on Sorta")).to_be_visible()
    expect(page.get_by_label("By which clock it works")).to_have_value("Europe/Lisbon")
    check(page)
    page.get_by_label("The organisation").fill("Tidewater Trust")
    page.get_by_label("Its first workspace").fill("Lighthouse")
    page.get_by_label("Your e-mail address").fill("frida@tidewater.example")
    page.get_by_label("Your name").fill("Frida Storm")
    page.get_by_label("A password").fill("frida.storm1")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_test_id("welcome-problem")).to_contain_text("your name or address")
    # Nothing that was filled in is lost.
    expect(page.get_by_label("The organisation")).to_have_value("Tidewater Trust")
    page.get_by_label("A password").fill(WORDS)
    page.get_by_role("button", name="Make it").click()
    walk_first_steps(page)
    page.get_by_role("link", name="Setup").click()
    expect(page.get_by_test_id("roles")).to_contain_text("Frida Storm")
    # Without a mail server the link is handed over.
    page.get_by_test_id("invite-emails").fill("Uma Lind <uma@tidewater.example>; nonsense")
    page.get_by_test_id("invite-role").select_option(label="Lead")
    page.get_by_test_id("invite").click()
    expect(page.get_by_test_id("invite-said")).to_contain_text("Invited: uma@tidewater.example.")
    expect(page.get_by_test_id("invite-said")).to_contain_text("nonsense")
    link = page.get_by_test_id("invitation-link").inner_text()
    check(page, "invitations")

    colleague = browser.new_context(viewport={"width": 390, "height": 844}, locale="en-GB")
    hers = colleague.new_page()
    hers.goto(link)
    expect(hers.get_by_role("heading", name="Welcome to Lighthouse")).to_be_visible()
    expect(hers.get_by_test_id("welcome")).to_contain_text("Frida Storm invited uma@tidewater.example as Lead")
    hers.get_by_label("Your name").fill("Uma Lind")
    hers.get_by_label("A password").fill(WORDS)
    hers.get_by_role("button", name="Come in").click()
    hers.wait_for_url(re.compile(r"/w/\d+/desk"))
    page.reload()
    expect(page.get_by_test_id("roles")).to_contain_text("Uma Lind")
    expect(page.get_by_test_id("invitation")).to_have_count(0)
    colleague.new_page().goto(link)
    # The desk of a workspace without an account shows no demo and fails nowhere.
    page.goto(f"{installation.address}/")
    expect(page.get_by_test_id("queue")).to_be_visible()

    # An account of a network, the first thing said to it, and the answer outside.
    there = outside.control("actors", network="quillet", handle="lighthouse", name="Lighthouse", page=True)
    said = {"network": "quillet", "handle": "ada", "name": "Ada Fjord", "page": "lighthouse"}
    outside.control("say", **said, kind="mention", text="@lighthouse can one climb the tower?", tell=False)
    page.get_by_role("link", name="Setup").click()
    expect(page.get_by_text("No account is connected yet")).to_be_visible()
    page.get_by_test_id("connect-account").click()
    form = page.get_by_test_id("connect")
    form.get_by_role("combobox").select_option(label="Quillet")
    for field, value in (
        ("name", "Lighthouse"),
        ("handle", "@lighthouse"),
        ("external_id", there["id"]),
        ("api_url", f"{outside.address}/api/quillet"),
        ("token", "tok_wrong"),
    ):
        page.get_by_test_id(f"connect-{field}").fill(value)
    form.get_by_role("button", name="Connect").click()
    expect(page.get_by_test_id("connect-problem")).to_contain_text("Quillet does not let it in")
    check(page)
    page.get_by_test_id("connect-token").fill(there["token"])
    form.get_by_role("button", name="Connect").click()
    expect(page.get_by_test_id("accounts")).to_contain_text("@lighthouse on Quillet")
    page.get_by_role("link", name="Desk", exact=True).click()
    row = page.locator("[data-conversation]").filter(has_text="climb the tower")
    expect(row).to_be_visible(timeout=60_000)
    row.click()
    expect(page.get_by_test_id("composer")).to_be_visible()
    page.keyboard.press("r")
    page.keyboard.type("Every day from ten, 96 steps.")
    page.keyboard.press("Control+Enter")
    for _ in range(120):
        if any("96 steps" in text for text in outside.list_texts("quillet")):
            break
        page.wait_for_timeout(250)
    assert sum("96 steps" in text for text in outside.list_texts("quillet")) == 1
    owner.close()
    colleague.close()


def walk_first_steps(page: Page) -> None:
    """Some done, one passed over, one left; nothing is lost by leaving."""
    expect(page.get_by_role("heading", name="First steps")).to_be_visible()
    steps = page.get_by_test_id("steps")
    expect(steps).to_contain_text("5 to go")
    check(page)
    page.get_by_test_id("about-description").fill("Climbing, and the light.")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(steps.get_by_role("button", name="What this workspace is about")).to_contain_text("done")
    page.get_by_test_id("next-step").click()
    expect(page.get_by_role("heading", name="Working hours and targets")).to_be_visible()
    page.get_by_role("button", name="Pass it over").click()
    page.get_by_test_id("ready-danger").check()
    page.get_by_test_id("ready-spam").check()
    check(page)
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_test_id("ready-said")).to_contain_text("2 rules are added")
    page.reload()
    expect(steps).to_contain_text("2 to go")
    expect(page.get_by_test_id("ready-spam")).to_be_disabled()
    expect(steps.get_by_role("button", name="Working hours and targets")).to_contain_text("passed over")
    steps.get_by_role("button", name="Working hours and targets").click()
    page.get_by_role("button", name="Take it up again").click()
    expect(steps).to_contain_text("3 to go")


def test_who_is_invited_comes_in_and_changes_the_password(enter: Enter, browser: Browser, demo: Demo) -> None:
    page = enter("noor", "/w/1/setup")
    page.get_by_test_id("invite-emails").fill("vera.holm@tidewater.example")
    page.get_by_test_id("invite").click()
    mine = page.get_by_test_id("invitation").filter(has_text="vera.holm@tidewater.example")
    expect(mine).to_contain_text("until")
    (row,) = [
        one
        for one in page.request.get("/api/workspaces/1/invitations").json()
        if one["email"] == "vera.holm@tidewater.example"
    ]
    context = browser.new_context(base_url=demo.address, viewport={"width": 1280, "height": 800}, locale="en-GB")
    hers = context.new_page()
    hers.goto(row["address"])
    hers.get_by_label("Your name").fill("Vera Holm")
    hers.get_by_label("A password").fill(WORDS)
    hers.get_by_role("button", name="Come in").click()
    hers.wait_for_url(re.compile(r"/w/1/desk"))
    # On the owner's page it shows without a reload.
    expect(mine).to_have_count(0)
    hers.get_by_role("button", name="Vera Holm").click()
    hers.get_by_role("menuitem", name="How you sign in").click()
    hers.get_by_role("button", name="Change the password").click()
    hers.get_by_label("The present one").fill("guess")
    hers.get_by_label("Another one").fill("lantern-herring-noon")
    hers.get_by_role("button", name="Change it").click()
    expect(hers.get_by_test_id("password-problem")).to_contain_text("not your present password")
    hers.get_by_label("The present one").fill(WORDS)
    hers.get_by_role("button", name="Change it").click()
    expect(hers.get_by_test_id("password-done")).to_be_visible()
    # Who leaves is out at once, their work with others, their name where it was.
    page.get_by_role("button", name="Let Vera Holm go").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Nothing is open of theirs")
    check(page)
    page.get_by_test_id("heir").select_option(label="Mara Okafor")
    dialog.get_by_role("button", name="Let go").click()
    expect(page.get_by_test_id("gone-said")).to_contain_text("Vera Holm works here no more")
    expect(page.get_by_test_id("former")).to_contain_text("Vera Holm (until")
    expect(page.get_by_role("button", name="Let Vera Holm go")).to_have_count(0)
    hers.goto("/w/1/desk")
    expect(hers.get_by_role("heading", name="Sign in")).to_be_visible()
    context.close()
    # One that is taken back leads nowhere.
    page.get_by_test_id("invite-emails").fill("wim@tidewater.example")
    page.get_by_test_id("invite").click()
    wim = page.get_by_test_id("invitation").filter(has_text="wim@tidewater.example")
    wim.get_by_role("button", name="Take back").click()
    expect(wim).to_have_count(0)
    expect(page.get_by_test_id("invite-said")).to_contain_text("leads nowhere from now on")


def test_who_does_not_manage_members_invites_nobody(enter: Enter) -> None:
    page = enter("ilse", "/w/1/setup")
    expect(page.get_by_test_id("roles")).to_be_visible()
    expect(page.get_by_test_id("invitations")).to_have_count(0)
    assert page.request.get("/api/workspaces/1/invitations").status == 403


def test_a_forgotten_password_is_set_anew_by_a_link_from_a_mail(demo: Demo, enter: Enter, browser: Browser) -> None:
    page = enter("noor", "/w/1/setup")
    page.get_by_test_id("invite-emails").fill("pia@tidewater.example")
    page.get_by_test_id("invite").click()
    expect(page.get_by_test_id("invitation").filter(has_text="pia@tidewater.example")).to_be_visible()
    link = next(
        one["address"]
        for one in page.request.get("/api/workspaces/1/invitations").json()
        if one["email"] == "pia@tidewater.example"
    )
    context = browser.new_context(base_url=demo.address, viewport={"width": 1280, "height": 800}, locale="en-GB")
    hers = context.new_page()
    hers.goto(link)
    hers.get_by_label("Your name").fill("Pia Holt")
    hers.get_by_label("A password").fill(WORDS)
    hers.get_by_role("button", name="Come in").click()
    hers.wait_for_url(re.compile(r"/w/1/desk"))
    context.clear_cookies()
    hers.goto("/sign-in")
    hers.get_by_test_id("forgot").click()
    check(hers)
    hers.get_by_label("Your e-mail address").fill("pia@tidewater.example")
    hers.get_by_role("button", name="Send me a link").click()
    expect(hers.get_by_test_id("forgotten-asked")).to_contain_text("If somebody here has this address")
    for _ in range(80):
        mailed = [m for m in HTTP.get(f"{demo.outside}/control/mail").json() if "/password/" in m["text"]]
        if mailed:
            break
        hers.wait_for_timeout(250)
    hers.goto(re.search(r"http://\S+/password/\S+", mailed[0]["text"])[0])  # type: ignore[index]
    check(hers)
    hers.get_by_label("The new one").fill("password123")
    hers.get_by_role("button", name="Set it and come in").click()
    expect(hers.get_by_role("alert")).to_contain_text("Take a longer one")
    hers.get_by_label("The new one").fill("lantern-herring-noon")
    hers.get_by_role("button", name="Set it and come in").click()
    hers.wait_for_url(re.compile(r"/w/1/desk"))
    context.close()


def test_a_second_step_is_set_up_asked_for_and_wanted_by_a_workspace(
    enter: Enter, browser: Browser, demo: Demo
) -> None:
    page = enter("teo", "/w/1/desk")
    page.get_by_role("button", name="Teo Nakamura").click()
    page.get_by_role("menuitem", name="How you sign in").click()
    expect(page.get_by_role("heading", name="How you sign in")).to_be_visible()
    check(page)
    page.get_by_test_id("begin-second").click()
    page.get_by_test_id("second-password").fill("guess")
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_test_id("second-problem")).to_contain_text("not your present password")
    page.get_by_test_id("second-password").fill(PASSWORD)
    page.get_by_role("button", name="Go on").click()
    secret = page.get_by_test_id("second-secret").inner_text()
    check(page)
    app = pyotp.TOTP(secret)
    page.get_by_test_id("second-code").fill(app.now())
    page.get_by_role("button", name="Confirm").click()
    listed = page.get_by_test_id("recovery-codes").get_by_role("listitem")
    expect(listed).to_have_count(10)
    codes = listed.all_inner_texts()
    check(page)

    # Elsewhere the password alone opens nothing, also after a reload.
    context = browser.new_context(base_url=demo.address, viewport={"width": 390, "height": 844}, locale="en-GB")
    phone = context.new_page()
    phone.goto("/w/1/desk")
    phone.get_by_label("E-mail address").fill("teo@brinewick.example")
    phone.get_by_label("Password").fill(PASSWORD)
    phone.get_by_role("button", name="Sign in", exact=True).click()
    expect(phone.get_by_label("The code your app shows")).to_be_focused()
    assert phone.request.get("/api/workspaces/1/members").status == 401
    phone.reload()
    check(phone)
    phone.get_by_label("The code your app shows").fill("000 000")
    phone.get_by_role("button", name="Go on").click()
    expect(phone.get_by_role("alert")).to_contain_text("That code is not right")
    phone.get_by_label("The code your app shows").fill(codes[0])
    phone.get_by_role("button", name="Go on").click()
    expect(phone.get_by_role("navigation", name="Moves")).to_be_visible()
    # The first one sees it, and ends it.
    page.reload()
    expect(page.get_by_test_id("second")).to_contain_text("9 recovery codes are left")
    expect(page.get_by_test_id("session")).to_have_count(2)
    page.get_by_role("button", name=re.compile("End the session of")).click()
    expect(page.get_by_test_id("session")).to_have_count(1)
    phone.reload()
    expect(phone.get_by_role("heading", name="Sign in")).to_be_visible()
    context.close()

    # A workspace asks for it: who has none is led there, and sees nothing before.
    owner = enter("noor", "/w/1/setup")
    needs = owner.get_by_test_id("second-needs")
    expect(needs).to_contain_text("Ilse Brandt")
    expect(needs).not_to_contain_text("Teo Nakamura")
    needs.get_by_role("checkbox").click()
    expect(needs.get_by_role("alert")).to_contain_text("Set up a second step of your own first")
    expect(needs.get_by_role("checkbox")).not_to_be_checked()
    page.get_by_role("button", name="Turn it off").click()
    page.get_by_test_id("second-password").fill(PASSWORD)
    page.get_by_role("button", name="Turn it off").click()
    expect(page.get_by_test_id("begin-second")).to_be_visible()


def test_a_passkey_is_made_and_opens_the_desk_without_a_password(enter: Enter, browser: Browser, demo: Demo) -> None:
    page = enter("sam", "/me")
    # The browser's own device: it holds passkeys, and has seen who uses it.
    device = page.context.new_cdp_session(page)
    device.send("WebAuthn.enable")
    options = {
        "protocol": "ctap2",
        "transport": "internal",
        "hasResidentKey": True,
        "hasUserVerification": True,
        "isUserVerified": True,
        "automaticPresenceSimulation": True,
    }
    made = device.send("WebAuthn.addVirtualAuthenticator", {"options": options})["authenticatorId"]
    keys = page.get_by_test_id("passkeys")
    page.get_by_test_id("make-passkey").click()
    keys.get_by_label("What you call it").fill("The reading room’s laptop")
    check(page, "passkeys")
    page.get_by_test_id("passkey-password").fill("guess")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_test_id("passkey-problem")).to_contain_text("not your present password")
    page.get_by_test_id("passkey-password").fill(PASSWORD)
    page.get_by_role("button", name="Make it").click()
    codes = keys.get_by_test_id("recovery-codes").get_by_role("listitem")
    expect(codes).to_have_count(10)
    expect(keys.get_by_test_id("passkey")).to_contain_text("The reading room’s laptop")
    expect(page.get_by_test_id("second")).to_contain_text("After your password you are asked for a passkey")
    # The same device makes no second one.
    page.get_by_test_id("make-passkey").click()
    page.get_by_test_id("passkey-password").fill(PASSWORD)
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_test_id("passkey-problem")).to_contain_text("holds a passkey of yours already")

    # Signed out: neither name nor password, and the desk is open.
    word = page.request.get("/api/session").json()["csrf"]
    page.request.delete("/api/session", headers={"X-CSRF-Token": word})
    page.goto("/w/1/people")
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    check(page)
    page.get_by_test_id("passkey").click()
    page.wait_for_url("/w/1/people**")
    # Where the device has not seen who uses it, nothing opens.
    device.send("WebAuthn.setUserVerified", {"authenticatorId": made, "isUserVerified": False})
    page.request.delete("/api/session", headers={"X-CSRF-Token": page.request.get("/api/session").json()["csrf"]})
    page.goto("/w/1/people")
    page.get_by_test_id("passkey").click()
    expect(page.get_by_role("alert")).to_contain_text("Nothing came of it")
    device.send("WebAuthn.setUserVerified", {"authenticatorId": made, "isUserVerified": True})
    # After a password it is asked for; then it is taken back, and the password is enough again.
    page.get_by_label("E-mail address").fill("sam@brinewick.example")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.get_by_role("button", name="Use a passkey instead").click()
    page.wait_for_url("/w/1/people**")
    page.goto("/me")
    page.get_by_role("button", name="Remove the passkey").click()
    page.get_by_test_id("passkey-password").fill(PASSWORD)
    page.get_by_role("button", name="Remove it").click()
    expect(page.get_by_test_id("passkey")).to_have_count(0)
    expect(page.get_by_test_id("second")).to_contain_text("Only your password is asked for")


def test_somebody_comes_in_by_the_provider_and_a_group_of_it_works_here(
    enter: Enter, browser: Browser, demo: Demo
) -> None:
    owner = enter("noor", "/w/1/setup")
    context = browser.new_context(base_url=demo.address, viewport={"width": 1280, "height": 800}, locale="en-GB")
    page = context.new_page()

    def come(name: str, *, allow: str = "Go on") -> None:
        page.goto("/w/1/overview")
        page.get_by_role("button", name="Sign in by Harbour House").click()
        page.get_by_label(name).check()
        page.get_by_role("button", name=allow).click()

    come("Runa Falk")
    said = page.get_by_test_id("back")
    expect(said.get_by_role("alert")).to_contain_text("none of your groups at Harbour House works here")
    expect(page).to_have_url(re.compile(r"/sign-in/back$"))
    check(page)
    come("Ilse Brandt", allow="Not now")
    expect(said.get_by_role("alert")).to_contain_text("You did not want to say who you are")

    groups = owner.get_by_test_id("provider-groups")
    groups.get_by_label("The group’s name there").fill("night-desk")
    groups.get_by_label("Works here as").select_option("Responder")
    groups.get_by_role("button", name="Add").click()
    expect(groups.get_by_test_id("provider-group")).to_contain_text("night-desk works here as Responder")
    check(owner, "provider-groups")
    come("Runa Falk")
    page.wait_for_url("/w/1/overview**")
    expect(page.get_by_role("button", name="Runa Falk")).to_be_visible()
    expect(owner.get_by_text("Runa Falk").first).to_be_visible()
    # She has no password here, and needs none for what asks for it so soon.
    page.goto("/me")
    expect(page.get_by_text("You have none here.")).to_be_visible()
    page.get_by_test_id("begin-second").click()
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_test_id("second-secret")).to_be_visible()
    context.close()

    # Who is a member already is known by their address.
    context = browser.new_context(base_url=demo.address, viewport={"width": 390, "height": 844}, locale="en-GB")
    page = context.new_page()
    come("Ilse Brandt")
    page.wait_for_url("/w/1/overview**")
    context.close()
    # The group does not work here any more: who came by it is gone the next time.
    groups.get_by_role("button", name="Remove the group night-desk").click()
    expect(groups.get_by_test_id("provider-group")).to_have_count(0)


def test_every_change_is_in_the_record_with_what_was_and_is(enter: Enter) -> None:
    page = enter("noor", "/w/1/setup")
    word = page.request.get("/api/session").json()["csrf"]
    made = page.request.post(
        "/api/workspaces/1/roles",
        data={"name": "Night desk", "permissions": ["see", "sort"]},
        headers={"X-CSRF-Token": word},
    )
    assert made.status == 201
    page.get_by_role("link", name="record of changes").click()
    expect(page.get_by_role("heading", name="Record of changes")).to_be_visible()
    first = page.get_by_test_id("record-entry").first
    expect(first).to_contain_text("Noor Haddad: role “Night desk” made")
    expect(first).to_contain_text("from 127.0.0.1")
    first.locator("summary").click()
    expect(first.get_by_role("row", name="permissions – see, sort")).to_be_visible()
    check(page)
    page.get_by_test_id("record-what").select_option(label="support desk")
    expect(page.get_by_test_id("record-entry").filter(has_text="Night desk")).to_have_count(0)
    expect(page).to_have_url(re.compile("what=support_desk"))
    page.get_by_test_id("record-what").select_option(label="role")
    expect(page.get_by_test_id("record-entry").first).to_contain_text("Night desk")
    with page.expect_download() as loading:
        page.get_by_role("link", name="As a table (CSV)").click()
    assert "Night desk" in loading.value.path().read_text()
    removed = page.request.delete(f"/api/workspaces/1/roles/{made.json()['key']}", headers={"X-CSRF-Token": word})
    assert removed.status == 204
    page.reload()
    expect(page.get_by_test_id("record-entry").first).to_contain_text("role “Night desk” removed")


def test_a_second_workspace_is_made_as_a_copy_chosen_by_keys_put_away_and_brought_back(enter: Enter) -> None:
    page = enter("noor", "/w/1/desk")
    page.locator("[data-conversation]").first.wait_for()
    page.keyboard.press("Shift+W")
    page.get_by_role("menuitem", name="All workspaces").click()
    expect(page.get_by_role("heading", name="Workspaces")).to_be_visible()
    expect(page.get_by_test_id("workspace").filter(has_text="Brinewick Aquarium")).to_contain_text("wait")
    check(page)
    page.get_by_test_id("new-name").fill("Brinewick at night")
    page.get_by_test_id("new-copy").check()
    page.get_by_role("button", name="Make it").click()
    made = page.get_by_test_id("made")
    expect(made).to_contain_text("you are its Owner")
    expect(made).to_contain_text(re.compile(r"saved replies \d+"))
    check(page)
    made.get_by_role("link", name="Brinewick at night").click()
    expect(page.get_by_test_id("about-name")).to_have_value("Brinewick at night")
    page.get_by_test_id("about-name").fill("Brinewick after dark")
    page.get_by_test_id("about-description").fill("Concerts and late openings.")
    # How it looks: a lying file is refused, a picture and a colour are seen by who looks on, and stay readable.
    picture = page.get_by_test_id("about-picture")
    picture.set_input_files({"name": "mark.png", "mimeType": "image/png", "buffer": b"not a picture"})
    expect(page.get_by_test_id("about").get_by_role("alert")).to_contain_text("no picture that can be read here")
    picture.set_input_files({"name": "mark.png", "mimeType": "image/png", "buffer": draw()})
    expect(page.get_by_alt_text("The workspace’s picture")).to_be_visible()
    page.get_by_test_id("about-colour").fill("#ffd84d")
    page.get_by_test_id("about").get_by_role("button", name="Languages your team reads").click()
    page.get_by_role("option", name="Danish").click()
    page.keyboard.press("Escape")
    check(page, "about")
    page.get_by_role("button", name="Save", exact=True).first.click()
    expect(page.get_by_role("button", name="Brinewick after dark")).to_be_visible()
    expect(page.get_by_test_id("about")).to_contain_text("English, Danish")
    word = page.request.get("/api/session").json()
    made_id = next(w["id"] for w in word["workspaces"] if w["name"] == "Brinewick after dark")
    lise = {"emails": "lise@brinewick.example", "role": "observer"}
    asked = page.request.post(
        f"/api/workspaces/{made_id}/invitations", data=lise, headers={"X-CSRF-Token": word["csrf"]}
    )
    assert asked.ok, asked.text()
    seen = enter("lise", f"/w/{made_id}/overview")
    expect(seen.get_by_test_id("looks")).to_have_css("background-color", "rgb(255, 216, 77)")
    expect(seen.get_by_test_id("looks")).to_have_css("color", "rgb(0, 0, 0)")
    expect(seen.get_by_test_id("looks").locator("img")).to_be_visible()
    check(seen)
    page.get_by_test_id("about").get_by_role("button", name="Archive it").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Nobody opens it from then on")
    dialog.get_by_role("button", name="Archive it").click()
    away = page.get_by_test_id("away")
    expect(away).to_contain_text("Brinewick after dark, since")
    expect(page.get_by_test_id("workspace").filter(has_text="after dark")).to_have_count(0)
    away.get_by_role("button", name="Bring back").click()
    back = page.get_by_test_id("workspace").filter(has_text="Brinewick after dark")
    expect(back).to_contain_text("Concerts and late openings.")
    back.get_by_role("link").click()
    expect(page.get_by_text("the workspace was archived").first).to_be_visible()
    # Not in the way of other tests, which count workspaces.
    page.goto("/workspaces")
    word = page.request.get("/api/session").json()
    number = next(w["id"] for w in word["workspaces"] if w["name"] == "Brinewick after dark")
    page.request.post(f"/api/workspaces/{number}/archive", headers={"X-CSRF-Token": word["csrf"]})


def test_a_program_gets_a_token_is_told_and_told_again(enter: Enter, demo: Demo, outside: Outside) -> None:
    page = enter("noor", "/w/1/setup")
    part = page.get_by_test_id("programs")
    page.get_by_test_id("new-token").click()
    form = page.get_by_test_id("token-form")
    form.get_by_label("Which program").fill("Shift board")
    form.get_by_role("button", name=re.compile("^May:")).click()
    page.get_by_role("option", name="change conversations").click()
    page.keyboard.press("Escape")
    check(page, "programs")
    form.get_by_role("button", name="Make it").click()
    token = page.get_by_test_id("shown-once").locator("code").inner_text()
    expect(part.get_by_test_id("token")).to_contain_text("may see this workspace, change conversations")
    place = f"{demo.address}/api/workspaces/1/conversations"
    headers = {"Authorization": f"Bearer {token}"}
    assert HTTP.get(place, params={"move": "unsorted"}, headers=headers).status_code == 200
    part.get_by_role("button", name="I have it").click()
    page.reload()
    expect(page.get_by_text(token)).to_have_count(0)
    expect(part.get_by_test_id("token")).to_contain_text("last used")
    part.get_by_role("button", name="Take back Shift board").click()
    expect(part.get_by_test_id("token")).to_have_count(0)
    assert HTTP.get(place, params={"move": "unsorted"}, headers=headers).status_code == 401
    # Told at an address that answers nothing well: it stands in the log and can be told again.
    page.get_by_test_id("new-hook").click()
    form = page.get_by_test_id("hook-form")
    form.get_by_label("Which program").fill("Door bell")
    form.get_by_label("Its address").fill(f"{demo.outside}/nobody")
    form.get_by_role("button", name="Save").click()
    assert page.get_by_test_id("shown-once").locator("code").inner_text().startswith("whsec_")
    outside.say("Ring, 7203")
    for _ in range(60):
        part.get_by_role("button", name="What Door bell was told").click()
        event = page.get_by_test_id("told-event").first
        if event.count() and "It answered" in event.inner_text():
            break
        page.get_by_role("button", name="Close").click()
        page.wait_for_timeout(500)
    expect(page.get_by_test_id("told-event").first).to_contain_text("arrived in conversation")
    expect(page.get_by_test_id("told-event").first).to_contain_text("waits: It answered 404")
    check(page)
    page.get_by_role("button", name="Close").click()
    part.get_by_role("button", name="Remove Door bell").click()
    expect(part.get_by_test_id("hook")).to_have_count(0)
